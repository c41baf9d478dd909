"""The shop's own rods on the shelf."""

from uuid import UUID

from fastapi import APIRouter

from vivid_arm.api.decide.schemas import BoxRodChange, BoxRodIn, BoxRodOut
from vivid_arm.api.deps import Rx, Tx
from vivid_arm.api.problems import NotFound
from vivid_arm.core.words import say
from vivid_arm.records.rows.box import list_box
from vivid_arm.records.tables import BoxRod
from vivid_arm.records.writes import box

router = APIRouter(tags=["decide"])


@router.get("/api/box")
def read_box(session: Rx) -> list[BoxRodOut]:
    """The shop's own rods on the shelf, shortest first."""
    return [BoxRodOut.model_validate(r) for r in list_box(session)]


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
        raise NotFound(say("There are no such rods in the box."))
    values = {k: v for k, v in body.model_dump(exclude={"version"}).items() if v is not None}
    return BoxRodOut.model_validate(box.change_box_rod(session, row, body.version, values))
