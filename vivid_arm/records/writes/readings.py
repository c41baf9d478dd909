"""Lines of the log: trials, other measurements, count-backs, strikes; checked, then kept."""

from datetime import datetime
from decimal import Decimal
from typing import Any, cast
from uuid import UUID

from sqlalchemy.orm import Session

from vivid_arm.core.engine.layout import ValveKind
from vivid_arm.core.entry.conventions import Convention
from vivid_arm.core.entry.instruments import Caliper, CheckingRod
from vivid_arm.core.entry.lengths import (
    FIELDS,
    LengthField,
    Unit,
    parse_length,
    parse_lengths,
    parse_stack,
    parse_turns,
)
from vivid_arm.core.errors import InputError
from vivid_arm.core.zero_lash.bracket import Feel, Trial
from vivid_arm.core.zero_lash.methods import Method
from vivid_arm.core.zero_lash.ways import MEASURING_WAYS, MeasuringWay
from vivid_arm.records.rows.kept import exact
from vivid_arm.records.rows.log import append_reading
from vivid_arm.records.state.measuring import measure_of
from vivid_arm.records.state.setup import rod_of
from vivid_arm.records.tables import Build, Instrument, Reading, Valve
from vivid_arm.records.writes.setup import known_instrument


def add_trial(
    session: Session,
    build: Build,
    valve: Valve,
    *,
    key: UUID,
    setting: str,
    feel: Feel,
    gap: str = "",
    unit: Unit = "in",
    by: str = "",
    replaces: int | None = None,
    reason: str = "",
    instrument: Instrument | None = None,
    at: datetime | None = None,
) -> None:
    """Keep a trial: turns (checking rod) or length (caliper) as typed, feel, gap as typed.

    ``instrument`` is the build's unless another is named, ``at`` the time it
    was taken when that is not now. Raises InputError for anything that cannot
    be right, Conflict when the key or the reading to replace was used before.
    """
    instrument = instrument or build.instrument
    if instrument is None:
        raise InputError(
            "instrument_id",
            "No instrument is chosen for this build",
            remedy="Choose a checking rod or a caliper in the set-up",
            code="empty",
        )
    turns, length = _read_setting(instrument, setting, unit)
    gap_in = parse_length(gap, FIELDS["gap"], unit).inches if gap.strip() else None
    Trial(0, float(length), feel, None if gap_in is None else float(gap_in))
    if replaces is not None:
        replaceable(session, valve, replaces)
    append(
        session,
        build,
        valve,
        key=key,
        instrument_id=instrument.id,
        kind="trial",
        raw=setting.strip(),
        raw_gap=gap.strip(),
        turns=turns,
        length_in=length,
        feel=feel,
        gap_in=gap_in,
        replaces_id=replaces,
        reason=reason,
        taken_by=by,
        at=at,
    )


def _read_setting(instrument: Instrument, text: str, unit: Unit) -> tuple[Decimal | None, Decimal]:
    rod = rod_of(instrument)
    if isinstance(rod, CheckingRod):
        turns = parse_turns(text)
        return exact(turns), exact(rod.length_in(turns))
    assert isinstance(rod, Caliper)
    return None, parse_length(text, rod.field, unit).inches


