"""The mechanism against hand values, Freudenstein's equation, SciPy and its own limits."""

from math import asin, atan2, cos, degrees, hypot, radians, sin, sqrt

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq

from vivid_arm.core.errors import InputError
from vivid_arm.core.rocker.mechanism import Mechanism, move, net_lift, run, why_not
from vivid_arm.core.rocker.sweep import contact_at, least_width, on_tip, sweep

# Derived by hand with other software: one roller rocker, all its figures.
KNOWN = Mechanism(
    arm_in=1.5, cup_in=0.882352941, bend_deg=15, tip_radius_in=0.28, fulcrum_in=1.48,
    height_in=-0.02, seat_x_in=-2.318235294, seat_y_in=-8.0, stem_in=0.3415,
)  # fmt: skip
LOBE = np.array([0.0, 0.17, 0.353])


def changed(**values: float | str | bool) -> Mechanism:
    return Mechanism(**{**vars(KNOWN), **values})


def test_the_known_rocker() -> None:
    motion = run(KNOWN, LOBE)
    found = sweep(KNOWN.linkage, motion.valve_in[-1], "roller", KNOWN.stem_in)
    assert motion.valve_in[-1] == pytest.approx(0.620187, abs=5e-7)
    assert found.width_in == pytest.approx(0.034572, abs=5e-7)
    assert found.centre_in == pytest.approx(0.002714, abs=5e-7)
    assert (found.closed_in, found.open_in) == pytest.approx((-0.010306, -0.014572), abs=5e-7)
    assert found.error_in == pytest.approx(-0.010093, abs=1e-6)
    assert found.angle_deg == pytest.approx(-0.385546, abs=2e-6)
    assert motion.ratio[0] == pytest.approx(1.8677, abs=2e-4)
    assert motion.ratio[1] == pytest.approx(1.75666, abs=2e-5)


def test_a_rod_short_of_zero_lash_leaves_its_gap_at_the_tip() -> None:
    """Derived: 0.040 short leaves 0.075364 between tip and stem on the known rocker."""
    link = KNOWN.linkage
    short = move(link, np.zeros(1), np.asarray(KNOWN.rod_in - 0.040))
    assert -short.valve_in[0] == pytest.approx(0.075364, abs=2e-4)


def test_the_ratio_is_the_slope_of_the_lift() -> None:
    """Independent: finite differences of the valve lift."""
    step = 1e-5
    lobe = np.linspace(0.01, 0.34, 12)
    ahead, behind = (run(KNOWN, lobe + s).valve_in for s in (step, -step))
    np.testing.assert_allclose(run(KNOWN, lobe).ratio, (ahead - behind) / (2 * step), rtol=1e-8)


mechanisms = st.builds(
    Mechanism,
    arm_in=st.floats(1.2, 1.9),
    cup_in=st.floats(0.7, 1.2),
    bend_deg=st.floats(-5, 25),
    tip_radius_in=st.floats(0.2, 0.35),
    fulcrum_in=st.floats(1.2, 1.9),
    height_in=st.floats(-0.25, 0.25),
    seat_x_in=st.floats(-3.0, -1.8),
    seat_y_in=st.floats(-10, -6),
    stem_in=st.just(0.3415),
    lifter_deg=st.floats(-15, 15),
    offset_in=st.floats(-0.4, 0.4),
)


@settings(max_examples=80, deadline=None)
@given(mechanisms, st.floats(0.05, 0.33))
def test_the_loop_closes(mechanism: Mechanism, lobe: float) -> None:
    """Published: Freudenstein, Trans. ASME 77 (1955): the residual of the loop's equation.

    K1 cos t4 - K2 cos t2 + K3 = cos(t2 - t4) with the cup arm as input, the ground
    from lower ball to fulcrum, the rod as coupler, and a rocker of length zero
    replaced by the rod's own two points: checked as the rod's constant length.
    """
    motion = move(mechanism.linkage, np.array([0.0, lobe]))
    assume(np.isfinite(motion.valve_in).all())
    phi = radians(motion.arm_deg[1]) + radians(mechanism.bend_deg)
    u = radians(mechanism.lifter_deg)
    seat = (mechanism.seat_x_in + lobe * sin(u), mechanism.seat_y_in + lobe * cos(u))
    ground = (-mechanism.fulcrum_in - seat[0], mechanism.height_in - seat[1])
    d, b = hypot(*ground), mechanism.cup_in
    t = phi - atan2(ground[1], ground[0])
    planar2 = mechanism.rod_in**2 - mechanism.offset_in**2
    freudenstein = (d * d + b * b - planar2) / (2 * d * b) - cos(t)
    assert abs(freudenstein) < 1e-12


def lift_by_brentq(m: Mechanism, lobe: float, lowest: float, start: float) -> float:
    """Valve lift where the rod, closed, has its length again, by SciPy's brentq."""
    delta, u = radians(m.bend_deg), radians(m.lifter_deg)

    def miss(phi: float) -> float:
        x = -m.fulcrum_in - m.cup_in * cos(phi + delta)
        y = m.height_in - m.cup_in * sin(phi + delta)
        x -= m.seat_x_in + lobe * sin(u)
        y -= m.seat_y_in + lobe * cos(u)
        return sqrt(x * x + y * y + m.offset_in**2) - m.rod_in

    phi = brentq(miss, lowest, start, xtol=1e-14)
    return m.tip_radius_in - m.height_in - m.arm_in * sin(phi)


