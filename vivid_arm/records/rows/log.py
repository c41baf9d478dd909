"""The log: readings of valves, appended once by key, never changed."""

from collections import defaultdict
from collections.abc import Collection
from uuid import UUID

from sqlalchemy import func, inspect, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session, joinedload

from vivid_arm.records.rows.kept import Conflict, touch
from vivid_arm.records.tables import Reading, Valve


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


def append_reading(session: Session, reading: Reading) -> None:
    """Add a line to the log, numbered here; the same key again changes nothing.

    Raises Conflict when the key was used for another reading, or when the line
    to strike out was already struck out.
    """
    session.execute(select(Valve.id).where(Valve.id == reading.valve_id).with_for_update())
    filled = inspect(reading).dict
    columns = {c.key: filled[c.key] for c in inspect(Reading).column_attrs if c.key in filled}
    if reading.kind not in ("count_back", "void"):
        last = select(func.coalesce(func.max(Reading.number), 0) + 1)
        columns["number"] = last.where(Reading.valve_id == reading.valve_id).scalar_subquery()
    line = insert(Reading).values(columns)
    added = session.scalar(line.on_conflict_do_nothing().returning(Reading.id))
    if added is None:
        _explain_refusal(session, reading)
        return
    touch(session, select(Valve.build_id).where(Valve.id == reading.valve_id).scalar_subquery())


def _explain_refusal(session: Session, reading: Reading) -> None:
    known = reading_by_key(session, reading.key)
    if known is not None:
        _same_reading(known, reading)
        return
    other = session.scalar(select(Reading).where(Reading.replaces_id == reading.replaces_id))
    raise Conflict(
        "This reading was already struck out.",
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
            "This key was already used for another reading.",
            {name: yours[name] for name in differ},
            {name: stored[name] for name in differ},
        )
