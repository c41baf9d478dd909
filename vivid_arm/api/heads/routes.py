"""The head map: every valve in its place, what they say together, what is doubted."""

from uuid import UUID

from fastapi import APIRouter

from vivid_arm.api.deps import Rx, seen
from vivid_arm.api.heads.schemas import HeadsOut
from vivid_arm.api.heads.views import heads_out

router = APIRouter(prefix="/api/builds/{build_id}", tags=["heads"])


@router.get("/heads")
def read_heads(build_id: UUID, session: Rx) -> HeadsOut:
    """The heads in plan, front to rear, with spread, findings and suspicions."""
    return heads_out(seen(session, build_id))
