"""What a rod's "length" means: four conventions and their conversion.

The mechanism only knows the centre length (ball centre to ball centre; a cup
counts by the centre of the ball that sits in it). Every other figure adds a
distance at each end, so conversion is a sum over the two ends.

Source: which points a convention measures between is common practice; the distances follow
from plane geometry of ball, hole and gauge circle.
"""

from dataclasses import dataclass
from math import sqrt
from typing import Literal

from vivid_arm.core.errors import InputError
from vivid_arm.core.words import Saying, figure, say

Convention = Literal["centre", "theoretical", "measured", "gauge"]
EndKind = Literal["ball", "cup"]
END_WORDS: dict[EndKind, Saying] = {"ball": Saying("ball"), "cup": Saying("cup")}

CONVENTIONS: dict[Convention, Saying] = {
    "centre": Saying("centre length"),
    "theoretical": Saying("theoretical overall"),
    "measured": Saying("measured overall"),
    "gauge": Saying("gauge length"),
}
USUAL_GAUGE_CIRCLE_IN = 0.140
USUAL_BALL_IN = 0.3125


@dataclass(frozen=True)
class RodEnd:
    """One end of a rod: a ball, or a cup with the ball that sits in it.

    ``ball_in`` is the ball's diameter, ``oil_hole_in`` the hole through a ball
    end (0 for none), both in inches.

    Raises InputError when the hole is not smaller than the ball.
    """

    kind: EndKind
    ball_in: float
    oil_hole_in: float = 0.0

    def __post_init__(self) -> None:
        if self.ball_in <= 0:
            raise InputError("ball", say("Ball diameter must be above zero"), received=self.ball_in)
        if not 0 <= self.oil_hole_in < self.ball_in:
            raise InputError(
                "oil_hole",
                say(
                    "Oil hole {oil_hole} in does not fit a ball of {ball} in",
                    oil_hole=figure(self.oil_hole_in, "g"),
                    ball=figure(self.ball_in, "g"),
                ),
                received=self.oil_hole_in,
                expected=say("below {ball} in", ball=figure(self.ball_in, "g")),
                remedy=say("Check the hole and the ball's diameter"),
            )

    @property
    def radius_in(self) -> float:
        return self.ball_in / 2

    def reach_in(self, convention: Convention, gauge_circle_in: float) -> float:
        """Distance from the ball's centre to where the convention measures, inches.

        centre 0; theoretical r; measured sqrt(r² - d²/4) on a ball with a hole d
        (over a whole seated ball on a cup, r); gauge sqrt(r² - g²/4). Geometry of
        a chord on a circle. Raises InputError when the gauge circle is not
        smaller than the ball.
        """
        r = self.radius_in
        if convention == "centre":
            return 0.0
        if convention == "theoretical":
            return r
        if convention == "measured":
            hole = self.oil_hole_in if self.kind == "ball" else 0.0
            return sqrt(r * r - hole * hole / 4)
        if not 0 < gauge_circle_in < self.ball_in:
            raise InputError(
                "gauge_circle",
                say(
                    "Gauge circle {gauge_circle} in does not fit a ball of {ball} in",
                    gauge_circle=figure(gauge_circle_in, "g"),
                    ball=figure(self.ball_in, "g"),
                ),
                received=gauge_circle_in,
                expected=say("below {ball} in", ball=figure(self.ball_in, "g")),
                remedy=say("Ask the supplier which gauge circle the length is given to"),
            )
        return sqrt(r * r - gauge_circle_in * gauge_circle_in / 4)


@dataclass(frozen=True)
class RodEnds:
    """Both ends of a rod (lifter end, rocker end) and the gauge circle in use."""

    lifter: RodEnd
    rocker: RodEnd
    gauge_circle_in: float = USUAL_GAUGE_CIRCLE_IN

    def reaches_in(self, convention: Convention) -> tuple[float, float]:
        """Distance from each ball's centre to where a convention measures, inches."""
        lifter, rocker = self.lifter, self.rocker
        circle = self.gauge_circle_in
        return lifter.reach_in(convention, circle), rocker.reach_in(convention, circle)

    def added_in(self, convention: Convention) -> float:
        """What a convention adds to the centre length, inches."""
        return sum(self.reaches_in(convention))


def convert(length_in: float, given: Convention, wanted: Convention, ends: RodEnds) -> float:
    """Convert a rod length between conventions, inches to inches.

    >>> ball = RodEnd("ball", 0.3125, 0.100)
    >>> round(convert(8.600, "theoretical", "measured", RodEnds(ball, ball)), 6)
    8.583568
    """
    if given == wanted:
        return length_in
    return length_in - ends.added_in(given) + ends.added_in(wanted)
