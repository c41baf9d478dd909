"""The cut list on paper and as CSV: which tube for which valve, bar by bar."""

import csv
import io

from vivid_arm.core.entry.conventions import CONVENTIONS
from vivid_arm.core.rods.cutting import CutList, Tips
from vivid_arm.core.said.cautions import ORDERING
from vivid_arm.core.words import Unit, say, say_all
from vivid_arm.documents.paper import Paper, page_of, pdf_of
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.rod import rod_figures


def to_csv(found: CutList) -> str:
    """One row a rod: bar, valve, tube and finished length (RFC 4180)."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(["bar", "valve", "tube_in", "tube_mm", "finished_in", "finished_mm"])
    for cut in found.cuts:
        lengths = [
            text for x in (cut.tube_in, cut.finished_in) for text in (f"{x:.4f}", f"{x * 25.4:.2f}")
        ]
        writer.writerow([cut.bar, cut.valve, *lengths])
    return out.getvalue()


def to_pdf(
    state: BuildState, found: CutList, tips: Tips, unit: Unit = "in", paper: Paper = "A4"
) -> bytes:
    """The list to cut by, with a column to write the pressed length into."""
    page = page_of(
        "cut_sheet.html",
        unit,
        paper,
        practice=state.build.exercise_id is not None,
        build=state.build,
        found=found,
        tips=tips,
        rod=rod_figures(state.build),
        convention=say(CONVENTIONS[state.ordering]),
        cautions=say_all(ORDERING[-1:]),
    )
    return pdf_of(page)
