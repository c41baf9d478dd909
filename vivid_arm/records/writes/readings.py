"""Lines of the log: trials, other measurements, count-backs, strikes; checked, then kept."""

from datetime import datetime
from decimal import Decimal
from typing import Any, Literal, cast
from uuid import UUID, uuid5

from sqlalchemy import inspect, select
from sqlalchemy.orm import Session

from vivid_arm.core.engine.layout import ValveKind, valve_name
from vivid_arm.core.entry.instruments import Caliper, CheckingRod, setting_of
from vivid_arm.core.entry.lengths import (
    FIELDS,
    LengthField,
    format_length,
    format_turns,
    parse_bolts,
    parse_length,
    parse_lengths,
    parse_stack,
    parse_turns,
)
from vivid_arm.core.errors import InputError
from vivid_arm.core.words import Unit, say
from vivid_arm.core.zero_lash.bracket import Trial
from vivid_arm.core.zero_lash.methods import METHODS, MeasuringMethod
from vivid_arm.core.zero_lash.ways import MEASURING_WAYS, MeasuringWay
from vivid_arm.records.entries import (
    AtStop,
    CountBackIn,
    Keyed,
    MeasureIn,
    MoveReadingIn,
    RecountIn,
    Replacing,
    RestoreIn,
    Shown,
    TrialIn,
    VoidIn,
)
from vivid_arm.records.rows.kept import Conflict, exact
from vivid_arm.records.rows.line import KeptLine
from vivid_arm.records.rows.log import Added, append_reading, append_readings
from vivid_arm.records.state.measuring import measure_of
from vivid_arm.records.state.setup import rod_of
from vivid_arm.records.state.valve import ValveState
from vivid_arm.records.tables import Build, Instrument, Reading, Valve
from vivid_arm.records.writes.setup import known_instrument


def add_trial(
    session: Session, valve: Valve, entry: TrialIn, at: datetime | None = None
) -> Added | None:
    """Keep a trial, taken now or ``at`` another time; None where it is kept already.

    Raises InputError for anything that cannot be right, Conflict when the key
    or the reading to replace was used before.
    """
    _ask_turns_or_length(valve, entry)
    line = trial_line(session, valve, entry, at)
    return append_reading(session, line, valve.build.instrument)


def trial_line(
    session: Session, valve: Valve, entry: TrialIn, at: datetime | None = None
) -> Reading:
    """A trial as a line of the log, checked. Raises InputError or Conflict."""
    instrument = _instrument(session, valve.build, entry, entry.setting, entry.unit)
    if instrument is None:
        raise InputError(
            "instrument_id",
            say("No instrument is chosen for this build"),
            remedy=say("Choose a checking rod or a caliper in the set-up"),
            code="empty",
        )
    row = new_line(session, valve, "trial", entry, at)
    row.instrument_id = instrument.id
    row.raw, row.raw_gap, row.feel = entry.setting.strip(), entry.gap.strip(), entry.feel
    row.turns, row.length_in = _read_setting(instrument, entry.setting, entry.unit)
    if entry.gap.strip():
        row.gap_in = parse_length(entry.gap, FIELDS["gap"], entry.unit).inches
    gap_in = None if row.gap_in is None else float(row.gap_in)
    Trial(0, float(row.length_in), entry.feel, gap_in)
    row.crank_deg = _crank(entry)
    return row


def _instrument(
    session: Session, build: Build, entry: TrialIn | CountBackIn, text: str, unit: Unit
) -> Instrument | None:
    """The instrument a line names, else the build's.

    Raises InputError, or Conflict where the screen showed another than the build has now.
    """
    now = build.instrument
    if entry.instrument_id is None:
        return now
    own = now is not None and now.id == entry.instrument_id
    shown = now if now is not None and own else known_instrument(session, entry.instrument_id)
    if not entry.sure and (shown is not now or not _as_shown(shown, entry)):
        tools = [t for t in (shown, now if now is not shown else None) if t is not None]
        raise _moved(tools, shown is not now, text, unit)
    return shown


def _as_shown(tool: Instrument, entry: Shown) -> bool:
    return entry.instrument_version in (None, tool.version)


