"""The crank wheel: where every valve may be measured, and plans of stops to measure at.

Crank angles are absolute: 0 is the firing TDC of the first cylinder in the
firing order, turning on in the engine's own direction, 720 to a cycle.

Source: the schools are common practice; that a plan is the shortest follows from sweeping the
arc ends, shown beside the code and held against every subset in the tests.
"""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

from vivid_arm.core.engine.cam import Arc, CamCard, angle_at_lift, heel_arc, profile_of
from vivid_arm.core.engine.layout import CYCLE_DEG, KIND_WORDS, KINDS, Engine, ValveKind, valve_name
from vivid_arm.core.errors import InputError, within
from vivid_arm.core.words import Saying, figure, say

ValveAt = tuple[int, ValveKind]
StopSchool = Literal["opening_closing", "full_lift", "tdc", "fewest"]
Closing = Literal["starts_down", "third_left", "almost_closed"]
StopPlanState = Literal["safe", "near", "unsafe", "unknown", "none"]
Selection = Literal["all", "corners", "cylinder"]

USUAL_GUARD_DEG = 15.0
MOST_GUARD_DEG = 60.0
TURN_DEG = 360.0
_EXACT_DEG = 1e-7

STOP_SCHOOLS: dict[StopSchool, Saying] = {
    "fewest": Saying("Fewest stops"),
    "tdc": Saying("TDC, firing stroke"),
    "opening_closing": Saying("Exhaust opening, intake closing"),
    "full_lift": Saying("Full lift and one turn"),
}
CLOSINGS: dict[Closing, Saying] = {
    "starts_down": Saying("just starts down"),
    "third_left": Saying("a third of its lift left"),
    "almost_closed": Saying("almost closed"),
}


@dataclass(frozen=True)
class Stop:
    """One place to stop the crank, and the valves to measure there.

    ``crank_deg`` is None without a cam card where only the hand tells the place.
    ``turn_deg`` is how far to turn on from the stop before. ``margins_deg``:
    for each valve the degrees to the nearer end of its heel window, below zero
    when it is off its heel; None when the cam is not known.
    """

    crank_deg: float | None
    turn_deg: float | None
    valves: tuple[ValveAt, ...]
    look_for: str
    margins_deg: tuple[float, ...] | None

    @property
    def least_margin_deg(self) -> float | None:
        return min(self.margins_deg) if self.margins_deg else None


@dataclass(frozen=True)
class StopPlan:
    """A school's stops in the order to make them; ``reason`` says why there are none."""

    school: StopSchool
    stops: tuple[Stop, ...]
    guard_deg: float
    reason: str = ""

    @property
    def least_margin_deg(self) -> float | None:
        margins = [m for s in self.stops if (m := s.least_margin_deg) is not None]
        return min(margins, default=None)

    @property
    def off_heel(self) -> tuple[tuple[ValveAt, float], ...]:
        """Valves that would be off their heel, and by how many degrees."""
        return tuple(
            (valve, -margin)
            for stop in self.stops
            for valve, margin in zip(stop.valves, stop.margins_deg or (), strict=False)
            if margin < 0
        )

    @property
    def state(self) -> StopPlanState:
        if not self.stops:
            return "none"
        least = self.least_margin_deg
        if least is None:
            return "unknown"
        if least < 0:
            return "unsafe"
        return "near" if least < self.guard_deg - _EXACT_DEG else "safe"

    @property
    def turns_deg(self) -> float | None:
        """Crank degrees turned from the first stop to the last."""
        turns = [s.turn_deg for s in self.stops[1:]]
        return None if any(t is None for t in turns) else float(sum(t or 0.0 for t in turns))

    @property
    def sentence(self) -> str:
        """What the margins say, in one sentence."""
        if self.state == "none":
            return self.reason
        if self.state == "unknown":
            return say("No cam card, so the margin is not known.")
        if self.state == "unsafe":
            worst, by = max(self.off_heel, key=lambda pair: pair[1])
            count = len(self.off_heel)
            others = say(" and {count} more", count=count - 1) if count > 1 else ""
            return say(
                "Unsafe on this cam: {worst}{others} off the heel by {by}°.",
                worst=valve_name(*worst),
                others=others,
                by=figure(by, ".0f"),
            )
        least = self.least_margin_deg
        if self.state == "near":
            return say(
                "On the heel, but only {least}° from its end; the guard is {guard}°.",
                least=figure(least, ".0f"),
                guard=figure(self.guard_deg, ".0f"),
            )
        return say("Every valve at least {least}° inside its heel.", least=figure(least, ".0f"))


