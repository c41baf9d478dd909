"""The zero-lash bracket against published distributions, a second method and simulation."""

from dataclasses import replace
from math import inf

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad
from scipy.stats import multivariate_normal, norm
from uncertainties import ufloat

from benchmarks.trials import make_builder, with_program
from vivid_arm.core.entry.instruments import Caliper, CheckingRod
from vivid_arm.core.errors import InputError
from vivid_arm.core.rocker.mechanism import net_lift
from vivid_arm.core.rocker.sheet import starting_sheet
from vivid_arm.core.zero_lash.bracket import (
    USUAL_FEELING,
    Feel,
    Feeling,
    NextTrial,
    Trial,
    evidence,
    next_trial,
    posterior,
    read_bracket,
)
from vivid_arm.core.zero_lash.hand import USUAL_HANDS, Hand, learned_hands

ROD = CheckingRod(6.800, 0.050, 20)
RATIO = 1.6


def following(
    trials: list[Trial], *, gaps: bool, expected: float | None = None
) -> NextTrial | None:
    return next_trial(
        trials,
        read_bracket(trials, RATIO),
        ROD.adjuster,
        RATIO,
        gaps=gaps,
        expected_in=expected,
    )


def test_sharp_feel_gives_the_rectangular_distribution() -> None:
    """Published: GUM 4.3.7. Between loose and tight: middle, half-width / sqrt(3)."""
    sharp = Feeling(hands=(Hand(1e-6, 1e-6),))
    found = read_bracket([Trial(1, 7.30, "loose"), Trial(2, 7.35, "tight")], RATIO, sharp)
    assert found.estimate_in == pytest.approx(7.325, abs=1e-4)
    assert found.u_in == pytest.approx(0.025 / np.sqrt(3), rel=0.01)


def test_posterior_against_numerical_integration() -> None:
    """Independent: SciPy's quad and norm on the same probit model."""
    f = Hand(0.002, 0.001)
    trials = [Trial(1, 7.300, "loose"), Trial(2, 7.3125, "tight")]

    def likelihood(length: float) -> float:
        loose = norm.cdf((length - 7.300 - f.band_in) / f.sd_in)
        tight = norm.cdf((7.3125 - length - f.band_in) / f.sd_in)
        return float(loose * tight)

    total = quad(likelihood, 7.28, 7.34)[0]
    mean = quad(lambda x: x * likelihood(x), 7.28, 7.34)[0] / total
    square = quad(lambda x: (x - mean) ** 2 * likelihood(x), 7.28, 7.34)[0] / total
    found = read_bracket(trials, RATIO, Feeling(hands=(f,)))
    assert found.estimate_in == pytest.approx(mean, abs=2e-6)
    assert found.u_in == pytest.approx(np.sqrt(square), rel=1e-3)


@pytest.mark.parametrize("fade", [0.0, 0.15])
@pytest.mark.parametrize("gaps", [(0.165, 0.036), (0.165, 0.100, 0.068, 0.036), (0.036,)])
def test_common_ratio_and_fade_of_some_gaps_against_scipy(
    gaps: tuple[float, ...], fade: float
) -> None:
    """Independent: SciPy's multivariate normal with the full covariance matrix."""
    f = Feeling(fade=fade, fade_sd=0.8 * fade)
    seen = np.array(gaps)
    plain = seen / RATIO
    more = plain * np.maximum(seen - 0.060, 0.0) / RATIO
    missing = plain + fade * more
    x = 7.31 - missing + np.resize([0.0004, -0.0003, 0.0002], len(gaps))
    read = zip(x, seen, strict=True)
    trials = [Trial(n, length, "loose", gap) for n, (length, gap) in enumerate(read, 1)]
    grid, p = posterior(trials, RATIO, f)
    keep = p > 1e-9

    cov = (f.gap_sd_in / RATIO) ** 2 * np.eye(len(gaps))
    cov += f.ratio_sd**2 * np.outer(missing, missing) + f.fade_sd**2 * np.outer(more, more)

    def likelihood(length: float) -> float:
        return float(multivariate_normal.pdf(x + missing, [length] * len(gaps), cov))

    other = np.array([likelihood(length) for length in grid[keep]])
    assert p[keep] / p[keep].sum() == pytest.approx(other / other.sum(), rel=1e-6)


def test_one_gap_against_uncertainties() -> None:
    """Independent: the uncertainties package, first order; a small gap keeps it linear."""
    gap, ratio = (
        ufloat(0.030, USUAL_FEELING.gap_sd_in),
        ufloat(RATIO, RATIO * USUAL_FEELING.ratio_sd),
    )
    expected = 7.300 + gap / ratio
    found = read_bracket([Trial(1, 7.300, "loose", 0.030)], RATIO)
    assert found.estimate_in == pytest.approx(expected.n, abs=1e-5)
    assert found.u_in == pytest.approx(expected.s, rel=1e-3)


