"""Indicator, clay and shims at a practice engine, held to its truth and to plane geometry."""

from dataclasses import replace
from math import cos, radians, sin, sqrt

import numpy as np
import pytest

from tests.core.practice.test_truth import at_heel, heel
from vivid_arm.core.engine.layout import KINDS, ValveKind
from vivid_arm.core.errors import InputError
from vivid_arm.core.practice.deeds import do
from vivid_arm.core.practice.indicators import Pistons, free_in
from vivid_arm.core.practice.score import Effort, final_zero_lash_in, near_closed, run
from vivid_arm.core.practice.tools import Bench, came_in, checking_rod_in, with_rods
from vivid_arm.core.practice.truth import Truth, ValveTruth, lash_grows_in, truth_of
from vivid_arm.core.rocker.correction import rods_longer_in
from vivid_arm.core.rocker.marks import fit_marks
from vivid_arm.core.rocker.sheet import starting_sheet


def read(truth: Truth, bench: Bench, name: str, **how: object) -> float:
    found = do(truth, bench, name, **how)[1].read_in
    assert found is not None
    return found


def without_lash(truth: Truth, valve: ValveTruth) -> Bench:
    turned = (valve.zero_lash_in - truth.closed_in) / truth.pitch_in
    return at_heel(truth, valve, turned=turned)


def test_an_indicator_on_the_rod_shows_its_play() -> None:
    truth = truth_of("corners", 11)
    valve = truth.valves["2I"]
    for short in (0.010, 0.040, 0.090):
        bench = at_heel(truth, valve, turned=(valve.zero_lash_in - short - truth.closed_in)
                        / truth.pitch_in)  # fmt: skip
        assert read(truth, bench, "watch", valve="2I", on="rod") == pytest.approx(short, abs=0.0015)


def test_on_a_rod_that_came_it_shows_the_preload() -> None:
    truth = truth_of("corners", 11)
    valve = truth.valves["3E"]
    bench = with_rods(at_heel(truth, valve), {"3E": valve.zero_lash_in + 0.047})
    bench = replace(bench, rod_in="")
    wanted = came_in(truth, bench, "3E") - valve.zero_lash_in
    assert read(truth, bench, "watch", valve="3E", on="rod") == pytest.approx(wanted, abs=0.0015)
    with pytest.raises(InputError, match="No rod 1E has come"):
        do(truth, bench, "watch", valve="1E", on="rod")


def test_net_lift_on_the_retainer_is_about_lobe_times_ratio() -> None:
    """Common practice; play of the rod takes its share of it away."""
    truth = truth_of("corners", 5)
    valve = truth.valves["1I"]
    nose = (truth.engine.firing_tdc_deg[1] + 360 + valve.lobe.centre_deg) % 720
    bench = replace(without_lash(truth, valve), crank_deg=nose)
    lift = read(truth, bench, "watch", valve="1I", on="retainer")
    assert lift == pytest.approx(truth.lobe_lift_in * truth.scenario.ratio, rel=0.03)
    loose = replace(bench, turned=bench.turned - 0.03 / truth.pitch_in)
    less = read(truth, loose, "watch", valve="1I", on="retainer")
    assert lift - less == pytest.approx(0.03 * near_closed(valve), rel=0.25)
    with pytest.raises(InputError, match="No rod stands in 4E"):
        do(truth, bench, "watch", valve="4E", on="retainer")


def test_a_piston_goes_down_by_the_slider_crank() -> None:
    """Plane trigonometry: the crank pin's height and the slanting rod; half a turn is a stroke."""
    pistons = Pistons(3.6, 6.0, {})
    for deg in (0, 37, 90, 180, 301):
        pin = 1.8 * cos(radians(deg))
        height = pin + sqrt(6.0**2 - (1.8 * sin(radians(deg))) ** 2)
        assert pistons.down_in(deg) == pytest.approx(7.8 - height, abs=1e-12)
    assert pistons.down_in(180) == pytest.approx(3.6)


@pytest.mark.parametrize("name", ["1I", "1E", "4I"])
def test_clay_and_the_indicator_agree_on_what_is_free_over_the_piston(name: str) -> None:
    """Common practice: nearest 5 to 30 degrees from overlap, exhaust before and intake after."""
    truth = truth_of("corners", 8)
    valve = truth.valves[name]
    overlap = truth.engine.firing_tdc_deg[valve.cylinder] + 360
    bench = without_lash(truth, valve)
    rooms = {
        a: read(truth, replace(bench, crank_deg=(overlap + a) % 720), "press_down", valve=name)
        for a in range(-40, 41, 2)
    }
    nearest = min(rooms, key=lambda a: rooms[a])
    assert 2 <= (nearest if valve.kind == "intake" else -nearest) <= 32
    clays = [read(truth, replace(bench, count=n), "clay", valve=name) for n in range(12)]
    assert np.mean(clays) == pytest.approx(rooms[nearest], abs=0.004)
    assert free_in(truth, valve, overlap + nearest) == pytest.approx(rooms[nearest], abs=0.004)
    far = replace(bench, crank_deg=(overlap + 180) % 720)
    assert do(truth, far, "press_down", valve=name)[1].read_in is None


