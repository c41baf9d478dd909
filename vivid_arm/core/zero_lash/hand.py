"""The hand that feels a rod: how wide its zero is, how it scatters, how far it lies off.

Nobody knows his own hand, so that every reading is weighed by each hand it may have been
felt with. The trials of the other valves, their gaps and their repeats tell which it is.

Source: figures of feel are common practice; Bayes' rule.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from math import exp, sqrt

import numpy as np
from propcache.api import cached_property

from vivid_arm.core.arrays import Floats

_BANDS_IN = (0.001, 0.0025)
_SCATTERS_IN = {0.001: 0.5, 0.002: 0.3, 0.004: 0.2}
_BIASES_IN = (-0.003, -0.002, -0.001, 0.0, 0.001, 0.002, 0.003)
_BIAS_SD_IN = 0.0015


@dataclass(frozen=True)
class Hand:
    """One hand, inches, and how likely it is.

    ``band_in``: half-width of the lengths felt as zero. ``sd_in``: scatter of one feel.
    ``bias_in``: how much shorter than the true zero its middle of zero lies.
    """

    band_in: float
    sd_in: float
    bias_in: float = 0.0
    weight: float = 1.0

    def __hash__(self) -> int:
        return self._hash

    @cached_property
    def _hash(self) -> int:
        return hash((self.band_in, self.sd_in, self.bias_in, self.weight))


def _usual() -> tuple[Hand, ...]:
    by_bias = {b: exp(-0.5 * (b / _BIAS_SD_IN) ** 2) for b in _BIASES_IN}
    share = sum(by_bias.values()) * len(_BANDS_IN)
    return tuple(
        Hand(band, sd, bias, by_scatter * w / share)
        for band in _BANDS_IN
        for sd, by_scatter in _SCATTERS_IN.items()
        for bias, w in by_bias.items()
    )


USUAL_HANDS = _usual()
"""A hand nobody knows: usually a thou of scatter, dull ones four; its zero up to 3 thou off."""


@lru_cache(maxsize=16)
def unweighed(hands: tuple[tuple[float, float, float], ...]) -> tuple[Hand, ...]:
    """Hands by band, scatter and bias, none likelier than another."""
    return tuple(Hand(*hand) for hand in hands)


@lru_cache(maxsize=256)
def reach_in(hands: tuple[Hand, ...]) -> float:
    """Half-width of what one zero can mean: the band and one and a half of the scatter."""
    return sum(h.weight * (h.band_in + 1.5 * h.sd_in) for h in hands)


@lru_cache(maxsize=256)
def spread_in(hands: tuple[Hand, ...]) -> float:
    """Standard uncertainty of one zero, inches: band, scatter and bias (GUM 4.3.7, 5.1.2)."""
    each = [(h.weight, h.band_in**2 / 3 + h.sd_in**2 + h.bias_in**2) for h in hands]
    return sqrt(sum(w * square for w, square in each))


def learned_hands(hands: Sequence[Hand], log_evidence: Sequence[Floats]) -> tuple[Hand, ...]:
    """The same hands weighed anew by what each valve's trials say of them.

    ``log_evidence`` holds one array (n,) a valve: how likely its trials are by each hand.
    """
    if not log_evidence:
        return tuple(hands)
    return _by_evidence(tuple(hands), np.sum(log_evidence, axis=0)[None])[0]


def learned_by_others(
    hands: Sequence[Hand], log_evidence: Sequence[Floats]
) -> list[tuple[Hand, ...]]:
    """For each valve that tells of the hands: the hands weighed by all the others."""
    if len(log_evidence) < 2:
        return [tuple(hands)] * len(log_evidence)
    every = np.array(log_evidence)
    return _by_evidence(tuple(hands), every.sum(axis=0) - every)


def _by_evidence(hands: tuple[Hand, ...], evidence: Floats) -> list[tuple[Hand, ...]]:
    """The hands weighed anew by each row of evidence (m, n)."""
    log_w = np.log([h.weight for h in hands]) + evidence
    weights = np.exp(log_w - log_w.max(axis=1, keepdims=True))
    weights = np.round(weights / weights.sum(axis=1, keepdims=True), 4) + 1e-6
    weights /= weights.sum(axis=1, keepdims=True)
    return [_weighed(hands, tuple(row)) for row in weights.tolist()]


@lru_cache(maxsize=512)
def _weighed(hands: tuple[Hand, ...], weights: tuple[float, ...]) -> tuple[Hand, ...]:
    return tuple(
        Hand(h.band_in, h.sd_in, h.bias_in, w) for h, w in zip(hands, weights, strict=True)
    )
