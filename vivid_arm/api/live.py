"""What happens in the shop, as it happens: a page that shows something else asks for it again."""

import asyncio
from collections.abc import AsyncIterator
from dataclasses import asdict
from typing import Any

import anyio
from fastapi import APIRouter, Request
from fastapi.sse import EventSourceResponse, ServerSentEvent

from vivid_arm.api.accounts.guard import while_let_in
from vivid_arm.outside.gauge import GaugeHub
from vivid_arm.records.happenings import Happenings, Notice

router = APIRouter(prefix="/api/live", tags=["live"])
_AGAIN_MS = 1000


@router.get("", response_class=EventSourceResponse)
async def live(request: Request) -> AsyncIterator[ServerSentEvent]:
    """One event for each thing that moved: what it is, which build, and whose page moved it.

    Where the shop has gauges, ``gauge`` with each of their values too, null when their cable is
    out: a browser needs no second stream.
    """
    happenings: Happenings = request.app.state.happenings
    hub: GaugeHub | None = request.app.state.gauges
    told = while_let_in(request, happenings.listen(), _may_end_it)
    async for found in _together(told, *([hub.listen()] if hub else [])):
        if isinstance(found, Notice):
            yield ServerSentEvent(data=asdict(found), retry=_AGAIN_MS)
        else:
            value = None if found is None else asdict(found)
            yield ServerSentEvent(data={"what": "gauge", "value": value})


async def _together(*sources: AsyncIterator[Any]) -> AsyncIterator[Any]:
    """What several sources tell, as it comes, until one of them ends or fails."""
    queue: asyncio.Queue[Any] = asyncio.Queue(1)

    async def pour(source: AsyncIterator[Any]) -> None:
        async for told in source:
            await queue.put(told)

    pouring = [asyncio.create_task(pour(source)) for source in sources]
    getting = asyncio.create_task(queue.get())
    try:
        while True:
            await asyncio.wait({getting, *pouring}, return_when=asyncio.FIRST_COMPLETED)
            if not getting.done():
                return
            yield getting.result()
            getting = asyncio.create_task(queue.get())
    finally:
        for task in (getting, *pouring):
            task.cancel()
        # What a source failed with is told by the stream's end: the page comes again.
        with anyio.CancelScope(shield=True):
            await asyncio.gather(getting, *pouring, return_exceptions=True)


def _may_end_it(happened: Notice) -> bool:
    return happened.what in ("people", "all")
