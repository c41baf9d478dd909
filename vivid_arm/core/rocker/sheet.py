"""The dimension sheet of a rocker: what is known of it, how well, and the mechanism it makes.

Nobody measures everything. Each dimension has a starting value for its kind of
rocker with a stated standard uncertainty (common practice put into figures by
us), replaced by what the builder measures. Where the fulcrum stands is not on
the sheet: the marks tell it.

Source: starting values are common practice put in figures by us, from memory.
"""

from dataclasses import dataclass, fields, replace
from functools import lru_cache
from math import degrees, isfinite, radians, sqrt
from typing import Literal

import numpy as np

from vivid_arm.core.arrays import Floats
from vivid_arm.core.errors import InputError, within
from vivid_arm.core.rocker.mechanism import Linkage, Mechanism, Tip, net_lift
from vivid_arm.core.words import Saying, figure, say, within_a_sentence

Rocker = Literal["roller_stud", "roller_shaft", "shoe_stud", "shoe_shaft"]
Dimension = Literal[
    "arm_in", "ratio", "bend_deg", "tip_radius_in", "lean_deg", "lobe_lift_in", "film_in",
    "axis_deg",
]  # fmt: skip

ROCKERS: dict[Rocker, Saying] = {
    "roller_stud": Saying("Roller tip on a stud"),
    "roller_shaft": Saying("Roller tip on a shaft or stand"),
    "shoe_stud": Saying("Shoe tip on a stud"),
    "shoe_shaft": Saying("Shoe tip on a shaft or stand"),
}


@dataclass(frozen=True)
class Field:
    """A dimension of the sheet: words, range, how well it can be measured, and how."""

    words: Saying
    low: float
    high: float
    measured_u: float
    how: Saying

    def check(self, name: str, value: float) -> float:
        """Return a value in the dimension's range. Raises InputError."""
        again = say("Measure again: {how}", how=within_a_sentence(self.how))
        return within(
            name, say(self.words), value, self.low, self.high, self.unit(name), remedy=again
        )

    @staticmethod
    def unit(name: str) -> str:
        """What stands behind a figure of a dimension, by its machine name."""
        return " in" if name.endswith("_in") else "°" if name.endswith("_deg") else ""


DIMENSIONS: dict[Dimension, Field] = {
    "arm_in": Field(
        Saying("Arm, fulcrum to tip centre"), 0.5, 3.0, 0.005, Saying("Caliper over pin and axle")
    ),
    "ratio": Field(
        Saying("Catalogue ratio"), 1.0, 2.5, 0.010, Saying("Caliper: tip arm over cup arm")
    ),
    "bend_deg": Field(
        Saying("Bend, cup line under arm line"), -40.0, 40.0, 1.0, Saying("Protractor on the side")
    ),
    "tip_radius_in": Field(
        Saying("Radius of roller or shoe"), 0.1, 3.0, 0.002, Saying("Caliper, radius gauge")
    ),
    "lean_deg": Field(
        Saying("Rod's lean from the lifter axis"), -30.0, 30.0, 0.5, Saying("Inclinometer")
    ),
    "lobe_lift_in": Field(Saying("Lobe lift"), 0.1, 0.8, 0.001, Saying("Indicator on the lifter")),
    "film_in": Field(
        Saying("Width the marker film adds"), 0.0, 0.03, 0.001, Saying("A mark at rest, not moved")
    ),
    "axis_deg": Field(
        Saying("Stud or stand leans outboard"), -30.0, 30.0, 0.5, Saying("Inclinometer")
    ),
}
UNKNOWNS = ("rise_in", "turn_in", *DIMENSIONS)
RISE_SD_IN, TURN_SD_IN = 0.080, 0.060

