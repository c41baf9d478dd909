"""A whole build out and in as JSON."""

from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, Body, Response

from vivid_arm.api.deps import Rx, Tx, build_state, seen
from vivid_arm.api.setup.schemas import BuildSummary
from vivid_arm.api.setup.views import build_summary
from vivid_arm.core.words import say
from vivid_arm.documents import build_file
from vivid_arm.records.rows.kept import Conflict
from vivid_arm.records.state.load import build_states
from vivid_arm.records.writes.build_file import move_in

router = APIRouter(prefix="/api/builds", tags=["setup"])


@router.get("/{build_id}/file.json")
def read_file(build_id: UUID, session: Rx, response: Response) -> dict[str, Any]:
    """The whole build; its schema is docs/build.schema.json."""
    response.headers["Content-Disposition"] = 'attachment; filename="build.json"'
    return build_file.of_build(session, seen(session, build_id))


@router.post("/file", status_code=201)
def keep_file(body: Annotated[dict[str, Any], Body()], session: Tx) -> BuildSummary:
    """Move a build in from its file. Safe to repeat; 409 when the build here differs."""
    rows = build_file.from_dict(body)
    known = build_states(session, [rows.build["id"]])
    if known:
        _same(build_file.of_build(session, known[0]), body)
        return build_summary(known[0])
    move_in(session, rows)
    return build_summary(build_state(session, rows.build["id"]))


_LEFT_OUT: dict[str, Any] = {"notes": []}


def _same(here: dict[str, Any], file: dict[str, Any]) -> None:
    parts = [name for name in here if here[name] != file.get(name, _LEFT_OUT.get(name))]
    if parts:
        raise Conflict(
            say("This build is here already and differs from the file."),
            {name: say("as in the file") for name in parts},
            {name: say("as kept here") for name in parts},
        )
