"""Preload: the window, the exact length, and the lengths that can be bought.

Rod length = zero-lash length + preload; off-bottom = plunger travel - preload.

Source: the windows of the habits are common practice; the lifter maker's sheet rules.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil, floor
from typing import Literal

from vivid_arm.core.entry.lengths import check_turns, format_small
from vivid_arm.core.errors import InputError
from vivid_arm.core.words import Saying, say
from vivid_arm.core.zero_lash.methods import lever_in

Bias = Literal["longer", "shorter"]
_TOLERANCE_IN = 1e-6


@dataclass(frozen=True)
class Lifter:
    """A hydraulic lifter: closed preload window, target and plunger travel, inches.

    Raises InputError unless 0 <= low <= target <= high < travel.
    """

    low_in: float
    high_in: float
    target_in: float
    travel_in: float

    def __post_init__(self) -> None:
        low, high = format_small(self.low_in), format_small(self.high_in)
        target, travel = format_small(self.target_in), format_small(self.travel_in)
        if not 0 <= self.low_in <= self.high_in:
            raise InputError(
                "preload_low",
                say("Preload window: {low} to {high} runs backwards", low=low, high=high),
                received=self.low_in,
                expected=say("0 to {high}", high=high),
                remedy=say("The least preload comes first"),
                code="window",
            )
        if self.high_in >= self.travel_in:
            raise InputError(
                "travel",
                say(
                    "Plunger travel {travel} is not more than the most preload {high}",
                    travel=travel,
                    high=high,
                ),
                received=self.travel_in,
                expected=say("above {high}", high=high),
                remedy=say("The plunger would bottom; check the lifter maker's sheet"),
                code="window",
            )
        if not self.low_in <= self.target_in <= self.high_in:
            raise InputError(
                "preload_target",
                say(
                    "Preload target {target} is outside the window {low} to {high}",
                    target=target,
                    low=low,
                    high=high,
                ),
                received=self.target_in,
                expected=say("{low} to {high}", low=low, high=high),
                remedy=say("Aim inside the window"),
                code="window",
            )


TurnsRule = Literal["plain", "lever"]
TURNS_RULES: dict[TurnsRule, Saying] = {
    "plain": Saying("plain rule, turns × pitch"),
    "lever": Saying("lever rule, turns × pitch × (1 + 1/R0)"),
}


@dataclass(frozen=True)
class TurnsWindow:
    """A preload window held in turns of the fastener, and the rule that makes thou of them.

    The plain rule counts what the fastener moves, the lever rule what the rod is pushed.
    """

    low: float
    high: float
    rule: TurnsRule

    def by(self, rule: TurnsRule, pitch_in: float, ratio: float) -> tuple[float, float]:
        """Its ends by a rule, inches of preload.

        >>> half = TurnsWindow(0.5, 1.5, "lever").by("lever", 0.05, 1.6)
        >>> [round(x, 5) for x in half]
        [0.04063, 0.12188]
        """
        return turns_in(self.low, rule, pitch_in, ratio), turns_in(self.high, rule, pitch_in, ratio)

    def lifter(self, pitch_in: float, ratio: float, travel_in: float) -> Lifter:
        """The window in inches by its own rule, aimed at its middle. Raises InputError."""
        check_turns(self.low)
        check_turns(self.high)
        low, high = self.by(self.rule, pitch_in, ratio)
        return Lifter(round(low, 6), round(high, 6), round((low + high) / 2, 6), travel_in)


def turns_in(turns: float, rule: TurnsRule, pitch_in: float, ratio: float) -> float:
    """What turns of the fastener stand for by a rule, inches of preload."""
    return turns * (pitch_in if rule == "plain" else lever_in(pitch_in, ratio))


PreloadSchoolCode = Literal[
    "pedestal", "shaft", "long_travel", "tie_bar", "half_travel", "near_bottom"
]


@dataclass(frozen=True)
class PreloadSchool:
    """A preload habit of the trade; every one is common practice.

    Figures are inches of preload, or, ``of`` being "half" or "bottom", counted from half
    the travel or up from the bottom. ``travel_in`` is the travel it is said of.
    """

    code: PreloadSchoolCode
    name: Saying
    low_in: float
    high_in: float
    target_in: float
    travel_in: float | None = None
    of: Literal["clip", "half", "bottom"] = "clip"

    def lifter(self, travel_in: float) -> Lifter:
        """The window on a lifter of ``travel_in``. Raises InputError where it does not fit.

        >>> half = next(s for s in PRELOAD_SCHOOLS if s.code == "half_travel").lifter(0.140)
        >>> round(half.low_in, 3), round(half.high_in, 3), half.target_in
        (0.06, 0.07, 0.07)
        """
        start = {"clip": 0.0, "half": travel_in / 2, "bottom": travel_in}[self.of]
        low, high, target = (start + f for f in (self.low_in, self.high_in, self.target_in))
        return Lifter(round(low, 6), round(high, 6), round(target, 6), travel_in)


PRELOAD_SCHOOLS: tuple[PreloadSchool, ...] = (
    PreloadSchool("pedestal", Saying("General, short-bolt pedestal rockers"), 0.020, 0.060, 0.040),
    PreloadSchool("shaft", Saying("General, shaft rockers"), 0.030, 0.060, 0.045),
    PreloadSchool("long_travel", Saying("Long-travel roller"), 0.050, 0.100, 0.0725, 0.200),
    PreloadSchool("tie_bar", Saying("Tie-bar performance roller"), 0.040, 0.060, 0.050),
    PreloadSchool("half_travel", Saying("Half of travel"), -0.010, 0.0, 0.0, of="half"),
    PreloadSchool(
        "near_bottom", Saying("20 thou off the bottom, cold, aluminium block"),
        -0.030, -0.010, -0.020, of="bottom",
    ),
)  # fmt: skip


USUAL_SCHOOL = PRELOAD_SCHOOLS[0]
USUAL_TRAVEL_IN = 0.140
USUAL_STOCK_STEP_IN = 0.025
"""What a build starts from (common practice)."""


def school_of(code: PreloadSchoolCode) -> PreloadSchool:
    """The habit by its code."""
    return next(s for s in PRELOAD_SCHOOLS if s.code == code)


def exact_length_in(zero_lash_in: float, target_in: float) -> float:
    """Zero-lash length plus target preload, inches.

    >>> round(exact_length_in(8.551, 0.045), 4)
    8.596
    """
    return zero_lash_in + target_in


@dataclass(frozen=True)
class RodFit:
    """One rod length on one valve, inches: preload, off-bottom, inside or not."""

    preload_in: float
    off_bottom_in: float
    inside: bool


def rod_fit(length_in: float, zero_lash_in: float, lifter: Lifter) -> RodFit:
    """What a rod of ``length_in`` gives on a valve; the window's ends count as inside."""
    preload = length_in - zero_lash_in
    inside = lifter.low_in - _TOLERANCE_IN <= preload <= lifter.high_in + _TOLERANCE_IN
    return RodFit(preload, lifter.travel_in - preload, inside)


