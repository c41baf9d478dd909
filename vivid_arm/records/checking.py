"""Checks after fitting: kept as found, judged against their limits, signed."""

import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal
from uuid import UUID

from sqlalchemy import select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from vivid_arm.core.bracket import check_ratio
from vivid_arm.core.checks import (
    BY_NAME,
    CHECKS,
    Check,
    CheckName,
    Closest,
    Judged,
    Limit,
    closest,
    feelers_in,
    judge,
    judge_answer,
    needed,
)
from vivid_arm.core.engine import ValveKind
from vivid_arm.core.errors import InputError
from vivid_arm.core.lengths import (
    FIELDS,
    Unit,
    parse_clearances,
    parse_length,
    parse_stack,
    parse_turns,
)
from vivid_arm.core.methods import Source, fastener_turns, gap_bottomed, indicator_push

from . import queries
from .finishing import limit_of
from .models import Build, Finding, Order, Signature, Valve
from .queries import Conflict
from .state import BuildState, ValveState

Way = Literal["", "turns", "indicator", "gap", "clay", "table", "feeler"]
WAYS: dict[CheckName, tuple[Way, ...]] = {
    "preload": ("turns", "indicator", "gap"),
    "lash": ("feeler",),
    "piston": ("clay", "table"),
}
WAY_WORDS: dict[Way, str] = {
    "": "measured",
    "turns": "fastener turns",
    "indicator": "indicator on the rod",
    "gap": "gap, lifter bottomed",
    "clay": "clay",
    "table": "indicator table",
    "feeler": "feeler",
}
LASH_WITHIN_IN = 0.001
"""A feeler that drags is right; the next thou up must not enter (common practice)."""


def findings_of(session: Session, build_id: UUID) -> list[Finding]:
    """Every finding of a build, oldest first."""
    query = select(Finding).where(Finding.build_id == build_id).order_by(Finding.id)
    return list(session.scalars(query))


def signatures_of(session: Session, build_id: UUID) -> list[Signature]:
    """A build's signatures, the newest first."""
    query = select(Signature).where(Signature.build_id == build_id).order_by(Signature.id.desc())
    return list(session.scalars(query))


def add_finding(
    session: Session,
    state: BuildState,
    valve: ValveState,
    *,
    key: UUID,
    name: CheckName,
    way: Way = "",
    text: str = "",
    yes: bool | None = None,
    unit: Unit = "in",
    by: str = "",
) -> None:
    """Keep what a check found, as typed; a later one of the same valve and check counts instead.

    Preload is worked out from turns, push or gap with today's ratio. Raises InputError for
    what cannot be, Conflict when the key was used for another finding.
    """
    check = BY_NAME[name]
    value, crank = _read(check, state, valve, way, text, yes, unit)
    row = {
        "key": key,
        "build_id": state.build.id,
        "valve_id": valve.valve.id,
        "name": name,
        "way": way,
        "raw": text.strip(),
        "value_in": None if value is None else queries.exact(value),
        "yes": yes if check.yes_no else None,
        "crank_deg": None if crank is None else queries.exact(crank),
        "found_by": by,
    }
    line = insert(Finding).values(**row).on_conflict_do_nothing().returning(Finding.id)
    if session.scalar(line) is None:
        _same(session, key, row)
    else:
        queries.touch(session, state.build.id)


def _same(session: Session, key: UUID, row: Mapping[str, object]) -> None:
    known = session.scalars(select(Finding).where(Finding.key == key)).one()
    content = ("build_id", "valve_id", "name", "way", "raw", "yes")
    differs = {n: row[n] for n in content if getattr(known, n) != row[n]}
    if differs:
        stored = {n: getattr(known, n) for n in differs}
        raise Conflict("This key was already used for another finding.", differs, stored)


def _read(
    check: Check,
    state: BuildState,
    valve: ValveState,
    way: Way,
    text: str,
    yes: bool | None,
    unit: Unit,
) -> tuple[float | None, float | None]:
    """A finding's value in inches and the crank angle it was found at. Raises InputError."""
    if check.yes_no:
        if yes is None:
            raise InputError(
                "yes", f"{check.title}: yes or no is wanted", expected="yes or no", code="empty"
            )
        return None, None
    if way not in WAYS.get(check.name, ("",)):
        listed = ", ".join(WAY_WORDS[w] for w in WAYS.get(check.name, ("",)))
        raise InputError(
            "way",
            f"{check.title} is not found by {WAY_WORDS[way]}",
            received=way,
            expected=listed,
            remedy=f"Take {listed}",
            code="wrong_kind",
        )
    if way == "table":
        found: Closest = closest(parse_clearances(text, unit))
        return found.clearance_in, found.crank_deg
    if check.name == "preload":
        return _preload(state, valve, way, text, unit), None
    field = FIELDS["lash"] if check.name == "lash" else FIELDS["clearance"]
    return float(parse_stack(text, field, unit)), None


def _preload(state: BuildState, valve: ValveState, way: Way, text: str, unit: Unit) -> float:
    """Preload from the fastener's turns, the rod's push, or the bottomed lifter's gap."""
    if state.solid:
        raise InputError(
            "name", "Solid lifters have no preload", remedy="Check the lash", code="wrong_kind"
        )
    build = state.build
    ratio = check_ratio(valve.ratio)
    if way == "turns":
        measure = fastener_turns(parse_turns(text), float(build.fastener_pitch_in), ratio)
    elif way == "indicator":
        push = float(parse_length(text, FIELDS["push"], unit).inches)
        measure = indicator_push(push, Source())
    else:
        gap = float(parse_stack(text, FIELDS["gap"], unit))
        measure = gap_bottomed(gap, float(build.travel_in), ratio)
    assert measure.preload_in is not None
    return measure.preload_in


