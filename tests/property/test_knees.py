"""Pump maps with knees, flat and steep pieces: any that falls, behind it a regulator and lines or
nothing. Against the map read backward by hand, and for convergence.
"""

from itertools import pairwise
from random import Random
from typing import Any

import pytest
from circuits import hose, injectors, made, pump, regulator, tank

from tall_heron.core.document.build import validate
from tall_heron.core.hydraulics.network import compile_network
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.hydraulics.solve import solve_network

LEVEL_KPA = 745 * 9.80665 * 0.2 / 1000  # 200 mm of fuel over the outlet


def knees(rnd: Random) -> list[list[float]]:
    """A map with one to four knees, its pieces 1 to 1,000 times as steep as one another."""
    flows = sorted(rnd.uniform(10, 600) for _ in range(rnd.randint(2, 5)))
    falls = [10 ** rnd.uniform(0, 3) * (b - a) for a, b in pairwise([0.0, *flows])]
    top = rnd.uniform(200, 900)
    rows = [[0.0, top]]
    for q, fall in zip(flows, falls, strict=True):
        rows.append([q, max(rows[-1][1] - fall / sum(falls) * top, 0.0)])
    return [r for i, r in enumerate(rows) if not i or r[1] < rows[i - 1][1] - 1e-6]


def solved(rows: list[list[float]], kpa: float, kind: str, rnd: Random) -> Solution:
    elements: list[dict[str, Any]] = [tank("T", "a", 200), pump("P1", "a", "b", rows)]
    elements[1]["figures"] |= {"curves": [{"voltage_v": 13.5, "rows": rows}]}
    elements[1]["figures"]["interpolation"] = "linear"
    rail, home, demand = "b", "a", 0.0
    if kind != "bare":
        bore, length = rnd.choice((6.0, 8.7, 12.7)), rnd.uniform(200, 5000)
        elements += [hose("H1", "b", "c", bore, length), hose("H2", "d", "a", 10.3, 3000)]
        rail, home = "c", "d"
    if kind == "demand":
        elements.append(injectors("J1", rail, kpa))
        demand = rnd.uniform(0, rows[-1][0])
    held = regulator("PR", rail, home)
    held["figures"] |= {"set_kpa": kpa, "reference": "atmosphere"}
    build = validate(made([*elements, held], {}, {"demand_lph": demand}))
    return solve_network(compile_network(build.circuit, build.points[0]))


def backward(rows: list[list[float]], kpa: float) -> float:
    """The flow of a map at a rise, straight between its rows [L/h]."""
    for (q0, p0), (q1, p1) in pairwise(rows):
        if p1 <= kpa <= p0:
            return q0 + (q1 - q0) * (p0 - kpa) / (p0 - p1)
    raise AssertionError(kpa)


def test_the_smallest_map_that_once_did_not_solve() -> None:
    rows = [[0.0, 600.0], [200.0, 500.0], [250.0, 480.0], [300.0, 100.0], [350.0, 0.0]]
    found = solved(rows, 250.0, "bare", Random(0))
    assert found.converged
    assert found.flow("P1") * 3.6e6 == pytest.approx(backward(rows, 250 - LEVEL_KPA), abs=0.05)


@pytest.mark.parametrize("count", [250, pytest.param(20_000, marks=pytest.mark.sweep)])
def test_any_map_that_falls_solves(count: int) -> None:
    for seed in range(count):
        rnd = Random(seed)
        rows = knees(rnd)
        kpa = rnd.uniform(20.0, 0.98 * rows[0][1])
        kind = rnd.choice(("bare", "lines", "demand"))
        found = solved(rows, kpa, kind, rnd)
        assert found.converged, f"{seed}: {found.reason}"
        if kind == "bare" and rows[-1][1] < kpa - LEVEL_KPA:
            flow = found.flow("P1") * 3.6e6
            held = found.nodes["b"] / 1000
            assert flow == pytest.approx(backward(rows, held - LEVEL_KPA), rel=1e-4, abs=1e-3), seed
            assert held == pytest.approx(kpa, abs=0.03 * kpa), seed
