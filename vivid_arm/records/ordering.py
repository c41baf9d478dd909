"""Orders: drafted from the decision, frozen when asked for, received, fitted, given back.

What was ordered is frozen with the data behind it; later readings that would change the
answer are said. Every step is safe to repeat.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any, Literal, cast
from uuid import UUID, uuid5

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from vivid_arm.core.conventions import Convention, RodEnds, convert
from vivid_arm.core.errors import InputError
from vivid_arm.core.grouping import Need, matched
from vivid_arm.core.lengths import FIELDS, Unit, format_length, parse_lengths

from . import box, queries
from .deciding import box_length_in, usable_box
from .models import BoxRod, Build, Order
from .queries import Conflict
from .state import BuildState

Purpose = Literal["trial", "set"]
OrderState = Literal["draft", "placed", "received", "trial", "fitted", "withdrawn"]
MOVES: dict[OrderState, tuple[OrderState, ...]] = {
    "draft": ("withdrawn",),
    "placed": (),
    "received": ("trial", "fitted"),
    "trial": (),
    "fitted": (),
    "withdrawn": (),
}
_RETURNED = UUID("1d3a0a52-7f0b-4c39-9c53-2f6f8f1f7a11")
_SAME_IN = 1e-5


def draft(
    session: Session,
    state: BuildState,
    order_id: UUID,
    purpose: Purpose,
    supplier: str,
    sheet: Mapping[str, Any],
    by: str,
) -> Order:
    """Keep a draft of what the decision asks for; the same id again gives the one kept.

    Raises InputError when nothing can be ordered.
    """
    session.execute(select(Build.id).where(Build.id == state.build.id).with_for_update())
    known = session.get(Order, order_id)
    if known is not None:
        if known.build_id != state.build.id:
            raise Conflict("This key was already used for another order.", {}, {})
        return known
    last = session.scalar(
        select(func.coalesce(func.max(Order.number), 0)).where(Order.build_id == state.build.id)
    )
    order = Order(
        id=order_id,
        build_id=state.build.id,
        number=(last or 0) + 1,
        purpose=purpose,
        state="draft",
        supplier=supplier,
        sheet=dict(sheet),
        lines=order_lines(state, purpose),
        reason="",
        made_by=by,
    )
    session.add(order)
    session.flush()
    queries.touch(session, state.build.id)
    return order


def order_lines(state: BuildState, purpose: Purpose) -> list[dict[str, Any]]:
    """What to buy: for a set every valve's rod, for a trial a size up and a size down.

    The shop's own box comes first. Raises InputError when there is nothing.
    """
    by_length: dict[float, list[str]] = {}
    for name, length in state.rods_in.items():
        by_length.setdefault(length, []).append(name)
    if not by_length:
        raise InputError(
            "order",
            "There is nothing to order yet",
            remedy="Find zero lash and a length that fits first",
            code="nothing_to_order",
        )
    step = float(state.build.stock_step_in)
    wanted: list[tuple[float, int, list[str]]] = [
        (length, len(names), names) for length, names in sorted(by_length.items())
    ]
    if purpose == "trial":
        sizes = sorted({round(c + s, 6) for c in by_length for s in (-step, step)})
        wanted = [(c, 1, []) for c in sizes]
    shelf = {box_length_in(state, r): r for r in usable_box(state)}
    return [line for w in wanted for line in _split(*w, shelf)]


def _split(
    length: float, quantity: int, valves: list[str], shelf: Mapping[float, BoxRod]
) -> list[dict[str, Any]]:
    """A wanted length as what the box gives and what is bought."""
    rod = shelf.get(length)
    from_box = min(rod.count, quantity) if rod else 0
    parts = []
    if rod and from_box:
        parts.append({"source": "box", "box_id": str(rod.id), "quantity": from_box,
                      "valves": valves[:from_box]})  # fmt: skip
    if quantity > from_box:
        parts.append({"source": "bought", "box_id": None, "quantity": quantity - from_box,
                      "valves": valves[from_box:]})  # fmt: skip
    return [{"length_in": length, **part} for part in parts]


def locked(session: Session, order_id: UUID) -> Order:
    """An order held until the transaction ends, as it is kept now."""
    return session.scalars(
        select(Order)
        .where(Order.id == order_id)
        .with_for_update()
        .execution_options(populate_existing=True)
    ).one()


def ask(session: Session, order: Order) -> bool:
    """Freeze a draft before its supplier is called; whether the call is still to be made.

    The first time the box gives its share. An order already placed needs no call. Raises
    InputError when the box is short, or the order was withdrawn.
    """
    if order.state == "withdrawn":
        raise InputError(
            "order", "This order was withdrawn", remedy="Draft a new one", code="withdrawn"
        )
    if order.state != "draft":
        return False
    if order.asked_at is None:
        for line in order.lines:
            if line["source"] == "box":
                box.take(session, UUID(line["box_id"]), line["quantity"])
        order.asked_at = datetime.now(UTC)
        session.flush()
    return True


def placed(session: Session, order: Order, answer: Mapping[str, Any] | None) -> None:
    """The order stands: with the supplier's answer, or sent by hand."""
    if order.state == "draft":
        order.state, order.placed_at = "placed", datetime.now(UTC)
        order.answer = None if answer is None else dict(answer)
        _changed(session, order)


