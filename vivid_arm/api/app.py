"""The application: routes, problems, security headers, the built front end."""

import asyncio
import re
from collections.abc import AsyncIterator, Callable, Collection
from contextlib import AbstractAsyncContextManager, asynccontextmanager, suppress
from ipaddress import ip_address
from pathlib import Path
from time import monotonic
from typing import Literal
from urllib.parse import urlsplit

from anyio import CapacityLimiter
from asgi_correlation_id import CorrelationIdMiddleware
from fastapi import APIRouter, Depends, FastAPI, Request, Response
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import FileResponse, JSONResponse
from pydantic import BaseModel
from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError
from starlette.datastructures import Headers, MutableHeaders
from starlette.exceptions import HTTPException
from starlette.middleware.gzip import GZipMiddleware
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from vivid_arm import __version__
from vivid_arm.api import backups, gauges, live, problems, watch
from vivid_arm.api.accounts import devices as account_devices
from vivid_arm.api.accounts import routes as account_routes
from vivid_arm.api.accounts.guard import let_in, operation_of
from vivid_arm.api.base_circle import compute as base_circle_compute
from vivid_arm.api.base_circle import routes as base_circle
from vivid_arm.api.board import routes as board
from vivid_arm.api.board.rows import Rows
from vivid_arm.api.crowd import Crowd
from vivid_arm.api.decide import box as decide_box
from vivid_arm.api.decide import compute as decide_compute
from vivid_arm.api.decide import routes as decide
from vivid_arm.api.deps import AT_ONCE, LONG
from vivid_arm.api.heads import compute as heads_compute
from vivid_arm.api.heads import readings as heads_readings
from vivid_arm.api.heads import routes as heads
from vivid_arm.api.history import routes as history
from vivid_arm.api.order import routes as order
from vivid_arm.api.order import sheet as order_sheet
from vivid_arm.api.practice import routes as practice
from vivid_arm.api.rocker import compute as rocker_compute
from vivid_arm.api.rocker import routes as rocker
from vivid_arm.api.setup import build_file as setup_build_file
from vivid_arm.api.setup import compute as setup_compute
from vivid_arm.api.setup import instruments as setup_instruments
from vivid_arm.api.setup import routes as setup
from vivid_arm.api.setup import rules as setup_rules
from vivid_arm.api.shop import routes as shop
from vivid_arm.api.sign_off import routes as sign_off
from vivid_arm.api.spoken import Spoken
from vivid_arm.api.zero_lash import compute as zero_lash_compute
from vivid_arm.api.zero_lash import routes as zero_lash
from vivid_arm.core.words import say
from vivid_arm.outside.gauge import GaugeHub, TcpGauge
from vivid_arm.outside.supplier import HttpSupplier
from vivid_arm.records.database import (
    can_write,
    connect,
    reading_sessions,
    revision,
    sessions,
)
from vivid_arm.records.happenings import Happenings
from vivid_arm.records.replica import Replica, written

FRONTEND = Path(__file__).parents[2] / "frontend" / "dist"
LOOPBACK = frozenset({"127.0.0.1", "localhost", "::1"})
MOST_BODY_BYTES = 20_000_000
_REQUEST_NAME = re.compile(r"[0-9A-Za-z-]{8,64}")
_LIMIT_S, _LONG_S = 8.0, 60.0
_STOOD_STILL_S = 1.0
_READING = {"GET", "HEAD", "OPTIONS"}
_POLICY = (
    "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; "
    "object-src 'none'; base-uri 'none'; frame-ancestors 'none'; form-action 'self'"
)

_STEPS = (
    zero_lash,
    board,
    setup,
    setup_instruments,
    setup_rules,
    setup_build_file,
    setup_compute,
    base_circle,
    base_circle_compute,
    zero_lash_compute,
    rocker,
    rocker_compute,
    heads,
    heads_readings,
    heads_compute,
    decide,
    decide_box,
    decide_compute,
    order_sheet,
    order,
    sign_off,
    history,
    shop,
    practice,
    gauges,
    live,
    watch,
    backups,
)
"""In the order in which an address is looked for: what a reading asks first, then the steps."""


class Health(BaseModel):
    """``cannot write``: readings are shown, and nothing can be kept; ``why`` says why."""

    status: Literal["ok", "database away", "cannot write"]
    why: str = ""
    version: str
    database: str
    migration: str | None


health_router = APIRouter(tags=["health"])


