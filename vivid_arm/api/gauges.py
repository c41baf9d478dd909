"""Gauges with a data cable: their values as they come, as server-sent events."""

from collections.abc import AsyncIterator
from dataclasses import asdict
from typing import Literal

from fastapi import APIRouter, Request
from fastapi.sse import EventSourceResponse, ServerSentEvent
from pydantic import BaseModel, ConfigDict
from sqlalchemy import func, select

from vivid_arm.api.accounts.guard import while_let_in
from vivid_arm.api.deps import Tx
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
    """Whether a cable is in, at which machine, what it gives, lines that could not be read."""

    machine: str
    there: bool
    connected: bool
    bad_lines: int
    values: list[LiveOut]


@router.get("")
def read_gauges(request: Request) -> GaugesOut:
    """The gauges as they stand now."""
    machine: str = request.app.state.machine
    hub: GaugeHub | None = request.app.state.gauges
    if hub is None:
        return GaugesOut(machine=machine, there=False, connected=False, bad_lines=0, values=[])
    return GaugesOut(
        machine=machine,
        there=True,
        connected=hub.connected,
        bad_lines=hub.bad_lines,
        values=[LiveOut.model_validate(v) for v in list(hub.values.values())],
    )


@router.post("/hold", status_code=204)
def hold_gauges(session: Tx) -> None:
    """Say that the gauges' own button writes into this page from now on, and into no other."""
    session.execute(select(func.tell("gauges -")))


@router.get("/live", response_class=EventSourceResponse)
async def live_gauges(request: Request) -> AsyncIterator[ServerSentEvent]:
    """Values as they arrive, one an event; ``{}`` when the cable is out or there is none."""
    hub: GaugeHub | None = request.app.state.gauges
    if hub is None:
        yield ServerSentEvent(data={}, retry=60_000)
        return
    async for value in while_let_in(request, hub.listen(), lambda _: False):
        yield ServerSentEvent(data={} if value is None else asdict(value))
