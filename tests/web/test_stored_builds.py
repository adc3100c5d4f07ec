"""Documents of earlier days: the demo database of commit 76fb988, in which builds were edited, split, accepted and started from a line, with an own part."""

import json
import shutil
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient

from tall_heron.core.contract import solution_data
from tall_heron.core.design import Design, design
from tall_heron.core.document.build import Brief, Build, dump, load
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.shelf.own_part import on_shelf
from tall_heron.store import builds, db, own_parts
from tall_heron.web import create_app

STORED = Path(__file__).parents[1] / "kit/stored"
ANSWERS = json.loads((STORED / "answers-76fb988.json").read_text(encoding="utf-8"))
LAYOUT_ANSWERS = json.loads((STORED / "layouts-76fb988.json").read_text(encoding="utf-8"))
CLOSE = 5e-4  # ceilings that cost a solution a step are found to 4e-4 of themselves


@pytest.fixture
def old(tmp_path: Path) -> Path:
    return Path(shutil.copy(STORED / "demo-76fb988.sqlite", tmp_path / "demo.sqlite"))


def test_every_revision_opens_and_is_the_same_again(old: Path) -> None:
    """Each stored document reads, says today's format, and reads again as itself; figures keep the text they were typed as."""
    with db.opened(old) as connection:
        documents = [row["document"] for row in connection.execute("SELECT document FROM revision")]
        assert len(documents) == 19
        for text in documents:
            build = load(text)
            assert '"format": "tall-heron-build/2"' in dump(build)
            assert dump(load(dump(build))) == dump(build)
            before = json.loads(text)
            assert [e["part"]["law"] for e in before["circuit"]["elements"]] == [e.figures.law for e in build.circuit.elements]
            assert [a["part"] for a in before.get("accepted", [])] == [a.element_id for a in build.accepted]
        own = [on_shelf(row["name"], row["document"]) for row in own_parts.every(connection)]
        assert [(p.title, p.properties.micron) for p in own] == [("Own mesh", 10.0)]


def test_a_text_stays_with_what_it_describes(old: Path) -> None:
    """H3 was typed as 4 m and then split into halves of 2 m: the text is not kept beside 2,000 mm; a build from before the split keeps it."""
    with db.opened(old) as connection:
        acts = {row["act"]: load(row["document"]) for row in connection.execute("SELECT act, document FROM revision")}
        split = next(b for act, b in acts.items() if act.startswith("H3 split"))
        whole = next(b for act, b in acts.items() if act == "H3: 4 m face to face")
        assert whole.circuit.element("H3").length.typed == "4 m"  # type: ignore[union-attr]
        assert (split.circuit.element("H3").length.mm, split.circuit.element("H3").length.typed) == (2000, None)  # type: ignore[union-attr]
        assert not any("length" in pointer for pointer in split.typed)


def test_every_page_of_the_old_builds_opens(old: Path) -> None:
    app = create_app(old)
    client: FlaskClient = app.test_client()
    with db.opened(old) as connection:
        slugs = [row["slug"] for row in builds.every(connection)]
    assert len(slugs) == 9
    assert client.get("/").status_code == 200
    for slug in slugs:
        for page in ("brief", "circuit", "hoses", "history", "sheet"):
            assert client.get(f"/builds/{slug}/{page}").status_code == 200, (slug, page)
    app.extensions["connections"].close()


@pytest.mark.parametrize("name", list(ANSWERS))
def test_demos_solve_to_the_answers_saved_before(name: str) -> None:
    """Pressures, flows, currents and states of every case within 1e-6 of what commit 76fb988 gave; findings the same; ceilings within the ladder's own closeness."""
    made, before = design(demo_builds()[name]), ANSWERS[name]
    assert set(made.study.solved) == set(before["cases"])
    for key, solved in made.study.solved.items():
        now, then = solution_data(key, solved.solution), before["cases"][key]
        assert {k: x["state"] for k, x in now["links"].items()} == then["states"]
        flows, currents = {k: x["flow_lph"] for k, x in now["links"].items()}, {k: x["current_a"] for k, x in now["links"].items()}
        largest = {"nodes": max(abs(v) for v in then["nodes"].values() if v is not None), "flows": max(map(abs, then["flows"].values()))}
        for group, values in (("nodes", now["nodes"]), ("flows", flows), ("currents", currents)):
            for k, value in then[group].items():
                floor = largest.get(group, 0.0)
                assert (values[k] is None) == (value is None), (key, k)
                assert value is None or values[k] == pytest.approx(value, rel=1e-6, abs=1e-6 * floor), (key, k)
        assert (now["asked_lph"], now["delivered_lph"]) == pytest.approx((then["asked_lph"], then["delivered_lph"]), rel=1e-6)
    same_findings(made, before)
    same_ladder(made, before)


def same_findings(made: Design, before: dict[str, Any]) -> None:
    """The same findings with the same figures, to what the pumps' capacity is found to."""
    assert [[f.rule, f.level, f.element_id, f.case] for f in made.findings] == [f[:4] for f in before["findings"]]
    for f, (*_, figures) in zip(made.findings, before["findings"], strict=True):
        assert {k: v.value for k, v in f.figures.items()} == pytest.approx(figures, rel=CLOSE, abs=1e-9), f.title


def same_ladder(made: Design, before: dict[str, Any]) -> None:
    """The same parts with the same ceilings; which of two twins is named first is a matter of rounding."""
    ladder = sorted([sorted(x.parts), x.ceiling or 0.0] for x in made.limits)
    for (parts, ceiling), (parts_before, then) in zip(ladder, sorted([sorted(p), c or 0.0] for p, c in before["ladder"]), strict=True):
        assert parts == parts_before
        assert ceiling == pytest.approx(then, rel=CLOSE)


BRIEFS = {
    "street/injection": {"power_kw": 340, "base_kpa": 300.0, "use": "street", "peak_rpm": 6200},
    "drag/injection": {"power_kw": 620, "base_kpa": 300.0, "use": "drag", "boost_kpa": 120.0, "fuel": "E85", "ethanol_range": "flex", "cylinders": 8, "peak_rpm": 6200},
    "street/carburettor": {"power_kw": 250, "base_kpa": 42.0, "use": "street", "feeding": "carburettor", "peak_rpm": 6200},
    "flight/injection": {"power_kw": 150, "base_kpa": 300.0, "use": "flight", "fuel": "100LL", "peak_rpm": 2700},
    "flight/carburettor": {"power_kw": 120, "base_kpa": 30.0, "use": "flight", "feeding": "carburettor", "fuel": "100LL", "peak_rpm": 2700},
}  # fmt: skip


@pytest.mark.parametrize("name", list(LAYOUT_ANSWERS))
def test_layouts_are_judged_as_before(name: str) -> None:
    """Findings with their figures and the ladder of every layout and arrangement of rails, as commit 76fb988 had them; C10 apart, whose jet was mended since."""
    use, feeding, key, rails = name.split("/")
    layout, brief = LAYOUTS[key], Brief.model_validate(BRIEFS[f"{use}/{feeding}"])
    made = design(Build(name="x", brief=brief, circuit=layout.build(brief, layout.picks(rails=rails))))
    same_findings(made, LAYOUT_ANSWERS[name])
    same_ladder(made, LAYOUT_ANSWERS[name])
