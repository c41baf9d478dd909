"""What a preload found after fitting is worth, on engines whose truth is known.

The truth is drawn wider than the program assumes: the first drag is felt a third later or earlier,
the turns are read to an eighth besides, and zero lash is known less well. Counted are both errors:
what is said surely and wrongly, and what is not said though it is plain.
"""

import numpy as np
import pytest

from vivid_arm.core.sign_off.checks import Apart, Limit, Twice, apart, judge, told_twice
from vivid_arm.core.zero_lash.methods import fastener_turns, lever_in

PITCH, RATIO = 1 / 24, 1.72
WINDOW = Limit(0.020, 0.060, "")
ENGINES, VALVES = 400, 16


def turns_read(rng: np.random.Generator, preload_in: float) -> float:
    """Turns as somebody reads them who felt the first drag late or early, to an eighth."""
    felt = preload_in / lever_in(PITCH, RATIO * rng.normal(1, 0.03)) + rng.uniform(-0.165, 0.165)
    return max(round(felt * 8) / 8, 0.0)


def found(turns: float) -> tuple[float, float]:
    measure = fastener_turns(turns, PITCH, RATIO)
    assert measure.preload_in is not None
    return measure.preload_in, measure.u_in


def test_at_the_limit_is_said_where_the_turns_cannot_tell() -> None:
    rng = np.random.default_rng(20260)
    sure_and_wrong = sure = plain = plain_and_unsure = 0
    for truth in rng.uniform(0.0, 0.090, 6000):
        read, u = found(turns_read(rng, truth))
        judged = judge(read, WINDOW, u)
        inside = 0.020 <= truth <= 0.060
        sure += judged.sure
        sure_and_wrong += judged.sure and judged.passed != inside
        if min(abs(truth - 0.020), abs(truth - 0.060)) > 0.018:
            plain += 1
            plain_and_unsure += not judged.sure
    assert sure > 3000
    assert sure_and_wrong / sure < 0.06
    assert plain_and_unsure / plain < 0.10


def test_without_a_known_uncertainty_a_limit_is_a_limit() -> None:
    assert judge(0.0801, Limit(0.080, None, "")).sure
    assert judge(0.0799, Limit(0.080, None, "")).sure


def engine(rng: np.random.Generator, slip_in: float, on: int) -> bool:
    """Whether an engine is said to have found what its rods cannot give; ``slip_in`` on some.

    One hand reads it, that feels the drag a little late or early on every valve.
    """
    hand_in = lever_in(PITCH, RATIO) * rng.uniform(-0.0625, 0.0625)
    told = []
    for valve in range(VALVES):
        given, given_u = 0.040 + rng.normal(0, 0.006), 0.0012
        truth = given + rng.normal(0, 1.4 * given_u) + rng.uniform(-0.002, 0.002) + hand_in
        truth += slip_in if valve < on else 0.0
        read, u = found(turns_read(rng, max(truth, 0.0)))
        told.append(told_twice(str(valve), read, u, given, given_u))
    return apart(told) != Apart(None, ())


@pytest.mark.parametrize(
    ("slip_in", "on", "said_least", "said_most"),
    [
        (0.0, 0, 0.0, 0.05),  # nothing wrong: an engine in twenty at most is questioned
        (lever_in(PITCH, RATIO), 1, 0.97, 1.0),  # a whole turn forgotten on one valve
        (0.020, VALVES, 0.97, 1.0),  # all of them off by a convention or a gasket
        (-0.020, VALVES, 0.97, 1.0),
    ],
)
def test_what_the_rods_cannot_give_is_said(
    slip_in: float, on: int, said_least: float, said_most: float
) -> None:
    rng = np.random.default_rng(7)
    said = sum(engine(rng, slip_in, on) for _ in range(ENGINES)) / ENGINES
    assert said_least <= said <= said_most


def test_one_valve_apart_from_the_rest_is_named_beside_them() -> None:
    told = [Twice(str(v), 0.020, 0.005) for v in range(7)] + [Twice("7", 0.060, 0.005)]
    assert apart(told) == Apart(0.020, ("7",))


def test_one_valve_that_agrees_is_not_named_against_the_rest() -> None:
    told = [Twice(str(v), 0.020, 0.005) for v in range(7)] + [Twice("7", 0.0, 0.005)]
    assert apart(told) == Apart(0.020, ())
