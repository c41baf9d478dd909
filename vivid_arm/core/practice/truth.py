"""The truth of a practice engine, drawn from a scenario and a seed: the same on every machine.

Source: sizes and scatter as engines come, common practice put in figures by us.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from math import radians
from random import Random

from vivid_arm.core.engine.layout import (
    KINDS,
    Engine,
    ValveKind,
    usual_engine,
    valve_name,
    valves_of,
)
from vivid_arm.core.entry.conventions import USUAL_BALL_IN, RodEnd, RodEnds
from vivid_arm.core.practice.faults import Fault, FaultKind
from vivid_arm.core.practice.scenarios import Scenario, check_seed, scenario_of
from vivid_arm.core.practice.train import Train, TrueLobe

ENDS = RodEnds(RodEnd("ball", USUAL_BALL_IN), RodEnd("ball", USUAL_BALL_IN))
TIP_IN = 0.3415
_RODS_OFF_IN = (0.0, 0.0, 0.0, -0.050, 0.050)
_FITTINGS = 6
_FULCRUM_SCATTER = 0.25
"""Of a valve's scatter, what comes from its fulcrum's place across."""


@dataclass(frozen=True)
class ValveTruth:
    """One valve as it is: its train, its lobe; ``proud_in``: how far its tip stands over others."""

    cylinder: int
    kind: ValveKind
    bank: str
    place: float
    train: Train
    lobe: TrueLobe
    proud_in: float = 0.0

    @property
    def name(self) -> str:
        """Its short name."""
        return valve_name(self.cylinder, self.kind)

    @property
    def zero_lash_in(self) -> float:
        """The rod without lash on the heel, overall length, inches."""
        return self.train.zero_lash() + ENDS.added_in("theoretical")


@dataclass(frozen=True)
class Truth:
    """Everything about an engine that its builder has to find out, and nobody may tell him."""

    scenario: Scenario
    seed: int
    engine: Engine
    valves: Mapping[str, ValveTruth]
    faults: tuple[Fault, ...]
    closed_in: float
    pitch_in: float
    grows_in: Mapping[ValveKind, float]
    duration_deg: float
    lobe_lift_in: float
    icl_deg: float
    lsa_deg: float = 110.0

    def fault(self, kind: FaultKind, where: str | None = None) -> Fault | None:
        """A fault of a kind, at a place where one is named; None without it."""
        return next(
            (f for f in self.faults if f.kind == kind and where in (None, f.where)), None
        )  # fmt: skip

    def rng(self, count: int) -> Random:
        """Chance for the hands' next deed: the same for the same deed of the same engine."""
        return Random(f"{self.scenario.code}/{self.seed}/{count}")

    def card(self) -> dict[str, float]:
        """What the cam card says, true or not: degrees and inches."""
        lobe = TrueLobe(0.0, self.duration_deg, self.lobe_lift_in)
        return {
            "advertised_deg": round(lobe.duration_deg(0.006)),
            "advertised_at_in": 0.006,
            "duration_050_deg": round(lobe.duration_deg(0.050)),
            "lobe_lift_in": self.lobe_lift_in,
        }


@lru_cache(maxsize=256)
def truth_of(code: str, seed: int) -> Truth:
    """The engine of a scenario and a seed. Raises InputError for either that cannot be."""
    made, rng = _sound(code, seed)
    for kind in rng.sample(made.scenario.faults, made.scenario.holds):
        made = _with_fault(made, kind, rng)
    return made


def sound_engine(code: str, seed: int) -> Truth:
    """The same engine before anything was wrong with it. Raises InputError."""
    return _sound(code, seed)[0]


def lash_grows_in(truth: Truth) -> dict[ValveKind, float]:
    """How much wider the lash of a solid engine is hot than cold, by kind, inches."""
    rng = Random(f"{truth.scenario.code}:{truth.seed}:heat")
    return {"intake": rng.uniform(0.003, 0.008), "exhaust": rng.uniform(0.004, 0.010)}


def rods_in(truth: Truth) -> dict[str, float]:
    """The rods that stand in an engine that came with some, by valve: overall, inches."""
    if not truth.scenario.rods_in_it:
        return {}
    rng = Random(f"{truth.scenario.code}:{truth.seed}:rods")
    off = {kind: rng.choice(_RODS_OFF_IN) for kind in KINDS}
    papers = papers_of(truth)
    return {n: papers[v.kind] + off[v.kind] for n, v in truth.valves.items()}


