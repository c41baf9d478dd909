"""The shop's checking rods and calipers."""

from uuid import UUID

from fastapi import APIRouter

from vivid_arm.api.deps import Rx, Tx, found_instrument
from vivid_arm.api.setup.schemas import InstrumentChange, InstrumentIn, InstrumentOut
from vivid_arm.api.setup.views import instrument_out
from vivid_arm.records.rows import instruments
from vivid_arm.records.writes import setup

router = APIRouter(prefix="/api/instruments", tags=["setup"])


@router.get("")
def list_instruments(session: Rx) -> list[InstrumentOut]:
    """Every instrument, the oldest first."""
    return [instrument_out(row) for row in instruments.list_instruments(session)]


@router.post("", status_code=201)
def make_instrument(body: InstrumentIn, session: Tx) -> InstrumentOut:
    """Add an instrument. Safe to repeat: the same id gives the one already kept."""
    return instrument_out(setup.new_instrument(session, body.model_dump()))


@router.patch("/{instrument_id}")
def change_instrument(instrument_id: UUID, body: InstrumentChange, session: Tx) -> InstrumentOut:
    """Correct an instrument; trials counted in turns are worked out again from it."""
    row = found_instrument(session, instrument_id)
    values = body.model_dump(exclude_unset=True, exclude={"version"})
    return instrument_out(setup.change_instrument(session, row, body.version, values))
