"""How sharp the tests are: a seeded run of one-line changes of core, each against the fast tests,
and what survives.

Each change is made in a copy of the sources in memory, in a process of its own; `-x` ends at the
first test that sees it. Left alone are text for people,
declarations of the document's bounds, imports, and what only steers the solver's way (METHOD,
STEERING): a change there makes another way to the same
answer. Before all else the tests must pass without a change; coverage keeps which test ran which
line of core, and the tests that ran a changed line go first. What those do not see is judged by
all the others too, for a value one test computes is kept for the next.
"""

import argparse
import ast
import importlib.abc
import importlib.util
import json
import os
import random
import re
import resource
import shutil
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from importlib.machinery import ModuleSpec
from pathlib import Path

from coverage import CoverageData

ROOT = Path(__file__).parents[1]
CORE = ROOT / "src/tall_heron/core"
TESTS = ["tests/reference", "tests/property", "tests/unit", "tests/web"]
NEAR = {
    "hydraulics": "tests/property/test_agreement.py", "physics": "tests/reference/test_physics.py", "document": "tests/unit/test_cli.py",
    "base": "tests/reference/test_units.py", "contract.py": "tests/unit/test_cli.py",
}  # fmt: skip
JUDGED_BY = {"rules": ["tests/judgement/test_judgement.py", "tests/unit/test_said.py"]}
SLOW = "tests/unit/sizing/test_auto_size.py"  # only for changes in its own room
HOT = ("hydraulics", "physics", "base")  # too slow to watch; the room's own tests go first for them
QUIET = [
    "-q", "-p", "no:cacheprovider", "-o", "addopts=--import-mode=importlib", "-m", "not sweep or figures", "--no-header", "--tb=no",
]  # fmt: skip
MEMORY = 4 << 30  # bytes for one change; one that fills the machine is seen, for tests fail by it
SECONDS = 3000  # for one change; one that hangs is told apart, for nothing has seen it
STEERING = {
    "GROWTH", "TYPICAL_FLOW", "FLOW_FLOOR", "FLOW_LEAST", "LEAK", "RUNAWAY", "SLOPE_FLOOR", "FAST_STEPS", "MOST_STEPS", "STEPS", "SHORT", "MOST_FLUIDS", "MOST_SOLUTIONS", "MANY", "AFTER",
    "SECANTS", "CLOSE", "FAR", "REPLACED", "SHRINKS", "SUCTION_SCALE",
}  # fmt: skip
GRAMMAR = "grammar.py"  # its sums are sequences: a minus makes the same one
GUARD = 2e-7  # a constant below it is a tolerance of the arithmetic, or keeps a division from zero
SHARE = 10  # a constant changes by a tenth of itself, a whole one by one at least
METHOD = {
    "newton.py",
    "interior.py",
    "straight_line.py",
    "roots.py",
    "lru_cache.py",
    "elimination.py",
}
SWAPS: dict[type, type] = {
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.Lt: ast.GtE, ast.GtE: ast.Lt, ast.Gt: ast.LtE, ast.LtE: ast.Gt,
    ast.Eq: ast.NotEq, ast.NotEq: ast.Eq, ast.And: ast.Or, ast.Or: ast.And,
}  # fmt: skip
NAMES = {
    "min": "max",
    "max": "min",
    "start": "end",
    "end": "start",
    "nozzle": "throat",
    "throat": "nozzle",
    "upstream": "downstream",
    "downstream": "upstream",
}
Change = tuple[Path, int, int, int, str, str]  # file, line, first and last column, before, after


