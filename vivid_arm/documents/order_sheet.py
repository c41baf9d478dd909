"""The order sheet: one content, three formats (PDF, CSV, JSON)."""

import csv
import io
from datetime import datetime

from vivid_arm.core.entry.conventions import CONVENTIONS
from vivid_arm.core.entry.lengths import format_length
from vivid_arm.core.said.cautions import ORDERING
from vivid_arm.core.words import Unit, figure, say, say_all, within_a_sentence
from vivid_arm.documents.order_data import OrderSheet
from vivid_arm.documents.paper import Filters, Paper, page_of, pdf_of
from vivid_arm.documents.pictures import ladder_svg, qr_svg


def to_text(sheet: OrderSheet) -> str:
    """The order as the text of an e-mail."""
    rod = sheet.rod
    circle = (
        say(
            " to a gauge circle of {gauge_circle} in",
            gauge_circle=figure(sheet.gauge_circle_in, ".3f"),
        )
        if sheet.gauge_circle_in
        else ""
    )
    lines = [
        say(
            "  {quantity} x {length} in ({length_mm} mm)",
            quantity=figure(line.quantity, "3d"),
            length=figure(line.length_in, ".4f"),
            length_mm=figure(line.length_in * 25.4, ".2f"),
        )
        for line in sheet.lines
    ]
    return "\n".join(
        [
            say("Rod order for {build}", build=sheet.build),
            "",
            say("Please quote and send:"),
            *lines,
            "",
            say(
                "All lengths are {conventions}{circle}.",
                conventions=say(CONVENTIONS[sheet.convention]),  # type: ignore[index]
                circle=circle,
            ),
            say(
                "Tube {diameter} in, wall {wall} in, {form}, {hardened}.",
                diameter=figure(rod.diameter_in, ".4f"),
                wall=figure(rod.wall_in, ".3f"),
                form=within_a_sentence(rod.form),
                hardened=say("hardened for guide plates") if rod.hardened else say("not hardened"),
            ),
            say(
                "Lifter end: {lifter_end}. Rocker end: {rocker_end}.",
                lifter_end=sheet.lifter_end,
                rocker_end=sheet.rocker_end,
            ),
            "",
            *_listed(say("By the rocker's geometry:"), sheet.geometry),
            *_listed(say("Still open here:"), sheet.open_points),
            say("Please confirm the length convention before making anything."),
            "",
        ]
    )


def _listed(title: str, lines: list[str]) -> list[str]:
    return [title, *(f"  {line}" for line in lines), ""] if lines else []


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
                CONVENTIONS[sheet.convention].text,  # type: ignore[index]
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
    return f"'{text}" if text[:1] in "=+-@\t\r\n" else text


def _filters(unit: Unit) -> Filters:
    return {
        "other": lambda value: format_length(value, "mm" if unit == "in" else "in"),
        "when": lambda iso: datetime.fromisoformat(iso).strftime("%Y-%m-%d %H:%M %Z"),
    }


def to_html(
    sheet: OrderSheet, unit: Unit = "in", paper: Paper = "A4", link: str = "", title: str = ""
) -> str:
    """The sheet as a page; ``link`` stands as a QR code, ``title`` says which order it is."""
    return page_of(
        "order_sheet.html",
        unit,
        paper,
        _filters,
        practice=sheet.practice,
        sheet=sheet,
        convention=say(CONVENTIONS[sheet.convention]),  # type: ignore[index]
        measuring=say(CONVENTIONS[sheet.measuring_convention]),  # type: ignore[index]
        cautions=say_all(ORDERING),
        link=link,
        title=title or say("Rod order"),
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
    return pdf_of(to_html(sheet, unit, paper, link, title))
