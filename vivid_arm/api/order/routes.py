"""Orders: draft, place with the supplier or by hand, receive, try or fit, give back."""

import time
from datetime import UTC, datetime
from typing import Annotated, Any, cast
from uuid import UUID

from fastapi import APIRouter, Query, Request
from sqlalchemy.orm import Session, sessionmaker

from vivid_arm.api.deps import Rx, SaidUnit, Tx, build_state, factory_of, seen
from vivid_arm.api.order.schemas import (
    CatalogueOut,
    MoveIn,
    OffersOut,
    OrderIn,
    OrderLineOut,
    OrderOut,
    OrdersOut,
    PlaceIn,
    ReceivedOut,
    ReceiveIn,
    TriedIn,
)
from vivid_arm.api.problems import NotFound
from vivid_arm.api.responses import PdfResponse
from vivid_arm.core.entry.conventions import CONVENTIONS, Convention
from vivid_arm.core.errors import InputError
from vivid_arm.core.said.cautions import ORDERING
from vivid_arm.core.words import figure, say, say_all
from vivid_arm.documents import labels, order_data, order_sheet
from vivid_arm.documents.paper import Paper
from vivid_arm.outside.supplier import (
    Catalogue,
    Quote,
    Supplier,
    SupplierAway,
    SupplierRefused,
    Wanted,
    offer,
)
from vivid_arm.records.nods import words_of
from vivid_arm.records.rows.kept import Conflict
from vivid_arm.records.shapes import OrderedLine
from vivid_arm.records.state.build import BuildState
from vivid_arm.records.state.orders import (
    bought_lines,
    changed_since,
    delivered,
    order_lines,
    sorted_rods,
    try_first,
)
from vivid_arm.records.state.rod import rod_figures
from vivid_arm.records.tables import Order
from vivid_arm.records.writes import orders

router = APIRouter(tags=["order"])
ORDERS = "/api/builds/{build_id}/orders"
_WAIT_S = 6.0


def supplier_of(request: Request) -> Supplier | None:
    """The supplier this shop talks to; None for a shop that orders by hand."""
    return cast("Supplier | None", request.app.state.supplier)


@router.get("/api/supplier")
def read_supplier(request: Request) -> CatalogueOut:
    """The rod supplier in one line: his convention and steps, or why he does not answer."""
    found = supplier_of(request)
    if found is None:
        return CatalogueOut(there=False, name="", why_not=say("This shop orders by hand."))
    try:
        return _catalogue_out(found.catalogue())
    except (SupplierAway, SupplierRefused) as error:
        return CatalogueOut(there=False, name=say("the supplier"), why_not=str(error))


@router.get("/api/builds/{build_id}/offers")
def read_offers(
    build_id: UUID,
    request: Request,
    session: Rx,
    order_id: Annotated[UUID | None, Query()] = None,
) -> OffersOut:
    """The set the decision asks for, in the supplier's lengths, with price and days.

    ``order_id``: an order as it was drafted instead.
    """
    state = seen(session, build_id)
    lines = order_lines(state, "set") if order_id is None else _drafted(state, order_id)
    found = _asked(supplier_of(request))
    catalogue = found.catalogue()
    out = [_offered(state, catalogue, line) for line in lines]
    bought = [line for line in out if line.source == "bought"]
    quote: Quote | None = None
    if bought and all(line.offered_in is not None for line in bought):
        rod = rod_figures(state.build)
        quote = found.quote(
            [
                Wanted(
                    line.offered_in or 0.0,
                    line.quantity,
                    rod.diameter_in,
                    rod.wall_in,
                    state.build.lifter_end,
                    state.build.rocker_end,
                    rod.hardened,
                )
                for line in bought
            ]
        )
    return OffersOut(
        supplier=_catalogue_out(catalogue),
        lines=out,
        total=quote and quote.total,
        days=quote and quote.days,
    )


def _drafted(state: BuildState, order_id: UUID) -> list[OrderedLine]:
    for order in state.orders:
        if order.id == order_id:
            return order.lines
    raise NotFound(say("This build has no such order."))


@router.get(ORDERS)
def read_orders(build_id: UUID, session: Rx) -> OrdersOut:
    """A build's orders, and what can be drafted now."""
    return _orders_out(session, seen(session, build_id))


