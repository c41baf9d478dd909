"""Answers that are not JSON, and JSON that is written at once."""

from fastapi import Response
from pydantic import BaseModel


class CsvResponse(Response):
    media_type = "text/csv; charset=utf-8"


class JpegResponse(Response):
    media_type = "image/jpeg"


class PdfResponse(Response):
    media_type = "application/pdf"


class TextResponse(Response):
    media_type = "text/plain; charset=utf-8"


def written(body: BaseModel, status_code: int = 200) -> Response:
    """An answer, written where it was made; the usual way would check it once more before."""
    return Response(body.model_dump_json(by_alias=True), status_code, media_type="application/json")
