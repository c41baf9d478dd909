"""Simulation: mistakes injected into realistic builds, and what the catcher says of them.

Invented but realistic engines: valves scatter by 0.002 to 0.0035, some heads
are not square, some banks differ, a reading scatters by 0.0012, half of the
builds have a prediction good to 0.008. One fault goes into one valve. Each build has its
mount, lifter, instrument and way of reading; a fault happens only where it can, and as often as
the trade says give or take half (``HOW_OFTEN``, beside faults all alike). Where the lifter was
not said and would tell, it is asked, and answered in four of five. Seeded.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from vivid_arm.core.engine.layout import ValveKind, usual_engine
from vivid_arm.core.heads.mistakes import Cause, Circumstances, LifterState, Suspicion, catch
from vivid_arm.core.heads.spread import PlacedValve, placed
from vivid_arm.core.zero_lash.predict import Mount

U_READING_IN = 0.0012
TRAVEL_IN = 0.140
PITCH_IN = 0.050
GAPS_IN = {"measured and theoretical overall": 0.0164, "gauge length and theoretical": 0.0331}
CLEAR_IN = 0.015
HOW_OFTEN: dict[Cause, float] = {
    "off_heel": 0.22, "cup": 0.05, "stand": 0.12, "plunger": 0.18, "lifter_up": 0.06,
    "convention": 0.12, "turns": 0.12, "swapped": 0.08,
}  # fmt: skip
"""Shares of slips that outlive the trials of a valve, where they can happen: common practice."""
BY_LIFTER: dict[LifterState, dict[Cause, float]] = {
    "solid": {}, "bled": {"plunger": 1.3, "lifter_up": 0.4},
    "pumped": {"plunger": 0.4, "lifter_up": 4.0},
}  # fmt: skip
"""A lifter pumped full stands high and is not pushed down; one bled down is: common practice."""


@dataclass(frozen=True)
class Bench:
    """A measured engine: what was read on each valve, and the prediction if there is one."""

    valves: tuple[PlacedValve, ...]
    predicted: dict[ValveKind, tuple[float, float]]
    apart_in: float
    now: Circumstances
    at_a_stop: int
    lifter: LifterState

    def stop_of(self, at: int) -> range:
        """The valves read at a valve's stop; none but itself without a plan of stops."""
        first = at - at % self.at_a_stop
        return range(first, min(first + self.at_a_stop, len(self.valves)))

    def told(self, lifter: LifterState | None = None) -> dict[str, Circumstances]:
        """What is known of how each valve was read; ``lifter`` as answered when it was asked."""
        names = [v.name for v in self.valves]
        return {
            name: replace(
                self.now,
                lifter=self.now.lifter or lifter,
                beside=(*names[max(i - 1, 0) : i], *names[i + 1 : i + 2]),
                stop=tuple(names[k] for k in self.stop_of(i) if k != i),
            )
            for i, name in enumerate(names)
        }

    def can_have(self, cause: Cause) -> bool:
        """Whether a slip can happen, and stay unseen, as this engine is measured."""
        now = self.now
        return {
            "stand": now.mount != "stud",
            "plunger": self.lifter != "solid" and not now.gap_and_feel,
            "lifter_up": self.lifter != "solid",
            "turns": now.one_rod and not now.counted_back,
            "convention": not now.one_rod,
            "swapped": abs(self.apart_in) > CLEAR_IN,
        }.get(cause, True)

    def likelier(self, cause: Cause) -> float:
        """How much likelier a slip is with this engine's lifter, up to 4."""
        return BY_LIFTER[self.lifter].get(cause, 1.0)


SAID_AT_ONCE, ANSWERED = 0.4, 0.8
"""How often the lifter stands in the set-up, and how often it is still known when asked."""


def make_circumstances(rng: np.random.Generator, lifter: LifterState) -> Circumstances:
    """How an engine is measured."""
    typed = bool(rng.random() < 0.4)
    mounts: list[Mount] = ["stud", "pedestal", "shaft", "stands"]
    return Circumstances(
        TRAVEL_IN,
        None if typed else PITCH_IN,
        GAPS_IN,
        mount=mounts[rng.choice(4, p=[0.4, 0.2, 0.25, 0.15])],
        lifter=lifter if rng.random() < SAID_AT_ONCE else None,
        settings=int(rng.integers(2, 6)),
        gap_and_feel=bool(rng.random() < 0.4),
        counted_back=not typed and bool(rng.random() < 0.3),
        one_rod=not typed,
    )


