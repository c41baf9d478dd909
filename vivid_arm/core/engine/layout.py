"""Engine layouts: cylinders and banks, firing order, the order of the valves along each head.

Source: firing orders and valve orders are common practice, all of them editable.
"""

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from vivid_arm.core.errors import InputError, Suggestion, within
from vivid_arm.core.words import Saying, figure, say

Layout = Literal["single", "inline", "v", "flat"]
ValveKind = Literal["intake", "exhaust"]
Numbering = Literal["along", "across"]
Side = Literal["left", "right"]
Rotation = Literal["clockwise", "anticlockwise"]

LAYOUTS: dict[Layout, tuple[Saying, tuple[int, ...]]] = {
    "single": (Saying("Single"), (1,)),
    "inline": (Saying("Inline"), tuple(range(2, 9))),
    "v": (Saying("V"), (2, 4, 6, 8, 10, 12, 16)),
    "flat": (Saying("Flat"), (2, 4, 6, 8, 10, 12)),
}
KINDS: tuple[ValveKind, ValveKind] = ("intake", "exhaust")
KIND_WORDS: dict[ValveKind, Saying] = {"intake": Saying("intake"), "exhaust": Saying("exhaust")}
_BANKS = {"left": Saying("left bank"), "right": Saying("right bank")}
LETTER: dict[ValveKind, str] = {"intake": "I", "exhaust": "E"}
_KIND_OF: dict[str, ValveKind] = {"I": "intake", "E": "exhaust"}
CYCLE_DEG = 720.0
_TURN_TOLERANCE_DEG = 0.01


def check_cylinders(layout: Layout, cylinders: int) -> int:
    """Return ``cylinders`` when the layout can have that many, else raise InputError."""
    name, allowed = LAYOUTS[layout]
    if cylinders not in allowed:
        listed = ", ".join(str(n) for n in allowed)
        raise InputError(
            "cylinders",
            say(
                "Cylinders: {cylinders} does not fit layout {name}", cylinders=cylinders, name=name
            ),
            received=cylinders,
            expected=listed,
            remedy=say("{name} takes {listed}", name=name, listed=listed),
            code="out_of_range",
        )
    return cylinders


def valves_of(layout: Layout, cylinders: int) -> list[tuple[int, ValveKind]]:
    """Every valve as (cylinder, kind): one intake and one exhaust a cylinder.

    >>> valves_of("single", 1)
    [(1, 'intake'), (1, 'exhaust')]
    """
    check_cylinders(layout, cylinders)
    return [(cylinder, kind) for cylinder in range(1, cylinders + 1) for kind in KINDS]


def valve_name(cylinder: int, kind: ValveKind) -> str:
    """A valve's short name.

    >>> valve_name(3, "exhaust")
    '3E'
    """
    return f"{cylinder}{LETTER[kind]}"


def engine_words(layout: Layout, cylinders: int) -> str:
    """A short name: "V8", "Inline 6", "Single"."""
    name = say(LAYOUTS[layout][0])
    if layout == "single":
        return name
    return f"{name}{cylinders}" if layout == "v" else f"{name} {cylinders}"


@dataclass(frozen=True)
class Head:
    """One cylinder head, front to rear: its bank, cylinders and valves in their true order."""

    bank: str
    cylinders: tuple[int, ...]
    valves: tuple[tuple[int, ValveKind], ...]

    def place(self, cylinder: int) -> float:
        """Where a cylinder stands along the head: 0 at the front, 1 at the rear."""
        at = self.cylinders.index(cylinder)
        return at / max(len(self.cylinders) - 1, 1)


