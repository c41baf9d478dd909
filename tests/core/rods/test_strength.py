"""The rod's strength, room and cut list; the checks' limits; torque units."""

from math import pi

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from vivid_arm.core.errors import InputError
from vivid_arm.core.rods.cutting import Tips, after_pressing, cut_list
from vivid_arm.core.rods.strength import Duty, Tube, largest_diameter, strength
from vivid_arm.core.sign_off.checks import (
    BY_NAME,
    Limit,
    closest,
    cold_lash_in,
    judge,
    needed,
    usual_limit,
)
from vivid_arm.core.sign_off.torque import Torque


def test_euler_against_the_handbooks_column() -> None:
    """Published: Euler, P = pi² E I / L² (Roark's Formulas, columns with pinned ends).

    Derived by hand for a solid bar: I = pi D⁴ / 64, so P = pi³ E D⁴ / (64 L²).
    """
    bar = Tube(0.5, 0.25, 10.0)
    assert bar.euler_lbf == pytest.approx(pi**3 * 29.7e6 * 0.5**4 / (64 * 100))
    assert Tube(0.5, 0.1, 5.0).euler_lbf == pytest.approx(4 * Tube(0.5, 0.1, 10.0).euler_lbf)


def test_euler_against_the_column_solved_by_finite_differences() -> None:
    """Independent: the smallest eigenvalue of -E I y'' = P y, pinned, by numpy.linalg."""
    tube = Tube(0.3125, 0.080, 7.4)
    n = 400
    h = tube.length_in / n
    matrix = np.diag(2 * np.ones(n - 1)) - np.diag(np.ones(n - 2), 1) - np.diag(np.ones(n - 2), -1)
    least = np.linalg.eigvalsh(matrix)[0] / h**2 * 29.7e6 * tube.inertia_in4
    assert tube.euler_lbf == pytest.approx(least, rel=1e-4)


def test_stiffness_and_the_lift_it_costs() -> None:
    """Derived by hand: F = 350 x 1.7, F L / (E A), and the rocker multiplies it."""
    tube = Tube(0.375, 0.080, 8.0)
    area = pi * 0.080 * (0.375 - 0.080)
    found = strength(tube, Duty(350.0, 1.7))
    assert tube.area_in2 == pytest.approx(area)
    assert found.shortening_in == pytest.approx(350 * 1.7 * 8.0 / (29.7e6 * area))
    assert found.lift_lost_in == pytest.approx(1.7 * found.shortening_in)
    assert found.safety == pytest.approx(found.euler_lbf / 595)


def test_mass_by_water() -> None:
    """A solid steel bar 1/2 in by 4 in weighs 7.85 times its water: 0.2843 lb/in³ (handbooks)."""
    bar = Tube(0.5, 0.25, 4.0)
    grams = pi / 4 * (1.27**2) * 10.16 * 7.85
    assert bar.mass_oz * 28.349523125 == pytest.approx(grams, rel=2e-3)
    assert Tube(0.5, 0.25, 4.0, "three_piece").mass_oz > bar.mass_oz


def test_a_thicker_rod_is_stiffer_and_heavier() -> None:
    rows = [
        strength(Tube(size, 0.080, 7.5), Duty(400, 1.6))
        for size in (0.3125, 0.34375, 0.375, 0.4375)
    ]
    assert [r.safety for r in rows] == sorted(r.safety for r in rows)
    assert [r.mass_oz for r in rows] == sorted(r.mass_oz for r in rows)
    assert [r.lift_lost_in for r in rows] == sorted((r.lift_lost_in for r in rows), reverse=True)


def test_room_in_the_head() -> None:
    assert largest_diameter(0.3125, 0.030).usual == "5/16"
    assert largest_diameter(0.3125, 0.0299).usual is None
    assert largest_diameter(0.3125, 0.093).usual == "7/16"


@given(
    st.lists(st.floats(5.0, 9.0), min_size=1, max_size=24), st.floats(0.0, 0.1), st.floats(12, 80)
)
def test_cut_lists_fit_their_bars(lengths: list[float], kerf: float, bar: float) -> None:
    tips = Tips(7.4, 7.1)
    found = cut_list([(f"{i}I", c) for i, c in enumerate(lengths)], tips, bar, kerf)
    for number in range(1, found.bars + 1):
        pieces = [c.tube_in for c in found.cuts if c.bar == number]
        assert sum(pieces) + kerf * (len(pieces) - 1) <= bar + 1e-6
    assert len(found.cuts) == len(lengths)
    assert found.least_bars <= found.bars
    for cut in found.cuts:
        assert cut.tube_in + 0.3 == pytest.approx(cut.finished_in)


