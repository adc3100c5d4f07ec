"""Laws 1 and 2 of what the application advises: builds that a good builder signs pass in silence; the same builds with one mistake each are found, at their level, by part and figure.
`python tests/judgement/test_judgement.py` prints the matrix."""

import json
import sys
from functools import cache
from pathlib import Path
from typing import Any

import pytest

HERE = Path(__file__).parent
sys.path.insert(0, str(HERE))

from acts import acted  # noqa: E402

from tall_heron.core.design import design  # noqa: E402
from tall_heron.core.document.build import Build, load  # noqa: E402
from tall_heron.core.rules.finding import AGAINST, Finding  # noqa: E402

Row = dict[str, Any]
SOUND: list[Row] = json.loads((HERE / "sound.json").read_text(encoding="utf-8"))
MISTAKES: list[Row] = json.loads((HERE / "mistakes.json").read_text(encoding="utf-8"))


@cache
def sound(name: str) -> Build:
    return load((HERE / "sound" / f"{name}.json").read_text(encoding="utf-8"))


def mistaken(row: Row) -> Build:
    return acted(sound(row["of"]), row["acts"])


def against(build: Build) -> list[Finding]:
    return [f for f in design(build).every_finding if f.level in AGAINST]


def hits(row: Row, found: list[Finding]) -> list[int]:
    """At which places the mistake is found: by one of its rules, at its level, at its part, with its figure."""
    return [
        i
        for i, f in enumerate(found)
        if f.rule in row["rules"] and f.level == row["level"] and (not row["parts"] or f.element_id in row["parts"]) and (not row["figure"] or row["figure"] in f.figures)
    ]


def test_there_are_enough_of_both() -> None:
    assert len(SOUND) >= 30
    assert len(MISTAKES) >= 90
    assert len({json.dumps([r["of"], r["acts"]]) for r in MISTAKES}) == len(MISTAKES)


@pytest.mark.parametrize("row", SOUND, ids=[r["name"] for r in SOUND])
def test_a_sound_build_passes_in_silence(row: Row) -> None:
    found = against(sound(row["name"]))
    assert [f for f in found if f.level == "Stop"] == []
    assert [(f.rule, f.element_id, f.title) for f in found if f.rule not in row["allows"]] == []
    assert all(any(f.rule == rule for f in found) for rule in row["allows"])  # what is allowed is still there


@pytest.mark.parametrize("row", MISTAKES, ids=[r["name"] for r in MISTAKES])
def test_a_mistake_is_found(row: Row) -> None:
    found = against(mistaken(row))
    assert hits(row, found), [(f.rule, f.level, f.element_id, f.title) for f in found]


def _matrix() -> None:
    silent = 0
    for row in SOUND:
        left = [f for f in against(sound(row["name"])) if f.rule not in row["allows"]]
        silent += not left
        print("silent " if not left else "ALARMED", row["name"], [(f.level, f.rule, f.element_id) for f in left])
    met, places = 0, []
    for row in MISTAKES:
        found = against(mistaken(row))
        at = hits(row, found)
        met += bool(at)
        places += at[:1]
        print(f"found {at[0] + 1} of {len(found)}" if at else "MISSED", row["name"], row["level"], row["rules"], [] if at else [(f.level, f.rule, f.element_id) for f in found])
    print(f"sound: {silent} of {len(SOUND)} silent; mistakes: {met} of {len(MISTAKES)} found, on average at place {1 + sum(places) / max(len(places), 1):.1f}")


if __name__ == "__main__":
    _matrix()
