"""A valve's rocker: its dimension sheet, the marks in the log, and what they say today."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import cast

import numpy as np
from propcache.api import cached_property

from vivid_arm.core.arrays import Floats
from vivid_arm.core.engine.layout import KINDS, ValveKind
from vivid_arm.core.entry.conventions import Convention, convert
from vivid_arm.core.errors import InputError
from vivid_arm.core.rocker.correction import (
    Correction,
    MarkSchool,
    NextReading,
    SchoolsConflict,
    conflict,
    correct,
    next_readings,
)
from vivid_arm.core.rocker.doubt import HuntedBy, LiftHunt, lift_hunt
from vivid_arm.core.rocker.judged import Finding, RockerJudgement, judged
from vivid_arm.core.rocker.marks import (
    MarksFit,
    fit_marks,
    ratio_at,
)
from vivid_arm.core.rocker.seen import ANGLE_U_DEG, SeenMark
from vivid_arm.core.rocker.sheet import Rocker, Sheet, starting_sheet, with_measured
from vivid_arm.core.said.rocker import across_verdict, over_lift_verdict
from vivid_arm.core.said.rocker_verdict import rocker_verdict
from vivid_arm.core.said.verdicts import Verdict
from vivid_arm.core.words import say
from vivid_arm.records.rows.line import KeptLine
from vivid_arm.records.shapes import GeometryFigures, SeenFigures
from vivid_arm.records.state.setup import (
    Ratio,
    catalogue_ratio,
    ends_of,
    measured_ratio,
    starting_ratio,
)
from vivid_arm.records.state.struck import struck_by
from vivid_arm.records.tables import Build

USUAL_ROD_IN = 7.5
R0_KNOWN_WITHIN = 0.03
_SHOWN_IN = 0.250
MOST_TRIES = 40
"""More of them on one valve tell nothing new, and take long to weigh."""


def settings_of(build: Build, kind: ValveKind) -> GeometryFigures:
    """A kind's rocker as entered; what was not entered is usual."""
    return entered_of(build, kind) or GeometryFigures()


def entered_of(build: Build, kind: ValveKind) -> GeometryFigures | None:
    """A kind's rocker as entered; None where nothing was."""
    return build.geometry.of(kind) if build.geometry else None


def sheet_of(build: Build, kind: ValveKind, rod_in: float) -> Sheet:
    """The dimension sheet of a kind around a rod's centre length. Raises InputError."""
    own = settings_of(build, kind)
    stands = "stud" if build.mount == "stud" else "shaft"
    sheet = starting_sheet(
        cast(Rocker, f"{own.tip}_{stands}"),
        float(build.ratio_intake if kind == "intake" else build.ratio_exhaust),
        stem_in=own.stem_in,
        rod_in=rod_in,
        lobe_lift_in=build.cam.lobe(kind).lobe_lift_in if build.cam else None,
        net_lift_in=own.net_lift_in,
        lifter_deg=own.lifter_deg,
        offset_in=own.offset_in,
        fulcrum_in=own.fulcrum_in,
    )
    return with_measured(sheet, {name: (m.value, m.u) for name, m in own.measured.items()})


@dataclass(frozen=True)
class Mark:
    """A try of the log: its line, number among the tries, setting (inches) and what was seen.

    ``attempt`` is None where only lifts were read that the fit does not use.
    """

    row: KeptLine
    number: int
    setting_in: float
    attempt: SeenMark | None
    struck_by: KeptLine | None


def centre_length(build: Build, length_in: float, given: Convention) -> float:
    """A rod's centre length, inches."""
    return convert(length_in, given, "centre", ends_of(build))


def try_of(
    seen: SeenFigures, setting_in: float, stem_in: float, *, moved: bool = False
) -> SeenMark | None:
    """What a line holds as the core's try, edges from the tip's middle; None for lifts alone.

    ``moved`` where a rod or a rocker's own screw stands elsewhere under a fixed fulcrum: the
    mark is the same, the lift is not the sheet's.
    """
    shift = stem_in / 2 if seen.measured_from == "edge" else 0.0

    def edge(value: float | None) -> float | None:
        return None if value is None else value - shift

    lift = None if moved else seen.lift_in
    told = (
        seen.inboard_in, seen.outboard_in, seen.width_in, seen.angle_deg, lift, seen.off,
        seen.place, seen.wide,
    )  # fmt: skip
    if all(value is None for value in told):
        return None
    if seen.at_rest:
        edges = [x for x in (edge(seen.inboard_in), edge(seen.outboard_in)) if x is not None]
        return SeenMark(
            setting_in,
            rest_in=sum(edges) / len(edges) if edges else None,
            angle_deg=seen.angle_deg,
            lift_in=lift,
            angle_u_deg=ANGLE_U_DEG[seen.angle_by],
        )
    return SeenMark(
        setting_in,
        edge(seen.inboard_in),
        edge(seen.outboard_in),
        seen.width_in,
        seen.off,
        place=seen.place,
        wide=seen.wide,
        sink_in=seen.sink_in or 0.0,
        closed_end=seen.closed_end,
        angle_deg=seen.angle_deg,
        lift_in=lift,
        angle_u_deg=ANGLE_U_DEG[seen.angle_by],
    )


