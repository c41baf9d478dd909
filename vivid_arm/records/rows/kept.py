"""Rows kept once, changed by version, and refused when they have moved on."""

from collections.abc import Callable, Sequence
from decimal import Decimal
from typing import Any, TypeVar
from uuid import UUID

from sqlalchemy import CursorResult, Executable, bindparam, func, inspect, select, update
from sqlalchemy.orm import Session

from vivid_arm.core.words import say
from vivid_arm.records.tables import BoxRod, Build, Instrument, Order, Valve


def exact(value: float) -> Decimal:
    """A length as it is stored: to a millionth of an inch."""
    return Decimal(str(value)).quantize(Decimal("0.000001"))


def plain_rows(
    session: Session, query: Executable, values: dict[str, Any]
) -> CursorResult[*tuple[Any, ...]]:
    """What a query gives of a session's own transaction, as it comes: nothing of it is mapped."""
    session.flush()
    return session.connection().execute(query, values)


class Conflict(Exception):
    """A write on stale data: the caller's values and the stored ones, by field.

    ``choices`` are ways to go on: what to call each, and the fields that ask for it.
    """

    def __init__(
        self,
        message: str,
        yours: dict[str, Any],
        stored: dict[str, Any],
        choices: Sequence[tuple[str, dict[str, Any]]] = (),
    ) -> None:
        super().__init__(message)
        self.yours = yours
        self.stored = stored
        self.choices = choices


TOUCHED = {"log_count": Build.log_count + 1, "updated_at": func.clock_timestamp()}
_TOUCH = (
    update(Build)
    .where(Build.id == bindparam("of"))
    .values(TOUCHED)
    .execution_options(synchronize_session=False)
)


def touch(session: Session, build_id: UUID) -> None:
    """Say that something of a build has changed that its row does not show."""
    session.execute(_TOUCH, {"of": build_id})


Kept = TypeVar("Kept", Instrument, BoxRod)


def insert_once(session: Session, row: Kept) -> Kept:
    """Keep an instrument or shelf rods; the same id again gives what is already kept."""
    one_at_a_time(session, row.id)
    known = session.get(type(row), row.id)
    if known is not None:
        return known
    session.add(row)
    session.flush()
    return row


def one_at_a_time(session: Session, new_id: UUID) -> None:
    """Make requests that create the same id wait for each other."""
    session.execute(select(func.pg_advisory_xact_lock(func.hashtext(str(new_id)))))


Versioned = TypeVar("Versioned", Build, Instrument, Valve, BoxRod, Order)


def change(
    session: Session,
    row: Versioned,
    version: int,
    values: dict[str, Any],
    check: Callable[[Versioned], None] = lambda row: None,
) -> Versioned:
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
            say("Changed elsewhere since this page was read."),
            different,
            {name: stored[name] for name in different},
        )
    with session.no_autoflush:
        for name, value in different.items():
            setattr(row, name, value)
        check(row)
    session.flush()
    return row


def _lock(session: Session, row: Versioned) -> None:
    """Hold the row until the transaction ends, and read its columns again."""
    table = type(row)
    session.execute(select(table.id).where(table.id == row.id).with_for_update())
    session.refresh(row, [c.key for c in inspect(table).column_attrs])
