"""The truth of practice engines: right by another solver, the same everywhere, felt as such."""

from dataclasses import replace
from math import degrees, sqrt
from random import Random

import numpy as np
import pytest

from vivid_arm.core.errors import InputError
from vivid_arm.core.practice.deeds import do
from vivid_arm.core.practice.faults import FAULTS, FaultKind
from vivid_arm.core.practice.scenarios import MOST_SEED, SCENARIOS
from vivid_arm.core.practice.tools import (
    Bench,
    asks_for_in,
    came_in,
    half_lift_deg,
    standing,
    stands_in,
    swept,
    with_rods,
)
from vivid_arm.core.practice.truth import Truth, ValveTruth, rods_in, sound_engine, truth_of
from vivid_arm.core.practice.view import seen
from vivid_arm.core.rocker.mechanism import Mechanism, move
from vivid_arm.core.zero_lash.methods import USUAL_FASTENER_PITCH_IN

WRITTEN_DOWN = [7.922548178, 7.875928399, 7.919671516]


def heel(truth: Truth, valve: ValveTruth) -> float:
    overlap = truth.engine.firing_tdc_deg[valve.cylinder] + 360
    return (overlap + valve.lobe.centre_deg + 360) % 720


def at_heel(truth: Truth, valve: ValveTruth, **more: object) -> Bench:
    bench = do(truth, Bench(), "turn_crank", to_deg=heel(truth, valve))[0]
    return replace(do(truth, bench, "fit", valve=valve.name)[0], **more)  # type: ignore[arg-type]


def with_fault(kind: FaultKind) -> Truth:
    """An engine of the course that holds a fault, with no other."""
    for scenario in SCENARIOS:
        if kind in scenario.faults and scenario.holds == 1:
            for seed in range(60):
                truth = truth_of(scenario.code, seed)
                if truth.fault(kind):
                    return truth
    raise AssertionError(kind)


def test_the_two_solvers_agree() -> None:
    """Root finding here, closed form there: rod, valve lift and contact within 1e-9."""
    rng = Random(4)
    for _ in range(60):
        truth = truth_of(rng.choice(SCENARIOS).code, rng.randrange(10**9))
        train = rng.choice(list(truth.valves.values())).train
        other = Mechanism(
            train.arm, train.cup, degrees(train.bend), train.radius, -train.fulcrum_x,
            train.fulcrum_y - train.tip_y, train.seat_x, train.seat_y - train.tip_y, 0.34,
            lifter_deg=degrees(train.lean), offset_in=train.offset,
        )  # fmt: skip
        rod = train.zero_lash()
        assert rod == pytest.approx(other.rod_in, abs=1e-9)
        lobe = np.array([0.0, 0.08, 0.2, truth.lobe_lift_in])
        motion = move(other.linkage, lobe)
        for k, lift in enumerate(lobe):
            assert -train.gap(rod, lift) == pytest.approx(motion.valve_in[k], abs=1e-9)
            assert train.contact(rod, lift) == pytest.approx(motion.contact_in[k], abs=1e-9)


def test_the_same_seed_is_the_same_engine_everywhere() -> None:
    """Figures written down once, from this program: another machine must draw the same."""
    truth = truth_of("comeback", 20260)
    lengths = [round(truth.valves[n].zero_lash_in, 9) for n in ("1I", "4E", "8I")]
    assert lengths == WRITTEN_DOWN
    assert truth_of("comeback", 20261) != truth
    bench = at_heel(truth, truth.valves["1I"])
    assert do(truth, bench, "caliper") == do(truth, bench, "caliper")


@pytest.mark.parametrize(
    "seed",
    [-1, MOST_SEED + 1, 10**10_000],
    ids=["below zero", "one too many", "ten thousand digits"],
)
def test_a_seed_that_cannot_be_is_refused(seed: int) -> None:
    with pytest.raises(InputError, match="whole number from 0"):
        truth_of("pump", seed)


def test_near_closed_a_train_gives_more_than_its_catalogue_ratio() -> None:
    """Common practice: 1.05 to 1.12 of it; over the whole lift it gives the catalogue's."""
    for scenario in SCENARIOS:
        truth = truth_of(scenario.code, 3)
        for valve in truth.valves.values():
            train, rod = valve.train, valve.train.zero_lash()
            assert 1.04 < train.gap(rod - 0.01) / 0.01 / scenario.ratio < 1.12
            whole = -train.gap(rod, truth.lobe_lift_in) / truth.lobe_lift_in
            assert whole == pytest.approx(scenario.ratio, rel=0.03)


