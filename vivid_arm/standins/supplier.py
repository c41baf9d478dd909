"""A simulated rod supplier: a small HTTP service with a catalogue, stock and faults on demand.

Invented for the program; its protocol is described in docs/outside.md. Orders are known by the
customer's key: the same key gives the same order, another content under it is refused.
"""

import json
import time
from collections.abc import Callable
from pathlib import Path
from typing import Annotated, Any, Literal

import anyio
from fastapi import FastAPI, Request
from fastapi.responses import JSONResponse
from pydantic import BaseModel, ConfigDict, Field

Fault = Literal["none", "timeout", "late", "error", "lost_answer", "out_of_stock", "garbled"]
STEPS = ("accepted", "in the works", "sent", "delivered")
CATALOGUE: dict[str, Any] = {
    "name": "Alder Lane Rods (simulated)",
    "convention": "gauge",
    "gauge_circle_in": 0.140,
    "tolerance_in": 0.003,
    "diameters_in": [0.3125, 0.34375, 0.375, 0.4375],
    "currency": "credits",
    "stock": {"step_in": 0.025, "low_in": 6.5, "high_in": 9.5, "price": 9.5, "days": 2},
    "made": {"step_in": 0.005, "low_in": 5.5, "high_in": 11.5, "price": 16.0, "days": 12},
}
USUAL_STOCK = 40
_ORDERS_ONLY = ("late", "lost_answer", "out_of_stock")
_HANG_S = 30.0


class Line(BaseModel):
    model_config = ConfigDict(extra="forbid")

    length_in: Annotated[float, Field(ge=3, le=16)]
    quantity: Annotated[int, Field(ge=1, le=200)]
    diameter_in: float
    wall_in: float
    lifter_end: str
    rocker_end: str
    hardened: bool


class Lines(BaseModel):
    model_config = ConfigDict(extra="forbid")

    lines: Annotated[list[Line], Field(min_length=1, max_length=40)]


class Simulation(BaseModel):
    """What the next calls shall do: a fault for ``times`` calls, seconds a step, and of silence.

    ``on`` "orders" spares catalogue, quotes and status; a lost answer, an empty shelf and
    ``late``, which takes an order in only after the time-out, only ever happen to orders.
    """

    model_config = ConfigDict(extra="forbid")

    fault: Fault = "none"
    times: Annotated[int, Field(ge=0, le=1000)] = 1
    on: Literal["any", "orders"] = "any"
    pace_s: Annotated[float, Field(gt=0, le=86400)] | None = None
    hang_s: Annotated[float, Field(gt=0, le=300)] | None = None


class _Refused(Exception):
    def __init__(self, status: int, code: str, message: str) -> None:
        super().__init__(message)
        self.status, self.code = status, code


class Works:
    """The supplier's books, kept in a file when one is given."""

    def __init__(self, file: Path | None, pace_s: float, clock: Callable[[], float]) -> None:
        self.file, self.pace_s, self.clock = file, pace_s, clock
        self.orders: dict[str, dict[str, Any]] = {}
        self.fault: Fault = "none"
        self.times = 0
        self.orders_only = False
        self.void_calls = 0
        self.hang_s = _HANG_S
        if file is not None and file.exists():
            self.orders = json.loads(file.read_text())

    def take_fault(self, *, ordering: bool) -> Fault:
        """The fault of this call, counted down; none when it is not meant."""
        if self.times <= 0 or (self.orders_only and not ordering):
            return "none"
        self.times -= 1
        return self.fault

    def price(self, line: Line) -> dict[str, Any]:
        """A line with its price. Raises for what is not sold."""
        sold = CATALOGUE["diameters_in"]
        if all(abs(line.diameter_in - size) > 1e-4 for size in sold):
            raise _Refused(422, "not_sold", f"Diameter {line.diameter_in:g} in is not sold.")
        for name in ("stock", "made"):
            of = CATALOGUE[name]
            steps = line.length_in / of["step_in"]
            on_step = abs(steps - round(steps)) * of["step_in"] < 1e-5
            if on_step and of["low_in"] <= line.length_in <= of["high_in"]:
                return line.model_dump() | {
                    "price": of["price"], "days": of["days"], "made": name == "made",
                }  # fmt: skip
        raise _Refused(422, "not_sold", f"{line.length_in:.4f} in is no length of the catalogue.")

    def quote(self, lines: list[Line]) -> dict[str, Any]:
        priced = [self.price(line) for line in lines]
        return {
            "lines": priced,
            "total": round(sum(p["price"] * p["quantity"] for p in priced), 2),
            "days": max(p["days"] for p in priced),
            "currency": CATALOGUE["currency"],
        }

    def place(self, key: str, lines: list[Line], *, short: bool) -> tuple[dict[str, Any], bool]:
        """The order under a key, and whether it is new. Raises when nothing was ordered."""
        content = [line.model_dump() for line in lines]
        known = self.orders.get(key)
        if known is not None:
            if known.get("cancelled"):
                self.void_calls += 1
                raise _Refused(409, "cancelled", "This order was cancelled.")
            if known["content"] != content:
                raise _Refused(409, "key_used", "This key was used for another order.")
            return self.standing(key), False
        quote = self.quote(lines)
        if short or any(p["quantity"] > USUAL_STOCK and not p["made"] for p in quote["lines"]):
            raise _Refused(409, "out_of_stock", "Not enough rods of that length are in stock.")
        self.orders[key] = {
            "content": content,
            "quote": quote,
            "at": self.clock(),
            "reference": f"AL-{1000 + len(self.orders) + 1}",
        }
        self._keep()
        return self.standing(key), True

    def cancel(self, key: str) -> dict[str, Any]:
        """Void a key for ever; an order already placed under it stands and is given."""
        if key in self.orders and not self.orders[key].get("cancelled"):
            return self.standing(key)
        self.orders[key] = {"cancelled": True, "at": self.clock()}
        self._keep()
        return {"state": "cancelled"}

    def _keep(self) -> None:
        if self.file is not None:
            self.file.write_text(json.dumps(self.orders))

    def standing(self, key: str) -> dict[str, Any]:
        """An order as it stands now: one step each ``pace_s``."""
        known = self.orders.get(key)
        if known is None or known.get("cancelled"):
            raise _Refused(404, "unknown_order", "There is no order under this key.")
        since = self.clock() - known["at"]
        done = min(int(since / self.pace_s), len(STEPS) - 1)
        return {
            "reference": known["reference"],
            "state": STEPS[done],
            "events": [
                {"state": s, "at": known["at"] + i * self.pace_s}
                for i, s in enumerate(STEPS[: done + 1])
            ],
            **known["quote"],
        }


