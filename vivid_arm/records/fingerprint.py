"""One mark of everything that a build's figures depend on, part by part.

The board's summaries stand on all of it, and on the language their words are in. A signature
stands on what the builder and the shop have entered for this build and on the figures that
followed from it: what is in the rod box, or a program whose rules give the same figures, does
not make it old.
"""

import hashlib
from collections.abc import Collection, Iterable
from dataclasses import dataclass, fields, replace
from datetime import datetime
from functools import cache
from pathlib import Path
from typing import Any
from uuid import UUID

from sqlalchemy import (
    ColumnElement,
    ScalarSelect,
    String,
    any_,
    bindparam,
    cast,
    func,
    literal_column,
    or_,
    select,
)
from sqlalchemy.dialects.postgresql import aggregate_order_by
from sqlalchemy.orm import InstrumentedAttribute, Session

from vivid_arm.core.words import Saying, language, say
from vivid_arm.records.rows.kept import plain_rows
from vivid_arm.records.tables import (
    BoxRod,
    Build,
    Finding,
    Instrument,
    Order,
    Reading,
    Signature,
    Valve,
)


@dataclass(frozen=True)
class Fingerprint:
    """A mark for each part; two builds' figures can differ only where a mark differs.

    No marks, but what tells new lines of the log: ``lines`` how many there are, the last one's
    id and the sum of all ids; ``touched`` when the build last changed. ``lacks`` names the parts
    of which there is none: nobody need ask for them.
    """

    programme: str
    language: str
    settings: str
    log: str
    instruments: str
    box: str
    checks: str
    orders: str
    signatures: str
    lines: str
    touched: tuple[datetime, int]
    lacks: frozenset[str]

    @property
    def whole(self) -> str:
        """One mark of all parts; any line of the log that is added or undone touches the build."""
        return digest(getattr(self, name) for name in _WHOLE)

    def but_for_the_log(self, other: "Fingerprint") -> bool:
        """Whether nothing but the log differs."""
        moved = {name: getattr(other, name) for name in ("log", *_NO_MARKS)}
        return replace(self, **moved) == other

    def with_line(self, line_id: int, touched: tuple[datetime, int]) -> "Fingerprint | None":
        """The mark once a line more was kept, which touched the build so.

        None where anybody else has touched it since.
        """
        if touched[1] != self.touched[1] + 1:
            return None
        count, _, total = self.counted
        log = f"{count + 1}:{line_id}"
        return replace(self, log=log, lines=f"{log}:{total + line_id}", touched=touched)

    @property
    def counted(self) -> tuple[int, int, int]:
        """How many lines the log has, the last one's id and the sum of all ids."""
        count, last, total = (int(x) for x in (*self.lines.split(":"), "0", "0")[:3])
        return count, last, total

    def signed(self, figures: str) -> str:
        """What a signature stands on: marks by name, as they are kept with it."""
        marks = {name: digest((getattr(self, name),)) for name in _SIGNED}
        kept = marks | {"figures": figures}
        return " ".join(f"{name}:{mark}" for name, mark in kept.items())


_NO_MARKS = ("lines", "touched", "lacks")
_OF_THE_LOG = ("log", "lines", "lacks")
_WHOLE = tuple(f.name for f in fields(Fingerprint) if f.name not in _OF_THE_LOG)
_SIGNED = ("settings", "log", "instruments", "checks", "orders")
_WORDS = {
    "settings": Saying("the set-up"),
    "log": Saying("the readings"),
    "instruments": Saying("an instrument"),
    "checks": Saying("the checks"),
    "orders": Saying("the orders"),
    "figures": Saying("the figures, by other rules of the program"),
}


def moved_on(before: str, now: str) -> list[str]:
    """What has changed between two signed marks, in words; empty when nothing has."""
    if before == now:
        return []
    old, new = (dict(p.partition(":")[::2] for p in mark.split()) for mark in (before, now))
    changed = [n for n in _WORDS if old.get(n) != new.get(n)]
    # Figures move with what they follow from; alone they name the program.
    causes = [n for n in changed if n != "figures"] or changed
    return [say(_WORDS[n]) for n in causes]


def digest(parts: Iterable[object]) -> str:
    """A short mark of some values."""
    return hashlib.sha256("/".join(map(str, parts)).encode()).hexdigest()[:16]


