"""Marks on the valve tip and photos of them: checked, then kept."""

from collections.abc import Mapping
from datetime import datetime
from decimal import Decimal
from typing import cast

from sqlalchemy.orm import Session

from vivid_arm.core.engine.layout import ValveKind
from vivid_arm.core.entry.conventions import Convention
from vivid_arm.core.entry.instruments import CheckingRod
from vivid_arm.core.entry.lengths import (
    FIELDS,
    format_length,
    parse_degrees,
    parse_heights,
    parse_length,
    parse_pairs,
    parse_turns,
    typed_plainly,
)
from vivid_arm.core.errors import InputError
from vivid_arm.core.rocker.mechanism import Tip
from vivid_arm.core.rocker.photo import Overlay
from vivid_arm.core.rocker.ratio import deflection, measured_ratio
from vivid_arm.core.rocker.seen import SIDE_WORDS
from vivid_arm.core.words import figure, say
from vivid_arm.records.entries import MarkIn
from vivid_arm.records.rows.kept import Conflict, exact
from vivid_arm.records.rows.line import KeptLine
from vivid_arm.records.rows.log import append_reading, readings_of
from vivid_arm.records.shapes import SeenFigures
from vivid_arm.records.state.load import state_of
from vivid_arm.records.state.rocker import settings_of, try_of
from vivid_arm.records.state.setup import measuring_convention, rod_of
from vivid_arm.records.state.struck import struck_by
from vivid_arm.records.tables import Build, Photo, Reading, Valve
from vivid_arm.records.writes.readings import new_line


def add_mark(session: Session, valve: Valve, entry: MarkIn, at: datetime | None = None) -> None:
    """Keep one try: what was set and what was seen.

    Raises InputError, or Conflict where no rod was named and the measured length is offered.
    """
    try:
        line = mark_line(session, valve, entry, at)
    except InputError as error:
        if error.code == "no_rod":
            _offer_measured(session, valve, entry, error)
        raise
    append_reading(session, line)


def mark_line(session: Session, valve: Valve, entry: MarkIn, at: datetime | None = None) -> Reading:
    """A try as a line of the log, checked. Raises InputError or Conflict."""
    build, kind = valve.build, cast(ValveKind, valve.kind)
    typed = _typed(entry)
    row = new_line(session, valve, "mark", entry, at)
    row.raw = "; ".join(f"{name} {text}" for name, text in typed.items() if name != "rod")[:200]
    row.raw_rod = typed.get("rod", "")
    if "rod" in typed:
        row.rod_in, row.rod_convention = _rod_of(session, valve, typed["rod"], entry)
    if "shim" in typed:
        row.shim_in = parse_length(typed["shim"], FIELDS["shim"], entry.unit).inches
    row.seen = _seen(entry, typed, settings_of(build, kind).stem_in)
    _check_mark(build, kind, row.seen)
    _check_rod(session, valve, row)
    return row


def _rod_of(session: Session, valve: Valve, text: str, entry: MarkIn) -> tuple[Decimal, Convention]:
    """A rod as a length, turns of the checking rod, a step from the last. Raises InputError."""
    build = valve.build
    text = typed_plainly(text)
    if text.lower().rstrip(".").endswith(("turns", "turn")):
        tool = rod_of(build.instrument) if build.instrument else None
        if not isinstance(tool, CheckingRod):
            raise InputError(
                "rod",
                say("This build has no checking rod whose turns could be counted"),
                received=text,
                expected=say("a length"),
                remedy=say("Type the rod's length, or choose a checking rod in the set-up"),
                code="no_checking_rod",
            )
        turns = parse_turns(text.lower().rstrip(".").removesuffix("s").removesuffix("turn"))
        return exact(tool.length_in(turns)), measuring_convention(build)
    if text.startswith(("+", "-", "−")):
        last = _last_rod(session, valve)
        if last is None:
            raise InputError(
                "rod",
                say("There is no rod before this one to count from"),
                received=text,
                expected=say("a length"),
                remedy=say("Type the rod's whole length"),
                code="no_rod",
            )
        step = parse_length(text.replace("−", "-"), FIELDS["rod_step"], entry.unit).inches
        return last[0] + step, last[1]
    length = parse_length(text, FIELDS["rod_length"], entry.unit).inches
    return length, entry.rod_convention or cast(Convention, build.order_convention)


