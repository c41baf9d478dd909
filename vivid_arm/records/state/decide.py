"""How a build's rods are decided: the valves known or inferred, the shop's box, the choice."""

from collections.abc import Sequence
from dataclasses import dataclass
from math import hypot
from typing import cast

from propcache.api import cached_property

from vivid_arm.core.engine.base_circle import chosen_valves
from vivid_arm.core.engine.layout import KIND_WORDS, KINDS, ValveKind, valve_name
from vivid_arm.core.entry.conventions import Convention, convert
from vivid_arm.core.entry.lengths import format_length, format_small
from vivid_arm.core.errors import InputError
from vivid_arm.core.heads.infer import inferred
from vivid_arm.core.rocker.judged import SettledSetting
from vivid_arm.core.rods.decide import Decision, ValveKnown, decide
from vivid_arm.core.rods.groups import GroupOrder, MeasuredValve, group_order
from vivid_arm.core.rods.in_hand import RodsInHand, rods_in_hand
from vivid_arm.core.rods.preload import Bias, exact_length_in
from vivid_arm.core.said.verdicts import Verdict, fill, group_verdict, solid_verdict
from vivid_arm.core.words import Saying, say
from vivid_arm.records.state.heads import HeadsState
from vivid_arm.records.state.plan import RodPlan, aim_of, plan_of
from vivid_arm.records.state.valve import ValveState
from vivid_arm.records.tables import BoxRod

_NOT_SETTLED = Saying("Not settled: ")
_NUT_TAKES_UP_IN = 0.010
"""How far valves of a kind usually stand apart; on a stud the nut takes it up."""

_HEADED: dict[ValveKind, Saying] = {"intake": Saying("Intake"), "exhaust": Saying("Exhaust")}


@dataclass(frozen=True)
class GeometryRod:
    """A kind's rod by the marks of one valve, in the order's convention.

    ``settled`` is the rod at zero lash (centre length), None while the marks settle none;
    ``words`` is then what they say and what to read next.
    """

    valve: str
    settled: SettledSetting | None
    offset_in: float
    preload_in: float
    seat_in: float
    words: str

    @property
    def length_in(self) -> float | None:
        """The rod to order: the one at zero lash, and the preload on top."""
        if self.settled is None:
            return None
        stood = self.settled.setting_in + self.offset_in + self.seat_in
        return exact_length_in(stood, self.preload_in)

    @property
    def sum(self) -> str:
        """How the length comes about; empty where nothing is settled."""
        if self.settled is None or self.length_in is None:
            return ""
        at = format_length(self.settled.setting_in + self.offset_in)
        how = say("its mark is good") if self.settled.tried else say("by the marks")
        added = [(self.preload_in, say("preload")), (self.seat_in, say("to the final engine"))]
        terms = [
            f" {'+' if x > 0 else '−'} {format_small(abs(x))} {what}"
            for x, what in added
            if abs(x) > 1e-9
        ]
        if not terms:
            return say("{at} at zero lash on {valve} ({how}).", at=at, valve=self.valve, how=how)
        return say(
            "{at} at zero lash on {valve} ({how}){terms} = {length}; the nut ends where it "
            "stood in the try.",
            at=at,
            valve=self.valve,
            how=how,
            terms="".join(terms),
            length=format_length(self.length_in),
        )

    @property
    def open_point(self) -> str:
        """The sentence among what is open."""
        return say(
            "Rocker of {valve} is not settled: {not_settled}",
            valve=self.valve,
            not_settled=self.words.removeprefix(say(_NOT_SETTLED)),
        )


