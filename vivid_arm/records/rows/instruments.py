"""The shop's instruments."""

from uuid import UUID

from sqlalchemy import select
from sqlalchemy.orm import Session

from vivid_arm.records.tables import Instrument


def list_instruments(session: Session) -> list[Instrument]:
    return list(session.scalars(select(Instrument).order_by(Instrument.created_at)))


def get_instrument(session: Session, instrument_id: UUID) -> Instrument | None:
    return session.get(Instrument, instrument_id)
