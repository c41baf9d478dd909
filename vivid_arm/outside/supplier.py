"""A rod supplier behind one narrow interface: catalogue, quote, order, status.

An order carries the shop's own key, and the supplier answers the same key with the same
order, so that asking again after a time-out never orders twice. Protocol: docs/outside.md.
"""

import json
import time
from collections.abc import Sequence
from dataclasses import asdict, dataclass
from math import ceil, floor
from typing import Annotated, Any, Protocol, TypeVar
from uuid import UUID

import httpx
from pydantic import BaseModel, ConfigDict, Field, StringConstraints, ValidationError

from vivid_arm.core.entry.conventions import Convention, RodEnds
from vivid_arm.core.words import say

TIMEOUT_S = 4.0
_MOST_BYTES = 1_000_000
_ON_GRID_IN = 5e-5

Words = Annotated[str, StringConstraints(max_length=200, pattern=r"^[^\x00-\x1f\x7f]*$")]
Named = Annotated[Words, Field(min_length=1)]
Inches = Annotated[float, Field(ge=0, le=40, allow_inf_nan=False)]
Money = Annotated[float, Field(ge=0, le=1e7, allow_inf_nan=False)]
Days = Annotated[int, Field(ge=0, le=1000)]


class SupplierAway(Exception):
    """No usable answer: time-out, no connection, a fault of the supplier's own."""


class SupplierRefused(Exception):
    """The supplier said no, and nothing was ordered. ``code`` and its sentence."""

    def __init__(self, code: str, message: str) -> None:
        super().__init__(message)
        self.code = code


class _Answer(BaseModel):
    """What a supplier says, held to its limits; what he says beside it is left out."""

    model_config = ConfigDict(frozen=True, allow_inf_nan=False)


Kind = TypeVar("Kind", bound=_Answer)


class Range(_Answer):
    """Lengths offered: whole steps between two ends (inches), price each, days until sent."""

    step_in: Annotated[float, Field(ge=0.0005, le=1)]
    low_in: Inches
    high_in: Inches
    price: Money
    days: Days

    def nearest(self, length_in: float) -> float | None:
        """The offered length nearest to one wanted; None outside the range."""
        steps = length_in / self.step_in
        near = [k * self.step_in for k in (floor(steps), ceil(steps))]
        fitting = [c for c in near if self.low_in - 1e-9 <= c <= self.high_in + 1e-9]
        if not fitting:
            return None
        best: float = min(fitting, key=lambda c: abs(c - length_in))
        return round(best, 6)


class Catalogue(_Answer):
    """What a supplier sells, in his own length convention."""

    name: Named
    convention: Convention
    gauge_circle_in: Inches
    tolerance_in: Annotated[float, Field(gt=0, le=0.1)]
    diameters_in: Annotated[tuple[Inches, ...], Field(min_length=1, max_length=100)]
    currency: Words
    stock: Range
    made: Range


class Quote(_Answer):
    """What the lines cost together, and days until they are sent."""

    total: Money
    days: Days
    currency: Words = ""


class Event(_Answer):
    """A step of an order, and when it was reached (seconds since 1970)."""

    state: Named
    at: Annotated[float, Field(ge=0, le=1e11)]


class Standing(_Answer):
    """How an order stands with the supplier, under his own reference."""

    reference: Named
    state: Named
    events: Annotated[tuple[Event, ...], Field(max_length=100)] = ()
    total: Money | None = None
    days: Days | None = None
    currency: Words = ""


@dataclass(frozen=True)
class Wanted:
    """Rods of one length as asked for, in the supplier's convention (inches)."""

    length_in: float
    quantity: int
    diameter_in: float
    wall_in: float
    lifter_end: str
    rocker_end: str
    hardened: bool


@dataclass(frozen=True)
class Offer:
    """One wanted length against the catalogue, lengths in both conventions.

    ``offered_in`` is the nearest sold (None outside the range), ``gives_in`` the same in the
    shop's convention, ``off_in`` what that is longer than wanted.
    """

    wanted_in: float
    theirs_in: float
    offered_in: float | None
    gives_in: float | None
    made: bool
    price: float
    days: int

    @property
    def off_in(self) -> float | None:
        return None if self.gives_in is None else round(self.gives_in - self.wanted_in, 6)


def offer(catalogue: Catalogue, length_in: float, given: Convention, ends: RodEnds) -> Offer:
    """What a supplier sells nearest to a length in the shop's convention.

    Off his shelf where that is exact to half a ten-thousandth, else made to order.
    """
    theirs_ends = RodEnds(ends.lifter, ends.rocker, catalogue.gauge_circle_in)
    shift = theirs_ends.added_in(catalogue.convention) - ends.added_in(given)
    theirs = length_in + shift
    shelf = catalogue.stock.nearest(theirs)
    if shelf is not None and abs(shelf - theirs) <= _ON_GRID_IN:
        return _offer(length_in, theirs, shelf, shift, catalogue.stock, made=False)
    return _offer(
        length_in, theirs, catalogue.made.nearest(theirs), shift, catalogue.made, made=True
    )