def _last_rod(session: Session, valve: Valve) -> tuple[Decimal, Convention] | None:
    """The rod of the last try that counts and names one."""
    for row in reversed(_counted(session, valve)):
        if row.rod_in is not None:
            return row.rod_in, cast(Convention, row.rod_convention)
    return None


def _counted(session: Session, valve: Valve) -> list[KeptLine]:
    log = readings_of(session, [valve.id])[valve.id]
    struck = struck_by(log)
    return [line for line in log if line.kind == "mark" and line.id not in struck]


def _check_rod(session: Session, valve: Valve, row: Reading) -> None:
    """On a stud a mark means nothing without the rod it was made with: none is assumed."""
    told = try_of(row.seen or SeenFigures(), 0.0, 1.0)
    if valve.build.mount != "stud" or row.rod_in is not None or told is None:
        return
    if any(line.rod_in is not None for line in _counted(session, valve)):
        return
    raise InputError(
        "rod",
        say("On a stud a mark needs the rod it was made with"),
        expected=say("the rod's length, or the turns of the checking rod"),
        remedy=say("Type the rod that is in the engine"),
        code="no_rod",
    )


def _offer_measured(session: Session, valve: Valve, entry: MarkIn, error: InputError) -> None:
    """Raises Conflict with the valve's measured zero-lash length as the rod, where there is one."""
    state, here = state_of(session, valve.build).with_valve(valve.id)
    if here.measured is None or here.estimate_in is None:
        return
    rod = format_length(here.estimate_in, entry.unit)
    raise Conflict(
        say(
            "{error} Zero lash was measured at {rod}: was the rod that long?", error=error, rod=rod
        ),
        {"rod": ""},
        {"rod": rod},
        [(say("The rod was {rod}", rod=rod), {"rod": rod, "rod_convention": state.measuring})],
    )


_TYPED = (
    "inboard", "outboard", "width", "across", "angle", "heights", "lift", "real_lift", "sink",
    "pairs", "rod", "shim", "screw",
)  # fmt: skip


def _typed(entry: MarkIn) -> dict[str, str]:
    """The texts that say something."""
    texts = {name: getattr(entry, name).strip() for name in _TYPED}
    return {name: text for name, text in texts.items() if text}


def _seen(entry: MarkIn, typed: Mapping[str, str], stem_in: float) -> SeenFigures:
    """What was seen, read from its texts and from the lines on the photo. Raises InputError."""
    seen = SeenFigures(
        measured_from=entry.measured_from,
        angle_by=entry.angle_by,
        closed_end=entry.closed_end,
        off=entry.off,
        at_rest=entry.at_rest,
        place=entry.place,
        wide=entry.wide,
        photo=entry.photo,
    )
    for name, (field, column) in _SEEN_LENGTHS.items():
        if name in typed:
            read = parse_length(typed[name], FIELDS[field], entry.unit).inches
            setattr(seen, column, float(read))
    if "angle" in typed:
        seen.angle_deg = parse_degrees(typed["angle"])
    elif "heights" in typed:
        seen.angle_deg, seen.angle_by = parse_heights(typed["heights"], entry.unit), "heights"
    if "screw" in typed:
        seen.screw = parse_turns(typed["screw"])
    if "pairs" in typed:
        seen.pairs = parse_pairs(typed["pairs"], FIELDS["lift"], entry.unit)
        measured_ratio(seen.pairs)
    if seen.lift_in is not None and seen.real_lift_in is not None:
        deflection(seen.lift_in, seen.real_lift_in)
    if entry.photo is not None and not {"inboard", "outboard", "width"} & set(typed):
        overlay = Overlay(**entry.photo.model_dump(exclude={"photo_id"}))
        seen.inboard_in, seen.outboard_in = overlay.edges_in(stem_in)
        seen.measured_from = "middle"
    return seen


