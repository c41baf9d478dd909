"""Every text of the server is said, and stands in each language's catalogue with its values."""

import ast
import re
from collections.abc import Iterator
from pathlib import Path
from string import Formatter

import pytest
from babel.messages.pofile import read_po

from scripts.words import said
from vivid_arm.api.problems import RESPONSES
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


SENTENCE = re.compile(r"[A-Za-z]{2,}[,;:]? [a-z]{2,}[,;:]? [a-z]{2,}")
SERVER = Path(__file__).parents[1] / "vivid_arm"
FOR_NOBODY = re.compile(
    # The terminal, the machine beneath, the document of the interface, and what people wrote.
    r"demo/|standins/|__main__|serving|logs|tls|api/examples|api/watch|documents/fetching|"
    r"records/(migrations/|cluster|backup|archive|roles|replica|happenings|evidence|tables)"
)
CODES = ("at the limit", "will not go")
SAID = ("say", "Saying", "text", "exception", "warning", "Field", "field")


def bare_sentences(source: str) -> Iterator[tuple[int, str]]:
    """Sentences of a module that nobody says: no docstring, no query, no line of the log."""
    tree = ast.parse(source)
    above = {child: node for node in ast.walk(tree) for child in ast.iter_child_nodes(node)}
    for node in ast.walk(tree):
        if not (isinstance(node, ast.Constant) and isinstance(node.value, str)):
            continue
        inside: ast.AST = node
        said = node.value in CODES or not SENTENCE.search(node.value)
        while not said and inside in above:
            inside = above[inside]
            named = inside.func if isinstance(inside, ast.Call) else None
            said = isinstance(inside, ast.Expr) or (
                getattr(named, "id", getattr(named, "attr", "")) in SAID
            )
        if not said:
            yield node.lineno, node.value


def test_no_sentence_stands_outside() -> None:
    found = [
        (name, line, words)
        for path in sorted(SERVER.rglob("*.py"))
        if not FOR_NOBODY.match(name := path.relative_to(SERVER).as_posix())
        for line, words in bare_sentences(path.read_text())
        # The document of the interface is for programs, and in English.
        if not (name in ("api/problems.py", "api/app.py") and words in DOCUMENT)
    ]
    assert found == []


def test_a_sentence_outside_is_found() -> None:
    source = 'def f():\n    """Not this one here."""\n    return "But this one here"'
    assert list(bare_sentences(source)) == [(3, "But this one here")]


def test_a_text_is_given_just_the_values_it_asks_for() -> None:
    """Also on the paths that no other test takes: a missing value would be an error there."""
    unlike, seen = [], 0
    for path in sorted(SERVER.rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text())):
            if not (isinstance(node, ast.Call) and getattr(node.func, "id", "") == "say"):
                continue
            text = node.args[0] if node.args else None
            if isinstance(text, ast.Constant) and isinstance(text.value, str) and node.keywords:
                seen += 1
                asked = {name for _, name, _, _ in Formatter().parse(text.value) if name}
                if asked != {given.arg for given in node.keywords}:
                    unlike.append((path.name, node.lineno, text.value))
    assert seen > 400
    assert unlike == []


DOCUMENT = {str(each["description"]) for each in RESPONSES.values()} | {
    "Pushrod length at the engine bench, from zero lash to an order."
}


def test_every_text_that_is_said_is_in_the_catalogue() -> None:
    """Independent of what gathers them, which passes over a text said among another's values."""
    root = Path(__file__).parents[1] / "vivid_arm"
    known = {m.id for m in read_po((root / "languages" / "de.po").open("rb"))}
    left = set()
    for path in root.rglob("*.py"):
        if path.name == "__main__.py":  # it tells the owner at his machine, in English
            continue
        for node in ast.walk(ast.parse(path.read_text())):
            named = isinstance(node, ast.Call) and getattr(node.func, "id", "") in ("say", "Saying")
            first = node.args[0] if named and node.args else None
            if isinstance(first, ast.Constant) and first.value and first.value not in known:
                left.add((path.name, first.value))
    assert left == set()
