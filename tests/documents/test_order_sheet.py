"""The order sheet: what it says, in every format, for orders that are not simple."""

import csv
import io
import subprocess
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

import pytest

from vivid_arm.documents.order_sheet import (
    Evidence,
    Line,
    OrderSheet,
    to_csv,
    to_html,
    to_json,
    to_pdf,
)

SHEET = OrderSheet(
    format="vivid-arm/order/2",
    build="Test build",
    engine="V8",
    made_at=datetime(2026, 11, 25, 9, 30, tzinfo=UTC).isoformat(),
    build_version=3,
    convention="gauge",
    measuring_convention="theoretical",
    gauge_circle_in=0.140,
    lifter_end="ball 0.3125 in",
    rocker_end="cup 0.3125 in",
    preload_low_in=0.050,
    preload_high_in=0.100,
    preload_target_in=0.070,
    travel_in=0.200,
    lines=[
        Line(8, 7.3500, [f"{n}I" for n in range(1, 9)]),
        Line(8, 7.4250, [f"{n}E" for n in range(1, 9)]),
    ],
    evidence=[
        Evidence(
            "1I", 7.3375, 0.0025, 0.0541, 0.1459, True, 3, "Tess", "2026-11-25T09:12:00+00:00"
        ),
        Evidence("1E", 7.39, 0.003, 0.111, 0.089, False, 2, "", "2026-11-25T09:20:00+00:00"),
    ],
    open_points=["The exhaust length is outside the preload window."],
)


def printed(sheet: OrderSheet, tmp_path: Path, unit: str = "in") -> str:
    """The text of the PDF, as pdftotext (poppler) reads it back."""
    target = tmp_path / "sheet.pdf"
    target.write_bytes(to_pdf(sheet, unit))  # type: ignore[arg-type]
    done = subprocess.run(
        ["pdftotext", "-layout", str(target), "-"], capture_output=True, text=True, check=True
    )
    return done.stdout


def test_print_carries_all_that_an_order_needs(tmp_path: Path) -> None:
    text = printed(SHEET, tmp_path)
    for words in (
        "gauge length to a gauge circle of 0.1400 in",
        "lifter ball 0.3125 in; rocker cup 0.3125 in",
        "7.3500 in", "186.69 mm", "1I, 2I, 3I, 4I, 5I, 6I, 7I, 8I",
        "Zero lash (theoretical overall)", "7.3375 in", "2.5 thou", "54.1 thou", "145.9 thou",
        "Tess, 2026-11-25 09:12 UTC", "unsigned, 2026-11-25 09:20 UTC",
        "111 thou (outside)", "The exhaust length is outside the preload window.",
        "Preload window 50 thou to 100 thou, target 70 thou, plunger travel 200 thou",
        "licensed machinist", "from build version 3",
    ):  # fmt: skip
        assert words in text, words


def test_print_in_millimetres_keeps_inches_beside_the_lengths(tmp_path: Path) -> None:
    text = printed(SHEET, tmp_path, "mm")
    assert "186.69 mm" in text
    assert "7.3500 in" in text
    assert "1.27 mm to 2.54 mm" in text
    assert "thou" not in text


def test_pages_fit_and_fonts_travel_with_the_file(tmp_path: Path) -> None:
    many = replace(SHEET, evidence=SHEET.evidence * 24)
    target = tmp_path / "sheet.pdf"
    target.write_bytes(to_pdf(many))
    info = subprocess.run(["pdfinfo", target], capture_output=True, text=True, check=True).stdout
    fonts = subprocess.run(["pdffonts", target], capture_output=True, text=True, check=True).stdout
    assert "A4" in info
    rows = fonts.splitlines()[2:]
    assert rows
    assert all("Bench" in row and row.split()[-5] == "yes" for row in rows)


def test_names_cannot_write_markup() -> None:
    html = to_html(replace(SHEET, build="<script>alert(1)</script> & son"))
    assert "<script>" not in html
    assert "&lt;script&gt;alert(1)&lt;/script&gt; &amp; son" in html


@pytest.mark.parametrize("name", ["=1+1", "+cmd", "-2", "@sum", "Plain", 'Quote " and, comma'])
def test_csv_reads_back_and_runs_nothing(name: str) -> None:
    rows = list(csv.DictReader(io.StringIO(to_csv(replace(SHEET, build=name)))))
    assert [float(r["length_in"]) for r in rows] == [7.35, 7.425]
    assert [float(r["length_mm"]) for r in rows] == pytest.approx([186.69, 188.595], abs=0.006)
    assert {r["gauge_circle_in"] for r in rows} == {"0.1400"}
    assert rows[0]["build"] in (name, f"'{name}")
    assert rows[0]["build"][0] not in "=+-@"


def test_csv_leaves_the_gauge_circle_out_where_it_means_nothing() -> None:
    rows = list(
        csv.DictReader(
            io.StringIO(to_csv(replace(SHEET, convention="centre", gauge_circle_in=None)))
        )
    )
    assert {(r["convention"], r["gauge_circle_in"]) for r in rows} == {("centre length", "")}


def test_json_keeps_letters_as_they_are() -> None:
    assert "Süd ½" in to_json(replace(SHEET, build="Süd ½"))
