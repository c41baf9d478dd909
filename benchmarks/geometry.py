"""Rocker geometry: closed form against brentq, the fit with its draws, the batch, the drawing."""

import time
from collections.abc import Callable
from math import cos, hypot, radians, sin
from statistics import median
from typing import Any

import numpy as np
from scipy.optimize import brentq

from vivid_arm.core.rocker.marks import _fit, draws, fit_marks
from vivid_arm.core.rocker.mechanism import Mechanism, Motion, move
from vivid_arm.core.rocker.seen import SeenMark
from vivid_arm.core.rocker.sheet import starting_sheet

STUD = Mechanism(
    arm_in=1.5, cup_in=0.882352941, bend_deg=15, tip_radius_in=0.28, fulcrum_in=1.48,
    height_in=-0.02, seat_x_in=-2.318235294, seat_y_in=-8.0, stem_in=0.3415, stud=True,
)  # fmt: skip
RODS = STUD.rod_in + np.linspace(-0.1, 0.1, 81)
LOBE = np.linspace(0.0, 0.353, 361)
Row = tuple[float, float, float, float, float]


def took(run: Callable[[], Any], times: int) -> list[float]:
    """Milliseconds of each run, after one that does not count."""
    run()
    found = []
    for _ in range(times):
        begun = time.perf_counter()
        run()
        found.append((time.perf_counter() - begun) * 1000)
    return found


def closed_form() -> Motion:
    """81 rods by 361 lifts with every output: five arrays (81, 361)."""
    return move(STUD.at_rods(RODS), LOBE)


def by_brentq(rod_in: float) -> list[Row]:
    """The same for one rod: the nut and each lift by `scipy.optimize.brentq`, then the outputs."""
    m, bend = STUD, radians(STUD.bend_deg)

    def closed(by: float) -> float:
        rise = m.tip_radius_in - m.height_in - by
        theta = np.arcsin(rise / m.arm_in) + bend
        x = -m.fulcrum_in - m.cup_in * cos(theta) - m.seat_x_in
        return hypot(x, m.height_in + by - m.cup_in * sin(theta) - m.seat_y_in) - rod_in

    height = m.height_in + brentq(closed, -0.3, 0.3, xtol=1e-13)

    def miss(phi: float, lift: float) -> float:
        x = -m.fulcrum_in - m.cup_in * cos(phi + bend) - m.seat_x_in
        return hypot(x, height - m.cup_in * sin(phi + bend) - m.seat_y_in - lift) - rod_in

    rows = []
    for lift in LOBE:
        phi = brentq(miss, -0.7, 0.5, args=(lift,), xtol=1e-13)
        rod_x = -m.fulcrum_in - m.cup_in * cos(phi + bend) - m.seat_x_in
        rod_y = height - m.cup_in * sin(phi + bend) - m.seat_y_in - lift
        turn = rod_y / (m.cup_in * (rod_x * sin(phi + bend) - rod_y * cos(phi + bend)))
        rows.append(
            (
                m.tip_radius_in - height - m.arm_in * sin(phi),
                -m.fulcrum_in + m.arm_in * cos(phi),
                np.degrees(phi),
                np.degrees(np.arctan2(abs(rod_x), rod_y)),
                -m.arm_in * cos(phi) * turn,
            )
        )
    return rows


def table() -> list[list[str]]:
    fast = took(closed_form, 100)
    begun = time.perf_counter()
    slow = np.array([by_brentq(float(rod)) for rod in RODS])
    slow_ms = (time.perf_counter() - begun) * 1000
    moved = closed_form()
    apart = max(
        np.abs(moved.valve_in - slow[..., 0]).max(), np.abs(moved.contact_in - slow[..., 1]).max()
    )
    sheet = starting_sheet("roller_stud", 1.6, stem_in=0.3415, rod_in=7.5, net_lift_in=0.55)
    tries = [SeenMark(7.5, 0.018, 0.066), SeenMark(7.6, 0.037, 0.0727)]

    def inverse() -> None:
        _fit.cache_clear()
        draws(fit_marks(sheet, tries), 2000, 1)

    fits = took(inverse, 20)
    return [
        ["81 rods × 361 lifts, all outputs, median", f"{median(fast):.1f} ms", "5 ms"],
        ["the same by brentq, point by point", f"{slow_ms:.0f} ms", ""],
        ["so many times faster", f"{slow_ms / median(fast):.0f}", "300"],
        ["greatest difference of lift and contact", f"{apart:.1e} in", "1e-9 in"],
        ["inverse fit with 2,000 draws, median", f"{median(fits):.0f} ms", "300 ms"],
    ]
