"""Checking rod and caliper. Facts of the trade: common practice, no published source."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vivid_arm.core.entry.instruments import (
    Adjuster,
    Caliper,
    CheckingRod,
    count_back,
    rectangular_u_in,
)
from vivid_arm.core.errors import InputError
from vivid_arm.core.rods.preload import exact_length_in

ROD = CheckingRod(6.800, 0.050, 20)


@pytest.mark.parametrize(
    ("turns", "zero_lash", "preload", "exact"),
    [(10.25, 7.3125, 0.075, 7.3875), (10.75, 7.3375, 0.070, 7.4075)],
)
def test_turns_to_length(turns: float, zero_lash: float, preload: float, exact: float) -> None:
    """Common practice: 6.800 closed, 0.050 a turn."""
    assert ROD.length_in(turns) == zero_lash
    assert exact_length_in(zero_lash, preload) == pytest.approx(exact)


@given(st.integers(0, 160))
def test_turns_read_back_from_the_length(eighths: int) -> None:
    assert ROD.turns_for(ROD.length_in(eighths / 8)) == eighths / 8


def test_refuses_past_its_range() -> None:
    with pytest.raises(InputError, match=r"21 turns is more than this rod opens \(20\)"):
        ROD.length_in(21)
    with pytest.raises(InputError, match="outside 0 to 60"):
        ROD.length_in(-1)
    with pytest.raises(InputError, match=r"outside 6\.8000 in to 7\.8000 in"):
        ROD.turns_for(7.9)


def test_counting_back_finds_half_a_turn() -> None:
    slip = count_back(ROD, 10.25, 10.75)
    assert not slip.agrees
    assert slip.error_in == pytest.approx(0.025)
    assert "longer than written down" in slip.sentence
    assert count_back(ROD, 10.25, 10.25).agrees


def test_stated_accuracy_is_rectangular() -> None:
    """Published: JCGM 100:2008 (GUM) 4.3.7, u = a / sqrt(3)."""
    assert rectangular_u_in(0.001) == pytest.approx(0.00057735, abs=5e-9)


@given(st.floats(6.0, 9.0), st.sampled_from([-1, 0, 1]))
def test_snap_lands_on_a_setting_in_range(length: float, direction: int) -> None:
    adjuster = ROD.adjuster
    found = adjuster.snap(length, direction)
    steps = (found - 6.8) / 0.00625
    assert steps == pytest.approx(round(steps), abs=1e-6)
    assert 6.8 - 1e-9 <= found <= 7.8 + 1e-9
    inside = min(max(length, 6.8), 7.8)
    assert {-1: found <= inside + 1e-6, 1: found >= inside - 1e-6}.get(direction, True)


def test_caliper_plans_in_fives() -> None:
    assert Caliper(0, 12).adjuster == Adjuster(0.0, 0.050, 0.005, 3.0, 12, counted=False)
