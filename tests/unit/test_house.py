"""The house in order: imports run one way, docstrings carry units and sources, data rows name their source."""

import ast
import csv
import re
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
CORE = ROOT / "src/tall_heron/core"
ORDER = [
    "base",
    "physics",
    "document",
    "hydraulics",
    "shelf",
    "editing",
    "study",
    "sheets",
    "rules",
    "sizing",
    "contract",
    "design",
]
RANK = {name: i for i, name in enumerate(" ".join(ORDER).split())}
NEVER = {"flask", "jinja2", "sqlite3", "werkzeug", "time", "datetime"}


def core_files() -> list[Path]:
    return sorted(p for p in CORE.rglob("*.py") if p.name != "__init__.py" or p.parent != CORE)


def room(path: Path) -> str:
    return path.relative_to(CORE).parts[0].removesuffix(".py")


def imports(path: Path) -> set[str]:
    found = set()
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(node, ast.Import):
            found |= {a.name for a in node.names}
        elif isinstance(node, ast.ImportFrom):
            found |= {f"{node.module}.{a.name}" for a in node.names}
    return found


@pytest.mark.parametrize("path", core_files(), ids=lambda p: str(p.relative_to(CORE)))
def test_core_imports_run_downhill(path: Path) -> None:
    for name in imports(path):
        top = name.split(".")[0]
        assert top not in NEVER, f"{path.name} imports {name}"
        if name.startswith("tall_heron."):
            assert name.startswith("tall_heron.core."), f"{path.name} reaches upward to {name}"
            other = name.split(".")[2]
            assert other == room(path) or RANK[other] < RANK[room(path)], f"{room(path)} may not import {other}, which stands above it"


def test_store_imports_nothing_of_ours_and_web_has_no_sql() -> None:
    for path in (ROOT / "src/tall_heron/store").glob("*.py"):
        assert all(n.startswith("tall_heron.store.") for n in imports(path) if n.startswith("tall_heron.")), path
    for path in (ROOT / "src/tall_heron/web").rglob("*.py"):
        assert "sqlite3" not in imports(path), path
        assert not re.search(r"\b(SELECT|INSERT|UPDATE|DELETE) ", path.read_text(encoding="utf-8")), path


def physics_functions() -> list[tuple[str, ast.FunctionDef]]:
    out = []
    for path in sorted((CORE / "physics").glob("*.py")):
        tree = ast.parse(path.read_text(encoding="utf-8"))
        for node in [n for outer in (tree, *(c for c in tree.body if isinstance(c, ast.ClassDef))) for n in outer.body]:
            if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
                out.append((f"{path.stem}.{node.name}", node))
    return out


@pytest.mark.parametrize(("name", "node"), physics_functions(), ids=lambda x: x if isinstance(x, str) else "")
def test_physics_docstrings_give_units_and_a_source(name: str, node: ast.FunctionDef) -> None:
    text = ast.get_docstring(node) or ""
    for argument in node.args.args:
        if argument.arg != "self":
            assert re.search(rf"\b{argument.arg} [^,]*\[", text), f"{name}: no unit for {argument.arg}"
    assert "Returns:" in text, name
    keys = set(re.findall(r"^\| ([a-z0-9.\-]+) \|", (ROOT / "docs/sources.md").read_text(encoding="utf-8"), re.MULTILINE))
    sources = re.search(r"Source: ([^\n]*)", text)
    assert sources, f"{name} names no source"
    named = [s.split()[0].rstrip(".,") for s in sources.group(1).split(", ")]
    assert named[0] in keys, f"{name}: {named[0]} is not in docs/sources.md"


def test_every_data_row_names_its_source() -> None:
    files = list((CORE / "base/data").glob("*.csv"))
    assert len(files) > 8
    for path in files:
        with path.open(encoding="utf-8", newline="") as file:
            for row in csv.DictReader(file):
                assert row["source"], f"{path.name}: {row}"


def test_files_stay_small() -> None:
    for path in (ROOT / "src").rglob("*.py"):
        assert len(path.read_text(encoding="utf-8").splitlines()) <= 400, path
