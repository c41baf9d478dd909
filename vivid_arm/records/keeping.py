"""Checked writes: take what was entered, check it with the core, keep it.

Shared by the web interface and the demo shop, so that both go through the same
checks. The caller owns the transaction.
"""

from collections.abc import Mapping
from datetime import datetime
from decimal import Decimal
from typing import Any, Literal, cast
from uuid import UUID

from sqlalchemy.orm import Session

from vivid_arm.core.bracket import Feel, Trial, check_ratio
from vivid_arm.core.cam import read_lobe_table
from vivid_arm.core.conventions import Convention
from vivid_arm.core.engine import KINDS, Layout, ValveKind, check_cylinders
from vivid_arm.core.errors import InputError
from vivid_arm.core.instruments import Caliper, CheckingRod
from vivid_arm.core.lengths import (
    FIELDS,
    Unit,
    check_range,
    parse_degrees,
    parse_length,
    parse_lengths,
    parse_pairs,
    parse_stack,
    parse_turns,
)
from vivid_arm.core.marks import AngleTool, End
from vivid_arm.core.methods import Method
from vivid_arm.core.photo import Overlay
from vivid_arm.core.preload import school_of
from vivid_arm.core.ratio import deflection, measured_ratio
from vivid_arm.core.wheel import check_guard

from . import queries
from .deciding import aim_of, plan_of
from .finishing import check_limits, check_rod, check_torque
from .geometry import USUAL_ROD_IN, settings_of, sheet_of, try_of
from .measuring import measure_of
from .models import Build, Instrument, Photo, Reading, Valve
from .setup import cam_of, ends_of, engine_of, lifter_of, predictions_of, rod_of

_BUILD_FIELDS = {
    "preload_low_in": "preload",
    "preload_high_in": "preload",
    "preload_target_in": "preload",
    "travel_in": "travel",
    "lifter_ball_in": "ball",
    "lifter_hole_in": "oil_hole",
    "rocker_ball_in": "ball",
    "rocker_hole_in": "oil_hole",
    "gauge_circle_in": "gauge_circle",
    "stock_step_in": "stock_step",
    "picked_intake_in": "rod_length",
    "picked_exhaust_in": "rod_length",
    "seat_height_in": "seat_height",
    "lash_intake_in": "lash",
    "lash_exhaust_in": "lash",
    "fastener_pitch_in": "thread_pitch",
}
_INSTRUMENT_FIELDS = {
    "closed_in": "closed_length",
    "pitch_in": "thread_pitch",
    "low_in": "caliper_low",
    "high_in": "caliper_high",
    "accuracy_in": "accuracy",
    "resolution_in": "resolution",
}
_MAY_BE_EMPTY = {
    "instrument_id", "picked_intake_in", "picked_exhaust_in", "accuracy_in",
    "closed_in", "pitch_in", "most_turns", "low_in", "high_in", "resolution_in",
    "engine", "cam", "lobe_tables", "prior", "geometry", "seat_height_in",
    "preload_school", "plan", "rod", "limits", "torque",
    "lash_intake_in", "lash_exhaust_in",
}  # fmt: skip


def _columns(values: Mapping[str, Any], fields: Mapping[str, str]) -> dict[str, Any]:
    """Check each figure against its field and make it an exact decimal."""
    kept: dict[str, Any] = {}
    for name, value in values.items():
        if value is None and name not in _MAY_BE_EMPTY:
            raise InputError(name, f"{name} is empty", expected="a value", code="empty")
        if name in fields and value is not None:
            check_range(float(value), FIELDS[fields[name]])
        kept[name] = queries.exact(value) if isinstance(value, float) else value
    return kept


def new_instrument(session: Session, values: Mapping[str, Any]) -> Instrument:
    """Keep a new instrument. Raises InputError for a figure that cannot be right."""
    instrument = Instrument(**_columns(values, _INSTRUMENT_FIELDS))
    check_instrument(instrument)
    return queries.insert_once(session, instrument)


def change_instrument(
    session: Session, row: Instrument, version: int, values: Mapping[str, Any]
) -> Instrument:
    """Change an instrument seen at ``version``. Raises InputError or Conflict."""
    kept = _columns(values, _INSTRUMENT_FIELDS)
    return queries.change(session, row, version, kept, check_instrument)


