"""Several machines on one database: a replica that lags, a pooler, a connection over TLS."""

import contextlib
import os
import shutil
import signal
import subprocess
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from threading import Thread
from typing import Any
from uuid import uuid4

import pytest
from sqlalchemy import Engine, create_engine, make_url, text
from sqlalchemy.exc import DBAPIError

from benchmarks.serving import streaming_replica
from tests.api.test_live import a_valve, feel
from tests.builders import web
from tests.conftest import scratch_folder
from tests.hearing import hearing
from tests.standins import serving
from vivid_arm.api.app import make_app
from vivid_arm.demo import shop
from vivid_arm.records import database
from vivid_arm.records.cluster import free_port, owned_by_the_server, running_cluster
from vivid_arm.records.replica import Replica, written
from vivid_arm.records.roles import working_url
from vivid_arm.tls import own_certificate

pytestmark = pytest.mark.slow
PATIENCE_S = 30


def until(right: Callable[[], Any]) -> Any:
    """Wait for something to become true; the last word when it does not."""
    end = time.monotonic() + PATIENCE_S
    while not (found := right()) and time.monotonic() < end:
        time.sleep(0.05)
    return found


@pytest.fixture(scope="module")
def primary() -> Iterator[Engine]:
    """A cluster of its own with the demo shop."""
    with scratch_folder() as folder, running_cluster(folder / "data") as url:
        engine = database.connect(url)
        database.migrate(engine)
        with database.sessions(engine).begin() as session:
            shop.load(session)
        yield engine
        engine.dispose()


def plain(engine: Engine) -> str:
    return engine.url.render_as_string(hide_password=False)


def at(url: str, port: int | str) -> str:
    """The same database at another port."""
    return make_url(url).set(port=int(port)).render_as_string(hide_password=False)


@pytest.fixture(scope="module")
def replica(primary: Engine) -> Iterator[str]:
    """A streaming replica by PostgreSQL's own means; its owner's URL."""
    with scratch_folder() as folder, streaming_replica(plain(primary), folder / "data") as url:
        yield url


@pytest.fixture
def both(primary: Engine, replica: str) -> Iterator[tuple[str, Engine]]:
    """The application on both; its address, and the replica's engine."""
    working = working_url(primary)
    copy = create_engine(replica, isolation_level="AUTOCOMMIT")
    app = make_app(working, read_url=at(working, make_url(replica).port or 0))
    with serving(app) as url:
        yield url, copy
    with copy.connect() as connection:
        connection.execute(text("SELECT pg_wal_replay_resume()"))
    copy.dispose()


def test_what_is_only_read_is_read_from_the_replica(both: tuple[str, Engine]) -> None:
    url, copy = both
    where = a_valve(url)
    kept = feel(where)
    position = kept.headers["x-written"]
    station = where.removesuffix("/trials")

    def read_there() -> bool:
        found = web.get(station, headers={"x-seen": position})
        assert found.json()["log"] == kept.json()["log"]
        return connections(copy) > 0

    assert until(read_there)


def connections(copy: Engine) -> int:
    with copy.connect() as connection:
        query = "SELECT count(*) FROM pg_stat_activity WHERE usename = 'vivid_arm_working'"
        return int(connection.scalar(text(query)) or 0)


def test_a_page_never_reads_less_than_it_has_seen(both: tuple[str, Engine]) -> None:
    url, copy = both
    where = a_valve(url)
    station = where.removesuffix("/trials")
    before = len(web.get(station).json()["log"])
    with copy.connect() as connection:
        connection.execute(text("SELECT pg_wal_replay_pause()"))
        state = text("SELECT pg_get_wal_replay_pause_state()")
        assert until(lambda: connection.scalar(state) == "paused")
    with hearing(url) as ear:
        position = feel(where).headers["x-written"]
        told = ear.until(lambda t: t["what"] == "build")[-1]
        for seen in (position, told["written"]):
            found = web.get(station, headers={"x-seen": seen}).json()["log"]
            assert len(found) == before + 1
    # A page that has seen nothing of it may be shown what was; one that says nothing is not.
    assert len(web.get(station, headers={"x-seen": "0/1"}).json()["log"]) == before
    assert len(web.get(station).json()["log"]) == before + 1
    for odd in ("", "FFFFFFFF/FFFFFFFF", "0/1'; --", "123456789/0"):
        assert len(web.get(station, headers={"x-seen": odd}).json()["log"]) == before + 1


def test_a_replica_that_is_away_is_done_without(primary: Engine) -> None:
    gone = Replica(at(plain(primary), free_port()))
    assert gone.session(written(primary)) is None
    working = working_url(primary)
    with serving(make_app(working, read_url=at(working, free_port()))) as url:
        where = a_valve(url)
        kept = feel(where)
        seen = {"x-seen": kept.headers["x-written"]}
        assert web.get(where.removesuffix("/trials"), headers=seen).json()["log"]
    # One that was made the main database is not read from: it goes its own way.
    assert Replica(plain(primary)).session("0/1") is None


