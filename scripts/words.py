"""Every text into its catalogue: `python -m scripts.words`.

New texts of the server stand in `vivid_arm/languages/de.po` afterwards, empty, and those of the
pages in `frontend/src/kit/words.de.json`. The tests hold that none stays empty, and name those
of the pages that are no longer said; the server's are dropped here.
"""

import json
import re
from pathlib import Path

from babel.messages import Catalog
from babel.messages.extract import extract_from_dir
from babel.messages.frontend import parse_mapping_cfg
from babel.messages.pofile import read_po, write_po
from pydantic import BaseModel

from vivid_arm.languages import CODES, FOLDER
from vivid_arm.records import entries, settings, shapes
from vivid_arm.records.fields import words_of

ROOT = Path(__file__).parents[1]
_KEYWORDS = {"say": None, "Saying": None}


def kept_shapes() -> list[type[BaseModel]]:
    """The shapes whose fields are called by name in history and refusals."""
    held = [each for module in (settings, shapes, entries) for each in vars(module).values()]
    return [each for each in held if isinstance(each, type) and issubclass(each, BaseModel)]


def said() -> Catalog:
    """The texts of the server as they stand in code and papers."""
    with (ROOT / "babel.cfg").open() as file:
        methods, options = parse_mapping_cfg(file)
    found = Catalog(project="Vivid Arm", charset="utf-8")
    for path, line, text, _, _ in extract_from_dir(
        ROOT, methods, options, keywords=_KEYWORDS, comment_tags=()
    ):
        found.add(text, locations=[(path, line)])
    for text in words_of(kept_shapes()):
        found.add(text)
    return found


def gather(code: str) -> None:
    """Bring a language's catalogue up to what stands in the code."""
    file = FOLDER / f"{code}.po"
    with file.open("rb") as kept:
        catalogue = read_po(kept, locale=code)
    catalogue.update(said(), no_fuzzy_matching=True)
    catalogue.obsolete.clear()
    for message in catalogue:
        message.flags.discard("python-brace-format")
    with file.open("wb") as written:
        write_po(written, catalogue, width=0, no_location=True, omit_header=True, sort_output=True)


PAGES = ROOT / "frontend" / "src"
_CALL = re.compile(
    r"""(?<![\w.$])t\(\s*('(?:[^'\\]|\\.)*'|"(?:[^"\\]|\\.)*"|`(?:[^`\\$]|\\.)*`)""", re.DOTALL
)


def said_by_pages() -> set[str]:
    """The texts that the pages ask for by name."""
    sources = [p.read_text() for kind in ("vue", "ts") for p in PAGES.rglob(f"*.{kind}")]
    quoted = [found[1:-1] for source in sources for found in _CALL.findall(source)]
    return {re.sub(r"\\(['\"`\\])", r"\1", text) for text in quoted}


def gather_of_pages(code: str) -> None:
    """Bring the pages' catalogue of a language up to what they say."""
    file = PAGES / "kit" / f"words.{code}.json"
    kept = json.loads(file.read_text())
    kept |= {text: "" for text in sorted(said_by_pages() - set(kept))}
    file.write_text(json.dumps(kept, indent=2, ensure_ascii=False) + "\n")


def main() -> None:
    """Gather the texts of the server and of the pages."""
    for code in CODES[1:]:
        gather(code)
        gather_of_pages(code)


if __name__ == "__main__":
    main()
