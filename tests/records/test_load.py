"""A build that is remembered and brought up by new lines is the one its rows give."""

from collections.abc import Callable
from dataclasses import replace
from typing import Any
from uuid import UUID, uuid4

import pytest
from sqlalchemy import Engine
from sqlalchemy.orm import Session

from tests.builders import add_settled, make_build, strike
from vivid_arm.api.setup.views import build_summary
from vivid_arm.api.zero_lash.views import station_out
from vivid_arm.records import database
from vivid_arm.records.entries import CountBackIn, TrialIn
from vivid_arm.records.fingerprint import Fingerprint
from vivid_arm.records.rows.builds import get_valve
from vivid_arm.records.state import load
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.tables import Build, Instrument
from vivid_arm.records.writes import readings, setup

ROD_B = {
    "id": uuid4(), "kind": "checking_rod", "name": "Rod B", "convention": "theoretical",
    "closed_in": 6.7, "pitch_in": 0.05, "most_turns": 20.0,
}  # fmt: skip


@pytest.fixture
def build(session: Session) -> Build:
    load._remembered.clear()
    return make_build(session)


def seen(empty: Engine, build: Build) -> BuildState:
    with database.sessions(empty).begin() as session:
        found = load.seen_state(session, build.id)
    assert found is not None
    return found


def from_the_rows(empty: Engine, build: Build) -> BuildState:
    with database.sessions(empty).begin() as session:
        found = load.build_states(session, [build.id])[0]
        found.settle()
        session.expunge_all()
    return found


