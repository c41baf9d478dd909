"""What happens in the shop, as it happens: a page that shows something else asks for it again."""

import asyncio
from collections.abc import AsyncIterator, Coroutine
from dataclasses import asdict
from typing import Any, Self

import anyio
from fastapi import APIRouter, Request
from fastapi.sse import EventSourceResponse, ServerSentEvent

from vivid_arm.api.accounts.guard import while_let_in
from vivid_arm.outside.gauge import GaugeHub
from vivid_arm.records.happenings import Happenings, Notice

router = APIRouter(prefix="/api/live", tags=["live"])
_AGAIN_MS = 1000
_started: set[asyncio.Task[Any]] = set()
"""Held until they end: the loop alone lets go of a task that waits for what nobody else holds."""


def _start(work: Coroutine[Any, Any, Any]) -> asyncio.Task[Any]:
    task = asyncio.create_task(work)
    _started.add(task)
    task.add_done_callback(_started.discard)
    return task


@router.get("", response_class=EventSourceResponse)
async def live(request: Request) -> AsyncIterator[ServerSentEvent]:
    """One event for each thing that moved: what it is, which build, and whose page moved it.

    Where the shop has gauges, ``gauge`` with each of their values too, null when their cable is
    out: a browser needs no second stream.
    """
    happenings: Happenings = request.app.state.happenings
    hub: GaugeHub | None = request.app.state.gauges
    told = while_let_in(request, happenings.listen(), _may_end_it)
    async with _Together(told, *([hub.listen()] if hub else [])) as both:
        async for found in both:
            if isinstance(found, Notice):
                yield ServerSentEvent(data=asdict(found), retry=_AGAIN_MS)
            else:
                value = None if found is None else asdict(found)
                yield ServerSentEvent(data={"what": "gauge", "value": value})


class _Together:
    """What several sources tell, as it comes, until one of them ends or fails.

    No generator: a loop that ends closes every generator by itself, this one and whoever reads it.
    """

    def __init__(self, *sources: AsyncIterator[Any]) -> None:
        self._sources = sources
        self._queue: asyncio.Queue[Any] = asyncio.Queue(1)
        self._pouring: list[asyncio.Task[None]] = []

    async def _pour(self, source: AsyncIterator[Any]) -> None:
        async for told in source:
            await self._queue.put(told)

    async def __aenter__(self) -> Self:
        self._pouring = [_start(self._pour(source)) for source in self._sources]
        return self

    def __aiter__(self) -> Self:
        return self

    async def __anext__(self) -> Any:
        getting = _start(self._queue.get())
        try:
            await asyncio.wait({getting, *self._pouring}, return_when=asyncio.FIRST_COMPLETED)
            if not getting.done():
                raise StopAsyncIteration
            return getting.result()
        finally:
            getting.cancel()

    async def __aexit__(self, *_: object) -> None:
        for task in self._pouring:
            task.cancel()
        # What a source failed with is told by the stream's end: the page comes again.
        with anyio.CancelScope(shield=True):
            await asyncio.gather(*self._pouring, return_exceptions=True)


def _may_end_it(happened: Notice) -> bool:
    return happened.what in ("people", "all")