def make_app(
    database_url: str,
    supplier_url: str | None = None,
    gauge: tuple[str, int] | None = None,
    backup_folder: Path | None = None,
    people: bool = False,
    names: Collection[str] = LOOPBACK,
    fingerprint: str | None = None,
    events_url: str | None = None,
    read_url: str | None = None,
    machine: str = "",
    crowd: Crowd | None = None,
) -> FastAPI:
    """The application on a database; nothing is connected before the first request.

    ``supplier_url`` is where the rod supplier answers; without it the shop orders by hand.
    ``gauge`` is host and port of the gauges' data cable. ``backup_folder`` is where the
    daily backups lie. ``people``: who is not signed in sees and does nothing. ``names`` are
    those by which it answers; with ``people`` it answers to addresses too. ``fingerprint`` is
    that of its own certificate. ``events_url`` is where the database is heard directly, where
    ``database_url`` leads to a pooler; ``read_url`` a replica that takes over what only reads.
    ``machine``: what the one is called that its gauges are at. ``crowd``: the processes that
    share its port.
    """
    hub = GaugeHub(TcpGauge(*gauge)) if gauge else None
    engine = connect(database_url)
    rows = Rows(engine)
    happenings = Happenings(events_url or database_url, positions=read_url is not None)
    app = FastAPI(
        title="Vivid Arm",
        version=__version__,
        summary="Pushrod length at the engine bench, from zero lash to an order.",
        responses=problems.RESPONSES,
        docs_url=None,
        redoc_url=None,
        openapi_url=None,
        lifespan=_running(happenings, rows, hub),
        generate_unique_id_function=operation_of,
    )
    app.state.gauges = hub
    app.state.happenings = happenings
    app.state.fingerprint = fingerprint
    app.state.machine = machine
    app.state.engine = engine
    app.state.rows = rows
    app.state.replica = Replica(read_url) if read_url else None
    app.state.backups = backup_folder
    app.state.refused = False
    app.state.accounts = people
    app.state.places = CapacityLimiter(AT_ONCE)
    app.state.crowd = crowd or Crowd()
    app.state.sessions = sessions(engine)
    # A pooler takes what it is told of patience only within a transaction.
    app.state.reading = sessions(engine) if events_url else reading_sessions(engine)
    app.state.supplier = HttpSupplier(supplier_url) if supplier_url else None
    problems.install(app)
    app.add_middleware(GZipMiddleware, minimum_size=1000, compresslevel=2)
    app.add_middleware(_Guard, names=frozenset(names), addresses=people)
    app.add_middleware(Spoken)
    if read_url:
        app.add_middleware(_SaysPosition, engine=engine)
    app.add_middleware(watch.Watch)
    app.add_middleware(CorrelationIdMiddleware, validator=_named_well, transformer=str)
    behind = [*(step.router for step in _STEPS), zero_lash.waiting_router]
    open_to_all = [account_routes.router, account_devices.router, health_router]
    for router in behind:
        app.include_router(router, dependencies=[Depends(let_in)] if people else [])
    for router in open_to_all:
        app.include_router(router)
    app.state.routes = [r for router in behind + open_to_all for r in router.routes]
    _serve_frontend(app)
    return app


def _named_well(name: str) -> bool:
    """Whether a request's own name may stand in the log."""
    return bool(_REQUEST_NAME.fullmatch(name))


def _running(
    happenings: Happenings, rows: Rows, hub: GaugeHub | None
) -> Callable[[FastAPI], AbstractAsyncContextManager[None]]:
    """Listens to the database, keeps rows and reads the gauges as long as the application runs."""

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        beside = [happenings.run(), rows.run()] + ([hub.run()] if hub else [])
        tasks = [asyncio.create_task(run) for run in beside]
        try:
            yield
        finally:
            for task in tasks:
                task.cancel()
            await asyncio.gather(*tasks, return_exceptions=True)

    return lifespan


def end_streams(app: FastAPI) -> None:
    """End the pages' live connections, so that the application can stop."""
    app.state.happenings.close()
    if app.state.gauges is not None:
        app.state.gauges.close()


@health_router.get("/api/health")
def health(request: Request, response: Response) -> Health:
    """Version and state of the database; 503 while it does not answer or nothing can be kept."""
    engine: Engine = request.app.state.engine
    try:
        why = can_write(engine, much=request.app.state.refused) or ""
        request.app.state.refused = bool(why)
        found = Health(status="ok", version=__version__, database="ok", migration=revision(engine))
    except SQLAlchemyError:
        why = say("it does not answer")
        found = Health(status="database away", version=__version__, database="away", migration=None)
    if why:
        response.status_code = 503
        status = found.status if found.status != "ok" else "cannot write"
        return found.model_copy(update={"status": status, "why": why})
    return found


@health_router.get("/api/openapi.json", include_in_schema=False)
def openapi(request: Request) -> JSONResponse:
    """The OpenAPI document; made when first asked for, beside whatever else is answered."""
    return JSONResponse(request.app.openapi())


def _host_of(scope: Scope) -> str | None:
    try:
        return urlsplit(f"//{Headers(scope=scope).get('host', '')}").hostname
    except ValueError:
        return None