def make_supplier(
    file: Path | None = None,
    pace_s: float = 20.0,
    clock: Callable[[], float] = time.time,
    hang_s: float = _HANG_S,
) -> FastAPI:
    """The stand-in as an application; ``hang_s`` is how long a time-out fault keeps silent."""
    app = FastAPI(title="Rod supplier stand-in", docs_url=None, redoc_url=None)
    works = Works(file, pace_s, clock)
    works.hang_s = hang_s
    app.state.works = works

    @app.exception_handler(_Refused)
    def refused(_: Request, error: _Refused) -> JSONResponse:
        return JSONResponse({"code": error.code, "message": str(error)}, error.status)

    async def faulty(fault: Fault) -> JSONResponse | None:
        if fault == "timeout":
            await anyio.sleep(works.hang_s)
        if fault == "error":
            return JSONResponse({"code": "fault", "message": "simulated"}, 500)
        if fault == "garbled":
            return JSONResponse(["what?"])
        return None

    @app.get("/catalogue")
    async def catalogue() -> Any:
        return await faulty(works.take_fault(ordering=False)) or CATALOGUE

    @app.post("/quotes")
    async def quote(body: Lines) -> Any:
        return await faulty(works.take_fault(ordering=False)) or works.quote(body.lines)

    @app.put("/orders/{key}")
    async def order(key: str, body: Lines) -> Any:
        fault = works.take_fault(ordering=True)
        if failed := await faulty(fault):
            return failed
        if fault == "late":
            await anyio.sleep(works.hang_s)
        placed, new = works.place(key, body.lines, short=fault == "out_of_stock")
        if fault == "lost_answer":
            await anyio.sleep(works.hang_s)
        return JSONResponse(placed, 201 if new else 200)

    @app.get("/orders/{key}")
    async def status(key: str) -> Any:
        return await faulty(works.take_fault(ordering=False)) or works.standing(key)

    @app.delete("/orders/{key}")
    async def cancel(key: str) -> Any:
        return await faulty(works.take_fault(ordering=False)) or works.cancel(key)

    @app.get("/orders")
    def orders() -> dict[str, Any]:
        """How many orders the books hold, for looking in."""
        keys = [key for key, order in works.orders.items() if not order.get("cancelled")]
        return {"count": len(keys), "keys": keys, "void_calls": works.void_calls}

    @app.post("/simulate")
    def simulate(body: Simulation) -> dict[str, Any]:
        works.fault, works.times = body.fault, body.times
        works.orders_only = body.on == "orders" or body.fault in _ORDERS_ONLY
        if body.pace_s is not None:
            works.pace_s = body.pace_s
        if body.hang_s is not None:
            works.hang_s = body.hang_s
        return {"fault": works.fault, "times": works.times, "pace_s": works.pace_s}

    return app
