"""What changed since the last known rod, and the zero-lash length to expect from it.

Signs are for "this number went up by one unit". Common practice; along the
pushrod, its angle neglected.

Source: as said above; the lever of the rocker is statics.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from math import sqrt
from typing import Literal

from vivid_arm.core.entry.instruments import rectangular_u_in
from vivid_arm.core.errors import InputError
from vivid_arm.core.words import Saying, figure, say
from vivid_arm.core.zero_lash.bracket import USUAL_FEELING, Feeling, check_ratio

Mount = Literal["stud", "pedestal", "shaft", "shaft_adjustable", "stands"]
Change = Literal["base_circle", "seat_height", "deck", "head", "gasket", "stem", "stand"]

MOUNTS: dict[Mount, Saying] = {
    "stud": Saying("Stud, adjustable"),
    "pedestal": Saying("Pedestal, fixed"),
    "shaft": Saying("Shaft, fixed"),
    "shaft_adjustable": Saying("Shaft, adjustable"),
    "stands": Saying("Stands with shims"),
}
CHANGES: dict[Change, Saying] = {
    "base_circle": Saying("Base circle diameter, greater by"),
    "seat_height": Saying("Lifter seat, higher by"),
    "deck": Saying("Block deck, milled by"),
    "head": Saying("Head, milled by"),
    "gasket": Saying("Gasket, thinner by"),
    "stem": Saying("Valve stem tip, taller by"),
    "stand": Saying("Rocker stand or shim, raised by"),
}
MOST_CHANGE_IN = 0.5
SECOND_LOOK_IN = 0.040


@dataclass(frozen=True)
class Amount:
    """How much a dimension changed and the half-width it is known to, inches."""

    by_in: float
    within_in: float = 0.0

    def __post_init__(self) -> None:
        if abs(self.by_in) > MOST_CHANGE_IN or not 0 <= self.within_in <= MOST_CHANGE_IN:
            raise InputError(
                "changes",
                say(
                    "A change of {by} ± {within} in is more than {most_change_in} in",
                    by=figure(self.by_in, "g"),
                    within=figure(self.within_in, "g"),
                    most_change_in=figure(MOST_CHANGE_IN, "g"),
                ),
                received=self.by_in,
                expected=say(
                    "-{most} to {most}",
                    most=figure(MOST_CHANGE_IN, "g"),
                ),
                remedy=say("Give the difference between old and new, not the dimension itself"),
                code="out_of_range",
            )


@dataclass(frozen=True)
class ChangeTerm:
    """One change's part in the prediction, inches."""

    change: Change
    factor: float
    by_in: float

    @property
    def effect_in(self) -> float:
        return self.factor * self.by_in


@dataclass(frozen=True)
class Prediction:
    """The zero-lash length to expect, with its standard uncertainty, inches."""

    zero_lash_in: float
    u_in: float
    terms: tuple[ChangeTerm, ...]


def factor(change: Change, mount: Mount, ratio: float) -> float:
    """What the zero-lash length moves when a dimension goes up by one.

    A stud-mounted rocker follows the valve tip (geometry kept); every other
    fulcrum is fixed to the head.

    >>> factor("stem", "stud", 1.6), factor("stem", "pedestal", 1.6)
    (1.0, -0.625)
    >>> factor("stand", "shaft", 1.6), factor("stand", "stud", 1.6)
    (1.625, 0.0)
    """
    check_ratio(ratio)
    if change == "base_circle":
        return -0.5
    if change == "stem":
        return 1.0 if mount == "stud" else -1 / ratio
    if change == "stand":
        return 0.0 if mount == "stud" else 1 + 1 / ratio
    return -1.0


def predict(
    known_zero_lash_in: float,
    changes: Mapping[Change, Amount],
    mount: Mount,
    ratio: float,
    known_within_in: float = 0.0,
    feeling: Feeling = USUAL_FEELING,
) -> Prediction:
    """The zero-lash length after some changes.

    Uncertainty: stated half-widths / sqrt(3) (GUM 4.3.7), and the catalogue
    ratio standing in for R0 where it enters; what is not stated is not counted.
    """
    terms = tuple(
        ChangeTerm(c, factor(c, mount, ratio), a.by_in) for c, a in changes.items() if a.by_in
    )
    squares = rectangular_u_in(known_within_in) ** 2
    squares += sum(
        (factor(c, mount, ratio) * rectangular_u_in(a.within_in)) ** 2 for c, a in changes.items()
    )
    by_ratio = sum(
        _ratio_slope(t.change, mount) * t.by_in / ratio * feeling.ratio_sd for t in terms
    )
    total = known_zero_lash_in + sum(t.effect_in for t in terms)
    return Prediction(total, sqrt(squares + by_ratio**2), terms)


def _ratio_slope(change: Change, mount: Mount) -> float:
    """d(factor) / d(ln R0), times R0: how the ratio's relative error enters."""
    if mount == "stud":
        return 0.0
    return {"stem": 1.0, "stand": -1.0}.get(change, 0.0)
