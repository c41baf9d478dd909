"""What a document may open while it is made: the program's own fonts."""

from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit

from weasyprint.urls import URLFetcher, URLFetcherResponse

FONTS = Path(__file__).parent / "fonts"


class OnlyFonts(URLFetcher):  # type: ignore[misc]
    """Serves the fonts that ship with the program, and nothing else."""

    def fetch(self, url: str, headers: dict[str, Any] | None = None) -> URLFetcherResponse:
        """A font. Raises ValueError for every other address."""
        parts = urlsplit(url)
        path = Path(unquote(parts.path)).resolve()
        if parts.scheme != "file" or parts.netloc or path.parent != FONTS.resolve():
            raise ValueError("a document opens its own fonts only")
        return URLFetcherResponse(url, path.read_bytes(), {"Content-Type": "font/woff2"})
