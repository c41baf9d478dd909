"""Engine layouts and the valves they carry."""

from typing import Literal

from .errors import InputError

Layout = Literal["single", "inline", "v", "flat"]
ValveKind = Literal["intake", "exhaust"]

LAYOUTS: dict[Layout, tuple[str, tuple[int, ...]]] = {
    "single": ("Single", (1,)),
    "inline": ("Inline", tuple(range(2, 9))),
    "v": ("V", (2, 4, 6, 8, 10, 12, 16)),
    "flat": ("Flat", (2, 4, 6, 8, 10, 12)),
}
KINDS: tuple[ValveKind, ValveKind] = ("intake", "exhaust")


def check_cylinders(layout: Layout, cylinders: int) -> int:
    """Return ``cylinders`` when the layout can have that many, else raise InputError."""
    name, allowed = LAYOUTS[layout]
    if cylinders not in allowed:
        listed = ", ".join(str(n) for n in allowed)
        raise InputError(
            "cylinders",
            f"Cylinders: {cylinders} does not fit layout {name}",
            received=cylinders,
            expected=listed,
            remedy=f"{name} takes {listed}",
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


def engine_words(layout: Layout, cylinders: int) -> str:
    """A short name: "V8", "Inline 6", "Single"."""
    name = LAYOUTS[layout][0]
    if layout == "single":
        return name
    return f"{name}{cylinders}" if layout == "v" else f"{name} {cylinders}"
