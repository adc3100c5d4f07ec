"""The house in order: imports run one way, docstrings carry units and sources, data rows name their
source.
"""

import ast
import csv
import hashlib
import re
import tomllib
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
CORE = ROOT / "src/tall_heron/core"
ORDER = [
    "base",
    "physics",
    "document",
    "hydraulics",
    "electrics",
    "routing",
    "shelf",
    "joining",
    "editing",
    "line",
    "study",
    "sheets",
    "rules",
    "sizing",
    "fixing",
    "begin",
    "prove",
]
ORDER += ["contract", "design"]
RANK = {name: i for i, name in enumerate(ORDER)}
SIDE_BY_SIDE = {"hydraulics", "shelf"}  # later electrics and routing: none imports another
NEVER = {"flask", "jinja2", "sqlite3", "werkzeug", "time", "datetime"}


@cache
def parsed(path: Path) -> ast.Module:
    """A file as Python reads it, once for all tests here."""
    return ast.parse(path.read_text(encoding="utf-8"))


def core_files() -> list[Path]:
    return sorted(p for p in CORE.rglob("*.py") if p.name != "__init__.py" or p.parent != CORE)


def room(path: Path) -> str:
    return path.relative_to(CORE).parts[0].removesuffix(".py")


def imports(path: Path) -> set[str]:
    found = set()
    for node in ast.walk(parsed(path)):
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
            assert not {other, room(path)} <= SIDE_BY_SIDE or other == room(path), (
                f"{room(path)} and {other} stand side by side"
            )
            assert other == room(path) or RANK[other] < RANK[room(path)], (
                f"{room(path)} may not import {other}, which stands above it"
            )


def test_what_others_wrote_is_shipped_as_they_wrote_it() -> None:
    """Scripts, styles and fonts of other packages stand as tools/vendor.sh put them there."""
    folder = ROOT / "src/tall_heron/web/static/vendor"
    sums = {
        name.removeprefix("./"): made
        for made, name in (
            line.split()
            for line in (folder / "SHA256SUMS").read_text(encoding="utf-8").splitlines()
        )
    }
    found = {
        str(p.relative_to(folder)): hashlib.sha256(p.read_bytes()).hexdigest()
        for p in folder.rglob("*")
        if p.is_file() and p.name != "SHA256SUMS"
    }
    assert found == sums


def test_store_imports_nothing_of_ours_and_web_has_no_sql() -> None:
    for path in (ROOT / "src/tall_heron/store").glob("*.py"):
        assert all(
            n.startswith("tall_heron.store.") for n in imports(path) if n.startswith("tall_heron.")
        ), path
    for path in (ROOT / "src/tall_heron/web").rglob("*.py"):
        assert "sqlite3" not in imports(path), path
        assert not re.search(
            r"\b(SELECT|INSERT|UPDATE|DELETE) ", path.read_text(encoding="utf-8")
        ), path


def physics_functions() -> list[tuple[str, ast.FunctionDef]]:
    out = []
    for path in sorted((CORE / "physics").glob("*.py")):
        tree = parsed(path)
        for node in [
            n
            for outer in (tree, *(c for c in tree.body if isinstance(c, ast.ClassDef)))
            for n in outer.body
        ]:
            if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
                out.append((f"{path.stem}.{node.name}", node))
    return out


@pytest.mark.parametrize(
    ("name", "node"), physics_functions(), ids=lambda x: x if isinstance(x, str) else ""
)
def test_physics_docstrings_give_units_and_a_source(name: str, node: ast.FunctionDef) -> None:
    text = re.sub(r"\s+", " ", ast.get_docstring(node) or "")
    for argument in node.args.args:
        if argument.arg != "self":
            assert re.search(rf"\b{argument.arg} [^,]*\[", text), (
                f"{name}: no unit for {argument.arg}"
            )
    assert "Returns:" in text, name
    assert "Valid:" in text, f"{name} does not say where it holds and what happens outside"
    assert ">>>" in text, f"{name} shows no example"
    keys = set(
        re.findall(
            r"^\| ([a-z0-9.\-]+) \|",
            (ROOT / "docs/sources.md").read_text(encoding="utf-8"),
            re.MULTILINE,
        )
    )
    sources = re.search(r"Source: (.*)", text)
    assert sources, f"{name} names no source"
    named = [s.split()[0].rstrip(".,") for s in sources.group(1).split(", ")]
    assert named[0] in keys, f"{name}: {named[0]} is not in docs/sources.md"


