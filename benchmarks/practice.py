"""Robots on practice engines: what following the stations' advice is worth, word for word.

Three builders do the whole job on the same engines, with what their hands get from the bench:

- *advice* does what stations, cautions and suspicions say, and nothing else;
- *hand* works as the best of the trade do without the program: the corners, halving by feel, the
  middle of them and the preload, the next stock length;
- *careless* follows the advice, and slips in one reading of twenty: a turn miscounted, loose and
  tight typed the wrong way round.

States are the program's own (``BuildState``), on rows that were never in a database.
"""

import argparse
import multiprocessing
from collections import defaultdict
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from decimal import Decimal
from random import Random
from typing import Any
from uuid import UUID, uuid5

from vivid_arm.core.engine.base_circle import chosen_valves, plan
from vivid_arm.core.engine.layout import valve_name
from vivid_arm.core.practice.deeds import do
from vivid_arm.core.practice.scenarios import SCENARIOS
from vivid_arm.core.practice.score import Effort, Ending, run
from vivid_arm.core.practice.tools import Bench, Felt, Got, with_rods
from vivid_arm.core.practice.truth import ENDS, Truth, rods_in, truth_of
from vivid_arm.core.rocker.correction import rods_longer_in
from vivid_arm.records.rows.line import COLUMNS, KeptLine
from vivid_arm.records.settings import BuildSettings
from vivid_arm.records.shapes import RodPlanFigures, SeenFigures
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.log import ValveLog
from vivid_arm.records.state.setup import cam_of
from vivid_arm.records.tables import Build, Instrument, Reading, Valve
from vivid_arm.records.writes.practice import lash_of, settings_of
from vivid_arm.records.writes.setup import columns_of

MOST_TRIALS, MOST_TRIES = 14, 7
REACH_IN = ENDS.added_in("theoretical")
ROUNDS = 3
SLIP = 0.05
FEELS: dict[Felt, str] = {
    "rattles": "loose", "swings": "loose", "drags": "zero", "springs": "tight", "solid": "tight",
}  # fmt: skip
_NS = UUID("5b0c4a0e-8a0e-4b1e-9a57-1d6f0a7f6c11")


def _kept(row: Reading) -> KeptLine:
    """A line as the log would give it back."""
    return KeptLine(row.instrument, *(getattr(row, name) for name in COLUMNS))


@dataclass
class Played:
    """One engine played: how it ended, and how often the hands slipped and were told so."""

    ending: Ending
    trials: int
    marks: int
    valves: int
    stops: int
    rods: int
    slips: int = 0
    told: int = 0
    false_alarms: int = 0
    named: set[str] = field(default_factory=set)


