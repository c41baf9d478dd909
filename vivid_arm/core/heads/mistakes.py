"""The mistake catcher: is a measured valve believable, and if not, what went wrong?

A zero-lash length is compared with what the prediction and the valve's
neighbours make one expect. Every likely cause shifts a reading by a typical
amount; Bayes' rule over the shifts ranks the causes. The amounts and how often
they happen are common practice, put in figures here; the seeded simulation in
``benchmarks`` shows what they catch.

Source: Bayes' rule; causes and their sizes as said above.
"""

from collections import defaultdict
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cache, partial
from math import exp, expm1, log, pi, sqrt
from typing import Literal

from scipy.special import log_ndtr, logsumexp

from vivid_arm.core.engine.layout import ValveKind
from vivid_arm.core.heads.spread import (
    PREDICTED_SD_IN,
    PlacedValve,
    borne_out_slopes,
    high_corner,
    neighbours_say,
)
from vivid_arm.core.words import Saying, say
from vivid_arm.core.zero_lash.predict import SECOND_LOOK_IN, Mount

Cause = Literal[
    "off_heel",
    "cup",
    "stand",
    "plunger",
    "lifter_up",
    "convention",
    "turns",
    "swapped",
    "real",
    "reading",
    "other",
]
LifterState = Literal["solid", "bled", "pumped"]
CLEAN_PRIOR = 0.95
DOUBT = 0.5
LEAST_SHIFT_IN = 0.0095
LEAST_SIGMAS = 2.7
_SHOWN = 4
_LEAST_SHARE = 0.03


_BY_LIFTER: Mapping[LifterState, Mapping[Cause, float]] = {
    "solid": {"plunger": 0.0, "lifter_up": 0.0},
    "bled": {"plunger": 1.5, "lifter_up": 0.3},
    "pumped": {"plunger": 0.3, "lifter_up": 6.0},
}
_AGAIN, _COUNTED_BACK, _BORNE_OUT, _ONE_ROD = 0.3, 0.05, 0.1, 0.1
"""How often such a slip outlives what speaks against it: common practice put in figures."""
_SHORT_BESIDE, _SOUND_BESIDE, _SOUND_NEXT = 12.0, 0.5, 0.7
"""A second valve short beside this one speaks for a stop that is not the heel; each other valve
of the stop that reads well halves that, and where valves have stops of their own the next ones
reading well speaks against it a little."""


_MOST_BORNE_OUT = 50.0
"""As a logarithm; more says no more."""


@dataclass(frozen=True)
class Circumstances:
    """What is known of how a valve was measured: it decides which causes are likely.

    ``gaps_in``: what the known conventions differ by, by name of the pair.
    ``pitch_in``: one turn of the checking rod, where one was counted.
    ``travel_in``: plunger travel of a hydraulic lifter; None for a solid one.
    ``lifter``: its state while measuring. ``settings``: how often the rod was set anew and
    agreed. ``gap_and_feel``: a gap read at the tip and the feel of the rod agree.
    ``counted_back``: the turns were counted back and agreed. ``one_rod``: its turns were counted
    on the one rod that the others were measured with. ``beside``: valves read just before and
    after it; ``stop``: those read at the same stop of the crank.
    """

    travel_in: float | None = 0.14
    pitch_in: float | None = None
    gaps_in: Mapping[str, float] | None = None
    mount: Mount | None = None
    lifter: LifterState | None = None
    settings: int = 1
    gap_and_feel: bool = False
    counted_back: bool = False
    one_rod: bool = False
    beside: tuple[str, ...] = ()
    stop: tuple[str, ...] = ()

    def weight(self, cause: Cause) -> float:
        """How much likelier or rarer a cause is by what is known; 0 where it cannot be."""
        if cause in ("plunger", "lifter_up") and self.lifter is not None:
            return _BY_LIFTER[self.lifter][cause] * self._by_gap(cause)
        if cause == "stand" and self.mount == "stud":
            return 0.0
        if cause == "cup" and self.settings > 1:
            return _AGAIN
        if cause == "turns" and self.counted_back:
            return _COUNTED_BACK
        if cause == "convention" and self.one_rod:
            return _ONE_ROD
        return self._by_gap(cause)

    def _by_gap(self, cause: Cause) -> float:
        """A gap is read with the plunger at rest: where the feel agrees, none was pushed."""
        return _BORNE_OUT if cause == "plunger" and self.gap_and_feel else 1.0