@router.post(ORDERS, status_code=201)
def draft_order(build_id: UUID, body: OrderIn, request: Request, session: Tx) -> OrdersOut:
    """Draft an order from the decision. Safe to repeat: one id is one order."""
    state = build_state(session, build_id)
    orders.refuse_practice(state.build)
    sheet = order_data.to_dict(order_data.order_sheet(state, datetime.now(UTC)))
    name = _asked(supplier_of(request)).catalogue().name if body.supplier else ""
    orders.draft(session, state, body.id, body.purpose, name, sheet, body.by)
    return _orders_out(session, state)


@router.post(ORDERS + "/{order_id}/place")
def place_order(
    build_id: UUID, order_id: UUID, request: Request, body: PlaceIn | None = None
) -> OrdersOut:
    """Place a draft. Safe to repeat after any failure: the supplier knows it by its id.

    The order is frozen and kept as asked before the supplier is called. A lost answer leaves
    it unknown, to be asked again. One call at a time: others wait for its end.
    """
    sessions = factory_of(request)
    with sessions.begin() as session:
        order = _found(session, build_id, order_id)
        by_hand = not order.supplier or not bought_lines(order)
        to_freeze = not by_hand and order.state == "draft"
    if to_freeze:
        _freeze(sessions, build_id, order_id, _asked(supplier_of(request)).catalogue())
    supplier = None if by_hand else _asked(supplier_of(request))
    until = time.monotonic() + _WAIT_S
    while True:
        with sessions.begin() as session:
            order = orders.locked(session, order_id)
            turn = orders.ask(session, order, second=body is not None and body.second)
            if turn == "call" and by_hand:
                orders.placed(session, order, None)
            wanted = [] if by_hand else _wanted(order)
        if turn != "wait" or time.monotonic() > until:
            break
        time.sleep(0.1)
    if turn == "wait":
        raise SupplierAway(say("he is being asked already"))
    if turn == "call" and supplier is not None:
        _call(sessions, order_id, supplier, wanted)
    with sessions.begin() as session:
        return _orders_out(session, build_state(session, build_id))


def _freeze(
    sessions: sessionmaker[Session], build_id: UUID, order_id: UUID, catalogue: Catalogue
) -> None:
    """Put the supplier's lengths into the draft. Raises InputError for one he does not sell."""
    with sessions.begin() as session:
        state = build_state(session, build_id)
        order = orders.locked(session, order_id)
        if order.state != "draft":
            return
        offers = [_offered(state, catalogue, line) for line in bought_lines(order)]
        for line in offers:
            if line.offered_in is None:
                raise InputError(
                    "order",
                    say(
                        "{name} sells no rod near {length} in",
                        name=catalogue.name,
                        length=figure(line.length_in, ".4f"),
                    ),
                    received=line.length_in,
                    remedy=say("Order by hand, or choose another length"),
                    code="not_sold",
                )
        pairs = [(x.offered_in or 0.0, x.length_in + (x.off_in or 0.0)) for x in offers]
        orders.freeze_offers(order, pairs)


def _call(
    sessions: sessionmaker[Session], order_id: UUID, supplier: Supplier, wanted: list[Wanted]
) -> None:
    """Ask the supplier, and keep what he said, or that he said nothing."""
    try:
        answer = supplier.order(order_id, wanted)
    except SupplierRefused as error:
        with sessions.begin() as session:
            orders.refused(session, orders.locked(session, order_id), str(error))
        raise
    except SupplierAway:
        with sessions.begin() as session:
            orders.unanswered(session, orders.locked(session, order_id))
        raise
    with sessions.begin() as session:
        orders.placed(session, orders.locked(session, order_id), answer.model_dump())


@router.post(ORDERS + "/{order_id}/status")
def ask_status(build_id: UUID, order_id: UUID, request: Request) -> OrdersOut:
    """Ask the supplier how an order stands.

    An order he does not know stays unknown: it may still be on its way to him. Placing it
    again, or withdrawing it, makes it certain.
    """
    sessions = factory_of(request)
    with sessions.begin() as session:
        order = _found(session, build_id, order_id)
        known = order.supplier and order.state in ("asked", "unknown", "placed", "received")
    if known:
        answer = _asked(supplier_of(request)).status(order_id)
        with sessions.begin() as session:
            order = orders.locked(session, order_id)
            if answer is not None:
                orders.placed(session, order, answer.model_dump())
                order.answer = answer.model_dump()
    with sessions.begin() as session:
        return _orders_out(session, build_state(session, build_id))


