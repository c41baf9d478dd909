"""A crossed gauge study: how much of a reading's scatter is the hand's, the tool's, the person's.

A reading is its valve's zero lash, and what the person adds, what the tool adds, what this
person adds on this valve, and what is left when the same hand reads it again. Valves may differ
as they like; the others are drawn, and their variances found by restricted maximum likelihood.
For a balanced study that gives what the analysis of variance gives.

Source: Patterson and Thompson, Biometrika 58 (1971) 545-554; Searle, Casella and McCulloch,
Variance Components (1992), chapter 6; the crossed layout is that of ISO/TR 12888:2011.
"""

from collections import defaultdict
from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from math import sqrt
from typing import Literal

import numpy as np
from scipy.linalg import block_diag, cho_factor, cho_solve, helmert
from scipy.optimize import minimize
from scipy.stats import chi2

from vivid_arm.core.arrays import Floats

Component = Literal["person", "tool", "person_by_valve", "repeat"]
COMPONENTS: tuple[Component, ...] = ("person", "tool", "person_by_valve", "repeat")
MOST_READINGS = 400
"""More tell nothing new, and take long."""
_ALIKE = 1e-6
_LEAST_FREEDOM = 3


@dataclass(frozen=True)
class StudyReading:
    """One reading of a valve's zero lash, inches: by whom, with what, read in what steps."""

    valve: str
    person: str
    tool: str
    length_in: float
    step_in: float = 0.0


@dataclass(frozen=True)
class Variance:
    """A part of the scatter as a standard deviation, inches, and 95 % limits where known.

    ``told``: whether the readings can tell it from the others at all.
    """

    component: Component
    sd_in: float
    most_in: float | None
    told: bool


@dataclass(frozen=True)
class Own:
    """What one person, or one tool, reads like.

    ``offset_in``: how much longer it reads than all of them do on the whole, with its standard
    uncertainty; None where nothing else read the same valves. ``repeat_in``: its own scatter
    when it reads a valve again, with 95 % limits; None before three such repeats. What a tool
    reads in steps scatters by its step over root twelve at least.
    """

    name: str
    readings: int
    offset_in: float | None
    offset_u_in: float | None
    repeat_in: float | None
    repeat_low_in: float | None
    repeat_high_in: float | None
    freedom: int


@dataclass(frozen=True)
class GaugeStudy:
    """A study: how many readings of how many valves, the parts of their scatter, who and what."""

    readings: int
    valves: int
    variances: tuple[Variance, ...]
    persons: tuple[Own, ...]
    tools: tuple[Own, ...]

    @property
    def gauge_in(self) -> float:
        """Everything but the valve, as one standard deviation, inches."""
        return sqrt(sum(v.sd_in**2 for v in self.variances))

    def sd_in(self, component: Component) -> float:
        """One part of the scatter, inches."""
        return next(v.sd_in for v in self.variances if v.component == component)


def _least_in(readings: Sequence[StudyReading]) -> float:
    """What a step leaves open of a reading, whatever agrees (GUM F.2.2.1): its u, inches."""
    return float(np.sqrt(np.mean([r.step_in**2 / 12 for r in readings])))


def gauge_study(readings: Sequence[StudyReading]) -> GaugeStudy | None:
    """The study of the readings of valves that were read more than once; None without any.

    Of more than 400 the last ones are taken.
    """
    by_valve: dict[str, list[StudyReading]] = defaultdict(list)
    for reading in readings[-MOST_READINGS:]:
        by_valve[reading.valve].append(reading)
    again = [r for own in by_valve.values() if len(own) > 1 for r in own]
    if not again:
        return None
    model = _Model(again)
    theta = model.fit()
    return GaugeStudy(
        len(again),
        len({r.valve for r in again}),
        model.variances(theta),
        model.own("person", theta),
        model.own("tool", theta),
    )


