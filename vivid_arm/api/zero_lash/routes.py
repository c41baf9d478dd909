"""The zero-lash station of one valve: its log, its bracket, the next trial."""

from typing import Any
from uuid import UUID

from fastapi import APIRouter
from sqlalchemy.orm import Session

from vivid_arm.api.deps import Tx, build_state, found_valve
from vivid_arm.api.zero_lash.schemas import (
    CountBackIn,
    MeasureIn,
    StationOut,
    TrialIn,
    ValveChange,
    VoidIn,
)
from vivid_arm.api.zero_lash.views import station_out
from vivid_arm.records.tables import Valve
from vivid_arm.records.writes import readings, setup

router = APIRouter(prefix="/api/builds/{build_id}/valves/{valve_id}", tags=["zero_lash"])


@router.get("")
def read_station(build_id: UUID, valve_id: UUID, session: Tx) -> StationOut:
    """Everything the station shows for a valve."""
    return _station(session, found_valve(session, build_id, valve_id))


@router.patch("")
def expect_length(build_id: UUID, valve_id: UUID, body: ValveChange, session: Tx) -> StationOut:
    """Set the length a valve is thought to need; the first trial starts from it."""
    valve = found_valve(session, build_id, valve_id)
    setup.expect_length(session, valve, body.version, body.expected, body.unit)
    return _station(session, valve)


@router.post("/trials", status_code=201)
def add_trial(build_id: UUID, valve_id: UUID, body: TrialIn, session: Tx) -> StationOut:
    """Keep a trial at once. Safe to repeat: one key is one reading."""
    return _kept(session, build_id, valve_id, readings.add_trial, body.model_dump())


@router.post("/measures", status_code=201)
def add_measure(build_id: UUID, valve_id: UUID, body: MeasureIn, session: Tx) -> StationOut:
    """Keep a measurement by a method beside the bracket. Safe to repeat: one key is one reading."""
    return _kept(session, build_id, valve_id, readings.add_measure, body.model_dump())


@router.post("/count-backs", status_code=201)
def add_count_back(build_id: UUID, valve_id: UUID, body: CountBackIn, session: Tx) -> StationOut:
    """Keep the turns counted back to closed, and check the running count with them."""
    return _kept(session, build_id, valve_id, readings.add_count_back, body.model_dump())


@router.post("/voids", status_code=201)
def void_reading(build_id: UUID, valve_id: UUID, body: VoidIn, session: Tx) -> StationOut:
    """Strike a reading out with a reason. It stays in the log."""
    return _kept(session, build_id, valve_id, readings.void_reading, body.model_dump())


def _kept(
    session: Session, build_id: UUID, valve_id: UUID, keep: Any, values: dict[str, Any]
) -> StationOut:
    valve = found_valve(session, build_id, valve_id)
    keep(session, valve.build, valve, **values)
    return _station(session, valve)


def _station(session: Session, valve: Valve) -> StationOut:
    """The station from the whole build's log: the neighbours tell what is believable."""
    state = build_state(session, valve.build_id)
    return station_out(state, next(v for v in state.valves if v.valve.id == valve.id))
