"""A rod supplier behind one narrow interface: catalogue, quote, order, status.

An order carries the shop's own key, and the supplier answers the same key with the same
order, so that asking again after a time-out never orders twice. Protocol: docs/outside.md.
"""

from collections.abc import Sequence
from dataclasses import asdict, dataclass
from math import ceil, floor
from typing import Any, Protocol
from uuid import UUID

import httpx

from vivid_arm.core.entry.conventions import Convention, RodEnds

TIMEOUT_S = 4.0
_ON_GRID_IN = 5e-5


class SupplierAway(Exception):
    """No usable answer: time-out, no connection, a fault of the supplier's own."""


class SupplierRefused(Exception):
    """The supplier said no, and nothing was ordered. ``code`` and its sentence."""

    def __init__(self, code: str, message: str) -> None:
        super().__init__(message)
        self.code = code


@dataclass(frozen=True)
class Range:
    """Lengths offered: whole steps between two ends (inches), price each, days until sent."""

    step_in: float
    low_in: float
    high_in: float
    price: float
    days: int

    def nearest(self, length_in: float) -> float | None:
        """The offered length nearest to one wanted; None outside the range."""
        steps = length_in / self.step_in
        near = [k * self.step_in for k in (floor(steps), ceil(steps))]
        fitting = [c for c in near if self.low_in - 1e-9 <= c <= self.high_in + 1e-9]
        if not fitting:
            return None
        best: float = min(fitting, key=lambda c: abs(c - length_in))
        return round(best, 6)


@dataclass(frozen=True)
class Catalogue:
    """What a supplier sells, in his own length convention."""

    name: str
    convention: Convention
    gauge_circle_in: float
    tolerance_in: float
    diameters_in: tuple[float, ...]
    currency: str
    stock: Range
    made: Range


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

    def quote(self, lines: Sequence[Wanted]) -> dict[str, Any]:
        """Price and days for what is wanted. Raises SupplierRefused."""

    def order(self, key: UUID, lines: Sequence[Wanted]) -> dict[str, Any]:
        """Order under ``key``; the same key again gives the order already placed.

        Raises SupplierRefused when nothing was ordered.
        """

    def status(self, key: UUID) -> dict[str, Any] | None:
        """How an order stands; None when the supplier does not know it."""


class HttpSupplier:
    """A supplier spoken to over HTTP and JSON."""

    def __init__(self, url: str, timeout_s: float = TIMEOUT_S) -> None:
        self._http = httpx.Client(base_url=url, timeout=timeout_s, trust_env=False)

    def close(self) -> None:
        self._http.close()

    def catalogue(self) -> Catalogue:
        found = self._ask("GET", "/catalogue")
        try:
            return Catalogue(
                **found
                | {
                    "stock": Range(**found["stock"]),
                    "made": Range(**found["made"]),
                    "diameters_in": tuple(found["diameters_in"]),
                }
            )
        except (KeyError, TypeError) as error:
            raise SupplierAway("its catalogue cannot be read") from error

    def quote(self, lines: Sequence[Wanted]) -> dict[str, Any]:
        return self._ask("POST", "/quotes", lines)

    def order(self, key: UUID, lines: Sequence[Wanted]) -> dict[str, Any]:
        return self._ask("PUT", f"/orders/{key}", lines)

    def status(self, key: UUID) -> dict[str, Any] | None:
        try:
            return self._ask("GET", f"/orders/{key}")
        except SupplierRefused as error:
            if error.code == "unknown_order":
                return None
            raise

    def _ask(self, method: str, path: str, lines: Sequence[Wanted] | None = None) -> dict[str, Any]:
        body = None if lines is None else {"lines": [asdict(line) for line in lines]}
        try:
            answer = self._http.request(method, path, json=body)
            found = answer.json()
        except (httpx.HTTPError, ValueError) as error:
            raise SupplierAway(_why(error)) from error
        if answer.status_code >= 500 or not isinstance(found, dict):
            raise SupplierAway(f"it answered with an error ({answer.status_code})")
        if answer.status_code >= 400:
            raise SupplierRefused(
                str(found.get("code", "refused")), str(found.get("message", "It said no."))
            )
        return found


def _why(error: Exception) -> str:
    if isinstance(error, httpx.TimeoutException):
        return "it did not answer in time"
    if isinstance(error, httpx.ConnectError):
        return "it cannot be reached"
    return "its answer cannot be read"
