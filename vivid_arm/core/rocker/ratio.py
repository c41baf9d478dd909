"""The rocker's ratio as measured, and the lift that springs take.

Source: reading lobe and valve lift in pairs is common practice; propagation JCGM 100:2008, 5.1.2.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from math import hypot

from vivid_arm.core.errors import InputError
from vivid_arm.core.words import figure, say

LIFT_READ_U_IN = 0.0015
REAL_LOSS_MOST_IN = 0.100

USUAL_RATIO = 1.6
"""Catalogue ratio to start from (common practice)."""


@dataclass(frozen=True)
class RatioPoint:
    """Ratio at one crank angle: valve lift over lobe lift with light springs, and since the last.

    ``u`` is the standard uncertainty of ``ratio`` from reading both lifts (GUM 5.1.2).
    ``local`` is the ratio between this point and the one below it.
    """

    lobe_in: float
    valve_in: float
    ratio: float
    u: float
    local: float


def measured_ratio(pairs: Sequence[tuple[float, float]]) -> tuple[RatioPoint, ...]:
    """Ratio points from pairs of lobe and valve lift, rising, inches.

    >>> [round(p.ratio, 3) for p in measured_ratio([(0.347, 0.590)])]
    [1.7]

    Raises InputError for a pair that no rocker gives, or lobe lifts given twice.
    """
    rows = sorted(pairs)
    lifts = [lobe for lobe, _ in rows]
    if len(set(lifts)) < len(lifts):
        raise InputError(
            "pairs", say("A lobe lift is given twice"), remedy=say("Strike one"), code="twice"
        )
    found = []
    for (lobe0, valve0), (lobe, valve) in pairwise([(0.0, 0.0), *rows]):
        if lobe <= 0 or not 0.8 <= valve / lobe <= 2.8:
            raise InputError(
                "pairs",
                say(
                    "Lobe lift {lobe} with valve lift {valve} is no rocker's",
                    lobe=figure(lobe, "g"),
                    valve=figure(valve, "g"),
                ),
                received=f"{lobe:g}, {valve:g}",
                expected=say("a ratio of 0.8 to 2.8"),
                remedy=say("Lobe lift first, then valve lift at the same crank angle"),
                code="out_of_range",
            )
        ratio = valve / lobe
        u = hypot(LIFT_READ_U_IN / lobe, ratio * LIFT_READ_U_IN / lobe)
        found.append(RatioPoint(lobe, valve, ratio, u, (valve - valve0) / (lobe - lobe0)))
    return tuple(found)


def deflection(light_in: float, real_in: float) -> float:
    """Lift lost to the springs' load: with light springs less with real ones, inches.

    >>> round(deflection(0.742, 0.722), 3)
    0.02

    Raises InputError for a loss below a few thou of reading error, or a tenth of an inch.
    """
    lost = light_in - real_in
    if not -3 * LIFT_READ_U_IN <= lost <= REAL_LOSS_MOST_IN:
        raise InputError(
            "real_in",
            say(
                "Real springs give {real}, light ones {light}",
                real=figure(real_in, ".3f"),
                light=figure(light_in, ".3f"),
            ),
            received=real_in,
            expected=say("a little less than with light springs"),
            remedy=say("A collapsing lifter or a lost zero shifts it; read both again"),
            code="out_of_range",
        )
    return lost