@settings(max_examples=60, deadline=None)
@given(mechanisms, st.floats(0.05, 0.33))
def test_scipy_finds_the_same_arm_angle(mechanism: Mechanism, lobe: float) -> None:
    """Independent: SciPy's brentq on the rod's length, agreement 1e-9 in of valve lift."""
    motion = move(mechanism.linkage, np.linspace(0.0, lobe, 5))
    assume(not why_not(mechanism.linkage, motion, 9.0)[0])
    start = radians(motion.arm_deg[0])
    lowest = radians(motion.arm_deg[-1]) - 0.02
    found = lift_by_brentq(mechanism, lobe, lowest, start)
    assert motion.valve_in[-1] == pytest.approx(found, abs=1e-9)


def test_the_rocker_that_the_readme_states() -> None:
    """Independent: brentq on the loop; the sweep's width and the angle from that lift by hand."""
    rocker = Mechanism(1.42, 0.86, 13.0, 0.27, 1.4, -0.015, -2.2, -7.6, 0.3415)
    lift = lift_by_brentq(rocker, 0.331, radians(-60), radians(20))
    assert lift == pytest.approx(0.560953, abs=5e-7)
    across = [sqrt(1.42**2 - (0.285 - v) ** 2) for v in np.linspace(0.0, lift, 200_001)]
    assert max(across) - min(across) == pytest.approx(0.028894, abs=5e-7)
    assert degrees(asin((0.285 - lift / 2) / 1.42)) == pytest.approx(0.18, abs=0.005)
    motion = run(rocker, np.array([0.0, 0.331]))
    assert motion.valve_in[-1] == pytest.approx(lift, abs=1e-9)


@settings(max_examples=60, deadline=None)
@given(mechanisms, st.floats(-0.08, 0.08), st.floats(-8, 8))
def test_the_nut_follows_the_rod(mechanism: Mechanism, longer: float, axis: float) -> None:
    """Round trip: the fulcrum raised by the nut takes just that rod at zero lash."""
    stud = Mechanism(**{**vars(mechanism), "stud": True, "axis_deg": axis})
    rods = np.array([stud.rod_in, stud.rod_in + longer])
    link = stud.at_rods(rods)
    assume(np.isfinite(link.height).all())
    np.testing.assert_allclose(link.closed_rod(), rods, atol=1e-10)
    assert float(np.asarray(link.height)[0]) == pytest.approx(stud.height_in, abs=1e-10)


def test_the_levers_of_the_trade() -> None:
    """Common practice: a stud's fulcrum rises dL R0/(1 + R0); a shim asks dt (1 + 1/R0) of rod."""
    ratio = run(KNOWN, LOBE).ratio[0]
    stud = changed(stud=True)
    rise = stud.at_rods(np.array([stud.rod_in + 1e-4])).height[0] - stud.height_in
    assert rise == pytest.approx(1e-4 * ratio / (1 + ratio), rel=2e-3)
    shimmed = KNOWN.at_shims(np.array([1e-4])).closed_rod()[0] - KNOWN.rod_in
    assert shimmed == pytest.approx(1e-4 * (1 + 1 / ratio), rel=2e-3)


def test_two_rods_far_apart_on_a_stud() -> None:
    """Common practice, no published source: two rods 5/16 in apart on one stud-mounted engine.

    Lift 0.541; marks 0.135 and 0.067 wide, film included; the rocker leans about 5
    degrees differently; the short rod lost 0.0365 of lift. A rocker of usual size
    shows both marks within 0.006 with one film. Whether the short rod loses lift
    depends on the bend: it does below zero, and gains above.
    """

    def both(bend_deg: float) -> tuple[np.ndarray, np.ndarray, float]:
        stud = changed(
            stud=True, arm_in=1.45, cup_in=0.88, fulcrum_in=1.43, axis_deg=5, height_in=-0.12,
            bend_deg=bend_deg,
        )  # fmt: skip
        link = stud.at_rods(np.array([stud.rod_in - 0.3125, stud.rod_in]))
        lift = net_lift(link, np.full(2, 0.318))
        lean = np.diff(np.degrees(np.arcsin(link.rise / link.arm)))[0]
        return lift, sweep(link, lift, "roller", stud.stem_in).width_in, float(lean)

    lift, width, lean = both(15.0)
    film = np.array([0.135, 0.067]) - width
    assert abs(film[0] - film[1]) < 0.012
    assert (np.abs(film - 0.006) < 0.006).all()
    assert abs(lean) == pytest.approx(7, abs=2.5)
    assert lift[1] == pytest.approx(0.541, abs=0.03)
    assert lift[0] > lift[1]
    shorter = both(-20.0)[0]
    assert 1 - shorter[0] / shorter[1] == pytest.approx(0.0675, abs=0.025)


