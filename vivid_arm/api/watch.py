"""How the program does: an id for each request, a line for each answer, figures for the owner."""

import os
from time import perf_counter

from fastapi import APIRouter, Response
from fastapi.routing import APIRoute
from prometheus_client import (
    CONTENT_TYPE_LATEST,
    REGISTRY,
    CollectorRegistry,
    Counter,
    Histogram,
    generate_latest,
    multiprocess,
)
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from vivid_arm.api.accounts.guard import operation_of
from vivid_arm.logs import ACCESS

router = APIRouter(prefix="/api/metrics", tags=["watch"])

_ANSWERS = Counter("vivid_arm_answers_total", "Answers", ["operation", "status"])
_SECONDS = Histogram(
    "vivid_arm_answer_seconds", "Time from a request to the head of its answer", ["operation"],
    buckets=(0.01, 0.025, 0.05, 0.1, 0.2, 0.3, 0.5, 1.0, 2.0, 5.0, 10.0),
)  # fmt: skip


class MetricsResponse(Response):
    """Figures in the text format that is usual for them."""

    media_type = CONTENT_TYPE_LATEST


@router.get("", response_class=MetricsResponse)
def read_metrics() -> MetricsResponse:
    """Answers and their times by operation, of every process of this machine."""
    if "PROMETHEUS_MULTIPROC_DIR" not in os.environ:
        return MetricsResponse(generate_latest(REGISTRY))
    every = CollectorRegistry()
    multiprocess.MultiProcessCollector(every)  # type: ignore[no-untyped-call]
    return MetricsResponse(generate_latest(every))


class Watch:
    """Counts and times every answer, and writes its line."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        begun = perf_counter()

        async def send_and_count(message: Message) -> None:
            if message["type"] == "http.response.start":
                _count(scope, message["status"], perf_counter() - begun)
            await send(message)

        await self.app(scope, receive, send_and_count)


def _count(scope: Scope, status: int, seconds: float) -> None:
    route = scope.get("route")
    operation = operation_of(route) if isinstance(route, APIRoute) else "none"
    _ANSWERS.labels(operation, str(status)).inc()
    _SECONDS.labels(operation).observe(seconds)
    ACCESS.info(
        "%s %s", scope["method"], scope["path"],
        extra={
            "operation": operation, "status": status, "ms": round(1000 * seconds, 1),
            "by": scope.get("state", {}).get("by", ""),
        },
    )  # fmt: skip