def papers_of(truth: Truth) -> dict[ValveKind, float]:
    """The rods an engine ran with before, by kind, to the supplier's step: overall, inches."""
    step = truth.scenario.step_in
    sound = sound_engine(truth.scenario.code, truth.seed)
    found: dict[ValveKind, float] = {}
    for kind in KINDS:
        own = sorted(v.zero_lash_in for v in sound.valves.values() if v.kind == kind)
        found[kind] = round((own[len(own) // 2] + truth.scenario.window[2]) / step) * step
    return found


def _sound(code: str, seed: int) -> tuple[Truth, Random]:
    scenario, rng = scenario_of(code), Random(f"{code}:{check_seed(seed)}")
    engine = usual_engine(scenario.layout, scenario.cylinders)
    where = {c: (h.bank, h.place(c)) for h in engine.heads for c in h.cylinders}
    duration, lift = rng.uniform(255, 290), round(rng.uniform(0.300, 0.360), 3)
    icl = round(rng.uniform(104, 110))
    base = _usual_train(scenario, lift, rng)
    if scenario.stands_low_in is not None:
        base = base.lowered(Random(f"{code}:{seed}:stands").uniform(*scenario.stands_low_in))
    off = 0.06 if scenario.mount != "stud" else 0.22
    level = scenario.rod_in + rng.uniform(-off, off)
    apart = rng.choice((-1, 1)) * scenario.kinds_apart_in * rng.uniform(0.6, 1.2)
    valves = {}
    for cylinder, kind in valves_of(scenario.layout, scenario.cylinders):
        wanted = level + (apart if kind == "exhaust" else 0.0)
        wanted += rng.gauss(0, scenario.scatter_in) - ENDS.added_in("theoretical")
        shifted = replace(
            base,
            fulcrum_x=base.fulcrum_x + rng.gauss(0, _FULCRUM_SCATTER * scenario.scatter_in),
            offset=rng.uniform(0.0, 0.25),
        )
        centre = icl if kind == "intake" else icl - 2 * 110.0
        bank, place = where[cylinder]
        valves[valve_name(cylinder, kind)] = ValveTruth(
            cylinder, kind, bank, place, shifted.for_rod(wanted), TrueLobe(centre, duration, lift)
        )
    grows: dict[ValveKind, float] = {
        "intake": rng.uniform(-0.012, -0.002), "exhaust": rng.uniform(-0.010, -0.001),
    }  # fmt: skip
    return Truth(
        scenario, seed, engine, valves, (), scenario.closed_in, 1 / scenario.threads, grows,
        duration, lift, icl,
    ), rng  # fmt: skip


def _usual_train(scenario: Scenario, lobe_in: float, rng: Random) -> Train:
    """A train that opens the valve by the scenario's ratio; its lifter's seat is set later.

    The arm stands square to the stem near half lift, so that near closed it gives more.
    """
    arm, radius = rng.uniform(1.42, 1.58), rng.uniform(0.24, 0.29)
    rise = lobe_in * scenario.ratio * rng.uniform(0.42, 0.58)
    across = (arm * arm - rise * rise) ** 0.5
    made = Train(
        arm, arm / scenario.ratio, radians(rng.uniform(15, 23)), radius,
        rng.uniform(-0.01, 0.01) - (across + arm) / 2, radius - rise,
        -across - arm / scenario.ratio * rng.uniform(0.90, 0.96), -6.0,
        radians(rng.uniform(-2, 3)),
    )  # fmt: skip
    rod = scenario.rod_in - ENDS.added_in("theoretical")
    for _ in range(_FITTINGS):
        made = made.for_rod(rod)
        gives = -made.gap(rod, lobe_in) / lobe_in
        made = replace(made, cup=made.cup * gives / scenario.ratio)
    return made


def _with_fault(truth: Truth, kind: FaultKind, rng: Random) -> Truth:
    """The same engine with one fault more, its effect on trains, lobes and tools worked in."""
    names, banks = list(truth.valves), sorted({v.bank for v in truth.valves.values()})
    taken = {f.where for f in truth.faults}
    valve = rng.choice([n for n in names if n not in taken])
    bank = rng.choice(banks)
    where = valve if kind in _AT_A_VALVE else bank if kind in _AT_A_BANK else ""
    size = rng.uniform(*_SIZES[kind])
    fault = Fault(kind, where, round(size, 4))
    valves = dict(truth.valves)
    closed, pitch = truth.closed_in, truth.pitch_in
    if kind in ("tall_stem", "sunk_seat"):
        valves[where] = _moved(valves[where], tip=size)
    elif kind == "bank":
        valves |= {n: _moved(v, head=-size) for n, v in valves.items() if v.bank == where}
    elif kind == "not_square":
        valves |= {n: _moved(v, head=size * v.place) for n, v in valves.items() if v.bank == where}
    elif kind == "card":
        longer = truth.duration_deg + 60 * size / 0.05
        valves = {n: replace(v, lobe=replace(v.lobe, whole_deg=longer)) for n, v in valves.items()}
    elif kind == "lobes_swapped":
        cylinder = truth.valves[where].cylinder
        one, other = (valve_name(cylinder, k) for k in KINDS)
        valves[one] = replace(valves[one], lobe=truth.valves[other].lobe)
        valves[other] = replace(valves[other], lobe=truth.valves[one].lobe)
    elif kind == "rod_label":
        closed += size * rng.choice((-1, 1))
    elif kind == "thread":
        pitch = 1 / (24 if truth.scenario.threads == 20 else 20)
    return replace(
        truth, valves=valves, faults=(*truth.faults, fault), closed_in=closed, pitch_in=pitch
    )


def _moved(valve: ValveTruth, head: float = 0.0, tip: float = 0.0) -> ValveTruth:
    """A valve whose head stands higher by so much, or whose stem does."""
    train = valve.train
    return replace(
        valve,
        train=replace(train, fulcrum_y=train.fulcrum_y + head, tip_y=train.tip_y + head + tip),
        proud_in=valve.proud_in + tip,
    )


_AT_A_VALVE = ("cup", "soft_plunger", "tall_stem", "sunk_seat", "lobes_swapped", "bent_rod")
_AT_A_BANK = ("bank", "not_square", "loose_shaft")
_SIZES: dict[FaultKind, tuple[float, float]] = {
    "cup": (0.025, 0.055),
    "soft_plunger": (0.012, 0.020),
    "rod_label": (0.040, 0.070),
    "thread": (0.0, 0.0),
    "tall_stem": (0.040, 0.065),
    "sunk_seat": (0.035, 0.055),
    "not_square": (0.020, 0.035),
    "bank": (0.025, 0.045),
    "loose_shaft": (0.018, 0.035),
    "gauge_rods": (0.030, 0.030),
    "bent_rod": (0.020, 0.030),
    "lobes_swapped": (0.0, 0.0),
    "springs": (0.008, 0.015),
    "card": (0.030, 0.050),
}
