"""Gauges with a data cable: their values as they come, as server-sent events."""

import asyncio
import json
from collections.abc import AsyncIterator
from dataclasses import asdict
from typing import Any, Literal

from fastapi import APIRouter, Request
from fastapi.responses import StreamingResponse
from pydantic import BaseModel, ConfigDict

from vivid_arm.outside.gauge import GaugeHub

router = APIRouter(prefix="/api/gauges", tags=["gauges"])
_ALIVE_S = 10.0


class LiveOut(BaseModel):
    """A gauge's value in inches; ``steady_in`` while it stands still."""

    model_config = ConfigDict(from_attributes=True)

    name: str
    number: int
    value_in: float
    steady_in: float | None
    unit: Literal["in", "mm"]
    taken: bool


class GaugesOut(BaseModel):
    """Whether a cable is in, what it gives, lines that could not be read."""

    there: bool
    connected: bool
    bad_lines: int
    values: list[LiveOut]


@router.get("")
def read_gauges(request: Request) -> GaugesOut:
    """The gauges as they stand now."""
    hub: GaugeHub | None = request.app.state.gauges
    if hub is None:
        return GaugesOut(there=False, connected=False, bad_lines=0, values=[])
    return GaugesOut(
        there=True,
        connected=hub.connected,
        bad_lines=hub.bad_lines,
        values=[LiveOut.model_validate(v) for v in list(hub.values.values())],
    )


@router.get(
    "/live",
    response_class=StreamingResponse,
    responses={200: {"content": {"text/event-stream": {}}, "description": "One value an event"}},
)
async def live_gauges(request: Request) -> StreamingResponse:
    """Values as they arrive, one an event; ``{}`` when the cable is out or there is none."""
    hub: GaugeHub | None = request.app.state.gauges
    return StreamingResponse(_events(hub), media_type="text/event-stream")


async def _events(hub: GaugeHub | None) -> AsyncIterator[str]:
    if hub is None:
        yield "retry: 60000\ndata: {}\n\n"
        return
    values = hub.listen()
    coming = asyncio.ensure_future(anext(values))
    try:
        while True:
            done, _ = await asyncio.wait({coming}, timeout=_ALIVE_S)
            if not done:
                yield ": alive\n\n"
                continue
            try:
                value = coming.result()
            except StopAsyncIteration:
                return
            body: dict[str, Any] = {} if value is None else asdict(value)
            yield f"data: {json.dumps(body)}\n\n"
            coming = asyncio.ensure_future(anext(values))
    finally:
        coming.cancel()
