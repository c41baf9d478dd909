"""What an exercise took beside the least that serves, and the reading that misled most."""

import pytest

from vivid_arm.core.engine.cam import CamCard, Lobe
from vivid_arm.core.practice.score import near_closed
from vivid_arm.core.practice.spent import misread, spent
from vivid_arm.core.practice.tools import Bench
from vivid_arm.core.practice.truth import Truth, rods_in, truth_of
from vivid_arm.core.zero_lash.bracket import Feel, Trial


def took(truth: Truth, **more: int) -> dict[str, tuple[int, int]]:
    given = {"trials": 0, "stops": 0, "rods": 0, "rod_costs": 12} | more
    lobe = Lobe(**truth.card())
    card = CamCard(lobe, lobe, truth.icl_deg, truth.lsa_deg)
    return {s.words: (s.spent, s.best) for s in spent(truth, card, **given)}


def test_each_is_told_beside_the_least_that_serves() -> None:
    """Common practice: two readings a valve with feelers, three by feel, a rod a valve."""
    told = took(truth_of("corners", 4), trials=19, stops=9, rods=10)
    assert told["trials"] == (19, 16)
    assert told["rods bought"] == (10, 8)
    assert told["credits"] == (120, 96)
    assert told["stops of the crank"][0] == 9
    assert 1 <= told["stops of the crank"][1] <= 8
    assert took(truth_of("feel", 4))["trials"] == (0, 24)
    assert took(truth_of("sweep", 4))["trials"] == (0, 0), "marks are no trials"


@pytest.mark.parametrize("seed", range(6))
def test_rods_that_serve_need_not_be_bought(seed: int) -> None:
    truth = truth_of("turns", seed)
    low, high, _ = truth.scenario.window
    own = [rod - truth.valves[n].zero_lash_in for n, rod in rods_in(truth).items()]
    assert took(truth)["rods bought"][1] == sum(not low <= x <= high for x in own)


@pytest.mark.parametrize(
    ("feel", "off", "gap", "told"),
    [
        ("zero", 0.024, None, 0.024),
        ("zero", 0.004, None, None),
        ("loose", 0.030, None, 0.030),
        ("loose", -0.200, None, None),
        ("tight", -0.030, None, -0.030),
        ("tight", 0.200, None, None),
        ("loose", -0.050, 0.050, None),
        ("loose", -0.050, 0.020, -0.030),
    ],
)
def test_the_reading_that_misled_most(
    feel: Feel, off: float, gap: float | None, told: float | None
) -> None:
    """A bound is off only where the truth lies beyond it; ``gap`` is what it says is missing."""
    truth = truth_of("corners", 4)
    valve, other = truth.valves["2E"], truth.valves["3I"]
    at_tip = None if gap is None else gap * near_closed(valve)
    trials = [Trial(4, valve.zero_lash_in + off, feel, at_tip)]
    sound = [Trial(1, other.zero_lash_in + 0.003, "zero")]
    worst = misread(truth, Bench(), {"3I": sound, "2E": trials})
    if told is None:
        assert worst is None
        return
    assert worst is not None
    assert (worst.valve, worst.number) == ("2E", 4)
    assert worst.off_in == pytest.approx(told, abs=0.001)


def test_no_reading_is_blamed_for_shims_that_came_after_it() -> None:
    truth = truth_of("shims", 4)
    valve = truth.valves["1I"]
    before = {"1I": [Trial(1, valve.zero_lash_in, "zero")]}
    assert misread(truth, Bench(shims_in=0.095), before) is None
    wrong = {"1I": [Trial(1, valve.zero_lash_in + 0.05, "zero")]}
    assert misread(truth, Bench(), wrong) is not None
