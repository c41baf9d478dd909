"""What the interface takes and gives. Lengths are inches unless a name says otherwise."""

from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from vivid_arm.core.bracket import Feel
from vivid_arm.core.conventions import Convention, EndKind
from vivid_arm.core.engine import Layout, ValveKind
from vivid_arm.core.lengths import FIELDS, Unit, check_range
from vivid_arm.core.preload import Bias
from vivid_arm.core.verdicts import State


def _no_nul(text: str) -> str:
    if "\x00" in text or any("\ud800" <= c <= "\udfff" for c in text):
        raise ValueError("text holds a character that cannot be stored")
    return text


Text = Annotated[str, AfterValidator(_no_nul)]
Name = Annotated[str, Field(min_length=1, max_length=80), AfterValidator(_no_nul)]
Figure = Annotated[float, Field(strict=True, allow_inf_nan=False, ge=-9999, le=9999)]
Version = Annotated[int, Field(strict=True, ge=1, le=2_000_000_000)]


class Strict(BaseModel):
    """A request body: unknown fields are refused."""

    model_config = ConfigDict(extra="forbid")


class Health(BaseModel):
    status: Literal["ok", "database away"]
    version: str
    database: str
    migration: str | None


class LayoutOut(BaseModel):
    layout: Layout
    name: str
    cylinders: list[int]


class SchoolOut(BaseModel):
    """A preload habit; ``travel_in`` only where the habit depends on it."""

    name: str
    preload_low_in: float
    preload_high_in: float
    preload_target_in: float
    travel_in: float | None


class RulesOut(BaseModel):
    layouts: list[LayoutOut]
    schools: list[SchoolOut]


class InstrumentFigures(Strict):
    """A checking rod has closed length, pitch and turns; a caliper its range."""

    closed_in: Figure | None = None
    pitch_in: Figure | None = None
    most_turns: Figure | None = None
    low_in: Figure | None = None
    high_in: Figure | None = None
    accuracy_in: Figure | None = None


class InstrumentIn(InstrumentFigures):
    """A new instrument. The same ``id`` again gives the one already kept."""

    id: UUID
    kind: Literal["checking_rod", "caliper"]
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
    kind: Literal["checking_rod", "caliper"]
    name: str
    convention: Convention
    closed_in: float | None
    pitch_in: float | None
    most_turns: float | None
    low_in: float | None
    high_in: float | None
    accuracy_in: float | None
    range_low_in: float
    range_high_in: float


class Settings(BaseModel):
    """A build's set-up; the defaults are common practice and can all be changed."""

    name: Name
    layout: Layout = "v"
    cylinders: Annotated[int, Field(strict=True, ge=1, le=16)] = 8
    ratio_intake: Figure = 1.6
    ratio_exhaust: Figure = 1.6
    preload_low_in: Figure = 0.020
    preload_high_in: Figure = 0.060
    preload_target_in: Figure = 0.040
    travel_in: Figure = 0.140
    instrument_id: UUID | None = None
    gaps: bool = True
    lifter_end: EndKind = "ball"
    lifter_ball_in: Figure = 0.3125
    lifter_hole_in: Figure = 0.0
    rocker_end: EndKind = "ball"
    rocker_ball_in: Figure = 0.3125
    rocker_hole_in: Figure = 0.0
    gauge_circle_in: Figure = 0.140
    order_convention: Convention = "theoretical"
    stock_step_in: Figure = 0.025
    bias: Bias = "longer"


class BuildIn(Settings, Strict):
    """A new build. The same ``id`` again gives the build already made."""

    id: UUID


class BuildChange(Strict):
    """New values for a build seen at ``version``; what is left out stays."""

    version: Version
    name: Name | None = None
    layout: Layout | None = None
    cylinders: Annotated[int, Field(strict=True, ge=1, le=16)] | None = None
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


class VerdictOut(BaseModel):
    """What, why, what next; ``{names}`` are filled from the two tables of inches."""

    state: State
    what: str
    why: str
    then: str
    lengths: dict[str, float]
    smalls: dict[str, float]


class ExplanationOut(BaseModel):
    """How a figure came about; ``{names}`` are filled from the two tables of inches."""

    title: str
    formula: str
    numbers: str
    source_kind: str
    source: str
    lengths: dict[str, float]
    smalls: dict[str, float]
    notes: list[str]


class ValveSummary(BaseModel):
    id: UUID
    version: int
    cylinder: int
    kind: ValveKind
    name: str
    expected_in: float | None
    trials: int
    state: State
    low_in: float | None
    high_in: float | None
    estimate_in: float | None
    u_in: float | None


class CandidateOut(BaseModel):
    """A length that can be bought. ``axis_in`` is the same rod in the measuring convention."""

    length_in: float
    axis_in: float
    preload_low_in: float
    preload_high_in: float
    off_bottom_in: float
    inside: bool
    miss_in: float
    errs: Literal["long", "short", "exact"]
    best: bool


