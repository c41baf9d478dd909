"""The hand that feels a rod: how wide its zero is, how it scatters, how far it lies off.

Nobody knows his own hand, so that every reading is weighed by each hand it may have been
felt with. The trials of the other valves, their gaps and their repeats tell which it is.

Source: figures of feel are common practice; Bayes' rule.
"""

from collections.abc import Sequence
from functools import lru_cache
from math import exp, sqrt
from typing import NamedTuple

import numpy as np

from vivid_arm.core.arrays import Floats

_BANDS_IN = (0.001, 0.0025)
_SCATTERS_IN = {0.001: 0.5, 0.002: 0.3, 0.004: 0.2}
_BIASES_IN = (-0.003, -0.002, -0.001, 0.0, 0.001, 0.002, 0.003)
_BIAS_SD_IN = 0.0015


class Hand(NamedTuple):
    """One hand, inches, and how likely it is.

    ``band_in``: half-width of the lengths felt as zero. ``sd_in``: scatter of one feel.
    ``bias_in``: how much shorter than the true zero its middle of zero lies.
    """

    band_in: float
    sd_in: float
    bias_in: float = 0.0
    weight: float = 1.0


Weights = tuple[float, ...]
"""How likely each of some hands is."""


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


@lru_cache(maxsize=64)
def unweighed(hands: tuple[Hand, ...]) -> tuple[Hand, ...]:
    """The same hands, none likelier than another."""
    return tuple(Hand(*h[:3]) for h in hands)


def weights_of(hands: Sequence[Hand]) -> Weights:
    """How likely each hand is by itself."""
    return tuple(h.weight for h in hands)


@lru_cache(maxsize=256)
def reach_in(hands: tuple[Hand, ...], weights: Weights) -> float:
    """Half-width of what one zero can mean: the band and one and a half of the scatter."""
    each = [h.band_in + 1.5 * h.sd_in for h in hands]
    return sum(w * reach for w, reach in zip(weights, each, strict=True))


@lru_cache(maxsize=256)
def spread_in(hands: tuple[Hand, ...], weights: Weights) -> float:
    """Standard uncertainty of one zero, inches: band, scatter and bias (GUM 4.3.7, 5.1.2)."""
    each = [h.band_in**2 / 3 + h.sd_in**2 + h.bias_in**2 for h in hands]
    return sqrt(sum(w * square for w, square in zip(weights, each, strict=True)))


def learned_hands(hands: Sequence[Hand], log_evidence: Sequence[Floats]) -> tuple[Hand, ...]:
    """The same hands weighed anew by what each valve's trials say of them.

    ``log_evidence`` holds one array (n,) a valve: how likely its trials are by each hand.
    """
    weights = learned_weights(hands, log_evidence)
    return tuple(Hand(*h[:3], w) for h, w in zip(hands, weights, strict=True))


def learned_weights(hands: Sequence[Hand], log_evidence: Sequence[Floats]) -> Weights:
    """How likely each hand is by what each valve's trials say of it."""
    if not log_evidence:
        return weights_of(hands)
    return _by_evidence(hands, np.sum(log_evidence, axis=0)[None])[0]


def learned_by_others(hands: Sequence[Hand], log_evidence: Sequence[Floats]) -> list[Weights]:
    """For each valve that tells of the hands: how likely each is by all the others."""
    if len(log_evidence) < 2:
        return [weights_of(hands)] * len(log_evidence)
    every = np.array(log_evidence)
    return _by_evidence(hands, every.sum(axis=0) - every)


def _by_evidence(hands: Sequence[Hand], evidence: Floats) -> list[Weights]:
    """How likely each hand is by each row of evidence (m, n)."""
    log_w = np.log(weights_of(hands)) + evidence
    weights = np.exp(log_w - log_w.max(axis=1, keepdims=True))
    weights = np.round(weights / weights.sum(axis=1, keepdims=True), 4) + 1e-6
    weights /= weights.sum(axis=1, keepdims=True)
    return [tuple(row) for row in weights.tolist()]