def test_a_rod_too_short_by_its_gap() -> None:
    """Common practice: 7.500 short, gap 0.065 at ratio 1.6: 0.0406 missing."""
    found = read_bracket([Trial(1, 7.500, "loose", 0.065)], RATIO)
    assert found.estimate_in == pytest.approx(7.5406, abs=5e-5)


def test_a_zero_settles_with_lash_close_below_and_once_more() -> None:
    """A bare zero may be tight already: half a turn shorter is asked, then the zero again."""
    trials = [Trial(1, 7.3125, "zero")]
    step = following(trials, gaps=True)
    assert not read_bracket(trials, RATIO).settled
    assert step is not None
    assert step.length_in == pytest.approx(7.2875)
    assert "half a turn shorter" in step.reason
    trials.append(Trial(2, 7.2875, "loose"))
    assert not read_bracket(trials, RATIO).settled
    found = read_bracket([*trials, Trial(3, 7.3125, "zero")], RATIO)
    assert found.settled
    assert found.within_in == 0.005
    assert found.estimate_in == pytest.approx(7.3125, abs=1e-6)
    assert following([*trials, Trial(3, 7.3125, "zero")], gaps=True) is None


def test_a_known_hand_needs_one_zero() -> None:
    """Eight valves felt sharply tell of the hand, whose next zero is known within 4 thou; a dull
    hand's valves take that back."""
    feeling = USUAL_FEELING
    sharp = [Trial(1, 7.30, "loose", 0.022), Trial(2, 7.30625, "loose", 0.011),
             Trial(3, 7.3125, "zero"), Trial(4, 7.31875, "tight")]  # fmt: skip
    dull = [Trial(1, 7.30, "loose", 0.022), Trial(2, 7.30625, "zero"), Trial(3, 7.3125, "tight"),
            Trial(4, 7.31875, "zero")]  # fmt: skip
    told = [evidence(sharp, 1.744, feeling)] * 8
    known = replace(feeling, hands=learned_hands(USUAL_HANDS, told))
    worse = replace(feeling, hands=learned_hands(USUAL_HANDS, [evidence(dull, 1.744, feeling)] * 8))
    assert known.zero_reach_in < feeling.zero_reach_in < worse.zero_reach_in
    trials = [Trial(1, 7.2875, "loose"), Trial(2, 7.3125, "zero")]
    assert read_bracket(trials, RATIO, known).settled
    assert not read_bracket(trials, RATIO, worse).settled


def test_no_lash_may_be_tight_already() -> None:
    """Common practice: 10 loose and 11 "no lash" leave the half turns between (7.3125 and 7.3375
    were both true)."""
    trials = [Trial(1, 7.30, "loose"), Trial(2, 7.35, "no_lash")]
    found, step = read_bracket(trials, RATIO), following(trials, gaps=False)
    assert not found.settled
    assert found.low_in is not None
    assert found.high_in is not None
    assert found.low_in < 7.3125 < 7.3375 < found.high_in
    assert step is not None
    assert step.length_in == pytest.approx(7.325)


def test_barely_loose_is_a_rough_gap() -> None:
    """Common practice: 7.413 barely loose by a caliper asks for a few thou more, not a turn."""
    trials = [Trial(1, 7.413, "barely")]
    step = next_trial(
        trials, read_bracket(trials, RATIO), Caliper(0, 12).adjuster, RATIO, gaps=False
    )
    assert step is not None
    assert 0.002 < step.length_in - 7.413 < 0.012
    quite = read_bracket([Trial(1, 7.413, "quite")], RATIO).estimate_in
    assert quite is not None
    assert 7.44 < quite < 7.53
    assert read_bracket([*trials, Trial(2, 7.46, "tight")], RATIO).contradictions == ()
    assert read_bracket([*trials, Trial(2, 7.50, "loose")], RATIO).contradictions


def test_calipers_are_never_told_of_turns() -> None:
    for feel in ("loose", "tight", "zero"):
        trials = [Trial(1, 7.413, feel)]  # type: ignore[arg-type]
        bracket = read_bracket(trials, RATIO)
        step = next_trial(trials, bracket, Caliper(0, 12).adjuster, RATIO, gaps=False)
        assert step is not None
        assert "turn" not in step.reason
        assert "thou" in step.reason