def fitted(
    sheet: Sheet, tries: Sequence[SeenMark], at_in: float
) -> tuple[MarksFit, InputError | None]:
    """The fit; where none exists, that of no try on the sheet's own rod, and why."""
    try:
        return fit_marks(sheet, tries, at_in), None
    except InputError as error:
        return fit_marks(sheet, ()), error


class RockerState:
    """The rocker of one valve as its sheet and its marks have it."""

    def __init__(
        self, build: Build, kind: ValveKind, readings: Sequence[KeptLine], expected_in: float | None
    ) -> None:
        self.build = build
        self.kind = kind
        self.readings = readings
        self.expected_in = expected_in

    @cached_property
    def settings(self) -> GeometryFigures:
        return settings_of(self.build, self.kind)

    @property
    def stud(self) -> bool:
        return self.build.mount == "stud"

    @cached_property
    def marks(self) -> list[Mark]:
        """Every try of the log, struck ones too."""
        struck = struck_by(self.readings)
        found: list[Mark] = []
        stands = self.rod_in if self.stud else 0.0
        for number, row in enumerate((r for r in self.readings if r.kind == "mark"), 1):
            setting = self._setting(row, stands)
            seen = row.seen or SeenFigures()
            moved = not self.stud and (row.rod_in is not None or seen.screw is not None)
            attempt = try_of(seen, setting, self.settings.stem_in, moved=moved)
            attempt = attempt and replace(attempt, number=number)
            found.append(Mark(row, number, setting, attempt, struck.get(row.id)))
            stands = stands if row.id in struck else setting
        return found

    def _setting(self, row: KeptLine, stands: float) -> float:
        """A try's own setting, else what stood on the engine before it."""
        if not self.stud:
            return stands if row.shim_in is None else float(row.shim_in)
        if row.rod_in is None:
            return stands
        return centre_length(self.build, float(row.rod_in), cast(Convention, row.rod_convention))

    @cached_property
    def rod_in(self) -> float:
        """Centre length at the reference: the first try's rod on a stud, else the expected one."""
        if self.stud:
            struck = struck_by(self.readings)
            counted = (r for r in self.readings if r.kind == "mark" and r.id not in struck)
            first = next(counted, None)
            if first is not None and first.rod_in is not None:
                given = cast(Convention, first.rod_convention)
                return centre_length(self.build, float(first.rod_in), given)
        return self.expected_in or USUAL_ROD_IN

    @cached_property
    def sheet(self) -> Sheet:
        return sheet_of(self.build, self.kind, self.rod_in)

    @cached_property
    def counted(self) -> list[Mark]:
        return [m for m in self.marks if m.struck_by is None]

    @property
    def tries(self) -> list[SeenMark]:
        """Those that are weighed: of very many the latest."""
        return [m.attempt for m in self.counted if m.attempt is not None][-MOST_TRIES:]

    @cached_property
    def _fitted(self) -> tuple[MarksFit, InputError | None]:
        return fitted(self.sheet, self.tries, self.now_in)

    @property
    def fit(self) -> MarksFit:
        return self._fitted[0]

    @property
    def contradiction(self) -> InputError | None:
        """Why no rocker of the sheet leaves the marks; None where one does."""
        return self._fitted[1]

    @property
    def reference_in(self) -> float:
        return self.sheet.rod_in if self.stud else 0.0

    @property
    def now_in(self) -> float:
        """The setting that stands on the engine: that of the last try that counts."""
        return self.counted[-1].setting_in if self.counted else self.reference_in

    @property
    def order_offset_in(self) -> float:
        """What the order's convention adds to a centre length; nothing for shims."""
        return self.rod_offset_in if self.stud else 0.0

    @property
    def rod_offset_in(self) -> float:
        """What the order's convention adds to a rod's centre length."""
        return ends_of(self.build).added_in(cast(Convention, self.build.order_convention))

    @property
    def step_in(self) -> float:
        return float(self.build.stock_step_in) if self.stud else self.settings.shim_step_in

    @cached_property
    def corrections(self) -> dict[MarkSchool, Correction]:
        schools: tuple[MarkSchool, ...] = ("mid_lift", "centred")
        return {
            school: correct(self.fit, school, self.now_in, self.step_in, self.order_offset_in)
            for school in schools
        }

    @property
    def correction(self) -> Correction:
        return self.corrections[self.settings.school]

    @cached_property
    def hunt(self) -> LiftHunt | None:
        """Net lift over what was set: rods on a stud, else shims, rods or the rocker's screw."""
        ways: dict[HuntedBy, Callable[[Mark], float | None]] = {
            "rod": lambda m: m.setting_in if self.stud else self._own_rod(m.row),
            "shim": lambda m: None if self.stud else m.setting_in,
            "screw": lambda m: m.row.seen.screw if m.row.seen else None,
        }
        expected = self.sheet.expected_lift_in
        best: LiftHunt | None = None
        for name, setting in ways.items():
            points = [
                (float(x), float(m.row.seen.lift_in))
                for m in self.counted
                if m.row.seen and m.row.seen.lift_in is not None
                if (x := setting(m)) is not None
            ]
            found = lift_hunt(points, expected, name)
            if found and (best is None or len(found.points) > len(best.points)):
                best = found
        return best

    def _own_rod(self, row: KeptLine) -> float | None:
        if row.rod_in is None:
            return None
        return centre_length(self.build, float(row.rod_in), cast(Convention, row.rod_convention))

    @cached_property
    def judged(self) -> RockerJudgement:
        """What the tries come to."""
        if not self.fit.tries:
            return RockerJudgement("nothing")
        following = self.next_readings
        return judged(
            self.fit,
            self.correction,
            following[0] if following else None,
            self.step_in,
            self.hunt,
        )

    @cached_property
    def conflict(self) -> SchoolsConflict | None:
        return conflict(self.fit, self.corrections["mid_lift"])

    @cached_property
    def next_readings(self) -> tuple[NextReading, ...]:
        return next_readings(self.fit, self.now_in)

    @cached_property
    def verdict(self) -> Verdict:
        """Whether the rocker sits right, why, and what to do next."""
        if self.contradiction is not None:
            return Verdict(
                "conflict",
                say("Tries and dimensions contradict each other."),
                str(self.contradiction),
                say("Correct a dimension, or strike a try out."),
            )
        return rocker_verdict(self.fit, self.correction, self.conflict, self.judged)

    @property
    def across(self) -> Verdict | None:
        """How the last mark lies across the tip; None where it was not read or lies well."""
        read = [m.row.seen.across_in for m in self.counted if m.row.seen]
        last = next((x for x in reversed(read) if x is not None), None)
        own = self.settings
        return across_verdict(last, own.stem_in, by_design=own.across_by_design)

    @property
    def over_lift(self) -> Verdict | None:
        """What a net lift above the card's means; None without a card, or where it is not."""
        read = [m.row.seen.lift_in for m in self.counted if m.row.seen]
        last = next((x for x in reversed(read) if x is not None), None)
        build, card = self.build, self.settings.net_lift_in
        if build.cam is not None:
            ratio = build.ratio_intake if self.kind == "intake" else build.ratio_exhaust
            card = build.cam.lobe(self.kind).lobe_lift_in * float(ratio)
        return over_lift_verdict(last, card)

    def shown(self, lengths: Mapping[str, float]) -> dict[str, float]:
        """Rod lengths carried into the order's convention."""
        return {name: x + self.order_offset_in for name, x in lengths.items()}

    @cached_property
    def grid_in(self) -> Floats:
        """Settings to explore: 81 round the present one, in whole steps of a thou or more."""
        exact = self.correction.exact_in
        far = max(0.08, abs((exact or self.now_in) - self.now_in) * 1.4)
        half = min(_SHOWN_IN, far)
        return np.asarray(self.now_in + np.linspace(-half, half, 81))

    @cached_property
    def ratio(self) -> tuple[float, float]:
        """R0 at the present setting and its standard uncertainty."""
        return ratio_at(self.fit, self.now_in)


