"""Builds and their valves."""

from typing import cast
from uuid import UUID

from sqlalchemy import bindparam, func, select
from sqlalchemy.orm import Session, joinedload, selectinload

from vivid_arm.core.engine.layout import Layout, valves_of
from vivid_arm.core.errors import InputError
from vivid_arm.core.words import say
from vivid_arm.records.rows.kept import one_at_a_time
from vivid_arm.records.tables import Build, Reading, Valve


def count_builds(session: Session) -> int:
    return session.scalar(select(func.count()).select_from(Build)) or 0


def get_build(session: Session, build_id: UUID) -> Build | None:
    query = (
        select(Build)
        .where(Build.id == build_id)
        .options(joinedload(Build.instrument), selectinload(Build.valves))
        .execution_options(populate_existing=True)
    )
    return session.scalar(query)


_VALVE = (
    select(Valve)
    .where(Valve.id == bindparam("id"))
    .options(joinedload(Valve.build).joinedload(Build.instrument))
)


def get_valve(session: Session, valve_id: UUID) -> Valve | None:
    """A valve with its build and the build's instrument."""
    return session.scalar(_VALVE, {"id": valve_id})


def insert_build(session: Session, build: Build) -> Build:
    """Keep a build with its valves; the same id again gives the build already kept."""
    one_at_a_time(session, build.id)
    known = session.get(Build, build.id)
    if known is not None:
        return known
    build.valves = [
        Valve(cylinder=cylinder, kind=kind)
        for cylinder, kind in valves_of(_layout(build), build.cylinders)
    ]
    session.add(build)
    session.flush()
    return build


def fit_valves(session: Session, build: Build) -> None:
    """Make the valve rows match layout and cylinders.

    Raises InputError rather than dropping a valve that has readings.
    """
    wanted = set(valves_of(_layout(build), build.cylinders))
    present = {(v.cylinder, v.kind): v for v in build.valves}
    gone = [v for key, v in present.items() if key not in wanted]
    if gone:
        used = select(func.count()).where(Reading.valve_id.in_([v.id for v in gone]))
        if session.scalar(used):
            raise InputError(
                "cylinders",
                say(
                    "Cylinders: {cylinders} would drop valves that have readings",
                    cylinders=build.cylinders,
                ),
                received=build.cylinders,
                expected=say("at least {gone}", gone=max(v.cylinder for v in gone)),
                remedy=say("Keep the count, or make a new build"),
                code="valves_in_use",
            )
        for valve in gone:
            session.delete(valve)
    for cylinder, kind in sorted(wanted - present.keys()):
        session.add(Valve(build_id=build.id, cylinder=cylinder, kind=kind))
    session.flush()


def _layout(build: Build) -> Layout:
    return cast(Layout, build.layout)
