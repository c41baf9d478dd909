"""The notes of a build as they stand: the last of each, none that was taken away."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from typing import cast
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import Session

from vivid_arm.core.engine.layout import ValveKind, valve_name
from vivid_arm.core.words import say
from vivid_arm.records.tables import Build, Note, Reading


@dataclass(frozen=True)
class KeptNote:
    """A note as it stands. ``where``: the valve it is on, with the reading's number; else empty."""

    id: int
    text: str
    where: str
    valve_id: UUID | None
    reading_id: int | None
    photo_id: UUID | None
    by: str
    at: datetime
    changed: bool


def notes_of(session: Session, build: Build) -> list[KeptNote]:
    """The notes of a build, the oldest first; one that was changed stands where it was first."""
    rows = list(session.scalars(select(Note).where(Note.build_id == build.id).order_by(Note.id)))
    names = {v.id: valve_name(v.cylinder, cast(ValveKind, v.kind)) for v in build.valves}
    on = [n.reading_id for n in rows if n.reading_id is not None]
    readings = {r.id: r for r in session.scalars(select(Reading).where(Reading.id.in_(on)))}
    later = {n.replaces_id: n for n in rows if n.replaces_id is not None}
    return [
        _kept(last, changed, names, readings)
        for first in rows
        if first.replaces_id is None
        for last, changed in (_last_of(first, later),)
        if last.body or last.photo_id is not None
    ]


def _last_of(first: Note, later: Mapping[int, Note]) -> tuple[Note, bool]:
    """The note that stands in the place of one, and whether that is another."""
    last = first
    while last.id in later:
        last = later[last.id]
    return last, last is not first


def _kept(
    note: Note, changed: bool, names: dict[UUID, str], readings: dict[int, Reading]
) -> KeptNote:
    reading = readings.get(note.reading_id or 0)
    valve_id = note.valve_id or (reading.valve_id if reading is not None else None)
    where = names.get(valve_id, "") if valve_id is not None else ""
    if reading is not None and reading.number is not None:
        where += say(", reading {number}", number=reading.number)
    return KeptNote(
        note.id, note.body, where, valve_id, note.reading_id, note.photo_id, note.by, note.at,
        changed,
    )  # fmt: skip