@dataclass(frozen=True)
class Engine:
    """Everything about an engine that decides which valve is where, and when it moves.

    ``firing_order`` names every cylinder once, ``intervals_deg`` are the crank
    degrees from each to the next (720 together). ``numbering``: a bank's numbers
    run along it (1 2 3 4) or go across (1 3 5 7); ``first_bank`` carries number
    1, seen from behind, looking forward. ``valve_orders``: one text a head, front
    to rear, two letters a cylinder. ``rotation`` is seen from the front.

    Raises InputError with the field at fault.
    """

    layout: Layout
    cylinders: int
    bank_angle_deg: float
    numbering: Numbering
    first_bank: Side
    rotation: Rotation
    firing_order: tuple[int, ...]
    intervals_deg: tuple[float, ...]
    valve_orders: tuple[str, ...]

    def __post_init__(self) -> None:
        check_cylinders(self.layout, self.cylinders)
        banks = say("Measure between the two banks")
        within("bank_angle_deg", say("Bank angle"), self.bank_angle_deg, 0, 180, "°", remedy=banks)
        _check_firing_order(self.firing_order, self.cylinders)
        _check_intervals(self.intervals_deg, self.cylinders)
        _check_valve_orders(self.valve_orders, [len(c) for _, c in self._banks()])

    def _banks(self) -> list[tuple[str, tuple[int, ...]]]:
        numbers = range(1, self.cylinders + 1)
        if self.layout in ("single", "inline"):
            return [(say("head"), tuple(numbers))]
        half = self.cylinders // 2
        first = tuple(numbers[:half] if self.numbering == "along" else numbers[::2])
        other = tuple(numbers[half:] if self.numbering == "along" else numbers[1::2])
        names: dict[str, tuple[int, ...]] = (
            {"left": first, "right": other}
            if self.first_bank == "left"
            else {"left": other, "right": first}
        )
        return [(str(_BANKS[side]), cylinders) for side, cylinders in names.items()]

    @property
    def heads(self) -> tuple[Head, ...]:
        """The heads, left bank first, with their valves front to rear."""
        return tuple(
            Head(
                bank,
                cylinders,
                tuple((cylinders[i // 2], _KIND_OF[letter]) for i, letter in enumerate(order)),
            )
            for (bank, cylinders), order in zip(self._banks(), self.valve_orders, strict=True)
        )

    @property
    def firing_tdc_deg(self) -> dict[int, float]:
        """Crank angle of each cylinder's firing TDC; the first to fire stands at 0."""
        at, found = 0.0, {}
        for cylinder, interval in zip(self.firing_order, self.intervals_deg, strict=True):
            found[cylinder] = at
            at += interval
        return found


def _check_firing_order(order: Sequence[int], cylinders: int) -> None:
    wanted = set(range(1, cylinders + 1))
    twice = [c for c, n in Counter(order).items() if n > 1]
    missing, foreign = sorted(wanted - set(order)), sorted(set(order) - wanted)
    faults = [
        say("{twice} twice", twice=_listed(twice)) if twice else "",
        say("{missing} missing", missing=_listed(missing)) if missing else "",
        say("no cylinder {foreign}", foreign=_listed(foreign)) if foreign else "",
    ]
    said = "; ".join(f for f in faults if f)
    if said:
        raise InputError(
            "firing_order",
            say("Firing order {order}: {said}", order="-".join(str(c) for c in order), said=said),
            received="-".join(str(c) for c in order),
            expected=say("each of 1 to {cylinders} once", cylinders=cylinders),
            remedy=say("Write each cylinder once, such as 1-3-4-2"),
            code="firing_order",
        )


def _check_intervals(intervals: Sequence[float], cylinders: int) -> None:
    total = sum(intervals)
    if len(intervals) != cylinders:
        message = say(
            "Firing intervals: {intervals} given for {cylinders} cylinders",
            intervals=len(intervals),
            cylinders=cylinders,
        )
    elif min(intervals) <= 0:
        message = say("Firing intervals must be above zero")
    elif abs(total - CYCLE_DEG) > _TURN_TOLERANCE_DEG:
        message = say("Firing intervals add up to {total}°, not to 720°", total=figure(total, "g"))
    else:
        return
    raise InputError(
        "intervals_deg",
        message,
        received=", ".join(f"{i:g}" for i in intervals),
        expected=say("{cylinders} intervals that add up to 720", cylinders=cylinders),
        remedy=say("Give the crank degrees from each firing to the next, or choose even firing"),
        code="intervals",
    )


def _check_valve_orders(orders: Sequence[str], per_head: Sequence[int]) -> None:
    if len(orders) != len(per_head):
        raise InputError(
            "valve_orders",
            say(
                "Valve order: {orders} given for {per_head} heads",
                orders=len(orders),
                per_head=len(per_head),
            ),
            received=" / ".join(orders),
            expected=say("one for each of {per_head} heads", per_head=len(per_head)),
            remedy=say("Write the letters of each head from front to rear"),
            code="valve_order",
        )
    for order, count in zip(orders, per_head, strict=True):
        pairs = [order[i : i + 2] for i in range(0, len(order), 2)]
        if len(pairs) != count or any(p not in ("IE", "EI") for p in pairs):
            raise InputError(
                "valve_orders",
                say(
                    "Valve order {order}: not one I and one E for each of {count} cylinders",
                    order=order or say("(empty)"),
                    count=count,
                ),
                received=order,
                expected=say("{value} letters, I and E in pairs", value=2 * count),
                remedy=say("Write the letters from front to rear"),
                suggestion=Suggestion(usual_valve_order(count), say("A usual order")),
                code="valve_order",
            )


def _listed(numbers: Sequence[int]) -> str:
    return ", ".join(str(n) for n in numbers)


def parse_firing_order(text: str) -> tuple[int, ...]:
    """Read a firing order as typed: numbers parted by dashes, commas or spaces.

    >>> parse_firing_order("1-3-4-2")
    (1, 3, 4, 2)

    Raises InputError for anything else; a row of single digits is suggested apart.
    """
    parts = text.replace("-", " ").replace("–", " ").replace(",", " ").split()
    if not parts or not all(p.isascii() and p.isdigit() and len(p) < 10 for p in parts):
        raise InputError(
            "firing_order",
            say("Firing order: “{typed}” is not a list of cylinders", typed=text.strip()[:40]),
            received=text,
            expected=say("cylinder numbers"),
            remedy=say("Write it like 1-3-4-2"),
            code="firing_order",
        )
    if len(parts) == 1 and len(parts[0]) > 2:
        apart = "-".join(parts[0])
        raise InputError(
            "firing_order",
            say("Firing order: {parts} is one number", parts=parts[0]),
            received=text,
            expected=say("cylinder numbers"),
            suggestion=Suggestion(apart, say("The dashes are missing")),
            code="firing_order",
        )
    return tuple(int(p) for p in parts)


def usual_valve_order(cylinders: int) -> str:
    """A common order along a head of so many cylinders: like ports side by side.

    >>> usual_valve_order(4)
    'EIIEEIIE'
    """
    return "".join("EI" if i % 2 == 0 else "IE" for i in range(cylinders))


@dataclass(frozen=True)
class Preset:
    """An engine by general description: firing order and what goes with it (common practice)."""

    layout: Layout
    cylinders: int
    firing_order: tuple[int, ...]
    bank_angle_deg: float = 0.0
    numbering: Numbering = "across"
    intervals_deg: tuple[float, ...] | None = None

    @property
    def words(self) -> str:
        """The description shown: "Inline 6, 1-5-3-6-2-4"."""
        order = "-".join(str(c) for c in self.firing_order)
        angle = f" {self.bank_angle_deg:g}°" if self.layout == "v" else ""
        odd = say(", odd firing") if self.intervals_deg else ""
        along = say(", numbered along the bank") if self.layout == "v" and self._along else ""
        name = engine_words(self.layout, self.cylinders)
        return f"{name}{angle}, {order}{odd}{along}" if self.cylinders > 1 else name

    @property
    def _along(self) -> bool:
        return self.numbering == "along" and self.cylinders > 2


PRESETS: tuple[Preset, ...] = (
    Preset("single", 1, (1,)),
    Preset("inline", 2, (1, 2)),
    Preset("inline", 3, (1, 3, 2)),
    Preset("inline", 4, (1, 3, 4, 2)),
    Preset("inline", 4, (1, 2, 4, 3)),
    Preset("inline", 5, (1, 2, 4, 5, 3)),
    Preset("inline", 6, (1, 5, 3, 6, 2, 4)),
    Preset("inline", 7, (1, 3, 5, 7, 2, 4, 6)),
    Preset("inline", 8, (1, 6, 2, 5, 8, 3, 7, 4)),
    Preset("v", 2, (1, 2), 45, intervals_deg=(405, 315)),
    Preset("v", 2, (1, 2), 90, intervals_deg=(450, 270)),
    Preset("v", 4, (1, 3, 4, 2), 60),
    Preset("v", 6, (1, 2, 3, 4, 5, 6), 60),
    Preset("v", 6, (1, 6, 5, 4, 3, 2), 90),
    Preset("v", 8, (1, 8, 4, 3, 6, 5, 7, 2), 90),
    Preset("v", 8, (1, 5, 4, 2, 6, 3, 7, 8), 90, "along"),
    Preset("v", 8, (1, 3, 7, 2, 6, 5, 4, 8), 90, "along"),
    Preset("v", 10, (1, 10, 9, 4, 3, 6, 5, 8, 7, 2), 90),
    Preset("v", 12, (1, 12, 5, 8, 3, 10, 6, 7, 2, 11, 4, 9), 60, "along"),
    Preset("v", 16, (1, 8, 9, 14, 3, 6, 11, 2, 15, 10, 7, 4, 13, 12, 5, 16), 45),
    Preset("flat", 2, (1, 2), 180),
    Preset("flat", 4, (1, 4, 3, 2), 180, "along"),
    Preset("flat", 4, (1, 3, 2, 4), 180),
    Preset("flat", 6, (1, 6, 2, 4, 3, 5), 180, "along"),
    Preset("flat", 8, (1, 4, 5, 8, 2, 3, 6, 7), 180),
    Preset("flat", 10, tuple(range(1, 11)), 180),
    Preset("flat", 12, tuple(range(1, 13)), 180),
)


def engine_from(preset: Preset) -> Engine:
    """The engine of a preset, with usual valve orders, number 1 on the left, clockwise."""
    heads = 1 if preset.layout in ("single", "inline") else 2
    n = preset.cylinders
    return Engine(
        preset.layout,
        n,
        preset.bank_angle_deg,
        preset.numbering,
        "left",
        "clockwise",
        preset.firing_order,
        preset.intervals_deg or even_intervals(n),
        (usual_valve_order(n // heads),) * heads,
    )


def even_intervals(cylinders: int) -> tuple[float, ...]:
    """Firing intervals of an even-firing engine, crank degrees."""
    return (CYCLE_DEG / cylinders,) * cylinders


def usual_engine(layout: Layout, cylinders: int) -> Engine:
    """The first preset of a layout and count. Raises InputError when there is no such engine."""
    check_cylinders(layout, cylinders)
    preset = next(p for p in PRESETS if (p.layout, p.cylinders) == (layout, cylinders))
    return engine_from(preset)
