"""The heads of a build: every valve, what they say together, which is doubted."""

import weakref
from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from decimal import Decimal
from math import hypot
from statistics import median
from typing import Protocol, cast
from uuid import UUID

from propcache.api import cached_property

from vivid_arm.core.arrays import Floats
from vivid_arm.core.engine.layout import KINDS, Engine, ValveKind
from vivid_arm.core.entry.conventions import CONVENTIONS, Convention
from vivid_arm.core.heads.mistakes import Circumstances, Suspicion, catch, disagreement
from vivid_arm.core.heads.spread import (
    PlacedValve,
    Remark,
    Spread,
    borne_out_slopes,
    neighbours_say,
    placed,
    read_spread,
    shared_remarks,
    stem_remark,
)
from vivid_arm.core.rods.groups import MeasuredValve
from vivid_arm.core.words import say
from vivid_arm.core.zero_lash.bracket import NEAR_GAP_IN, Trial, evidence, find_contradictions
from vivid_arm.core.zero_lash.hand import learned_by_others, learned_weights
from vivid_arm.core.zero_lash.predict import Mount
from vivid_arm.records.rows.line import KeptLine
from vivid_arm.records.state.log import ValveLog
from vivid_arm.records.state.rocker import ratio_known
from vivid_arm.records.state.setup import Ratio, predictions_of, starting_hands
from vivid_arm.records.state.valve import OnSetUp, SetUp, ValveState
from vivid_arm.records.tables import BoxRod, Build, Order, Signature

AGREE_IN = 0.012
"""Valves of a kind this near to one another tell where the next one of it reads."""


class Shop(Protocol):
    """What a build's state asks of the shop around it, when it needs it."""

    def box(self) -> Sequence[BoxRod]:
        """The rods on the shelf, shortest first."""

    def orders(self, build_id: UUID) -> Sequence[Order]:
        """A build's orders, the newest first."""

    def signature(self, build_id: UUID) -> Signature | None:
        """A build's latest signature."""