@pytest.mark.parametrize(
    ("trials", "pair", "words"),
    [
        ([(7.325, "loose"), (7.300, "tight")], (1, 2), "tight but shorter"),
        ([(7.300, "loose"), (7.300, "tight")], (1, 2), "same length"),
        ([(7.300, "zero"), (7.350, "zero")], (1, 2), "too far apart"),
        ([(7.300, "zero"), (7.350, "loose")], (1, 2), "longer rod"),
        ([(7.350, "zero"), (7.300, "tight")], (1, 2), "longer rod"),
    ],
)
def test_contradictions_name_the_trials(
    trials: list[tuple[float, str]], pair: tuple[int, int], words: str
) -> None:
    made = [Trial(n, x, feel) for n, (x, feel) in enumerate(trials, 1)]  # type: ignore[arg-type]
    found = read_bracket(made, RATIO)
    assert found.estimate_in is None
    conflict = found.contradictions[0]
    assert (conflict.first, conflict.second) == pair
    assert words in conflict.sentence
    step = following(made, gaps=False)
    assert step is not None
    assert (step.step, step.length_in) == ("repeat", trials[0][0])


def test_a_gap_can_contradict_a_tight() -> None:
    """7.200 + 0.160/1.76 is already 7.291: a tight at 7.270 cannot be right."""
    made = [Trial(1, 7.270, "tight"), Trial(2, 7.200, "loose", 0.160)]
    assert "its gap" in read_bracket(made, RATIO).contradictions[0].sentence


def test_next_trial_follows_the_trade() -> None:
    """Common practice: loose, one full turn longer; bracketed, split."""
    up = following([Trial(1, 7.300, "loose")], gaps=False)
    assert up is not None
    assert (up.step, up.length_in) == ("longer", pytest.approx(7.350))
    split = following([Trial(1, 7.300, "loose"), Trial(2, 7.350, "tight")], gaps=False)
    assert split is not None
    assert split.length_in == pytest.approx(7.325)
    back = following([Trial(1, 7.350, "tight")], gaps=True)
    assert back is not None
    assert back.length_in == pytest.approx(7.250)


def test_first_setting_starts_two_turns_short_with_gaps_and_an_eighth_without() -> None:
    short = following([], gaps=True, expected=7.400)
    plain = following([], gaps=False, expected=7.400)
    assert short is not None
    assert plain is not None
    assert short.length_in == pytest.approx(7.300)
    assert plain.length_in == pytest.approx(7.400 - 0.050 / 8)
    assert following([], gaps=True) is None


def test_gap_leads_to_a_setting_just_short_of_it() -> None:
    made = [Trial(1, 7.250, "loose", 0.139)]
    estimate = read_bracket(made, RATIO).estimate_in
    step = following(made, gaps=True)
    assert step is not None
    assert estimate is not None
    assert 7.300 < step.length_in < estimate


def test_end_of_the_rod_asks_for_nothing() -> None:
    assert following([Trial(1, 7.800, "loose")], gaps=False) is None


def test_refuses_a_gap_that_is_not_loose_and_an_odd_ratio() -> None:
    with pytest.raises(InputError, match="felt as tight leaves no gap"):
        Trial(1, 7.3, "tight", 0.01)
    with pytest.raises(InputError, match="Rocker ratio"):
        read_bracket([], 16)


truths = st.floats(7.0, 7.6)
settings_ = st.lists(st.integers(0, 160), min_size=1, max_size=12)


@given(truths, settings_)
def test_honest_trials_never_contradict_and_hold_the_truth(
    truth: float, eighths: list[int]
) -> None:
    """A hand without error: no contradiction, and the truth inside the bracket."""
    trials = []
    for n, k in enumerate(eighths, 1):
        x = ROD.length_in(k / 8)
        feel = "loose" if truth - x > 0.002 else "tight" if x - truth > 0.002 else "zero"
        trials.append(Trial(n, x, feel))  # type: ignore[arg-type]
    found = read_bracket(trials, RATIO)
    assert found.contradictions == ()
    low = found.longest_loose.length_in if found.longest_loose else -inf
    high = found.shortest_tight.length_in if found.shortest_tight else inf
    assert low < truth < high
    off = 0.0 if found.estimate_in is None else abs(found.estimate_in - truth)
    assert off <= 3.5 * (found.u_in or 0.0)


