"""A shop whose disk is lost comes back from its archive, to the last write received."""

import os
import shutil
import signal
from contextlib import suppress
from pathlib import Path

import pytest
from sqlalchemy import Engine, text

from tests.builders import load_demo, wait_for
from vivid_arm.records import archive, backup, cluster, database
from vivid_arm.records.archive import ArchiveError
from vivid_arm.records.backup import TableDigest
from vivid_arm.records.cluster import running_cluster

pytestmark = pytest.mark.slow


@pytest.fixture
def kept(scratch: Path) -> Path:
    """An archive's folder, beside the data."""
    return scratch / "archive"


def open_shop(url: str) -> Engine:
    engine = database.connect(url)
    database.migrate(engine)
    return engine


def tables(engine: Engine) -> dict[str, TableDigest]:
    with engine.connect() as connection:
        return backup.digests(connection)


def test_a_lost_shop_comes_back_to_the_last_write(scratch: Path, kept: Path) -> None:
    """The server and its keeper are killed and the whole folder is gone."""
    data, again = scratch / "data", scratch / "again"
    password = data / "postgres.password"
    with suppress(ProcessLookupError), running_cluster(data) as url:
        engine = open_shop(url)
        with archive.kept_up(url, kept, password):
            wait_for(lambda: (kept / "base" / "backup_label").exists())
            load_demo(engine)  # after the base backup: from the log alone
            with engine.begin() as connection:
                connection.execute(text("UPDATE builds SET name = name || ' last'"))
            held = tables(engine)
            wait_for(lambda: archive.behind_bytes(url) == 0)
            engine.dispose()
            server = int((data / "postgres" / "postmaster.pid").read_text().splitlines()[0])
            shutil.rmtree(data / "postgres")
            os.kill(server, signal.SIGKILL)
    archive.recover(kept, again)
    with running_cluster(again) as url:
        engine = database.connect(url)
        assert backup.different(tables(engine), held) == []
        with engine.connect() as connection:
            names = connection.scalars(text("SELECT name FROM builds")).all()
        assert len(names) > 5
        assert all(name.endswith(" last") for name in names)
        with pytest.raises(ArchiveError, match="before it was recovered"):
            archive._claim(url, kept)
        engine.dispose()
    with pytest.raises(ArchiveError, match=r"a shop in .* already"):
        archive.recover(kept, again)


def change(engine: Engine) -> None:
    with engine.begin() as connection:
        connection.execute(
            text(
                "INSERT INTO pulse VALUES (2, clock_timestamp())"
                " ON CONFLICT (id) DO UPDATE SET at = excluded.at"
            )
        )


def log_goes_on(engine: Engine, segments: int = 3) -> None:
    """As after hours of work: the server removes what nobody holds."""
    for _ in range(segments):
        change(engine)
        with engine.connect().execution_options(isolation_level="AUTOCOMMIT") as connection:
            connection.execute(text("SELECT pg_switch_wal()"))
            connection.execute(text("CHECKPOINT"))


@pytest.mark.parametrize(("held", "bases"), [("2GB", 1), ("1MB", 2)])
def test_an_archive_goes_on_after_a_pause(
    scratch: Path, kept: Path, monkeypatch: pytest.MonkeyPatch, held: str, bases: int
) -> None:
    """Work goes on without it: the log is held for it, or it begins again, never with a gap."""
    monkeypatch.setattr(cluster, "_MOST_LOG_FOR_AN_ARCHIVE", held)
    data, label = scratch / "data", kept / "base" / "backup_label"
    made: list[str] = []

    def a_base_is_there() -> bool:
        """Where one takes another's place, there is none for a moment."""
        old = made if bases == 2 else []
        with suppress(FileNotFoundError):
            return label.read_text() not in old
        return False

    for _ in range(2):
        with running_cluster(data) as url:
            engine = open_shop(url)
            with archive.kept_up(url, kept, data / "postgres.password"):
                wait_for(a_base_is_there)
                made.append(label.read_text())
                change(engine)
                wait_for(lambda: archive.behind_bytes(url) == 0)
                shop = tables(engine)
            if len(made) == 1:
                log_goes_on(engine)
            engine.dispose()
    assert len(set(made)) == bases
    archive.recover(kept, scratch / "again")
    with running_cluster(scratch / "again") as url:
        engine = database.connect(url)
        assert tables(engine) == shop
        engine.dispose()


def test_no_log_is_held_for_an_archive_given_up(scratch: Path, kept: Path) -> None:
    data = scratch / "data"
    with running_cluster(data) as url:
        engine = open_shop(url)
        slots = text("SELECT count(*) FROM pg_replication_slots")
        for closed in (lambda: None, lambda: archive.given_up(url)):
            with archive.kept_up(url, kept, data / "postgres.password"):
                wait_for((kept / "base" / "backup_label").exists)
            closed()
        with engine.connect() as connection:
            assert connection.scalar(slots) == 0
        engine.dispose()


def test_what_is_no_archive_is_said(scratch: Path, kept: Path) -> None:
    kept.mkdir()
    with pytest.raises(ArchiveError, match="no base backup"):
        archive.recover(kept, scratch / "data")
    assert not (scratch / "data").exists()
    (kept / "whose").write_text("12:1")
    with running_cluster(scratch / "data") as url, pytest.raises(ArchiveError, match="another"):
        archive._claim(url, kept)