class Workshop:
    """An engine on the bench, its build as the program has it, and a builder's hands."""

    def __init__(self, truth: Truth, careless: bool = False) -> None:
        self.truth, self.bench = truth, Bench()
        self.rng = Random(f"{truth.scenario.code}/{truth.seed}/hands")
        self.careless = careless
        self.named: set[str] = set()
        self.told: dict[str, int] = {}
        self.slips: list[str] = []
        self.alarms: set[str] = set()
        self.trials = self.marks = self.stops = 0
        self.rows: dict[UUID, list[Reading]] = defaultdict(list)
        self.count = 0
        self.build = self._papers()
        self.valves = {valve_name(v.cylinder, v.kind): v for v in self.build.valves}  # type: ignore[arg-type]

    def _papers(self) -> Build:
        scenario = self.truth.scenario
        rod = Instrument(
            id=uuid5(_NS, "rod"), version=1, kind="checking_rod", name="Practice rod",
            convention="theoretical", closed_in=Decimal(str(scenario.closed_in)),
            pitch_in=Decimal(str(round(1 / scenario.threads, 6))), most_turns=Decimal(20),
            accuracy_in=Decimal("0.001"), resolution_in=None,
        )  # fmt: skip
        given = settings_of(self.truth) | {"instrument_id": rod.id}
        build = Build(
            id=uuid5(_NS, "build"), version=1, log_count=0,
            **columns_of(Build, BuildSettings, given),
        )  # fmt: skip
        build.instrument = rod
        first = {v.kind: name for name, v in reversed(list(self.truth.valves.items()))}
        build.valves = [
            Valve(id=uuid5(_NS, name), version=1, cylinder=v.cylinder, kind=v.kind,
                  expected_in=Decimal(str(scenario.rod_in)) if first[v.kind] == name else None)
            for name, v in self.truth.valves.items()
        ]  # fmt: skip
        return build

    @property
    def state(self) -> BuildState:
        logs = {
            v.id: ValveLog(self.build, v, [*map(_kept, self.rows[v.id])]) for v in self.build.valves
        }
        return BuildState(self.build, logs)

    def do(self, name: str, **how: Any) -> Got:
        self.bench, got = do(self.truth, self.bench, name, **how)
        for kind in got.telling:
            self.told.setdefault(kind, self.bench.count)
        if name not in ("feel", "straight_edge"):  # what only the engine knows is not seen there
            self.named |= set(got.telling)
        return got

    def note(self, valve: str, turns: float, feel: str, gap_in: float | None) -> None:
        """Type a reading at the station."""
        self.count += 1
        self.trials += 1
        own = self.valves[valve]
        rod = self.build.instrument
        assert rod is not None
        length = float(rod.closed_in or 0) + turns * float(rod.pitch_in or 0)
        self.rows[own.id].append(
            Reading(
                id=self.count, key=uuid5(_NS, str(self.count)), valve_id=own.id, kind="trial",
                number=1 + sum(r.number is not None for r in self.rows[own.id]),
                instrument_id=rod.id, instrument=rod, raw=str(turns), raw_gap="", raw_rod="",
                turns=Decimal(str(turns)), length_in=Decimal(str(round(length, 6))), feel=feel,
                gap_in=None if gap_in is None else Decimal(str(round(gap_in, 4))),
                crank_deg=Decimal(str(round(self.bench.crank_deg, 3))), repeats=None,
                replaces_id=None, seen=None,
            )
        )  # fmt: skip

    def note_turns(self, valve: str, turns: float) -> None:
        """Type the turns of a rocker's fastener, from drag to seat, at the station."""
        self.count += 1
        self.trials += 1
        own = self.valves[valve]
        self.rows[own.id].append(
            Reading(
                id=self.count, key=uuid5(_NS, str(self.count)), valve_id=own.id, kind="turns",
                number=1, raw=str(turns), raw_gap="", raw_rod="", turns=Decimal(str(turns)),
                length_in=None, feel=None, gap_in=None, rod_in=None, repeats=None,
                replaces_id=None, pitch_in=self.build.fastener_pitch_in,
            )
        )  # fmt: skip

    def read_mark(self, valve: str, setting_in: float, angle: bool) -> None:
        """A try at a rod's centre length, or on shims: the mark's edges, or the arm's angle."""
        on_stud = self.truth.scenario.mount == "stud"
        length, shims = None, None
        if on_stud:
            length = self._open_rod_to(setting_in + REACH_IN)
        else:
            shims = min(max(round(setting_in * 200) / 200, 0.0), 0.15)
            if shims != self.bench.shims_in:
                self.do("shim", thick_in=shims)
            self.do("fit", valve=valve)
        if angle:
            seen = SeenFigures(angle_deg=self.do("angle").read_deg)
        else:
            self.do("mark")
            edges = self.bench.mark or (0.0, 0.0)
            low, high = (round(x + self.rng.gauss(0, 0.003), 3) for x in edges)
            seen = SeenFigures(inboard_in=low, outboard_in=high)
        self.count += 1
        self.marks += 1
        own = self.valves[valve]
        self.rows[own.id].append(
            Reading(
                id=self.count, key=uuid5(_NS, str(self.count)), valve_id=own.id, kind="mark",
                number=1 + sum(r.number is not None for r in self.rows[own.id]), raw="",
                raw_gap="", raw_rod="", turns=None, length_in=None, feel=None, gap_in=None,
                rod_in=None if length is None else Decimal(str(round(length, 6))),
                rod_convention="theoretical" if on_stud else None, seen=seen, repeats=None,
                replaces_id=None, shim_in=None if shims is None else Decimal(str(shims)),
            )
        )  # fmt: skip

    def _open_rod_to(self, wanted_in: float) -> float:
        """The checking rod as near a length as its eighths of a turn come; what its label says."""
        rod = self.build.instrument
        assert rod is not None
        closed, pitch = float(rod.closed_in or 0), float(rod.pitch_in or 1)
        turns = min(max(round((wanted_in - closed) / pitch * 8) / 8, 0.0), 20.0)
        self.bench = replace(self.bench, turned=turns)
        return closed + turns * pitch

    def strike_all(self, valve: str) -> None:
        """Strike a valve's readings out, to measure it anew."""
        own = self.valves[valve]
        struck = {r.replaces_id for r in self.rows[own.id]}
        for row in [r for r in self.rows[own.id] if r.kind == "trial" and r.id not in struck]:
            self.count += 1
            self.rows[own.id].append(
                Reading(id=self.count, key=uuid5(_NS, str(self.count)), valve_id=own.id,
                        kind="void", replaces_id=row.id, raw="", raw_gap="", raw_rod="",
                        reason="Misread", number=None, turns=None, length_in=None, repeats=None)
            )  # fmt: skip

    def gap(self) -> float | None:
        """The feelers that drag, halved down to; None where none goes in, or all of them do."""
        low, high = 0.001, 0.300
        if self.do("feeler", blade_in=low).blade == "will not go":
            return None
        if self.do("feeler", blade_in=high).blade == "free":
            return None  # more stands open than the set can fill
        while high - low > 0.0011:
            middle = round((low + high) / 2, 3)
            said = self.do("feeler", blade_in=middle).blade
            if said == "drags":
                return middle
            low, high = (middle, high) if said == "free" else (low, middle)
        return low

    def next_turns(self, valve: str) -> float | None:
        """The setting the station asks for; without anything to go by, short of the old rod's."""
        own = next(v for v in self.state.valves if v.name == valve)
        if own.next_turns is not None:
            return round(own.next_turns * 8) / 8
        rod = self.build.instrument
        if own.trials or rod is None:
            return None
        about = (self.truth.scenario.rod_in - float(rod.closed_in or 0)) / float(rod.pitch_in or 1)
        return max(round(about) - 2.0, 0.0)

    def measure(self, valve: str, sound: bool = False) -> None:
        """A valve as its station leads: set the rod, feel, read the gap, until it is done."""
        self.do("fit", valve=valve)
        off = 0.0
        for _ in range(MOST_TRIALS):
            turns = self.next_turns(valve)
            if turns is None:
                return
            slip = not sound and self.careless and self.rng.random() < SLIP
            kind = self.rng.choice(("turns", "feel")) if slip else ""
            if kind == "turns":
                off += self.rng.choice((-1.0, 1.0))
            self.bench = replace(self.bench, turned=min(max(turns + off, 0.0), 20.0))
            felt = self.do("feel").felt
            feel = FEELS[felt or "solid"]
            if kind == "feel" and feel == "zero":
                slip, kind = False, ""  # between a drag and tight lies nothing to slip on
            if kind == "feel":
                feel = {"loose": "tight", "tight": "loose"}[feel]
            if slip:
                self.slips.append(valve)
            gap = self.gap() if feel == "loose" and self.build.gaps and kind != "feel" else None
            self.note(valve, turns, feel, gap)

    def plan(self, corners: bool = False) -> Iterator[str]:
        """The valves in the order of the plan with the fewest stops, the crank turned to each."""
        chosen = chosen_valves(self.truth.engine, "corners" if corners else "all")
        found = plan("fewest", self.truth.engine, cam_of(self.build), chosen)
        for stop in found.stops:
            self.do("turn_crank", to_deg=(stop.crank_deg or 0.0) % 720)
            self.stops += 1
            for cylinder, kind in stop.valves:
                yield valve_name(cylinder, kind)