_STARTS: dict[Rocker, dict[Dimension, tuple[float, float]]] = {
    "roller_stud": {"arm_in": (1.45, 0.05), "bend_deg": (15, 4), "tip_radius_in": (0.25, 0.02),
                    "lean_deg": (2, 3), "axis_deg": (5, 4)},
    "roller_shaft": {"arm_in": (1.60, 0.06), "bend_deg": (13, 4), "tip_radius_in": (0.28, 0.02),
                     "lean_deg": (2, 3), "axis_deg": (0, 2)},
    "shoe_stud": {"arm_in": (1.50, 0.06), "bend_deg": (2, 5), "tip_radius_in": (0.40, 0.05),
                  "lean_deg": (2, 3), "axis_deg": (5, 4)},
    "shoe_shaft": {"arm_in": (1.55, 0.06), "bend_deg": (2, 5), "tip_radius_in": (0.40, 0.05),
                   "lean_deg": (2, 3), "axis_deg": (0, 2)},
}  # fmt: skip
_FULCRUM_U = 0.010
_RATIO_U, _LOBE_U, _FILM, _LOBE_START = 0.025, 0.02, (0.006, 0.002), (0.310, 0.040)


@dataclass(frozen=True)
class KnownDimension:
    """A dimension's value and its standard uncertainty; ``measured`` by the builder or started."""

    value: float
    u: float
    measured: bool = False


@dataclass(frozen=True)
class Sheet:
    """A rocker's dimensions in the order of ``DIMENSIONS``, and what is taken as exact.

    ``stem_in`` is the tip's diameter, ``rod_in`` the centre length at the
    reference setting, ``fulcrum_in`` how far the fulcrum was measured from the stem's
    axis, ``lifter_deg`` the lifter's axis from the stem, ``offset_in``
    the rod's offset out of the plane, ``stud`` whether the nut follows the rod.
    Raises InputError naming the dimension at fault.
    """

    tip: Tip
    stud: bool
    stem_in: float
    rod_in: float
    arm_in: KnownDimension
    ratio: KnownDimension
    bend_deg: KnownDimension
    tip_radius_in: KnownDimension
    lean_deg: KnownDimension
    lobe_lift_in: KnownDimension
    film_in: KnownDimension
    axis_deg: KnownDimension
    lifter_deg: float = 0.0
    offset_in: float = 0.0
    fulcrum_in: KnownDimension | None = None

    def __post_init__(self) -> None:
        if self.fulcrum_in is not None:
            within(
                "fulcrum_in",
                say("Fulcrum to the stem's axis"),
                self.fulcrum_in.value,
                0.5,
                3.0,
                " in",
                remedy=say("Measure across, square to the stem"),
            )
        for name, field in DIMENSIONS.items():
            known = getattr(self, name)
            field.check(name, known.value)
            within(
                name,
                say("{words}, known within", words=field.words),
                known.u,
                0,
                field.high,
                field.unit(name),
            )
        if self.tip == "shoe" and self.tip_radius_in.value >= 0.95 * self.arm_in.value:
            raise InputError(
                "tip_radius_in",
                say("The shoe's radius is as long as the arm"),
                received=self.tip_radius_in.value,
                expected=say("under {value} in", value=figure(0.95 * self.arm_in.value, ".3f")),
                remedy=say("The arm runs from the fulcrum to the shoe's centre of curvature"),
                code="impossible",
            )

    def known(self, name: Dimension) -> KnownDimension:
        found: KnownDimension = getattr(self, name)
        return found

    @property
    def measured(self) -> tuple[Dimension, ...]:
        return tuple(name for name in DIMENSIONS if self.known(name).measured)

    @property
    def expected_lift_in(self) -> float:
        """Net lift to expect from lobe and catalogue ratio, inches."""
        return self.lobe_lift_in.value * self.ratio.value

    @property
    def prior(self) -> tuple[Floats, Floats]:
        """What is known before any mark, in the order of ``UNKNOWNS``: values, uncertainties.

        The fulcrum is taken to stand right by both schools, give or take what first
        assemblies are off (common practice put into figures by us).
        """
        return _prior(self)

    def linkage(self, unknowns: Floats) -> Linkage:
        """The mechanisms of vectors in the order of ``UNKNOWNS``: shape (..., 10) gives (...)."""
        rise, turn, arm, ratio, bend, radius, lean, _, _, axis = np.moveaxis(unknowns, -1, 0)
        bend, lean, axis = np.radians(bend), np.radians(lean), np.radians(axis)
        with np.errstate(invalid="ignore"):
            reach = arm if self.tip == "roller" else np.sqrt(arm**2 - radius**2)
        cup, fulcrum, height = reach / ratio, arm - turn, radius - rise
        with np.errstate(invalid="ignore"):
            theta = np.arcsin(rise / arm) + bend
        lifter = np.full_like(rise, radians(self.lifter_deg))
        planar = sqrt(self.rod_in**2 - self.offset_in**2)
        seat_x = -fulcrum - cup * np.cos(theta) - planar * np.sin(lifter + lean)
        seat_y = height - cup * np.sin(theta) - planar * np.cos(lifter + lean)
        offset = np.full_like(rise, self.offset_in)
        return Linkage(
            arm, cup, bend, radius, fulcrum, height, seat_x, seat_y, lifter, offset, axis
        )

    def mechanism(self, unknowns: Floats) -> Mechanism:
        """One checked mechanism, shape (10). Raises InputError when it cannot be built."""
        link = self.linkage(unknowns)
        figures = {name: float(value) for name, value in vars(link).items()}
        return Mechanism(
            figures["arm"], figures["cup"], degrees(figures["bend"]), figures["radius"],
            figures["fulcrum"], figures["height"], figures["seat_x"], figures["seat_y"],
            self.stem_in, self.tip, self.stud, self.lifter_deg, self.offset_in,
            degrees(figures["axis"]),
        )  # fmt: skip