def _moved(tools: list[Instrument], other: bool, text: str, unit: Unit) -> Conflict:
    """What was set, read by each of the instruments it can be a setting of, to choose from."""
    readings, refused = [], None
    for tool in tools:
        try:
            length_in = float(_read_setting(tool, text, unit)[1])
            readings.append((f"{tool.name}: {format_length(length_in, unit)}", _this_one(tool)))
        except InputError as error:
            refused = error
    if not readings and refused is not None:
        raise refused
    shown, now = tools[0], tools[-1]
    why = (
        say("the build is measured with {name} now", name=now.name)
        if other
        else say("{name} was corrected", name=now.name)
    )
    return Conflict(
        say(
            "This was set on {name} as the screen showed it; {why}. Which was it?",
            name=shown.name,
            why=why,
        ),
        {"instrument": shown.name},
        {"instrument": now.name},
        readings,
    )


def _this_one(tool: Instrument) -> dict[str, Any]:
    return {"instrument_id": tool.id, "instrument_version": tool.version, "sure": True}


def _ask_turns_or_length(valve: Valve, entry: TrialIn) -> None:
    """Raises Conflict where a bare figure could be turns of the rod as well as its length."""
    tool = rod_of(valve.build.instrument) if valve.build.instrument else None
    if not isinstance(tool, CheckingRod):
        return
    meant = setting_of(tool, entry.setting, entry.unit)
    if meant.turns is None or meant.length_in is None:
        return
    by_turns = format_length(tool.length_in(meant.turns), entry.unit)
    text = entry.setting.strip()
    raise Conflict(
        say(
            "{typed} can be turns ({by_turns}) or a length of this rod.",
            typed=text,
            by_turns=by_turns,
        ),
        {"setting": text},
        {"setting": ""},
        [
            (
                say("{typed} turns: {by_turns}", typed=text, by_turns=by_turns),
                {"setting": f"{text} turns"},
            ),
            (
                say("A length: {length}", length=format_length(meant.length_in)),
                {"setting": f"{meant.length_in} in"},
            ),
        ],
    )


def _read_setting(instrument: Instrument, text: str, unit: Unit) -> tuple[Decimal | None, Decimal]:
    rod = rod_of(instrument)
    if isinstance(rod, CheckingRod):
        meant = setting_of(rod, text, unit)
        if meant.turns is not None:
            return exact(meant.turns), exact(rod.length_in(meant.turns))
        assert meant.length_in is not None
        turns = rod.turns_for(meant.length_in)
        whole = turns is not None and abs(rod.length_in(turns) - meant.length_in) < 1e-6
        return (exact(turns) if turns is not None and whole else None), exact(meant.length_in)
    if isinstance(rod, Caliper):
        return None, parse_length(text, rod.field, unit).inches
    raise InputError(
        "instrument_id",
        say("{name} is an indicator: it reads no rod's length", name=instrument.name),
        remedy=say("Choose the checking rod or the caliper the trial was set with"),
        code="wrong_kind",
    )


def add_measure(
    session: Session, valve: Valve, entry: MeasureIn, at: datetime | None = None
) -> Added | None:
    """Keep one measurement by another method: its reading and the known rod.

    None where it is kept already. Raises InputError or Conflict.
    """
    return append_reading(session, measure_line(session, valve, entry, at))


def measure_line(
    session: Session, valve: Valve, entry: MeasureIn, at: datetime | None = None
) -> Reading:
    """A measurement as a line of the log, checked. Raises InputError or Conflict."""
    build, way = valve.build, MEASURING_WAYS[entry.method]
    row = new_line(session, valve, entry.method, entry, at)
    row.raw, row.raw_rod = entry.reading.strip(), entry.rod.strip()
    if entry.instrument_id is not None:
        tool = row.instrument = known_instrument(session, entry.instrument_id)
        if not entry.sure and not _as_shown(tool, entry):
            raise Conflict(
                say("{name} was corrected since the screen showed it.", name=tool.name),
                {"version": entry.instrument_version},
                {"version": tool.version},
                [(say("{name} as it is now", name=tool.name), _this_one(tool))],
            )
        row.instrument_id = entry.instrument_id
    _read(way, row, entry.unit)
    if row.raw_rod and way.rod != "none":
        row.rod_in = parse_length(row.raw_rod, FIELDS["rod_length"], entry.unit).inches
        row.rod_convention = entry.rod_convention or build.order_convention
    if way.fastener:
        pitch_in = entry.pitch_in
        row.pitch_in = build.fastener_pitch_in if pitch_in is None else exact(pitch_in)
    measure_of(build, cast(ValveKind, valve.kind), row)
    row.crank_deg = _crank(entry)
    return row


def _crank(entry: AtStop) -> Decimal | None:
    return None if entry.crank_deg is None else exact(entry.crank_deg)