def by_advice(truth: Truth, careless: bool = False) -> Played:
    """Cautions first, then valve by valve, then whatever is doubted, until nothing is."""
    shop = Workshop(truth, careless)
    _cautions(shop)
    if truth.scenario.rods_in_it:
        return _ended(shop, _rods_that_fit(shop), 0)
    if truth.scenario.mount == "stud":
        for valve in shop.plan(corners=True):
            if valve in ("1I", "1E"):
                _follow_the_rocker(shop, valve)
        return _ended(shop, _buy(shop), 0)
    if truth.scenario.stands_low_in is not None:
        _shim_the_stands(shop)
    if truth.scenario.lash_in is not None:
        _lash_by_heat(shop, truth.scenario.lash_in)
    for valve in shop.plan():
        _lifter_down(shop, valve)
        shop.measure(valve)
    doubted: set[str] = set()
    for _ in range(ROUNDS):
        state = shop.state
        again = {
            *state.suspicions,
            *(v.name for v in state.valves if v.verdict.state == "conflict"),
        }
        doubted |= again
        if not again:
            break
        for valve in sorted(again):
            _measure_anew(shop, valve)
    told = sum(v in doubted for v in shop.slips)
    shop.alarms = doubted - set(shop.slips) - _spoilt(truth)
    _look_at_what_is_odd(shop)
    rods = _buy(shop)
    return _ended(shop, rods, told)


