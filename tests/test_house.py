"""The house: two things never share a name, and no name leaks where it lives."""

import ast
import json
from collections import defaultdict
from pathlib import Path
from threading import Barrier, Thread

import pytest
from propcache.api import cached_property

ROOT = Path(__file__).parents[1]
STEPS = {
    "board", "setup", "base_circle", "zero_lash", "rocker", "heads", "decide", "order", "sign_off",
}  # fmt: skip


def public_types() -> dict[str, list[str]]:
    """Every public class, by name, with the modules that define it."""
    found: dict[str, list[str]] = defaultdict(list)
    for path in sorted((ROOT / "vivid_arm").rglob("*.py")):
        if "standins" in path.parts or "migrations" in path.parts:
            continue
        for node in ast.parse(path.read_text()).body:
            if isinstance(node, ast.ClassDef) and not node.name.startswith("_"):
                found[node.name].append(str(path.relative_to(ROOT)))
    return found


def test_two_things_never_share_a_name() -> None:
    assert {name: where for name, where in public_types().items() if len(where) > 1} == {}


def test_the_interface_names_no_module() -> None:
    schemas = json.loads((ROOT / "frontend" / "openapi.json").read_text())["components"]["schemas"]
    assert [name for name in schemas if "__" in name or name.startswith("vivid")] == []


@pytest.mark.parametrize("folder", ["vivid_arm/api", "frontend/src/stations"])
def test_every_step_has_its_room(folder: str) -> None:
    rooms = {p.name for p in (ROOT / folder).iterdir() if p.is_dir() and p.name[0] != "_"}
    assert rooms - {"said", "practice", "history", "shop", "accounts"} == STEPS


def test_every_address_names_its_step() -> None:
    """A page's address and its name are the step's one word."""
    router = (ROOT / "frontend" / "src" / "app" / "router.ts").read_text()
    for step in STEPS - {"board"}:
        assert f"path: '/builds/:buildId/{step}" in router
        assert f"name: '{step}'" in router


CORE = [
    path
    for path in sorted((ROOT / "vivid_arm" / "core").rglob("*.py"))
    if path.name not in ("__init__.py", "arrays.py", "errors.py")
]


@pytest.mark.parametrize("path", CORE, ids=lambda p: f"{p.parent.name}/{p.stem}")
def test_the_core_names_its_sources_and_what_it_refuses(path: Path) -> None:
    """A module says where its rules come from; what raises says so."""
    tree = ast.parse(path.read_text())
    assert "Source:" in (ast.get_docstring(tree) or "")
    public = [
        node
        for node in tree.body
        if isinstance(node, ast.FunctionDef | ast.ClassDef) and not node.name.startswith("_")
    ]
    assert [node.name for node in public if not ast.get_docstring(node)] == []
    silent = [
        node.name
        for node in public
        if isinstance(node, ast.FunctionDef) and _raises(node)
        if "InputError" not in (ast.get_docstring(node) or "")
    ]
    assert silent == []


def _raises(node: ast.FunctionDef) -> bool:
    return any(isinstance(n, ast.Raise) and n.exc is not None for n in ast.walk(node))


def test_what_is_worked_out_once_waits_for_nobody_else() -> None:
    """Python 3.11's own ``cached_property`` holds one lock for all instances while it computes."""
    files = [p for p in (ROOT / "vivid_arm").rglob("*.py") if "cached_property" in p.read_text()]
    assert files
    assert [p.name for p in files if "from propcache.api import" not in p.read_text()] == []
    inside, both = Barrier(2, timeout=30), []

    class Slow:
        @cached_property
        def value(self) -> int:
            return inside.wait()

    threads = [Thread(target=lambda: both.append(Slow().value)) for _ in range(2)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(both) == [0, 1]
