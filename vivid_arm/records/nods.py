"""A builder's nod on what an apprentice measured, on a shop whose owner wants it so."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import cast
from uuid import UUID

from sqlalchemy import and_, exists, func, select, update
from sqlalchemy.dialects.postgresql import aggregate_order_by, insert
from sqlalchemy.orm import Session, aliased

from vivid_arm.core.engine.layout import ValveKind, valve_name
from vivid_arm.core.errors import InputError
from vivid_arm.core.words import say
from vivid_arm.records.database import shop_id
from vivid_arm.records.rows.kept import Conflict, touch
from vivid_arm.records.signed_in import signed_in
from vivid_arm.records.tables import Account, Build, Nod, Pulse, Reading, Valve

_MOST = 200


@dataclass(frozen=True)
class Waiting:
    """A valve that waits: who measured it, and the last line of its log, which a nod must know."""

    build_id: UUID
    build_name: str
    valve_id: UUID
    valve_name: str
    by: Sequence[str]
    reading_id: int


def wanted(session: Session) -> bool:
    """Whether an apprentice's valves wait for a nod."""
    return bool(session.scalar(select(Pulse.nods)))


def want(session: Session, *, nods: bool) -> None:
    """Let an apprentice's valves wait for a nod from now on, or not."""
    shop_id(session)
    session.execute(update(Pulse).values(nods=nods))


def waiting(session: Session, build_id: UUID | None = None) -> list[Waiting]:
    """Valves that an apprentice has measured since a builder last nodded; none where not wanted.

    Of one build, or of all on the board, the latest first. What was struck out waits for nobody.
    """
    if not wanted(session):
        return []
    later = aliased(Reading)
    own = and_(
        Reading.kind != "void",
        Reading.taken_by.in_(select(Account.name).where(Account.role == "apprentice")),
        ~exists().where(later.replaces_id == Reading.id),
    )
    nodded = select(func.coalesce(func.max(Nod.reading_id), 0)).where(Nod.valve_id == Valve.id)
    last = func.max(Reading.id)
    by = func.array_agg(aggregate_order_by(Reading.taken_by.distinct(), Reading.taken_by))
    rows = session.execute(
        select(Build, Valve, by.filter(own), last)
        .join(Valve, Valve.build_id == Build.id)
        .join(Reading, Reading.valve_id == Valve.id)
        .where(Build.id == build_id if build_id else Build.removed_at.is_(None))
        .where(Build.binned_at.is_(None), Build.exercise_id.is_(None))
        .group_by(Build.id, Valve.id)
        .having(func.max(Reading.id).filter(own) > nodded.correlate(Valve).scalar_subquery())
        .order_by(last.desc())
        .limit(_MOST)
    )
    return [
        Waiting(b.id, b.name, v.id, valve_name(v.cylinder, cast(ValveKind, v.kind)), names, line)
        for b, v, names, line in rows
    ]


def nod(session: Session, valve: Valve, key: UUID, reading_id: int) -> None:
    """Keep that a builder has looked at a valve's log down to a line. Safe to repeat.

    Raises Conflict when the log has gone on since.
    """
    last = session.scalar(select(func.max(Reading.id)).where(Reading.valve_id == valve.id))
    kept = session.scalar(select(Nod.reading_id).where(Nod.key == key))
    if kept is None and last != reading_id:
        raise Conflict(say("This valve's log has gone on. Look at it again."), {}, {})
    line = insert(Nod).values(
        key=key, valve_id=valve.id, reading_id=reading_id, by=signed_in.get()
    )  # fmt: skip
    session.execute(line.on_conflict_do_nothing())
    touch(session, valve.build_id)


def words_of(session: Session, build_id: UUID) -> str:
    """What a build lacks a nod on, in a sentence's middle; empty for nothing."""
    found = sorted(waiting(session, build_id), key=lambda w: w.valve_name)
    if not found:
        return ""
    names = ", ".join(w.valve_name for w in found[:4])
    more = say(" and {found} more", found=len(found) - 4) if len(found) > 4 else ""
    by = ", ".join(sorted({name for w in found for name in w.by}))
    return say(
        "No builder's nod yet on {names}{more}, measured by {by}", names=names, more=more, by=by
    )


def refuse_unnodded(session: Session, build_id: UUID) -> None:
    """Raises InputError while a valve of a build waits for a nod."""
    words = words_of(session, build_id)
    if words:
        raise InputError(
            "order", words, expected=say("a builder who has looked at the readings"),
            remedy=say("Look at the log at the zero-lash station, and nod"), code="no_nod",
        )  # fmt: skip
