"""What an eye sees of a practice engine's valve train: drawn coarsely enough to tell no figure.

Places are rounded to two hundredths of an inch, as an eye sees them at arm's length.

Source: the practice engine's own train.
"""

from dataclasses import dataclass, replace

from vivid_arm.core.practice.tools import (
    Bench,
    asks_for_in,
    heel_deg,
    lobe_in,
    stands_in,
    train_of,
    valve_of,
)
from vivid_arm.core.practice.train import Train
from vivid_arm.core.practice.truth import Truth, ValveTruth

_EYE_IN = 0.02
_STEP_DEG = 5
_ROUND = 2
Point = list[float]


@dataclass(frozen=True)
class Seen:
    """A valve's train in the side view: points (x, y) in inches, seen from the front.

    ``fulcrum`` stands still; the others are lists over ``crank_deg``: lower ``ball`` of the rod,
    ``cup`` and ``tip`` of the arm, ``stem``: how far the valve is open. ``radius_in`` of the arm's
    tip. ``slack_in``: how far the rod that stands there can be moved, as an eye sees it;
    ``plunger_in``: how far the lifter's plunger stands below its stop, None for a solid lifter.
    """

    valve: str
    fitted: bool
    crank_deg: list[int]
    ball: list[Point]
    cup: list[Point]
    tip: list[Point]
    stem: list[float]
    fulcrum: Point
    radius_in: float
    slack_in: float
    plunger_in: float | None


def seen(truth: Truth, bench: Bench, valve: str) -> Seen:
    """A valve's train through a whole cycle. Raises InputError for a valve there is not."""
    found = valve_of(truth, valve)
    train = train_of(bench, found)
    rod = train.zero_lash()
    cranks = list(range(0, 720, _STEP_DEG))
    lifts = [round(lobe_in(truth, found, float(c)), _ROUND) for c in cranks]
    known = {lift: _points(train, train.angle_of(rod, lift), lift) for lift in set(lifts)}
    drawn = [known[lift] for lift in lifts]
    fitted = bench.rod_in == valve
    slack = 0.0
    if fitted:
        slack = max(asks_for_in(truth, bench, found) - stands_in(truth, bench, found), 0.0)
    return Seen(
        valve,
        fitted,
        cranks,
        [at[0] for at in drawn],
        [at[1] for at in drawn],
        [at[2] for at in drawn],
        [at[3] for at in drawn],
        _eye((train.fulcrum_x, train.fulcrum_y)),
        round(train.radius, _ROUND),
        min(_eye((slack, 0.0))[0], 0.30),
        _plunger(truth, bench, found),
    )


def _plunger(truth: Truth, bench: Bench, valve: ValveTruth) -> float | None:
    """How far a plunger stands below its stop with the lifter on the heel, as an eye sees it."""
    if truth.scenario.lifter != "hydraulic":
        return None
    down = bench.pushed_in(valve.name)
    if bench.rod_in == valve.name:
        heel = replace(bench, crank_deg=heel_deg(truth, valve))
        down += max(stands_in(truth, heel, valve) - asks_for_in(truth, heel, valve), 0.0)
    return _eye((min(down, truth.scenario.travel_in), 0.0))[0]


def _points(train: Train, angle: float, lift: float) -> tuple[Point, Point, Point, float]:
    tip = train.tip_at(angle)
    opened = max(train.radius + train.tip_y - tip[1], 0.0)
    return _eye(train.ball_at(lift)), _eye(train.cup_at(angle)), _eye(tip), _eye((opened, 0.0))[0]


def _eye(point: tuple[float, float]) -> Point:
    return [round(round(v / _EYE_IN) * _EYE_IN, _ROUND) for v in point]
