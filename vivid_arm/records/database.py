"""Engine, sessions and migrations."""

from pathlib import Path

from alembic import command
from alembic.config import Config
from sqlalchemy import Engine, create_engine, text
from sqlalchemy.orm import Session, sessionmaker

_MIGRATIONS = Path(__file__).parent / "migrations"


def connect(url: str) -> Engine:
    """An engine for a database URL; every statement is cut off after 10 seconds."""
    return create_engine(
        url,
        pool_pre_ping=True,
        connect_args={"connect_timeout": 5, "options": "-c statement_timeout=10000"},
    )


def sessions(engine: Engine) -> sessionmaker[Session]:
    """A factory of sessions whose objects stay readable after the commit."""
    return sessionmaker(engine, expire_on_commit=False)


def migrate(engine: Engine) -> None:
    """Bring the database to the newest migration. Safe to repeat."""
    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS))
    with engine.begin() as connection:
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