@cache
def programme() -> str:
    """A mark of the program's source: other rules give other figures, other texts other words."""
    found = hashlib.sha256()
    folder = Path(__file__).parents[1]
    for path in sorted([*folder.rglob("*.py"), *folder.rglob("*.po")]):
        found.update(path.read_bytes())
    return found.hexdigest()[:16]


Part = ColumnElement[Any] | InstrumentedAttribute[Any]


def _joined(*parts: Part) -> ColumnElement[str]:
    return func.concat_ws(literal_column("':'"), *parts)


def _listed(mark: Part, by: Part) -> ColumnElement[str]:
    every = func.array_agg(aggregate_order_by(mark, by))
    return func.array_to_string(every, literal_column("','"))


def _versions(table: type[Valve]) -> ScalarSelect[str]:
    marks = _joined(func.count(), func.sum(table.version))
    return select(marks).where(table.build_id == Build.id).correlate(Build).scalar_subquery()


def _of_the_build() -> ColumnElement[bool]:
    """The lines of a build's valves, gone to by the valves' ids.

    A join could be turned round: where the tables were counted while a large build came in, the
    database takes them for empty and reads the whole log for each build.
    """
    valves = select(Valve.id).where(Valve.build_id == Build.id).correlate(Build)
    return Reading.valve_id == any_(func.array(valves.scalar_subquery()))


def _log() -> ScalarSelect[str]:
    marks = _joined(func.count(), func.max(Reading.id), func.sum(Reading.id))
    return select(marks).where(_of_the_build()).correlate(Build).scalar_subquery()


def _instruments() -> ScalarSelect[str]:
    """The instruments that the build or a line of its log names, with their versions."""
    named = select(Reading.instrument_id).where(_of_the_build()).correlate(Build)
    mark = _joined(cast(Instrument.id, String), Instrument.version)
    return (
        select(_listed(mark, Instrument.id))
        .where(or_(Instrument.id == Build.instrument_id, Instrument.id.in_(named)))
        .correlate(Build)
        .scalar_subquery()
    )


def _last(table: type[Finding] | type[Signature]) -> ScalarSelect[str]:
    marks = _joined(func.count(), func.max(table.id))
    return select(marks).where(table.build_id == Build.id).correlate(Build).scalar_subquery()


def _orders() -> ScalarSelect[str]:
    mark = _joined(Order.number, Order.version)
    return (
        select(_listed(mark, Order.number))
        .where(Order.build_id == Build.id)
        .correlate(Build)
        .scalar_subquery()
    )


_BOX = select(_joined(func.count(), func.sum(BoxRod.version))).scalar_subquery()
_AROUND = (
    Build.id, Build.version, _versions(Valve), _instruments(), _last(Finding), _orders(),
    _last(Signature), _BOX, Build.updated_at, Build.log_count,
)  # fmt: skip
_THESE = Build.id.in_(bindparam("ids", expanding=True))
MARK = select(*_AROUND, _log()).where(Build.id == bindparam("of"))
_BUT_FOR_THE_LOG = select(*_AROUND).where(_THESE)


def fingerprint(session: Session, build_id: UUID) -> Fingerprint | None:
    """The marks of a build, without reading its log; None where there is no such build."""
    row = plain_rows(session, MARK, {"of": build_id}).one_or_none()
    return None if row is None else _fingerprint(*row)


def wholes(session: Session, build_ids: Collection[UUID]) -> dict[UUID, str]:
    """One mark of all parts of each of some builds, without counting the lines of their logs."""
    rows = plain_rows(session, _BUT_FOR_THE_LOG, {"ids": list(build_ids)})
    return {row[0]: _fingerprint(*row).whole for row in rows}


def _fingerprint(
    _: UUID,
    version: int,
    valves: str,
    tools: str | None,
    checks: str,
    orders: str | None,
    signed: str,
    box: str,
    at: datetime,
    count: int,
    log: str = "",
) -> Fingerprint:
    return Fingerprint(
        programme(),
        language.get().key,
        f"{version}/{valves}",
        ":".join(log.split(":")[:2]),
        f"{tools}",
        box,
        checks,
        f"{orders}",
        signed,
        log,
        (at, count),
        _none_of(box=box, orders=orders, signatures=signed),
    )


def _none_of(**marks: str | None) -> frozenset[str]:
    """The parts whose mark counts none."""
    return frozenset(part for part, mark in marks.items() if mark in (None, "", "0"))
