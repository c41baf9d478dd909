"""The board's summaries, kept beside the builds so that a long board opens at once.

A summary carries the fingerprint of everything it was computed from. A stale one is never
shown; it is computed anew and kept. A build that cannot be computed is said to be so, and
takes no other build with it.
"""

import logging
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass
from functools import cache, lru_cache
from math import inf
from time import monotonic
from typing import Any, Literal, TypeVarTuple, cast
from uuid import UUID

from sqlalchemy import (
    ColumnElement,
    Engine,
    Integer,
    Select,
    String,
    Table,
    Uuid,
    and_,
    any_,
    bindparam,
    case,
    func,
    or_,
    select,
    tuple_,
)
from sqlalchemy.dialects.postgresql import ARRAY, insert
from sqlalchemy.exc import SQLAlchemyError
from sqlalchemy.orm import Session

from vivid_arm.core.engine.layout import LAYOUTS, engine_words
from vivid_arm.core.said.next_step import STATIONS
from vivid_arm.core.words import language
from vivid_arm.records.fingerprint import wholes
from vivid_arm.records.rows.kept import plain_rows
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.lesson import MOST_ENGINES, lesson_of
from vivid_arm.records.state.load import mark_of, remembered, unmade_states
from vivid_arm.records.tables import Build, Note, Reading, Summary, Valve

Body = dict[str, Any]
Columns = TypeVarTuple("Columns")
Summarise = Callable[[BuildState], Body]
Fallback = Callable[[Build, Exception | None], Body]
"""The row of a build without figures: those that failed, or none where it is not yet its turn."""
_log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Page:
    """Some builds in the order asked for, and how many there are in all and on each shelf.

    ``twins``: names, in small letters, that more than one build of this shelf has.
    """

    total: int
    archived: int
    binned: int
    bodies: list[Body]
    twins: Collection[str]


Shelf = Literal["board", "archive", "bin"]
Sort = Literal["changed", "name", "waits"]


@dataclass(frozen=True)
class Sought:
    """Which builds: whose name, engine or notes hold ``search``; what they wait for; whose.

    ``waits`` is the station of the next step as it was last worked out, ``person`` someone who
    has read on it.
    """

    search: str = ""
    shelf: Shelf = "board"
    waits: str = ""
    person: str = ""
    sort: Sort = "changed"


def board_page(
    session: Session,
    wanted: Sought,
    offset: int,
    limit: int,
    summarise: Summarise,
    fallback: Fallback,
    within_s: float = inf,
) -> Page:
    """Some of the builds that are wanted, with what ``summarise`` gives for each.

    ``fallback`` stands in for a build that cannot be computed, and for those that are left when
    ``within_s`` seconds of computing are over.
    """
    counts, some = _questions(wanted, language.get().key)
    archived, binned, total = plain_rows(session, counts, {}).one()
    asked = {"offset": offset, "limit": limit}
    ids = plain_rows(session, some, asked).scalars().all()
    marks = wholes(session, ids)
    kept = _kept_rows(session, marks)
    stale = {i: marks[i] for i in ids if i not in kept}
    kept |= _made_anew(session, stale, summarise, fallback, monotonic() + within_s)
    bodies = [kept[i] for i in ids]
    return Page(total, archived, binned, bodies, _twins(session, wanted.shelf, bodies))


@lru_cache(64)
def _questions(wanted: Sought, _: str) -> tuple[Select[int, int, int], Select[UUID]]:
    """How many there are in the archive, in the bin and of what is wanted; and some of these.

    Put together once for a language: a board asks again and again.
    """
    asked, count, real = _asked(wanted), func.count(), Build.exercise_id.is_(None)
    counts = select(
        count.filter(_on("archive")), count.filter(_on("bin")), count.filter(asked)
    ).select_from(Build)
    some = (
        _beside_rows(select(Build.id), wanted)
        .where(asked, real)
        .order_by(*_ORDERS[wanted.sort], Build.updated_at.desc(), Build.id)
        .offset(bindparam("offset", type_=Integer()))
        .limit(bindparam("limit", type_=Integer()))
    )
    return _beside_rows(counts, wanted).where(real), some


def _of_build() -> ColumnElement[bool]:
    return and_(Summary.build_id == Build.id, Summary.language == language.get().key)


def _beside_rows(query: Select[*Columns], wanted: Sought) -> Select[*Columns]:
    """A query of builds with their rows, where what is wanted asks for what stands in them."""
    if wanted.waits or wanted.sort == "waits":
        return query.outerjoin(Summary, _of_build())
    return query


def _kept_rows(session: Session, marks: Mapping[UUID, str]) -> dict[UUID, Body]:
    """The rows that are kept, of some builds, and stand on their marks."""
    asked = {"ids": list(marks), "spoken": language.get().key}
    rows = plain_rows(session, _KEPT, asked)
    return {i: body for i, stamp, body in rows if stamp == marks[i]}


def _twins(session: Session, shelf: Shelf, bodies: Sequence[Body]) -> set[str]:
    asked = {"names": list({b["name"].lower() for b in bodies})}
    return set(plain_rows(session, _same_names(shelf), asked).scalars())


@cache
def _same_names(shelf: Shelf) -> Select[str]:
    """Which of some names, in small letters, more than one build of a shelf has."""
    name = func.lower(Build.name)
    return (
        select(name)
        .where(name == any_(bindparam("names", type_=ARRAY(String()))), _on(shelf))
        .where(Build.exercise_id.is_(None))
        .group_by(name)
        .having(func.count() > 1)
    )


