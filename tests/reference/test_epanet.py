"""Pressures and flows against EPANET 2.2 through wntr: within 0.5 % of the larger of |value| and 1
% of the network's largest, outside transition.
"""

import contextlib
import copy
import math
import warnings
from pathlib import Path
from random import Random
from typing import Any

import epanet
import pytest
import wntr
from circuits import CIRCUITS, MORE, ODD

from tall_heron.core.document.build import Brief, Build, validate
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.editing.topology import add_tap
from tall_heron.core.hydraulics.epanet import FLOW, G_EPANET, make_inp
from tall_heron.core.hydraulics.jets import nozzle_law, suction_law
from tall_heron.core.hydraulics.laws import rise
from tall_heron.core.hydraulics.network import compile_network
from tall_heron.core.hydraulics.solve import solve_network
from tall_heron.core.study.cases.cases import make_cases
from tall_heron.core.study.demand import fuel_demand
from tall_heron.core.study.study import make_study

WITHIN = 0.005
JITTERS = 20
STATES = {
    "low voltage, regulator shut": ("PR", "shut"),
    "undersized return, regulator wide open": ("PR", "wide open"),
    "two pumps, one off": ("P1", "off"),
    "idle": ("PR", "holding"),
    "dead-head regulator": ("PR", "holding"),
    "laminar return": ("H4", "laminar"),
    "lift pump and pot": ("P9", "running"),
    "peak": ("PR", "holding"),
}


def compare(data: dict[str, Any]) -> None:
    build = validate(data)
    point = build.points[0]
    solution = solve_network(compile_network(build.circuit, point))
    assert solution.converged, solution.reason
    pressures, flows = epanet.run(build, point)
    greatest = max(abs(p) for p in solution.nodes.values() if p is not None)
    largest = max(abs(link.flow) for link in solution.links.values())
    checked = 0
    for node, expected in pressures.items():
        got = solution.nodes[node]
        if got is not None:
            checked += 1
            assert abs(got - expected) <= WITHIN * max(abs(expected), 0.01 * greatest), (
                f"pressure at {node}: {got} Pa, EPANET {expected} Pa"
            )
    for key, expected in flows.items():
        link = solution.links[key]
        if not link.transition:
            checked += 1
            assert abs(link.flow - expected) <= WITHIN * max(abs(expected), 0.01 * largest), (
                f"flow of {key}: {link.flow}, EPANET {expected}"
            )
    assert checked > 8


@pytest.mark.parametrize("name", CIRCUITS | ODD | MORE)
def test_agrees_with_epanet(name: str) -> None:
    compare((CIRCUITS | ODD | MORE)[name])


@pytest.mark.parametrize(("name", "part", "state"), [(n, *s) for n, s in STATES.items()])
def test_circuits_are_in_the_state_they_are_named_for(name: str, part: str, state: str) -> None:
    build = validate((CIRCUITS | MORE)[name])
    solution = solve_network(compile_network(build.circuit, build.points[0]))
    assert solution.links[part].state == state


def jittered(data: dict[str, Any], seed: int) -> dict[str, Any]:
    """Every number of the circuit and the point within 20 % of itself; voltages stay, since they
    pick a map.
    """
    rnd = Random(seed)

    def turn(value: Any, key: str = "") -> Any:
        if isinstance(value, dict):
            return {
                k: v if k in ("curves", "voltage_v", "count") else turn(v, k)
                for k, v in value.items()
            }
        if isinstance(value, list):
            return [turn(v, key) for v in value]
        if isinstance(value, float | int) and not isinstance(value, bool):
            return value * rnd.uniform(0.8, 1.2)
        return value

    out = turn(copy.deepcopy(data))
    for element in out["circuit"]["elements"]:
        for curve in element["figures"].get("curves", []):
            flow, rise = rnd.uniform(0.8, 1.2), rnd.uniform(0.8, 1.2)
            curve["rows"] = [[q * flow, p * rise] for q, p in curve["rows"]]
    return out


