"""What engines say together, against closed forms and simulated shops."""

import numpy as np
import pytest
from scipy import stats

from vivid_arm.core.shop.learned import (
    hand_figures,
    pooled_spread,
    predictions_held,
    ratio_factor,
    shop_hand,
)
from vivid_arm.core.zero_lash.hand import USUAL_HANDS


def test_a_spread_is_pooled_within_engines() -> None:
    """Engines may differ by what they like; one valve of a kind tells nothing."""
    found = pooled_spread([[7.000, 7.002], [8.000, 8.004], [9.0]])
    assert found is not None
    assert (found.freedom, found.groups) == (2, 2)
    assert found.sd_in == pytest.approx(((0.002**2 + 0.004**2) / 2 / 2) ** 0.5)
    assert found.worst_in == pytest.approx(0.004)
    assert pooled_spread([[7.0], []]) is None


def test_limits_of_a_spread_are_those_of_chi_square() -> None:
    own = [7.0, 7.003, 7.001, 7.006]
    found = pooled_spread([own])
    assert found is not None
    share = found.freedom * (np.std(own, ddof=1) / np.array([found.low_in, found.high_in])) ** 2
    assert stats.chi2.cdf(share, found.freedom) == pytest.approx([0.975, 0.025])


def test_predictions_that_are_too_sure_show() -> None:
    rng = np.random.default_rng(3)
    honest = predictions_held([(x, 0.004) for x in rng.normal(0, 0.004, 400)])
    sure = predictions_held([(x, 0.002) for x in rng.normal(0, 0.004, 400)])
    assert honest is not None
    assert sure is not None
    assert honest.in_u == pytest.approx(1.0, abs=0.1)
    assert sure.in_u == pytest.approx(2 * honest.in_u, rel=0.15)
    assert predictions_held([]) is None


def test_two_engines_as_the_formula_has_them() -> None:
    """DerSimonian and Laird with equal weights: (a - b)²/2 - u² between engines."""
    found = ratio_factor([(1.02, 0.01), (1.08, 0.01)])
    assert found is not None
    assert found.mean == pytest.approx(1.05)
    assert found.spread**2 == pytest.approx(0.06**2 / 2 - 0.01**2)
    assert ratio_factor([(1.02, 0.01)]) is None


def test_the_next_engine_lies_within_what_is_said_of_it() -> None:
    rng = np.random.default_rng(5)
    inside = []
    for _ in range(400):
        true = rng.normal(1.05, 0.02, 13)
        u = rng.uniform(0.005, 0.02, 12)
        found = ratio_factor([(float(rng.normal(t, w)), float(w)) for t, w in zip(true, u)])  # noqa: B905
        assert found is not None
        inside.append(abs(true[12] - found.mean) <= 2 * found.next_u)
    assert np.mean(inside) >= 0.90


def test_a_hand_of_other_days_is_not_taken_for_sure() -> None:
    """However much one hand has shown, the usual ones stay possible."""
    evidence = np.full(len(USUAL_HANDS), -50.0)
    evidence[0] = 0.0
    hands = shop_hand([evidence] * 30)
    assert sum(h.weight for h in hands) == pytest.approx(1.0, abs=1e-3)
    assert hands[0].weight == pytest.approx(0.7 + 0.3 * USUAL_HANDS[0].weight, abs=1e-3)
    assert min(h.weight for h in hands) > 0
    scatter, short, u = hand_figures(hands)
    assert scatter == pytest.approx(hands[0].sd_in, rel=0.5)
    assert abs(short - hands[0].bias_in) < 2 * u
