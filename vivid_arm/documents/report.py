"""The whole build on paper: drawings, readings, decision, orders, checks, signature, cautions."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any, cast

from vivid_arm.core.engine.layout import KINDS, engine_words
from vivid_arm.core.entry.conventions import CONVENTIONS
from vivid_arm.core.entry.lengths import format_small
from vivid_arm.core.errors import InputError
from vivid_arm.core.rods.decide import MODES, Decision
from vivid_arm.core.rods.growth import PARTS, PartName
from vivid_arm.core.said.cautions import FITTING, MARKING, MEASURING, ORDERING, TORQUE
from vivid_arm.core.said.verdicts import decision_verdict, fill
from vivid_arm.core.sign_off.torque import UNITS, Torque, TorqueUnit
from vivid_arm.core.words import Unit, figure, say, say_all
from vivid_arm.core.zero_lash.bracket import FEELS, Feel
from vivid_arm.core.zero_lash.methods import METHODS
from vivid_arm.documents import order_data
from vivid_arm.documents.paper import Filters, Paper, jpeg_link, page_of, pdf_of
from vivid_arm.documents.pictures import heads_svg, ladder_svg, qr_svg
from vivid_arm.records.rows.line import KeptLine
from vivid_arm.records.shapes import StageFigures
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.notes import KeptNote
from vivid_arm.records.state.orders import STATE_WORDS, changed_since, sorted_rods
from vivid_arm.records.state.rocker import RockerState
from vivid_arm.records.state.sign_off import WAY_WORDS, Point, SignOffState, Way
from vivid_arm.records.tables import Order


@dataclass(frozen=True)
class LogRow:
    """One line of a valve's log as it is printed."""

    number: str
    what: str
    raw: str
    gives: float | None
    struck: str
    by: str
    at: datetime


NoteOnPaper = tuple[KeptNote, bytes | None]
"""A note with its photo as JPEG, where it has one that is printed."""


def _way_words(row: KeptLine) -> str:
    if row.kind == "trial":
        return say(FEELS[cast(Feel, row.feel)])
    return say(METHODS[row.kind]) if row.kind in METHODS else row.kind


def log_rows(state: BuildState) -> list[tuple[str, list[LogRow]]]:
    """Every reading of the build, valve by valve, struck ones too."""
    found = []
    for valve in state.valves:
        rows = []
        for entry in valve.log:
            row = entry.row
            if row.kind in ("void", "count_back"):
                continue
            gap = say(", gap {raw_gap}", raw_gap=row.raw_gap) if row.raw_gap else ""
            struck = "" if entry.struck_by is None else entry.struck_by.reason or say("struck out")
            rows.append(
                LogRow(
                    str(row.number or ""),
                    _way_words(row),
                    row.raw + gap,
                    entry.length_in,
                    struck,
                    row.taken_by,
                    row.taken_at,
                )
            )
        if rows:
            found.append((valve.name, rows))
    return found


def decision_of(state: BuildState) -> tuple[Decision | None, str]:
    """The decision, or why there is none."""
    try:
        return state.decision, ""
    except InputError as error:
        return None, str(error)


def check_rows(finish: SignOffState) -> list[tuple[str, list[tuple[Point, str]]]]:
    """The checks that were made as printed: (check, its points with the way they were found).

    A yes has no figure and stands in ``answered_yes``.
    """
    found: dict[str, list[tuple[Point, str]]] = {}
    for p in finish.points:
        if p.row is None or p.judged is None or (p.check.yes_no and p.judged.passed):
            continue
        found.setdefault(say(p.check.title), []).append((p, say(WAY_WORDS[cast(Way, p.row.way)])))
    return list(found.items())


def answered_yes(finish: SignOffState) -> list[tuple[str, list[str]]]:
    """Checks answered with yes, in few lines: (check, valves)."""
    found: dict[str, list[str]] = {}
    for p in finish.points:
        if p.check.yes_no and p.judged is not None and p.judged.passed:
            found.setdefault(say(p.check.title), []).append(p.valve.name)
    return list(found.items())


def not_made(finish: SignOffState) -> list[tuple[str, list[str]]]:
    """Checks that are wanted and were not made: (check, valves)."""
    found: dict[str, list[str]] = {}
    for p in finish.missing:
        found.setdefault(say(p.check.title), []).append(p.valve.name)
    return list(found.items())


def chance_words(chance: float) -> str:
    """A probability as printed; never a certainty."""
    return "> 99 %" if chance > 0.99 else f"{int(100 * chance)} %"


def limit_words(point: Point, unit: Unit) -> str:
    """A limit as printed: "at least 80 thou", "20 thou to 60 thou"."""
    limit = point.limit
    if limit is None:
        return say("yes") if point.check.yes_no else say("no limit")
    if limit.low_in is not None and limit.high_in is not None:
        return say(
            "{low} to {high}",
            low=format_small(limit.low_in, unit),
            high=format_small(limit.high_in, unit),
        )
    return say("at least {low}", low=format_small(limit.low_in or 0.0, unit))


def order_rows(
    state: BuildState, orders: Sequence[Order]
) -> tuple[list[dict[str, Any]], list[int]]:
    """(orders as printed, the oldest first; the numbers of those that were only drafted).

    What went out stands whole, and the last draft.
    """
    drafts = [o for o in orders if o.asked_at is None and o.state in ("draft", "withdrawn")]
    last = max((o.number for o in drafts if o.state == "draft"), default=None)
    passed_over = sorted(o.number for o in drafts if o.number != last)
    shown = sorted((o for o in orders if o.number not in passed_over), key=lambda o: o.number)
    return [
        {"order": o, "rods": sorted_rods(state, o), "warnings": changed_since(state, o)}
        for o in shown
    ], passed_over


