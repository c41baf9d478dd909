"""Where a build stands after fitting: every check judged, what is open, who signed."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, cast
from uuid import UUID

from propcache.api import cached_property
from sqlalchemy import select
from sqlalchemy.orm import Session

from vivid_arm.core.engine.layout import ValveKind
from vivid_arm.core.entry.lengths import format_small
from vivid_arm.core.errors import InputError
from vivid_arm.core.sign_off.checks import (
    CHECKS,
    DISAGREE_IN,
    Check,
    CheckName,
    Judged,
    Limit,
    apart,
    cold_lash_in,
    feelers_in,
    judge,
    judge_answer,
    needed,
    told_twice,
)
from vivid_arm.core.words import Saying, say
from vivid_arm.core.zero_lash.bracket import check_ratio
from vivid_arm.core.zero_lash.methods import (
    Measure,
    Source,
    fastener_turns,
    gap_bottomed,
    indicator_push,
)
from vivid_arm.records.evidence import LastLink, last_link
from vivid_arm.records.fingerprint import Fingerprint, digest, fingerprint, moved_on
from vivid_arm.records.nods import words_of
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.limits import limit_of
from vivid_arm.records.state.measuring import plain_turns
from vivid_arm.records.state.orders import delivered, fitted_preloads
from vivid_arm.records.state.valve import ValveState
from vivid_arm.records.tables import Build, Finding, Order, Signature

Way = Literal["", "turns", "indicator", "gap", "clay", "table", "feeler", "feeler_cold"]


WAYS: dict[CheckName, tuple[Way, ...]] = {
    "preload": ("turns", "indicator", "gap"),
    "lash": ("feeler", "feeler_cold"),
    "piston": ("clay", "table"),
    "piston_radial": ("clay", ""),
}


WAY_WORDS: dict[Way, Saying] = {
    "": Saying("measured"),
    "turns": Saying("fastener turns"),
    "indicator": Saying("indicator on the rod"),
    "gap": Saying("gap, lifter bottomed"),
    "clay": Saying("clay"),
    "table": Saying("indicator table"),
    "feeler": Saying("feeler, as the sheet"),
    "feeler_cold": Saying("feeler, cold"),
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


@dataclass(frozen=True)
class Point:
    """One check on one valve: what it found last, how that is judged; nothing while not made.

    ``u_in``: the standard uncertainty of what was found, where its way of reading tells it.
    """

    check: Check
    valve: ValveState
    required: bool
    limit: Limit | None
    row: Finding | None
    value_in: float | None
    judged: Judged | None
    u_in: float = 0.0

    @property
    def words(self) -> str:
        return f"{self.check.title} {self.valve.name}"


class SignOffState:
    """A build after its rods are in: every check, what is open, who signed."""

    def __init__(
        self,
        state: BuildState,
        findings: Sequence[Finding],
        signatures: Sequence[Signature],
        orders: Sequence[Order],
        fingerprint: Fingerprint,
        last: LastLink,
        no_nod: str,
    ) -> None:
        self.state = state
        self.findings = findings
        self.signatures = signatures
        self.orders = orders
        self.fingerprint = fingerprint
        self.last = last
        self.no_nod = no_nod

    @cached_property
    def points(self) -> tuple[Point, ...]:
        """Every check on every valve it asks for, and those made beside that."""
        valves = {v.name: v for v in self.state.valves}
        latest = {(f.name, f.valve_id): f for f in self.findings}
        shaft = self.state.build.mount in ("shaft", "shaft_adjustable")
        kinds = {n: v.kind for n, v in valves.items()}
        asked = needed(kinds, solid=self.state.solid, shaft=shaft)
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
        row = self._smallest(check, valve, row)
        limit = self.limit(check, valve.kind, "" if row is None else cast(Way, row.way))
        judged = None
        if row is not None and check.yes_no:
            judged = judge_answer(bool(row.yes))
        value, u = (None, 0.0) if row is None else found_in(self.state, valve, row)
        if row is None and check.name == "preload" and not self.state.orders and valve.in_hand:
            value, u = valve.in_hand.preload_in, valve.in_hand.u_in
        if value is not None and limit is not None:
            judged = judge(value, limit, u)
        return Point(check, valve, required, limit, row, value, judged, u)

    def _smallest(self, check: Check, valve: ValveState, row: Finding | None) -> Finding | None:
        """Of a clearance read in several ways, the way that leaves least; else the latest."""
        by_way = self._by_way(check, valve)
        if len(by_way) < 2 or check.name != "piston":
            return row
        return min(by_way.values(), key=lambda f: float(f.value_in or 0))

    def _by_way(self, check: Check, valve: ValveState) -> dict[str, Finding]:
        """The latest finding of a check by each way it was made in."""
        own = [f for f in self.findings if (f.name, f.valve_id) == (check.name, valve.valve.id)]
        return {f.way: f for f in own}

    @property
    def _disagreeing(self) -> list[str]:
        """Clearances that two ways of reading tell differently."""
        found = []
        for point in self.points:
            read = [float(f.value_in or 0) for f in self._by_way(point.check, point.valve).values()]
            if point.check.name == "piston" and read and max(read) - min(read) > DISAGREE_IN:
                small = format_small(max(read) - min(read))
                found.append(
                    say(
                        "{words}: clay and indicator differ by {small}",
                        words=point.words,
                        small=small,
                    )
                )
        return found

    @property
    def notes(self) -> list[str]:
        """What a careful builder would look at again though nothing fails by it."""
        return [*self._at_the_limit, *self._unlike_the_rods]

    @property
    def _at_the_limit(self) -> list[str]:
        near = [p for p in self.points if p.judged is not None and not p.judged.sure]
        if not near:
            return []
        return [
            say(
                "Preload at the limit: {valves}. It is read to about ± {within} (k = 2): read it "
                "again by another way.",
                valves=", ".join(p.valve.name for p in near),
                within=format_small(round(2 * max(p.u_in for p in near), 3)),
            )
        ]

    @property
    def _unlike_the_rods(self) -> list[str]:
        """Preloads found that cannot be what the rods fitted and zero lash give, way by way."""
        own = [p for p in self.points if p.check.name == "preload" and p.row is not None]
        given = fitted_preloads(self.state) if own else {}
        by_way: dict[Way, dict[str, Measure]] = {}
        for p in own:
            measure = _physical(self.state, p)
            if p.row is not None and measure is not None and p.valve.name in given:
                by_way.setdefault(cast(Way, p.row.way), {})[p.valve.name] = measure
        return [words for way, read in by_way.items() for words in _unlike(way, read, given)]

    def limit(self, check: Check, kind: ValveKind, way: Way = "") -> Limit | None:
        """A check's limit: the lifter's window, the lash set, the builder's own or the trade's."""
        build = self.state.build
        if check.name == "preload":
            lifter = self.state.lifter
            source = say("the preload window")
            return Limit(lifter.low_in, lifter.high_in, source)
        if check.name == "lash":
            lash = build.lash_intake_in if kind == "intake" else build.lash_exhaust_in
            if lash is None:
                return None
            at, words = float(lash), say("the lash set")
            if way == "feeler_cold":
                cold = cold_of(build, at)
                if cold is None:
                    return None
                at, words = cold, say("the lash set, cold")
            return Limit(max(0.0, at - LASH_WITHIN_IN), at + LASH_WITHIN_IN, words)
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
        found = [say("{words} fails", words=p.words) for p in self.failing] + self._disagreeing
        found += [self.no_nod] if self.no_nod else []
        by_check: dict[str, list[str]] = {}
        for p in self.missing:
            by_check.setdefault(say(p.check.title), []).append(p.valve.name)
        for title, names in by_check.items():
            shown = ", ".join(names[:4]) + (
                say(" and {names} more", names=len(names) - 4) if len(names) > 4 else ""
            )
            found.append(say("{title} not checked: {shown}", title=title, shown=shown))
        return found + self._fitted_unlike

    @property
    def _fitted_unlike(self) -> list[str]:
        """Sets that were fitted though they were not what was ordered, and why."""
        fitted = [o for o in self.state.orders if o.purpose == "set" and o.state == "fitted"]
        said = [(o, delivered(self.state, o)) for o in fitted]
        return [
            say(
                "Order {number} was fitted not as ordered ({unlike}): {reason}",
                number=o.number,
                unlike="; ".join(unlike[:4]),
                reason=o.reason,
            )
            for o, unlike in said
            if unlike
        ]

    @property
    def stamp(self) -> str:
        """A mark of everything a signature stands on."""
        lengths = [(v.name, _rounded(v.estimate_in)) for v in self.state.valves]
        made = [p for p in self.points if p.row is not None]
        checked = [(f"{p.check.title.text} {p.valve.name}", _rounded(p.value_in)) for p in made]
        return self.fingerprint.signed(digest((*lengths, *checked)))

    @property
    def signed(self) -> Signature | None:
        return self.signatures[0] if self.signatures else None

    @property
    def moved_on(self) -> list[str]:
        """What has changed since the build was signed, in words; empty when nothing has."""
        return moved_on(self.signed.stamp, self.stamp) if self.signed is not None else []

    def feelers(self, kind: ValveKind) -> tuple[float, float] | None:
        """The feeler that drags and the one that must not enter; None without a lash."""
        build = self.state.build
        lash = build.lash_intake_in if kind == "intake" else build.lash_exhaust_in
        return None if lash is None else feelers_in(float(lash))


def cold_of(build: Build, hot_in: float) -> float | None:
    """Cold lash for the engine's materials; None where they are not said or nothing is left."""
    block, head = (build.plan.block, build.plan.head) if build.plan else (None, None)
    if not block or not head:
        return None
    both, one = block == head == "aluminium", head == "aluminium"
    try:
        return cold_lash_in(hot_in, "both" if both else "head" if one else "iron")
    except InputError:
        return None


