"""Practice engines as the interface takes and gives them."""

from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID

from pydantic import BaseModel, Field

from vivid_arm.core.practice.faults import FaultKind
from vivid_arm.core.practice.scenarios import MOST_SEED
from vivid_arm.core.practice.score import Runs
from vivid_arm.core.practice.tools import DragsLike, Felt
from vivid_arm.records.fields import Figure, Line, Strict

Seed = Annotated[int, Field(strict=True, ge=0, le=MOST_SEED)]
DeedName = Literal[
    "turn_crank", "fit", "turn_rod", "spin", "feel", "feeler", "caliper", "straight_edge",
    "wrench", "springs", "watch", "roll", "mark", "angle", "back_off", "draw_down",
    "clay", "press_down", "shim", "run_warm",
]  # fmt: skip
Small = Annotated[Line, Field(max_length=40)]


class FaultChoice(BaseModel):
    """A fault that an engine can have, as it is named."""

    kind: FaultKind
    name: str
    effect: str


class ExerciseRow(BaseModel):
    """An exercise of the list: whose, when, and its points once it has ended."""

    id: UUID
    build_id: UUID
    scenario: str
    seed: int
    sealed: bool
    person: str
    started_at: datetime
    ended_at: datetime | None
    points: float | None


class ScenarioOut(BaseModel):
    """A scenario of the course: its story, its goal, what may be spent."""

    code: str
    title: str
    story: str
    goal: str
    engine_words: str
    valves: int
    rods: int
    credits: int


class CourseOut(BaseModel):
    """The course in its order, and what has been done of it, the latest first."""

    scenarios: list[ScenarioOut]
    exercises: list[ExerciseRow]


class ExerciseIn(Strict):
    """A scenario and a seed (any, where none is given); ``sealed`` gives no hints."""

    id: UUID
    scenario: Small
    seed: Seed | None = None
    sealed: bool = False


class BoughtRod(BaseModel):
    """A rod that came: for which valve, the length that was ordered."""

    valve: str
    length_in: float


class ExerciseOut(BaseModel):
    """An exercise as it stands; nothing of the engine's truth."""

    id: UUID
    build_id: UUID
    scenario: ScenarioOut
    seed: int
    sealed: bool
    person: str
    crank_deg: float
    rod_in: str
    turn_part: float
    banks: list[str]
    blades_thou: list[int]
    faults: list[FaultChoice]
    named: list[FaultKind]
    hints: list[str]
    hints_left: int
    credits_left: int
    rod_costs: int
    bought: list[BoughtRod]
    deeds: int
    marked: bool
    shims_in: float | None
    has_lash: bool
    tip_in: float
    ended_at: datetime | None


class HowDone(Strict):
    """How a deed is done; each has its own of these."""

    to_deg: Figure | None = None
    valve: Small | None = None
    eighths: Annotated[int, Field(strict=True, ge=-160, le=160)] | None = None
    blade_in: Figure | None = None
    over: Small | None = None
    square: bool | None = None
    bank: Small | None = None
    rod: Small | None = None
    on: Small | None = None
    thick_in: Figure | None = None
    lash_in: Figure | None = None
    by: Small | None = None


class DeedIn(Strict):
    """One deed at the bench. The same key again gives what it gave."""

    key: UUID
    name: DeedName
    how: HowDone = HowDone()


class GotOut(BaseModel):
    """What hands or tools get: words, and what is drawn. ``read_in``: a gauge's reading, inches.

    ``read_deg``: an angle's; ``read_lbf_ft``: where a fastener moves on under the wrench.
    """

    words: str
    felt: Felt | None
    motion_in: float
    read_in: float | None
    read_deg: float | None
    read_lbf_ft: float | None
    blade: DragsLike | None


class DeedOut(BaseModel):
    """What a deed gave, and how the bench stands after it."""

    got: GotOut
    exercise: ExerciseOut


class TrainOut(BaseModel):
    """A valve's train through a cycle, as an eye sees it: points in inches from the tip."""

    valve: str
    fitted: bool
    crank_deg: list[int]
    ball: list[list[float]]
    cup: list[list[float]]
    tip: list[list[float]]
    stem: list[float]
    fulcrum: list[float]
    radius_in: float
    slack_in: float
    plunger_in: float | None


class HintOut(BaseModel):
    """The hint, and the exercise after it."""

    words: str
    exercise: ExerciseOut


class NamedIn(Strict):
    """What is wrong with the engine, as the builder has it."""

    kinds: Annotated[list[FaultKind], Field(max_length=20)]


class RodsIn(Strict):
    """Rods to buy: overall length by the valve they are for, inches."""

    rods: Annotated[dict[Small, Figure], Field(min_length=1, max_length=32)]


class ValveRunsOut(BaseModel):
    """A valve in the running engine: what its rod gives cold and hot, inches."""

    name: str
    zero_lash_in: float
    rod_in: float
    cold_in: float
    hot_in: float
    sweep_in: float
    edge_in: float
    runs: Runs
    words: str


class FaultShownOut(BaseModel):
    """A fault the engine had, whether it was named, and the deed that first gave it away."""

    kind: FaultKind
    name: str
    effect: str
    where: str
    size_in: float
    found: bool
    first_deed: int | None


class LossOut(BaseModel):
    words: str
    points: float


class SpentOut(BaseModel):
    """What was spent of something, and the least that would have done."""

    words: str
    spent: int
    best: int


class MisreadOut(BaseModel):
    """The reading that is furthest off the truth: by how much, long above zero, inches."""

    valve: str
    number: int
    off_in: float


class EndingOut(BaseModel):
    """The engine runs: every valve, every fault, what points were lost for."""

    exercise: ExerciseRow
    title: str
    right: bool
    points: float
    valves: list[ValveRunsOut]
    faults: list[FaultShownOut]
    wrongly_named: list[str]
    losses: list[LossOut]
    spent: list[SpentOut]
    misread: MisreadOut | None
    checking_rod: str
    low_in: float
    high_in: float
