"""A whole build: its heads, its rods, how each valve stands, what it waits for."""

from typing import Literal
from uuid import UUID

from propcache.api import cached_property

from vivid_arm.core.engine.layout import KINDS
from vivid_arm.core.said.next_step import NextStep, after_ordering, next_step
from vivid_arm.core.said.verdicts import fill
from vivid_arm.records.state.decide import DecideState
from vivid_arm.records.state.valve import ValveState

Standing = Literal["waiting", "measuring", "measured", "fits", "outside", "suspicious", "odd"]


class BuildState(DecideState):
    """Everything a page asks of a build."""

    def settle(self) -> None:
        """Ask for everything that is not loaded yet, so that no session is needed any more."""
        _ = self.box, self.orders, self.signature

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
        preload = self.preload_in(valve)
        if preload is None:
            return "measured"
        inside = self.lifter.low_in - 1e-6 <= preload <= self.lifter.high_in + 1e-6
        return "fits" if inside else "outside"

    @cached_property
    def next_step(self) -> NextStep:
        tried = [v for v in self.valves if v.readings_count]
        measured = next_step(
            has_instrument=self.build.instrument is not None,
            trials={k: sum(1 for v in tried if v.kind == k) for k in KINDS},
            settled={k: sum(1 for v in tried if v.kind == k and v.measured) for k in KINDS},
            conflicts=[v.name for v in tried if v.verdict.state == "conflict"],
            groups=self.groups,
            suspicious=list(self.suspicions),
            remarks=self.spread.remarks,
            solid=self.solid,
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
    def _rocker(self) -> tuple[str, str] | None:
        """The first valve whose marks ask for a change or another reading, and what."""
        for valve in self.valves:
            if valve.rocker.counted and valve.rocker.verdict.state != "settled":
                said = valve.rocker.verdict
                words = fill(said.what, valve.rocker.shown(said.lengths), said.smalls).rstrip(".")
                return valve.name, f"Rocker of {valve.name}: {words[0].lower()}{words[1:]}"
        return None
