"""The command line: its contract, its exits, its messages."""

import json
import math
from pathlib import Path
from typing import Any

import pytest
from altered import altered
from circuits import return_system
from click.testing import CliRunner, Result
from laws import static_at_inlet

from tall_heron.cli import main
from tall_heron.core.contract import solution_data, solve_build
from tall_heron.core.document.build import Brief, Build
from tall_heron.core.document.figures import Pipe
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.hydraulics.epanet import make_inp
from tall_heron.core.joining.joints import joints_of
from tall_heron.core.study.study import make_study

DOCS = Path(__file__).parents[2] / "docs"


def run(*arguments: str, text: str | bytes = "") -> Result:
    return CliRunner().invoke(main, arguments, input=text)


def test_solve_gives_every_node_and_element() -> None:
    data = return_system(demand_lph=300, manifold_kpa=150, voltage_v=13.5)
    result = run("solve", "-", "--json", text=json.dumps(data))
    assert result.exit_code == 0
    point = json.loads(result.stdout)["points"][0]
    assert set(point["nodes"]) == {n["id"] for n in data["circuit"]["nodes"]}
    assert set(point["links"]) == {
        e["id"] for e in data["circuit"]["elements"] if e["kind"] != "tank"
    }
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
        (
            broken(**{"circuit/elements/2/length": {"mm": 0}}),
            "/circuit/elements/2/length/mm",
            "greater",
        ),
        (
            broken(**{"circuit/elements/2/figures/bore_mm": -1}),
            "/circuit/elements/2/figures/bore_mm",
            "greater",
        ),
        (
            broken(**{"circuit/elements/2/figures/bore_mm": "wide"}),
            "/circuit/elements/2/figures/bore_mm",
            "number",
        ),
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


def test_velocity_and_reynolds_of_the_answer_belong_together() -> None:
    """Re = rho v D / mu with the answer's own density, viscosity and velocity, on each hose's bore;
    v is the flow over the bore's area.
    """
    build = demo_builds()["bittern"]
    for point, solution in solve_build(build):
        data = solution_data(point.name, solution)
        bores = {
            e.id: e.figures.bore_mm / 1000
            for e in build.circuit.elements
            if isinstance(e.figures, Pipe)
        }
        hoses = [x for x in data["links"].values() if x["element"] in bores]
        assert len(hoses) == 4
        for link in hoses:
            bore, v = bores[link["element"]], link["velocity_m_s"]
            assert v == pytest.approx(
                link["flow_lph"] / 3.6e6 / (math.pi * bore**2 / 4), rel=1e-12, abs=1e-15
            )
            assert link["reynolds"] == pytest.approx(
                data["density_kg_m3"] * abs(v) * bore / (data["viscosity_mpa_s"] / 1000),
                rel=1e-9,
                abs=1e-12,
            )


def said(values: dict[str, float | None]) -> dict[str, float]:
    """The values that are defined; an undefined one as a number that none is."""
    return {k: -1e9 if v is None else v for k, v in values.items()}


@pytest.mark.parametrize("name", [*demo_builds(), *LAYOUTS])
def test_solve_and_the_pages_give_one_answer(name: str) -> None:
    """Every case of the pages is a point of `solve`, with the same figures, on every demo and
    layout.
    """
    if name in LAYOUTS:
        layout = LAYOUTS[name]
        use = {
            "road": {"base_kpa": 300},
            "air": {"use": "flight", "fuel": "100LL", "base_kpa": 300},
        }[layout.craft]
        brief = Brief.model_validate(
            {"power_kw": 200, "feeding": layout.feeding}
            | use
            | ({"base_kpa": 42} if layout.feeding == "carburettor" else {})
        )
        build = Build(name=name, brief=brief, circuit=layout.build(brief))
    else:
        build = demo_builds()[name]
    study, answers = (
        make_study(build),
        {point.name: solution for point, solution in solve_build(build)},
    )
    assert set(answers) == set(study.solved)
    for key, solved in study.solved.items():
        one, other = solution_data(key, answers[key]), solution_data(key, solved.solution)
        assert said(one["nodes"]) == pytest.approx(said(other["nodes"]), rel=1e-6, abs=1e-6)
        for field in ("flow_lph", "current_a", "loss_kpa"):
            mine, theirs = (
                {k: x[field] for k, x in data["links"].items()} for data in (one, other)
            )
            assert said(mine) == pytest.approx(said(theirs), rel=1e-6, abs=1e-5)
        assert {k: x["state"] for k, x in one["links"].items()} == {
            k: x["state"] for k, x in other["links"].items()
        }


