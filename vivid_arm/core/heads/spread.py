"""What the measured valves of an engine say about it: spread, head not square, banks, odd one.

Robust statistics that hold with few readings: pairs of the same kind, medians,
leave one out. The usual scatter from valve to valve is common practice: a
spread of about 0.010 over a set is normal, so one valve scatters by about 0.003.

Source: medians and leave-one-out as in any text on robust statistics; figures of scatter as
said above.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import lru_cache
from itertools import combinations
from math import hypot, sqrt
from statistics import median
from typing import Literal

from propcache.api import cached_property

from vivid_arm.core.engine.layout import KINDS, Engine, ValveKind, valve_name
from vivid_arm.core.words import Saying, say
from vivid_arm.core.zero_lash.predict import SECOND_LOOK_IN

USUAL_SD_IN = 0.003
NORMAL_SPREAD_IN = 0.010
ODD_IN = 0.012
PREDICTED_SD_IN = 0.010
"""What a prediction leaves out at the least, inches; common practice."""
_MEDIAN_COST = 1.2533
_SURE = 2.5
_BORNE_OUT = 1.5

_VALVES: dict[ValveKind, Saying] = {"intake": Saying("intakes"), "exhaust": Saying("exhausts")}


@dataclass(frozen=True)
class PlacedValve:
    """A valve with a zero-lash length: inches, standard uncertainty; its bank and place 0 to 1."""

    cylinder: int
    kind: ValveKind
    zero_lash_in: float
    u_in: float
    bank: str
    place: float

    def __hash__(self) -> int:
        return self._hash

    @cached_property
    def _hash(self) -> int:
        return hash((self.cylinder, self.kind, self.zero_lash_in, self.u_in))

    @cached_property
    def name(self) -> str:
        return valve_name(self.cylinder, self.kind)

    @cached_property
    def scatter_in(self) -> float:
        """Standard deviation expected of one valve: measurement and the usual scatter."""
        return sqrt(self.u_in**2 + USUAL_SD_IN**2)


@dataclass(frozen=True)
class Trend:
    """A difference with its standard uncertainty, inches: along a bank, or between banks."""

    bank: str
    value_in: float
    u_in: float
    pairs: int

    @property
    def sure(self) -> bool:
        return abs(self.value_in) > _SURE * self.u_in


@dataclass(frozen=True)
class Remark:
    """One thing the spread says: what, why, what to do; ``valves`` it is about.

    ``{names}`` in the sentences are filled from ``smalls`` (inches).
    """

    about: Literal["spread", "slope", "bank", "odd", "few", "shared", "known"]
    what: str
    why: str
    then: str
    smalls: dict[str, float] = field(default_factory=dict)
    valves: tuple[str, ...] = ()


@dataclass(frozen=True)
class Spread:
    """Spread of each kind (None below two valves), trends, odd valves, and the words."""

    by_kind: dict[ValveKind, float | None]
    slopes: tuple[Trend, ...]
    bank_offset: Trend | None
    odd: tuple[tuple[PlacedValve, float], ...]
    remarks: tuple[Remark, ...]


def shared_remarks(
    valves: Sequence[PlacedValve], predicted: Mapping[ValveKind, tuple[float, float]]
) -> tuple[Remark, ...]:
    """Kinds whose valves agree with each other and not with the prediction (length, u; inches).

    What all readings share, such as the closed length of the checking rod, shows nowhere else.
    From 0.040 on, or from three standard uncertainties (never taken below 0.010): common practice.
    """
    found = []
    for kind, (length, u) in predicted.items():
        known = sqrt(u**2 + PREDICTED_SD_IN**2)
        for where, own in _alike(valves, kind):
            off = median(v.zero_lash_in for v in own) - length
            if abs(off) >= min(SECOND_LOOK_IN, 3 * known) and abs(off) >= 2 * u:
                found.append(_shared_finding(f"{_VALVES[kind]}{where}", len(own), off, known))
                break
    return tuple(found)


def _alike(valves: Sequence[PlacedValve], kind: ValveKind) -> list[tuple[str, list[PlacedValve]]]:
    """The valves of a kind, and those of each bank where one bank differs from the other."""
    own = _of_kind(valves, kind)
    banks = sorted({v.bank for v in own})
    groups = [("", own)]
    offset = _bank_offset(valves, banks) if len(banks) == 2 else None
    if offset is not None and offset.sure:
        groups += [
            (say(" of the {bank}", bank=bank), [v for v in own if v.bank == bank]) for bank in banks
        ]
    return [(where, group) for where, group in groups if len(group) > 1]


def _shared_finding(which: str, count: int, off_in: float, u_in: float) -> Remark:
    way = say("longer") if off_in > 0 else say("shorter")
    return Remark(
        "shared",
        say(
            "The {count} {which} measured read {{off}} {way} than predicted.",
            count=count,
            which=which,
            way=way,
        ),
        say(
            "The prediction is known to ± {u} (k = 2). That they agree with each other shows no "
            "mistake they share: closed length of the rod, calibration, convention, gasket."
        ),
        say(
            "Count back to closed, put a caliper over the checking rod and look at "
            "its ends; then at what changed."
        ),
        {"off": abs(off_in), "u": 2 * u_in},
    )


def stem_remark(
    valve: PlacedValve, stem_in: float, explained_in: float, rest_in: float | None
) -> Remark:
    """What the known height of a valve's tip explains, and what stays open (inches).

    ``rest_in``: how far it still stands off its neighbours; None where there are none.
    """
    way = say("taller") if stem_in > 0 else say("lower")
    longer = say("longer") if explained_in > 0 else say("shorter")
    rest = (
        say("No other valve of its kind is measured.")
        if rest_in is None
        else (
            say(
                "{{r}} {rest} than its neighbours stays open.",
                rest=say("longer") if rest_in > 0 else say("shorter"),
            )
        )
    )
    return Remark(
        "known",
        say(
            "{name}: its tip stands {{s}} {way}, which asks for a rod {{e}} {longer}.",
            name=valve.name,
            way=way,
            longer=longer,
        ),
        rest,
        "",
        {"s": abs(stem_in), "e": abs(explained_in), "r": abs(rest_in or 0.0)},
    )


def placed(
    engine: Engine, measured: Sequence[tuple[int, ValveKind, float, float]]
) -> tuple[PlacedValve, ...]:
    """Put (cylinder, kind, zero lash, u) where they stand on the engine's heads."""
    where = {c: (h.bank, h.place(c)) for h in engine.heads for c in h.cylinders}
    return tuple(_placed(c, kind, z, u, *where[c]) for c, kind, z, u in measured)