def make_bench(rng: np.random.Generator, *, corners: bool) -> Bench:
    """A sound engine measured without a mistake."""
    engine = usual_engine("v", 8) if rng.random() < 0.6 else usual_engine("inline", 6)
    apart = rng.uniform(0.015, 0.060) * rng.choice([-1, 1]) if rng.random() < 0.7 else 0.0
    base: dict[ValveKind, float] = {"intake": rng.uniform(7.1, 8.9)}
    base["exhaust"] = base["intake"] + apart
    scatter = rng.uniform(0.002, 0.0035)
    slopes = {h.bank: rng.normal(0, 0.008) if rng.random() < 0.2 else 0.0 for h in engine.heads}
    offsets = {h.bank: rng.normal(0, 0.006) if rng.random() < 0.2 else 0.0 for h in engine.heads}
    measured = []
    for head in engine.heads:
        chosen = {head.cylinders[0], head.cylinders[-1]} if corners else set(head.cylinders)
        for cylinder, kind in head.valves:
            if cylinder not in chosen:
                continue
            truth = base[kind] + offsets[head.bank]
            truth += slopes[head.bank] * (head.place(cylinder) - 0.5) + rng.normal(0, scatter)
            read = truth + rng.normal(0, U_READING_IN)
            measured.append((cylinder, kind, read, U_READING_IN))
    predicted: dict[ValveKind, tuple[float, float]] = {}
    if rng.random() < 0.5:
        off = rng.normal(0, 0.008)
        predicted = {k: (b + off, 0.008) for k, b in base.items()}
    stops = int(rng.choice([1, 2, 3, 4], p=[0.5, 0.2, 0.15, 0.15]))
    lifters: list[LifterState] = ["solid", "bled", "pumped"]
    lifter = lifters[rng.choice(3, p=[0.35, 0.5, 0.15])]
    now = make_circumstances(rng, lifter)
    return Bench(placed(engine, measured), predicted, apart, now, stops, lifter)


BESIDE_TOO = 0.5
"""How often a stop that is not the heel has another valve read there off its heel as well."""

Fault = Callable[[Bench, int, np.random.Generator], dict[int, float]]


def _by(low: float, high: float) -> Fault:
    return lambda bench, at, rng: {at: rng.uniform(low, high)}


def _wrong_stop(bench: Bench, at: int, rng: np.random.Generator) -> dict[int, float]:
    mates = [i for i in bench.stop_of(at) if i != at] or [(at + 1) % len(bench.valves)]
    up = [at, *(i for i in mates if rng.random() < BESIDE_TOO)]
    return {i: rng.uniform(-0.150, -0.008) for i in up}


def _one_of(*amounts: float) -> Fault:
    return lambda bench, at, rng: {at: float(rng.choice(amounts))}


def _swap(bench: Bench, at: int, rng: np.random.Generator) -> dict[int, float]:
    valve = bench.valves[at]
    partner = next(
        i for i, v in enumerate(bench.valves) if v.cylinder == valve.cylinder and i != at
    )
    apart = bench.valves[partner].zero_lash_in - valve.zero_lash_in
    return {at: apart, partner: -apart}


FAULTS: dict[Cause, Fault] = {
    "off_heel": _wrong_stop,
    "cup": _by(-0.060, -0.008),
    "stand": _by(0.008, 0.050),
    "plunger": _by(0.010, TRAVEL_IN),
    "lifter_up": _by(-0.050, -0.008),
    "convention": _one_of(*GAPS_IN.values(), *(-g for g in GAPS_IN.values())),
    "turns": _one_of(PITCH_IN, -PITCH_IN),
    "swapped": _swap,
}


