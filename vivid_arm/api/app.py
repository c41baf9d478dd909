"""The application: routes, problems, security headers, the built front end."""

from collections.abc import Awaitable, Callable
from pathlib import Path

from fastapi import APIRouter, FastAPI, Request, Response
from fastapi.responses import FileResponse
from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError
from starlette.middleware.gzip import GZipMiddleware
from starlette.middleware.trustedhost import TrustedHostMiddleware

from vivid_arm import __version__
from vivid_arm.records.database import connect, revision, sessions

from . import problems
from .routes import builds, compute, instruments, order, rules, zero_lash
from .schemas import Health

FRONTEND = Path(__file__).parents[2] / "frontend" / "dist"
_POLICY = (
    "default-src 'self'; img-src 'self' data:; style-src 'self' 'unsafe-inline'; "
    "object-src 'none'; base-uri 'none'; frame-ancestors 'none'; form-action 'self'"
)

health_router = APIRouter(tags=["health"])


def make_app(database_url: str) -> FastAPI:
    """The application on a database; nothing is connected before the first request."""
    app = FastAPI(
        title="Vivid Arm",
        version=__version__,
        summary="Pushrod length at the engine bench, from zero lash to an order.",
        responses=problems.RESPONSES,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
    )
    engine = connect(database_url)
    app.state.engine = engine
    app.state.sessions = sessions(engine)
    problems.install(app)
    app.add_middleware(TrustedHostMiddleware, allowed_hosts=["127.0.0.1", "localhost", "[::1]"])
    app.add_middleware(GZipMiddleware, minimum_size=1000)
    app.middleware("http")(_secure)
    for module in (builds, zero_lash, order, instruments, rules, compute):
        app.include_router(module.router)
    app.include_router(health_router)
    _serve_frontend(app)
    return app


@health_router.get("/api/health")
def health(request: Request, response: Response) -> Health:
    """Version and state of the database; 503 while it does not answer."""
    engine: Engine = request.app.state.engine
    try:
        return Health(status="ok", version=__version__, database="ok", migration=revision(engine))
    except SQLAlchemyError:
        response.status_code = 503
        return Health(status="database away", version=__version__, database="away", migration=None)


async def _secure(
    request: Request, call_next: Callable[[Request], Awaitable[Response]]
) -> Response:
    response = await call_next(request)
    response.headers["Content-Security-Policy"] = _POLICY
    response.headers["X-Content-Type-Options"] = "nosniff"
    response.headers["Referrer-Policy"] = "no-referrer"
    if request.url.path.startswith("/api/"):
        response.headers["Cache-Control"] = "no-store"
    elif request.url.path.startswith("/assets/"):
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
    return response


def _serve_frontend(app: FastAPI) -> None:
    @app.get("/{path:path}", include_in_schema=False)
    def page(path: str) -> FileResponse:
        """A built file, or the one page for every address the front end knows."""
        if path.startswith("api/"):
            raise problems.NotFound(f"There is no /{path}.")
        wanted = (FRONTEND / path).resolve()
        if path and wanted.is_file() and wanted.is_relative_to(FRONTEND):
            return FileResponse(wanted)
        return FileResponse(FRONTEND / "index.html", headers={"Cache-Control": "no-cache"})
