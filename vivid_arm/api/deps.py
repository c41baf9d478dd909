"""What routes share: a transaction, and things found or refused."""

from collections.abc import Iterator
from typing import Annotated
from uuid import UUID

from fastapi import Depends, Request
from sqlalchemy.orm import Session, sessionmaker

from vivid_arm.api.problems import NotFound
from vivid_arm.core.entry.lengths import FIELDS, check_range
from vivid_arm.records.rows.builds import get_build, get_valve
from vivid_arm.records.rows.instruments import get_instrument
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.load import build_states
from vivid_arm.records.tables import Build, Instrument, Valve


def transaction(request: Request) -> Iterator[Session]:
    """One transaction a request: kept when the route returns, undone when it raises."""
    factory: sessionmaker[Session] = request.app.state.sessions
    with factory.begin() as session:
        yield session


Tx = Annotated[Session, Depends(transaction, scope="function")]


def found_build(session: Session, build_id: UUID) -> Build:
    build = get_build(session, build_id)
    if build is None:
        raise NotFound("There is no such build.")
    return build


def found_instrument(session: Session, instrument_id: UUID) -> Instrument:
    instrument = get_instrument(session, instrument_id)
    if instrument is None:
        raise NotFound("There is no such instrument.")
    return instrument


def found_valve(session: Session, build_id: UUID, valve_id: UUID) -> Valve:
    """A valve with its build and instrument."""
    valve = get_valve(session, valve_id)
    if valve is None or valve.build_id != build_id:
        raise NotFound("This build has no such valve.")
    return valve


def build_state(session: Session, build_id: UUID) -> BuildState:
    """A build with its whole log, as the database has it now. Raises NotFound."""
    session.flush()
    found = build_states(session, [build_id])
    if not found:
        raise NotFound("There is no such build.")
    return found[0]


def checked(field: str, value: float | None) -> float | None:
    """A figure checked against the range of its field; None stays None."""
    return None if value is None else check_range(value, FIELDS[field])
