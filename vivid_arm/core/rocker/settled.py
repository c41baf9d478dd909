"""What marks settle about a stud's rod: a mark that is good itself, or a setting known well enough.

On a stud the rod sets the fulcrum's height. A try's rod put it there at zero lash; a hydraulic
lifter is then pushed down by the preload at the same height, so the rod to order carries the
preload on top, and the nut ends where it stood in the try.

Source: common practice; the limits of a good mark are those a careful builder names.
"""

from dataclasses import dataclass
from math import sqrt

import numpy as np

from vivid_arm.core.rocker.correction import Correction, settings_row
from vivid_arm.core.rocker.marks import MarksFit, SeenMark
from vivid_arm.core.rocker.sheet import UNKNOWNS
from vivid_arm.core.rocker.sweep import EDGE_CLEAR_IN, least_width

MIDDLE_WITHIN_IN = 0.010
"""How far a good mark's middle may stand from the tip's: common practice."""
SQUARE_WITHIN_DEG = 1.0
"""How far off square the arm may stand at half lift where the mark's middle does not tell."""
WIDTH_WITHIN_IN = 0.010
"""How much wider than the least possible a good mark may be."""


@dataclass(frozen=True)
class SettledRod:
    """A rod at zero lash, its centre length in inches; ``tried`` where its own mark was good."""

    setting_in: float
    tried: bool


def good_mark(found: MarksFit, seen: SeenMark) -> bool:
    """Whether a try's mark is good in itself: in the middle or square, clear, as narrow as can be.

    A roller's mark with both edges seen; anything else tells too little. One narrower than the
    arm can sweep (k = 2 of its two edges) is a turn not made whole, or a mark at rest.
    """
    if found.sheet.tip != "roller" or seen.inboard_in is None or seen.outboard_in is None:
        return False
    row = settings_row(found, np.array([seen.setting_in]))
    arm, film = (found.unknowns[UNKNOWNS.index(name)] for name in ("arm_in", "film_in"))
    swept = float(least_width(np.asarray(arm), row.lift_in)[0])
    least, width = swept + float(film), seen.outboard_in - seen.inboard_in
    middle = (seen.inboard_in + seen.outboard_in) / 2
    square = seen.angle_deg is not None and abs(seen.angle_deg) <= SQUARE_WITHIN_DEG
    edge = found.sheet.stem_in / 2 - EDGE_CLEAR_IN
    return (
        (abs(middle) <= MIDDLE_WITHIN_IN or square)
        and -edge <= seen.inboard_in
        and seen.outboard_in <= edge
        and swept - 2 * sqrt(2) * seen.edge_u_in <= width <= least + WIDTH_WITHIN_IN
    )


def settled_rod(found: MarksFit, correction: Correction, step_in: float) -> SettledRod | None:
    """The rod at zero lash that the tries settle; None where they settle none.

    The last try with a good mark, since it has been tried; else what the school asks for,
    where one side is decided and it is known (k = 2) within one stock step.
    """
    for seen in reversed(found.tries):
        if good_mark(found, seen):
            return SettledRod(seen.setting_in, tried=True)
    sure = found.decided and not correction.refused and 2 * correction.u_in <= step_in
    if not sure or correction.exact_in is None:
        return None
    return SettledRod(correction.exact_in, tried=False)
