"""The order sheet in its formats."""

from datetime import UTC, datetime
from typing import Annotated, Any
from uuid import UUID

from fastapi import APIRouter, Query, Request, Response
from sqlalchemy.orm import Session

from vivid_arm.api.deps import Rx, SaidUnit, build_state
from vivid_arm.api.responses import CsvResponse, PdfResponse, TextResponse
from vivid_arm.documents import order_data, order_sheet
from vivid_arm.documents.paper import Paper

router = APIRouter(prefix="/api/builds/{build_id}/order", tags=["order"])


@router.get(".json")
def order_json(build_id: UUID, session: Rx, response: Response) -> dict[str, Any]:
    """The order sheet as JSON; its schema is in docs/formats.md."""
    response.headers["Content-Disposition"] = 'attachment; filename="rod-order.json"'
    return order_data.to_dict(_sheet(session, build_id))


@router.get(".csv", response_class=CsvResponse)
def order_csv(build_id: UUID, session: Rx) -> CsvResponse:
    """The order sheet as CSV, one row a length."""
    return CsvResponse(
        order_sheet.to_csv(_sheet(session, build_id)),
        headers={"Content-Disposition": 'attachment; filename="rod-order.csv"'},
    )


@router.get(".txt", response_class=TextResponse)
def order_text(build_id: UUID, session: Rx) -> TextResponse:
    """The order as the text of an e-mail."""
    return TextResponse(order_sheet.to_text(_sheet(session, build_id)))


@router.get(".pdf", response_class=PdfResponse)
def order_pdf(
    build_id: UUID,
    request: Request,
    session: Rx,
    unit: SaidUnit,
    paper: Annotated[Paper, Query()] = "A4",
) -> PdfResponse:
    """The order sheet to print, with the build's QR code."""
    link = f"{str(request.base_url).rstrip('/')}/builds/{build_id}/order"
    return PdfResponse(
        order_sheet.to_pdf(_sheet(session, build_id), unit, paper, link),
        headers={"Content-Disposition": 'inline; filename="rod-order.pdf"'},
    )


def _sheet(session: Session, build_id: UUID) -> order_data.OrderSheet:
    return order_data.order_sheet(build_state(session, build_id), datetime.now(UTC))
