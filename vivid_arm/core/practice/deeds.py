"""Everything that can be done at a practice engine, by name.

Source: the work of the bench, common practice.
"""

from collections.abc import Callable
from dataclasses import replace

from vivid_arm.core.errors import InputError
from vivid_arm.core.practice import indicators, tools
from vivid_arm.core.practice.tools import Bench, Got
from vivid_arm.core.practice.truth import Truth
from vivid_arm.core.words import say

Deed = Callable[..., tuple[Bench, Got]]

DEEDS: dict[str, Deed] = {
    "turn_crank": tools.turn_crank,
    "fit": tools.fit,
    "turn_rod": tools.turn_rod,
    "spin": tools.spin,
    "feel": tools.feel,
    "feeler": tools.feeler,
    "caliper": tools.caliper,
    "straight_edge": tools.straight_edge,
    "wrench": tools.wrench,
    "springs": tools.springs,
    "roll": tools.roll,
    "mark": tools.mark,
    "shim": tools.shim,
    "back_off": tools.back_off,
    "draw_down": tools.draw_down,
    "angle": tools.angle,
    "watch": indicators.watch,
    "clay": indicators.clay,
    "press_down": indicators.press_down,
    "run_warm": indicators.run_warm,
}


def do(truth: Truth, bench: Bench, name: str, **how: object) -> tuple[Bench, Got]:
    """Do one deed. Raises InputError for one that is not known, or cannot be done so."""
    deed = DEEDS.get(name)
    if deed is None:
        raise InputError("deed", say("Nobody can “{name}” here", name=name[:20]), code="no_deed")
    after, got = deed(truth, bench, **how)
    return replace(after, count=bench.count + 1), got
