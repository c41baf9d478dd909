"""Paper: one page template to HTML or PDF, black on white.

A page may use the fonts that ship with the program and photos that stand in the page itself:
no address that stands in a name or a note is ever opened.
"""

from base64 import b64encode
from collections.abc import Callable
from functools import cache, lru_cache
from pathlib import Path
from typing import Any, Literal

from jinja2 import Environment, FileSystemLoader, StrictUndefined
from markupsafe import Markup

from vivid_arm.core.entry.lengths import format_length, format_small
from vivid_arm.core.words import Unit, figure, language, say, within_a_sentence
from vivid_arm.documents.apart import apart

Paper = Literal["A4", "Letter"]
HERE = Path(__file__).parent
_PRACTICE = Markup(
    "@page {{ @top-center {{ content: '{0}'; font: 600 11pt Bench }} }}"
    "@media screen {{ body::before {{ content: '{0}'; font-weight: 600 }} }}"
)


Filters = dict[str, Callable[..., Any]]


def no_filters(unit: Unit) -> Filters:
    """Of a paper that needs none of its own."""
    return {}


@cache
def _templates(unit: Unit, filters: Callable[[Unit], Filters]) -> Environment:
    env = Environment(loader=FileSystemLoader(HERE), autoescape=True, undefined=StrictUndefined)
    env.filters["as_length"] = lambda value: format_length(float(value), unit)
    env.filters["as_small"] = lambda value: format_small(float(value), unit)
    env.filters["figure"] = lambda value, spec: figure(float(value), spec)
    env.filters["within"] = within_a_sentence
    env.filters |= filters(unit)
    env.globals["say"] = say
    return env


def page_of(
    template: str,
    unit: Unit,
    paper: Paper,
    filters: Callable[[Unit], Filters] = no_filters,
    *,
    practice: bool = False,
    **values: Any,
) -> str:
    """A template filled in: lengths in ``unit``, everything escaped.

    ``filters`` is a paper's own, by unit. ``practice``: of a practice engine, which every page
    says at its head.
    """
    said = _PRACTICE.format(say("Practice: no real engine")) if practice else ""
    spoken = language.get().code
    page = _templates(unit, filters).get_template(template)
    return page.render(paper=paper, practice=said, language=spoken, **values)


def jpeg_link(body: bytes) -> str:
    """A photo as the address that a page holds it under."""
    return f"data:image/jpeg;base64,{b64encode(body).decode()}"


@lru_cache(maxsize=8)
def pdf_of(page: str) -> bytes:
    """A page as PDF; the last ones are kept. Raises TooMuch beyond 50 s or 1.5 GB."""
    return apart(made_pdf, page, seconds=50, megabytes=1500)


def made_pdf(page: str) -> bytes:
    """A page as PDF, made here; what stands at an address it may not open is left out."""
    # Imported on use: it costs half a second that the start does not need.
    from weasyprint import HTML

    from vivid_arm.documents.fetching import OwnOnly

    made = HTML(string=page, base_url=f"{HERE}/", url_fetcher=OwnOnly())
    return bytes(made.write_pdf())