def _offer(
    wanted: float, theirs: float, offered: float | None, shift: float, of: Range, *, made: bool
) -> Offer:
    gives = None if offered is None else round(offered - shift, 6)
    return Offer(wanted, round(theirs, 6), offered, gives, made, of.price, of.days)


class Supplier(Protocol):
    """What the program asks of a supplier. Every call may raise SupplierAway."""

    def catalogue(self) -> Catalogue:
        """Lengths, sizes and prices."""

    def quote(self, lines: Sequence[Wanted]) -> Quote:
        """Price and days for what is wanted. Raises SupplierRefused."""

    def order(self, key: UUID, lines: Sequence[Wanted]) -> Standing:
        """Order under ``key``; the same key again gives the order already placed.

        Raises SupplierRefused when nothing was ordered.
        """

    def status(self, key: UUID) -> Standing | None:
        """How an order stands; None when the supplier does not know it (yet)."""

    def cancel(self, key: UUID) -> Standing | None:
        """Void a key: None when nothing is or ever will be ordered under it.

        An order that stands already is given instead, and stays.
        """


class HttpSupplier:
    """A supplier spoken to over HTTP and JSON."""

    def __init__(self, url: str, timeout_s: float = TIMEOUT_S) -> None:
        self._http = httpx.Client(base_url=url, timeout=timeout_s, trust_env=False)
        self._patience_s = timeout_s

    def close(self) -> None:
        self._http.close()

    def catalogue(self) -> Catalogue:
        return self._read(Catalogue, self._ask("GET", "/catalogue"))

    def quote(self, lines: Sequence[Wanted]) -> Quote:
        return self._read(Quote, self._ask("POST", "/quotes", lines))

    def order(self, key: UUID, lines: Sequence[Wanted]) -> Standing:
        return self._read(Standing, self._ask("PUT", f"/orders/{key}", lines))

    def status(self, key: UUID) -> Standing | None:
        try:
            return self._read(Standing, self._ask("GET", f"/orders/{key}"))
        except SupplierRefused as error:
            if error.code == "unknown_order":
                return None
            raise

    def cancel(self, key: UUID) -> Standing | None:
        found = self._ask("DELETE", f"/orders/{key}")
        return None if found.get("state") == "cancelled" else self._read(Standing, found)

    @staticmethod
    def _read(kind: type[Kind], found: Any) -> Kind:
        try:
            return kind.model_validate(found)
        except ValidationError as error:
            where = ".".join(str(part) for part in error.errors()[0]["loc"])
            raise SupplierAway(say("its answer cannot be read ({where})", where=where)) from error

    def _ask(self, method: str, path: str, lines: Sequence[Wanted] | None = None) -> dict[str, Any]:
        body = None if lines is None else {"lines": [asdict(line) for line in lines]}
        until = time.monotonic() + self._patience_s
        try:
            with self._http.stream(method, path, json=body) as answer:
                found = json.loads(_body(answer, until), parse_constant=_no_number)
        except (httpx.HTTPError, ValueError, RecursionError) as error:
            raise SupplierAway(_why(error)) from error
        if answer.status_code >= 500 or not isinstance(found, dict):
            raise SupplierAway(
                say("it answered with an error ({status_code})", status_code=answer.status_code)
            )
        if answer.status_code >= 400:
            raise self._read(_No, found).as_refusal()
        return found


class _No(_Answer):
    """A refusal: a code and a sentence."""

    code: Named = "refused"
    message: Words = ""

    def as_refusal(self) -> SupplierRefused:
        return SupplierRefused(self.code, self.message or say("It said no."))


def _body(answer: httpx.Response, until: float) -> bytes:
    """An answer's body, within its limits of size and time. Raises ValueError, TimeoutException."""
    parts = bytearray()
    for part in answer.iter_bytes():
        parts += part
        if len(parts) > _MOST_BYTES:
            raise ValueError(say("too long"))
        if time.monotonic() > until:
            raise httpx.ReadTimeout(say("it drips"))
    return bytes(parts)


def _no_number(word: str) -> float:
    raise ValueError(say("{word} is no number", word=word))


def _why(error: Exception) -> str:
    if isinstance(error, httpx.TimeoutException):
        return say("it did not answer in time")
    if isinstance(error, httpx.ConnectError):
        return say("it cannot be reached")
    return say("its answer cannot be read")
