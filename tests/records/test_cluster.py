"""The private cluster: one holder at a time, a leftover server is no obstacle."""

import os
import subprocess
import tempfile
from pathlib import Path

import pytest
from sqlalchemy.exc import OperationalError

from tests.builders import load_demo
from vivid_arm.records import backup, cluster, database
from vivid_arm.records.backup import BackupError, TableDigest
from vivid_arm.records.cluster import ClusterError, running_cluster

pytestmark = pytest.mark.slow
TableDigests = dict[str, TableDigest]


@pytest.fixture
def folder(scratch: Path) -> Path:
    return scratch / "data"


def postmaster(folder: Path) -> int:
    return int((folder / "postgres" / "postmaster.pid").read_text().splitlines()[0])


def alive(pid: int) -> bool:
    """Running, not merely waiting for its parent to notice that it ended."""
    stat = Path(f"/proc/{pid}/stat")
    return stat.exists() and stat.read_text().rsplit(")", 1)[1].split()[0] != "Z"


def test_one_holder_and_nothing_left_running(folder: Path) -> None:
    with running_cluster(folder) as url:
        pid = postmaster(folder)
        assert database.revision(database.connect(url)) is None
        with pytest.raises(ClusterError, match="in use by another"), running_cluster(folder):
            pass
        assert alive(pid)
    assert not alive(pid)


def test_a_server_left_by_a_killed_run_is_taken_over(folder: Path) -> None:
    script = (
        "import os, pathlib, signal, sys; from vivid_arm.records.cluster import running_cluster\n"
        "with running_cluster(pathlib.Path(sys.argv[1])): os.kill(os.getpid(), signal.SIGKILL)"
    )
    subprocess.run([".venv/bin/python", "-c", script, str(folder)], check=False)
    left = postmaster(folder)
    assert alive(left)
    with running_cluster(folder) as url:
        assert postmaster(folder) != left
        assert database.revision(database.connect(url)) is None


@pytest.mark.parametrize("holds", ["base/1/1259", "notes.txt", ".hidden"])
def test_a_folder_that_is_no_cluster_is_left_alone(folder: Path, holds: str) -> None:
    """Half a restore, or another program's folder: said, and not a byte touched."""
    there = folder / "postgres" / holds
    there.parent.mkdir(parents=True)
    there.write_text("theirs")
    if os.geteuid() == 0:
        subprocess.run(["chown", "-R", "postgres", str(folder)], check=True)
    with pytest.raises(ClusterError, match="Nothing was touched"), running_cluster(folder):
        pass
    assert there.read_text() == "theirs"
    assert [p.name for p in folder.glob("postgres.*")] == []


def test_a_killed_initdb_starts_again(folder: Path) -> None:
    """What it left was never a cluster in use; the next start makes a whole one."""
    left = folder / "postgres.unfinished-0badcafe" / "base"
    left.mkdir(parents=True)
    (left / "1").write_text("half")
    with running_cluster(folder) as url:
        assert database.revision(database.connect(url)) is None
        assert not left.parent.exists()
        with database.connect(url).connect() as connection:
            checked = connection.exec_driver_sql("SHOW data_checksums").scalar()
        assert checked == "on"


def test_unreachable_folder_is_said() -> None:
    """Root: user postgres cannot enter the parent. A normal user: it cannot be written."""
    with tempfile.TemporaryDirectory(dir="/var/tmp") as name:
        Path(name).chmod(0o700 if os.geteuid() == 0 else 0o500)
        with pytest.raises(ClusterError, match="cannot"), running_cluster(Path(name) / "d"):
            pass


def test_only_loopback_and_only_with_the_password(folder: Path) -> None:
    with running_cluster(folder) as url:
        with database.connect(url).connect() as connection:
            shown = {
                name: connection.exec_driver_sql(f"SHOW {name}").scalar()
                for name in ("listen_addresses", "unix_socket_directories", "server_encoding")
            }
        assert shown == {
            "listen_addresses": "127.0.0.1",
            "unix_socket_directories": "",
            "server_encoding": "UTF8",
        }
        assert (folder / "postgres.password").stat().st_mode & 0o077 == 0
        wrong = database.connect(url.replace(url.split(":")[2].split("@")[0], "wrong"))
        with pytest.raises(OperationalError, match="password authentication failed"):
            wrong.connect()


def test_data_is_there_after_a_restart(folder: Path) -> None:
    for expected in (None, database.head()):
        with running_cluster(folder) as url:
            engine = database.connect(url)
            assert database.revision(engine) == expected
            database.migrate(engine)
            engine.dispose()