def test_cut_list_of_a_set() -> None:
    """Derived by hand: 16 tubes of 7.1 with a 0.060 kerf, ten to a bar of 72."""
    found = cut_list([(f"{i}I", 7.4) for i in range(16)], Tips(7.4, 7.1), 72.0, 0.060)
    assert found.bars == found.least_bars == 2
    assert found.left_in[0] == pytest.approx(72 - 10 * 7.16)
    with pytest.raises(InputError, match="of tube for"):
        cut_list([("1I", 7.4)], Tips(7.4, 7.1), 6.0, 0.060)
    assert after_pressing(7.4, 7.405, 0.005)
    assert not after_pressing(7.4, 7.4051, 0.005)


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (lambda: Tube(0.9, 0.08, 7.4), "Rod diameter"),
        (lambda: Tube(0.3125, 0.2, 7.4), "Wall"),
        (lambda: Tube(0.3125, 0.08, 2.0), "Rod length"),
        (lambda: Duty(5.0, 1.6), "spring force"),
        (lambda: Tips(7.4, 7.5), "tips would add"),
        (lambda: Torque(400, "lbf_ft"), "0.1 to 250"),
        (lambda: Limit(0.5, 0.1, ""), "backwards"),
        (lambda: Limit(-0.5, None, ""), "0 to 1 in"),
        (lambda: cold_lash_in(0.010, "both"), "no cold lash"),
        (lambda: closest([(-5, 0.1), (0, 0.09)]), "2 readings"),
        (lambda: closest([(-5, 0.1), (-5, 0.09), (5, 0.1)]), "do not rise"),
        (lambda: closest([(-5, 0.08), (0, 0.09), (5, 0.1)]), "at the end"),
    ],
)
def test_figures_that_cannot_be(make: object, words: str) -> None:
    with pytest.raises(InputError, match=words):
        make()  # type: ignore[operator]


def test_torque_units() -> None:
    """Published: NIST SP 811, B.8: 1 lbf·ft = 1.355 817 948 N·m (digits as printed there)."""
    assert Torque(1, "lbf_ft").to("N_m") == pytest.approx(1.355817948, abs=5e-10)
    assert Torque(240, "lbf_in").to("lbf_ft") == pytest.approx(20)
    assert Torque(Torque(17.5, "N_m").to("lbf_in"), "lbf_in").to("N_m") == pytest.approx(17.5)


def test_limits_of_the_trade() -> None:
    """Common practice, from memory: 0.080 intake, 0.100 exhaust, 0.050 radial; coils 0.060."""
    piston = BY_NAME["piston"]
    intake, exhaust = (usual_limit(piston, k) for k in ("intake", "exhaust"))
    assert intake
    assert exhaust
    assert (intake.low_in, exhaust.low_in) == (0.080, 0.100)
    assert judge(0.095, exhaust).passed is False
    assert judge(0.095, exhaust).margin_in == pytest.approx(-0.005)
    assert judge(0.055, Limit(0.05, 0.06, "")).margin_in == pytest.approx(0.005)
    assert usual_limit(BY_NAME["spin"], "intake") is None


def test_solid_lifter_lash_cold() -> None:
    """Common practice: hot 0.022 set cold on an iron engine is 0.020."""
    assert cold_lash_in(0.022, "iron") == pytest.approx(0.020)


def test_which_valves_a_check_asks_for() -> None:
    kinds = {"1I": "intake", "1E": "exhaust", "2I": "intake", "2E": "exhaust"}
    found = needed(kinds, solid=False, shaft=False)  # type: ignore[arg-type]
    assert found["oil"] == ("1I", "1E", "2I", "2E")
    assert found["piston"] == ("1I", "1E")
    assert not {"lash", "end_play"} & set(found)
    assert needed(kinds, solid=True, shaft=True)["end_play"] == ("1I", "1E")  # type: ignore[arg-type]
    assert "preload" not in needed(kinds, solid=True, shaft=True)  # type: ignore[arg-type]


@given(st.floats(-8, 8), st.floats(0.06, 0.2), st.floats(0.0002, 0.002))
def test_closest_of_a_parabola(at: float, gap: float, bend: float) -> None:
    """Independent: a table made from a known parabola gives its vertex back."""
    table = [(x, gap + bend * (x - at) ** 2) for x in np.arange(-15.0, 16.0, 5.0)]
    found = closest(table)
    assert found.crank_deg == pytest.approx(at, abs=1e-6)
    assert found.clearance_in == pytest.approx(gap, abs=1e-9)