def _rods_that_fit(shop: Workshop) -> int:
    """Turns of the fasteners from drag to seat, valve by valve; then the size Decide calls best."""
    truth, rods = shop.truth, rods_in(shop.truth)
    shop.bench = with_rods(shop.bench, rods)
    for valve in shop.plan():
        _lifter_down(shop, valve)
        shop.note_turns(valve, _drawn_turns(shop, valve))
    better = {f.kind: f.best.by_in for f in shop.state.in_hand}
    off = {n: better.get(v.kind, 0.0) for n, v in truth.valves.items()}
    bought = {n: rods[n] + off[n] for n in rods if off[n]}
    shop.bench = with_rods(shop.bench, bought)
    return len(bought)


def _drawn_turns(shop: Workshop, valve: str) -> float:
    """Turns from where the play is just gone to where the wrench stops, by eighths."""
    shop.do("back_off", valve=valve)
    said = [""]
    while "stops" not in said[-1]:
        said.append(shop.do("draw_down", eighths=1).words)
    play = max((k for k, words in enumerate(said) if "has play" in words), default=0)
    return max(len(said) - 1 - (play + 1), 0) / 8


def _follow_the_rocker(shop: Workshop, valve: str) -> None:
    """Tries and readings as the rocker's station asks for them, until it settles or gives up."""
    shop.do("fit", valve=valve)
    on_stud = shop.truth.scenario.mount == "stud"
    now, kind = shop.truth.scenario.rod_in - REACH_IN if on_stud else 0.0, "mark"
    for _ in range(MOST_TRIES):
        shop.read_mark(valve, now, angle=kind == "angle")
        said = next(v for v in shop.state.valves if v.name == valve).rocker.judged
        if said.settled is not None:
            return
        if said.finding == "try" and said.setting_in is not None:
            now, kind = said.setting_in, "mark"
        elif said.reading is not None and said.reading.kind == "mark":
            now, kind = said.reading.setting_in or now, "mark"
        else:
            kind = "angle"


def _lash_by_heat(shop: Workshop, hot_in: tuple[float, float]) -> None:
    """The engine run warm with the card's lash: what it grows by is taken off cold."""
    cold = []
    for valve, wanted in zip(("1I", "1E"), hot_in, strict=True):
        drags = [
            int(shop.do("run_warm", valve=valve, lash_in=wanted).words.split("of ")[1].split()[0])
            for _ in range(3)
        ]
        cold.append(round(2 * wanted - sorted(drags)[1] / 1000, 4))
    shop.build.lash_intake_in, shop.build.lash_exhaust_in = (Decimal(str(x)) for x in cold)


def _shim_the_stands(shop: Workshop) -> None:
    """One thickness for all stands: what the rockers of both kinds settle, in the middle."""
    settled = []
    for valve in ("1I", "1E"):
        _follow_the_rocker(shop, valve)
        said = next(v for v in shop.state.valves if v.name == valve).rocker.judged.settled
        if said is not None:
            settled.append(said.setting_in)
    if settled:
        middle = sum(settled) / len(settled)
        shims = min(max(round(middle * 200) / 200, 0.0), 0.15)
        shop.do("shim", thick_in=shims)
        for own in shop.state.valves:  # "rods get about so much longer with it", as it is said
            expected = own.valve.expected_in
            if expected is not None:
                longer = rods_longer_in(own.rocker.fit, 0.0, shims)
                own.valve.expected_in = expected + Decimal(str(round(longer, 4)))