def starting_sheet(
    rocker: Rocker,
    ratio: float,
    *,
    stem_in: float,
    rod_in: float,
    lobe_lift_in: float | None = None,
    net_lift_in: float | None = None,
    lifter_deg: float = 0.0,
    offset_in: float = 0.0,
    fulcrum_in: float | None = None,
) -> Sheet:
    """A sheet of starting values; the lobe lift comes from a card, else from the net lift.

    Raises InputError for a figure out of range.
    """
    within("catalogue_ratio", say("Catalogue ratio"), ratio, 1.0, 2.5)
    if lobe_lift_in is not None:
        lobe = KnownDimension(lobe_lift_in, 0.002)
    elif net_lift_in is not None:
        lobe = KnownDimension(net_lift_in / ratio, _LOBE_U * net_lift_in / ratio)
    else:
        lobe = KnownDimension(*_LOBE_START)
    starts = {name: KnownDimension(*pair) for name, pair in _STARTS[rocker].items()}
    tip, _, stands = rocker.partition("_")
    return Sheet(
        "roller" if tip == "roller" else "shoe",
        stands == "stud",
        stem_in,
        rod_in,
        starts["arm_in"],
        KnownDimension(ratio, _RATIO_U * ratio),
        starts["bend_deg"],
        starts["tip_radius_in"],
        starts["lean_deg"],
        lobe,
        KnownDimension(*_FILM),
        starts["axis_deg"],
        lifter_deg,
        offset_in,
        None if fulcrum_in is None else KnownDimension(fulcrum_in, _FULCRUM_U, True),
    )


def with_measured(sheet: Sheet, measured: dict[Dimension, tuple[float, float]]) -> Sheet:
    """The sheet with what the builder measured: value and standard uncertainty by name."""
    found = {name: KnownDimension(value, u, True) for name, (value, u) in measured.items()}
    return replace(sheet, **found)  # type: ignore[arg-type]


@lru_cache(maxsize=256)
def _prior(sheet: Sheet) -> tuple[Floats, Floats]:
    """The rise that meets the mid-lift rule at the net lift it gives itself, the mark central."""
    knowns = [sheet.known(name) for name in DIMENSIONS]
    arm, radius, h = sheet.arm_in.value, sheet.tip_radius_in.value, sheet.expected_lift_in
    found = np.array([0.0, 0.0, *(k.value for k in knowns)])
    lobe = np.asarray(sheet.lobe_lift_in.value)
    for _ in range(4):
        rise = h / 2 if sheet.tip == "roller" else radius + h / 2
        if max(abs(rise), abs(rise - h)) >= arm:
            break
        ends = [sqrt(arm**2 - x**2) for x in (rise, rise - h)]
        highest = arm if 0 < rise < h else max(ends)
        found[:2] = rise, arm - (min(ends) + highest) / 2
        moved = float(net_lift(sheet.linkage(found), lobe))
        if not isfinite(moved):
            break
        h = moved
    return found, np.array([RISE_SD_IN, TURN_SD_IN, *(max(k.u, 1e-7) for k in knowns)])


assert UNKNOWNS[2:] == tuple(f.name for f in fields(Sheet) if f.name in DIMENSIONS)
