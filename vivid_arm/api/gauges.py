"""Gauges with a data cable: their values as they come, as server-sent events."""

from collections.abc import AsyncIterator
from dataclasses import asdict
from typing import Literal

from fastapi import APIRouter, Request
from fastapi.sse import EventSourceResponse, ServerSentEvent
from pydantic import BaseModel, ConfigDict

from vivid_arm.outside.gauge import GaugeHub

router = APIRouter(prefix="/api/gauges", tags=["gauges"])


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


@router.get("/live", response_class=EventSourceResponse)
async def live_gauges(request: Request) -> AsyncIterator[ServerSentEvent]:
    """Values as they arrive, one an event; ``{}`` when the cable is out or there is none."""
    hub: GaugeHub | None = request.app.state.gauges
    if hub is None:
        yield ServerSentEvent(data={}, retry=60_000)
        return
    async for value in hub.listen():
        yield ServerSentEvent(data={} if value is None else asdict(value))
