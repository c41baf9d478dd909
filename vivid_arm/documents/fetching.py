"""What a document may open while it is made: the program's own fonts, and photos in it."""

from base64 import b64decode
from functools import cache
from io import BytesIO
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit

from fontTools.ttLib import woff2
from weasyprint.urls import URLFetcher, URLFetcherResponse

_TYPE = "image/jpeg"
_JPEG = f"data:{_TYPE};base64,"
FONTS = Path(__file__).parent / "fonts"


@cache
def font(path: Path) -> bytes:
    """A font unpacked, once for all documents that a process and its forks make."""
    unpacked = BytesIO()
    woff2.decompress(BytesIO(path.read_bytes()), unpacked)
    return unpacked.getvalue()


class OwnOnly(URLFetcher):  # type: ignore[misc]
    """Serves the fonts that ship with the program and JPEGs of the page, and nothing else."""

    def fetch(self, url: str, headers: dict[str, Any] | None = None) -> URLFetcherResponse:
        """A font or a photo. Raises ValueError for every other address."""
        if url.startswith(_JPEG):
            return URLFetcherResponse(url, b64decode(url[len(_JPEG) :]), {"Content-Type": _TYPE})
        parts = urlsplit(url)
        path = Path(unquote(parts.path)).resolve()
        if parts.scheme != "file" or parts.netloc or path.parent != FONTS.resolve():
            raise ValueError("a document opens its own fonts and photos only")
        return URLFetcherResponse(url, font(path), {"Content-Type": "font/ttf"})
