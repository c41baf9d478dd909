"""What the tries of one rocker come to, and the rod or shim they settle.

On a stud the rod sets the fulcrum's height. A try's rod put it there at zero lash; a hydraulic
lifter is then pushed down by the preload at the same height, so the rod to order carries the
preload on top, and the nut ends where it stood in the try.

Source: common practice; the limits of a good mark are those a careful builder names.
"""

from dataclasses import dataclass
from math import inf
from typing import Literal

import numpy as np

from vivid_arm.core.arrays import Floats
from vivid_arm.core.rocker.chance import (
    MIDDLE_WITHIN_IN,
    SQUARE_WITHIN_DEG,
    WIDTH_WITHIN_IN,
    good_chance,
)
from vivid_arm.core.rocker.correction import (
    Correction,
    NextReading,
    mark_step_in,
    settings_row,
)
from vivid_arm.core.rocker.doubt import (
    Clashing,
    LiftHunt,
    Narrow,
    Sinking,
    against_trend,
    conflicting,
    narrow_mark,
    sinking,
)
from vivid_arm.core.rocker.marks import MarksFit, outputs_at
from vivid_arm.core.rocker.seen import SeenMark
from vivid_arm.core.rocker.sheet import UNKNOWNS
from vivid_arm.core.rocker.sweep import EDGE_CLEAR_IN, least_width

FLAT_IN = 0.010
"""A change no larger than this is not worth an order where it wins no width."""
FLAT_WINS_IN = 0.001

Finding = Literal[
    "nothing", "narrow", "sinks", "conflict", "trend", "good", "rivals", "off", "refused",
    "unsure", "try", "right", "change",
]  # fmt: skip


@dataclass(frozen=True)
class SettledSetting:
    """A rod at zero lash (centre length) or a shim, inches; ``tried`` where its mark was good."""

    setting_in: float
    tried: bool


@dataclass(frozen=True)
class RockerJudgement:
    """What the tries come to, what they settle, and the reading that tells most.

    ``doubt`` is what stands against the readings where something does.
    """

    finding: Finding
    settled: SettledSetting | None = None
    reading: NextReading | None = None
    setting_in: float | None = None
    doubt: Narrow | Sinking | Clashing | LiftHunt | None = None


def judged(
    found: MarksFit,
    correction: Correction,
    following: NextReading | None,
    step_in: float,
    hunt: LiftHunt | None = None,
) -> RockerJudgement:
    """Judge a rocker by its tries; ``step_in`` is the step of rods or shims that can be had."""
    if not found.tries:
        return RockerJudgement("nothing")
    doubt = _doubted(found, hunt)
    if doubt is not None:
        return doubt
    tried = _tried_good(found)
    if tried is not None:
        return RockerJudgement("good", tried, following)
    if _off_one_edge(found):
        return RockerJudgement("off")
    if found.rivals:
        return RockerJudgement("rivals", reading=following)
    settings, chances = _had(found, correction, step_in)
    best = _likeliest(correction, settings, chances)
    if chances[best] < NONE_SERVES:
        return _none_serves(found, correction, following)
    likeliest = float(settings[best])
    if chances[best] < SURE_GOOD or not _known(found, likeliest, step_in):
        measured = [t.setting_in for t in found.tries if t.edges_in]
        made = any(abs(x - likeliest) < step_in / 2 for x in measured)
        little = following is None or following.chance < chances[best] + WORTH_READING
        enough = len(found.tries) >= ENOUGH_TRIES
        squared = any(t.angle_deg is not None for t in found.tries)
        likely = chances[best] >= LIKELY and (little or enough)
        stuck = chances[best] >= WORTH_A_TRY and squared and little
        if not made and (likely or stuck):
            return RockerJudgement("try", setting_in=likeliest)
        return RockerJudgement("unsure", reading=following)
    wanted = _wanted(correction, settings, chances, likeliest)
    settled = SettledSetting(wanted, tried=False)
    change = abs(wanted - float(correction.now.setting_in[0]))
    flat = change <= FLAT_IN + 1e-9 and correction.wins_in <= FLAT_WINS_IN
    if change <= step_in / 2 + 1e-9 or flat:
        return RockerJudgement("right", settled, following)
    return RockerJudgement("change", settled, following, wanted)


def _none_serves(
    found: MarksFit, correction: Correction, following: NextReading | None
) -> RockerJudgement:
    """The stand is at fault only where two settings or its own distance say so."""
    if _placed(found):
        return RockerJudgement("refused", reading=following)
    if not any(t.edges_in for t in found.tries):
        return RockerJudgement("off", reading=following)
    step = mark_step_in(found.sheet)
    beside = settings_row(found, correction.now.setting_in + np.array([-step, step]))
    ends = np.maximum(-beside.inboard_in, beside.outboard_in)
    second = float(beside.setting_in[np.argmin(np.where(np.isfinite(ends), ends, inf))])
    return RockerJudgement("unsure", reading=NextReading("mark", second, None, inf, decides=False))


