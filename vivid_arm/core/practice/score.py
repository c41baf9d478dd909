"""The end of an exercise: the engine runs, and shows what was right.

Points start at a hundred; what they are taken for is said line by line. A fault that never showed
at the bench, and did no harm, costs nothing.

Source: what a builder answers for at the first start, common practice; the points are ours.
"""

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass
from typing import Literal

from vivid_arm.core.engine.layout import ValveKind
from vivid_arm.core.errors import InputError
from vivid_arm.core.practice.faults import FAULTS, Fault, FaultKind
from vivid_arm.core.practice.tools import (
    Bench,
    asks_for_in,
    came_in,
    half_lift_deg,
    heel_deg,
    standing,
    swept,
    train_of,
)
from vivid_arm.core.practice.train import Train
from vivid_arm.core.practice.truth import TIP_IN, Truth, ValveTruth, lash_grows_in
from vivid_arm.core.words import Saying, say, within_a_sentence

Runs = Literal["right", "loose", "tight", "ticks", "bottoms", "adjuster", "lash", "scrubs"]

RUNS: dict[Runs, Saying] = {
    "right": Saying("quiet, and inside"),
    "loose": Saying("under its window"),
    "tight": Saying("over its window"),
    "ticks": Saying("ticks: no preload is left"),
    "bottoms": Saying("the plunger bottoms: the valve hangs open"),
    "adjuster": Saying("the adjuster stands at its end"),
    "lash": Saying("its lash is off the card's when hot"),
    "scrubs": Saying("the roller sweeps off the tip's middle"),
}
_ADJUSTER_IN, _LASH_IN = 0.060, 0.0025
_WORTH: dict[str, float] = {
    "valve": 40.0, "fault": 30.0, "wrong": 5.0, "hint": 3.0, "rod": 4.0, "trial": 0.5,
}  # fmt: skip


@dataclass(frozen=True)
class ValveRuns:
    """A valve with its rod in the running engine, inches; ``preload`` is lash below zero.

    ``sweep_in``: how wide its roller or shoe sweeps; ``edge_in``: what it leaves to the tip's edge.
    """

    name: str
    zero_lash_in: float
    rod_in: float
    cold_in: float
    hot_in: float
    sweep_in: float
    edge_in: float
    runs: Runs


@dataclass(frozen=True)
class FaultShown:
    """A fault of the engine, whether it was named, and which deed first gave it away (from 1)."""

    fault: Fault
    found: bool
    first_deed: int | None


@dataclass(frozen=True)
class Ending:
    """What came of an exercise: points of a hundred, each loss with its words."""

    valves: tuple[ValveRuns, ...]
    faults: tuple[FaultShown, ...]
    wrongly_named: tuple[FaultKind, ...]
    losses: tuple[tuple[str, float], ...]
    points: float

    @property
    def right(self) -> bool:
        """Whether every valve runs inside."""
        return all(v.runs == "right" for v in self.valves)


@dataclass(frozen=True)
class Effort:
    """What was spent: trials and valves measured, rods bought beyond one a valve, hints."""

    trials: int = 0
    measured: int = 0
    extra_rods: int = 0
    hints: int = 0


def run(
    truth: Truth,
    bench: Bench,
    named: Collection[FaultKind],
    told: Mapping[str, int],
    effort: Effort,
    lash_in: Mapping[ValveKind, float] | None = None,
) -> Ending:
    """Run the engine with the rods that came, one a valve under the valve's name.

    ``named``: the faults the builder named; ``told``: by fault, the first deed that showed it.
    ``lash_in``: the lash the builder sets cold. Raises InputError while a valve has no rod.
    """
    without = [name for name in truth.valves if name not in dict(bench.bought)]
    if without:
        raise InputError(
            "rods",
            say(
                "No rod for {valves}{more}",
                valves=", ".join(without[:4]),
                more=" …" if len(without) > 4 else "",
            ),
            remedy=say("Order the set first"),
            code="no_rods",
        )
    valves = tuple(
        _runs(truth, bench, v, came_in(truth, bench, v.name), lash_in)
        for v in truth.valves.values()
    )
    shown = tuple(FaultShown(f, f.kind in named, told.get(f.kind)) for f in truth.faults)
    wrong = tuple(sorted(set(named) - {f.kind for f in truth.faults}))
    losses = _losses(valves, shown, wrong, effort)
    points = max(100.0 - sum(lost for _, lost in losses), 0.0)
    return Ending(valves, shown, wrong, losses, round(points, 1))


def final_zero_lash_in(truth: Truth, bench: Bench, valve: ValveTruth) -> float:
    """Zero lash of the engine as it runs, on its shims: all torqued, every lifter down, inches."""
    done = Bench(
        crank_deg=heel_deg(truth, valve), wrenched=tuple({v.bank for v in truth.valves.values()}),
        checking_springs=True, seated=tuple(truth.valves), shims_in=bench.shims_in,
    )  # fmt: skip
    return asks_for_in(truth, done, valve)


