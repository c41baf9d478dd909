"""The language of an answer: what the page says it is in, else what the browser asks for."""

from starlette.datastructures import Headers
from starlette.requests import HTTPConnection
from starlette.types import ASGIApp, Receive, Scope, Send

from vivid_arm.core.words import language
from vivid_arm.languages import chosen

COOKIE = "vivid-arm-language"


class Spoken:
    """Answers every request in its language."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        told = HTTPConnection(scope).cookies.get(COOKIE)
        before = language.set(chosen(told, Headers(scope=scope).get("accept-language", "")))
        try:
            await self.app(scope, receive, send)
        finally:
            language.reset(before)
