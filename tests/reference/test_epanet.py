"""Pressures and flows against EPANET 2.2 through wntr: within 0.5 % of the larger of |value| and 1 % of the network's largest, outside transition."""

import copy
import math
from random import Random
from typing import Any

import epanet
import pytest
from circuits import CIRCUITS, MORE, ODD

from tall_heron.core.build import Build, validate
from tall_heron.core.cases import make_cases
from tall_heron.core.demo import demo_builds
from tall_heron.core.engine import burn
from tall_heron.core.layouts import LAYOUTS
from tall_heron.core.network import compile_network
from tall_heron.core.solve import solve_network

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
    """Every number of the circuit and the point within 20 % of itself; voltages stay, since they pick a map."""
    rnd = Random(seed)

    def turn(value: Any, key: str = "") -> Any:
        if isinstance(value, dict):
            return {k: v if k in ("curves", "voltage_v", "count") else turn(v, k) for k, v in value.items()}
        if isinstance(value, list):
            return [turn(v, key) for v in value]
        if isinstance(value, float | int) and not isinstance(value, bool):
            return value * rnd.uniform(0.8, 1.2)
        return value

    out = turn(copy.deepcopy(data))
    for element in out["circuit"]["elements"]:
        for curve in element["part"].get("curves", []):
            flow, rise = rnd.uniform(0.8, 1.2), rnd.uniform(0.8, 1.2)
            curve["rows"] = [[q * flow, p * rise] for q, p in curve["rows"]]
    return out


@pytest.mark.parametrize("name", CIRCUITS)
@pytest.mark.parametrize("half", [0, 1])
def test_agrees_with_epanet_when_jittered(name: str, half: int) -> None:
    for seed in range(half * JITTERS // 2, (half + 1) * JITTERS // 2):
        compare(jittered(CIRCUITS[name], seed))


def as_epanet_can(build: Build, case: str) -> dict[str, Any]:
    """A build at a case without what EPANET lacks: a regulator's slope, a check's cracking pressure, a pump's relief; voltages are those of the maps."""
    assert build.brief is not None
    data = build.model_dump(mode="json", exclude_none=True)
    for element in data["circuit"]["elements"]:
        lacks = {"check": {"cracking_kpa": 0.0}, "regulator": {"slope_kpa_per_lph": 0.0}, "pump": {"relief_kpa": None}}
        element["part"] |= lacks.get(element["part"]["law"], {})
    chosen = next(c for c in make_cases(build.brief, burn(build.brief)) if c.key == case)
    point = chosen.point.model_dump(mode="json", exclude_none=True)
    return data | {"points": [point | {"demand_lph": chosen.demand * 3.6e6, "voltage_v": 12.0 if case == "low voltage" else 13.5}]}


@pytest.mark.parametrize("case", ["peak", "low voltage", "idle"])
def test_the_demo_build_agrees_with_epanet(case: str) -> None:
    compare(as_epanet_can(demo_builds()["bittern"], case))


@pytest.mark.parametrize("case", ["peak", "low voltage", "idle"])
@pytest.mark.parametrize(("key", "rails"), [(x.key, r) for x in LAYOUTS.values() for r in x.rails])
def test_every_layout_agrees_with_epanet(key: str, rails: str, case: str) -> None:
    """Each layout with each arrangement of rails, laid out for the demo build whose engine is fed that way; the hoses to the rails unequal."""
    layout = LAYOUTS[key]
    brief = demo_builds()["dunlin" if layout.feeding == "carburettor" else "bittern"].brief
    assert brief is not None
    unequal = [{"dash": "-6", "mm": 300}, {"dash": "-8", "mm": 1200}]
    build = Build(
        name=key, brief=brief, circuit=layout.build(brief, layout.picks(rails=rails, to_rails=unequal, damper="reedbed-damper-10"))
    )
    compare(as_epanet_can(build, case))


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
