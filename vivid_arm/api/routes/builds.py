"""The builds board and a build's set-up."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query
from pydantic import AfterValidator

from vivid_arm.api.base import no_nul
from vivid_arm.api.deps import Tx, build_state, found_build
from vivid_arm.api.schemas import BoardEntry, BoardOut, BuildChange, BuildIn, BuildSummary
from vivid_arm.api.views import board_body, build_summary, uncomputed_body
from vivid_arm.records.state.board import board_page
from vivid_arm.records.writes import setup

router = APIRouter(prefix="/api/builds", tags=["builds"])


@router.get("")
def read_board(
    session: Tx,
    search: Annotated[str, Query(max_length=80), AfterValidator(no_nul)] = "",
    offset: Annotated[int, Query(ge=0, le=1_000_000)] = 0,
    limit: Annotated[int, Query(ge=1, le=100)] = 30,
) -> BoardOut:
    """A page of the board: builds by name, the latest touched first, and what each waits for."""
    page = board_page(session, search, offset, limit, board_body, uncomputed_body)
    return BoardOut(
        total=page.total, builds=[BoardEntry.model_validate(body) for body in page.bodies]
    )


@router.post("", status_code=201)
def make_build(body: BuildIn, session: Tx) -> BuildSummary:
    """Make a build. Safe to repeat: the same id gives the build already made."""
    build = setup.new_build(session, body.model_dump())
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
    values = body.model_dump(include=body.model_fields_set - {"version"})
    setup.change_build(session, build, body.version, values)
    session.flush()
    session.expire_all()
    return build_summary(build_state(session, build_id))
