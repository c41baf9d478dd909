"""Sheets of stickers hold as many rods as they are sold with, and no label runs over its edge."""

import io

import pytest
from pypdf import PdfReader

from vivid_arm.documents.labels import labels_of, to_html
from vivid_arm.documents.paper import Paper, made_pdf


@pytest.mark.slow
@pytest.mark.parametrize(("paper", "most"), [("A4", 24), ("Letter", 30)])
def test_a_sheet_is_filled_and_no_more(paper: Paper, most: int) -> None:
    """Common practice: three by eight on A4, three by ten on Letter."""
    for count in (most, most + 1):
        rods = [(f"{i + 1}I", 7.4) for i in range(count)]
        page = to_html(labels_of(rods, "gauge length", "x"), "W" * 80, 1, "gauge length",
                       paper=paper)  # fmt: skip
        pages = PdfReader(io.BytesIO(made_pdf(page))).pages
        assert len(pages) == (1 if count == most else 2)
        assert pages[0].extract_text().count("7.4000 in") == most
