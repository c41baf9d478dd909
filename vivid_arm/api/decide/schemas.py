"""What the decision, the rod, the box and the checks' limits take and give."""

from typing import Annotated, Literal
from uuid import UUID

from pydantic import BaseModel, ConfigDict, Field

from vivid_arm.api.said.schemas import ExplanationOut, VerdictOut
from vivid_arm.core.engine.layout import ValveKind
from vivid_arm.core.entry.conventions import Convention, EndKind
from vivid_arm.core.rods.decide import Mode, Standing
from vivid_arm.core.rods.grouping import Strategy
from vivid_arm.core.rods.growth import Material, PartName
from vivid_arm.core.rods.preload import Bias
from vivid_arm.core.rods.strength import Form
from vivid_arm.records.fields import Figure, Strict, Text, Version
from vivid_arm.records.shapes import Count, Note, RodFigures


class GrowthTermOut(BaseModel):
    """One part's share in the change of preload."""

    part: PartName
    words: str
    share: float
    value_in: float
    u_in: float


class GrowthOut(BaseModel):
    """``change_in`` counts: what was read, else what the stack gives; ``fit``: read by stack."""

    change_in: float
    u_in: float
    stack_in: float
    read_in: float | None
    fit: float | None
    terms: list[GrowthTermOut]


class StackPart(BaseModel):
    """A part as it counts; ``own`` where the builder entered it."""

    model_config = ConfigDict(from_attributes=True)

    part: PartName
    words: str
    height_in: float
    material: Material
    rise_k: float
    within_in: float
    within_k: float
    own: bool


class ChancesOut(BaseModel):
    """Chances: cold inside the window, hot inside it, hot neither loose nor on the bottom."""

    model_config = ConfigDict(from_attributes=True)

    cold: float
    hot: float | None
    hot_safe: float | None


class DecidedValveOut(BaseModel):
    """One valve with its rod. ``axis_in`` is the rod in the measuring convention."""

    name: str
    kind: ValveKind
    inferred: bool
    zero_lash_in: float
    u_in: float
    low_in: float
    high_in: float
    length_in: float
    axis_in: float
    preload_in: float
    off_bottom_in: float | None
    hot_in: float | None
    turns: float | None
    miss_in: float
    inside: bool
    standing: Standing
    chances: ChancesOut
    counted: ChancesOut


class LotOut(BaseModel):
    """Rods of one length: for which valves, how many of them are on the shop's shelf."""

    length_in: float
    axis_in: float
    valves: list[str]
    in_box: int


class WayOut(BaseModel):
    """One way of buying, and what it costs in preload."""

    strategy: Strategy
    words: str
    lots: list[LotOut]
    worst_miss_in: float
    outside: list[str]
    preload_low_in: float
    preload_high_in: float


class CountOut(BaseModel):
    lengths: int
    worst_miss_in: float


class RemedyOut(BaseModel):
    """What mends a valve that no length serves."""

    model_config = ConfigDict(from_attributes=True)

    name: str
    nearest_in: float
    by_in: float
    custom_in: float
    shim_in: float | None
    stem_in: float


class DecideVerdict(BaseModel):
    state: Literal["waiting", "settled", "outside", "closing", "conflict"]
    what: str
    why: str
    then: str
    lengths: dict[str, float]
    smalls: dict[str, float]


class DecisionOut(BaseModel):
    """Every valve's rod, the ways of buying beside each other, chances cold and hot."""

    mode: Mode
    strategy: Strategy
    verdict: DecideVerdict
    lots: list[LotOut]
    rows: list[DecidedValveOut]
    ways: list[WayOut]
    gains: list[CountOut]
    remedies: list[RemedyOut]
    tolerance_in: float
    reach_turns: float
    odd_one_in: int
    growth: dict[ValveKind, GrowthOut]
    stack: list[StackPart]
    draws: int
    all_inside: float | None
    warnings: list[str]


class PreloadReadOut(BaseModel):
    """A valve's preload with the rod that is in it, inches."""

    model_config = ConfigDict(from_attributes=True)

    name: str
    preload_in: float
    u_in: float


class RodSizeOut(BaseModel):
    """Rods longer by so much: preload of the valves read, the chance that all are inside."""

    model_config = ConfigDict(from_attributes=True)

    by_in: float
    low_in: float
    high_in: float
    all_inside: float