def refused(session: Session, order: Order) -> None:
    """Nothing was ordered: the draft can be changed or asked again, the box has its rods back."""
    if order.state == "draft" and order.asked_at is not None:
        _give_back_box(session, order)
        order.asked_at = None
        session.flush()


def _give_back_box(session: Session, order: Order) -> None:
    for line in order.lines:
        if line["source"] == "box":
            box.give_back(session, UUID(line["box_id"]), line["quantity"])


def receive(
    session: Session, state: BuildState, order: Order, text: str, given: Convention, unit: Unit
) -> None:
    """Keep the rods of a placed order as measured; they can be measured again until fitted.

    Raises InputError for an order that is not on its way, too many rods, or no length.
    """
    if order.state not in ("placed", "received"):
        raise InputError(
            "order",
            f"An order that is {order.state} takes no rods",
            expected="a placed order",
            remedy="Place the order first",
            code="wrong_state",
        )
    ordered = sum(line["quantity"] for line in order.lines)
    parsed = parse_lengths(text, FIELDS["rod_length"], unit)
    if len(parsed) > ordered:
        raise InputError(
            "rods",
            f"{len(parsed)} rods measured, {ordered} were ordered",
            received=len(parsed),
            expected=f"at most {ordered}",
            remedy="A length may have been typed twice",
            code="too_many",
        )
    order.rods = [{"raw": p.raw, "length_in": float(p.inches), "convention": given} for p in parsed]
    order.state = "received"
    _changed(session, order)


def move(session: Session, order: Order, to: OrderState, reason: str = "") -> None:
    """Take an order on: a draft withdrawn, received rods on the engine for a trial or fitted.

    Repeating a step changes nothing. Raises InputError for a step that does not follow.
    """
    if order.state == to:
        return
    allowed = MOVES[cast(OrderState, order.state)]
    wrong_kind = (order.purpose, to) in (("set", "trial"), ("trial", "fitted"))
    if to not in allowed or wrong_kind or (to == "withdrawn" and order.asked_at is not None):
        raise InputError(
            "to",
            f"An order for {'trial rods' if order.purpose == 'trial' else 'a set'} that is "
            f"{order.state} cannot become {to}",
            received=to,
            expected=", ".join(allowed) or "nothing further",
            remedy="Ask the supplier first whether it was placed"
            if order.asked_at is not None and order.state == "draft"
            else "Follow the order of the work",
            code="wrong_state",
        )
    order.state, order.reason = to, reason.strip()
    if to in ("withdrawn", "fitted"):
        order.closed_at = datetime.now(UTC)
    _changed(session, order)


def _changed(session: Session, order: Order) -> None:
    session.flush()
    queries.touch(session, order.build_id)


def give_back(session: Session, build: Build, order: Order) -> None:
    """Put the rods of a finished trial, or the rejected ones of a set, into the box. Once.

    Raises InputError while the rods are not there yet.
    """
    if order.purpose != "trial" or order.state != "trial":
        raise InputError(
            "order",
            "Only trial rods that were on the engine come back to the box",
            expected="a trial order in the state trial",
            remedy="Receive them and try them first",
            code="wrong_state",
        )
    if order.closed_at is not None:
        return
    diameter = order.sheet["rod"]["diameter_in"]
    for i, line in enumerate(order.lines):
        if line["source"] == "box":
            box.give_back(session, UUID(line["box_id"]), line["quantity"])
            continue
        queries.insert_once(
            session,
            BoxRod(
                id=uuid5(_RETURNED, f"{order.id}/{i}"),
                length_in=queries.exact(given_in(line)),
                convention=order.sheet["convention"],
                diameter_in=queries.exact(diameter),
                lifter_end=order.sheet["rod"]["lifter_end"],
                rocker_end=order.sheet["rod"]["rocker_end"],
                count=line["quantity"],
                note=f"trial rods of order {order.number}, {build.name}"[:200],
            ),
        )
    order.closed_at = datetime.now(UTC)
    _changed(session, order)


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