def test_simulated_builders_reach_the_aim() -> None:
    """Seeded simulation: few trials, and what the program calls settled is."""
    gaps = [with_program(make_builder(k), gaps=True, follow_first=True) for k in range(150)]
    plain = [with_program(make_builder(k), gaps=False, follow_first=True) for k in range(150)]
    assert np.mean([r.trials for r in gaps]) <= 2.2
    assert np.percentile([r.trials for r in gaps], 95) <= 3
    assert np.mean([r.trials for r in plain]) <= 5.5
    for results in (gaps, plain):
        assert np.mean([abs(r.error_in) <= 0.006 for r in results]) >= 0.97
    assert np.mean([abs(r.error_in) <= 0.003 for r in gaps]) >= 0.97


def test_two_sigma_holds_what_it_says() -> None:
    """Seeded simulation: at every stage of the work the truth lies within 2u about as often
    as a normal distribution says (95 %, GUM 6.3.3), and never much less."""
    inside = total = 0
    for seed in range(120):
        builder = make_builder(10_000 + seed)
        trials: list[Trial] = []
        for n, offset in enumerate((-0.06, -0.02, -0.006), 1):
            x = ROD.adjuster.snap(builder.truth_in + offset, -1)
            trials.append(Trial(n, x, "loose", builder.gap(x)))
            found = read_bracket(trials, RATIO)
            if found.estimate_in is not None and found.u_in is not None:
                total += 1
                inside += abs(found.estimate_in - builder.truth_in) <= 2 * found.u_in
    assert total > 330
    assert inside / total >= 0.93


@pytest.mark.parametrize(("lift", "far"), [(0.040, 0.0005), (0.120, 0.001), (0.200, 0.002)])
def test_a_long_gap_against_the_mechanism(lift: float, far: float) -> None:
    """Independent: the four-bar loop of usual rockers says what rod a gap stands for."""
    for rocker in ("roller_stud", "roller_shaft", "shoe_stud", "shoe_shaft"):
        sheet = starting_sheet(rocker, RATIO, stem_in=0.34, rod_in=7.5)  # type: ignore[arg-type]
        link = sheet.linkage(sheet.prior[0])
        rod = link.closed_rod()
        ratio = float(net_lift(link, np.asarray(1e-4), rod)) / 1e-4
        gap = float(net_lift(link, np.asarray(lift), rod))
        missing, u = USUAL_FEELING.missing_in(gap, ratio)
        assert abs(missing - lift) <= max(2 * u, far)
        assert abs(missing - lift) <= abs(gap / ratio - lift) + far


def test_a_long_gap_never_settles_alone() -> None:
    """Common practice: over 0.100 at the tip, set the rod nearer and read again."""
    sharp = Feeling(ratio_half_width=0.001, fade_sd=0.001)
    far = read_bracket([Trial(1, 7.30, "loose", 0.240)], RATIO, sharp)
    assert far.within_probability > 0.95
    assert not far.settled
    step = next_trial([Trial(1, 7.30, "loose", 0.240)], far, ROD.adjuster, RATIO, gaps=True,
                      feeling=sharp)  # fmt: skip
    assert step is not None
    assert step.step == "gap"
    near = [Trial(1, 7.30, "loose", 0.240), Trial(2, 7.44, "loose", 0.016)]
    assert read_bracket(near, RATIO, sharp).settled


def test_a_rocker_as_built_contradicts_nobody() -> None:
    """Both true at a zero lash of 7.6135: a gap of .195 at 7.5125, and tight at 7.61875."""
    trials = [Trial(1, 7.5125, "loose", 0.195), Trial(2, 7.61875, "tight")]
    for ratio in (1.6, 1.6 * 1.09):
        found = read_bracket(trials, ratio)
        assert found.contradictions == ()
        assert found.low_in is not None
        assert found.high_in is not None
        assert found.low_in - 0.002 < 7.6135 < found.high_in + 0.002
    words = read_bracket([Trial(1, 7.5, "loose", 0.30), Trial(2, 7.55, "tight")], RATIO)
    assert "ratio near closed" in words.contradictions[0].sentence


@given(st.permutations([(7.25, "loose", 0.130), (7.35, "tight", None), (7.3, "loose", None)]))
def test_order_of_trials_does_not_matter(entries: list[tuple[float, str, float | None]]) -> None:
    trials = [Trial(n, x, feel, gap) for n, (x, feel, gap) in enumerate(entries, 1)]  # type: ignore[arg-type]
    found = read_bracket(trials, RATIO)
    assert found.estimate_in == pytest.approx(7.3318, abs=5e-4)
    assert found.u_in == pytest.approx(read_bracket(trials[::-1], RATIO).u_in)


