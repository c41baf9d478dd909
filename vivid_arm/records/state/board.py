"""The board's summaries, kept beside the builds so that a long board opens at once.

A summary carries the fingerprint of everything it was computed from. A stale one is never
shown; it is computed anew and kept. A build that cannot be computed is said to be so, and
takes no other build with it.
"""

import logging
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from sqlalchemy import func, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from vivid_arm.records.fingerprint import Fingerprint, fingerprints
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.load import mark_of, remembered, unmade_states
from vivid_arm.records.tables import Build, Summary

Body = dict[str, Any]
Summarise = Callable[[BuildState], Body]
Fallback = Callable[[Build, Exception], Body]
_log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Page:
    """Some builds, the latest touched first, how many there are in all, and how many put away."""

    total: int
    removed: int
    bodies: list[Body]


def board_page(
    session: Session,
    search: str,
    offset: int,
    limit: int,
    summarise: Summarise,
    fallback: Fallback,
    *,
    removed: bool = False,
) -> Page:
    """Builds whose name holds ``search``, with what ``summarise`` gives for each.

    ``fallback`` stands in for a build that cannot be computed. With ``removed`` those put away.
    """
    pattern = "%" + search.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_") + "%"
    away = Build.removed_at.is_not(None)
    real = Build.exercise_id.is_(None)
    named = Build.name.ilike(pattern) & (away if removed else ~away) & real
    put_away = session.scalar(select(func.count()).select_from(Build).where(away & real)) or 0
    total = session.scalar(select(func.count()).select_from(Build).where(named)) or 0
    rows = session.execute(
        select(Build.id, Summary.stamp, Summary.body)
        .outerjoin(Summary, Summary.build_id == Build.id)
        .where(named)
        .order_by(Build.updated_at.desc(), Build.id)
        .offset(offset)
        .limit(limit)
    ).all()
    marks = fingerprints(session, [row.id for row in rows])
    kept: dict[UUID, Body] = {r.id: r.body for r in rows if r.stamp == marks[r.id].whole}
    stale = {row.id: marks[row.id] for row in rows if row.id not in kept}
    kept |= _made_anew(session, stale, summarise, fallback)
    return Page(total, put_away, [kept[row.id] for row in rows])


def _made_anew(
    session: Session, stale: Mapping[UUID, Fingerprint], summarise: Summarise, fallback: Fallback
) -> dict[UUID, Body]:
    if not stale:
        return {}
    known = {id_: state for id_, mark in stale.items() if (state := remembered(id_, mark))}
    made = {id_: _summary(s.build, _of(s), summarise, fallback) for id_, s in known.items()}
    made |= {
        build.id: _summary(build, state, summarise, fallback)
        for build, state in unmade_states(session, [i for i in stale if i not in known])
    }
    _keep(session, {i: (stale[i].whole, body) for i, body in made.items()})
    return made


def keep_row(session: Session, state: BuildState, summarise: Summarise) -> None:
    """Keep the row of a build as a write has left it: the next board need not work it out."""
    mark = mark_of(state)
    if mark is not None:
        _keep(session, {state.build.id: (mark.whole, summarise(state))})


def _keep(session: Session, rows: Mapping[UUID, tuple[str, Body]]) -> None:
    line = insert(Summary).values(
        [{"build_id": i, "stamp": stamp, "body": body} for i, (stamp, body) in rows.items()]
    )
    line = line.on_conflict_do_update(
        index_elements=[Summary.build_id],
        set_={"stamp": line.excluded.stamp, "body": line.excluded.body},
    )
    session.execute(line)


def _of(state: BuildState) -> Callable[[], BuildState]:
    return lambda: state


def _summary(
    build: Build, state: Callable[[], BuildState], summarise: Summarise, fallback: Fallback
) -> Body:
    try:
        return summarise(state())
    except SQLAlchemyError:
        raise
    except Exception as error:
        _log.exception("Build %s cannot be computed", build.id)
        return fallback(build, error)