def _cautions(shop: Workshop) -> None:
    """Light checking springs only; fasteners drawn down; the tools' ends looked at."""
    shop.do("springs")
    for bank in {v.bank for v in shop.truth.valves.values()}:
        shop.do("wrench", bank=bank)


def _lifter_down(shop: Workshop, valve: str) -> None:
    """The caution at every station: on the heel, all the way down. Else the heel is looked for."""
    if (shop.do("watch", valve=valve).read_in or 0.0) <= 0.001:
        return
    shop.named.add("lobes_swapped" if _lifts_much(shop, valve) else "card")
    for crank in range(0, 720, 20):
        shop.do("turn_crank", to_deg=float(crank))
        far = []
        for on in (0, 40, 80):
            shop.do("turn_crank", to_deg=float((crank + on) % 720))
            far.append(shop.do("watch", valve=valve).read_in or 0.0)
        if max(far) <= 0.001:
            shop.do("turn_crank", to_deg=float((crank + 40) % 720))
            return


def _lifts_much(shop: Workshop, valve: str) -> bool:
    return (shop.do("watch", valve=valve).read_in or 0.0) > 0.10


def _measure_anew(shop: Workshop, valve: str) -> None:
    """As a suspicion asks: crank to its heel, lifter up, rod spun home, turns counted anew.

    What is found so is believed where the straight-edge tells why it stands apart.
    """
    before = next(v for v in shop.state.valves if v.name == valve).estimate_in
    shop.strike_all(valve)
    cylinder, kind = shop.valves[valve].cylinder, shop.valves[valve].kind
    found = plan("fewest", shop.truth.engine, cam_of(shop.build), ((cylinder, kind),))  # type: ignore[arg-type]
    shop.do("turn_crank", to_deg=(found.stops[0].crank_deg or 0.0) % 720)
    shop.stops += 1
    _lifter_down(shop, valve)
    shop.do("fit", valve=valve)
    shop.do("spin")
    _gently(shop, valve)
    after = next(v for v in shop.state.valves if v.name == valve).estimate_in
    if before is not None and after is not None and before - after > 0.008:
        shop.named.add("soft_plunger")
    _lay_the_edge(shop, valve)


def _lay_the_edge(shop: Workshop, valve: str) -> None:
    """A straight-edge over the tips: a tip that stands proud is entered as the cause."""
    if valve not in shop.state.suspicions:
        return
    proud = shop.do("straight_edge", valve=valve).read_in or 0.0
    if abs(proud) > 0.010:
        shop.named.add("tall_stem")
        shop.valves[valve].stem_in = Decimal(str(proud))


def _gently(shop: Workshop, valve: str) -> None:
    """The same valve with the plunger let up before every feel."""
    for _ in range(MOST_TRIALS):
        turns = shop.next_turns(valve)
        if turns is None:
            return
        shop.bench = replace(shop.bench, turned=min(max(turns, 0.0), 20.0), pushed=())
        feel = FEELS[shop.do("feel").felt or "solid"]
        gap = shop.gap() if feel == "loose" and shop.build.gaps else None
        shop.note(valve, turns, feel, gap)


def _look_at_what_is_odd(shop: Workshop) -> None:
    """What the heads say: a straight-edge on the odd one, a caliper on what all share."""
    for remark in shop.state.spread.remarks:
        if remark.about == "odd":
            for valve in remark.valves:
                if abs(shop.do("straight_edge", valve=valve).read_in or 0.0) > 0.010:
                    shop.named.add("tall_stem")
        if remark.about in ("slope", "bank"):
            shop.named.add("not_square" if remark.about == "slope" else "bank")
        if remark.about == "shared":
            _check_the_rod(shop)


