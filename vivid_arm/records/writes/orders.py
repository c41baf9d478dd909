"""Orders: drafted from the decision, frozen when asked for, received, fitted, given back.

What was ordered is frozen with the data behind it; later readings that would change the
answer are said. Every step is safe to repeat.
"""

from collections.abc import Mapping, Sequence
from datetime import UTC, datetime, timedelta
from typing import Any, Literal, cast
from uuid import UUID, uuid5

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from vivid_arm.core.entry.conventions import Convention
from vivid_arm.core.entry.lengths import FIELDS, parse_lengths
from vivid_arm.core.errors import InputError
from vivid_arm.core.words import Unit, say
from vivid_arm.records.nods import refuse_unnodded
from vivid_arm.records.rows.kept import Conflict, exact, insert_once, touch
from vivid_arm.records.shapes import MeasuredRod, OrderedLine
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.orders import STATE_WORDS, OrderState, Purpose, order_lines
from vivid_arm.records.tables import BoxRod, Build, Order
from vivid_arm.records.writes import box

MOVES: dict[OrderState, tuple[OrderState, ...]] = {
    "draft": ("withdrawn",),
    "asked": (),
    "unknown": ("withdrawn",),
    "placed": (),
    "received": ("trial", "fitted"),
    "trial": (),
    "fitted": (),
    "withdrawn": (),
}

MOST_ORDERS = 200
STANDING: tuple[OrderState, ...] = ("asked", "unknown", "placed", "received", "fitted")
Tried = Literal["fits", "too long", "too short"]
_IN_FLIGHT = timedelta(seconds=20)  # longer than any call to a supplier lasts
_RETURNED = UUID("1d3a0a52-7f0b-4c39-9c53-2f6f8f1f7a11")


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

    Raises InputError when nothing can be ordered, or the build holds as many as it may.
    """
    session.execute(select(Build.id).where(Build.id == state.build.id).with_for_update())
    known = session.get(Order, order_id)
    if known is not None:
        if known.build_id != state.build.id:
            raise Conflict(say("This key was already used for another order."), {}, {})
        return known
    refuse_practice(state.build)
    last = (
        session.scalar(select(func.max(Order.number)).where(Order.build_id == state.build.id)) or 0
    )
    if last >= MOST_ORDERS:
        raise InputError(
            "order",
            say("A build holds {most_orders} orders, drafts counted", most_orders=MOST_ORDERS),
            expected=say("at most {most_orders}", most_orders=MOST_ORDERS),
            remedy=say("Take a draft that was withdrawn back, or start a build like this one"),
            code="full",
        )
    order = Order(
        id=order_id,
        build_id=state.build.id,
        number=last + 1,
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
    touch(session, state.build.id)
    return order


def refuse_practice(build: Build) -> None:
    """Raises InputError for a practice engine: nothing of it goes to a supplier."""
    if build.exercise_id is not None:
        raise InputError(
            "build", say("A practice engine's rods are bought at its own bench"),
            remedy=say("Buy them there with the exercise's credits"), code="practice",
        )  # fmt: skip


def locked(session: Session, order_id: UUID) -> Order:
    """An order held until the transaction ends, as it is kept now."""
    return session.scalars(
        select(Order)
        .where(Order.id == order_id)
        .with_for_update()
        .execution_options(populate_existing=True)
    ).one()


def ask(session: Session, order: Order, *, second: bool = False) -> Literal["call", "wait", "done"]:
    """Freeze a draft before its supplier is called: call him, wait for a call under way, or done.

    The first time the box gives its share. A call that found no end, or was lost with its
    process, is made again under the same key. Raises InputError when the box is short, the
    order was withdrawn, a builder's nod is missing, or another set stands already and a
    ``second`` is not said to be meant.
    """
    if order.state == "withdrawn":
        raise InputError(
            "order",
            say("This order was withdrawn"),
            remedy=say("Draft a new one"),
            code="withdrawn",
        )
    now = datetime.now(UTC)
    if order.state == "asked" and order.asked_at and abs(now - order.asked_at) < _IN_FLIGHT:
        return "wait"
    if order.state not in ("draft", "asked", "unknown"):
        return "done"
    if order.state == "draft":
        if order.purpose == "set":
            refuse_unnodded(session, order.build_id)
        if not second:
            _refuse_second(session, order)
        for line in order.lines:
            if line.source == "box":
                box.take(session, _box_id(line), line.quantity)
    order.state, order.asked_at, order.reason = "asked", now, ""
    session.flush()
    return "call"


def second_of(orders: Sequence[Order], order: Order) -> Order | None:
    """The set of a build that stands already, where a draft would be a second one."""
    if order.purpose != "set" or order.state != "draft":
        return None
    others = (o for o in orders if o.purpose == "set" and o.id != order.id)
    return next((o for o in others if o.state in STANDING), None)


def _refuse_second(session: Session, order: Order) -> None:
    session.execute(select(Build.id).where(Build.id == order.build_id).with_for_update())
    known = session.scalars(select(Order).where(Order.build_id == order.build_id)).all()
    standing = second_of(known, order)
    if standing is not None:
        raise InputError(
            "second",
            say(
                "Order {number} for a set is {state} already",
                number=standing.number,
                state=STATE_WORDS[standing.state],
            ),
            expected=say("one set a build, or a second one that is meant"),
            remedy=say("Withdraw this draft, or say that a second set is meant"),
            code="second_set",
        )


def placed(session: Session, order: Order, answer: Mapping[str, Any] | None) -> None:
    """The order stands: with the supplier's answer, or sent by hand."""
    if order.state in ("asked", "unknown"):
        order.state, order.placed_at = "placed", datetime.now(UTC)
        order.answer = None if answer is None else dict(answer)
        _changed(session, order)