@lru_cache(maxsize=2048)
def _placed(
    cylinder: int, kind: ValveKind, zero_lash_in: float, u_in: float, bank: str, place: float
) -> PlacedValve:
    """One object as long as its figures stand: what is remembered of it is found at once."""
    return PlacedValve(cylinder, kind, zero_lash_in, u_in, bank, place)


def read_spread(valves: Sequence[PlacedValve]) -> Spread:
    """Spread, slopes, bank offset and odd valves of the measured valves, in words."""
    by_kind: dict[ValveKind, float | None] = {k: _range(_of_kind(valves, k)) for k in KINDS}
    corner = high_corner(valves)
    rest = [] if corner is None else [v for v in valves if v not in corner.valves]
    if corner is not None and not _slopes_without(corner, rest):
        found = read_spread(rest)
        remarks = tuple(r for r in found.remarks if r.about not in ("spread", "few"))
        return replace(found, by_kind=by_kind, remarks=(_corner_finding(corner), *remarks))
    banks = sorted({v.bank for v in valves})
    odd = odd_valves(valves)
    sound = [v for v in valves if all(v is not o for o, _ in odd)]
    slopes = tuple(s for b in banks if (s := _slope([v for v in sound if v.bank == b])) is not None)
    offset = _bank_offset(sound, banks) if len(banks) == 2 else None
    if offset is not None and _is_a_slope(offset, slopes):
        offset = None
    remarks = _remarks(valves, by_kind, slopes, offset, odd)
    return Spread(by_kind, slopes, offset, odd, remarks)


def _is_a_slope(offset: Trend, slopes: Sequence[Trend]) -> bool:
    """Whether the banks agree at one end of a head that is not square: that is no offset.

    A slope of s leaves its bank half of s off in the middle; the banks then agree at one end.
    """
    return any(
        slope.sure and abs(abs(offset.value_in) - abs(slope.value_in) / 2)
        <= _SURE * hypot(offset.u_in, slope.u_in / 2)
        for slope in slopes
    )  # fmt: skip


@dataclass(frozen=True)
class Corner:
    """The end cylinder of a head whose valves both stand high: by how much, inches."""

    valves: tuple[PlacedValve, PlacedValve]
    off_in: float