def check_instrument(row: Instrument) -> None:
    """Raises InputError for figures that make no instrument."""
    if row.kind == "indicator":
        return
    counted = ("closed_in", "pitch_in", "most_turns")
    for name in ("low_in", "high_in") if row.kind == "caliper" else counted:
        if getattr(row, name) is None:
            raise InputError(name, f"{row.name}: {name} is empty", expected="a value", code="empty")
    if row.kind == "caliper":
        if row.low_in >= row.high_in:  # type: ignore[operator]
            raise InputError(
                "high_in",
                f"Caliper range {row.low_in} to {row.high_in} in runs backwards",
                expected=f"above {row.low_in}",
                remedy="The short end comes first",
            )
        return
    if not 1 <= row.most_turns <= 60:  # type: ignore[operator]
        raise InputError(
            "most_turns",
            f"Turns the rod opens: {row.most_turns:f} is outside 1 to 60",
            received=row.most_turns,
            expected="1 to 60",
            remedy="Count the turns from closed to fully open",
            code="out_of_range",
        )


def new_build(session: Session, values: Mapping[str, Any]) -> Build:
    """Keep a new build with its valves. Raises InputError for a set-up that cannot be right."""
    build = Build(**_columns(values, _BUILD_FIELDS))
    check_build(session, build)
    return queries.insert_build(session, build)


def change_build(session: Session, row: Build, version: int, values: Mapping[str, Any]) -> Build:
    """Change a build seen at ``version``. Raises InputError or Conflict.

    A preload school brings its window with it; a window of one's own is the maker's sheet's.
    """
    kept = _columns(_with_school(row, values), _BUILD_FIELDS)
    other = {n for n in ("layout", "cylinders") if n in kept and kept[n] != getattr(row, n)}
    if other and "engine" not in kept:
        kept["engine"] = None
    changed = queries.change(session, row, version, kept, lambda b: check_build(session, b))
    queries.fit_valves(session, changed)
    return changed


_WINDOW = ("preload_low_in", "preload_high_in", "preload_target_in")


def _with_school(row: Build, values: Mapping[str, Any]) -> dict[str, Any]:
    """The values with the window of the school in force, or with no school for an own window."""
    found = dict(values)
    code = found.get("preload_school", row.preload_school)
    if any(found.get(name) is not None for name in _WINDOW) and "preload_school" not in found:
        return found | {"preload_school": None}
    if code is None or not {"preload_school", "travel_in"} & set(found):
        return found
    school = school_of(code)
    travel = found.get("travel_in") or school.travel_in or float(row.travel_in)
    lifter = school.lifter(travel)
    window = (lifter.low_in, lifter.high_in, lifter.target_in)
    return found | dict(zip(_WINDOW, window, strict=True)) | {"travel_in": travel}


def check_build(session: Session, build: Build) -> None:
    """Raises InputError for a set-up that cannot be right."""
    check_cylinders(cast(Layout, build.layout), build.cylinders)
    check_ratio(float(build.ratio_intake))
    check_ratio(float(build.ratio_exhaust))
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
        own = settings_of(build, kind)
        check_range(own.stem_in, FIELDS["tip_diameter"])
        check_range(own.shim_step_in, FIELDS["shim_step"])
        check_range(own.offset_in, FIELDS["offset"])
        if own.net_lift_in is not None:
            check_range(own.net_lift_in, FIELDS["net_lift"])
        sheet = sheet_of(build, kind, USUAL_ROD_IN)
        sheet.mechanism(sheet.prior[0])
    if build.instrument_id is not None:
        known = _instrument(session, build.instrument_id)
        if known.kind == "indicator":
            raise InputError(
                "instrument_id",
                f"{known.name} reads movements, not a rod's length",
                remedy="Choose a checking rod or a caliper; the indicator is chosen at the valve",
                code="wrong_kind",
            )


def _instrument(session: Session, instrument_id: UUID) -> Instrument:
    known = queries.get_instrument(session, instrument_id)
    if known is None:
        raise InputError("instrument_id", "This instrument is not in the shop", code="unknown")
    return known


def keep_lobe_table(
    session: Session, build: Build, version: int, kind: ValveKind, text: str | None
) -> Build:
    """Keep a measured lobe from CSV, or take it away. Raises InputError naming the line."""
    if build.cam is None:
        raise InputError(
            "cam", "There is no cam card yet", remedy="Enter the cam card first", code="empty"
        )
    tables = {k: t for k, t in (build.lobe_tables or {}).items() if k != kind}
    if text is not None:
        tables[kind] = [list(point) for point in read_lobe_table(text)]
    return change_build(session, build, version, {"lobe_tables": tables or None})


