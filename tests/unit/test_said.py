"""What the application says: findings of every fault, ladders, sizes, choices and arithmetic of the
demos, as they were last read over by a person.

A change of words or of the way to them shows as a difference. Numbers are masked where other tests
hold them; ceilings and sizes stand here as they are shown.
Run `python tests/unit/test_said.py` to write the file anew, and read the difference before it is
committed.
"""

import re
import sys
from collections.abc import Callable, Iterator
from pathlib import Path

KIT = Path(__file__).parents[1] / "kit"
sys.path[:0] = [
    str(KIT),
    str(Path(__file__).parent / "rules"),
    str(Path(__file__).parent / "study"),
]

import pytest  # noqa: E402
from altered import altered  # noqa: E402
from test_explain import CIRCUIT_ROWS, made, whys  # noqa: E402
from test_rules import FAULTS  # noqa: E402

from tall_heron.core.base.arithmetic import format_number  # noqa: E402
from tall_heron.core.design import design  # noqa: E402
from tall_heron.core.document.compare import brief_differences, part_differences  # noqa: E402
from tall_heron.core.editing.change_layout import change_layout  # noqa: E402
from tall_heron.core.editing.demo import demo_builds  # noqa: E402
from tall_heron.core.sizing.auto_size import proposed  # noqa: E402
from tall_heron.core.sizing.chooser import choose  # noqa: E402
from tall_heron.core.sizing.why_layout import why_layout  # noqa: E402

STORED = KIT / "stored" / "said.txt"
NUMBER = re.compile(r"(?<![A-Za-z\d-])\d[\d,]*(\.\d+)?(×10[⁻⁰¹²³⁴⁵⁶⁷⁸⁹]+)?")


def masked(text: str) -> str:
    return NUMBER.sub("#", text)


def findings() -> Iterator[str]:
    for rule, fault, level, _ in FAULTS:
        for f in design(fault()).findings:
            if f.rule == rule:
                yield masked(
                    f"{rule} {level} {f.level} {f.element_id} {f.case} {f.station} | {f.title} | {f.why} | {f.do} | {f.source}"
                )


def ladders() -> Iterator[str]:
    for name in demo_builds():
        looked = design(demo_builds()[name])
        for x in looked.limits:
            at = "no limit" if x.ceiling is None else f"{format_number(x.ceiling / 745.7)} hp"
            costs = "" if x.costs is None else f" costs {format_number(x.costs / 745.7)} hp"
            yield f"{name} {'+'.join(x.parts)} {x.kind} {x.title} {x.verdict} {at}{costs} | {masked(' | '.join(x.why.steps))} | {x.why.source}"


def sizes() -> Iterator[str]:
    for name, build in demo_builds().items():
        for by in ("cost", "current") if name in ("bittern", "egret") else ("cost",):
            for row in proposed(build, by).rows:  # type: ignore[arg-type]
                yield masked(f"{name} {by} {'+'.join(row.ids)} {row.decided}") + f" -> {row.title}"


def choices(names: tuple[str, ...]) -> Iterator[str]:
    for name in names:
        choice = choose(demo_builds()[name])
        for c, wins in zip(choice.candidates, choice.wins, strict=True):
            yield f"{name} {c.layout.key} {c.rails} {c.present} {c.count('Stop')} {c.count('Check')} {masked(wins.text)} {c.changed.added} {c.changed.dropped}"
            yield masked(" | ".join(s for why in why_layout(c) for s in (*why.steps, why.source)))
        yield from (f"{name} {masked(r.text)} {sorted(r.figures)}" for r in choice.reasons)


def arithmetic() -> Iterator[str]:
    for name in CIRCUIT_ROWS:
        for said in dict.fromkeys(
            masked(" | ".join((*why.steps, why.source))) for why in whys(made(name))
        ):
            yield f"{name} {said}"


def changes() -> Iterator[str]:
    for name, key in (
        ("bittern", "C7"),
        ("bittern", "C10"),
        ("stonechat", "C1"),
        ("curlew", "C3"),
        ("dunlin", "C6"),
        ("egret", "A4"),
        ("plover", "A2"),
    ):
        build = demo_builds()[name]
        changed = change_layout(build, key)
        yield f"{name} {key} {changed.dropped} {changed.added}"
        yield from (
            f"{name} {key} {e.id} {e.shelf} {e.length.mm if e.length else ''} {e.runs}"
            for e in changed.build.circuit.elements
        )
    for seed in range(6):
        one, other = altered(seed), altered(seed + 6)
        yield f"altered {seed} {brief_differences(one, other)}"
        yield from (
            f"altered {seed} {d.part}: {d.before} -> {d.after}"
            for d in part_differences(one, other)
        )


SECTIONS: dict[str, Callable[[], Iterator[str]]] = {
    "findings": findings,
    "ladders": ladders,
    "sizes": sizes,
    "choices": lambda: choices(("egret", "dunlin")),
    "choices of bittern": lambda: choices(("bittern",)),
    "arithmetic": arithmetic,
    "changes": changes,
}


def stored(section: str) -> list[str]:
    return (
        STORED.read_text(encoding="utf-8")
        .split(f"## {section}\n")[1]
        .split("\n## ")[0]
        .splitlines()
    )


@pytest.mark.parametrize(
    "section",
    [pytest.param(s, marks=[pytest.mark.sweep] if s.endswith("bittern") else []) for s in SECTIONS],
)
def test_what_is_said_is_what_was_read_over(section: str) -> None:
    said = [line for text in SECTIONS[section]() for line in text.splitlines()]
    assert said == stored(section)


if __name__ == "__main__":
    STORED.write_text(
        "".join(f"## {name}\n{chr(10).join(make())}\n" for name, make in SECTIONS.items()),
        encoding="utf-8",
    )