@router.post(ORDERS + "/{order_id}/rods")
def receive_rods(build_id: UUID, order_id: UUID, body: ReceiveIn, session: Tx) -> OrdersOut:
    """Keep the received rods as measured, and sort them onto their valves."""
    state = build_state(session, build_id)
    _found(session, build_id, order_id)
    order = orders.locked(session, order_id)
    orders.receive(session, order, body.rods, body.convention, body.unit, sure=body.sure)
    return _orders_out(session, state)


@router.post(ORDERS + "/{order_id}/tried")
def try_rod(build_id: UUID, order_id: UUID, body: TriedIn, session: Tx) -> OrdersOut:
    """Keep what the trial of a rod showed. Safe to repeat."""
    state = build_state(session, build_id)
    _found(session, build_id, order_id)
    if body.valve and body.valve not in {v.name for v in state.valves}:
        raise InputError("valve", say("This build has no such valve"), code="unknown")
    order = orders.locked(session, order_id)
    orders.tried(session, order, body.number, body.result, body.valve, body.seen)
    return _orders_out(session, build_state(session, build_id))


@router.get(ORDERS + "/{order_id}/labels.pdf", response_class=PdfResponse)
def labels_pdf(
    build_id: UUID,
    order_id: UUID,
    request: Request,
    session: Rx,
    unit: SaidUnit,
    paper: Annotated[Paper, Query()] = "A4",
) -> PdfResponse:
    """A sheet of stickers, one a rod: as received and sorted, else as ordered."""
    order, state = _found(session, build_id, order_id), build_state(session, build_id)
    rods = [(r.valve or "", r.length_in) for r in sorted_rods(state, order)] or [
        (line.valves[i] if i < len(line.valves) else "", line.length_in)
        for line in order.lines
        for i in range(line.quantity)
    ]
    words = say(CONVENTIONS[cast(Convention, order.sheet["convention"])])
    made = labels.to_pdf(
        labels.labels_of(sorted(rods, key=_by_valve), words, build_link(request, build_id)),
        state.build.name, order.number, words, unit, paper,
    )  # fmt: skip
    name = f"rod-labels-{order.number}.pdf"
    return PdfResponse(made, headers={"Content-Disposition": f'inline; filename="{name}"'})


def _by_valve(rod: tuple[str, float]) -> tuple[bool, int, str]:
    """Cylinder by cylinder, exhaust after intake; rods of no valve last."""
    digits = rod[0].rstrip("IE")
    return not rod[0], int(digits or 0), rod[0].replace("I", "A")


@router.post(ORDERS + "/{order_id}/moves")
def move_order(build_id: UUID, order_id: UUID, body: MoveIn, request: Request) -> OrdersOut:
    """Withdraw an order, put trial rods on the engine, give them back, or say a set is fitted.

    An order the supplier was ever asked for is withdrawn with him: its key becomes void, so
    that a call still on its way orders nothing.
    """
    sessions = factory_of(request)
    with sessions.begin() as session:
        order = _found(session, build_id, order_id)
        with_supplier = (
            body.to == "withdrawn"
            and order.supplier
            and (order.state == "unknown" or (order.state == "draft" and order.asked_at))
        )
    if with_supplier:
        _withdraw(sessions, order_id, _asked(supplier_of(request)), body)
    with sessions.begin() as session:
        state = build_state(session, build_id)
        order = orders.locked(session, order_id)
        if body.to == "returned":
            orders.give_back(session, state.build, order)
        elif body.to == "draft":
            orders.draft_again(session, order)
        elif order.state != body.to:
            if order.version != body.version:
                raise Conflict(
                    say("This order has moved on."), {"to": body.to}, {"state": order.state}
                )
            if body.to == "fitted":
                orders.refuse_unlike(delivered(state, order), body.reason)
            orders.move(session, order, body.to, body.reason)
    with sessions.begin() as session:
        return _orders_out(session, build_state(session, build_id))


def _withdraw(
    sessions: sessionmaker[Session], order_id: UUID, supplier: Supplier, body: MoveIn
) -> None:
    """Void an order at the supplier. Raises Conflict when he has it already."""
    found = supplier.cancel(order_id)
    with sessions.begin() as session:
        order = orders.locked(session, order_id)
        if found is None:
            orders.cancelled(session, order, body.reason)
        else:
            orders.placed(session, order, found.model_dump())
    if found is not None:
        raise Conflict(
            say("The supplier has this order already."), {"to": body.to}, {"state": "placed"}
        )


