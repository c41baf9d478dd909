"""Practice engines: the course, an exercise's bench, and its ending."""

import csv
import io
from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query, Request
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from vivid_arm.api.deps import Rx, SaidUnit, Tx, build_state, by_of
from vivid_arm.api.practice.schemas import (
    CourseOut,
    DeedIn,
    DeedOut,
    EndingOut,
    ExerciseIn,
    ExerciseOut,
    GotOut,
    HintOut,
    NamedIn,
    RodsIn,
    TrainOut,
)
from vivid_arm.api.practice.views import course, ending_out, exercise_out, row_out
from vivid_arm.api.problems import NotFound
from vivid_arm.api.responses import CsvResponse, JpegResponse, PdfResponse
from vivid_arm.core.practice.truth import truth_of
from vivid_arm.core.practice.view import seen
from vivid_arm.core.words import say
from vivid_arm.demo.tip_photos import photo_of_mark
from vivid_arm.documents import certificate
from vivid_arm.documents.order_sheet import safe_cell
from vivid_arm.documents.paper import Paper
from vivid_arm.records.tables import DoneDeed, Exercise
from vivid_arm.records.writes import practice

router = APIRouter(prefix="/api/practice", tags=["practice"])


@router.get("")
def read_course(session: Rx) -> CourseOut:
    """The course, and the exercises that were started, the latest first."""
    return CourseOut(scenarios=course(), exercises=[row_out(e) for e in _listed(session)])


@router.post("", status_code=201)
def start_exercise(body: ExerciseIn, session: Tx, request: Request) -> ExerciseOut:
    """Put a practice engine on the bench. Safe to repeat: one id is one engine."""
    seed = practice.new_seed() if body.seed is None else body.seed
    made = practice.start(
        session, body.id, body.scenario, seed, sealed=body.sealed, person=by_of(request)
    )
    return _out(session, made)


@router.get("/results.csv", response_class=CsvResponse)
def read_results(
    session: Rx, scenario: Annotated[str, Query(max_length=40)] = "", seed: int | None = None
) -> CsvResponse:
    """Ended exercises, a line each: of one scenario and seed, as set to a class, or all."""
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(["person", "scenario", "seed", "points", "ended_at"])
    for one in _listed(session):
        if one.ending is None or scenario not in ("", one.scenario) or seed not in (None, one.seed):
            continue
        ended = one.ended_at.isoformat() if one.ended_at else ""
        table.writerow([safe_cell(one.person), one.scenario, one.seed, one.ending["points"], ended])
    return CsvResponse(out.getvalue())


@router.get("/{exercise_id}")
def read_exercise(exercise_id: UUID, session: Rx) -> ExerciseOut:
    """An exercise as it stands."""
    return _out(session, _found(session, exercise_id))


@router.delete("/{exercise_id}", status_code=204)
def throw_away_exercise(exercise_id: UUID, session: Tx) -> None:
    """Throw an exercise away. Safe to repeat."""
    practice.throw_away(session, _found(session, exercise_id))


@router.post("/{exercise_id}/deeds", status_code=201)
def do_deed(exercise_id: UUID, body: DeedIn, session: Tx) -> DeedOut:
    """Do something at the bench. Safe to repeat: one key is one deed."""
    exercise = _found(session, exercise_id)
    how = body.how.model_dump(exclude_none=True)
    got = practice.done(session, exercise, body.key, body.name, how)
    said = {name: getattr(got, name) for name in GotOut.model_fields}
    return DeedOut(got=GotOut(**said), exercise=_out(session, exercise))


@router.get("/{exercise_id}/trains/{valve}")
def read_train(exercise_id: UUID, valve: str, session: Rx) -> TrainOut:
    """A valve's train as an eye sees it, through a whole cycle."""
    exercise = _found(session, exercise_id)
    truth = truth_of(exercise.scenario, exercise.seed)
    return TrainOut(**vars(seen(truth, exercise.bench, valve)))


@router.get("/{exercise_id}/mark.jpg", response_class=JpegResponse)
def read_mark(exercise_id: UUID, session: Rx) -> JpegResponse:
    """The mark left last, as a camera sees it: blurred, with glare, a little askew."""
    exercise = _found(session, exercise_id)
    if exercise.bench.mark is None:
        raise NotFound(say("No tip was painted yet."))
    return JpegResponse(photo_of_mark(exercise.bench.mark, exercise.seed + exercise.bench.count))


@router.post("/{exercise_id}/hints", status_code=201)
def take_hint(exercise_id: UUID, session: Tx) -> HintOut:
    """The next hint; it costs points."""
    exercise = _found(session, exercise_id)
    words = practice.hint(session, exercise)
    return HintOut(words=words, exercise=_out(session, exercise))


@router.put("/{exercise_id}/named")
def name_faults(exercise_id: UUID, body: NamedIn, session: Tx) -> ExerciseOut:
    """Say what is wrong with the engine; the last word counts."""
    exercise = _found(session, exercise_id)
    practice.name_faults(session, exercise, body.kinds)
    return _out(session, exercise)


@router.put("/{exercise_id}/rods")
def buy_rods(exercise_id: UUID, body: RodsIn, session: Tx) -> ExerciseOut:
    """Buy rods with the exercise's credits, by the valve they are for."""
    exercise = _found(session, exercise_id)
    practice.buy(session, exercise, body.rods)
    return _out(session, exercise)


@router.post("/{exercise_id}/ending", status_code=201)
def end_exercise(exercise_id: UUID, session: Tx) -> EndingOut:
    """Run the engine: everything it kept to itself. Safe to repeat."""
    exercise = _found(session, exercise_id)
    state = build_state(session, exercise.build_id)
    ending = practice.end(session, exercise, state)
    spent = practice.took(session, exercise, state)
    return ending_out(exercise, ending, spent, practice.worst_reading(exercise, state))


@router.get("/{exercise_id}/certificate.pdf", response_class=PdfResponse)
def read_certificate(
    exercise_id: UUID, session: Rx, unit: SaidUnit, paper: Paper = "A4"
) -> PdfResponse:
    """What came of an exercise, on paper; 404 before it has run."""
    exercise = _found(session, exercise_id)
    if exercise.ended_at is None:
        raise NotFound(say("This engine has not run yet."))
    ending = practice.end(session, exercise, build_state(session, exercise.build_id))
    return PdfResponse(
        certificate.to_pdf(exercise, ending, unit, paper),
        headers={"Content-Disposition": 'inline; filename="practice.pdf"'},
    )


def _listed(session: Session) -> list[Exercise]:
    query = select(Exercise).where(~Exercise.thrown_away).order_by(Exercise.started_at.desc())
    return list(session.scalars(query.limit(500)))


def _found(session: Session, exercise_id: UUID) -> Exercise:
    found = session.get(Exercise, exercise_id)
    if found is None or found.thrown_away:
        raise NotFound(say("There is no such exercise."))
    return found


def _out(session: Session, exercise: Exercise) -> ExerciseOut:
    count = select(func.count()).select_from(DoneDeed)
    return exercise_out(
        exercise, session.scalar(count.where(DoneDeed.exercise_id == exercise.id)) or 0
    )