class HeadsState(OnSetUp):
    """Every valve of a build as measured, and the shop around it."""

    def __init__(
        self,
        build: Build,
        logs: Mapping[UUID, ValveLog],
        shop: Shop | None = None,
        before: "HeadsState | None" = None,
    ) -> None:
        """``before``: an earlier state of the same set-up, which has worked some of it out."""
        set_up = before.set_up if before else SetUp(build)
        super().__init__(set_up)
        self.logs = logs
        self._shop = shop
        tried = {k: [logs[v.id].tried for v in build.valves if v.kind == k] for k in KINDS}
        self._known: dict[ValveKind, Ratio] = {
            kind: ratio_known(build, kind, own) if any(own) else set_up.ratios[kind]
            for kind, own in tried.items()
        }
        self.ratios: dict[ValveKind, Ratio] = {}
        self._told: dict[UUID, tuple[Sequence[Trial], Ratio]] = {}
        for kind in KINDS:
            self._learn_ratio(kind, before)
        self.predictions = predictions_of(build, self.ratios)
        self._evidences = _evidences(self._told, before)
        felt = {i: found for i, found in self._evidences.items() if found is not None}
        self.hands_told = list(felt.values())
        usual = starting_hands(build)
        by_all = learned_weights(usual, self.hands_told)
        by_others = dict(zip(felt, learned_by_others(usual, self.hands_told), strict=True))
        self.valves = [
            ValveState(
                set_up,
                v,
                logs[v.id],
                (ratio := self._told[v.id][1]),
                self.predictions.get(kind),
                ratio.felt_by(usual, by_others.get(v.id, by_all)),
            )
            for v in build.valves
            if (kind := cast(ValveKind, v.kind))
        ]
        # Whoever holds a valve holds its heads; held both ways, neither would be let go at once.
        heads = weakref.ref(self)
        known_before = {v.valve.id: v for v in before.valves} if before else {}
        for valve in self.valves:
            valve.heads = heads
            valve.as_read_before(known_before.get(valve.valve.id))

    def _learn_ratio(self, kind: ValveKind, before: "HeadsState | None") -> None:
        """A kind's ratio as its pairs of gaps tell it, and for each valve as the others' do."""
        trials = {v.id: self.logs[v.id].told for v in self.build.valves if v.kind == kind}
        known, own = self._known[kind], list(trials.values())
        if (
            before is not None
            and before._known[kind] == known
            and all(before._told[i][0] is told for i, told in trials.items())
        ):
            self.ratios[kind] = before.ratios[kind]
            self._told |= {i: before._told[i] for i in trials}
            return
        self.ratios[kind], by_others = known.learned_apart(own)
        each = zip(trials.items(), by_others, strict=True)
        self._told |= {i: (told, ratio) for (i, told), ratio in each}

    def _alike(self, valve: ValveState) -> list[float]:
        """What the other valves of its kind read."""
        return [n for v, n in self._lengths if v.kind == valve.kind and v is not valve]

    def read_by_others(self, valve: ValveState) -> float | None:
        """What the other valves of its kind read, in the middle; else its cylinder's other kind."""
        alike = self._alike(valve)
        if alike:
            return median(alike)
        at = valve.valve.cylinder
        beside = [n for v, n in self._lengths if v is not valve and v.valve.cylinder == at]
        return median(beside) if beside else None

    def others_agree(self, valve: ValveState) -> bool:
        """Whether two or more others of its kind were found, and none stands far from the rest."""
        alike = self._alike(valve)
        return len(alike) > 1 and max(alike) - min(alike) <= AGREE_IN

    @cached_property
    def _lengths(self) -> list[tuple[ValveState, float]]:
        """Every measured valve and its zero lash as read."""
        read = [(v, v.estimate_in) for v in self.valves if v.measured is not None]
        return [(v, length) for v, length in read if length is not None]

    @cached_property
    def box(self) -> Sequence[BoxRod]:
        """The shop's own rods on the shelf."""
        return self._shop.box() if self._shop else ()

    @cached_property
    def orders(self) -> Sequence[Order]:
        """The build's orders, the newest first."""
        return self._shop.orders(self.build.id) if self._shop else ()

    @cached_property
    def signature(self) -> Signature | None:
        """The latest signature."""
        return self._shop.signature(self.build.id) if self._shop else None

    @property
    def solid(self) -> bool:
        return self.build.lifter_kind == "solid"

    @property
    def engine(self) -> Engine:
        return self.set_up.engine

    @cached_property
    def known(self) -> tuple[PlacedValve, ...]:
        """Every measured valve where it stands on its head, what is known of its stem taken out."""
        read = [(v, v.measured) for v in self.valves if v.measured is not None]
        return placed(
            self.engine,
            [
                (m.cylinder, m.kind, m.zero_lash_in - v.explained[0], hypot(m.u_in, v.explained[1]))
                for v, m in read
            ],
        )

    @property
    def _known_causes(self) -> tuple[Remark, ...]:
        """What the known height of a stem explains of its valve, and what stays open."""
        if all(v.valve.stem_in is None for v in self.valves):
            return ()
        slopes = borne_out_slopes(self.known)
        found = []
        for valve in self.valves:
            own = next((k for k in self.known if k.name == valve.name), None)
            if valve.valve.stem_in is None or own is None:
                continue
            said = neighbours_say(own, self.known, slopes)
            rest = None if said is None else own.zero_lash_in - said[0]
            found.append(stem_remark(own, float(valve.valve.stem_in), valve.explained[0], rest))
        return tuple(found)

    @cached_property
    def spread(self) -> Spread:
        """What the believed valves say together, and together against the prediction."""
        believed = [v for v in self.known if v.name not in self.suspicions]
        found = read_spread(believed)
        shared = shared_remarks(believed, self._predicted)
        return replace(found, remarks=(*shared, *self._known_causes, *found.remarks))

    @property
    def _predicted(self) -> dict[ValveKind, tuple[float, float]]:
        return {k: (p.zero_lash_in, p.u_in) for k, p in self.predictions.items()}

    @cached_property
    def suspicions(self) -> dict[str, Suspicion]:
        """Measured valves that are not believable, by name, the most doubtful first.

        One that two measurements agree on is no slip; the spread names it instead.
        """
        by_name = {v.name: v for v in self.valves}
        now = _WhenAsked(lambda name: self._circumstances(by_name[name]))
        found = {
            s.name: s
            for s in catch(self.known, now, self._predicted)
            if not by_name[s.name].confirmed
        }
        for name, valve in by_name.items():
            own = valve.own_disagreement
            if own is not None:
                found[name] = disagreement(name, *own, now[name])
        return found

    def _circumstances(self, valve: ValveState) -> Circumstances:
        rod, build = self.build.instrument, self.build
        counted = rod is not None and rod.kind == "checking_rod" and bool(valve.trials)
        felt = any(t.feel in ("zero", "tight", "no_lash") for t in valve.trials)
        gap = any(t.gap_in is not None and t.gap_in <= NEAR_GAP_IN for t in valve.trials)
        return Circumstances(
            None if self.solid else float(build.travel_in),
            float(rod.pitch_in) if counted and rod and rod.pitch_in else None,
            self._convention_gaps,
            mount=cast(Mount, build.mount),
            lifter=build.final.lifter if build.final else None,
            settings=valve.readings_count,
            gap_and_feel=gap and felt,
            counted_back=valve.told.counted_back,
            one_rod=valve.told.tools == {rod.id} and self._one_rod if counted and rod else False,
            beside=self._beside.get(valve.name, ()),
            stop=self._stops.get(valve.name, ()),
        )

    @cached_property
    def _one_rod(self) -> bool:
        """Whether the turns of one checking rod gave every length of the build."""
        return len(set[UUID | None]().union(*(v.told.tools for v in self.valves))) == 1

    @property
    def named_tools(self) -> set[UUID]:
        """The instruments that the build or a line of its log names."""
        rows = (row.instrument_id for told in self.logs.values() for row in told.rows)
        return {i for i in (self.build.instrument_id, *rows) if i is not None}

    @cached_property
    def _read(self) -> list[tuple[str, KeptLine]]:
        """The measured valves with their last reading, in the order they were read."""
        read = [(v.name, v.told.last_reading) for v in self.valves if v.readings_count]
        return sorted(read, key=lambda pair: pair[1].id)

    @cached_property
    def _beside(self) -> dict[str, tuple[str, ...]]:
        """The valves read just before and after each."""
        names = [name for name, _ in self._read]
        return {n: (*names[max(i - 1, 0) : i], *names[i + 1 : i + 2]) for i, n in enumerate(names)}

    @cached_property
    def _stops(self) -> dict[str, tuple[str, ...]]:
        """The valves read at the same stop of the plan as each."""
        at: dict[Decimal, list[str]] = defaultdict(list)
        for name, row in self._read:
            if row.crank_deg is not None:
                at[row.crank_deg].append(name)
        return {n: tuple(m for m in own if m != n) for own in at.values() for n in own}

    @cached_property
    def _convention_gaps(self) -> dict[str, float]:
        """What other conventions would read against the measuring one, inches, by words."""
        own = self.ends.added_in(self.measuring)
        others: tuple[Convention, ...] = ("theoretical", "measured", "gauge", "centre")
        return {
            say(
                "{first} and {second}",
                first=CONVENTIONS[self.measuring],
                second=CONVENTIONS[c],
            ): self.ends.added_in(c) - own
            for c in others
            if c != self.measuring
        }

    def believed(self, kind: ValveKind) -> Sequence[MeasuredValve]:
        """The measured valves of a kind without the suspicious ones, unless all are."""
        own = {v.name: v.measured for v in self.valves if v.kind == kind and v.measured}
        sound = [m for name, m in own.items() if name not in self.suspicions]
        return sound or list(own.values())