_NO_R0: tuple[Finding, ...] = ("narrow", "sinks", "trend", "conflict")
"""Findings that say the geometry is not understood: its R0 is not used."""


def near_closed(build: Build) -> float:
    """The ratio near closed that a build's kinds have in the mean, marks left out."""
    return sum(ratio_known(build, kind, ()).value for kind in KINDS) / len(KINDS)


def ratio_known(build: Build, kind: ValveKind, logs: Sequence[Sequence[KeptLine]]) -> Ratio:
    """R0 of a kind: as measured, by its geometry and marks, else as a usual rocker has it.

    ``logs`` are the kind's valves' logs; the one with most marks speaks.
    """
    own = measured_ratio(build, kind)
    if own is not None:
        return own
    most = max(logs, key=lambda log: sum(1 for r in log if r.kind == "mark"), default=())
    try:
        arm = RockerState(build, kind, most, None)
        if arm.contradiction or arm.judged.finding in _NO_R0:
            arm = RockerState(build, kind, (), None)
        value, u = arm.ratio
    except InputError:
        return catalogue_ratio(build, kind)
    if not 1.0 <= value <= 2.5:
        return catalogue_ratio(build, kind)
    known = entered_of(build, kind) is not None and u <= R0_KNOWN_WITHIN * value
    own = Ratio(value, u / value * 3**0.5, geometry=known)
    shops = None if known else starting_ratio(build, kind)
    return shops if shops is not None and shops.half_width < own.half_width else own
