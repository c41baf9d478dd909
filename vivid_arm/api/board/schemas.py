"""What the board gives."""

from datetime import datetime
from typing import Literal
from uuid import UUID

from pydantic import BaseModel

from vivid_arm.api.decide.schemas import CandidateOut
from vivid_arm.core.engine.layout import ValveKind
from vivid_arm.core.said.verdicts import State


class ValveSummary(BaseModel):
    id: UUID
    version: int
    cylinder: int
    kind: ValveKind
    name: str
    expected_in: float | None
    stem_in: float | None
    predicted_in: float | None
    predicted_u_in: float | None
    trials: int
    readings: int
    state: State
    doubted: bool
    low_in: float | None
    high_in: float | None
    estimate_in: float | None
    u_in: float | None


class NextStepOut(BaseModel):
    station: Literal["setup", "zero_lash", "rocker", "heads", "decide", "order", "sign_off"]
    valve_id: UUID | None
    sentence: str


class BoardEntry(BaseModel):
    """A build on the board: for each kind the valve that is furthest, and the rod taken.

    ``fault`` says why a build cannot be computed; then nothing else of it is known. ``pending``:
    it is still to be worked out, as all are after an update of the program. ``twin``: another
    build of its shelf has the same name.
    """

    id: UUID
    name: str
    engine_words: str
    made_at: datetime
    updated_at: datetime
    preload_low_in: float
    preload_high_in: float
    travel_in: float
    valves: dict[ValveKind, ValveSummary | None]
    taken: dict[ValveKind, CandidateOut | None]
    next_step: NextStepOut
    fault: str | None = None
    pending: bool = False
    twin: bool = False


class BoardOut(BaseModel):
    """One page of the board, and how many builds are in the archive and in the bin."""

    total: int
    archived: int
    binned: int
    builds: list[BoardEntry]
