"""Rods cut to length from tube: what pressed tips add, the cut list, the check after pressing.

Source: first fit, longest first, and its bound are textbook bin packing; tips measured from a
sample are common practice.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil

from vivid_arm.core.entry.lengths import format_length
from vivid_arm.core.errors import InputError
from vivid_arm.core.words import figure, say


@dataclass(frozen=True)
class Tips:
    """What two pressed tips add to a tube, from a sample: overall less tube, inches."""

    sample_overall_in: float
    sample_tube_in: float

    def __post_init__(self) -> None:
        if not 0 <= self.added_in <= 2:
            raise InputError(
                "sample_tube_in",
                say(
                    "The tips would add {added} in to the tube", added=figure(self.added_in, ".4f")
                ),
                received=self.sample_tube_in,
                expected=say("0 to 2 in less than the finished sample"),
                remedy=say("Measure the sample over its balls, and its bare tube before pressing"),
                code="out_of_range",
            )

    @property
    def added_in(self) -> float:
        return self.sample_overall_in - self.sample_tube_in


@dataclass(frozen=True)
class Cut:
    """One piece of tube to cut: for which valve, finished and tube length (inches), bar number."""

    valve: str
    finished_in: float
    tube_in: float
    bar: int


@dataclass(frozen=True)
class CutList:
    """Cuts in the order of the bars, how many bars, what is left of each, bars at the least."""

    cuts: tuple[Cut, ...]
    left_in: tuple[float, ...]
    least_bars: int

    @property
    def bars(self) -> int:
        return len(self.left_in)


def cut_list(
    finished: Sequence[tuple[str, float]], tips: Tips, bar_in: float, kerf_in: float
) -> CutList:
    """Tube lengths for (valve, finished length) and how to lay them on bars of ``bar_in``.

    Tube = finished length less what the tips add; every piece costs one saw kerf. Laid
    first fit, longest first; ``least_bars`` is the bound no laying can beat. Raises
    InputError when a piece is longer than a bar.
    """
    pieces = sorted(((v, c, c - tips.added_in) for v, c in finished), key=lambda p: -p[2])
    for valve, length, tube in pieces:
        if not 0 < tube <= bar_in:
            raise InputError(
                "bar_in",
                say(
                    "{valve} needs {tube} of tube for {length}",
                    valve=valve,
                    tube=format_length(tube),
                    length=format_length(length),
                ),
                received=bar_in,
                expected=say("bars of at least {tube}", tube=format_length(tube)),
                remedy=say("Check the bar's length and what the tips add"),
                code="out_of_range",
            )
    left: list[float] = []
    cuts = []
    for valve, length, tube in pieces:
        bar = next((i for i, rest in enumerate(left) if tube <= rest + 1e-9), len(left))
        if bar == len(left):
            left.append(bar_in)
        left[bar] = max(0.0, left[bar] - tube - kerf_in)
        cuts.append(Cut(valve, length, tube, bar + 1))
    needed = sum(tube + kerf_in for _, _, tube in pieces)
    least = ceil(needed / (bar_in + kerf_in) - 1e-9)
    return CutList(tuple(sorted(cuts, key=lambda c: c.bar)), tuple(left), least)


def after_pressing(wanted_in: float, measured_in: float, tolerance_in: float) -> bool:
    """Whether a pressed rod came out within its tolerance, inches."""
    return abs(measured_in - wanted_in) <= tolerance_in + 1e-9