@dataclass(frozen=True)
class Likely:
    """One cause: its share of the doubt, why it fits, and the check that would tell.

    ``{by}`` in the reason stands for ``by_in``, inches.
    """

    cause: Cause
    share: float
    what: str
    reason: str
    check: str
    by_in: float = 0.0


@dataclass(frozen=True)
class Suspicion:
    """A valve that is not believable as measured.

    ``off_in`` is measured less expected, ``u_in`` its standard uncertainty,
    ``doubt`` the probability that something is wrong. ``causes``: likeliest first.
    """

    name: str
    off_in: float
    u_in: float
    doubt: float
    basis: str
    causes: tuple[Likely, ...]

    @property
    def lifter_tells(self) -> bool:
        """Whether the lifter's state while measuring would tell its causes apart."""
        return any(c.cause in _BY_LIFTER["solid"] for c in self.causes)

    @property
    def sentence(self) -> str:
        """What is odd; ``{off}`` stands for the size of ``off_in``."""
        way = say("longer") if self.off_in > 0 else say("shorter")
        return say(
            "{name} reads {{off}} {way} than {basis}.", name=self.name, way=way, basis=self.basis
        )


@dataclass(frozen=True)
class _Shift:
    """How a cause shifts a reading: uniform over an interval, or by one amount."""

    cause: Cause
    prior: float
    low_in: float
    high_in: float
    note: str = ""

    def may_be(self, off_in: float, u_in: float) -> bool:
        """Whether a difference lies in this cause's range, blurred by three sigmas."""
        return self.low_in - 3 * u_in <= off_in <= self.high_in + 3 * u_in

    def log_likelihood(self, off_in: float, u_in: float) -> float:
        """Logarithm of the density of the difference seen, the shift being blurred by ``u_in``.

        In logarithms, so that no difference is too far off to be weighed.
        """
        if self.high_in - self.low_in < 1e-9:
            z = (off_in - self.low_in) / u_in
            return -0.5 * z * z - log(u_in * sqrt(2 * pi))
        near, far = (self.low_in - off_in) / u_in, (off_in - self.high_in) / u_in
        outer = max(near, far)
        inner = outer + (self.high_in - self.low_in) / u_in
        tail = float(log_ndtr(-outer))
        rest = float(log_ndtr(-inner)) - tail
        return tail + log(-expm1(rest)) - log(self.high_in - self.low_in)


_WORDS: dict[Cause, tuple[Saying, Saying]] = {
    "off_heel": (
        Saying("Not on the base circle"),
        Saying("Turn the crank to the valve's heel window and feel it again."),
    ),
    "cup": (
        Saying("A tip out of its cup"),
        Saying("Spin the rod: seat both tips, then feel it again."),
    ),
    "stand": (
        Saying("Stand or fastener loose"),
        Saying("Check the stand's torque, then feel it again."),
    ),
    "plunger": (
        Saying("Plunger pushed down"),
        Saying("Let the lifter come up, or use a solid one of the same seat height."),
    ),
    "lifter_up": (
        Saying("Lifter not down on the cam"),
        Saying("Press the lifter down; bleed it if it is pumped up."),
    ),
    "convention": (
        Saying("Two length conventions mixed"),
        Saying("Look at which convention the instrument is set to."),
    ),
    "turns": (Saying("Turns miscounted by one"), Saying("Count the turns back to closed.")),
    "swapped": (
        Saying("Intake and exhaust swapped"),
        Saying("See which valve the rod stands on, and under which the reading was entered."),
    ),
    "real": (
        Saying("The valve really differs"),
        Saying("Measure the stem's height against its neighbours with a straight-edge."),
    ),
    "reading": (Saying("Misread"), Saying("Read the instrument again.")),
    "other": (
        Saying("None of the known causes"),
        Saying("Measure the valve again from the start, with the rod set anew."),
    ),
}