def at(truth: Truth, kind: FaultKind) -> tuple[ValveTruth, float]:
    """The valve a fault is at (the last of its bank), and the fault's size."""
    fault = truth.fault(kind)
    assert fault is not None
    own = [v for v in truth.valves.values() if fault.where in (v.name, v.bank, "")]
    return max(own, key=lambda v: v.place), fault.size_in


def near_r0(valve: ValveTruth) -> float:
    return valve.train.gap(valve.train.zero_lash() - 0.001) / 0.001


def moved_by(kind: FaultKind) -> tuple[float, ValveTruth, float]:
    """How much longer a rod the engine asks for at the fault's place, as it comes to the bench."""
    truth = with_fault(kind)
    valve, size = at(truth, kind)
    sound = sound_engine(truth.scenario.code, truth.seed)
    was = sound.valves[valve.name]
    now = asks_for_in(truth, at_heel(truth, valve), valve)
    return now - asks_for_in(sound, at_heel(sound, was), was), valve, size


def test_a_tall_stem_asks_for_a_shorter_rod_by_the_lever() -> None:
    """Common practice: a tip taller by t lets the cup down by t / R0; a sunk seat does the same."""
    for kind in ("tall_stem", "sunk_seat"):
        by, valve, size = moved_by(kind)  # type: ignore[arg-type]
        assert by == pytest.approx(-size / near_r0(valve), rel=0.05)


def test_a_head_moves_its_rods_by_what_it_moves() -> None:
    """Common practice: head and valves together, so the rod follows one for one."""
    by, _, size = moved_by("bank")
    assert by == pytest.approx(-size, rel=0.03)
    by, valve, size = moved_by("not_square")
    assert by == pytest.approx(size * valve.place, rel=0.03)


def test_rockers_not_pulled_down_read_long_until_they_are() -> None:
    """Common practice: a fulcrum raised by h asks for h (1 + 1 / R0) more of the rod."""
    by, valve, size = moved_by("loose_shaft")
    assert by == pytest.approx(size * (1 + 1 / near_r0(valve)), rel=0.06)
    truth = with_fault("loose_shaft")
    bench, got = do(truth, at_heel(truth, valve), "wrench", bank=valve.bank)
    assert got.telling == ("loose_shaft",)
    card = truth.scenario.torque_lbf_ft
    assert got.read_lbf_ft is not None
    assert got.read_lbf_ft < 0.6 * card
    again = do(truth, bench, "wrench", bank=valve.bank)[1].read_lbf_ft or 0.0
    assert 0.9 * card < again < 1.2 * card
    assert asks_for_in(truth, bench, valve) == pytest.approx(valve.zero_lash_in, abs=1e-9)


def test_a_rod_on_the_rim_reads_short_until_it_is_spun() -> None:
    truth = with_fault("cup")
    valve, size = at(truth, "cup")
    bench = at_heel(truth, valve)
    rod = truth.closed_in + bench.turned * truth.pitch_in
    assert stands_in(truth, bench, valve) == pytest.approx(rod + size)
    bench, got = do(truth, bench, "spin")
    assert "rim" in got.words
    assert stands_in(truth, bench, valve) == pytest.approx(rod)
    assert do(truth, bench, "spin")[1].telling == ()


def test_a_soft_plunger_goes_down_with_every_feel_and_comes_up_with_a_turn() -> None:
    truth = with_fault("soft_plunger")
    valve, size = at(truth, "soft_plunger")
    tight = (valve.zero_lash_in - truth.closed_in) / truth.pitch_in + 0.5
    bench, first = do(truth, at_heel(truth, valve, turned=tight), "feel")
    assert (first.felt, bench.pushed_in(valve.name)) == ("springs", size)
    for _ in range(3):
        bench, got = do(truth, bench, "feel")
    assert got.felt in ("swings", "rattles"), "tight feels loose once the plunger is down"
    bench = do(truth, bench, "turn_crank", to_deg=heel(truth, valve))[0]
    assert do(truth, bench, "feel")[1].felt == "springs"


