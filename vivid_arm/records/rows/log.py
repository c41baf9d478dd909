"""The log: readings of valves, appended once by key, never changed."""

from collections import Counter, defaultdict
from collections.abc import Collection, Iterable, Iterator, Sequence
from itertools import groupby
from typing import Any, cast
from uuid import UUID

from sqlalchemy import ColumnElement, Table, Uuid, any_, bindparam, func, inspect, or_, select
from sqlalchemy.dialects.postgresql import ARRAY, insert
from sqlalchemy.orm import InstrumentedAttribute, Session, joinedload, selectinload

from vivid_arm.core.words import say
from vivid_arm.records.rows.kept import Conflict, touch
from vivid_arm.records.tables import Reading, Valve


def _one_of(column: InstrumentedAttribute[UUID], name: str) -> ColumnElement[bool]:
    return column == any_(bindparam(name, type_=ARRAY(Uuid())))


_LOG = select(Reading).where(_one_of(Reading.valve_id, "valves")).order_by(Reading.id)
_WHOLE = _LOG.options(selectinload(Reading.instrument))
_SINCE = _LOG.options(joinedload(Reading.instrument)).where(Reading.id > bindparam("after"))
_LOCKED = (
    select(Valve.build_id).where(_one_of(Valve.id, "valves")).order_by(Valve.id).with_for_update()
)
_ASKED = _one_of(Reading.key, "keys")
_SO_FAR = (
    select(Reading.valve_id, func.max(Reading.number), func.array_agg(Reading.key).filter(_ASKED))
    .where(or_(_one_of(Reading.valve_id, "valves"), _ASKED))
    .group_by(Reading.valve_id)
)


def readings_of(session: Session, valve_ids: Collection[UUID]) -> dict[UUID, list[Reading]]:
    """The log of each valve, oldest first."""
    return _by_valve(session.scalars(_WHOLE, {"valves": list(valve_ids)}))


def readings_since(
    session: Session, valve_ids: Collection[UUID], reading_id: int
) -> dict[UUID, list[Reading]]:
    """The lines of each valve that were added after one, oldest first."""
    asked = {"valves": list(valve_ids), "after": reading_id}
    return _by_valve(session.scalars(_SINCE, asked))


def _by_valve(rows: Iterable[Reading]) -> dict[UUID, list[Reading]]:
    found: dict[UUID, list[Reading]] = defaultdict(list)
    for reading in rows:
        found[reading.valve_id].append(reading)
    return found


def reading_by_key(session: Session, key: UUID) -> Reading | None:
    return session.scalar(select(Reading).where(Reading.key == key))


def append_reading(session: Session, reading: Reading) -> None:
    """Add a line to the log, numbered here; the same key again changes nothing.

    Raises Conflict when the key was used for another reading, or when the line
    to strike out was already struck out.
    """
    append_readings(session, [reading])


def append_readings(session: Session, lines: Sequence[Reading]) -> None:
    """Add lines to the log of one build in their order, each as ``append_reading`` does."""
    if not lines:
        return
    touched = sorted({line.valve_id for line in lines})
    build_ids = session.scalars(_LOCKED, {"valves": touched}).all()
    keys = {line.key for line in lines}
    numbers, known = _so_far(session, touched, keys)
    insertion = insert(cast(Table, Reading.__table__)).on_conflict_do_nothing()
    added: set[UUID] = set()
    for alike in _alike([_columns(line, numbers) for line in lines if line.key not in known]):
        added.update(session.scalars(insertion.returning(Reading.key), alike))
    for line in lines:
        if line.key not in added:
            _explain_refusal(session, line)
    if added:
        touch(session, build_ids[0])


def _so_far(
    session: Session, valve_ids: Collection[UUID], keys: Collection[UUID]
) -> tuple["Counter[UUID]", set[UUID]]:
    """The last number of each of some valves, and which of some keys are kept, of any valve."""
    numbers: Counter[UUID] = Counter()
    known: set[UUID] = set()
    asked = {"valves": list(valve_ids), "keys": list(keys)}
    for valve_id, number, kept in session.execute(_SO_FAR, asked):
        numbers[valve_id] = number or 0
        known.update(kept or ())
    return numbers, known


def _columns(line: Reading, numbers: "Counter[UUID]") -> dict[str, Any]:
    """What a line fills in, with its number."""
    filled = inspect(line).dict
    columns = {c.key: filled[c.key] for c in inspect(Reading).column_attrs if c.key in filled}
    if line.kind not in ("count_back", "void"):
        numbers[line.valve_id] += 1
        columns["number"] = numbers[line.valve_id]
    return columns


def _alike(rows: list[dict[str, Any]]) -> Iterator[list[dict[str, Any]]]:
    """Rows in their order, in runs that fill the same columns."""
    for _, run in groupby(rows, key=lambda row: tuple(sorted(row))):
        yield list(run)


def _explain_refusal(session: Session, reading: Reading) -> None:
    known = reading_by_key(session, reading.key)
    if known is not None:
        _same_reading(known, reading)
        return
    other = session.scalar(select(Reading).where(Reading.replaces_id == reading.replaces_id))
    raise Conflict(
        say("This reading was already struck out."),
        {"kind": reading.kind, "reason": reading.reason},
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


def _same_reading(known: Reading, again: Reading) -> None:
    stored = {name: getattr(known, name) for name in _CONTENT}
    yours = {name: getattr(again, name) for name in _CONTENT}
    differ = [name for name in _CONTENT if yours[name] != stored[name]]
    if differ:
        raise Conflict(
            say("This key was already used for another reading."),
            {name: yours[name] for name in differ},
            {name: stored[name] for name in differ},
        )
