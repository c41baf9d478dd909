"""What happens in the shop, as the database tells it to every process (migration 0017)."""

import asyncio
import logging
from collections import deque
from collections.abc import AsyncIterator
from dataclasses import dataclass, replace
from time import monotonic
from typing import Literal, cast, get_args
from uuid import uuid4

import psycopg
from psycopg import AsyncConnection
from sqlalchemy import make_url

from vivid_arm.records.database import PATIENCE_S
from vivid_arm.records.replica import WRITTEN

CHANNEL = "vivid_arm"
BEAT_S = 10.0
DEAF_S = 2.0
_AGAIN_S = 0.5
_MOST_WAITING = 100
_RECENT_S = 5.0
_log = logging.getLogger(__name__)

What = Literal["build", "shop", "people", "gauges", "all", "beat"]
"""``people``: who is signed in, and where each stands. ``gauges``: another page has them.
``all``: nobody knows what was missed. ``beat``: nothing, from time to time."""


@dataclass(frozen=True)
class Notice:
    """Something that moved; ``id`` is the build's, ``page`` the one whose write it was.

    ``written``: how far the database had written then, where a replica is read from.
    """

    what: What
    id: str = ""
    page: str = ""
    written: str = ""


ALL, BEAT = Notice("all"), Notice("beat")


def read_notice(payload: str) -> Notice | None:
    """A notice of the database; None for one that says nothing to the pages.

    >>> read_notice("shop - 7b")
    Notice(what='shop', id='', page='7b', written='')
    """
    what, id_, page = (*payload.split(" "), "", "")[:3]
    if what not in get_args(What) or what == "beat":
        return None
    return Notice(cast(What, what), id_.strip("-"), page)


class Happenings:
    """Listens to the database for one process, and tells its pages.

    ``positions``: say with each thing how far the database has written.

    What cannot be heard, such as through a pooler that lends a connection for one transaction,
    is found by a beat that does not come back: then ``all`` is told every two seconds.
    """

    def __init__(self, url: str, *, positions: bool = False) -> None:
        self._positions = positions
        plain = make_url(url).set(drivername="postgresql")
        self._conninfo = plain.render_as_string(hide_password=False)
        self._listeners: set[asyncio.Queue[Notice | None]] = set()
        self._recent: deque[tuple[float, Notice]] = deque(maxlen=_MOST_WAITING)
        self._last = ""
        self._hears = False

    @property
    def hears(self) -> bool:
        """Whether the database is listened to: what happens now will be told."""
        return self._hears

    async def run(self) -> None:
        """Listen for ever; a database that is away is tried again every half second."""
        while True:
            try:
                await self._hear()
            except (psycopg.Error, OSError, TimeoutError) as error:
                _log.info("Nothing is heard of the database: %s", error)
            finally:
                self._hears = False
            await asyncio.sleep(_AGAIN_S)

    async def _hear(self) -> None:
        async with await self._connected() as listening, await self._connected() as asking:
            async with asyncio.timeout(PATIENCE_S):
                await listening.execute(f"LISTEN {CHANNEL}")
            back = False
            self._hears = True
            while True:
                told = BEAT if back else ALL
                self.tell(replace(told, written=await self._written(asking)))
                back = await self._listen_on(listening, asking, BEAT_S if back else DEAF_S)

    async def _connected(self) -> AsyncConnection:
        async with asyncio.timeout(PATIENCE_S):
            return await AsyncConnection.connect(
                self._conninfo, autocommit=True, prepare_threshold=None
            )

    async def _listen_on(
        self, listening: AsyncConnection, asking: AsyncConnection, for_s: float
    ) -> bool:
        """Listen for some time; whether a beat came back that another connection sent out."""
        back, beat = False, f"beat {uuid4().hex}"
        async with asyncio.timeout(PATIENCE_S):
            await asking.execute("SELECT pg_notify(%s, %s)", (CHANNEL, beat))
        until = monotonic() + for_s
        while (left := until - monotonic()) > 0:
            heard = [n async for n in listening.notifies(timeout=left, stop_after=1)]
            back |= any(n.payload == beat for n in heard)
            told = [t for n in heard if (t := read_notice(n.payload))]
            position = await self._written(asking) if told else ""
            for happened in told:
                self.tell(replace(happened, written=position))
        return back

    async def _written(self, connection: AsyncConnection) -> str:
        if not self._positions:
            return ""
        async with asyncio.timeout(PATIENCE_S):
            found = await (await connection.execute(WRITTEN)).fetchone()
        return str(found[0]) if found else ""

    def tell(self, told: Notice) -> None:
        """Tell every listener; to one that lags, ``all`` stands for what it has not heard yet."""
        self._recent.append((monotonic(), told))
        self._last = told.written or self._last
        for queue in self._listeners:
            if queue.full():
                while not queue.empty():
                    queue.get_nowait()
                queue.put_nowait(ALL)
            queue.put_nowait(told)

    def close(self) -> None:
        """End every listener, so that the application can stop."""
        for queue in self._listeners:
            while not queue.empty():
                queue.get_nowait()
            queue.put_nowait(None)

    async def listen(self) -> AsyncIterator[Notice]:
        """What happened while the page was loading, and everything from now on, until it closes."""
        queue: asyncio.Queue[Notice | None] = asyncio.Queue(_MOST_WAITING)
        recent = [told for at, told in self._recent if monotonic() - at < _RECENT_S]
        self._listeners.add(queue)
        try:
            first = [replace(BEAT, written=self._last)] if self._hears else []
            for told in first + recent:
                yield told
            while (heard := await queue.get()) is not None:
                yield heard
        finally:
            self._listeners.discard(queue)
