"""What a builder of thirty years would say of a mark: common practice, no source."""

import numpy as np
import pytest

from tests.builders import SHAFT, STUD, said_of, seen_at, truth_of
from vivid_arm.core.errors import InputError
from vivid_arm.core.rocker import doubt
from vivid_arm.core.rocker.chance import good_chance
from vivid_arm.core.rocker.correction import correct, settings_row
from vivid_arm.core.rocker.doubt import lift_hunt
from vivid_arm.core.rocker.judged import Finding
from vivid_arm.core.rocker.marks import MarksFit, fit_marks, view
from vivid_arm.core.rocker.seen import SeenMark
from vivid_arm.core.rocker.sheet import Sheet, starting_sheet, with_measured
from vivid_arm.core.rocker.sides import Branch, merged, part_between
from vivid_arm.core.said.rocker import across_verdict, direction_words
from vivid_arm.core.said.verdicts import fill


def finding(sheet: Sheet, *tries: SeenMark, step_in: float = 0.025) -> Finding:
    return said_of(fit_marks(sheet, tries), step_in=step_in)[0].finding


def words(found: MarksFit, school: str = "mid_lift", step_in: float = 0.025) -> str:
    said = said_of(found, school, step_in)[1]  # type: ignore[arg-type]
    return " ".join(fill(t, said.lengths, said.smalls) for t in (said.what, said.why, said.then))


@pytest.mark.parametrize("width", [0.037, 0.028, 0.024])
def test_a_mark_at_the_least_width_is_never_a_larger_error(width: float) -> None:
    """Over its lift this arm sweeps 28 thou: what is read narrower is a reading's error."""
    found = fit_marks(SHAFT, [SeenMark(0.0, -width / 2, width / 2)])
    assert abs(found.best.error_in) < 0.003
    assert found.decided
    assert finding(SHAFT, *found.tries, step_in=0.005) == "good"


def test_a_mark_narrower_than_the_arm_can_sweep_is_asked_about() -> None:
    found = fit_marks(SHAFT, [SeenMark(0.0, -0.008, 0.008)])
    said = words(found, step_in=0.005)
    assert said.startswith("The mark of try 1 is narrower than this rocker can leave.")
    assert "two whole turns" in said
    assert said_of(found)[0].settled is None


def test_two_marks_nearly_the_same_have_nearly_the_same_answer() -> None:
    """Centring by tangency: the middle only touches the tip's; two thou change nothing."""
    asked = []
    for half in (0.019, 0.021):
        found = fit_marks(SHAFT, [SeenMark(0.0, -half, half)])
        done = correct(found, "centred", 0.0, 0.005)
        assert done.exact_in is not None
        asked.append(done.exact_in)
        assert said_of(found, "centred", 0.005)[0].finding == "good"
    assert asked[0] == pytest.approx(asked[1], abs=0.003)


def test_a_mark_off_the_edge_says_which_way_and_never_the_stand() -> None:
    """Hanging off outboard at 6.8, centred at 6.5: shorter first, then the mark itself decides."""
    sheet = starting_sheet("roller_stud", 1.6, stem_in=0.3415, rod_in=6.8, net_lift_in=0.55)
    off = SeenMark(6.8, inboard_in=0.11, off="outboard")
    said = words(fit_marks(sheet, [off]), "centred")
    assert said.startswith("About 300 thou shorter, then mark again.")
    assert "another rocker" not in said
    then = fit_marks(sheet, [off, SeenMark(6.5, -0.018, 0.020)], 6.5)
    one, _ = said_of(then, "centred")
    assert one.finding == "good"
    assert one.settled is not None
    assert one.settled.setting_in == 6.5
    at_the_limit = fit_marks(sheet, [off, SeenMark(6.5, -0.019, 0.023)], 6.5)
    two, said = said_of(at_the_limit, "centred")
    assert (two.finding, two.reading and two.reading.kind) == ("unsure", "angle")
    assert "another rocker" not in said.then


@pytest.mark.parametrize(("place", "way"), [("off_outboard", "shorter"), ("off_inboard", "longer")])
def test_by_eye_off_the_tip(place: str, way: str) -> None:
    found = fit_marks(STUD, [SeenMark(7.5, place=place)])  # type: ignore[arg-type]
    assert f"About 300 thou {way}" in words(found)


