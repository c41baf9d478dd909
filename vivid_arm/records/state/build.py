"""A whole build: its heads, its rods, how each valve stands, what it waits for."""

from collections.abc import Mapping, Sequence
from typing import Literal
from uuid import UUID

from propcache.api import cached_property

from vivid_arm.core.engine.layout import KINDS, ValveKind
from vivid_arm.core.errors import InputError
from vivid_arm.core.rods.decide import Standing as Fit
from vivid_arm.core.said.in_hand import in_hand_verdict
from vivid_arm.core.said.next_step import NextStep, after_ordering, next_step
from vivid_arm.core.said.verdicts import fill
from vivid_arm.core.words import say, within_a_sentence
from vivid_arm.records.rows.line import KeptLine
from vivid_arm.records.state.decide import DecideState
from vivid_arm.records.state.plan import mode_of
from vivid_arm.records.state.valve import ValveState
from vivid_arm.records.tables import BoxRod, Order, Signature

Standing = Literal[
    "waiting", "measuring", "measured", "fits", "limit", "outside", "suspicious", "odd"
]

_STANDINGS: dict[Fit, Standing] = {"inside": "fits", "at the limit": "limit", "outside": "outside"}


class BuildState(DecideState):
    """Everything a page asks of a build."""

    def settle(self) -> None:
        """Ask for everything that is not loaded yet, so that no session is needed any more."""
        _ = self.box, self.orders, self.signature

    def with_lines(self, rows: Mapping[UUID, Sequence[KeptLine]]) -> "BuildState":
        """The same with lines more in the log; what is around the build as it was seen."""
        logs = {v.id: self.logs[v.id].added(v, rows.get(v.id, ())) for v in self.build.valves}
        return BuildState(self.build, logs, _AsSeen(self), self)

    def with_valve(self, valve_id: UUID) -> tuple["BuildState", ValveState]:
        """The build and one of its valves."""
        return self, next(v for v in self.valves if v.valve.id == valve_id)

    def standing(self, valve: ValveState) -> Standing:
        """How a valve stands on the head map."""
        if valve.name in self.suspicions or valve.verdict.state == "conflict":
            return "suspicious"
        if valve.measured is None:
            return "measuring" if valve.readings_count else "waiting"
        if any(odd.name == valve.name for odd, _ in self.spread.odd):
            return "odd"
        if self.preload_in(valve) is None or self.decision is None:
            return "measured"
        stands = {r.valve.name: r.standing for r in self.decision.rows}.get(valve.name, "inside")
        return _STANDINGS[stands]

    @cached_property
    def next_step(self) -> NextStep:
        tried = [v for v in self.valves if v.readings_count]
        measured = next_step(
            has_instrument=self.build.instrument is not None,
            trials={k: sum(1 for v in tried if v.kind == k) for k in KINDS},
            settled={k: sum(1 for v in tried if v.kind == k and v.measured) for k in KINDS},
            conflicts=[v.name for v in tried if v.verdict.state == "conflict"],
            stuck=self._stuck,
            suspicious=list(self.suspicions),
            remarks=self.spread.remarks,
            in_hand=self._in_hand_words,
            lash_missing=self.solid and not self._has_lash,
            rocker=self._rocker,
            rocker_first=self.build.mount == "stud",
        )
        if measured.station not in ("heads", "decide", "order"):
            return measured
        return after_ordering(
            [(o.purpose, o.state, o.closed_at is not None) for o in self.orders],
            self.signature.signed_by if self.signature else None,
        ) or measured  # fmt: skip

    @property
    def _in_hand_words(self) -> str:
        """What the rods on the engine do, on the board: the kind that fits least first."""
        order = ("outside", "closing", "settled")
        said = [in_hand_verdict(f, self.lifter) for f in self.in_hand]
        worst = min(said, key=lambda v: order.index(v.state), default=None)
        return "" if worst is None else fill(worst.what, {}, worst.smalls).rstrip(".")

    @property
    def _has_lash(self) -> bool:
        return bool(self.build.lash_intake_in and self.build.lash_exhaust_in)

    @property
    def _stuck(self) -> list[ValveKind]:
        """Kinds that the decision leaves without a rod that serves."""
        if self.solid and not self._has_lash:
            return []
        if mode_of(self.build) == "length":
            return [
                g.kind
                for g in self.groups
                if g.taken is None or not (g.taken.inside or g.at_limit(self.lifter))
            ]
        try:
            rows = self.decision.rows if self.decision else ()
        except InputError:
            return list(KINDS)
        return [k for k in KINDS if any(r.valve.kind == k and not r.inside for r in rows)]

    @property
    def _rocker(self) -> tuple[str, str] | None:
        """The first valve whose marks ask for a change or another reading, and what."""
        for valve in self.valves:
            if (
                valve.told.tried
                and valve.rocker.counted
                and valve.rocker.verdict.state != "settled"
            ):
                said = valve.rocker.verdict
                words = fill(said.what, valve.rocker.shown(said.lengths), said.smalls).rstrip(".")
                return valve.name, say(
                    "Rocker of {name}: {words}",
                    name=valve.name,
                    words=within_a_sentence(words),
                )
        return None


class _AsSeen:
    """The shop around a build as its earlier state has seen it."""

    def __init__(self, state: BuildState) -> None:
        self._around = state.box, state.orders, state.signature

    def box(self) -> Sequence[BoxRod]:
        return self._around[0]

    def orders(self, build_id: UUID) -> Sequence[Order]:
        return self._around[1]

    def signature(self, build_id: UUID) -> Signature | None:
        return self._around[2]