def _rounded(value_in: float | None) -> float | None:
    return None if value_in is None else round(value_in, 5)


def preload_of(
    build: Build, ratio: float, way: Way, read: float, *, plain_rule: bool | None = None
) -> Measure:
    """Preload from the fastener's turns, the rod's push, or the bottomed lifter's gap.

    ``plain_rule``: turns by the thread alone; None for as the build holds its window. Raises
    InputError for a figure that cannot be.
    """
    if way == "turns":
        plain = plain_turns(build) if plain_rule is None else plain_rule
        pitch = float(build.fastener_pitch_in)
        return fastener_turns(read, pitch, check_ratio(ratio), plain_rule=plain)
    if way == "indicator":
        return indicator_push(read, Source())
    return gap_bottomed(read, float(build.travel_in), check_ratio(ratio))


def found_in(state: BuildState, valve: ValveState, row: Finding) -> tuple[float | None, float]:
    """What a finding gives today, with today's ratio, thread and travel, and how well known.

    Inches and standard uncertainty, 0 where it is not known; None where it gives nothing.
    """
    if row.read is None:
        return (None if row.value_in is None else float(row.value_in)), 0.0
    try:
        measure = preload_of(state.build, valve.ratio, cast(Way, row.way), float(row.read))
    except InputError:
        return None, 0.0
    return measure.preload_in, measure.u_in