@pytest.mark.parametrize("name", ["in-use", "blocked"])
def test_a_folder_that_cannot_be_written_is_said(scratch: Path, name: str) -> None:
    """A read-only disk, as far as the program sees it: the file cannot be opened, or not made."""
    folder = scratch / "data"
    if name == "in-use":
        (folder / name).mkdir(parents=True)
    else:
        folder.write_text("a file where the folder should be")
    with (
        pytest.raises(ClusterError, match=r"cannot be (written|made).*--data"),
        running_cluster(folder),
    ):
        raise AssertionError("started")


def test_another_postgresql_is_named(folder: Path) -> None:
    with running_cluster(folder):
        pass
    version = folder / "postgres" / "PG_VERSION"
    kept = version.read_text()
    version.write_text("9\n")
    with (
        pytest.raises(ClusterError, match="kept by PostgreSQL 9, and only"),
        running_cluster(folder),
    ):
        raise AssertionError("started")
    version.write_text(kept)
    with running_cluster(folder) as url:
        assert url


def test_a_log_grown_long_is_put_aside(folder: Path) -> None:
    with running_cluster(folder):
        pass
    log = folder / "postgres.log"
    log.write_bytes(b"x" * 6_000_000)
    with running_cluster(folder):
        assert log.stat().st_size < 1_000_000
        assert (folder / "postgres.log.1").stat().st_size == 6_000_000


@pytest.fixture
def kept_by_an_older_one(folder: Path, monkeypatch: pytest.MonkeyPatch) -> TableDigests:
    """A shop whose cluster says that PostgreSQL 1 keeps it, and programs of 1 and 2.

    Both are the one that is installed: what is carried over is tried, not what two differ in.
    """
    for version in ("1", "2"):
        (folder.parent / "programs" / version).mkdir(parents=True)
        (folder.parent / "programs" / version / "bin").symlink_to(cluster.binaries())
    (folder.parent / "programs").chmod(0o755)
    newest = folder.parent / "programs" / "2" / "bin"
    monkeypatch.setattr(cluster, "binaries", lambda: newest)
    monkeypatch.setattr(
        cluster, "kept_by", lambda place: "1" if (place / "by-an-older-one").exists() else "2"
    )
    with running_cluster(folder) as url:
        engine = database.connect(url)
        database.migrate(engine)
        load_demo(engine)
        with engine.connect() as connection:
            found = backup.digests(connection)
        engine.dispose()
    (folder / "postgres" / "by-an-older-one").touch()
    return found


def held(url: str) -> TableDigests:
    engine = database.connect(url)
    with engine.connect() as connection:
        found = backup.digests(connection)
    engine.dispose()
    return found


def test_a_shop_is_carried_over_to_a_newer_postgresql(
    folder: Path, kept_by_an_older_one: TableDigests
) -> None:
    """The same rows, the older cluster kept beside; the next start has nothing to carry."""
    for _ in range(2):
        with running_cluster(folder, backup.carry) as url:
            assert backup.different(held(url), kept_by_an_older_one) == []
        assert not (folder / "postgres" / "by-an-older-one").exists()
        beside = [p for p in folder.glob("postgres-1-*") if (p / "by-an-older-one").exists()]
        assert len(beside) == 1
    assert not list(folder.glob("postgres.*d-*")), "nothing unfinished is left"


@pytest.mark.parametrize("at", ["before the old one is aside", "between the two"])
def test_a_carrying_over_that_was_killed_is_finished(
    folder: Path, kept_by_an_older_one: TableDigests, monkeypatch: pytest.MonkeyPatch, at: str
) -> None:
    moves = []
    rename = Path.rename

    def until_killed(self: Path, target: Path) -> Path:
        moves.append(target)
        if len(moves) == (2 if at == "before the old one is aside" else 3) + made:
            raise KeyboardInterrupt
        return rename(self, target)

    made = 2  # the new cluster and the backup come to their places by a move each
    monkeypatch.setattr(Path, "rename", until_killed)
    with pytest.raises(KeyboardInterrupt), running_cluster(folder, backup.carry):
        pass
    monkeypatch.setattr(Path, "rename", rename)
    with running_cluster(folder, backup.carry) as url:
        assert backup.different(held(url), kept_by_an_older_one) == []
    assert len(list(folder.glob("postgres-1-*"))) == 1
    assert not (folder / "postgres.carried").exists()


def test_a_carrying_over_that_fails_leaves_the_shop_where_it_was(
    folder: Path, kept_by_an_older_one: TableDigests, caplog: pytest.LogCaptureFixture
) -> None:
    def fails(_old: str, _new: str) -> None:
        raise BackupError("the disk is full")

    with running_cluster(folder, fails) as url:
        assert backup.different(held(url), kept_by_an_older_one) == []
    assert (folder / "postgres" / "by-an-older-one").exists()
    assert "keeps the shop still: the disk is full" in caplog.text
