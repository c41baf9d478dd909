"""The course: practice engines in order of difficulty, each with its goal and its limits.

Engines, names and dimensions are invented.

Source: the order in which the trade learns the job, common practice.
"""

from dataclasses import dataclass
from typing import Literal

from vivid_arm.core.engine.layout import Layout
from vivid_arm.core.errors import InputError
from vivid_arm.core.practice.faults import FaultKind
from vivid_arm.core.words import Saying, say
from vivid_arm.core.zero_lash.predict import Mount


@dataclass(frozen=True)
class Scenario:
    """One exercise. Inches; ``rods`` and ``credits`` are what may be bought with.

    ``faults`` are drawn from, ``holds`` of them; ``window`` is low, high and target of the preload;
    ``threads`` of the checking rod to the inch; ``scatter_in`` from valve to valve. ``papers``:
    the rods it ran with before are known; ``rods_in_it``: rods stand in it, and no checking rod
    lies beside it; ``stands_low_in``: its rockers' stands are too low by something within these;
    ``lash_in``: of intakes and exhausts, hot, as the card has it; ``torque_lbf_ft``: of the
    rockers' fasteners.
    """

    code: str
    title: Saying
    story: Saying
    goal: Saying
    layout: Layout
    cylinders: int
    mount: Mount
    ratio: float
    rod_in: float
    window: tuple[float, float, float]
    travel_in: float
    closed_in: float
    threads: int
    faults: tuple[FaultKind, ...] = ()
    holds: int = 0
    gaps: bool = True
    lifter: Literal["hydraulic", "solid"] = "hydraulic"
    lash_in: tuple[float, float] | None = None
    step_in: float = 0.025
    scatter_in: float = 0.0015
    kinds_apart_in: float = 0.04
    rods: int = 2
    credits: int = 400
    papers: bool = False
    rods_in_it: bool = False
    stands_low_in: tuple[float, float] | None = None
    torque_lbf_ft: int = 21


