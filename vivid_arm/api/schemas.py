"""What the interface takes and gives. Lengths are inches unless a name says otherwise."""

from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID

from pydantic import BaseModel, Field

from vivid_arm.api.base import Cylinder, Figure, InstrumentKind, Name, Strict, Text, Version
from vivid_arm.api.decide_schemas import Limits, PlanFigures, RodFigures, TorqueFigures
from vivid_arm.core.engine.base_circle import Closing, PlanState, School, Selection
from vivid_arm.core.engine.layout import Layout, Numbering, Rotation, Side, ValveKind
from vivid_arm.core.entry.conventions import Convention, EndKind
from vivid_arm.core.entry.lengths import FIELDS, Unit, check_range
from vivid_arm.core.heads.mistakes import Cause
from vivid_arm.core.rocker.correction import School as MarkSchool
from vivid_arm.core.rocker.mechanism import Tip
from vivid_arm.core.rocker.sheet import Dimension
from vivid_arm.core.rods.preload import Bias, SchoolCode
from vivid_arm.core.said.verdicts import State
from vivid_arm.core.zero_lash.bracket import Feel
from vivid_arm.core.zero_lash.methods import Method
from vivid_arm.core.zero_lash.predict import Change, Mount
from vivid_arm.records.state.build import Standing


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
    """A preload habit: its figures counted from the clip, half of the travel, or the bottom."""

    code: SchoolCode
    name: str
    preload_low_in: float
    preload_high_in: float
    preload_target_in: float
    travel_in: float | None
    counted_from: Literal["clip", "half", "bottom"]


class EngineFigures(Strict):
    """Numbering, firing order, valve orders; ``intervals_deg`` add up to 720."""

    bank_angle_deg: Figure
    numbering: Numbering
    first_bank: Side
    rotation: Rotation
    firing_order: Annotated[list[Cylinder], Field(max_length=16)]
    intervals_deg: Annotated[list[Figure], Field(max_length=16)]
    valve_orders: Annotated[list[Annotated[Text, Field(max_length=32)]], Field(max_length=2)]


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


class LobeFigures(Strict):
    """One lobe of a cam card: durations in crank degrees, lifts in inches."""

    advertised_deg: Figure
    advertised_at_in: Figure
    duration_050_deg: Figure
    lobe_lift_in: Figure
    base_circle_in: Figure | None = None


class CamFigures(Strict):
    """A cam card: ICL in crank degrees after TDC, LSA in cam degrees."""

    intake: LobeFigures
    exhaust: LobeFigures
    icl_deg: Figure
    lsa_deg: Figure


class KnownRod(Strict):
    """A rod that was right before: its length and preload, and how well they are known."""

    rod_in: Figure
    preload_in: Figure
    within_in: Figure = 0.0


class ChangeFigures(Strict):
    """One change, up by so much for intakes and exhausts, known within ``within_in``."""

    intake_in: Figure = 0.0
    exhaust_in: Figure = 0.0
    within_in: Figure = 0.0


class PriorFigures(Strict):
    """The last known rods in their convention, and what changed since."""

    convention: Convention = "theoretical"
    intake: KnownRod | None = None
    exhaust: KnownRod | None = None
    changes: dict[Change, ChangeFigures] = {}


class MeasuredFigure(Strict):
    """A dimension as the builder measured it, and its standard uncertainty."""

    value: Figure
    u: Figure


class GeometryFigures(Strict):
    """A kind's rockers: what is measured of them; the rest starts from usual figures.

    Angles are from the valve stem towards outboard; ``net_lift_in`` at the valve
    stands in for a cam card.
    """

    tip: Tip = "roller"
    stem_in: Figure = 0.3415
    lifter_deg: Annotated[Figure, Field(ge=-60, le=60)] = 0.0
    offset_in: Figure = 0.0
    net_lift_in: Figure | None = None
    school: MarkSchool = "mid_lift"
    shim_step_in: Figure = 0.005
    measured: dict[Dimension, MeasuredFigure] = {}


class RockerGeometry(Strict):
    intake: GeometryFigures | None = None
    exhaust: GeometryFigures | None = None


