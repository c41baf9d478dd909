"""What an order sheet holds: lines, the rod, the measured data behind them, what is open."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, field, replace
from datetime import datetime
from typing import Any, cast

from vivid_arm.core.engine.layout import KIND_WORDS, KINDS, engine_words
from vivid_arm.core.entry.conventions import END_WORDS, RodEnd
from vivid_arm.core.entry.lengths import format_turns
from vivid_arm.core.errors import InputError
from vivid_arm.core.rods.decide import DecidedValve
from vivid_arm.core.rods.preload import TURNS_RULES, PreloadSchoolCode, school_of
from vivid_arm.core.rods.strength import FORMS
from vivid_arm.core.said.verdicts import fill
from vivid_arm.core.words import figure, say
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.rod import rod_figures
from vivid_arm.records.state.valve import ValveState
from vivid_arm.records.tables import Build

FORMAT = "vivid-arm/order/3"


@dataclass(frozen=True)
class OrderLine:
    """One rod length to order, inches in the order's convention."""

    quantity: int
    length_in: float
    valves: list[str]


@dataclass(frozen=True)
class RodSpec:
    """The rod wanted: tube (inches), form, hardening, kinds of its ends."""

    diameter_in: float
    wall_in: float
    form: str
    hardened: bool
    lifter_end: str
    rocker_end: str


@dataclass(frozen=True)
class Evidence:
    """The measurement behind a valve's rod: zero lash (measuring convention), preload.

    ``length_in`` is its rod in the order's convention, ``axis_in`` the same in the
    measuring one; ``hot_preload_in`` is None where the engine's growth is not entered;
    ``chance`` that the preload lies in the window.
    """

    valve: str
    zero_lash_in: float
    expanded_uncertainty_in: float
    preload_in: float
    off_bottom_in: float
    inside: bool
    readings: int
    measured_by: str
    measured_at: str
    length_in: float
    axis_in: float
    hot_preload_in: float | None
    chance: float


@dataclass(frozen=True)
class OrderSheet:
    """Everything an order sheet says; lengths in inches.

    ``geometry``: how marks set the rods; ``practice``: of a practice engine.
    """

    format: str
    build: str
    engine: str
    made_at: str
    build_version: int
    convention: str
    measuring_convention: str
    gauge_circle_in: float | None
    lifter_end: str
    rocker_end: str
    preload_low_in: float
    preload_high_in: float
    preload_target_in: float
    travel_in: float
    preload_school: str
    tolerance_in: float
    rod: RodSpec
    lines: list[OrderLine]
    evidence: list[Evidence]
    inferred: list[str]
    open_points: list[str]
    geometry: list[str] = field(default_factory=list)
    practice: bool = False


def order_sheet(state: BuildState, made_at: datetime) -> OrderSheet:
    """The sheet for a build as it stands. Raises InputError while no line can be ordered."""
    build = state.build
    if not state.rods_in:
        raise InputError(
            "order",
            say("There is nothing to order yet"),
            remedy=say("Find zero lash and a length that fits first"),
            code="nothing_to_order",
        )
    lifter = state.lifter
    return OrderSheet(
        FORMAT,
        build.name,
        engine_words(build.layout, build.cylinders),  # type: ignore[arg-type]
        made_at.isoformat(timespec="seconds"),
        build.version,
        state.ordering,
        state.measuring,
        state.ends.gauge_circle_in if state.ordering == "gauge" else None,
        _end_words(state.ends.lifter),
        _end_words(state.ends.rocker),
        lifter.low_in,
        lifter.high_in,
        lifter.target_in,
        lifter.travel_in,
        school_words(build),
        state.plan.tolerance_in,
        _rod(state),
        _lines(state),
        _evidence(state),
        [v.name for v in state.decision.valves if v.inferred] if state.decision else [],
        open_points(state),
        state.geometry_sums,
        practice=build.exercise_id is not None,
    )


def school_words(build: Build) -> str:
    """Where a preload window comes from, in words."""
    code = build.preload_school
    if build.preload_turns is not None:
        turns = build.preload_turns
        low, high = format_turns(turns.low), format_turns(turns.high)
        return say(
            "{low} to {high} turns of the fastener, {turns_rules}",
            low=low,
            high=high,
            turns_rules=TURNS_RULES[turns.rule],
        )
    if code is None:
        return say("the lifter maker's sheet")
    return say("{name} (common practice)", name=school_of(cast(PreloadSchoolCode, code)).name)


def _rod(state: BuildState) -> RodSpec:
    rod, build = rod_figures(state.build), state.build
    return RodSpec(
        rod.diameter_in, rod.wall_in, say(FORMS[rod.form]), rod.hardened,
        build.lifter_end, build.rocker_end,
    )  # fmt: skip