def _runs(
    truth: Truth,
    bench: Bench,
    valve: ValveTruth,
    rod_in: float,
    lash_in: Mapping[ValveKind, float] | None,
) -> ValveRuns:
    zero = final_zero_lash_in(truth, bench, valve)
    cold = rod_in - zero
    if truth.scenario.mount == "stud":
        cold = truth.scenario.window[2]  # by the nut, from zero lash down
    hot = cold + truth.grows_in[valve.kind]
    verdict = _verdict(truth, bench, valve, rod_in, cold, hot)
    if verdict == "right" and lash_in is not None and not _lash_serves(truth, valve, lash_in):
        verdict = "lash"
    at = rod_in - truth.scenario.window[2] if truth.scenario.mount == "stud" else rod_in
    low_in, high_in = swept(truth, standing(truth, bench, valve, at))
    edge = TIP_IN / 2 - max(abs(low_in), abs(high_in))
    return ValveRuns(valve.name, zero, rod_in, cold, hot, high_in - low_in, edge, verdict)


def _lash_serves(truth: Truth, valve: ValveTruth, lash_in: Mapping[ValveKind, float]) -> bool:
    """Whether the lash set cold is the card's once the engine is hot; where there is one."""
    if truth.scenario.lash_in is None:
        return True
    card, own = truth.scenario.lash_in[valve.kind == "exhaust"], lash_in.get(valve.kind)
    hot = None if own is None else own + lash_grows_in(truth)[valve.kind]
    return hot is not None and abs(hot - card) <= _LASH_IN


_MIDDLE_IN, _SQUARE_DEG, _CLEAR_IN, _WIDER_IN = 0.012, 1.0, 0.040, 0.010
"""A mark is good with its middle so near the tip's, or the arm so square at half lift, its ends so
far inside the tip's edge, and so little wider than the least: common practice."""


def _scrubs(truth: Truth, train: Train, others: Iterable[Train]) -> bool:
    """Whether the roller sweeps off the tip's middle, or wider than others would."""
    low, high = swept(truth, train)
    clear = max(abs(low), abs(high)) < TIP_IN / 2 - _CLEAR_IN
    middle = abs(low + high) / 2 <= _MIDDLE_IN or abs(half_lift_deg(truth, train)) <= _SQUARE_DEG
    least = min(high - low for low, high in (swept(truth, other) for other in others))
    return not (clear and middle and high - low - least <= _WIDER_IN)


def _verdict(
    truth: Truth, bench: Bench, valve: ValveTruth, rod_in: float, cold: float, hot: float
) -> Runs:
    scenario = truth.scenario
    if scenario.mount == "stud":  # the nut takes up the rest; the rod decides the sweep
        zero_in = rod_in - scenario.window[2]
        train = standing(truth, bench, valve, zero_in)
        others = (standing(truth, bench, valve, zero_in + off / 40) for off in range(-12, 13))
        return "scrubs" if _scrubs(truth, train, others) else "right"
    if scenario.stands_low_in is not None:
        others = (valve.train.lowered(-thick / 100) for thick in range(16))
        if _scrubs(truth, train_of(bench, valve), others):
            return "scrubs"
    if scenario.lash_in is not None:
        lash = scenario.lash_in[valve.kind == "exhaust"] / near_closed(valve)
        return "right" if abs(cold + lash) <= _ADJUSTER_IN else "adjuster"
    low, high, _ = scenario.window
    if hot <= 0:
        return "ticks"
    if cold >= scenario.travel_in:
        return "bottoms"
    return "loose" if cold < low else "tight" if cold > high else "right"


def near_closed(valve: ValveTruth) -> float:
    """The ratio near closed: what a rod a hundredth short leaves open at the tip."""
    return valve.train.gap(valve.train.zero_lash() - 0.01) / 0.01


def _losses(
    valves: Collection[ValveRuns],
    shown: Collection[FaultShown],
    wrong: Collection[FaultKind],
    effort: Effort,
) -> tuple[tuple[str, float], ...]:
    off = [v for v in valves if v.runs != "right"]
    missed = [s for s in shown if not s.found and (off or s.first_deed is not None)]
    found = [
        (
            say(
                "{count} of {valves} valves not inside: {names}",
                count=len(off),
                valves=len(valves),
                names=", ".join(v.name for v in off[:6]),
            ),
            _WORTH["valve"] * len(off) / len(valves) + (10.0 if off else 0.0),
        ),
        (
            say(
                "Not found: {missed}",
                missed=", ".join(within_a_sentence(FAULTS[s.fault.kind].name) for s in missed),
            ),
            _WORTH["fault"] * len(missed) / max(len(shown), 1),
        ),
        (
            say(
                "Named and not there: {wrong}",
                wrong=", ".join(within_a_sentence(FAULTS[k].name) for k in wrong),
            ),
            _WORTH["wrong"] * len(wrong),
        ),
        (say("{hints} hints", hints=effort.hints), _WORTH["hint"] * effort.hints),
        (
            say("{extra_rods} rods bought beyond one a valve", extra_rods=effort.extra_rods),
            _WORTH["rod"] * effort.extra_rods,
        ),
        (
            say(
                "{trials} trials on {measured} valves; two each are enough",
                trials=effort.trials,
                measured=effort.measured,
            ),
            _WORTH["trial"] * max(effort.trials - 2 * effort.measured, 0),
        ),
    ]
    return tuple((words, round(lost, 1)) for words, lost in found if lost > 0)
