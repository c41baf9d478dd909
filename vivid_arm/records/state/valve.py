"""Where one valve stands, computed from its rows and its log every time it is asked."""

from collections.abc import Callable
from dataclasses import replace
from math import hypot
from typing import Protocol, cast

from propcache.api import cached_property

from vivid_arm.core.engine.layout import KINDS, Engine, ValveKind, valve_name
from vivid_arm.core.entry.conventions import Convention, RodEnds, convert
from vivid_arm.core.entry.instruments import Adjuster, CheckingRod, CountBack, Indicator
from vivid_arm.core.rods.groups import MeasuredValve
from vivid_arm.core.rods.in_hand import PreloadRead
from vivid_arm.core.rods.preload import Lifter, exact_length_in
from vivid_arm.core.said.verdicts import Verdict, count_verdict, measured_verdict, zero_lash_verdict
from vivid_arm.core.words import say
from vivid_arm.core.zero_lash.bracket import (
    Bracket,
    Feeling,
    NextTrial,
    Trial,
    check_ratio,
    next_trial,
    read_bracket,
)
from vivid_arm.core.zero_lash.combine import Combined, beside_bracket, combine
from vivid_arm.core.zero_lash.methods import TOUCH_SD_IN, Measure, from_bracket, odd_repeat
from vivid_arm.core.zero_lash.predict import Amount, Mount, Prediction, predict
from vivid_arm.core.zero_lash.recount import recounts
from vivid_arm.records.state.log import LogEntry, ValveLog
from vivid_arm.records.state.rocker import RockerState, ratio_known
from vivid_arm.records.state.setup import (
    Ratio,
    Tool,
    carried_over,
    ends_of,
    engine_of,
    lifter_of,
    measuring_convention,
    rod_of,
    source_of,
)
from vivid_arm.records.tables import Build, Valve

STEM_WITHIN_IN = 0.002
"""A straight-edge and feelers tell a stem's height against its neighbours: common practice."""
CONVENTION_U_IN = 0.0014
"""Balls, cups and oil holes of both ends as stated, each a thou: common practice."""


_BY_ITSELF = (
    "carried", "explained", "name", "bracket", "measures", "in_hand", "combined", "adjuster",
    "recounts", "estimate_in", "aimed_in", "u_in", "measured", "own_disagreement",
)  # fmt: skip
"""What of a valve hangs on no other valve but by the hand and the ratio."""
_ONCE_SETTLED = ("next_trial", "verdict")
"""What hangs on no other valve either where its trials have settled it: no setting comes next."""


class SetUp:
    """What follows from a build's set-up alone, worked out once for all its valves."""

    def __init__(self, build: Build) -> None:
        self.build = build
        self.ratios = {kind: ratio_known(build, kind, ()) for kind in KINDS}

    @cached_property
    def lifter(self) -> Lifter:
        return lifter_of(self.build)

    @cached_property
    def engine(self) -> Engine:
        return engine_of(self.build)

    @cached_property
    def tool(self) -> Tool | None:
        return rod_of(self.build.instrument) if self.build.instrument else None

    @cached_property
    def ends(self) -> RodEnds:
        return ends_of(self.build)

    @cached_property
    def measuring(self) -> Convention:
        return measuring_convention(self.build)

    @cached_property
    def seat_shift_in(self) -> float:
        """What the real lifter's lower seat asks of the rod; 0 while not both are known."""
        real, checking = self.build.seat_height_in, self.build.checking_seat_in
        if real is None or checking is None:
            return 0.0
        return float(checking) - float(real)

    @cached_property
    def offset_in(self) -> float:
        """What the order's convention adds to the measuring one, inches."""
        ordering = cast(Convention, self.build.order_convention)
        return convert(0.0, self.measuring, ordering, self.ends)

    @cached_property
    def instrument_u_in(self) -> float:
        """Standard uncertainty of the instrument's stated accuracy (0 when none is stated)."""
        return sum(abs(c.u_in) for c in source_of(self.build.instrument).components()[:1])


