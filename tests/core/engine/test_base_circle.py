"""Heel windows and plans of stops, against hand values and exhaustive search."""

from dataclasses import replace
from itertools import combinations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from vivid_arm.core.engine.base_circle import (
    best_stops,
    chosen_valves,
    crank_words,
    fewest_stops,
    heel_windows,
    plan,
    plans,
    saving,
)
from vivid_arm.core.engine.cam import Arc, CamCard, Lobe, profile_of
from vivid_arm.core.engine.layout import PRESETS, engine_from, usual_engine
from vivid_arm.core.errors import InputError

LOBE = Lobe(290, 0.006, 230, 0.353)
CARD = CamCard(LOBE, LOBE, 106, 110)
V8 = usual_engine("v", 8)
ALL = chosen_valves(V8, "all")


def test_windows_follow_the_firing_order() -> None:
    """Derived by hand: cylinder 1 overlaps at 360, so its intake heel runs 611 to 1041."""
    windows = heel_windows(V8, CARD)
    assert windows[1, "intake"] == Arc(611, 1041)
    assert windows[8, "intake"] == Arc.between(611 + 90, 1041 + 90)
    assert windows[1, "exhaust"] == Arc(391, 821)


def test_hand_schools_of_the_worked_card_keep_their_margins() -> None:
    """Derived by hand from 251..681 and 31..461, middles 466 and 246, half-width 215."""
    by_closing = {}
    for closing in ("starts_down", "third_left", "almost_closed"):
        found = plan("opening_closing", V8, CARD, ALL, closing=closing)  # type: ignore[arg-type]
        assert len(found.stops) == 16
        assert found.state == "safe"
        opening = next(s for s in found.stops if s.valves == ((1, "intake"),))
        assert opening.crank_deg == (360 + 461) % 720
        assert opening.least_margin_deg == pytest.approx(215 - 5)
        shut = next(s for s in found.stops if s.valves == ((1, "exhaust"),))
        by_closing[closing] = shut.least_margin_deg
    assert by_closing["starts_down"] == pytest.approx(75)
    assert by_closing["almost_closed"] == pytest.approx(215 - 5)
    assert 75 < (by_closing["third_left"] or 0) < 210


def test_tdc_school_goes_round_in_firing_order_by_90_degrees() -> None:
    found = plan("tdc", V8, CARD, ALL)
    assert [s.valves[0][0] for s in found.stops] == list(V8.firing_order)
    assert [s.turn_deg for s in found.stops] == [None] + [90] * 7
    assert found.least_margin_deg == pytest.approx(min(360 - 251, 461 - 360))


def test_full_lift_and_one_turn_stands_in_the_middle_of_the_heel() -> None:
    found = plan("full_lift", V8, CARD, ALL)
    margins = [s.least_margin_deg for s in found.stops]
    assert margins == pytest.approx([215] * 16)


@pytest.mark.parametrize("preset", PRESETS, ids=lambda p: p.words)
def test_two_stops_a_turn_apart_serve_windows_of_360_and_more(preset: object) -> None:
    """The handbook rule of the trade: with windows of at least 360 degrees two stops suffice."""
    engine = engine_from(preset)  # type: ignore[arg-type]
    found = plan("fewest", engine, CARD, chosen_valves(engine, "all"), 15)
    assert 1 <= len(found.stops) <= 2
    assert found.state == "safe"
    served = [v for s in found.stops for v in s.valves]
    assert sorted(served) == sorted(chosen_valves(engine, "all"))


arcs = st.lists(
    st.tuples(st.integers(0, 719), st.integers(30, 500)).map(lambda t: Arc(t[0], t[0] + t[1])),
    min_size=1,
    max_size=8,
)


def exhaustive(found: list[Arc], guard: float) -> int:
    """Fewest stops by trying every set of whole-degree stops that are ends of arcs."""
    points = sorted({(a.to_deg - guard) % 720 for a in found})
    for size in range(1, len(points) + 1):
        for chosen in combinations(points, size):
            if all(any(a.margin_deg(p) >= guard - 1e-7 for p in chosen) for a in found):
                return size
    raise AssertionError


@settings(max_examples=250, deadline=None)
@given(arcs, st.integers(0, 15))
def test_fewest_stops_equals_exhaustive_search(found: list[Arc], guard: int) -> None:
    stops = fewest_stops(found, guard)
    assert len(stops) == exhaustive(found, guard)
    assert all(any(a.margin_deg(p) >= guard - 1e-6 for p in stops) for a in found)


