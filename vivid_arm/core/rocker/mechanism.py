"""The rocker as a planar mechanism with an offset rod: lobe lift in, valve lift and contact out.

Frame: origin at the middle of the closed valve's tip, y along the stem away from
the chamber, x across the tip, outboard (away from the fulcrum) positive. The
fulcrum stands at (-f, k), the tip of the rocker (a roller's axle, or a shoe's
centre of curvature) at A from it, at the height r - v over a valve opened by v:

    sin phi = (r - k - v) / A        x = -f + A cos phi

The cup stands at F + B (-cos(phi + delta), -sin(phi + delta)); the lower ball rides
in the lifter along the lifter's axis by the lobe lift; the rod between the two is
rigid, its offset out of the plane counts in quadrature. phi follows in closed
form from two circles: cup about fulcrum, cup about lower ball.

Source: plane trigonometry, derived above; held against an independent solver in the tests.
"""

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from vivid_arm.core.arrays import Floats
from vivid_arm.core.errors import InputError, within
from vivid_arm.core.words import Saying, figure, say

Tip = Literal["roller", "shoe"]

_NUT_STEPS = 12
_NUT_WITHIN_IN = 1e-9
_NUT_CLOSE_IN = 1e-6
_CLOSED_WITHIN_IN = 1e-6


@dataclass(frozen=True)
class Linkage:
    """The mechanism's dimensions as arrays of any shapes that broadcast: one entry, one mechanism.

    ``arm`` A, ``cup`` B, ``radius`` r, ``fulcrum`` f, ``height`` k, the closed lower
    ball at (``seat_x``, ``seat_y``), ``offset`` of the rod out of the plane, all
    inches; ``bend`` delta, ``lifter`` the lifter's axis and ``axis`` the line the
    fulcrum is moved along, both from the stem towards outboard, all radians.
    """

    arm: Floats
    cup: Floats
    bend: Floats
    radius: Floats
    fulcrum: Floats
    height: Floats
    seat_x: Floats
    seat_y: Floats
    lifter: Floats
    offset: Floats
    axis: Floats

    @property
    def rise(self) -> Floats:
        """Height of the tip's centre over the fulcrum with the valve closed, r - k."""
        return self.radius - self.height

    def raised(self, by_in: Floats) -> "Linkage":
        """The same with the fulcrum moved up its axis (a nut, a shim)."""
        return replace(
            self,
            fulcrum=self.fulcrum - by_in * np.sin(self.axis),
            height=self.height + by_in * np.cos(self.axis),
        )

    def columns(self) -> "Linkage":
        """The same with a last axis of length one, for lift to run along."""
        return Linkage(*(np.asarray(v)[..., None] for v in vars(self).values()))

    def closed_rod(self) -> Floats:
        """Centre length of the rod that just takes all lash, inches; NaN where none."""
        with np.errstate(invalid="ignore"):
            return self._rod_and_slope()[0]

    def nut_rise(self, rod_in: Floats) -> Floats:
        """How far the nut must raise the fulcrum for zero lash with a rod, inches.

        Newton's method on the closed loop; NaN where no position serves.
        """
        by = np.zeros(())
        step = np.full((), np.inf)
        with np.errstate(invalid="ignore"):
            for _ in range(_NUT_STEPS):
                found, slope = self.raised(by)._rod_and_slope()
                step = (found - rod_in) / slope
                by = by - step
                if not (np.abs(step) > _NUT_WITHIN_IN).any():
                    break
            return np.where(np.abs(step) < _NUT_CLOSE_IN, by, np.nan)

    def _rod_and_slope(self) -> tuple[Floats, Floats]:
        """The closed rod and how it grows with the fulcrum's rise."""
        phi = np.arcsin(self.rise / self.arm)
        cup_x, cup_y = self.cup * np.cos(phi + self.bend), self.cup * np.sin(phi + self.bend)
        x, y = -self.fulcrum - cup_x - self.seat_x, self.height - cup_y - self.seat_y
        turn = -np.cos(self.axis) / (self.arm * np.cos(phi))
        dx = np.sin(self.axis) + cup_y * turn
        dy = np.cos(self.axis) - cup_x * turn
        rod = np.sqrt(x * x + y * y + self.offset**2)
        return rod, (x * dx + y * dy) / rod


@dataclass(frozen=True)
class Motion:
    """What moves while the lobe lifts; last axis along the lobe lift.

    ``valve_in`` valve lift, ``contact_in`` contact across the tip, inches;
    ``arm_deg`` the arm above the perpendicular to the stem; ``rod_deg`` between
    rod and lifter axis; ``ratio`` valve lift per lobe lift. NaN where the loop
    cannot close.
    """

    lobe_in: Floats
    valve_in: Floats
    contact_in: Floats
    arm_deg: Floats
    rod_deg: Floats
    ratio: Floats