def unanswered(session: Session, order: Order) -> None:
    """The supplier gave no answer: whether he has the order is not known."""
    if order.state == "asked":
        order.state = "unknown"
        _changed(session, order)


def refused(session: Session, order: Order, words: str) -> None:
    """Nothing was ordered: the draft can be changed or asked again, the box has its rods back."""
    if order.state in ("asked", "unknown"):
        _give_back_box(session, order)
        order.state, order.reason = "draft", words[:200]
        _changed(session, order)


def cancelled(session: Session, order: Order, reason: str) -> None:
    """Withdrawn, and void at the supplier: nothing will ever come of it."""
    if order.state in ("draft", "unknown"):
        if order.state == "unknown":
            _give_back_box(session, order)
        order.state, order.reason = "withdrawn", reason.strip()
        order.closed_at = datetime.now(UTC)
        _changed(session, order)


def _box_id(line: OrderedLine) -> UUID:
    assert line.box_id is not None
    return line.box_id


def _give_back_box(session: Session, order: Order) -> None:
    for line in order.lines:
        if line.source == "box":
            box.give_back(session, _box_id(line), line.quantity)


SHIPPED = ("sent", "delivered")
"""What a supplier calls an order that has left him."""


def _refuse_unsent(order: Order, sure: bool) -> None:
    told = (order.answer or {}).get("state", "")
    if order.supplier and order.answer is not None and told not in SHIPPED and not sure:
        raise InputError(
            "rods",
            say(
                "The supplier has not sent order {number}: it is {told}",
                number=order.number,
                told=told,
            ),
            expected=say("rods that have been sent"),
            remedy=say("Are these another order's? Else say that they are here"),
            code="not_sent",
        )


def receive(
    session: Session,
    order: Order,
    text: str,
    given: Convention,
    unit: Unit,
    *,
    sure: bool = False,
) -> None:
    """Keep the rods of a placed order as measured; they can be measured again until fitted.

    ``sure``: they are here although the supplier says nothing of having sent them. Raises
    InputError for an order that is not on its way, too many rods, or no length.
    """
    if order.state not in ("placed", "received"):
        raise InputError(
            "order",
            say("An order that is {state} takes no rods", state=STATE_WORDS[order.state]),
            expected=say("a placed order"),
            remedy=say("Place the order first"),
            code="wrong_state",
        )
    _refuse_unsent(order, sure)
    ordered = sum(line.quantity for line in order.lines)
    parsed = parse_lengths(text, FIELDS["rod_length"], unit)
    if len(parsed) > ordered:
        raise InputError(
            "rods",
            say(
                "{parsed} rods measured, {ordered} were ordered",
                parsed=len(parsed),
                ordered=ordered,
            ),
            received=len(parsed),
            expected=say("at most {ordered}", ordered=ordered),
            remedy=say("A length may have been typed twice"),
            code="too_many",
        )
    order.rods = [
        MeasuredRod(raw=p.raw, length_in=float(p.inches), convention=given) for p in parsed
    ]
    order.state = "received"
    _changed(session, order)