def check_guard(guard_deg: float) -> float:
    """Return a guard between 0 and 60 degrees of crank, else raise InputError."""
    remedy = say("10° to 20° of crank is common practice with hydraulic lifters")
    return within("guard_deg", say("Guard"), guard_deg, 0, MOST_GUARD_DEG, "°", remedy=remedy)


def heel_windows(engine: Engine, card: CamCard) -> dict[ValveAt, Arc]:
    """Each valve's heel on the absolute crank, no guard: the card's arc from its overlap TDC."""
    arcs = {kind: heel_arc(card, kind) for kind in KINDS}
    return {
        (cylinder, kind): arcs[kind].moved(tdc + TURN_DEG)
        for cylinder, tdc in engine.firing_tdc_deg.items()
        for kind in KINDS
    }


@lru_cache(maxsize=64)
def chosen_valves(engine: Engine, selection: Selection, cylinder: int = 1) -> tuple[ValveAt, ...]:
    """The valves of a sampling plan, head by head.

    Four corners: both valves of the first and the last cylinder of every bank.
    Raises InputError for a cylinder the engine does not have.
    """
    if selection == "cylinder":
        if cylinder not in engine.firing_order:
            raise InputError(
                "cylinder",
                say("There is no cylinder {cylinder}", cylinder=cylinder),
                received=cylinder,
                expected=say("1 to {cylinders}", cylinders=engine.cylinders),
                code="unknown",
            )
        wanted: Collection[int] = {cylinder}
    elif selection == "corners":
        wanted = {c for head in engine.heads for c in (head.cylinders[0], head.cylinders[-1])}
    else:
        wanted = engine.firing_order
    return tuple(v for head in engine.heads for v in head.valves if v[0] in wanted)


def plans(
    engine: Engine,
    card: CamCard | None,
    valves: Collection[ValveAt],
    guard_deg: float = USUAL_GUARD_DEG,
    closing: Closing = "third_left",
) -> tuple[StopPlan, ...]:
    """All four schools for some valves, the one with the fewest stops first."""
    return tuple(plan(school, engine, card, valves, guard_deg, closing) for school in STOP_SCHOOLS)


def plan(
    school: StopSchool,
    engine: Engine,
    card: CamCard | None,
    valves: Collection[ValveAt],
    guard_deg: float = USUAL_GUARD_DEG,
    closing: Closing = "third_left",
) -> StopPlan:
    """One school's stops for some valves, in crank order from the first firing TDC.

    Hand schools work without a cam card: their margins are then unknown, and
    places that only the hand can find carry no angle. Raises InputError for a
    guard outside 0 to 60.
    """
    check_guard(guard_deg)
    if not valves:
        return StopPlan(school, (), guard_deg, say("Every valve of this selection is measured."))
    if school == "fewest":
        return _fewest_plan(engine, card, valves, guard_deg)
    windows = heel_windows(engine, card) if card else None
    found = [
        place
        for cylinder, tdc in engine.firing_tdc_deg.items()
        for place in _places(school, cylinder, tdc, card, closing)
    ]
    wanted = [(at, known, own, words) for at, known, v, words in found
              if (own := tuple(x for x in v if x in valves))]  # fmt: skip
    wanted.sort(key=lambda place: place[0] % CYCLE_DEG)
    stops = [
        Stop(at % CYCLE_DEG if known else None, None, own, words, _margins(windows, own, at))
        for at, known, own, words in wanted
    ]
    return StopPlan(school, _with_turns(stops), guard_deg)


_Place = tuple[float, bool, tuple[ValveAt, ...], str]
_EXHAUST_OPENS_DEG = 140.0
_CENTRES_DEG: dict[ValveKind, float] = {"intake": 468.0, "exhaust": 248.0}
_CLOSES_DEG: dict[Closing, float] = {"starts_down": 468.0, "third_left": 530, "almost_closed": 590}


