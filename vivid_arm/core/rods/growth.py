"""Hot or cold: how the engine's growth moves the preload.

With the cam's axis as datum the fulcrum and the valve seat rise with block and
head, the tip also by the valve's own growth, the rod and what stands below it by
their own. The needed length moves by dFulcrum (1 + 1/R0) - dTip/R0, and preload
by the growth of rod and lifter less that.

Source: linear expansion; coefficients from handbooks, as said beside them; the lever is statics.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from math import sqrt
from typing import Any, Literal, get_args

import numpy as np

from vivid_arm.core.arrays import Floats
from vivid_arm.core.engine.layout import ValveKind
from vivid_arm.core.errors import InputError, within
from vivid_arm.core.words import Saying, say

Material = Literal["steel", "iron", "aluminium"]
PartName = Literal["block", "head", "seat", "intake_valve", "exhaust_valve", "rod", "lifter"]
PART_NAMES: tuple[PartName, ...] = get_args(PartName)

EXPANSION: dict[Material, tuple[float, float]] = {
    "steel": (11e-6, 12e-6),
    "iron": (10e-6, 12e-6),
    "aluminium": (21e-6, 24e-6),
}
"""Coefficients of linear expansion, per kelvin, from and to: handbook values."""

PARTS: dict[PartName, Saying] = {
    "block": Saying("Block, cam axis to deck"),
    "head": Saying("Head, deck to fulcrum"),
    "seat": Saying("Head, deck to valve seat"),
    "intake_valve": Saying("Intake valve, seat to tip"),
    "exhaust_valve": Saying("Exhaust valve, seat to tip"),
    "rod": Saying("Pushrod"),
    "lifter": Saying("Cam and lifter, axis to seat"),
}
_HIGHEST_IN, _HOTTEST_K = 16.0, 900.0


@dataclass(frozen=True)
class Part:
    """One part of the stack: height along the rod (inches), material, rise of its mean (K).

    ``within_in`` and ``within_k`` are the half-widths those two are known to.
    Raises InputError outside 0 to 16 in and -100 to 900 K.
    """

    height_in: float
    material: Material
    rise_k: float
    within_in: float = 0.0
    within_k: float = 0.0

    def __post_init__(self) -> None:
        within("height_in", say("Height of the part"), self.height_in, 0.0, _HIGHEST_IN, " in")
        within("within_in", say("Height known within"), self.within_in, 0.0, _HIGHEST_IN, " in")
        within("rise_k", say("Rise of temperature"), self.rise_k, -100.0, _HOTTEST_K, " K")
        within("within_k", say("Temperature known within"), self.within_k, 0.0, _HOTTEST_K, " K")

    @property
    def expansion(self) -> float:
        """The middle of the material's handbook range, per kelvin."""
        return sum(EXPANSION[self.material]) / 2

    @property
    def free_in(self) -> float:
        """Growth of the part by itself: expansion x height x rise, inches.

        >>> round(Part(5.0, "aluminium", 70.0).free_in, 6)
        0.007875
        """
        return self.expansion * self.height_in * self.rise_k

    @property
    def u_in(self) -> float:
        """Standard uncertainty of that growth; every range counts as rectangular (GUM 4.3.7)."""
        low, high = EXPANSION[self.material]
        parts = (
            self.height_in * self.rise_k * (high - low) / 2,
            self.expansion * self.rise_k * self.within_in,
            self.expansion * self.height_in * self.within_k,
        )
        return sqrt(sum(p * p for p in parts) / 3)


Stack = Mapping[PartName, Part]


def starting_stack(block: Material, head: Material, rod_in: float = 7.4) -> dict[PartName, Part]:
    """Usual heights and temperatures for a choice of materials; every figure is to be edited.

    Rises are of a part's mean over a 20 °C bench with coolant and oil near 95 °C.
    Common practice, no published source: heights within 0.3 in, rises within 15 K
    (valves 40 K).
    """
    return {
        "block": Part(5.0, block, 70.0, 0.3, 15.0),
        "head": Part(5.2, head, 75.0, 0.3, 15.0),
        "seat": Part(0.3, head, 80.0, 0.1, 15.0),
        "intake_valve": Part(4.9, "steel", 100.0, 0.2, 40.0),
        "exhaust_valve": Part(4.9, "steel", 230.0, 0.2, 40.0),
        "rod": Part(round(rod_in, 3), "steel", 75.0, 0.05, 15.0),
        "lifter": Part(2.2, "steel", 70.0, 0.3, 15.0),
    }


