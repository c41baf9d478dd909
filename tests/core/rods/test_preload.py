"""Preload, candidates and order lines, against facts of the trade and exhaustive search."""

import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from vivid_arm.core.entry.instruments import CheckingRod
from vivid_arm.core.errors import InputError
from vivid_arm.core.rods.groups import MeasuredValve, group_order
from vivid_arm.core.rods.preload import Lifter, choose_length, rod_fit


@pytest.mark.parametrize(
    ("zero", "low", "high", "target", "exact", "bought"),
    [
        (7.3375, 0.060, 0.080, 0.070, 7.4075, 7.400),
        (8.460, 0.050, 0.070, 0.060, 8.520, 8.525),
        (8.490, 0.050, 0.070, 0.060, 8.550, 8.550),
        (7.865, 0.040, 0.060, 0.050, 7.915, 7.925),
    ],
)
def test_what_builders_bought(
    zero: float, low: float, high: float, target: float, exact: float, bought: float
) -> None:
    """Common practice, stock in steps of 0.025."""
    choice = choose_length([zero], Lifter(low, high, target, 0.2), 0.025, "longer")
    assert choice.exact_in == pytest.approx(exact, abs=5e-7)
    assert choice.best is not None
    assert choice.best.length_in == pytest.approx(bought)


def test_the_result_that_the_readme_states() -> None:
    """Derived by hand: 8.150 + 9.625 / 24 = 8.551042; + 0.045 = 8.596042; 8.600 gives 0.048958."""
    zero = CheckingRod(8.150, 1 / 24, 20).length_in(9.625)
    assert zero == pytest.approx(8.551042, abs=5e-7)
    choice = choose_length([zero], Lifter(0.030, 0.060, 0.045, 0.125), 0.025, "longer")
    assert choice.exact_in == pytest.approx(8.596042, abs=5e-7)
    assert choice.best is not None
    assert choice.best.length_in == pytest.approx(8.600)
    assert choice.best.fits[0].preload_in == pytest.approx(0.048958, abs=5e-7)


def test_short_rod_by_its_gap_is_bought_at_7_600() -> None:
    """Common practice: 7.500 + 0.065/1.6, preload 0.060."""
    choice = choose_length([7.500 + 0.065 / 1.6], Lifter(0.04, 0.08, 0.06, 0.2), 0.025, "longer")
    assert choice.exact_in == pytest.approx(7.6006, abs=5e-5)
    assert choice.best is not None
    assert choice.best.length_in == 7.6


def test_inside_and_outside() -> None:
    """Common practice: read 7.420, window 0.050 to 0.075."""
    choice = choose_length([7.420], Lifter(0.050, 0.075, 0.060, 0.2), 0.025, "longer")
    assert {c.length_in: c.inside for c in choice.candidates} == {
        7.450: False,
        7.475: True,
        7.500: False,
    }


def test_off_bottom() -> None:
    found = rod_fit(7.4, 7.3375, Lifter(0.05, 0.1, 0.07, 0.2))
    assert found.preload_in == pytest.approx(0.0625)
    assert found.off_bottom_in == pytest.approx(0.1375)


def test_bias_breaks_a_tie() -> None:
    lifter = Lifter(0.02, 0.08, 0.05, 0.2)
    for bias, bought in (("longer", 7.425), ("shorter", 7.400)):
        best = choose_length([7.3625], lifter, 0.025, bias).best  # type: ignore[arg-type]
        assert best is not None
        assert best.length_in == bought


def test_nothing_inside_is_said() -> None:
    choice = choose_length([7.3630], Lifter(0.048, 0.052, 0.050, 0.2), 0.050, "longer")
    assert choice.best is None
    assert choice.nearest.length_in == pytest.approx(7.400)


@pytest.mark.parametrize(
    ("figures", "message"),
    [
        ((0.06, 0.02, 0.04, 0.2), "runs backwards"),
        ((0.02, 0.06, 0.04, 0.05), "not more than the most preload"),
        ((0.02, 0.06, 0.07, 0.2), "outside the window"),
    ],
)
def test_refuses_an_impossible_window(figures: tuple[float, ...], message: str) -> None:
    with pytest.raises(InputError, match=message):
        Lifter(*figures)


thou = st.integers(0, 120).map(lambda n: n / 1000)


@given(
    st.lists(st.integers(7300, 7360), min_size=1, max_size=5),
    thou,
    thou,
    st.sampled_from([0.005, 0.025, 0.050]),
    st.sampled_from(["longer", "shorter"]),
    st.floats(-0.05, 0.05),
)
def test_choice_against_exhaustive_search(
    zeros: list[int], a: float, b: float, step: float, bias: str, offset: float
) -> None:
    """Every length of the grid between 7 and 8, tried one by one."""
    low, high = sorted((a, b))
    assume(high - low > 1e-9)
    lengths = [z / 1000 for z in zeros]
    lifter = Lifter(low, high, (low + high) / 2, 0.3)
    choice = choose_length(lengths, lifter, step, bias, offset_in=offset)  # type: ignore[arg-type]
    fits = {}
    for k in range(round(7 / step), round(8 / step)):
        preloads = [k * step - offset - z for z in lengths]
        if all(low - 1e-6 <= p <= high + 1e-6 for p in preloads):
            fits[k * step] = max(abs(p - lifter.target_in) for p in preloads)
    best = None if choice.best is None else choice.best.worst_miss_in
    assert best == (pytest.approx(min(fits.values()), abs=1e-6) if fits else None)


def valve(kind: str, cylinder: int, zero: float) -> MeasuredValve:
    return MeasuredValve(cylinder, kind, zero, 0.001)  # type: ignore[arg-type]


def test_own_pick_is_kept_even_outside() -> None:
    lifter = Lifter(0.050, 0.060, 0.055, 0.2)
    group = group_order(
        "intake", 4, [valve("intake", 1, 7.35)], lifter, 0.025, "longer", picked_in=7.45
    )
    assert group.picked
    assert group.taken is not None
    assert not group.taken.inside