class GroupOut(BaseModel):
    kind: ValveKind
    quantity: int
    measured: list[str]
    exact_in: float | None
    candidates: list[CandidateOut]
    taken: CandidateOut | None
    picked: bool
    verdict: VerdictOut
    explanations: dict[str, ExplanationOut]


class NextStepOut(BaseModel):
    station: Literal["setup", "zero-lash", "order"]
    valve_id: UUID | None
    sentence: str


class BuildSummary(Settings):
    """A build on the board."""

    id: UUID
    version: int
    engine: str
    instrument: InstrumentOut | None
    picked_intake_in: float | None
    picked_exhaust_in: float | None
    measuring_convention: Convention
    created_at: datetime
    updated_at: datetime
    valves: list[ValveSummary]
    groups: list[GroupOut]
    next_step: NextStepOut


class ValveChange(Strict):
    """The expected length of a valve, as typed; empty takes it away."""

    version: Version
    expected: Annotated[Text, Field(max_length=60)]
    unit: Unit = "in"


class TrialIn(Strict):
    """A trial: turns (checking rod) or length (caliper) as typed, the feel, a gap as typed."""

    key: UUID
    setting: Annotated[Text, Field(max_length=60)]
    feel: Feel
    gap: Annotated[Text, Field(max_length=60)] = ""
    unit: Unit = "in"
    by: Annotated[Text, Field(max_length=60)] = ""
    replaces: Annotated[int, Field(strict=True, ge=1, le=2_000_000_000)] | None = None
    reason: Annotated[Text, Field(max_length=120)] = ""


class CountBackIn(Strict):
    """Turns counted back to closed, as typed."""

    key: UUID
    turns: Annotated[Text, Field(max_length=60)]
    by: Annotated[Text, Field(max_length=60)] = ""


class VoidIn(Strict):
    """Strike a reading out, with the reason."""

    key: UUID
    reading_id: Annotated[int, Field(strict=True, ge=1, le=2_000_000_000)]
    reason: Annotated[Text, Field(min_length=1, max_length=120)]
    by: Annotated[Text, Field(max_length=60)] = ""


class LogLine(BaseModel):
    id: int
    kind: Literal["trial", "count_back", "void"]
    number: int | None
    raw: str
    raw_gap: str
    instrument: str | None
    turns: float | None
    turns_words: str | None
    length_in: float | None
    recomputed: bool
    feel: Feel | None
    gap_in: float | None
    replaces_id: int | None
    struck: bool
    struck_reason: str | None
    reason: str
    by: str
    at: datetime
    sentence: str | None
    count_agrees: bool | None
    explanation: ExplanationOut | None


class NextTrialOut(BaseModel):
    step: Literal["first", "longer", "shorter", "gap", "split", "repeat"]
    length_in: float
    turns: float | None
    turns_words: str | None
    reason: str


class StationOut(BaseModel):
    """Everything the zero-lash station shows for one valve."""

    build_id: UUID
    valve: ValveSummary
    ratio: float
    log: list[LogLine]
    longest_loose_in: float | None
    shortest_tight_in: float | None
    within_probability: float
    contradictions: list[list[int]]
    next_trial: NextTrialOut | None
    verdict: VerdictOut
    exact_in: float | None
    candidates: list[CandidateOut]
    explanations: dict[str, ExplanationOut]
    cautions: list[str]


class ParseIn(Strict):
    """A typed length, the field it is for, and the unit of a bare figure."""

    text: Annotated[Text, Field(max_length=60)]
    field: Literal[
        "rod_length", "closed_length", "thread_pitch", "caliper_low", "caliper_high", "accuracy",
        "preload", "travel", "gap", "stock_step", "ball", "oil_hole", "gauge_circle",
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


class BracketTrial(Strict):
    length_in: Figure
    feel: Feel
    gap_in: Annotated[float, Field(strict=True, gt=0, le=0.5)] | None = None


class BracketIn(Strict):
    """Trials in the order made; the adjuster's figures plan the next one."""

    trials: Annotated[list[BracketTrial], Field(max_length=60)]
    ratio: Figure = 1.6
    gaps: bool = True
    expected_in: Figure | None = None
    closed_in: Figure = 6.8
    pitch_in: Figure = 0.05
    most_turns: Figure = 20


class BracketOut(BaseModel):
    longest_loose_in: float | None
    shortest_tight_in: float | None
    estimate_in: float | None
    u_in: float | None
    low_in: float | None
    high_in: float | None
    within_probability: float
    settled: bool
    contradictions: list[str]
    next_in: float | None
    next_turns: float | None
    next_reason: str | None


class CandidatesIn(Strict):
    zero_lash_in: Annotated[list[Figure], Field(min_length=1, max_length=64)]
    preload_low_in: Figure
    preload_high_in: Figure
    preload_target_in: Figure
    travel_in: Figure
    stock_step_in: Figure = 0.025
    bias: Bias = "longer"


class CandidatesOut(BaseModel):
    exact_in: float
    best_in: float | None
    candidates: list[CandidateOut]


def checked(field: str, value: float | None) -> float | None:
    """A figure checked against the range of its field; None stays None."""
    return None if value is None else check_range(value, FIELDS[field])
