"""Where a build stands, computed from its rows and the log every time it is asked."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from math import hypot
from typing import Literal, Protocol, cast
from uuid import UUID

from vivid_arm.core.bracket import Bracket, Feel, NextTrial, Trial, next_trial, read_bracket
from vivid_arm.core.catcher import Circumstances, Suspicion, catch, disagreement
from vivid_arm.core.conventions import CONVENTIONS, Convention, RodEnds, convert
from vivid_arm.core.decide import Decision
from vivid_arm.core.engine import KINDS, Engine, ValveKind, valve_name
from vivid_arm.core.errors import InputError
from vivid_arm.core.instruments import Adjuster, CheckingRod, CountBack, Indicator, count_back
from vivid_arm.core.methods import (
    METHODS,
    TOUCH_SD_IN,
    Combined,
    Measure,
    combine,
    from_bracket,
    odd_repeat,
)
from vivid_arm.core.order import GroupOrder, MeasuredValve, group_order
from vivid_arm.core.predict import Prediction
from vivid_arm.core.preload import Bias, Lifter
from vivid_arm.core.spread import Known, Spread, placed, read_spread
from vivid_arm.core.verdicts import (
    NextStep,
    Verdict,
    after_ordering,
    fill,
    group_verdict,
    measured_verdict,
    next_step,
    solid_verdict,
    zero_lash_verdict,
)

from .deciding import Plan, decision_of, plan_of, shelf_of
from .geometry import ArmState, ratio_known
from .measuring import in_measuring, measure_of
from .models import BoxRod, Build, Order, Reading, Signature, Valve
from .setup import (
    Ratio,
    ends_of,
    engine_of,
    lifter_of,
    measuring_convention,
    predictions_of,
    rod_of,
    source_of,
)

MapState = Literal["waiting", "measuring", "measured", "fits", "outside", "suspicious", "odd"]


@dataclass(frozen=True)
class LogEntry:
    """A line of the log as it counts today.

    ``length_in`` is in the build's measuring convention, worked out from the
    turns again; ``recomputed`` when it differs from what was derived at entry.
    ``measure`` is what a measurement by another method gives today.
    """

    row: Reading
    length_in: float | None
    recomputed: bool
    struck_by: Reading | None
    count: CountBack | None
    measure: Measure | None = None


class _OfBuild:
    """What follows from a build's set-up alone."""

    def __init__(self, build: Build) -> None:
        self.build = build

    @property
    def lifter(self) -> Lifter:
        return lifter_of(self.build)

    @property
    def ends(self) -> RodEnds:
        return ends_of(self.build)

    @property
    def measuring(self) -> Convention:
        return measuring_convention(self.build)

    @property
    def ordering(self) -> Convention:
        return cast(Convention, self.build.order_convention)

    @property
    def offset_in(self) -> float:
        """What the order's convention adds to the measuring one, inches."""
        return convert(0.0, self.measuring, self.ordering, self.ends)