def test_a_stranger_installs_what_we_install() -> None:
    """One list of what the application needs, said where each tool looks for it; flit_core builds
    it and is not needed to run it.
    """
    ours = {
        re.split(r"[<>=]", line.strip())[0]
        for line in (ROOT / "requirements/runtime.in").read_text().splitlines()
        if line.strip() and not line.startswith("#")
    }
    theirs = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]["dependencies"]
    assert {re.split(r"[<>=]", d)[0] for d in theirs} == ours - {"flit_core"}
    assert all(re.search(r">=\d", d) for d in theirs), "each with the oldest version that will do"
    reasons = (ROOT / "docs/dependencies.md").read_text(encoding="utf-8").splitlines()
    assert {line.split(" ")[1] for line in reasons if line.startswith("| ")} == ours | {"package"}


def test_every_data_row_names_its_source() -> None:
    files = list((CORE / "base/data").rglob("*.csv"))
    assert len(files) > 60
    assert len({path.name for path in files}) == len(files), "code names a file without its folder"
    for path in files:
        if path.parent.name == "runs":
            assert path.read_text(encoding="utf-8").startswith("# An invented ")
            continue
        with path.open(encoding="utf-8", newline="") as file:
            for row in csv.DictReader(file):
                assert row["source"], f"{path.name}: {row}"


def test_files_stay_small() -> None:
    for path in (ROOT / "src").rglob("*.py"):
        assert len(path.read_text(encoding="utf-8").splitlines()) < 720, path
    for path in (ROOT / "src/tall_heron/web/static").glob("*.js"):
        assert len(path.read_text(encoding="utf-8").splitlines()) <= 300, path


def test_functions_fit_a_screen() -> None:
    for path in (ROOT / "src").rglob("*.py"):
        for node in ast.walk(parsed(path)):
            if isinstance(node, ast.FunctionDef) and node.end_lineno is not None:
                assert node.end_lineno - node.lineno < 125, f"{path.name}: {node.name}"


def test_every_class_has_a_name_of_its_own() -> None:
    """A name that two things share is read as the wrong one."""
    met: dict[str, Path] = {}
    for path in (ROOT / "src").rglob("*.py"):
        for node in ast.walk(parsed(path)):
            if isinstance(node, ast.ClassDef):
                assert node.name not in met, f"{node.name} is in {met[node.name]} and in {path}"
                met[node.name] = path


# Words that say nothing of what they name, or another thing than the trade means by them; what
# stands in a stored document keeps its name.
NO_NAMES = {
    "told",
    "said",
    "made",
    "found",
    "seen",
    "held",
    "borne",
    "late",
    "desk",
    "lean",
    "leaning",
    "fed",
    "burn",
    "spare",
    "bench",
    "kept",
    "figure",
    "vapour",
    "litres",
    "metres",
    "colour",
}
STORED = {"made": {"Shop"}, "kept": {"Load"}, "figure": {"Wish"}, "colour": {"Conductor"}}


def defined(tree: ast.Module) -> Iterator[tuple[str, str]]:
    """Every name that a module gives: functions, classes, arguments, variables and fields, with the
    class around it.
    """

    def walk(node: ast.AST, owner: str) -> Iterator[tuple[str, str]]:
        for child in ast.iter_child_nodes(node):
            if isinstance(child, ast.ClassDef | ast.FunctionDef):
                yield child.name, owner
            elif isinstance(child, ast.arg):
                yield child.arg, owner
            elif isinstance(child, ast.Name) and isinstance(child.ctx, ast.Store):
                yield child.id, owner
            yield from walk(child, child.name if isinstance(child, ast.ClassDef) else owner)

    return walk(tree, "")