LIKELY, WORTH_READING, ENOUGH_TRIES = 0.5, 0.05, 3
"""A setting likelier than not is tried where a reading would make it no surer than this more,
or where three have not made it sure."""
WORTH_A_TRY = 0.15
"""Where an angle was read and no reading makes anything surer, only a mark made there tells."""
AS_READ = 0.7
"""How likely a mark that reads good must be by everything else that is known."""
SURE_TRIED = 0.955
"""How likely a mark that was made must be good, where its width alone does not tell."""
SURE_GOOD = 0.96
"""How likely a setting must leave a good mark to be settled without having been tried."""
NONE_SERVES = 0.05
"""Below this chance at every setting that can be had, stand or rocker are asked for."""
_LOOKED_IN = 0.300


def _tried_good(found: MarksFit) -> SettledSetting | None:
    """The last try with a mark that is good in itself."""
    for seen in reversed(found.tries):
        if good_mark(found, seen):
            return SettledSetting(seen.setting_in, tried=True)
    return None


def _had(found: MarksFit, correction: Correction, step_in: float) -> tuple[Floats, Floats]:
    """Settings that can be had, near the school's where it has one, and each one's chance."""
    now = float(correction.now.setting_in[0])
    base = now if correction.rounded_in is None else correction.rounded_in
    reach = round(_LOOKED_IN / step_in)
    stride = max(1, reach // 30)
    settings = base + np.arange(-reach, reach + 1, stride, dtype=np.float64) * step_in
    return settings, good_chance(found, settings)


def _likeliest(correction: Correction, settings: Floats, chances: Floats) -> int:
    """Of the settings as good as any, the one nearest to the school's, or to the present one."""
    exact = correction.exact_in
    aim = float(correction.now.setting_in[0]) if exact is None else exact
    as_good = np.flatnonzero(chances >= chances.max() - WORTH_READING)
    return int(as_good[np.argmin(np.abs(settings[as_good] - aim))])


def _known(found: MarksFit, setting_in: float, step_in: float) -> bool:
    """Whether a rod is known within its step (k = 2): no other is ordered without being tried."""
    if not found.sheet.stud:
        return True
    values, us, _ = outputs_at(found, setting_in, "error", "ratio")
    return bool(2 * us[0] * (1 + 1 / values[1]) <= step_in)


def _wanted(
    correction: Correction, settings: Floats, chances: Floats, likeliest_in: float
) -> float:
    """The school's own setting where it is good; else the likeliest to be."""
    exact = correction.exact_in
    if exact is not None and chances[np.argmin(np.abs(settings - exact))] >= SURE_GOOD:
        return exact
    return likeliest_in


def _doubted(found: MarksFit, hunt: LiftHunt | None) -> RockerJudgement | None:
    """What is asked about before anything is concluded; None where nothing is."""
    narrow = narrow_mark(found.sheet, found.tries)
    if narrow is not None:
        return RockerJudgement("narrow", doubt=narrow)
    sinks = sinking(found)
    if sinks is not None:
        return RockerJudgement("sinks", doubt=sinks)
    if against_trend(found, hunt):
        return RockerJudgement("trend", doubt=hunt)
    conflict = conflicting(found)
    return None if conflict is None else RockerJudgement("conflict", doubt=conflict)


def _off_one_edge(found: MarksFit) -> bool:
    """Whether all there is, is a mark that runs off the tip: how far off is not known."""
    made = [t for t in found.tries if t.sweeps]
    return bool(made) and made[-1].runs_off and len({t.setting_in for t in made}) < 2


def _placed(found: MarksFit) -> bool:
    """Whether the stand may be blamed: two settings tried, or its distance measured."""
    tried = {t.setting_in for t in found.tries if t.sweeps}
    return len(tried) > 1 or found.sheet.fulcrum_in is not None


def good_mark(found: MarksFit, seen: SeenMark) -> bool:
    """Whether a try's mark is good in itself: in the middle or square, clear, as narrow as can be.

    Both edges must be seen; anything else tells too little. A roller's mark that reads good must
    also be likelier so than not by all that is known. Where that is nearly sure it decides alone,
    and for a shoe it must be: its least width hangs on its radius.
    """
    if seen.edges_in is None:
        return False
    chance = float(good_chance(found, np.array([seen.setting_in]))[0])
    if chance >= SURE_TRIED or found.sheet.tip == "shoe":
        return chance >= SURE_TRIED
    inboard, outboard = seen.edges_in
    row = settings_row(found, np.array([seen.setting_in]))
    arm, film = (np.asarray(found.unknowns[UNKNOWNS.index(n)]) for n in ("arm_in", "film_in"))
    least = float(least_width(arm, row.lift_in)[0] + film)
    square = seen.angle_deg is not None and abs(seen.angle_deg) <= SQUARE_WITHIN_DEG
    edge = found.sheet.stem_in / 2 - EDGE_CLEAR_IN
    return (
        chance >= AS_READ
        and (abs(inboard + outboard) / 2 <= MIDDLE_WITHIN_IN or square)
        and -edge <= inboard
        and outboard <= edge
        and outboard - inboard <= least + WIDTH_WITHIN_IN
    )
