"""The zero-lash station of one valve: its log, its bracket, the next trial, a builder's nod."""

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Query, Request, Response
from sqlalchemy.orm import Session

from vivid_arm.api.board.rows import Rows
from vivid_arm.api.deps import Rx, Tx, found_valve, is_busy, seen_valve
from vivid_arm.api.responses import written
from vivid_arm.api.zero_lash.schemas import (
    AheadOut,
    KeptStation,
    NodIn,
    StationOut,
    ValveChange,
    WaitingOut,
)
from vivid_arm.api.zero_lash.views import PLAIN, ahead_out, kept_station, station_out
from vivid_arm.records import nods
from vivid_arm.records.entries import (
    CountBackIn,
    MeasureIn,
    MoveReadingIn,
    RecountIn,
    RestoreIn,
    TrialIn,
    VoidIn,
)
from vivid_arm.records.rows.log import Added
from vivid_arm.records.state.ahead import rod_as_set
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.load import seen_after, state_of
from vivid_arm.records.tables import Valve
from vivid_arm.records.writes import readings, setup

router = APIRouter(prefix="/api/builds/{build_id}/valves/{valve_id}", tags=["zero_lash"])
waiting_router = APIRouter(prefix="/api/nods", tags=["zero_lash"])


@router.get("", response_model=StationOut)
def read_station(build_id: UUID, valve_id: UUID, session: Rx) -> Response:
    """Everything the station shows for a valve."""
    return written(station_out(*seen_valve(session, build_id, valve_id)))


@router.get("/ahead", response_model=AheadOut)
def look_ahead(
    build_id: UUID,
    valve_id: UUID,
    session: Rx,
    turns: Annotated[float, Query(ge=0, le=100)],
    request: Request,
    crank_deg: Annotated[float | None, Query(ge=0, lt=720)] = None,
) -> Response:
    """What each feel would make of the station, the checking rod as it is set. Keeps nothing.

    Nothing is worked out while others wait for what they have entered.
    """
    state, valve = seen_valve(session, build_id, valve_id)
    feels = () if is_busy(request) else PLAIN
    return written(ahead_out(state, valve, rod_as_set(state, turns, crank_deg), feels))


@router.patch("", response_model=KeptStation)
def change_valve(
    build_id: UUID, valve_id: UUID, body: ValveChange, session: Tx, request: Request
) -> Response:
    """Set the length a valve is thought to need, or the known height of its stem's tip."""
    valve, version = found_valve(session, build_id, valve_id), body.version
    if body.expected is not None:
        version = setup.expect_length(session, valve, version, body.expected, body.unit).version
    if body.stem is not None:
        setup.enter_stem(session, valve, version, body.stem, body.unit)
    return _kept(session, valve, request, 200)


@router.post("/trials", status_code=201, response_model=KeptStation)
def add_trial(
    build_id: UUID, valve_id: UUID, body: TrialIn, session: Tx, request: Request
) -> Response:
    """Keep a trial at once. Safe to repeat: one key is one reading."""
    before, seen = seen_valve(session, build_id, valve_id)
    added = readings.add_trial(session, seen.valve, body)
    return _kept(session, seen.valve, request, added=added, before=before)


@router.post("/measures", status_code=201, response_model=KeptStation)
def add_measure(
    build_id: UUID, valve_id: UUID, body: MeasureIn, session: Tx, request: Request
) -> Response:
    """Keep a measurement by a method beside the bracket. Safe to repeat: one key is one reading."""
    before, seen = seen_valve(session, build_id, valve_id)
    added = readings.add_measure(session, seen.valve, body)
    return _kept(session, seen.valve, request, added=added, before=before)


@router.post("/count-backs", status_code=201, response_model=KeptStation)
def add_count_back(
    build_id: UUID, valve_id: UUID, body: CountBackIn, session: Tx, request: Request
) -> Response:
    """Keep the turns counted back to closed, and check the running count with them."""
    valve = found_valve(session, build_id, valve_id)
    readings.add_count_back(session, valve, body)
    return _kept(session, valve, request)


@router.post("/recounts", status_code=201, response_model=KeptStation)
def recount(
    build_id: UUID, valve_id: UUID, body: RecountIn, session: Tx, request: Request
) -> Response:
    """Work trials out again by a count-back that was right. Safe to repeat."""
    valve = found_valve(session, build_id, valve_id)
    state = state_of(session, valve.build)
    readings.recount(session, state.with_valve(valve.id)[1], body)
    return _kept(session, valve, request)


@router.post("/voids", status_code=201, response_model=KeptStation)
def void_reading(
    build_id: UUID, valve_id: UUID, body: VoidIn, session: Tx, request: Request
) -> Response:
    """Strike a reading out with a reason. It stays in the log."""
    valve = found_valve(session, build_id, valve_id)
    readings.void_reading(session, valve, body)
    return _kept(session, valve, request)


@router.post("/restores", status_code=201, response_model=KeptStation)
def restore_reading(
    build_id: UUID, valve_id: UUID, body: RestoreIn, session: Tx, request: Request
) -> Response:
    """Let a reading that was struck out count again: a new line of the log. Safe to repeat."""
    valve = found_valve(session, build_id, valve_id)
    readings.restore_reading(session, valve, body)
    return _kept(session, valve, request)


@router.post("/moves", status_code=201, response_model=KeptStation)
def move_reading(
    build_id: UUID, valve_id: UUID, body: MoveReadingIn, session: Tx, request: Request
) -> Response:
    """Give a reading to the valve it belongs to: struck out here, a new line there."""
    valve = found_valve(session, build_id, valve_id)
    readings.move_reading(session, valve, found_valve(session, build_id, body.to), body)
    return _kept(session, valve, request)


@router.post("/nods", status_code=201)
def add_nod(build_id: UUID, valve_id: UUID, body: NodIn, session: Tx) -> list[WaitingOut]:
    """Keep that a builder has looked at the log; what still waits for a nod. Safe to repeat."""
    nods.nod(session, found_valve(session, build_id, valve_id), body.key, body.reading_id)
    return [WaitingOut.model_validate(w) for w in nods.waiting(session)]


@waiting_router.get("")
def read_waiting(session: Rx) -> list[WaitingOut]:
    """Valves of the board that wait for a builder's nod, the latest read first."""
    return [WaitingOut.model_validate(w) for w in nods.waiting(session)]


def _kept(
    session: Session,
    valve: Valve,
    request: Request,
    status: int = 201,
    added: Added | None = None,
    before: BuildState | None = None,
) -> Response:
    """The station from the whole build's log: the neighbours tell what is believable."""
    state = seen_after(session, valve.build, added, before)
    answer = written(kept_station(*state.with_valve(valve.id)), status)
    session.commit()
    rows: Rows = request.app.state.rows
    rows.put(state)
    return answer
