"""Measurements by every method as they count today, from real PostgreSQL."""

from collections.abc import Iterator
from typing import Any
from uuid import uuid4

import pytest
from sqlalchemy import text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from tests.builders import add_settled, add_trial, make_build, state_of, strike
from vivid_arm.core.errors import InputError
from vivid_arm.records.entries import MeasureIn
from vivid_arm.records.state.valve import ValveState
from vivid_arm.records.tables import Build, Instrument
from vivid_arm.records.writes import readings, setup


@pytest.fixture
def build(session: Session) -> Iterator[Build]:
    return make_build(session, lifter_hole_in=0.1, rocker_hole_in=0.1)


@pytest.fixture
def caliper(session: Session) -> Instrument:
    return setup.new_instrument(
        session,
        {
            "id": uuid4(), "kind": "caliper", "name": "Caliper", "convention": "measured",
            "low_in": 0.0, "high_in": 12.0, "accuracy_in": 0.001, "resolution_in": 0.0005,
        },
    )  # fmt: skip


def measured(session: Session, build: Build, name: str, **values: Any) -> ValveState:
    valve = next(v for v in build.valves if f"{v.cylinder}{v.kind[0].upper()}" == name)
    readings.add_measure(session, valve, MeasureIn(key=uuid4(), **values))
    session.commit()
    state = state_of(session, build.id)
    return next(v for v in state.valves if v.name == name)


def changed(session: Session, build: Build, **values: Any) -> ValveState:
    now = state_of(session, build.id).build
    setup.change_build(session, now, now.version, values)
    session.commit()
    return state_of(session, build.id).valves[0]


def test_a_caliper_reading_is_carried_into_the_measuring_convention(
    session: Session, build: Build, caliper: Instrument
) -> None:
    """Derived by hand: oil holes of 0.100 take 0.008216 off each 5/16 ball."""
    valve = measured(
        session, build, "1I", method="extend", reading="7.3500", instrument_id=caliper.id
    )
    assert valve.estimate_in == pytest.approx(7.35 + 2 * 0.008216, abs=1e-5)


def test_a_gauge_length_of_the_known_rod_is_carried_over(session: Session, build: Build) -> None:
    """Derived by hand: a gauge circle of 0.140 is 0.016557 less per end than a whole ball."""
    valve = measured(
        session, build, "1I", method="indicator", reading="0.050", rod="7.400",
        rod_convention="gauge",
    )  # fmt: skip
    assert valve.estimate_in == pytest.approx(7.4 + 2 * 0.016557 - 0.05, abs=1e-5)


def test_ratio_travel_and_ends_count_as_they_are_today(session: Session, build: Build) -> None:
    short = measured(session, build, "1I", method="gap_short", reading="0.064", rod="7.400")
    assert short.estimate_in == pytest.approx(7.4 + 0.064 / short.ratio)
    other = changed(session, build, ratio_intake=2.0)
    assert other.ratio > short.ratio * 1.2
    assert other.estimate_in == pytest.approx(7.4 + 0.064 / other.ratio)
    bottomed = measured(session, build, "1E", method="gap_bottomed", reading="0.160", rod="7.500")
    assert bottomed.estimate_in == pytest.approx(7.5 - (0.14 - 0.160 / bottomed.ratio))
    changed(session, build, travel_in=0.16)
    again = state_of(session, build.id).valves[1]
    assert again.estimate_in == pytest.approx(7.5 - (0.16 - 0.160 / again.ratio))


def test_the_pitch_counts_as_it_was_when_turned(session: Session, build: Build) -> None:
    valve = measured(session, build, "1I", method="turns", reading="1", rod="7.4", pitch_in=0.05)
    assert valve.measures[0].plain_in == pytest.approx(0.05)
    after = changed(session, build, fastener_pitch_in=0.041667)
    assert after.measures[0].plain_in == pytest.approx(0.05)