@pytest.mark.parametrize("seed", range(4))
def test_shims_bring_the_roller_right_and_ask_for_longer_rods(seed: int) -> None:
    """Common practice: a stand that is too low lets the roller sweep wide; shims raise it."""
    truth = truth_of("shims", seed)

    def ending(shims: float) -> set[str]:
        bench = do(truth, Bench(), "shim", thick_in=shims)[0]
        rods = {n: final_zero_lash_in(truth, bench, v) + 0.05 for n, v in truth.valves.items()}
        return {v.runs for v in run(truth, with_rods(bench, rods), [], {}, Effort()).valves}

    assert ending(0.0) == {"scrubs"}
    assert any(ending(thick / 1000) == {"right"} for thick in range(40, 150, 5))
    valve = truth.valves["1I"]
    longer = [final_zero_lash_in(truth, Bench(shims_in=s), valve) for s in (0.0, 0.03, 0.06)]
    assert longer == sorted(longer)
    assert longer[1] - longer[0] == pytest.approx(0.03 * (1 + 1 / near_closed(valve)), rel=0.08)


def test_shims_go_under_stands_only() -> None:
    with pytest.raises(InputError, match="no stands"):
        do(truth_of("feel", 1), Bench(), "shim", thick_in=0.03)
    with pytest.raises(InputError, match="Shims"):
        do(truth_of("shims", 1), Bench(), "shim", thick_in=0.3)


@pytest.mark.parametrize(("by", "within"), [("inclinometer", 1.0), ("square", 2.5), ("laser", 0.6)])
def test_each_tool_reads_the_arms_angle_as_well_as_it_can(by: str, within: float) -> None:
    truth = truth_of("sweep", 2)
    bench = without_lash(truth, truth.valves["1E"])
    reads = [do(truth, replace(bench, count=n), "angle", by=by)[1].read_deg for n in range(25)]
    seen = np.array([x for x in reads if x is not None])
    assert len(seen) == 25
    assert np.ptp(seen) / 2 < within
    assert (seen * 2 % 1 == 0).all() == (by == "square")
    assert checking_rod_in(truth, bench) == pytest.approx(truth.valves["1E"].zero_lash_in)
    assert heel(truth, truth.valves["1E"]) == bench.crank_deg
    with pytest.raises(InputError, match="No angle is read by"):
        do(truth, bench, "angle", by="eye")


def test_a_rod_that_is_far_too_short_is_loose_and_no_fault_of_the_engine() -> None:
    truth = truth_of("shims", 3)
    bench = do(truth, Bench(), "shim", thick_in=0.15)[0]
    bench = replace(do(truth, bench, "fit", valve="1I")[0], turned=0.0)
    assert do(truth, bench, "feel")[1].felt == "rattles"
    assert do(truth, bench, "feeler", blade_in=0.3)[1].blade == "free"
    assert read(truth, bench, "watch", valve="1I", on="retainer") == pytest.approx(0.0, abs=0.001)


def test_a_warm_engine_tells_what_its_lash_must_be_cold() -> None:
    """Common practice: heat opens the lash; what it adds is taken off when it is set cold."""
    truth = truth_of("solid", 6)
    assert truth.scenario.lash_in is not None
    grows, card = lash_grows_in(truth), dict(zip(KINDS, truth.scenario.lash_in, strict=True))
    for valve, kind in (("2I", "intake"), ("5E", "exhaust")):
        said = do(truth, Bench(), "run_warm", valve=valve, lash_in=0.010)[1].words
        thou = int(said.split("blade of ")[1].split()[0])
        assert thou == pytest.approx(10 + 1000 * grows[kind], abs=2)  # type: ignore[index]
    rods = {n: v.zero_lash_in - 0.009 for n, v in truth.valves.items()}

    def runs(lash: dict[ValveKind, float]) -> set[str]:
        bench = with_rods(Bench(), rods)
        return {v.runs for v in run(truth, bench, [], {}, Effort(), lash).valves}

    assert runs({k: card[k] - grows[k] for k in KINDS}) == {"right"}
    assert runs(card) == {"lash"}
    assert runs({}) == {"lash"}, "none was set"
    with pytest.raises(InputError, match="no lash"):
        do(truth_of("corners", 1), Bench(), "run_warm", valve="1I", lash_in=0.01)
    with pytest.raises(InputError, match="Lash"):
        do(truth, Bench(), "run_warm", valve="1I", lash_in=0.2)


def test_what_is_said_of_longer_rods_on_shims_is_what_they_ask_for() -> None:
    """The program's own mechanism against the practice engine's other solver, on a sheet's values.

    Common practice: a shim asks for 1 + 1 / R0 of itself.
    """
    sheet = starting_sheet("roller_shaft", 1.6, stem_in=0.3415, rod_in=7.2)
    found = fit_marks(sheet, [])
    for shim in (0.02, 0.05, 0.09):
        said = rods_longer_in(found, 0.0, shim)
        assert said == pytest.approx(shim * (1 + 1 / (1.6 * 1.09)), rel=0.05)
        engine = truth_of("shims", 2)
        valve = engine.valves["3I"]
        asked = final_zero_lash_in(engine, Bench(shims_in=shim), valve)
        assert said == pytest.approx(asked - final_zero_lash_in(engine, Bench(), valve), rel=0.06)
    assert rods_longer_in(found, 0.05, 0.02) < 0
