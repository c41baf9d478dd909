"""A change taken back: what was before stands again, as a change of its own."""

from collections.abc import Callable
from decimal import Decimal
from typing import Any
from uuid import UUID

from sqlalchemy import Numeric, func, select
from sqlalchemy.orm import Session

from vivid_arm.core.errors import InputError
from vivid_arm.core.words import say
from vivid_arm.records.rows.builds import get_build, get_valve
from vivid_arm.records.rows.instruments import get_instrument
from vivid_arm.records.rows.kept import Conflict, change
from vivid_arm.records.tables import Base, BoxRod, Change, Shape
from vivid_arm.records.writes.setup import check_build, check_instrument

UNDOABLE = ("builds", "valves", "instruments", "box_rods")
_NEVER = {"removed_at", "binned_at", "exercise_id", "layout", "cylinders"}


def can_undo(found: Change) -> bool:
    """Whether a change is of a kind that can be taken back."""
    return found.of_table in UNDOABLE and not _NEVER & set(found.old)


def undo(session: Session, change_id: int, of: Callable[[Change], bool]) -> None:
    """Take a change back. Safe to repeat: what stands as it was before is left.

    ``of`` says whether a change belongs where it is asked for. Raises InputError for a change
    that cannot be taken back, Conflict where its row has been changed again since.
    """
    found = session.get(Change, change_id)
    if found is None or not of(found) or not can_undo(found):
        raise InputError(
            "change_id", say("This change cannot be taken back"), received=change_id,
            remedy=say("Enter what it should be"), code="no_undo",
        )  # fmt: skip
    row, check = _row_of(session, found)
    values = {name: _as_kept(type(row), name, value) for name, value in found.old.items()}
    if all(getattr(row, n) == v for n, v in values.items()):
        return
    last = select(func.max(Change.id)).where(
        Change.of_table == found.of_table, Change.row_id == found.row_id
    )
    if session.scalar(last) != found.id:
        raise Conflict(
            say("This was changed again since; take the later change back first."),
            dict(found.old),
            {name: found.new.get(name) for name in found.old},
        )
    change(session, row, row.version, values, check)


def _row_of(session: Session, found: Change) -> tuple[Any, Callable[[Any], None]]:
    id_ = UUID(found.row_id)
    rows: dict[str, tuple[Callable[[], Any], Callable[[Any], None]]] = {
        "builds": (lambda: get_build(session, id_), lambda b: check_build(session, b)),
        "valves": (lambda: get_valve(session, id_), lambda _: None),
        "instruments": (lambda: get_instrument(session, id_), check_instrument),
        "box_rods": (lambda: session.get(BoxRod, id_), lambda _: None),
    }
    find, check = rows[found.of_table]
    row = find()
    if row is None:
        raise InputError("change_id", say("What was changed is not there any more"), code="no_undo")
    return row, check


def _as_kept(table: type[Base], name: str, value: Any) -> Any:
    """A value of the history as its column holds it."""
    kind = table.__table__.columns[name].type
    if value is None:
        return None
    if isinstance(kind, Shape):
        return kind.read(value)
    if isinstance(kind, Numeric):
        return Decimal(str(value))
    return UUID(value) if name.endswith("_id") else value
