"""Instruments, builds, lobes and expected lengths: checked with the core, then kept.

Shared by the web interface and the demo shop, so that both go through the same
checks. The caller owns the transaction.
"""

from collections.abc import Collection, Mapping
from datetime import UTC, datetime
from typing import Any, cast
from uuid import UUID

from pydantic import BaseModel, ValidationError
from sqlalchemy import Numeric, select
from sqlalchemy.orm import Session
from sqlalchemy.sql.elements import KeyedColumnElement

from vivid_arm.core.engine.base_circle import check_guard
from vivid_arm.core.engine.cam import read_lobe_table
from vivid_arm.core.engine.layout import KINDS, Layout, ValveKind, check_cylinders
from vivid_arm.core.entry.lengths import FIELDS, check_range, parse_length
from vivid_arm.core.errors import InputError, within
from vivid_arm.core.rods.preload import USUAL_TRAVEL_IN, PreloadSchoolCode, school_of
from vivid_arm.core.words import Unit, say
from vivid_arm.core.zero_lash.bracket import check_ratio
from vivid_arm.records.fields import check_fields, fault_of, field_of, label_of
from vivid_arm.records.rows.builds import fit_valves, insert_build
from vivid_arm.records.rows.instruments import get_instrument
from vivid_arm.records.rows.kept import change, exact, insert_once
from vivid_arm.records.settings import BuildSettings, InstrumentFigures
from vivid_arm.records.state.limits import check_limits, check_torque
from vivid_arm.records.state.plan import aim_of, plan_of
from vivid_arm.records.state.rocker import USUAL_ROD_IN, near_closed, sheet_of
from vivid_arm.records.state.rod import check_rod
from vivid_arm.records.state.setup import cam_of, ends_of, engine_of, lifter_of, predictions_of
from vivid_arm.records.tables import Build, Instrument, Order, Shape, Signature, Valve


def columns_of(
    table: type[Build] | type[Instrument], shape: type[BaseModel], values: Mapping[str, Any]
) -> dict[str, Any]:
    """A table's columns from a set-up: each figure checked, and made what its column holds.

    Raises InputError.
    """
    kept: dict[str, Any] = {}
    for name, value in values.items():
        column = table.__table__.columns[name]
        if value is None and not column.nullable:
            label = label_of(shape, name)
            raise InputError(
                name, say("{label} is empty", label=label), expected=say("a value"), code="empty"
            )
        kept[name] = value if value is None else _kept(column, shape, value)
    return kept


def _kept(column: KeyedColumnElement[Any], shape: type[BaseModel], value: Any) -> Any:
    if isinstance(column.type, Shape):
        return _shaped(column.key, column.type, shape, value)
    info = shape.model_fields.get(column.key)
    field = field_of(info) if info else None
    if field is not None:
        check_range(float(value), field)
    return exact(value) if isinstance(column.type, Numeric) else value


def _shaped(name: str, kind: Shape, shape: type[BaseModel], value: Any) -> Any:
    try:
        found = kind.read(value)
    except ValidationError as error:
        where, words = fault_of(error.errors())
        raise InputError(
            name, f"{label_of(shape, name)}, {where}: {words}", code="bad_shape"
        ) from None
    check_fields(found)
    return found


def new_instrument(session: Session, values: Mapping[str, Any]) -> Instrument:
    """Keep a new instrument. Raises InputError for a figure that cannot be right."""
    instrument = Instrument(**columns_of(Instrument, InstrumentFigures, values))
    check_instrument(instrument)
    return insert_once(session, instrument)


def change_instrument(
    session: Session, row: Instrument, version: int, values: Mapping[str, Any]
) -> Instrument:
    """Change an instrument seen at ``version``. Raises InputError or Conflict."""
    kept = columns_of(Instrument, InstrumentFigures, values)
    return change(session, row, version, kept, check_instrument)


def check_instrument(row: Instrument) -> None:
    """Raises InputError for figures that make no instrument."""
    if row.kind == "indicator":
        return
    counted = ("closed_in", "pitch_in", "most_turns")
    for name in ("low_in", "high_in") if row.kind == "caliper" else counted:
        if getattr(row, name) is None:
            label = label_of(InstrumentFigures, name)
            raise InputError(
                name,
                say("{name}: {label} is empty", name=row.name, label=label),
                expected=say("a value"),
                code="empty",
            )
    if row.kind == "caliper":
        if row.low_in >= row.high_in:  # type: ignore[operator]
            raise InputError(
                "high_in",
                say(
                    "Caliper range {low} to {high} in runs backwards",
                    low=row.low_in,
                    high=row.high_in,
                ),
                expected=say("above {low}", low=row.low_in),
                remedy=say("The short end comes first"),
            )
        return
    most = float(row.most_turns or 0)
    counted_out = say("Count the turns from closed to fully open")
    within("most_turns", say("Turns the rod opens"), most, 1, 60, remedy=counted_out)


