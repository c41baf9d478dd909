"""What the heads take and give. Lengths are inches."""

from typing import Annotated, Literal
from uuid import UUID

from pydantic import BaseModel, Field

from vivid_arm.core.engine.base_circle import Selection
from vivid_arm.core.engine.layout import Layout, ValveKind
from vivid_arm.core.heads.mistakes import Cause
from vivid_arm.records.fields import Cylinder, Figure, Strict, Text
from vivid_arm.records.shapes import EngineFigures
from vivid_arm.records.state.build import Standing


class LikelyOut(BaseModel):
    """One likely cause; ``{by}`` in the reason stands for ``by_in``."""

    cause: Cause
    share: float
    what: str
    reason: str
    check: str
    by_in: float


class DoubtOut(BaseModel):
    """A valve that is not believable; ``{off}`` in the sentence stands for the size of it."""

    name: str
    off_in: float
    u_in: float
    doubt: float
    sentence: str
    causes: list[LikelyOut]


class SuspicionOut(DoubtOut):
    """A doubted valve; ``asks_lifter`` where the lifter's state is not known and tells."""

    valve_id: UUID
    asks_lifter: bool


class ReadingsIn(Strict):
    """Readings as CSV."""

    csv: Annotated[Text, Field(max_length=2_000_000)]


class ReadingsOut(BaseModel):
    lines: int


class RemarkOut(BaseModel):
    """What the spread says; ``{names}`` are filled from ``smalls`` (inches)."""

    about: Literal["spread", "slope", "bank", "odd", "few", "shared", "known"]
    what: str
    why: str
    then: str
    smalls: dict[str, float]
    valves: list[str]


class MeasuredIn(Strict):
    cylinder: Cylinder
    kind: ValveKind
    zero_lash_in: Figure
    u_in: Annotated[float, Field(strict=True, ge=0, le=1)] = 0.001


class SpreadIn(Strict):
    """Measured valves of an engine; a travel of None means solid lifters."""

    layout: Layout = "v"
    cylinders: Cylinder = 8
    engine: EngineFigures | None = None
    valves: Annotated[list[MeasuredIn], Field(max_length=32)]
    travel_in: Figure | None = 0.140
    pitch_in: Figure | None = None


class SpreadOut(BaseModel):
    spread_in: dict[ValveKind, float | None]
    remarks: list[RemarkOut]
    doubts: list[DoubtOut]


class HeadValve(BaseModel):
    """One valve on the head map; ``rod_in`` is its rod in the measuring convention."""

    id: UUID
    name: str
    cylinder: int
    kind: ValveKind
    state: Standing
    readings: int
    estimate_in: float | None
    u_in: float | None
    low_in: float | None
    high_in: float | None
    preload_in: float | None
    rod_in: float | None


class HeadLot(BaseModel):
    """Rods of one length (measuring convention), and how many valves get it."""

    length_in: float
    count: int


class HeadOut(BaseModel):
    bank: str
    valves: list[HeadValve]


class HeadsOut(BaseModel):
    """The heads in plan, front to rear, what their valves say together, and what is doubted."""

    heads: list[HeadOut]
    measured: int
    rods: list[HeadLot]
    spread_in: dict[ValveKind, float | None]
    remarks: list[RemarkOut]
    suspicions: list[SuspicionOut]
    selections: dict[Selection, list[str]]
