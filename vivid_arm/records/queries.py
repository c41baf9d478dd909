"""Reading and keeping. Every function takes a session; the caller owns the transaction."""

from collections import defaultdict
from collections.abc import Callable, Collection, Mapping
from decimal import Decimal
from functools import partial
from typing import Any, TypeVar, cast
from uuid import UUID

from sqlalchemy import ScalarSelect, func, inspect, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, joinedload, selectinload

from vivid_arm.core.engine import Layout, valves_of
from vivid_arm.core.errors import InputError

from .models import BoxRod, Build, Instrument, Order, Reading, Signature, Valve
from .state import BuildState


def exact(value: float) -> Decimal:
    """A length as it is stored: to a millionth of an inch."""
    return Decimal(str(value)).quantize(Decimal("0.000001"))


class Conflict(Exception):
    """A write on stale data: the caller's values and the stored ones, by field."""

    def __init__(self, message: str, yours: dict[str, Any], stored: dict[str, Any]) -> None:
        super().__init__(message)
        self.yours = yours
        self.stored = stored


def list_instruments(session: Session) -> list[Instrument]:
    return list(session.scalars(select(Instrument).order_by(Instrument.created_at)))


def get_instrument(session: Session, instrument_id: UUID) -> Instrument | None:
    return session.get(Instrument, instrument_id)


def count_builds(session: Session) -> int:
    return session.scalar(select(func.count()).select_from(Build)) or 0


def build_states(session: Session, build_ids: Collection[UUID]) -> list[BuildState]:
    """Builds with their whole logs, in no order."""
    return [made() for _, made in unmade_states(session, build_ids)]


def unmade_states(
    session: Session, build_ids: Collection[UUID]
) -> list[tuple[Build, Callable[[], BuildState]]]:
    """Builds, each with what makes its state: one that cannot be computed raises there."""
    query = (
        select(Build)
        .where(Build.id.in_(build_ids))
        .options(joinedload(Build.instrument), selectinload(Build.valves))
        .execution_options(populate_existing=True)
    )
    builds = session.scalars(query).all()
    logs = readings_of(session, [v.id for b in builds for v in b.valves])
    shop = _Shop(session)
    return [(b, partial(BuildState, b, logs, shop)) for b in builds]


class _Shop:
    """The shop around the builds of one request, asked for only when it is needed."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._box: list[BoxRod] | None = None

    def box(self) -> list[BoxRod]:
        if self._box is None:
            query = select(BoxRod).order_by(BoxRod.length_in, BoxRod.id)
            self._box = list(self._session.scalars(query))
        return self._box

    def orders(self, build_id: UUID) -> list[Order]:
        query = select(Order).where(Order.build_id == build_id).order_by(Order.number.desc())
        return list(self._session.scalars(query))

    def signature(self, build_id: UUID) -> Signature | None:
        query = select(Signature).where(Signature.build_id == build_id)
        return self._session.scalar(query.order_by(Signature.id.desc()).limit(1))


def touch(session: Session, build_id: UUID | ScalarSelect[UUID]) -> None:
    """Say that something of a build has changed that its row does not show."""
    touched = {"log_count": Build.log_count + 1, "updated_at": func.clock_timestamp()}
    session.execute(
        update(Build)
        .where(Build.id == build_id)
        .values(touched)
        .execution_options(synchronize_session=False)
    )


def get_build(session: Session, build_id: UUID) -> Build | None:
    query = (
        select(Build)
        .where(Build.id == build_id)
        .options(joinedload(Build.instrument), selectinload(Build.valves))
        .execution_options(populate_existing=True)
    )
    return session.scalar(query)


def get_valve(session: Session, valve_id: UUID) -> Valve | None:
    """A valve with its build and the build's instrument."""
    query = (
        select(Valve)
        .where(Valve.id == valve_id)
        .options(joinedload(Valve.build).joinedload(Build.instrument))
    )
    return session.scalar(query)


def readings_of(session: Session, valve_ids: Collection[UUID]) -> dict[UUID, list[Reading]]:
    """The log of each valve, oldest first."""
    query = (
        select(Reading)
        .where(Reading.valve_id.in_(valve_ids))
        .options(joinedload(Reading.instrument))
        .order_by(Reading.id)
    )
    found: dict[UUID, list[Reading]] = defaultdict(list)
    for reading in session.scalars(query):
        found[reading.valve_id].append(reading)
    return found


def reading_by_key(session: Session, key: UUID) -> Reading | None:
    return session.scalar(select(Reading).where(Reading.key == key))


def insert_build(session: Session, build: Build) -> Build:
    """Keep a build with its valves; the same id again gives the build already kept."""
    _one_at_a_time(session, build.id)
    known = session.get(Build, build.id)
    if known is not None:
        return known
    build.valves = [
        Valve(cylinder=cylinder, kind=kind)
        for cylinder, kind in valves_of(_layout(build), build.cylinders)
    ]
    session.add(build)
    session.flush()
    return build


