"""Who is signed in while a request is worked on; nobody where the shop has no accounts."""

from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from typing import Annotated

from pydantic import AfterValidator, Field

from vivid_arm.core.words import say
from vivid_arm.records.fields import Line

signed_in: ContextVar[str] = ContextVar("signed_in", default="")
"""The name of the account a request comes from."""
_from_a_file: ContextVar[bool] = ContextVar("from_a_file", default=False)


@contextmanager
def as_written() -> Iterator[None]:
    """Names stand as a file has them: its lines were taken by whoever took them."""
    before = _from_a_file.set(True)
    try:
        yield
    finally:
        _from_a_file.reset(before)


def _by(typed: str) -> str:
    who = signed_in.get()
    if who and typed.strip() not in ("", who) and not _from_a_file.get():
        raise ValueError(
            say("entered by {typed}, and {who} is signed in", typed=typed.strip(), who=who)
        )
    return typed.strip() or who


By = Annotated[Line, Field(max_length=60, validate_default=True), AfterValidator(_by)]
"""Who takes a reading or signs: whoever is signed in, with no need to type it."""
