"""Verdicts say what, why and what next; no sentence is left with a hole in it."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vivid_arm.core.engine.layout import LAYOUTS, check_cylinders, engine_words, valves_of
from vivid_arm.core.entry.instruments import CheckingRod
from vivid_arm.core.errors import InputError
from vivid_arm.core.heads.spread import Remark
from vivid_arm.core.rods.groups import GroupOrder, MeasuredValve, group_order
from vivid_arm.core.rods.preload import Lifter
from vivid_arm.core.said.next_step import next_step
from vivid_arm.core.said.verdicts import (
    Verdict,
    fill,
    group_verdict,
    measured_verdict,
    zero_lash_verdict,
)
from vivid_arm.core.zero_lash.bracket import Trial, next_trial, read_bracket
from vivid_arm.core.zero_lash.combine import combine
from vivid_arm.core.zero_lash.methods import Component, Measure

ROD = CheckingRod(6.8, 0.05, 20)
LIFTER = Lifter(0.050, 0.100, 0.070, 0.200)


def verdict_of(*trials: Trial, gaps: bool = False) -> Verdict:
    bracket = read_bracket(trials, 1.6)
    step = next_trial(trials, bracket, ROD.adjuster, 1.6, gaps=gaps)
    return zero_lash_verdict(bracket, step)


def said(verdict: Verdict, unit: str = "in") -> str:
    parts = (verdict.what, verdict.why, verdict.then)
    return " ".join(fill(p, verdict.lengths, verdict.smalls, unit) for p in parts)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("trials", "state", "words"),
    [
        ((), "waiting", "Set the rod a little short"),
        ((Trial(1, 7.3, "loose"),), "closing", "Longer than 7.3000 in. No tight rod yet"),
        ((Trial(1, 7.8, "loose"),), "closing", "opens no further: take a longer one"),
        ((Trial(1, 6.8, "tight"),), "closing", "closes no further: take a shorter one"),
        ((Trial(1, 7.3, "tight"),), "closing", "Shorter than 7.3000 in. No loose rod yet"),
        (
            (Trial(1, 7.3, "loose"), Trial(2, 7.35, "tight")),
            "closing",
            "About 7.3250 in so far. Known to ± 27.4 thou (k = 2).",
        ),
        ((Trial(1, 7.3125, "zero"),), "closing", "half a turn shorter must feel loose"),
        (
            (Trial(1, 7.2875, "loose"), Trial(2, 7.3125, "zero"), Trial(3, 7.3125, "zero")),
            "settled",
            "Count the turns back to closed",
        ),
        ((Trial(1, 7.3, "no_lash"),), "closing", "7.3000 in or shorter. No loose rod yet"),
        (
            (Trial(1, 7.35, "loose"), Trial(2, 7.3, "tight")),
            "conflict",
            "Trials 1 and 2 contradict each other. Trial 2 is tight but shorter than trial 1",
        ),
    ],
)
def test_what_a_valve_says(trials: tuple[Trial, ...], state: str, words: str) -> None:
    verdict = verdict_of(*trials)
    assert verdict.state == state
    assert words in said(verdict)


def test_a_conflict_names_the_usual_causes_and_the_repeat() -> None:
    words = said(verdict_of(Trial(1, 7.35, "loose"), Trial(2, 7.3, "tight")))
    for cause in ("not on the base circle", "out of its cup", "stand nuts loose", "plunger pushed"):
        assert cause in words
    assert "Repeat trial 1, then strike out whichever of 1 and 2 was wrong." in words


def test_millimetres_all_through() -> None:
    words = said(verdict_of(Trial(1, 7.3125, "zero")), "mm")
    assert "About 185.74 mm so far." in words
    assert " in." not in words.replace("within", "")


trial = st.tuples(
    st.integers(0, 160), st.sampled_from(["loose", "zero", "tight"]), st.integers(0, 150)
)


@given(st.lists(trial, max_size=10), st.booleans())
def test_whatever_is_entered_there_is_a_whole_sentence(
    entries: list[tuple[int, str, int]], gaps: bool
) -> None:
    """Any trials at all, honest or not: a verdict, no crash, no unfilled name."""
    trials = [
        Trial(n, ROD.length_in(k / 8), feel, g / 1000 if g and feel == "loose" else None)  # type: ignore[arg-type]
        for n, (k, feel, g) in enumerate(entries, 1)
    ]
    verdict = verdict_of(*trials, gaps=gaps)
    words = said(verdict)
    assert "{" not in words
    assert "nan" not in words
    assert verdict.what
    assert verdict.why
    assert verdict.then


def group(zeros: list[float], quantity: int = 8, step: float = 0.025, **more: float) -> GroupOrder:
    valves = [MeasuredValve(n, "intake", z, 0.001) for n, z in enumerate(zeros, 1)]
    return group_order("intake", quantity, valves, LIFTER, step, "longer", **more)


@pytest.mark.parametrize(
    ("found", "step", "state", "words"),
    [
        (group([]), 0.025, "waiting", "Measure one intake valve first."),
        (
            group([7.3375], corners_left=True),
            0.025,
            "settled",
            "Order 7.4000 in. Preload 62.5 thou, inside 50 thou to 100 thou; 7.5 thou short. "
            "1 of 8 valves measured: measure the four corners",
        ),
        (group([7.33]), 0.025, "settled", "on the target"),
        (group([7.3375], quantity=2), 0.025, "settled", "measure the others"),
        (group([7.3375], quantity=1), 0.025, "settled", "Try one rod before the full set."),
        (group([7.33, 7.34]), 0.025, "settled", "Preload 60 thou to 70 thou"),
        (
            group([7.345], step=0.100),
            0.100,
            "settled",
            "Order 7.4000 in. Preload 55 thou",
        ),
        (
            group([7.36], step=0.100),
            0.100,
            "outside",
            "No stock length fits. In steps of 100 thou the nearest, 7.4000 in, gives 40 thou",
        ),
        (
            group([7.36], step=0.100),
            0.100,
            "outside",
            "Order a made-to-order length near 7.4300 in",
        ),
        (
            group([7.3375], picked_in=7.5),
            0.025,
            "outside",
            "7.5000 in is outside the window. Preload 162.5 thou",
        ),
    ],
)
def test_what_a_group_says(found: GroupOrder, step: float, state: str, words: str) -> None:
    verdict = group_verdict(found, LIFTER, step)
    assert (verdict.state, words in said(verdict)) == (state, True), said(verdict)


def test_next_step_in_the_order_of_the_work() -> None:
    steps = [
        next_step(has_instrument=False, trials={}, settled={}, conflicts=[]),
        next_step(has_instrument=True, trials={}, settled={}, conflicts=[]),
        next_step(
            has_instrument=True,
            trials={"intake": 1, "exhaust": 1},
            settled={"intake": 1},
            conflicts=["1E"],
        ),
        next_step(
            has_instrument=True,
            trials={"intake": 1, "exhaust": 1},
            settled={"intake": 1},
            conflicts=[],
        ),
        next_step(
            has_instrument=True,
            trials={"intake": 1, "exhaust": 1},
            settled={"intake": 1, "exhaust": 1},
            conflicts=[],
            stuck=["intake"],
        ),
        next_step(
            has_instrument=True,
            trials={"intake": 1, "exhaust": 1},
            settled={"intake": 1, "exhaust": 1},
            conflicts=[],
        ),
    ]
    assert [(s.station, s.kind) for s in steps] == [
        ("setup", None),
        ("zero_lash", "intake"),
        ("zero_lash", "exhaust"),
        ("zero_lash", "exhaust"),
        ("decide", "intake"),
        ("order", None),
    ]
    assert "Readings contradict on 1E" in steps[2].sentence
    assert steps[3].sentence == "Go on with an exhaust valve"


def test_every_layout_has_an_intake_and_an_exhaust_a_cylinder() -> None:
    for layout, (_, counts) in LAYOUTS.items():
        for count in counts:
            valves = valves_of(layout, count)
            assert len(valves) == len(set(valves)) == 2 * count
            assert max(cylinder for cylinder, _ in valves) == count


@pytest.mark.parametrize(
    ("layout", "count", "words"),
    [("v", 8, "V8"), ("inline", 6, "Inline 6"), ("single", 1, "Single")],
)
def test_engine_words(layout: str, count: int, words: str) -> None:
    assert engine_words(layout, count) == words  # type: ignore[arg-type]


@pytest.mark.parametrize(("layout", "count"), [("v", 3), ("flat", 1), ("single", 2), ("inline", 9)])
def test_impossible_layouts_are_refused(layout: str, count: int) -> None:
    with pytest.raises(InputError, match="does not fit layout"):
        check_cylinders(layout, count)  # type: ignore[arg-type]


def measure_at(number: int, zero: float | None, u: float = 0.001, preload: float = 0.05) -> Measure:
    return Measure("indicator", number, zero, preload, (Component("", u, ""),))


@pytest.mark.parametrize(
    ("zeros", "state", "words"),
    [
        ((7.4,), "settled", "Zero lash 7.4000 in. Known to ± 2 thou (k = 2). Go"),
        ((7.4, 7.401), "settled", "From 2 measurements that agree"),
        (
            (7.4, 7.43), "conflict",
            "(1) and Indicator on the rod (2) disagree. They differ by 30 thou",
        ),
        (
            (7.4, 7.43, 7.401), "conflict",
            "Zero lash 7.4005 in; Indicator on the rod (2) does not fit. It says 7.4300 in",
        ),
        ((7.4, 7.45, 7.5), "conflict", "(2) and Indicator on the rod (3)"),
    ],
)  # fmt: skip
def test_what_measurements_say(zeros: tuple[float, ...], state: str, words: str) -> None:
    measures = [measure_at(n, z) for n, z in enumerate(zeros, 1)]
    verdict = measured_verdict(combine(measures), measures, read_bracket([], 1.6), LIFTER)
    assert verdict.state == state
    assert words in said(verdict)
    assert "{" not in said(verdict)


@pytest.mark.parametrize(
    ("preload", "state", "words"),
    [(0.07, "closing", "inside the window 50 thou to 100 thou"), (0.02, "outside", "outside the")],
)
def test_a_preload_without_a_rod(preload: float, state: str, words: str) -> None:
    only = measure_at(1, None, preload=preload)
    verdict = measured_verdict(None, [only], read_bracket([], 1.6), LIFTER)
    assert verdict.state == state
    assert words in said(verdict)
    assert verdict.then.startswith("Give the rod's length")


@pytest.mark.parametrize(
    ("trial", "words"),
    [
        (Trial(1, 7.5, "loose"), "trial 1 is longer and felt loose"),
        (Trial(1, 7.3, "tight"), "trial 1 is shorter and felt tight"),
    ],
)
def test_trials_that_speak_against_a_measurement(trial: Trial, words: str) -> None:
    measures = [measure_at(2, 7.4)]
    verdict = measured_verdict(combine(measures), measures, read_bracket([trial], 1.6), LIFTER)
    assert verdict.state == "conflict"
    assert words in said(verdict)


def test_the_board_says_what_the_heads_show_and_what_solid_lifters_take() -> None:
    both = {"intake": 1, "exhaust": 1}
    about = {"odd": "one valve is odd", "slope": "not square", "bank": "banks differ"}
    for name, words in about.items():
        finding = Remark(name, "", "", "")  # type: ignore[arg-type]
        step = next_step(
            has_instrument=True, trials=both, settled=both, conflicts=[],
            remarks=[finding],
        )  # fmt: skip
        assert step.station == "order"
        assert words in step.sentence
    solid = next_step(
        has_instrument=True, trials=both, settled=both, conflicts=[], lash_missing=True
    )
    assert solid.station == "setup"
    doubted = next_step(
        has_instrument=False, trials=both, settled=both, conflicts=[],
        suspicious=["4E"],
    )  # fmt: skip
    assert (doubted.kind, doubted.valve) == ("exhaust", "4E")
