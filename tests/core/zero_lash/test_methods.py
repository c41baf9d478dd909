"""Ways of measuring, against mechanism values, published threads, `uncertainties` and GLS."""

from math import sqrt

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from uncertainties import ufloat

from vivid_arm.core.errors import InputError
from vivid_arm.core.zero_lash.bracket import USUAL_FEELING, Trial, read_bracket
from vivid_arm.core.zero_lash.combine import combine
from vivid_arm.core.zero_lash.methods import (
    PITCHES,
    TOUCH_SD_IN,
    Component,
    Measure,
    Source,
    extended,
    fastener_turns,
    from_bracket,
    gap_bottomed,
    gap_short,
    indicator_push,
    odd_repeat,
)

R0 = 1.8677
M8 = 1.25 / 25.4
RATIO_U = USUAL_FEELING.ratio_sd


def test_threads_as_published() -> None:
    """ASME B1.1 (UNC, UNF) and ISO 261; digits as printed in the threads' tables."""
    printed = {"5/16-18": 0.0555556, "3/8-24": 0.0416667, "7/16-20": 0.05, "M8 × 1.25": 0.0492126}
    assert {name: round(pitch, 7) for name, pitch, _ in PITCHES} == printed


def test_fastener_turns_with_the_lever_and_the_plain_rule() -> None:
    """Independent: a rocker mechanism solved exactly gives 0.0942 for 1.25 turns of M8.

    The lever rule takes R0 as constant over the stroke, hence the tolerance.
    """
    found = fastener_turns(1.25, M8, R0)
    assert found.plain_in == pytest.approx(0.0615, abs=5e-5)
    assert found.preload_in == pytest.approx(0.0942, abs=4e-4)
    assert found.preload_in > 1.5 * found.plain_in  # type: ignore[operator]


def test_gap_of_a_short_rod_against_the_mechanism() -> None:
    """Independent: the same mechanism with a rod 0.040 short leaves 0.075364 at the tip."""
    found = gap_short(0.075364, 8.0, R0)
    assert found.zero_lash_in == pytest.approx(8.040, abs=5e-4)


def test_gaps_of_the_trade() -> None:
    """Common practice, no source: 0.065 at 1.6 misses 0.0406; 0.060 at 1.82 is 0.033 off bottom."""
    assert gap_short(0.065, 7.5, 1.6).zero_lash_in == pytest.approx(7.5406, abs=5e-5)
    bottomed = gap_bottomed(0.060, 0.120, 1.82, rod_in=7.4)
    assert bottomed.preload_in == pytest.approx(0.120 - 0.033, abs=5e-5)
    assert bottomed.zero_lash_in == pytest.approx(7.4 - 0.087, abs=5e-5)


def test_uncertainty_equals_the_uncertainties_package() -> None:
    """Independent: linear propagation by the package `uncertainties` 3.2.3."""
    ratio = ufloat(1.6, 1.6 * RATIO_U)
    rod = ufloat(7.5, 0.001 / sqrt(3))
    source = Source("caliper", 0.001)

    turns = ufloat(1.25, 0.125 / sqrt(3))
    expected = rod - turns * M8 * (1 + 1 / ratio)
    found = fastener_turns(1.25, M8, 1.6, 7.5, source)
    assert found.zero_lash_in == pytest.approx(expected.nominal_value)
    assert found.u_in == pytest.approx(expected.std_dev, rel=1e-6)

    gap = ufloat(0.065, USUAL_FEELING.gap_sd_in)
    for made, value in (
        (gap_short(0.065, 7.5, 1.6, source), rod + gap / ratio),
        (gap_bottomed(0.065, 0.140, 1.6, 7.5, source), rod - (0.140 - gap / ratio)),
    ):
        assert made.zero_lash_in == pytest.approx(value.nominal_value)
        assert made.u_in == pytest.approx(value.std_dev, rel=1e-6)

    push = ufloat(0.055, 0.0005 / sqrt(3)) + ufloat(0, 0.0005 / sqrt(12)) + ufloat(0, TOUCH_SD_IN)
    read = indicator_push(0.055, Source("dial", 0.0005, 0.0005), 7.5, source)
    assert read.u_in == pytest.approx((rod - push).std_dev, rel=1e-6)