def shares(kind: ValveKind, ratio: float) -> dict[PartName, float]:
    """What an inch of growth of each part does to a valve's preload, with R0 = ``ratio``.

    The block lifts fulcrum and tip together: -(1 + 1/R0) + 1/R0 = -1.
    """
    return {
        "block": -1.0,
        "head": -(1 + 1 / ratio),
        "seat": 1 / ratio,
        f"{kind}_valve": 1 / ratio,  # type: ignore[dict-item]
        "rod": 1.0,
        "lifter": 1.0,
    }


READ_U_IN = 0.002
"""Standard uncertainty of a change read hot and cold on the engine, inches: common practice."""


@dataclass(frozen=True)
class GrowthTerm:
    """One part's share in the change of preload, inches."""

    part: PartName
    free_in: float
    share: float
    u_in: float

    @property
    def value_in(self) -> float:
        return self.share * self.free_in


@dataclass(frozen=True)
class Growth:
    """Change of a kind's preload from cold to hot (inches), its terms, standard uncertainty.

    ``read_in``: the change as the builder read it on the engine, which then counts instead.
    """

    terms: tuple[GrowthTerm, ...]
    ratio_u_in: float
    read_in: float | None = None

    @property
    def stack_in(self) -> float:
        """What the stack as entered gives."""
        return sum(t.value_in for t in self.terms)

    @property
    def change_in(self) -> float:
        return self.stack_in if self.read_in is None else self.read_in

    @property
    def fit(self) -> float | None:
        """What every part's growth is multiplied by to give what was read; None where no scale
        does, or nothing was read."""
        if self.read_in is None or self.read_in * self.stack_in <= 0:
            return None
        return self.read_in / self.stack_in

    @property
    def u_in(self) -> float:
        if self.read_in is not None:
            return READ_U_IN
        return sqrt(sum(t.u_in**2 for t in self.terms) + self.ratio_u_in**2)


def growth(stack: Stack, kind: ValveKind, ratio: float, ratio_half_width: float = 0.0) -> Growth:
    """Cold-to-hot change of preload for a kind of valve, first order in every figure.

    ``ratio_half_width`` is the relative half-width R0 is known to. Terms count as
    independent. Raises InputError when a part is missing.
    """
    own = shares(kind, ratio)
    missing = [name for name in own if name not in stack]
    if missing:
        raise InputError(
            "growth",
            say("{parts} is missing from the stack", parts=PARTS[missing[0]]),
            remedy=say("Enter it"),
        )
    terms = tuple(
        GrowthTerm(name, stack[name].free_in, share, abs(share) * stack[name].u_in)
        for name, share in own.items()
    )
    lever = stack["head"].free_in - stack["seat"].free_in - stack[_valve(kind)].free_in
    ratio_u = abs(lever) / ratio * ratio_half_width / sqrt(3)
    return Growth(terms, ratio_u)


def _valve(kind: ValveKind) -> PartName:
    return "intake_valve" if kind == "intake" else "exhaust_valve"


def simulate_growth(
    stack: Stack,
    kind: ValveKind,
    ratio: float,
    ratio_half_width: float,
    draws: int,
    rng: np.random.Generator,
) -> Floats:
    """The same change drawn ``draws`` times, every figure from its rectangle, without linearising.

    Gives (draws,) inches: the check on ``growth``.
    """
    drawn_ratio = ratio * (1 + rng.uniform(-ratio_half_width, ratio_half_width, draws))
    total = np.zeros(draws)
    inverse = 1 / drawn_ratio
    for name, share in shares(kind, ratio).items():
        part = stack[name]
        free = (
            rng.uniform(*EXPANSION[part.material], draws)
            * (part.height_in + rng.uniform(-part.within_in, part.within_in, draws))
            * (part.rise_k + rng.uniform(-part.within_k, part.within_k, draws))
        )
        if name == "head":
            total -= (1 + inverse) * free
        elif abs(share) == 1.0:
            total += share * free
        else:
            total += inverse * free
    return total


def stack_of(figures: Mapping[str, Mapping[str, Any]]) -> dict[PartName, Part]:
    """A stack from plain figures as they are kept. Raises InputError for any that cannot be."""
    return {name: Part(**figures[name]) for name in PART_NAMES if name in figures}
