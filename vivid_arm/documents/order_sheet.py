"""The order sheet: one content, three formats (PDF, CSV, JSON)."""

import csv
import io
import json
from dataclasses import asdict, dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

from jinja2 import Environment, FileSystemLoader, StrictUndefined

from vivid_arm.core.cautions import ORDERING
from vivid_arm.core.conventions import CONVENTIONS, RodEnd
from vivid_arm.core.engine import engine_words
from vivid_arm.core.errors import InputError
from vivid_arm.core.lengths import Unit, format_length, format_small
from vivid_arm.core.verdicts import fill
from vivid_arm.records.state import BuildState

FORMAT = "vivid-arm/order/2"
_HERE = Path(__file__).parent


@dataclass(frozen=True)
class Line:
    """One rod length to order, inches in the order's convention."""

    quantity: int
    length_in: float
    valves: list[str]


@dataclass(frozen=True)
class Evidence:
    """The measurement behind a line: zero lash (measuring convention), preload, off-bottom."""

    valve: str
    zero_lash_in: float
    expanded_uncertainty_in: float
    preload_in: float
    off_bottom_in: float
    inside: bool
    readings: int
    measured_by: str
    measured_at: str


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
    lines: list[Line]
    evidence: list[Evidence]
    open_points: list[str]


def order_sheet(state: BuildState, made_at: datetime) -> OrderSheet:
    """The sheet for a build as it stands. Raises InputError while no line can be ordered."""
    build = state.build
    if not state.lines:
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
        [
            Line(
                line.quantity,
                line.length_in,
                [v.name for v in state.valves if v.kind in line.kinds],
            )
            for line in state.lines
        ],
        _evidence(state),
        _open_points(state),
    )


def _end_words(end: RodEnd) -> str:
    hole = f", oil hole {end.oil_hole_in:g} in" if end.oil_hole_in and end.kind == "ball" else ""
    return f"{end.kind} {end.ball_in:g} in{hole}"


def _evidence(state: BuildState) -> list[Evidence]:
    rows = []
    for group in state.groups:
        if group.taken is None:
            continue
        for valve, found in zip(group.measured, group.taken.fits, strict=True):
            own = next(
                v
                for v in state.valves
                if v.kind == valve.kind and v.valve.cylinder == valve.cylinder
            )
            last = own.last_reading
            rows.append(
                Evidence(
                    own.name,
                    round(valve.zero_lash_in, 6),
                    round(2 * valve.u_in, 6),
                    round(found.preload_in, 6),
                    round(found.off_bottom_in, 6),
                    found.inside,
                    own.readings_count,
                    last.taken_by,
                    last.taken_at.isoformat(timespec="seconds"),
                )
            )
    return rows


def _open_points(state: BuildState) -> list[str]:
    points = []
    for group in state.groups:
        if group.taken is None:
            points.append(f"No {group.kind} rods on this sheet: {_why_none(state, group.kind)}.")
        elif not group.taken.inside:
            points.append(f"The {group.kind} length is outside the preload window.")
        if group.measured and group.short_of_measured:
            points.append(
                f"{len(group.measured)} of {group.quantity} {group.kind} valves measured; "
                "the others are assumed alike."
            )
    points += [f"{s.name} is not believable as measured." for s in state.suspicions.values()]
    points += [
        fill(finding.what, {}, finding.smalls)
        for finding in state.spread.findings
        if finding.about in ("odd", "slope", "bank")
    ]
    return points


def _why_none(state: BuildState, kind: str) -> str:
    group = next(g for g in state.groups if g.kind == kind)
    return "not measured" if group.choice is None else "no stock length fits the window"


def to_dict(sheet: OrderSheet) -> dict[str, Any]:
    return asdict(sheet)


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


def to_html(sheet: OrderSheet, unit: Unit = "in") -> str:
    env = Environment(loader=FileSystemLoader(_HERE), autoescape=True, undefined=StrictUndefined)
    env.filters["length"] = lambda value: format_length(value, unit)
    env.filters["other"] = lambda value: format_length(value, "mm" if unit == "in" else "in")
    env.filters["small"] = lambda value: format_small(value, unit)
    env.filters["when"] = lambda iso: datetime.fromisoformat(iso).strftime("%Y-%m-%d %H:%M %Z")
    return env.get_template("order_sheet.html").render(
        sheet=sheet,
        convention=CONVENTIONS[sheet.convention],  # type: ignore[index]
        measuring=CONVENTIONS[sheet.measuring_convention],  # type: ignore[index]
        cautions=ORDERING,
    )


def to_pdf(sheet: OrderSheet, unit: Unit = "in") -> bytes:
    """The sheet on A4, black on white."""
    # Imported on use: it costs half a second that the start does not need.
    from weasyprint import HTML

    return bytes(HTML(string=to_html(sheet, unit), base_url=str(_HERE)).write_pdf())