def _unlike(
    way: Way, read: Mapping[str, Measure], given: Mapping[str, tuple[float, float]]
) -> Iterator[str]:
    """Preloads read in one way against those given, where they cannot both be, in sentences."""
    preloads = {n: m.preload_in for n, m in read.items() if m.preload_in is not None}
    found = apart([told_twice(n, p, read[n].u_in, *given[n]) for n, p in preloads.items()])
    if found.by_in is not None:
        yield say(
            "Preload found by {way} is about {by} {more} than the rods and zero lash give, on all "
            "valves alike: convention, gasket, or where the reading begins. Read one by another "
            "way before it runs.",
            way=say(WAY_WORDS[way]),
            by=format_small(abs(round(found.by_in, 3))),
            more=say("more") if found.by_in > 0 else say("less"),
        )
    if found.valves:
        which = ", ".join(
            say(
                "{valve} {found} for {rod}",
                valve=name,
                found=format_small(preloads[name]),
                rod=format_small(given[name][0]),
            )
            for name in found.valves[:3]
        )
        names = len(found.valves) - 3
        yield say(
            "Preload found is not what the rods and zero lash give: {which}{more}. One of the two "
            "is misread: read it by another way before it runs.",
            which=which,
            more=say(" and {names} more", names=names) if names > 0 else "",
        )


def _physical(state: BuildState, point: Point) -> Measure | None:
    """How far the plunger was found pushed, by whatever rule the window is held."""
    row = point.row
    if row is None or row.read is None:
        return None
    way, read = cast(Way, row.way), float(row.read)
    try:
        return preload_of(state.build, point.valve.ratio, way, read, plain_rule=False)
    except InputError:
        return None


def sign_off_state(session: Session, state: BuildState) -> SignOffState:
    """A build's checks and signatures with what is measured of it."""
    build_id = state.build.id
    mark = fingerprint(session, build_id)
    assert mark is not None
    return SignOffState(
        state,
        findings_of(session, build_id),
        signatures_of(session, build_id),
        state.orders,
        mark,
        last_link(session, build_id),
        words_of(session, build_id),
    )
