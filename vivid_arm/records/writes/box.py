"""The shop's own rods on the shelf: kept, changed, taken and given back."""

from collections.abc import Mapping
from typing import Any
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import Session

from vivid_arm.core.entry.lengths import FIELDS, check_range, parse_length
from vivid_arm.core.errors import InputError
from vivid_arm.core.words import Unit, say
from vivid_arm.records.rows.kept import change, insert_once
from vivid_arm.records.tables import BoxRod


def new_box_rod(session: Session, values: Mapping[str, Any], text: str, unit: Unit) -> BoxRod:
    """Keep rods of one length, as typed; the same id again gives the one kept.

    Raises InputError for a length or diameter that cannot be.
    """
    length = parse_length(text, FIELDS["rod_length"], unit).inches
    check_range(float(values["diameter_in"]), FIELDS["rod_diameter"])
    return insert_once(session, BoxRod(**values, length_in=length))


def change_box_rod(
    session: Session, row: BoxRod, version: int, values: Mapping[str, Any]
) -> BoxRod:
    """Change count or note of rods seen at ``version``. Raises InputError or Conflict."""
    return change(session, row, version, dict(values))


def take(session: Session, box_id: UUID, count: int) -> None:
    """Take rods off the shelf. Raises InputError when there are not enough."""
    row = session.scalar(select(BoxRod).where(BoxRod.id == box_id).with_for_update())
    if row is None or row.count < count:
        there = 0 if row is None else row.count
        raise InputError(
            "box",
            say(
                "{count} rods are wanted from the box, {there} are there", count=count, there=there
            ),
            received=count,
            expected=say("at most {there}", there=there),
            remedy=say("Order the rest, or correct the box"),
            code="box_short",
        )
    row.count -= count


def give_back(session: Session, box_id: UUID, count: int) -> None:
    """Put rods back on the shelf."""
    row = session.scalar(select(BoxRod).where(BoxRod.id == box_id).with_for_update())
    if row is not None:
        row.count += count