class OnSetUp:
    """What stands on a build's set-up."""

    def __init__(self, set_up: SetUp) -> None:
        self.set_up = set_up
        self.build = set_up.build

    @property
    def lifter(self) -> Lifter:
        return self.set_up.lifter

    @property
    def ends(self) -> RodEnds:
        return self.set_up.ends

    @property
    def measuring(self) -> Convention:
        return self.set_up.measuring

    @property
    def ordering(self) -> Convention:
        return cast(Convention, self.build.order_convention)

    @property
    def seat_shift_in(self) -> float:
        """What the real lifter's lower seat asks of the rod; 0 while not both are known."""
        return self.set_up.seat_shift_in

    @property
    def convention_u_in(self) -> float:
        """Standard uncertainty of a length in the order's convention, shared by all valves."""
        return 0.0 if self.measuring == self.ordering else CONVENTION_U_IN

    @property
    def offset_in(self) -> float:
        """What the order's convention adds to the measuring one, inches."""
        return self.set_up.offset_in


class Heads(Protocol):
    """What a valve asks of the heads it is one of."""

    def read_by_others(self, valve: "ValveState") -> float | None:
        """What the other valves read where this one is expected to."""

    def others_agree(self, valve: "ValveState") -> bool:
        """Whether others of its kind were found, and none stands far from the rest."""


