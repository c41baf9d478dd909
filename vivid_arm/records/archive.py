"""Every write as it is made, in a folder of its own: a base backup and the log since.

PostgreSQL's own programs keep it: pg_basebackup once in a while, pg_receivewal all the time the
shop is open; a replication slot holds the log for it while it is away. From both a shop is
recovered to the last second before its disk was lost. The folder belongs on another disk than
the shop.
"""

import logging
import re
import shutil
import subprocess
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from sqlalchemy import Connection, text
from sqlalchemy.exc import SQLAlchemyError

from vivid_arm.records import database
from vivid_arm.records.cluster import (
    ClusterError,
    environment,
    owned_by_the_server,
    program,
    running_cluster,
    tool,
)

_BASE, _LOG, _WHOSE, _PASSWORD = "base", "log", "whose", "postgres.password"
_BASE_DAYS = 7
_RECOVER_S = 600
_SLOT = "archive"
_words = logging.getLogger(__name__)
_DROP = text(
    "SELECT pg_drop_replication_slot(slot_name) FROM pg_replication_slots WHERE slot_name = :slot"
).bindparams(slot=_SLOT)


class ArchiveError(RuntimeError):
    """An archive that cannot be kept or recovered from; the message says why and what to do."""


@contextmanager
def kept_up(url: str, folder: Path, password_file: Path) -> Iterator[None]:
    """Keep a folder up with every write as long as the shop is open.

    Raises ArchiveError for a folder that holds the writes of another shop.
    """
    _claim(url, folder)
    shutil.copy(password_file, folder / _PASSWORD)
    over = threading.Event()
    keeper = threading.Thread(target=_keep, args=(url, folder, over), daemon=True)
    keeper.start()
    try:
        yield
    finally:
        over.set()
        keeper.join(timeout=10)


def _claim(url: str, folder: Path) -> None:
    try:
        (folder / _LOG).mkdir(parents=True, exist_ok=True)
        folder.chmod(0o700)
    except OSError as error:
        raise ArchiveError(f"{folder} cannot be written: {error.strerror}.") from None
    engine = database.connect(url)
    with engine.begin() as connection:
        _hold_the_log(connection)
        mine = str(
            connection.scalar(
                text(
                    "SELECT system_identifier || ':' || timeline_id"
                    " FROM pg_control_system(), pg_control_checkpoint()"
                )
            )
        )
    engine.dispose()
    whose = folder / _WHOSE
    if whose.exists() and whose.read_text() != mine:
        raise ArchiveError(
            f"{folder} keeps the writes of another shop, or of this one before it was recovered. "
            "Nothing was touched; choose an empty folder."
        )
    whose.write_text(mine)


def _hold_the_log(connection: Connection, *, anew: bool = False) -> None:
    """Have the server keep the log from here on, until the archive has it."""
    if anew:
        connection.execute(_DROP)
    connection.execute(
        text(
            "SELECT pg_create_physical_replication_slot(:slot, true) WHERE NOT EXISTS"
            " (SELECT FROM pg_replication_slots WHERE slot_name = :slot)"
        ),
        {"slot": _SLOT},
    )


def given_up(url: str) -> None:
    """Have the server keep no log for an archive that is not kept up."""
    engine = database.connect(url)
    with engine.begin() as connection:
        connection.execute(_DROP)
    engine.dispose()


def _keep(url: str, folder: Path, over: threading.Event) -> None:
    """Receive the log, and make a base backup where there is none of the last days."""
    while not over.is_set():
        with _receiving(url, folder) as receiver:
            try:
                if not over.wait(1) and _needs_a_base(folder):
                    _make_base(url, folder)
            except (ClusterError, OSError) as error:
                _words.warning("No base backup yet: %s", error)
            while not over.wait(1) and receiver.poll() is None:
                pass
            said = _ended(receiver) if receiver.poll() is not None else ""
        if "has already been removed" in said or "can no longer" in said:
            _begin_again(url, folder)


def _begin_again(url: str, folder: Path) -> None:
    """What the server no longer holds for the archive leaves a gap: all of it is made anew."""
    shutil.rmtree(folder / _BASE, ignore_errors=True)
    shutil.rmtree(folder / _LOG)
    (folder / _LOG).mkdir()
    engine = database.connect(url)
    try:
        with engine.begin() as connection:
            _hold_the_log(connection, anew=True)
    except SQLAlchemyError as error:
        _words.warning("The archive is behind: %s", error)
    finally:
        engine.dispose()


