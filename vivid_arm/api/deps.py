"""What routes share: a transaction, and things found or refused."""

import re
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from typing import Annotated
from urllib.parse import unquote
from uuid import UUID

from anyio import CapacityLimiter, move_on_after, to_thread
from fastapi import Depends, Query, Request
from fastapi.concurrency import run_in_threadpool
from sqlalchemy.orm import Session, sessionmaker

from vivid_arm.api.crowd import Crowd
from vivid_arm.api.problems import NotFound
from vivid_arm.core.entry.lengths import FIELDS, check_range
from vivid_arm.core.words import Unit, language, say
from vivid_arm.records.database import sessions
from vivid_arm.records.replica import Replica
from vivid_arm.records.rows.builds import get_build, get_valve
from vivid_arm.records.rows.instruments import get_instrument
from vivid_arm.records.signed_in import signed_in
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.load import build_states, seen_state
from vivid_arm.records.state.valve import ValveState
from vivid_arm.records.tables import Build, Instrument, Valve

LONG = (".pdf", "/photos", "/readings", "/file", "/place", "/offers", "/openapi.json")
"""How the addresses end whose answers may take long."""
_PAGE = re.compile(r"[0-9a-zA-Z-]{1,40}")
AT_ONCE = 1
"""Requests of one process that are worked on at once: more would only hold up one another."""
TURN_WITHIN_S = 1.0
"""Nobody waits longer for a turn: one that hangs does not hang those behind it."""
_UNDONE_WITHIN_S = 1.0


BUSY_WITH = 4
"""So many that wait in a process make what nobody has asked for wait for a better time."""


def is_busy(request: Request) -> bool:
    """Whether too many wait for their turn to work at what can be done without."""
    places: CapacityLimiter = request.app.state.places
    return places.statistics().tasks_waiting >= BUSY_WITH


@asynccontextmanager
async def _in_turn(request: Request) -> AsyncIterator[None]:
    """Requests are worked on in their order; one that may take long, beside the others."""
    places: CapacityLimiter = request.app.state.places
    crowd: Crowd = request.app.state.crowd
    mine = False
    if not request.url.path.endswith(LONG):
        with move_on_after(TURN_WITHIN_S):
            await places.acquire()
            mine = True
        request.state.goes = crowd.too_many(places.statistics().tasks_waiting)
    try:
        yield
    finally:
        if mine:
            places.release()
            crowd.too_many(places.statistics().tasks_waiting)


async def transaction(request: Request) -> AsyncIterator[Session]:
    """One transaction a request: kept when the route returns, undone when it raises.

    A route that has kept it itself saves whoever waits the way to another thread.
    """
    async with _in_turn(request), _kept_or_undone(factory_of(request)()) as session:
        yield session


async def reading(request: Request) -> AsyncIterator[Session]:
    """A transaction that only reads, from the replica where that has all that the page has seen."""
    async with _in_turn(request):
        # Only a replica has to be asked whether it will do.
        session = (
            await run_in_threadpool(_to_read, request)
            if request.app.state.replica
            else request.app.state.reading()
        )
        try:
            yield session
        except BaseException:
            await _undo(session)
            raise
        if _only_reads(session):
            session.close()
        else:
            await run_in_threadpool(session.close)


def _only_reads(session: Session) -> bool:
    """Whether it has no transaction: nothing is undone, and nobody is waited for."""
    return session.get_bind().get_execution_options().get("isolation_level") == "AUTOCOMMIT"


async def _undo(session: Session) -> None:
    """Close it beside the others; not waited for while what it asked the database still hangs."""
    with move_on_after(_UNDONE_WITHIN_S, shield=True):
        await to_thread.run_sync(session.close, abandon_on_cancel=True)


def _to_read(request: Request) -> Session:
    replica: Replica = request.app.state.replica
    usual: sessionmaker[Session] = request.app.state.reading
    return replica.session(request.headers.get("x-seen", "")) or usual()


@asynccontextmanager
async def _kept_or_undone(session: Session) -> AsyncIterator[Session]:
    try:
        yield session
    except BaseException:
        await _undo(session)
        raise
    if session.in_transaction():
        await run_in_threadpool(_keep, session)
    else:
        session.close()


def _keep(session: Session) -> None:
    with session:
        session.commit()


def factory_of(request: Request) -> sessionmaker[Session]:
    """Sessions that keep who writes, and tell which page does: the headers X-By and X-Page."""
    by, page = by_of(request), page_of(request)
    factory: sessionmaker[Session] = request.app.state.sessions
    if request.method in ("GET", "HEAD") or not (by or page):
        return factory
    return sessions(request.app.state.engine, by, page)


def page_of(request: Request) -> str:
    """The page that asks, by the name it gave itself, or empty."""
    page = request.headers.get("x-page", "")
    return page if _PAGE.fullmatch(page) else ""


def by_of(request: Request) -> str:
    """Who asks: whoever is signed in, else as the page says in its header, or empty."""
    if signed_in.get():
        return signed_in.get()
    by = unquote(request.headers.get("x-by", ""))[:60]
    return by if by.isprintable() else ""


Tx = Annotated[Session, Depends(transaction, scope="function")]
Rx = Annotated[Session, Depends(reading, scope="function")]


def found_build(session: Session, build_id: UUID) -> Build:
    build = get_build(session, build_id)
    if build is None:
        raise NotFound(say("There is no such build."))
    return build


def found_instrument(session: Session, instrument_id: UUID) -> Instrument:
    instrument = get_instrument(session, instrument_id)
    if instrument is None:
        raise NotFound(say("There is no such instrument."))
    return instrument


def found_valve(session: Session, build_id: UUID, valve_id: UUID) -> Valve:
    """A valve with its build and instrument."""
    valve = get_valve(session, valve_id)
    if valve is None or valve.build_id != build_id:
        raise NotFound(say("This build has no such valve."))
    return valve


def build_state(session: Session, build_id: UUID) -> BuildState:
    """A build with its whole log, as the database has it now. Raises NotFound."""
    session.flush()
    found = build_states(session, [build_id])
    if not found:
        raise NotFound(say("There is no such build."))
    return found[0]


def seen(session: Session, build_id: UUID) -> BuildState:
    """A build to look at and not to change. Raises NotFound."""
    found = seen_state(session, build_id)
    if found is None:
        raise NotFound(say("There is no such build."))
    return found


def seen_valve(session: Session, build_id: UUID, valve_id: UUID) -> tuple[BuildState, ValveState]:
    """A build and one of its valves to look at. Raises NotFound."""
    state = seen(session, build_id)
    valve = next((v for v in state.valves if v.valve.id == valve_id), None)
    if valve is None:
        raise NotFound(say("This build has no such valve."))
    return state, valve


def unit_said(unit: Annotated[Unit | None, Query()] = None) -> Unit:
    """The unit of lengths an address names, else the one the page is in."""
    return unit or language.get().unit


SaidUnit = Annotated[Unit, Depends(unit_said)]


def checked(field: str, value: float | None) -> float | None:
    """A figure checked against the range of its field; None stays None."""
    return None if value is None else check_range(value, FIELDS[field])
