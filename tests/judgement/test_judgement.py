"""Laws 1 and 2 of what the application advises: builds that a good builder signs pass in silence;
the same builds with one mistake each are found, at their level, by part and figure.
What each build says, with its figures, stands in said.json as a person last read it over. `python
tests/judgement/test_judgement.py` prints the matrix, with `--write` it writes said.json anew: read
the difference before it is committed.
"""

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
STORED = HERE / "said.json"
SAME = 2e-3  # of a figure: the solver's own closeness and the last digit written


@cache
def sound(name: str) -> Build:
    return load((HERE / "sound" / f"{name}.json").read_text(encoding="utf-8"))


def mistaken(row: Row) -> Build:
    return acted(sound(row["of"]), row["acts"])


@cache
def found_in(name: str) -> list[Finding]:
    """All that is said of a sound build."""
    return list(design(sound(name)).every_finding)


def against(found: list[Finding]) -> list[Finding]:
    return [f for f in found if f.level in AGAINST]


def said(found: list[Finding]) -> dict[str, list[float]]:
    """Who says what of which part in which case, with its figures and its place in the vehicle."""
    rows: dict[str, list[float]] = {}
    for f in found:
        key = " ".join(
            (
                f.level,
                f.rule,
                f.element_id or "-",
                f.case or "-",
                *f.figures,
                "|",
                f.title,
                "|",
                f.why,
            )
        )
        rows.setdefault(key, []).extend(
            float(f"{v:.4g}") for v in (*(x.value for x in f.figures.values()), *(f.spot or ()))
        )
    return rows


def more(row: Row, found: list[Finding]) -> dict[str, list[float]]:
    """What a mistake adds to what its sound build says."""
    known = {(f.rule, f.element_id) for f in found_in(row["of"])}
    return said([f for f in found if f.level in AGAINST or (f.rule, f.element_id) not in known])


@cache
def stored() -> dict[str, dict[str, list[float]]]:
    return dict(json.loads(STORED.read_text(encoding="utf-8")))


def as_read_over(name: str, now: dict[str, list[float]]) -> None:
    assert list(now) == list(stored()[name])
    for key, values in now.items():
        assert values == pytest.approx(stored()[name][key], rel=SAME, abs=1e-9), key


def hits(row: Row, found: list[Finding]) -> list[int]:
    """At which places the mistake is found: by one of its rules, at its level, at its part, with
    its figure.
    """
    return [
        i
        for i, f in enumerate(found)
        if f.rule in row["rules"]
        and f.level == row["level"]
        and (not row["parts"] or f.element_id in row["parts"])
        and (not row["figure"] or row["figure"] in f.figures)
    ]


def test_there_are_enough_of_both() -> None:
    assert len(SOUND) >= 30
    assert len(MISTAKES) >= 90
    assert len({json.dumps([r["of"], r["acts"]]) for r in MISTAKES}) == len(MISTAKES)


@pytest.mark.parametrize("row", SOUND, ids=[r["name"] for r in SOUND])
def test_a_sound_build_passes_in_silence(row: Row) -> None:
    found = against(found_in(row["name"]))
    assert [f for f in found if f.level == "Stop"] == []
    assert [(f.rule, f.element_id, f.title) for f in found if f.rule not in row["allows"]] == []
    assert all(
        any(f.rule == rule for f in found) for rule in row["allows"]
    )  # what is allowed is still there
    as_read_over(row["name"], said(found_in(row["name"])))


@pytest.mark.parametrize("row", MISTAKES, ids=[r["name"] for r in MISTAKES])
def test_a_mistake_is_found(row: Row) -> None:
    every = list(design(mistaken(row)).every_finding)
    found = against(every)
    assert hits(row, found), [(f.rule, f.level, f.element_id, f.title) for f in found]
    as_read_over(row["name"], more(row, every))


def _matrix(write: bool) -> None:
    silent, now = 0, {}
    for row in SOUND:
        now[row["name"]] = said(found_in(row["name"]))
        left = [f for f in against(found_in(row["name"])) if f.rule not in row["allows"]]
        silent += not left
        print(
            "silent " if not left else "ALARMED",
            row["name"],
            [(f.level, f.rule, f.element_id) for f in left],
        )
    met, places = 0, []
    for row in MISTAKES:
        every = list(design(mistaken(row)).every_finding)
        found, now[row["name"]] = against(every), more(row, every)
        at = hits(row, found)
        met += bool(at)
        places += at[:1]
        print(
            f"found {at[0] + 1} of {len(found)}" if at else "MISSED",
            row["name"],
            row["level"],
            row["rules"],
            [] if at else [(f.level, f.rule, f.element_id) for f in found],
        )
    if write:
        STORED.write_text(
            "{\n"
            + ",\n".join(
                f"{json.dumps(name)}: {json.dumps(rows, indent=1)}" for name, rows in now.items()
            )
            + "\n}\n",
            encoding="utf-8",
        )
    print(
        f"sound: {silent} of {len(SOUND)} silent; mistakes: {met} of {len(MISTAKES)} found, on average at place {1 + sum(places) / max(len(places), 1):.1f}"
    )


if __name__ == "__main__":
    _matrix("--write" in sys.argv)