@dataclass(frozen=True)
class Point:
    """One check on one valve: what it found last, how that is judged; nothing while not made."""

    check: Check
    valve: ValveState
    required: bool
    limit: Limit | None
    row: Finding | None
    judged: Judged | None

    @property
    def words(self) -> str:
        return f"{self.check.title} {self.valve.name}"


class FinishState:
    """A build after its rods are in: every check, what is open, who signed."""

    def __init__(
        self,
        state: BuildState,
        findings: Sequence[Finding],
        signatures: Sequence[Signature],
        orders: Sequence[Order],
    ) -> None:
        self.state = state
        self.findings = findings
        self.signatures = signatures
        self.orders = orders

    @cached_property
    def points(self) -> tuple[Point, ...]:
        """Every check on every valve it asks for, and those made beside that."""
        valves = {v.name: v for v in self.state.valves}
        latest = {(f.name, f.valve_id): f for f in self.findings}
        asked = needed({n: v.kind for n, v in valves.items()}, solid=self.state.solid)
        left_out = "preload" if self.state.solid else "lash"
        return tuple(
            self._point(check, valve, valve.name in asked.get(check.name, ()), row)
            for check in CHECKS
            if check.name != left_out
            for valve in self._in_firing_order
            if (row := latest.get((check.name, valve.valve.id)))
            or valve.name in asked.get(check.name, ())
        )

    @cached_property
    def _in_firing_order(self) -> list[ValveState]:
        place = {c: i for i, c in enumerate(self.state.engine.firing_order)}
        return sorted(
            self.state.valves, key=lambda v: (place[v.valve.cylinder], v.kind == "exhaust")
        )

    def _point(self, check: Check, valve: ValveState, required: bool, row: Finding | None) -> Point:
        limit = self.limit(check, valve.kind)
        judged = None
        if row is not None and check.yes_no:
            judged = judge_answer(bool(row.yes))
        elif row is not None and row.value_in is not None and limit is not None:
            judged = judge(float(row.value_in), limit)
        return Point(check, valve, required, limit, row, judged)

    def limit(self, check: Check, kind: ValveKind) -> Limit | None:
        """A check's limit: the lifter's window, the lash set, the builder's own or the trade's."""
        build = self.state.build
        if check.name == "preload":
            lifter = self.state.lifter
            source = "the preload window"
            return Limit(lifter.low_in, lifter.high_in, source)
        if check.name == "lash":
            lash = build.lash_intake_in if kind == "intake" else build.lash_exhaust_in
            if lash is None:
                return None
            return Limit(
                max(0.0, float(lash) - LASH_WITHIN_IN), float(lash) + LASH_WITHIN_IN, "the lash set"
            )
        return limit_of(build, check, kind)

    @property
    def failing(self) -> tuple[Point, ...]:
        return tuple(p for p in self.points if p.judged is not None and not p.judged.passed)

    @property
    def missing(self) -> tuple[Point, ...]:
        return tuple(p for p in self.points if p.required and p.judged is None)

    @property
    def open_points(self) -> list[str]:
        """What stands against signing, failures first, each check once."""
        found = [f"{p.words} fails" for p in self.failing]
        by_check: dict[str, list[str]] = {}
        for p in self.missing:
            by_check.setdefault(p.check.title, []).append(p.valve.name)
        for title, names in by_check.items():
            shown = ", ".join(names[:4]) + (f" and {len(names) - 4} more" if len(names) > 4 else "")
            found.append(f"{title} not checked: {shown}")
        return found

    @property
    def stamp(self) -> str:
        """A mark of everything a signature stands on."""
        last = self.findings[-1].id if self.findings else 0
        build = self.state.build
        orders = ",".join(f"{o.id}:{o.state}" for o in self.orders)
        readings = max((r.id for v in self.state.valves for r in v.readings), default=0)
        text = f"{build.version}/{readings}/{last}/{orders}"
        return hashlib.sha256(text.encode()).hexdigest()[:32]

    @property
    def signed(self) -> Signature | None:
        return self.signatures[0] if self.signatures else None

    @property
    def signed_before_changes(self) -> bool:
        """Whether the build has moved on since it was signed."""
        return self.signed is not None and self.signed.stamp != self.stamp

    def feelers(self, kind: ValveKind) -> tuple[float, float] | None:
        """The feeler that drags and the one that must not enter; None without a lash."""
        build = self.state.build
        lash = build.lash_intake_in if kind == "intake" else build.lash_exhaust_in
        return None if lash is None else feelers_in(float(lash))


def finish_state(session: Session, state: BuildState) -> FinishState:
    """A build's checks and signatures with what is measured of it."""
    build_id = state.build.id
    return FinishState(
        state, findings_of(session, build_id), signatures_of(session, build_id), state.orders
    )


def sign(session: Session, finish: FinishState, key: UUID, by: str, reason: str) -> None:
    """Sign a build; the same key again signs it once.

    Raises InputError without a name, or while something is open and no reason is written.
    """
    build: Build = finish.state.build
    session.execute(select(Valve.id).where(Valve.build_id == build.id).with_for_update())
    if session.scalar(select(Signature.id).where(Signature.key == key)) is not None:
        return
    if not by.strip():
        raise InputError(
            "by", "The signature is empty", expected="a name", remedy="Write who signs",
            code="empty",
        )  # fmt: skip
    open_points = finish.open_points
    if open_points and not reason.strip():
        more = f" and {len(open_points) - 2} more" if len(open_points) > 2 else ""
        raise InputError(
            "reason",
            f"Not signed: {'; '.join(open_points[:2])}{more}",
            received=len(open_points),
            expected="every check made and passed, or a written reason",
            remedy="Make the check, or write why it may run all the same",
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
    queries.touch(session, build.id)
