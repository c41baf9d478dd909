"""What happened to a build, newest first: readings, changes, orders, checks, notes, signatures.

Read from what the database keeps by itself: the log, and the old and new values of every row
that was changed, with who changed it and when.
"""

import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime
from typing import Any, Literal, cast
from uuid import UUID

from sqlalchemy import and_, func, or_, select
from sqlalchemy.orm import Session

from vivid_arm.core.engine.layout import ValveKind, valve_name
from vivid_arm.core.entry.conventions import CONVENTIONS
from vivid_arm.core.entry.lengths import format_length, format_small, format_turns
from vivid_arm.core.sign_off.checks import BY_NAME
from vivid_arm.core.words import Saying, Unit, figure, say
from vivid_arm.core.zero_lash.bracket import FEELS, Feel
from vivid_arm.core.zero_lash.methods import METHODS, Method
from vivid_arm.records.fields import in_words
from vivid_arm.records.state.orders import STATE_WORDS
from vivid_arm.records.state.struck import struck_by
from vivid_arm.records.tables import (
    BoxRod,
    Build,
    Change,
    Finding,
    Instrument,
    Note,
    Order,
    Reading,
    Signature,
)
from vivid_arm.records.writes.undo import can_undo

EventKind = Literal[
    "reading", "set-up", "tool", "box", "order", "check", "note", "signature", "build"
]
_KIND: dict[str, EventKind] = {
    "builds": "set-up", "valves": "set-up", "instruments": "tool", "box_rods": "box",
    "orders": "order",
}  # fmt: skip
_SMALL = 1.0
_MOST_DETAILS = 12
_MOST_PEOPLE = 12
_SHELVES = {"removed_at": Saying("archive"), "binned_at": Saying("bin")}
_WRITTEN = ("name", "note", "reason", "text", "by")
_CODE = re.compile(r"[a-z][a-z_]+")
_NOT_TOLD = {"sheet", "lines", "answer", "asked_at", "placed_at", "closed_at"}


@dataclass(frozen=True)
class Detail:
    """One figure that was changed, in words: what it was and what it is."""

    name: str
    old: str
    new: str


@dataclass(frozen=True)
class Happened:
    """One thing that happened. ``change_id`` where it is a change that can be taken back."""

    at: datetime
    by: str
    kind: EventKind
    where: str
    words: str
    details: tuple[Detail, ...] = ()
    change_id: int | None = None


def history_of(session: Session, build: Build, unit: Unit = "in") -> list[Happened]:
    """Everything that happened to a build, newest first."""
    names = {v.id: valve_name(v.cylinder, cast(ValveKind, v.kind)) for v in build.valves}
    rows = _readings(session, names)
    orders = list(session.scalars(select(Order).where(Order.build_id == build.id)))
    events = [
        Happened(build.created_at, "", "build", "", say("Build made")),
        *_of_readings(rows, names, unit),
        *(_of_order(o) for o in orders),
        *_of_findings(session, build, names, unit),
        *_of_signatures(session, build),
        *_of_notes(session, build, names, rows),
        *_of_changes(session, build, names, rows, orders, unit),
    ]
    return sorted(events, key=lambda e: e.at, reverse=True)


def shop_history(session: Session, unit: Unit = "in") -> list[Happened]:
    """What happened to the shop's box and tools, newest first; the last thousand changes."""
    query = (
        select(Change)
        .where(Change.of_table.in_(("instruments", "box_rods")))
        .order_by(Change.id.desc())
        .limit(1000)
    )
    changes = list(session.scalars(query))
    tools = {str(t.id): t for t in session.scalars(select(Instrument))}
    rods = {str(r.id): r for r in session.scalars(select(BoxRod))}
    names = {i: t.name for i, t in tools.items()}
    names |= {i: format_length(float(r.length_in), unit) for i, r in rods.items()}
    made = [
        *(
            Happened(t.created_at, "", "tool", t.name, say("Kept"))
            for t in tools.values()
            if not t.practice
        ),
        *(
            Happened(
                r.created_at,
                "",
                "box",
                names[i],
                say("{count} on the shelf now", count=r.count)
                if r.note == ""
                else say("{count} on the shelf now: {note}", count=r.count, note=r.note),
            )
            for i, r in rods.items()
        ),
    ]
    practice = {i for i, t in tools.items() if t.practice}
    told = (c for c in changes if c.row_id not in practice)
    changed = (_of_change(c, names, {}, unit) for c in told)
    return sorted([*made, *(c for c in changed if c.words)], key=lambda e: e.at, reverse=True)


def _readings(session: Session, names: Mapping[UUID, str]) -> list[Reading]:
    query = select(Reading).where(Reading.valve_id.in_(names)).order_by(Reading.id)
    return list(session.scalars(query))


