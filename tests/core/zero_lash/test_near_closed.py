"""The ratio near closed learned from pairs of gaps, against NumPy's fit and simulation."""

import numpy as np
import pytest

from vivid_arm.core.zero_lash.bracket import Trial
from vivid_arm.core.zero_lash.near_closed import learned_ratio

PRIOR, SD = 1.74, 0.10


def test_two_gaps_are_their_slope() -> None:
    """Derived by hand: 40 thou of rod close 70 thou of gap, R0 1.75, known to 0.053."""
    trials = [Trial(1, 7.30, "loose", 0.085), Trial(2, 7.34, "loose", 0.015)]
    value, u = learned_ratio([trials], PRIOR, 10.0)
    assert value == pytest.approx(1.75, abs=1e-3)
    assert u == pytest.approx(0.0015 * 2**0.5 / 0.040, rel=1e-3)


def test_many_gaps_against_numpys_fit() -> None:
    rng = np.random.default_rng(3)
    x = np.array([7.30, 7.31, 7.33, 7.345])
    gaps = 1.8 * (7.36 - x) + rng.normal(0, 0.0015, 4)
    trials = [
        Trial(i, float(a), "loose", float(g)) for i, (a, g) in enumerate(zip(x, gaps, strict=True))
    ]
    value, _ = learned_ratio([trials], PRIOR, 100.0)
    assert value == pytest.approx(-np.polyfit(x, gaps, 1)[0], rel=1e-6)


def test_valves_of_a_kind_share_it() -> None:
    rng = np.random.default_rng(8)
    errors, stated = [], []
    for _ in range(200):
        true = PRIOR + rng.normal() * SD
        valves = [
            [Trial(n, z - d, "loose", max(true * d + rng.normal() * 0.0015, 0.001))
             for n, d in enumerate((0.040, 0.006))]
            for z in 7.4 + rng.normal(0, 0.01, 8)
        ]  # fmt: skip
        value, u = learned_ratio(valves, PRIOR, SD)
        errors.append(value - true)
        stated.append(u)
    assert np.std(errors) == pytest.approx(np.mean(stated), rel=0.15)
    assert np.mean(stated) < SD / 4


def test_what_tells_nothing_or_cannot_be() -> None:
    one = [Trial(1, 7.3, "loose", 0.05)]
    close = [Trial(1, 7.300, "loose", 0.05), Trial(2, 7.302, "loose", 0.047)]
    wrong = [Trial(1, 7.30, "loose", 0.05), Trial(2, 7.34, "loose", 0.09)]
    far = [Trial(1, 7.10, "loose", 0.40), Trial(2, 7.20, "loose", 0.22)]
    for trials in ([], one, close, wrong, far, [Trial(1, 7.3, "zero"), Trial(2, 7.4, "tight")]):
        assert learned_ratio([trials], PRIOR, SD) == (pytest.approx(PRIOR), pytest.approx(SD))
