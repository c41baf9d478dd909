"""What an exercise took against the best possible, and the reading that misled most.

Source: two readings a valve with feelers and three by feel are what a good hand needs, common
practice; the fewest stops are those of the plan.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from vivid_arm.core.engine.base_circle import chosen_valves, plan
from vivid_arm.core.engine.cam import CamCard
from vivid_arm.core.practice.score import final_zero_lash_in, near_closed
from vivid_arm.core.practice.tools import Bench
from vivid_arm.core.practice.truth import Truth, ValveTruth, rods_in
from vivid_arm.core.words import say
from vivid_arm.core.zero_lash.bracket import LOOSE, Trial

_NO_MATTER_IN = 0.006


@dataclass(frozen=True)
class Spent:
    """How much of something was spent, and how little would have done."""

    words: str
    spent: int
    best: int


@dataclass(frozen=True)
class Misread:
    """A reading that is off the truth: its valve, its number, by how much (long above zero)."""

    valve: str
    number: int
    off_in: float


def spent(
    truth: Truth, card: CamCard | None, *, trials: int, stops: int, rods: int, rod_costs: int
) -> tuple[Spent, ...]:
    """Trials, stops, rods and credits spent, each beside the least that serves."""
    valves, scenario = len(truth.valves), truth.scenario
    needed = _rods_needed(truth)
    each = 1 if scenario.rods_in_it else 2 if scenario.gaps else 3
    best = 0 if scenario.mount == "stud" else each * valves
    fewest = len(plan("fewest", truth.engine, card, chosen_valves(truth.engine, "all")).stops)
    return (
        Spent("trials", trials, best),
        Spent(say("stops of the crank"), stops, fewest),
        Spent(say("rods bought"), rods, needed),
        Spent("credits", rods * rod_costs, needed * rod_costs),
    )


def _rods_needed(truth: Truth) -> int:
    """The valves that need a rod bought: all, but for those whose rods stand there and serve."""
    there, (low, high, _) = rods_in(truth), truth.scenario.window
    own = {n: rod - truth.valves[n].zero_lash_in for n, rod in there.items()}
    return sum(not (n in own and low <= own[n] <= high) for n in truth.valves)


def misread(truth: Truth, bench: Bench, readings: Mapping[str, Sequence[Trial]]) -> Misread | None:
    """The trial furthest off what is true of its valve; None where none is off by much.

    None as well where stands were shimmed: a trial may be sound from before, on other shims.
    """
    if bench.shims_in:
        return None
    found = [
        Misread(name, trial.number, _off_in(truth, bench, truth.valves[name], trial))
        for name, trials in readings.items()
        for trial in trials
    ]
    worst = max(found, key=lambda m: abs(m.off_in), default=None)
    return worst if worst is not None and abs(worst.off_in) > _NO_MATTER_IN else None


def _off_in(truth: Truth, bench: Bench, valve: ValveTruth, trial: Trial) -> float:
    """How far what a trial says is off: a bound only where the truth lies beyond it."""
    off = trial.length_in - final_zero_lash_in(truth, bench, valve)
    if trial.gap_in is not None:
        return off + trial.gap_in / near_closed(valve)
    if trial.feel == "zero":
        return off
    return max(off, 0.0) if trial.feel in LOOSE else min(off, 0.0)