Kept = TypeVar("Kept", Instrument, BoxRod)


def insert_once(session: Session, row: Kept) -> Kept:
    """Keep an instrument or shelf rods; the same id again gives what is already kept."""
    _one_at_a_time(session, row.id)
    known = session.get(type(row), row.id)
    if known is not None:
        return known
    session.add(row)
    session.flush()
    return row


def _one_at_a_time(session: Session, new_id: UUID) -> None:
    """Make requests that create the same id wait for each other."""
    session.execute(select(func.pg_advisory_xact_lock(func.hashtext(str(new_id)))))


Row = TypeVar("Row", Build, Instrument, Valve, BoxRod, Order)


def change(
    session: Session,
    row: Row,
    version: int,
    values: dict[str, Any],
    check: Callable[[Row], None] = lambda row: None,
) -> Row:
    """Change ``values`` of a row seen at ``version``, after ``check`` has passed the result.

    A repeat that would change nothing is answered as the first time. Raises
    Conflict when the row has moved on and any of the values differ.
    """
    _lock(session, row)
    stored = {name: getattr(row, name) for name in values}
    different = {name: value for name, value in values.items() if stored[name] != value}
    if not different:
        return row
    if row.version != version:
        raise Conflict(
            "Changed elsewhere since this page was read.",
            different,
            {name: stored[name] for name in different},
        )
    with session.no_autoflush:
        for name, value in different.items():
            setattr(row, name, value)
        check(row)
    session.flush()
    return row


def _lock(session: Session, row: Row) -> None:
    """Hold the row until the transaction ends, and read its columns again."""
    table = type(row)
    session.execute(select(table.id).where(table.id == row.id).with_for_update())
    session.refresh(row, [c.key for c in inspect(table).column_attrs])


def fit_valves(session: Session, build: Build) -> None:
    """Make the valve rows match layout and cylinders.

    Raises InputError rather than dropping a valve that has readings.
    """
    wanted = set(valves_of(_layout(build), build.cylinders))
    present = {(v.cylinder, v.kind): v for v in build.valves}
    gone = [v for key, v in present.items() if key not in wanted]
    if gone:
        used = select(func.count()).where(Reading.valve_id.in_([v.id for v in gone]))
        if session.scalar(used):
            raise InputError(
                "cylinders",
                f"Cylinders: {build.cylinders} would drop valves that have readings",
                received=build.cylinders,
                expected=f"at least {max(v.cylinder for v in gone)}",
                remedy="Keep the count, or make a new build",
                code="valves_in_use",
            )
        for valve in gone:
            session.delete(valve)
    for cylinder, kind in sorted(wanted - present.keys()):
        session.add(Valve(build_id=build.id, cylinder=cylinder, kind=kind))
    session.flush()


def append_reading(session: Session, reading: Mapping[str, Any]) -> None:
    """Add a line to the log; the same key again changes nothing.

    ``reading`` holds the columns. Raises Conflict when the key was used for
    another reading, or when the line to strike out was already struck out.
    """
    valve_id = reading["valve_id"]
    session.execute(select(Valve.id).where(Valve.id == valve_id).with_for_update())
    number = None
    if reading["kind"] not in ("count_back", "void"):
        last = select(func.coalesce(func.max(Reading.number), 0) + 1)
        number = last.where(Reading.valve_id == valve_id).scalar_subquery()
    line = insert(Reading).values(**reading, number=number)
    added = session.scalar(line.on_conflict_do_nothing().returning(Reading.id))
    if added is None:
        _explain_refusal(session, reading)
        return
    touch(session, select(Valve.build_id).where(Valve.id == valve_id).scalar_subquery())


def _explain_refusal(session: Session, reading: Mapping[str, Any]) -> None:
    known = reading_by_key(session, reading["key"])
    if known is not None:
        _same_reading(known, reading)
        return
    other = session.scalar(select(Reading).where(Reading.replaces_id == reading["replaces_id"]))
    raise Conflict(
        "This reading was already struck out.",
        {"kind": reading["kind"], "reason": reading["reason"]},
        {"kind": other.kind, "reason": other.reason} if other else {},
    )


_CONTENT = (
    "valve_id",
    "kind",
    "raw",
    "raw_gap",
    "raw_rod",
    "feel",
    "replaces_id",
    "reason",
    "taken_by",
)


def _same_reading(known: Reading, again: Mapping[str, Any]) -> None:
    kept = {name: getattr(known, name) for name in _CONTENT}
    yours = {n: again[n] for n in _CONTENT if n in again and again[n] != kept[n]}
    if yours:
        stored = {name: kept[name] for name in yours}
        raise Conflict("This key was already used for another reading.", yours, stored)


def _layout(build: Build) -> Layout:
    return cast(Layout, build.layout)