def _places(
    school: StopSchool, cylinder: int, tdc: float, card: CamCard | None, closing: Closing
) -> list[_Place]:
    """Where a hand school stops for one cylinder: angle, whether it is known, valves, words.

    Without a card the angle only puts the stops in order, from a mild cam.
    """
    intake: ValveAt = (cylinder, "intake")
    exhaust: ValveAt = (cylinder, "exhaust")
    if school == "tdc":
        words = say(
            "Cylinder {cylinder} at TDC, firing stroke: both its valves closed", cylinder=cylinder
        )
        return [(tdc, True, (intake, exhaust), words)]
    known = card is not None
    overlap = tdc + TURN_DEG
    if school == "full_lift":
        places: list[_Place] = []
        for valve in (exhaust, intake):
            kind = valve[1]
            centre = overlap + card.centre_deg(kind) if card else tdc + _CENTRES_DEG[kind]
            words = say(
                "Cylinder {cylinder} {kind} at full lift, then one full turn of the crank: "
                "measure that {kind}",
                cylinder=cylinder,
                kind=KIND_WORDS[kind],
            )
            places.append((centre + TURN_DEG, known, (valve,), words))
        return places
    if card is None:
        opens, closes = tdc + _EXHAUST_OPENS_DEG, tdc + _CLOSES_DEG[closing]
    else:
        opens = overlap + heel_arc(card, "exhaust").to_deg
        closes = overlap + _closing_deg(card, closing)
    closing_words = {
        "starts_down": say("past full lift and just starting down"),
        "third_left": say("closing, a third of its lift left"),
        "almost_closed": say("closing, almost closed"),
    }[closing]
    return [
        (
            opens,
            known,
            (intake,),
            say(
                "Cylinder {cylinder} exhaust just starting to open: measure its intake",
                cylinder=cylinder,
            ),
        ),
        (
            closes,
            known,
            (exhaust,),
            say(
                "Cylinder {cylinder} intake {closing_words}: measure its exhaust",
                cylinder=cylinder,
                closing_words=closing_words,
            ),
        ),
    ]


def _closing_deg(card: CamCard, closing: Closing) -> float:
    """Where the intake stands for the closing school, degrees after overlap TDC."""
    if closing == "starts_down":
        return card.icl_deg
    if closing == "almost_closed":
        return heel_arc(card, "intake").from_deg
    return card.icl_deg + angle_at_lift(profile_of(card.intake), 1 / 3, "closing")


def _margins(
    windows: Mapping[ValveAt, Arc] | None, valves: Sequence[ValveAt], at: float
) -> tuple[float, ...] | None:
    return None if windows is None else tuple(windows[v].margin_deg(at) for v in valves)


def _with_turns(stops: Sequence[Stop]) -> tuple[Stop, ...]:
    turned = []
    for i, stop in enumerate(stops):
        before = stops[i - 1].crank_deg if i else None
        turn = None
        if before is not None and stop.crank_deg is not None:
            turn = (stop.crank_deg - before) % CYCLE_DEG
        turned.append(Stop(stop.crank_deg, turn, stop.valves, stop.look_for, stop.margins_deg))
    return tuple(turned)


def _fewest_plan(
    engine: Engine, card: CamCard | None, valves: Collection[ValveAt], guard_deg: float
) -> StopPlan:
    if card is None:
        return StopPlan("fewest", (), guard_deg, say("Needs the cam card: enter it in the set-up."))
    windows = {v: arc for v, arc in heel_windows(engine, card).items() if v in valves}
    short = [v for v, arc in windows.items() if arc.length_deg < 2 * guard_deg]
    if short:
        name = valve_name(*short[0])
        return StopPlan(
            "fewest",
            (),
            guard_deg,
            say("The guard leaves {name} no heel: make it smaller.", name=name),
        )
    places = best_stops(tuple(windows.values()), guard_deg)
    served: dict[float, list[ValveAt]] = {place: [] for place in places}
    for valve, arc in windows.items():
        served[max(places, key=arc.margin_deg)].append(valve)
    stops = []
    for place in sorted(served):
        own = tuple(v for head in engine.heads for v in head.valves if v in served[place])
        stops.append(
            Stop(place, None, own, _look_for(engine, card, place), _margins(windows, own, place))
        )
    return StopPlan("fewest", _with_turns(stops), guard_deg)


def fewest_stops(arcs: Sequence[Arc], guard_deg: float) -> tuple[float, ...]:
    """The fewest crank angles so that every arc, less a guard at both ends, holds one.

    Exact: some best set has a stop at the end of an arc (turn a stop on until
    it meets one), so each end is tried as the first, and the rest follow from
    there: always the end that comes first among the arcs not yet served.
    """
    inner = [Arc.between(a.from_deg + guard_deg, a.to_deg - guard_deg) for a in arcs]
    best: tuple[float, ...] | None = None
    for start in {arc.to_deg % CYCLE_DEG for arc in inner}:
        stops = [start]
        left = [arc for arc in inner if arc.margin_deg(start) < -_EXACT_DEG]
        while left and (best is None or len(stops) < len(best)):
            ends = [(arc.to_deg - start) % CYCLE_DEG for arc in left]
            stop = start + min(ends)
            stops.append(stop % CYCLE_DEG)
            left = [arc for arc in left if arc.margin_deg(stop) < -_EXACT_DEG]
        if not left and (best is None or len(stops) < len(best)):
            best = tuple(sorted(stops))
    return best or ()


