"""Ways of measuring beside the bracket, and one zero-lash length from several of them.

Every method gives a zero-lash length, a preload, or both, with a standard
uncertainty made of named components (JCGM 100:2008, GUM). Components that two
measurements share, such as the ratio or one caliper, make them correlated.
R0 is the rocker's ratio near closed; until the geometry is known the catalogue
ratio stands in for it, with its own uncertainty.

Source: as above; the ways themselves are common practice.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import sqrt
from statistics import median
from typing import Literal

import numpy as np

from vivid_arm.core.entry.instruments import rectangular_u_in
from vivid_arm.core.entry.lengths import format_small
from vivid_arm.core.errors import InputError, Suggestion, within
from vivid_arm.core.words import Saying, figure, say
from vivid_arm.core.zero_lash.bracket import (
    USUAL_FEELING,
    Bracket,
    Feeling,
    Trial,
    check_ratio,
    read_bracket,
)

MeasuringMethod = Literal["extend", "turns", "indicator", "gap_short", "gap_bottomed"]
Method = Literal["bracket"] | MeasuringMethod


METHODS: dict[Method, Saying] = {
    "bracket": Saying("Bracket"),
    "extend": Saying("Extend in place"),
    "turns": Saying("Fastener turns"),
    "indicator": Saying("Indicator on the rod"),
    "gap_short": Saying("Feeler gap, short rod"),
    "gap_bottomed": Saying("Feeler gap, lifter bottomed"),
}


PITCHES: tuple[tuple[str, float, Saying], ...] = (
    ("5/16-18", 1 / 18, Saying("ASME B1.1")),
    ("3/8-24", 1 / 24, Saying("ASME B1.1")),
    ("7/16-20", 1 / 20, Saying("ASME B1.1")),
    ("M8 × 1.25", 1.25 / 25.4, Saying("ISO 261")),
)


USUAL_FASTENER_PITCH_IN = round(1 / 18, 6)
"""5/16-18 UNC (ASME B1.1), what a build starts from."""
TOUCH_SD_IN = 0.001


TOUCH_FREEDOM = 4


ODD_REPEAT_IN = 0.006


COUNT_HALF_WIDTH_TURNS = 0.125


MOST_TURNS = 5.0


MOST_REPEATS = 20


@dataclass(frozen=True)
class Component:
    """One source of uncertainty: a key that says whether it is shared, its share in inches.

    ``u_in`` carries the sign of its effect on the zero-lash length, so that two
    measurements with the same key move together or against each other.
    """

    key: str
    u_in: float
    words: str


@dataclass(frozen=True)
class Source:
    """The instrument or rod behind a figure; what is not stated is not counted.

    ``accuracy_in`` is the half-width of the maker's limits, ``resolution_in``
    one step of the display.
    """

    key: str = ""
    accuracy_in: float = 0.0
    resolution_in: float = 0.0

    def components(self, sign: float = 1.0) -> tuple[Component, ...]:
        """Accuracy / sqrt(3), shared by all it measures, and resolution / sqrt(12), its own."""
        found = []
        if self.accuracy_in:
            u = sign * rectangular_u_in(self.accuracy_in)
            found.append(
                Component(
                    say("instrument {key}", key=self.key), u, say("accuracy of the instrument")
                )
            )
        if self.resolution_in:
            u = sign * self.resolution_in / sqrt(12)
            found.append(Component("", u, say("resolution of the instrument")))
        return tuple(found)


@dataclass(frozen=True)
class Measure:
    """What one measurement gives: lengths in inches, components of its uncertainty.

    ``number`` is its place in the log (0 for the bracket). ``plain_in`` is the
    preload by the plain rule of the trade where that differs.
    """

    method: Method
    number: int
    zero_lash_in: float | None
    preload_in: float | None
    components: tuple[Component, ...]
    plain_in: float | None = None

    @property
    def u_in(self) -> float:
        """Standard uncertainty: components in quadrature (GUM 5.1.2)."""
        return sqrt(sum(c.u_in**2 for c in self.components))

    @property
    def name(self) -> str:
        words = say(METHODS[self.method])
        return f"{words} ({self.number})" if self.number else words


def from_bracket(
    trials: Sequence[Trial],
    bracket: Bracket,
    ratio: float,
    source: Source,
    feeling: Feeling = USUAL_FEELING,
) -> Measure | None:
    """The bracket as one measurement, its dependence on the ratio taken apart; None while open."""
    if bracket.estimate_in is None or bracket.u_in is None:
        return None
    share = 0.0
    if bracket.gaps:
        step = 0.01
        ends = [read_bracket(trials, ratio * k, feeling).estimate_in for k in (1 - step, 1 + step)]
        if None not in ends:
            share = (ends[1] - ends[0]) / (2 * step) * feeling.ratio_sd  # type: ignore[operator]
    share = float(np.clip(share, -bracket.u_in, bracket.u_in))
    rest = sqrt(max(bracket.u_in**2 - share**2, 1e-12))
    parts = (Component("", rest, say("feel and gaps")), *source.components())
    if share:
        parts = (Component("ratio", share, say("ratio near closed")), *parts)
    return Measure("bracket", 0, bracket.estimate_in, None, parts)


def extended(readings_in: Sequence[float], source: Source, number: int = 1) -> Measure:
    """A rod extended in place until it just touches, taken out and measured, once or more.

    Zero lash = mean of the readings. Repeats: their scatter, pooled with a usual
    0.001 of touch (common practice, worth 4 degrees of freedom), over sqrt(n)
    (GUM 4.2.3 and 4.2.4). Raises InputError for no reading or more than 20.
    """
    n = len(readings_in)
    if not 1 <= n <= MOST_REPEATS:
        raise InputError(
            "readings",
            say("Readings: {n} given", n=n),
            received=n,
            expected=say("1 to {most_repeats}", most_repeats=MOST_REPEATS),
            remedy=say("Type each reading, parted by blanks"),
            code="empty" if n == 0 else "out_of_range",
        )
    mean = sum(readings_in) / n
    squares = sum((x - mean) ** 2 for x in readings_in)
    pooled = (TOUCH_FREEDOM * TOUCH_SD_IN**2 + squares) / (TOUCH_FREEDOM + n - 1)
    touch = Component("", sqrt(pooled / n), say("touch, from the repeats") if n > 1 else "touch")
    return Measure("extend", number, mean, None, (touch, *source.components()))


def odd_repeat(readings_in: Sequence[float]) -> float | None:
    """By how much the oddest repeat differs from their median, inches; None when they agree.

    Repeats of a touch scatter by about 0.001; 0.006 is no scatter (common practice).
    """
    if len(readings_in) < 2:
        return None
    middle = median(readings_in)
    worst = max((x - middle for x in readings_in), key=abs)
    return worst if abs(worst) > ODD_REPEAT_IN else None


def lever_in(drop_in: float, ratio: float) -> float:
    """How far a rod is pushed when the fulcrum drops: drop x (1 + 1/R0), inches.

    The rocker pivots about the valve tip, so its rod end is carried further than
    its fulcrum (geometry of the lever).

    >>> round(lever_in(1.25 * 1.25 / 25.4, 1.8677), 4)
    0.0945
    """
    check_ratio(ratio)
    return drop_in * (1 + 1 / ratio)


def fastener_turns(
    turns: float,
    pitch_in: float,
    ratio: float,
    rod_in: float | None = None,
    rod: Source | None = None,
    number: int = 1,
    feeling: Feeling = USUAL_FEELING,
    *,
    plain_rule: bool = False,
    bolts: Sequence[float] = (),
) -> Measure:
    """Turns of the fastener from the first drag on the spun rod to seated.

    Preload = turns x pitch x (1 + 1/R0); the plain rule, turns x pitch, beside
    it, or in its place where the window is held by it. Zero lash = rod less what the lever
    pushes. The start is felt to an eighth of a turn (common practice). ``bolts``: turns of the
    bolts of one rocker, whose mean is one reading; half their difference is one more
    uncertainty. Raises InputError for turns outside 0 to 5.
    """
    apart = (max(bolts) - min(bolts)) / 2 if bolts else 0.0
    within(
        "turns", say("Fastener turns"), turns, 0, MOST_TURNS,
        remedy=say("Count from the first drag to seated, not to full torque"),
        suggestion=Suggestion(f"{turns / 100:g}", say("The decimal point is missing"))
        if turns >= 25
        else None,
    )  # fmt: skip
    plain = turns * pitch_in
    pushed = lever_in(plain, ratio)
    parts = (
        Component(
            "", lever_in(pitch_in, ratio) * rectangular_u_in(COUNT_HALF_WIDTH_TURNS),
            say("first drag, to an eighth of a turn"),
        ),
        *([Component("", lever_in(apart * pitch_in, ratio) / sqrt(3), say("two bolts, read apart"))]
          if apart else []),
        Component("ratio", plain / ratio * feeling.ratio_sd, say("ratio near closed")),
        *(rod.components() if rod else ()),
    )  # fmt: skip
    preload = plain if plain_rule else pushed
    return Measure("turns", number, _less(rod_in, pushed), preload, parts, plain)


def indicator_push(
    push_in: float,
    gauge: Source,
    rod_in: float | None = None,
    rod: Source | None = None,
    number: int = 1,
) -> Measure:
    """An indicator in line with the rod, set at zero lash, read when seated: the preload."""
    touch = Component("", TOUCH_SD_IN, say("zero lash felt at the start"))
    parts = (touch, *gauge.components(-1.0), *(rod.components() if rod else ()))
    return Measure("indicator", number, _less(rod_in, push_in), push_in, parts)


def gap_short(
    gap_in: float,
    rod_in: float,
    ratio: float,
    rod: Source | None = None,
    number: int = 1,
    feeling: Feeling = USUAL_FEELING,
) -> Measure:
    """A rod that is too short: gap / R0 is what is missing to zero lash."""
    check_ratio(ratio)
    missing = gap_in / ratio
    parts = (*_gap_parts(missing, ratio, 1.0, feeling), *(rod.components() if rod else ()))
    return Measure("gap_short", number, rod_in + missing, None, parts)


def gap_bottomed(
    gap_in: float,
    travel_in: float,
    ratio: float,
    rod_in: float | None = None,
    rod: Source | None = None,
    number: int = 1,
    feeling: Feeling = USUAL_FEELING,
) -> Measure:
    """A rod in place on an empty, bottomed lifter: gap / R0 is how far it sits off its bottom.

    Preload = travel - gap / R0. The travel is taken as stated; its tolerance is
    not counted. Raises InputError when the gap is more than the travel allows.
    """
    check_ratio(ratio)
    off_bottom = gap_in / ratio
    preload = travel_in - off_bottom
    if preload < 0:
        raise InputError(
            "gap",
            say(
                "Gap {gap} is more than {travel} of travel allows at ratio {ratio}",
                gap=format_small(gap_in),
                travel=format_small(travel_in),
                ratio=figure(ratio, ".3g"),
            ),
            received=gap_in,
            expected=say("at most {travel}", travel=format_small(travel_in * ratio)),
            remedy=say("The rod is short of zero lash: record it as a gap with a short rod"),
            code="out_of_range",
        )
    parts = (*_gap_parts(off_bottom, ratio, 1.0, feeling), *(rod.components() if rod else ()))
    return Measure("gap_bottomed", number, _less(rod_in, preload), preload, parts)


def _gap_parts(
    moved_in: float, ratio: float, sign: float, feeling: Feeling
) -> tuple[Component, Component]:
    return (
        Component("", sign * feeling.gap_sd_in / ratio, say("feeler gap")),
        Component("ratio", -sign * moved_in * feeling.ratio_sd, say("ratio near closed")),
    )


def _less(rod_in: float | None, preload_in: float) -> float | None:
    return None if rod_in is None else rod_in - preload_in