class _WhenAsked(dict[str, Circumstances]):
    """Circumstances of valves, worked out for those that are asked about."""

    def __init__(self, of: Callable[[str], Circumstances]) -> None:
        super().__init__()
        self._of = of

    def __missing__(self, name: str) -> Circumstances:
        return self.setdefault(name, self._of(name))


def _evidences(
    told: Mapping[UUID, tuple[Sequence[Trial], Ratio]], before: HeadsState | None
) -> dict[UUID, Floats | None]:
    """What each valve's trials say of the hand that felt them; None from those in conflict."""
    known = before._evidences if before else {}
    return {
        i: known[i]
        if before and _same(before._told.get(i), (own, ratio))
        else _evidence(own, ratio)
        for i, (own, ratio) in told.items()
    }


def _same(before: tuple[Sequence[Trial], Ratio] | None, now: tuple[Sequence[Trial], Ratio]) -> bool:
    return before is not None and before[0] is now[0] and before[1] == now[1]


def _evidence(trials: Sequence[Trial], ratio: Ratio) -> Floats | None:
    told = any(t.feel in ("zero", "tight", "no_lash") for t in trials)
    if not told or find_contradictions(trials, ratio.value, ratio.feeling):
        return None
    return evidence(trials, ratio.value, ratio.feeling)