def _of_readings(
    rows: Sequence[Reading], names: Mapping[UUID, str], unit: Unit
) -> Iterator[Happened]:
    known = {r.id: r for r in rows}
    struck = struck_by(rows)
    for row in rows:
        words = _reading_words(row, known, unit)
        if row.id in struck:
            words += say(
                " (struck out: {reason})", reason=struck[row.id].reason or say("corrected")
            )
        yield Happened(row.taken_at, row.taken_by, "reading", names[row.valve_id], words)


def _reading_words(row: Reading, known: Mapping[int, Reading], unit: Unit) -> str:
    old, strikes = _about(row, known)
    number = say("Reading {number}", number=old.number) if old.number else say("A reading")
    if row.kind == "void":
        return (
            say("{number} counts again", number=number)
            if strikes % 2
            else say("{number} struck out: {reason}", number=number, reason=row.reason)
        )
    said = _said(row, unit)
    if old is not row:
        return say(
            "{said}, in place of reading {number}: {reason}",
            said=said,
            number=old.number,
            reason=row.reason,
        )
    return f"{said} ({row.reason})" if row.reason else said


def _about(row: Reading, known: Mapping[int, Reading]) -> tuple[Reading, int]:
    """The reading that a line is about, and how many strikes lie between them."""
    at, strikes = row, 0
    while (before := known.get(at.replaces_id or 0)) is not None:
        at = before
        strikes += at.kind == "void"
        if at.kind != "void":
            break
    return at, strikes


def _said(row: Reading, unit: Unit) -> str:
    if row.kind == "trial" and row.length_in is not None:
        gap = (
            ""
            if row.gap_in is None
            else say(", gap {gap}", gap=format_small(float(row.gap_in), unit))
        )
        feel = FEELS[cast(Feel, row.feel)] if row.feel else ""
        return say(
            "{number}: {feel} at {length}{gap}",
            number=row.number,
            feel=feel,
            length=format_length(float(row.length_in), unit),
            gap=gap,
        )
    if row.kind == "count_back":
        turns = "" if row.turns is None else format_turns(float(row.turns))
        return say("Counted back {turns} turns", turns=turns)
    if row.kind == "mark":
        return say("{number}: mark", number=row.number)
    return f"{row.number}: {METHODS[cast(Method, row.kind)]}, {_read(row, unit)}"


def _read(row: Reading, unit: Unit) -> str:
    """What a measurement read, in its unit; turns as they were typed."""
    if row.kind == "extend" and row.repeats:
        return ", ".join(format_length(x, unit) for x in row.repeats)
    read = row.push_in if row.push_in is not None else row.gap_in
    return row.raw if read is None else format_small(float(read), unit)


def _of_order(order: Order) -> Happened:
    what = say("Trial rods") if order.purpose == "trial" else say("Set")
    count = sum(line.quantity for line in order.lines)
    return Happened(
        order.made_at,
        order.made_by,
        "order",
        say("order {number}", number=order.number),
        say("{what} drafted: {count}", what=what, count=count),
    )


def _of_findings(
    session: Session, build: Build, names: Mapping[UUID, str], unit: Unit
) -> Iterator[Happened]:
    for row in session.scalars(select(Finding).where(Finding.build_id == build.id)):
        title = BY_NAME[row.name].title if row.name in BY_NAME else row.name
        found = (say("yes") if row.yes else say("no")) if row.yes is not None else ""
        if row.value_in is not None:
            found = format_small(float(row.value_in), unit)
        yield Happened(
            row.found_at, row.found_by, "check", names[row.valve_id], f"{title}: {found}"
        )


def _of_signatures(session: Session, build: Build) -> Iterator[Happened]:
    for row in session.scalars(select(Signature).where(Signature.build_id == build.id)):
        rest = (
            say(", {open_points} open", open_points=len(row.open_points)) if row.open_points else ""
        )
        yield Happened(
            row.signed_at, row.signed_by, "signature", "", say("Signed{rest}", rest=rest)
        )


def _of_notes(
    session: Session, build: Build, names: Mapping[UUID, str], rows: Sequence[Reading]
) -> Iterator[Happened]:
    valves: dict[int | None, UUID] = {r.id: r.valve_id for r in rows}
    notes = list(session.scalars(select(Note).where(Note.build_id == build.id)))
    before: dict[int | None, Note] = {n.id: n for n in notes}
    for note in notes:
        valve = note.valve_id or valves.get(note.reading_id)
        where = "" if valve is None else names.get(valve, "")
        words = say("Note: {note}", note=_noted(note))
        if note.replaces_id is not None:
            was = _noted(before[note.replaces_id])
            gone = not note.body and note.photo_id is None
            words = (
                say("Note taken away: {was}", was=was)
                if gone
                else say("Note now: {note}; was: {was}", note=_noted(note), was=was)
            )
        yield Happened(note.at, note.by, "note", where, words)


def _noted(note: Note) -> str:
    return note.body or say("a photo")


