"""Indicators and calipers with a data cable, behind one driver interface.

A driver gives readings in inches whatever the gauge shows; the hub keeps it connected,
counts what it cannot read, and hands every reading to whoever listens. The line protocol
of the stand-in is described in docs/outside.md.
"""

import asyncio
import contextlib
import re
from collections import deque
from collections.abc import AsyncIterator
from dataclasses import dataclass, field
from statistics import median
from typing import Protocol

from vivid_arm.core.entry.lengths import MM_PER_INCH
from vivid_arm.core.words import Unit, say

STEADY_WITHIN_IN = 0.0006
_STEADY_OF = 5
_RETRY_S = 0.5
_SILENT_S = 2.0
_LONGEST_LINE = 200
_LINE = re.compile(
    r"^(?P<name>[a-z]{1,20});(?P<number>\d{1,9});(?P<value>[+-]\d{1,3}\.\d{2,5});"
    r"(?P<unit>in|mm);(?P<flag>live|take)$"
)
_MOST_IN = 40.0


class BadLine(ValueError):
    """A line that is no reading."""


@dataclass(frozen=True)
class GaugeReading:
    """One line: which gauge, its running number, the value in inches, the unit it shows.

    ``taken`` when the gauge's own button was pressed.
    """

    name: str
    number: int
    value_in: float
    unit: Unit
    taken: bool


def read_line(line: str) -> GaugeReading:
    """Read a line of the protocol. Raises BadLine for anything else.

    >>> read_line("indicator;18;+6.64;mm;live").value_in
    0.261417
    """
    found = _LINE.match(line.strip())
    if found is None:
        raise BadLine(say("not a reading: {line}", line=repr(line[:40])))
    value = float(found["value"])
    unit: Unit = "mm" if found["unit"] == "mm" else "in"
    inches = value / float(MM_PER_INCH) if unit == "mm" else value
    if abs(inches) > _MOST_IN:
        raise BadLine(say("out of all range: {line}", line=repr(line[:40])))
    return GaugeReading(
        found["name"], int(found["number"]), round(inches, 6), unit, found["flag"] == "take"
    )


class GaugeDriver(Protocol):
    """What the program asks of a gauge's cable."""

    def lines(self) -> AsyncIterator[str]:
        """Lines as they arrive; ends or raises OSError when the cable is out."""


@dataclass(frozen=True)
class TcpGauge:
    """Gauges that speak lines over TCP on this machine."""

    host: str
    port: int

    async def lines(self) -> AsyncIterator[str]:
        """Lines as they arrive. Raises OSError without a connection or a sign of life."""
        reader, writer = await asyncio.open_connection(self.host, self.port, limit=4096)
        try:
            while True:
                try:
                    async with asyncio.timeout(_SILENT_S):
                        raw = await reader.readline()
                except (TimeoutError, ValueError) as error:
                    raise OSError(say("the gauge keeps silent")) from error
                if not raw:
                    return
                yield raw[:_LONGEST_LINE].decode("ascii", errors="replace")
        finally:
            writer.close()
            with contextlib.suppress(OSError):
                await writer.wait_closed()


@dataclass(frozen=True)
class LiveValue:
    """A gauge's value now, inches: the last line, whether it stands still, its steady middle."""

    name: str
    number: int
    value_in: float
    steady_in: float | None
    unit: Unit
    taken: bool


@dataclass
class GaugeHub:
    """Keeps one cable connected and hands its readings on."""

    driver: GaugeDriver
    connected: bool = False
    bad_lines: int = 0
    values: dict[str, LiveValue] = field(default_factory=dict)
    _recent: dict[str, deque[float]] = field(default_factory=dict)
    _closing: bool = False
    _listeners: set[asyncio.Queue[LiveValue | None]] = field(default_factory=set)

    async def run(self) -> None:
        """Read for ever; a cable that is out is tried again every half second."""
        while True:
            try:
                async for line in self.driver.lines():
                    self.hear(line)
            except OSError:
                pass
            self._lost()
            await asyncio.sleep(_RETRY_S)

    def hear(self, line: str) -> None:
        """Take in one line; one that cannot be read is counted and dropped."""
        try:
            reading = read_line(line)
        except BadLine:
            self.bad_lines += 1
            return
        recent = self._recent.setdefault(reading.name, deque(maxlen=_STEADY_OF))
        recent.append(reading.value_in)
        still = len(recent) == _STEADY_OF and max(recent) - min(recent) <= STEADY_WITHIN_IN
        value = LiveValue(
            reading.name,
            reading.number,
            reading.value_in,
            round(median(recent), 6) if still else None,
            reading.unit,
            reading.taken,
        )
        self.connected = True
        self.values[reading.name] = value
        for queue in self._listeners:
            _offer(queue, value)

    def close(self) -> None:
        """End every listener, so that the application can stop."""
        self._closing = True
        for queue in self._listeners:
            _offer(queue, None)

    def _lost(self) -> None:
        if self.connected:
            self.connected = False
            self.values.clear()
            self._recent.clear()
            for queue in self._listeners:
                _offer(queue, None)

    async def listen(self) -> AsyncIterator[LiveValue | None]:
        """Every value from now on; None each time the cable comes out."""
        queue: asyncio.Queue[LiveValue | None] = asyncio.Queue(maxsize=100)
        self._listeners.add(queue)
        try:
            known: list[LiveValue | None] = list(self.values.values())
            for value in known or [None]:
                yield value
            while True:
                value = await queue.get()
                if self._closing:
                    return
                yield value
        finally:
            self._listeners.discard(queue)


def _offer(queue: "asyncio.Queue[LiveValue | None]", value: LiveValue | None) -> None:
    """Hand a value to a listener; one that lags loses the oldest."""
    if queue.full():
        queue.get_nowait()
    queue.put_nowait(value)
