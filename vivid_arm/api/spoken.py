"""The language and the unit of an answer: what the page says, else what the browser asks for."""

from typing import cast, get_args
from urllib.parse import parse_qs

from starlette.datastructures import Headers
from starlette.requests import HTTPConnection
from starlette.types import ASGIApp, Receive, Scope, Send

from vivid_arm.core.words import Unit, language
from vivid_arm.languages import chosen

COOKIE, UNIT_COOKIE = "vivid-arm-language", "vivid-arm-unit"


class Spoken:
    """Answers every request in its language and its unit."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        told = HTTPConnection(scope).cookies
        accepted = Headers(scope=scope).get("accept-language", "")
        unit = _unit(scope, told.get(UNIT_COOKIE))
        before = language.set(chosen(told.get(COOKIE), accepted, unit))
        try:
            await self.app(scope, receive, send)
        finally:
            language.reset(before)


def _unit(scope: Scope, told: str | None) -> Unit:
    """The unit an address names, such as a paper's, else what the page says, else inches."""
    named = parse_qs(scope["query_string"].decode("latin-1")).get("unit", [told])[0]
    return cast(Unit, named) if named in get_args(Unit) else "in"
