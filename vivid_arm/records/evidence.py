"""The chain of a build's lines: read, and proved against what is kept.

Every reading, finding, note, signature and frozen order is linked by the database itself when it
comes in (migration 0008). A line changed, taken out or slipped in by whatever way is found.
"""

from dataclasses import dataclass
from uuid import UUID

from sqlalchemy import Connection, select, text
from sqlalchemy.orm import Session

from vivid_arm.records.tables import Link

_BROKEN = """
SELECT build_id, kind, row_id FROM (
  SELECT *, lag(digest) OVER w AS before, row_number() OVER w AS place
  FROM evidence WINDOW w AS (PARTITION BY build_id ORDER BY number)
) AS linked
WHERE number <> place OR digest <>
  encode(sha256(convert_to(coalesce(before, '') || content_digest, 'UTF8')), 'hex')
"""
_DIFFERENT = """
SELECT e.build_id, '{kind}', coalesce(e.row_id, r.id::text),
  CASE WHEN r.id IS NULL THEN 'is gone' WHEN e.id IS NULL THEN 'is in no chain'
    ELSE 'was changed' END
FROM {table} r FULL JOIN (
  SELECT DISTINCT ON (row_id) * FROM evidence WHERE kind = '{kind}' ORDER BY row_id, number DESC
) e ON e.row_id = r.id::text
WHERE {asked} AND e.content_digest IS DISTINCT FROM {kind}_digest(r)
"""
_FROZEN = "coalesce(r.state, '') NOT IN ('draft', 'withdrawn')"
_TABLES = (
    ("reading", "readings", "true"),
    ("finding", "findings", "true"),
    ("signature", "signatures", "true"),
    ("note", "notes", "true"),
    ("order", "orders", _FROZEN),
)


@dataclass(frozen=True)
class Flaw:
    """A line that is not what it was when it came in."""

    build_id: UUID | None
    kind: str
    row_id: str
    words: str

    def __str__(self) -> str:
        return f"{self.kind} {self.row_id} of build {self.build_id or 'unknown'} {self.words}"


@dataclass(frozen=True)
class LastLink:
    """How many lines a build's chain has, and the digest that stands for all of them."""

    lines: int
    digest: str


def last_link(session: Session, build_id: UUID) -> LastLink:
    """The end of a build's chain."""
    last = session.execute(
        select(Link.number, Link.digest)
        .where(Link.build_id == build_id)
        .order_by(Link.number.desc())
        .limit(1)
    ).one_or_none()
    return LastLink(0, "") if last is None else LastLink(last.number, last.digest)


def flaws(connection: Connection) -> list[Flaw]:
    """Every line of the shop that its chain does not bear out."""
    connection.execute(text("SET LOCAL timezone = 'UTC'"))
    found = [
        Flaw(build, kind, row, "does not follow from the link before it")
        for build, kind, row in connection.execute(text(_BROKEN))
    ]
    for kind, table, asked in _TABLES:
        query = _DIFFERENT.format(kind=kind, table=table, asked=asked)
        found += [Flaw(*row) for row in connection.execute(text(query))]
    return found