_SEEN_LENGTHS = {
    "inboard": ("mark_edge", "inboard_in"),
    "outboard": ("mark_edge", "outboard_in"),
    "width": ("mark_width", "width_in"),
    "across": ("across", "across_in"),
    "sink": ("sink", "sink_in"),
    "lift": ("net_lift", "lift_in"),
    "real_lift": ("net_lift", "real_lift_in"),
}


def _check_mark(build: Build, kind: ValveKind, seen: SeenFigures) -> None:
    """Raises InputError for a try that shows nothing, or a mark off the tip."""
    own = settings_of(build, kind)
    _check_eye(own.tip, seen)
    if build.mount == "stud" and seen.screw is not None:
        raise InputError(
            "screw",
            say("A rocker on a stud has no screw of its own"),
            received=seen.screw,
            expected=say("the rod in the engine"),
            remedy=say("Type the rod; or choose an adjustable shaft in the set-up"),
            code="wrong_mount",
        )
    nothing = not seen.pairs and seen.real_lift_in is None and seen.across_in is None
    if nothing and try_of(seen, 0.0, own.stem_in) is None:
        raise InputError(
            "mark",
            say("Nothing was seen at this try"),
            expected=say("edges, width, angle or lift"),
            remedy=say("Give the mark's edges, its width, the angle or the net lift"),
            code="empty",
        )
    shift = own.stem_in / 2 if seen.measured_from == "edge" else 0.0
    for name, edge in (("inboard", seen.inboard_in), ("outboard", seen.outboard_in)):
        if edge is not None and abs(edge - shift) > own.stem_in / 2 + 0.005:
            from_edge = say("the tip's inboard edge") if shift else say("the tip's middle")
            raise InputError(
                name,
                say(
                    "An edge {edge} in from {from_edge} lies off a tip of {stem} in",
                    edge=figure(edge, ".3f"),
                    from_edge=from_edge,
                    stem=figure(own.stem_in, ".4f"),
                ),
                received=edge,
                expected=say(
                    "{low} to {high} in",
                    low=figure(shift - own.stem_in / 2, ".3f"),
                    high=figure(shift + own.stem_in / 2, ".3f"),
                ),
                remedy=say("Check where it is measured from, and the tip's diameter"),
                code="off_the_tip",
            )


def _check_eye(tip: Tip, seen: SeenFigures) -> None:
    """Raises InputError for what contradicts itself, or a shoe's width told by eye."""
    if tip == "shoe" and seen.wide is not None:
        raise InputError(
            "wide",
            say("A shoe's mark is wide by nature: the eye does not tell"),
            received=seen.wide,
            expected=say("its edges, or its width"),
            remedy=say("Measure across the mark"),
            code="by_eye",
        )
    edges = (seen.inboard_in, seen.outboard_in)
    measured = [x for x in (*edges, seen.width_in) if x is not None]
    if seen.place is not None and len(measured) > 1:
        raise InputError(
            "place",
            say("The edges tell where the mark lies"),
            received=seen.place,
            expected=say("edges, or the eye"),
            remedy=say("Leave one of them out"),
            code="too_much",
        )
    off_edge = {"inboard": seen.inboard_in, "outboard": seen.outboard_in}
    if seen.off is not None and off_edge[seen.off] is not None:
        raise InputError(
            "off",
            say("The {off} edge is read and runs off the tip", off=SIDE_WORDS[seen.off]),
            received=off_edge[seen.off],
            expected=say("one of both"),
            remedy=say(
                "Leave the {off} edge empty where it is off the tip", off=SIDE_WORDS[seen.off]
            ),
            code="too_much",
        )
    if seen.at_rest and not any(x is not None for x in edges):
        raise InputError(
            "mark",
            say("A mark at rest tells where it lies"),
            expected=say("one edge or both"),
            remedy=say("Give its edges"),
            code="empty",
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
