"""Corrections and next readings: rounding, schools, refusals, and words for each."""

import numpy as np
import pytest

from tests.builders import SHAFT, STUD, said_of, seen_at, truth_of
from vivid_arm.core.rocker.correction import (
    NextReading,
    correct,
    next_readings,
    settings_row,
)
from vivid_arm.core.rocker.marks import MarksFit, fit_marks, view
from vivid_arm.core.rocker.seen import SeenMark
from vivid_arm.core.rocker.sheet import DIMENSIONS, Sheet, starting_sheet, with_measured
from vivid_arm.core.said.rocker import (
    explain_correction,
    explain_error,
    explain_r0,
    reading_words,
    school_words,
)
from vivid_arm.core.said.verdicts import fill


def known(sheet: Sheet, error_in: float, turn_in: float | None = None) -> MarksFit:
    """A rocker seen well: its mark, its closed end and its angle at the reference setting."""
    truth = truth_of(sheet, error_in, turn_in)
    base = sheet.rod_in if sheet.stud else 0.0
    seen = view(sheet, truth[None], np.array([base]))
    angle = float(seen.angle[0, 0])
    return fit_marks(sheet, [seen_at(sheet, truth, base, angle_deg=angle, angle_u_deg=0.05)])


@pytest.mark.parametrize("step", [0.001, 0.005, 0.025, 0.05])
@pytest.mark.parametrize("offset", [0.0, 0.3125, 0.2794])
def test_rods_are_rounded_in_the_convention_they_are_bought_in(step: float, offset: float) -> None:
    done = correct(known(STUD, 0.04), "mid_lift", 7.5, step, offset)
    assert done.rounded_in is not None
    assert done.exact_in is not None
    bought = (done.rounded_in + offset) / step
    assert bought == pytest.approx(round(bought), abs=1e-6)
    assert abs(done.rounded_in - done.exact_in) <= step / 2 + 1e-9


def test_the_exact_setting_levels_the_arm_and_centres_the_mark() -> None:
    for school, part in (("mid_lift", "error_in"), ("centred", "centre_in")):
        found = known(SHAFT, 0.03, turn_in=0.025)
        done = correct(found, school, 0.0, 0.005)  # type: ignore[arg-type]
        assert done.exact_in is not None
        there = settings_row(found, np.array([done.exact_in]))
        assert float(getattr(there, part)[0]) == pytest.approx(0, abs=1e-6)


def test_the_mid_lift_setting_is_the_narrowest_of_all() -> None:
    """Independent: a scan of 401 shims."""
    found = known(SHAFT, 0.03)
    scan = np.linspace(-0.1, 0.1, 401)
    row = settings_row(found, scan)
    done = correct(found, "mid_lift", 0.0, 0.0005)
    assert done.exact_in == pytest.approx(scan[int(np.argmin(row.width_in))], abs=0.002)


def test_a_fulcrum_too_high_asks_for_less_and_says_machining() -> None:
    found = known(SHAFT, -0.06)
    done = correct(found, "mid_lift", 0.0, 0.005)
    assert done.rounded_in == pytest.approx(-0.06, abs=0.0051)
    _, said = said_of(found, step_in=0.005)
    assert "machining" in said.what
    assert fill(said.what, said.lengths, said.smalls).startswith("Take 65 thou out")


def test_a_mark_that_no_setting_centres() -> None:
    """The outermost contact stands inboard of the middle: raising or lowering only moves it in."""
    found = known(SHAFT, 0.0, turn_in=-0.02)
    done = correct(found, "centred", 0.0, 0.005)
    assert done.exact_in is None
    assert "centres the mark" in done.refused
    assert done.toward in (-1, 0, 1)


def test_every_offered_reading_would_tell_something() -> None:
    found = fit_marks(STUD, [seen_at(STUD, truth_of(STUD, 0.05), 7.5, closed_end="inboard")])
    before = correct(found, "mid_lift", 7.5, 0.025).u_in
    offered = next_readings(found, 7.5)
    assert {r.kind for r in offered} >= {"angle", "mark", "again", "lift", "dimension"}
    assert all(r.u_after_in <= before + 1e-12 for r in offered)
    assert offered[0].kind == "angle", "common practice: square at half lift before another mark"
    ranks = [(-round(r.chance, 2), r.u_after_in) for r in offered]
    assert ranks == sorted(ranks)


@pytest.mark.parametrize("name", ["bend_deg", "lean_deg", "axis_deg", "ratio"])
def test_measuring_a_dimension_does_what_was_promised(name: str) -> None:
    """The promise is linear algebra on the covariance; the keeping is a fit with the new sheet."""
    truth = truth_of(STUD, 0.06)
    tries = [seen_at(STUD, truth, 7.5, closed_end="inboard"), seen_at(STUD, truth, 7.56)]
    found = fit_marks(STUD, tries)
    promise = next(r for r in next_readings(found, 7.5) if r.dimension == name)
    value = (STUD.known(name).value, DIMENSIONS[name].measured_u)  # type: ignore[arg-type,index]
    sharper = fit_marks(with_measured(STUD, {name: value}), tries)  # type: ignore[dict-item]
    assert correct(sharper, "mid_lift", 7.5, 0.025).u_in == pytest.approx(
        promise.u_after_in, rel=0.1
    )


