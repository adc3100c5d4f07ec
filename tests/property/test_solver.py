"""Laws that hold for every circuit: what goes in comes out, every element keeps its own law, a
failure names what blocks.
"""

from collections import Counter
from itertools import pairwise
from random import Random
from typing import Any

import pytest
from circuits import return_system
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from laws import imbalance, law_errors
from made_up import circuit

from tall_heron.core.document.build import Build, validate
from tall_heron.core.document.kinds import KINDS
from tall_heron.core.document.path import ways
from tall_heron.core.document.point import Point
from tall_heron.core.hydraulics.network import compile_network
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.hydraulics.solve import solve_network
from tall_heron.core.hydraulics.sweep import sweep

LPH = 3.6e6
WITHOUT_PRESSURE = (
    1000.0  # Pa, where a circuit holds no more than this; 1e-6 of it is a thousandth of a pascal
)
WITHOUT_FLOW = 1e-10  # m3/s
circuits = st.integers(0, 2**32).map(lambda seed: circuit(Random(seed)))
few = settings(max_examples=40, derandomize=True, database=None)


def solved(data: dict[str, Any]) -> tuple[Build, Point, Solution]:
    build = validate(data)
    return build, build.points[0], solve_network(compile_network(build.circuit, build.points[0]))


def fed_nodes(build: Build, point: Point) -> set[str]:
    """Nodes that fuel from a tank can reach, written apart from the solver: through open parts, and
    through one-way parts only forward.
    """
    fed = {e.ports["outlet"] for e in build.circuit.elements if e.kind == "tank"}
    grown = True
    while grown:
        grown = False
        for e in build.circuit.elements:
            shut = e.id in point.off or (
                KINDS[e.kind].links.keys() > {"open"} and point.position.get(e.id, "open") == "shut"
            )
            for a, b in [] if shut or e.kind == "tank" else ways(e):
                both = e.figures.law not in ("check", "pump", "regulator")
                new = {b} if a in fed else {a} if both and b in fed else set()
                if new - fed:
                    fed |= new
                    grown = True
    return fed


def check_circuit(data: dict[str, Any]) -> str:
    """Hold one solution against the laws; returns `blocked`, `solved` or `failed`."""
    build, point, solution = solved(data)
    wanted = [e for e in build.circuit.of_kind("injectors") if float(point.demand_lph) > 0]  # type: ignore[arg-type]
    fed = fed_nodes(build, point)
    starved = [e for e in wanted if e.ports["start"] not in fed]
    if starved:
        assert not solution.converged
        assert solution.nodes == {}
        part = build.circuit.element(solution.part or "")
        assert part is not None, solution.part
        ends = set(part.ports.values())
        across = bool(ends & fed) and bool(ends - fed)
        loose = any(sum(n in e.ports.values() for e in build.circuit.elements) == 1 for n in ends)
        assert across or loose or part in starved, f"{part.id} does not stand in the cut"
        return "blocked"
    if not solution.converged:
        assert build.circuit.element(solution.part or "") is not None
        return "failed"
    pressures = [abs(p) for p in solution.nodes.values() if p is not None]
    greatest = max([*pressures, WITHOUT_PRESSURE])
    largest = max([*(abs(x.flow) for x in solution.links.values()), WITHOUT_FLOW])
    assert imbalance(build, solution) <= 1e-6 * largest
    for key, error in law_errors(build, point, solution).items():
        assert error <= 1e-6 * greatest, (
            f"{key} ({solution.links[key].state}) is off its law by {error} Pa"
        )
    return "solved"


def test_circuits_balance_and_keep_every_law_or_name_what_blocks() -> None:
    """800 made-up circuits; at least 99.9 % of those that fuel can reach converge."""
    outcomes: Counter[str] = Counter()

    @settings(
        max_examples=800,
        derandomize=True,
        database=None,
        suppress_health_check=[HealthCheck.too_slow],
    )
    @given(circuits)
    def check(data: dict[str, Any]) -> None:
        outcomes[check_circuit(data)] += 1

    check()
    assert outcomes["solved"] > 600
    assert outcomes["blocked"] > 8
    assert outcomes["failed"] <= 0.001 * (outcomes["failed"] + outcomes["solved"]), outcomes


@few
@given(circuits, st.randoms(use_true_random=False))
def test_a_batch_gives_what_single_points_give(data: dict[str, Any], rnd: Random) -> None:
    build = validate(data)
    first = build.points[0]
    points = [
        first.model_copy(
            update={
                "demand_lph": first.demand_lph * rnd.uniform(0.3, 1.2),  # type: ignore[operator]
                "voltage_v": rnd.uniform(10, 15),
                "temperature_c": rnd.uniform(-10, 50),
                "manifold_kpa": rnd.uniform(-60, 150),
            }
        )
        for _ in range(12)
    ]
    batch = sweep(build.circuit, points)
    for i, point in enumerate(points):
        single, together = solve_network(compile_network(build.circuit, point)), batch.solution(i)
        assert single.converged == together.converged
        greatest = max(
            [abs(p) for p in single.nodes.values() if p is not None] + [WITHOUT_PRESSURE]
        )
        for node, pressure in single.nodes.items():
            if pressure is not None and together.nodes[node] is not None:
                assert together.nodes[node] == pytest.approx(pressure, abs=1e-6 * greatest)