def photos_left(notes: Sequence[NoteOnPaper]) -> int:
    """How many photos of the notes are not printed."""
    return len({n.photo_id for n, _ in notes if n.photo_id}) - sum(1 for _, body in notes if body)


def note_runs(notes: Sequence[NoteOnPaper]) -> list[tuple[list[KeptNote], str]]:
    """Notes that stand one below the other, and the photo of the last of them or nothing."""
    runs: list[tuple[list[KeptNote], str]] = []
    for note, body in notes:
        if not runs or runs[-1][1]:
            runs.append(([], ""))
        runs[-1][0].append(note)
        if body is not None:
            runs[-1] = (runs[-1][0], jpeg_link(body))
    return runs


def torque_lines(state: BuildState) -> list[tuple[str, str, list[str]]]:
    """The torque card: (fastener, note, stages in all units)."""
    found = []
    for fastener in state.build.torque.fasteners if state.build.torque else ():
        stages = [_stage_words(s) for s in fastener.stages]
        found.append((fastener.name, fastener.note, stages))
    return found


def _stage_words(stage: StageFigures) -> str:
    angle = stage.angle_deg
    turn = say("{angle}° on", angle=figure(angle, "g")) if angle else ""
    if stage.value is None:
        return turn
    torque = Torque(stage.value, stage.unit)
    units: tuple[TorqueUnit, ...] = ("lbf_ft", "lbf_in", "N_m")
    figures = " = ".join(f"{figure(torque.to(u), '.1f')} {UNITS[u][0]}" for u in units)
    return say("{figures}, then {turn}", figures=figures, turn=turn) if turn else figures


def growth_rows(decision: Decision | None) -> list[tuple[str, list[float]]]:
    """Cold to hot part by part: (words, change of preload of each kind)."""
    if decision is None or not decision.growths:
        return []
    columns = [g.terms for g in decision.growths.values()]
    return [
        (_part_words(terms[0].part), [t.value_in for t in terms])
        for terms in zip(*columns, strict=True)
    ]


def _part_words(part: PartName) -> str:
    return say("Valve, seat to tip") if part.endswith("valve") else say(PARTS[part])


def rocker_words(rocker: RockerState, unit: Unit) -> str:
    """What the marks of a valve say, in two sentences."""
    verdict = rocker.verdict
    lengths = rocker.shown(verdict.lengths)
    return " ".join(fill(t, lengths, verdict.smalls, unit) for t in (verdict.what, verdict.why))


def _filters(unit: Unit) -> Filters:
    return {
        "when": lambda at: at.strftime("%Y-%m-%d %H:%M %Z"),
        "chance": chance_words,
        "state_words": lambda state: say(STATE_WORDS[state]),
        "limit": lambda point: limit_words(point, unit),
    }


def to_html(
    state: BuildState,
    finish: SignOffState,
    made_at: datetime,
    unit: Unit = "in",
    paper: Paper = "A4",
    link: str = "",
    notes: Sequence[NoteOnPaper] = (),
) -> str:
    """The report as a page; ``notes`` with their photos as JPEG."""
    decision, refusal = decision_of(state)
    verdict = decision_verdict(decision) if decision else None
    sheet = None
    if state.rods_in:
        sheet = order_data.order_sheet(state, made_at)
    build = state.build
    orders, passed_over = order_rows(state, finish.orders)
    return page_of(
        "report.html",
        unit,
        paper,
        _filters,
        practice=build.exercise_id is not None,
        state=state,
        build=build,
        engine=engine_words(build.layout, build.cylinders),  # type: ignore[arg-type]
        school=order_data.school_words(build),
        measuring=say(CONVENTIONS[state.measuring]),
        ordering=say(CONVENTIONS[state.ordering]),
        link=link,
        qr=qr_svg(link) if link else "",
        made_at=made_at,
        heads=heads_svg(state, unit),
        pictures=[(line, ladder_svg(line, sheet, unit)) for line in sheet.lines] if sheet else [],
        remarks=[fill(f.what, {}, f.smalls, unit) for f in state.spread.remarks],
        decision=decision,
        mode=say(MODES[decision.aim.mode]) if decision
        else refusal or say("Nothing is measured yet."),
        verdict=[fill(t, verdict.lengths, verdict.smalls, unit)
                 for t in (verdict.what, verdict.why, verdict.then)] if verdict else [],
        growth_rows=growth_rows(decision),
        sheet=sheet,
        orders=orders,
        passed_over=passed_over,
        checks=check_rows(finish),
        not_made=not_made(finish),
        answered_yes=answered_yes(finish),
        finish=finish,
        lash=[(k, f) for k in KINDS if state.solid and (f := finish.feelers(k))],
        log=log_rows(state),
        notes=note_runs(notes),
        photos_left=photos_left(notes),
        marks=[
            (v.name, v.rocker, rocker_words(v.rocker, unit))
            for v in state.valves
            if v.rocker.counted
        ],
        torque=torque_lines(state),
        evidence=finish.last,
        torque_caution=say(TORQUE),
        cautions=say_all(dict.fromkeys((*MEASURING, *MARKING, *ORDERING, *FITTING))),
    )  # fmt: skip


def to_pdf(
    state: BuildState,
    finish: SignOffState,
    made_at: datetime,
    unit: Unit = "in",
    paper: Paper = "A4",
    link: str = "",
    notes: Sequence[NoteOnPaper] = (),
) -> bytes:
    """The report on paper, black on white."""
    return pdf_of(to_html(state, finish, made_at, unit, paper, link, notes))
