"""The command line: serve, migrate, demo, seed, openapi."""

import ipaddress
import json
import os
import signal
import socket
import subprocess
import sys
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path
from types import FrameType
from typing import Annotated

import typer
import uvicorn

from vivid_arm.api.app import make_app
from vivid_arm.api.board.views import fill
from vivid_arm.demo import seeding, shop
from vivid_arm.records import database
from vivid_arm.records.cluster import ClusterError, free_port, running_cluster
from vivid_arm.records.rows.builds import count_builds

cli = typer.Typer(add_completion=False, pretty_exceptions_enable=False)

Data = Annotated[Path, typer.Option(help="Folder of the private database.")]


@cli.command()
def serve(
    data: Data,
    port: Annotated[int, typer.Option(min=1, max=65535)] = 8610,
    host: Annotated[str, typer.Option(help="Loopback only, for now.")] = "127.0.0.1",
    demo: Annotated[bool, typer.Option(help="Load the demo shop into an empty database.")] = True,
    standins: Annotated[bool, typer.Option(help="Start the simulated supplier and gauge.")] = True,
) -> None:
    """Start database, stand-ins and application; Ctrl-C stops them all."""
    _refuse_open_host(host)
    _refuse_taken_port(host, port)
    for name in (signal.SIGTERM, signal.SIGHUP):
        signal.signal(name, _leave)
    with _database(data) as url, _outside(data, standins) as outside:
        _prepare(url, demo)
        shown = f"[{host}]" if ":" in host else host
        say(f"Vivid Arm is at http://{shown}:{port}  (Ctrl-C stops it)")
        app = make_app(url, outside.supplier, outside.gauge)
        with suppress(KeyboardInterrupt):
            config = uvicorn.Config(
                app, host=host, port=port, log_level="warning", timeout_graceful_shutdown=3
            )
            _Server(config).run()


@cli.command()
def migrate(data: Data) -> None:
    """Bring the database to the newest migration."""
    with _database(data) as url:
        database.migrate(database.connect(url))


@cli.command()
def demo(data: Data) -> None:
    """Load the demo shop. Safe to repeat."""
    with _database(data) as url:
        _prepare(url, demo=True, even_if_filled=True)


@cli.command()
def seed(data: Data, builds: Annotated[int, typer.Option(min=1, max=20000)] = 2000) -> None:
    """Fill the database with invented builds of 16 valves and 10 readings each."""
    with _database(data) as url:
        engine = database.connect(url)
        database.migrate(engine)
        seeding.seed(database.sessions(engine), builds)
        fill(database.sessions(engine))
        say(f"Seeded {builds} builds")
        engine.dispose()


@cli.command()
def openapi() -> None:
    """Print the OpenAPI document."""
    app = make_app("postgresql+psycopg://")
    print(json.dumps(app.openapi(), indent=2, ensure_ascii=False))


def say(words: str) -> None:
    """A line on the terminal, at once."""
    print(words, flush=True)


@contextmanager
def _database(data: Path) -> Iterator[str]:
    """The URL of the shop's own server (DATABASE_URL) or of the private cluster."""
    own = os.environ.get("DATABASE_URL")
    if own:
        yield own
        return
    try:
        with running_cluster(data) as url:
            yield url
    except ClusterError as error:
        say(str(error))
        raise SystemExit(1) from None


@dataclass(frozen=True)
class _Outside:
    """Where supplier and gauges answer; None for what this shop does not have."""

    supplier: str | None = None
    gauge: tuple[str, int] | None = None


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
        hub = self.config.app.state.gauges  # type: ignore[union-attr]
        if hub is not None:
            hub.close()
        super().handle_exit(sig, frame)


@contextmanager
def _outside(data: Path, standins: bool) -> Iterator[_Outside]:
    """The shop's own supplier and gauges (SUPPLIER_URL, GAUGE_ADDRESS) or stand-ins of them."""
    supplier, gauge = os.environ.get("SUPPLIER_URL"), os.environ.get("GAUGE_ADDRESS")
    at = None
    if gauge:
        host, _, port = gauge.rpartition(":")
        if not port.isdigit():
            say(f"GAUGE_ADDRESS {gauge} is not host:port, such as 127.0.0.1:8630")
            raise SystemExit(2)
        at = (host, int(port))
    started: list[subprocess.Popen[bytes]] = []
    try:
        if standins and not supplier:
            port_number = free_port()
            books = ["--file", str(data / "supplier-standin.json")] if _writable(data) else []
            started.append(_standin("supplier", port_number, *books))
            supplier = f"http://127.0.0.1:{port_number}"
            say(f"Rod supplier (simulated) at {supplier}")
        if standins and at is None:
            at = ("127.0.0.1", free_port())
            started.append(_standin("gauge", at[1]))
            say(f"Indicator and caliper (simulated) at {at[0]}:{at[1]}")
        yield _Outside(supplier, at)
    finally:
        for process in started:
            process.terminate()
        for process in started:
            _ended(process)


def _standin(name: str, port: int, *more: str) -> "subprocess.Popen[bytes]":
    command = [sys.executable, "-m", "vivid_arm.standins", name, "--port", str(port), *more]
    return subprocess.Popen(command, stdin=subprocess.DEVNULL)


def _ended(process: "subprocess.Popen[bytes]") -> None:
    """Wait for a stand-in that was told to stop; one that does not is killed."""
    try:
        process.wait(timeout=5)
    except subprocess.TimeoutExpired:
        process.kill()
        process.wait()


def _writable(folder: Path) -> bool:
    return folder.is_dir() and os.access(folder, os.W_OK)


def _prepare(url: str, demo: bool, *, even_if_filled: bool = False) -> None:
    engine = database.connect(url)
    database.migrate(engine)
    with database.sessions(engine).begin() as session:
        if demo and (even_if_filled or not count_builds(session)):
            say(f"Demo shop: {shop.load(session)} builds")
    engine.dispose()


def _refuse_open_host(host: str) -> None:
    try:
        loopback = host == "localhost" or ipaddress.ip_address(host).is_loopback
    except ValueError:
        loopback = False
    if not loopback:
        say(
            f"Refused: {host} is not a loopback address. Without accounts anyone on the network "
            "could change your builds; accounts come later. Use 127.0.0.1."
        )
        raise SystemExit(2)


def _refuse_taken_port(host: str, port: int) -> None:
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    with socket.socket(family) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError:
            say(f"Port {port} is taken. Choose another: ./start --port {port + 1}")
            raise SystemExit(1) from None


def _leave(number: int, frame: FrameType | None) -> None:
    """Leave through the exits, so that the database is stopped on the way out."""
    sys.exit(128 + number)


def main() -> None:
    """Run the command; a thread that hangs on a dead database does not keep the process."""
    code: int | str | None = 1
    try:
        cli()
    except SystemExit as left:
        code = left.code
        raise
    finally:
        if any(t is not threading.current_thread() and not t.daemon for t in threading.enumerate()):
            sys.stdout.flush()
            os._exit(code if isinstance(code, int) else 1)


if __name__ == "__main__":
    main()