SCENARIOS: tuple[Scenario, ...] = (
    Scenario(
        "pump",
        Saying("The pump engine"),
        Saying("A single that drives a pump. Nothing is wrong with it."),
        Saying("Find zero lash of both valves with rod and feelers, and order the right pair."),
        "single",
        1,
        "shaft",
        1.5,
        6.92,
        (0.030, 0.070, 0.050),
        0.150,
        6.55,
        24,
        rods=1,
        credits=120,
    ),
    Scenario(
        "corners",
        Saying("Four corners"),
        Saying("A mild four with new rocker gear."),
        Saying("One length a kind for eight valves; the corners tell whether the head is square."),
        "inline",
        4,
        "shaft",
        1.55,
        7.31,
        (0.030, 0.070, 0.050),
        0.150,
        6.95,
        20,
        credits=300,
    ),
    Scenario(
        "feel",
        Saying("By feel alone"),
        Saying("The feelers are lent. A four on pedestals."),
        Saying("Find zero lash by loose, zero and tight."),
        "inline",
        4,
        "pedestal",
        1.6,
        6.48,
        (0.020, 0.060, 0.040),
        0.130,
        6.10,
        24,
        gaps=False,
        credits=300,
    ),
    Scenario(
        "turns",
        Saying("Do these rods fit?"),
        Saying("A four on pedestals that came with its rods in."),
        Saying("By the turns of the fasteners: keep the rods, or buy the size they should be."),
        "inline",
        4,
        "pedestal",
        1.5,
        7.05,
        (0.030, 0.070, 0.050),
        0.150,
        6.70,
        20,
        gaps=False,
        credits=200,
        rods_in_it=True,
    ),
    Scenario(
        "rim",
        Saying("Seated or not"),
        Saying("A four whose rods were dropped in in a hurry."),
        Saying("Doubt the reading that stands alone before you buy by it."),
        "inline",
        4,
        "shaft",
        1.5,
        8.02,
        (0.030, 0.070, 0.050),
        0.150,
        7.60,
        20,
        ("cup", "soft_plunger"),
        1,
    ),
    Scenario(
        "label",
        Saying("Trust the tool"),
        Saying("A borrowed checking rod, and old rods that were right."),
        Saying("All readings agree with each other. Are they right?"),
        "v",
        6,
        "pedestal",
        1.6,
        7.18,
        (0.025, 0.065, 0.045),
        0.140,
        6.80,
        20,
        ("rod_label", "thread"),
        1,
        papers=True,
    ),
    Scenario(
        "stem",
        Saying("One of sixteen"),
        Saying("A V8 after valve work."),
        Saying("One valve is not like the others: find it, and give it its own rod."),
        "v",
        8,
        "shaft",
        1.6,
        7.74,
        (0.020, 0.060, 0.040),
        0.140,
        7.30,
        24,
        ("tall_stem", "sunk_seat"),
        1,
        credits=600,
    ),
    Scenario(
        "milled",
        Saying("After the machinist"),
        Saying("A V8 whose heads went over the mill, not both alike."),
        Saying("Two banks, or one slope: say which, and buy by it."),
        "v",
        8,
        "shaft",
        1.7,
        8.36,
        (0.020, 0.060, 0.040),
        0.140,
        7.95,
        20,
        ("bank", "not_square"),
        1,
        credits=600,
    ),
    Scenario(
        "solid",
        Saying("Cold lash"),
        Saying("A solid six for the hill climbs. Its card gives the lash hot."),
        Saying(
            "Run it warm once, set up the lash it wants cold, and leave the "
            "adjusters in the middle."
        ),
        "inline",
        6,
        "shaft_adjustable",
        1.6,
        9.11,
        (0.020, 0.060, 0.040),
        0.140,
        8.70,
        24,
        lifter="solid",
        lash_in=(0.014, 0.016),
        credits=500,
        torque_lbf_ft=26,
    ),
    Scenario(
        "sweep",
        Saying("Another engine's rods"),
        Saying("A stud engine with rods from who knows where."),
        Saying("Paint the tips: find the rod that sets the rollers right, and buy it."),
        "inline",
        4,
        "stud",
        1.55,
        7.62,
        (0.030, 0.070, 0.050),
        0.150,
        7.30,
        20,
        rods=2,
        credits=300,
    ),
    Scenario(
        "shims",
        Saying("Stands too low"),
        Saying("A four whose new rockers came with stands for another head."),
        Saying(
            "Paint the tips, put shims under the stands until the rollers run true, then measure."
        ),
        "inline",
        4,
        "shaft",
        1.6,
        7.46,
        (0.030, 0.070, 0.050),
        0.150,
        7.10,
        24,
        credits=300,
        stands_low_in=(0.085, 0.115),
    ),
    Scenario(
        "gauge",
        Saying("The other ruler"),
        Saying("A flat four, and a supplier you have not bought from before."),
        Saying("What comes must be what you meant: measure before you fit."),
        "flat",
        4,
        "pedestal",
        1.45,
        10.42,
        (0.030, 0.070, 0.050),
        0.150,
        10.05,
        20,
        ("gauge_rods", "bent_rod"),
        1,
        rods=3,
        credits=400,
    ),
    Scenario(
        "card",
        Saying("The wrong cam"),
        Saying("A six sold with a card that may be another's."),
        Saying("See that every lifter is down before you believe a reading."),
        "inline",
        6,
        "pedestal",
        1.6,
        8.66,
        (0.025, 0.065, 0.045),
        0.140,
        8.25,
        24,
        ("card", "lobes_swapped"),
        1,
        credits=500,
    ),
    Scenario(
        "vague",
        Saying("Nothing feels right"),
        Saying("A V6 put together by someone else."),
        Saying("Find out why before you measure it all."),
        "v",
        6,
        "shaft",
        1.55,
        7.52,
        (0.025, 0.065, 0.045),
        0.140,
        7.15,
        20,
        ("springs", "loose_shaft"),
        1,
        credits=500,
    ),
    Scenario(
        "comeback",
        Saying("The comeback"),
        Saying("A finished V8 that ticks. Three things are wrong."),
        Saying("Find all three, and send it out quiet."),
        "v",
        8,
        "shaft",
        1.6,
        7.93,
        (0.020, 0.060, 0.040),
        0.140,
        7.50,
        24,
        ("cup", "soft_plunger", "rod_label", "tall_stem", "bank", "loose_shaft", "gauge_rods"),
        3,
        rods=3,
        credits=700,
        papers=True,
        torque_lbf_ft=24,
    ),
)
MOST_SEED = 2**53 - 1
"""As far as a browser counts without loss."""


def scenario_of(code: str) -> Scenario:
    """A scenario by its code. Raises InputError for one there is not."""
    found = next((s for s in SCENARIOS if s.code == code), None)
    if found is None:
        raise InputError(
            "scenario",
            say("There is no exercise “{code}”", code=code[:20]),
            expected=", ".join(s.code for s in SCENARIOS),
            code="no_scenario",
        )
    return found


def check_seed(seed: int) -> int:
    """A seed from 0 to 2^53 - 1, else raises InputError."""
    if not 0 <= seed <= MOST_SEED:
        raise InputError(
            "seed", say("The seed of an exercise is a whole number from 0 to 9007199254740991"),
            expected=say("0 to 9007199254740991"), code="out_of_range",
        )  # fmt: skip
    return seed
