"""Texts made to take long: whoever reads a text from outside looks at it a fixed number of times,
however it is made. Catastrophic backtracking: CWE-1333.
"""

import ast
import re
import re._constants as ops  # type: ignore[import-not-found]
import re._parser as patterns  # type: ignore[import-not-found]
import time
from collections.abc import Callable, Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

import pytest

from tall_heron.core.base.number_text import read_number
from tall_heron.core.base.table_text import words_and_unit
from tall_heron.core.base.units import QUANTITIES, parse
from tall_heron.core.document.faces import read_face
from tall_heron.core.line.reading import read_line
from tall_heron.core.prove.amount import read_caught
from tall_heron.core.prove.log_file import read_log
from tall_heron.core.prove.log_head import read_head
from tall_heron.core.prove.rig import read_rig
from tall_heron.core.routing.tape import read_points
from tall_heron.core.shelf.curve_file import read_curves
from tall_heron.core.shelf.pack import read_pack
from tall_heron.core.shelf.sheet_text import read_sheet
from tall_heron.core.shelf.supplier import read_stock
from tall_heron.core.study.slosh.drive_file import read_run

SRC = Path(__file__).parents[2] / "src/tall_heron"
LETTERS = 20_000
PASSES = 300  # over a text, letter by letter; what explodes takes ten thousand and more
PIECES = (
    " ", "\t", "1", "1,", "1 ", "a ", "-", "'", '"', "(", "[", ")", "1/", "e", "x", "m1x", ";", "\n", "2 L; 238\n",
    "in in ", "gal ", "&a", "% ", "=", "1' ",
)  # fmt: skip
FORMS = ("{}", "a{}b", "1{}!", "({}", "2 L; 238\n{}a...", "12 ft {}x", "a{}(b", "time (s);{}")
READERS: dict[str, Callable[[str], object]] = {
    "a sheet": read_sheet,
    "a pump's curve": lambda text: read_curves(text, 13.5),
    "a pack": read_pack,
    "a log": lambda text: read_log(text, read_head(text), 101_325.0),
    "a rig": read_rig,
    "a run": lambda text: read_run("x", text),
    "stock": read_stock,
    "points of a tape": lambda text: read_points(text, "mm"),
    "a header": words_and_unit,
    "a face": read_face,
    "a first line": read_line,
    "a number": read_number,
    "what was caught": lambda text: read_caught(text, 740.0, "l/h"),
    **{
        name: lambda text, name=name: parse(text, name, next(iter(QUANTITIES[name].words)))  # type: ignore[misc]
        for name in ("length", "pressure", "temperature")
    },
}


def nasty() -> Iterator[str]:
    for piece in PIECES:
        for form in FORMS:
            yield form.format(piece * (LETTERS // len(piece)))


def passes(read: Callable[[str], object], text: str) -> float:
    """How many times as long as a look at each letter it takes to read a text, both in one run."""
    plain, took = spent(set, text), spent(read, text)
    return took / plain


def spent(act: Callable[[str], object], text: str) -> float:
    """Seconds of the processor, the least of three, for a busy machine only adds."""
    least = float("inf")
    for _ in range(3):
        begin = time.process_time()
        with suppress(ValueError, LookupError):
            act(text)
        least = min(least, time.process_time() - begin)
    return least


@pytest.mark.parametrize("what", READERS)
def test_no_text_takes_long(what: str) -> None:
    for text in nasty():
        assert passes(READERS[what], text) < PASSES, text[:30]


def literals() -> Iterator[tuple[str, str]]:
    """Every pattern of the sources, with its place; a part that is put in is read as a letter."""
    for path in sorted(SRC.rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
            match node:
                case ast.Call(func=ast.Attribute(value=ast.Name(id="re"), attr=name), args=[first, *_]) if name != "escape":  # fmt: skip
                    text = pattern_of(first)
                    if text:
                        yield f"{path.relative_to(SRC)}:{node.lineno}", text


def pattern_of(node: ast.expr) -> str:
    match node:
        case ast.Constant(value=str(text)):
            return text
        case ast.JoinedStr(values=parts):
            return "".join(pattern_of(x) or "x" for x in parts)
    return ""


def unending(items: Any, inside: bool = False) -> Iterator[str]:
    """Repeats without end within repeats without end."""
    for op, given in items:
        if op in (ops.MAX_REPEAT, ops.MIN_REPEAT):
            _, most, body = given
            endless = most == ops.MAXREPEAT
            if endless and inside:
                yield "a repeat without end within another"
            yield from unending(body, inside or endless)
        elif op is ops.SUBPATTERN:
            yield from unending(given[-1], inside)
        elif op is ops.BRANCH:
            for way in given[1]:
                yield from unending(way, inside)
        elif op in (ops.ASSERT, ops.ASSERT_NOT):
            yield from unending(given[1], inside)


def begins_with_its_own(text: str) -> bool:
    """Whether what is repeated starts with a letter that its inside cannot hold: `(?:/[a-z]+)*`."""
    return all(
        re.match(r"\(\?:(?:\[[-'’/&, ?]+\]|[/&,.-])\??(?:\[|\\w|\\d)", found)
        for found in re.findall(r"\(\?:[^()]*[+*][^()]*\)[+*]", text)
    )


def test_no_pattern_repeats_without_end_within_such_a_repeat() -> None:
    found = list(literals())
    assert len(found) > 60
    assert list(unending(patterns.parse(r"(a+)+b"))), "the check sees what it is for"
    bad = [
        (where, text)
        for where, text in found
        if list(unending(patterns.parse(text))) and not begins_with_its_own(text)
    ]
    assert not bad