def test_programs_that_start_together_migrate_once(scratch: Path) -> None:
    with running_cluster(scratch / "data") as url:
        engines = [database.connect(url) for _ in range(3)]
        faults: list[Exception] = []

        def start(engine: Engine) -> None:
            try:
                database.migrate(engine)
            except Exception as error:
                faults.append(error)

        threads = [Thread(target=start, args=(e,)) for e in engines]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        assert faults == []
        assert database.revision(engines[0]) == database.head()
        for engine in engines:
            engine.dispose()


@pytest.fixture
def pooler(primary: Engine) -> Iterator[str]:
    """Debian's pgbouncer, lending a connection for one transaction; the owner's URL through it."""
    port, url = free_port(), make_url(plain(primary))
    with scratch_folder() as folder:
        (folder / "users").write_text(f'"{url.username}" "{url.password}"\n')
        (folder / "conf").write_text(
            f"[databases]\n* = host=127.0.0.1 port={url.port}\n[pgbouncer]\n"
            f"listen_addr=127.0.0.1\nlisten_port={port}\nauth_type=trust\n"
            f"auth_file={folder}/users\npool_mode=transaction\ndefault_pool_size=8\n"
        )
        owned_by_the_server(folder)
        command = [shutil.which("pgbouncer") or "/usr/sbin/pgbouncer", "-q", str(folder / "conf")]
        if os.geteuid() == 0:
            command = ["runuser", "-u", "postgres", "--", *command]
        process = subprocess.Popen(command, stderr=subprocess.DEVNULL)
        through = at(plain(primary), port)

        def up() -> bool:
            with contextlib.suppress(DBAPIError):
                engine = database.connect(through)
                with engine.connect() as connection:
                    return bool(connection.scalar(text("SELECT 1")))
            return False

        try:
            assert until(up)
            yield through
        finally:
            process.send_signal(signal.SIGTERM)
            process.wait(timeout=PATIENCE_S)


def test_through_a_pooler_all_is_as_without(primary: Engine, pooler: str) -> None:
    with serving(make_app(pooler, events_url=plain(primary))) as url, hearing(url) as ear:
        where = a_valve(url)
        for _ in range(12):
            feel(where, "9", **{"x-by": "Tess"})
        assert ear.until(lambda t: t["what"] == "build")
        change = web.get(where.split("/valves")[0]).json()
        body = {"version": change["version"], "name": f"Renamed {uuid4()}"}
        web.patch(where.split("/valves")[0], json=body, headers={"x-by": "Tess"}).raise_for_status()
        events = web.get(where.split("/valves")[0] + "/history").json()["events"]
        assert events[0]["by"] == "Tess"


def test_through_a_pooler_nobody_waits_longer(pooler: str) -> None:
    engine = database.connect(pooler)
    with pytest.raises(DBAPIError, match="statement timeout"), engine.begin() as connection:
        connection.execute(text("SELECT pg_sleep(20)"))
    with engine.begin() as connection:
        assert connection.scalar(text("SHOW statement_timeout")) == "3s"
    engine.dispose()


def test_what_a_pooler_swallows_is_asked_for_again(pooler: str) -> None:
    """Without a way around it no notice comes through: all is told every two seconds."""
    with serving(make_app(pooler)) as url, hearing(url) as ear:
        ear.until(lambda t: t["what"] == "all")
        ear.until(lambda t: t["what"] == "all")


def test_the_database_is_reached_over_tls(scratch: Path) -> None:
    own = own_certificate(scratch / "certificate", ["127.0.0.1", "localhost"])
    with running_cluster(scratch / "data") as url:
        for file, name in ((own.cert, "server.crt"), (own.key, "server.key")):
            place = scratch / "data" / "postgres" / name
            shutil.copy(file, place)
            place.chmod(0o600)
            owned_by_the_server(place)
        with create_engine(url, isolation_level="AUTOCOMMIT").connect() as connection:
            connection.execute(text("ALTER SYSTEM SET ssl = on"))
            connection.execute(text("SELECT pg_reload_conf()"))
        safe = f"{url}?sslmode=verify-full&sslrootcert={own.cert}"

        def reached() -> bool:
            with contextlib.suppress(DBAPIError), database.connect(safe).connect() as connection:
                query = "SELECT ssl FROM pg_stat_ssl WHERE pid = pg_backend_pid()"
                return bool(connection.scalar(text(query)))
            return False

        assert until(reached)
        engine = database.connect(safe)
        database.migrate(engine)
        with serving(make_app(safe)) as here, hearing(here) as ear:
            with engine.begin() as connection:
                connection.execute(text("SELECT tell('shop -')"))
            ear.until(lambda t: t["what"] == "shop")
        engine.dispose()