def _check_the_rod(shop: Workshop) -> None:
    """A caliper at two settings tells label and thread; the instrument is corrected by it."""
    rod = shop.build.instrument
    assert rod is not None
    reads = []
    for turns in (2.0, 18.0):
        shop.bench = replace(shop.bench, turned=turns)
        reads.append(shop.do("caliper").read_in or 0.0)
    pitch = (reads[1] - reads[0]) / 16
    exact = min((1 / n for n in (18, 20, 24, 28)), key=lambda p: abs(p - pitch))
    closed = reads[0] - 2 * exact
    if abs(exact - float(rod.pitch_in or 0)) > 0.001:
        shop.named.add("thread")
        rod.pitch_in = Decimal(str(round(exact, 6)))
    elif abs(closed - float(rod.closed_in or 0)) > 0.004:
        shop.named.add("rod_label")
    if shop.named & {"thread", "rod_label"}:
        rod.closed_in = Decimal(str(round(closed, 4)))


def _buy(shop: Workshop) -> int:
    """The set as decided; what comes is measured and rolled as Order asks, and bought anew."""
    state = shop.state
    decision = state.decision
    if decision is not None and any(row.standing != "inside" for row in decision.rows):
        shop.build.plan = RodPlanFigures(strategy="fewest")  # as the verdict says
        state = shop.state
    rods = {n: round(length, 4) for n, length in state.rods_in.items()}
    for name in shop.truth.valves:
        rods.setdefault(name, round(_nearest(rods, name, shop), 4))
    shop.bench = with_rods(shop.bench, rods)
    bought = len(rods)
    reads = {n: (shop.do("caliper", over=n).read_in or 0.0) - rods[n] for n in rods}
    middle = sorted(reads.values())[len(reads) // 2]
    if abs(middle) > 0.008:
        shop.named.add("gauge_rods")
        shop.bench = with_rods(shop.bench, {n: length - middle for n, length in rods.items()})
        return bought + len(rods)
    bent = [n for n, off in reads.items() if abs(off) > 0.008]
    if bent:
        for name in bent:
            shop.do("roll", rod=name)
        shop.bench = with_rods(shop.bench, {n: rods[n] for n in bent})
        bought += len(bent)
    return bought


def _nearest(rods: dict[str, float], name: str, shop: Workshop) -> float:
    same = [length for n, length in rods.items() if n[-1] == name[-1]]
    return sorted(same)[len(same) // 2] if same else shop.truth.scenario.rod_in


def _spoilt(truth: Truth) -> set[str]:
    """Valves that a doubt of the stations is right about."""
    found = {f.where for f in truth.faults}
    return {n for n, v in truth.valves.items()
            if {n, v.bank} & found or {"card", "springs"} & {f.kind for f in truth.faults}
            or any(f.kind == "lobes_swapped" and truth.valves[f.where].cylinder == v.cylinder
                   for f in truth.faults)}  # fmt: skip


def by_hand(truth: Truth) -> Played:
    """The corners by halving, the middle and the preload, the next stock length for a kind."""
    shop = Workshop(truth)
    _cautions(shop)
    if truth.scenario.lash_in is not None:
        _lash_by_heat(shop, truth.scenario.lash_in)
    rod = shop.build.instrument
    assert rod is not None
    closed, pitch = float(rod.closed_in or 0), float(rod.pitch_in or 0)
    read: dict[str, list[float]] = defaultdict(list)
    for valve in shop.plan(corners=True):
        shop.do("fit", valve=valve)
        shop.do("spin")
        low, high = 0.0, 20.0
        turns = min(max(round((truth.scenario.rod_in - closed) / pitch * 4) / 4, 0.5), 19.5)
        for _ in range(12):
            shop.bench = replace(shop.bench, turned=turns)
            shop.trials += 1
            feel = FEELS[shop.do("feel").felt or "solid"]
            if feel == "zero" or high - low <= 0.25:
                break
            low, high = (turns, high) if feel == "loose" else (low, turns)
            step = 1.0 if high - low > 4 else (high - low) / 2
            turns = round((turns + (step if feel == "loose" else -step)) * 4) / 4
        read[valve[-1]].append(closed + turns * pitch)
    wanted = truth.scenario.window[2] if truth.scenario.lash_in is None else -0.009
    step = truth.scenario.step_in
    rods = {n: round((sum(read[n[-1]]) / len(read[n[-1]]) + wanted) / step) * step
            for n in truth.valves}  # fmt: skip
    shop.bench = with_rods(shop.bench, rods)
    return _ended(shop, len(rods), 0)


def _ended(shop: Workshop, rods: int, told: int) -> Played:
    measured = sum(1 for rows in shop.rows.values() if rows) or len(shop.truth.valves)
    named = _one_of_alike(shop.truth, shop.named)
    effort = Effort(shop.trials, measured, max(rods - len(shop.truth.valves), 0), 0)
    lash = lash_of(shop.build)
    ending = run(shop.truth, shop.bench, named, shop.told, effort, lash)  # type: ignore[arg-type]
    return Played(
        ending, shop.trials, shop.marks, measured, shop.stops, rods, len(shop.slips), told,
        len(shop.alarms), set(named),
    )  # fmt: skip


def _one_of_alike(truth: Truth, named: set[str]) -> set[str]:
    """A tall stem and a sunk seat look the same from above."""
    if "tall_stem" in named and truth.fault("sunk_seat") and not truth.fault("tall_stem"):
        return (named - {"tall_stem"}) | {"sunk_seat"}
    return named


def careless(truth: Truth) -> Played:
    """By the advice, with a slip in one reading of twenty."""
    return by_advice(truth, careless=True)


ROBOTS: dict[str, Callable[[Truth], Played]] = {
    "advice": by_advice,
    "hand": by_hand,
    "careless": careless,
}


def play(job: tuple[str, str, int]) -> tuple[str, str, Played]:
    """One robot on one engine."""
    robot, code, seed = job
    return robot, code, ROBOTS[robot](truth_of(code, seed))


def table(engines: int, robots: list[str], codes: list[str]) -> dict[tuple[str, str], list[Played]]:
    """Every robot on so many engines, spread over the scenarios."""
    jobs = [(r, codes[k % len(codes)], 1000 + k) for r in robots for k in range(engines)]
    found: dict[tuple[str, str], list[Played]] = defaultdict(list)
    with multiprocessing.Pool() as pool:
        for robot, code, played in pool.imap_unordered(play, jobs, chunksize=4):
            found[robot, code].append(played)
    return found


def line(name: str, played: list[Played]) -> str:
    """What some games gave, in one line."""
    held = [s for p in played for s in p.ending.faults
            if s.first_deed is not None or s.found or not p.ending.right]  # fmt: skip
    valves = sum(p.valves for p in played)
    slips = sum(p.slips for p in played)
    return (
        f"{name:22} right first time {sum(p.ending.right for p in played) / len(played):4.0%}"
        f"  trials {sum(p.trials for p in played) / valves:4.2f}"
        f"  marks {sum(p.marks for p in played) / len(played):3.1f}"
        f"  stops {sum(p.stops for p in played) / len(played):4.1f}"
        f"  rods {sum(p.rods for p in played) / len(played):4.1f}"
        f"  faults {sum(s.found for s in held)}/{len(held)}"
        f"  wrongly named {sum(len(p.ending.wrongly_named) for p in played)}"
        f"  false alarms {sum(p.false_alarms for p in played) / max(valves, 1):.1%}"
        + (f"  slips told {sum(p.told for p in played)}/{slips}" if slips else "")
        + f"  points {sum(p.ending.points for p in played) / len(played):.0f}"
    )


def main() -> None:
    """Print a line for each robot and scenario, and one for each robot."""
    options = argparse.ArgumentParser()
    options.add_argument("--engines", type=int, default=504)
    options.add_argument("--robots", default="advice,hand,careless")
    options.add_argument("--scenarios", default="")
    asked = options.parse_args()
    known = [s.code for s in SCENARIOS]
    codes = asked.scenarios.split(",") if asked.scenarios else known
    robots = asked.robots.split(",")
    found = table(asked.engines, robots, codes)
    for robot in robots:
        for code in codes:
            print(line(f"{robot} {code}", found[robot, code]))
        print(line(f"{robot}, all", [p for c in codes for p in found[robot, c]]))


if __name__ == "__main__":
    main()