class ValveState(_OfBuild):
    """One valve: its log, what the trials say, and the next one to make."""

    def __init__(
        self,
        build: Build,
        valve: Valve,
        readings: Sequence[Reading],
        ratio_known: Ratio,
        prediction: Prediction | None = None,
    ) -> None:
        super().__init__(build)
        self.valve = valve
        self.readings = readings
        self.ratio_known = ratio_known
        self.prediction = prediction

    @property
    def kind(self) -> ValveKind:
        return cast(ValveKind, self.valve.kind)

    @property
    def name(self) -> str:
        """Short name such as "3E"."""
        return valve_name(self.valve.cylinder, self.kind)

    @property
    def ratio(self) -> float:
        """R0, or the catalogue ratio standing in for it."""
        return self.ratio_known.value

    @cached_property
    def arm(self) -> ArmState:
        """The rocker's geometry as its sheet and its marks have it."""
        expected = self.expected_in
        if expected is not None:
            expected = convert(expected, self.measuring, "centre", self.ends)
        return ArmState(self.build, self.kind, self.readings, expected)

    @property
    def expected_in(self) -> float | None:
        """The builder's own expectation, else the prediction."""
        if self.valve.expected_in is not None:
            return float(self.valve.expected_in)
        return self.prediction.zero_lash_in if self.prediction else None

    @cached_property
    def log(self) -> list[LogEntry]:
        struck = {r.replaces_id: r for r in self.readings if r.replaces_id is not None}
        running: float | None = None
        entries = []
        for row in self.readings:
            if row.kind == "trial" and row.turns is not None and row.id not in struck:
                running = float(row.turns)
            entries.append(self._entry(row, struck.get(row.id), running))
        return entries

    def _entry(self, row: Reading, struck_by: Reading | None, running: float | None) -> LogEntry:
        if row.kind in METHODS:
            measure = measure_of(self.build, self.kind, row, self.ratio_known)
            return LogEntry(row, measure.zero_lash_in, False, struck_by, None, measure)
        if row.length_in is None:
            return LogEntry(row, None, False, struck_by, self._count(row, running))
        derived = float(row.length_in)
        length = derived
        if row.turns is not None and row.instrument is not None:
            rod = rod_of(row.instrument)
            if isinstance(rod, CheckingRod):
                length = round(rod.closed_in + float(row.turns) * rod.pitch_in, 6)
        recomputed = abs(length - derived) > 1e-6
        if row.instrument is not None:
            length = in_measuring(self.build, length, row.instrument.convention)
        return LogEntry(row, length, recomputed, struck_by, None)

    def _count(self, row: Reading, running: float | None) -> CountBack | None:
        if row.kind != "count_back" or row.turns is None or row.instrument is None:
            return None
        rod = rod_of(row.instrument)
        if running is None or not isinstance(rod, CheckingRod):
            return None
        return count_back(rod, running, float(row.turns))

    @cached_property
    def trials(self) -> list[Trial]:
        """The trials that count, by number."""
        return [
            Trial(
                entry.row.number or 0,
                entry.length_in,
                cast(Feel, entry.row.feel),
                None if entry.row.gap_in is None else float(entry.row.gap_in),
            )
            for entry in self.log
            if entry.row.kind == "trial" and entry.struck_by is None
            if entry.length_in is not None
        ]

    @cached_property
    def bracket(self) -> Bracket:
        return read_bracket(self.trials, self.ratio, self.ratio_known.feeling)

    @cached_property
    def measures(self) -> list[Measure]:
        """Measurements by other methods that count, in the order of the log."""
        return [e.measure for e in self.log if e.measure is not None and e.struck_by is None]

    @cached_property
    def combined(self) -> Combined | None:
        """One length from the bracket and every measurement; None where none gives one."""
        source = source_of(self.build.instrument)
        feeling = self.ratio_known.feeling
        own = from_bracket(self.trials, self.bracket, self.ratio, source, feeling)
        return combine([*([own] if own else []), *self.measures])

    @property
    def adjuster(self) -> Adjuster | None:
        tool = rod_of(self.build.instrument) if self.build.instrument else None
        return None if tool is None or isinstance(tool, Indicator) else tool.adjuster

    @cached_property
    def next_trial(self) -> NextTrial | None:
        if self.adjuster is None:
            return None
        return next_trial(
            self.trials,
            self.bracket,
            self.adjuster,
            self.ratio,
            gaps=self.build.gaps,
            expected_in=self.expected_in,
            feeling=self.ratio_known.feeling,
        )

    @property
    def next_turns(self) -> float | None:
        """The next setting in turns, when the instrument counts turns."""
        if self.next_trial is None or self.build.instrument is None:
            return None
        rod = rod_of(self.build.instrument)
        if not isinstance(rod, CheckingRod):
            return None
        return rod.turns_for(self.next_trial.length_in)

    @cached_property
    def verdict(self) -> Verdict:
        if self.measures and not self.bracket.contradictions:
            return measured_verdict(self.combined, self.measures, self.bracket, self.lifter)
        instrument = self.build.instrument
        return zero_lash_verdict(
            self.bracket,
            self.next_trial,
            self.u_in,
            counts_turns=instrument is None or instrument.kind == "checking_rod",
        )

    @cached_property
    def instrument_u_in(self) -> float:
        """Standard uncertainty of the instrument's stated accuracy (0 when none is stated)."""
        return sum(abs(c.u_in) for c in source_of(self.build.instrument).components()[:1])

    @property
    def estimate_in(self) -> float | None:
        """Zero lash as far as it is known, inches; None while readings contradict."""
        if not self.measures:
            return self.bracket.estimate_in
        if self.bracket.contradictions or self.combined is None:
            return None
        return self.combined.estimate_in

    @property
    def u_in(self) -> float | None:
        """Standard uncertainty of zero lash: feel and instrument in quadrature (GUM 5.1.2)."""
        if self.measures:
            return self.combined.u_in if self.combined and self.estimate_in is not None else None
        if self.bracket.u_in is None:
            return None
        return float((self.bracket.u_in**2 + self.instrument_u_in**2) ** 0.5)

    @cached_property
    def measured(self) -> MeasuredValve | None:
        """The valve as measured: trials that have settled, or another method's length."""
        if self.estimate_in is None or self.u_in is None:
            return None
        if not self.measures and not self.bracket.settled:
            return None
        return MeasuredValve(self.valve.cylinder, self.kind, self.estimate_in, self.u_in)

    @property
    def readings_count(self) -> int:
        return len(self.trials) + len(self.measures)

    @property
    def own_disagreement(self) -> tuple[float, float, str] | None:
        """How far a reading is off the valve's other ones, its uncertainty, what it is held to."""
        for entry in self.log:
            odd = odd_repeat([float(x) for x in entry.row.repeats or ()])
            if odd is not None and entry.struck_by is None:
                return odd, TOUCH_SD_IN, "its other repeats"
        if not self.measures or self.combined is None or self.combined.consistent:
            return None
        if self.combined.odd is not None:
            odd_one = self.combined.odd
            off = (odd_one.zero_lash_in or 0.0) - (self.combined.estimate_in or 0.0)
            return off, hypot(odd_one.u_in, self.combined.u_in or 0.0), "its other measurements"
        before, last = self.combined.used[-2:]
        off = (last.zero_lash_in or 0.0) - (before.zero_lash_in or 0.0)
        held = f"reading {before.number}" if before.number else "the bracket"
        return off, hypot(last.u_in, before.u_in), held

    @property
    def last_reading(self) -> Reading:
        """The latest line of the log that measures and counts. Raises IndexError without any."""
        measuring = ("trial", *METHODS)
        return [e.row for e in self.log if e.row.kind in measuring and not e.struck_by][-1]

    @property
    def confirmed(self) -> bool:
        """Whether two measurements agree on the length, so that it is no slip of one."""
        return bool(self.combined and self.combined.consistent and len(self.combined.used) > 1)


