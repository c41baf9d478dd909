"""The languages the program speaks, read from their catalogues (gettext's portable objects).

English stands in the code; every other language is a file of this folder.
"""

from dataclasses import replace
from functools import cache, lru_cache
from gettext import GNUTranslations
from io import BytesIO
from pathlib import Path

from babel import Locale, negotiate_locale
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po

from vivid_arm.core.words import ENGLISH, Language, Unit

FOLDER = Path(__file__).parent
CODES = (ENGLISH.code, *sorted(p.stem for p in FOLDER.glob("*.po")))


def language_of(code: str, unit: Unit = "in") -> Language:
    """A language of ``CODES`` with lengths in a unit, read once."""
    return _read(code, unit)


@cache
def _read(code: str, unit: Unit) -> Language:
    if unit != "in":
        return replace(_read(code, "in"), unit=unit)
    if code == ENGLISH.code:
        return ENGLISH
    compiled = BytesIO()
    with (FOLDER / f"{code}.po").open("rb") as file:
        write_mo(compiled, read_po(file, locale=code))
    compiled.seek(0)
    point = Locale.parse(code).number_symbols["latn"]["decimal"]
    return Language(code, GNUTranslations(compiled), point)


@lru_cache(maxsize=256)
def chosen(told: str | None, accepted: str, unit: Unit = "in") -> Language:
    """The language somebody chose, else the first of those his browser asks for that is spoken.

    ``accepted`` is an Accept-Language header, whose order is taken for its weights.
    """
    if told in CODES:
        return language_of(str(told), unit)
    asked = [part.split(";")[0].strip() for part in accepted.split(",")]
    found = negotiate_locale([a.replace("-", "_") for a in asked if a], CODES)
    return language_of(found or ENGLISH.code, unit)
