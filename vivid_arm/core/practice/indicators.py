"""What indicator, clay and heat tell of a practice engine: lift, preload, room, lash hot.

Source: how an indicator and clay read, and what pistons leave free, common practice put in
figures by us; the piston's way is the slider-crank's, plane trigonometry.
"""

from dataclasses import dataclass, replace
from functools import lru_cache
from math import cos, radians, sin, sqrt
from random import Random

from vivid_arm.core.engine.layout import KINDS, ValveKind
from vivid_arm.core.entry.lengths import format_small
from vivid_arm.core.errors import InputError, within
from vivid_arm.core.practice.tools import (
    Bench,
    Got,
    asks_for_in,
    came_in,
    heel_deg,
    lobe_in,
    stands_in,
    train_of,
    valve_of,
)
from vivid_arm.core.practice.train import Train
from vivid_arm.core.practice.truth import ENDS, Truth, ValveTruth, lash_grows_in
from vivid_arm.core.words import say

_STEP_IN, _NEEDLE_SD_IN, _TOUCH_SD_IN, _CLAY_SD_IN = 0.0005, 0.0003, 0.0010, 0.0025
_LIFTED_IN, _REACH_IN = 0.0015, 1.000
_FREE_IN: dict[ValveKind, tuple[float, float]] = {
    "intake": (0.085, 0.140), "exhaust": (0.100, 0.160),
}  # fmt: skip
_SPREAD_IN, _BLADE_SD_IN = 0.003, 0.0005


@dataclass(frozen=True)
class Pistons:
    """How pistons move and what they leave free at the closest, by valve; inches."""

    stroke_in: float
    con_rod_in: float
    least_in: dict[str, float]

    def down_in(self, past_tdc_deg: float) -> float:
        """How far a piston stands below its top."""
        throw, angle = self.stroke_in / 2, radians(past_tdc_deg)
        slant = sqrt(self.con_rod_in**2 - (throw * sin(angle)) ** 2)
        return throw * (1 - cos(angle)) + self.con_rod_in - slant


@lru_cache(maxsize=256)
def pistons_of(code: str, seed: int, valves: tuple[tuple[str, ValveKind], ...]) -> Pistons:
    """The pistons of an engine: the same on every machine."""
    rng = Random(f"{code}:{seed}:pistons")
    stroke = rng.uniform(3.2, 4.0)
    about = {kind: rng.uniform(*_FREE_IN[kind]) for kind in KINDS}
    least = {name: about[kind] + rng.gauss(0, _SPREAD_IN) for name, kind in valves}
    return Pistons(stroke, stroke * rng.uniform(1.6, 1.8), least)


def _pistons(truth: Truth) -> Pistons:
    names = tuple((name, v.kind) for name, v in truth.valves.items())
    return pistons_of(truth.scenario.code, truth.seed, names)


def opened_in(train: Train, lobe: float, lash: float = 0.0) -> float:
    """How far a train opens its valve on a lobe's lift, its rod short by a lash; inches."""
    try:
        return max(-train.gap(train.zero_lash() - max(lash, 0.0), lobe), 0.0)
    except InputError:
        return 0.0  # the rod is too short for the arm to reach it at all


def free_in(truth: Truth, valve: ValveTruth, crank_deg: float) -> float:
    """What stands free between valve and piston at a crank angle with no lash, inches."""
    pistons = _pistons(truth)
    near = min(_bare_in(truth, pistons, valve, _overlap(truth, valve) + a) for a in range(-60, 61))
    return pistons.least_in[valve.name] + _bare_in(truth, pistons, valve, crank_deg) - near


def _overlap(truth: Truth, valve: ValveTruth) -> float:
    return truth.engine.firing_tdc_deg[valve.cylinder] + 360.0


def _bare_in(truth: Truth, pistons: Pistons, valve: ValveTruth, crank_deg: float) -> float:
    past = crank_deg - _overlap(truth, valve)
    return pistons.down_in(past) - opened_in(valve.train, lobe_in(truth, valve, crank_deg))