@router.get(ORDERS + "/{order_id}/sheet.pdf", response_class=PdfResponse)
def frozen_pdf(
    build_id: UUID,
    order_id: UUID,
    request: Request,
    session: Rx,
    unit: SaidUnit,
    paper: Annotated[Paper, Query()] = "A4",
) -> PdfResponse:
    """An order's sheet as it was frozen, to print."""
    order = _found(session, build_id, order_id)
    title = f"{say('Trial rods') if order.purpose == 'trial' else say('Rod order')} {order.number}"
    sheet = order_data.from_dict(order.sheet)
    if order.purpose == "trial":
        sheet = order_data.trial_of(sheet, [(x.length_in, x.quantity) for x in order.lines])
    return PdfResponse(
        order_sheet.to_pdf(sheet, unit, paper, build_link(request, build_id), title),
        headers={"Content-Disposition": f'inline; filename="rod-order-{order.number}.pdf"'},
    )


def build_link(request: Request, build_id: UUID) -> str:
    """Where a build is found, as its QR code says."""
    return f"{str(request.base_url).rstrip('/')}/builds/{build_id}/order"


def _asked(found: Supplier | None) -> Supplier:
    if found is None:
        raise InputError(
            "supplier", say("This shop has no supplier to ask"),
            remedy=say("Order by hand: PDF, CSV, JSON or e-mail text"), code="no_supplier",
        )  # fmt: skip
    return found


def _found(session: Session, build_id: UUID, order_id: UUID) -> Order:
    order = session.get(Order, order_id)
    if order is None or order.build_id != build_id:
        raise NotFound(say("This build has no such order."))
    return order


def _wanted(order: Order) -> list[Wanted]:
    rod: dict[str, Any] = order.sheet["rod"]
    return [
        Wanted(
            line.theirs_in or line.length_in,
            line.quantity,
            rod["diameter_in"],
            rod["wall_in"],
            rod["lifter_end"],
            rod["rocker_end"],
            rod["hardened"],
        )
        for line in bought_lines(order)
    ]


def _catalogue_out(found: Catalogue) -> CatalogueOut:
    return CatalogueOut(
        there=True,
        name=found.name,
        convention=found.convention,
        gauge_circle_in=found.gauge_circle_in,
        tolerance_in=found.tolerance_in,
        stock_step_in=found.stock.step_in,
        currency=found.currency,
    )


def _offered(state: BuildState, catalogue: Catalogue, line: OrderedLine) -> OrderLineOut:
    out = _line_out(line)
    if line.source == "box":
        return out
    found = offer(catalogue, line.length_in, state.ordering, state.ends)
    return out.model_copy(
        update={
            "theirs_in": found.theirs_in,
            "offered_in": found.offered_in,
            "off_in": found.off_in,
            "made": found.made,
            "price": found.price,
            "days": found.days,
        }
    )


def _line_out(line: OrderedLine) -> OrderLineOut:
    theirs = line.theirs_in
    return OrderLineOut(
        length_in=line.length_in,
        quantity=line.quantity,
        valves=line.valves,
        source=line.source,
        theirs_in=theirs,
        offered_in=theirs,
        off_in=None if theirs is None else round(line.given_in - line.length_in, 6),
    )


def _orders_out(session: Session, state: BuildState) -> OrdersOut:
    lines: list[OrderLineOut] = []
    refusal = None
    try:
        lines = [_line_out(line) for line in order_lines(state, "set")]
    except InputError as error:
        refusal = str(error)
    no_nod = [f"{words}." for words in [words_of(session, state.build.id)] if words]
    return OrdersOut(
        orders=[_order_out(state, o) for o in state.orders],
        set_lines=lines,
        refusal=refusal,
        open=[] if refusal else [*order_data.open_points(state), *no_nod],
        try_first=try_first(state),
        cautions=say_all(ORDERING),
    )


def _order_out(state: BuildState, order: Order) -> OrderOut:
    standing = orders.second_of(state.orders, order)
    return OrderOut(
        id=order.id,
        version=order.version,
        number=order.number,
        purpose=order.purpose,
        state=order.state,
        supplier=order.supplier,
        convention=cast(Convention, order.sheet["convention"]),
        lines=[_line_out(line) for line in order.lines],
        made_by=order.made_by,
        made_at=order.made_at,
        asked_at=order.asked_at,
        closed_at=order.closed_at,
        reason=order.reason,
        second_of=standing and standing.number,
        answer=order.answer,
        rods=[ReceivedOut.model_validate(r) for r in sorted_rods(state, order)],
        delivery=delivered(state, order),
        warnings=changed_since(state, order),
    )
