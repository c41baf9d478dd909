"""What an order asks for, what was received against it, and what has changed since."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, cast

from vivid_arm.core.entry.conventions import CONVENTIONS, Convention, RodEnds, convert
from vivid_arm.core.entry.lengths import format_length, format_small
from vivid_arm.core.errors import InputError
from vivid_arm.core.rods.grouping import Need, matched
from vivid_arm.core.words import Saying, say
from vivid_arm.records.shapes import OrderedLine
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.plan import mode_of
from vivid_arm.records.tables import BoxRod, Order

Purpose = Literal["trial", "set"]


OrderState = Literal[
    "draft", "asked", "unknown", "placed", "received", "trial", "fitted", "withdrawn"
]
STATE_WORDS: dict[str, Saying] = {
    "draft": Saying("draft"),
    "asked": Saying("asked"),
    "unknown": Saying("unknown"),
    "placed": Saying("placed"),
    "received": Saying("received"),
    "trial": Saying("on trial"),
    "fitted": Saying("fitted"),
    "withdrawn": Saying("withdrawn"),
}


_SAME_IN = 1e-5


def order_lines(state: BuildState, purpose: Purpose) -> list[OrderedLine]:
    """What to buy: for a set every valve's rod, for a trial that length, a size up and a size down.

    The shop's own box comes first. Raises InputError when there is nothing.
    """
    by_length: dict[float, list[str]] = {}
    for name, length in state.rods_in.items():
        by_length.setdefault(length, []).append(name)
    if not by_length:
        raise InputError(
            "order",
            say("There is nothing to order yet"),
            remedy=say("Find zero lash and a length that fits first"),
            code="nothing_to_order",
        )
    step = float(state.build.stock_step_in)
    wanted: list[tuple[float, int, list[str]]] = [
        (length, len(names), names) for length, names in sorted(by_length.items())
    ]
    if purpose == "trial":
        sizes = sorted({round(c + s, 6) for c in by_length for s in (-step, 0.0, step)})
        wanted = [(c, 1, []) for c in sizes]
    shelf = {state.box_length_in(r): r for r in state.usable_box}
    return [line for w in wanted for line in _split(*w, shelf)]


@dataclass(frozen=True)
class ReceivedRod:
    """A rod as it measured, in the order's convention (inches), and the valve it goes to.

    ``off_in`` is what it is longer than the nearest ordered length; a rod outside every
    window it could serve, or too many, has no valve.
    """

    number: int
    raw: str
    length_in: float
    off_in: float
    within_tolerance: bool
    valve: str | None
    preload_in: float | None
    inside: bool
    tried: Literal["fits", "too long", "too short"] | None = None
    tried_on: str = ""
    seen: str = ""


def sorted_rods(state: BuildState, order: Order) -> list[ReceivedRod]:
    """Received rods laid on their valves to the best effect, exactly; rejects have none."""
    lengths = _measured_in(state, order)
    if not lengths:
        return []
    needs, zero = _needs_of(state, order)
    found = matched(lengths, needs) if needs else [None] * len(lengths)
    ordered = [line.given_in for line in order.lines]
    rods = []
    for i, (length, at) in enumerate(zip(lengths, found, strict=True)):
        nearest = min(ordered, key=lambda c: abs(c - length))
        kept = (order.rods or [])[i]
        need = None if at is None else needs[at]
        inside = need is not None and need.serves(length)
        if need is not None and not inside and order.purpose == "set":
            need = None
        rods.append(
            ReceivedRod(
                i + 1,
                kept.raw,
                length,
                round(length - nearest, 6),
                abs(length - nearest) <= state.plan.tolerance_in + _SAME_IN,
                None if need is None else need.name,
                None if need is None else round(length - zero[need.name], 6),
                inside,
                kept.tried,
                kept.tried_on,
                kept.seen,
            )
        )
    return rods


def fitted_preloads(state: BuildState) -> dict[str, tuple[float, float]]:
    """What the fitted rods, as they measured, preload each measured valve by, and how well known.

    Inches and standard uncertainty; nothing where an adjuster sets it, or no rod was measured.
    """
    fitted = [o for o in state.orders if o.purpose == "set" and o.state == "fitted"]
    if not fitted or mode_of(state.build) != "length":
        return {}
    try:
        rods = sorted_rods(state, max(fitted, key=lambda o: o.number))
        valves = state.decision.valves if state.decision else ()
    except InputError:
        return {}
    u_in = {v.name: v.u_in for v in valves if not v.inferred}
    return {
        r.valve: (r.preload_in, u_in[r.valve])
        for r in rods
        if r.valve is not None and r.preload_in is not None and r.valve in u_in
    }


def try_first(state: BuildState) -> bool:
    """Whether trial rods are advised before the set: none stands, and nothing was tried yet."""
    return not any(
        o.state in ("placed", "received", "fitted", "asked", "unknown", "trial")
        for o in state.orders
    )


def _trial_words(state: BuildState, order: Order) -> list[str]:
    """What the trial says against the decision, in a sentence; nothing while they agree."""
    wanted = set(state.rods_in.values())
    shift = order_shift(state, order)
    said = []
    for rod in sorted_rods(state, order):
        length = rod.length_in - shift
        decided = any(abs(length - w) <= state.plan.tolerance_in + _SAME_IN for w in wanted)
        if rod.tried in ("too long", "too short") and decided:
            said.append(
                say(
                    "{length} was tried and is {tried}: see Decide.",
                    length=format_length(rod.length_in),
                    tried=_TRIED[rod.tried],
                )
            )
    fits = [r for r in sorted_rods(state, order) if r.tried == "fits"]
    alone = fits and not any(
        abs(r.length_in - shift - w) <= state.plan.tolerance_in + _SAME_IN
        for r in fits for w in wanted
    )  # fmt: skip
    if alone:
        named = ", ".join(format_length(r.length_in) for r in fits)
        said.append(
            say(
                "{named} fits by trial, and the decision is another length: see Decide.",
                named=named,
            )
        )
    return said


def delivered(state: BuildState, order: Order) -> list[str]:
    """What came against what was ordered: lengths missing or too many, rods off tolerance.

    First, where that is so, the convention in which every rod would be as ordered.
    """
    said = _unlike(state, order, _measured_in(state, order))
    meant = _meant(state, order) if said else None
    if meant is None:
        return said
    return [say("read as {words} they all would be", words=CONVENTIONS[meant]), *said]


def _meant(state: BuildState, order: Order) -> Convention | None:
    """The convention that leaves nothing to say of what came; None where none does."""
    for given in CONVENTIONS:
        if not _unlike(state, order, _measured_in(state, order, given)):
            return given
    return None


def _unlike(state: BuildState, order: Order, lengths: Sequence[float]) -> list[str]:
    if not lengths:
        return []
    asked: Counter[float] = Counter()
    for line in order.lines:
        asked[round(line.given_in, 6)] += line.quantity
    nearest = [min((abs(at - length), at) for at in asked)[1] for length in lengths]
    came = Counter(nearest)
    said = [
        say("{n} × {at} missing", n=n, at=format_length(at))
        for at, n in sorted((asked - came).items())
    ]
    said += [
        say("{n} × {at} too many", n=n, at=format_length(at))
        for at, n in sorted((came - asked).items())
    ]
    return said + [
        say(
            "rod {i} is {length} {side}",
            i=i,
            length=format_small(abs(length - at)),
            side=_SIDE[length > at],
        )
        for i, (length, at) in enumerate(zip(lengths, nearest, strict=True), 1)
        if abs(length - at) > state.plan.tolerance_in + _SAME_IN
    ]


def _measured_in(state: BuildState, order: Order, given: Convention | None = None) -> list[float]:
    """The rods that came as they measured, in the order's convention, inches.

    ``given``: as if they had been read in this one.
    """
    ordering = cast(Convention, order.sheet["convention"])
    return [
        round(convert(r.length_in, given or r.convention, ordering, state.ends), 6)
        for r in order.rods or ()
    ]


_TRIED = {"too long": Saying("too long"), "too short": Saying("too short")}
_SIDE = {True: Saying("long"), False: Saying("short")}


def _needs_of(state: BuildState, order: Order) -> tuple[list[Need], dict[str, float]]:
    """Today's needs of the order's valves, and their zero lash, in the order's convention.

    Raises InputError when the build's convention has changed since.
    """
    decision = state.decision
    if decision is None or order.purpose == "trial":
        return [], {}
    names = {v for line in order.lines for v in line.valves}
    shift = order_shift(state, order)
    needs = [
        Need(n.name, n.kind, n.low_in + shift, n.high_in + shift, n.target_in + shift)
        for n in decision.needs
        if n.name in names
    ]
    zero = {v.name: v.zero_lash_in + shift for v in decision.valves}
    return needs, zero


def order_shift(state: BuildState, order: Order) -> float:
    """What an order's frozen convention adds to the build's present one, inches."""
    frozen = cast(Convention, order.sheet["convention"])
    if frozen == state.ordering:
        return 0.0
    ends = state.ends
    circle = order.sheet.get("gauge_circle_in") or ends.gauge_circle_in
    theirs = RodEnds(ends.lifter, ends.rocker, circle)
    return theirs.added_in(frozen) - ends.added_in(state.ordering)


def changed_since(state: BuildState, order: Order) -> list[str]:
    """Sentences on what later readings would change, and on plungers a trial rod bottoms."""
    if order.state in ("draft", "withdrawn"):
        return [*_draft_changes(state, order), *_bottomed(state, order)]
    if order.purpose == "trial" or state.decision is None:
        return [*_bottomed(state, order), *_trial_words(state, order)]
    needs, _ = _needs_of(state, order)
    frozen = {v: line.given_in for line in order.lines for v in line.valves}
    out = [n for n in needs if not n.serves(frozen[n.name])]
    if not out:
        return []
    named = ", ".join(
        say(
            "{name} ({frozen}, now wants {low} to {high})",
            name=n.name,
            frozen=format_length(frozen[n.name]),
            low=format_length(n.low_in),
            high=format_length(n.high_in),
        )
        for n in out[:4]
    )
    more = say(" and {out} more", out=len(out) - 4) if len(out) > 4 else ""
    return [say("Readings since would change this order: {named}{more}.", named=named, more=more)]


def _bottomed(state: BuildState, order: Order) -> list[str]:
    """Trial rods that push the plunger down to its stop on a valve they would be tried on."""
    if order.purpose != "trial" or order.state == "withdrawn" or state.solid:
        return []
    if state.decision is None:
        return []
    step, travel = float(state.build.stock_step_in), state.lifter.travel_in
    shift = order_shift(state, order)
    found = []
    for length in sorted({line.length_in - shift for line in order.lines}):
        rows = [r for r in state.decision.rows if abs(r.length_in - length) <= step + _SAME_IN]
        down = [r.valve.name for r in rows if length - r.valve.zero_lash_in >= travel]
        if down:
            found.append(
                say(
                    "{length} would bottom the plunger on {down}: do not turn the engine on it.",
                    length=format_length(length + shift),
                    down=", ".join(down[:4]),
                )
            )
    return found


def _draft_changes(state: BuildState, order: Order) -> list[str]:
    if order.state == "withdrawn":
        return []
    try:
        now = order_lines(state, cast(Purpose, order.purpose))
    except InputError:
        return [say("There is no length to order any more: see Decide.")]

    def told(lines: Sequence[OrderedLine]) -> set[tuple[float, tuple[str, ...]]]:
        found: dict[float, list[str]] = {}
        for line in lines:
            found.setdefault(round(line.length_in, 6), []).extend(line.valves)
        return {(c, tuple(sorted(v))) for c, v in found.items()}

    same = order.sheet["convention"] == state.ordering and told(now) == told(order.lines)
    return [] if same else [say("The decision has changed since this draft: draft it again.")]


def bought_lines(order: Order) -> list[OrderedLine]:
    """The lines of an order that a supplier shall send."""
    return [line for line in order.lines if line.source == "bought"]


def _split(
    length: float, quantity: int, valves: list[str], shelf: Mapping[float, BoxRod]
) -> list[OrderedLine]:
    """A wanted length as what the box gives and what is bought."""
    rod = shelf.get(length)
    from_box = min(rod.count, quantity) if rod else 0
    parts = []
    if rod and from_box:
        parts.append(OrderedLine(
            length_in=length, source="box", box_id=rod.id, quantity=from_box,
            valves=valves[:from_box],
        ))  # fmt: skip
    if quantity > from_box:
        parts.append(OrderedLine(
            length_in=length, source="bought", quantity=quantity - from_box,
            valves=valves[from_box:],
        ))  # fmt: skip
    return parts