def _of_changes(
    session: Session,
    build: Build,
    names: Mapping[UUID, str],
    rows: Sequence[Reading],
    orders: Sequence[Order],
    unit: Unit,
) -> Iterator[Happened]:
    tools = {r.instrument_id for r in rows if r.instrument_id} | {build.instrument_id}
    found = list(
        session.scalars(
            select(Change)
            .where(
                or_(
                    and_(Change.of_table == "builds", Change.row_id == str(build.id)),
                    and_(Change.of_table == "valves", Change.row_id.in_(map(str, names))),
                    and_(Change.of_table == "instruments", Change.row_id.in_(map(str, tools))),
                    and_(Change.of_table == "orders",
                         Change.row_id.in_([str(o.id) for o in orders])),
                )
            )
            .order_by(Change.id)
        )
    )  # fmt: skip
    asked = {str(t) for c in found for t in (c.old.get("instrument_id"),
             c.new.get("instrument_id")) if t} | {str(t) for t in tools if t}  # fmt: skip
    called = {
        str(t.id): t.name
        for t in session.scalars(select(Instrument).where(Instrument.id.in_(map(UUID, asked))))
    }
    where = {str(i): n for i, n in names.items()} | called
    where |= {str(o.id): say("order {number}", number=o.number) for o in orders}
    for one in found:
        told = _of_change(one, where, called, unit)
        if not told.words:
            continue
        # A tool belongs to the shop: its change is taken back there.
        yield replace(told, change_id=None) if told.kind == "tool" else told


def _of_change(
    found: Change, where: Mapping[str, str], tools: Mapping[str, str], unit: Unit
) -> Happened:
    words, details = _change_words(found, tools, unit)
    return Happened(
        found.at, found.by, _KIND[found.of_table], where.get(found.row_id, ""), words, details,
        found.id if can_undo(found) else None,
    )  # fmt: skip


def _change_words(
    found: Change, tools: Mapping[str, str], unit: Unit
) -> tuple[str, tuple[Detail, ...]]:
    """What was changed, and each figure of it; no words where only what is never told moved."""
    for name, shelf in _SHELVES.items():
        if name in found.new:
            return (
                say("Into the {shelf}", shelf=shelf)
                if found.new[name]
                else say("Out of the {shelf}", shelf=shelf)
            ), ()
    if found.of_table == "orders" and "state" in found.new:
        return f"{STATE_WORDS[found.old['state']]} → {STATE_WORDS[found.new['state']]}", ()
    told = [n for n in found.new if n not in _NOT_TOLD]
    details = tuple(
        detail
        for name in sorted(told)
        for detail in _details(name, found.old.get(name), found.new[name], tools, unit)
    )
    names = list(dict.fromkeys(in_words(n) for n in sorted(told)))
    return ", ".join(names[:4]), details[:_MOST_DETAILS]


def _details(
    name: str, old: Any, new: Any, tools: Mapping[str, str], unit: Unit, under: str = ""
) -> Iterator[Detail]:
    label = f"{under}{in_words(name)}"
    if isinstance(old, dict) or isinstance(new, dict):
        before, after = _parts(old), _parts(new)
        for key in sorted(before.keys() | after.keys()):
            if before.get(key) != after.get(key):
                yield from _details(key, before.get(key), after.get(key), tools, unit,
                                    f"{label}: ")  # fmt: skip
        return
    yield Detail(label, _value(name, old, tools, unit), _value(name, new, tools, unit))


def _parts(value: Any) -> dict[str, Any]:
    return value if isinstance(value, dict) else {}


def _value(name: str, value: Any, tools: Mapping[str, str], unit: Unit) -> str:
    if value is None or value == "":
        return say("nothing")
    if isinstance(value, bool):
        return say("yes") if value else say("no")
    if isinstance(value, list):
        return say("{value} figures", value=len(value))
    if isinstance(value, int | float):
        if not name.endswith("_in"):
            return figure(value, "g") + ("°" if name.endswith("_deg") else "")
        return (format_small if abs(value) < _SMALL else format_length)(float(value), unit)
    text = str(value)
    named: Mapping[str, Saying] = cast(Mapping[str, Saying], CONVENTIONS)
    if text in named:
        return say(named[text])
    coded = name not in _WRITTEN and _CODE.fullmatch(text)
    return tools.get(text) or (say(text.replace("_", " ")) if coded else text.replace("_", " "))


def people(session: Session) -> list[str]:
    """Who has read, checked and noted here lately, the last one first."""
    found: list[tuple[datetime, str]] = []
    for by, at, id_ in (
        (Reading.taken_by, Reading.taken_at, Reading.id),
        (Finding.found_by, Finding.found_at, Finding.id),
        (Note.by, Note.at, Note.id),
    ):
        late = select(by.label("by"), at.label("at")).order_by(id_.desc()).limit(2000).subquery()
        last = select(func.max(late.c.at), late.c.by).group_by(late.c.by)
        found += [(when, name) for when, name in session.execute(last)]
    names = (name.strip() for _, name in sorted(found, reverse=True))
    return list(dict.fromkeys(name for name in names if name))[:_MOST_PEOPLE]