def new_build(session: Session, values: Mapping[str, Any], given: Collection[str] = ()) -> Build:
    """Keep a new build with its valves. Raises InputError for a set-up that cannot be right.

    ``given`` names what was asked for: a preload school brings its window, unless that was.
    """
    if values.get("preload_turns") is not None:
        values = dict(values) | _by_turns(Build(**columns_of(Build, BuildSettings, values)))
    code = values.get("preload_school")
    if code is not None and "preload_school" in given and not set(_WINDOW) & set(given):
        values = dict(values) | _window(code, values if "travel_in" in given else {})
    build = Build(**columns_of(Build, BuildSettings, values))
    check_build(session, build)
    return insert_build(session, build)


def new_build_like(session: Session, like: Build, new_id: UUID, name: str) -> Build:
    """A new build with the set-up of an earlier one and none of its readings; the same id is one.

    Raises InputError for a practice engine, or a set-up that can no longer be right.
    """
    if like.exercise_id is not None:
        raise InputError(
            "like", say("A practice engine is no pattern for a real one"),
            remedy=say("Take a build of the shop"), code="practice",
        )  # fmt: skip
    own = {n: getattr(like, n) for n in BuildSettings.model_fields if n in Build.__table__.columns}
    build = Build(id=new_id, lobe_tables=like.lobe_tables, **(own | {"name": name}))
    check_build(session, build)
    return insert_build(session, build)


def change_build(session: Session, row: Build, version: int, values: Mapping[str, Any]) -> Build:
    """Change a build seen at ``version``. Raises InputError or Conflict.

    A preload school brings its window with it, and so do turns of the fastener; a window of
    one's own is the maker's sheet's.
    """
    kept = columns_of(Build, BuildSettings, _with_window(row, values))
    other = {n for n in ("layout", "cylinders") if n in kept and kept[n] != getattr(row, n)}
    if other and "engine" not in kept:
        kept["engine"] = None
    changed = change(session, row, version, kept, lambda b: check_build(session, b))
    fit_valves(session, changed)
    return changed


_WINDOW = ("preload_low_in", "preload_high_in", "preload_target_in")


_TURNED_BY = (
    "preload_turns", "fastener_pitch_in", "travel_in", "ratio_intake", "ratio_exhaust", "geometry",
    "r0_intake", "r0_exhaust",
)  # fmt: skip


def _with_window(row: Build, values: Mapping[str, Any]) -> dict[str, Any]:
    """The values with the window of the turns or school in force, or neither for an own window."""
    found = dict(values)
    own = any(found.get(name) is not None for name in _WINDOW)
    if own and not {"preload_school", "preload_turns"} & set(found):
        return found | {"preload_school": None, "preload_turns": None}
    if found.get("preload_school") is not None:
        found["preload_turns"] = None
    turns = found.get("preload_turns", row.preload_turns)
    if turns is not None and set(_TURNED_BY) & set(found):
        now = {c.key: getattr(row, c.key) for c in Build.__table__.columns}
        changed = columns_of(Build, BuildSettings, {k: found[k] for k in _TURNED_BY if k in found})
        return found | {"preload_school": None} | _by_turns(Build(**now | changed))
    code = found.get("preload_school", row.preload_school)
    if code is None or not {"preload_school", "travel_in"} & set(found):
        return found
    return found | _window(code, found, float(row.travel_in))


def _by_turns(build: Build) -> dict[str, float]:
    """The window that turns of the fastener stand for, by the mean ratio near closed."""
    assert build.preload_turns is not None
    ratio = near_closed(build)
    pitch, travel = float(build.fastener_pitch_in), float(build.travel_in)
    lifter = build.preload_turns.window.lifter(pitch, ratio, travel)
    return dict(zip(_WINDOW, (lifter.low_in, lifter.high_in, lifter.target_in), strict=True))


def _window(
    code: PreloadSchoolCode, values: Mapping[str, Any], usual_in: float = USUAL_TRAVEL_IN
) -> dict[str, float]:
    """The window of a school on the travel given, else its own or the usual one."""
    school = school_of(code)
    travel = values.get("travel_in") or school.travel_in or usual_in
    lifter = school.lifter(travel)
    window = (lifter.low_in, lifter.high_in, lifter.target_in)
    return dict(zip(_WINDOW, window, strict=True)) | {"travel_in": travel}


