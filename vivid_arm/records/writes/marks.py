"""Marks on the valve tip and photos of them: checked, then kept."""

from collections.abc import Mapping
from datetime import datetime
from typing import Any, Literal, cast
from uuid import UUID

from sqlalchemy.orm import Session

from vivid_arm.core.engine.layout import ValveKind
from vivid_arm.core.entry.conventions import Convention
from vivid_arm.core.entry.lengths import FIELDS, Unit, parse_degrees, parse_length, parse_pairs
from vivid_arm.core.errors import InputError
from vivid_arm.core.rocker.marks import AngleTool, End
from vivid_arm.core.rocker.photo import Overlay
from vivid_arm.core.rocker.ratio import deflection, measured_ratio
from vivid_arm.records.shapes import SeenFigures
from vivid_arm.records.state.rocker import settings_of, try_of
from vivid_arm.records.tables import Build, Photo, Valve
from vivid_arm.records.writes.readings import append, replaceable


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
    seen: dict[str, Any] = {"measured_from": measured_from, "angle_by": angle_by}
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
            seen["measured_from"] = "middle"
    shim = parse_length(read["shim"], FIELDS["shim"], unit).inches if "shim" in read else None
    rod = parse_length(read["rod"], FIELDS["rod_length"], unit).inches if "rod" in read else None
    figures = SeenFigures(**seen)
    _check_mark(build, cast(ValveKind, valve.kind), figures)
    if replaces is not None:
        replaceable(session, valve, replaces)
    append(
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
        seen=figures,
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


def _check_mark(build: Build, kind: ValveKind, seen: SeenFigures) -> None:
    """Raises InputError for a try that shows nothing, or a mark off the tip."""
    own = settings_of(build, kind)
    nothing = not seen.pairs and seen.real_lift_in is None
    if nothing and try_of(seen, 0.0, own.stem_in) is None:
        raise InputError(
            "mark",
            "Nothing was seen at this try",
            expected="edges, width, angle or lift",
            remedy="Give the mark's edges, its width, the angle or the net lift",
            code="empty",
        )
    shift = own.stem_in / 2 if seen.measured_from == "edge" else 0.0
    for name, edge in (("inboard", seen.inboard_in), ("outboard", seen.outboard_in)):
        if edge is not None and abs(edge - shift) > own.stem_in / 2 + 0.005:
            from_edge = "the tip's inboard edge" if shift else "the tip's middle"
            raise InputError(
                name,
                f"An edge {edge:.3f} in from {from_edge} lies off a tip of {own.stem_in:.4f} in",
                received=edge,
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
