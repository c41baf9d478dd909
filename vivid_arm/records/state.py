"""Where a build stands, computed from its rows and the log every time it is asked."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import cast
from uuid import UUID

from vivid_arm.core.bracket import (
    Bracket,
    Feel,
    NextTrial,
    Trial,
    next_trial,
    read_bracket,
)
from vivid_arm.core.conventions import Convention, EndKind, RodEnd, RodEnds, convert
from vivid_arm.core.engine import KINDS, ValveKind
from vivid_arm.core.instruments import (
    Adjuster,
    Caliper,
    CheckingRod,
    CountBack,
    count_back,
    rectangular_u_in,
)
from vivid_arm.core.order import (
    GroupOrder,
    MeasuredValve,
    OrderLine,
    group_order,
    order_lines,
)
from vivid_arm.core.preload import Bias, Lifter
from vivid_arm.core.verdicts import (
    NextStep,
    Verdict,
    group_verdict,
    next_step,
    zero_lash_verdict,
)

from .models import Build, Instrument, Reading, Valve


def rod_of(row: Instrument) -> CheckingRod | Caliper:
    """The core's instrument for a row."""
    if row.kind == "checking_rod":
        assert row.closed_in is not None
        assert row.pitch_in is not None
        assert row.most_turns is not None
        return CheckingRod(float(row.closed_in), float(row.pitch_in), float(row.most_turns))
    assert row.low_in is not None
    assert row.high_in is not None
    return Caliper(float(row.low_in), float(row.high_in))


def ends_of(build: Build) -> RodEnds:
    return RodEnds(
        RodEnd(
            cast(EndKind, build.lifter_end),
            float(build.lifter_ball_in),
            float(build.lifter_hole_in),
        ),
        RodEnd(
            cast(EndKind, build.rocker_end),
            float(build.rocker_ball_in),
            float(build.rocker_hole_in),
        ),
        float(build.gauge_circle_in),
    )


def lifter_of(build: Build) -> Lifter:
    return Lifter(
        float(build.preload_low_in),
        float(build.preload_high_in),
        float(build.preload_target_in),
        float(build.travel_in),
    )


def measuring_convention(build: Build) -> Convention:
    """The convention the build's instrument reads in (the order's, while none is chosen)."""
    name = build.instrument.convention if build.instrument else build.order_convention
    return cast(Convention, name)


@dataclass(frozen=True)
class LogEntry:
    """A line of the log as it counts today.

    ``length_in`` is in the build's measuring convention, worked out from the
    turns again; ``recomputed`` when it differs from what was derived at entry.
    """

    row: Reading
    length_in: float | None
    recomputed: bool
    struck_by: Reading | None
    count: CountBack | None


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

    def __init__(self, build: Build, valve: Valve, readings: Sequence[Reading]) -> None:
        super().__init__(build)
        self.valve = valve
        self.readings = readings

    @property
    def kind(self) -> ValveKind:
        return cast(ValveKind, self.valve.kind)

    @property
    def name(self) -> str:
        """Short name such as "3E"."""
        return f"{self.valve.cylinder}{'I' if self.kind == 'intake' else 'E'}"

    @property
    def ratio(self) -> float:
        chosen = self.build.ratio_intake if self.kind == "intake" else self.build.ratio_exhaust
        return float(chosen)

    @property
    def expected_in(self) -> float | None:
        return None if self.valve.expected_in is None else float(self.valve.expected_in)

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
            own = cast(Convention, row.instrument.convention)
            length = convert(length, own, measuring_convention(self.build), ends_of(self.build))
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
        return read_bracket(self.trials, self.ratio)

    @property
    def adjuster(self) -> Adjuster | None:
        return rod_of(self.build.instrument).adjuster if self.build.instrument else None

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
        instrument = self.build.instrument
        return zero_lash_verdict(
            self.bracket,
            self.next_trial,
            self.u_in,
            counts_turns=instrument is None or instrument.kind == "checking_rod",
        )

    @property
    def instrument_u_in(self) -> float:
        """Standard uncertainty of the instrument's stated accuracy (0 when none is stated)."""
        instrument = self.build.instrument
        if instrument is None or instrument.accuracy_in is None:
            return 0.0
        return rectangular_u_in(float(instrument.accuracy_in))

    @property
    def u_in(self) -> float | None:
        """Standard uncertainty of zero lash: feel and instrument in quadrature (GUM 5.1.2)."""
        if self.bracket.u_in is None:
            return None
        return float((self.bracket.u_in**2 + self.instrument_u_in**2) ** 0.5)

    @property
    def measured(self) -> MeasuredValve | None:
        """The valve as measured, once its trials have settled."""
        if not self.bracket.settled or self.bracket.estimate_in is None or self.u_in is None:
            return None
        return MeasuredValve(self.valve.cylinder, self.kind, self.bracket.estimate_in, self.u_in)


class BuildState(_OfBuild):
    """A whole build: every valve, both groups, the order and the next step."""

    def __init__(self, build: Build, logs: Mapping[UUID, Sequence[Reading]]) -> None:
        super().__init__(build)
        self.valves = [ValveState(build, v, logs.get(v.id, ())) for v in build.valves]

    @cached_property
    def groups(self) -> tuple[GroupOrder, ...]:
        measured = [v.measured for v in self.valves if v.measured is not None]
        return tuple(self._group(kind, measured) for kind in KINDS)

    def _group(self, kind: ValveKind, measured: Sequence[MeasuredValve]) -> GroupOrder:
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
        )

    @property
    def lines(self) -> tuple[OrderLine, ...]:
        return order_lines(self.groups)

    def group_verdict(self, group: GroupOrder) -> Verdict:
        return group_verdict(group, self.lifter, float(self.build.stock_step_in))

    @cached_property
    def next_step(self) -> NextStep:
        tried = [v for v in self.valves if v.trials]
        return next_step(
            has_instrument=self.build.instrument is not None,
            trials={k: sum(1 for v in tried if v.kind == k) for k in KINDS},
            settled={k: sum(1 for v in tried if v.kind == k and v.measured) for k in KINDS},
            conflicts=[v.name for v in tried if v.bracket.contradictions],
            groups=self.groups,
        )