@dataclass(frozen=True)
class _Swap:
    """By how much a swapped reading would be off, and what its partner's reading says of it.

    ``log_borne_out``: how much likelier the partner's reading is swapped than not, as a logarithm.
    """

    by_in: float
    log_borne_out: float = 0.0


def _shifts(now: Circumstances, swap: _Swap | None) -> list[_Shift]:
    found = [
        _Shift("off_heel", 0.22, -0.200, -0.012, say("a lifter on its lobe reads short")),
        _Shift("cup", 0.16, -0.070, -0.012, say("a tip on the cup's rim reads short")),
        _Shift("lifter_up", 0.06, -0.050, -0.010, say("a seat that stands high reads short")),
        _Shift("stand", 0.14, 0.008, 0.050, say("a loose stand lifts, and reads long")),
        _Shift("real", 0.05, -0.040, 0.040, say("stems stand tall or seats are sunk")),
        _Shift("reading", 0.03, -0.120, 0.120, say("figures get misread")),
        _Shift("other", 0.01, -16.0, 16.0, say("it is further off than the usual slips go")),
    ]
    if now.travel_in:
        found.append(
            _Shift("plunger", 0.18, 0.010, now.travel_in, say("a pushed plunger reads long"))
        )
    if now.pitch_in:
        note = say("one turn of the checking rod is {by}")
        found += [_Shift("turns", 0.06, s, s, note) for s in (now.pitch_in, -now.pitch_in)]
    for words, gap in (now.gaps_in or {}).items():
        if abs(gap) > 0.004:
            note = say("{words} differ by {{by}}", words=words)
            found += [_Shift("convention", 0.04, s, s, note) for s in (gap, -gap)]
    if swap is not None and abs(swap.by_in) > LEAST_SHIFT_IN:
        note = say("it reads like the other kind, which stands {by} away")
        likely = 0.05 * exp(min(swap.log_borne_out, _MOST_BORNE_OUT))
        found.append(_Shift("swapped", likely, swap.by_in, swap.by_in, note))
    weighed = [replace(s, prior=s.prior * now.weight(s.cause)) for s in found]
    return [s for s in weighed if s.prior > 0]


def _expected(
    valve: PlacedValve,
    others: Sequence[PlacedValve],
    slopes: Mapping[str, float],
    predicted: tuple[float, float] | None,
) -> tuple[float, float, str] | None:
    """Expected length, its uncertainty and what it comes from; None when nothing tells."""
    said = neighbours_say(valve, others, slopes)
    if said is None and predicted is None:
        return None
    if predicted is None:
        assert said is not None
        return *said, say("its neighbours")
    own = (predicted[0], sqrt(predicted[1] ** 2 + PREDICTED_SD_IN**2))
    if said is None:
        return *own, "predicted"
    weights = [1 / said[1] ** 2, 1 / own[1] ** 2]
    middle = (said[0] * weights[0] + own[0] * weights[1]) / sum(weights)
    if abs(said[0] - own[0]) > 3 * sqrt(said[1] ** 2 + own[1] ** 2):
        return *said, say("its neighbours")
    return middle, 1 / sqrt(sum(weights)), say("its neighbours and the prediction")