def test_names_in_the_core_are_terms() -> None:
    wrong = set()
    for path in core_files():
        for name, owner in defined(parsed(path)):
            plain = name.strip("_").lower()
            if plain in NO_NAMES and owner not in STORED.get(plain, ()):
                wrong.add(f"{path.relative_to(CORE)}: {name}")
    assert not wrong, sorted(wrong)


def test_no_circle_of_modules() -> None:
    """Imports that run when a module is loaded make no circle, whole modules counted."""
    files = {
        ".".join(p.relative_to(ROOT / "src").with_suffix("").parts).removesuffix(".__init__"): p
        for p in (ROOT / "src").rglob("*.py")
    }
    edges: dict[str, set[str]] = {}
    for name, path in files.items():
        found = {
            n if n in files else n.rpartition(".")[0]
            for n in imports(path)
            if n.startswith("tall_heron.")
        }
        edges[name] = {
            x for x in found if x in files and x != name and not x.endswith("tall_heron")
        }
    done: set[str] = set()

    def walk(name: str, way: tuple[str, ...]) -> None:
        assert name not in way, " -> ".join((*way[way.index(name) :], name))
        if name not in done:
            for other in edges[name]:
                walk(other, (*way, name))
            done.add(name)

    for name in edges:
        walk(name, ())


def where_rows() -> list[tuple[str, str]]:
    """The rows of both tables that say where to change what."""
    readme = (ROOT / "README.md").read_text(encoding="utf-8")
    text = readme[readme.index("## Where do I change") :]
    text += (ROOT / "docs/where.md").read_text(encoding="utf-8")
    rows = re.findall(r"^\| ([^|]+) \| ([^|]+) \|$", text, re.MULTILINE)
    return list(dict.fromkeys(row for row in rows if row[0] not in ("what", "---")))


@pytest.mark.parametrize(
    ("what", "where"), where_rows(), ids=lambda x: x[:40] if isinstance(x, str) else ""
)
def test_where_do_i_change_names_files_that_are_there(what: str, where: str) -> None:
    """Every file and folder that a row names exists, and every name in brackets stands in it."""
    named = re.findall(
        r"`((?:core|web|store|tests|docs|tools)/[\w./-]*|cli\.py)`(?: \(`(\w+)`\))?", where
    )
    assert named, f"{what}: no file is named"
    folder = ROOT
    for name in re.findall(r"`(core/base/data/[\w/.]*|\w+\.csv)`", where):
        path = ROOT / "src/tall_heron" / name if "/" in name else folder / name
        assert path.exists(), f"{what}: {name} is not there"
        folder = path if path.is_dir() else path.parent
    for place, word in named:
        roots = [ROOT, ROOT / "src/tall_heron"]
        path = next((r / place for r in roots if (r / place).exists()), None)
        assert path is not None, f"{what}: {place} is not there"
        assert not word or re.search(rf"\b{word}\b", path.read_text(encoding="utf-8")), (
            f"{what}: {place} has no {word}"
        )


def test_the_readme_is_short_and_all_it_says_is_said_alike_by_subject() -> None:
    readme = (ROOT / "README.md").read_text(encoding="utf-8")
    assert (
        len(re.findall(r"^\| ", readme[readme.index("## Where do I change") :], re.MULTILINE)) <= 17
    )
    where = (ROOT / "docs/where.md").read_text(encoding="utf-8")
    assert len(where_rows()) == len(
        re.findall(r"^\| [^|]+ \| [^|]+ \|$", where, re.MULTILINE)
    ) - len(re.findall(r"^## ", where, re.MULTILINE))
