"""The builds board and a build's set-up."""

from uuid import UUID

from fastapi import APIRouter

from vivid_arm.records import keeping, queries
from vivid_arm.records.state import BuildState

from ..deps import Tx, build_state, found_build
from ..schemas import BuildChange, BuildIn, BuildSummary
from ..views import build_summary

router = APIRouter(prefix="/api/builds", tags=["builds"])


@router.get("")
def list_builds(session: Tx) -> list[BuildSummary]:
    """Every build, the latest touched first, with what it waits for."""
    builds = queries.list_builds(session)
    logs = queries.readings_of(session, [v.id for b in builds for v in b.valves])
    return [build_summary(BuildState(b, logs)) for b in builds]


@router.post("", status_code=201)
def make_build(body: BuildIn, session: Tx) -> BuildSummary:
    """Make a build. Safe to repeat: the same id gives the build already made."""
    build = keeping.new_build(session, body.model_dump())
    session.expire_all()
    return build_summary(build_state(session, build.id))


@router.get("/{build_id}")
def read_build(build_id: UUID, session: Tx) -> BuildSummary:
    """One build with its valves, groups and next step."""
    return build_summary(build_state(session, build_id))


@router.patch("/{build_id}")
def change_build(build_id: UUID, body: BuildChange, session: Tx) -> BuildSummary:
    """Change some of a build's set-up. 409 with both values when it changed elsewhere."""
    build = found_build(session, build_id)
    values = body.model_dump(exclude_unset=True, exclude={"version"})
    keeping.change_build(session, build, body.version, values)
    session.flush()
    session.expire_all()
    return build_summary(build_state(session, build_id))