_KEPT = select(Summary.build_id, Summary.stamp, Summary.body).where(
    Summary.build_id == any_(bindparam("ids", type_=ARRAY(Uuid()))),
    Summary.language == bindparam("spoken"),
)
_STATION = Summary.body["next_step"]["station"].astext
_ORDERS: dict[Sort, tuple[ColumnElement[Any], ...]] = {
    "changed": (),
    "name": (func.lower(Build.name),),
    "waits": (case({s: i for i, s in enumerate(STATIONS)}, value=_STATION, else_=len(STATIONS)),),
}


def _on(shelf: Shelf) -> ColumnElement[bool]:
    """Builds of a shelf: what lies in the bin is in no archive."""
    binned, archived = Build.binned_at.is_not(None), Build.removed_at.is_not(None)
    return {"board": ~binned & ~archived, "archive": ~binned & archived, "bin": binned}[shelf]


def _asked(wanted: Sought) -> ColumnElement[bool]:
    found = _on(wanted.shelf)
    if wanted.search:
        found &= _holds(wanted.search)
    if wanted.waits:
        found &= _STATION.in_([wanted.waits])
    if wanted.person:
        by = select(Valve.build_id).join(Reading, Reading.valve_id == Valve.id)
        found &= Build.id.in_(by.where(Reading.taken_by == wanted.person))
    return found


def _holds(search: str) -> ColumnElement[bool]:
    """Builds whose name, engine or notes hold some words."""
    plain = search.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")
    pattern = f"%{plain}%"
    engines = [
        (layout, n)
        for layout in LAYOUTS
        for n in LAYOUTS[layout][1]
        if search.lower() in engine_words(layout, n).lower()
    ]
    noted = select(Note.build_id).where(Note.body.ilike(pattern))
    return or_(
        Build.name.ilike(pattern),
        Build.id.in_(noted),
        tuple_(Build.layout, Build.cylinders).in_(engines),
    )


def _made_anew(
    session: Session,
    stale: Mapping[UUID, str],
    summarise: Summarise,
    fallback: Fallback,
    until: float = inf,
) -> dict[UUID, Body]:
    if not stale:
        return {}
    known = {id_: state for id_, mark in stale.items() if (state := remembered(id_, mark))}
    made = {id_: _summary(s.build, _of(s), summarise, fallback) for id_, s in known.items()}
    later: dict[UUID, Body] = {}
    for build, unmade in unmade_states(session, [i for i in stale if i not in known]):
        if monotonic() < until:
            made[build.id] = _summary(build, unmade, summarise, fallback)
        else:
            later[build.id] = fallback(build, None)
    _keep(session, {i: (stale[i], *told) for i, told in made.items()})
    return later | {i: body for i, (body, _) in made.items()}


def work_out(session: Session, most: int, summarise: Summarise, fallback: Fallback) -> None:
    """Work out some of the builds that have changed since they told the shop, the latest first."""
    rows = session.execute(
        select(Build.id, Summary.stamp)
        .outerjoin(Summary, _of_build())
        .where(Build.exercise_id.is_(None), Build.binned_at.is_(None))
        .order_by(Build.updated_at.desc(), Build.id)
        .limit(MOST_ENGINES)
    ).all()
    marks = wholes(session, [row.id for row in rows])
    stale = [row.id for row in rows if row.stamp != marks[row.id]][:most]
    _made_anew(session, {i: marks[i] for i in stale}, summarise, fallback)


def all_worked_out(session: Session, most: int = 30) -> bool:
    """Whether the latest builds need not be worked out: after an update of the program all do."""
    rows = session.execute(
        select(Build.id, Summary.stamp)
        .outerjoin(Summary, _of_build())
        .where(_on("board"), Build.exercise_id.is_(None))
        .order_by(Build.updated_at.desc())
        .limit(most)
    ).all()
    marks = wholes(session, [row.id for row in rows])
    return all(row.stamp == marks[row.id] for row in rows)


def keep_row(engine: Engine, state: BuildState, summarise: Summarise) -> None:
    """Keep the row of a build as a write has left it: the next board need not work it out.

    No fault is raised: what is not kept, a board works out.
    """
    mark = mark_of(state)
    if mark is None:
        return
    try:
        told = _told(state, summarise)
        with Session(engine.execution_options(isolation_level="AUTOCOMMIT")) as session:
            _keep(session, {state.build.id: (mark.whole, *told)})
    except Exception as error:
        _log.warning("A row of the board was not kept: %s", error)


def _told(state: BuildState, summarise: Summarise) -> tuple[Body, Body]:
    return summarise(state), lesson_of(state).model_dump(mode="json")


_ROW = insert(cast(Table, Summary.__table__))
_KEEP = _ROW.on_conflict_do_update(
    index_elements=[Summary.build_id, Summary.language],
    set_={name: _ROW.excluded[name] for name in ("stamp", "body", "lesson")},
)


def _keep(session: Session, rows: Mapping[UUID, tuple[str, Body, Body | None]]) -> None:
    """In the order of their ids, so that two who keep the same rows never wait for each other."""
    spoken = language.get().key
    lines = [
        {"build_id": i, "language": spoken, "stamp": stamp, "body": body, "lesson": lesson}
        for i, (stamp, body, lesson) in sorted(rows.items())
    ]
    if lines:
        session.execute(_KEEP, lines)


def _of(state: BuildState) -> Callable[[], BuildState]:
    return lambda: state


def _summary(
    build: Build, state: Callable[[], BuildState], summarise: Summarise, fallback: Fallback
) -> tuple[Body, Body | None]:
    try:
        return _told(state(), summarise)
    except SQLAlchemyError:
        raise
    except Exception as error:
        _log.exception("Build %s cannot be computed", build.id)
        return fallback(build, error), None