def test_each_new_line_gives_what_the_rows_give(
    session: Session, empty: Engine, build: Build, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Trials, a strike and a count-back that fails: one state built on another."""
    assert not seen(empty, build).valves[0].trials
    whole: list[object] = []
    monkeypatch.setattr(load, "build_states", lambda *told: whole.append(told))
    for valve, turns in zip(build.valves[:4], ("10", "10 1/4", "10", "11 1/2"), strict=True):
        add_settled(session, valve, turns)
        session.commit()
        seen(empty, build)
    strike(session, build.valves[1], seen(empty, build).valves[1].log[0].row.id)
    counted = CountBackIn(key=uuid4(), turns="9")
    readings.add_count_back(session, build.valves[3], counted)
    session.commit()
    brought_up = seen(empty, build)
    assert not whole, "nothing but the new lines was read"
    monkeypatch.undo()
    anew = from_the_rows(empty, build)
    assert build_summary(brought_up) == build_summary(anew)
    assert brought_up.build.log_count == anew.build.log_count == 14
    assert [v.log for v in brought_up.valves] != [[]] * len(anew.valves)
    assert [v.verdict for v in brought_up.valves] == [v.verdict for v in anew.valves]
    assert brought_up.valves[3].failed_count is not None


def test_what_was_worked_out_before_holds_as_long_as_what_it_stands_on(
    session: Session, empty: Engine, build: Build
) -> None:
    """Looked at whole after every reading, as a page does: hands and ratio move every valve."""
    walk = [
        (0, "10", "zero", ""), (0, "9 1/2", "loose", ""), (2, "10 1/4", "zero", ""),
        (2, "9", "loose", "0.060"), (2, "9 1/2", "loose", "0.022"), (1, "11", "tight", ""),
        (1, "10", "loose", "0.041"), (1, "10 1/2", "loose", ""), (0, "10 1/8", "tight", ""),
        (3, "12", "zero", ""), (3, "8", "loose", "0.015"), (2, "10", "tight", ""),
    ]  # fmt: skip
    weights = set()
    for at, setting, felt, gap in walk:
        told = TrialIn(key=uuid4(), setting=setting, feel=felt, gap=gap)  # type: ignore[arg-type]
        readings.add_trial(session, build.valves[at], told)
        session.commit()
        now, anew = seen(empty, build), from_the_rows(empty, build)
        assert build_summary(now) == build_summary(anew)
        for told_now, told_anew in zip(now.valves, anew.valves, strict=True):
            assert station_out(now, told_now) == station_out(anew, told_anew)
        weights.add(now.valves[0].feeling.weights)
    assert len(weights) > 2, "what is known of the hand moves as the other valves are felt"


def test_lines_that_were_undone_are_not_remembered(
    session: Session, empty: Engine, build: Build
) -> None:
    """A write that is answered from and then undone, while another is kept beside it."""
    first, second = build.valves[:2]
    add_settled(session, first, "10")
    session.commit()
    seen(empty, build)
    told = TrialIn(key=uuid4(), setting="11", feel="tight")
    with Session(empty) as undone:
        valve = get_valve(undone, second.id)
        assert valve is not None
        readings.add_trial(undone, valve, told)
        assert len(load.seen_after(undone, valve.build).valves[1].trials) == 1
        undone.rollback()
    assert len(seen(empty, build).valves[1].trials) == 0
    readings.add_trial(session, second, TrialIn(key=uuid4(), setting="9", feel="loose"))
    session.commit()
    assert build_summary(seen(empty, build)) == build_summary(from_the_rows(empty, build))


def test_new_lines_that_do_not_add_up_are_not_built_on(
    session: Session, empty: Engine, build: Build
) -> None:
    """The same number of lines as expected, but others: the sum of their ids tells."""
    add_settled(session, build.valves[0], "10")
    session.commit()
    state = seen(empty, build)
    mark, _ = load._remembered[build.id, "en"]
    readings.add_trial(session, build.valves[0], TrialIn(key=uuid4(), setting="8", feel="loose"))
    session.commit()
    count, last, total = (int(x) for x in mark.lines.split(":"))
    undone = replace(mark, log="undone", lines=f"{count}:{last}:{total - 1}")
    load._remembered[build.id, "en"] = undone, state
    fresh = seen(empty, build)
    assert fresh.build is not state.build
    assert build_summary(fresh) == build_summary(from_the_rows(empty, build))


def test_a_line_kept_while_its_build_is_read_counts_once(
    session: Session, empty: Engine, build: Build, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Its mark is older than what is read then: the next look must not add the line again."""
    add_settled(session, build.valves[0], "10")
    session.commit()
    plain = load.fingerprint

    def another_reads_too(asked: Session, build_id: UUID) -> Fingerprint | None:
        mark = plain(asked, build_id)
        monkeypatch.undo()
        told = TrialIn(key=uuid4(), setting="8", feel="loose")
        with database.sessions(empty).begin() as other:
            valve = get_valve(other, build.valves[0].id)
            assert valve is not None
            readings.add_trial(other, valve, told)
        return mark

    monkeypatch.setattr(load, "fingerprint", another_reads_too)
    assert len(seen(empty, build).valves[0].told.rows) == 4
    again = seen(empty, build)
    assert [r.id for r in again.valves[0].told.rows] == sorted(
        {r.id for r in again.valves[0].told.rows}
    )
    assert build_summary(again) == build_summary(from_the_rows(empty, build))


def after_a_reading(
    empty: Engine, build: Build, told: TrialIn, meanwhile: Callable[[Session], object] | None = None
) -> BuildState:
    """The state that a reading is answered from, kept; ``meanwhile`` another writes too."""
    with database.sessions(empty)() as session:
        before = load.seen_state(session, build.id)
        assert before is not None
        if meanwhile is not None:
            with database.sessions(empty).begin() as other:
                meanwhile(other)
        valve = before.valves[0].valve
        added = readings.add_trial(session, valve, told)
        found = load.seen_after(session, valve.build, added, before)
        session.commit()
    return found


def loose(turns: str, **more: Any) -> TrialIn:
    return TrialIn(key=uuid4(), setting=turns, feel="loose", **more)


def test_the_mark_after_a_reading_is_the_one_the_database_gives(
    empty: Engine, build: Build, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Worked out from the line that was added, without asking; the first line and the next."""
    plain, asked = load.fingerprint, []
    monkeypatch.setattr(load, "fingerprint", lambda s, i: (asked.append(i), plain(s, i))[1])
    for count in (1, 2, 3):
        found = after_a_reading(empty, build, loose(str(8 + count)))
        with database.sessions(empty)() as session:
            assert load.mark_of(found) == plain(session, build.id)
        assert len(asked) == count, "once, before the reading"
        assert build_summary(found) == build_summary(from_the_rows(empty, build))


def test_what_another_wrote_meanwhile_is_in_the_state_after_a_reading(
    session: Session, empty: Engine, build: Build
) -> None:
    """A reading of another valve; another rod in the set-up; an instrument not named before."""
    other_rod = setup.new_instrument(session, ROD_B)
    session.commit()

    def read(other: Session) -> None:
        valve = get_valve(other, build.valves[1].id)
        assert valve is not None
        readings.add_trial(other, valve, loose("9"))

    def correct(other: Session) -> None:
        rod = other.get(Instrument, build.instrument_id)
        assert rod is not None
        setup.change_instrument(other, rod, rod.version, {"closed_in": 6.9})

    for told, meanwhile in (
        (loose("9"), read),
        (loose("9 1/4"), None),
        (loose("9 1/2", instrument_id=other_rod.id, sure=True), None),
        (loose("9 3/4"), correct),
    ):
        found = after_a_reading(empty, build, told, meanwhile)
        with database.sessions(empty)() as asking:
            now = load.fingerprint(asking, build.id)
        assert (load.mark_of(found) == now) is (meanwhile is not correct)
        anew = from_the_rows(empty, build)
        assert build_summary(seen(empty, build)) == build_summary(anew)
        lines = [[(e.row.id, e.length_in) for e in v.log] for v in seen(empty, build).valves]
        assert lines == [[(e.row.id, e.length_in) for e in v.log] for v in anew.valves]