@pytest.mark.parametrize(
    ("reading", "stud", "words"),
    [
        (
            NextReading("mark", 7.55, None, 0.01, True),
            True,
            "with a rod of 7.5500 in, measure its edges.",
        ),
        (
            NextReading("mark", 0.03, None, 0.01, True),
            False,
            "with 30 thou of shim, measure its edges.",
        ),
        (
            NextReading("mark", -0.03, None, 0.01, False),
            False,
            "less under the stand, measure its edges.",
        ),
        (
            NextReading("angle", 0.0, None, 0.01, True),
            False,
            "angle at half lift.",
        ),
        (
            NextReading("angle", 0.0, None, 0.01, True, by="heights"),
            False,
            "finer: a straight edge on it, two heights.",
        ),
        (NextReading("lift", 0.0, None, 0.01, False), False, "net lift with light springs."),
        (
            NextReading("again", 0.0, None, 0.01, False),
            False,
            "the same mark once more, measure its edges.",
        ),
        (NextReading("closed_end", 0.0, None, 0.01, True), True, "the closed valve stands."),
        (NextReading("dimension", None, "bend_deg", 0.01, False), True, "Protractor on the side."),
    ],
)
def test_readings_in_words(reading: NextReading, stud: bool, words: str) -> None:
    text, smalls, lengths = reading_words(reading, stud)
    assert fill(text, lengths, smalls).endswith(words)


def test_explained_figures_add_up() -> None:
    """What stands in the sentence gives what stands at its end."""
    found = known(SHAFT, 0.03)
    lift = float(view(SHAFT, found.unknowns[None], np.array([0.0])).lift[0, 0])
    error = explain_error(found, lift)
    assert error.smalls["s"] - error.smalls["h"] / 2 == pytest.approx(error.smalls["e"])
    assert error.smalls["m"] == pytest.approx(error.smalls["u"], rel=0.1)
    assert any("correlation" in note for note in error.notes)
    shim = explain_correction(found, correct(found, "mid_lift", 0.0, 0.005))
    assert shim is not None
    assert shim.smalls["r"] == pytest.approx(0.03, abs=0.0051)
    assert not shim.lengths
    rod = explain_correction(known(STUD, 0.03), correct(known(STUD, 0.03), "mid_lift", 7.5, 0.025))
    assert rod is not None
    assert rod.lengths["n"] == 7.5
    assert "1.780 ± 0.020" in explain_r0(1.78, 0.01, 1.7).numbers
    nothing = correct(known(SHAFT, 0.0, turn_in=-0.02), "centred", 0.0, 0.005)
    assert explain_correction(found, nothing) is None


def test_schools_are_named_by_what_they_gain() -> None:
    assert school_words("mid_lift", "roller") == "Mid-lift, narrowest mark"
    assert school_words("mid_lift", "shoe") == "Mid-lift, least sliding"
    assert school_words("centred", "shoe") == "Centred mark"


def test_a_shoes_mid_lift_setting_slides_least() -> None:
    """Independent: a scan of 81 shims of a shoe rocker; its rule takes the contact."""
    shoe = starting_sheet("shoe_shaft", 1.5, stem_in=0.3415, rod_in=8.0, net_lift_in=0.42)
    found = known(shoe, 0.04)
    done = correct(found, "mid_lift", 0.0, 0.005)
    scan = np.linspace(-0.1, 0.1, 81)
    slides = settings_row(found, scan).slide_in
    assert done.exact_in == pytest.approx(scan[int(np.argmin(slides))], abs=0.02)
    assert done.at is not None
    assert done.at.slide_in[0] < done.now.slide_in[0]


def test_an_unsure_change_asks_for_a_reading_first() -> None:
    found = fit_marks(STUD, [seen_at(STUD, truth_of(STUD, 0.06), 7.5, closed_end="inboard")])
    _, said = said_of(found)
    done = correct(found, "mid_lift", 7.5, 0.025)
    assert 2 * done.u_in > 0.025
    assert said.what.startswith("Not settled: read the arm's angle")
    assert said.then.startswith("Inclinometer, or straight edge and two heights.")
    assert "Only then change the rod, then good with about" in said.then
    _, said = said_of(known(STUD, 0.08))
    assert said.what == "Take a rod {c} longer."
    assert said.then.startswith("Then mark again")


def test_lifts_alone_tell_nothing_of_the_height() -> None:
    found = fit_marks(SHAFT, [SeenMark(0.0, lift_in=0.60)])
    assert found.best.error_u_in > 0.06
    assert fit_marks(SHAFT, []).best.error_u_in == pytest.approx(found.best.error_u_in, rel=0.1)