def _same_origin(scope: Scope) -> bool:
    """Whether a write comes from the program's own pages, or from no page at all."""
    headers = Headers(scope=scope)
    if headers.get("sec-fetch-site", "none") not in ("same-origin", "none"):
        return False
    origin = headers.get("origin")
    return origin is None or origin == f"{scope['scheme']}://{headers.get('host', '')}"


def _is_address(host: str | None) -> bool:
    """An address cannot be another site's name that was turned to this machine."""
    try:
        return host is not None and bool(ip_address(host))
    except ValueError:
        return False


class _Guard:
    """Answers its own names only, with security and caching headers on every answer."""

    def __init__(self, app: ASGIApp, names: frozenset[str], addresses: bool) -> None:
        self.app = app
        self.names = names
        self.addresses = addresses

    def _answers_to(self, host: str | None) -> bool:
        return host in self.names or (self.addresses and _is_address(host))

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        path: str = scope["path"]
        app: ASGIApp = self.app
        if not self._answers_to(_host_of(scope)):
            app = problems.wrong_host()
        elif scope["method"] not in _READING and not _same_origin(scope):
            app = problems.other_origin()

        async def send_with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                headers["Content-Security-Policy"] = _POLICY
                headers["X-Content-Type-Options"] = "nosniff"
                headers["Referrer-Policy"] = "no-referrer"
                headers["Cross-Origin-Resource-Policy"] = "same-origin"
                if scope.get("state", {}).get("goes"):
                    # His next question comes on a new connection, to whoever is free to take it.
                    headers["Connection"] = "close"
                if path.startswith("/api/"):
                    headers["Cache-Control"] = "no-store"
                elif path.startswith("/assets/"):
                    headers["Cache-Control"] = "public, max-age=31536000, immutable"
            await send(message)

        if _too_long(Headers(scope=scope)):
            app = problems.too_large()
        await _in_time(app, scope, _bounded(receive), send_with_headers)


class _SaysPosition:
    """Says after each write how far the database has written: what the page reads next has it."""

    def __init__(self, app: ASGIApp, engine: Engine) -> None:
        self.app = app
        self.engine = engine

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["method"] in _READING:
            await self.app(scope, receive, send)
            return

        async def send_with_position(message: Message) -> None:
            if message["type"] == "http.response.start":
                with suppress(SQLAlchemyError):
                    position = await run_in_threadpool(written, self.engine)
                    MutableHeaders(scope=message)["X-Written"] = position
            await send(message)

        await self.app(scope, receive, send_with_position)


def _too_long(headers: Headers) -> bool:
    length = headers.get("content-length", "0")
    return not length.isdigit() or int(length) > MOST_BODY_BYTES


def _bounded(receive: Receive) -> Receive:
    """A body that ends with a refusal once it is longer than any may be."""
    seen = 0

    async def bounded() -> Message:
        nonlocal seen
        message = await receive()
        seen += len(message.get("body", b""))
        if seen > MOST_BODY_BYTES:
            raise HTTPException(413, say(problems.TOO_LARGE))
        return message

    return bounded


async def _in_time(app: ASGIApp, scope: Scope, receive: Receive, send: Send) -> None:
    """Let a request take its time, and no more: what hangs behind it is left to itself.

    A page is a file, and asks nothing that could hang: late is better than a refusal in its place.
    """
    path = scope["path"]
    if path == "/api/live" or not path.startswith("/api/"):
        await app(scope, receive, send)
        return
    started = late = False

    async def send_unless_late(message: Message) -> None:
        nonlocal started
        if not late:
            started = True
            await send(message)

    work = asyncio.ensure_future(app(scope, receive, send_unless_late))
    limit = _LONG_S if path.endswith(LONG) else _LIMIT_S
    begun = monotonic()
    done, _ = await asyncio.wait({work}, timeout=limit)
    if not done and monotonic() - begun > limit + _STOOD_STILL_S:
        # The whole process stood still: what it was about to do has its time from now.
        done, _ = await asyncio.wait({work}, timeout=limit)
    if done or started:
        await work
        return
    late = True
    work.add_done_callback(lambda found: found.cancelled() or found.exception())
    await problems.too_late()(scope, receive, send)


def _serve_frontend(app: FastAPI) -> None:
    @app.get("/{path:path}", include_in_schema=False)
    async def page(path: str) -> FileResponse:
        """A built file, or the one page for every address the front end knows."""
        try:
            wanted = (FRONTEND / path).resolve()
            there = bool(path) and wanted.is_file() and wanted.is_relative_to(FRONTEND)
        except (OSError, ValueError):
            raise problems.NotFound(say("There is no such address.")) from None
        if there:
            return FileResponse(wanted)
        if path.startswith(("api/", "assets/")):
            raise problems.NotFound(say("There is no /{path}.", path=path))
        return FileResponse(FRONTEND / "index.html", headers={"Cache-Control": "no-cache"})
