"""Answers that are not JSON."""

from fastapi import Response


class CsvResponse(Response):
    media_type = "text/csv; charset=utf-8"


class JpegResponse(Response):
    media_type = "image/jpeg"


class PdfResponse(Response):
    media_type = "application/pdf"


class TextResponse(Response):
    media_type = "text/plain; charset=utf-8"