def test_labels_that_are_wrong_show_on_the_caliper() -> None:
    truth = with_fault("rod_label")
    label = truth.scenario.closed_in + 2 * (1 / truth.scenario.threads)
    read = do(truth, Bench(turned=2), "caliper")[1].read_in or 0.0
    assert abs(read - label) == pytest.approx(at(truth, "rod_label")[1], abs=0.002)
    truth = with_fault("thread")
    reads = [do(truth, Bench(turned=t), "caliper")[1].read_in or 0.0 for t in (2.0, 12.0)]
    assert (reads[1] - reads[0]) / 10 == pytest.approx(1 / 24, abs=0.0003)
    tilted = do(truth, Bench(turned=2), "caliper", square=False)[1].read_in or 0.0
    assert tilted > reads[0] + 0.001


def test_rods_in_gauge_length_come_longer_over_all() -> None:
    """Chord geometry: to a circle of 0.140 on a ball of 0.3125 each end reaches less."""
    truth = with_fault("gauge_rods")
    ball, circle = 0.3125 / 2, 0.140
    less = 2 * (ball - sqrt(ball**2 - circle**2 / 4))
    bench = Bench(bought=(("1I", 10.4),))
    assert came_in(truth, bench, "1I") == pytest.approx(10.4 + less, abs=0.0016)
    truth = with_fault("bent_rod")
    valve, size = at(truth, "bent_rod")
    bench = Bench(bought=tuple((n, 10.4) for n in truth.valves))
    assert came_in(truth, bench, valve.name) == pytest.approx(10.4 - size, abs=0.0016)
    assert [n for n in truth.valves if do(truth, bench, "roll", rod=n)[1].telling] == [valve.name]


def test_a_lobe_that_is_not_the_cards_lifts_where_the_card_has_the_heel() -> None:
    truth = with_fault("card")
    valve, _ = at(truth, "card")
    half = truth.card()["advertised_deg"] / 2 + 16
    stop = (truth.engine.firing_tdc_deg[valve.cylinder] + 360 + valve.lobe.centre_deg + half) % 720
    bench = do(truth, Bench(), "turn_crank", to_deg=stop)[0]
    assert (do(truth, bench, "watch", valve=valve.name)[1].read_in or 0) > 0.002
    sound = sound_engine(truth.scenario.code, truth.seed)
    assert (do(sound, bench, "watch", valve=valve.name)[1].read_in or 0) <= 0.001
    truth = with_fault("lobes_swapped")
    valve, _ = at(truth, "lobes_swapped")
    was = sound_engine(truth.scenario.code, truth.seed).valves[valve.name]
    assert valve.lobe.centre_deg != was.lobe.centre_deg


def test_running_springs_make_every_feel_vague_and_long() -> None:
    by, _, size = moved_by("springs")
    assert by == pytest.approx(size)
    truth = with_fault("springs")
    bench, got = do(truth, Bench(), "springs")
    assert got.telling == ("springs",)
    assert do(truth, bench, "springs")[1].telling == ()


def test_every_fault_is_in_the_course_and_has_its_words() -> None:
    held = {kind for s in SCENARIOS for kind in s.faults}
    assert held == set(FAULTS)
    assert len(SCENARIOS) >= 10
    assert len({s.code for s in SCENARIOS}) == len(SCENARIOS)


@pytest.mark.parametrize("code", [s.code for s in SCENARIOS if not s.holds and s.mount != "stud"])
def test_fingers_and_feelers_tell_what_stands_there(code: str) -> None:
    """Loose, zero and tight where they are, and the blade that drags is the gap."""
    truth = truth_of(code, 9)
    for valve in list(truth.valves.values())[:3]:
        zero = (valve.zero_lash_in - truth.closed_in) / truth.pitch_in
        felt = {
            off: do(truth, at_heel(truth, valve, turned=zero + off / truth.pitch_in), "feel")[1]
            for off in (-0.05, -0.006, 0.0, 0.006)
        }
        assert felt[-0.05].felt == "rattles"
        assert felt[-0.006].felt == "swings"
        assert felt[0.0].felt in ("drags", "swings", "springs", "solid")
        assert felt[0.006].felt == ("solid" if code == "solid" else "springs")
        bench = at_heel(truth, valve, turned=zero - 0.03 / truth.pitch_in)
        gap = valve.train.gap(valve.train.zero_lash() - 0.03)
        drags = [t for t in range(30, 90) if do(truth, bench, "feeler", blade_in=t / 1000)[1].blade
                 == "drags"]  # fmt: skip
        assert drags
        assert np.mean(drags) / 1000 == pytest.approx(gap, abs=0.0012)