def add_measure(
    session: Session,
    build: Build,
    valve: Valve,
    *,
    key: UUID,
    method: Method,
    reading: str,
    rod: str = "",
    rod_convention: Convention | None = None,
    instrument_id: UUID | None = None,
    pitch_in: float | None = None,
    unit: Unit = "in",
    by: str = "",
    replaces: int | None = None,
    reason: str = "",
    at: datetime | None = None,
) -> None:
    """Keep one measurement by another method: its reading and the known rod, as typed.

    ``reading`` holds the lengths (extend), the turns, the indicator's travel or
    the gap; ``instrument_id`` the caliper or indicator that read it or, for
    turns and gaps, that read the rod. Raises InputError or Conflict.
    """
    if method not in MEASURING_WAYS:
        raise InputError("method", "The bracket is made of trials", code="wrong_kind")
    way = MEASURING_WAYS[method]
    instrument = None if instrument_id is None else known_instrument(session, instrument_id)
    row = Reading(
        valve_id=valve.id, kind=method, number=0, raw=reading.strip(), raw_rod=rod.strip(),
        instrument=instrument,
    )  # fmt: skip
    _read(way, row, instrument, unit)
    if rod.strip() and way.rod != "none":
        row.rod_in = parse_length(rod, FIELDS["rod_length"], unit).inches
        row.rod_convention = rod_convention or build.order_convention
    if way.fastener:
        row.pitch_in = build.fastener_pitch_in if pitch_in is None else exact(pitch_in)
    measure_of(build, cast(ValveKind, valve.kind), row)
    if replaces is not None:
        replaceable(session, valve, replaces)
    columns = ("kind", "raw", "raw_rod", "turns", "length_in", "gap_in", "push_in", "rod_in",
               "rod_convention", "pitch_in", "repeats")  # fmt: skip
    append(
        session,
        build,
        valve,
        key=key,
        instrument_id=instrument_id,
        replaces_id=replaces,
        reason=reason,
        taken_by=by,
        at=at,
        **{name: getattr(row, name) for name in columns},
    )


def _read(way: MeasuringWay, row: Reading, instrument: Instrument | None, unit: Unit) -> None:
    """Read what was typed into the column of its way. Raises InputError."""
    if way.reads == "lengths":
        tool = rod_of(instrument) if instrument else None
        if not isinstance(tool, Caliper):
            raise InputError(
                "instrument_id",
                f"{way.name}: it is measured with a caliper or a length gauge",
                remedy="Choose the one that read it",
                code="wrong_kind",
            )
        lengths = [p.inches for p in parse_lengths(row.raw, tool.field, unit)]
        row.repeats = [float(x) for x in lengths]
        row.length_in = (sum(lengths, Decimal(0)) / len(lengths)).quantize(Decimal("0.000001"))
    elif way.reads == "turns":
        row.turns = exact(parse_turns(row.raw))
    else:
        read = parse_stack if way.reads == "stack" else _one_length
        setattr(row, way.column, read(row.raw, FIELDS[way.field], unit))


def _one_length(text: str, field: LengthField, unit: Unit) -> Decimal:
    return parse_length(text, field, unit).inches


def add_count_back(
    session: Session,
    build: Build,
    valve: Valve,
    *,
    key: UUID,
    turns: str,
    by: str = "",
    instrument: Instrument | None = None,
    at: datetime | None = None,
) -> None:
    """Keep the turns counted back to closed. Raises InputError without a checking rod."""
    instrument = instrument or build.instrument
    if instrument is None or instrument.kind != "checking_rod":
        raise InputError(
            "turns",
            "Only a checking rod is counted back",
            remedy="Choose a checking rod in the set-up",
            code="no_turns",
        )
    counted = parse_turns(turns)
    append(
        session,
        build,
        valve,
        key=key,
        instrument_id=instrument.id,
        kind="count_back",
        raw=turns.strip(),
        turns=exact(counted),
        taken_by=by,
        at=at,
    )


def void_reading(
    session: Session,
    build: Build,
    valve: Valve,
    *,
    key: UUID,
    reading_id: int,
    reason: str,
    by: str = "",
) -> None:
    """Strike a reading out, with a reason. Raises InputError or Conflict."""
    replaceable(session, valve, reading_id)
    append(
        session,
        build,
        valve,
        key=key,
        kind="void",
        replaces_id=reading_id,
        reason=reason.strip(),
        taken_by=by,
    )


def append(
    session: Session, build: Build, valve: Valve, at: datetime | None = None, **columns: Any
) -> None:
    empty = {"raw": "", "raw_gap": "", "raw_rod": "", "reason": "", "replaces_id": None}
    where = {"valve_id": valve.id, "build_version": build.version}
    when = {} if at is None else {"taken_at": at}
    append_reading(session, empty | where | when | columns)


def replaceable(session: Session, valve: Valve, reading_id: int) -> None:
    old = session.get(Reading, reading_id)
    if old is None or old.valve_id != valve.id or old.kind == "void":
        raise InputError(
            "reading_id",
            f"Reading {reading_id} is not a reading of this valve",
            received=reading_id,
            remedy="Pick a line of this valve's log",
            code="unknown",
        )
