"""What the set-up takes and gives. Lengths are inches unless a name says otherwise."""

from datetime import datetime
from typing import Annotated, Any, Literal
from uuid import UUID

from pydantic import BaseModel, ConfigDict, Field

from vivid_arm.api.board.schemas import NextStepOut, ValveSummary
from vivid_arm.api.decide.schemas import GroupOut
from vivid_arm.core.engine.layout import Layout, ValveKind
from vivid_arm.core.entry.conventions import Convention, EndKind
from vivid_arm.core.rods.preload import PreloadSchoolCode, TurnsRule
from vivid_arm.core.words import Unit
from vivid_arm.core.zero_lash.methods import MeasuringMethod
from vivid_arm.core.zero_lash.ways import Reads
from vivid_arm.records.fields import Figure, InstrumentKind, Name, Strict, Text, Version
from vivid_arm.records.settings import BuildSettings, InstrumentFigures
from vivid_arm.records.shapes import (
    EngineFigures,
)


class LayoutOut(BaseModel):
    layout: Layout
    name: str
    cylinders: list[int]


class PreloadSchoolOut(BaseModel):
    """A preload habit: its figures counted from the clip, half of the travel, or the bottom."""

    code: PreloadSchoolCode
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


class OptionOut(BaseModel):
    value: str
    words: str


class MethodRuleOut(BaseModel):
    """A way of measuring: what the page asks for, and with which instrument."""

    code: MeasuringMethod
    tab: str
    words: str
    ask: str
    how: str
    reads: Reads
    tool: Literal["caliper", "indicator"] | None
    rod: Literal["must", "may", "none"]


class SizeOut(BaseModel):
    """A size that rods are had in."""

    size_in: float
    words: str


class StationHelpOut(BaseModel):
    """What is done at a station, and what to be careful of there."""

    station: str
    steps: list[str]
    cautions: list[str]


class RulesOut(BaseModel):
    layouts: list[LayoutOut]
    schools: list[PreloadSchoolOut]
    presets: list[PresetOut]
    pitches: list[PitchOut]
    mounts: list[OptionOut]
    changes: list[OptionOut]
    methods: list[MethodRuleOut]
    closings: list[OptionOut]
    forms: list[OptionOut]
    diameters: list[SizeOut]
    walls: list[SizeOut]
    help: list[StationHelpOut]


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


def _without_defaults(schema: dict[str, Any]) -> None:
    """A change has no usual figures: what is left out stays as it is."""
    for figure in schema["properties"].values():
        figure.pop("default", None)


class BuildIn(BuildSettings, Strict):
    """A new build. The same ``id`` again gives the build already made."""

    id: UUID


class LikeIn(Strict):
    """The name of a build that takes the set-up of another, and its readings where asked.

    The same ``id`` again is one build.
    """

    id: UUID
    name: Name
    readings: bool = False


class BuildChange(BuildSettings, Strict):
    """New values for a build seen at ``version``; what is left out stays."""

    model_config = ConfigDict(json_schema_extra=_without_defaults)

    version: Version
    name: Name = ""


class LobeTableIn(Strict):
    """A measured lobe as CSV for a build seen at ``version``; None takes it away."""

    version: Version
    csv: Annotated[Text, Field(max_length=200_000)] | None


class BuildSummary(BuildSettings):
    """A whole build; ``engine`` is the usual one of its layout where none was entered.

    ``reach_in``: from the ball's centre to where each convention measures, at the lifter's
    and at the rocker's end. ``turns_in``: the ends of a window held in turns, by either rule.
    """

    id: UUID
    version: int
    engine_words: str
    engine: EngineFigures
    lobe_tables: list[ValveKind]
    instrument: InstrumentOut | None
    measuring_convention: Convention
    reach_in: dict[Convention, list[float]]
    turns_in: dict[TurnsRule, list[float]]
    updated_at: datetime
    exercise_id: UUID | None
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
    """Turns as typed: 9 5/8, 9.625; with ``bolts`` those of a rocker's two bolts too: 1/2 and 3/4.

    Of two bolts the mean is the answer.
    """

    text: Annotated[Text, Field(max_length=60)]
    bolts: bool = False


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
