"""Which rods to order: every valve's window as lengths, ways of buying, chances cold and hot.

Source: windows and targets by ``preload``; the order of the ways of buying is ours.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from math import ceil, floor, inf
from typing import Literal

import numpy as np
from propcache.api import cached_property

from vivid_arm.core.engine.layout import KINDS, ValveKind
from vivid_arm.core.entry.lengths import format_small
from vivid_arm.core.errors import InputError, within
from vivid_arm.core.rods.chance import (
    ODD_ONE_IN,
    Chances,
    Fitted,
    all_inside,
    odds,
    simulate_odds,
)
from vivid_arm.core.rods.grouping import (
    STRATEGIES,
    Fewest,
    Grouping,
    Need,
    Remedy,
    Strategy,
    fewest_lengths,
    grouping,
    remedy,
)
from vivid_arm.core.rods.growth import Growth, Stack, growth, simulate_growth
from vivid_arm.core.rods.preload import Bias, Lifter, exact_length_in
from vivid_arm.core.words import Saying, say
from vivid_arm.core.zero_lash.methods import lever_in

Mode = Literal["length", "adjuster", "lash"]
MODES: dict[Mode, Saying] = {
    "length": Saying("The rod's length sets the preload"),
    "adjuster": Saying("The adjuster sets the preload, the rod's length its position"),
    "lash": Saying("The adjuster sets the lash, the rod's length its position"),
}
Standing = Literal["inside", "at the limit", "outside"]
SURE_VALVE = 0.9
"""A chance below this is not called right: one rod in ten would miss."""
SURE_SET = 0.97
"""A set is called right when all of it is inside with this chance."""
DRAWS = 10_000
LENGTH_TOLERANCE_IN = 0.003
REACH_TURNS = 1.0
"""How far an adjuster may stand either side of where it was measured: common practice."""


@dataclass(frozen=True)
class ValveKnown:
    """A valve's zero lash in the order's convention (inches), measured or inferred; its R0.

    ``shared_u_in``: the part of ``u_in`` that every valve of the build shares.
    """

    name: str
    kind: ValveKind
    zero_lash_in: float
    u_in: float
    ratio: float
    ratio_half_width: float = 0.0
    inferred: bool = False
    shared_u_in: float = 0.0
    wanted_in: float | None = None
    """Length the rocker's geometry asks for, where the rod sets it (a stud)."""


@dataclass(frozen=True)
class Aim:
    """What a rod shall give.

    ``lifter`` holds the window (None for solid lifters, whose cold lash at the valve is
    ``lash_in``); ``per_turn_in`` is rod length per turn of the adjuster by kind,
    ``reach_turns`` how far it may move. One valve in ``odd_one_in`` is odd.
    """

    mode: Mode
    lifter: Lifter | None
    lash_in: Mapping[ValveKind, float]
    pitch_in: float
    stud: bool
    tolerance_in: float = LENGTH_TOLERANCE_IN
    reach_turns: float = REACH_TURNS
    odd_one_in: int = ODD_ONE_IN

    def __post_init__(self) -> None:
        within(
            "tolerance_in", say("Length tolerance"), self.tolerance_in, 0, 0.05, " in",
            remedy=say("The supplier states it; {by} either way is usual", by=format_small(0.003)),
        )  # fmt: skip
        within(
            "reach_turns", say("Adjuster reach"), self.reach_turns, 0.05, 10, " turns",
            remedy=say("Count the turns the adjuster may stand off its place"),
        )  # fmt: skip
        if self.mode == "lash" and not all(self.lash_in.get(k, 0) > 0 for k in KINDS):
            raise InputError(
                "lash_intake_in",
                say("The lash of a solid lifter is not entered"),
                expected=say("lash of intakes and exhausts"),
                remedy=say("Enter both in the set-up, from the cam maker's sheet"),
                code="empty",
            )

    def target_in(self, valve: ValveKnown) -> float:
        """Preload to aim at; below zero the slack a lash leaves on the rod's side (lash / R0)."""
        if self.mode == "lash":
            return -self.lash_in[valve.kind] / valve.ratio
        assert self.lifter is not None
        return self.lifter.target_in

    def per_turn_in(self, ratio: float) -> float:
        """Rod length that one turn of the adjuster stands for.

        A stud's nut carries the fulcrum, so the lever counts; a rocker's own screw
        moves the rod directly.
        """
        return lever_in(self.pitch_in, ratio) if self.stud else self.pitch_in

    def need(self, valve: ValveKnown) -> Need:
        """The lengths that serve a valve."""
        target = exact_length_in(valve.zero_lash_in, self.target_in(valve))
        if self.mode == "length":
            assert self.lifter is not None
            low, high = self.lifter.low_in, self.lifter.high_in
            z = valve.zero_lash_in
            return Need(valve.name, valve.kind, z + low, z + high, target)
        reach = self.reach_turns * self.per_turn_in(valve.ratio)
        centre = target if valve.wanted_in is None else valve.wanted_in
        return Need(valve.name, valve.kind, centre - reach, centre + reach, centre)


