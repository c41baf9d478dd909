"""Notes on builds, valves and readings: kept once, changed by a later one, never lost."""

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from vivid_arm.core.errors import InputError
from vivid_arm.core.words import say
from vivid_arm.records.entries import NoteIn
from vivid_arm.records.rows.kept import Conflict
from vivid_arm.records.tables import Build, Note, Photo, Reading

MOST_NOTES = 500


def add_note(session: Session, build: Build, entry: NoteIn) -> None:
    """Keep a note; the same key again keeps it once.

    Raises InputError for one that says nothing or is on what is not of the build, Conflict when
    its key says something else already, or the note it changes was changed before.
    """
    row = {
        "key": entry.key, "build_id": build.id, "valve_id": entry.valve_id,
        "reading_id": entry.reading_id, "photo_id": entry.photo_id,
        "replaces_id": entry.replaces, "body": entry.text.strip(), "by": entry.by.strip(),
    }  # fmt: skip
    known = session.scalar(select(Note).where(Note.key == entry.key))
    if known is None:
        _check(session, build, entry)
        line = insert(Note).values(**row).on_conflict_do_nothing().returning(Note.id)
        if session.scalar(line) is not None:
            return
        known = session.scalar(select(Note).where(Note.key == entry.key))
    if known is None:
        raise Conflict(say("This note was changed already."), {"note": row["body"]}, {})
    differs = {n: row[n] for n in row if getattr(known, n) != row[n]}
    if differs:
        stored = {n: getattr(known, n) for n in differs}
        raise Conflict(say("This key was already used for another note."), differs, stored)


def _check(session: Session, build: Build, entry: NoteIn) -> None:
    if not entry.text.strip() and entry.photo_id is None and entry.replaces is None:
        raise InputError(
            "text", say("The note is empty"), remedy=say("Say something"), code="empty"
        )
    valves = {v.id for v in build.valves}
    if entry.valve_id is not None and entry.valve_id not in valves:
        raise InputError("valve_id", say("This build has no such valve"), code="unknown")
    if entry.reading_id is not None:
        reading = session.get(Reading, entry.reading_id)
        if reading is None or reading.valve_id not in valves:
            raise InputError("reading_id", say("This build has no such reading"), code="unknown")
    if entry.photo_id is not None:
        photo = session.get(Photo, entry.photo_id)
        if photo is None or photo.build_id != build.id:
            raise InputError("photo_id", say("This build has no such photo"), code="unknown")
    if entry.replaces is not None:
        old = session.get(Note, entry.replaces)
        if old is None or old.build_id != build.id:
            raise InputError("replaces", say("This build has no such note"), code="unknown")
    count = select(Note.id).where(Note.build_id == build.id).limit(MOST_NOTES)
    if len(session.scalars(count).all()) >= MOST_NOTES:
        raise InputError(
            "text",
            say("A build holds {most_notes} notes, changed ones counted", most_notes=MOST_NOTES),
            expected=say("at most {most_notes}", most_notes=MOST_NOTES),
            remedy=say("Put it into an earlier note"),
            code="full",
        )