def tried(
    session: Session, order: Order, number: int, result: Tried, valve: str, seen: str
) -> None:
    """Keep what the trial of a rod showed. Safe to repeat; a later word counts instead.

    Raises InputError for rods that are not on trial, or one there is not.
    """
    rods = list(order.rods or ())
    if order.purpose != "trial" or order.state != "trial":
        raise InputError(
            "order",
            say("Only trial rods that are on the engine are tried"),
            expected=say("a trial order in the state trial"),
            remedy=say("Put them on the engine first"),
            code="wrong_state",
        )
    if not 1 <= number <= len(rods):
        raise InputError(
            "number", say("This order has no rod {number}", number=number), received=number,
            expected=say("1 to {rods}", rods=len(rods)), code="unknown",
        )  # fmt: skip
    told = {"tried": result, "tried_on": valve, "seen": seen.strip()}
    if rods[number - 1].model_copy(update=told) == rods[number - 1]:
        return
    rods[number - 1] = rods[number - 1].model_copy(update=told)
    order.rods = rods
    _changed(session, order)


def draft_again(session: Session, order: Order) -> None:
    """A draft that was withdrawn stands again as it was. Raises InputError for another order.

    One its supplier was ever asked for is void with him: it is drafted anew instead.
    """
    if order.state == "draft":
        return
    if order.state != "withdrawn" or order.asked_at is not None:
        raise InputError(
            "order", say("Only a draft that never went out comes back"),
            remedy=say("Draft a new one"), code="wrong_state",
        )  # fmt: skip
    order.state, order.reason, order.closed_at = "draft", "", None
    _changed(session, order)


def refuse_unlike(unlike: Sequence[str], reason: str) -> None:
    """Raises InputError for rods that are not those ordered, fitted without a word why."""
    if unlike and not reason.strip():
        raise InputError(
            "reason",
            say("What came is not what was ordered: {unlike}", unlike="; ".join(unlike[:4])),
            expected=say("why it is fitted all the same"),
            remedy=say("Say why, or measure again"),
            code="not_as_ordered",
        )


def move(session: Session, order: Order, to: OrderState, reason: str = "") -> None:
    """Take an order on: a draft withdrawn, received rods on the engine for a trial or fitted.

    Repeating a step changes nothing. Raises InputError for a step that does not follow.
    """
    if order.state == to:
        return
    allowed = MOVES[cast(OrderState, order.state)]
    wrong_kind = (order.purpose, to) in (("set", "trial"), ("trial", "fitted"))
    if to not in allowed or wrong_kind:
        raise InputError(
            "to",
            say(
                "An order for {purpose} that is {state} cannot become {to}",
                purpose=say("trial rods") if order.purpose == "trial" else say("a set"),
                state=STATE_WORDS[order.state],
                to=STATE_WORDS[to],
            ),
            received=to,
            expected=", ".join(allowed) or say("nothing further"),
            remedy=say("Follow the order of the work"),
            code="wrong_state",
        )
    order.state, order.reason = to, reason.strip()
    if to in ("withdrawn", "fitted"):
        order.closed_at = datetime.now(UTC)
    _changed(session, order)


def _changed(session: Session, order: Order) -> None:
    session.flush()
    touch(session, order.build_id)


def give_back(session: Session, build: Build, order: Order) -> None:
    """Put the rods of a finished trial, or the rejected ones of a set, into the box. Once.

    Raises InputError while the rods are not there yet.
    """
    if order.purpose != "trial" or order.state != "trial":
        raise InputError(
            "order",
            say("Only trial rods that were on the engine come back to the box"),
            expected=say("a trial order in the state trial"),
            remedy=say("Receive them and try them first"),
            code="wrong_state",
        )
    if order.closed_at is not None:
        return
    diameter = order.sheet["rod"]["diameter_in"]
    for i, line in enumerate(order.lines):
        if line.source == "box":
            box.give_back(session, _box_id(line), line.quantity)
            continue
        insert_once(
            session,
            BoxRod(
                id=uuid5(_RETURNED, f"{order.id}/{i}"),
                length_in=exact(line.given_in),
                convention=order.sheet["convention"],
                diameter_in=exact(diameter),
                lifter_end=order.sheet["rod"]["lifter_end"],
                rocker_end=order.sheet["rod"]["rocker_end"],
                count=line.quantity,
                note=say(
                    "trial rods of order {number}, {name}", number=order.number, name=build.name
                )[:200],
            ),
        )
    order.closed_at = datetime.now(UTC)
    _changed(session, order)


def freeze_offers(order: Order, offers: Sequence[tuple[float, float]]) -> None:
    """Put the supplier's own lengths into the bought lines: (theirs, what that gives in ours)."""
    lines = [line.model_copy() for line in order.lines]
    bought = [line for line in lines if line.source == "bought"]
    for line, (theirs, gives) in zip(bought, offers, strict=True):
        line.theirs_in, line.gives_in = theirs, gives
    order.lines = lines
