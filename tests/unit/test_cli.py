"""The command line: its contract, its exits, its messages."""

import json
from pathlib import Path
from typing import Any

import pytest
from circuits import return_system
from click.testing import CliRunner, Result

from tall_heron.cli import main
from tall_heron.core.document.build import Build

DOCS = Path(__file__).parents[2] / "docs"


def run(*arguments: str, text: str | bytes = "") -> Result:
    return CliRunner().invoke(main, arguments, input=text)


def test_solve_gives_every_node_and_element() -> None:
    data = return_system(demand_lph=300, manifold_kpa=150, voltage_v=13.5)
    result = run("solve", "-", "--json", text=json.dumps(data))
    assert result.exit_code == 0
    point = json.loads(result.stdout)["points"][0]
    assert set(point["nodes"]) == {n["id"] for n in data["circuit"]["nodes"]}
    assert set(point["links"]) == {e["id"] for e in data["circuit"]["elements"] if e["kind"] != "tank"}
    feed = point["links"]["H3"]
    assert feed["loss_kpa"] == pytest.approx(point["nodes"]["g"] - point["nodes"]["r"])
    assert point["links"]["P0"]["loss_kpa"] < 0
    assert point["asked_lph"] == pytest.approx(300)


def test_the_worked_file_of_the_docs_gives_the_worked_answer() -> None:
    """docs/solve.md: 4.5 m of 7.9 mm at 20 L/h takes 116.11 Pa (hand calculation)."""
    result = run("solve", str(DOCS / "solve-example.json"), "--json")
    assert result.exit_code == 0, result.stderr
    link = json.loads(result.stdout)["points"][0]["links"]["H1"]
    assert link["flow_lph"] == pytest.approx(20.0, rel=1e-3)
    assert link["loss_kpa"] == pytest.approx(0.11611, rel=1e-3)
    assert link["reynolds"] == pytest.approx(1492.3, rel=1e-3)


def test_an_example_solves_and_the_schema_describes_it() -> None:
    example = run("example", "bittern")
    assert run("solve", "-", text=example.stdout).exit_code == 0
    assert json.loads(run("schema").stdout) == json.loads(json.dumps(Build.model_json_schema()))
    assert run("example", "nightjar").exit_code == 2


def broken(**changes: Any) -> str:
    data = return_system(demand_lph=300)
    for pointer, value in changes.items():
        at: Any = data
        *path, last = pointer.split("/")
        for key in path:
            at = at[int(key)] if isinstance(at, list) else at[key]
        at[last] = value
    return json.dumps(data)


@pytest.mark.parametrize(
    ("text", "field", "says"),
    [
        ("not json", "/", "not JSON"),
        ("[" * 10000, "/", "nested"),
        (b"\xff\xfe", "/", "UTF-8"),
        ('{"a": 1, "a": 2}', "/", "twice"),
        ('{"circuit": NaN}', "/", "NaN"),
        ("{}", "/circuit", "missing"),
        (broken(**{"circuit/elements/2/length": {"mm": 0}}), "/circuit/elements/2/length/mm", "greater"),
        (broken(**{"circuit/elements/2/figures/bore_mm": -1}), "/circuit/elements/2/figures/bore_mm", "greater"),
        (broken(**{"circuit/elements/2/figures/bore_mm": "wide"}), "/circuit/elements/2/figures/bore_mm", "number"),
        (broken(**{"circuit/elements/0/ports": {"outlet": "nowhere"}}), "/circuit", "nowhere"),
        (broken(**{"points/0/fuel": "E200"}), "/points/0", "fuel"),
        (broken(**{"points/0/off": ["P9"]}), "/", "P9"),
        (broken(points=[]), "/points", "at least one"),
        (
            broken(**{"circuit/elements/3/figures/curves": [{"rows": [[0, 100], [50, 100]]}]}),
            "/circuit/elements/3/figures/curves/0",
            "does not fall",
        ),
    ],
)
def test_bad_input_names_the_field_and_exits_2(text: str | bytes, field: str, says: str) -> None:
    result = run("solve", "-", text=text)
    assert result.exit_code == 2, result.stdout
    assert f"Error: {field}" in result.stderr
    assert says in result.stderr


def test_no_way_through_exits_3_and_names_the_part() -> None:
    data = return_system(demand_lph=300, off=["P0", "P1"])
    result = run("solve", "-", "--json", text=json.dumps(data))
    assert result.exit_code == 3
    point = json.loads(result.stdout)["points"][0]
    assert (point["converged"], point["nodes"]) == (False, {})
    assert point["part"] in ("P0", "P1")
    assert "it is off" in result.stderr


def test_a_build_goes_out_and_in_unchanged(tmp_path: Path) -> None:
    text = run("example", "bittern").stdout
    first = run("import", "-", "--data", str(tmp_path), text=text)
    assert (first.exit_code, first.stdout.strip()) == (0, "bittern")
    assert run("import", "-", "--data", str(tmp_path), text=text).stdout.strip() == "bittern-2"
    assert json.loads(run("export", "bittern", "--data", str(tmp_path)).stdout) == json.loads(text)
    assert run("export", "heron", "--data", str(tmp_path)).exit_code == 2
    assert run("import", "-", "--data", str(tmp_path), text="{}").exit_code == 2
