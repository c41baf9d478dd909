"""What orders take and give. Lengths are inches in the order's convention."""

from datetime import datetime
from typing import Annotated, Any, Literal
from uuid import UUID

from pydantic import BaseModel, ConfigDict, Field

from vivid_arm.core.entry.conventions import Convention
from vivid_arm.core.words import Unit
from vivid_arm.records.fields import Line, Strict, Text, Version
from vivid_arm.records.signed_in import By
from vivid_arm.records.state.orders import OrderState, Purpose
from vivid_arm.records.writes.orders import Tried


class OrderIn(Strict):
    """Draft an order from the decision. The same ``id`` again gives the one drafted."""

    id: UUID
    purpose: Purpose
    supplier: bool = False
    by: By = ""


class PlaceIn(Strict):
    """``second`` says that another set of this build stands already and this one is meant."""

    second: bool = False


class ReceiveIn(Strict):
    """Rods as they measured, all of them, parted by blanks, commas or lines.

    ``sure``: they are here although the supplier says nothing of having sent them.
    """

    rods: Annotated[Text, Field(min_length=1, max_length=4000)]
    convention: Convention
    unit: Unit = "in"
    sure: bool = False


class TriedIn(Strict):
    """What a trial rod showed on a valve, and what was seen: the mark, the sound."""

    number: Annotated[int, Field(strict=True, ge=1, le=200)]
    result: Tried
    valve: Annotated[Line, Field(max_length=4)] = ""
    seen: Annotated[Line, Field(max_length=200)] = ""


class MoveIn(Strict):
    """The next step of an order seen at ``version``."""

    version: Version
    to: Literal["withdrawn", "draft", "trial", "fitted", "returned"]
    reason: Annotated[Line, Field(max_length=200)] = ""


class OrderLineOut(BaseModel):
    """Rods of one length: bought or from the box; in the supplier's convention beside it."""

    length_in: float
    quantity: int
    valves: list[str]
    source: Literal["bought", "box"]
    theirs_in: float | None = None
    offered_in: float | None = None
    off_in: float | None = None
    made: bool | None = None
    price: float | None = None
    days: int | None = None


class ReceivedOut(BaseModel):
    model_config = ConfigDict(from_attributes=True)

    number: int
    raw: str
    length_in: float
    off_in: float
    within_tolerance: bool
    valve: str | None
    preload_in: float | None
    inside: bool
    tried: Tried | None
    tried_on: str
    seen: str


class OrderOut(BaseModel):
    """An order as it stands; ``answer`` is the supplier's last word.

    ``second_of`` is the number of the build's set that stands already, where this draft
    would be a second one.
    """

    id: UUID
    version: int
    number: int
    purpose: Purpose
    state: OrderState
    supplier: str
    convention: Convention
    lines: list[OrderLineOut]
    made_by: str
    made_at: datetime
    asked_at: datetime | None
    closed_at: datetime | None
    reason: str
    second_of: int | None
    answer: dict[str, Any] | None
    rods: list[ReceivedOut]
    delivery: list[str]
    warnings: list[str]


class CatalogueOut(BaseModel):
    """The supplier, in one line; None figures while he does not answer."""

    there: bool
    name: str
    convention: Convention | None = None
    gauge_circle_in: float | None = None
    tolerance_in: float | None = None
    stock_step_in: float | None = None
    currency: str = ""
    why_not: str = ""


class OffersOut(BaseModel):
    """What the decision asks for against the supplier's catalogue."""

    supplier: CatalogueOut
    lines: list[OrderLineOut]
    total: float | None
    days: int | None


class OrdersOut(BaseModel):
    """A build's orders, the newest first, and what can be drafted now.

    ``open``: what is not settled of what would go out. ``try_first``: trial rods are advised
    before the set.
    """

    orders: list[OrderOut]
    set_lines: list[OrderLineOut]
    refusal: str | None
    open: list[str]
    try_first: bool
    cautions: list[str]
