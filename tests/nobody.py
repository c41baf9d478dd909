"""A language nobody speaks, by which every word shows that was not said in it."""

import re
from collections.abc import Iterator
from typing import Any

from vivid_arm.core.words import Language

WRITTEN = (
    # What people have written, and what was written down for them: it stays as it was.
    ".name", ".note", ".reason", ".by", ".where", ".received", ".signed_by", ".build",
    ".open_points", ".raw", ".engine.valve_orders", ".made_by", ".measured_by", ".old", ".new",
    ".type", ".person", ".instrument",
)  # fmt: skip


class Marks:
    """Every letter of a text is the same, and none of English's; what is put in stays."""

    def gettext(self, text: str) -> str:
        return re.sub(r"\{[^{}]*\}|([A-Za-z])", lambda m: "ж" if m[1] else m[0], text)


NOBODYS = Language("xx", Marks())  # type: ignore[arg-type]


def strings(value: Any, at: str = "") -> Iterator[tuple[str, str]]:
    """Every text of an answer, with where it stands."""
    if isinstance(value, dict):
        for name, inner in value.items():
            yield from strings(inner, f"{at}.{name}")
    elif isinstance(value, list):
        for inner in value:
            yield from strings(inner, at)
    elif isinstance(value, str):
        yield at, value
