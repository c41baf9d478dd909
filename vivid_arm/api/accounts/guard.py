"""Who is let in, and what a role may ask: one table of rights by operation."""

from collections.abc import AsyncIterator, Callable, Iterator
from dataclasses import dataclass
from time import monotonic
from typing import Annotated, Literal, TypedDict, TypeVar

from fastapi import Depends, FastAPI, Request, Response
from fastapi.concurrency import run_in_threadpool
from fastapi.routing import APIRoute

from vivid_arm.api.problems import NotFound, NotYours, SignInFirst
from vivid_arm.core.words import Saying, say
from vivid_arm.records.accounts import LONGEST, RIGHTS, Place, Right, Role, may, who_has
from vivid_arm.records.signed_in import signed_in
from vivid_arm.records.tables import Account, SignedIn

_OWN = {"backups_read_backups", "backups_read_backup", "watch_read_metrics"}
_SIGN = {"sign_off_sign"}
_DECIDE = {
    "order_draft_order", "order_place_order", "order_ask_status", "order_move_order",
    "history_undo_change", "history_undo_shop_change",
    "setup_throw_build_away", "setup_archive_build", "setup_put_back_build",
    "practice_throw_away_exercise", "zero_lash_add_nod",
}  # fmt: skip
_READS = {"GET", "HEAD"}
_LOOKED_EVERY_S = 5.0
Told = TypeVar("Told")


_A = {
    "owner": Saying("An owner"),
    "builder": Saying("A builder"),
    "apprentice": Saying("An apprentice"),
    "viewer": Saying("A viewer"),
}
_DOES: dict[Right, Saying] = {
    "see": Saying("see this"),
    "measure": Saying("enter or change anything"),
    "decide": Saying("order, undo or put away; ask a builder"),
    "sign": Saying("sign; ask a builder"),
    "own": Saying("see to accounts and backups; ask an owner"),
}


def lacking(role: str, right: Right) -> str:
    """Why someone of a role is refused."""
    return say("{who} does not {does}.", who=_A[role], does=_DOES[right])


@dataclass(frozen=True)
class Asking:
    """Whoever asks, the sign-in of his browser, and the token by which it is known."""

    account: Account
    entry: SignedIn
    token: str


def operation_of(route: APIRoute) -> str:
    """An operation's name: its step and its function, never its address or module."""
    return "_".join([*map(str, route.tags[:1]), route.name])


def right_for(operation: str, method: str, path: str) -> Right:
    """What an operation asks of whoever calls it."""
    if operation in _OWN:
        return "own"
    if operation in _SIGN:
        return "sign"
    if operation in _DECIDE:
        return "decide"
    if method in _READS or path.startswith("/api/compute/"):
        return "see"
    return "measure"


def rights_table(app: FastAPI) -> Iterator[tuple[str, str, Right]]:
    """Method, address and right of every operation behind the guard, as the document has them."""
    for path, ways in sorted(app.openapi()["paths"].items()):
        for method, operation in sorted(ways.items()):
            if operation["tags"][0] not in ("accounts", "health"):
                name = operation["operationId"]
                yield method.upper(), path, right_for(name, method.upper(), path)


def roles_with(right: Right) -> list[Role]:
    """The roles that have a right."""
    return [role for role, rights in RIGHTS.items() if right in rights]


def cookie_name(request: Request) -> str:
    """Over TLS a name that no other host and no plain page can set."""
    return "__Host-vivid-arm" if request.url.scheme == "https" else "vivid-arm"


class _Cookie(TypedDict):
    path: str
    secure: bool
    httponly: bool
    samesite: Literal["strict"]


def _cookie(request: Request) -> _Cookie:
    secure = request.url.scheme == "https"
    return {"path": "/", "secure": secure, "httponly": True, "samesite": "strict"}


def keep_token(request: Request, response: Response, token: str) -> None:
    """Let a browser keep its token where no page reads it."""
    lasts = int(LONGEST.total_seconds())
    response.set_cookie(cookie_name(request), token, max_age=lasts, **_cookie(request))


def forget_token(request: Request, response: Response) -> None:
    """Let a browser forget its token."""
    response.delete_cookie(cookie_name(request), **_cookie(request))


def place_of(request: Request) -> Place:
    """Where a request comes from."""
    address = request.client.host if request.client else ""
    device = "".join(c for c in request.headers.get("user-agent", "") if c.isprintable())
    return Place(address, device)


def _find(request: Request) -> Asking | None:
    token = request.cookies.get(cookie_name(request), "")
    if not token:
        return None
    with request.app.state.sessions.begin() as session:
        found = who_has(session, token)
        return None if found is None else Asking(*found, token)


async def asking(request: Request) -> Asking | None:
    """Whoever is signed in; None for nobody."""
    return await run_in_threadpool(_find, request)


async def let_in(request: Request) -> None:
    """Let a request through whose account may do what it asks. Raises SignInFirst, NotYours."""
    found = await asking(request)
    if found is None:
        raise SignInFirst
    route: APIRoute = request.scope["route"]
    right = right_for(operation_of(route), request.method, request.url.path)
    if not may(found.account.role, right):
        raise NotYours(lacking(found.account.role, right))
    signed_in.set(found.account.name)
    request.state.by = found.account.name


async def while_let_in(
    request: Request, source: AsyncIterator[Told], at_once: Callable[[Told], bool]
) -> AsyncIterator[Told]:
    """A stream that ends when its browser is signed out; looked at ``at_once`` where that may be.

    It is looked at every few seconds in any case, as long as anything comes.
    """
    looked = monotonic()
    async for told in source:
        if request.app.state.accounts and (at_once(told) or monotonic() - looked > _LOOKED_EVERY_S):
            if await asking(request) is None:
                return
            looked = monotonic()
        yield told


def with_accounts(request: Request) -> None:
    """Raises NotFound on a shop that has no accounts."""
    if not request.app.state.accounts:
        raise NotFound(say("This shop has no accounts: start it with --people."))


async def me(request: Request) -> Asking:
    """Whoever is signed in. Raises NotFound, SignInFirst."""
    with_accounts(request)
    found = await asking(request)
    if found is None:
        raise SignInFirst
    return found


async def owner(request: Request) -> Asking:
    """The owner who asks. Raises NotFound, SignInFirst, NotYours."""
    found = await me(request)
    if not may(found.account.role, "own"):
        raise NotYours(lacking(found.account.role, "own"))
    return found


Nobody = Annotated[Asking | None, Depends(asking)]
Me = Annotated[Asking, Depends(me)]
Owner = Annotated[Asking, Depends(owner)]