class Shop(Protocol):
    """What a build's state asks of the shop around it, when it needs it."""

    def box(self) -> Sequence[BoxRod]:
        """The rods on the shelf, shortest first."""

    def orders(self, build_id: UUID) -> Sequence[Order]:
        """A build's orders, the newest first."""

    def signature(self, build_id: UUID) -> Signature | None:
        """A build's latest signature."""


class BuildState(_OfBuild):
    """A whole build: every valve, both groups, the order and the next step."""

    def __init__(
        self,
        build: Build,
        logs: Mapping[UUID, Sequence[Reading]],
        shop: Shop | None = None,
    ) -> None:
        super().__init__(build)
        self._shop = shop
        self.ratios: dict[ValveKind, Ratio] = {
            kind: ratio_known(
                build, kind, [logs.get(v.id, ()) for v in build.valves if v.kind == kind]
            )
            for kind in KINDS
        }
        self.predictions = predictions_of(build, self.ratios)
        self.valves = [
            ValveState(build, v, logs.get(v.id, ()), self.ratios[kind], self.predictions.get(kind))
            for v in build.valves
            if (kind := cast(ValveKind, v.kind))
        ]

    @cached_property
    def box(self) -> Sequence[BoxRod]:
        """The shop's own rods on the shelf."""
        return self._shop.box() if self._shop else ()

    @cached_property
    def orders(self) -> Sequence[Order]:
        """The build's orders, the newest first."""
        return self._shop.orders(self.build.id) if self._shop else ()

    @cached_property
    def signature(self) -> Signature | None:
        """The latest signature."""
        return self._shop.signature(self.build.id) if self._shop else None

    @property
    def solid(self) -> bool:
        return self.build.lifter_kind == "solid"

    @cached_property
    def engine(self) -> Engine:
        return engine_of(self.build)

    @cached_property
    def known(self) -> tuple[Known, ...]:
        """Every measured valve where it stands on its head."""
        found = [v.measured for v in self.valves if v.measured is not None]
        return placed(self.engine, [(m.cylinder, m.kind, m.zero_lash_in, m.u_in) for m in found])

    @cached_property
    def spread(self) -> Spread:
        """What the believed valves say together."""
        return read_spread([v for v in self.known if v.name not in self.suspicions])

    @cached_property
    def suspicions(self) -> dict[str, Suspicion]:
        """Measured valves that are not believable, by name, the most doubtful first.

        One that two measurements agree on is no slip; the spread names it instead.
        """
        said = {k: (p.zero_lash_in, p.u_in) for k, p in self.predictions.items()}
        by_name = {v.name: v for v in self.valves}
        now = {name: self._circumstances(v) for name, v in by_name.items()}
        found = {s.name: s for s in catch(self.known, now, said) if not by_name[s.name].confirmed}
        for name, valve in by_name.items():
            own = valve.own_disagreement
            if own is not None:
                found[name] = disagreement(name, *own, now[name])
        return found

    def _circumstances(self, valve: ValveState) -> Circumstances:
        rod = self.build.instrument
        counted = rod is not None and rod.kind == "checking_rod" and bool(valve.trials)
        return Circumstances(
            None if self.solid else float(self.build.travel_in),
            float(rod.pitch_in) if counted and rod and rod.pitch_in else None,
            self._convention_gaps,
        )

    @cached_property
    def _convention_gaps(self) -> dict[str, float]:
        """What other conventions would read against the measuring one, inches, by words."""
        own = self.ends.added_in(self.measuring)
        others: tuple[Convention, ...] = ("theoretical", "measured", "gauge")
        return {
            f"{CONVENTIONS[self.measuring]} and {CONVENTIONS[c]}": self.ends.added_in(c) - own
            for c in others
            if c != self.measuring
        }

    def map_state(self, valve: ValveState) -> MapState:
        """How a valve stands on the head map."""
        if valve.name in self.suspicions or valve.verdict.state == "conflict":
            return "suspicious"
        if valve.measured is None:
            return "measuring" if valve.readings_count else "waiting"
        if any(odd.name == valve.name for odd, _ in self.spread.odd):
            return "odd"
        preload = self.preload_in(valve)
        if preload is None:
            return "measured"
        inside = self.lifter.low_in - 1e-6 <= preload <= self.lifter.high_in + 1e-6
        return "fits" if inside else "outside"

    def preload_in(self, valve: ValveState) -> float | None:
        """Preload of a measured valve with its group's rod, inches."""
        if self.solid or valve.measured is None or valve.name not in self.rods_in:
            return None
        return self.rods_in[valve.name] - self.offset_in - valve.measured.zero_lash_in

    @cached_property
    def groups(self) -> tuple[GroupOrder, ...]:
        """Intake and exhaust rods; a valve that is not believable decides nothing."""
        return tuple(self._group(kind, self.believed(kind)) for kind in KINDS)

    def believed(self, kind: ValveKind) -> Sequence[MeasuredValve]:
        """The measured valves of a kind without the suspicious ones, unless all are."""
        own = {v.name: v.measured for v in self.valves if v.kind == kind and v.measured}
        sound = [m for name, m in own.items() if name not in self.suspicions]
        return sound or list(own.values())

    def _group(self, kind: ValveKind, measured: Sequence[MeasuredValve]) -> GroupOrder:
        if self.solid:
            measured = ()
        build = self.build
        picked = build.picked_intake_in if kind == "intake" else build.picked_exhaust_in
        return group_order(
            kind,
            sum(1 for v in self.valves if v.kind == kind),
            measured,
            self.lifter,
            float(build.stock_step_in),
            cast(Bias, build.bias),
            offset_in=self.offset_in,
            picked_in=None if picked is None else float(picked),
            shelf=shelf_of(self),
        )

    @cached_property
    def plan(self) -> Plan:
        return plan_of(self.build)

    @cached_property
    def decision(self) -> Decision | None:
        """Every valve's rod, measured or inferred; None while no kind is measured.

        Raises InputError for a solid engine without its lash.
        """
        return decision_of(self)

    @cached_property
    def rods_in(self) -> dict[str, float]:
        """The rod each valve gets, in the order's convention: those that fit, and picked ones."""
        try:
            found = self.decision
        except InputError:
            return {}
        if found is None:
            return {}
        none = {g.kind for g in self.groups if g.choice is not None and g.taken is None}
        by_kind = found.strategy == "kinds" and found.aim.mode == "length"
        return {
            need.name: length
            for need, length in zip(found.needs, found.chosen.lengths_in, strict=True)
            if (need.kind not in none if by_kind else need.serves(length))
        }

    def group_verdict(self, group: GroupOrder) -> Verdict:
        if self.solid:
            return solid_verdict(group.kind)
        return group_verdict(group, self.lifter, float(self.build.stock_step_in))

    @cached_property
    def next_step(self) -> NextStep:
        tried = [v for v in self.valves if v.readings_count]
        measured = next_step(
            has_instrument=self.build.instrument is not None,
            trials={k: sum(1 for v in tried if v.kind == k) for k in KINDS},
            settled={k: sum(1 for v in tried if v.kind == k and v.measured) for k in KINDS},
            conflicts=[v.name for v in tried if v.verdict.state == "conflict"],
            groups=self.groups,
            suspicious=list(self.suspicions),
            findings=self.spread.findings,
            solid=self.solid,
            rocker=self._rocker,
            rocker_first=self.build.mount == "stud",
        )
        if measured.station not in ("map", "decide", "order"):
            return measured
        return after_ordering(
            [(o.purpose, o.state, o.closed_at is not None) for o in self.orders],
            self.signature.signed_by if self.signature else None,
        ) or measured  # fmt: skip

    @property
    def _rocker(self) -> tuple[str, str] | None:
        """The first valve whose marks ask for a change or another reading, and what."""
        for valve in self.valves:
            if valve.arm.counted and valve.arm.verdict.state != "settled":
                said = valve.arm.verdict
                words = fill(said.what, valve.arm.shown(said.lengths), said.smalls).rstrip(".")
                return valve.name, f"Rocker of {valve.name}: {words[0].lower()}{words[1:]}"
        return None