def best_stops(arcs: Sequence[Arc], guard_deg: float) -> tuple[float, ...]:
    """The fewest stops, placed so that the least margin is as great as it can be.

    The guard is raised while the count stays the same (bisection), then every
    stop is put in the middle of what its arcs have in common, on a whole degree
    where that keeps the guard.
    """
    count = len(fewest_stops(arcs, guard_deg))
    low, high = guard_deg, min(arc.length_deg for arc in arcs) / 2
    while high - low > 0.01:
        middle = (low + high) / 2
        if len(fewest_stops(arcs, middle)) == count:
            low = middle
        else:
            high = middle
    return tuple(sorted(_centred(arcs, stop, guard_deg) for stop in _served(arcs, low)))


def _served(arcs: Sequence[Arc], guard_deg: float) -> list[tuple[float, list[Arc]]]:
    """Each stop with the arcs that have their greatest margin at it."""
    stops = fewest_stops(arcs, guard_deg)
    served: dict[float, list[Arc]] = {stop: [] for stop in stops}
    for arc in arcs:
        served[max(stops, key=arc.margin_deg)].append(arc)
    return [(stop, own) for stop, own in served.items() if own]


def _centred(arcs: Sequence[Arc], stop: tuple[float, list[Arc]], guard_deg: float) -> float:
    at, own = stop
    before = min((at - arc.from_deg) % CYCLE_DEG for arc in own)
    after = min((arc.to_deg - at) % CYCLE_DEG for arc in own)
    middle = (at + (after - before) / 2) % CYCLE_DEG
    whole = round(middle) % CYCLE_DEG
    keeps = all(arc.margin_deg(whole) >= guard_deg for arc in own)
    return float(whole) if keeps else middle


def crank_words(engine: Engine, crank_deg: float) -> str:
    """A crank angle as the builder finds it: degrees after the last firing TDC.

    >>> from .layout import usual_engine
    >>> crank_words(usual_engine("inline", 4), 190)
    '10° after TDC of cylinder 3, firing stroke'
    """
    at = crank_deg % CYCLE_DEG
    cylinder, tdc = max(
        ((c, t) for c, t in engine.firing_tdc_deg.items() if t <= at + 0.5), key=lambda ct: ct[1]
    )
    after = round(at - tdc)
    if after:
        return say(
            "{after}° after TDC of cylinder {cylinder}, firing stroke",
            after=after,
            cylinder=cylinder,
        )
    return say("TDC of cylinder {cylinder}, firing stroke", cylinder=cylinder)


_LANDMARK_WITHIN_DEG = 12.0


def _look_for(engine: Engine, card: CamCard, crank_deg: float) -> str:
    """The place in degrees, and a valve event near it that the eye can find."""
    words = crank_words(engine, crank_deg)
    exhaust_opens = heel_arc(card, "exhaust").to_deg
    intake_shuts = heel_arc(card, "intake").from_deg
    events = [
        (tdc + TURN_DEG + at, say("cylinder {cylinder} {what}", cylinder=cylinder, what=what))
        for cylinder, tdc in engine.firing_tdc_deg.items()
        for at, what in (
            (exhaust_opens, say("exhaust just starting to open")),
            (intake_shuts, say("intake almost closed")),
            (card.centre_deg("intake"), say("intake at full lift")),
            (card.centre_deg("exhaust"), say("exhaust at full lift")),
        )
    ]

    def away(event: tuple[float, str]) -> float:
        return abs((event[0] - crank_deg + TURN_DEG) % CYCLE_DEG - TURN_DEG)

    nearest = min(events, key=away)
    if away(nearest) > _LANDMARK_WITHIN_DEG:
        return words
    return f"{words}; {nearest[1]}"


def saving(fewest: StopPlan, other: StopPlan) -> str:
    """What the fewest stops save against another school, in words; empty when nothing."""
    fewer = len(other.stops) - len(fewest.stops)
    if not fewest.stops or fewer <= 0:
        return ""
    words = say("{stops} stops instead of {other}", stops=len(fewest.stops), other=len(other.stops))
    mine, theirs = fewest.turns_deg, other.turns_deg
    if mine is None or theirs is None or theirs - mine < 1:
        return words
    return say("{words}, {theirs}° less to turn", words=words, theirs=figure(theirs - mine, ".0f"))
