"""A real PostgreSQL for the whole run, an emptied database for each test."""

import shutil
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from threading import Thread

import pytest
import uvicorn
from fastapi import FastAPI
from sqlalchemy import Engine, text
from sqlalchemy.orm import Session

from tests.nobody import NOBODYS
from tests.standins import own_port
from vivid_arm.api import spoken
from vivid_arm.api.app import end_streams, make_app
from vivid_arm.records import database
from vivid_arm.records.cluster import running_cluster
from vivid_arm.records.roles import working_url
from vivid_arm.records.tables import Base

TABLES = ", ".join(Base.metadata.tables)


@contextmanager
def scratch_folder() -> Iterator[Path]:
    """A folder that user postgres can enter, in memory where there is room for it."""
    memory = Path("/dev/shm")
    roomy = memory.is_dir() and shutil.disk_usage(memory).free > 2e9
    parent = memory if roomy else Path("/var/tmp")
    with tempfile.TemporaryDirectory(prefix="vivid-arm-test-", dir=parent) as name:
        Path(name).chmod(0o755)
        yield Path(name)


@pytest.fixture
def scratch() -> Iterator[Path]:
    with scratch_folder() as folder:
        yield folder


@pytest.fixture(scope="session")
def cluster_url() -> Iterator[str]:
    """The URL of a private cluster that lives as long as the test run."""
    with scratch_folder() as folder, running_cluster(folder / "data") as url:
        yield url


@pytest.fixture(scope="session")
def engine(cluster_url: str) -> Iterator[Engine]:
    """A migrated database."""
    engine = database.connect(cluster_url)
    database.migrate(engine)
    yield engine
    engine.dispose()


@pytest.fixture
def empty(engine: Engine) -> Engine:
    """The database with every table emptied."""
    with engine.begin() as connection:
        connection.execute(text(f"TRUNCATE {TABLES}"))
    return engine


@pytest.fixture
def session(empty: Engine) -> Iterator[Session]:
    with database.sessions(empty)() as session:
        yield session


@pytest.fixture(scope="session")
def working(engine: Engine) -> str:
    """The URL the application works with: it may add, and never change or empty the log."""
    return working_url(engine)


@pytest.fixture(scope="session")
def app(working: str) -> FastAPI:
    """The application on the test database, without supplier or gauges."""
    return make_app(working)


@pytest.fixture
def marked(monkeypatch: pytest.MonkeyPatch) -> None:
    """The server answers everybody in a language nobody speaks."""
    monkeypatch.setattr(spoken, "chosen", lambda *_: NOBODYS)


@pytest.fixture
def live(app: FastAPI, empty: Engine) -> Iterator[str]:
    """The application really served on loopback; its address."""
    port = own_port()
    config = uvicorn.Config(app, port=port, log_level="error", timeout_graceful_shutdown=1)
    server = uvicorn.Server(config)
    thread = Thread(target=server.run)
    thread.start()
    while not (server.started and app.state.happenings.hears):
        time.sleep(0.01)
    yield f"http://127.0.0.1:{port}"
    end_streams(app)
    server.should_exit = True
    thread.join()
