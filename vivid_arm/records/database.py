"""Engine, sessions and migrations."""

from datetime import UTC, datetime
from pathlib import Path
from select import POLLIN, poll
from typing import Any
from uuid import UUID

from alembic import command
from alembic.config import Config
from alembic.script import ScriptDirectory
from psycopg import DatabaseError, DataError, OperationalError
from psycopg.abc import Buffer
from psycopg.adapt import Loader
from psycopg.types.datetime import TimestamptzLoader
from pydantic_core import from_json
from sqlalchemy import Connection, Dialect, Engine, create_engine, event, func, select, text
from sqlalchemy.exc import DBAPIError, DisconnectionError
from sqlalchemy.orm import Session, sessionmaker

from vivid_arm.core.words import Saying, say

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
    "53100": Saying("the disk is full"),
    "25006": Saying("the database is read-only"),
    "58030": Saying("the disk gives errors"),
}
_END_OF_TIME = datetime(9999, 1, 1, tzinfo=UTC)


def connect(url: str) -> Engine:
    """An engine for a database URL; nobody waits long for a connection, a place or an answer."""
    engine = create_engine(
        url,
        pool_size=12,
        pool_use_lifo=True,
        max_overflow=3,
        pool_timeout=PATIENCE_S,
        json_deserializer=from_json,
        connect_args={
            "connect_timeout": PATIENCE_S,
            "options": f"-c statement_timeout={PATIENCE_S}s",
        },
    )
    event.listen(engine, "connect", _read_every_time)
    event.listen(engine, "checkout", _leave_what_has_ended)
    _through_a_pooler_too(engine)
    return engine


def _through_a_pooler_too(engine: Engine) -> None:
    """A pooler that lends a connection for one transaction takes no settings with it.

    What it refuses is said again in each transaction, and nothing is prepared beforehand.
    """
    pooled = False

    def connect_as_it_can(
        dialect: Dialect, _: Any, args: tuple[Any, ...], settings: dict[str, Any]
    ) -> Any:
        nonlocal pooled
        if not pooled:
            try:
                return dialect.connect(*args, **settings)
            except OperationalError as error:
                if "startup parameter" not in str(error):
                    raise
                pooled = True
        plain = {k: v for k, v in settings.items() if k != "options"}
        return dialect.connect(*args, **plain, prepare_threshold=None)

    def say_patience(connection: Connection) -> None:
        if pooled:
            connection.exec_driver_sql(f"SET LOCAL statement_timeout = '{PATIENCE_S}s'")

    event.listen(engine, "do_connect", connect_as_it_can)
    event.listen(engine, "begin", say_patience)


class _EveryTime(Loader):
    """Times as they are kept; one beyond the calendar is read as its end, not as an error."""

    def load(self, data: Buffer) -> datetime:
        try:
            return datetime.fromisoformat(bytes(data).decode())
        except ValueError:
            return self._as_written(data)

    def _as_written(self, data: Buffer) -> datetime:
        """One that is written another way than usual."""
        try:
            return TimestamptzLoader(self.oid, self.connection).load(data)
        except DataError:
            return _END_OF_TIME


def _read_every_time(connection: Any, _: Any) -> None:
    connection.adapters.register_loader("timestamptz", _EveryTime)


def _leave_what_has_ended(connection: Any, *_: Any) -> None:
    """A server that has ended a connection has said so there: nobody need be asked each time."""
    try:
        said = poll()
        said.register(connection, POLLIN)
        if said.poll(0):
            connection.execute("SELECT 1")
            connection.rollback()
    except DatabaseError as error:
        raise DisconnectionError from error


def reading_sessions(engine: Engine) -> sessionmaker[Session]:
    """A factory of sessions that only read, each statement by itself: nothing begins or ends."""
    return sessions(engine.execution_options(isolation_level="AUTOCOMMIT"))


def sessions(engine: Engine, by: str = "", page: str = "") -> sessionmaker[Session]:
    """A factory of sessions whose objects stay readable after the commit.

    ``by`` is who writes: the database keeps it beside what was changed. ``page`` is the one that
    asks for it: the others are told.
    """
    made = sessionmaker(engine, expire_on_commit=False)
    if by or page:
        says = select(
            func.set_config("vivid_arm.by", by, True),
            func.set_config("vivid_arm.page", page, True),
        )
        event.listen(made, "after_begin", lambda _s, _t, connection: connection.execute(says))
    return made


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
    known = _NO_WRITING.get(str(state))
    return None if known is None else say(known)


def migrate(engine: Engine) -> None:
    """Bring the database to the newest migration. Safe to repeat."""
    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS))
    with engine.begin() as connection:
        connection.execute(text("SET LOCAL statement_timeout = 0"))
        # Of several programs that start on one database, one migrates; the others find it done.
        connection.execute(text("SELECT pg_advisory_xact_lock(hashtext('migration'))"))
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


def tidy(engine: Engine) -> None:
    """Count and clear up the tables after a large write; the server would a minute later."""
    with engine.execution_options(isolation_level="AUTOCOMMIT").connect() as connection:
        connection.execute(text("SET statement_timeout = 0"))
        connection.execute(text("VACUUM (ANALYZE)"))
        connection.invalidate()


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