def _slopes_without(corner: Corner, rest: Sequence[PlacedValve]) -> bool:
    """Whether the corner's head rises to it without the corner too: then it is all one slope."""
    first = corner.valves[0]
    slope = _slope([v for v in rest if v.bank == first.bank])
    return slope is not None and slope.sure and (slope.value_in > 0) == (first.place > 0.5)


def high_corner(valves: Sequence[PlacedValve]) -> Corner | None:
    """The one corner of the engine that wants longer rods on both its valves; None without one.

    A head that is twisted or not square shows there; two slips that agree are rarer. Both
    valves at least 0.012 and three standard uncertainties over the middle of their kind, alike
    within the same, and the others of their kind agreeing. Common practice.
    """
    found = []
    for cylinder in sorted({v.cylinder for v in valves if v.place in (0.0, 1.0)}):
        own = [v for v in valves if v.cylinder == cylinder]
        if len(own) != len(KINDS):
            continue
        offs = [_over_the_others(v, valves) for v in own]
        first, second = offs
        if first is None or second is None:
            continue
        if abs(first - second) <= max(ODD_IN, 0.5 * max(first, second)):
            found.append(Corner((own[0], own[1]), (first + second) / 2))
    return found[0] if len(found) == 1 else None


def _over_the_others(valve: PlacedValve, valves: Sequence[PlacedValve]) -> float | None:
    """How far a valve stands over its kind where the rest of the kind agree; None else."""
    rest = [v for v in _of_kind(valves, valve.kind) if v is not valve]
    if len(rest) < 2 or (_range(rest) or 0.0) > 2 * NORMAL_SPREAD_IN:
        return None
    off = valve.zero_lash_in - median(v.zero_lash_in for v in rest)
    return off if off >= max(ODD_IN, 3 * valve.scatter_in) else None


def _of_kind(valves: Sequence[PlacedValve], kind: ValveKind) -> list[PlacedValve]:
    return [v for v in valves if v.kind == kind]


def _range(valves: Sequence[PlacedValve]) -> float | None:
    lengths = [v.zero_lash_in for v in valves]
    return max(lengths) - min(lengths) if len(lengths) > 1 else None


def _slope(valves: Sequence[PlacedValve]) -> Trend | None:
    """Front to rear along one bank: the median of same-kind pairs, the distant ones counted more.

    Its uncertainty is that of a straight line through the points, widened for
    the median.
    """
    pairs = [
        ((b.zero_lash_in - a.zero_lash_in) / (b.place - a.place), abs(b.place - a.place))
        for kind in KINDS
        for a, b in combinations(_of_kind(valves, kind), 2)
        if abs(b.place - a.place) > 1e-9
    ]
    if not pairs:
        return None
    spread = 0.0
    for kind in KINDS:
        own = _of_kind(valves, kind)
        if own:
            centre = sum(v.place for v in own) / len(own)
            spread += sum(((v.place - centre) / v.scatter_in) ** 2 for v in own)
    cost = _MEDIAN_COST if len(pairs) > 2 else 1.0
    return Trend(valves[0].bank, _weighted_median(pairs), cost / sqrt(spread), len(pairs))


def _weighted_median(pairs: Sequence[tuple[float, float]]) -> float:
    """The value at half of the weight; between two values where it falls on their border."""
    ordered = sorted(pairs)
    half = sum(w for _, w in ordered) / 2
    so_far = 0.0
    for i, (value, weight) in enumerate(ordered):
        so_far += weight
        if abs(so_far - half) < 1e-9 and i + 1 < len(ordered):
            return (value + ordered[i + 1][0]) / 2
        if so_far > half:
            return value
    return ordered[-1][0]


def _bank_offset(valves: Sequence[PlacedValve], banks: Sequence[str]) -> Trend | None:
    """Second bank less first: the median of all same-kind differences across (Hodges, Lehmann)."""
    return _offset([_differences(_of_kind(valves, kind), banks) for kind in KINDS], banks)


_Differences = tuple[list[float], float]


def _differences(own: Sequence[PlacedValve], banks: Sequence[str]) -> _Differences:
    """All differences across between valves of one kind, and their information (1 / variance)."""
    first, second = ([v for v in own if v.bank == bank] for bank in banks)
    if not first or not second:
        return [], 0.0
    variance = sum(sum(v.scatter_in**2 for v in side) / len(side) ** 2 for side in (first, second))
    return [b.zero_lash_in - a.zero_lash_in for a in first for b in second], 1 / variance


def _offset(parts: Sequence[_Differences], banks: Sequence[str]) -> Trend | None:
    differences = [x for own, _ in parts for x in own]
    if not differences:
        return None
    information = sum(part for _, part in parts)
    cost = _MEDIAN_COST if len(differences) > 2 else 1.0
    return Trend(banks[1], median(differences), cost / sqrt(information), len(differences))