@given(st.floats(6.9, 7.7), st.integers(0, 160), st.booleans())
def test_doing_what_it_says_always_ends_at_the_truth(truth: float, start: int, gaps: bool) -> None:
    """From any first setting, with a hand without error: every setting is one that the rod has,
    nothing is asked twice without saying so, and the end is settled and within what it claims."""
    trials: list[Trial] = []
    length = ROD.length_in(start / 8)
    for n in range(1, 40):
        off = truth - length
        feel = "loose" if off > 0.002 else "tight" if off < -0.002 else "zero"
        measurable = gaps and feel == "loose" and RATIO * off <= 0.5
        gap = round(RATIO * off, 3) if measurable else None
        trials.append(Trial(n, length, feel, gap))  # type: ignore[arg-type]
        step = following(trials, gaps=gaps)
        if step is None:
            break
        if step.step != "repeat":
            assert all(abs(step.length_in - t.length_in) > 1e-6 for t in trials)
        length = ROD.length_in(ROD.turns_for(step.length_in))
        assert length == pytest.approx(step.length_in, abs=1e-6)
    found = read_bracket(trials, RATIO)
    assert found.settled
    assert found.estimate_in == pytest.approx(truth, abs=found.within_in + 0.0002)


def test_caliper_trials_are_planned_on_its_own_steps() -> None:
    adjuster = Caliper(0, 12).adjuster
    trials = [Trial(1, 8.2134, "loose"), Trial(2, 8.2641, "tight")]
    step = next_trial(trials, read_bracket(trials, RATIO), adjuster, RATIO, gaps=False)
    assert step is not None
    assert (step.length_in / 0.005) == pytest.approx(round(step.length_in / 0.005), abs=1e-6)
    assert 8.2134 < step.length_in < 8.2641


def test_a_blunter_hand_is_less_sure() -> None:
    trials = [Trial(1, 7.300, "loose"), Trial(2, 7.3125, "tight")]
    sharp = read_bracket(trials, RATIO, Feeling(hands=(Hand(0.002, 0.0005),))).u_in
    blunt = read_bracket(trials, RATIO, Feeling(hands=(Hand(0.002, 0.003),))).u_in
    assert sharp is not None
    assert blunt is not None
    assert blunt > 1.3 * sharp


def test_lash_half_a_turn_below_the_zero_is_not_asked_for_again() -> None:
    """A dull hand whose zeros lie apart: what counts is lash close below the shortest of them,
    even where the estimate has moved further away."""
    trials = [Trial(1, 7.350, "zero"), Trial(2, 7.3246, "loose"), Trial(3, 7.354, "zero"),
              Trial(4, 7.356, "zero"), Trial(5, 7.358, "zero")]  # fmt: skip
    found = read_bracket(trials, RATIO)
    assert found.estimate_in is not None
    assert found.estimate_in - 7.3246 > 0.0255
    assert found.loose_below
    step = following(trials, gaps=False)
    assert step is None or abs(step.length_in - 7.3246) > 0.001


@pytest.mark.parametrize(
    ("feel", "tried", "expected", "wanted"),
    [
        ("loose", 7.40, 7.41, 7.41875),
        ("loose", 7.40, 7.30, 7.45),
        ("loose", 7.40, 7.60, 7.45),
        ("tight", 7.45, 7.43, 7.425),
        ("tight", 7.45, 7.50, 7.40),
    ],
)
def test_without_gaps_the_other_side_is_looked_for_where_it_is_expected(
    feel: Feel, tried: float, expected: float, wanted: float
) -> None:
    """Common practice: what the other valves read is where to look; else by a full turn."""
    trials = [Trial(1, tried, feel)]
    step = following(trials, gaps=False, expected=expected)
    assert step is not None
    assert step.length_in == pytest.approx(wanted, abs=0.0001)
    assert ("expected" in step.reason) == (abs(wanted - tried) < 0.049)
    with_gaps = following(trials, gaps=True, expected=expected)
    assert with_gaps is not None
    assert abs(with_gaps.length_in - tried) >= 0.049


def test_where_other_valves_tell_the_length_a_small_gap_settles_it_at_once() -> None:
    """Half a turn short of what the others have leaves a gap that the ratio hardly touches."""
    step = next_trial([], read_bracket([], 1.7), ROD.adjuster, 1.7, gaps=True,
                      expected_in=7.5, known=True)  # fmt: skip
    assert step is not None
    assert step.length_in == pytest.approx(7.475, abs=ROD.adjuster.resolution_in)
    assert "small gap" in step.reason
    sure = replace(USUAL_FEELING, ratio_half_width=0.03)
    gap = Trial(1, step.length_in, "loose", round((7.5 - step.length_in) * 1.7, 3))
    assert read_bracket([gap], 1.7, sure).settled
    assert not read_bracket([gap], 1.7).settled, "the ratio is not known well enough yet"
