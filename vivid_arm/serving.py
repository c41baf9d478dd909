"""The application as processes on a port: one, or several that share it."""

import gc
import os
import signal
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from threading import Thread
from types import FrameType
from typing import Any

import uvicorn
from fastapi import FastAPI
from uvicorn.supervisors import Multiprocess

from vivid_arm import logs
from vivid_arm.api.app import LOOPBACK, end_streams, make_app
from vivid_arm.api.crowd import Crowd
from vivid_arm.documents import apart
from vivid_arm.tls import Certificate

_STOP_S = 6


@dataclass(frozen=True)
class Outside:
    """Where supplier and gauges answer; None for what this shop does not have."""

    supplier: str | None = None
    gauge: tuple[str, int] | None = None


@dataclass(frozen=True)
class Door:
    """Where and for whom the shop is open.

    ``people``: with accounts. ``names``: those it answers to. ``behind_proxy``: another server
    on this machine hands requests on, and says from whom and how they came. ``machine``: what
    this one is called.
    """

    host: str
    port: int
    people: bool = False
    names: tuple[str, ...] = ()
    certificate: Certificate | None = None
    behind_proxy: bool = False
    machine: str = ""


def application(
    url: str,
    outside: Outside,
    backups: Path | None,
    door: Door,
    parent: int,
    log_json: bool = False,
    crowd: Crowd | None = None,
) -> FastAPI:
    """The application in the process that is to serve it, which ends when its parent has.

    ``crowd``: the processes that share its port, where there are several.
    """
    logs.set_up(as_json=log_json)
    if crowd is not None:
        crowd.join()
    app = make_app(
        url,
        supplier_url=outside.supplier,
        gauge=outside.gauge,
        backup_folder=backups,
        people=door.people,
        names=LOOPBACK | {*door.names},
        fingerprint=door.certificate.fingerprint if door.certificate else None,
        events_url=os.environ.get("EVENTS_URL"),
        read_url=os.environ.get("READ_URL"),
        machine=door.machine,
        crowd=crowd,
    )
    Thread(target=apart.warm, daemon=True).start()
    if os.getpid() != parent:
        Thread(target=_end_with, args=(parent,), daemon=True).start()
    # Asked for an address, every router makes its routes; else whoever comes first waits for it.
    app.url_path_for("page", path="")
    # What is loaded now stays: looking through it again and again stops every request.
    gc.collect()
    gc.freeze()
    # Most of what is let go ends by itself; of a state only its rows hold one another in circles.
    gc.set_threshold(20_000, 5, 50)
    # Whoever waits for the interpreter is often the one that has an answer to send.
    sys.setswitchinterval(0.001)
    return app


def _end_with(parent: int) -> None:
    while os.getppid() == parent:
        time.sleep(1)
    os.kill(os.getpid(), signal.SIGTERM)


def serve_on(made: Callable[..., FastAPI], door: Door, workers: int) -> None:
    """Serve in this process, or in several that share one port."""
    own = door.certificate
    known: dict[str, Any] = {
        "host": door.host, "port": door.port, "log_config": None,
        "timeout_graceful_shutdown": 3, "timeout_worker_healthcheck": 30,
        "proxy_headers": door.behind_proxy, "forwarded_allow_ips": "127.0.0.1,::1",
        "ssl_certfile": str(own.cert) if own else None,
        "ssl_keyfile": str(own.key) if own else None,
    }  # fmt: skip
    if workers == 1:
        _Server(uvicorn.Config(made(), **known)).run()
        return
    sharing = partial(made, crowd=Crowd(workers))
    config = uvicorn.Config(sharing, factory=True, workers=workers, **known)
    _Workers(config, [config.bind_socket()]).run()


class _Workers(Multiprocess):
    """Several processes on one port; one that ends is started again. SIGHUP ends them all."""

    def handle_hup(self) -> None:
        self.handle_term()

    def keep_subprocess_alive(self) -> None:
        """A process that is busy answers late; only one that has ended is started again."""
        if not all(p.process.is_alive() for p in self.processes):
            super().keep_subprocess_alive()

    def join_all(self) -> None:
        """Wait for their end; one that hangs on a dead database is killed."""
        until = time.monotonic() + _STOP_S
        for process in self.processes:
            process.process.join(max(until - time.monotonic(), 0))
            process.process.kill()


class _Server(uvicorn.Server):
    """A server that ends the pages' live connections first, so that it stops at once.

    It takes SIGHUP the way uvicorn takes the other signals: a handler that raises inside
    the event loop is swallowed now and then, and the process would serve on.
    """

    @contextmanager
    def capture_signals(self) -> Iterator[None]:
        with super().capture_signals():
            before = signal.signal(signal.SIGHUP, self.handle_exit)
            try:
                yield
            finally:
                signal.signal(signal.SIGHUP, before)

    def handle_exit(self, sig: int, frame: FrameType | None) -> None:
        end_streams(self.config.app)  # type: ignore[arg-type]
        super().handle_exit(sig, frame)
