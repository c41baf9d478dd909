"""What the program says, in the language and the unit of whoever is answered.

English stands in the code and is its own key: ``say("Longer than {length}.", length=...)``.

Source: gettext's way, as Python's library has it.
"""

from collections.abc import Callable, Iterable
from contextvars import ContextVar
from dataclasses import dataclass, field
from functools import lru_cache, wraps
from gettext import NullTranslations
from typing import Literal, ParamSpec, TypeVar

_Given = ParamSpec("_Given")
_Made = TypeVar("_Made")
Unit = Literal["in", "mm"]
"""Inches, small lengths in thou; or millimetres."""


@dataclass(frozen=True)
class Language:
    """A language: its code, its texts, what stands before its decimals, the unit of lengths."""

    code: str
    texts: NullTranslations = field(default_factory=NullTranslations)
    point: str = "."
    unit: Unit = "in"

    @property
    def key(self) -> str:
        """What tells sentences in this language and unit from all others, such as "de-mm"."""
        return self.code if self.unit == "in" else f"{self.code}-{self.unit}"


ENGLISH = Language("en")
language: ContextVar[Language] = ContextVar("language", default=ENGLISH)
"""The language of whoever is answered."""


@dataclass(frozen=True)
class Saying:
    """A text that stands in a table; ``str`` says it in the language of whoever is answered."""

    text: str

    def __str__(self) -> str:
        return say(self.text)


def say(text: str | Saying, /, **values: object) -> str:
    """A text in the language asked for, with its values put in.

    Braces are doubled where values are given and something is left to be put in later.

    >>> say("{first} and {second} differ.", first=2, second="three")
    '2 and three differ.'
    """
    if isinstance(text, Saying):
        text = text.text
    found = language.get().texts.gettext(text) if text else text
    if not values:
        return found
    return found.format(**{k: figure(v) if isinstance(v, float) else v for k, v in values.items()})


def say_all(texts: Iterable[Saying]) -> list[str]:
    """Several texts that stand in a table."""
    return [say(text) for text in texts]


def within_a_sentence(text: str | Saying) -> str:
    """A text as it stands within a sentence; German keeps its capital, which may be a noun's.

    >>> within_a_sentence("Caliper over pin and axle")
    'caliper over pin and axle'
    """
    said = str(text)
    return said[:1].lower() + said[1:] if language.get().code == ENGLISH.code else said


def figure(value: object, spec: str = "") -> str:
    """A figure as the language asked for writes it.

    >>> figure(2.5, ".2f")
    '2.50'
    """
    return format(value, spec).replace(".", language.get().point)


def remembered_as_said(most: int) -> Callable[[Callable[_Given, _Made]], Callable[_Given, _Made]]:
    """Remember the last answers of a function that answers in words, by language and unit."""

    def remembering(make: Callable[_Given, _Made]) -> Callable[_Given, _Made]:
        @lru_cache(most)
        def kept(_: str, *given: _Given.args, **named: _Given.kwargs) -> _Made:
            return make(*given, **named)

        @wraps(make)
        def asked(*given: _Given.args, **named: _Given.kwargs) -> _Made:
            return kept(language.get().key, *given, **named)  # type: ignore[arg-type]

        return asked

    return remembering