def _read(way: MeasuringWay, row: Reading, unit: Unit) -> None:
    """Read what was typed into the column of its way. Raises InputError."""
    if way.reads == "lengths":
        tool = rod_of(row.instrument) if row.instrument else None
        if not isinstance(tool, Caliper):
            raise InputError(
                "instrument_id",
                say("{name}: it is measured with a caliper or a length gauge", name=way.name),
                remedy=say("Choose the one that read it"),
                code="wrong_kind",
            )
        lengths = [p.inches for p in parse_lengths(row.raw, tool.field, unit)]
        row.repeats = [float(x) for x in lengths]
        row.length_in = (sum(lengths, Decimal(0)) / len(lengths)).quantize(Decimal("0.000001"))
    elif way.reads == "turns":
        bolts = parse_bolts(row.raw)
        row.turns = exact(sum(bolts) / len(bolts))
        if len(bolts) > 1:
            row.repeats = list(bolts)
    else:
        read = parse_stack if way.reads == "stack" else _one_length
        setattr(row, way.column, read(row.raw, FIELDS[way.field], unit))


def _one_length(text: str, field: LengthField, unit: Unit) -> Decimal:
    return parse_length(text, field, unit).inches


def add_count_back(
    session: Session, valve: Valve, entry: CountBackIn, at: datetime | None = None
) -> None:
    """Keep the turns counted back to closed. Raises InputError without a checking rod."""
    append_reading(session, count_back_line(session, valve, entry, at))


def count_back_line(
    session: Session, valve: Valve, entry: CountBackIn, at: datetime | None = None
) -> Reading:
    """A count-back as a line of the log, checked. Raises InputError or Conflict."""
    instrument = _instrument(session, valve.build, entry, entry.turns, "in")
    if instrument is None or instrument.kind != "checking_rod":
        raise InputError(
            "turns",
            say("Only a checking rod is counted back"),
            remedy=say("Choose a checking rod in the set-up"),
            code="no_turns",
        )
    row = new_line(session, valve, "count_back", entry, at)
    row.instrument_id, row.raw = instrument.id, entry.turns.strip()
    row.turns = exact(parse_turns(entry.turns))
    return row


def recount(session: Session, valve: ValveState, entry: RecountIn) -> None:
    """Work trials out again by a count-back that was right: each is replaced, with the reason.

    Raises InputError for a line that is no count-back, or turns the rod has not.
    """
    if not any(r.id == entry.count_id and r.kind == "count_back" for r in valve.told.rows):
        raise InputError(
            "count_id",
            say("Reading {count_id} is no count-back of this valve", count_id=entry.count_id),
            received=entry.count_id,
            remedy=say("Pick a count-back of this valve's log"),
            code="unknown",
        )
    failed = valve.told.failed_line
    if failed is None or failed.count is None or failed.row.id != entry.count_id:
        return
    missing = failed.count.missing_turns
    again = [row for row in valve.told.recounted if (row.number or 0) >= entry.since]
    lines = [_recounted(row, entry, missing) for row in again]
    for old, line in zip(again, lines, strict=True):
        line.replaces_id = _counting(session, valve.valve, old.id, line.key)
    append_readings(session, lines)


def _recounted(old: KeptLine, entry: RecountIn, missing_turns: float) -> Reading:
    assert old.turns is not None
    assert old.instrument is not None
    rod = rod_of(old.instrument)
    assert isinstance(rod, CheckingRod)
    turns = float(old.turns) + missing_turns
    return Reading(
        key=uuid5(entry.key, str(old.id)),
        valve_id=old.valve_id,
        kind="trial",
        number=None,
        taken_by=entry.by,
        build_version=old.build_version,
        raw=f"{format_turns(turns)} turns",
        raw_gap=old.raw_gap,
        raw_rod="",
        reason=say("Worked out again by the count back"),
        replaces_id=old.id,
        instrument_id=old.instrument_id,
        turns=exact(turns),
        length_in=exact(rod.length_in(turns)),
        feel=old.feel,
        gap_in=old.gap_in,
        crank_deg=old.crank_deg,
    )


def void_reading(session: Session, valve: Valve, entry: VoidIn) -> None:
    """Strike a reading out, with a reason. Raises InputError or Conflict."""
    append_reading(session, _strike_line(session, valve, entry))


def _strike_line(session: Session, valve: Valve, entry: VoidIn) -> Reading:
    row = new_line(session, valve, "void", entry)
    row.reason = entry.reason.strip()
    row.replaces_id = _counting(session, valve, entry.reading_id, entry.key)
    return row


