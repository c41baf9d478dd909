"""The zero-lash station of one valve: its log, its bracket, the next trial."""

from typing import Any
from uuid import UUID

from fastapi import APIRouter
from sqlalchemy.orm import Session

from vivid_arm.records import keeping

from ..deps import Tx, build_state, found_build, found_valve
from ..schemas import CountBackIn, StationOut, TrialIn, VoidIn
from ..views import station_out

router = APIRouter(prefix="/api/builds/{build_id}/valves/{valve_id}", tags=["zero lash"])


@router.get("")
def read_station(build_id: UUID, valve_id: UUID, session: Tx) -> StationOut:
    """Everything the station shows for a valve."""
    return _station(session, build_id, valve_id)


@router.post("/trials", status_code=201)
def add_trial(build_id: UUID, valve_id: UUID, body: TrialIn, session: Tx) -> StationOut:
    """Keep a trial at once. Safe to repeat: one key is one reading."""
    return _kept(session, build_id, valve_id, keeping.add_trial, body.model_dump())


@router.post("/count-backs", status_code=201)
def add_count_back(build_id: UUID, valve_id: UUID, body: CountBackIn, session: Tx) -> StationOut:
    """Keep the turns counted back to closed, and check the running count with them."""
    return _kept(session, build_id, valve_id, keeping.add_count_back, body.model_dump())


@router.post("/voids", status_code=201)
def void_reading(build_id: UUID, valve_id: UUID, body: VoidIn, session: Tx) -> StationOut:
    """Strike a reading out with a reason. It stays in the log."""
    return _kept(session, build_id, valve_id, keeping.void_reading, body.model_dump())


def _kept(
    session: Session, build_id: UUID, valve_id: UUID, keep: Any, values: dict[str, Any]
) -> StationOut:
    build = found_build(session, build_id)
    keep(session, build, found_valve(build, valve_id), **values)
    return _station(session, build_id, valve_id)


def _station(session: Session, build_id: UUID, valve_id: UUID) -> StationOut:
    state = build_state(session, build_id)
    found_valve(state.build, valve_id)
    return station_out(state, state.valve(valve_id))
