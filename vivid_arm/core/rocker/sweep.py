"""The mark a rocker leaves: sweep, mid-lift, rolling and sliding, and what a setting costs.

All in the frame of ``mechanism``. A roller's axle, and a shoe's contact point,
should be level with the fulcrum at half lift; the error e is how far the
fulcrum stands below that (above: e < 0).

Source: the mid-lift rule is common practice; every formula is plane geometry, derived here.
"""

from dataclasses import dataclass

import numpy as np

from vivid_arm.core.arrays import Floats
from vivid_arm.core.engine.cam import Profile
from vivid_arm.core.rocker.mechanism import Linkage, Motion, Tip

MIDDLE_THIRD = 1 / 6
EDGE_CLEAR_IN = 0.040
_POINTS, _WEIGHTS = np.polynomial.legendre.leggauss(9)


def mid_lift_error(linkage: Linkage, net_lift_in: Floats, tip: Tip) -> Floats:
    """How far the fulcrum stands below its place for the mid-lift rule, inches.

    Roller: e = (r - k) - h/2. Shoe: the contact, not its centre of curvature,
    is level at half lift, e = -k - h/2. Any broadcasting shapes.
    """
    level = linkage.rise if tip == "roller" else -linkage.height
    return level - net_lift_in / 2


def mid_lift_angle(linkage: Linkage, net_lift_in: Floats, tip: Tip) -> Floats:
    """Angle at half lift between the arm line and the perpendicular to the stem, degrees.

    The arm line runs from the fulcrum to the roller's axle, or to a shoe's contact.
    Positive with the tip end high, that is with the fulcrum too low.
    """
    error = mid_lift_error(linkage, net_lift_in, tip)
    if tip == "roller":
        return np.asarray(np.degrees(np.arcsin(error / linkage.arm)))
    across = np.sqrt(linkage.arm**2 - (linkage.rise - net_lift_in / 2) ** 2)
    return np.asarray(np.degrees(np.arctan2(error, across)))


def contact_at(linkage: Linkage, valve_in: Floats) -> Floats:
    """Contact across the tip at a valve lift, inches."""
    return -linkage.fulcrum + np.sqrt(linkage.arm**2 - (linkage.rise - valve_in) ** 2)


def least_width(arm_in: Floats, net_lift_in: Floats) -> Floats:
    """The narrowest sweep an arm can make over a lift, A - sqrt(A² - h²/4), inches.

    >>> round(float(least_width(1.5, 0.6)), 6)
    0.030306
    """
    return arm_in - np.sqrt(arm_in**2 - net_lift_in**2 / 4)


def least_sweep(arm_in: Floats, radius_in: Floats, net_lift_in: Floats, tip: Tip) -> Floats:
    """The sweep an arm makes where its own mid-lift rule is met, inches.

    A roller's is the narrowest there is. A shoe that slides least sweeps wider: its centre of
    curvature stands the radius above its contact.
    """
    if tip == "roller":
        return least_width(arm_in, net_lift_in)
    low, high = radius_in - net_lift_in / 2, radius_in + net_lift_in / 2
    top = np.where(low < 0, arm_in, np.sqrt(arm_in**2 - low**2))
    return np.asarray(top - np.sqrt(arm_in**2 - high**2))


@dataclass(frozen=True)
class Sweep:
    """The contact's sweep over the net lift; inches across the tip, outboard positive.

    ``inboard_in`` and ``outboard_in`` its ends; ``closed_in`` and ``open_in`` where
    it stands with the valve closed and at full lift; ``error_in`` e and
    ``angle_deg`` at half lift; ``least_in`` the narrowest possible; ``roll_in``
    how far the contact travels and ``slide_in`` how far a shoe slides in one
    cycle; ``side_load`` the root mean square of the contact's distance from the
    stem's axis over the tip's radius (0 central, 1 at the edge).
    """

    inboard_in: Floats
    outboard_in: Floats
    closed_in: Floats
    open_in: Floats
    error_in: Floats
    angle_deg: Floats
    least_in: Floats
    roll_in: Floats
    slide_in: Floats
    side_load: Floats

    @property
    def width_in(self) -> Floats:
        return self.outboard_in - self.inboard_in

    @property
    def centre_in(self) -> Floats:
        return (self.outboard_in + self.inboard_in) / 2


def sweep(linkage: Linkage, net_lift_in: Floats, tip: Tip, stem_in: float) -> Sweep:
    """The sweep of mechanisms over their net lifts, in closed form; any broadcasting shapes."""
    rise, h = linkage.rise, net_lift_in
    closed, opened = contact_at(linkage, np.zeros_like(h)), contact_at(linkage, h)
    turns = (rise > 0) & (rise < h)
    out = np.where(turns, linkage.arm - linkage.fulcrum, np.maximum(closed, opened))
    return Sweep(
        np.minimum(closed, opened),
        out,
        closed,
        opened,
        mid_lift_error(linkage, h, tip),
        mid_lift_angle(linkage, h, tip),
        least_width(linkage.arm, h),
        2 * (2 * out - closed - opened),
        _slide(linkage, h),
        _side_load(linkage, h) / (stem_in / 2),
    )


def _slide(linkage: Linkage, net_lift_in: Floats) -> Floats:
    """Sliding of the tip's material over the stem in a cycle, inches.

    A shoe slides at omega (v + k), and v + k = r - A sin phi, so that the way is
    the difference of r phi + A cos phi, both ways round the level contact.
    """
    first = np.arcsin(linkage.rise / linkage.arm)
    last = np.arcsin((linkage.rise - net_lift_in) / linkage.arm)
    level = np.arcsin(np.clip(linkage.radius / linkage.arm, -1, 1))

    def way(phi: Floats) -> Floats:
        return np.asarray(linkage.radius * phi + linkage.arm * np.cos(phi))

    turn = way(np.clip(level, np.minimum(first, last), np.maximum(first, last)))
    return np.asarray(2 * (np.abs(way(first) - turn) + np.abs(turn - way(last))))


def _side_load(linkage: Linkage, net_lift_in: Floats) -> Floats:
    """Root mean square of the contact over the lift, inches (Gauss-Legendre, 9 points)."""
    lifts = np.asarray(net_lift_in)[..., None] * (_POINTS + 1) / 2
    x = contact_at(linkage.columns(), lifts)
    return np.asarray(np.sqrt((x * x * _WEIGHTS).sum(axis=-1) / 2))


def on_tip(inboard_in: Floats, outboard_in: Floats, stem_in: float) -> Floats:
    """Why a mark may not stay where it is: 0 fine, 1 off the middle third, 2 near an edge.

    Common practice: the mark's middle stays in the middle third of the tip, and
    its ends about 0.040 in from the edge, whatever its width.
    """
    centre, edge = (inboard_in + outboard_in) / 2, stem_in / 2 - EDGE_CLEAR_IN
    near = (inboard_in < -edge) | (outboard_in > edge)
    return np.where(near, 2, np.where(np.abs(centre) > stem_in * MIDDLE_THIRD, 1, 0))


def durations(motion: Motion, profile: Profile, valve_lifts_in: Floats) -> Floats:
    """Crank degrees that the valve stands open past each lift; shapes (n, m) and (t) give (n, t).

    NaN where the valve does not lift so far. The lobe's profile gives the crank.
    """
    rows = motion.valve_in.reshape(-1, motion.lobe_in.size)
    lobe = np.array([np.interp(valve_lifts_in, v, motion.lobe_in, np.nan, np.nan) for v in rows])
    opens, closes = profile.spans_deg(lobe)
    return np.asarray(closes - opens)
