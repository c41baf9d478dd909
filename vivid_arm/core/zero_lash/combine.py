"""One zero-lash length from several measurements: weighed, tested, the odd one named.

Components that two measurements share, such as the ratio or one caliper, make them
correlated (JCGM 100:2008, GUM, 5.2).

Source: as above; the test of agreement is chi-squared over the weighted
residuals.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import sqrt

import numpy as np
from scipy.special import chdtrc

from vivid_arm.core.arrays import Floats
from vivid_arm.core.zero_lash.methods import Measure

LEAST_PROBABILITY = 0.01


_LEAST_U_IN = 1e-7


@dataclass(frozen=True)
class Combined:
    """One zero-lash length from several measurements, inches.

    ``weights`` belong to ``used``. ``probability`` that measurements which agree
    would differ as much; ``odd`` is the one the others speak against. Without an
    estimate two measurements disagree and nothing tells which is wrong. ``set_aside`` are
    counts of turns that do not overturn a bracket that was counted back.
    """

    estimate_in: float | None
    u_in: float | None
    used: tuple[Measure, ...]
    weights: tuple[float, ...]
    probability: float
    odd: Measure | None
    set_aside: tuple[Measure, ...] = ()

    @property
    def consistent(self) -> bool:
        return self.estimate_in is not None and self.odd is None


def combine(measures: Sequence[Measure]) -> Combined | None:
    """Weigh measurements by their covariance, test that they agree, name the odd one out.

    Generalised least squares with weights kept at zero or above; agreement by
    chi-squared at 1 % (with n - 1 degrees of freedom). When it fails with three
    or more, the one without which the rest agree best is left out; when no rest
    agrees there is no estimate. None when nothing gives a zero-lash length.
    """
    known = [m for m in measures if m.zero_lash_in is not None]
    if not known:
        return None
    estimate, u, weights = _weigh(known)
    probability = _agreement(known)
    if probability >= LEAST_PROBABILITY:
        return Combined(estimate, u, tuple(known), weights, probability, None)
    rests = [[m for m in known if m is not left] for left in known]
    chances = [_agreement(rest) for rest in rests] if len(known) > 2 else [0.0]
    best = int(np.argmax(chances))
    if chances[best] < LEAST_PROBABILITY:
        return Combined(None, None, tuple(known), weights, probability, None)
    rest = rests[best]
    estimate, u, weights = _weigh(rest)
    return Combined(estimate, u, tuple(rest), weights, probability, known[best])


def beside_bracket(bracket: Measure, measures: Sequence[Measure]) -> Combined | None:
    """A settled bracket that was counted back, and what was measured beside it.

    A coarse count of the fastener's turns never overturns it (common practice): where it does
    not fit it is set aside.
    """
    found = combine([bracket, *measures])
    if found is None or found.consistent:
        return found
    fine = combine([bracket, *(m for m in measures if m.method != "turns")])
    if fine is None or not fine.consistent:
        return found
    return replace(fine, set_aside=tuple(m for m in measures if m.method == "turns"))


def covariance(measures: Sequence[Measure]) -> Floats:
    """Covariance (n, n) of zero-lash lengths, square inches; shared keys correlate fully."""
    n = len(measures)
    found = np.eye(n) * _LEAST_U_IN**2
    for i, a in enumerate(measures):
        for j, b in enumerate(measures):
            for x in a.components:
                for y in b.components:
                    if (x is y and i == j) or (x.key and x.key == y.key):
                        found[i, j] += x.u_in * y.u_in
    return found


def _weigh(measures: Sequence[Measure]) -> tuple[float, float, tuple[float, ...]]:
    c = covariance(measures)
    values = np.array([m.zero_lash_in for m in measures], dtype=np.float64)
    active = list(range(len(measures)))
    while True:
        inverse = np.linalg.inv(c[np.ix_(active, active)])
        part = inverse.sum(axis=0) / inverse.sum()
        if part.min() >= 0:
            break
        active.pop(int(np.argmin(part)))
    weights = np.zeros(len(measures))
    weights[active] = part
    return float(weights @ values), float(sqrt(weights @ c @ weights)), tuple(weights.tolist())


def _agreement(measures: Sequence[Measure]) -> float:
    """Probability of a chi-squared at least this great if the measurements agree."""
    if len(measures) < 2:
        return 1.0
    values = np.array([m.zero_lash_in for m in measures], dtype=np.float64)
    inverse = np.linalg.inv(covariance(measures))
    mean = float(inverse.sum(axis=0) @ values / inverse.sum())
    off = values - mean
    return float(chdtrc(len(measures) - 1, off @ inverse @ off))
