"""A copy of the database to read from, as far as it has what the page that asks has seen.

Where a write ends in the log of the database is its position there (an LSN, PostgreSQL 15,
"Write-Ahead Logging"). A page keeps the furthest one it was told, and what it asks next is read
from the replica only where the replica has come that far.
"""

import logging
import re
from time import monotonic

from sqlalchemy import Engine, text
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from vivid_arm.records.database import connect, sessions

_POSITION = re.compile(r"[0-9A-F]{1,8}/[0-9A-F]{1,8}")
_LEFT_ALONE_S = 2.0
_HAS = text("SELECT pg_is_in_recovery() AND pg_last_wal_replay_lsn() >= CAST(:seen AS pg_lsn)")
WRITTEN = "SELECT CAST(pg_current_wal_lsn() AS text)"
_log = logging.getLogger(__name__)


class Replica:
    """Sessions that read from a replica; none while it is away or behind."""

    def __init__(self, url: str) -> None:
        self.engine = connect(url)
        self._sessions = sessions(self.engine)
        self._alone_until = 0.0

    def session(self, seen: str) -> Session | None:
        """A session that shows at least what was written up to ``seen``; None where it cannot.

        One that is away is left alone for two seconds.
        """
        if not _POSITION.fullmatch(seen) or monotonic() < self._alone_until:
            return None
        session = self._sessions()
        try:
            if session.scalar(_HAS, {"seen": seen}):
                return session
        except SQLAlchemyError as error:
            self._alone_until = monotonic() + _LEFT_ALONE_S
            _log.warning("The replica is not read from: %s", error)
        session.close()
        return None


def written(engine: Engine) -> str:
    """How far the database has written. Raises OperationalError."""
    with engine.connect() as connection:
        return str(connection.scalar(text(WRITTEN)))