def grid(needs: Sequence[Need], step_in: float, most: int = 400) -> tuple[float, ...]:
    """Whole multiples of a stock step around every need, one beyond each end, inches.

    Raises InputError for a step so fine that more than ``most`` would be weighed.
    """
    if not needs:
        return ()
    first = floor(min(n.low_in for n in needs) / step_in + 1e-6)
    last = ceil(max(n.high_in for n in needs) / step_in - 1e-6)
    if last - first + 1 > most:
        raise InputError(
            "stock_step",
            say(
                "Steps of {step} give {last} lengths to weigh",
                step=format_small(step_in),
                last=last - first + 1,
            ),
            received=step_in,
            expected=say("at most {most} lengths", most=most),
            remedy=say("Take a coarser step, or strike out the valve that stands far off"),
            code="too_many",
        )
    return tuple(round(k * step_in, 6) for k in range(first, last + 1))


@dataclass(frozen=True)
class DecidedValve:
    """One valve with its rod, inches and turns.

    ``preload_in`` is what stands after fitting (the target where an adjuster sets it);
    ``turns`` how far the adjuster moves from where it was measured, out for a longer
    rod; ``hot_in`` the preload hot; ``counted`` the chances as simulated.
    """

    valve: ValveKnown
    need: Need
    length_in: float
    preload_in: float
    off_bottom_in: float | None
    turns: float | None
    inside: bool
    miss_in: float
    hot_in: float | None
    chances: Chances
    counted: Chances

    @property
    def standing(self) -> Standing:
        """Inside or outside where that is sure, else at the limit."""
        if self.turns is not None:
            return "inside" if self.inside else "outside"
        if self.chances.cold >= SURE_VALVE:
            return "inside"
        return "at the limit" if self.chances.cold > 1 - SURE_VALVE else "outside"