@pytest.mark.parametrize("name", CIRCUITS)
@pytest.mark.parametrize("half", [0, 1])
def test_agrees_with_epanet_when_jittered(name: str, half: int) -> None:
    for seed in range(half * JITTERS // 2, (half + 1) * JITTERS // 2):
        compare(jittered(CIRCUITS[name], seed))


def as_epanet_can(build: Build, case: str) -> dict[str, Any]:
    """A build at a case without what EPANET lacks: a regulator's slope, a check's cracking
    pressure, a pump's relief; voltages are those of the maps.
    """
    assert build.brief is not None
    data = build.model_dump(mode="json", exclude_none=True)
    for element in data["circuit"]["elements"]:
        lacks = {
            "check": {"cracking_kpa": 0.0},
            "regulator": {"slope_kpa_per_lph": 0.0},
            "pump": {"relief_kpa": None},
        }
        element["figures"] |= lacks.get(element["figures"]["law"], {})
    chosen = next(c for c in make_cases(build.brief, fuel_demand(build.brief)) if c.key == case)
    point = chosen.point.model_dump(mode="json", exclude_none=True)
    return data | {
        "points": [
            point
            | {
                "demand_lph": chosen.demand * 3.6e6,
                "voltage_v": 12.0 if case == "low voltage" else 13.5,
            }
        ]
    }


@pytest.mark.parametrize("case", ["peak", "low voltage", "idle"])
def test_the_demo_build_agrees_with_epanet(case: str) -> None:
    compare(as_epanet_can(demo_builds()["bittern"], case))


@pytest.mark.parametrize("case", ["peak", "low voltage", "idle"])
@pytest.mark.parametrize(
    ("key", "rails"), [(x.key, r) for x in LAYOUTS.values() for r in x.rails if x.key != "C10"]
)
def test_every_layout_agrees_with_epanet(key: str, rails: str, case: str) -> None:
    """Each layout with each arrangement of rails, laid out for an engine of its kind; the hoses to
    the rails unequal but at idle, where they are in transition. C10 follows below.
    """
    picks = {} if case == "idle" else {"to_rails": UNEQUAL}
    compare(without_shut_relief(as_epanet_can(laid(key, rails=rails, **picks), case)))


def without_shut_relief(data: dict[str, Any]) -> dict[str, Any]:
    """A circuit without its relief valves, which the whole one keeps shut: EPANET's balance suffers
    from a valve that is held shut by a hair.
    """
    build = validate(data)
    solution = solve_network(compile_network(build.circuit, build.points[0]))
    reliefs = [e.id for e in build.circuit.of_kind("relief")]
    assert all(solution.links[r].state == "shut" for r in reliefs)
    gone = {*reliefs, *(["H18"] if reliefs and build.circuit.element("H18") else [])}
    circuit = data["circuit"]
    left = [e for e in circuit["elements"] if e["id"] not in gone]
    used = {n for e in left for n in e["ports"].values()}
    return data | {
        "circuit": circuit
        | {"elements": left, "nodes": [n for n in circuit["nodes"] if n["id"] in used]}
    }


UNEQUAL = [{"dash": "-6", "mm": 300}, {"dash": "-8", "mm": 1200}]


def laid(key: str, **picks: Any) -> Build:
    """A layout for an engine of its kind."""
    layout = LAYOUTS[key]
    if layout.craft == "air":
        injected = (
            {"base_kpa": 300}
            if layout.feeding == "injection"
            else {"base_kpa": 3.5 if key == "A1" else 20, "feeding": "carburettor"}
        )
        brief = Brief.model_validate(
            {"power_kw": 112, "fuel": "100LL", "use": "flight", "voltage_v": 14, "peak_rpm": 2700}
            | injected
        )
    else:
        found = demo_builds()["dunlin" if layout.feeding == "carburettor" else "bittern"].brief
        assert found is not None
        brief = found
    return Build(name=key, brief=brief, circuit=layout.build(brief, layout.picks(**picks)))


def test_a_jet_pump_agrees_with_epanet_as_the_pump_it_amounts_to() -> None:
    """C10 at peak. EPANET has no jet pump: its nozzle is replaced by the K, and what it draws along
    by the pump's curve, at the motive flow found; pressures and flows of the rest, and of both,
    must then be the same.
    """
    data = as_epanet_can(laid("C10"), "peak")
    build = validate(data)
    solution = solve_network(compile_network(build.circuit, build.points[0]))
    jet = build.circuit.element("P8")
    assert jet is not None
    motive, drawn = solution.links["P8.motive"].flow, solution.links["P8.suction"].flow
    assert motive > 1e-5
    law = nozzle_law(jet.figures, solution.density, motive, drawn)  # type: ignore[arg-type]
    bore = 5.0
    k = law.square * 2 * (math.pi * (bore / 1000) ** 2 / 4) ** 2 / solution.density
    curve = suction_law(jet.figures, solution.density, motive)  # type: ignore[arg-type]
    rows = [
        [q * 3.6e6, rise(curve, q)[0] / 1000] for q in (curve.last_flow * i / 60 for i in range(61))
    ]
    nozzle = {
        "id": "P8n",
        "kind": "fitting",
        "ports": {"start": "jet in", "end": "jet out"},
        "figures": {"law": "loss", "bore_mm": bore, "loss_coefficient": k},
    }
    pump = {
        "id": "P8s",
        "kind": "pump",
        "ports": {"start": "jet suction", "end": "jet out"},
        "figures": {"law": "pump", "curves": [{"voltage_v": 13.5, "rows": rows}]},
    }
    data["circuit"]["elements"] = [e for e in data["circuit"]["elements"] if e["id"] != "P8"] + [
        nozzle,
        pump,
    ]
    compare(data)
    pressures, flows = epanet.run(validate(data), build.points[0])
    assert flows["P8n"] == pytest.approx(motive, rel=0.01)
    assert flows["P8s"] == pytest.approx(drawn, rel=0.01)
    assert pressures["rail out"] == pytest.approx(solution.nodes["rail out"], rel=0.005)


def test_gravity_by_the_energy_of_the_fall() -> None:
    """A1: the height from the fuel's surface to the bowl pays for the way and for what is left at
    the bowl: rho g h = sum of K rho v^2/2 and friction + p_bowl (Bernoulli with losses), each loss
    by hand from Darcy-Weisbach with Swamee-Jain or 64/Re, the flow halved in the wings.
    """
    build = laid("A1")
    assert build.brief is not None
    case = make_cases(build.brief, fuel_demand(build.brief))[0]
    solution = solve_network(compile_network(build.circuit, case.point, case.demand))
    rho, mu, q = solution.density, solution.viscosity, case.demand
    height = 0.900 + 0.060 - 0.0

    def hose(name: str, flow: float) -> float:
        e = build.circuit.element(name)
        bore = e.figures.bore_mm / 1000  # type: ignore[union-attr]
        v = flow / (math.pi * bore**2 / 4)
        re = rho * v * bore / mu
        f = (
            64 / re
            if re < 2000
            else 0.25 / math.log10(e.figures.roughness_um / 1e6 / bore / 3.7 + 5.74 / re**0.9) ** 2
        )  # type: ignore[union-attr]
        ends = sum(
            x.loss_coefficient * (bore * 1000 / x.throat_bore_mm) ** 4 for x in (e.end_a, e.end_b)
        )  # type: ignore[union-attr]
        return (f * e.length.mm / 1000 / bore + ends) * rho * v * v / 2  # type: ignore[union-attr]

    def filtered(name: str, flow: float) -> float:
        part = build.circuit.element(name).figures  # type: ignore[union-attr]
        lph = flow * 3.6e6
        return (
            part.a_kpa_per_lph * lph * mu * 1000 / 0.5 + part.b_kpa_per_lph2 * lph**2 * rho / 745
        ) * 1000  # type: ignore[union-attr]

    def loss(k: float, bore: float, flow: float) -> float:
        return k * rho * (flow / (math.pi * bore**2 / 4)) ** 2 / 2

    left = solution.links["H1"].flow
    assert left == pytest.approx(q / 2, rel=0.2)
    junction, valve = build.circuit.element("Y5").figures, build.circuit.element("V3").figures  # type: ignore[union-attr]
    way = (
        filtered("E1", left)
        + hose("H1", left)
        + loss(junction.run_loss_coefficient, junction.bore_mm / 1000, left)
    )  # type: ignore[union-attr]
    way += loss(valve.loss_coefficient, valve.bore_mm / 1000, q) + filtered("F1", q) + hose("H7", q)  # type: ignore[union-attr]
    assert solution.nodes["bowl"] == pytest.approx(rho * 9.80665 * height - way, rel=0.01)


def test_a_laminar_return_follows_hagen_poiseuille() -> None:
    """dp = 128 mu L Q / (pi d^4) and K rho v^2 / 2 for its ends (published law), within 0.1 %."""
    build = validate(MORE["laminar return"])
    link = solve_network(compile_network(build.circuit, build.points[0])).links["H4"]
    bore, length, mu, rho = 0.0159, 4.3, 0.5e-3, 745.0
    assert link.loss is not None
    assert 100 < (link.reynolds or 0.0) < 2000
    speed = link.flow / (math.pi * bore**2 / 4)
    friction = 128 * mu * length * link.flow / (math.pi * bore**4) + 3.0 * rho * speed**2 / 2
    assert link.loss - rho * 9.80665 * -0.350 == pytest.approx(friction, rel=1e-3)


def test_rails_of_unequal_hoses_differ_and_of_equal_ones_do_not() -> None:
    def difference(name: str) -> float:
        build = validate(MORE[name])
        nodes = solve_network(compile_network(build.circuit, build.points[0])).nodes
        return nodes["l2"] - nodes["r2"]  # type: ignore[operator]

    assert difference("rails equal") == pytest.approx(0.0, abs=1e-3)
    assert abs(difference("rails unequal")) > 20


@pytest.mark.parametrize(
    "name", [*demo_builds(), "A4", "C10", "tapped", "wired bittern", "wired egret"]
)
def test_the_exported_file_is_opened_by_epanet_and_solved_to_the_same_answer(
    name: str, tmp_path: Path
) -> None:
    """The file as it is written, opened by EPANET through wntr as anybody would: every pressure and
    flow at peak as ours.
    """
    demo = demo_builds() | {f"wired {k}": b for k, b in demo_builds(wired=True).items()}
    build = (
        add_tap(demo["bittern"], "RL", "spurge-tap-120")[0]
        if name == "tapped"
        else demo.get(name) or laid(name)
    )
    study = make_study(build)
    solved = study.peak
    file = tmp_path / "circuit.inp"
    file.write_text(make_inp(solved.case.demand, solved.solution, name), encoding="utf-8")
    with (
        warnings.catch_warnings(),
        contextlib.chdir(tmp_path),
    ):  # EPANET leaves files of its own where it runs
        warnings.simplefilter("ignore")
        model = wntr.network.WaterNetworkModel(str(file))
        result = wntr.sim.EpanetSimulator(model).run_sim(file_prefix=str(tmp_path / "run"))
    head, flow = result.node["head"].iloc[0], result.link["flowrate"].iloc[0]
    nodes = solved.solution.nodes
    greatest = max(abs(p) for p in nodes.values() if p is not None)
    largest = max(abs(x.flow) for x in solved.solution.links.values())
    checked = 0
    for i, node in enumerate(build.circuit.nodes):
        ours = nodes.get(node.id)
        if ours is None or f"n{i}" not in head.index:
            continue
        theirs = (
            (float(head[f"n{i}"]) - node.elevation_mm / 1000 * 9.80665 / G_EPANET)
            * solved.solution.density
            * G_EPANET
        )
        checked += 1
        assert abs(ours - theirs) <= WITHIN * max(abs(ours), 0.01 * greatest), node.id
    for key, link in solved.solution.links.items():
        if key.replace(".", "_") in flow.index and not link.transition:
            checked += 1
            assert abs(link.flow - float(flow[key.replace(".", "_")]) / FLOW) <= WITHIN * max(
                abs(link.flow), 0.02 * largest
            ), key
    assert checked > 12
