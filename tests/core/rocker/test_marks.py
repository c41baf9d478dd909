"""From marks to the fulcrum: round trips, coverage, Monte Carlo, SciPy, what decides."""

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from scipy.optimize import minimize

from tests.builders import SHAFT, STUD, said_of, seen_at, truth_of
from vivid_arm.core.errors import InputError
from vivid_arm.core.rocker.correction import (
    conflict,
    correct,
    ideal_fulcrum_in,
    next_readings,
    settings_row,
    stocked,
)
from vivid_arm.core.rocker.marks import (
    MarksFit,
    correlations,
    draws,
    fit_marks,
    outputs_at,
    untold,
    view,
)
from vivid_arm.core.rocker.mechanism import run
from vivid_arm.core.rocker.ratio import deflection, measured_ratio
from vivid_arm.core.rocker.seen import ANGLE_U_DEG, AngleTool, SeenMark
from vivid_arm.core.rocker.sheet import ROCKERS, UNKNOWNS, Sheet, starting_sheet, with_measured


def test_width_tells_the_size_and_the_closed_end_the_side() -> None:
    truth = truth_of(STUD, 0.060)
    one = fit_marks(STUD, [seen_at(STUD, truth, 7.5)])
    assert not one.decided
    assert {b.error_in > 0 for b in (one.best, *one.rivals)} == {True, False}
    told = fit_marks(STUD, [seen_at(STUD, truth, 7.5, closed_end="inboard")])
    assert told.decided
    assert told.best.error_in == pytest.approx(0.060, abs=told.best.error_u_in / 3)
    other = fit_marks(STUD, [seen_at(STUD, truth, 7.5, closed_end="outboard")])
    assert other.best.error_in < 0


def test_a_second_rod_tells_the_side() -> None:
    truth = truth_of(STUD, 0.060)
    found = fit_marks(STUD, [seen_at(STUD, truth, 7.5), seen_at(STUD, truth, 7.6)])
    assert found.decided
    assert found.best.error_in == pytest.approx(0.060, abs=0.006)
    assert (
        found.best.error_u_in < fit_marks(STUD, [seen_at(STUD, truth, 7.5)]).best.error_u_in / 1.4
    )


def test_the_outboard_end_tells_the_distance_whatever_the_height() -> None:
    """The outermost contact is A - f: derived, it does not depend on the height."""
    for error in (-0.08, 0.08):
        truth = truth_of(STUD, error, turn_in=0.033)
        found = fit_marks(STUD, [seen_at(STUD, truth, 7.5)])
        assert found.unknowns[1] == pytest.approx(0.033, abs=0.001)


rockers = st.sampled_from(sorted(ROCKERS))


@pytest.mark.slow
def test_two_sigma_cover_what_they_should() -> None:
    """Round trip: truth -> noisy readings -> estimate, 400 examples: 90 to 99 in a hundred."""
    scatter = np.random.default_rng(7)  # one stream, so that examples scatter independently
    inside: list[bool] = []
    covered(scatter, inside)
    assert len(inside) > 300
    assert 0.90 <= np.mean(inside) <= 0.99


@settings(max_examples=400, deadline=None, derandomize=True)
@given(
    rockers,
    st.floats(1.4, 1.8),
    st.floats(0.42, 0.62),
    st.integers(1, 3),
    st.sampled_from(["none", "angle", "lift", "both"]),
)
def covered(
    rng: np.random.Generator, inside: list[bool],
    rocker: str, ratio: float, lift: float, tries: int, more: str,
) -> None:  # fmt: skip
    """Add whether the truth of one rocker lies within k = 2 of what its readings give."""
    sheet = starting_sheet(rocker, ratio, stem_in=0.3415, rod_in=7.6, net_lift_in=lift)  # type: ignore[arg-type]
    mean, sd = sheet.prior
    truth = mean + rng.standard_normal(len(mean)) * sd
    base = sheet.rod_in if sheet.stud else 0.0
    where = np.array([base, *(base + rng.uniform(-0.1, 0.1, tries - 1))])
    seen = view(sheet, truth[None], where)
    assume(np.isfinite(seen.inboard).all() and (seen.lift > 0.2).all())
    found = fit_marks(sheet, [_noisy(seen, i, float(x), rng, more) for i, x in enumerate(where)])
    error = float(seen.error[0, 0])
    said = [found.best, *found.rivals]
    inside.append(any(abs(b.error_in - error) <= 2 * b.error_u_in for b in said))


