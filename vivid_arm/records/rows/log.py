"""The log: readings of valves, appended once by key, never changed."""

from collections import Counter, defaultdict
from collections.abc import Collection, Iterator, Sequence
from datetime import datetime
from functools import lru_cache
from itertools import groupby
from typing import Any, NamedTuple, cast
from uuid import UUID

from sqlalchemy import (
    ColumnElement,
    Select,
    Table,
    Uuid,
    any_,
    bindparam,
    func,
    inspect,
    literal,
    or_,
    select,
    update,
)
from sqlalchemy.dialects.postgresql import ARRAY, insert
from sqlalchemy.orm import InstrumentedAttribute, Session

from vivid_arm.core.words import say
from vivid_arm.records.rows.kept import TOUCHED, Conflict, plain_rows, touch
from vivid_arm.records.rows.line import COLUMNS, KeptLine
from vivid_arm.records.tables import Build, Instrument, Reading, Valve


def _one_of(column: InstrumentedAttribute[UUID], name: str) -> ColumnElement[bool]:
    return column == any_(bindparam(name, type_=ARRAY(Uuid())))


_COLUMNS = [getattr(Reading, name) for name in COLUMNS]
_LOG = select(*_COLUMNS).where(_one_of(Reading.valve_id, "valves")).order_by(Reading.id)
_SINCE = _LOG.where(Reading.id > bindparam("after"))
_LOCKED = (
    select(Valve.build_id).where(_one_of(Valve.id, "valves")).order_by(Valve.id).with_for_update()
)
_ONE_LOCKED = select(Valve.build_id).where(Valve.id == bindparam("valve")).with_for_update()
_ASKED = _one_of(Reading.key, "keys")
_SO_FAR = (
    select(Reading.valve_id, func.max(Reading.number), func.array_agg(Reading.key).filter(_ASKED))
    .where(or_(_one_of(Reading.valve_id, "valves"), _ASKED))
    .group_by(Reading.valve_id)
)

_UNNUMBERED = ("count_back", "void")
_NEW = insert(cast(Table, Reading.__table__)).on_conflict_do_nothing()
_INSERT = _NEW.returning(Reading.key)
_NEXT = (
    select(func.coalesce(func.max(Reading.number), 0) + 1)
    .where(Reading.valve_id == bindparam("new_valve_id"))
    .scalar_subquery()
)


@lru_cache(64)
def _one_and_touch(columns: tuple[str, ...], *, numbered: bool) -> Select[*tuple[Any, ...]]:
    """Insert a line and, where it is added, touch its build.

    Gives the line as kept and how the build was touched, or nothing.
    """
    types = {c.key: c.type for c in inspect(Reading).columns}
    values: dict[str, Any] = {c: bindparam(f"new_{c}", type_=types[c]) for c in columns}
    if numbered:
        values["number"] = _NEXT
    added = _NEW.values(values).returning(*_COLUMNS).cte("added")
    its_build = select(Valve.build_id).join(added, Valve.id == added.c.valve_id)
    build = cast(Table, Build.__table__)
    touched = (
        update(build)
        .where(build.c.id.in_(its_build))
        .values(TOUCHED)
        .returning(build.c.updated_at, build.c.log_count)
        .cte("touched")
    )
    return select(*(added.c[name] for name in COLUMNS), *touched.c).join_from(
        added, touched, literal(True)
    )


def readings_of(session: Session, valve_ids: Collection[UUID]) -> dict[UUID, list[KeptLine]]:
    """The log of each valve, oldest first."""
    return _by_valve(session, plain_rows(session, _LOG, {"valves": list(valve_ids)}).all())


def readings_since(
    session: Session, valve_ids: Collection[UUID], reading_id: int
) -> dict[UUID, list[KeptLine]]:
    """The lines of each valve that were added after one, oldest first."""
    asked = {"valves": list(valve_ids), "after": reading_id}
    return _by_valve(session, plain_rows(session, _SINCE, asked).all())


_BY_WHAT, _OF_WHICH = COLUMNS.index("instrument_id"), COLUMNS.index("valve_id")


def _by_valve(
    session: Session, rows: Sequence[Sequence[Any]], tool: Instrument | None = None
) -> dict[UUID, list[KeptLine]]:
    """Lines by their valve, each with its instrument; ``tool`` need not be asked for."""
    known = {tool.id: tool} if tool is not None else {}
    named = {row[_BY_WHAT] for row in rows}
    tools = {i: i and (known.get(i) or session.get(Instrument, i)) for i in named}
    found: dict[UUID, list[KeptLine]] = defaultdict(list)
    for row in rows:
        found[row[_OF_WHICH]].append(KeptLine(tools[row[_BY_WHAT]], *row))
    return found


def reading_by_key(session: Session, key: UUID) -> Reading | None:
    return session.scalar(select(Reading).where(Reading.key == key))


class Added(NamedTuple):
    """A line as it was kept, and when and how often its build was touched by then."""

    line: KeptLine
    touched: tuple[datetime, int]


def append_reading(session: Session, line: Reading, tool: Instrument | None = None) -> Added | None:
    """Add a line to the log, numbered here; the same key again changes nothing.

    None where it is kept already. ``tool``: an instrument it may name, where that is loaded.
    Raises Conflict when the key was used for another reading, or when the line to strike out
    was already struck out.
    """
    plain_rows(session, _ONE_LOCKED, {"valve": line.valve_id})
    columns = _columns(line)
    query = _one_and_touch(tuple(columns), numbered=line.kind not in _UNNUMBERED)
    values = {f"new_{k}": v for k, v in columns.items()}
    row = plain_rows(session, query, values).one_or_none()
    if row is None:
        _explain_refusal(session, line)
        return None
    kept, touched = row[: len(COLUMNS)], row[len(COLUMNS) :]
    return Added(_by_valve(session, [kept], tool)[line.valve_id][0], touched)


def append_readings(session: Session, lines: Sequence[Reading]) -> None:
    """Add lines to the log of one build in their order, each as ``append_reading`` does."""
    if not lines:
        return
    touched = sorted({line.valve_id for line in lines})
    build_ids = session.scalars(_LOCKED, {"valves": touched}).all()
    added = _added(session, touched, lines)
    for line in lines:
        if line.key not in added:
            _explain_refusal(session, line)
    if added:
        touch(session, build_ids[0])


def _added(session: Session, valve_ids: Collection[UUID], lines: Sequence[Reading]) -> set[UUID]:
    """The keys of the lines that were added, numbered in their order."""
    numbers, known = _so_far(session, valve_ids, {line.key for line in lines})
    rows = []
    for line in lines:
        if line.key not in known:
            rows.append(_columns(line))
            if line.kind not in _UNNUMBERED:
                numbers[line.valve_id] += 1
                rows[-1]["number"] = numbers[line.valve_id]
    added: set[UUID] = set()
    for alike in _alike(rows):
        added.update(session.scalars(_INSERT, alike))
    return added


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


def _columns(line: Reading) -> dict[str, Any]:
    """What a line fills in."""
    filled = inspect(line).dict
    return {c.key: filled[c.key] for c in inspect(Reading).column_attrs if c.key in filled}


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
