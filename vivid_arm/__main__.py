"""The command line: serve, code, backup, restore, recover, verify, migrate, demo, seed."""

import json
import logging
import os
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager, suppress
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from functools import partial
from ipaddress import ip_address
from pathlib import Path
from threading import Thread
from types import FrameType
from typing import Annotated

import typer
from sqlalchemy import func, select, text
from sqlalchemy.exc import SQLAlchemyError

from vivid_arm import logs
from vivid_arm.api.app import make_app
from vivid_arm.api.board.views import board_body, fill
from vivid_arm.demo import seeding, shop
from vivid_arm.records import accounts, archive, backup, database, evidence
from vivid_arm.records.archive import ArchiveError
from vivid_arm.records.backup import SUFFIX, BackupError
from vivid_arm.records.cluster import ClusterError, free_port, running_cluster, url_of_running
from vivid_arm.records.roles import working_url
from vivid_arm.records.rows.builds import count_builds
from vivid_arm.records.state.board import all_worked_out
from vivid_arm.records.state.load import unmade_states
from vivid_arm.records.tables import Build
from vivid_arm.serving import Door, Outside, application, serve_on
from vivid_arm.tls import Certificate, names_of_this_machine, own_certificate

cli = typer.Typer(add_completion=False, pretty_exceptions_enable=False)

_log = logging.getLogger(__name__)
Data = Annotated[Path, typer.Option(help="Folder of the private database.")]


@cli.command()
def serve(
    data: Data,
    port: Annotated[int, typer.Option(min=1, max=65535)] = 8610,
    host: Annotated[str, typer.Option(help="Off loopback only with --people.")] = "127.0.0.1",
    demo: Annotated[bool, typer.Option(help="Load the demo shop into an empty database.")] = True,
    standins: Annotated[bool, typer.Option(help="Start the simulated supplier and gauge.")] = True,
    archive_in: Annotated[
        Path | None, typer.Option("--archive", help="Folder for every write as it is made.")
    ] = None,
    workers: Annotated[int, typer.Option(min=1, max=64, help="Processes that answer.")] = 1,
    people: Annotated[bool, typer.Option(help="With accounts: nobody in without one.")] = False,
    name: Annotated[list[str] | None, typer.Option(help="A name it answers to.")] = None,
    cert: Annotated[Path | None, typer.Option(help="A certificate (PEM) of yours.")] = None,
    key: Annotated[Path | None, typer.Option(help="Its key (PEM).")] = None,
    behind_proxy: Annotated[
        bool, typer.Option("--behind-proxy", help="A server on this machine hands requests on.")
    ] = False,
    machine: Annotated[
        str, typer.Option(help="What this machine is called; its gauges go by it.")
    ] = socket.gethostname(),
    log_json: Annotated[
        bool, typer.Option("--log-json", help="A JSON object a line, one for each answer too.")
    ] = False,
) -> None:
    """Start database, stand-ins and application; Ctrl-C stops them all."""
    _refuse_open_host(host, people)
    _refuse_taken_port(host, port)
    _refuse_half_a_door(host, cert, key, behind_proxy)
    for number in (signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, _leave)
    logs.set_up(as_json=log_json)
    with (
        _database(data) as url,
        _archived(url, data, archive_in),
        _outside(data, standins) as outside,
    ):
        backups = _backups(data)
        working = _prepare(url, demo, backups=backups)
        if backups is not None:
            Thread(target=_daily, args=(url, backups), daemon=True).start()
        door = _door(host, port, people, name or [], cert, key, behind_proxy, data)
        door = replace(door, machine=machine)
        _say_where(door)
        if people:
            _say_first_code(working)
        Thread(target=_fill_beside, args=(working,), daemon=True).start()
        made = partial(application, working, outside, backups, door, os.getpid(), log_json)
        with suppress(KeyboardInterrupt), _counted_together(workers):
            serve_on(made, door, workers)


@contextmanager
def _counted_together(workers: int) -> Iterator[None]:
    """Where several processes answer, each leaves its figures where all are read."""
    if workers == 1:
        yield
        return
    with tempfile.TemporaryDirectory(prefix="vivid-arm-figures-") as folder:
        os.environ["PROMETHEUS_MULTIPROC_DIR"] = folder
        yield


@cli.command("code")
def make_code(name: Annotated[str, typer.Argument()], data: Data) -> None:
    """A code for an account whose password is lost: who sits at this machine may ask for it."""
    with _said(), _any_database(data) as url:
        engine = database.connect(url)
        with database.sessions(engine).begin() as session:
            found = [a for a in accounts.accounts(session) if a.name.lower() == name.lower()]
            code = accounts.new_code(session, found[0]) if found else None
            known = ", ".join(a.name for a in accounts.accounts(session)) or "nobody"
        engine.dispose()
    if code is None:
        say(f"There is no account {name}. There is: {known}")
        raise SystemExit(1)
    say(f"Code for {found[0].name}, good for a day and one use: {code}")