@contextmanager
def _receiving(url: str, folder: Path) -> Iterator["subprocess.Popen[str]"]:
    receiver = subprocess.Popen(
        [program("pg_receivewal"), "-D", str(folder / _LOG), "--synchronous", "--no-loop",
         "--slot", _SLOT],
        env=environment(url), stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, text=True,
    )  # fmt: skip
    try:
        yield receiver
    finally:
        receiver.terminate()
        try:
            receiver.wait(timeout=5)
        except subprocess.TimeoutExpired:
            receiver.kill()
            receiver.wait()


def _ended(receiver: "subprocess.Popen[str]") -> str:
    said = receiver.communicate()[1].strip()
    _words.warning("The archive is behind: %s", said[-300:])
    return said


def _needs_a_base(folder: Path) -> bool:
    label = folder / _BASE / "backup_label"
    return not label.exists() or time.time() - label.stat().st_mtime > _BASE_DAYS * 86400


def _make_base(url: str, folder: Path) -> None:
    """A new base backup in place of the old one; log from before it goes. Raises ClusterError."""
    making, old = folder / f"{_BASE}.unfinished", folder / f"{_BASE}.old"
    shutil.rmtree(making, ignore_errors=True)
    tool("pg_basebackup", "-D", str(making), "-X", "stream", "-c", "fast", url=url)
    if (folder / _BASE).exists():
        shutil.rmtree(old, ignore_errors=True)
        (folder / _BASE).rename(old)
    making.rename(folder / _BASE)
    shutil.rmtree(old, ignore_errors=True)
    first = re.search(r"\(file (\w{24})\)", (folder / _BASE / "backup_label").read_text())
    for segment in (folder / _LOG).iterdir():
        if first and segment.name[:24] < first.group(1):
            segment.unlink()


def behind_bytes(url: str) -> int | None:
    """How much of the log the archive has not yet on its disk; None while nothing receives."""
    engine = database.connect(url)
    try:
        with engine.connect() as connection:
            found = connection.scalar(
                text(
                    "SELECT pg_wal_lsn_diff(pg_current_wal_lsn(), flush_lsn)"
                    " FROM pg_stat_replication WHERE application_name = 'pg_receivewal'"
                )
            )
            return None if found is None else max(int(found), 0)
    except SQLAlchemyError:
        return None
    finally:
        engine.dispose()


def recover(folder: Path, data: Path) -> None:
    """Make a shop again from its archive, to the last write received.

    Raises ArchiveError where there is no base backup, or a shop stands there already, or its log
    does not lead to its end.
    """
    if not (folder / _BASE / "PG_VERSION").exists():
        raise ArchiveError(f"{folder} holds no base backup of a shop.")
    place, log = data / "postgres", data / "postgres.recovered-log"
    if place.exists():
        raise ArchiveError(f"There is a shop in {data} already. Nothing was touched; use --data.")
    making = data / "postgres.unfinished-recovered"
    data.mkdir(parents=True, exist_ok=True)
    for left in (making, log):
        shutil.rmtree(left, ignore_errors=True)
    shutil.copytree(folder / _BASE, making)
    shutil.copytree(folder / _LOG, log)
    for last in log.glob("*.partial"):
        last.rename(last.with_suffix(""))
    (making / "recovery.signal").touch()
    with (making / "postgresql.auto.conf").open("a") as conf:
        conf.write(f'restore_command = \'cp "{log}/%f" "%p"\'\n')
    shutil.copy(folder / _PASSWORD, data / _PASSWORD)
    for made in (data, making, log, data / _PASSWORD):
        owned_by_the_server(made)
    making.chmod(0o700)
    making.rename(place)
    with running_cluster(data) as url:
        _wait_until_recovered(url)
    shutil.rmtree(log)


def _wait_until_recovered(url: str) -> None:
    engine = database.connect(url)
    until = time.monotonic() + _RECOVER_S
    while time.monotonic() < until:
        with engine.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
            if not connection.scalar(text("SELECT pg_is_in_recovery()")):
                connection.execute(text("ALTER SYSTEM RESET restore_command"))
                engine.dispose()
                return
        time.sleep(0.2)
    raise ArchiveError("The shop did not come to the end of its log; see postgres.log.")