def test_repeats_follow_gum_type_a_pooled() -> None:
    """JCGM 100:2008 4.2.3, 4.2.4: mean, pooled s over sqrt(n); accuracy does not average away."""
    values = [7.401, 7.403, 7.400, 7.402]
    s2 = np.var(values, ddof=1)
    pooled = sqrt((4 * TOUCH_SD_IN**2 + 3 * s2) / 7 / 4)
    found = extended(values, Source("caliper", 0.001))
    assert found.zero_lash_in == pytest.approx(np.mean(values))
    assert found.u_in == pytest.approx(sqrt(pooled**2 + 0.001**2 / 3))
    assert found.u_in > 0.001 / sqrt(3)
    for wrong in ([], [7.4] * 21):
        with pytest.raises(InputError, match="Readings"):
            extended(wrong, Source())


def test_repeats_that_do_not_scatter_but_differ_are_seen() -> None:
    assert odd_repeat([7.401, 7.403, 7.4]) is None
    assert odd_repeat([7.401]) is None
    assert odd_repeat([7.401, 7.350, 7.402]) == pytest.approx(-0.051)


def test_the_ratio_is_taken_out_of_the_bracket_once() -> None:
    trials = (Trial(1, 7.25, "loose", 0.139),)
    bracket = read_bracket(trials, 1.6)
    found = from_bracket(trials, bracket, 1.6, Source())
    assert found is not None
    assert found.u_in == pytest.approx(bracket.u_in, rel=1e-6)
    shares = {c.key: abs(c.u_in) for c in found.components}
    assert shares["ratio"] == pytest.approx(0.139 / 1.6 * RATIO_U, rel=0.15)


def known(value: float, u: float, *shared: tuple[str, float]) -> Measure:
    parts = (Component("", u, ""), *(Component(k, s, "") for k, s in shared))
    return Measure("extend", 1, value, None, parts)


def test_independent_measurements_weigh_by_inverse_variance() -> None:
    found = combine([known(7.400, 0.001), known(7.403, 0.002)])
    assert found is not None
    assert found.weights == pytest.approx((0.8, 0.2))
    assert found.estimate_in == pytest.approx(7.4006)
    assert found.u_in == pytest.approx(sqrt(1 / (1e6 + 0.25e6)))


@settings(max_examples=80, deadline=None)
@given(
    st.lists(st.tuples(st.floats(0.0005, 0.004), st.floats(-0.002, 0.002)), min_size=2, max_size=5)
)
def test_combined_uncertainty_covers_the_shared_part(parts: list[tuple[float, float]]) -> None:
    """Independent: u from `uncertainties` with the shared ratio as one variable."""
    measures = [known(7.4, u, ("ratio", r)) for u, r in parts]
    found = combine(measures)
    assert found is not None
    assert found.u_in is not None
    ratio = ufloat(0, 1)
    total = sum(
        w * (ufloat(7.4, u) + r * ratio) for w, (u, r) in zip(found.weights, parts, strict=True)
    )
    assert found.u_in == pytest.approx(total.std_dev, rel=1e-6)
    assert sum(found.weights) == pytest.approx(1)
    assert min(found.weights) >= 0
    assert found.u_in <= min(m.u_in for m in measures) + 1e-9


def test_measurements_that_share_everything_or_state_nothing_still_combine() -> None:
    alike = [known(7.400, 0.0, ("ratio", 0.001)), known(7.400, 0.0, ("ratio", 0.001))]
    found = combine(alike)
    assert found is not None
    assert found.u_in == pytest.approx(0.001, rel=1e-6)
    exact = combine([known(7.400, 0.0), known(7.400, 0.0)])
    assert exact is not None
    assert exact.estimate_in == pytest.approx(7.4)


def test_the_odd_one_of_three_is_named_and_left_out() -> None:
    odd = known(7.430, 0.001)
    found = combine([known(7.400, 0.001), odd, known(7.401, 0.001)])
    assert found is not None
    assert found.odd is odd
    assert found.estimate_in == pytest.approx(7.4005)
    assert not found.consistent


def test_two_that_disagree_give_no_length() -> None:
    found = combine([known(7.400, 0.001), known(7.430, 0.001)])
    assert found is not None
    assert found.estimate_in is None
    assert found.odd is None
    assert combine([fastener_turns(1, M8, 1.6)]) is None


def test_impossible_readings_are_refused_with_the_likely_mistake() -> None:
    with pytest.raises(InputError, match="Fastener turns: 125") as refused:
        fastener_turns(125, M8, 1.6)
    assert refused.value.suggestion is not None
    assert refused.value.suggestion.text == "1.25"
    with pytest.raises(InputError, match="of travel allows"):
        gap_bottomed(0.3, 0.140, 1.6)
    with pytest.raises(InputError, match="Rocker ratio"):
        gap_short(0.05, 7.4, 16)
