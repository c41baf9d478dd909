"""A line of the log as it was kept."""

from dataclasses import dataclass, fields
from datetime import datetime
from decimal import Decimal
from uuid import UUID

from vivid_arm.records.shapes import Repeats, SeenFigures
from vivid_arm.records.tables import Instrument, Reading


@dataclass(slots=True)
class KeptLine:
    """A reading that is kept, with its instrument, in the columns of ``Reading``.

    A log is hundreds of them, looked through again and again: none is tied to a session.
    """

    instrument: Instrument | None
    id: int
    key: UUID
    valve_id: UUID
    instrument_id: UUID | None
    kind: str
    number: int | None
    raw: str
    raw_gap: str
    turns: Decimal | None
    length_in: Decimal | None
    feel: str | None
    gap_in: Decimal | None
    raw_rod: str
    rod_in: Decimal | None
    rod_convention: str | None
    pitch_in: Decimal | None
    push_in: Decimal | None
    crank_deg: Decimal | None
    repeats: Repeats | None
    shim_in: Decimal | None
    seen: SeenFigures | None
    replaces_id: int | None
    reason: str
    taken_by: str
    build_version: int
    taken_at: datetime


AnyLine = KeptLine | Reading
"""A line that is kept, or one that is to be."""

COLUMNS = tuple(f.name for f in fields(KeptLine))[1:]