class _Model:
    """Contrasts of readings within their valves, and what each random part does to them."""

    def __init__(self, readings: Sequence[StudyReading]) -> None:
        self.readings = sorted(readings, key=lambda r: r.valve)
        counts: dict[str, int] = defaultdict(int)
        for reading in self.readings:
            counts[reading.valve] += 1
        self._contrasts: Floats = block_diag(*(helmert(n) for n in counts.values()))
        lengths = np.array([r.length_in for r in self.readings])
        self._z: Floats = self._contrasts @ lengths
        self._scale = float(np.sqrt(np.mean(self._z**2))) or 1e-6
        self._z = self._z / self._scale
        self.levels = {
            "person": self._designed([r.person for r in self.readings]),
            "tool": self._designed([r.tool for r in self.readings]),
            "person_by_valve": self._designed([(r.person, r.valve) for r in self.readings]),
        }
        self.told = self._told()

    def _designed(self, values: Sequence[Hashable]) -> tuple[list[Hashable], Floats]:
        """The levels of a factor, and their columns (n, k) seen through the contrasts."""
        levels = list(dict.fromkeys(values))
        columns = np.array([[float(v == level) for level in levels] for v in values])
        return levels, self._contrasts @ columns

    def _told(self) -> list[Component]:
        """The parts that the layout can tell from those before them, and from the repeats."""
        size = len(self._z)
        known = [np.eye(size).ravel()]
        found: list[Component] = []
        for name in COMPONENTS[:-1]:
            through = self.levels[name][1]
            shape = (through @ through.T).ravel()
            if np.linalg.norm(shape) < _ALIKE:
                continue
            basis = np.array(known).T
            rest = shape - basis @ np.linalg.lstsq(basis, shape, rcond=None)[0]
            if np.linalg.norm(rest) > _ALIKE * np.linalg.norm(shape):
                known.append(shape)
                found.append(name)
        return found

    def _covariance(self, theta: Floats) -> Floats:
        found = np.eye(len(self._z)) * theta[-1]
        for name, variance in zip(self.told, theta, strict=False):
            through = self.levels[name][1]
            found += variance * through @ through.T
        return np.asarray(found, dtype=np.float64)

    def _loss(self, theta: Floats) -> tuple[float, Floats]:
        """Minus twice the restricted log likelihood, less a constant, and its slope."""
        factor = cho_factor(self._covariance(theta), lower=True)
        inverse = cho_solve(factor, np.eye(len(self._z)))
        weighed = inverse @ self._z
        slope = np.empty(len(theta))
        for k, name in enumerate(self.told):
            through = self.levels[name][1]
            slope[k] = np.sum((inverse @ through) * through) - np.sum((through.T @ weighed) ** 2)
        slope[-1] = np.trace(inverse) - weighed @ weighed
        size = 2 * float(np.log(np.diag(factor[0])).sum())
        return size + float(self._z @ weighed), slope

    def fit(self) -> Floats:
        """The variances of the parts that can be told, the repeats' last; in the scale of z."""
        start = np.full(len(self.told) + 1, 1 / (len(self.told) + 1))
        least = (_least_in(self.readings) / self._scale) ** 2
        bounds = [(0.0, None)] * len(self.told) + [(max(least, 1e-6), None)]
        found = minimize(
            self._loss, start, jac=True, bounds=bounds, method="L-BFGS-B",
            options={"ftol": 1e-13, "gtol": 1e-8, "maxiter": 500},
        )  # fmt: skip
        return np.asarray(found.x, dtype=np.float64)

    def _information(self, theta: Floats) -> Floats:
        """Standard uncertainties of the variances, by the expected information."""
        inverse = np.linalg.inv(self._covariance(theta))
        shapes = [self.levels[name][1] @ self.levels[name][1].T for name in self.told]
        seen = [inverse @ shape for shape in shapes] + [inverse]
        information = np.array([[np.sum(a * b.T) / 2 for b in seen] for a in seen])
        variances: Floats = np.diag(np.linalg.pinv(information))
        return np.asarray(np.sqrt(np.maximum(variances, 0.0)), dtype=np.float64)

    def variances(self, theta: Floats) -> tuple[Variance, ...]:
        """The parts of the scatter; one that cannot be told is in the others."""
        u = self._information(theta)
        names: list[Component] = [*self.told, "repeat"]
        by_name = dict(zip(names, zip(theta, u, strict=True), strict=True))
        found = []
        for name in COMPONENTS:
            value, within = by_name.get(name, (0.0, 0.0))
            most = self._scale * sqrt(value + 1.96 * within) if name in by_name else None
            sd = self._scale * sqrt(max(value, 0.0))
            found.append(Variance(name, sd, most, name in by_name))
        return tuple(found)

    def own(self, factor: Literal["person", "tool"], theta: Floats) -> tuple[Own, ...]:
        """Every person or tool, those that read most first."""
        offsets = self._offsets(factor, theta)
        found = []
        for name in self.levels[factor][0]:
            count = sum(getattr(r, factor) == name for r in self.readings)
            offset, within = offsets.get(str(name), (None, None))
            found.append(Own(str(name), count, offset, within, *self._repeat(factor, str(name))))
        return tuple(sorted(found, key=lambda own: (-own.readings, own.name)))

    def _offsets(
        self, factor: Literal["person", "tool"], theta: Floats
    ) -> dict[str, tuple[float, float]]:
        """The best linear predictions of what each level adds, with their uncertainties.

        Never surer than that many repeats are, also where the variance itself comes out as 0.
        """
        if factor not in self.told:
            return {}
        variance = theta[self.told.index(factor)]
        levels, through = self.levels[factor]
        inverse = np.linalg.inv(self._covariance(theta))
        added = variance * through.T @ inverse @ self._z
        left = variance - variance**2 * np.einsum("ik,ij,jk->k", through, inverse, through)
        counts = np.array([sum(getattr(r, factor) == n for r in self.readings) for n in levels])
        u = np.sqrt(np.maximum(left, theta[-1] / counts))
        return {
            str(level): (float(self._scale * a), float(self._scale * b))
            for level, a, b in zip(levels, added, u, strict=True)
        }

    def _repeat(
        self, factor: str, name: str
    ) -> tuple[float | None, float | None, float | None, int]:
        """Pooled scatter of repeats by the same person with the same tool, 95 % by chi square."""
        cells: dict[tuple[str, str, str], list[float]] = defaultdict(list)
        for r in self.readings:
            if getattr(r, factor) == name:
                cells[r.valve, r.person, r.tool].append(r.length_in)
        freedom = sum(len(own) - 1 for own in cells.values())
        if freedom < _LEAST_FREEDOM:
            return None, None, None, freedom
        squares = sum(float(np.sum((np.array(x) - np.mean(x)) ** 2)) for x in cells.values())
        least = _least_in([r for r in self.readings if getattr(r, factor) == name])
        at_low, at_high = (float(x) for x in chi2.ppf((0.975, 0.025), freedom))
        sd, low, high = (max(sqrt(squares / n), least) for n in (freedom, at_low, at_high))
        return sd, low, high, freedom
