"""What happened to a build and to the shop, notes, and the last change taken back."""

from collections.abc import Sequence
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query
from sqlalchemy.orm import Session

from vivid_arm.api.deps import Rx, SaidUnit, Tx, found_build
from vivid_arm.api.history.schemas import HappenedOut, HistoryOut, NoteOut
from vivid_arm.records.entries import NoteIn
from vivid_arm.records.history import EventKind, Happened, history_of, people, shop_history
from vivid_arm.records.state.notes import notes_of
from vivid_arm.records.tables import Build
from vivid_arm.records.writes.notes import add_note
from vivid_arm.records.writes.undo import undo

router = APIRouter(prefix="/api", tags=["history"])
Kinds = Annotated[list[EventKind], Query(max_length=12)]
Offset = Annotated[int, Query(ge=0, le=1_000_000)]
Limit = Annotated[int, Query(ge=1, le=500)]


@router.get("/builds/{build_id}/history")
def read_history(
    build_id: UUID, session: Rx, unit: SaidUnit, kind: Kinds = [], offset: Offset = 0,  # noqa: B006
    limit: Limit = 100,
) -> HistoryOut:  # fmt: skip
    """What happened to a build, newest first; with ``kind`` only that."""
    events = history_of(session, found_build(session, build_id), unit)
    return _page(events, kind, offset, limit)


@router.post("/builds/{build_id}/history/{change_id}/undo", status_code=204)
def undo_change(build_id: UUID, change_id: int, session: Tx) -> None:
    """Take the last change of a set-up back. Safe to repeat; 409 where it was changed since."""
    build = found_build(session, build_id)
    own = {str(build.id), *(str(v.id) for v in build.valves)}
    undo(session, change_id, lambda c: c.of_table in ("builds", "valves") and c.row_id in own)


@router.get("/history")
def read_shop_history(
    session: Rx, unit: SaidUnit, kind: Kinds = [], offset: Offset = 0,  # noqa: B006
    limit: Limit = 100,
) -> HistoryOut:  # fmt: skip
    """What happened to the shop's rod box and tools, newest first."""
    return _page(shop_history(session, unit), kind, offset, limit)


@router.post("/history/{change_id}/undo", status_code=204)
def undo_shop_change(change_id: int, session: Tx) -> None:
    """Take the last change of a tool or of rods in the box back. Safe to repeat."""
    undo(session, change_id, lambda c: c.of_table in ("instruments", "box_rods"))


@router.get("/people")
def read_people(session: Rx) -> list[str]:
    """Who has read, checked and noted here lately, the last one first."""
    return people(session)


@router.get("/builds/{build_id}/notes")
def read_notes(build_id: UUID, session: Rx) -> list[NoteOut]:
    """The notes of a build as they stand, the oldest first."""
    return _notes(session, found_build(session, build_id))


@router.post("/builds/{build_id}/notes", status_code=201)
def write_note(build_id: UUID, body: NoteIn, session: Tx) -> list[NoteOut]:
    """Keep a note, change one or take one away. Safe to repeat: one key is one note."""
    build = found_build(session, build_id)
    add_note(session, build, body)
    return _notes(session, build)


def _notes(session: Session, build: Build) -> list[NoteOut]:
    return [NoteOut.model_validate(n, from_attributes=True) for n in notes_of(session, build)]


def _page(
    events: Sequence[Happened], kinds: Sequence[EventKind], offset: int, limit: int
) -> HistoryOut:
    wanted = [e for e in events if not kinds or e.kind in kinds]
    shown = wanted[offset : offset + limit]
    return HistoryOut(
        total=len(wanted),
        events=[HappenedOut.model_validate(e, from_attributes=True) for e in shown],
    )