def rail(data: dict[str, Any]) -> float:
    solution = solved(data)[2]
    assert solution.converged
    pressure = solution.nodes["q"]
    assert pressure is not None
    return pressure


def feed(data: dict[str, Any], **changes: float) -> dict[str, Any]:
    hose = next(e for e in data["circuit"]["elements"] if e["id"] == "H3")
    if "mm" in changes:
        hose["length"]["mm"] = changes.pop("mm")
    hose["figures"] |= changes
    return data


@few
@given(st.floats(500, 9000), st.floats(1.05, 2.0), st.floats(5, 14))
def test_a_longer_or_rougher_or_narrower_feed_never_raises_a_sagging_rail(
    mm: float, times: float, bore: float
) -> None:
    def sagging() -> dict[str, Any]:
        return return_system(demand_lph=420, manifold_kpa=150, voltage_v=10.5)

    base = rail(feed(sagging(), mm=mm, bore_mm=bore))
    assert rail(feed(sagging(), mm=mm * times, bore_mm=bore)) <= base + 0.01
    assert rail(feed(sagging(), mm=mm, bore_mm=bore, roughness_um=1.5 + 20 * times)) <= base + 0.01
    assert rail(feed(sagging(), mm=mm, bore_mm=bore / times)) <= base + 0.01


@few
@given(st.floats(10, 320))
def test_reversing_a_hose_turns_its_flow_about_and_changes_nothing_else(demand: float) -> None:
    straight, turned = (
        return_system(demand_lph=demand, manifold_kpa=100),
        return_system(demand_lph=demand, manifold_kpa=100),
    )
    next(e for e in turned["circuit"]["elements"] if e["id"] == "H3")["reversed"] = True
    a, b = solved(straight)[2], solved(turned)[2]
    assert a.links["H3"].flow == pytest.approx(-b.links["H3"].flow, rel=1e-6)
    for node, pressure in a.nodes.items():
        assert b.nodes[node] == pytest.approx(pressure, abs=1.0)


def test_no_pressure_without_a_pump() -> None:
    """With both pumps off nothing stands above the tank's level."""
    data = return_system(demand_lph=0, off=["P0", "P1"])
    solution = solved(data)[2]
    tank = max(p for p in (solution.nodes["s"], 0.0) if p is not None)
    for node, pressure in solution.nodes.items():
        height = next(n["elevation_mm"] for n in data["circuit"]["nodes"] if n["id"] == node) / 1000
        assert pressure is None or pressure + 745 * 9.80665 * height <= tank + 1e-3


def test_halving_the_pump_sags_the_rail_and_never_below_the_manifold() -> None:
    whole = solved(return_system(demand_lph=420, manifold_kpa=150))[2]
    half = solved(return_system(pumps=1, demand_lph=420, manifold_kpa=150))[2]
    assert whole.delivered == pytest.approx(whole.asked, rel=0.01)
    assert half.links["PR"].state == "shut"
    assert half.delivered < 0.9 * half.asked
    assert 150e3 < half.nodes["q"] < 0.85 * whole.nodes["q"]  # type: ignore[operator]


def test_the_rail_rises_smoothly_as_the_return_shrinks() -> None:
    bores = [9.0 - 0.1 * i for i in range(46)]
    rails = [
        rail(return_system(back_bore=b, seat=6.0, demand_lph=12, manifold_kpa=-50)) for b in bores
    ]
    errors = [r - 350e3 for r in rails]
    assert errors[0] == pytest.approx(0.0, abs=50)
    assert errors[-1] > 50e3
    steps = [b - a for a, b in pairwise(errors)]
    assert min(steps) > -1.0, "never falls"
    for before, step, after in zip(steps, steps[1:], steps[2:], strict=False):
        assert step <= 2.5 * max(before, after) + 500, "no jump"


@few
@given(st.floats(0.1, 1.0))
def test_hagen_poiseuille(litres_per_hour: float) -> None:
    """Two tanks joined by a long narrow hose: laminar flow by pi d^4 dp / (128 mu L), within 0.1 %
    (published law).
    """
    length, bore, mu, rho = 4.0, 0.004, 2e-3, 800.0
    flow = litres_per_hour / LPH
    level = 128 * mu * length * flow / (3.141592653589793 * bore**4) / (rho * 9.80665) * 1000
    elements = [
        {
            "id": "S1",
            "kind": "tank",
            "ports": {"outlet": "a"},
            "figures": {"law": "tank", "level_mm": level},
        },
        {
            "id": "S2",
            "kind": "tank",
            "ports": {"outlet": "b"},
            "figures": {"law": "tank", "level_mm": 0},
        },
        {
            "id": "H1",
            "kind": "hose",
            "ports": {"start": "a", "end": "b"},
            "figures": {"law": "pipe", "bore_mm": bore * 1000},
            "length": {"mm": length * 1000},
        },
    ]
    point = {"density_kg_m3": rho, "viscosity_mpa_s": mu * 1000}
    data = {
        "circuit": {"nodes": [{"id": "a"}, {"id": "b"}], "elements": elements},
        "points": [point],
    }
    assert solved(data)[2].links["H1"].flow == pytest.approx(flow, rel=1e-3)