class InHandOut(BaseModel):
    """The rods of a kind that are on the engine, and what other sizes would do."""

    kind: ValveKind
    verdict: DecideVerdict
    reads: list[PreloadReadOut]
    quantity: int
    off_bottom_in: float
    wanted_in: float
    sizes: list[RodSizeOut]


class StrengthOut(BaseModel):
    """A rod under the open springs; forces in lbf and N, mass in oz and g."""

    diameter_in: float
    wall_in: float
    form: Form
    length_in: float
    load_lbf: float
    load_n: float
    euler_lbf: float
    euler_n: float
    safety: float
    enough: bool
    stress_psi: float
    shortening_in: float
    lift_lost_in: float
    mass_oz: float
    mass_g: float


class RoomOut(BaseModel):
    largest_in: float
    usual: str | None


class CutOut(BaseModel):
    model_config = ConfigDict(from_attributes=True)

    valve: str
    finished_in: float
    tube_in: float
    bar: int


class CutListOut(BaseModel):
    added_in: float
    cuts: list[CutOut]
    bars: int
    least_bars: int
    left_in: list[float]


class PressedIn(Strict):
    """Rods after pressing as they measured, parted by blanks, in the cut list's order."""

    rods: Annotated[Text, Field(min_length=1, max_length=2000)]
    unit: Literal["in", "mm"] = "in"


class PressedOut(BaseModel):
    valve: str
    measured_in: float
    off_in: float
    within: bool


class RodOut(BaseModel):
    """The rod's own page: as entered, its strength beside others, room, cut list."""

    figures: RodFigures
    length_in: float
    least_safety: float
    strengths: list[StrengthOut]
    room: RoomOut | None
    cut_list: CutListOut | None
    cut_refusal: str | None


class BoxRodIn(Strict):
    """Rods of one length on the shop's shelf. The same ``id`` again gives the one kept."""

    id: UUID
    length: Annotated[Text, Field(max_length=40)]
    unit: Literal["in", "mm"] = "in"
    convention: Convention = "theoretical"
    diameter_in: Figure = 0.3125
    lifter_end: EndKind = "ball"
    rocker_end: EndKind = "ball"
    count: Count = 1
    note: Note = ""


class BoxRodChange(Strict):
    version: Version
    count: Count | None = None
    note: Note | None = None


class BoxRodOut(BaseModel):
    model_config = ConfigDict(from_attributes=True)

    id: UUID
    version: int
    length_in: float
    convention: Convention
    diameter_in: float
    lifter_end: EndKind
    rocker_end: EndKind
    count: int
    note: str


class DecideValve(Strict):
    """A valve's zero lash in the order's convention, its standard uncertainty, R0."""

    name: Annotated[Text, Field(pattern=r"^\d{1,2}[IE]$")]
    zero_lash_in: Annotated[Figure, Field(ge=3, le=16)]
    u_in: Annotated[Figure, Field(ge=0, le=1)] = 0.0
    ratio: Annotated[Figure, Field(ge=1, le=2.5)] = 1.6
    inferred: bool = False


class DecideIn(Strict):
    """An engine to decide, without a build."""

    valves: Annotated[list[DecideValve], Field(min_length=1, max_length=64)]
    preload_low_in: Figure = 0.020
    preload_high_in: Figure = 0.060
    preload_target_in: Figure = 0.040
    travel_in: Figure = 0.140
    stock_step_in: Annotated[Figure, Field(ge=0.001, le=0.25)] = 0.025
    bias: Bias = "longer"
    strategy: Strategy = "fewest"
    tolerance_in: Figure = 0.003
    block: Material | None = None
    head: Material | None = None


class DecidedRow(BaseModel):
    name: str
    length_in: float
    preload_in: float
    inside: bool
    hot_in: float | None
    chance_cold: float
    chance_hot: float | None


class DecidedOut(BaseModel):
    lengths_in: list[float]
    worst_miss_in: float
    outside: list[str]
    rows: list[DecidedRow]
    gains: list[CountOut]


class StrengthIn(Strict):
    """A rod and its springs."""

    diameter_in: Figure
    wall_in: Figure
    length_in: Figure
    form: Form = "one_piece"
    spring_lbf: Figure
    ratio: Annotated[Figure, Field(ge=1, le=2.5)]


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
