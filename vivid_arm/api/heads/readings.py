"""Readings out and in as CSV."""

from uuid import UUID

from fastapi import APIRouter

from vivid_arm.api.deps import Rx, Tx, build_state, seen
from vivid_arm.api.heads.schemas import ReadingsIn, ReadingsOut
from vivid_arm.api.responses import CsvResponse
from vivid_arm.documents import readings
from vivid_arm.records.signed_in import as_written
from vivid_arm.records.state.load import look_ahead

router = APIRouter(prefix="/api/builds", tags=["heads"])


@router.get("/{build_id}/readings.csv", response_class=CsvResponse)
def read_readings(build_id: UUID, session: Rx) -> CsvResponse:
    """Every line of the build's log; the columns are in docs/formats.md."""
    return CsvResponse(
        readings.to_csv(seen(session, build_id)),
        headers={"Content-Disposition": 'attachment; filename="readings.csv"'},
    )


@router.post("/{build_id}/readings", status_code=201)
def keep_readings(build_id: UUID, body: ReadingsIn, session: Tx) -> ReadingsOut:
    """Keep the readings of a CSV file, all or none; the same file again changes nothing."""
    state = build_state(session, build_id)
    with as_written():
        count = readings.read_csv(session, state.build, body.csv)
    look_ahead(session, state.build)
    return ReadingsOut(lines=count)