def _noisy(seen: object, i: int, setting: float, rng: np.random.Generator, more: str) -> SeenMark:
    def at(name: str, u: float) -> float:
        return float(getattr(seen, name)[0, i] + rng.normal() * u)

    inboard, outboard = at("inboard", 0.003), at("outboard", 0.003)
    apart = at("open", 0.0) - at("closed", 0.003)
    return SeenMark(
        setting,
        inboard,
        outboard if outboard > inboard else None,
        closed_end="inboard" if apart > 0 else "outboard",
        angle_deg=at("angle", 0.25) if more in ("angle", "both") else None,
        lift_in=at("lift", 0.002) if more in ("lift", "both") else None,
    )


@pytest.mark.parametrize("sheet", [STUD, SHAFT])
def test_monte_carlo_agrees_with_the_jacobian(sheet: Sheet) -> None:
    """JCGM 101:2008: uncertainty of the error and its correlations from scattered readings."""
    truth = truth_of(sheet, 0.05)
    base = sheet.rod_in if sheet.stud else 0.0
    found = fit_marks(
        sheet, [seen_at(sheet, truth, base, angle_deg=2.0), seen_at(sheet, truth, base + 0.14)]
    )
    rows = draws(found, 4000, 3)
    errors = view(sheet, rows, np.array([base])).error[:, 0]
    assert errors.std() == pytest.approx(found.best.error_u_in, rel=0.06)
    assert errors.mean() == pytest.approx(found.best.error_in, abs=found.best.error_u_in / 8)
    names = ("rise_in", "turn_in", "film_in")
    at = [UNKNOWNS.index(n) for n in names]
    sampled = np.corrcoef(rows[:, at].T)
    np.testing.assert_allclose(correlations(found, names), sampled, atol=0.07)


def test_scipy_minimises_the_same_sum() -> None:
    """Independent: BFGS on the sum of squares, from elsewhere, ends where the fit ends."""
    truth = truth_of(SHAFT, 0.09)
    tries = [seen_at(SHAFT, truth, 0.0, closed_end="inboard", lift_in=0.61)]
    found = fit_marks(SHAFT, tries)
    mean, sd = SHAFT.prior

    def cost(z: np.ndarray) -> float:
        seen = view(SHAFT, (mean + z * sd)[None], np.array([0.0]), np.array([1]))
        shown = (seen.inboard[0, 0], seen.outboard[0, 0], seen.lift[0, 0])
        read = (tries[0].inboard_in, tries[0].outboard_in, 0.61)
        us = (0.003, 0.003, 0.002)
        return float(
            sum(((a - b) / u) ** 2 for a, b, u in zip(shown, read, us, strict=True)) + z @ z
        )

    start = (found.unknowns - mean) / sd + 0.2
    solved = minimize(cost, start, method="BFGS")
    np.testing.assert_allclose(solved.x, (found.unknowns - mean) / sd, atol=2e-3)


def test_corrections_bring_the_arm_level() -> None:
    for sheet in (STUD, SHAFT):
        truth = truth_of(sheet, 0.045)
        base = sheet.rod_in if sheet.stud else 0.0
        found = fit_marks(sheet, [seen_at(sheet, truth, base, closed_end="inboard", angle_deg=1.7)])
        done = correct(found, "mid_lift", base, 0.0005)
        assert done.exact_in is not None
        after = view(sheet, truth[None], np.array([done.exact_in]))
        assert abs(float(after.error[0, 0])) < 0.006
        assert done.at is not None
        assert done.at.width_in[0] < done.now.width_in[0]


def test_the_levers_behind_a_correction() -> None:
    """Common practice: a rod changes the height by R0/(1 + R0), a shim by all of itself."""
    for sheet, gain in ((STUD, None), (SHAFT, 1.0)):
        truth = truth_of(sheet, 0.03)
        base = sheet.rod_in if sheet.stud else 0.0
        found = fit_marks(sheet, [seen_at(sheet, truth, base, closed_end="inboard")])
        done = correct(found, "mid_lift", base, 0.001)
        ratio = float(done.now.ratio[0])
        expected = found.best.error_in / (gain or ratio / (1 + ratio))
        assert done.exact_in is not None
        assert done.exact_in - base == pytest.approx(expected, rel=0.12)
    at = done.at
    assert at is not None
    grown = float(at.rod_in[0] - done.now.rod_in[0])
    assert grown == pytest.approx(done.rounded_in * (1 + 1 / ratio), rel=0.02)


