"""What history and notes give."""

from datetime import datetime
from uuid import UUID

from pydantic import BaseModel

from vivid_arm.records.history import EventKind


class DetailOut(BaseModel):
    """One figure that was changed: what it was and what it is, in words."""

    name: str
    old: str
    new: str


class HappenedOut(BaseModel):
    """One thing that happened; ``change_id`` where it can be taken back."""

    at: datetime
    by: str
    kind: EventKind
    where: str
    words: str
    details: list[DetailOut]
    change_id: int | None


class HistoryOut(BaseModel):
    """A page of what happened, newest first, and how much there is in all."""

    total: int
    events: list[HappenedOut]


class NoteOut(BaseModel):
    """A note as it stands; ``where`` names the valve and the reading it is on."""

    id: int
    text: str
    where: str
    valve_id: UUID | None
    reading_id: int | None
    photo_id: UUID | None
    by: str
    at: datetime
    changed: bool
