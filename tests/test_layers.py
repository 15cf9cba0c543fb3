"""The house: one direction of imports, a declared public surface, and a truth that no measure can see."""

from __future__ import annotations

import ast
import subprocess
import sys
from functools import cache
from graphlib import TopologicalSorter
from pathlib import Path

import pytest

import vane_line

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "vane_line"
MAY_IMPORT = {
    "core": {"core", "errors"},
    "demo": {"demo", "core", "errors"},
    "store": {"store", "errors"},
    "report": {"report", "core", "errors"},
    "work": {"work", "report", "core", "errors"},
    "service": {"service", "work", "store", "report", "core", "demo", "errors"},
    "api": {"api", "service", "store", "core", "report", "errors"},
    "batch": {"batch", "core", "errors"},
    "cli": {"cli", "api", "batch", "report", "core", "demo", "errors"},
}


@cache
def tree_of(path: Path) -> ast.Module:
    return ast.parse(path.read_text(encoding="utf-8"))


@cache
def imports_of(path: Path) -> set[str]:
    """Modules of ours that a file imports, dotted without the package's name."""
    found = set()
    for node in ast.walk(tree_of(path)):
        if isinstance(node, ast.ImportFrom) and node.module and node.module.startswith("vane_line."):
            found |= {f"{node.module}.{a.name}".removeprefix("vane_line.") for a in node.names}
        if isinstance(node, ast.Import):
            found |= {a.name.removeprefix("vane_line.") for a in node.names if a.name.startswith("vane_line.")}
    return found


@pytest.mark.parametrize("room", MAY_IMPORT)
def test_imports_go_one_way(room: str) -> None:
    """core imports nothing of the rest; api never reaches around the services' rooms; and so on."""
    for path in (SOURCE / room).rglob("*.py"):
        outside = {i.split(".")[0] for i in imports_of(path)} - MAY_IMPORT[room]
        assert not outside, f"{path.relative_to(ROOT)} imports {outside}"


def loaded_by(tree: ast.Module) -> set[str]:
    """Modules of ours that are imported as soon as a file is: not inside functions, not for type checkers alone."""
    found: set[str] = set()
    for node in tree.body:
        if isinstance(node, ast.ImportFrom) and node.module and node.module.startswith("vane_line."):
            found |= {node.module, *(f"{node.module}.{a.name}" for a in node.names)}
    return found


def test_the_core_has_no_circles() -> None:
    """No module of the core is needed before itself, by whatever way: each can be imported first."""
    files = {
        ".".join(p.relative_to(SOURCE.parent).with_suffix("").parts).removesuffix(".__init__"): p
        for p in (SOURCE / "core").rglob("*.py")
    }
    needs = {}
    for name, path in files.items():
        mine = {name} if path.name == "__init__.py" else {name, name.rpartition(".")[0]}
        needs[name] = loaded_by(tree_of(path)) & set(files) - mine
    assert list(TopologicalSorter(needs).static_order())


def test_no_measure_sees_the_truth() -> None:
    """Only the demo's own room and tests know of truth files; only its commands and service import the demo."""
    for path in SOURCE.rglob("*.py"):
        if path.is_relative_to(SOURCE / "demo"):
            continue
        text = path.read_text(encoding="utf-8")
        assert "truth" not in text.replace("trueness", ""), path
        if any(i.startswith("demo") for i in imports_of(path)):
            assert path.name in ("demo.py", "main.py", "scanner.py"), path


def test_the_public_surface_is_what_it_says() -> None:
    """Every name in __all__ is there and documented; nothing else is promised; importing costs nothing."""
    for name in vane_line.__all__:
        assert getattr(vane_line, name).__doc__, name
    with pytest.raises(AttributeError):
        _ = vane_line.nothing_of_the_kind
    code = "import sys, vane_line; assert 'numpy' not in sys.modules"
    subprocess.run([sys.executable, "-c", code], check=True, timeout=60)


def test_type_checkers_and_editors_see_the_public_names() -> None:
    """What is imported for them alone is what is loaded on asking, from the same places; dir() lists it."""
    tree = ast.parse((SOURCE / "__init__.py").read_text(encoding="utf-8"))
    block = next(n for n in tree.body if isinstance(n, ast.If) and ast.unparse(n.test) == "TYPE_CHECKING")
    told = {a.name: n.module for n in block.body if isinstance(n, ast.ImportFrom) for a in n.names}
    assert told == vane_line._HOME
    assert set(vane_line.__all__) == set(told)
    assert set(vane_line.__all__) <= set(dir(vane_line))


def test_lock_files_name_no_registry() -> None:
    """Nothing pins where packages come from."""
    assert "http" not in (ROOT / "requirements.lock").read_text(encoding="utf-8").replace("httpx", "").replace(
        "httpcore", ""
    ).replace("httptools", "")
    assert '"resolved"' not in (ROOT / "web/package-lock.json").read_text(encoding="utf-8")


def test_no_rooms_of_the_core_import_each_other_in_circles() -> None:
    """Folder by folder, files beside them each a room of its own: there is an order in which all can be built."""
    core = SOURCE / "core"
    below: dict[str, set[str]] = {}
    for path in core.rglob("*.py"):
        parts = path.relative_to(core).with_suffix("").parts
        room = parts[0]
        found = {i.split(".")[1] for i in imports_of(path) if i.startswith("core.")}
        below[room] = below.get(room, set()) | (found - {room})
    built: set[str] = set()
    while below:
        ready = {room for room, needs in below.items() if needs & set(below) <= {room}}
        assert ready, f"in circles: { {room: sorted(needs & set(below)) for room, needs in below.items()} }"
        built |= ready
        below = {room: needs for room, needs in below.items() if room not in ready}
    assert {"mesh", "trace", "tooth", "measure", "judge", "plan"} <= built


def test_functions_are_short_and_long_calls_name_what_they_give() -> None:
    """No function over 60 lines; no call with more than seven arguments by place alone, but for SQL's values."""
    for path in SOURCE.rglob("*.py"):
        for node in ast.walk(tree_of(path)):
            if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
                assert (node.end_lineno or 0) - node.lineno < 60, f"{path.name}: {node.name}"
            if isinstance(node, ast.Call) and len(node.args) > 7:
                runs = ast.unparse(node.func).endswith(".run") or any(isinstance(a, ast.Starred) for a in node.args)
                assert runs, f"{path.name}, line {node.lineno}: {ast.unparse(node.func)}"