def move(linkage: Linkage, lobe_in: Floats, rod_in: Floats | None = None) -> Motion:
    """Move mechanisms through lobe lifts: shapes (n) and (m) give (n, m), any leading shape.

    The rod is the one at zero lash unless its centre length is given. Solved
    without iteration: with D from the lower ball to the fulcrum, the cup stands
    (D² + B² - L²) / 2 along D and the rest of B across it.
    """
    figures = (linkage.closed_rod() if rod_in is None else rod_in, *vars(linkage).values())
    shape = np.broadcast_shapes(*(np.shape(x) for x in figures))
    rows = [x if np.size(x) == 1 else np.ravel(np.broadcast_to(x, shape)) for x in figures]
    count = int(np.prod(shape))
    out = np.empty((5, count, lobe_in.size))
    block = max(1, _BLOCK // lobe_in.size)
    with np.errstate(invalid="ignore"):
        for start in range(0, count, block):
            part = slice(start, start + block)
            rod, *rest = (
                np.ravel(x)[0] if np.size(x) == 1 else np.asarray(x)[part, None] for x in rows
            )
            _move_block(Linkage(*rest), lobe_in, rod, out[:, part])
    return Motion(lobe_in, *(x.reshape(*shape, lobe_in.size) for x in out))


_BLOCK = 5800
_DEGREE = 180 / np.pi


def _move_block(link: Linkage, lobe_in: Floats, rod: Floats, out: Floats) -> None:
    """One block of rows small enough to stay in the processor's cache."""
    ux, uy = np.sin(link.lifter), np.cos(link.lifter)
    dx = (-link.fulcrum - link.seat_x) - lobe_in * ux
    dy = (link.height - link.seat_y) - lobe_in * uy
    far2 = dx * dx
    far2 += dy * dy
    along_d = far2 + (link.cup**2 + link.offset**2 - rod * rod)
    along_d *= 0.5
    across_d = np.sqrt(link.cup**2 * far2 - along_d * along_d)
    along_d /= far2
    across_d /= far2
    cup_x = along_d * dx
    cup_x += across_d * dy
    cup_y = along_d * dy
    cup_y -= across_d * dx
    dx -= cup_x
    dy -= cup_y
    along = dx * ux
    along += dy * uy
    turn = dx * cup_y
    turn -= dy * cup_x
    cos_b, sin_b = np.cos(link.bend) / link.cup, np.sin(link.bend) / link.cup
    cos_p, sin_p = out[1], out[2]
    np.multiply(cup_x, cos_b, out=cos_p)
    cos_p += cup_y * sin_b
    np.multiply(cup_y, cos_b, out=sin_p)
    sin_p -= cup_x * sin_b
    np.subtract(link.rise, link.arm * sin_p, out=out[0])
    np.arcsin(sin_p, out=sin_p)
    sin_p *= _DEGREE
    cos_p *= link.arm
    np.divide(cos_p * along, turn, out=out[4])
    np.negative(out[4], out=out[4])
    cos_p -= link.fulcrum
    along /= rod
    np.minimum(along, 1.0, out=along)
    np.arccos(along, out=along)
    np.multiply(along, _DEGREE, out=out[3])


@dataclass(frozen=True)
class Mechanism:
    """One rocker with its rod and lifter at its reference setting, checked.

    Inches and degrees, named as in ``Linkage``; ``tip_radius_in`` is the roller's
    or the shoe's radius, ``stem_in`` the tip's diameter. ``stud`` tells whether
    the nut keeps zero lash (the rod's length moves the fulcrum) or the fulcrum is
    fixed (shims move it). Raises InputError for what cannot be built or cannot move.
    """

    arm_in: float
    cup_in: float
    bend_deg: float
    tip_radius_in: float
    fulcrum_in: float
    height_in: float
    seat_x_in: float
    seat_y_in: float
    stem_in: float
    tip: Tip = "roller"
    stud: bool = False
    lifter_deg: float = 0.0
    offset_in: float = 0.0
    axis_deg: float = 0.0

    def __post_init__(self) -> None:
        if abs(self.tip_radius_in - self.height_in) >= self.arm_in:
            raise InputError(
                "arm_in",
                say(
                    "The rocker cannot stand on the closed tip: its arm is shorter than the "
                    "height between fulcrum and tip centre"
                ),
                received=self.arm_in,
                expected=say(
                    "above {tip_radius} in",
                    tip_radius=figure(abs(self.tip_radius_in - self.height_in), ".3f"),
                ),
                remedy=say("Check arm, tip radius and fulcrum height"),
                code="impossible",
            )
        limits = (
            ("arm_in", say("Valve-side arm"), 0.4, 4.0),
            ("cup_in", say("Cup-side arm"), 0.2, 3.0),
            ("bend_deg", say("Bend of the rocker"), -60.0, 60.0),
            ("tip_radius_in", say("Tip radius"), 0.05, 3.0),
            ("fulcrum_in", say("Fulcrum's distance"), 0.2, 4.0),
            ("height_in", say("Fulcrum's height"), -2.0, 2.0),
            ("seat_x_in", say("Lifter seat across"), -12.0, 12.0),
            ("seat_y_in", say("Lifter seat below"), -20.0, -1.0),
            ("stem_in", say("Tip diameter"), 0.15, 0.6),
            ("lifter_deg", say("Lifter axis"), -60.0, 60.0),
            ("offset_in", say("Offset of the rod"), -2.0, 2.0),
            ("axis_deg", say("Axis of stud or stand"), -30.0, 30.0),
        )
        for name, words, low, high in limits:
            _inside(name, words, getattr(self, name), low, high)

    @property
    def linkage(self) -> Linkage:
        """The dimensions as arrays of shape ()."""
        figures = (
            self.arm_in, self.cup_in, np.radians(self.bend_deg), self.tip_radius_in,
            self.fulcrum_in, self.height_in, self.seat_x_in, self.seat_y_in,
            np.radians(self.lifter_deg), self.offset_in, np.radians(self.axis_deg),
        )  # fmt: skip
        return Linkage(*(np.asarray(x, dtype=np.float64) for x in figures))

    @property
    def rod_in(self) -> float:
        """Centre length of the rod at zero lash, inches."""
        return float(self.linkage.closed_rod())

    def at_rods(self, rod_in: Floats) -> Linkage:
        """With rods of these centre lengths: on a stud the nut follows, else nothing moves."""
        link = self.linkage
        return link.raised(link.nut_rise(rod_in) if self.stud else np.zeros_like(rod_in))

    def at_shims(self, shim_in: Floats) -> Linkage:
        """With the fulcrum raised by shims along its axis."""
        return self.linkage.raised(shim_in)


def _inside(name: str, words: str, value: float, low: float, high: float) -> None:
    unit = "°" if name.endswith("deg") else " in"
    within(name, words, value, low, high, unit, remedy=say("Check unit and sign"))


def why_not(linkage: Linkage, motion: Motion, stem_in: float) -> list[str]:
    """Why each mechanism of a row cannot run; an empty text for one that can.

    A motion from zero lobe lift with a closed valve that is not closed has its
    cup beyond the line from lower ball to fulcrum: it starts past its dead point.
    """
    short = np.abs(linkage.rise / linkage.arm) > 1
    open_loop = ~np.isfinite(motion.valve_in).all(axis=-1)
    started = motion.lobe_in[0] == 0.0
    beyond = np.abs(motion.valve_in[..., 0]) > _CLOSED_WITHIN_IN if started else False
    toggled = (motion.ratio <= 0).any(axis=-1) | beyond
    off = (np.abs(motion.contact_in) > stem_in / 2).any(axis=-1)
    lost = ~np.isfinite(linkage.height)
    faults = np.broadcast_arrays(lost, short, open_loop, toggled, off)
    rows = zip(*(np.atleast_1d(x) for x in faults), strict=True)
    return [next((say(w) for w, bad in zip(_WHY_NOT, row, strict=True) if bad), "") for row in rows]


_WHY_NOT = (
    Saying("No nut position gives zero lash with this rod"),
    Saying("The rocker cannot stand on the closed tip"),
    Saying("The rod cannot reach the cup through the whole lift"),
    Saying("Rod and rocker pass their dead point: the valve would not open"),
    Saying("The contact runs off the tip"),
)


def run(mechanism: Mechanism, lobe_in: Floats) -> Motion:
    """Move one mechanism; shape (m). Raises InputError with the reason when it cannot run."""
    link = mechanism.linkage
    motion = move(link, lobe_in)
    reason = why_not(link, motion, mechanism.stem_in)[0]
    if reason:
        raise InputError(
            "mechanism",
            reason,
            remedy=say("Check the dimensions against the engine"),
            code="impossible",
        )
    return motion


def net_lift(linkage: Linkage, lobe_in: Floats, rod_in: Floats | None = None) -> Floats:
    """Valve lift of each mechanism at its own lobe lift, inches; any broadcasting shapes."""
    rod = linkage.closed_rod() if rod_in is None else rod_in
    figures = np.broadcast_arrays(rod, lobe_in, *vars(linkage).values())
    rods, lobes, *rest = (np.reshape(x, (-1, 1)) for x in figures)
    out = np.empty((5, rods.size, 1))
    with np.errstate(invalid="ignore"):
        _move_block(Linkage(*rest), lobes, rods, out)
    return np.asarray(out[0].reshape(figures[0].shape))