def restore_reading(session: Session, valve: Valve, entry: RestoreIn) -> None:
    """Let a reading that was struck out count again: its strike is struck out.

    Raises InputError for a line that is not struck out, or that another stands in the place of.
    """
    old = _replaceable(session, valve, entry.reading_id)
    chain = _chain(session, old, entry.key)
    if len(chain) % 2 == 0 or chain[-1].kind != "void":
        raise InputError(
            "reading_id",
            say("Reading {number} is not struck out", number=old.number or old.id)
            if not chain or chain[-1].kind == "void"
            else say("Reading {number} stands in the place of this one", number=chain[-1].number),
            received=entry.reading_id,
            remedy=say("Strike the later one out, or read again"),
            code="not_struck",
        )
    row = new_line(session, valve, "void", entry)
    row.replaces_id, row.reason = chain[-1].id, say("Counts again")
    append_reading(session, row)


_MOVABLE = ("trial", *METHODS, "mark")
_NOT_COPIED = {"id", "key", "valve_id", "number", "replaces_id", "reason", "build_version"}


def move_reading(session: Session, valve: Valve, other: Valve, entry: MoveReadingIn) -> None:
    """Give a reading to the valve it belongs to: struck out here, a new line there.

    Raises InputError for a line that cannot be moved, Conflict for one struck out already.
    """
    old = _replaceable(session, valve, entry.reading_id)
    if old.kind not in _MOVABLE or other.build_id != valve.build_id or other.id == valve.id:
        raise InputError(
            "to", say("Reading {number} cannot be moved there", number=old.number or old.id),
            remedy=say("Pick another valve of this build"), code="not_movable",
        )  # fmt: skip
    here, there = (valve_name(v.cylinder, cast(ValveKind, v.kind)) for v in (valve, other))
    strike = VoidIn(
        key=entry.key,
        by=entry.by,
        reading_id=entry.reading_id,
        reason=say("Belongs to {there}", there=there),
    )
    columns = inspect(Reading).column_attrs
    copied = {c.key: getattr(old, c.key) for c in columns if c.key not in _NOT_COPIED}
    moved = Reading(
        key=uuid5(entry.key, "moved"), valve_id=other.id, number=None, replaces_id=None,
        reason=say("Moved from {here}", here=here), build_version=valve.build.version, **copied,
    )  # fmt: skip
    append_readings(session, [_strike_line(session, valve, strike), moved])


def new_line(
    session: Session,
    valve: Valve,
    kind: Literal["trial", "count_back", "void", "mark"] | MeasuringMethod,
    entry: Keyed,
    at: datetime | None = None,
) -> Reading:
    """A line of the log, its reading still to be filled in. Raises InputError."""
    row = Reading(
        key=entry.key, valve_id=valve.id, kind=kind, number=None, taken_by=entry.by,
        build_version=valve.build.version, raw="", raw_gap="", raw_rod="", reason="",
        replaces_id=None,
    )  # fmt: skip
    if at is not None:
        row.taken_at = at
    if isinstance(entry, Replacing):
        row.reason = entry.reason
        if entry.replaces is not None:
            row.replaces_id = _counting(session, valve, entry.replaces, entry.key)
    return row


def _counting(session: Session, valve: Valve, reading_id: int, key: UUID) -> int:
    """What a strike of a reading refers to: itself or, where it counts again, what made it so.

    Where it is struck out already that line is taken, and the log refuses a second one.
    Raises InputError for a line that is no reading of the valve.
    """
    old = _replaceable(session, valve, reading_id)
    return [old, *_chain(session, old, key)][::2][-1].id


def _chain(session: Session, row: Reading, key: UUID) -> list[Reading]:
    """The strikes of a reading, each of the one before it; without the line of this key."""
    found: list[Reading] = []
    at: Reading | None = row
    while at is not None and (at is row or at.kind == "void"):
        at = session.scalar(select(Reading).where(Reading.replaces_id == at.id))
        if at is None or at.key == key:
            break
        found.append(at)
    return found


def _replaceable(session: Session, valve: Valve, reading_id: int) -> Reading:
    old = session.get(Reading, reading_id)
    if old is None or old.valve_id != valve.id or old.kind == "void":
        raise InputError(
            "reading_id",
            say("Reading {reading_id} is not a reading of this valve", reading_id=reading_id),
            received=reading_id,
            remedy=say("Pick a line of this valve's log"),
            code="unknown",
        )
    return old
