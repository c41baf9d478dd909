"""Explanations add up: the numbers put into each formula are worked out again here."""

import re
from fractions import Fraction
from math import sqrt

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vivid_arm.core.entry.conventions import CONVENTIONS, RodEnd, RodEnds
from vivid_arm.core.entry.instruments import CheckingRod, rectangular_u_in
from vivid_arm.core.rods.preload import Lifter, rod_fit
from vivid_arm.core.said.explanations import (
    Explanation,
    explain_combined,
    explain_exact,
    explain_fit,
    explain_measure,
    explain_order_length,
    explain_prediction,
    explain_setting,
    explain_uncertainty,
    explain_zero_lash,
)
from vivid_arm.core.zero_lash.bracket import Trial, read_bracket
from vivid_arm.core.zero_lash.combine import combine
from vivid_arm.core.zero_lash.methods import (
    Measure,
    Source,
    extended,
    fastener_turns,
    gap_bottomed,
    gap_short,
    indicator_push,
)
from vivid_arm.core.zero_lash.predict import Amount, predict
from vivid_arm.core.zero_lash.ways import Figures


def check_sums(explanation: Explanation) -> int:
    """Evaluate both sides of every equation in the explanation; return how many there were."""
    values = {**explanation.lengths, **explanation.smalls, **explanation.pitches}
    checked = 0
    for sentence in (explanation.numbers, *explanation.notes):
        for equation in re.split(r"[;.] ", sentence.replace("(k = 2)", "")):
            sides = equation.split(":")[-1].split("=")
            if len(sides) < 2 or not all(re.search(r"[{\d]", side) for side in sides):
                continue
            results = [_evaluate(side, values) for side in sides]
            assert results == pytest.approx([results[0]] * len(results), abs=1e-6), equation
            checked += 1
    return checked


def _evaluate(side: str, values: dict[str, float]) -> float:
    text = re.sub(r"(\d+) (\d+/\d+)", lambda m: str(float(m[1]) + float(Fraction(m[2]))), side)
    text = re.sub(r"\{(\w+)\}", lambda m: repr(values[m[1]]), text)
    text = re.sub(r"gap|off the bottom|\.$", "", text.strip())
    for sign, operator in (("×", "*"), ("−", "-"), ("²", "**2"), ("√", "sqrt")):
        text = text.replace(sign, operator)
    return float(eval(text, {"__builtins__": {}}, {"sqrt": sqrt}))


@given(st.integers(0, 160))
def test_setting(eighths: int) -> None:
    assert check_sums(explain_setting(CheckingRod(6.8, 0.05, 20), eighths / 8)) == 1


@given(st.floats(6, 9), st.floats(0.02, 0.1))
def test_exact(zero: float, target: float) -> None:
    assert check_sums(explain_exact(zero, target)) == 1


@given(st.floats(7.3, 7.5), st.floats(7.2, 7.3))
def test_fit(length: float, zero: float) -> None:
    lifter = Lifter(0.05, 0.1, 0.07, 0.2)
    assert check_sums(explain_fit(length, zero, rod_fit(length, zero, lifter), 0.2)) == 2


@given(st.sampled_from(list(CONVENTIONS)), st.sampled_from(list(CONVENTIONS)))
def test_order_length(given_in: str, wanted: str) -> None:
    ends = RodEnds(RodEnd("ball", 0.3125, 0.1), RodEnd("cup", 0.375))
    explanation = explain_order_length(7.4, given_in, wanted, ends)  # type: ignore[arg-type]
    assert check_sums(explanation) == 1


def test_uncertainty_names_what_is_counted() -> None:
    bracket = read_bracket([Trial(1, 7.3125, "zero")], 1.6)
    stated = explain_uncertainty(bracket, rectangular_u_in(0.001))
    silent = explain_uncertainty(bracket, 0.0)
    assert stated is not None
    assert silent is not None
    assert check_sums(stated) == check_sums(silent) == 1
    assert "a / √3" in stated.notes[0]
    assert "No accuracy is stated" in silent.notes[0]
    assert (stated.source_kind, "JCGM 100:2008" in stated.source) == ("published", True)