def test_the_uncertainty_of_a_rod_is_that_of_scattered_fits() -> None:
    truth = truth_of(STUD, 0.05)
    found = fit_marks(
        STUD, [seen_at(STUD, truth, 7.5, closed_end="inboard"), seen_at(STUD, truth, 7.55)]
    )
    done = correct(found, "mid_lift", 7.5, 0.025)
    grid = np.linspace(7.3, 7.9, 61)
    errors = view(STUD, draws(found, 1500, 8), grid).error
    lengths = [np.interp(0.0, -row, grid) for row in errors]
    assert np.std(lengths) == pytest.approx(done.u_in, rel=0.08)


def test_the_schools_agree_only_at_the_right_distance() -> None:
    arm, h = SHAFT.arm_in.value, SHAFT.expected_lift_in
    right = arm - ideal_fulcrum_in(arm, h)
    agreeing = fit_marks(SHAFT, [seen_at(SHAFT, truth_of(SHAFT, 0.0, right), 0.0, angle_deg=0.0)])
    assert conflict(agreeing, correct(agreeing, "mid_lift", 0.0, 0.005)) is None
    apart = truth_of(SHAFT, 0.0, right + 0.045)
    found = fit_marks(SHAFT, [seen_at(SHAFT, apart, 0.0, angle_deg=0.0)])
    done = correct(found, "mid_lift", 0.0, 0.005)
    clash, centred = conflict(found, done), correct(found, "centred", 0.0, 0.005)
    assert clash is not None
    assert clash.move_in == pytest.approx(-0.045, abs=0.006)
    assert done.at is not None
    assert centred.at is None or centred.at.width_in[0] > done.at.width_in[0] + 0.02


def test_a_mark_near_the_edge_is_refused_with_the_alternative() -> None:
    truth = truth_of(SHAFT, 0.02, turn_in=0.145)
    found = fit_marks(SHAFT, [seen_at(SHAFT, truth, 0.0, closed_end="inboard", angle_deg=0.7)])
    done = correct(found, "mid_lift", 0.0, 0.005)
    assert "middle third" in done.refused or "0.040" in done.refused
    one, _ = said_of(found, step_in=0.005)
    assert one.finding == "unsure", "one setting does not blame the stand"
    assert one.reading is not None
    assert one.reading.kind == "mark"
    second = fit_marks(SHAFT, [*found.tries, seen_at(SHAFT, truth, 0.03)], 0.0)
    _, said = said_of(second, step_in=0.005)
    assert said.state == "outside"
    assert "another rocker" in said.then


def test_what_to_read_next() -> None:
    """An undecided side asks for what decides it; a decided one for what tightens most."""
    truth = truth_of(STUD, 0.06)
    one = fit_marks(STUD, [seen_at(STUD, truth, 7.5)])
    first = next_readings(one, 7.5)
    assert first[0].decides
    kinds = [r.kind for r in first if r.decides]
    assert {"angle", "mark", "closed_end"} <= set(kinds)
    two = fit_marks(STUD, [seen_at(STUD, truth, 7.5, closed_end="inboard")])
    best = next_readings(two, 7.5)[0]
    assert best.kind == "angle"
    taken = fit_marks(STUD, [*two.tries, SeenMark(7.5, angle_deg=2.37)])
    assert correct(taken, "mid_lift", 7.5, 0.025).u_in == pytest.approx(best.u_after_in, rel=0.15)


@pytest.mark.parametrize(
    ("tool", "by"), [("square", "heights"), ("phone", "heights"), ("inclinometer", None)]
)
def test_a_coarse_tool_is_not_asked_twice(tool: AngleTool, by: AngleTool | None) -> None:
    """Two heights over a stated distance read finer than a square or a phone's level."""
    mark = seen_at(STUD, truth_of(STUD, 0.06), 7.5, closed_end="inboard")
    angle = SeenMark(7.5, angle_deg=2.4, angle_u_deg=ANGLE_U_DEG[tool])
    offered = next_readings(fit_marks(STUD, [mark, angle]), 7.5)
    assert next(r for r in offered if r.kind == "angle").by == by


