"""The shop's instruments."""

from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import Session

from vivid_arm.records.tables import Instrument


def list_instruments(session: Session) -> list[Instrument]:
    """Those of the shop; a practice engine's rods are its own."""
    query = select(Instrument).where(~Instrument.practice).order_by(Instrument.created_at)
    return list(session.scalars(query))


def get_instrument(session: Session, instrument_id: UUID) -> Instrument | None:
    return session.get(Instrument, instrument_id)
