"""A build as one more trial would leave it, before anybody has felt the rod."""

from dataclasses import dataclass
from datetime import UTC, datetime
from decimal import Decimal
from uuid import UUID

from vivid_arm.core.entry.instruments import CheckingRod
from vivid_arm.core.errors import InputError
from vivid_arm.core.words import say
from vivid_arm.core.zero_lash.bracket import Feel
from vivid_arm.records.rows.kept import exact
from vivid_arm.records.rows.line import KeptLine
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.setup import rod_of
from vivid_arm.records.state.valve import ValveState
from vivid_arm.records.tables import Instrument

NOT_KEPT = 2_147_483_647
"""The id of the trial nobody has felt: after every line of the log."""
_NO_KEY = UUID(int=0)


@dataclass(frozen=True)
class RodAsSet:
    """The build's checking rod, so many turns from closed, at a stop of the plan or at none."""

    tool: Instrument
    turns: Decimal
    length_in: Decimal
    crank_deg: Decimal | None


def rod_as_set(state: BuildState, turns: float, crank_deg: float | None = None) -> RodAsSet:
    """The build's rod as it is set. Raises InputError for one that has no such turns."""
    tool = state.build.instrument
    rod = rod_of(tool) if tool is not None else None
    if tool is None or not isinstance(rod, CheckingRod):
        raise InputError(
            "turns",
            say("Only a checking rod is set by its turns"),
            received=turns,
            remedy=say("Choose a checking rod in the set-up"),
            code="no_turns",
        )
    at = None if crank_deg is None else exact(crank_deg)
    return RodAsSet(tool, exact(turns), exact(rod.length_in(turns)), at)


def once_felt(state: BuildState, valve: ValveState, rod: RodAsSet, feel: Feel) -> BuildState:
    """The same build once a trial of the rod as set is felt so."""
    number = max((row.number or 0 for row in valve.told.rows), default=0) + 1
    line = KeptLine(
        rod.tool, id=NOT_KEPT, key=_NO_KEY, valve_id=valve.valve.id, instrument_id=rod.tool.id,
        kind="trial", number=number, raw="", raw_gap="", turns=rod.turns, length_in=rod.length_in,
        feel=feel, gap_in=None, raw_rod="", rod_in=None, rod_convention=None, pitch_in=None,
        push_in=None, crank_deg=rod.crank_deg, repeats=None, shim_in=None, seen=None,
        replaces_id=None, reason="", taken_by="", build_version=state.build.version,
        taken_at=datetime.now(UTC),
    )  # fmt: skip
    return state.with_lines({valve.valve.id: [line]})