@dataclass(frozen=True)
class Decision:
    """All valves decided one way, with the other ways beside it."""

    aim: Aim
    valves: tuple[ValveKnown, ...]
    needs: tuple[Need, ...]
    lengths_in: tuple[float, ...]
    bias: Bias
    strategy: Strategy
    stack: Stack | None
    picked: Mapping[ValveKind, float]
    grown_in: Mapping[ValveKind, float]

    @cached_property
    def ways(self) -> dict[Strategy, Grouping]:
        """Every way of buying, side by side."""
        return {s: grouping(s, self.needs, self.lengths_in, self.bias) for s in STRATEGIES}

    @cached_property
    def chosen(self) -> Grouping:
        """The way in force; lengths the builder picked stand for intake and exhaust."""
        way = self.ways[self.strategy]
        if self.strategy != "kinds" or not self.picked:
            return way
        lengths = tuple(
            self.picked.get(n.kind, c) for n, c in zip(self.needs, way.lengths_in, strict=True)
        )
        pairs = list(zip(self.needs, lengths, strict=True))
        return Grouping(
            "kinds",
            lengths,
            tuple(n.name for n, c in pairs if not n.serves(c)),
            max(abs(c - n.target_in) for n, c in pairs),
        )

    @cached_property
    def fewest(self) -> Fewest:
        return fewest_lengths(self.needs, self.lengths_in, self.bias)

    @cached_property
    def remedies(self) -> tuple[Remedy, ...]:
        """What would mend the valves that no length serves."""
        fixed = not self.aim.stud
        return tuple(
            remedy(self.aim.need(v), self.lengths_in, v.ratio, fixed=fixed)
            for v in self.valves
            if v.name in self.fewest.infeasible
        )

    @cached_property
    def growths(self) -> dict[ValveKind, Growth]:
        """Cold to hot for each kind; empty while the engine's growth is not entered."""
        if self.stack is None:
            return {}
        found: dict[ValveKind, Growth] = {}
        for kind in KINDS:
            own = next((v for v in self.valves if v.kind == kind), None)
            if own is not None:
                by_stack = growth(self.stack, kind, own.ratio, own.ratio_half_width)
                found[kind] = replace(by_stack, read_in=self.grown_in.get(kind))
        return found

    @cached_property
    def rows(self) -> tuple[DecidedValve, ...]:
        fitted = self._all_fitted(self.valves)
        counted = self._counted(fitted)
        return tuple(
            self._row(*parts)
            for parts in zip(
                self.valves, self.needs, self.chosen.lengths_in, fitted, counted, strict=True
            )
        )

    def _fitted(self, valve: ValveKnown, length_in: float) -> Fitted:
        target = self.aim.target_in(valve)
        if self.aim.mode == "length":
            lifter = self.aim.lifter
            assert lifter is not None
            preload = length_in - valve.zero_lash_in
            return Fitted(
                preload, valve.u_in, self.aim.tolerance_in,
                lifter.low_in, lifter.high_in, lifter.travel_in,
                valve.shared_u_in, 1 / self.aim.odd_one_in if valve.inferred else 0.0,
            )  # fmt: skip
        # Set on the engine, so neither the measurement nor the rod's tolerance counts.
        if self.aim.lifter is None:
            slack = 0.002 / valve.ratio
            return Fitted(target, 0.0, 0.0, target - slack, target + slack, inf)
        lifter = self.aim.lifter
        return Fitted(target, 0.0, 0.0, lifter.low_in, lifter.high_in, lifter.travel_in)

    def _counted(self, fitted: Sequence[Fitted]) -> list[Chances]:
        rng = np.random.default_rng(20)
        changes = {}
        if self.stack is not None:
            for kind, grown in self.growths.items():
                if grown.read_in is not None:
                    changes[kind] = rng.normal(grown.read_in, grown.u_in, DRAWS)
                    continue
                own = next(v for v in self.valves if v.kind == kind)
                changes[kind] = simulate_growth(
                    self.stack, kind, own.ratio, own.ratio_half_width, DRAWS, rng
                )
        return simulate_odds(fitted, [changes.get(v.kind) for v in self.valves], DRAWS, rng)

    def _row(
        self, valve: ValveKnown, need: Need, length_in: float, fitted: Fitted, counted: Chances
    ) -> DecidedValve:
        own = self.growths.get(valve.kind)
        hot = None if own is None else fitted.preload_in + own.change_in
        turns = None
        if self.aim.mode != "length":
            exact = exact_length_in(valve.zero_lash_in, self.aim.target_in(valve))
            turns = (length_in - exact) / self.aim.per_turn_in(valve.ratio)
        lifter = self.aim.lifter
        return DecidedValve(
            valve,
            need,
            length_in,
            fitted.preload_in,
            None if lifter is None else lifter.travel_in - fitted.preload_in,
            turns,
            need.serves(length_in) and abs(turns or 0.0) <= self.aim.reach_turns + 0.005,
            length_in - need.target_in,
            hot,
            odds(fitted, None if own is None else own.change_in, own.u_in if own else 0.0),
            counted,
        )

    @cached_property
    def all_inside(self) -> float:
        """Probability that every valve is inside its window with these rods, cold."""
        return all_inside(self._all_fitted(self.valves))

    @cached_property
    def measuring_more(self) -> tuple[int, float] | None:
        """How many valves more to measure, and the chance that all are inside then.

        The fewest that make it sure enough, else all of them; None where none is inferred.
        They are taken to read as expected, as well as those that were measured.
        """
        guessed = [v for v in self.valves if v.inferred]
        u = [v.u_in for v in self.valves if not v.inferred]
        if not guessed or not u:
            return None
        chance = 0.0
        for count in range(1, len(guessed) + 1):
            known = {v.name for v in guessed[:count]}
            valves = [
                replace(v, inferred=False, u_in=min(v.u_in, max(u))) if v.name in known else v
                for v in self.valves
            ]
            chance = all_inside(self._all_fitted(valves))
            if chance >= SURE_SET:
                return count, chance
        return len(guessed), chance

    def _all_fitted(self, valves: Sequence[ValveKnown]) -> list[Fitted]:
        return [self._fitted(v, c) for v, c in zip(valves, self.chosen.lengths_in, strict=True)]

    @cached_property
    def beyond_reach(self) -> tuple[str, ...]:
        """Valves whose adjuster would have to move further than it may."""
        most = self.aim.reach_turns + 0.005
        return tuple(r.valve.name for r in self.rows if abs(r.turns or 0.0) > most)

    @cached_property
    def lines(self) -> tuple[tuple[float, tuple[str, ...]], ...]:
        """(length, valves) of what is ordered, shortest first."""
        by_length: dict[float, list[str]] = {}
        for need, length in zip(self.needs, self.chosen.lengths_in, strict=True):
            by_length.setdefault(length, []).append(need.name)
        return tuple((length, tuple(names)) for length, names in sorted(by_length.items()))