@cli.command("backup")
def back_up(file: Annotated[Path, typer.Argument()], data: Data) -> None:
    """Write the whole shop to one file, also while it is open."""
    with _said(), _any_database(data) as url:
        made = backup.back_up(url, file.resolve())
        rows = sum(t.rows for t in made.tables.values())
        say(f"{file}: {len(made.tables)} tables, {rows} rows, migration {made.migration}")


@cli.command("restore")
def restore(file: Annotated[Path, typer.Argument()], data: Data) -> None:
    """Bring a backup into an empty shop and prove it."""
    with _said(), _database(data) as url:
        made = backup.restore(url, file.resolve())
        say(f"Restored and proved: the shop as it was on {made.made_at:%Y-%m-%d %H:%M} UTC")


@cli.command("recover")
def recover(folder: Annotated[Path, typer.Argument()], data: Data) -> None:
    """Make a shop again from its archive, to the last write received."""
    with _said():
        archive.recover(folder.resolve(), data)
        with _database(data) as url:
            found = _faults(url)
        say(f"Recovered from {folder}: the shop to its last write")
        for words in found:
            say(words)


@cli.command("verify")
def verify(data: Data, file: Annotated[Path | None, typer.Argument()] = None) -> None:
    """Prove a backup by restoring it beside the shop; without one, prove the shop itself."""
    with _said():
        if file is not None:
            made = backup.verify(file.resolve())
            say(f"{file} is whole: {len(made.tables)} tables as they were on {made.made_at:%c} UTC")
            return
        with _any_database(data) as url:
            found = _faults(url)
        for words in found:
            say(words)
        if found:
            raise SystemExit(1)
        say("Every line follows from the one before it, and every build can be computed")


@contextmanager
def _archived(url: str, data: Path, folder: Path | None) -> Iterator[None]:
    """The archive kept up, where one is asked for."""
    if folder is None:
        if not os.environ.get("DATABASE_URL"):
            archive.given_up(url)
        yield
        return
    if os.environ.get("DATABASE_URL"):
        say("--archive is for the shop's own cluster; a server of yours has its own archiving.")
        raise SystemExit(2)
    with ExitStack() as kept:
        with _said():
            kept.enter_context(archive.kept_up(url, folder, data / "postgres.password"))
        say(f"Every write is kept in {folder} too")
        yield


@contextmanager
def _said() -> Iterator[None]:
    """What a backup or a cluster refuses, as one sentence."""
    try:
        yield
    except (ArchiveError, BackupError, ClusterError) as error:
        say(str(error))
        raise SystemExit(1) from None


def _faults(url: str) -> list[str]:
    engine = database.connect(url)
    with database.sessions(engine)() as session:
        session.execute(text("SET LOCAL statement_timeout = 0"))
        found = [str(flaw) for flaw in evidence.flaws(session.connection())]
        for build, state in unmade_states(session, list(session.scalars(select(Build.id)))):
            try:
                board_body(state())
            except Exception as error:
                # Whatever it is that makes a build impossible to compute is what is asked for.
                found.append(f"build {build.id} ({build.name}) cannot be computed: {error}")
    engine.dispose()
    return found


@contextmanager
def _any_database(data: Path) -> Iterator[str]:
    """The URL of a shop that is open, or of one opened for this."""
    running = None if os.environ.get("DATABASE_URL") else url_of_running(data)
    if running:
        yield running
        return
    with _database(data) as url:
        yield url


@cli.command()
def migrate(data: Data) -> None:
    """Bring the database to the newest migration."""
    with _database(data) as url:
        _prepare(url, demo=False, backups=_backups(data))


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
        database.tidy(engine)
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
        with running_cluster(data, backup.carry) as url:
            yield url
    except (BackupError, ClusterError) as error:
        say(str(error))
        raise SystemExit(1) from None


@contextmanager
def _outside(data: Path, standins: bool) -> Iterator[Outside]:
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
        yield Outside(supplier, at)
    finally:
        for process in started:
            process.terminate()
        for process in started:
            _ended(process)


def _standin(name: str, port: int, *more: str) -> "subprocess.Popen[bytes]":
    """A stand-in that leaves when this process does, however that ends."""
    command = [sys.executable, "-m", "vivid_arm.standins", name, "--port", str(port), *more]
    return subprocess.Popen([*command, "--until-stdin-ends"], stdin=subprocess.PIPE)


def _ended(process: "subprocess.Popen[bytes]") -> None:
    """Wait for a stand-in that was told to stop; one that does not is killed."""
    try:
        process.wait(timeout=5)
    except subprocess.TimeoutExpired:
        process.kill()
        process.wait()


