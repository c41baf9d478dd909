"""Where a build stands, worked out from rows on real PostgreSQL."""

from collections.abc import Iterator
from uuid import uuid4

import pytest
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from tests.builders import add_settled, add_trial, load_demo, make_build, state_of, strike
from vivid_arm.core.errors import InputError
from vivid_arm.records.entries import CountBackIn
from vivid_arm.records.state.load import build_states
from vivid_arm.records.tables import Build
from vivid_arm.records.writes import readings, setup


@pytest.fixture
def build(session: Session) -> Iterator[Build]:
    return make_build(
        session,
        preload_low_in=0.050, preload_high_in=0.100, preload_target_in=0.070, travel_in=0.200,
    )  # fmt: skip


def test_all_measured_valves_of_a_kind_share_one_length(session: Session, build: Build) -> None:
    """7.3375 and 7.3625: the middle is 7.350, so 7.425 gives 0.0875 and 0.0625."""
    by_name = {(v.cylinder, v.kind): v for v in build.valves}
    add_settled(session, by_name[1, "intake"], "10 3/4")
    add_settled(session, by_name[8, "intake"], "11 1/4")
    session.commit()
    group = state_of(session, build.id).groups[0]
    assert group.choice is not None
    assert group.choice.exact_in == pytest.approx(7.420)
    assert group.taken is not None
    assert group.taken.length_in == 7.425
    assert [f.preload_in for f in group.taken.fits] == pytest.approx([0.0875, 0.0625])
    assert group.short_of_measured == 6


def test_a_valve_that_contradicts_itself_is_not_measured(session: Session, build: Build) -> None:
    valve = build.valves[0]
    add_settled(session, valve, "11")
    assert state_of(session, build.id).valves[0].measured is not None
    build = state_of(session, build.id).build
    add_trial(session, build.valves[0], setting="10", feel="tight")
    session.commit()
    state = state_of(session, build.id)
    assert state.valves[0].measured is None
    assert state.groups[0].choice is None
    assert "Readings contradict on 1I" in state.next_step.sentence


def test_count_back_is_held_against_the_last_trial_that_counts(
    session: Session, build: Build
) -> None:
    valve = build.valves[0]
    add_trial(session, valve, setting="10", feel="loose")
    wrong = add_trial(session, valve, setting="12", feel="tight")
    strike(session, valve, wrong.id, "Turns miscounted")
    readings.add_count_back(session, valve, CountBackIn(key=uuid4(), turns="10"))
    session.commit()
    entry = state_of(session, build.id).valves[0].log[-1]
    assert entry.count is not None
    assert entry.count.agrees


def test_a_caliper_is_not_counted_back(session: Session, build: Build) -> None:
    caliper = setup.new_instrument(
        session,
        {
            "id": uuid4(), "kind": "caliper", "name": "C", "convention": "measured",
            "low_in": 0.0, "high_in": 12.0,
        },
    )  # fmt: skip
    setup.change_build(session, build, build.version, {"instrument_id": caliper.id})
    session.commit()
    again = state_of(session, build.id).build
    with pytest.raises(InputError, match="Only a checking rod is counted back"):
        readings.add_count_back(session, again.valves[0], CountBackIn(key=uuid4(), turns="3"))


def test_stated_accuracy_widens_the_uncertainty(session: Session, build: Build) -> None:
    """GUM 5.1.2: feel and instrument in quadrature; 0.003 / sqrt(3) = 0.001732."""
    add_trial(session, build.valves[0], setting="10", feel="zero")
    assert build.instrument is not None
    setup.change_instrument(session, build.instrument, 1, {"accuracy_in": 0.003})
    session.commit()
    valve = state_of(session, build.id).valves[0]
    assert valve.bracket.u_in is not None
    assert valve.u_in == pytest.approx((valve.bracket.u_in**2 + 0.001732**2) ** 0.5, rel=1e-3)


def test_picked_length_stays_when_readings_move_on(session: Session, build: Build) -> None:
    add_settled(session, build.valves[0], "10 3/4")
    setup.change_build(session, build, build.version, {"picked_intake_in": 7.425})
    session.commit()
    state = state_of(session, build.id)
    assert (state.groups[0].picked, state.groups[0].taken.inside) == (True, True)  # type: ignore[union-attr]
    add_settled(session, state.build.valves[2], "8")
    session.commit()
    state = state_of(session, build.id)
    assert state.groups[0].taken is not None
    assert state.groups[0].taken.length_in == 7.425
    assert not state.groups[0].taken.inside
    assert state.group_verdict(state.groups[0]).state == "outside"


@pytest.mark.slow
def test_demo_shop_stands_at_different_stages(session: Session, empty: Engine) -> None:
    load_demo(empty)
    ids = list(session.scalars(select(Build.id)))
    states = {s.build.name: s for s in build_states(session, ids)}
    stages = {name: state.next_step.station for name, state in states.items()}
    assert stages["Dockside loader V8"] == "order"
    assert stages["Mill pump single"] == "setup"
    assert stages["Courier van inline six"] == "zero_lash"
    twin = states["Fairground organ V-twin"]
    assert any(v.bracket.contradictions for v in twin.valves)
    loader = states["Dockside loader V8"]
    assert all(v.verdict.state in ("settled", "waiting") for v in loader.valves)
    assert list(loader.rods_in.values()) == [7.675, 7.65] * 8
