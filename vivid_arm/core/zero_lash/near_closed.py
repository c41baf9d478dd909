"""The ratio near closed learned from what was read: two gaps of one valve, or a gap and a zero.

A rod longer by d closes the gap by R0 d. The ratio is one for all valves of a kind, so that
every pair tells of it; what is known beforehand is one more such reading.

Source: gap / R0 is common practice; weights by uncertainty, JCGM 100:2008 (GUM), 5.1.2.
"""

from collections.abc import Sequence
from functools import lru_cache
from math import hypot

import numpy as np

from vivid_arm.core.zero_lash.bracket import NEAR_GAP_IN, USUAL_FEELING, Feeling, Trial

LEAST_APART_IN = 0.005
_SIGMA = 4.0


def learned_ratio(
    valves: Sequence[Sequence[Trial]],
    ratio: float,
    sd: float,
    feeling: Feeling = USUAL_FEELING,
) -> tuple[float, float]:
    """R0 and its standard uncertainty, from ``ratio`` and ``sd`` and every valve's trials.

    Only gaps near closed count. A pair further off than 4 sigma from what is known is left out:
    one of its readings is wrong, and the bracket says so.
    """
    return _joined(_slopes(valves, ratio, sd, feeling), ratio, sd)


def learned_ratios(
    valves: Sequence[Sequence[Trial]],
    ratio: float,
    sd: float,
    feeling: Feeling = USUAL_FEELING,
) -> tuple[tuple[float, float], list[tuple[float, float]]]:
    """The same, and for each of the valves by the trials of all the others."""
    slopes = _slopes(valves, ratio, sd, feeling)
    by_all = _joined(slopes, ratio, sd)
    by_others = [
        _joined([*slopes[:i], *slopes[i + 1 :]], ratio, sd) if own is not None else by_all
        for i, own in enumerate(slopes)
    ]
    return by_all, by_others


def _slopes(
    valves: Sequence[Sequence[Trial]], ratio: float, sd: float, feeling: Feeling
) -> list[tuple[float, float] | None]:
    """How fast each valve's gap closes with the rod; None where it tells nothing believable."""
    zero_u_in = feeling.zero_u_in
    found = [_slope(tuple(trials), ratio, feeling.gap_sd_in, zero_u_in) for trials in valves]
    return [
        s if s is not None and abs(s[0] - ratio) <= _SIGMA * hypot(s[1], sd) else None
        for s in found
    ]


def _joined(
    slopes: Sequence[tuple[float, float] | None], ratio: float, sd: float
) -> tuple[float, float]:
    """What was known before and each slope, by their uncertainties."""
    weight, total = 1 / sd**2, ratio / sd**2
    for slope in slopes:
        if slope is not None:
            weight += 1 / slope[1] ** 2
            total += slope[0] / slope[1] ** 2
    return total / weight, float(weight**-0.5)


@lru_cache(maxsize=1024)
def _slope(
    trials: tuple[Trial, ...], ratio: float, gap_sd_in: float, zero_u_in: float
) -> tuple[float, float] | None:
    """How fast one valve's gap closes with the rod, and its standard uncertainty."""
    zero_u = ratio * zero_u_in
    read = [
        (t.length_in, t.gap_in or 0.0, gap_sd_in if t.gap_in is not None else zero_u)
        for t in trials
        if t.feel == "zero" or (t.gap_in is not None and t.gap_in <= 2 * NEAR_GAP_IN)
    ]
    if len(read) < 2 or not any(t.gap_in is not None for t in trials):
        return None
    x, gap, u = np.array(read).T
    w = 1 / u**2
    middle = (w @ x) / w.sum()
    spread = float(w @ (x - middle) ** 2)
    if float(np.ptp(x)) < LEAST_APART_IN:
        return None
    return -float(w @ ((x - middle) * gap)) / spread, spread**-0.5