@pytest.mark.parametrize("part", range(3))
def test_leading_figures_of_altered_builds_are_those_of_solve(part: int) -> None:
    """Thirty builds altered at random: rail, pump flow, spare and suction of the pages, read again
    from what `solve` answers.
    """
    met = 0
    for seed in range(100 + part, 130, 3):
        build = altered(seed)
        study, answers = (
            make_study(build),
            {point.name: solution for point, solution in solve_build(build)},
        )
        assert set(answers) == set(study.solved)
        for key, solved in study.solved.items():
            data = solution_data(key, answers[key])
            assert data["converged"] == solved.solution.converged
            if not data["converged"]:
                continue
            nodes = data["nodes"]
            links = {name: x["flow_lph"] / 3.6e6 for name, x in data["links"].items()}
            rail = min(
                nodes[e.ports["start"]]
                for e in study.feed_path.burners
                if nodes[e.ports["start"]] is not None
            )
            error = study.rail_error(solved)
            assert error is not None
            assert sum(error) / 1000 == pytest.approx(rail, rel=1e-5, abs=1e-5), (seed, key)
            back = sum(max(links[e.id], 0.0) for e in study.feed_path.turned_back)
            burnt = sum(links[e.id] for e in study.feed_path.burners)
            if study.feed_path.pumps and study.turns_back and not study.brief.carbureted:
                assert study.capacity(solved) == pytest.approx(burnt + back, rel=1e-5), (seed, key)
            inlets = {
                p.id: static_at_inlet(build.circuit, answers[key], p)
                for p in build.circuit.of_kind("pump")
                if p.id not in solved.case.point.off
            }
            clear = study.clear_of_boiling(solved)
            if clear is not None:
                lowest = min(p for p in inlets.values() if p is not None)
                assert clear[0] == pytest.approx(
                    lowest + solved.case.point.atmosphere - study.boils_at(solved.case.fuel),
                    rel=1e-4,
                    abs=2,
                ), (seed, key)
            met += 1
    assert met > 20


def test_the_exported_network_holds_the_circuit_by_value() -> None:
    """Bittern's feed H3 and tank by hand: ten times its length and bore, the head of its level over
    32.2 ft/s2 (docs of epanet.py), its K with both ends and its bends.
    """
    build = demo_builds()["bittern"]
    solved = make_study(build).peak
    text = make_inp(solved.case.demand, solved.solution, "x")
    hose = build.circuit.element("H3")
    assert hose is not None
    assert hose.length is not None
    assert isinstance(hose.figures, Pipe)
    row = next(line.split() for line in text.splitlines() if line.startswith("H3 "))
    assert hose.length.bends_loss_coefficient > 0.1  # it is led round corners
    k = (
        hose.figures.loss_coefficient
        + hose.length.bends_loss_coefficient
        + sum(
            e.loss_coefficient * (hose.figures.bore_mm / e.throat_bore_mm) ** 4
            for e in (hose.end_a, hose.end_b)
            if e
        )
    )
    k += sum(
        p.loss_coefficient * (hose.figures.bore_mm / p.bore_mm) ** 4
        for j in joints_of(build).of("H3")
        for p in j.pieces
    )
    assert float(row[3]) == pytest.approx(hose.length.mm / 1000 * 10)
    assert float(row[4]) == pytest.approx(hose.figures.bore_mm * 10)
    assert float(row[6]) == pytest.approx(k, rel=1e-3)
    tank = build.circuit.of_kind("tank")[0]
    nodes = {n.id: n.elevation_mm for n in build.circuit.nodes}
    head = next(
        line.split() for line in text.splitlines() if line.endswith(f";{tank.ports['outlet']}")
    )
    assert float(head[1]) == pytest.approx(
        (nodes[tank.ports["outlet"]] + tank.figures.level_mm) / 1000 * 9.80665 / (32.2 * 0.3048),
        rel=1e-9,
    )  # type: ignore[union-attr]