class Settings(BaseModel):
    """A build's set-up; the defaults are common practice and can all be changed."""

    name: Name
    layout: Layout = "v"
    cylinders: Cylinder = 8
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
    engine: EngineFigures | None = None
    cam: CamFigures | None = None
    prior: PriorFigures | None = None
    guard_deg: Figure = 15.0
    lifter_kind: Literal["hydraulic", "solid"] = "hydraulic"
    lifter_foot: Literal["flat", "roller"] = "flat"
    seat_height_in: Figure | None = None
    lash_intake_in: Figure | None = None
    lash_exhaust_in: Figure | None = None
    mount: Mount = "pedestal"
    fastener_pitch_in: Figure = 0.055556
    geometry: RockerGeometry | None = None
    preload_school: SchoolCode | None = None
    plan: PlanFigures | None = None
    rod: RodFigures | None = None
    limits: Limits | None = None
    torque: TorqueFigures | None = None


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
    station: Literal["setup", "zero-lash", "arm", "map", "decide", "order", "signoff"]
    valve_id: UUID | None
    sentence: str


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


class BoardEntry(BaseModel):
    """A build on the board: for each kind the valve that is furthest, and the rod taken.

    ``fault`` says why a build cannot be computed; then nothing else of it is known.
    """

    id: UUID
    name: str
    engine_words: str
    updated_at: datetime
    preload_low_in: float
    preload_high_in: float
    travel_in: float
    valves: dict[ValveKind, ValveSummary | None]
    taken: dict[ValveKind, CandidateOut | None]
    next_step: NextStepOut
    fault: str | None = None


class BoardOut(BaseModel):
    """One page of the board, the latest touched first."""

    total: int
    builds: list[BoardEntry]


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


class MeasureIn(Strict):
    """One measurement by a method beside the bracket, as typed.

    ``reading``: lengths parted by blanks (extend), turns, the indicator's travel,
    or the gap (feelers may be added up: 0.040 + 0.025). ``rod``: the known rod's
    length in ``rod_convention``. ``instrument_id``: the caliper or indicator that
    read it or, for turns and gaps, that read the rod.
    """

    key: UUID
    method: Method
    reading: Annotated[Text, Field(max_length=200)]
    rod: Annotated[Text, Field(max_length=60)] = ""
    rod_convention: Convention | None = None
    instrument_id: UUID | None = None
    pitch_in: Figure | None = None
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
    kind: Literal[
        "trial", "count_back", "void", "extend", "turns", "indicator", "gap_short", "gap_bottomed"
    ]
    method: str | None
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
    raw_rod: str
    preload_in: float | None
    plain_in: float | None
    u_in: float | None
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


class WeightOut(BaseModel):
    """One measurement's part in the combined length."""

    name: str
    zero_lash_in: float
    u_in: float
    weight: float


class CombinedOut(BaseModel):
    """Several measurements of one valve; ``probability`` that agreeing ones differ as much."""

    estimate_in: float | None
    u_in: float | None
    probability: float
    odd: str | None
    parts: list[WeightOut]


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
    """A doubted valve of a build."""

    valve_id: UUID


class StationOut(BaseModel):
    """Everything the zero-lash station shows for one valve."""

    build_id: UUID
    valve: ValveSummary
    ratio: float
    ratio_words: str
    log: list[LogLine]
    longest_loose_in: float | None
    shortest_tight_in: float | None
    within_probability: float
    contradictions: list[list[int]]
    next_trial: NextTrialOut | None
    verdict: VerdictOut
    combined: CombinedOut | None
    suspicion: SuspicionOut | None
    exact_in: float | None
    candidates: list[CandidateOut]
    explanations: dict[str, ExplanationOut]
    cautions: list[str]


class ReadingsIn(Strict):
    """Readings as CSV."""

    csv: Annotated[Text, Field(max_length=2_000_000)]


class ReadingsOut(BaseModel):
    lines: int


class WindowOut(BaseModel):
    """A valve's heel on the crank, no guard: from ``from_deg`` turning on to ``to_deg``."""

    name: str
    cylinder: int
    kind: ValveKind
    from_deg: float
    to_deg: float


class TdcOut(BaseModel):
    """Firing TDC of a cylinder, crank degrees."""

    cylinder: int
    crank_deg: float


class StopValve(BaseModel):
    name: str
    margin_deg: float | None


class StopOut(BaseModel):
    crank_deg: float | None
    turn_deg: float | None
    look_for: str
    valves: list[StopValve]


class PlanOut(BaseModel):
    school: School
    title: str
    state: PlanState
    sentence: str
    saves: str
    least_margin_deg: float | None
    stops: list[StopOut]


