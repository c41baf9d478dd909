"""The reading log on real PostgreSQL: append-only, one key one reading, never lost."""

from concurrent.futures import ThreadPoolExecutor
from uuid import uuid4

import pytest
from sqlalchemy import Engine, func, select, text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from tests.builders import add_trial, make_build, state_of, strike
from vivid_arm.core.errors import InputError
from vivid_arm.records import database
from vivid_arm.records.rows.builds import get_build
from vivid_arm.records.rows.kept import Conflict
from vivid_arm.records.tables import Build, Instrument, Reading, Valve
from vivid_arm.records.writes import setup


def first_valve(build: Build) -> Valve:
    return build.valves[0]


@pytest.mark.parametrize("statement", ["UPDATE readings SET raw = 'x'", "DELETE FROM readings"])
def test_log_is_append_only_even_for_sql(session: Session, statement: str) -> None:
    build = make_build(session)
    add_trial(session, first_valve(build), setting="10 1/4", feel="loose")
    session.commit()
    with pytest.raises(DBAPIError, match="append-only"):
        session.execute(text(statement))


def test_raw_text_is_kept_beside_the_parsed_value(session: Session) -> None:
    build = make_build(session)
    reading = add_trial(session, first_valve(build),
        setting=" 10 1/4 ", feel="loose", gap="1.02 mm", by="T",
    )  # fmt: skip
    session.commit()
    session.refresh(reading)
    assert (reading.raw, reading.raw_gap) == ("10 1/4", "1.02 mm")
    assert float(reading.length_in or 0) == 7.3125
    assert float(reading.gap_in or 0) == pytest.approx(0.040157, abs=5e-7)
    assert reading.taken_at is not None
    assert reading.build_version == build.version


def test_one_key_is_one_reading_from_many_at_once(session: Session, empty: Engine) -> None:
    build = make_build(session)
    valve_id, key = first_valve(build).id, uuid4()
    factory = database.sessions(empty)

    def send(_: int) -> int:
        with factory.begin() as own:
            kept = get_build(own, build.id)
            assert kept is not None
            valve = next(v for v in kept.valves if v.id == valve_id)
            return add_trial(own, valve, key=key, setting="10", feel="loose").id

    with ThreadPoolExecutor(8) as pool:
        ids = set(pool.map(send, range(16)))
    assert len(ids) == 1
    assert session.scalar(select(func.count(Reading.id))) == 1


def test_trials_from_two_tablets_get_their_own_numbers(session: Session, empty: Engine) -> None:
    build = make_build(session)
    factory = database.sessions(empty)

    def send(eighths: int) -> None:
        with factory.begin() as own:
            kept = get_build(own, build.id)
            assert kept is not None
            add_trial(own, kept.valves[0], setting=str(eighths / 8), feel="loose")

    with ThreadPoolExecutor(6) as pool:
        list(pool.map(send, range(12)))
    numbers = [e.row.number for e in state_of(session, build.id).valves[0].log]
    assert numbers == list(range(1, 13))


def test_a_key_used_for_another_reading_is_refused(session: Session) -> None:
    build = make_build(session)
    valve, key = first_valve(build), uuid4()
    add_trial(session, valve, key=key, setting="10", feel="loose")
    with pytest.raises(Conflict) as caught:
        add_trial(session, valve, key=key, setting="10", feel="tight")
    assert caught.value.yours == {"feel": "tight"}
    assert caught.value.stored == {"feel": "loose"}


def test_correction_refers_to_what_it_replaces(session: Session) -> None:
    build = make_build(session)
    valve = first_valve(build)
    wrong = add_trial(session, valve, setting="10", feel="tight")
    add_trial(session, valve, setting="10", feel="loose",
        replaces=wrong.id, reason="Misread",
    )  # fmt: skip
    with pytest.raises(Conflict, match="already struck out"):
        strike(session, valve, wrong.id, "Again")
    session.commit()
    found = state_of(session, build.id).valves[0]
    assert [(t.number, t.feel) for t in found.trials] == [(2, "loose")]
    assert [e.struck_by is not None for e in found.log] == [True, False]


def test_only_own_lines_can_be_struck_out(session: Session) -> None:
    build = make_build(session)
    one, other = build.valves[0], build.valves[1]
    line = add_trial(session, one, setting="10", feel="loose")
    with pytest.raises(InputError, match="not a reading of this valve"):
        strike(session, other, line.id)


def test_corrected_instrument_works_its_trials_out_again(session: Session) -> None:
    build = make_build(session)
    valve = first_valve(build)
    add_trial(session, valve, setting="10", feel="zero")
    session.commit()
    rod = session.get(Instrument, build.instrument_id)
    assert rod is not None
    setup.change_instrument(session, rod, rod.version, {"closed_in": 6.3})
    session.commit()
    found = state_of(session, build.id).valves[0]
    assert found.trials[0].length_in == pytest.approx(6.8)
    assert found.log[0].recomputed
    assert float(found.log[0].row.length_in or 0) == 7.3


def test_caliper_trials_are_carried_into_the_rods_convention(session: Session) -> None:
    build = make_build(session, lifter_hole_in=0.1, rocker_hole_in=0.1)
    caliper = setup.new_instrument(
        session,
        {
            "id": uuid4(), "kind": "caliper", "name": "Caliper", "convention": "measured",
            "low_in": 0.0, "high_in": 12.0,
        },
    )  # fmt: skip
    rod_id = build.instrument_id
    setup.change_build(session, build, build.version, {"instrument_id": caliper.id})
    session.commit()
    session.expire_all()
    again = get_build(session, build.id)
    assert again is not None
    add_trial(session, again.valves[0], setting="7.3", feel="zero")
    setup.change_build(session, again, again.version, {"instrument_id": rod_id})
    session.commit()
    trial = state_of(session, build.id).valves[0].trials[0]
    assert trial.length_in == pytest.approx(7.3 + 2 * 0.008216, abs=1e-6)


def test_stale_change_is_refused_with_both_values(session: Session) -> None:
    build = make_build(session)
    seen = build.version
    setup.change_build(session, build, seen, {"name": "First"})
    with pytest.raises(Conflict) as caught:
        setup.change_build(session, build, seen, {"name": "Second"})
    assert (caught.value.yours, caught.value.stored) == ({"name": "Second"}, {"name": "First"})
    assert setup.change_build(session, build, seen, {"name": "First"}).name == "First"


def test_cylinders_with_readings_are_not_dropped(session: Session) -> None:
    build = make_build(session, cylinders=4)
    add_trial(session, build.valves[-1], setting="10", feel="loose")
    with pytest.raises(InputError, match="would drop valves that have readings"):
        setup.change_build(session, build, build.version, {"cylinders": 2})
    session.rollback()
    session.expire_all()
    kept = get_build(session, build.id)
    assert kept is not None
    setup.change_build(session, kept, kept.version, {"cylinders": 6})
    session.commit()
    assert len(state_of(session, build.id).valves) == 12
