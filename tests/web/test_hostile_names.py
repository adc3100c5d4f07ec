"""A build whose every name is made to hurt: what is handed out of it is read back by the programs it
is for, and holds a name of one line that nothing takes for a formula, a section or a record.
"""

import csv
import io
import json
from pathlib import Path
from typing import Any

import pytest
import wntr.epanet.toolkit as toolkit
from ezdxf import recover
from flask.testing import FlaskClient
from icalendar import Calendar
from openpyxl import load_workbook

from tall_heron.core.base.csv_text import FORMULAS, is_number
from tall_heron.core.document.build import dump, load
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.hydraulics.epanet import make_inp
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.study.study import make_study
from tall_heron.store import builds, db

NAME = '=HYPERLINK("x")\n[TITLE]\r\n0\nSECTION\u2028END:VCALENDAR'
CSVS = ("cut-list.csv", "buy-list.csv", "hose-order.csv", "loom.csv", "route-points.csv")


def hostile(name: str = NAME) -> str:
    """Bittern with a name in every field of a name there is."""
    document: dict[str, Any] = json.loads(dump(demo_builds(wired=True)["bittern"]))

    def renamed(value: Any, key: str = "") -> Any:
        if isinstance(value, dict):
            return {k: renamed(v, k) for k, v in value.items()}
        if isinstance(value, list):
            return [renamed(x, key) for x in value]
        return name if key == "title" and isinstance(value, str) else value

    document = renamed(document)
    for element in document["circuit"]["elements"]:
        element["title"] = name
    return json.dumps(document | {"name": name})


@pytest.fixture
def laid(tmp_path: Path) -> dict[str, str]:
    """The paths of that build, and of the same with a name that hurts nobody."""
    with db.opened(tmp_path / "demo.sqlite") as connection:
        return {
            how: "/builds/" + builds.create(connection, name, dump(load(hostile(name))), "Started")
            for how, name in (("hostile", NAME), ("plain", "Sandpiper"))
        }


@pytest.fixture
def on(app: Any, laid: dict[str, str]) -> str:
    return laid["hostile"]


def test_a_name_is_one_line() -> None:
    build = load(hostile())
    titles = [build.name, *(e.title for e in build.circuit.elements)]
    assert all(x.isprintable() for x in titles)
    assert build.name.startswith("=HYPERLINK")


@pytest.mark.parametrize("file", CSVS)
def test_no_cell_is_a_formula(client: FlaskClient, on: str, file: str) -> None:
    """CWE-1236, formulas in CSV."""
    answer = client.get(f"{on}/{file}")
    assert answer.status_code == 200
    cells = [c for row in csv.reader(io.StringIO(answer.text)) for c in row]
    assert len(cells) > 20
    assert [c for c in cells if c.startswith(FORMULAS[:-1]) and not is_number(c)] == []


def test_a_workbook_holds_text(client: FlaskClient, on: str) -> None:
    book = load_workbook(io.BytesIO(client.get(f"{on}/buy-list.xlsx").data))
    cells = [c for sheet in book for row in sheet for c in row]
    assert len(cells) > 50
    assert {c.data_type for c in cells} <= {"s", "inlineStr", "n"}


def peak() -> tuple[float, Solution]:
    solved = make_study(demo_builds()["bittern"]).peak
    return solved.case.demand, solved.solution


def test_epanet_reads_the_circuit(
    client: FlaskClient, laid: dict[str, str], tmp_path: Path
) -> None:
    assert make_inp(*peak(), "[JUNCTIONS] x").splitlines()[1] == "Build [JUNCTIONS] x"
    counts = []
    for path in laid.values():
        text = client.get(f"{path}/circuit.inp").text
        assert text.splitlines().count("[TITLE]") == 1
        (tmp_path / "x.inp").write_text(text, encoding="utf-8")
        opened = toolkit.ENepanet()
        opened.ENopen(*(str(tmp_path / f"x.{end}") for end in ("inp", "rpt", "bin")))
        counts.append((opened.ENgetcount(0), opened.ENgetcount(2)))
        opened.ENclose()
    assert counts[0] == counts[1]
    assert counts[0][1] >= 20


@pytest.mark.parametrize("file", ["route.dxf", "plate.dxf"])
def test_a_drawing_is_read_without_a_repair(
    client: FlaskClient, laid: dict[str, str], file: str
) -> None:
    counts = []
    for path in laid.values():
        answer = client.get(f"{path}/{file}")
        assert answer.status_code == 200
        drawing, audit = recover.read(io.BytesIO(answer.data))
        assert not audit.has_errors
        assert not audit.has_fixes
        counts.append(len(drawing.modelspace()))
    assert counts[0] == counts[1] > 3


def test_a_calendar_has_its_events(client: FlaskClient, laid: dict[str, str]) -> None:
    count = [
        len(Calendar.from_ical(client.get(f"{path}/prove/upkeep.ics").data).events)
        for path in laid.values()
    ]
    assert count[0] == count[1]


def test_the_file_comes_back_the_same(client: FlaskClient, on: str) -> None:
    text = client.get(f"{on}/build.json").text
    assert dump(load(text)) == dump(load(hostile()))