def test_the_stand_is_blamed_by_two_settings_or_by_its_distance() -> None:
    truth = truth_of(SHAFT, 0.0, turn_in=0.15)
    one = seen_at(SHAFT, truth, 0.0, angle_deg=0.0)
    found = fit_marks(SHAFT, [one])
    said, _ = said_of(found, "mid_lift")
    assert said.finding == "unsure"
    assert said.reading is not None
    assert said.reading.kind == "mark"
    assert abs(said.reading.setting_in or 0.0) == pytest.approx(0.030)
    assert finding(SHAFT, one, seen_at(SHAFT, truth, 0.04), step_in=0.005) == "refused"
    stands = float(SHAFT.arm_in.value) - 0.15
    known = starting_sheet(
        "roller_shaft", 1.7, stem_in=0.3415, rod_in=7.9, lobe_lift_in=0.353, fulcrum_in=stands
    )
    assert finding(known, one, step_in=0.005) == "refused"
    with pytest.raises(InputError, match="Fulcrum to the stem's axis"):
        starting_sheet("roller_shaft", 1.7, stem_in=0.3415, rod_in=7.9, fulcrum_in=9.0)


def test_a_measured_distance_tells_where_the_mark_lies() -> None:
    known = starting_sheet(
        "roller_shaft", 1.7, stem_in=0.3415, rod_in=7.9, lobe_lift_in=0.353, fulcrum_in=1.55
    )
    found = fit_marks(known, [SeenMark(0.0, angle_deg=0.0)])
    arm, turn = found.unknowns[2], found.unknowns[1]
    assert arm - turn == pytest.approx(1.55, abs=0.01)


def test_readings_that_contradict_each_other_are_named() -> None:
    marks = [SeenMark(0.0, -0.02, 0.03), SeenMark(0.0, angle_deg=0.1), SeenMark(0.0, angle_deg=4.2)]
    said = words(fit_marks(SHAFT, marks), step_in=0.005)
    assert said.startswith("The angle of try 3 does not go with the rest.")


def test_a_measured_dimension_that_is_pulled_is_named_with_what_pulls() -> None:
    sheet = with_measured(SHAFT, {"film_in": (0.006, 0.001), "arm_in": (1.600, 0.005)})
    wide = [SeenMark(0.0, -0.04, 0.06, angle_deg=0.0, angle_u_deg=0.15)]
    one, said = said_of(fit_marks(sheet, wide), step_in=0.005)
    assert one.finding == "conflict"
    assert "off what was measured" in said.why or "No rocker" in said.why


