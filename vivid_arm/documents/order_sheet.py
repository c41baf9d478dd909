"""The order sheet: one content, three formats (PDF, CSV, JSON)."""

import csv
import io
import json
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from datetime import datetime
from pathlib import Path
from typing import Any, Literal, cast

from jinja2 import Environment, FileSystemLoader, StrictUndefined

from vivid_arm.core.cautions import ORDERING
from vivid_arm.core.conventions import CONVENTIONS, RodEnd
from vivid_arm.core.decide import Row
from vivid_arm.core.engine import KINDS, engine_words
from vivid_arm.core.errors import InputError
from vivid_arm.core.lengths import Unit, format_length, format_small
from vivid_arm.core.preload import SchoolCode, school_of
from vivid_arm.core.rod import FORMS, Form
from vivid_arm.core.verdicts import fill
from vivid_arm.records.finishing import rod_figures
from vivid_arm.records.state import BuildState, ValveState

from .pictures import ladder_svg, qr_svg

FORMAT = "vivid-arm/order/3"
_HERE = Path(__file__).parent


@dataclass(frozen=True)
class Line:
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
    """Everything an order sheet says; lengths in inches."""

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
    lines: list[Line]
    evidence: list[Evidence]
    inferred: list[str]
    open_points: list[str]


def order_sheet(state: BuildState, made_at: datetime) -> OrderSheet:
    """The sheet for a build as it stands. Raises InputError while no line can be ordered."""
    build = state.build
    if not state.rods_in:
        raise InputError(
            "order",
            "There is nothing to order yet",
            remedy="Find zero lash and a length that fits first",
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
        school_words(build.preload_school),
        state.plan.tolerance_in,
        _rod(state),
        _lines(state),
        _evidence(state),
        [v.name for v in state.decision.valves if v.inferred] if state.decision else [],
        _open_points(state),
    )


def school_words(code: str | None) -> str:
    """Where a preload window comes from, in words."""
    if code is None:
        return "the lifter maker's sheet"
    return f"{school_of(cast(SchoolCode, code)).name} (common practice)"


def _rod(state: BuildState) -> RodSpec:
    rod, build = rod_figures(state.build), state.build
    return RodSpec(
        rod["diameter_in"], rod["wall_in"], FORMS[cast(Form, rod["form"])], rod["hardened"],
        build.lifter_end, build.rocker_end,
    )  # fmt: skip


def _lines(state: BuildState) -> list[Line]:
    """One line a length, shortest first; its valves in the order of the kinds."""
    by_length: dict[float, list[str]] = {}
    for kind in KINDS:
        for valve in state.valves:
            if valve.kind == kind and valve.name in state.rods_in:
                by_length.setdefault(state.rods_in[valve.name], []).append(valve.name)
    return [Line(len(names), length, names) for length, names in sorted(by_length.items())]


def _end_words(end: RodEnd) -> str:
    hole = f", oil hole {end.oil_hole_in:g} in" if end.oil_hole_in and end.kind == "ball" else ""
    return f"{end.kind} {end.ball_in:g} in{hole}"


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


def _evidence_row(valve: ValveState, row: Row, offset_in: float) -> Evidence:
    last = valve.last_reading
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
        round(row.odds.cold, 4),
    )


def _open_points(state: BuildState) -> list[str]:
    points = []
    for kind in KINDS:
        own = [v for v in state.valves if v.kind == kind]
        without = [v.name for v in own if v.name not in state.rods_in]
        measured = sum(1 for v in own if v.measured is not None)
        if len(without) == len(own):
            why = "no length that can be bought fits" if measured else "not measured"
            points.append(f"No {kind} rods on this sheet: {why}.")
            continue
        if without:
            points.append(f"No rod for {', '.join(without)}: no length that can be bought fits.")
        if measured < len(own):
            points.append(
                f"{measured} of {len(own)} {kind} valves measured; the others are inferred."
            )
    if state.decision is not None:
        out = [r.valve.name for r in state.decision.rows if not r.inside]
        named = [n for n in out if n in state.rods_in]
        if named:
            points.append(f"Outside the preload window: {', '.join(named)}.")
    points += [f"{s.name} is not believable as measured." for s in state.suspicions.values()]
    points += [
        fill(finding.what, {}, finding.smalls)
        for finding in state.spread.findings
        if finding.about in ("odd", "slope", "bank")
    ]
    return points


def to_dict(sheet: OrderSheet) -> dict[str, Any]:
    return asdict(sheet)