def _writable(folder: Path) -> bool:
    return folder.is_dir() and os.access(folder, os.W_OK)


def _prepare(
    url: str, demo: bool, *, even_if_filled: bool = False, backups: Path | None = None
) -> str:
    """Bring a database up to date, backed up before; the URL the application works with.

    A database of the shop's own (DATABASE_URL) is worked on as it was given.
    """
    engine = database.connect(url)
    at = database.revision(engine)
    if at is not None and at not in database.revisions():
        say(f"This shop was written by a newer Vivid Arm (migration {at}). Update this program.")
        raise SystemExit(1)
    if at is not None and at != database.head() and backups is not None:
        now = datetime.now(UTC)
        backup.back_up(url, backups / f"before-{database.head()}-{now:%Y%m%dT%H%M%S}{SUFFIX}")
    database.migrate(engine)
    seen, now = database.last_open(engine), datetime.now(UTC)
    if seen is not None and seen > now + timedelta(hours=1):
        say(
            f"The clock of this machine says {now:%Y-%m-%d %H:%M} UTC, and this shop was open at "
            f"{seen:%Y-%m-%d %H:%M}. Set the clock: readings carry its time."
        )
    with database.sessions(engine).begin() as session:
        # Of several machines that start on one empty database, one loads it.
        session.execute(select(func.pg_advisory_xact_lock(func.hashtext("demo"))))
        if demo and (even_if_filled or not count_builds(session)):
            say(f"Demo shop: {shop.load(session)} builds")
    working = url if os.environ.get("DATABASE_URL") else working_url(engine)
    engine.dispose()
    return working


def _fill_beside(url: str) -> None:
    """Work the builds out anew where that is due, in the pauses of whoever works on them."""
    engine = database.connect(url)
    try:
        with database.sessions(engine)() as session:
            due = not all_worked_out(session)
        if due:
            fill(database.sessions(engine), batch=5, share=0.5)
    except SQLAlchemyError as error:
        _log.warning("The board was not worked out anew: %s", error)
    engine.dispose()


def _backups(data: Path) -> Path | None:
    """Where backups lie beside the data; None where a shop's own database has no folder here."""
    return data / "backups" if _writable(data) else None


def _daily(url: str, folder: Path) -> None:
    """A backup a day beside the data, as long as the shop is open."""
    while True:
        try:
            backup.daily(url, folder, datetime.now().astimezone().date())
        except (BackupError, ClusterError, OSError, SQLAlchemyError) as error:
            _log.warning("No backup today yet: %s", error)
        time.sleep(3600)


def _loopback(host: str) -> bool:
    try:
        return host == "localhost" or ip_address(host).is_loopback
    except ValueError:
        return False


def _refuse_open_host(host: str, people: bool) -> None:
    if not people and not _loopback(host):
        say(
            f"Refused: {host} is not a loopback address. Without accounts anyone on the network "
            "could change your builds. Start with --people, or use 127.0.0.1."
        )
        raise SystemExit(2)


def _refuse_half_a_door(host: str, cert: Path | None, key: Path | None, behind_proxy: bool) -> None:
    unread = [file for file in (cert, key) if file and not os.access(file, os.R_OK)]
    if (cert is None) != (key is None):
        say("A certificate and its key go together: give --cert and --key.")
    elif unread:
        say(f"{unread[0]} cannot be read.")
    elif behind_proxy and not _loopback(host):
        say("Behind a proxy of this machine the shop is open on loopback only: leave --host out.")
    else:
        return
    raise SystemExit(2)


def _door(
    host: str, port: int, people: bool, names: list[str], cert: Path | None, key: Path | None,
    behind_proxy: bool, data: Path,
) -> Door:  # fmt: skip
    """Over TLS wherever passwords could be overheard: off loopback, unless a proxy sees to it."""
    own = Certificate(cert.resolve(), key.resolve()) if cert and key else None
    reached = [*names, *(names_of_this_machine() if people else [])]
    if own is None and not _loopback(host):
        own = own_certificate(data / "certificate", ["localhost", "127.0.0.1", *reached])
    return Door(host, port, people, tuple(reached), own, behind_proxy)


def _say_where(door: Door) -> None:
    shown = f"[{door.host}]" if ":" in door.host else door.host
    if shown in ("0.0.0.0", "[::]"):
        shown = door.names[-1]
    way = "https" if door.certificate else "http"
    say(f"Vivid Arm is at {way}://{shown}:{door.port}  (Ctrl-C stops it)")
    if door.certificate:
        say(f"Fingerprint of its certificate (SHA-256): {door.certificate.fingerprint}")


def _say_first_code(url: str) -> None:
    engine = database.connect(url)
    with database.sessions(engine).begin() as session:
        code = accounts.first_code(session)
    engine.dispose()
    if code is not None:
        say(f"It has no owner yet. Become the first with this code, good for a day: {code}")


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
