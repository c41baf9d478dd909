"""What the shop has learned, as the interface gives it."""

from pydantic import BaseModel

from vivid_arm.core.engine.layout import ValveKind
from vivid_arm.core.shop.gauge_study import Component
from vivid_arm.core.zero_lash.predict import Mount
from vivid_arm.records.shapes import StartingFigures


class PooledOut(BaseModel):
    """Standard deviation within engines with 95 % limits, inches, and the worst range."""

    sd_in: float
    low_in: float
    high_in: float
    freedom: int
    groups: int
    worst_in: float


class HeldOut(BaseModel):
    """Predictions against what was found, inches; ``in_u`` about 1 where they are honest."""

    count: int
    mean_in: float
    rms_in: float
    in_u: float


class KindOut(BaseModel):
    """One kind of valves in all engines; ``verdict``: what its predictions were worth."""

    kind: ValveKind
    spread: PooledOut | None
    predicted: HeldOut | None
    verdict: str


class FactorOut(BaseModel):
    """R0 over the catalogue's ratio by how the rockers stand, from so many engines."""

    mount: Mount
    words: str
    mean: float
    mean_u: float
    spread: float
    engines: int


class HandOut(BaseModel):
    """A person's hand: scatter of one feel, how far short its zero lies, inches."""

    person: str
    engines: int
    scatter_in: float
    short_in: float
    short_u_in: float


class VarianceOut(BaseModel):
    """A part of a reading's scatter, inches; ``words`` what it is, ``told`` if it can be told."""

    component: Component
    words: str
    sd_in: float
    most_in: float | None
    told: bool


class OwnOut(BaseModel):
    """What one person or tool reads like, inches."""

    name: str
    readings: int
    offset_in: float | None
    offset_u_in: float | None
    repeat_in: float | None
    repeat_low_in: float | None
    repeat_high_in: float | None


class StudyOut(BaseModel):
    """The crossed gauge study; ``open`` says how to learn what it cannot tell yet."""

    readings: int
    valves: int
    gauge_in: float
    variances: list[VarianceOut]
    persons: list[OwnOut]
    tools: list[OwnOut]
    open: str


class LearnedOut(BaseModel):
    """What the shop has learned; ``missing`` engines were never worked out."""

    engines: int
    missing: int
    kinds: list[KindOut]
    factors: list[FactorOut]
    hands: list[HandOut]
    study: StudyOut | None
    method: str


class StartingOut(BaseModel):
    """What a build may start from, and in words what that is; empty where nothing is known."""

    figures: StartingFigures
    words: list[str]