def test_of_many_tries_the_one_misread_is_named_after_few_fits(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    """However many readings there are: without which they agree is tried for a few alone."""
    rng = np.random.default_rng(8)
    settings = (-0.04, -0.02, 0.0, 0.02)
    base = fit_marks(SHAFT, ())
    for wrong in (3, 17, 29):
        tries = []
        for n in range(30):
            row = settings_row(base, np.array([settings[n % 4]]))
            off = 0.04 if n == wrong else 0.0
            edges = rng.normal([row.inboard_in[0] + off, row.outboard_in[0] + off], 0.002)
            tries.append(SeenMark(settings[n % 4], *map(float, edges), number=n + 1))
        found = fit_marks(SHAFT, tries)
        fits = 0

        def counting(*given: object, **named: object) -> MarksFit:
            nonlocal fits
            fits += 1
            return fit_marks(*given, **named)  # type: ignore[arg-type]

        monkeypatch.setattr(doubt, "fit_marks", counting)
        said = doubt.conflicting(found)
        assert said is not None
        assert (said.attempt, fits) == (wrong, doubt.SUSPECTS)


def test_sound_readings_are_seldom_called_a_conflict() -> None:
    """Simulated with dimensions drawn half as wide again as the sheet has them."""
    rng = np.random.default_rng(5)
    called = 0
    for _ in range(60):
        mean, sd = STUD.prior
        truth = mean + rng.standard_normal(len(mean)) * np.r_[0.05, 0.03, sd[2:] * 1.5]
        seen = view(STUD, truth[None], np.array([7.5]))
        if not np.isfinite(seen.inboard).all():
            continue
        low, high = (float(x[0, 0]) + rng.normal() * 0.003 for x in (seen.inboard, seen.outboard))
        angle = float(seen.angle[0, 0]) + rng.normal() * 0.25
        lift = float(seen.lift[0, 0]) + rng.normal() * 0.002
        tries = [SeenMark(7.5, min(low, high - 0.001), high), SeenMark(7.5, angle_deg=angle),
                 SeenMark(7.5, lift_in=lift)]  # fmt: skip
        called += finding(STUD, *tries) in ("conflict", "sinks", "narrow")
    assert called <= 3


SINKING = starting_sheet("roller_stud", 1.5, stem_in=0.3415, rod_in=7.5, lobe_lift_in=0.353)


def test_a_lift_well_under_the_lobes_is_a_sinking_plunger() -> None:
    """Lobe 0.353 at 1.5 gives 0.53; 0.380 was read."""
    found = fit_marks(SINKING, [SeenMark(7.5, -0.02, 0.03, lift_in=0.380)])
    said = words(found)
    assert said.startswith("The plunger sinks, or the lobe is not the card's.")
    assert "72 %" in said
    sound = SeenMark(7.5, -0.02, 0.03, lift_in=0.535)
    assert finding(SINKING, sound) != "sinks"


def test_the_sink_corrects_lift_and_mark() -> None:
    """A mark made over a sinking plunger, its sink entered, tells the height it was made at."""
    truth = truth_of(SINKING, 0.050)
    seen = view(SINKING, truth[None], np.array([7.5]), sink_in=0.060)
    low, high, lift = (float(x[0, 0]) for x in (seen.inboard, seen.outboard, seen.lift))
    told = SeenMark(7.5, low, high, closed_end="inboard", lift_in=lift, sink_in=0.060)
    found = fit_marks(SINKING, [told])
    assert found.best.error_in == pytest.approx(0.050, abs=found.best.error_u_in / 2)
    assert finding(SINKING, told) not in ("sinks", "conflict")
    assert finding(SINKING, SeenMark(7.5, low, high, lift_in=lift)) == "sinks"


def test_a_mark_at_rest_tells_where_closed_is_and_nothing_of_the_sweep() -> None:
    truth = truth_of(STUD, 0.05)
    closed = float(view(STUD, truth[None], np.array([7.5])).closed[0, 0])
    found = fit_marks(STUD, [SeenMark(7.5, rest_in=closed)])
    assert found.best.error_u_in > 0.04
    shown = float(view(STUD, found.unknowns[None], np.array([7.5])).closed[0, 0])
    assert shown == pytest.approx(closed, abs=0.002)
    assert finding(STUD, SeenMark(7.5, rest_in=closed)) == "unsure"


def test_by_eye_settles_only_with_the_arm_seen_square() -> None:
    eye = SeenMark(7.5, place="centred", wide="narrow")
    assert finding(STUD, eye) == "unsure"
    assert finding(STUD, eye, SeenMark(7.5, angle_deg=0.0)) == "right"
    assert finding(STUD, eye, SeenMark(7.5, angle_deg=4.0)) == "change"


def test_the_angle_is_asked_for_first() -> None:
    for tries in ([seen_at(STUD, truth_of(STUD, 0.06), 7.5)],
                  [SeenMark(7.5, place="outboard", wide="usual")]):  # fmt: skip
        said = words(fit_marks(STUD, tries))
        assert "read the arm's angle at half lift" in said.lower()


def test_the_side_is_kept_open_until_it_is_known() -> None:
    """Off by 20 to 90 thou, the closed end noted: the wrong side alone in under 2 of 100."""
    rng = np.random.default_rng(9)
    wrong = total = 0
    for _ in range(150):
        error = float(rng.choice([-1, 1]) * rng.uniform(0.020, 0.090))
        truth = truth_of(STUD, error, float(rng.normal() * 0.02))
        seen = view(STUD, truth[None], np.array([7.5]))
        low, high = (float(x[0, 0]) + rng.normal() * 0.003 for x in (seen.inboard, seen.outboard))
        apart = float(seen.open[0, 0] - seen.closed[0, 0]) + rng.normal() * 0.003
        end = "inboard" if apart > 0 else "outboard"
        found = fit_marks(STUD, [SeenMark(7.5, low, max(high, low + 0.001), closed_end=end)])  # type: ignore[arg-type]
        sides = [b.error_in for b in (found.best, *found.rivals)]
        us = [2 * b.error_u_in for b in (found.best, *found.rivals)]
        wrong += all(e * error < 0 and abs(e) > u for e, u in zip(sides, us, strict=True))
        total += 1
    assert wrong <= 0.02 * total


@pytest.mark.parametrize(
    ("lifts", "rising", "peak"),
    [
        ([0.675, 0.678, 0.681, 0.682], 1, None),
        ([0.682, 0.679, 0.675, 0.670], -1, None),
        ([0.675, 0.680, 0.681, 0.676], 0, 0.046),
        ([0.680, 0.681, 0.680, 0.681], 0, None),
    ],
)
def test_the_lift_hunt(lifts: list[float], rising: int, peak: float | None) -> None:
    hunt = lift_hunt([(0.03 * i, x) for i, x in enumerate(lifts)], 0.70)
    assert hunt is not None
    assert hunt.rising == rising
    assert hunt.lost_in == pytest.approx(0.70 - max(lifts))
    if peak is None:
        assert hunt.peak_in is None or rising == 0
    else:
        assert hunt.peak_in == pytest.approx(peak, abs=0.003)


def test_the_measured_trend_is_believed_against_the_geometry() -> None:
    """Lift falls with the rod by the geometry and rises as read: the advice is withdrawn."""
    truth = truth_of(STUD, -0.08)
    rods = (7.4, 7.5, 7.6)
    true = [float(view(STUD, truth[None], np.array([r])).lift[0, 0]) for r in rods]
    sign = 1 if true[-1] < true[0] else -1
    tries = [
        seen_at(STUD, truth, r, angle_deg=float(view(STUD, truth[None], np.array([r])).angle[0, 0]),
                lift_in=0.55 + sign * 0.012 * i)
        for i, r in enumerate(rods)
    ]  # fmt: skip
    found = fit_marks(STUD, tries, 7.6)
    hunt = lift_hunt([(t.setting_in, t.lift_in or 0.0) for t in tries], 0.55)
    assert said_of(found, hunt=hunt)[0].finding in ("trend", "sinks")
    steady = lift_hunt(list(zip(rods, true, strict=True)), 0.55)
    assert said_of(fit_marks(STUD, tries[:1]), hunt=steady)[0].finding != "trend"


@pytest.mark.parametrize(
    ("across", "by_design", "state"),
    [(None, False, None), (0.015, False, None), (0.045, False, "closing"),
     (-0.045, True, "settled"), (0.140, True, "outside")],
)  # fmt: skip
def test_sideways(across: float | None, by_design: bool, state: str | None) -> None:
    said = across_verdict(across, 0.3415, by_design=by_design)
    assert (said.state if said else None) == state


def test_the_trades_rule_of_direction_is_answered() -> None:
    low = fit_marks(STUD, [SeenMark(7.5, angle_deg=4.0), SeenMark(7.5, -0.06, 0.01)])
    assert "holds here" in direction_words(low, 7.5)
    high = fit_marks(STUD, [SeenMark(7.5, angle_deg=-9.0), SeenMark(7.5, -0.10, 0.01)])
    assert "wrong way round" in direction_words(high, 7.5)
    open_ = fit_marks(STUD, [SeenMark(7.5, -0.06, 0.03)])
    assert "decides" in direction_words(open_, 7.5)


def test_the_chance_of_a_good_mark() -> None:
    """High where it was seen well, nothing far off; by draws from the fit itself."""
    truth = truth_of(STUD, 0.0, turn_in=0.013)
    seen = seen_at(STUD, truth, 7.5, angle_deg=0.0, angle_u_deg=0.1)
    low, here, high = good_chance(fit_marks(STUD, [seen]), np.array([7.2, 7.5, 7.8]))
    assert here > 0.97
    assert max(low, high) < 0.02


def test_a_side_is_cut_where_it_ends() -> None:
    """A truncated normal's mean and spread, textbook: half of one has mean 0.798, sd 0.603."""
    whole = Branch(np.zeros(10), (1,), np.eye(10) * 0.01, 0.0, 0.0, 0.0, 0.1, whole=True)
    slopes = np.eye(10)[0]
    half = part_between(whole, slopes, 0.0, np.inf)
    assert half is not None
    assert half.error_in == pytest.approx(0.0798, abs=1e-4)
    assert half.error_u_in == pytest.approx(0.0603, abs=1e-4)
    assert half.unknowns[0] == pytest.approx(0.0798, abs=1e-4)
    assert half.evidence == pytest.approx(np.log(0.5))
    assert part_between(whole, slopes, -1.0, 1.0) is whole
    assert part_between(whole, slopes, 0.2, 0.1) is None
    other = part_between(whole, slopes, -np.inf, 0.0)
    assert other is not None
    (one,) = merged([half, other])
    assert one.error_in == pytest.approx(0.0, abs=1e-9)
    assert one.error_u_in == pytest.approx(0.1, abs=1e-3)


def test_a_try_that_tells_nothing_or_too_much() -> None:
    with pytest.raises(InputError, match="Nothing was seen"):
        SeenMark(7.5, sink_in=0.02)
    with pytest.raises(InputError, match="sink"):
        SeenMark(7.5, lift_in=0.5, sink_in=0.5)