class WheelOut(BaseModel):
    """Heel windows (none without a cam card) and the plans; crank 0 is the first firing TDC."""

    rotation: Rotation
    guard_deg: float
    lobes: str
    tdcs: list[TdcOut]
    windows: list[WindowOut]
    plans: list[PlanOut]
    measured: list[str] = []
    cautions: list[str] = []


class WheelIn(Strict):
    """An engine (the usual one without figures), its cam card, and what to measure."""

    layout: Layout = "v"
    cylinders: Cylinder = 8
    engine: EngineFigures | None = None
    cam: CamFigures | None = None
    guard_deg: Figure = 15.0
    selection: Selection = "all"
    cylinder: Cylinder = 1
    closing: Closing = "third_left"


class LobeOut(BaseModel):
    """A lobe made from a card: crank degrees from its centre, lift in inches."""

    model: bool
    angle_deg: list[float]
    lift_in: list[float]


class MethodIn(Strict):
    """One measurement without a build: the figures its method needs, inches and turns."""

    method: Literal["extend", "turns", "indicator", "gap_short", "gap_bottomed"]
    ratio: Figure = 1.6
    readings_in: Annotated[list[Figure], Field(max_length=20)] = []
    turns: Figure | None = None
    pitch_in: Figure = 0.055556
    push_in: Figure | None = None
    gap_in: Figure | None = None
    travel_in: Figure = 0.140
    rod_in: Figure | None = None
    accuracy_in: Figure = 0.0
    resolution_in: Figure = 0.0


class ComponentOut(BaseModel):
    words: str
    u_in: float


class MethodOut(BaseModel):
    zero_lash_in: float | None
    preload_in: float | None
    plain_in: float | None
    u_in: float
    components: list[ComponentOut]


class FindingOut(BaseModel):
    """What the spread says; ``{names}`` are filled from ``smalls`` (inches)."""

    about: Literal["spread", "slope", "bank", "odd", "few"]
    what: str
    why: str
    then: str
    smalls: dict[str, float]
    valves: list[str]


class SharePart(Strict):
    """One source of uncertainty; the same key in two measurements correlates them."""

    key: Annotated[Text, Field(max_length=40)] = ""
    u_in: Figure


class CombinePart(Strict):
    zero_lash_in: Figure
    parts: Annotated[list[SharePart], Field(min_length=1, max_length=10)]


class CombineIn(Strict):
    """Several zero-lash lengths of one valve with their sources of uncertainty."""

    measures: Annotated[list[CombinePart], Field(min_length=1, max_length=20)]


class CombineOut(BaseModel):
    """``odd`` is the place (from 1) of the one that does not fit."""

    estimate_in: float | None
    u_in: float | None
    probability: float
    weights: list[float]
    odd: int | None


class MeasuredIn(Strict):
    cylinder: Cylinder
    kind: ValveKind
    zero_lash_in: Figure
    u_in: Annotated[float, Field(strict=True, ge=0, le=1)] = 0.001


class HeadsIn(Strict):
    """Measured valves of an engine; a travel of None means solid lifters."""

    layout: Layout = "v"
    cylinders: Cylinder = 8
    engine: EngineFigures | None = None
    valves: Annotated[list[MeasuredIn], Field(max_length=32)]
    travel_in: Figure | None = 0.140
    pitch_in: Figure | None = None


class HeadsOut(BaseModel):
    spread_in: dict[ValveKind, float | None]
    findings: list[FindingOut]
    doubts: list[DoubtOut]


class PredictIn(Strict):
    """A known zero-lash length, what changed (amount and half-width), mount and ratio."""

    zero_lash_in: Figure
    within_in: Figure = 0.0
    mount: Mount = "pedestal"
    ratio: Figure = 1.6
    changes: dict[Change, tuple[Figure, Figure]] = {}


class TermOut(BaseModel):
    change: Change
    factor: float
    effect_in: float


class PredictOut(BaseModel):
    zero_lash_in: float
    u_in: float
    terms: list[TermOut]


class MapValve(BaseModel):
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


class MapLot(BaseModel):
    """Rods of one length (measuring convention), and how many valves get it."""

    length_in: float
    count: int


class HeadOut(BaseModel):
    bank: str
    valves: list[MapValve]


class MapOut(BaseModel):
    """The heads in plan, front to rear, what their valves say together, and what is doubted."""

    heads: list[HeadOut]
    measured: int
    rods: list[MapLot]
    spread_in: dict[ValveKind, float | None]
    findings: list[FindingOut]
    suspicions: list[SuspicionOut]
    selections: dict[Selection, list[str]]


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
