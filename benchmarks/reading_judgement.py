"""What "settled" is worth at zero lash: simulated valves, rockers as built, hands of several kinds.

Each engine has eight valves of one kind whose rockers share a ratio near closed, 1.09 of the
catalogue's give or take 6.5 %. A hand has its band, scatter and bias. A builder does what he is
told at each valve; counted are false "settled" (further off than was claimed), sound trials called
contradicting, valves never settled in 20 trials, and trials a valve.
"""

import argparse
from dataclasses import dataclass, replace

import numpy as np

from benchmarks.trials import CATALOGUE_RATIO, MOST_TRIALS, ROD, WITHIN_IN
from vivid_arm.core.arrays import Floats
from vivid_arm.core.engine.base_circle import chosen_valves
from vivid_arm.core.engine.layout import usual_engine
from vivid_arm.core.heads.infer import inferred
from vivid_arm.core.heads.mistakes import Circumstances, catch
from vivid_arm.core.heads.spread import placed, read_spread
from vivid_arm.core.rods.decide import Aim, ValveKnown, decide
from vivid_arm.core.rods.preload import Lifter
from vivid_arm.core.said.verdicts import decision_verdict
from vivid_arm.core.zero_lash.bracket import (
    USUAL_FEELING,
    Feel,
    Trial,
    evidence,
    next_trial,
    read_bracket,
)
from vivid_arm.core.zero_lash.hand import USUAL_HANDS, Hand, learned_hands
from vivid_arm.core.zero_lash.near_closed import learned_ratio

NEAR_CLOSED, NEAR_CLOSED_SD = 1.09, 0.065
HANDS = {"usual": (0.0010, 0.0), "dull": (0.0030, 0.0), "biased": (0.0010, 0.003)}


@dataclass
class Tally:
    valves: int = 0
    settled: int = 0
    wrong: int = 0
    over: int = 0
    within_in: float = 0.0
    contradicted: int = 0
    trials: int = 0


def measure(
    hand: Hand, truth: float, true_ratio: float, known: tuple[float, float],
    hands: tuple[Hand, ...], gaps: bool, rng: np.random.Generator, tally: Tally,
) -> list[Trial]:  # fmt: skip
    """One valve, as told; the trials made."""
    ratio, sd = known
    feeling = replace(USUAL_FEELING, hands=hands, ratio_half_width=sd / ratio * 3**0.5)
    trials: list[Trial] = []
    expected = truth + rng.uniform(-0.1, 0.1)
    step = next_trial([], read_bracket([], ratio), ROD.adjuster, ratio, gaps=gaps,
                      expected_in=expected, feeling=feeling)  # fmt: skip
    tally.valves += 1
    while step is not None and len(trials) < MOST_TRIALS:
        lash = truth - step.length_in + hand.bias_in + rng.normal() * hand.sd_in
        feel: Feel = "zero" if abs(lash) <= hand.band_in else "loose" if lash > 0 else "tight"
        missing = truth - step.length_in
        gap = None
        if gaps and feel == "loose":
            opened = true_ratio * missing * (1 - 0.15 * missing)
            gap = max(round(opened + rng.normal() * 0.0015, 3), 0.001)
        trials.append(Trial(len(trials) + 1, step.length_in, feel, gap))
        found = read_bracket(trials, ratio, feeling)
        if found.contradictions:
            tally.contradicted += 1
            trials = trials[:-1]
            tally.trials += 1
            if tally.contradicted > 50 * tally.valves:
                break
        found = read_bracket(trials, ratio, feeling)
        step = next_trial(trials, found, ROD.adjuster, ratio, gaps=gaps, feeling=feeling)
        if found.settled:
            break
    found = read_bracket(trials, ratio, feeling)
    tally.trials += len(trials)
    if found.settled and found.estimate_in is not None:
        tally.settled += 1
        off = abs(found.estimate_in - truth)
        tally.wrong += off > found.within_in
        tally.over += off > WITHIN_IN
        tally.within_in += found.within_in
    return trials


