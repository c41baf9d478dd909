"""The cut list on paper and as CSV: which tube for which valve, bar by bar."""

import csv
import io
from pathlib import Path

from jinja2 import Environment, FileSystemLoader, StrictUndefined

from vivid_arm.core.entry.conventions import CONVENTIONS
from vivid_arm.core.entry.lengths import Unit, format_length, format_small
from vivid_arm.core.rods.cutting import CutList, Tips
from vivid_arm.core.said.cautions import ORDERING
from vivid_arm.documents.order_sheet import Paper
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.rod import rod_figures

_HERE = Path(__file__).parent


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
    from weasyprint import HTML

    env = Environment(loader=FileSystemLoader(_HERE), autoescape=True, undefined=StrictUndefined)
    env.filters["as_length"] = lambda value: format_length(value, unit)
    env.filters["as_small"] = lambda value: format_small(value, unit)
    rod = rod_figures(state.build)
    page = env.get_template("cut_sheet.html").render(
        build=state.build,
        found=found,
        tips=tips,
        rod=rod,
        convention=CONVENTIONS[state.ordering],
        paper=paper,
        cautions=ORDERING[-1:],
    )
    return bytes(HTML(string=page, base_url=str(_HERE)).write_pdf())
