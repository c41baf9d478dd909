"""The end of an exercise: what runs, what was missed, what it costs."""

from dataclasses import replace

import pytest

from vivid_arm.core.errors import InputError
from vivid_arm.core.practice.score import Effort, Ending, final_zero_lash_in, run
from vivid_arm.core.practice.tools import Bench, with_rods
from vivid_arm.core.practice.truth import Truth, truth_of


def with_right_rods(truth: Truth, off_in: float = 0.0) -> Bench:
    aim = truth.scenario.window[2]
    return with_rods(
        Bench(),
        {n: final_zero_lash_in(truth, Bench(), v) + aim + off_in for n, v in truth.valves.items()},
    )


def ended(truth: Truth, bench: Bench, **more: object) -> Ending:
    told = {"named": [], "told": {}, "effort": Effort()} | more
    return run(truth, bench, **told)  # type: ignore[arg-type]


def test_the_right_rods_in_a_sound_engine_are_a_hundred_points() -> None:
    truth = truth_of("corners", 4)
    ending = ended(truth, with_right_rods(truth))
    assert (ending.right, ending.points, ending.losses) == (True, 100.0, ())
    for valve in ending.valves:
        assert valve.cold_in == pytest.approx(truth.scenario.window[2], abs=0.0016)
        kind = truth.valves[valve.name].kind
        assert valve.hot_in == pytest.approx(valve.cold_in + truth.grows_in[kind])


@pytest.mark.parametrize(
    ("off_in", "runs"),
    [(-0.06, "ticks"), (-0.025, "loose"), (0.025, "tight"), (0.12, "bottoms")],
)
def test_rods_that_are_off_say_what_they_do(off_in: float, runs: str) -> None:
    truth = truth_of("corners", 4)
    ending = ended(truth, with_right_rods(truth, off_in))
    assert {v.runs for v in ending.valves} == {runs}
    assert ending.points == 50.0


def test_a_solid_engine_wants_its_adjusters_in_reach() -> None:
    truth = truth_of("solid", 2)
    rods = {n: final_zero_lash_in(truth, Bench(), v) - 0.009 for n, v in truth.valves.items()}
    assert ended(truth, with_rods(Bench(), rods)).right
    far = {n: length + 0.09 for n, length in rods.items()}
    assert {v.runs for v in ended(truth, with_rods(Bench(), far)).valves} == {"adjuster"}


def test_faults_count_where_they_showed_or_did_harm() -> None:
    truth = truth_of("stem", 4)
    kind = truth.faults[0].kind
    right = with_right_rods(truth)
    assert ended(truth, right).points == 100.0, "it never showed, and every valve has its rod"
    assert ended(truth, right, told={kind: 8}).points == 70.0
    assert ended(truth, right, told={kind: 8}, named=[kind]).points == 100.0
    assert ended(truth, right, named=["card"]).points == 95.0


def test_rods_hints_and_trials_cost_their_points() -> None:
    truth = truth_of("corners", 4)
    spent = Effort(trials=30, measured=8, extra_rods=2, hints=1)
    ending = ended(truth, with_right_rods(truth), effort=spent)
    assert dict((w.split(" ")[0], p) for w, p in ending.losses) == {"1": 3.0, "2": 8.0, "30": 7.0}


def test_a_valve_without_a_rod_does_not_run() -> None:
    truth = truth_of("corners", 4)
    bench = replace(with_right_rods(truth), bought=with_right_rods(truth).bought[1:])
    with pytest.raises(InputError, match="No rod for 1I"):
        ended(truth, bench)


def test_on_a_stud_the_nut_takes_up_the_rest_and_the_rod_decides_the_sweep() -> None:
    truth = truth_of("sweep", 5)
    assert ended(truth, with_right_rods(truth)).right
    far = ended(truth, with_right_rods(truth, 0.25))
    assert {v.runs for v in far.valves} == {"scrubs"}
    assert {v.cold_in for v in far.valves} == {truth.scenario.window[2]}