def test_zero_lash_by_gaps_shows_each_gap_worked_out() -> None:
    trials = [Trial(1, 7.25, "loose", 0.139), Trial(2, 7.325, "loose", 0.020)]
    explanation = explain_zero_lash(read_bracket(trials, 1.6), 1.6)
    assert explanation is not None
    assert check_sums(explanation) == 2
    assert explanation.numbers == "gaps read at trial 1, 2 → {z}"
    assert any("catalogue ratio" in note for note in explanation.notes)


@pytest.mark.parametrize(
    ("trials", "numbers"),
    [
        ([Trial(1, 7.3, "zero"), Trial(2, 7.3, "zero")], "trial 1, 2 felt zero → {z}"),
        (
            [Trial(1, 7.3, "loose"), Trial(2, 7.35, "tight")],
            "loose {a} < zero lash < tight {b} → {z}",
        ),
    ],
)
def test_zero_lash_by_feel(trials: list[Trial], numbers: str) -> None:
    explanation = explain_zero_lash(read_bracket(trials, 1.6), 1.6)
    assert explanation is not None
    assert explanation.numbers == numbers
    assert explanation.source_kind == "common practice"


def test_nothing_to_explain_before_there_is_an_estimate() -> None:
    open_ended = read_bracket([Trial(1, 7.3, "loose")], 1.6)
    assert explain_zero_lash(open_ended, 1.6) is None
    assert explain_uncertainty(open_ended, 0.0) is None


CALIPER = Source("caliper", 0.001, 0.0005)
MEASURES = [
    (fastener_turns(1.25, 0.05, 1.6, 7.5, CALIPER), {"turns": 1.25, "pitch_in": 0.05}),
    (indicator_push(0.055, CALIPER, 7.5), {}),
    (gap_short(0.065, 7.5, 1.6, CALIPER), {"gap_in": 0.065}),
    (gap_bottomed(0.065, 0.140, 1.6, 7.5), {"gap_in": 0.065, "travel_in": 0.140}),
]


def filled(explanation: Explanation) -> str:
    """Every sentence with its figures put in. Raises KeyError where one is missing."""
    values = {**explanation.lengths, **explanation.smalls, **explanation.pitches}
    return " ".join(
        s.format(**values) for s in (explanation.formula, explanation.numbers, *explanation.notes)
    )


@pytest.mark.parametrize(("measure", "figures"), MEASURES, ids=lambda m: getattr(m, "method", ""))
def test_measurements_add_up(measure: Measure, figures: dict[str, float]) -> None:
    found = explain_measure(measure, Figures(1.6, rod_in=7.5, **figures))  # type: ignore[arg-type]
    assert check_sums(found) >= 1
    parts = [found.smalls[f"c{i}"] for i in range(len(measure.components))]
    assert 2 * sqrt(sum(u * u for u in parts)) == pytest.approx(found.smalls["u"])
    assert "What is not stated is not counted" in filled(found)


def test_a_measurement_without_a_known_rod_explains_its_preload_only() -> None:
    read = Figures(1.6, turns=1, pitch_in=0.05)
    found = explain_measure(fastener_turns(1, 0.05, 1.6), read)
    assert "0.05" in filled(found)
    assert "{z}" not in found.numbers
    assert check_sums(found) == 1


def test_repeats_and_their_combination_are_explained() -> None:
    several = extended([7.401, 7.403], CALIPER, 1)
    said = filled(explain_measure(several, Figures(1.6, (7.401, 7.403))))
    assert "7.401, 7.403" in said
    combined = combine([several, gap_short(0.065, 7.362, 1.6, CALIPER, 2)])
    assert combined is not None
    found = explain_combined(combined)
    assert found is not None
    shares = [int(s) for s in re.findall(r"weight (\d+)%", filled(found))]
    assert sum(shares) == pytest.approx(100, abs=1)
    apart = combine([several, extended([7.6], CALIPER, 2)])
    assert apart is not None
    assert explain_combined(apart) is None


def test_a_prediction_adds_up() -> None:
    changes = {"stem": Amount(0.03, 0.002), "base_circle": Amount(-0.04)}
    found = explain_prediction(predict(7.4, changes, "pedestal", 1.6), "Pedestal, fixed")  # type: ignore[arg-type]
    effects = sum(v for k, v in found.smalls.items() if k.startswith("e"))
    assert found.lengths["b"] + effects == pytest.approx(found.lengths["z"])
    assert found.lengths["b"] == pytest.approx(7.4)
    filled(found)
