"""What the set-up takes and gives. Lengths are inches unless a name says otherwise."""

from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID

from pydantic import BaseModel, Field

from vivid_arm.api.board.schemas import NextStepOut
from vivid_arm.api.decide.schemas import GroupOut
from vivid_arm.api.zero_lash.schemas import ValveSummary
from vivid_arm.core.engine.layout import Layout, ValveKind
from vivid_arm.core.entry.conventions import Convention, EndKind
from vivid_arm.core.entry.lengths import Unit
from vivid_arm.core.rods.preload import Bias, SchoolCode
from vivid_arm.core.zero_lash.predict import Mount
from vivid_arm.records.fields import Cylinder, Figure, InstrumentKind, Name, Strict, Text, Version
from vivid_arm.records.settings import Settings
from vivid_arm.records.shapes import (
    CamFigures,
    EngineFigures,
    Limits,
    PlanFigures,
    PriorFigures,
    RockerGeometry,
    RodFigures,
    TorqueFigures,
)


class LayoutOut(BaseModel):
    layout: Layout
    name: str
    cylinders: list[int]


class SchoolOut(BaseModel):
    """A preload habit: its figures counted from the clip, half of the travel, or the bottom."""

    code: SchoolCode
    name: str
    preload_low_in: float
    preload_high_in: float
    preload_target_in: float
    travel_in: float | None
    counted_from: Literal["clip", "half", "bottom"]


class PresetOut(BaseModel):
    words: str
    layout: Layout
    cylinders: int
    engine: EngineFigures


class PitchOut(BaseModel):
    name: str
    pitch_in: float
    source: str


class ChoiceOut(BaseModel):
    value: str
    words: str


class RulesOut(BaseModel):
    layouts: list[LayoutOut]
    schools: list[SchoolOut]
    presets: list[PresetOut]
    pitches: list[PitchOut]
    mounts: list[ChoiceOut]
    changes: list[ChoiceOut]
    methods: list[ChoiceOut]
    closings: list[ChoiceOut]


class InstrumentFigures(Strict):
    """A checking rod has closed length, pitch and turns; a caliper its range."""

    closed_in: Figure | None = None
    pitch_in: Figure | None = None
    most_turns: Figure | None = None
    low_in: Figure | None = None
    high_in: Figure | None = None
    accuracy_in: Figure | None = None
    resolution_in: Figure | None = None


class InstrumentIn(InstrumentFigures):
    """A new instrument. The same ``id`` again gives the one already kept."""

    id: UUID
    kind: InstrumentKind
    name: Name
    convention: Convention = "theoretical"


class InstrumentChange(InstrumentFigures):
    """New values for an instrument seen at ``version``; what is left out stays."""

    version: Version
    name: Name | None = None
    convention: Convention | None = None


class InstrumentOut(BaseModel):
    id: UUID
    version: int
    kind: InstrumentKind
    name: str
    convention: Convention
    closed_in: float | None
    pitch_in: float | None
    most_turns: float | None
    low_in: float | None
    high_in: float | None
    accuracy_in: float | None
    resolution_in: float | None
    range_low_in: float
    range_high_in: float


class BuildIn(Settings, Strict):
    """A new build. The same ``id`` again gives the build already made."""

    id: UUID


class BuildChange(Strict):
    """New values for a build seen at ``version``; what is left out stays."""

    version: Version
    name: Name | None = None
    layout: Layout | None = None
    cylinders: Cylinder | None = None
    ratio_intake: Figure | None = None
    ratio_exhaust: Figure | None = None
    preload_low_in: Figure | None = None
    preload_high_in: Figure | None = None
    preload_target_in: Figure | None = None
    travel_in: Figure | None = None
    instrument_id: UUID | None = None
    gaps: bool | None = None
    lifter_end: EndKind | None = None
    lifter_ball_in: Figure | None = None
    lifter_hole_in: Figure | None = None
    rocker_end: EndKind | None = None
    rocker_ball_in: Figure | None = None
    rocker_hole_in: Figure | None = None
    gauge_circle_in: Figure | None = None
    order_convention: Convention | None = None
    stock_step_in: Figure | None = None
    bias: Bias | None = None
    picked_intake_in: Figure | None = None
    picked_exhaust_in: Figure | None = None
    engine: EngineFigures | None = None
    cam: CamFigures | None = None
    prior: PriorFigures | None = None
    guard_deg: Figure | None = None
    lifter_kind: Literal["hydraulic", "solid"] | None = None
    lifter_foot: Literal["flat", "roller"] | None = None
    seat_height_in: Figure | None = None
    lash_intake_in: Figure | None = None
    lash_exhaust_in: Figure | None = None
    mount: Mount | None = None
    fastener_pitch_in: Figure | None = None
    geometry: RockerGeometry | None = None
    preload_school: SchoolCode | None = None
    plan: PlanFigures | None = None
    rod: RodFigures | None = None
    limits: Limits | None = None
    torque: TorqueFigures | None = None


class LobeTableIn(Strict):
    """A measured lobe as CSV for a build seen at ``version``; None takes it away."""

    version: Version
    csv: Annotated[Text, Field(max_length=200_000)] | None


class BuildSummary(Settings):
    """A whole build; ``engine`` is the usual one of its layout where none was entered."""

    id: UUID
    version: int
    engine_words: str
    engine: EngineFigures
    lobe_tables: list[ValveKind]
    instrument: InstrumentOut | None
    picked_intake_in: float | None
    picked_exhaust_in: float | None
    measuring_convention: Convention
    created_at: datetime
    updated_at: datetime
    valves: list[ValveSummary]
    groups: list[GroupOut]
    next_step: NextStepOut


class ParseIn(Strict):
    """A typed length, the field it is for, and the unit of a bare figure."""

    text: Annotated[Text, Field(max_length=60)]
    field: Literal[
        "rod_length", "closed_length", "thread_pitch", "caliper_low", "caliper_high", "accuracy",
        "preload", "travel", "gap", "stock_step", "ball", "oil_hole", "gauge_circle",
        "push", "resolution", "seat_height", "lash", "change", "within", "lobe_lift",
        "advertised_at", "base_circle", "tip_diameter", "mark_edge", "mark_width", "net_lift",
        "lift", "shim", "shim_step", "arm", "tip_radius", "film", "offset",
        "rod_diameter", "wall", "clearance", "tolerance", "part_height", "tube", "bar", "kerf",
    ]  # fmt: skip
    unit: Unit = "in"


class ParseOut(BaseModel):
    inches: float
    in_words: str
    mm_words: str


class TurnsIn(Strict):
    """Turns from closed as typed: 10 1/4, 10.25."""

    text: Annotated[Text, Field(max_length=60)]


class TurnsOut(BaseModel):
    turns: float
    words: str


class FiringOrderIn(Strict):
    """A firing order as typed: 1-3-4-2."""

    text: Annotated[Text, Field(max_length=80)]


class FiringOrderOut(BaseModel):
    firing_order: list[int]


class EndIn(Strict):
    kind: EndKind
    ball_in: Figure
    oil_hole_in: Figure = 0.0


class ConvertIn(Strict):
    """A rod length and the convention it is in, the one wanted, and both ends."""

    length_in: Figure
    given: Convention
    wanted: Convention
    lifter: EndIn
    rocker: EndIn
    gauge_circle_in: Figure = 0.140


class LengthOut(BaseModel):
    length_in: float
    convention: Convention


class CheckingRodIn(Strict):
    closed_in: Figure
    pitch_in: Figure
    most_turns: Figure
    turns: Figure