def decide(
    aim: Aim,
    valves: Sequence[ValveKnown],
    step_in: float,
    bias: Bias,
    strategy: Strategy = "kinds",
    *,
    box: Sequence[tuple[float, int]] = (),
    stack: Stack | None = None,
    picked: Mapping[ValveKind, float] | None = None,
    had_in: Sequence[float] = (),
    grown_in: Mapping[ValveKind, float] | None = None,
) -> Decision:
    """Decide the rods of an engine.

    ``step_in`` is the step of what can be bought, ``had_in`` the lengths themselves where not
    every step can be had, ``box`` (length, count) of the shop's own rods, all in the order's
    convention; ``grown_in`` the change of preload read hot and cold by kind. A shelf length off
    the grid is weighed only when there are enough for every valve it could serve. Raises
    InputError without a valve.
    """
    if not valves:
        raise InputError("valves", say("No valve is measured yet"), code="empty")
    needs = tuple(aim.need(v) for v in valves)
    if aim.mode == "length":
        needs = tuple(
            _within_what_is_known(n, v, [*(had_in or grid([n], step_in)), *(c for c, _ in box)])
            for n, v in zip(needs, valves, strict=True)
        )
    shelf = {round(c, 6) for c, n in box if n >= max(1, sum(need.serves(c) for need in needs))}
    near = {c for c in shelf if any(need.serves(c) for need in needs)}
    lengths = tuple(sorted({*(had_in or grid(needs, step_in)), *near}))
    return Decision(
        aim,
        tuple(valves),
        needs,
        lengths,
        bias,
        strategy,
        stack,
        dict(picked or {}),
        dict(grown_in or {}),
    )


def _within_what_is_known(need: Need, valve: ValveKnown, lengths_in: Sequence[float]) -> Need:
    """A need that no length serves, widened by half a standard uncertainty of its zero lash.

    A miss far below what is known of the valve takes no length from the list.
    """
    if any(need.serves(c) for c in lengths_in):
        return need
    slack = valve.u_in / 2
    return replace(need, low_in=need.low_in - slack, high_in=need.high_in + slack)
