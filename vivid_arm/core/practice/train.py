"""The valve train of a practice engine: where its parts stand, by root finding alone.

Nothing here comes from ``core.rocker``: what that solves in closed form is searched for here, so
that a fault in one shows in the other.

Frame: origin at the middle of a usual stem's tip, y away from the chamber, x outboard. The arm
turns about the fulcrum; its tip (a roller's axle, or a shoe's centre) stands at ``arm`` from it,
the cup at ``cup``. ``angle`` is the arm's over the perpendicular to the stem.

Source: plane trigonometry; roots by Brent's method (R. P. Brent, 1973, as in SciPy).
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from math import cos, sin, sqrt

from scipy.optimize import brentq

from vivid_arm.core.errors import InputError
from vivid_arm.core.words import say

_WITHIN = 1e-13
_STEEPEST = 1.45
_FARTHEST = 1.1


@dataclass(frozen=True)
class Train:
    """One valve's train: inches, and radians for ``bend`` and the lifter's axis ``lean``.

    ``seat_x``, ``seat_y``: the rod's lower ball with the lifter on the heel. ``offset``: of the
    rod out of the plane. ``tip_y``: how much taller this stem's tip stands than a usual one's.
    """

    arm: float
    cup: float
    bend: float
    radius: float
    fulcrum_x: float
    fulcrum_y: float
    seat_x: float
    seat_y: float
    lean: float = 0.0
    offset: float = 0.0
    tip_y: float = 0.0

    def tip_at(self, angle: float) -> tuple[float, float]:
        """The middle of the arm's tip at an angle."""
        return self.fulcrum_x + self.arm * cos(angle), self.fulcrum_y + self.arm * sin(angle)

    def cup_at(self, angle: float) -> tuple[float, float]:
        """The middle of the cup at an angle."""
        turned = angle + self.bend
        return self.fulcrum_x - self.cup * cos(turned), self.fulcrum_y - self.cup * sin(turned)

    def ball_at(self, lobe: float) -> tuple[float, float]:
        """The rod's lower ball on a lobe's lift."""
        return self.seat_x + lobe * sin(self.lean), self.seat_y + lobe * cos(self.lean)

    def reach(self, angle: float, lobe: float = 0.0) -> float:
        """The centre length of a rod that just reaches from the lifter to the cup."""
        (x, y), (bx, by) = self.cup_at(angle), self.ball_at(lobe)
        return sqrt((x - bx) ** 2 + (y - by) ** 2 + self.offset**2)

    def resting_angle(self) -> float:
        """The angle with the arm's tip on the closed valve. Raises InputError where none."""
        return _root(lambda a: self.tip_at(a)[1] - self.radius - self.tip_y, -_STEEPEST, _STEEPEST)

    def zero_lash(self, lobe: float = 0.0) -> float:
        """The rod that just takes all lash, centre length. Raises InputError where none."""
        return self.reach(self.resting_angle(), lobe)

    def angle_of(self, rod: float, lobe: float = 0.0) -> float:
        """The angle of the arm with a rod that is tight. Raises InputError where none."""
        rest = self.resting_angle()
        return _root(lambda a: self.reach(a, lobe) - rod, rest - _FARTHEST, rest + _FARTHEST)

    def gap(self, rod: float, lobe: float = 0.0) -> float:
        """What stands open between arm and stem: below zero the valve is opened by as much."""
        return self.tip_at(self.angle_of(rod, lobe))[1] - self.radius - self.tip_y

    def contact(self, rod: float, lobe: float = 0.0) -> float:
        """Where the arm touches the tip, outboard of its middle."""
        return self.tip_at(self.angle_of(rod, lobe))[0]

    def lowered(self, by: float) -> "Train":
        """The same with the fulcrum moved down by a nut, or up below zero."""
        return replace(self, fulcrum_y=self.fulcrum_y - by)

    def for_rod(self, rod: float) -> "Train":
        """The same with the lifter's seat so deep that a rod takes all lash. Raises InputError."""
        angle = self.resting_angle()
        deep = _root(
            lambda y: replace(self, seat_y=y).reach(angle) - rod,
            self.cup_at(angle)[1] - 1.5 * rod,
            self.cup_at(angle)[1] - 0.5 * rod,
        )
        return replace(self, seat_y=deep)

    def nut_for(self, rod: float) -> float:
        """How far a nut lowers the fulcrum until a rod has no lash. Raises InputError."""
        return _root(lambda by: self.lowered(by).zero_lash() - rod, -0.6, 0.6)


def _root(missed: Callable[[float], float], low: float, high: float) -> float:
    try:
        return float(brentq(missed, low, high, xtol=_WITHIN, rtol=1e-14))
    except ValueError:
        raise InputError("rod", say("This train cannot stand so"), code="impossible") from None


@dataclass(frozen=True)
class TrueLobe:
    """A lobe as it is ground: crank degrees after overlap TDC, inches."""

    centre_deg: float
    whole_deg: float
    lift_in: float

    def lift_at(self, crank_deg: float) -> float:
        """Lift at a crank angle; nothing on the heel."""
        away = abs((crank_deg - self.centre_deg + 360.0) % 720.0 - 360.0)
        part = away / (self.whole_deg / 2)
        return 0.0 if part >= 1.0 else self.lift_in * (1 - part * part) ** 2.2

    def duration_deg(self, at_in: float) -> float:
        """Crank degrees over which it lifts more than this. Raises InputError where it never is."""
        half = self.whole_deg / 2
        return 2 * _root(lambda x: self.lift_at(self.centre_deg + x) - at_in, 0.0, half)
