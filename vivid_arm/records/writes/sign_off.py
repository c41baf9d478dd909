"""Checks after fitting kept as found, and the signature."""

from collections.abc import Mapping
from statistics import fmean
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from vivid_arm.core.entry.lengths import (
    FIELDS,
    parse_bolts,
    parse_clearances,
    parse_length,
    parse_stack,
)
from vivid_arm.core.errors import InputError
from vivid_arm.core.sign_off.checks import BY_NAME, Check, Closest, closest
from vivid_arm.core.words import Unit, say
from vivid_arm.records.entries import FindingIn
from vivid_arm.records.rows.kept import Conflict, exact, touch
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.sign_off import WAY_WORDS, WAYS, SignOffState, Way, preload_of
from vivid_arm.records.state.valve import ValveState
from vivid_arm.records.tables import Build, Finding, Signature, Valve


def add_finding(session: Session, state: BuildState, valve: ValveState, entry: FindingIn) -> None:
    """Keep what a check found, as typed; a later one of the same valve and check counts instead.

    Preload is worked out from turns, push or gap with today's ratio. Raises InputError for
    what cannot be, Conflict when the key was used for another finding.
    """
    check = BY_NAME[entry.name]
    read, value, crank = _read(check, state, valve, entry)
    row = {
        "key": entry.key,
        "build_id": state.build.id,
        "valve_id": valve.valve.id,
        "name": entry.name,
        "way": entry.way,
        "raw": entry.text.strip(),
        "read": None if read is None else exact(read),
        "value_in": None if value is None else exact(value),
        "yes": entry.yes if check.yes_no else None,
        "crank_deg": None if crank is None else exact(crank),
        "found_by": entry.by,
    }
    line = insert(Finding).values(**row).on_conflict_do_nothing().returning(Finding.id)
    if session.scalar(line) is None:
        _same(session, entry.key, row)
    else:
        touch(session, state.build.id)


def _same(session: Session, key: UUID, row: Mapping[str, object]) -> None:
    known = session.scalars(select(Finding).where(Finding.key == key)).one()
    content = ("build_id", "valve_id", "name", "way", "raw", "yes")
    differs = {n: row[n] for n in content if getattr(known, n) != row[n]}
    if differs:
        stored = {n: getattr(known, n) for n in differs}
        raise Conflict(say("This key was already used for another finding."), differs, stored)


def _read(
    check: Check, state: BuildState, valve: ValveState, entry: FindingIn
) -> tuple[float | None, float | None, float | None]:
    """What was read, its value in inches, the crank angle it was found at. Raises InputError."""
    way, text, unit = entry.way, entry.text, entry.unit
    if check.yes_no:
        if entry.yes is None:
            raise InputError(
                "yes",
                say("{title}: yes or no is wanted", title=check.title),
                expected=say("yes or no"),
                code="empty",
            )
        return None, None, None
    if way not in WAYS.get(check.name, ("",)):
        listed = ", ".join(say(WAY_WORDS[w]) for w in WAYS.get(check.name, ("",)))
        raise InputError(
            "way",
            say("{title} is not found by {way_words}", title=check.title, way_words=WAY_WORDS[way]),
            received=way,
            expected=listed,
            remedy=say("Take {listed}", listed=listed),
            code="wrong_kind",
        )
    if way == "table":
        found: Closest = closest(parse_clearances(text, unit))
        return None, found.clearance_in, found.crank_deg
    if check.name == "preload":
        if state.solid:
            raise InputError(
                "name",
                say("Solid lifters have no preload"),
                remedy=say("Check the lash"),
                code="wrong_kind",
            )
        read = _figure(way, text, unit)
        return read, preload_of(state.build, valve.ratio, way, read).preload_in, None
    field = FIELDS["lash"] if check.name == "lash" else FIELDS["clearance"]
    return None, float(parse_stack(text, field, unit)), None


def _figure(way: Way, text: str, unit: Unit) -> float:
    """The figure that preload follows from: turns, or inches. Raises InputError."""
    if way == "turns":
        return fmean(parse_bolts(text))
    if way == "indicator":
        return float(parse_length(text, FIELDS["push"], unit).inches)
    return float(parse_stack(text, FIELDS["gap"], unit))


def sign(session: Session, finish: SignOffState, key: UUID, by: str, reason: str) -> None:
    """Sign a build; the same key again signs it once.

    Raises InputError without a name, or while something is open and no reason is written.
    """
    build: Build = finish.state.build
    session.execute(select(Valve.id).where(Valve.build_id == build.id).with_for_update())
    if session.scalar(select(Signature.id).where(Signature.key == key)) is not None:
        return
    if not by.strip():
        raise InputError(
            "by",
            say("The signature is empty"),
            expected=say("a name"),
            remedy=say("Write who signs"),
            code="empty",
        )
    open_points = finish.open_points
    if open_points and not reason.strip():
        more = (
            say(" and {open_points} more", open_points=len(open_points) - 2)
            if len(open_points) > 2
            else ""
        )
        raise InputError(
            "reason",
            say(
                "Not signed: {open_points}{more}", open_points="; ".join(open_points[:2]), more=more
            ),
            received=len(open_points),
            expected=say("every check made and passed, or a written reason"),
            remedy=say("Make the check, or write why it may run all the same"),
            code="open_points",
        )
    session.add(
        Signature(
            key=key,
            build_id=build.id,
            signed_by=by.strip(),
            reason=reason.strip(),
            open_points=open_points,
            stamp=finish.stamp,
        )
    )
    session.flush()
    touch(session, build.id)