def expect_length(session: Session, valve: Valve, version: int, text: str, unit: Unit) -> Valve:
    """Keep the length a valve is thought to need, as typed; empty takes it away."""
    expected = None
    if text.strip():
        expected = parse_length(text, FIELDS["rod_length"], unit).inches
    return queries.change(session, valve, version, {"expected_in": expected})


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
        _replaceable(session, valve, replaces)
    _append(
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
        return queries.exact(turns), queries.exact(rod.length_in(turns))
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
    if method == "bracket":
        raise InputError("method", "The bracket is made of trials", code="wrong_kind")
    instrument = None if instrument_id is None else _instrument(session, instrument_id)
    row = Reading(
        valve_id=valve.id, kind=method, number=0, raw=reading.strip(), raw_rod=rod.strip(),
        instrument=instrument,
    )  # fmt: skip
    _read_measure(build, row, instrument, unit)
    if rod.strip() and method != "extend":
        row.rod_in = parse_length(rod, FIELDS["rod_length"], unit).inches
        row.rod_convention = rod_convention or build.order_convention
    if method == "turns":
        row.pitch_in = build.fastener_pitch_in if pitch_in is None else queries.exact(pitch_in)
        check_range(float(row.pitch_in), FIELDS["thread_pitch"])
    measure_of(build, cast(ValveKind, valve.kind), row)
    if replaces is not None:
        _replaceable(session, valve, replaces)
    columns = ("kind", "raw", "raw_rod", "turns", "length_in", "gap_in", "push_in", "rod_in",
               "rod_convention", "pitch_in", "repeats")  # fmt: skip
    _append(
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


def _read_measure(build: Build, row: Reading, instrument: Instrument | None, unit: Unit) -> None:
    """Read what was typed into the columns of its method. Raises InputError."""
    if row.kind == "extend":
        tool = rod_of(instrument) if instrument else None
        if not isinstance(tool, Caliper):
            raise InputError(
                "instrument_id",
                "A rod extended in place is measured with a caliper or a length gauge",
                remedy="Choose the one that read it",
                code="wrong_kind",
            )
        lengths = [p.inches for p in parse_lengths(row.raw, tool.field, unit)]
        row.repeats = [float(x) for x in lengths]
        row.length_in = (sum(lengths, Decimal(0)) / len(lengths)).quantize(Decimal("0.000001"))
    elif row.kind == "turns":
        row.turns = queries.exact(parse_turns(row.raw))
    elif row.kind == "indicator":
        row.push_in = parse_length(row.raw, FIELDS["push"], unit).inches
    else:
        row.gap_in = parse_stack(row.raw, FIELDS["gap"], unit)
        if row.kind == "gap_short" and not row.raw_rod:
            raise InputError(
                "rod",
                "The rod's length is empty",
                expected="a length",
                remedy="Without it the gap tells no zero-lash length",
                code="empty",
            )


def add_mark(
    session: Session,
    build: Build,
    valve: Valve,
    *,
    key: UUID,
    typed: Mapping[str, str],
    measured_from: Literal["middle", "edge"] = "middle",
    closed_end: End | None = None,
    angle_by: AngleTool = "inclinometer",
    rod_convention: Convention | None = None,
    photo: Mapping[str, Any] | None = None,
    unit: Unit = "in",
    by: str = "",
    replaces: int | None = None,
    reason: str = "",
    at: datetime | None = None,
) -> None:
    """Keep one try: what was set and what was seen, as typed.

    ``typed`` may hold ``inboard`` and ``outboard`` edges (from the tip's middle,
    outboard positive, or from its inboard edge), ``width``, ``angle`` in degrees,
    ``lift`` and ``real_lift``, ``pairs`` of lobe and valve lift, ``rod`` and
    ``shim``. ``photo`` holds where circle and lines lie on a photo, for the record.
    Raises InputError or Conflict.
    """
    read = {name: text.strip() for name, text in typed.items() if text.strip()}
    seen: dict[str, Any] = {"from": measured_from, "angle_by": angle_by}
    for name, (field, column) in _SEEN_LENGTHS.items():
        if name in read:
            seen[column] = float(parse_length(read[name], FIELDS[field], unit).inches)
    if "angle" in read:
        seen["angle_deg"] = parse_degrees(read["angle"])
    if "pairs" in read:
        seen["pairs"] = parse_pairs(read["pairs"], FIELDS["lift"], unit)
        measured_ratio([(lobe, valve_lift) for lobe, valve_lift in seen["pairs"]])
    if "lift_in" in seen and "real_lift_in" in seen:
        deflection(seen["lift_in"], seen["real_lift_in"])
    if closed_end is not None:
        seen["closed_end"] = closed_end
    if photo is not None:
        seen["photo"] = dict(photo)
        if not {"inboard", "outboard", "width"} & set(read):
            places = {k: float(v) for k, v in photo.items() if k != "photo_id"}
            stem = settings_of(build, cast(ValveKind, valve.kind)).stem_in
            seen["inboard_in"], seen["outboard_in"] = Overlay(**places).edges_in(stem)
            seen["from"] = "middle"
    shim = parse_length(read["shim"], FIELDS["shim"], unit).inches if "shim" in read else None
    rod = parse_length(read["rod"], FIELDS["rod_length"], unit).inches if "rod" in read else None
    _check_mark(build, cast(ValveKind, valve.kind), seen)
    if replaces is not None:
        _replaceable(session, valve, replaces)
    _append(
        session,
        build,
        valve,
        key=key,
        kind="mark",
        raw="; ".join(f"{name} {text}" for name, text in read.items() if name != "rod")[:200],
        raw_rod=read.get("rod", ""),
        rod_in=rod,
        rod_convention=None if rod is None else rod_convention or build.order_convention,
        shim_in=shim,
        seen=seen,
        replaces_id=replaces,
        reason=reason,
        taken_by=by,
        at=at,
    )


_SEEN_LENGTHS = {
    "inboard": ("mark_edge", "inboard_in"),
    "outboard": ("mark_edge", "outboard_in"),
    "width": ("mark_width", "width_in"),
    "lift": ("net_lift", "lift_in"),
    "real_lift": ("net_lift", "real_lift_in"),
}


def _check_mark(build: Build, kind: ValveKind, seen: Mapping[str, Any]) -> None:
    """Raises InputError for a try that shows nothing, or a mark off the tip."""
    own = settings_of(build, kind)
    if try_of(seen, 0.0, own.stem_in) is None and not {"pairs", "real_lift_in"} & set(seen):
        raise InputError(
            "mark",
            "Nothing was seen at this try",
            expected="edges, width, angle or lift",
            remedy="Give the mark's edges, its width, the angle or the net lift",
            code="empty",
        )
    shift = own.stem_in / 2 if seen["from"] == "edge" else 0.0
    for name in ("inboard_in", "outboard_in"):
        if name in seen and abs(seen[name] - shift) > own.stem_in / 2 + 0.005:
            from_edge = "the tip's inboard edge" if shift else "the tip's middle"
            raise InputError(
                name.removesuffix("_in"),
                f"An edge {seen[name]:.3f} in from {from_edge} lies off a tip of "
                f"{own.stem_in:.4f} in",
                received=seen[name],
                expected=f"{shift - own.stem_in / 2:.3f} to {shift + own.stem_in / 2:.3f} in",
                remedy="Check where it is measured from, and the tip's diameter",
                code="off_the_tip",
            )


def add_photo(session: Session, build: Build, photo: Photo) -> Photo:
    """Keep a photo; the same id again gives the one already kept."""
    known = session.get(Photo, photo.id)
    if known is not None:
        return known
    photo.build_id = build.id
    session.add(photo)
    session.flush()
    return photo


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
    _append(
        session,
        build,
        valve,
        key=key,
        instrument_id=instrument.id,
        kind="count_back",
        raw=turns.strip(),
        turns=queries.exact(counted),
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
    _replaceable(session, valve, reading_id)
    _append(
        session,
        build,
        valve,
        key=key,
        kind="void",
        replaces_id=reading_id,
        reason=reason.strip(),
        taken_by=by,
    )


def _append(
    session: Session, build: Build, valve: Valve, at: datetime | None = None, **columns: Any
) -> None:
    empty = {"raw": "", "raw_gap": "", "raw_rod": "", "reason": "", "replaces_id": None}
    where = {"valve_id": valve.id, "build_version": build.version}
    when = {} if at is None else {"taken_at": at}
    queries.append_reading(session, empty | where | when | columns)


def _replaceable(session: Session, valve: Valve, reading_id: int) -> None:
    old = session.get(Reading, reading_id)
    if old is None or old.valve_id != valve.id or old.kind == "void":
        raise InputError(
            "reading_id",
            f"Reading {reading_id} is not a reading of this valve",
            received=reading_id,
            remedy="Pick a line of this valve's log",
            code="unknown",
        )
