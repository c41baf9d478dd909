"""One shape for every refusal: problem details (RFC 9457) with a code, field and suggestion."""

import json
from typing import Any

from fastapi import FastAPI, Request
from fastapi.encoders import jsonable_encoder
from fastapi.exceptions import RequestValidationError
from fastapi.openapi.utils import get_openapi
from fastapi.responses import Response
from pydantic import BaseModel
from sqlalchemy.exc import DataError, DBAPIError, IntegrityError, InternalError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from starlette.exceptions import HTTPException
from starlette.routing import Match

from vivid_arm.api import examples
from vivid_arm.core.errors import InputError
from vivid_arm.core.words import Saying, say
from vivid_arm.documents.apart import TooMuch
from vivid_arm.outside.supplier import SupplierAway, SupplierRefused
from vivid_arm.records.accounts import NotLetIn
from vivid_arm.records.database import why_not_written
from vivid_arm.records.fields import fault_of, in_words
from vivid_arm.records.rows.kept import Conflict
from vivid_arm.records.tables import UnreadableShape

MEDIA_TYPE = "application/problem+json"


class SuggestionOut(BaseModel):
    """What to type instead, and why."""

    text: str
    why: str


class Problem(BaseModel):
    """A refusal. ``detail`` is a sentence that names field, limit and likely mistake."""

    type: str = "about:blank"
    title: str
    status: int
    code: str
    detail: str
    field: str | None = None
    received: str | None = None
    expected: str | None = None
    suggestion: SuggestionOut | None = None
    context: dict[str, Any] = {}


class NotFound(LookupError):
    """No such thing: what was asked for."""


class SignInFirst(Exception):
    """Nobody is signed in."""


class NotYours(Exception):
    """Somebody is, and his role may not: why, in words."""


RESPONSES: dict[int | str, dict[str, Any]] = {
    status: {"model": Problem, "description": text}
    for status, text in (
        (400, "The request cannot be read"),
        (401, "Nobody is signed in, on a shop with accounts"),
        (403, "A write from another site's page, or more than a role may"),
        (404, "No such thing"),
        (405, "No such method here"),
        (503, "The database or the supplier does not answer"),
        (429, "Too many tries to sign in"),
        (409, "Changed elsewhere, or a key used twice"),
        (422, "A value cannot be right"),
    )
}


def document(app: FastAPI) -> dict[str, Any]:
    """The OpenAPI document, with worked examples, and refusals under their media type."""
    if app.openapi_schema is not None:
        return app.openapi_schema
    found = get_openapi(
        title=app.title, version=app.version, summary=app.summary, routes=app.routes
    )
    for path in found["paths"].values():
        for operation in path.values():
            for status, response in operation["responses"].items():
                if int(status) in RESPONSES:
                    schema = next(iter(response["content"].values()))
                    response["content"] = {MEDIA_TYPE: schema}
    examples.put_in(found)
    app.openapi_schema = found
    return found


def answer(problem: Problem) -> Response:
    body = json.dumps(jsonable_encoder(problem, exclude_none=True), ensure_ascii=False)
    # What was received is told as far as it is text at all.
    return Response(body.encode("utf-8", "replace"), problem.status, media_type=MEDIA_TYPE)


def install(app: FastAPI) -> None:
    """Map every expected exception to a problem, and document them."""
    app.openapi = lambda: document(app)  # type: ignore[method-assign]
    app.add_exception_handler(InputError, _bad_input)
    app.add_exception_handler(Conflict, _conflict)
    app.add_exception_handler(NotFound, _not_found)
    app.add_exception_handler(SignInFirst, _sign_in_first)
    app.add_exception_handler(NotYours, _not_yours)
    app.add_exception_handler(NotLetIn, _not_let_in)
    app.add_exception_handler(RequestValidationError, _bad_request)
    app.add_exception_handler(HTTPException, _http)
    app.add_exception_handler(IntegrityError, _crossed)
    app.add_exception_handler(OperationalError, _database_away)
    app.add_exception_handler(PoolTimeout, _database_away)
    app.add_exception_handler(InternalError, _database_away)
    app.add_exception_handler(TooMuch, _too_much)
    app.add_exception_handler(UnreadableShape, _unreadable)
    app.add_exception_handler(DataError, _unreadable)
    app.add_exception_handler(SupplierAway, _supplier_away)
    app.add_exception_handler(SupplierRefused, _supplier_refused)


def _bad_input(_: Request, error: Exception) -> Response:
    assert isinstance(error, InputError)
    hint = error.suggestion
    return answer(
        Problem(
            title=say("This value cannot be right"),
            status=422,
            code=error.code,
            detail=str(error),
            field=error.field,
            received=None if error.received is None else str(error.received)[:200],
            expected=error.expected or None,
            suggestion=SuggestionOut(text=hint.text, why=hint.why) if hint else None,
        )
    )


def _conflict(_: Request, error: Exception) -> Response:
    assert isinstance(error, Conflict)
    fields = list(error.yours)
    choices = [{"words": words, "change": _plain(change)} for words, change in error.choices]
    return answer(
        Problem(
            title=say("Changed elsewhere"),
            status=409,
            code="conflict",
            detail=str(error) if choices else say("{error} Nothing was overwritten.", error=error),
            field=fields[0] if len(fields) == 1 else None,
            context={
                "yours": _plain(error.yours),
                "stored": _plain(error.stored),
            }
            | ({"choices": choices} if choices else {}),
        )
    )