def test_trials_and_measurements_share_one_count_and_one_length(
    session: Session, build: Build, caliper: Instrument
) -> None:
    add_trial(session, build.valves[0], setting="11", feel="zero")
    valve = measured(
        session, build, "1I", method="extend", reading="7.3336; 7.3337", instrument_id=caliper.id
    )
    assert [e.row.number for e in valve.log] == [1, 2]
    assert valve.combined is not None
    assert [m.name for m in valve.combined.used] == ["Bracket", "Extend in place (2)"]
    assert valve.combined.consistent
    assert valve.confirmed
    low, high = sorted(m.zero_lash_in or 0 for m in valve.combined.used)
    assert low < (valve.estimate_in or 0) < high
    assert (valve.u_in or 1) < min(m.u_in for m in valve.combined.used)


def test_a_struck_measurement_counts_no_more(session: Session, build: Build) -> None:
    valve = measured(session, build, "1I", method="indicator", reading="0.05", rod="7.4")
    strike(session, valve.valve, valve.log[0].row.id)
    session.commit()
    after = state_of(session, build.id).valves[0]
    assert after.measures == []
    assert after.estimate_in is None
    assert after.verdict.state == "waiting"


def test_preload_alone_says_whether_it_is_inside_and_asks_for_the_rod(
    session: Session, build: Build
) -> None:
    inside = measured(session, build, "1I", method="indicator", reading="0.050")
    outside = measured(session, build, "1E", method="indicator", reading="0.090")
    assert (inside.verdict.state, outside.verdict.state) == ("closing", "outside")
    assert "rod's length" in inside.verdict.then
    assert inside.measured is None


def test_an_open_bracket_can_speak_against_a_measurement(session: Session, build: Build) -> None:
    add_trial(session, build.valves[0], setting="12", feel="loose")
    valve = measured(session, build, "1I", method="indicator", reading="0.05", rod="7.4")
    assert valve.verdict.state == "conflict"
    assert "trial 1 is longer and felt loose" in valve.verdict.what


def test_map_states_from_waiting_to_odd(
    session: Session, build: Build, caliper: Instrument
) -> None:
    for n, valve in enumerate(build.valves):
        if n < 14:
            turns = "10 5/8" if n == 4 else "11"
            add_settled(session, valve, turns)
    add_trial(session, build.valves[14], setting="10", feel="loose")
    session.commit()
    state = state_of(session, build.id)
    found = {v.name: state.standing(v) for v in state.valves}
    assert (found["3I"], found["8I"], found["8E"]) == ("suspicious", "measuring", "waiting")
    assert {found[n] for n in ("1I", "1E", "7E")} == {"fits"}
    measured(session, build, "3I", method="extend", reading="7.3148", instrument_id=caliper.id)
    state = state_of(session, build.id)
    assert state.standing(next(v for v in state.valves if v.name == "3I")) == "odd"
    assert state.suspicions == {}
    assert state.spread.remarks[0].valves == ("3I",)
    assert "one valve is odd" in state.next_step.sentence


def test_a_suspicious_valve_does_not_decide_the_rod(session: Session, build: Build) -> None:
    for valve in build.valves:
        turns = "9" if (valve.cylinder, valve.kind) == (3, "intake") else "11"
        add_settled(session, valve, turns)
    session.commit()
    state = state_of(session, build.id)
    intake = state.groups[0]
    assert len(intake.measured) == 7
    assert intake.choice is not None
    assert intake.choice.exact_in == pytest.approx(7.35 + 0.04)
    assert state.next_step.sentence == "3I does not look right: check it"


def test_the_database_refuses_a_measurement_that_lacks_its_figure(
    session: Session, build: Build
) -> None:
    line = (
        "INSERT INTO readings (key, valve_id, kind, raw, raw_gap, raw_rod, reason, taken_by,"
        " build_version) VALUES (gen_random_uuid(), :valve, :kind, '', '', '', '', '', 1)"
    )
    valve_id = build.valves[0].id
    for kind in ("turns", "extend", "indicator", "gap_short", "gap_bottomed", "guess"):
        with pytest.raises(DBAPIError, match="violates check constraint"):
            session.execute(text(line), {"valve": valve_id, "kind": kind})
        session.rollback()


def test_an_indicator_is_no_instrument_of_a_build(session: Session, build: Build) -> None:
    dial = setup.new_instrument(
        session, {"id": uuid4(), "kind": "indicator", "name": "Dial", "convention": "theoretical"}
    )
    with pytest.raises(InputError, match="reads movements, not a rod's length"):
        changed(session, build, instrument_id=dial.id)
    session.rollback()