def catch(
    valves: Sequence[PlacedValve],
    circumstances: Mapping[str, Circumstances] | Circumstances,
    predicted: Mapping[ValveKind, tuple[float, float]] | None = None,
) -> tuple[Suspicion, ...]:
    """The valves that are not believable, the most doubtful first.

    ``circumstances`` for all, or by valve name; ``predicted``: zero lash and
    standard uncertainty by kind, inches. Found one at a time, so that one wrong
    valve does not make its neighbours look wrong. With two valves of a kind and
    nothing else, both are named: nothing tells which is wrong. A corner that is high on both its
    valves is the head's, and doubts none of them.
    """
    corner = high_corner(valves)
    left = [v for v in valves if corner is None or v not in corner.valves]
    swapped = cache(partial(_swapped_pairs, tuple(left), predicted or {}))
    found: list[Suspicion] = []
    while True:
        slopes = borne_out_slopes(left)
        doubts = [
            s
            for v in left
            if (s := _doubt(v, left, slopes, circumstances, predicted or {}, swapped))
        ]
        if not doubts:
            told = [_beside(s, found, _named(circumstances, s.name)) for s in found]
            return tuple(sorted(told, key=lambda s: -s.doubt))
        worst = max(doubts, key=lambda s: abs(s.off_in) / s.u_in)
        twins = [s for s in doubts if _only_two(s, worst, left)]
        gone = {s.name for s in twins} or {worst.name}
        found += twins or [worst]
        left = [v for v in left if v.name not in gone]


def disagreement(
    name: str, off_in: float, u_in: float, basis: str, now: Circumstances
) -> Suspicion:
    """What may be behind a reading that differs from others of the same valve.

    ``off_in`` is the reading less what ``basis`` says, ``u_in`` the standard
    uncertainty of that difference; that it differs is taken as known.
    """
    slips = [s for s in _shifts(now, None) if s.cause != "real"]
    weighed = [(s, log(s.prior) + s.log_likelihood(off_in, u_in)) for s in slips]
    return Suspicion(name, off_in, u_in, 1.0, basis, _ranked(weighed, off_in, u_in))


def _named(circumstances: Mapping[str, Circumstances] | Circumstances, name: str) -> Circumstances:
    if isinstance(circumstances, Circumstances):
        return circumstances
    try:
        return circumstances[name]
    except KeyError:
        return Circumstances()


def _beside(one: Suspicion, found: Sequence[Suspicion], now: Circumstances) -> Suspicion:
    """The same, by the valves read beside it: a stop that is not the heel makes others short."""
    short = {s.name for s in found if s.off_in < 0} & {*now.beside, *now.stop}
    sound = _SOUND_BESIDE ** len(now.stop) if now.stop else _SOUND_NEXT if now.beside else 1.0
    weight = _SHORT_BESIDE if short else sound
    if one.off_in >= 0 or "off_heel" not in {c.cause for c in one.causes}:
        return one
    raised = [replace(c, share=c.share * (weight if c.cause == "off_heel" else 1.0))
              for c in one.causes]  # fmt: skip
    whole = sum(c.share for c in raised) / sum(c.share for c in one.causes)
    shared = [replace(c, share=c.share / whole) for c in raised]
    return replace(one, causes=tuple(sorted(shared, key=lambda c: -c.share)))


def _only_two(one: Suspicion, worst: Suspicion, left: Sequence[PlacedValve]) -> bool:
    """Whether the doubtful valve is one of just two of the worst one's kind."""
    kind = worst.name[-1]
    return (
        one.name[-1] == kind
        and worst.basis == "its neighbours"
        and sum(1 for v in left if v.name[-1] == kind) == 2
    )