def test_a_long_arm_makes_no_sweep() -> None:
    """Limit: w_min = A - sqrt(A^2 - h^2/4) goes to h^2/(8A)."""
    assert least_width(np.asarray(200.0), np.asarray(0.6)) == pytest.approx(0.36 / 1600, rel=1e-5)
    assert least_width(np.asarray(1.5), np.asarray(0.6)) == pytest.approx(0.030306, abs=5e-7)


def test_exact_mid_lift_is_the_narrowest() -> None:
    heights = np.linspace(-0.2, 0.1, 301)
    link = KNOWN.linkage
    rows = link.raised(heights - link.height)
    h = np.full(heights.size, 0.6)
    found = sweep(rows, h, "roller", KNOWN.stem_in)
    best = int(np.argmin(found.width_in))
    assert heights[best] == pytest.approx(0.28 - 0.3, abs=1e-3)
    assert found.width_in[best] == pytest.approx(0.030306, abs=1e-6)
    assert found.roll_in[best] == pytest.approx(4 * 0.030306, rel=1e-3)


def test_a_sweep_ends_where_a_fine_scan_ends() -> None:
    """Independent: the extremes of 20,001 contacts."""
    for height in (-0.4, -0.1, 0.0, 0.2, 0.29):
        link = changed(height_in=height).linkage
        scan = contact_at(link, np.linspace(0, 0.6, 20001))
        found = sweep(link, np.asarray(0.6), "roller", KNOWN.stem_in)
        ends = (found.inboard_in, found.outboard_in)
        assert ends == pytest.approx((scan.min(), scan.max()), abs=1e-8)
        mean = np.sqrt(np.mean(scan**2)) / (KNOWN.stem_in / 2)
        assert found.side_load == pytest.approx(mean, rel=1e-3)


def test_a_shoe_slides_least_with_its_contact_level_at_half_lift() -> None:
    """Derived for small angles: sliding one way is about h^2/(4A) there, twice that in a cycle."""
    heights = np.linspace(-0.6, 0.1, 141)
    shoe = changed(tip="shoe", tip_radius_in=0.4, arm_in=1.55, fulcrum_in=1.45, height_in=-0.3)
    rows = shoe.linkage.raised(heights - shoe.height_in)
    found = sweep(rows, np.full(heights.size, 0.6), "shoe", shoe.stem_in)
    best = int(np.argmin(found.slide_in))
    assert heights[best] == pytest.approx(-0.3, abs=0.02)
    assert abs(found.error_in[best]) < 0.02
    assert found.slide_in[best] == pytest.approx(2 * 0.36 / (4 * 1.55), rel=0.08)


def test_a_shoe_slides_what_a_scan_adds_up() -> None:
    """Independent: the sum of |v + k| dphi over a fine scan."""
    shoe = changed(tip="shoe", tip_radius_in=0.4, arm_in=1.55, fulcrum_in=1.45, height_in=-0.2)
    lift = np.linspace(0, 0.6, 20001)
    phi = np.arcsin((0.4 + 0.2 - lift) / 1.55)
    middle = (lift[1:] + lift[:-1]) / 2
    scanned = 2 * np.sum(np.abs(middle - 0.2) * np.abs(np.diff(phi)))
    found = sweep(shoe.linkage, np.asarray(0.6), "shoe", shoe.stem_in)
    assert found.slide_in == pytest.approx(scanned, rel=1e-6)


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"seat_x_in": -9.0, "seat_y_in": -1.2}, "dead point"),
        ({"fulcrum_in": 1.20}, "off the tip"),
        ({"height_in": -1.4}, "cannot stand on the closed tip"),
        ({"bend_deg": 80.0}, "outside -60° to 60°"),
        ({"cup_in": 0.35, "lobe": 0.8}, "cannot reach the cup"),
    ],
)
def test_impossible_mechanisms_are_refused_with_the_reason(
    values: dict[str, float], words: str
) -> None:
    values = dict(values)
    lobe = np.linspace(0, values.pop("lobe", 0.353), 40)
    with pytest.raises(InputError, match=words):
        run(changed(**values), lobe)


def test_a_rod_too_long_for_any_nut_is_refused() -> None:
    stud = changed(stud=True)
    link = stud.at_rods(np.array([stud.rod_in, stud.rod_in + 3.0]))
    reasons = why_not(link, move(link, LOBE), 0.3415)
    assert reasons[0] == ""
    assert reasons[1].startswith("No nut position")


def test_where_a_mark_may_lie() -> None:
    """Common practice: middle third, and 0.040 from the edge, on a tip of 0.3415."""
    inboard = np.array([-0.02, 0.05, 0.10, -0.14])
    outboard = np.array([0.02, 0.09, 0.135, 0.10])
    assert on_tip(inboard, outboard, 0.3415).tolist() == [0, 1, 2, 2]


def test_closed_arm_angle() -> None:
    assert run(KNOWN, LOBE).arm_deg[0] == pytest.approx(np.degrees(asin(0.3 / 1.5)))
