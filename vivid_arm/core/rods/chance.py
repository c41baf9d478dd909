"""How likely a rod as it arrives gives a preload inside the window, cold and hot.

Source: sums of rectangles and normals by their distributions (JCGM 101:2008); drawn engines
beside it check them.
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from math import erf, exp, hypot, inf, pi, sqrt

import numpy as np

from vivid_arm.core.arrays import Floats


def chance_between(
    low_in: float, high_in: float, mean_in: float, u_in: float, half_width_in: float = 0.0
) -> float:
    """Probability that ``mean + N(0, u²) + U(-a, a)`` lies in the closed span.

    ``half_width_in`` is a: the length tolerance of a rod, as likely anywhere in
    it (GUM 4.3.7). Exact: the normal's distribution integrated over the rectangle,
    z·Phi(z) + phi(z) being its antiderivative.

    >>> round(chance_between(-1.0, 1.0, 0.0, 1.0), 4)
    0.6827
    >>> chance_between(-1.0, 1.0, 0.0, 0.0, 2.0)
    0.5
    """
    above = _below(high_in - mean_in, u_in, half_width_in)
    below = _below(low_in - mean_in, u_in, half_width_in)
    return float(min(max(above - below, 0.0), 1.0))


def _below(edge: float, u: float, half_width: float) -> float:
    if edge == inf:
        return 1.0
    if u <= 0:
        if half_width <= 0:
            return float(edge >= 0)
        return min(max((edge + half_width) / (2 * half_width), 0.0), 1.0)
    if half_width <= u * 1e-6:
        return _phi_total(edge / u)
    high, low = (edge + half_width) / u, (edge - half_width) / u
    return u / (2 * half_width) * (_antiderivative(high) - _antiderivative(low))


def _phi_total(z: float) -> float:
    return 0.5 * (1 + erf(z / sqrt(2)))


def _antiderivative(z: float) -> float:
    return z * _phi_total(z) + exp(-z * z / 2) / sqrt(2 * pi)


ODD_ONE_IN = 25
ODD_U_IN = 0.025
"""A valve nobody measured may be odd (stem, seat): one in how many, how far; common practice."""


@dataclass(frozen=True)
class Chances:
    """A fitted rod's chances: cold inside the window, hot inside it, hot neither loose nor down.

    Hot figures are None where the engine's growth is not entered.
    """

    cold: float
    hot: float | None
    hot_safe: float | None


@dataclass(frozen=True)
class Fitted:
    """A valve with its rod: nominal preload (inches), what is uncertain of it, its limits.

    ``measured_u_in`` is the standard uncertainty of zero lash, ``shared_u_in`` the part of it
    that all valves share, ``tolerance_in`` the half-width of the rod's length; ``top_in`` is
    the most preload that still works (plunger travel; infinite where there is none).
    ``odd``: the chance that the valve is an odd one, not seen because nobody measured it.
    """

    preload_in: float
    measured_u_in: float
    tolerance_in: float
    low_in: float
    high_in: float
    top_in: float
    shared_u_in: float = 0.0
    odd: float = 0.0

    def chance(self, low_in: float, high_in: float, at_in: float, u_in: float) -> float:
        """That ``at_in``, known to ``u_in`` and the rod's tolerance, lies in the span."""
        sound = chance_between(low_in, high_in, at_in, u_in, self.tolerance_in)
        if not self.odd:
            return sound
        wide = chance_between(low_in, high_in, at_in, hypot(u_in, ODD_U_IN), self.tolerance_in)
        return (1 - self.odd) * sound + self.odd * wide


def odds(fitted: Fitted, growth_in: float | None = None, growth_u_in: float = 0.0) -> Chances:
    """The chances worked out; ``growth_in`` is the cold-to-hot change of preload, inches."""
    f = fitted
    cold = f.chance(f.low_in, f.high_in, f.preload_in, f.measured_u_in)
    if growth_in is None:
        return Chances(cold, None, None)
    hot, u = f.preload_in + growth_in, sqrt(f.measured_u_in**2 + growth_u_in**2)
    return Chances(cold, f.chance(f.low_in, f.high_in, hot, u), f.chance(0.0, f.top_in, hot, u))


def all_inside(fitted: Sequence[Fitted]) -> float:
    """Probability that every valve is inside its window, cold.

    What all share moves them together: integrated by Gauss and Hermite's rule, the rest being
    independent from valve to valve.
    """
    shared = any(f.shared_u_in for f in fitted)
    alike = Counter(fitted)
    nodes, weights = np.polynomial.hermite_e.hermegauss(61 if shared else 1)
    total = 0.0
    for node, weight in zip(nodes, weights / weights.sum(), strict=True):
        chance = 1.0
        for f, count in alike.items():
            own = sqrt(max(f.measured_u_in**2 - f.shared_u_in**2, 0.0))
            at_in = f.preload_in + node * f.shared_u_in
            chance *= f.chance(f.low_in, f.high_in, at_in, own) ** count
        total += weight * chance
    return float(total)


def simulate_odds(
    fitted: Sequence[Fitted],
    growth_draws: Sequence[Floats | None],
    draws: int,
    rng: np.random.Generator,
) -> list[Chances]:
    """The same chances counted over ``draws`` fitted engines: the check on ``odds``.

    ``growth_draws`` holds (draws,) changes for each valve, shared where valves share
    an engine's growth.
    """
    found = []
    for f, change in zip(fitted, growth_draws, strict=True):
        cold = rng.standard_normal(draws, dtype=np.float32) * np.float32(f.measured_u_in)
        if f.odd:
            strayed = rng.standard_normal(draws, dtype=np.float32) * np.float32(ODD_U_IN)
            cold += np.where(rng.random(draws) < f.odd, strayed, np.float32(0))
        if f.tolerance_in:
            anywhere = rng.random(draws, dtype=np.float32) - np.float32(0.5)
            cold += anywhere * np.float32(2 * f.tolerance_in)
        cold += np.float32(f.preload_in)
        inside = float(np.mean((cold >= f.low_in) & (cold <= f.high_in)))
        if change is None:
            found.append(Chances(inside, None, None))
            continue
        hot = cold + change
        found.append(
            Chances(
                inside,
                float(np.mean((hot >= f.low_in) & (hot <= f.high_in))),
                float(np.mean((hot >= 0) & (hot <= f.top_in))),
            )
        )
    return found