@settings(max_examples=60, deadline=None)
@given(arcs)
def test_best_stops_reach_the_best_margin_on_a_fine_grid(found: list[Arc]) -> None:
    """Second method: with one stop the best least margin is found by trying every half degree."""
    stops = best_stops(found, 0)
    assert len(stops) == len(fewest_stops(found, 0))
    if len(stops) > 1:
        return
    least = min(a.margin_deg(stops[0]) for a in found)
    tried = max(min(a.margin_deg(p / 2) for a in found) for p in range(1440))
    assert least >= tried - 1.01


def test_an_extreme_cam_makes_a_hand_school_unsafe_by_its_degrees() -> None:
    """Derived by hand: the exhaust seats at ICL - 2 LSA + De/2, here 55 and 90, after overlap."""
    long = Lobe(330, 0.006, 270, 0.4)
    near = plan("opening_closing", V8, CamCard(long, long, 60, 85), ALL, closing="starts_down")
    assert near.state == "near"
    assert near.least_margin_deg == pytest.approx(60 - 55)
    longer = Lobe(400, 0.006, 340, 0.4)
    off = plan("opening_closing", V8, CamCard(longer, longer, 60, 85), ALL, closing="starts_down")
    assert off.state == "unsafe"
    assert dict(off.off_heel)[1, "exhaust"] == pytest.approx(90 - 60)
    assert "30°" in off.sentence


def test_without_a_card_hand_schools_work_and_say_that_the_margin_is_unknown() -> None:
    found = {p.school: p for p in plans(V8, None, ALL)}
    assert found["tdc"].state == found["full_lift"].state == "unknown"
    assert [s.crank_deg for s in found["tdc"].stops][:2] == [0, 90]
    opening = found["opening_closing"]
    assert opening.stops[0].crank_deg is None
    assert len(opening.stops) == 16
    assert found["fewest"].state == "none"
    assert "cam card" in found["fewest"].sentence


def test_selections() -> None:
    assert {c for c, _ in chosen_valves(V8, "corners")} == {1, 7, 2, 8}
    assert len(chosen_valves(V8, "corners")) == 8
    assert len(chosen_valves(usual_engine("inline", 6), "corners")) == 4
    assert chosen_valves(V8, "cylinder", 3) == ((3, "intake"), (3, "exhaust"))
    with pytest.raises(InputError, match="no cylinder 9"):
        chosen_valves(V8, "cylinder", 9)


def test_what_the_fewest_stops_save() -> None:
    fewest, tdc = plan("fewest", V8, CARD, ALL), plan("tdc", V8, CARD, ALL)
    assert saving(fewest, tdc) == "2 stops instead of 8, 270° less to turn"


def test_guard_outside_its_limits_is_refused() -> None:
    with pytest.raises(InputError, match="Guard: 80°"):
        plan("tdc", V8, CARD, ALL, 80)


def test_an_odd_firing_twin_keeps_its_own_distances() -> None:
    twin = usual_engine("v", 2)
    found = plan("tdc", twin, CARD, chosen_valves(twin, "all"))
    assert [s.crank_deg for s in found.stops] == [0, 405]
    assert found.stops[1].turn_deg == 405
    assert heel_windows(twin, CARD)[2, "intake"].from_deg == (611 + 405) % 720


def test_places_are_told_from_the_last_firing_tdc_and_what_the_eye_sees() -> None:
    assert crank_words(V8, 0) == "TDC of cylinder 1, firing stroke"
    assert crank_words(V8, 719) == "89° after TDC of cylinder 2, firing stroke"
    single = usual_engine("single", 1)
    found = plan("fewest", single, CARD, chosen_valves(single, "all"))
    stop = found.stops[0]
    assert len(found.stops) == 1
    assert stop.crank_deg is not None
    assert "after TDC of cylinder 1" in stop.look_for


def test_a_plan_serves_only_what_is_left() -> None:
    left = [(3, "intake"), (6, "exhaust")]
    for found in plans(V8, CARD, left):  # type: ignore[arg-type]
        assert sorted(v for s in found.stops for v in s.valves) == left
    done = plan("fewest", V8, CARD, [])
    assert done.state == "none"
    assert "is measured" in done.sentence


def test_margins_follow_a_measured_lobe() -> None:
    """A lobe measured 40 degrees longer on its closing side moves only that end of the heel."""
    base = profile_of(LOBE)
    angles = [a if a < 0 else a * 1.25 for a in base.angle_deg.tolist()]
    table = tuple(zip(angles, base.lift_in.tolist(), strict=True))
    card = CamCard(replace(LOBE, table=table), LOBE, 106, 110)
    plain = heel_windows(V8, CARD)[1, "intake"]
    longer = heel_windows(V8, card)[1, "intake"]
    assert longer.from_deg > plain.from_deg + 15
    assert longer.length_deg < plain.length_deg
