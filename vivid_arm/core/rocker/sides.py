"""The ways readings can be understood: each cut to its side of the exact mid-lift, near ones one.

A mark's width tells how far the mid-lift rule is missed, not which way. On each side the
readings are understood by a smooth fit that knows nothing of the side's end; what lies beyond
the end is cut away, and what is left keeps the weight of its share. Two sides that lie within
each other's uncertainty say the same thing and become one.

Source: truncated normal distribution, textbook; Laplace's approximation of the evidence.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from math import log, sqrt

import numpy as np
from scipy.special import log_ndtr
from scipy.stats import truncnorm

from vivid_arm.core.arrays import Floats

_NOTHING = 1e-4
_FAR = 30.0


@dataclass(frozen=True)
class Branch:
    """One of the ways the readings can be understood.

    ``unknowns`` (10) and their covariance, the logarithm of its ``evidence``, its ``weight``
    among all ways, and the mid-lift error with its standard uncertainty, inches. ``whole``
    where nothing was cut away from it and nothing joined to it.
    """

    unknowns: Floats
    signs: tuple[int, ...]
    covariance: Floats
    evidence: float
    weight: float
    error_in: float
    error_u_in: float
    whole: bool = False


def part_between(whole: Branch, slopes: Floats, low_in: float, high_in: float) -> Branch | None:
    """What of a branch lies between two mid-lift errors; None where next to nothing does.

    ``slopes`` (10) are those of the mid-lift error.
    """
    mean, u = whole.error_in, whole.error_u_in
    first, last = (low_in - mean) / u, (high_in - mean) / u
    if first >= last or first > _FAR or last < -_FAR:
        return None
    share = _log_share(first, last)
    if share > log(1 - _NOTHING):
        return whole
    centre, variance = (float(x) for x in truncnorm.stats(first, last, moments="mv"))
    if not (np.isfinite(share) and variance > 0):
        return None
    along = whole.covariance @ slopes / u**2
    cut = u**2 * (1 - variance)
    return Branch(
        whole.unknowns + along * centre * u,
        whole.signs,
        whole.covariance - np.outer(along, along) * cut,
        whole.evidence + share,
        0.0,
        mean + centre * u,
        u * sqrt(variance),
    )


def _log_share(first: float, last: float) -> float:
    """The logarithm of a normal distribution's share between two standard scores."""
    if first > 0:
        first, last = -last, -first
    upper, lower = float(log_ndtr(last)), float(log_ndtr(first))
    return upper + float(np.log1p(-np.exp(min(lower - upper, 0.0))))


def merged(found: Sequence[Branch]) -> tuple[Branch, ...]:
    """The branches by weight, those whose two uncertainties overlap made one."""
    most = max(b.evidence for b in found)
    raw = np.exp([b.evidence - most for b in found])
    weighed = [
        replace(b, weight=float(w))
        for b, w in zip(found, raw / raw.sum(), strict=True)
        if w / raw.sum() > _NOTHING
    ]
    groups: list[Branch] = []
    for branch in sorted(weighed, key=lambda b: b.error_in):
        if groups and _same(groups[-1], branch):
            groups[-1] = _joined(groups[-1], branch)
        else:
            groups.append(branch)
    return tuple(sorted(groups, key=lambda b: -b.weight))


def _same(one: Branch, other: Branch) -> bool:
    apart = abs(one.error_in - other.error_in)
    return apart <= 2 * (one.error_u_in + other.error_u_in)


def _joined(one: Branch, other: Branch) -> Branch:
    """Two branches as one: mean and spread of both by their weights."""
    weight = one.weight + other.weight
    p, q = one.weight / weight, other.weight / weight
    apart = one.unknowns - other.unknowns
    error = p * one.error_in + q * other.error_in
    heavier = one if p >= q else other
    spread = p * one.error_u_in**2 + q * other.error_u_in**2
    return Branch(
        p * one.unknowns + q * other.unknowns,
        heavier.signs,
        p * one.covariance + q * other.covariance + p * q * np.outer(apart, apart),
        max(one.evidence, other.evidence),
        weight,
        error,
        sqrt(spread + p * q * (one.error_in - other.error_in) ** 2),
        whole=min(p, q) < _NOTHING and heavier.whole,
    )
