"""After the rods are in: checks, signature, torque card, the build's report."""

from datetime import UTC, datetime
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query, Request
from sqlalchemy import select
from sqlalchemy.orm import Session

from vivid_arm.api.deps import Rx, SaidUnit, Tx, build_state, seen
from vivid_arm.api.problems import NotFound
from vivid_arm.api.responses import PdfResponse
from vivid_arm.api.sign_off.schemas import SignIn, SignOffOut
from vivid_arm.api.sign_off.views import sign_off_out
from vivid_arm.core.words import say
from vivid_arm.documents import report
from vivid_arm.documents.paper import Paper
from vivid_arm.records.entries import FindingIn
from vivid_arm.records.state.notes import notes_of
from vivid_arm.records.state.sign_off import SignOffState, sign_off_state
from vivid_arm.records.tables import Build, Photo
from vivid_arm.records.writes import sign_off

router = APIRouter(prefix="/api/builds/{build_id}", tags=["sign_off"])


def _finish(session: Session, build_id: UUID) -> SignOffState:
    state = build_state(session, build_id)
    return sign_off_state(session, state)


@router.get("/sign_off")
def read_sign_off(build_id: UUID, session: Rx) -> SignOffOut:
    """Every check with its limit and margin, what is open, who signed, the torque card."""
    return sign_off_out(sign_off_state(session, seen(session, build_id)))


@router.post("/findings", status_code=201)
def add_finding(build_id: UUID, body: FindingIn, session: Tx) -> SignOffOut:
    """Keep what a check found. Safe to repeat: one key is one finding."""
    state = build_state(session, build_id)
    valve = next((v for v in state.valves if v.name == body.valve), None)
    if valve is None:
        raise NotFound(say("This build has no such valve."))
    sign_off.add_finding(session, state, valve, body)
    return sign_off_out(sign_off_state(session, state))


@router.post("/signatures", status_code=201)
def sign(build_id: UUID, body: SignIn, session: Tx) -> SignOffOut:
    """Sign the build off; while anything is open only with a written reason."""
    finish = _finish(session, build_id)
    sign_off.sign(session, finish, body.key, body.by, body.reason)
    return sign_off_out(sign_off_state(session, finish.state))


@router.get("/report.pdf", response_class=PdfResponse)
def report_pdf(
    build_id: UUID,
    request: Request,
    session: Rx,
    unit: SaidUnit,
    paper: Annotated[Paper, Query()] = "A4",
) -> PdfResponse:
    """The whole build on paper: drawings, readings, decision, orders, checks, signature."""
    finish = _finish(session, build_id)
    link = f"{str(request.base_url).rstrip('/')}/builds/{build_id}/sign_off"
    notes = _notes(session, finish.state.build)
    made = report.to_pdf(finish.state, finish, datetime.now(UTC), unit, paper, link, notes)
    return PdfResponse(made, headers={"Content-Disposition": 'inline; filename="build-report.pdf"'})


_MOST_PHOTOS = 12


def _notes(session: Session, build: Build) -> list[report.NoteOnPaper]:
    """The notes, the first dozen photos with them: each once, at the first note that has it."""
    kept = notes_of(session, build)
    first: dict[UUID, int] = {}
    for note in kept:
        if note.photo_id is not None:
            first.setdefault(note.photo_id, note.id)
    shown = list(first)[:_MOST_PHOTOS]
    photos = session.execute(select(Photo.id, Photo.body).where(Photo.id.in_(shown)))
    bodies = {first[id_]: body for id_, body in photos}
    return [(n, bodies.get(n.id)) for n in kept]