class DecideState(HeadsState):
    """The heads with the rods decided for them."""

    @cached_property
    def plan(self) -> RodPlan:
        """How its rods are decided."""
        return plan_of(self.build)

    @cached_property
    def groups(self) -> tuple[GroupOrder, ...]:
        """Intake and exhaust rods; a valve that is not believable decides nothing."""
        return tuple(self._group(kind, self.believed(kind)) for kind in KINDS)

    def _group(self, kind: ValveKind, measured: Sequence[MeasuredValve]) -> GroupOrder:
        if self.solid:
            measured = ()
        build = self.build
        picked = build.picked_intake_in if kind == "intake" else build.picked_exhaust_in
        return group_order(
            kind,
            sum(1 for v in self.valves if v.kind == kind),
            measured,
            self.lifter,
            float(build.stock_step_in),
            cast(Bias, build.bias),
            offset_in=self.offset_in,
            picked_in=None if picked is None else float(picked),
            corners_left=self._corners_left(kind, measured),
            shelf=self.shelf,
            lengths_in=self.plan.lengths_in,
        )

    @cached_property
    def in_hand(self) -> list[RodsInHand]:
        """What the rods on the engine do by kind, where preload was read without their length."""
        if self.solid:
            return []
        step = float(self.build.stock_step_in)
        found = []
        for kind in KINDS:
            own = [v for v in self.valves if v.kind == kind]
            reads = [r for v in own if (r := v.in_hand) is not None]
            found.append(rods_in_hand(kind, reads, len(own), self.lifter, step))
        return [f for f in found if f is not None]

    def _corners_left(self, kind: ValveKind, measured: Sequence[MeasuredValve]) -> bool:
        corners = {c for c, k in chosen_valves(self.engine, "corners") if k == kind}
        return not corners <= {m.cylinder for m in measured}

    @cached_property
    def known_valves(self) -> list[ValveKnown]:
        """Every valve of the engine in the order's convention, those nobody measured inferred.

        A valve that is not believable is inferred from the others of its kind. Valves of a
        kind nobody measured are left out.
        """
        believed = {
            (m.cylinder, m.kind): m for kind in KINDS for m in self.believed(kind)
        }  # fmt: skip
        sound = {(m.cylinder, m.kind) for m in believed.values()}
        known = [k for k in self.known if (k.cylinder, k.kind) in sound]
        # An odd valve, or a head's high corner, never drags what is inferred for others.
        apart = {name for remark in self.spread.remarks for name in remark.valves}
        alike = [k for k in known if k.name not in apart]
        where = {c: (h.bank, h.place(c)) for h in self.engine.heads for c in h.cylinders}
        wanted = self.wanted_by_geometry
        found = []
        for valve in self.valves:
            cylinder, kind = valve.valve.cylinder, valve.kind
            own = believed.get((cylinder, kind))
            source = own or inferred(
                cylinder, kind, *where[cylinder], alike or known, self.spread.slopes
            )
            source = source or self._by_geometry(cylinder, kind)
            if source is None:
                continue
            ratio = self.ratios[kind]
            measured = hypot(valve.instrument_u_in, valve.carried[1])
            shared = hypot(measured, self.convention_u_in)
            level, level_u = (0.0, 0.0) if own else valve.explained
            found.append(
                ValveKnown(
                    valve_name(cylinder, kind),
                    kind,
                    source.zero_lash_in + level + self.offset_in,
                    hypot(source.u_in, self.convention_u_in)
                    if own
                    else hypot(source.u_in, shared, level_u),
                    ratio.value,
                    ratio.half_width,
                    own is None,
                    shared,
                    wanted.get(kind),
                )
            )
        return found

    def _by_geometry(self, cylinder: int, kind: ValveKind) -> MeasuredValve | None:
        """Zero lash of a valve nobody measured: the rod that a good mark was made with."""
        rod = self.geometry.get(kind)
        if rod is None or rod.length_in is None:
            return None
        zero_lash = rod.length_in - rod.preload_in - self.offset_in
        return MeasuredValve(cylinder, kind, zero_lash, _NUT_TAKES_UP_IN)

    @cached_property
    def geometry(self) -> dict[ValveKind, GeometryRod]:
        """What a stud's marks settle about each kind's rod, or why they settle nothing."""
        if self.build.mount != "stud":
            return {}
        found: dict[ValveKind, GeometryRod] = {}
        for valve in self.valves:
            known = found.get(valve.kind)
            if valve.rocker.tries and (known is None or known.settled is None):
                said = self._by_marks(valve)
                found[valve.kind] = said if known is None or said.settled else known
        return found

    def _by_marks(self, valve: ValveState) -> GeometryRod:
        rocker = valve.rocker
        settled = None if rocker.contradiction else rocker.judged.settled
        said = rocker.verdict
        words = [
            fill(text, rocker.shown(said.lengths), said.smalls)
            for text in (said.what, said.then)
            if text
        ]
        return GeometryRod(
            valve.name,
            settled,
            rocker.order_offset_in,
            0.0 if self.solid else self.lifter.target_in,
            valve.carried[0],
            " ".join(words),
        )

    @property
    def wanted_by_geometry(self) -> dict[ValveKind, float]:
        """The length a stud's rockers ask for by kind, in the order's convention."""
        lengths = {kind: rod.length_in for kind, rod in self.geometry.items()}
        return {kind: length for kind, length in lengths.items() if length is not None}

    @property
    def geometry_sums(self) -> list[str]:
        """How the rod of each kind comes about where marks settle it."""
        return [f"{_HEADED[kind]}: {rod.sum}" for kind, rod in self.geometry.items() if rod.sum]

    @property
    def carried_words(self) -> list[str]:
        """What is carried over to the final engine, by kind, and how it was measured."""
        final = self.build.final
        if final is None or not any(c.intake_in or c.exhaust_in for c in final.changes.values()):
            return []
        lifter = say("{lifter} lifter", lifter=final.lifter) if final.lifter else ""
        with_ = ", ".join(filter(None, (lifter, final.measured_with)))
        on = say(" (measured with {with_})", with_=with_) if with_ else ""
        said = []
        for kind in KINDS:
            valve = next((v for v in self.valves if v.kind == kind), None)
            if valve is not None and abs(valve.carried[0]) > 1e-9:
                way = say("longer") if valve.carried[0] > 0 else say("shorter")
                by = format_small(abs(valve.carried[0]))
                said.append(
                    say(
                        "The final engine wants {kind} rods {by} {way} than it measured{on}.",
                        kind=KIND_WORDS[kind],
                        by=by,
                        way=way,
                        on=on,
                    )
                )
        return said

    @property
    def geometry_open(self) -> list[str]:
        """What the marks leave open, and the reading that decides it."""
        return [rod.open_point for rod in self.geometry.values() if rod.settled is None]

    @cached_property
    def decision(self) -> Decision | None:
        """The build's rods decided; None while nothing is measured. Raises InputError."""
        valves = self.known_valves
        if not valves:
            return None
        build, plan = self.build, self.plan
        aim = aim_of(build)
        if aim.mode == "length":
            picked = {g.kind: g.taken.length_in for g in self.groups if g.taken is not None}
        else:
            own = {"intake": build.picked_intake_in, "exhaust": build.picked_exhaust_in}
            picked = {cast(ValveKind, k): float(v) for k, v in own.items() if v is not None}
        return decide(
            aim,
            valves,
            float(build.stock_step_in),
            cast(Bias, build.bias),
            plan.strategy,
            box=self.shelf,
            stack=plan.stack,
            picked=picked,
            had_in=plan.lengths_in,
            grown_in=plan.grown_in,
        )

    @property
    def shelf(self) -> list[tuple[float, int]]:
        """(length, count) of the usable shelf rods in the order's convention, shortest first."""
        found: dict[float, int] = {}
        for rod in self.usable_box:
            length = self.box_length_in(rod)
            found[length] = found.get(length, 0) + rod.count
        return sorted(found.items())

    def box_length_in(self, rod: BoxRod) -> float:
        """A shelf rod's length in the order's convention, by this build's ends."""
        given = cast(Convention, rod.convention)
        return round(convert(float(rod.length_in), given, self.ordering, self.ends), 6)

    @property
    def usable_box(self) -> list[BoxRod]:
        """Shelf rods with this build's ends and diameter."""
        build = self.build
        wanted = build.rod.diameter_in if build.rod else 0.0
        return [
            r
            for r in self.box
            if r.count
            and (r.lifter_end, r.rocker_end) == (build.lifter_end, build.rocker_end)
            and (not wanted or abs(float(r.diameter_in) - wanted) < 1e-4)
        ]

    @cached_property
    def rods_in(self) -> dict[str, float]:
        """The rod each valve gets, in the order's convention: those that fit, and picked ones."""
        try:
            found = self.decision
        except InputError:
            return {}
        if found is None:
            return {}
        none = {g.kind for g in self.groups if g.choice is not None and g.taken is None}
        by_kind = found.strategy == "kinds" and found.aim.mode == "length"
        return {
            need.name: length
            for need, length in zip(found.needs, found.chosen.lengths_in, strict=True)
            if (need.kind not in none if by_kind else need.serves(length))
        }

    def preload_in(self, valve: ValveState) -> float | None:
        """Preload of a measured valve with its group's rod, inches."""
        if self.solid or valve.measured is None or valve.name not in self.rods_in:
            return None
        return self.rods_in[valve.name] - self.offset_in - valve.measured.zero_lash_in

    def group_verdict(self, group: GroupOrder) -> Verdict:
        if self.solid:
            return solid_verdict(group.kind)
        return group_verdict(group, self.lifter, float(self.build.stock_step_in))