def test_what_the_marks_cannot_tell() -> None:
    truth = truth_of(SHAFT, 0.03)
    found = fit_marks(SHAFT, [seen_at(SHAFT, truth, 0.0, closed_end="inboard")])
    told = set(UNKNOWNS) - set(untold(found))
    assert {"rise_in", "turn_in"} <= told
    assert "bend_deg" not in told
    narrow = with_measured(SHAFT, {"bend_deg": (13.0, 1.0), "lean_deg": (2.0, 0.5)})
    u = [float(outputs_at(fit_marks(s, found.tries), 0.0, "ratio")[1][0]) for s in (SHAFT, narrow)]
    assert u[1] < u[0] / 1.8


def test_tries_tighten_the_estimate() -> None:
    truth = truth_of(STUD, 0.04)
    rods = (7.5, 7.55, 7.6, 7.65)
    us = [
        fit_marks(
            STUD, [seen_at(STUD, truth, r, closed_end=None) for r in rods[: n + 1]]
        ).best.error_u_in
        for n in range(len(rods))
    ]
    assert us == sorted(us, reverse=True)


def test_verdicts_in_their_states() -> None:
    def said(found: MarksFit) -> tuple[str, str]:
        _, verdict = said_of(found)
        return verdict.state, verdict.what

    assert said(fit_marks(STUD, []))[0] == "waiting"
    truth = truth_of(STUD, 0.06)
    assert "or" in said(fit_marks(STUD, [seen_at(STUD, truth, 7.5)]))[1]
    sure = [seen_at(STUD, truth, 7.5, angle_deg=2.37, angle_u_deg=0.1)]
    assert said(fit_marks(STUD, sure)) == ("closing", "Take a rod {c} longer.")
    right = truth_of(STUD, 0.0, turn_in=0.013)
    level = [seen_at(STUD, right, 7.5, angle_deg=0.0, angle_u_deg=0.05)]
    assert said(fit_marks(STUD, level)) == ("settled", "The rocker sits right.")


def test_settings_side_by_side() -> None:
    found = fit_marks(SHAFT, [])
    row = settings_row(found, np.array([-0.6, 0.0, 0.05]))
    assert row.refused[0] != ""
    assert row.refused[1] == ""
    motion = run(SHAFT.mechanism(found.unknowns), np.array([0.0, 0.353]))
    assert row.lift_in[1] == pytest.approx(motion.valve_in[-1], abs=1e-12)
    assert stocked(7.6125, 0.025, 0.3125) == pytest.approx((7.5875, 7.6125, 7.6375))


@pytest.mark.parametrize(
    ("values", "field"),
    [
        ({}, "mark"),
        ({"inboard_in": 0.05, "outboard_in": 0.02}, "outboard_in"),
        ({"inboard_in": 0.01, "outboard_in": 0.05, "width_in": 0.04}, "width_in"),
        ({"angle_deg": 80.0}, "angle_deg"),
        ({"lift_in": -0.1}, "lift_in"),
    ],
)
def test_tries_that_cannot_be(values: dict[str, float], field: str) -> None:
    with pytest.raises(InputError) as raised:
        SeenMark(7.5, **values)  # type: ignore[arg-type]
    assert raised.value.field == field


def test_dimensions_that_cannot_be() -> None:
    with pytest.raises(InputError, match=r"Arm, fulcrum to tip centre: 15 in is outside 0\.5 to 3"):
        with_measured(STUD, {"arm_in": (15.0, 0.005)})
    with pytest.raises(InputError, match="as long as the arm"):
        with_measured(
            starting_sheet("shoe_stud", 1.5, stem_in=0.34, rod_in=7.0),
            {"tip_radius_in": (1.6, 0.01)},
        )


def test_measured_ratio_and_deflection() -> None:
    """Common practice: lobe 0.429 at 1.73 is 0.742 gross; 0.722 with real springs, 0.020 lost."""
    assert measured_ratio([(0.429, 0.742)])[0].ratio == pytest.approx(1.73, abs=0.001)
    assert deflection(0.742, 0.722) == pytest.approx(0.020)
    lobe = np.array([0.1, 0.2, 0.3])
    valve = run(SHAFT.mechanism(SHAFT.prior[0]), lobe).valve_in
    points = measured_ratio(list(zip(lobe.tolist(), valve.tolist(), strict=True)))
    ratios = [p.local for p in points]
    assert ratios == sorted(ratios, reverse=True)
    with pytest.raises(InputError, match="no rocker's"):
        measured_ratio([(0.742, 0.429)])
    with pytest.raises(InputError, match="light ones"):
        deflection(0.722, 0.742)
