"""Engine, sessions and migrations."""

from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from psycopg import DataError
from psycopg.abc import Buffer
from psycopg.types.datetime import TimestamptzLoader
from sqlalchemy import Engine, create_engine, event, text
from sqlalchemy.orm import Session, sessionmaker

_MIGRATIONS = Path(__file__).parent / "migrations"
PATIENCE_S = 3
_END_OF_TIME = datetime(9999, 1, 1, tzinfo=UTC)


def connect(url: str) -> Engine:
    """An engine for a database URL; nobody waits long for a connection, a place or an answer."""
    engine = create_engine(
        url,
        pool_pre_ping=True,
        pool_timeout=PATIENCE_S,
        connect_args={
            "connect_timeout": PATIENCE_S,
            "options": f"-c statement_timeout={PATIENCE_S}s",
        },
    )
    event.listen(engine, "connect", _read_every_time)
    return engine


class _EveryTime(TimestamptzLoader):
    """Times as they are kept; one beyond the calendar is read as its end, not as an error."""

    def load(self, data: Buffer) -> datetime:
        try:
            return super().load(data)
        except DataError:
            return _END_OF_TIME


def _read_every_time(connection: Any, _: Any) -> None:
    connection.adapters.register_loader("timestamptz", _EveryTime)


def sessions(engine: Engine) -> sessionmaker[Session]:
    """A factory of sessions whose objects stay readable after the commit."""
    return sessionmaker(engine, expire_on_commit=False)


def migrate(engine: Engine) -> None:
    """Bring the database to the newest migration. Safe to repeat."""
    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS))
    with engine.begin() as connection:
        connection.execute(text("SET LOCAL statement_timeout = 0"))
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


def revision(engine: Engine) -> str | None:
    """The migration the database is at, or None before the first. Raises OperationalError."""
    with engine.connect() as connection:
        known = connection.scalar(text("SELECT to_regclass('alembic_version')"))
        if known is None:
            return None
        found = connection.scalar(text("SELECT version_num FROM alembic_version"))
        return None if found is None else str(found)
