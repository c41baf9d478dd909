"""What a shop's engines say together: spread of a kind, R0 against the catalogue, predictions.

Source: pooled standard deviation and its chi-square limits, NIST/SEMATECH e-Handbook of
Statistical Methods, 7.2.3 and 7.3.1; a mean of values that differ among themselves, DerSimonian
and Laird, Controlled Clinical Trials 7 (1986) 177-188.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from math import exp, log, sqrt

import numpy as np
from scipy.stats import chi2

from vivid_arm.core.arrays import Floats
from vivid_arm.core.zero_lash.hand import USUAL_HANDS, Hand, learned_hands

LEAST_ENGINES = 5
"""Fewer engines are told of, and not started from."""
_SAME_HAND = 0.7
"""How far a hand is taken for the one it was on other days: common practice knows no figure."""


@dataclass(frozen=True)
class Pooled:
    """Standard deviation within groups, inches, with 95 % limits, its freedom, the worst range."""

    sd_in: float
    low_in: float
    high_in: float
    freedom: int
    groups: int
    worst_in: float


def pooled_spread(groups: Sequence[Sequence[float]]) -> Pooled | None:
    """How far the valves of a kind lie apart within an engine; None without two of one kind."""
    several = [np.array(g) for g in groups if len(g) > 1]
    freedom = sum(len(g) - 1 for g in several)
    if not freedom:
        return None
    squares = sum(float(np.sum((g - g.mean()) ** 2)) for g in several)
    low, high = (float(x) for x in chi2.ppf((0.975, 0.025), freedom))
    worst = max(float(np.ptp(g)) for g in several)
    limits = sqrt(squares / low), sqrt(squares / high)
    return Pooled(sqrt(squares / freedom), *limits, freedom, len(several), worst)


@dataclass(frozen=True)
class Held:
    """Predictions against what was found: how many, their mean error and its root mean square.

    Inches. ``in_u``: the root mean square in units of the uncertainty stated with each; about 1
    where that is right, more where predictions are surer than they may be.
    """

    count: int
    mean_in: float
    rms_in: float
    in_u: float


def predictions_held(pairs: Sequence[tuple[float, float]]) -> Held | None:
    """Found less predicted, and the standard uncertainty of that difference, inches, each."""
    if not pairs:
        return None
    off, u = np.array(pairs).T
    return Held(
        len(off), float(off.mean()), float(np.sqrt(np.mean(off**2))),
        float(np.sqrt(np.mean((off / u) ** 2))),
    )  # fmt: skip


@dataclass(frozen=True)
class Factor:
    """R0 over the catalogue's ratio in this shop's engines: its mean, and what is open of it.

    ``mean_u``: standard uncertainty of the mean. ``spread``: how far engines differ. ``next_u``:
    of the next engine's.
    """

    mean: float
    mean_u: float
    spread: float
    engines: int

    @property
    def next_u(self) -> float:
        return sqrt(self.mean_u**2 + self.spread**2)


def ratio_factor(known: Sequence[tuple[float, float]]) -> Factor | None:
    """The factor from each engine's R0 over its catalogue ratio with its standard uncertainty.

    None before two engines.
    """
    if len(known) < 2:
        return None
    value, u = np.array(known).T
    w = 1 / u**2
    middle = float(w @ value / w.sum())
    heterogeneity = float(w @ (value - middle) ** 2) - (len(value) - 1)
    between = max(heterogeneity / float(w.sum() - (w @ w) / w.sum()), 0.0)
    w = 1 / (u**2 + between)
    return Factor(
        float(w @ value / w.sum()), float(w.sum() ** -0.5), sqrt(between), len(value)
    )  # fmt: skip


def shop_hand(log_evidence: Sequence[Floats]) -> tuple[Hand, ...]:
    """A hand as its earlier engines tell it, weighed with the usual ones: hands change by day."""
    learned = learned_hands(USUAL_HANDS, list(log_evidence))
    return tuple(
        Hand(new.band_in, new.sd_in, new.bias_in,
             _SAME_HAND * new.weight + (1 - _SAME_HAND) * usual.weight)
        for new, usual in zip(learned, USUAL_HANDS, strict=True)
    )  # fmt: skip


def hand_figures(hands: Sequence[Hand]) -> tuple[float, float, float]:
    """Scatter of one feel, how far short its zero lies, and the u of that: inches."""
    whole = sum(h.weight for h in hands)
    scatter = exp(sum(h.weight * log(h.sd_in) for h in hands) / whole)
    short = sum(h.weight * h.bias_in for h in hands) / whole
    square = sum(h.weight * (h.bias_in - short) ** 2 for h in hands) / whole
    return scatter, short, sqrt(square)