def sorted_rods(state: BuildState, order: Order) -> list[ReceivedRod]:
    """Received rods laid on their valves to the best effect, exactly; rejects have none."""
    if not order.rods:
        return []
    ordering = cast(Convention, order.sheet["convention"])
    lengths = [
        round(convert(r["length_in"], r["convention"], ordering, state.ends), 6) for r in order.rods
    ]
    needs, zero = _needs_of(state, order)
    found = matched(lengths, needs) if needs else [None] * len(lengths)
    ordered = [given_in(line) for line in order.lines]
    rods = []
    for i, (length, at) in enumerate(zip(lengths, found, strict=True)):
        nearest = min(ordered, key=lambda c: abs(c - length))
        need = None if at is None else needs[at]
        inside = need is not None and need.serves(length)
        if need is not None and not inside and order.purpose == "set":
            need = None
        rods.append(
            ReceivedRod(
                i + 1,
                order.rods[i]["raw"],
                length,
                round(length - nearest, 6),
                abs(length - nearest) <= state.plan.tolerance_in + _SAME_IN,
                None if need is None else need.name,
                None if need is None else round(length - zero[need.name], 6),
                inside,
            )
        )
    return rods


def _needs_of(state: BuildState, order: Order) -> tuple[list[Need], dict[str, float]]:
    """Today's needs of the order's valves, and their zero lash, in the order's convention.

    Raises InputError when the build's convention has changed since.
    """
    decision = state.decision
    if decision is None or order.purpose == "trial":
        return [], {}
    names = {v for line in order.lines for v in line["valves"]}
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
    """Sentences on what later readings would change of a frozen order; empty when nothing."""
    if order.state in ("draft", "withdrawn") and order.asked_at is None:
        return _draft_changes(state, order)
    if order.purpose == "trial" or state.decision is None:
        return []
    needs, _ = _needs_of(state, order)
    frozen = {v: given_in(line) for line in order.lines for v in line["valves"]}
    out = [n for n in needs if not n.serves(frozen[n.name])]
    if not out:
        return []
    named = ", ".join(
        f"{n.name} ({format_length(frozen[n.name])}, now wants "
        f"{format_length(n.low_in)} to {format_length(n.high_in)})"
        for n in out[:4]
    )
    more = f" and {len(out) - 4} more" if len(out) > 4 else ""
    return [f"Readings since would change this order: {named}{more}."]


def _draft_changes(state: BuildState, order: Order) -> list[str]:
    if order.state == "withdrawn":
        return []
    try:
        now = order_lines(state, cast(Purpose, order.purpose))
    except InputError:
        return ["There is no length to order any more: see Decide."]

    def told(lines: Sequence[Mapping[str, Any]]) -> set[tuple[float, tuple[str, ...]]]:
        found: dict[float, list[str]] = {}
        for line in lines:
            found.setdefault(round(line["length_in"], 6), []).extend(line["valves"])
        return {(c, tuple(sorted(v))) for c, v in found.items()}

    same = order.sheet["convention"] == state.ordering and told(now) == told(order.lines)
    return [] if same else ["The decision has changed since this draft: draft it again."]


def given_in(line: Mapping[str, Any]) -> float:
    """The length a line brings, in the order's convention: the supplier's nearest, or as wanted."""
    return float(line.get("gives_in") or line["length_in"])


def freeze_offers(order: Order, offers: Sequence[tuple[float, float]]) -> None:
    """Put the supplier's own lengths into the bought lines: (theirs, what that gives in ours)."""
    lines = [dict(line) for line in order.lines]
    bought = [line for line in lines if line["source"] == "bought"]
    for line, (theirs, gives) in zip(bought, offers, strict=True):
        line |= {"theirs_in": theirs, "gives_in": gives}
    order.lines = lines


def bought_lines(order: Order) -> list[dict[str, Any]]:
    """The lines of an order that a supplier shall send."""
    return [line for line in order.lines if line["source"] == "bought"]
