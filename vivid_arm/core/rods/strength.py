"""The rod itself: strength, stiffness, mass, the largest that clears, cutting from tube.

Forces in pound-force, stresses in psi, masses in ounces, lengths in inches.

Source: Euler's column and Hooke's law (Roark's Formulas for Stress and Strain), figures as said
beside them.
"""

from dataclasses import dataclass
from math import pi
from typing import Literal

from vivid_arm.core.errors import InputError, within
from vivid_arm.core.words import Saying, say

Form = Literal["one_piece", "three_piece"]


FORMS: dict[Form, Saying] = {
    "one_piece": Saying("One piece"),
    "three_piece": Saying("Three piece, pressed ends"),
}


YOUNG_PSI = 29.7e6


"""Steel, 205 GPa: common handbooks give 200 to 210 GPa."""


DENSITY_LB_IN3 = 0.284


"""Steel, 7.85 g/cm³ (handbooks of mechanical engineering)."""


NEWTON_PER_LBF = 4.4482216152605


"""NIST SP 811, appendix B.8 (exact)."""


GRAM_PER_OUNCE = 28.349523125


"""NIST SP 811, appendix B.8 (exact)."""


DIAMETERS_IN: dict[str, float] = {"5/16": 5 / 16, "11/32": 11 / 32, "3/8": 3 / 8, "7/16": 7 / 16}


WALLS_IN: tuple[float, ...] = (0.080, 0.105, 0.120, 0.135, 0.168)


WANTED_CLEARANCE_IN = 0.030


"""Rod to head or guide: common practice."""


LEAST_SAFETY = 3.0


"""Euler load over static load: common practice, since inertia and bounce come on top."""


@dataclass(frozen=True)
class Tube:
    """A rod's body: outer diameter, wall and centre length (inches), form, hardened or not.

    Raises InputError for a wall that leaves no tube or figures no rod has.
    """

    diameter_in: float
    wall_in: float
    length_in: float
    form: Form = "one_piece"

    def __post_init__(self) -> None:
        usual = say("Usual diameters are 5/16, 11/32, 3/8 and 7/16")
        within("diameter_in", say("Rod diameter"), self.diameter_in, 0.2, 0.75, " in", remedy=usual)
        solid = say("The wall is one side; half the diameter makes a solid bar")
        within(
            "wall_in", say("Wall"), self.wall_in, 0.02, self.diameter_in / 2, " in", remedy=solid
        )
        within("length_in", say("Rod length"), self.length_in, 3, 16, " in")

    @property
    def bore_in(self) -> float:
        return self.diameter_in - 2 * self.wall_in

    @property
    def area_in2(self) -> float:
        """Cross-section pi (D² - d²)/4, square inches."""
        return pi * (self.diameter_in**2 - self.bore_in**2) / 4

    @property
    def inertia_in4(self) -> float:
        """Second moment of area pi (D⁴ - d⁴)/64 (Roark's Formulas, table of sections).

        >>> round(Tube(0.3125, 0.080, 7.4).inertia_in4, 7)
        0.0004416
        """
        return pi * (self.diameter_in**4 - self.bore_in**4) / 64

    @property
    def euler_lbf(self) -> float:
        """Critical load of a pinned column, pi² E I / L² (Euler; Roark's Formulas)."""
        return pi**2 * YOUNG_PSI * self.inertia_in4 / self.length_in**2

    @property
    def stiffness_lbf_in(self) -> float:
        """Axial stiffness E A / L."""
        return YOUNG_PSI * self.area_in2 / self.length_in

    @property
    def mass_oz(self) -> float:
        """Tube over the whole length; pressed ends add two whole balls of the rod's diameter."""
        volume = self.area_in2 * self.length_in
        if self.form == "three_piece":
            volume += 2 * pi * self.diameter_in**3 / 6
        return 16 * DENSITY_LB_IN3 * volume


@dataclass(frozen=True)
class Duty:
    """What a rod carries: open spring force (lbf) and rocker ratio.

    Raises InputError outside 20 to 2000 lbf.
    """

    spring_lbf: float
    ratio: float

    def __post_init__(self) -> None:
        force = say("It is the force at full lift, not the rate; 1 lbf is 4.448 N")
        within(
            "spring_lbf", say("Open spring force"), self.spring_lbf, 20, 2000, " lbf", remedy=force
        )

    @property
    def load_lbf(self) -> float:
        """Static load on the rod: spring force x ratio (the lever), lbf."""
        return self.spring_lbf * self.ratio


@dataclass(frozen=True)
class Strength:
    """A rod under its duty: load, Euler load and safety, shortening, valve lift it costs, mass."""

    tube: Tube
    load_lbf: float
    euler_lbf: float
    shortening_in: float
    lift_lost_in: float
    stress_psi: float
    mass_oz: float

    @property
    def safety(self) -> float:
        return self.euler_lbf / self.load_lbf

    @property
    def enough(self) -> bool:
        return self.safety >= LEAST_SAFETY


def strength(tube: Tube, duty: Duty) -> Strength:
    """Static figures of a rod; shortening F L / (E A), valve lift lost = ratio x shortening."""
    shortening = duty.load_lbf / tube.stiffness_lbf_in
    return Strength(
        tube,
        duty.load_lbf,
        tube.euler_lbf,
        shortening,
        shortening * duty.ratio,
        duty.load_lbf / tube.area_in2,
        tube.mass_oz,
    )


@dataclass(frozen=True)
class Room:
    """How large a rod clears the head: exactly, and the largest usual diameter (None if none)."""

    largest_in: float
    usual: str | None


def largest_diameter(
    trial_in: float, clearance_in: float, wanted_in: float = WANTED_CLEARANCE_IN
) -> Room:
    """The largest diameter that keeps ``wanted_in`` all round.

    ``clearance_in`` is the least gap seen beside a rod of ``trial_in`` over a whole
    turn: each thou of diameter takes half a thou of it. Raises InputError for less than none.

    >>> largest_diameter(0.3125, 0.065)
    Room(largest_in=0.3825, usual='3/8')
    """
    if clearance_in < 0 or wanted_in < 0:
        raise InputError(
            "clearance_in",
            say("A clearance cannot be negative"),
            received=clearance_in,
            expected="≥ 0",
        )
    largest = round(trial_in + 2 * (clearance_in - wanted_in), 6)
    fitting = [name for name, size in DIAMETERS_IN.items() if size <= largest + 1e-9]
    return Room(largest, max(fitting, key=DIAMETERS_IN.__getitem__) if fitting else None)
