"""What the shop has learned from its engines, read from what is kept of each of them."""

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import cast

import numpy as np
from sqlalchemy import and_, func, or_, select
from sqlalchemy.dialects.postgresql import distinct_on
from sqlalchemy.orm import Session, joinedload

from vivid_arm.core.engine.layout import KINDS, ValveKind, valve_name
from vivid_arm.core.entry.instruments import CheckingRod
from vivid_arm.core.shop.gauge_study import StudyReading
from vivid_arm.core.shop.learned import LEAST_ENGINES, Factor, ratio_factor, shop_hand
from vivid_arm.core.words import Saying, language
from vivid_arm.core.zero_lash.predict import Mount
from vivid_arm.records.rows.log import readings_of
from vivid_arm.records.shapes import KindLesson, Lesson, StartingFigures
from vivid_arm.records.state.lesson import MOST_ENGINES
from vivid_arm.records.state.log import ValveLog
from vivid_arm.records.state.measuring import figures_of
from vivid_arm.records.state.setup import rod_of
from vivid_arm.records.tables import Build, Instrument, Reading, Summary, Valve

NO_NAME = Saying("no name")
_MOST_VALVES = 200
_OPENED = Reading.kind == "extend"


@dataclass(frozen=True)
class Taught:
    """What one engine of the shop tells."""

    mount: Mount
    lesson: Lesson

    def of(self, kind: ValveKind) -> KindLesson:
        """Its valves of a kind."""
        return self.lesson.intake if kind == "intake" else self.lesson.exhaust


def engines_taught(session: Session) -> tuple[list[Taught], int]:
    """The shop's engines, the latest first, and how many were never worked out.

    What an engine told in the language that is spoken goes first: that row is the one made anew.
    Practice engines and those in the bin tell nothing.
    """
    told = (
        select(Summary.build_id, Summary.lesson)
        .ext(distinct_on(Summary.build_id))
        .where(Summary.lesson.is_not(None))
        .order_by(Summary.build_id, Summary.language != language.get().key)
        .subquery()
    )
    rows = session.execute(
        select(Build.mount, told.c.lesson)
        .outerjoin(told, told.c.build_id == Build.id)
        .where(Build.exercise_id.is_(None), Build.binned_at.is_(None))
        .order_by(Build.updated_at.desc(), Build.id)
        .limit(MOST_ENGINES)
    ).all()
    found = [
        Taught(cast(Mount, mount), Lesson.model_validate(lesson))
        for mount, lesson in rows
        if lesson is not None
    ]
    return found, len(rows) - len(found)


def gauge_readings(session: Session) -> list[StudyReading]:
    """Every length felt as zero, or opened to and read, on valves with several; oldest first."""
    often = (
        select(Reading.valve_id)
        .join(Valve, Valve.id == Reading.valve_id)
        .join(Build, Build.id == Valve.build_id)
        .where(or_(and_(Reading.kind == "trial", Reading.feel == "zero"), _OPENED))
        .where(Build.exercise_id.is_(None), Build.binned_at.is_(None))
        .group_by(Reading.valve_id)
        .having(or_(func.count() > 1, func.count().filter(_OPENED) > 0))
        .order_by(func.max(Reading.id).desc())
        .limit(_MOST_VALVES)
    )
    valves = session.scalars(
        select(Valve)
        .where(Valve.id.in_(often))
        .options(joinedload(Valve.build).joinedload(Build.instrument))
    ).all()
    logs = readings_of(session, [v.id for v in valves])
    found: list[tuple[int, StudyReading]] = []
    for valve in valves:
        name = f"{valve.build_id} {valve_name(valve.cylinder, cast(ValveKind, valve.kind))}"
        for entry in ValveLog(valve.build, valve, logs[valve.id]).lines:
            row = entry.row
            if entry.struck_by is not None or row.instrument is None:
                continue
            by, tool, step = (
                row.taken_by or str(NO_NAME),
                row.instrument.name,
                _step_in(row.instrument),
            )
            if row.kind == "trial" and row.feel == "zero":
                lengths: Sequence[float | None] = [entry.length_in]
            elif row.kind == "extend":
                lengths = figures_of(valve.build, cast(ValveKind, valve.kind), row).repeats
            else:
                continue
            found += [(row.id, StudyReading(name, by, tool, x, step)) for x in lengths if x]
    return [reading for _, reading in sorted(found, key=lambda pair: pair[0])]


def _step_in(tool: Instrument) -> float:
    """The steps in which a tool is set or read, inches."""
    read = rod_of(tool)
    if isinstance(read, CheckingRod):
        return read.adjuster.resolution_in
    return float(tool.resolution_in or 0)


def factor_of(engines: Sequence[Taught], mount: Mount) -> Factor | None:
    """R0 over the catalogue's ratio for rockers that stand alike, an engine each.

    Both kinds of an engine are one maker's rockers: they tell once, as well as the worse known.
    """
    known = []
    for engine in engines:
        told = [
            (lesson.r0 / lesson.catalogue, lesson.r0_u / lesson.catalogue)
            for lesson in (engine.of(kind) for kind in KINDS)
            if lesson.r0 is not None and lesson.r0_u
        ]
        if told and engine.mount == mount:
            known.append((sum(f for f, _ in told) / len(told), max(u for _, u in told)))
    return ratio_factor(known)


def hands_felt(engines: Sequence[Taught]) -> dict[str, list[list[float]]]:
    """By person: how the trials of each engine that he read alone weigh the usual hands."""
    found: dict[str, list[list[float]]] = defaultdict(list)
    for engine in engines:
        if engine.lesson.hand and engine.lesson.person:
            found[engine.lesson.person].append(engine.lesson.hand)
    return dict(found)


def starting_from(engines: Sequence[Taught], mount: Mount, person: str) -> StartingFigures:
    """What a build may start from; nothing of what fewer than five engines tell."""
    factor = factor_of(engines, mount)
    felt = hands_felt(engines).get(person, [])
    told: dict[str, object] = {}
    if factor is not None and factor.engines >= LEAST_ENGINES:
        told |= {
            "factor": round(factor.mean, 4),
            "factor_u": round(max(factor.next_u, 0.002), 4),
            "engines": factor.engines,
        }
    if len(felt) >= LEAST_ENGINES:
        hands = shop_hand([np.array(one) for one in felt])
        whole = sum(h.weight for h in hands)
        told |= {
            "person": person,
            "hands": [round(h.weight / whole, 5) for h in hands],
            "hand_engines": len(felt),
        }
    return StartingFigures.model_validate(told)
