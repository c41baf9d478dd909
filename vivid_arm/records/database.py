"""Engine, sessions and migrations."""

from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from uuid import UUID

from alembic import command
from alembic.config import Config
from alembic.script import ScriptDirectory
from psycopg import DataError
from psycopg.abc import Buffer
from psycopg.types.datetime import TimestamptzLoader
from pydantic_core import from_json
from sqlalchemy import Connection, Engine, create_engine, event, func, select, text
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session, sessionmaker

_MIGRATIONS = Path(__file__).parent / "migrations"
PATIENCE_S = 3
_BEAT = (
    "INSERT INTO pulse VALUES (1, clock_timestamp())"
    " ON CONFLICT (id) DO UPDATE SET at = excluded.at"
)
_ROOM = (
    "CREATE TEMP TABLE room ON COMMIT DROP AS"
    " SELECT repeat(md5(n::text), 30) AS taken FROM generate_series(1, 500) n"
)
_NO_WRITING = {
    "53100": "the disk is full",
    "25006": "the database is read-only",
    "58030": "the disk gives errors",
}
_END_OF_TIME = datetime(9999, 1, 1, tzinfo=UTC)


def connect(url: str) -> Engine:
    """An engine for a database URL; nobody waits long for a connection, a place or an answer."""
    engine = create_engine(
        url,
        pool_pre_ping=True,
        pool_size=12,
        max_overflow=3,
        pool_timeout=PATIENCE_S,
        json_deserializer=from_json,
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


def sessions(engine: Engine, by: str = "") -> sessionmaker[Session]:
    """A factory of sessions whose objects stay readable after the commit.

    ``by`` is who writes: the database keeps it beside what was changed.
    """
    made = sessionmaker(engine, expire_on_commit=False)
    if by:
        event.listen(made, "after_begin", lambda _s, _t, connection: _say_who(connection, by))
    return made


def _say_who(connection: Connection, by: str) -> None:
    connection.execute(select(func.set_config("vivid_arm.by", by, True)))


def can_write(engine: Engine, *, much: bool = False) -> str | None:
    """None when something can be written, else why not in a few words. Raises OperationalError.

    ``much``: whether there is room for more than what fits into pages that are there already.
    """
    try:
        with engine.begin() as connection:
            connection.execute(text(_BEAT))
            if much:
                connection.execute(text(_ROOM))
    except DBAPIError as error:
        return why_not_written(error)
    return None


def last_open(engine: Engine) -> datetime | None:
    """When something was last known to be written; None in a new shop."""
    with engine.connect() as connection:
        found: datetime | None = connection.scalar(text("SELECT max(at) FROM pulse"))
    return found


def shop_id(session: Session) -> UUID:
    """What tells this shop from every other."""
    session.execute(text(_BEAT))
    found: UUID = session.scalars(text("SELECT shop FROM pulse")).one()
    return found


def why_not_written(error: DBAPIError) -> str | None:
    """Why the database writes nothing, in a few words; None when that is not the trouble.

    SQLSTATE classes of PostgreSQL: 53100 disk full, 25006 read-only, 58030 input or output.
    """
    state = getattr(error.orig, "sqlstate", None)
    return _NO_WRITING.get(str(state))


def migrate(engine: Engine) -> None:
    """Bring the database to the newest migration. Safe to repeat."""
    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS))
    with engine.begin() as connection:
        connection.execute(text("SET LOCAL statement_timeout = 0"))
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


def revisions() -> set[str]:
    """Every migration this program knows."""
    return {script.revision for script in _scripts().walk_revisions()}


def head() -> str:
    """The newest migration."""
    return str(_scripts().get_current_head())


def _scripts() -> ScriptDirectory:
    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS))
    return ScriptDirectory.from_config(config)


def revision(engine: Engine) -> str | None:
    """The migration the database is at, or None before the first. Raises OperationalError."""
    with engine.connect() as connection:
        known = connection.scalar(text("SELECT to_regclass('alembic_version')"))
        if known is None:
            return None
        found = connection.scalar(text("SELECT version_num FROM alembic_version"))
        return None if found is None else str(found)