def _doubt(
    valve: PlacedValve,
    others: Sequence[PlacedValve],
    slopes: Mapping[str, float],
    circumstances: Mapping[str, Circumstances] | Circumstances,
    predicted: Mapping[ValveKind, tuple[float, float]],
    swapped: Callable[[], Mapping[str, _Swap]],
) -> Suspicion | None:
    said = _expected(valve, others, slopes, predicted.get(valve.kind))
    if said is None:
        return None
    middle, u_expected, basis = said
    off = valve.zero_lash_in - middle
    u = sqrt(valve.scatter_in**2 + u_expected**2)
    far = abs(off) >= max(LEAST_SHIFT_IN, LEAST_SIGMAS * u) or abs(off) >= SECOND_LOOK_IN
    if not far:
        return None
    clean = log(CLEAN_PRIOR) + _Shift("real", 1, 0, 0).log_likelihood(off, u)
    weighed = [
        (s, log((1 - CLEAN_PRIOR) * s.prior) + s.log_likelihood(off, u))
        for s in _shifts(_named(circumstances, valve.name), swapped().get(valve.name))
    ]
    doubt = 1 - exp(clean - logsumexp([clean, *(w for _, w in weighed)]))
    if doubt < DOUBT:
        return None
    return Suspicion(valve.name, off, u, doubt, basis, _ranked(weighed, off, u))


def _ranked(
    weighed: Sequence[tuple[_Shift, float]], off_in: float, u_in: float
) -> tuple[Likely, ...]:
    """Causes by their share of the whole; ``weighed`` holds logarithms.

    A cause is not named beyond its own range, blurred by three standard uncertainties.
    """
    if any(shift.may_be(off_in, u_in) for shift, _ in weighed):
        weighed = [(s, w) for s, w in weighed if s.may_be(off_in, u_in)]
    total = logsumexp([w for _, w in weighed])
    share: dict[Cause, float] = defaultdict(float)
    leading: dict[Cause, _Shift] = {}
    for shift, weight in sorted(weighed, key=lambda pair: pair[1]):
        share[shift.cause] += exp(weight - total)
        leading[shift.cause] = shift
    ordered = sorted(share, key=lambda cause: -share[cause])[:_SHOWN]
    return tuple(
        Likely(cause, share[cause], say(what), lead.note, say(check), abs(lead.low_in))
        for cause in ordered
        if share[cause] >= _LEAST_SHARE
        for (what, check), lead in [(_WORDS[cause], leading[cause])]
    )


def _swapped_pairs(
    valves: Sequence[PlacedValve], predicted: Mapping[ValveKind, tuple[float, float]]
) -> dict[str, _Swap]:
    """For each valve, how far its reading would move if it were entered under the other kind.

    Only where its partner of the same cylinder, when measured, is off the other way.
    """
    found: dict[str, _Swap] = {}
    by_name = {(v.cylinder, v.kind): v for v in valves}
    slopes = borne_out_slopes(valves)
    for valve in valves:
        other: ValveKind = "exhaust" if valve.kind == "intake" else "intake"
        own = _expected(valve, valves, slopes, predicted.get(valve.kind))
        example = PlacedValve(valve.cylinder, other, 0, valve.u_in, valve.bank, valve.place)
        elsewhere = [v for v in valves if v.cylinder != valve.cylinder]
        apart = _expected(example, elsewhere, slopes, predicted.get(other))
        if own is None or apart is None:
            continue
        swap = apart[0] - own[0]
        partner = by_name.get((valve.cylinder, other))
        if partner is None:
            found[valve.name] = _Swap(swap)
            continue
        off = partner.zero_lash_in - apart[0]
        u = sqrt(partner.scatter_in**2 + apart[1] ** 2)
        if abs(off + swap) <= 4 * u:
            found[valve.name] = _Swap(swap, _borne_out(off, swap, u))
    return found


def _borne_out(off_in: float, swap_in: float, u_in: float) -> float:
    """How much likelier a partner's reading is swapped than sound or wrong by itself, as a log."""
    sound = log(CLEAN_PRIOR) + _Shift("real", 1, 0, 0).log_likelihood(off_in, u_in)
    wrong = log(1 - CLEAN_PRIOR) + _Shift("reading", 1, -0.15, 0.15).log_likelihood(off_in, u_in)
    swapped = _Shift("swapped", 1, -swap_in, -swap_in).log_likelihood(off_in, u_in)
    return float(swapped - logsumexp([sound, wrong]))