def changes(path: Path) -> Iterator[Change]:
    """Every change of one file."""
    text = path.read_text(encoding="utf-8")
    lines = text.splitlines()

    def of(node: ast.expr, new: ast.expr) -> Iterator[Change]:
        if node.lineno == node.end_lineno and node.end_col_offset is not None:
            raw = lines[node.lineno - 1].encode()
            before = raw[node.col_offset : node.end_col_offset].decode()
            after = ast.unparse(new)
            if isinstance(node, ast.BinOp | ast.BoolOp | ast.Compare):
                before, after = before, f"({after})"
            if before != after:
                yield path, node.lineno, node.col_offset, node.end_col_offset, before, after

    def walk(node: ast.AST, quiet: bool) -> Iterator[Change]:
        """`quiet` is inside text for people or a declaration."""
        quiet = quiet or isinstance(
            node, ast.JoinedStr | ast.AnnAssign | ast.Import | ast.ImportFrom
        )
        quiet = quiet or (
            isinstance(node, ast.Assign)
            and path.name in METHOD
            and isinstance(node.targets[0], ast.Name)
            and node.targets[0].id.isupper()
        )
        quiet = quiet or (
            isinstance(node, ast.Call)
            and isinstance(node.func, ast.Name)
            and node.func.id in ("Finding", "Rule", "Reason", "Why", "figure", "Field")
        )
        if (
            not quiet
            and isinstance(node, ast.expr)
            and not STEERING & {n.id for n in ast.walk(node) if isinstance(n, ast.Name)}
        ):
            yield from one(node)
        for child in ast.iter_child_nodes(node):
            if not (isinstance(node, ast.FunctionDef) and child in node.decorator_list):
                yield from walk(
                    child,
                    quiet
                    or child is getattr(node, "annotation", None)
                    or child is getattr(node, "returns", None),
                )

    def one(node: ast.expr) -> Iterator[Change]:
        if (
            isinstance(node, ast.BinOp)
            and type(node.op) in SWAPS
            and path.name != GRAMMAR
            and not isinstance(node.left, ast.Constant | ast.JoinedStr | ast.List | ast.Tuple)
        ):
            yield from of(node, ast.BinOp(node.left, SWAPS[type(node.op)](), node.right))
        elif isinstance(node, ast.Compare) and len(node.ops) == 1 and type(node.ops[0]) in SWAPS:
            yield from of(
                node, ast.Compare(node.left, [SWAPS[type(node.ops[0])]()], node.comparators)
            )
        elif isinstance(node, ast.BoolOp):
            yield from of(node, ast.BoolOp(SWAPS[type(node.op)](), node.values))
        elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.USub | ast.Not):
            yield from of(node, node.operand)
        elif (
            isinstance(node, ast.Constant)
            and not isinstance(node.value, bool)
            and isinstance(node.value, int | float)
            and abs(node.value) > GUARD
        ):
            yield from of(
                node,
                ast.Constant(
                    node.value + max(1, abs(node.value) // SHARE)
                    if isinstance(node.value, int)
                    else node.value * (1 + 1 / SHARE)
                ),
            )
        elif isinstance(node, ast.Name) and node.id in NAMES:
            yield from of(node, ast.Name(NAMES[node.id]))

    yield from walk(ast.parse(text), False)


class Changed(importlib.abc.SourceLoader):
    """Loads one module of core with a line changed."""

    def __init__(self, change: Change) -> None:
        self.path, line, first, last, _, after = change
        rows = self.path.read_bytes().split(b"\n")
        rows[line - 1] = rows[line - 1][:first] + after.encode() + rows[line - 1][last:]
        self.source = b"\n".join(rows)
        self.name = ".".join(
            self.path.relative_to(ROOT / "src").with_suffix("").parts
        ).removesuffix(".__init__")

    def find_spec(self, name: str, path: object = None, target: object = None) -> ModuleSpec | None:
        """The changed module's own spec, before any other finder is asked."""
        if name != self.name:
            return None
        spec = importlib.util.spec_from_loader(
            name, self, origin=str(self.path), is_package=self.path.name == "__init__.py"
        )
        if spec is not None and spec.submodule_search_locations is not None:
            spec.submodule_search_locations[:] = [
                str(self.path.parent)
            ]  # else a changed package finds none of its files, and any change of it is seen
        return spec

    def get_filename(self, fullname: str) -> str:
        """Where its lines are."""
        return str(self.path)

    def get_data(self, path: object) -> bytes:
        """The changed lines."""
        return self.source


class Touched:
    """Which tests ran which line of core, from one run of them all without a change."""

    def __init__(self, map_file: Path) -> None:
        """Made anew where the file is not there; raises SystemExit where the tests do not pass as
        the code stands.
        """
        if not map_file.exists():
            self.watch(map_file)
        data = CoverageData(str(map_file))
        data.read()
        self.lines = {Path(file): data.contexts_by_lineno(file) for file in data.measured_files()}
        self.breadth = Counter(
            test for lines in self.lines.values() for tests in lines.values() for test in tests
        )

    def watch(self, map_file: Path) -> None:
        """Run all tests once, those that hold for laws unwatched."""
        lawful = [x for x in TESTS if x == "tests/property"]
        with tempfile.TemporaryDirectory() as folder:
            kept, settings = Path(folder) / "coverage", Path(folder) / "settings"
            settings.write_text(
                "[run]\nomit =" + "".join(f"\n  {CORE / room}/*" for room in HOT), "utf-8"
            )
            for tests in (
                lawful,
                [*(x for x in TESTS if x not in lawful), f"--cov={CORE}", "--cov-context=test", "--cov-report=", f"--cov-config={settings}"],
            ):  # fmt: skip
                done = subprocess.run(
                    [sys.executable, "-m", "pytest", *QUIET, *tests, "-n", str(os.cpu_count())],
                    cwd=ROOT, env={**os.environ, "COVERAGE_FILE": str(kept)}, capture_output=True, text=True,
                )  # fmt: skip
                if done.returncode:
                    sys.exit(
                        f"the fast tests do not pass as the code stands\n{done.stdout[-2000:]}"
                    )
            shutil.copyfile(kept, map_file)

    def by(self, path: Path, line: int) -> list[str]:
        """The tests that ran a line, those that run least of core first; of a line that runs at
        import, those that run a line of its file or one that names what it makes."""
        room = path.relative_to(CORE).parts[0]
        if room in HOT:
            return [NEAR.get(room, f"tests/unit/{room}")]
        tests = set(self.lines.get(path, {}).get(line, []))
        if not tests - {""}:
            tests = {test for of in self.lines.get(path, {}).values() for test in of}
            for name in constant_at(path, line):
                for other, of in self.lines.items():
                    for number, text in enumerate(other.read_text("utf-8").splitlines(), start=1):
                        if re.search(rf"\b{name}\b", text):
                            tests |= set(of.get(number, []))
        names = {test.split("|")[0] for test in tests} - {""}
        return sorted(names, key=lambda name: (self.breadth[f"{name}|run"], name))


def constant_at(path: Path, line: int) -> list[str]:
    """The name a statement at the top of a file gives, if one of its lines is this."""
    return [
        target.id
        for node in ast.parse(path.read_text("utf-8")).body
        if isinstance(node, ast.Assign) and node.lineno <= line <= (node.end_lineno or 0)
        for target in node.targets
        if isinstance(target, ast.Name)
    ]


def run_one(change: Change, tests: list[str]) -> int:
    """In a process of its own: some tests with one change."""
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    changed = Changed(change)
    sys.meta_path.insert(0, changed)
    sys.dont_write_bytecode = True
    import pytest

    return int(pytest.main(["-x", *QUIET, *tests])) if tests else 0


def others(path: Path) -> list[str]:
    """The fast tests for a file of core."""
    room = path.relative_to(CORE).parts[0]
    return TESTS + ([] if room == "sizing" else [f"--ignore={ROOT / SLOW}"])


def near(path: Path) -> list[str]:
    """What is nearest to a file of core, which by itself is stricter."""
    room = path.relative_to(CORE).parts[0]
    return [NEAR.get(room, f"tests/unit/{room}"), *JUDGED_BY.get(room, [])]


def judged(change: Change, tests: list[str]) -> tuple[Change, str, float]:
    """What became of a change: seen, survived, or out of time, where it hangs."""
    begin = time.monotonic()
    try:
        done = subprocess.run(
            [sys.executable, __file__, "--one"],
            input=json.dumps([[str(change[0]), *change[1:]], tests]),
            capture_output=True,
            timeout=SECONDS,
            text=True,
            cwd=ROOT,
            env={**os.environ, "OMP_NUM_THREADS": "1"},
        )
        fate = "survived" if done.returncode == 0 else "seen"
    except subprocess.TimeoutExpired:
        fate = "hangs"
    return change, fate, time.monotonic() - begin


def main() -> None:
    """Take a sample of all changes, judge each, print what survives."""
    reader = argparse.ArgumentParser(description=__doc__)
    reader.add_argument("--seed", type=int, default=8)
    reader.add_argument("--number", type=int, default=200)
    reader.add_argument(
        "--room",
        default="",
        help="changes of one room of core alone, against the tests nearest to it",
    )
    reader.add_argument("--one", action="store_true", help=argparse.SUPPRESS)
    reader.add_argument("--map", type=Path, help="where the tests that ran each line are kept")
    given = reader.parse_args()
    if given.one:
        (path, *place), tests = json.load(sys.stdin)
        sys.exit(run_one((Path(path), *place), tests))
    every = [c for path in sorted((CORE / given.room).rglob("*.py")) for c in changes(path)]
    sample = random.Random(given.seed).sample(every, min(given.number, len(every)))
    print(f"{len(every)} changes can be made in core; {len(sample)} of them, seed {given.seed}")
    if given.room:
        nothing = (CORE / given.room / "__init__.py", 1, 0, 0, "", "")
        if judged(nothing, near(CORE / given.room / "x"))[1] != "survived":
            sys.exit("the tests nearest to it do not pass as the code stands")
        left = unseen(sample, [near(change[0]) for change in sample])
    else:
        with tempfile.TemporaryDirectory() as folder:
            touched = Touched(given.map or Path(folder) / "map")
        left = unseen(sample, [touched.by(change[0], change[1]) for change in sample])
        print(
            f"{len(left)} not seen by the tests that ran their line; now all the others", flush=True
        )
        left = unseen(left, [others(change[0]) for change in left])
    print(f"{len(left)} of {len(sample)} survived: {100 * len(left) / len(sample):.1f} %")


def unseen(sample: list[Change], tests: list[list[str]]) -> list[Change]:
    """The changes that some tests each do not see; one that hangs is told and not counted as seen."""
    out = []
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        for n, (change, fate, took) in enumerate(pool.map(judged, sample, tests), start=1):
            path, line, _, _, before, after = change
            where = f"{path.relative_to(ROOT)}:{line}  {before}  ->  {after}"
            print(f"{n:4} {fate:8} {took:4.0f} s  {where}", flush=True)
            if fate != "seen":
                out.append(change)
    return out


if __name__ == "__main__":
    main()