def _with_fault(bench: Bench, shifts: dict[int, float]) -> Bench:
    valves = [
        replace(v, zero_lash_in=v.zero_lash_in + shifts.get(i, 0.0))
        for i, v in enumerate(bench.valves)
    ]
    return replace(bench, valves=tuple(valves))


@dataclass(frozen=True)
class Seen:
    """One faulty build: size of the fault, whether its valve was named, place of its cause."""

    size_in: float
    caught: bool
    place: int | None


def one_fault(cause: Cause, seed: int, *, corners: bool) -> Seen:
    rng = np.random.default_rng(seed)
    bench = make_bench(rng, corners=corners)
    while not (bench.can_have(cause) and rng.random() < bench.likelier(cause) / 4):
        bench = make_bench(rng, corners=corners)
    return _seen(bench, cause, rng)


def _seen(bench: Bench, cause: Cause, rng: np.random.Generator) -> Seen:
    at = int(rng.integers(len(bench.valves)))
    shifts = FAULTS[cause](bench, at, rng)
    faulty = _with_fault(bench, shifts)
    said = catch(faulty.valves, faulty.told(), faulty.predicted)
    mine = next((s for s in said if s.name == bench.valves[at].name), None)
    if mine is not None and mine.lifter_tells and rng.random() < ANSWERED:
        said = catch(faulty.valves, faulty.told(bench.lifter), faulty.predicted)
        mine = next((s for s in said if s.name == mine.name), None)
    return Seen(abs(shifts[at]), mine is not None, _place(cause, mine))


def _place(cause: Cause, suspicion: Suspicion | None) -> int | None:
    causes = [c.cause for c in suspicion.causes] if suspicion else []
    return causes.index(cause) + 1 if cause in causes else None


def false_alarms(builds: int, seed: int, *, corners: bool) -> float:
    """Share of sound builds in which any valve is doubted."""
    alarmed = 0
    for k in range(builds):
        bench = make_bench(np.random.default_rng(seed + k), corners=corners)
        alarmed += bool(catch(bench.valves, bench.told(), bench.predicted))
    return alarmed / builds


def as_often(builds: int, seed: int, *, corners: bool) -> list[Seen]:
    """Faults as often as they happen, their shares scattered by half from build to build."""
    seen = []
    for k in range(builds):
        rng = np.random.default_rng(seed + k)
        likely = {c: w * float(rng.lognormal(0, 0.5)) for c, w in HOW_OFTEN.items()}
        bench = make_bench(rng, corners=corners)
        here = [c for c in FAULTS if bench.can_have(c)]
        p = np.array([likely[c] * bench.likelier(c) for c in here])
        cause = here[int(rng.choice(len(here), p=p / p.sum()))]
        seen.append(_seen(bench, cause, rng))
    return seen


def _share(flags: Sequence[bool]) -> str:
    return f"{np.mean(flags):.1%}" if flags else "-"


def table(builds: int = 600, seed: int = 20261125) -> list[list[str]]:
    """Rows: fault, caught (all, above 0.015), cause first, first or second, listed."""
    rows = []
    for corners in (False, True):
        where = "four corners" if corners else "all valves"
        every: list[Seen] = []
        for n, cause in enumerate(FAULTS):
            seen = [
                one_fault(cause, seed + 100_000 * n + k, corners=corners) for k in range(builds)
            ]
            every += seen
            rows.append(_row(f"{where}: {cause}", seen))
        rows.append(_row(f"{where}: every fault alike", every))
        often = as_often(4 * builds, seed, corners=corners)
        rows.append(_row(f"{where}: as often as they happen", often))
        share = false_alarms(4 * builds, seed, corners=corners)
        rows.append([f"{where}: sound builds doubted", f"{share:.1%}", "", "", "", ""])
    return rows


def _row(name: str, seen: Sequence[Seen]) -> list[str]:
    clear = [s for s in seen if s.size_in > CLEAR_IN]
    caught = [s for s in seen if s.caught]
    return [
        name,
        _share([s.caught for s in seen]),
        _share([s.caught for s in clear]),
        _share([s.place == 1 for s in caught]),
        _share([s.place in (1, 2) for s in caught]),
        _share([s.place is not None for s in caught]),
    ]