def from_dict(kept: Mapping[str, Any]) -> OrderSheet:
    """A sheet as it was frozen."""
    parts: dict[str, Any] = {
        "rod": RodSpec(**kept["rod"]),
        "lines": [Line(**line) for line in kept["lines"]],
        "evidence": [Evidence(**row) for row in kept["evidence"]],
    }
    return OrderSheet(**{**kept, **parts})


def trial_of(sheet: OrderSheet, sizes: Sequence[tuple[float, int]]) -> OrderSheet:
    """The same sheet for trial rods: (length, quantity), for no valve in particular."""
    lines = [Line(quantity, length, []) for length, quantity in sizes]
    return replace(sheet, lines=lines)


def to_text(sheet: OrderSheet) -> str:
    """The order as the text of an e-mail."""
    rod = sheet.rod
    circle = (
        f" to a gauge circle of {sheet.gauge_circle_in:.3f} in" if sheet.gauge_circle_in else ""
    )
    lines = [
        f"  {line.quantity:3d} x {line.length_in:.4f} in ({line.length_in * 25.4:.2f} mm)"
        for line in sheet.lines
    ]
    return "\n".join(
        [
            f"Rod order for {sheet.build}",
            "",
            "Please quote and send:",
            *lines,
            "",
            f"All lengths are {CONVENTIONS[sheet.convention]}{circle}.",  # type: ignore[index]
            f"Tube {rod.diameter_in:.4f} in, wall {rod.wall_in:.3f} in, {rod.form.lower()}, "
            f"{'hardened for guide plates' if rod.hardened else 'not hardened'}.",
            f"Lifter end: {sheet.lifter_end}. Rocker end: {sheet.rocker_end}.",
            "",
            "Please confirm the length convention before making anything.",
            "",
        ]
    )


def to_json(sheet: OrderSheet) -> str:
    return json.dumps(to_dict(sheet), indent=2, ensure_ascii=False) + "\n"


def to_csv(sheet: OrderSheet) -> str:
    """One row a length: quantity, length, convention, ends, valves (RFC 4180)."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(
        ["quantity", "length_in", "length_mm", "convention", "gauge_circle_in",
         "lifter_end", "rocker_end", "valves", "build", "made_at"]
    )  # fmt: skip
    for line in sheet.lines:
        writer.writerow(
            [
                line.quantity,
                f"{line.length_in:.4f}",
                f"{line.length_in * 25.4:.2f}",
                CONVENTIONS[sheet.convention],  # type: ignore[index]
                "" if sheet.gauge_circle_in is None else f"{sheet.gauge_circle_in:.4f}",
                sheet.lifter_end,
                sheet.rocker_end,
                " ".join(line.valves),
                safe_cell(sheet.build),
                sheet.made_at,
            ]
        )
    return out.getvalue()


def safe_cell(text: str) -> str:
    """Keep a spreadsheet from taking a name for a formula."""
    return f"'{text}" if text[:1] in "=+-@" else text


Paper = Literal["A4", "Letter"]


def to_html(
    sheet: OrderSheet, unit: Unit = "in", paper: Paper = "A4", link: str = "", title: str = ""
) -> str:
    """The sheet as a page; ``link`` stands as a QR code, ``title`` says which order it is."""
    env = Environment(loader=FileSystemLoader(_HERE), autoescape=True, undefined=StrictUndefined)
    env.filters["as_length"] = lambda value: format_length(value, unit)
    env.filters["other"] = lambda value: format_length(value, "mm" if unit == "in" else "in")
    env.filters["as_small"] = lambda value: format_small(value, unit)
    env.filters["when"] = lambda iso: datetime.fromisoformat(iso).strftime("%Y-%m-%d %H:%M %Z")
    return env.get_template("order_sheet.html").render(
        sheet=sheet,
        convention=CONVENTIONS[sheet.convention],  # type: ignore[index]
        measuring=CONVENTIONS[sheet.measuring_convention],  # type: ignore[index]
        cautions=ORDERING,
        paper=paper,
        link=link,
        title=title or "Rod order",
        qr=qr_svg(link) if link else "",
        pictures=[
            (line, picture)
            for line in sheet.lines
            if (picture := ladder_svg(line, sheet, unit)) is not None
        ],
    )


def to_pdf(
    sheet: OrderSheet, unit: Unit = "in", paper: Paper = "A4", link: str = "", title: str = ""
) -> bytes:
    """The sheet on paper, black on white (see ``to_html``)."""
    # Imported on use: it costs half a second that the start does not need.
    from weasyprint import HTML

    page = to_html(sheet, unit, paper, link, title)
    return bytes(HTML(string=page, base_url=str(_HERE)).write_pdf())
