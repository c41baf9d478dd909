"""The order sheet: what it says, in every format, for orders that are not simple."""

import csv
import io
import json
import re
import subprocess
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path

import cv2
import numpy as np
import pytest
from pypdf import PdfReader

from vivid_arm.documents.order_data import (
    Evidence,
    OrderLine,
    OrderSheet,
    RodSpec,
    from_dict,
    to_dict,
)
from vivid_arm.documents.order_sheet import to_csv, to_html, to_pdf, to_text
from vivid_arm.documents.pictures import ladder_svg

SHEET = OrderSheet(
    format="vivid-arm/order/3",
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
    preload_school="the lifter maker's sheet",
    tolerance_in=0.003,
    rod=RodSpec(0.3125, 0.080, "One piece", True, "ball", "cup"),
    inferred=["2I"],
    lines=[
        OrderLine(8, 7.3500, [f"{n}I" for n in range(1, 9)]),
        OrderLine(8, 7.4250, [f"{n}E" for n in range(1, 9)]),
    ],
    evidence=[
        Evidence(
            "1I",
            7.3375,
            0.0025,
            0.0541,
            0.1459,
            True,
            3,
            "Tess",
            "2026-11-25T09:12:00+00:00",
            7.3500,
            7.3831,
            None,
            0.97,
        ),
        Evidence(
            "1E",
            7.39,
            0.003,
            0.111,
            0.089,
            False,
            2,
            "",
            "2026-11-25T09:20:00+00:00",
            7.4250,
            7.4581,
            None,
            0.03,
        ),
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
        "licensed machinist", "from build version 3", "hardened for guide plates",
        "from the lifter maker's sheet", "Inferred from the others, not measured: 2I",
    ):  # fmt: skip
        assert words in text, words


def test_print_in_millimetres_keeps_inches_beside_the_lengths(tmp_path: Path) -> None:
    text = printed(SHEET, tmp_path, "mm")
    assert "186.69 mm" in text
    assert "7.3500 in" in text
    assert "1.27 mm to 2.54 mm" in text
    assert "thou" not in text


@pytest.mark.slow
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


def test_a_frozen_sheet_comes_back_the_same() -> None:
    assert from_dict(json.loads(json.dumps(to_dict(SHEET)))) == SHEET


def test_the_e_mail_names_its_convention() -> None:
    text = to_text(SHEET)
    assert "8 x 7.3500 in (186.69 mm)" in text
    assert "gauge length to a gauge circle of 0.140 in" in text
    assert "hardened for guide plates" in text


@pytest.mark.slow
@pytest.mark.parametrize(("paper", "points"), [("A4", (595.3, 841.9)), ("Letter", (612, 792))])
def test_paper_and_qr_code(paper: str, points: tuple[float, float]) -> None:
    """Independent: the QR code in the sheet, drawn by poppler, is read back by OpenCV."""
    link = "http://127.0.0.1:8610/builds/3062f776-5360-5417-a649-f8a3e5037b67/order"
    pdf = to_pdf(SHEET, "in", paper, link)  # type: ignore[arg-type]
    box = PdfReader(io.BytesIO(pdf)).pages[0].mediabox
    assert (float(box.width), float(box.height)) == pytest.approx(points, abs=0.2)
    png = subprocess.run(
        ["pdftoppm", "-png", "-r", "200", "-singlefile", "-"],
        input=pdf, capture_output=True, check=True,
    ).stdout  # fmt: skip
    page = cv2.imdecode(np.frombuffer(png, np.uint8), cv2.IMREAD_COLOR)
    assert cv2.QRCodeDetector().detectAndDecode(page)[0] == link


def test_the_ladder_on_paper_is_to_scale() -> None:
    """Derived by hand: places on the picture are proportional to lengths on the axis."""
    svg = ladder_svg(SHEET.lines[0], SHEET, "in")
    assert svg is not None
    rod = re.search(r'data-rod="([\d.]+)" data-x="([\d.]+)"', svg)
    window = re.search(r'<rect x="([\d.]+)" y="48" width="([\d.]+)"', svg)
    zero = re.search(r'M([\d.]+) 34V80"', svg)
    assert rod
    assert window
    assert zero
    per_inch = float(window[2]) / (SHEET.preload_high_in - SHEET.preload_low_in)
    at = 7.3375 + (float(rod[2]) - float(zero[1])) / per_inch
    assert at == pytest.approx(float(rod[1]), abs=2e-4)
    assert float(window[1]) - float(zero[1]) == pytest.approx(0.05 * per_inch, abs=0.05)
