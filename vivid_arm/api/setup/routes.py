"""A build's set-up."""

from uuid import UUID

from fastapi import APIRouter, Response

from vivid_arm.api.deps import Rx, Tx, build_state, found_build, seen
from vivid_arm.api.responses import written
from vivid_arm.api.setup.schemas import BuildChange, BuildIn, BuildSummary, LikeIn
from vivid_arm.api.setup.views import build_summary
from vivid_arm.documents import build_file
from vivid_arm.records.rows.builds import get_build
from vivid_arm.records.writes import setup
from vivid_arm.records.writes.build_file import move_in

router = APIRouter(prefix="/api/builds", tags=["setup"])


@router.post("", status_code=201)
def make_build(body: BuildIn, session: Tx) -> BuildSummary:
    """Make a build. Safe to repeat: the same id gives the build already made."""
    build = setup.new_build(session, dict(body), given=body.model_fields_set)
    return build_summary(build_state(session, build.id))


@router.post("/{build_id}/like", status_code=201)
def make_build_like(build_id: UUID, body: LikeIn, session: Tx) -> BuildSummary:
    """Make a build with the set-up of an earlier one; its readings too where asked.

    Safe to repeat.
    """
    like = found_build(session, build_id)
    if body.readings:
        if get_build(session, body.id) is None:
            file = build_file.of_build(session, build_state(session, like.id))
            move_in(session, build_file.from_dict(build_file.copied(file, body.id, body.name)))
    else:
        setup.new_build_like(session, like, body.id, body.name)
    return build_summary(build_state(session, body.id))


@router.get("/{build_id}", response_model=BuildSummary)
def read_build(build_id: UUID, session: Rx) -> Response:
    """One build with its valves, groups and next step."""
    return written(build_summary(seen(session, build_id)))


@router.delete("/{build_id}", status_code=204)
def throw_build_away(build_id: UUID, session: Tx) -> None:
    """Put a build into the bin, nothing of it lost; one that was signed is only archived."""
    setup.throw_away(session, found_build(session, build_id))


@router.post("/{build_id}/archive", status_code=204)
def archive_build(build_id: UUID, session: Tx) -> None:
    """Put a build into the archive: off the board, nothing of it lost. Safe to repeat."""
    setup.archive(session, found_build(session, build_id))


@router.post("/{build_id}/back", status_code=204)
def put_back_build(build_id: UUID, session: Tx) -> None:
    """Put a build back on the board. Safe to repeat."""
    setup.put_back(session, found_build(session, build_id))


@router.patch("/{build_id}")
def change_build(build_id: UUID, body: BuildChange, session: Tx) -> BuildSummary:
    """Change some of a build's set-up. 409 with both values when it changed elsewhere."""
    build = found_build(session, build_id)
    values = {name: getattr(body, name) for name in body.model_fields_set - {"version"}}
    setup.change_build(session, build, body.version, values)
    return build_summary(build_state(session, build.id))