def _plain(values: dict[str, Any]) -> dict[str, Any]:
    encoded: dict[str, Any] = jsonable_encoder(values)
    return encoded


def _not_found(_: Request, error: Exception) -> Response:
    return answer(
        Problem(title=say("No such thing"), status=404, code="not_found", detail=str(error))
    )


def _sign_in_first(_: Request, error: Exception) -> Response:
    detail = say("Nobody is signed in here. Sign in; what you entered is kept.")
    return answer(Problem(title=say("Sign in first"), status=401, code="sign_in", detail=detail))


def _not_yours(_: Request, error: Exception) -> Response:
    return answer(Problem(title=say("Not yours to do"), status=403, code="role", detail=str(error)))


def _not_let_in(_: Request, error: Exception) -> Response:
    assert isinstance(error, NotLetIn)
    status = 429 if error.wait_s else 403
    found = answer(
        Problem(title=say("Not let in"), status=status, code="not_let_in", detail=str(error))
    )
    if error.wait_s:
        found.headers["Retry-After"] = str(error.wait_s)
    return found


def _bad_request(_: Request, error: Exception) -> Response:
    assert isinstance(error, RequestValidationError)
    found = error.errors()
    where, words = fault_of([e | {"loc": e["loc"][1:]} for e in found])
    whole = say("Request")
    return answer(
        Problem(
            title=say("The request cannot be read"),
            status=422,
            code="bad_request",
            detail=f"{in_words(where) if where else whole}: {words}.",
            field=where or None,
            received=str(found[0].get("input"))[:200],
        )
    )


def _http(request: Request, error: Exception) -> Response:
    assert isinstance(error, HTTPException)
    found = answer(
        Problem(
            title=say("The request cannot be served"),
            status=error.status_code,
            code="http",
            detail=str(error.detail),
        )
    )
    if error.status_code == 405:
        found.headers["Allow"] = ", ".join(sorted(_methods(request)))
    return found


def _methods(request: Request) -> set[str]:
    """What may be asked of an address, by the routes that know it."""
    found: set[str] = set()
    for route in request.app.state.routes:
        match, _ = route.matches(request.scope)
        if match == Match.PARTIAL:
            found |= route.methods
    return found


def _crossed(_: Request, error: Exception) -> Response:
    return answer(
        Problem(
            title=say("Changed elsewhere"),
            status=409,
            code="conflict",
            detail=say(
                "Something else changed this at the same moment. Nothing was kept; try again."
            ),
        )
    )


def _unreadable(_: Request, error: Exception) -> Response:
    words = (
        str(error) if isinstance(error, UnreadableShape) else say("a time or a figure out of range")
    )
    return answer(
        Problem(
            title=say("This build cannot be computed"),
            status=422,
            code="unreadable",
            detail=say(
                "Something kept of this build cannot be read: {words}. Its readings are kept; "
                "the set-up can be entered anew.",
                words=words,
            ),
        )
    )


TOO_LARGE = Saying("More than 20 MB. A photo may have 15 MB, a table of readings 5 MB.")


def too_large() -> Response:
    """The answer to a body longer than any may be; it is not read."""
    return answer(
        Problem(title=say("Too large"), status=413, code="too_large", detail=say(TOO_LARGE))
    )


def wrong_host() -> Response:
    """The answer to a request that names another host (a rebound name, a proxy)."""
    return answer(
        Problem(
            title=say("Wrong host"),
            status=400,
            code="host",
            detail=say(
                "Vivid Arm does not answer to this name. On this machine it is 127.0.0.1 or "
                "localhost; other names are told to it with --name."
            ),
        )
    )


def other_origin() -> Response:
    """The answer to a write from another site's page."""
    return answer(
        Problem(
            title=say("Another site"),
            status=403,
            code="origin",
            detail=say("Only Vivid Arm's own pages may write here."),
        )
    )


def _supplier_away(_: Request, error: Exception) -> Response:
    return answer(
        Problem(
            title=say("The supplier does not answer"),
            status=503,
            code="supplier_away",
            detail=say(
                "The supplier gave no answer: {error}. Asking again is safe: an order is known "
                "by its own key and is never placed twice.",
                error=error,
            ),
        )
    )


def _supplier_refused(_: Request, error: Exception) -> Response:
    return answer(
        Problem(
            title=say("The supplier refused"),
            status=409,
            code="supplier_refused",
            detail=say("The supplier refused: {error} Nothing was ordered.", error=error),
        )
    )


def _database_away(request: Request, error: Exception) -> Response:
    why = why_not_written(error) if isinstance(error, DBAPIError) else None
    if why is not None:
        request.app.state.refused = True
        detail = say("Nothing can be kept: {why}. What was kept before is safe.", why=why)
        return answer(
            Problem(title=say("Nothing can be kept"), status=507, code="full", detail=detail)
        )
    return _later(
        say("The database does not answer"),
        "database",
        say("The database does not answer. Nothing was changed; try again in a moment."),
    )


def too_late() -> Response:
    """The answer to a request that is not through in time; whether it was kept is not known."""
    return _later(
        say("Not answered in time"),
        "too_late",
        say(
            "No answer in time. Whether it was kept is not known: send it again with the same key."
        ),
    )


def _too_much(_: Request, error: Exception) -> Response:
    return _later(
        say("Too much work"), "too_much", say("This paper could not be made: {error}.", error=error)
    )


def _later(title: str, code: str, detail: str) -> Response:
    found = answer(Problem(title=title, status=503, code=code, detail=detail))
    found.headers["Retry-After"] = "3"
    return found
