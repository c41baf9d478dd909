"""The supplier stand-in really running on loopback, for tests."""

import contextlib
import os
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from itertools import count
from multiprocessing import get_context
from multiprocessing.process import BaseProcess
from multiprocessing.synchronize import Event
from threading import Thread
from typing import Any

import httpx
import uvicorn

from vivid_arm.api.app import end_streams
from vivid_arm.api.crowd import Crowd
from vivid_arm.standins.supplier import make_supplier
from vivid_arm.tls import Certificate

_WORKER = int(os.environ.get("PYTEST_XDIST_WORKER", "gw0").removeprefix("gw"))
_PORTS = count(20_000 + 1_500 * (_WORKER % 8))


def own_port() -> int:
    """A free port for what is only started later: seconds later on a busy machine.

    Below those that the system gives to whoever asks for any (32768 and on), and of this worker
    of the tests alone: nobody takes it meanwhile.
    """
    while True:
        port = next(_PORTS)
        with socket.socket() as probe, contextlib.suppress(OSError):
            probe.bind(("127.0.0.1", port))
            return port


class SupplierStandIn:
    """Its address, its books, and what it shall do wrong next."""

    def __init__(self, url: str) -> None:
        self.url = url
        self.http = httpx.Client(base_url=url, trust_env=False, timeout=30)

    def simulate(self, fault: str, times: int = 1, **seconds: float) -> None:
        """What happens to the next orders."""
        body = {"fault": fault, "times": times, "on": "orders"} | seconds
        self.http.post("/simulate", json=body).raise_for_status()

    @property
    def void_calls(self) -> int:
        """Calls that came in on a cancelled key."""
        return int(self.http.get("/orders").json()["void_calls"])

    @property
    def keys(self) -> list[str]:
        return list(self.http.get("/orders").json()["keys"])


@contextmanager
def serving(app: Any, own: Certificate | None = None) -> Iterator[str]:
    """An application served by uvicorn on a free port, over TLS with a certificate; its address."""
    port = own_port()
    config = uvicorn.Config(
        app, port=port, log_level="error", timeout_graceful_shutdown=1,
        ssl_certfile=own.cert if own else None, ssl_keyfile=own.key if own else None,
    )  # fmt: skip
    server = uvicorn.Server(config)
    thread = Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.01)
    yield f"{'https' if own else 'http'}://127.0.0.1:{port}"
    if hasattr(app.state, "happenings"):
        end_streams(app)
    server.should_exit = True
    thread.join(timeout=30)


@contextmanager
def supplier_standin(pace_s: float = 3600.0) -> Iterator[SupplierStandIn]:
    """A fresh stand-in; a time-out keeps silent for 1.5 s."""
    with serving(make_supplier(None, pace_s, hang_s=1.5)) as url:
        yield SupplierStandIn(url)


@contextmanager
def answering(bodies: dict[str, str], drip_s: float = 0.0) -> Iterator[str]:
    """Something that says a body of 200 to whatever is asked under a path; letter by letter."""

    class Says(BaseHTTPRequestHandler):
        def do_GET(self) -> None:
            self.rfile.read(int(self.headers.get("content-length", 0)))
            body = next((b for path, b in bodies.items() if self.path.startswith(path)), "")
            self.send_response(200)
            self.end_headers()
            with contextlib.suppress(OSError):
                for part in [c.encode() for c in body] if drip_s else [body.encode()]:
                    self.wfile.write(part)
                    time.sleep(drip_s)

        do_PUT = do_POST = do_DELETE = do_GET

        def log_message(self, *_: object) -> None:
            """Quiet."""

    with ThreadingHTTPServer(("127.0.0.1", 0), Says) as server:
        Thread(target=server.serve_forever, daemon=True).start()
        yield f"http://127.0.0.1:{server.server_address[1]}"
        server.shutdown()
        server.block_on_close = False


class GaugeCable:
    """The far end of the gauges' cable: steers the simulation."""

    def __init__(self, port: int) -> None:
        self.port = port

    def say(self, *commands: str) -> None:
        """Send lines to the stand-in, and wait until it has done them all."""
        with socket.create_connection(("127.0.0.1", self.port), timeout=30) as cable:
            cable.sendall("".join(f"{command}\n" for command in commands).encode())
            cable.shutdown(socket.SHUT_WR)
            while cable.recv(4096):
                pass  # closing with lines unread would throw away what was sent


@contextmanager
def gauge_standin() -> Iterator[GaugeCable]:
    """The gauge stand-in as its own process, as the start command runs it."""
    port = own_port()
    command = [sys.executable, "-m", "vivid_arm.standins", "gauge", "--port", str(port)]
    process = subprocess.Popen(command, stdin=subprocess.DEVNULL)
    try:
        for _ in range(600):
            with contextlib.suppress(OSError), socket.create_connection(("127.0.0.1", port), 1):
                break
            time.sleep(0.05)
        yield GaugeCable(port)
    finally:
        process.terminate()
        process.wait(timeout=30)


def _wait_in(crowd: Crowd, waiting: int, told: Event) -> None:
    crowd.join()
    crowd.too_many(waiting)
    told.set()
    time.sleep(300)


@contextmanager
def sharing(crowd: Crowd, waiting: int = 0) -> Iterator[BaseProcess]:
    """This process and another share a port; so many wait in the other, as long as it lives."""
    spawning = get_context("spawn")
    told = spawning.Event()
    crowd.join()
    other = spawning.Process(target=_wait_in, args=(crowd, waiting, told), daemon=True)
    other.start()
    try:
        assert told.wait(60)
        yield other
    finally:
        other.kill()
        other.join()