def simulate(name: str, gaps: bool, engines: int, seed: int) -> Tally:
    """Engines of eight valves by one kind of hand."""
    tally = Tally()
    sd_in, bias = HANDS[name]
    for k in range(engines):
        rng = np.random.default_rng(seed + k)
        hand = Hand(rng.uniform(0.001, 0.003), sd_in * rng.uniform(0.5, 1.4),
                    bias * rng.uniform(-1, 1))  # fmt: skip
        true_ratio = CATALOGUE_RATIO * (NEAR_CLOSED + rng.normal() * NEAR_CLOSED_SD)
        prior = (CATALOGUE_RATIO * NEAR_CLOSED, CATALOGUE_RATIO * NEAR_CLOSED_SD)
        made: list[list[Trial]] = []
        felt: list[Floats] = []
        for _ in range(8):
            truth = rng.uniform(7.45, 7.85)
            known = learned_ratio(made, *prior) if gaps else prior
            hands = learned_hands(USUAL_HANDS, felt)
            feeling = replace(USUAL_FEELING, ratio_half_width=known[1] / known[0] * 3**0.5)
            made.append(measure(hand, truth, true_ratio, known, hands, gaps, rng, tally))
            felt.append(evidence(made[-1], known[0], feeling))
    return tally


def sets(corners: bool, engines: int, seed: int) -> tuple[int, int, int, int]:
    """Sets of sixteen rods: called settled, those inside; not called so, those inside.

    Valves scatter by 2 to 5 thou, one in twenty is odd; the measured ones (four corners, or
    all) are known to 1 to 3 thou; rods come within 3 thou.
    """
    engine = usual_engine("v", 8)
    measured = set(chosen_valves(engine, "corners" if corners else "all"))
    count = [0, 0, 0, 0]
    for k in range(engines):
        rng = np.random.default_rng(seed + k)
        width = rng.uniform(0.03, 0.08)
        lifter = Lifter(0.02, 0.02 + width, 0.02 + width / 2, 0.2)
        scatter, u = rng.uniform(0.002, 0.005), rng.uniform(0.001, 0.003)
        truth = {
            (c, kind): (7.4 if kind == "intake" else 7.45) + rng.normal() * scatter
            + (rng.normal() * 0.025 if rng.random() < 0.05 else 0.0)
            for c, kind in chosen_valves(engine, "all")
        }  # fmt: skip
        read = [(c, kind, z + rng.normal() * u, u) for (c, kind), z in truth.items()
                if (c, kind) in measured]  # fmt: skip
        known = placed(engine, read)
        where = {c: (h.bank, h.place(c)) for h in engine.heads for c in h.cylinders}
        doubted = {s.name for s in catch(known, Circumstances(lifter.travel_in))}
        sound = [v for v in known if v.name not in doubted]
        slopes = read_spread(sound).slopes
        valves = []
        for c, kind in truth:
            own = next((v for v in sound if (v.cylinder, v.kind) == (c, kind)), None)
            source = own or inferred(c, kind, *where[c], sound, slopes)
            if source is not None:
                name = f"{c}{kind[0].upper()}"
                valves.append(ValveKnown(name, kind, source.zero_lash_in, source.u_in, 1.6,
                                         inferred=own is None))  # fmt: skip
        found = decide(Aim("length", lifter, {}, 0.05, False), valves, 0.025, "longer", "fewest")
        settled = decision_verdict(found).state == "settled" and not doubted
        rods = dict(zip((v.name for v in valves), found.chosen.lengths_in, strict=True))
        inside = all(
            lifter.low_in <= rods[f"{c}{kind[0].upper()}"] + rng.uniform(-0.003, 0.003) - z
            <= lifter.high_in
            for (c, kind), z in truth.items()
        )  # fmt: skip
        count[0 if settled else 2] += 1
        count[1 if settled else 3] += inside
    return count[0], count[1], count[2], count[3]


def main() -> None:
    """Print a line for each hand, with gaps and without, and for sets of rods."""
    options = argparse.ArgumentParser()
    options.add_argument("--engines", type=int, default=100)
    options.add_argument("--seed", type=int, default=0)
    asked = options.parse_args()
    for gaps in (True, False):
        for name in HANDS:
            t = simulate(name, gaps, asked.engines, asked.seed)
            print(
                f"{'gaps' if gaps else 'feel'}, {name} hand: false settled "
                f"{100 * t.wrong / max(1, t.settled):.1f} % of its claim (mean "
                f"{1000 * t.within_in / max(1, t.settled):.1f} thou; over 3 thou "
                f"{100 * t.over / max(1, t.settled):.1f} %), contradicted "
                f"{100 * t.contradicted / t.trials:.1f} % of trials, never settled "
                f"{100 * (1 - t.settled / t.valves):.1f} %, trials {t.trials / t.valves:.2f}"
            )
    for corners in (True, False):
        settled, right, refused, fine = sets(corners, 5 * asked.engines, asked.seed)
        print(
            f"{'four corners' if corners else 'all valves'} measured: {settled} sets settled, "
            f"{100 * right / max(1, settled):.1f} % inside; {refused} not, "
            f"{100 * fine / max(1, refused):.1f} % of them inside"
        )


if __name__ == "__main__":
    main()
