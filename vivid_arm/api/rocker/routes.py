"""The rocker's station: its geometry, the batch to move inside, marks and photos of them."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Form, Response, UploadFile
from sqlalchemy.orm import Session

from vivid_arm.api.deps import Rx, Tx, found_build, found_valve, seen_valve
from vivid_arm.api.problems import NotFound
from vivid_arm.api.responses import JpegResponse, written
from vivid_arm.api.rocker.schemas import KeptRocker, MotionOut, PhotoOut, RockerOut
from vivid_arm.api.rocker.views import kept_rocker, motion_out, rocker_out
from vivid_arm.core.rocker.photo import Guess
from vivid_arm.core.words import say
from vivid_arm.documents.photos import MOST_BYTES, guess_on, photo_of
from vivid_arm.records.entries import MarkIn, RestoreIn, VoidIn
from vivid_arm.records.shapes import OverlayFigures, PhotoGuess
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.load import state_of
from vivid_arm.records.state.valve import ValveState
from vivid_arm.records.tables import Photo, Valve
from vivid_arm.records.writes import marks, readings

router = APIRouter(prefix="/api/builds/{build_id}", tags=["rocker"])


@router.get("/valves/{valve_id}/rocker", response_model=RockerOut)
def read_rocker(build_id: UUID, valve_id: UUID, session: Rx) -> Response:
    """The rocker of a valve: dimensions, tries, what they say, what to change."""
    return written(rocker_out(*seen_valve(session, build_id, valve_id)))


@router.get("/valves/{valve_id}/rocker/motion", response_model=MotionOut)
def read_motion(build_id: UUID, valve_id: UUID, session: Rx) -> Response:
    """A dense batch, settings by lifts, that a screen can move inside without asking again."""
    return written(motion_out(*seen_valve(session, build_id, valve_id)))


@router.post("/valves/{valve_id}/marks", status_code=201)
def add_mark(build_id: UUID, valve_id: UUID, body: MarkIn, session: Tx) -> KeptRocker:
    """Keep a try at once. Safe to repeat: one key is one try."""
    valve = found_valve(session, build_id, valve_id)
    if body.photo:
        _found_photo(session, build_id, body.photo.photo_id)
    marks.add_mark(session, valve, body)
    state, kept = _now(session, valve)
    if kept.rocker.contradiction is not None:
        raise kept.rocker.contradiction
    return kept_rocker(state, kept)


@router.post("/valves/{valve_id}/marks/voids", status_code=201)
def void_mark(build_id: UUID, valve_id: UUID, body: VoidIn, session: Tx) -> KeptRocker:
    """Strike a try out with a reason. It stays in the log."""
    valve = found_valve(session, build_id, valve_id)
    readings.void_reading(session, valve, body)
    return kept_rocker(*_now(session, valve))


@router.post("/valves/{valve_id}/marks/restores", status_code=201)
def restore_mark(build_id: UUID, valve_id: UUID, body: RestoreIn, session: Tx) -> KeptRocker:
    """Let a try that was struck out count again. Safe to repeat."""
    valve = found_valve(session, build_id, valve_id)
    readings.restore_reading(session, valve, body)
    return kept_rocker(*_now(session, valve))


def _now(session: Session, valve: Valve) -> tuple[BuildState, ValveState]:
    return state_of(session, valve.build).with_valve(valve.id)


@router.post("/photos", status_code=201)
def add_photo(
    build_id: UUID, id: Annotated[UUID, Form()], file: UploadFile, session: Tx
) -> PhotoOut:
    """Keep a photo of a valve tip (JPEG, PNG, HEIC; 15 MB) and guess circle and mark on it.

    It is made anew as JPEG of at most 1600 pixels, without metadata. Safe to repeat.
    """
    build = found_build(session, build_id)
    known = session.get(Photo, id)
    if known is not None:
        return _photo_out(_found_photo(session, build_id, id))
    read = photo_of(file.file.read(MOST_BYTES + 1))
    photo = Photo(
        id=id, width=read.width, height=read.height, body=read.body, guess=_guess(read.guess)
    )
    return _photo_out(marks.add_photo(session, build, photo))


@router.get("/photos/{photo_id}.jpg", response_class=JpegResponse)
def read_picture(build_id: UUID, photo_id: UUID, session: Rx) -> JpegResponse:
    """A kept photo as JPEG."""
    return JpegResponse(_found_photo(session, build_id, photo_id).body)


@router.get("/photos/{photo_id}")
def read_photo(build_id: UUID, photo_id: UUID, session: Rx) -> PhotoOut:
    """A kept photo's size and the first guess on it."""
    return _photo_out(_found_photo(session, build_id, photo_id))


def _found_photo(session: Session, build_id: UUID, photo_id: UUID) -> Photo:
    photo = session.get(Photo, photo_id)
    if photo is None or photo.build_id != build_id:
        raise NotFound(say("This build has no such photo."))
    return photo


def _guess(guess: Guess) -> PhotoGuess:
    overlay = OverlayFigures.model_validate(vars(guess.overlay)) if guess.overlay else None
    return PhotoGuess(overlay=overlay, clear=guess.clear, said=guess.said)


def _photo_out(photo: Photo) -> PhotoOut:
    if photo.guess is None:
        photo.guess = _guess(guess_on(photo.body))
    return PhotoOut(id=photo.id, width=photo.width, height=photo.height, **photo.guess.model_dump())