@lru_cache(maxsize=256)
def _differences_of(valves: tuple[PlacedValve, ...], banks: tuple[str, ...]) -> _Differences:
    """The same, remembered: it stands beside every valve of the other kind."""
    return _differences(valves, banks)


def neighbours_say(
    valve: PlacedValve, others: Sequence[PlacedValve], slopes: Mapping[str, float]
) -> tuple[float, float] | None:
    """What the other valves of the kind make one expect, and how surely; None without any.

    A slope along a bank counts where intakes and exhausts bear it out alike
    (``slopes``, from ``borne_out_slopes``), a bank offset where it is sure.
    """
    rest = tuple(v for v in others if v is not valve)
    return _neighbours_say(valve, rest, tuple(slopes.items()))


@lru_cache(maxsize=256)
def _neighbours_say(
    valve: PlacedValve, others: tuple[PlacedValve, ...], by_bank: tuple[tuple[str, float], ...]
) -> tuple[float, float] | None:
    """The same, remembered: a doubt and an odd valve ask alike."""
    same, slopes = _of_kind(others, valve.kind), dict(by_bank)
    if not same:
        return None
    banks = sorted({v.bank for v in (*others, valve)})
    shift, unsure = _shift_of(valve.kind, others, banks)
    expected = [
        v.zero_lash_in
        + slopes.get(valve.bank, 0.0) * (valve.place - 0.5)
        - slopes.get(v.bank, 0.0) * (v.place - 0.5)
        + shift * ((valve.bank == banks[-1]) - (v.bank == banks[-1]))
        for v in same
    ]
    scatter = sqrt(sum(v.scatter_in**2 for v in same) / len(same))
    cost = _MEDIAN_COST if len(same) > 2 else 1.0
    lone = all(v.bank != valve.bank for v in same)
    u = cost * scatter / sqrt(len(same))
    return median(expected), sqrt(u**2 + unsure**2) if lone else u


def _shift_of(
    kind: ValveKind, others: Sequence[PlacedValve], banks: Sequence[str]
) -> tuple[float, float]:
    """What the second bank adds for a kind, and what is open of it where only the other shows it.

    An offset that is seen in one kind only is not forced on the other.
    """
    if len(banks) != 2:
        return 0.0, 0.0
    same = _of_kind(others, kind)
    of_same = _differences(same, banks)
    of_other = _differences_of(tuple(v for v in others if v.kind != kind), tuple(banks))
    own, other = _offset([of_same], banks), _offset([of_other], banks)
    pooled = _offset([of_same, of_other], banks)
    if own is None:
        return 0.0, abs(pooled.value_in) if pooled else 0.0
    apart = abs(own.value_in - other.value_in) if other else 0.0
    alike = other is None or apart < 2 * sqrt(own.u_in**2 + other.u_in**2)
    if alike and pooled is not None and pooled.sure:
        return pooled.value_in, 0.0
    several = min(sum(v.bank == bank for v in same) for bank in banks) > 1
    return (own.value_in if several and own.sure else 0.0), 0.0


def borne_out_slopes(valves: Sequence[PlacedValve]) -> Mapping[str, float]:
    """Slopes by bank that intakes and exhausts bear out alike; a single wrong valve makes none."""
    return _borne_out_slopes(tuple(valves))


@lru_cache(maxsize=64)
def _borne_out_slopes(valves: tuple[PlacedValve, ...]) -> Mapping[str, float]:
    """The same, remembered: a doubt, an odd valve and a stem ask alike."""
    found = {}
    for bank in {v.bank for v in valves}:
        own = [v for v in valves if v.bank == bank]
        slope = _slope(own)
        parts = [part for kind in KINDS if (part := _slope(_of_kind(own, kind)))]
        if slope is None or len(parts) < 2 or abs(slope.value_in) < _BORNE_OUT * slope.u_in:
            continue
        first, second = parts
        if abs(first.value_in - second.value_in) < 2 * sqrt(first.u_in**2 + second.u_in**2):
            found[bank] = slope.value_in
    return found


