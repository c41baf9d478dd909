"""Every text of the server stands in each language's catalogue, whole and with its values."""

import re

import pytest
from babel.messages.pofile import read_po

from scripts.words import said
from vivid_arm.languages import CODES, FOLDER

VALUES = re.compile(r"\{+[^{}]*\}+")


@pytest.fixture(scope="module", params=CODES[1:])
def texts(request: pytest.FixtureRequest) -> dict[str, str]:
    with (FOLDER / f"{request.param}.po").open("rb") as file:
        catalogue = read_po(file, locale=request.param)
    return {str(m.id): str(m.string) for m in catalogue if m.id}


def test_no_text_is_missing_and_none_is_left_over(texts: dict[str, str]) -> None:
    """``python -m scripts.words`` brings both together."""
    asked = {str(m.id) for m in said() if m.id}
    assert len(asked) > 1500
    assert asked - set(texts) == set()
    assert set(texts) - asked == set()


def test_every_text_is_said(texts: dict[str, str]) -> None:
    assert [text for text, other in texts.items() if not other.strip()] == []


def test_what_is_put_in_is_the_same(texts: dict[str, str]) -> None:
    """Values, and the blanks that part a text from its neighbours."""
    unlike = [
        text
        for text, other in texts.items()
        if sorted(VALUES.findall(text)) != sorted(VALUES.findall(other))
        or text[: len(text) - len(text.lstrip())] != other[: len(other) - len(other.lstrip())]
        or text[len(text.rstrip()) :] != other[len(other.rstrip()) :]
    ]
    assert unlike == []