def _lines(state: BuildState) -> list[OrderLine]:
    """One line a length, shortest first; its valves in the order of the kinds."""
    by_length: dict[float, list[str]] = {}
    for kind in KINDS:
        for valve in state.valves:
            if valve.kind == kind and valve.name in state.rods_in:
                by_length.setdefault(state.rods_in[valve.name], []).append(valve.name)
    return [OrderLine(len(names), length, names) for length, names in sorted(by_length.items())]


def _end_words(end: RodEnd) -> str:
    hole = (
        say(", oil hole {oil_hole} in", oil_hole=figure(end.oil_hole_in, "g"))
        if end.oil_hole_in and end.kind == "ball"
        else ""
    )
    return say(
        "{kind} {ball} in{hole}", kind=END_WORDS[end.kind], ball=figure(end.ball_in, "g"), hole=hole
    )


def _evidence(state: BuildState) -> list[Evidence]:
    if state.decision is None:
        return []
    own = {v.name: v for v in state.valves}
    return [
        _evidence_row(own[row.valve.name], row, state.offset_in)
        for kind in KINDS
        for row in state.decision.rows
        if row.valve.kind == kind and not row.valve.inferred and row.valve.name in state.rods_in
    ]


def _evidence_row(valve: ValveState, row: DecidedValve, offset_in: float) -> Evidence:
    last = valve.told.last_reading
    return Evidence(
        valve.name,
        round(row.valve.zero_lash_in - offset_in, 6),
        round(2 * row.valve.u_in, 6),
        round(row.preload_in, 6),
        round(row.off_bottom_in or 0.0, 6),
        row.inside,
        valve.readings_count,
        last.taken_by,
        last.taken_at.isoformat(timespec="seconds"),
        row.length_in,
        round(row.length_in - offset_in, 6),
        None if row.hot_in is None else round(row.hot_in, 6),
        round(row.chances.cold, 4),
    )


def open_points(state: BuildState) -> list[str]:
    """What is not settled of what a build would order, in sentences."""
    points = []
    for kind in KINDS:
        own = [v for v in state.valves if v.kind == kind]
        without = [v.name for v in own if v.name not in state.rods_in]
        measured = sum(1 for v in own if v.measured is not None)
        if len(without) == len(own):
            why = say("no length that can be bought fits") if measured else say("not measured")
            points.append(
                say("No {kind} rods on this sheet: {why}.", kind=KIND_WORDS[kind], why=why)
            )
            continue
        if without:
            points.append(
                say(
                    "No rod for {without}: no length that can be bought fits.",
                    without=", ".join(without),
                )
            )
        if measured < len(own):
            points.append(
                say(
                    "{measured} of {own} {kind} valves measured; the others are inferred.",
                    measured=measured,
                    own=len(own),
                    kind=KIND_WORDS[kind],
                )
            )
    rows = (
        [r for r in state.decision.rows if r.valve.name in state.rods_in] if state.decision else []
    )
    for standing, words in (
        ("outside", say("Outside the preload window")),
        ("at the limit", say("At the limit of the preload window")),
    ):
        named = [r.valve.name for r in rows if r.standing == standing]
        if named:
            points.append(f"{words}: {', '.join(named)}.")
    if unstated := {v.unstated for v in state.valves if v.measured and v.trials} - {""}:
        points.append(
            say("The accuracy of {unstated} is not stated.", unstated=", ".join(sorted(unstated)))
        )
    rod = rod_figures(state.build)
    if rod.guide_plates and not rod.hardened:
        points.append(say("Guide plates run against these rods: order them hardened."))
    points += state.carried_words
    points += state.geometry_open
    points += [
        say("{name} is not believable as measured.", name=s.name) for s in state.suspicions.values()
    ]
    points += [
        fill(finding.what, {}, finding.smalls)
        for finding in state.spread.remarks
        if finding.about in ("shared", "odd", "slope", "bank")
    ]
    return points


def to_dict(sheet: OrderSheet) -> dict[str, Any]:
    return asdict(sheet)


def from_dict(kept: Mapping[str, Any]) -> OrderSheet:
    """A sheet as it was frozen."""
    parts: dict[str, Any] = {
        "rod": RodSpec(**kept["rod"]),
        "lines": [OrderLine(**line) for line in kept["lines"]],
        "evidence": [Evidence(**row) for row in kept["evidence"]],
    }
    return OrderSheet(**{**kept, **parts})


def trial_of(sheet: OrderSheet, sizes: Sequence[tuple[float, int]]) -> OrderSheet:
    """The same sheet for trial rods: (length, quantity), for no valve in particular."""
    lines = [OrderLine(quantity, length, []) for length, quantity in sizes]
    return replace(sheet, lines=lines)