def odd_valves(valves: Sequence[PlacedValve]) -> tuple[tuple[PlacedValve, float], ...]:
    """Valves that differ from what their neighbours make one expect, with the difference.

    At least 0.012 and at least 3 standard uncertainties, with three or more of
    the kind; found one at a time, the worst first, so that one does not make
    its neighbours look odd.
    """
    left = list(valves)
    found: list[tuple[PlacedValve, float]] = []
    while True:
        slopes = borne_out_slopes(left)
        worst: tuple[PlacedValve, float, float] | None = None
        for valve in left:
            others = [v for v in left if v is not valve]
            if len(_of_kind(others, valve.kind)) < 2:
                continue
            said = neighbours_say(valve, others, slopes)
            assert said is not None
            off = valve.zero_lash_in - said[0]
            sure = abs(off) / sqrt(valve.scatter_in**2 + said[1] ** 2)
            if abs(off) >= ODD_IN and sure >= 3 and (worst is None or sure > worst[2]):
                worst = (valve, off, sure)
        if worst is None:
            return tuple(found)
        found.append(worst[:2])
        left = [v for v in left if v is not worst[0]]


def _remarks(
    valves: Sequence[PlacedValve],
    by_kind: dict[ValveKind, float | None],
    slopes: Sequence[Trend],
    offset: Trend | None,
    odd: Sequence[tuple[PlacedValve, float]],
) -> tuple[Remark, ...]:
    found = [_odd_finding(valve, off) for valve, off in odd]
    found += [_slope_finding(s) for s in slopes if s.sure]
    if offset and offset.sure:
        found.append(_bank_finding(offset))
    if found:
        return tuple(found)
    ranges = [r for r in by_kind.values() if r is not None]
    if not ranges:
        return (
            Remark(
                "few",
                say("Too few valves measured to compare."),
                say("Two of a kind are needed."),
                say("Measure the four corners: a head that is not square shows there."),
            ),
        )
    return (_spread_finding(max(ranges)),)


def _spread_finding(worst_in: float) -> Remark:
    normal = worst_in <= NORMAL_SPREAD_IN
    return Remark(
        "spread",
        say("The valves agree within {spread}."),
        say("A spread of about {normal} is normal (common practice).")
        if normal
        else say("More than the usual {normal}, but no end, bank or valve stands out."),
        "" if normal else say("Measure more valves to see where it comes from."),
        {"spread": worst_in, "normal": NORMAL_SPREAD_IN},
    )


def _odd_finding(valve: PlacedValve, off_in: float) -> Remark:
    way = say("longer") if off_in > 0 else say("shorter")
    return Remark(
        "odd",
        say("{name} is the odd one: {{off}} {way} than the others.", name=valve.name, way=way),
        say("The others of its kind agree; a stem standing tall or a sunk seat does this."),
        say(
            "Unless two ways of measuring agree on it already, measure it another "
            "way; then it needs a rod of its own, or the valve's work looked at."
        ),
        {"off": abs(off_in)},
        (valve.name,),
    )


def _corner_finding(corner: Corner) -> Remark:
    valve = corner.valves[0]
    head = say("the head") if valve.bank == "head" else say("the {bank}'s head", bank=valve.bank)
    end = say("front") if valve.place == 0.0 else say("rear")
    names = tuple(v.name for v in corner.valves)
    return Remark(
        "slope",
        say(
            "{names} both want {{off}} longer rods: {head} stands high at its {end}.",
            names=say(" and ").join(names),
            head=head,
            end=end,
        ),
        say("One corner high on both its valves is a slope or a twist of the head, not two slips."),
        say(
            "Check head and deck with a straight-edge, gasket, dowels and torque; "
            "ask the machinist."
        ),
        {"off": corner.off_in},
        names,
    )


def _bank_finding(offset: Trend) -> Remark:
    way = say("longer") if offset.value_in > 0 else say("shorter")
    return Remark(
        "bank",
        say("The {bank} wants {{off}} {way} rods.", bank=offset.bank, way=way),
        say("Known to ± {{u}} (k = 2), from {pairs} pairs.", pairs=offset.pairs),
        say("Compare deck heights, head thickness and gaskets of both banks."),
        {"off": abs(offset.value_in), "u": 2 * offset.u_in},
    )


def _slope_finding(slope: Trend) -> Remark:
    end = say("rear") if slope.value_in > 0 else say("front")
    where = say("The head") if slope.bank == "head" else say("The {bank}'s head", bank=slope.bank)
    return Remark(
        "slope",
        say("{where} is not square: its {end} wants {{off}} longer rods.", where=where, end=end),
        say("End to end, known to ± {{u}} (k = 2), from {pairs} pairs.", pairs=slope.pairs),
        say("Check head and deck with a straight-edge, gasket and torque; ask the machinist."),
        {"off": abs(slope.value_in), "u": 2 * slope.u_in},
    )
