"""Gauges with a data cable: their values now, and whose page their button writes into.

As they come they stand in the pages' live stream.
"""

from typing import Literal

from fastapi import APIRouter, Request
from pydantic import BaseModel, ConfigDict
from sqlalchemy import func, select

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