@dataclass(frozen=True)
class Candidate:
    """A length that can be bought, against every measured valve of its group.

    ``length_in`` is in the order's convention. ``fits`` follow the order of the
    zero-lash lengths given; ``miss_in`` is the length less the exact one (the
    middle of the group's exact lengths); ``worst_miss_in`` the largest distance
    of any valve's preload from the target.
    """

    length_in: float
    fits: tuple[RodFit, ...]
    miss_in: float
    worst_miss_in: float

    @property
    def inside(self) -> bool:
        return all(f.inside for f in self.fits)

    def beyond_in(self, lifter: Lifter) -> float:
        """How far the worst of its valves is outside the window, inches; 0 inside."""
        preloads = [f.preload_in for f in self.fits]
        return max(0.0, lifter.low_in - min(preloads), max(preloads) - lifter.high_in)

    @property
    def errs(self) -> Literal["long", "short", "exact"]:
        if abs(self.miss_in) <= _TOLERANCE_IN:
            return "exact"
        return "long" if self.miss_in > 0 else "short"


@dataclass(frozen=True)
class Choice:
    """Candidates in order of length, and the one to buy (None when none fits)."""

    exact_in: float
    candidates: tuple[Candidate, ...]
    best: Candidate | None
    nearest: Candidate


def choose_length(
    zero_lash_in: Sequence[float],
    lifter: Lifter,
    step_in: float,
    bias: Bias,
    *,
    offset_in: float = 0.0,
    shelf_in: Sequence[float] = (),
    lengths_in: Sequence[float] = (),
    u_in: float = 0.0,
) -> Choice:
    """Lengths on the stock grid around the exact one, and the one to buy.

    ``shelf_in`` are lengths on the shop's own shelf, weighed beside the grid's. ``lengths_in``
    stand for the grid where not every step can be had. ``u_in``: the
    standard uncertainty of the valves; a length that misses the window by less than half of it
    is taken where none is inside.

    ``zero_lash_in`` are the measured valves of one group; ``offset_in`` is what
    the order's convention adds to the convention they were measured in. Stock
    lengths are whole multiples of ``step_in`` in the order's convention. Among
    the lengths inside every window the one with the smallest worst miss wins; a
    tie goes to ``bias``. The nearest length outside is kept on each side.
    Raises InputError without a measured valve or with a step of zero.
    """
    if not zero_lash_in:
        raise InputError("zero_lash", say("No valve of this group is measured yet"), code="empty")
    if step_in <= 0:
        raise InputError("stock_step", say("Stock step must be above zero"), received=step_in)
    middle = (min(zero_lash_in) + max(zero_lash_in)) / 2
    exact = exact_length_in(middle, lifter.target_in) + offset_in
    low = max(zero_lash_in) + lifter.low_in + offset_in
    high = min(zero_lash_in) + lifter.high_in + offset_in
    first = ceil(min(low, exact) / step_in - 1e-6) - 1
    last = floor(max(high, exact) / step_in + 1e-6) + 1
    on_grid = {round(k * step_in, 6) for k in range(first, last + 1)}
    if lengths_in:
        on_grid = {round(c, 6) for c in lengths_in}
    shelf = {round(c, 6) for c in shelf_in if first * step_in <= c <= last * step_in}
    candidates = tuple(
        _candidate(length, exact, zero_lash_in, lifter, offset_in)
        for length in sorted(on_grid | shelf)
    )
    inside = [c for c in candidates if c.inside]
    inside = inside or [c for c in candidates if c.beyond_in(lifter) <= u_in / 2]
    return Choice(
        exact,
        candidates,
        _nearest(inside, bias) if inside else None,
        _nearest(candidates, bias),
    )


def _candidate(
    length_in: float,
    exact_in: float,
    zero_lash_in: Sequence[float],
    lifter: Lifter,
    offset_in: float,
) -> Candidate:
    fits = tuple(rod_fit(length_in - offset_in, z, lifter) for z in zero_lash_in)
    worst = max(abs(f.preload_in - lifter.target_in) for f in fits)
    return Candidate(round(length_in, 6), fits, length_in - exact_in, worst)


def _nearest(candidates: Sequence[Candidate], bias: Bias) -> Candidate:
    sign = -1 if bias == "longer" else 1
    return min(candidates, key=lambda c: (round(c.worst_miss_in, 6), sign * c.length_in))