class ValveState(OnSetUp):
    """One valve: its log, what the trials say, and the next one to make."""

    def __init__(
        self,
        set_up: SetUp,
        valve: Valve,
        told: ValveLog,
        ratio_known: Ratio,
        prediction: Prediction | None = None,
        feeling: Feeling | None = None,
    ) -> None:
        """``feeling``: the hand that feels as the other valves tell it, and the ratio's figures."""
        super().__init__(set_up)
        self.valve = valve
        self.kind = cast(ValveKind, valve.kind)
        self.told = told
        self.ratio_known = ratio_known
        self.prediction = prediction
        self.feeling = feeling or ratio_known.feeling
        self.heads: Callable[[], Heads | None] = lambda: None

    def as_read_before(self, before: "ValveState | None") -> None:
        """Take over what an earlier state has worked out of the same log, ratio and hand."""
        if before is not None and self._stands_as(before):
            known = before.__dict__
            settled = "bracket" in known and before.bracket.settled
            names = (*_BY_ITSELF, *_ONCE_SETTLED) if settled else _BY_ITSELF
            self.__dict__.update({name: known[name] for name in names if name in known})

    def _stands_as(self, other: "ValveState") -> bool:
        """Whether all that the valve by itself follows from is the other's."""
        return (
            self.told is other.told
            and self.set_up is other.set_up
            and self.valve.version == other.valve.version
            and self.ratio_known == other.ratio_known
            and self.feeling == other.feeling
        )

    @cached_property
    def carried(self) -> tuple[float, float]:
        """What the final engine and its lifter add to zero lash as measured, and its u; inches."""
        if self.build.final is None:
            return self.seat_shift_in, 0.0
        found = carried_over(self.build, self.kind, self.ratio_known)
        return self.seat_shift_in + found.zero_lash_in, found.u_in

    @cached_property
    def explained(self) -> tuple[float, float]:
        """What the known height of its tip adds to zero lash, by the lever, and its u; inches."""
        if self.valve.stem_in is None:
            return 0.0, 0.0
        known = {"stem": Amount(float(self.valve.stem_in), STEM_WITHIN_IN)}
        mount, ratio = cast(Mount, self.build.mount), check_ratio(self.ratio)
        found = predict(0.0, known, mount, ratio, 0.0, self.feeling)  # type: ignore[arg-type]
        return found.zero_lash_in, found.u_in

    @cached_property
    def name(self) -> str:
        """Short name such as "3E"."""
        return valve_name(self.valve.cylinder, self.kind)

    @property
    def ratio(self) -> float:
        """R0, or the catalogue ratio standing in for it."""
        return self.ratio_known.value

    @cached_property
    def rocker(self) -> RockerState:
        """The rocker's geometry as its sheet and its marks have it."""
        expected = self.expected_in
        if expected is not None:
            expected = convert(expected, self.measuring, "centre", self.ends)
        return RockerState(self.build, self.kind, self.told.tried, expected)

    @property
    def expected_in(self) -> float | None:
        """The builder's own expectation, else the prediction, else what other valves read."""
        if self.valve.expected_in is not None:
            return float(self.valve.expected_in)
        if self.prediction:
            return self.prediction.zero_lash_in
        heads = self.heads()
        return None if heads is None else heads.read_by_others(self)

    @property
    def log(self) -> list[LogEntry]:
        """Every line as it counts today. Raises InputError."""
        return self.told.measured(self.ratio_known)

    @property
    def trials(self) -> list[Trial]:
        """The trials that count, by number."""
        return self.told.trials

    @cached_property
    def bracket(self) -> Bracket:
        return read_bracket(self.trials, self.ratio, self.feeling)

    @cached_property
    def measures(self) -> list[Measure]:
        """Measurements by other methods that count, in the order of the log."""
        return [e.measure for e in self.log if e.measure is not None and e.struck_by is None]

    @cached_property
    def in_hand(self) -> PreloadRead | None:
        """Preload read with the rod that is in the valve, whose length nobody gave.

        Readings that differ by more than their uncertainties allow widen it (Birge's ratio).
        """
        read = [m for m in self.measures if m.preload_in is not None and m.zero_lash_in is None]
        if not read:
            return None
        weights = [1 / m.u_in**2 for m in read]
        preloads = [m.preload_in or 0.0 for m in read]
        mean = sum(w * p for w, p in zip(weights, preloads, strict=True)) / sum(weights)
        square = sum(w * (p - mean) ** 2 for w, p in zip(weights, preloads, strict=True))
        shared = sum(
            w * sum(c.u_in for c in m.components if c.key)
            for w, m in zip(weights, read, strict=True)
        ) / sum(weights)  # fmt: skip
        wider = max(1.0, (square / max(len(read) - 1, 1)) ** 0.5)
        own = wider * sum(weights) ** -0.5
        return PreloadRead(self.name, mean, max(own, abs(shared)), abs(shared))

    @cached_property
    def combined(self) -> Combined | None:
        """One length from the bracket and every measurement; None where none gives one."""
        source = source_of(self.build.instrument)
        own = from_bracket(self.trials, self.bracket, self.ratio, source, self.feeling)
        if own is not None and self.bracket.settled and self.told.counted_back:
            return beside_bracket(own, self.measures)
        return combine([*([own] if own else []), *self.measures])

    @cached_property
    def adjuster(self) -> Adjuster | None:
        """How the rod is set; None without one, or with one whose thread was spoilt."""
        tool = self.set_up.tool
        if tool is None or isinstance(tool, Indicator):
            return None
        return tool.adjuster if tool.adjuster.resolution_in > 0 else None

    @cached_property
    def next_trial(self) -> NextTrial | None:
        if self.trials and self.bracket.settled:
            return None
        if self.adjuster is None or self.failed_count is not None:
            return None
        told = self.valve.expected_in is not None or self.prediction is not None
        heads = self.heads()
        found = next_trial(
            self.trials,
            self.bracket,
            self.adjuster,
            self.ratio,
            gaps=self.build.gaps,
            expected_in=self.expected_in,
            known=not told and heads is not None and heads.others_agree(self),
            feeling=self.feeling,
        )
        if found is not None and found.step == "first" and not told:
            more = say("The length expected is what the other valves read.")
            return replace(found, reason=f"{found.reason} {more}")
        return found

    @property
    def next_turns(self) -> float | None:
        """The next setting in turns, when the instrument counts turns."""
        rod = self.set_up.tool
        if self.next_trial is None or not isinstance(rod, CheckingRod):
            return None
        return rod.turns_for(self.next_trial.length_in)

    @property
    def failed_count(self) -> CountBack | None:
        """The last count-back where it disagrees and trials from before it still count."""
        return None if self.told.failed_line is None else self.told.failed_line.count

    @cached_property
    def recounts(self) -> tuple[int, ...]:
        """Since which trials the failed count-back may tell of a slip, the likeliest first."""
        if self.failed_count is None:
            return ()
        counted = {row.number for row in self.told.recounted}
        trials = [t for t in self.trials if t.number in counted]
        return recounts(trials, self.failed_count.error_in, self.ratio, self.feeling)

    @cached_property
    def verdict(self) -> Verdict:
        if self.failed_count is not None:
            return count_verdict(self.failed_count)
        if self.measures and not self.bracket.contradictions:
            return measured_verdict(self.combined, self.measures, self.bracket, self.lifter)
        tool = self.build.instrument
        turned = tool is None or tool.kind == "checking_rod"
        return zero_lash_verdict(
            self.bracket,
            self.next_trial,
            self.u_in,
            to_count=turned and not self.told.counted_since,
            accuracy_stated=not self.unstated,
        )

    @property
    def instrument_u_in(self) -> float:
        """Standard uncertainty of the instrument's stated accuracy (0 when none is stated)."""
        return self.set_up.instrument_u_in

    @property
    def unstated(self) -> str:
        """The instrument whose accuracy nobody stated, by name; empty where it is stated."""
        tool = self.build.instrument
        return tool.name if tool is not None and not tool.accuracy_in else ""

    @cached_property
    def estimate_in(self) -> float | None:
        """Zero lash as far as it is known, inches; None while readings contradict, or a count."""
        if not self.measures:
            return None if self.failed_count is not None else self.bracket.estimate_in
        if self.bracket.contradictions or self.combined is None:
            return None
        return self.combined.estimate_in

    @property
    def exact_in(self) -> float | None:
        """The rod this valve would take by itself, inches.

        Zero lash and the preload aimed at, or less what the lash asks for (lash / R0); None for
        solid lifters without a lash.
        """
        aimed = self.aimed_in
        if self.estimate_in is None or aimed is None:
            return None
        return exact_length_in(self.estimate_in + self.carried[0], aimed)

    @cached_property
    def aimed_in(self) -> float | None:
        """What is aimed at beyond zero lash, inches: the preload, or less lash / R0."""
        if self.build.lifter_kind != "solid":
            return self.lifter.target_in
        lash = self.lash_in
        return None if lash is None else -lash / self.ratio

    @property
    def lash_in(self) -> float | None:
        """The lash of a solid lifter at the valve, inches; None while it is not entered."""
        build = self.build
        lash = build.lash_intake_in if self.kind == "intake" else build.lash_exhaust_in
        return None if lash is None else float(lash)

    @cached_property
    def u_in(self) -> float | None:
        """Standard uncertainty of zero lash: feel and instrument in quadrature (GUM 5.1.2)."""
        if self.measures:
            return self.combined.u_in if self.combined and self.estimate_in is not None else None
        if self.bracket.u_in is None or self.failed_count is not None:
            return None
        return float((self.bracket.u_in**2 + self.instrument_u_in**2) ** 0.5)

    @cached_property
    def measured(self) -> MeasuredValve | None:
        """The valve as measured: trials that have settled, or another method's length.

        Carried over to the final engine and its lifter where the readings were taken on another.
        """
        if self.estimate_in is None or self.u_in is None:
            return None
        if not self.measures and (not self.bracket.settled or self.failed_count):
            return None
        shift, u = self.carried
        zero_lash = self.estimate_in + shift
        return MeasuredValve(self.valve.cylinder, self.kind, zero_lash, hypot(self.u_in, u))

    @property
    def readings_count(self) -> int:
        return len(self.trials) + len(self.measures)

    @cached_property
    def own_disagreement(self) -> tuple[float, float, str] | None:
        """How far a reading is off the valve's other ones, its uncertainty, what it is held to."""
        for entry in self.log:
            if not entry.row.repeats or entry.struck_by is not None:
                continue
            odd = odd_repeat([float(x) for x in entry.row.repeats])
            if odd is not None:
                return odd, TOUCH_SD_IN, say("its other repeats")
        if not self.measures or self.combined is None or self.combined.consistent:
            return None
        if self.combined.odd is not None:
            odd_one = self.combined.odd
            off = (odd_one.zero_lash_in or 0.0) - (self.combined.estimate_in or 0.0)
            return (
                off,
                hypot(odd_one.u_in, self.combined.u_in or 0.0),
                say("its other measurements"),
            )
        before, last = self.combined.used[-2:]
        off = (last.zero_lash_in or 0.0) - (before.zero_lash_in or 0.0)
        held = (
            say("reading {number}", number=before.number) if before.number else say("the bracket")
        )
        return off, hypot(last.u_in, before.u_in), held

    @property
    def confirmed(self) -> bool:
        """Whether two measurements agree on the length, so that it is no slip of one."""
        return bool(self.combined and self.combined.consistent and len(self.combined.used) > 1)