def watch(truth: Truth, bench: Bench, valve: str, on: str = "lifter") -> tuple[Bench, Got]:
    """An indicator at a valve: on its lifter, zeroed on its lowest; on its rod; on its retainer.

    On the checking rod it shows the play; on a rod that came how far that stands in the lifter.
    Raises InputError for another place, or where no rod stands that could be watched.
    """
    found = valve_of(truth, valve)
    if on == "lifter":
        return _on_lifter(truth, bench, found)
    if on == "rod":
        read = _on_rod(truth, bench, found)
        words = say("The needle goes so far as the rod is worked up and down.")
    elif on == "retainer":
        _needs(bench, found)
        closed = replace(bench, crank_deg=heel_deg(truth, found))
        lash = asks_for_in(truth, closed, found) - stands_in(truth, bench, found)
        read = opened_in(train_of(bench, found), lobe_in(truth, found, bench.crank_deg), lash)
        words = say("The needle stands, zeroed with the valve closed.")
    else:
        raise InputError("on", say("No indicator stands on the {on}", on=on[:20]), code="no_place")
    return bench, Got(words, read_in=_needle(truth, bench, read))


def _on_lifter(truth: Truth, bench: Bench, valve: ValveTruth) -> tuple[Bench, Got]:
    lifts = lobe_in(truth, valve, bench.crank_deg)
    read = _needle(truth, bench, lifts)
    off = read > _LIFTED_IN
    telling = tuple(f.kind for f in truth.faults if off and f.kind in ("card", "lobes_swapped"))
    return bench, Got(say("The needle stands."), read_in=read, telling=telling)


def _on_rod(truth: Truth, bench: Bench, valve: ValveTruth) -> float:
    if bench.rod_in == valve.name:
        return max(asks_for_in(truth, bench, valve) - stands_in(truth, bench, valve), 0.0)
    lifted = bench.nut[1] if bench.nut is not None and bench.nut[0] == valve.name else 0.0
    rod = came_in(truth, bench, valve.name)
    train = train_of(bench, valve).lowered(-lifted)
    wanted = train.zero_lash(lobe_in(truth, valve, bench.crank_deg)) + ENDS.added_in("theoretical")
    return abs(rod - wanted)


def _needs(bench: Bench, valve: ValveTruth) -> None:
    if bench.rod_in != valve.name:
        raise InputError(
            "valve",
            say("No rod stands in {name}", name=valve.name),
            remedy=say("Fit it first"),
            code="no_rod",
        )


def _needle(truth: Truth, bench: Bench, true_in: float) -> float:
    read = true_in + truth.rng(bench.count).gauss(0, _NEEDLE_SD_IN)
    return round(max(round(read / _STEP_IN) * _STEP_IN, 0.0), 4)


def clay(truth: Truth, bench: Bench, valve: str) -> tuple[Bench, Got]:
    """Clay on the piston, the engine turned twice over, the clay cut and measured.

    Raises InputError for a valve there is not.
    """
    found = valve_of(truth, valve)
    left = _pistons(truth).least_in[found.name] + truth.rng(bench.count).gauss(0, _CLAY_SD_IN)
    return bench, Got(
        say("The clay is cut through, and its thinnest measured."), read_in=round(left, 3)
    )


def press_down(truth: Truth, bench: Bench, valve: str) -> tuple[Bench, Got]:
    """A valve turned down onto its piston at this crank angle, an indicator on its retainer.

    The checking rod stands there without lash. Raises InputError without it.
    """
    found = valve_of(truth, valve)
    _needs(bench, found)
    room = free_in(truth, found, bench.crank_deg)
    if room > _REACH_IN:
        return bench, Got(say("It goes down further than the needle reaches."))
    read = room + truth.rng(bench.count).gauss(0, _TOUCH_SD_IN)
    return bench, Got(say("It touches the piston there."), read_in=round(max(read, 0.0), 3))


def run_warm(truth: Truth, bench: Bench, valve: str, lash_in: float) -> tuple[Bench, Got]:
    """The engine run warm with a lash set cold, and the blade tried that drags hot.

    Raises InputError for an engine without lash, or a lash outside 0.002 to 0.050.
    """
    found = valve_of(truth, valve)
    if truth.scenario.lash_in is None:
        raise InputError("deed", say("This engine has no lash to set"), code="no_lash")
    within("lash_in", say("Lash"), lash_in, 0.002, 0.050, " in")
    hot = lash_in + lash_grows_in(truth)[found.kind] + truth.rng(bench.count).gauss(0, _BLADE_SD_IN)
    blade = format_small(round(hot, 3))
    return bench, Got(say("Hot, the blade of {blade} drags at {valve}.", blade=blade, valve=valve))
