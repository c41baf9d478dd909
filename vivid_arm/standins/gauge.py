"""A simulated indicator and caliper on one data cable: lines over TCP on loopback.

A line is ``name;number;value;unit;flag``, as in ``indicator;18;+0.26150;in;live``; the flag
is ``take`` when the button on the gauge was pressed. Lines sent to it steer the simulation:
``move indicator 0.262``, ``noise 0.0005``, ``unit indicator mm``, ``press indicator``,
``garble 3``, ``unplug 2``. Described in docs/outside.md.
"""

import asyncio
import contextlib
from collections.abc import Callable
from dataclasses import dataclass, field
from random import Random

PERIOD_S = 0.05
NAMES = ("indicator", "caliper")
_NONSENSE = (
    "indicator;;;",
    "E05",
    "caliper;7;7.4OO5;in;live",
    "\x00\x00",
    "indicator;9;+999.9;in;live",
)


@dataclass
class Bench:
    """What the gauges stand at (inches), what they show, and what goes wrong."""

    at_in: dict[str, float] = field(default_factory=lambda: {"indicator": 0.0, "caliper": 7.4})
    unit: dict[str, str] = field(default_factory=lambda: dict.fromkeys(NAMES, "in"))
    noise_in: float = 0.0
    garbled: int = 0
    unplugged_until: float = 0.0
    number: int = 0
    rng: Random = field(default_factory=lambda: Random(20))

    def line(self, name: str, *, taken: bool = False) -> str:
        """The gauge's next line; nonsense while it is garbled."""
        self.number += 1
        if self.garbled > 0 and not taken:
            self.garbled -= 1
            return _NONSENSE[self.number % len(_NONSENSE)]
        value = self.at_in[name] + self.rng.uniform(-self.noise_in, self.noise_in)
        shown = f"{value * 25.4:+.3f}" if self.unit[name] == "mm" else f"{value:+.5f}"
        return f"{name};{self.number};{shown};{self.unit[name]};{'take' if taken else 'live'}"

    def steer(self, command: str, now: float) -> str | None:
        """Do what a line says; gives the gauge that was pressed. Unknown ones are ignored."""
        match command.split():
            case ["move", name, value] if name in NAMES:
                with contextlib.suppress(ValueError):
                    self.at_in[name] = float(value)
            case ["noise", value]:
                with contextlib.suppress(ValueError):
                    self.noise_in = abs(float(value))
            case ["unit", name, unit] if name in NAMES and unit in ("in", "mm"):
                self.unit[name] = unit
            case ["garble", count] if count.isdigit():
                self.garbled = int(count)
            case ["unplug", seconds]:
                with contextlib.suppress(ValueError):
                    self.unplugged_until = now + float(seconds)
            case ["press", name] if name in NAMES:
                return name
        return None


class GaugeStandIn:
    """The stand-in as a TCP server; every connection gets every line."""

    def __init__(self, clock: Callable[[], float] | None = None) -> None:
        self.bench = Bench()
        self._clock = clock or (lambda: asyncio.get_running_loop().time())
        self._writers: set[asyncio.StreamWriter] = set()

    async def serve(self, port: int) -> None:
        """Serve on loopback until cancelled."""
        server = await asyncio.start_server(self._connected, "127.0.0.1", port)
        async with server:
            await asyncio.gather(server.serve_forever(), self._stream())

    async def _connected(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        if self._clock() < self.bench.unplugged_until:
            writer.close()
            return
        self._writers.add(writer)
        try:
            while line := await reader.readline():
                pressed = self.bench.steer(line.decode("ascii", errors="replace"), self._clock())
                if pressed:
                    self._send(self.bench.line(pressed, taken=True))
                else:
                    self._send_all()
        except (OSError, ValueError):
            pass
        finally:
            self._writers.discard(writer)
            writer.close()

    async def _stream(self) -> None:
        while True:
            if self._clock() < self.bench.unplugged_until:
                for writer in list(self._writers):
                    writer.close()
                self._writers.clear()
            self._send_all()
            await asyncio.sleep(PERIOD_S)

    def _send_all(self) -> None:
        for name in NAMES:
            self._send(self.bench.line(name))

    def _send(self, line: str) -> None:
        for writer in self._writers:
            writer.write(f"{line}\r\n".encode())
