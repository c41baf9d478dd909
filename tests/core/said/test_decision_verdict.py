"""What is said of a decision, and of orders: what, why, what next; no verdict surer than it is."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from vivid_arm.core.entry.conventions import RodEnd, RodEnds, convert
from vivid_arm.core.rods.decide import SURE_SET, SURE_VALVE, Aim, Decision, ValveKnown, decide
from vivid_arm.core.rods.preload import Lifter
from vivid_arm.core.said.next_step import after_ordering
from vivid_arm.core.said.verdicts import decision_verdict, fill
from vivid_arm.outside.supplier import Catalogue, Range, offer

LIFTER = Lifter(0.020, 0.060, 0.040, 0.140)


def decided(strategy: str = "kinds", mode: str = "length", **zeros: float) -> Decision:
    valves = [
        ValveKnown(f"{n[1:]}{n[0]}", "intake" if n[0] == "I" else "exhaust", 7.4 + z, 0.001, 1.6)
        for n, z in zeros.items()
    ]
    aim = Aim(mode, LIFTER, {}, 0.05, False)  # type: ignore[arg-type]
    return decide(aim, valves, 0.025, "longer", strategy)  # type: ignore[arg-type]


def said(found: Decision) -> str:
    verdict = decision_verdict(found)
    return " ".join(fill(t, verdict.lengths, verdict.smalls) for t in
                    (verdict.what, verdict.why, verdict.then))  # fmt: skip


def test_one_length_for_all() -> None:
    found = decided("fewest", I1=-0.015, E1=-0.012)
    assert said(found) == (
        "One length puts every valve inside. Worst miss of the target 3 thou; all are inside "
        "with over 99%. Try one rod of each length before the full set."
    )


def test_a_valve_outside_is_named_and_the_way_out() -> None:
    found = decided("kinds", I1=-0.015, I2=0.03, E1=-0.015)
    verdict = decision_verdict(found)
    assert verdict.state == "outside"
    assert "outside the window" in verdict.what
    assert "different lengths put every valve inside" in verdict.why
    assert verdict.then.startswith("Take the fewest lengths")


def test_a_valve_no_length_serves_leads_to_the_remedies() -> None:
    narrow = Lifter(0.038, 0.042, 0.040, 0.140)
    valves = [ValveKnown("1I", "intake", 7.42, 0.001, 1.6)]
    found = decide(Aim("length", narrow, {}, 0.05, False), valves, 0.025, "longer")
    verdict = decision_verdict(found)
    assert (verdict.state, verdict.what) == ("outside", "1I: outside the window.")
    assert "No length that can be bought serves 1I." in verdict.why
    assert found.remedies[0].custom_in == pytest.approx(7.46)
    assert found.remedies[0].by_in == pytest.approx(-0.008)
    assert found.remedies[0].shim_in is None, "a shim would make it worse"


@given(st.floats(-0.004, 0.024))
def test_settled_means_sure_enough(at: float) -> None:
    """However the valve stands in its window, a settled verdict has the chance it claims."""
    found = decided("fewest", I1=at)
    verdict = decision_verdict(found)
    worst = min(row.chances.cold for row in found.rows)
    assert (verdict.state == "settled") == (worst >= SURE_VALVE and found.all_inside >= SURE_SET)
    assert (worst < SURE_VALVE) == ("1I is at the limit of its window." in verdict.what)


def test_adjusters_are_told_in_turns() -> None:
    found = decided("one", "adjuster", I1=0.0, E1=0.012)
    assert "No adjuster moves more than 0.20 turns from where it was measured." in said(found)


@pytest.mark.parametrize(
    ("orders", "signed", "expected"),
    [
        ([], None, None),
        ([("set", "withdrawn", True)], None, None),
        ([("set", "draft", False)], None, ("order", "An order is drafted: place it")),
        ([("trial", "trial", True)], None, None),
        (
            [("trial", "trial", False)],
            None,
            ("order", "Trial rods are on the engine: try them"),
        ),
        (
            [("set", "placed", False), ("trial", "trial", True)],
            None,
            ("order", "Order is placed: the rods are on their way"),
        ),
        ([("set", "fitted", True)], None, ("sign_off", "Rods are fitted: make the checks")),
        ([("set", "fitted", True)], "Tess", ("sign_off", "Signed off by Tess")),
        (
            [("set", "placed", False)],
            "Tess",
            ("order", "Order is placed: the rods are on their way"),
        ),
    ],
)
def test_what_a_build_waits_for_once_rods_are_ordered(
    orders: list[tuple[str, str, bool]], signed: str | None, expected: tuple[str, str] | None
) -> None:
    step = after_ordering(orders, signed)
    assert (None if step is None else (step.station, step.sentence)) == expected


STEP = Range(step_in=0.025, low_in=6.0, high_in=9.0, price=9.0, days=2)
MADE = Range(step_in=0.005, low_in=5.0, high_in=11.0, price=16.0, days=12)


def works(convention: str) -> Catalogue:
    return Catalogue(
        name="Works", convention=convention, gauge_circle_in=0.140, tolerance_in=0.003,  # type: ignore[arg-type]
        diameters_in=(0.3125,), currency="credits", stock=STEP, made=MADE,
    )  # fmt: skip


@given(
    st.floats(6.2, 8.8),
    st.sampled_from(["centre", "theoretical", "measured", "gauge"]),
    st.sampled_from(["centre", "theoretical", "measured", "gauge"]),
    st.floats(0.0, 0.12),
)
def test_offers_convert_there_and_back(
    length: float, given_in: str, theirs: str, hole: float
) -> None:
    """Independent: core.conventions, end by end; an offer is never further off than half a step."""
    ends = RodEnds(RodEnd("ball", 0.3125, hole), RodEnd("cup", 0.375), 0.140)
    found = offer(works(theirs), length, given_in, ends)  # type: ignore[arg-type]
    assert found.theirs_in == pytest.approx(convert(length, given_in, theirs, ends), abs=1e-6)  # type: ignore[arg-type]
    assert found.offered_in is not None
    assert found.off_in is not None
    assert abs(found.off_in) <= (0.0025 if found.made else 5e-5) + 2e-6
    assert found.gives_in == pytest.approx(
        convert(found.offered_in, theirs, given_in, ends), abs=1e-5
    )  # type: ignore[arg-type]


def test_a_length_outside_the_range_is_not_offered() -> None:
    ends = RodEnds(RodEnd("ball", 0.3125), RodEnd("ball", 0.3125))
    found = offer(works("centre"), 12.0, "centre", ends)
    assert (found.offered_in, found.gives_in, found.off_in) == (None, None, None)


@pytest.mark.parametrize("stud", [True, False])
def test_an_adjuster_moves_no_further_than_it_may(stud: bool) -> None:
    """A rod the geometry asks for, 0.270 from where zero lash was felt: 5 turns are not 1."""
    valve = ValveKnown("1I", "intake", 7.4, 0.001, 1.6, wanted_in=7.67)
    found = decide(Aim("adjuster", LIFTER, {}, 0.05, stud), [valve], 0.025, "longer")
    verdict = decision_verdict(found)
    assert (verdict.state, found.rows[0].inside) == ("outside", False)
    assert ("nut" if stud else "adjuster") in verdict.what
    assert "It may move 1 either way" in verdict.why
    near = ValveKnown("1I", "intake", 7.4, 0.001, 1.6, wanted_in=7.45)
    settled = decide(Aim("adjuster", LIFTER, {}, 0.05, stud), [near], 0.025, "longer")
    assert decision_verdict(settled).state == "settled"
