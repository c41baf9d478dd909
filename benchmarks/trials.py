"""Simulation: how many trials until zero lash is known within 0.003 in, and said so.

Each simulated builder has a hand of their own (band felt as zero, scatter), a
rocker whose ratio near closed differs from the catalogue's by up to 10 %, and
an expectation that is wrong by up to 0.100 either way. All uniform, seeded.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from vivid_arm.core.entry.instruments import CheckingRod
from vivid_arm.core.zero_lash.bracket import Feel, Trial, next_trial, read_bracket

ROD = CheckingRod(7.150, 0.050, 20)
CATALOGUE_RATIO = 1.6
WITHIN_IN = 0.003
MOST_TRIALS = 20


@dataclass(frozen=True)
class Builder:
    """A hidden truth and a hand to feel it with."""

    truth_in: float
    expected_in: float
    ratio: float
    band_in: float
    sd_in: float
    rng: np.random.Generator

    def feel(self, length_in: float) -> Feel:
        lash = self.truth_in - length_in + self.rng.normal(0, self.sd_in)
        if abs(lash) <= self.band_in:
            return "zero"
        return "loose" if lash > 0 else "tight"

    def gap(self, length_in: float) -> float:
        """The gap at the tip: ratio times what is missing, read to a thou with scatter."""
        true_gap = self.ratio * (self.truth_in - length_in)
        return max(round(true_gap + self.rng.normal(0, 0.0015), 3), 0.001)


@dataclass(frozen=True)
class Outcome:
    trials: int
    error_in: float


def make_builder(seed: int) -> Builder:
    rng = np.random.default_rng(seed)
    truth = rng.uniform(7.45, 7.85)
    return Builder(
        truth_in=truth,
        expected_in=truth + rng.uniform(-0.100, 0.100),
        ratio=CATALOGUE_RATIO * rng.uniform(0.90, 1.10),
        band_in=rng.uniform(0.001, 0.003),
        sd_in=rng.uniform(0.0005, 0.0015),
        rng=rng,
    )


def with_program(builder: Builder, *, gaps: bool, follow_first: bool) -> Outcome:
    """Do what the program says until it says that the length is known."""
    trials: list[Trial] = []
    made = 0
    length = ROD.adjuster.snap(builder.expected_in)
    if follow_first:
        bracket = read_bracket([], CATALOGUE_RATIO)
        first = next_trial(
            [],
            bracket,
            ROD.adjuster,
            CATALOGUE_RATIO,
            gaps=gaps,
            expected_in=builder.expected_in,
        )
        assert first is not None
        length = first.length_in
    while True:
        made += 1
        trials = _settle_repeat(trials, _trial(builder, made, length, gaps))
        bracket = read_bracket(trials, CATALOGUE_RATIO)
        step = next_trial(trials, bracket, ROD.adjuster, CATALOGUE_RATIO, gaps=gaps)
        if step is None or made == MOST_TRIALS:
            estimate = bracket.estimate_in if bracket.estimate_in is not None else float("inf")
            return Outcome(made, estimate - builder.truth_in)
        length = step.length_in


def _trial(builder: Builder, number: int, length_in: float, gaps: bool) -> Trial:
    feel = builder.feel(length_in)
    gap = builder.gap(length_in) if gaps and feel == "loose" else None
    return Trial(number, length_in, feel, gap)


def _settle_repeat(trials: list[Trial], new: Trial) -> list[Trial]:
    """After a contradiction the builder repeats and strikes out what the repeat denies."""
    conflicts = read_bracket(trials, CATALOGUE_RATIO).contradictions if trials else ()
    if not conflicts:
        return [*trials, new]
    first = next(t for t in trials if t.number == conflicts[0].first)
    wrong = conflicts[0].second if new.feel == first.feel else conflicts[0].first
    return [*(t for t in trials if t.number != wrong), new]


def plain_halving(builder: Builder) -> Outcome:
    """One full turn, then half of the step at every change of feel, down to an eighth.

    The estimate is the rod felt as zero, or the middle of an eighth-turn bracket.
    """
    length = ROD.adjuster.snap(builder.expected_in)
    step = ROD.pitch_in
    loose, tight = float("-inf"), float("inf")
    for made in range(1, MOST_TRIALS + 1):
        feel = builder.feel(length)
        if feel == "zero":
            return Outcome(made, length - builder.truth_in)
        if feel == "loose":
            loose = max(loose, length)
        else:
            tight = min(tight, length)
        if 0 < tight - loose <= ROD.pitch_in / 8 + 1e-9:
            return Outcome(made, (loose + tight) / 2 - builder.truth_in)
        if tight < float("inf") and (loose > float("-inf") or feel == "tight"):
            step = max(step / 2, ROD.pitch_in / 8)
        length += step if feel == "loose" else -step
    return Outcome(MOST_TRIALS, float("inf"))


CASES: tuple[tuple[str, Callable[[Builder], Outcome]], ...] = (
    (
        "gaps read, first setting by the program",
        lambda b: with_program(b, gaps=True, follow_first=True),
    ),
    (
        "gaps read, started at the expected length",
        lambda b: with_program(b, gaps=True, follow_first=False),
    ),
    (
        "no gaps, first setting by the program",
        lambda b: with_program(b, gaps=False, follow_first=True),
    ),
    ("plain halving from one full turn", plain_halving),
)


def table(builders: int = 2000, seed: int = 20261125) -> list[list[str]]:
    """Rows: case, mean trials, 95th percentile, share within 0.003 at the end, worst error."""
    rows = []
    for name, run in CASES:
        results = [run(make_builder(seed + k)) for k in range(builders)]
        counts = np.array([r.trials for r in results])
        errors = np.abs([r.error_in for r in results])
        rows.append(
            [
                name,
                f"{counts.mean():.2f}",
                f"{np.percentile(counts, 95):.0f}",
                f"{(errors <= WITHIN_IN).mean():.1%}",
                f"{np.percentile(errors, 99) * 1000:.1f}",
            ]
        )
    return rows
