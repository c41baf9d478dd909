"""What the zero-lash station takes and gives. Lengths are inches."""

from datetime import datetime
from typing import Annotated, Literal
from uuid import UUID

from pydantic import BaseModel, ConfigDict, Field

from vivid_arm.api.board.schemas import ValveSummary
from vivid_arm.api.decide.schemas import CandidateOut
from vivid_arm.api.heads.schemas import SuspicionOut
from vivid_arm.api.said.schemas import ExplanationOut, VerdictOut
from vivid_arm.api.setup.schemas import BuildSummary
from vivid_arm.core.words import Unit
from vivid_arm.core.zero_lash.bracket import Feel
from vivid_arm.core.zero_lash.methods import MeasuringMethod
from vivid_arm.core.zero_lash.predict import Change, Mount
from vivid_arm.records.fields import Figure, Strict, Text, Version


class ValveChange(Strict):
    """The expected length of a valve, or how much taller its tip stands, as typed.

    Empty takes it away; what is left out stays.
    """

    version: Version
    expected: Annotated[Text, Field(max_length=60)] | None = None
    stem: Annotated[Text, Field(max_length=60)] | None = None
    unit: Unit = "in"


class NodIn(Strict):
    """A builder's nod, down to the last line of the log that he has seen."""

    key: UUID
    reading_id: Annotated[int, Field(ge=1, le=2_147_483_647)]


class WaitingOut(BaseModel):
    """A valve that waits for a nod: who measured it, and the last line of its log."""

    model_config = ConfigDict(from_attributes=True)

    build_id: UUID
    build_name: str
    valve_id: UUID
    valve_name: str
    by: list[str]
    reading_id: int


class LogLine(BaseModel):
    id: int
    kind: Literal["trial", "count_back", "void"] | MeasuringMethod
    method: str | None
    number: int | None
    raw: str
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
    struck: bool
    struck_reason: str | None
    restorable: bool
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


class RecountOut(BaseModel):
    """A way out of a failed count-back: the trials from ``since`` on worked out again."""

    count_id: int
    since: int
    words: str


class StationOut(BaseModel):
    """Everything the zero-lash station shows for one valve."""

    build_id: UUID
    valve: ValveSummary
    ratio: float
    ratio_words: str
    log: list[LogLine]
    longest_loose_in: float | None
    shortest_tight_in: float | None
    within_in: float
    within_probability: float
    contradictions: list[list[int]]
    next_trial: NextTrialOut | None
    verdict: VerdictOut
    recounts: list[RecountOut]
    combined: CombinedOut | None
    suspicion: SuspicionOut | None
    exact_in: float | None
    geometry: str
    candidates: list[CandidateOut]
    explanations: dict[str, ExplanationOut]
    cautions: list[str]


class KeptStation(StationOut):
    """The answer to a reading: its station and its build, as they are now."""

    build: BuildSummary


class AheadOut(BaseModel):
    """What the station would say once the rod as set is felt, by feel; its log as it is now.

    ``instrument_id``, ``instrument_version``: the checking rod that was counted on. No feel is
    there while the shop is busy.
    """

    instrument_id: UUID
    instrument_version: int
    once_felt: dict[Feel, StationOut]


class MethodIn(Strict):
    """One measurement without a build: the figures its method needs, inches and turns."""

    method: MeasuringMethod
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


class PredictIn(Strict):
    """A known zero-lash length, what changed (amount and half-width), mount and ratio."""

    zero_lash_in: Figure
    within_in: Figure = 0.0
    mount: Mount = "pedestal"
    ratio: Figure = 1.6
    changes: dict[Change, tuple[Figure, Figure]] = {}


class ChangeTermOut(BaseModel):
    change: Change
    factor: float
    effect_in: float


class PredictOut(BaseModel):
    zero_lash_in: float
    u_in: float
    terms: list[ChangeTermOut]


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
    closed_in: Figure = 8.15
    pitch_in: Figure = 0.041667
    most_turns: Figure = 20


class BracketOut(BaseModel):
    longest_loose_in: float | None
    shortest_tight_in: float | None
    estimate_in: float | None
    u_in: float | None
    low_in: float | None
    high_in: float | None
    within_in: float
    within_probability: float
    settled: bool
    contradictions: list[str]
    next_in: float | None
    next_turns: float | None
    next_reason: str | None