def test_on_a_stud_the_rod_tilts_the_arm_and_a_wrong_one_widens_the_mark() -> None:
    """Common practice: square at half lift sweeps the least; longer lets the arm hang."""
    truth = truth_of("sweep", 5)
    valve = truth.valves["1I"]
    right = (valve.zero_lash_in - truth.closed_in) / truth.pitch_in
    seen = []
    for off in (-0.25, 0.0, 0.25):
        bench = at_heel(truth, valve, turned=right + off / truth.pitch_in)
        bench, _ = do(truth, bench, "mark")
        assert bench.mark is not None
        train = standing(truth, bench, valve, valve.zero_lash_in + off)
        low, high = swept(truth, train)
        assert bench.mark == pytest.approx((low - 0.003, high + 0.003), abs=0.004)
        degrees_read = do(truth, bench, "angle")[1].read_deg
        assert degrees_read == pytest.approx(half_lift_deg(truth, train), abs=1.2)
        seen.append((bench.mark[1] - bench.mark[0], degrees_read or 0.0))
    assert min(seen[0][0], seen[2][0]) > seen[1][0] + 0.02
    assert seen[0][1] > seen[1][1] > seen[2][1], "a fulcrum that stands higher lets the arm hang"


def test_on_a_shaft_the_rod_does_not_move_the_mark() -> None:
    truth = truth_of("corners", 5)
    valve = truth.valves["1I"]
    assert standing(truth, Bench(), valve, valve.zero_lash_in + 0.1) == valve.train


def test_turns_from_drag_to_seat_are_the_preload_by_the_lever() -> None:
    """Common practice: a fulcrum drawn down by h loads the plunger by h (1 + 1 / R0)."""
    truth = truth_of("turns", 3)
    rods = rods_in(truth)
    bench = with_rods(at_heel(truth, truth.valves["1I"]), rods)
    for name in ("1I", "2E"):
        valve = truth.valves[name]
        bench = do(truth, bench, "turn_crank", to_deg=heel(truth, valve))[0]
        bench, _ = do(truth, bench, "back_off", valve=name)
        eighths: list[str] = []
        for _ in range(80):
            bench, got = do(truth, bench, "draw_down", eighths=1)
            eighths.append(got.words)
            if "wrench stops" in got.words:
                break
        drag = max(k for k, words in enumerate(eighths) if "play" in words and "has" in words) + 1
        drawn = (len(eighths) - 1 - drag) / 8 * USUAL_FASTENER_PITCH_IN
        preload = came_in(truth, bench, name) - valve.zero_lash_in
        r0 = near_r0(valve)
        assert drawn * (1 + 1 / r0) == pytest.approx(preload, abs=0.013)
    with pytest.raises(InputError, match="No fastener"):
        do(truth, Bench(), "draw_down", eighths=1)


def test_the_plunger_is_seen_to_go_down_under_a_rod_that_is_long() -> None:
    """As far as the rod is longer than zero lash, to the end of its travel; as an eye sees it."""
    truth = truth_of("corners", 7)
    valve = truth.valves["2E"]
    for longer, down in ((-0.05, 0.0), (0.0, 0.0), (0.06, 0.06), (0.4, truth.scenario.travel_in)):
        turned = (valve.zero_lash_in + longer - truth.closed_in) / truth.pitch_in
        drawn = seen(truth, at_heel(truth, valve, turned=turned), "2E").plunger_in
        assert drawn == pytest.approx(down, abs=0.0101)
    pushed = replace(at_heel(truth, valve, turned=1.0), pushed=(("2E", 0.08),))
    assert seen(truth, pushed, "2E").plunger_in == pytest.approx(0.08, abs=0.0101)


def test_a_solid_lifter_has_no_plunger() -> None:
    assert seen(truth_of("solid", 1), Bench(), "1I").plunger_in is None
