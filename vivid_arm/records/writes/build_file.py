"""A whole build moved in from a file: kept as it was, with its ids, versions and times."""

from dataclasses import dataclass, field
from typing import Any, cast
from uuid import UUID

from sqlalchemy import Table, insert
from sqlalchemy.exc import DataError, IntegrityError
from sqlalchemy.orm import Session

from vivid_arm.core.engine.layout import ValveKind, valves_of
from vivid_arm.core.errors import InputError
from vivid_arm.core.words import say
from vivid_arm.core.zero_lash.methods import METHODS
from vivid_arm.records.rows.builds import get_build
from vivid_arm.records.rows.kept import Conflict
from vivid_arm.records.state.measuring import measure_of
from vivid_arm.records.tables import Base, Build, Instrument, Note, Reading, Valve
from vivid_arm.records.writes.setup import check_build, check_instrument

Row = dict[str, Any]


@dataclass(frozen=True)
class BuildRows:
    """Rows of a build by column; ``replaces`` holds, for each reading, the key it refers to.

    Notes refer to readings and to each other by keys: ``reading``, ``replaces``.
    """

    instruments: list[Row]
    build: Row
    valves: list[Row]
    readings: list[Row]
    replaces: list[UUID | None]
    notes: list[Row] = field(default_factory=list)


def move_in(session: Session, rows: BuildRows) -> UUID:
    """Keep the rows as they are and return the build's id.

    Raises InputError for rows that do not make a build, and Conflict when an
    instrument of the same id has other figures here. The caller has made sure
    that the build is not here yet.
    """
    try:
        for row in rows.instruments:
            _keep_instrument(session, row)
        _keep_build(session, rows)
        _keep_notes(session, rows, _keep_readings(session, rows))
        session.flush()
    except (IntegrityError, DataError) as error:
        constraint = getattr(getattr(error.orig, "diag", None), "constraint_name", None)
        raise _fault(
            say(
                "its rows contradict each other ({constraint})",
                constraint=constraint or say("bad value"),
            )
        ) from None
    return UUID(str(rows.build["id"]))


def _table(model: type[Base]) -> Table:
    """The bare table, so that ids, versions and times are kept as they are."""
    return cast(Table, model.__table__)


def _fault(words: str) -> InputError:
    return InputError(
        "file",
        say("Build file: {words}", words=words),
        remedy=say("Export the build again"),
        code="build_file",
    )


def _keep_instrument(session: Session, row: Row) -> None:
    known = session.get(Instrument, row["id"])
    if known is None:
        check_instrument(Instrument(**row))
        session.execute(insert(_table(Instrument)).values(**row))
        return
    here = {name: getattr(known, name) for name in row if name not in ("version", "created_at")}
    other = {name: row[name] for name in here if row[name] != here[name]}
    if other:
        raise Conflict(
            say("The instrument {name} has other figures here.", name=known.name),
            other,
            {name: here[name] for name in other},
        )


def _keep_build(session: Session, rows: BuildRows) -> None:
    check_build(session, Build(**rows.build))
    session.execute(insert(_table(Build)).values(**rows.build))
    wanted = set(valves_of(rows.build["layout"], rows.build["cylinders"]))
    if {(v["cylinder"], v["kind"]) for v in rows.valves} != wanted:
        raise _fault(say("the valves are not those of its engine"))
    build_id = rows.build["id"]
    session.execute(insert(_table(Valve)), [row | {"build_id": build_id} for row in rows.valves])


def _keep_readings(session: Session, rows: BuildRows) -> dict[UUID, int]:
    build = get_build(session, rows.build["id"])
    assert build is not None
    kinds: dict[UUID, ValveKind] = {v["id"]: v["kind"] for v in rows.valves}
    ids: dict[UUID, int] = {}
    for row, replaced in zip(rows.readings, rows.replaces, strict=True):
        if row["valve_id"] not in kinds:
            raise _fault(say("a reading is of a valve that is not in it"))
        if replaced is not None and replaced not in ids:
            raise _fault(say("a reading refers to one that does not come before it"))
        values = row | {"replaces_id": None if replaced is None else ids[replaced]}
        if row["kind"] in METHODS:
            tool = row["instrument_id"] and session.get(Instrument, row["instrument_id"])
            measure_of(build, kinds[row["valve_id"]], Reading(**values, instrument=tool))
        line = insert(Reading).values(**values).returning(Reading.id)
        ids[row["key"]] = session.execute(line).scalar_one()
    return ids


def _keep_notes(session: Session, rows: BuildRows, readings: dict[UUID, int]) -> None:
    valves = {v["id"] for v in rows.valves}
    ids: dict[UUID, int] = {}
    for row in rows.notes:
        on, replaced = row["reading"], row["replaces"]
        if row["valve_id"] not in (None, *valves):
            raise _fault(say("a note is on a valve that is not in it"))
        if (on is not None and on not in readings) or (
            replaced is not None and replaced not in ids
        ):
            raise _fault(say("a note refers to what does not come before it"))
        values = {k: v for k, v in row.items() if k not in ("reading", "replaces")} | {
            "build_id": rows.build["id"], "reading_id": on and readings[on],
            "replaces_id": replaced and ids[replaced],
        }  # fmt: skip
        line = insert(Note).values(**values).returning(Note.id)
        ids[row["key"]] = session.execute(line).scalar_one()