def check_build(session: Session, build: Build) -> None:
    """Raises InputError for a set-up that cannot be right."""
    check_cylinders(cast(Layout, build.layout), build.cylinders)
    check_ratio(float(build.ratio_intake))
    check_ratio(float(build.ratio_exhaust))
    for name in ("r0_intake", "r0_exhaust"):
        if getattr(build, name) is not None:
            within(
                name, say("Ratio near closed"), float(getattr(build, name)), 1.0, 2.5,
                remedy=say("Valve lift over lobe lift in the first tenth of an inch"),
            )  # fmt: skip
    lifter_of(build)
    ends_of(build).added_in("gauge")
    check_guard(float(build.guard_deg))
    engine_of(build)
    cam_of(build)
    predictions_of(build)
    plan_of(build)
    if build.lifter_kind != "solid":
        aim_of(build)
    check_rod(build)
    check_limits(build)
    check_torque(build)
    for kind in KINDS:
        sheet = sheet_of(build, kind, USUAL_ROD_IN)
        sheet.mechanism(sheet.prior[0])
    if build.instrument_id is not None:
        known = known_instrument(session, build.instrument_id)
        if known.kind == "indicator":
            raise InputError(
                "instrument_id",
                say("{name} reads movements, not a rod's length", name=known.name),
                remedy=say(
                    "Choose a checking rod or a caliper; the indicator is chosen at the valve"
                ),
                code="wrong_kind",
            )


def known_instrument(session: Session, instrument_id: UUID) -> Instrument:
    known = get_instrument(session, instrument_id)
    if known is None:
        raise InputError("instrument_id", say("This instrument is not in the shop"), code="unknown")
    return known


def keep_lobe_table(
    session: Session, build: Build, version: int, kind: ValveKind, text: str | None
) -> Build:
    """Keep a measured lobe from CSV, or take it away. Raises InputError naming the line."""
    if build.cam is None:
        raise InputError(
            "cam",
            say("There is no cam card yet"),
            remedy=say("Enter the cam card first"),
            code="empty",
        )
    tables = {k: t for k, t in (build.lobe_tables or {}).items() if k != kind}
    if text is not None:
        tables[kind] = list(read_lobe_table(text))
    return change_build(session, build, version, {"lobe_tables": tables or None})


def expect_length(session: Session, valve: Valve, version: int, text: str, unit: Unit) -> Valve:
    """Keep the length a valve is thought to need, as typed; empty takes it away."""
    expected = None
    if text.strip():
        expected = parse_length(text, FIELDS["rod_length"], unit).inches
    return change(session, valve, version, {"expected_in": expected})


def enter_stem(session: Session, valve: Valve, version: int, text: str, unit: Unit) -> Valve:
    """Keep how much taller a valve's tip stands than the others', as typed; empty takes it away."""
    stem = parse_length(text, FIELDS["change"], unit).inches if text.strip() else None
    return change(session, valve, version, {"stem_in": stem})


def archive(session: Session, build: Build) -> None:
    """Take a build off the board; it stays as it is. Repeating it changes nothing."""
    if build.removed_at is None or build.binned_at is not None:
        build.removed_at, build.binned_at = build.removed_at or datetime.now(UTC), None
        session.flush()


def throw_away(session: Session, build: Build) -> None:
    """Put a build into the bin; nothing of it is lost. Repeating it changes nothing.

    Raises InputError for one that was signed, or has rods on order.
    """
    if build.binned_at is not None:
        return
    signed = select(Signature.id).where(Signature.build_id == build.id).limit(1)
    waits = select(Order.id).where(
        Order.build_id == build.id, Order.state.in_(("asked", "unknown", "placed"))
    )
    for query, why in (
        (signed, say("was signed off")), (waits.limit(1), say("waits for rods that are ordered")),
    ):  # fmt: skip
        if session.scalar(query) is not None:
            raise InputError(
                "build", say("{name} {why}: it does not go into the bin", name=build.name, why=why),
                remedy=say("Put it into the archive"), code="not_binned",
            )  # fmt: skip
    build.binned_at = datetime.now(UTC)
    session.flush()


def put_back(session: Session, build: Build) -> None:
    """Put a build on the board again. Repeating it changes nothing."""
    if build.removed_at is not None or build.binned_at is not None:
        build.removed_at = build.binned_at = None
        session.flush()
