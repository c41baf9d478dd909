"""After the rods are in: what is checked, against which limit, and what it found.

Limits are common practice or from memory and can all be edited; the makers' sheets rule.

Source: as said above, beside each check.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import hypot
from statistics import NormalDist
from typing import Literal

import numpy as np

from vivid_arm.core.engine.layout import LETTER, ValveKind
from vivid_arm.core.entry.lengths import format_small
from vivid_arm.core.errors import InputError, within
from vivid_arm.core.words import Saying, figure, say

CheckName = Literal[
    "preload", "lash", "spin", "mark_edge", "side", "end_play", "rod_to_head", "rod_to_rocker",
    "retainer", "coil", "seal", "piston", "piston_radial", "oil",
]  # fmt: skip
Scope = Literal["every", "pair"]


@dataclass(frozen=True)
class Check:
    """One check: its words, how it is made, whether every valve needs it or one of a kind.

    ``least_in`` holds the usual least value for intake and exhaust (None where the
    build's own window decides or the answer is yes or no).
    """

    name: CheckName
    title: Saying
    how: Saying
    scope: Scope
    source: Saying
    least_in: tuple[float, float] | None = None
    yes_no: bool = False
    label: str = ""


CHECKS: tuple[Check, ...] = (
    Check(
        "preload",
        Saying("Preload"),
        Saying("Fastener turns, indicator or bottomed-lifter gap, both lifters on the heel"),
        "every",
        Saying("the lifter maker's sheet, or the school chosen"),
    ),
    Check(
        "lash",
        Saying("Lash"),
        Saying("Feeler of the lash drags lightly, the next size up must not enter; hot, or cold"),
        "every",
        Saying("the cam maker's sheet"),
    ),
    Check(
        "spin",
        Saying("Rod spins before preload"),
        Saying("Between the fingers, at zero lash"),
        "every",
        Saying("common practice"),
        yes_no=True,
    ),
    Check(
        "mark_edge",
        Saying("Mark to the tip's edge"),
        Saying("Mark made again with the final rods"),
        "pair",
        Saying("common practice"),
        (0.040, 0.040),
    ),
    Check(
        "side",
        Saying("Rocker to retainer"),
        Saying("Through the whole lift"),
        "pair",
        Saying("from memory"),
        (0.030, 0.030),
    ),
    Check(
        "end_play",
        Saying("Rocker end play"),
        Saying("Pushed from side to side on its shaft, shims in"),
        "pair",
        Saying("from memory"),
        (0.005, 0.005),
    ),
    Check(
        "rod_to_head",
        Saying("Rod to head or guide"),
        Saying("Through the whole lift, all round"),
        "pair",
        Saying("common practice"),
        (0.030, 0.030),
    ),
    Check(
        "rod_to_rocker",
        Saying("Rod to rocker body"),
        Saying("Through the whole lift"),
        "pair",
        Saying("common practice"),
        (0.030, 0.030),
    ),
    Check(
        "retainer",
        Saying("Retainer to guide"),
        Saying("At full lift"),
        "pair",
        Saying("from memory"),
        (0.060, 0.060),
    ),
    Check(
        "coil",
        Saying("Spring coil clearance"),
        Saying("Total between the coils at full lift"),
        "pair",
        Saying("common practice"),
        (0.060, 0.060),
    ),
    Check(
        "seal",
        Saying("Retainer to seal"),
        Saying("At full lift"),
        "pair",
        Saying("from memory"),
        (0.060, 0.060),
    ),
    Check(
        "piston",
        Saying("Piston to valve, axial"),
        Saying("Clay at its thinnest, or the least of an indicator table around TDC; solid lifter"),
        "pair",
        Saying("common practice, from memory"),
        (0.080, 0.100),
    ),
    Check(
        "piston_radial",
        Saying("Piston to valve, radial"),
        Saying("Clay beside the valve's rim"),
        "pair",
        Saying("common practice, from memory"),
        (0.050, 0.050),
    ),
    Check(
        "oil",
        Saying("Oil seen at the rocker"),
        Saying("Oil system primed, engine turned by hand"),
        "every",
        Saying("common practice"),
        yes_no=True,
    ),
)
BY_NAME: Mapping[str, Check] = {c.name: c for c in CHECKS}
_HIGHEST_IN = 1.0


@dataclass(frozen=True)
class Limit:
    """What a value must lie in, inches; an open end is None. Where it comes from."""

    low_in: float | None
    high_in: float | None
    source: str
    own: bool = False

    def __post_init__(self) -> None:
        ends = [v for v in (self.low_in, self.high_in) if v is not None]
        for end in ends:
            within("limit", say("Limit"), end, 0, _HIGHEST_IN, " in")
        if len(ends) == 2 and ends[0] > ends[1]:
            raise InputError(
                "limit", say("The limits run backwards"), remedy=say("The least comes first")
            )


def usual_limit(check: Check, kind: ValveKind) -> Limit | None:
    """The trade's limit for a kind of valve; None where the build's own figures decide."""
    if check.least_in is None:
        return None
    return Limit(check.least_in[0 if kind == "intake" else 1], None, say(check.source))


SURE = 0.9
"""A finding lies surely on its side of a limit with this chance: as rods in hand are kept."""


@dataclass(frozen=True)
class Judged:
    """A check's finding: passed, by what margin (inches; None for yes or no), against what.

    ``sure``: whether the reading is good enough to say so; at the limit it is not.
    """

    passed: bool
    margin_in: float | None
    limit: Limit | None
    sure: bool = True


def judge(value_in: float, limit: Limit, u_in: float = 0.0) -> Judged:
    """A measured value against its limit: the margin is the distance to the nearer end.

    ``u_in``: the reading's standard uncertainty, where it is known.

    >>> judge(0.095, Limit(0.080, None, "")).margin_in
    0.015
    >>> [judge(v, Limit(0.020, 0.060, ""), 0.0047).sure for v in (0.050, 0.0548, 0.065, 0.070)]
    [True, False, False, True]
    """
    margins = []
    if limit.low_in is not None:
        margins.append(value_in - limit.low_in)
    if limit.high_in is not None:
        margins.append(limit.high_in - value_in)
    margin = round(min(margins), 6) if margins else None
    sure = margin is None or abs(margin) >= NormalDist().inv_cdf(SURE) * u_in
    return Judged(margin is None or margin >= -1e-6, margin, limit, sure)


def judge_answer(yes: bool) -> Judged:
    """A check answered by yes or no: yes passes."""
    return Judged(yes, None, None)


def needed(
    kinds: Mapping[str, ValveKind], *, solid: bool, shaft: bool
) -> dict[CheckName, tuple[str, ...]]:
    """Which valves each check asks for: all, or (``pair``) the first intake and exhaust.

    ``kinds`` maps valve names to their kind in the order of the work. End play is a rocker's on a
    ``shaft``.
    """
    first = tuple(
        next((n for n, k in kinds.items() if k == kind), "") for kind in ("intake", "exhaust")
    )
    left_out = {"preload" if solid else "lash", "" if shaft else "end_play"}
    return {
        c.name: tuple(kinds) if c.scope == "every" else tuple(n for n in first if n)
        for c in CHECKS
        if c.name not in left_out
    }


@dataclass(frozen=True)
class Closest:
    """Where valve and piston come closest: clearance (inches), crank angle (degrees)."""

    clearance_in: float
    crank_deg: float


def closest(table: Sequence[tuple[float, float]]) -> Closest:
    """The least of an indicator table of (crank degrees from TDC, clearance in inches).

    A parabola through the lowest reading and its neighbours where it has both, never
    above the lowest reading. Raises InputError with fewer than three readings, angles out
    of order, or the least at an end of the table, where the real one may lie outside.
    """
    if len(table) < 3:
        raise InputError(
            "table",
            say(
                "{table} readings do not show where valve and piston come closest", table=len(table)
            ),
            expected=say("at least 3 readings"),
            remedy=say("Read every 2 or 5 degrees from about 15 before to 15 after TDC"),
            code="too_few",
        )
    angles, gaps = np.array(table, dtype=np.float64).T
    if np.any(np.diff(angles) <= 0):
        raise InputError(
            "table", say("The crank angles do not rise"), remedy=say("Before TDC is below zero"),
            code="not_rising",
        )  # fmt: skip
    at = int(np.argmin(gaps))
    if at in (0, len(table) - 1):
        raise InputError(
            "table",
            say(
                "The least clearance is at the end of the table, {angles}°",
                angles=figure(angles[at], "g"),
            ),
            received=f"{angles[at]:g}",
            remedy=say("Read on in that direction until it opens again"),
            code="open_end",
        )
    near = slice(at - 1, at + 2)
    a, b, _ = np.polyfit(angles[near] - angles[at], gaps[near] - gaps[at], 2)
    if a <= 0:
        return Closest(float(gaps[at]), float(angles[at]))
    turn = -b / (2 * a)
    return Closest(float(gaps[at] - b * b / (4 * a)), float(angles[at] + turn))


AGREE_U_IN = 0.002
"""Standard uncertainty between what two tools say of one preload: a few thou in every shop
(common practice)."""
_APART = 3.5
_ALIKE = 3
"""So many valves at least are off alike before it is the engine's."""


@dataclass(frozen=True)
class Apart:
    """Preloads found against those that rods and zero lash give, where they cannot both be.

    ``by_in``: what all are more alike (inches), None where they are not; ``valves``: those that
    are apart alone, from the rest too.
    """

    by_in: float | None
    valves: tuple[str, ...]


@dataclass(frozen=True)
class Twice:
    """A valve's preload told twice: found less given, inches, and its standard uncertainty."""

    valve: str
    more_in: float
    u_in: float


def told_twice(
    valve: str, found_in: float, found_u_in: float, given_in: float, given_u_in: float
) -> Twice:
    """A preload found beside what the rod fitted and zero lash give, inches."""
    return Twice(valve, found_in - given_in, hypot(found_u_in, given_u_in, AGREE_U_IN))


def apart(told: Sequence[Twice]) -> Apart:
    """Where what is found cannot be what is given.

    Half of a reading's uncertainty is taken as the hand's own, the same on every valve.

    >>> apart([Twice("1I", 0.022, 0.005), Twice("1E", 0.007, 0.005)])
    Apart(by_in=None, valves=('1I',))
    >>> apart([Twice(v, 0.017, 0.005) for v in ("1I", "1E", "2I", "2E")])
    Apart(by_in=0.017, valves=())
    """
    by: float | None = None
    if len(told) >= _ALIKE:
        u = float(np.sqrt(np.mean([t.u_in**2 for t in told])))
        middle = float(np.median([t.more_in for t in told]))
        by = middle if abs(middle) > _APART * hypot(u / len(told) ** 0.5, u / 2) else None
    alone = [
        t.valve for t in told
        if min(abs(t.more_in), abs(t.more_in - (by or 0.0))) > _APART * t.u_in
    ]  # fmt: skip
    return Apart(by, tuple(alone))


DISAGREE_IN = 0.010
"""Two ways of reading one clearance that differ by more are not both right: common practice."""


LASH_LESS_COLD_IN: dict[str, float] = {"iron": 0.002, "head": 0.006, "both": 0.012}
"""Cold lash is hot lash less this: all iron; aluminium heads; heads and block (from memory)."""


def cold_lash_in(hot_in: float, build: Literal["iron", "head", "both"]) -> float:
    """Cold lash from hot, inches. Raises InputError when nothing would be left.

    >>> round(cold_lash_in(0.022, "iron"), 3)
    0.02
    """
    cold = hot_in - LASH_LESS_COLD_IN[build]
    if cold <= 0:
        raise InputError(
            "lash",
            say(
                "A hot lash of {hot} leaves no cold lash on this engine",
                hot=format_small(hot_in),
            ),
            received=hot_in,
            expected=say("above {least}", least=format_small(LASH_LESS_COLD_IN[build])),
            remedy=say("Check whether the sheet's lash is hot or cold"),
            code="out_of_range",
        )
    return cold


FEELER_STEP_IN = 0.001


def feelers_in(lash_in: float) -> tuple[float, float]:
    """The feeler that must drag and the next one that must not enter, inches.

    >>> feelers_in(0.020)
    (0.02, 0.021)
    """
    go = round(round(lash_in / FEELER_STEP_IN) * FEELER_STEP_IN, 4)
    return go, round(go + FEELER_STEP_IN, 4)


def kind_of(valve: str) -> ValveKind:
    """The kind of a valve by its short name."""
    return "intake" if valve.endswith(LETTER["intake"]) else "exhaust"
