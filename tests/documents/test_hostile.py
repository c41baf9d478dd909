"""Names that want to be more than names: on every paper they stay text, and nothing is fetched."""

import io
import socketserver
import threading
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path

import pytest
from fontTools.ttLib import TTFont
from pypdf import PdfReader
from sqlalchemy import Engine, select
from sqlalchemy.orm import Session

from tests.builders import load_demo
from vivid_arm.core.rods.cutting import cut_list
from vivid_arm.documents import cut_sheet, order_data, order_sheet, report
from vivid_arm.documents.fetching import FONTS, OwnOnly
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.load import build_states
from vivid_arm.records.state.rod import rod_figures, tips_of
from vivid_arm.records.state.sign_off import sign_off_state
from vivid_arm.records.tables import Build

FORGED = "SIGNED AND SOUND"
HOSTILE = [
    'x\n}}body::before{{content:"{forged}"}}h2{{display:none}}@page{{@top-left{{content:"{forged}"}}',
    '"; }} }} body::before {{ content: "{forged}" }} /*',
    "</style></title><style>body::before{{content:'{forged}'}}</style>",
    "<img src='{url}'><link rel=stylesheet href='{url}'>",
    '<style>@import url("{url}");</style>',
    "<object data='file:///etc/passwd'></object><iframe src='file:///etc/passwd'></iframe>",
    "{{{{ 7 * 7 }}}}{{% for x in y %}}",
    "\\22 \\7d body{{background:url({url})}}",
]


@pytest.fixture
def listener() -> Iterator[tuple[str, list[str]]]:
    """An address on loopback, and what was asked of it."""
    asked: list[str] = []

    class Ears(socketserver.StreamRequestHandler):
        def handle(self) -> None:
            asked.append(self.rfile.readline().decode())

    with socketserver.TCPServer(("127.0.0.1", 0), Ears) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield f"http://127.0.0.1:{server.server_address[1]}/x.css", asked
        server.shutdown()


def named(session: Session, name: str) -> BuildState:
    """The demo's signed build, its name, notes and signature written past every check."""
    build = session.scalars(select(Build).where(Build.name == "Sawmill tractor inline six")).one()
    build.name = name[:200]
    session.flush()
    session.expire_all()
    return build_states(session, [build.id])[0]


@pytest.mark.slow
@pytest.mark.parametrize("pattern", HOSTILE)
def test_a_name_stays_a_name_on_every_paper(
    session: Session, empty: Engine, listener: tuple[str, list[str]], pattern: str
) -> None:
    url, asked = listener
    name = pattern.format(forged=FORGED, url=url)
    load_demo(empty)
    state = named(session, name)
    now = datetime(2026, 11, 26, tzinfo=UTC)
    sheet = order_data.order_sheet(state, now)
    rods = [(v, length) for v, length in state.rods_in.items()]
    state.build.rod = rod_figures(state.build).model_copy(
        update={"sample_overall_in": 7.4, "sample_tube_in": 7.0, "bar_in": 40.0}
    )
    tips = tips_of(state.build)
    assert tips is not None
    cuts = cut_list(rods, tips, 40.0, 0.06)
    papers = {
        "report": report.to_pdf(state, sign_off_state(session, state), now),
        "order": order_sheet.to_pdf(sheet),
        "cut list": cut_sheet.to_pdf(state, cuts, tips),
    }
    for paper, made in papers.items():
        pages = [page.extract_text() for page in PdfReader(io.BytesIO(made)).pages]
        text = "\n".join(pages)
        assert "root:" not in text, paper
        assert text.count(FORGED) <= (1 + len(pages)) * name[:200].count(FORGED), paper
        assert {"report": "Signature", "order": "Quantity", "cut list": "Tube"}[paper] in text
    assert asked == []


@pytest.mark.parametrize(
    "url",
    ["http://127.0.0.1/a.woff2", "file:///etc/passwd", f"file://{FONTS}/../report.html",
     f"file://elsewhere{FONTS}/a.woff2", "data:text/css,body{}",
     "data:image/svg+xml;base64,PHN2Zy8+", f"file://{FONTS}/%2e%2e/paper.py"],
)  # fmt: skip
def test_nothing_else_is_served(url: str) -> None:
    with pytest.raises(ValueError, match="its own fonts and photos only"):
        OwnOnly().fetch(url)


def test_the_fonts_themselves_are(tmp_path: Path) -> None:
    """As they ship, unpacked."""
    font = next(FONTS.glob("*.woff2"))
    served = TTFont(io.BytesIO(OwnOnly().fetch(f"file://{font}").read()))
    assert served.flavor is None
    assert served.getBestCmap() == TTFont(font).getBestCmap()
