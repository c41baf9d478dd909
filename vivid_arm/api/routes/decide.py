"""Deciding: which lengths, how likely they fit, the rod itself, the shop's box, the cut list."""

import csv
import io
from uuid import UUID

from fastapi import APIRouter

from vivid_arm.core.errors import InputError
from vivid_arm.records import box
from vivid_arm.records.models import BoxRod

from ..decide_schemas import BoxRodChange, BoxRodIn, BoxRodOut, DecisionOut, RodOut
from ..decide_views import cuts_of, decision_out, rod_out
from ..deps import Tx, build_state
from ..problems import NotFound
from .order import CsvResponse

router = APIRouter(tags=["decide"])


@router.get("/api/builds/{build_id}/decision")
def read_decision(build_id: UUID, session: Tx) -> DecisionOut | None:
    """Every valve's rod, ways of buying side by side, chances; null while nothing is measured."""
    return decision_out(build_state(session, build_id))


@router.get("/api/builds/{build_id}/rod")
def read_rod(build_id: UUID, session: Tx) -> RodOut:
    """The rod itself: strength beside others, room in the head, cut list."""
    return rod_out(build_state(session, build_id))


@router.get("/api/builds/{build_id}/cut-list.csv", response_class=CsvResponse)
def cut_list_csv(build_id: UUID, session: Tx) -> CsvResponse:
    """The cut list, one row a rod."""
    state = build_state(session, build_id)
    found = cuts_of(state)
    if found is None:
        raise InputError(
            "sample_tube_in",
            "There is nothing to cut yet",
            remedy="Measure a sample's tube and finished length, and decide the rods",
            code="nothing_to_cut",
        )
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(["bar", "valve", "tube_in", "tube_mm", "finished_in", "finished_mm"])
    for cut in found.cuts:
        lengths = [f(x) for x in (cut.tube_in, cut.finished_in) for f in (_inches, _mm)]
        writer.writerow([cut.bar, cut.valve, *lengths])
    return CsvResponse(
        out.getvalue(), headers={"Content-Disposition": 'attachment; filename="cut-list.csv"'}
    )


def _inches(value: float) -> str:
    return f"{value:.4f}"


def _mm(value: float) -> str:
    return f"{value * 25.4:.2f}"


@router.get("/api/box")
def read_box(session: Tx) -> list[BoxRodOut]:
    """The shop's own rods on the shelf, shortest first."""
    return [BoxRodOut.model_validate(r) for r in box.list_box(session)]


@router.post("/api/box", status_code=201)
def add_box_rod(body: BoxRodIn, session: Tx) -> BoxRodOut:
    """Put rods of one length on the shelf. Safe to repeat: the same id gives the one kept."""
    values = body.model_dump(exclude={"length", "unit"})
    return BoxRodOut.model_validate(box.new_box_rod(session, values, body.length, body.unit))


@router.patch("/api/box/{box_id}")
def change_box_rod(box_id: UUID, body: BoxRodChange, session: Tx) -> BoxRodOut:
    """Change count or note. 409 with both values when it changed elsewhere."""
    row = session.get(BoxRod, box_id)
    if row is None:
        raise NotFound("There are no such rods in the box.")
    values = {k: v for k, v in body.model_dump(exclude={"version"}).items() if v is not None}
    return BoxRodOut.model_validate(box.change_box_rod(session, row, body.version, values))
