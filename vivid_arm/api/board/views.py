"""Rows of the board."""

from time import monotonic, sleep
from typing import Any

from sqlalchemy.orm import Session, sessionmaker

from vivid_arm.api.board.schemas import BoardEntry, NextStepOut, ValveSummary
from vivid_arm.api.decide.groups import candidate_out
from vivid_arm.api.decide.schemas import CandidateOut
from vivid_arm.core.engine.layout import KINDS, engine_words
from vivid_arm.core.rods.groups import GroupOrder
from vivid_arm.core.rods.preload import choose_length
from vivid_arm.core.words import say
from vivid_arm.records.state import board
from vivid_arm.records.state.board import Sought, board_page
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.plan import mode_of
from vivid_arm.records.state.valve import ValveState
from vivid_arm.records.tables import Build


def valve_summary(valve: ValveState, state: BuildState) -> ValveSummary:
    bracket = valve.bracket
    return ValveSummary(
        id=valve.valve.id,
        version=valve.valve.version,
        cylinder=valve.valve.cylinder,
        kind=valve.kind,
        name=valve.name,
        expected_in=None if valve.valve.expected_in is None else float(valve.valve.expected_in),
        stem_in=None if valve.valve.stem_in is None else float(valve.valve.stem_in),
        predicted_in=valve.prediction.zero_lash_in if valve.prediction else None,
        predicted_u_in=valve.prediction.u_in if valve.prediction else None,
        trials=len(valve.trials),
        readings=valve.readings_count,
        state=valve.verdict.state,
        doubted=valve.name in state.suspicions,
        low_in=bracket.longest_loose.length_in if bracket.longest_loose else None,
        high_in=bracket.shortest_tight.length_in if bracket.shortest_tight else None,
        estimate_in=valve.estimate_in,
        u_in=valve.u_in,
    )


def board_entry(state: BuildState) -> BoardEntry:
    """A build's row on the board."""
    return BoardEntry(
        **_of_row(state.build),
        valves={kind: _furthest(state, kind) for kind in KINDS},
        taken={g.kind: _taken(state, g) for g in state.groups},
        next_step=next_step_out(state),
    )


def uncomputed_entry(build: Build, error: Exception | None) -> BoardEntry:
    """The row of a build without figures: nothing of it is hidden or guessed.

    ``error`` is why it cannot be computed; None where it is not yet its turn.
    """
    return BoardEntry(
        **_of_row(build),
        valves=dict.fromkeys(KINDS),
        taken=dict.fromkeys(KINDS),
        next_step=NextStepOut(
            station="setup",
            valve_id=None,
            sentence=say("Being worked out anew.")
            if error is None
            else say(
                "This build cannot be computed. Its readings are kept. "
                "Look for a set-up figure or a reading that cannot be."
            ),
        ),
        pending=error is None,
        fault=None if error is None else f"{type(error).__name__}: {error}"[:300],
    )


def board_body(state: BuildState) -> dict[str, Any]:
    """A row of the board as it is kept."""
    return board_entry(state).model_dump(mode="json")


def uncomputed_body(build: Build, error: Exception | None) -> dict[str, Any]:
    """The same for a build without figures."""
    return uncomputed_entry(build, error).model_dump(mode="json")


def work_out(session: Session, most: int = 30) -> None:
    """Work out some of the builds that have changed since they told the shop."""
    board.work_out(session, most, board_body, uncomputed_body)


def fill(sessions: sessionmaker[Session], batch: int = 50, share: float = 1.0) -> None:
    """Work out the summaries of all builds, so that a long board opens at once.

    ``share``: how much of the time it may take; others have the rest.
    """
    offset, total = 0, 1
    while offset < total:
        begun = monotonic()
        with sessions.begin() as session:
            page = board_page(session, Sought(), offset, batch, board_body, uncomputed_body)
        offset, total = offset + batch, page.total
        sleep((monotonic() - begun) * (1 / share - 1))


def _of_row(build: Build) -> dict[str, Any]:
    """What the board shows that needs no computing."""
    return {
        "id": build.id,
        "name": build.name,
        "engine_words": engine_words(build.layout, build.cylinders),  # type: ignore[arg-type]
        "made_at": build.created_at,
        "updated_at": build.updated_at,
        "preload_low_in": float(build.preload_low_in),
        "preload_high_in": float(build.preload_high_in),
        "travel_in": float(build.travel_in),
    }


def _furthest(state: BuildState, kind: str) -> ValveSummary | None:
    valve = _furthest_valve(state, kind)
    return valve_summary(valve, state) if valve else None


def _furthest_valve(state: BuildState, kind: str) -> ValveState | None:
    own = [v for v in state.valves if v.kind == kind and v.readings_count]
    return next((v for v in own if v.measured), own[0] if own else None)


def _taken(state: BuildState, group: GroupOrder) -> CandidateOut | None:
    """The rod that the valve shown gets: its kind's, or its own where lengths are bought freely."""
    by_kind = state.plan.strategy == "kinds" or mode_of(state.build) != "length"
    valve = None if by_kind else _furthest_valve(state, group.kind)
    length = None if valve is None else state.rods_in.get(valve.name)
    if valve is None or valve.measured is None or length is None:
        return candidate_out(group.taken, group.choice, state.offset_in) if group.taken else None
    choice = choose_length(
        [valve.measured.zero_lash_in], state.lifter, float(state.build.stock_step_in), "longer",
        offset_in=state.offset_in, lengths_in=(length,),
    )  # fmt: skip
    return candidate_out(choice.nearest, choice, state.offset_in)


def next_step_out(state: BuildState) -> NextStepOut:
    """What the build waits for, and the valve it is about."""
    step = state.next_step
    of_kind = [v for v in state.valves if step.kind in (None, v.kind)]
    named = [v for v in of_kind if v.name == step.valve]
    waiting = [v for v in of_kind if v.readings_count and not v.measured]
    valve = (named or waiting or of_kind)[0]
    return NextStepOut(
        station=step.station,
        valve_id=valve.valve.id if step.station in ("zero_lash", "rocker") else None,
        sentence=step.sentence,
    )
