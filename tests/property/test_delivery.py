"""What pumps deliver, wherever they stand: against the sum of flows by hand and the balance of what
leaves, for any number of pumps, in nested Ys, in a row, staged, with unlike branches.
"""

from random import Random

import pytest
from altered import altered
from made_up import odd

from tall_heron.core.document.build import validate
from tall_heron.core.document.circuit import Circuit
from tall_heron.core.document.figures import Regulator
from tall_heron.core.document.path import ways
from tall_heron.core.hydraulics.network import compile_network
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.hydraulics.solve import solve_network
from tall_heron.core.study.delivery import fed_by
from tall_heron.core.study.study import make_study


def last_pumps(circuit: Circuit, solution: Solution) -> float:
    """By hand: every pump whose fuel meets no other pump, tank or regulator before the injectors,
    summed; a pump in front of another counts through that.
    """
    ends = {e.ports["start"] for e in circuit.of_kind("injectors", "carburettor")}
    tanks = {e.ports["outlet"] for e in circuit.of_kind("tank")}

    def reaches(node: str, seen: set[str]) -> bool:
        if node in ends:
            return True
        if node in tanks or node in seen:
            return False
        seen.add(node)
        lines = [
            (e.kind, *w)
            for e in circuit.elements
            if e.kind not in ("pump", "jet") and not _back(e)
            for w in ways(e)
        ]
        onward = [b for _, a, b in lines if a == node] + [
            a for kind, a, b in lines if b == node and kind != "check"
        ]
        return any(reaches(b, seen) for b in onward)

    return sum(
        solution.flow(p.id) for p in circuit.of_kind("pump") if reaches(ways(p)[0][1], set())
    )


def _back(e: object) -> bool:
    part = getattr(e, "figures", None)
    return isinstance(part, Regulator) and part.holds == "inlet"


def out_of(circuit: Circuit, solution: Solution) -> float:
    """By balance: what burners take, what regulators turn back, and what falls into a tank by lines
    that meet no regulator.
    """
    taken = sum(
        solution.flow(e.id) for e in circuit.of_kind("injectors", "carburettor", "auxiliary")
    )
    return taken + sum(
        max(solution.flow(e.id), 0.0)
        for e in circuit.elements
        if _back(e) and ways(e)[0][0] in fed_by(circuit).nodes
    )


@pytest.mark.parametrize("part", range(4))
def test_what_pumps_deliver_in_made_up_circuits(part: int) -> None:
    met = pumps = 0
    for seed in range(part, 320, 4):
        build = validate(odd(Random(seed)))
        solution = solve_network(compile_network(build.circuit, build.points[0]))
        if not solution.converged or not build.circuit.of_kind("pump"):
            continue
        deliver = fed_by(build.circuit).delivered(solution)
        largest = max(abs(x.flow) for x in solution.links.values())
        assert deliver == pytest.approx(
            last_pumps(build.circuit, solution), abs=1e-6 * largest + 1e-12
        ), seed
        assert deliver == pytest.approx(
            out_of(build.circuit, solution), abs=1e-6 * largest + 1e-12
        ), seed
        met += 1
        pumps = max(pumps, len(build.circuit.of_kind("pump")))
    assert met > 60
    assert pumps >= 4


@pytest.mark.parametrize("part", range(4))
def test_what_pumps_deliver_in_altered_builds(part: int) -> None:
    """Every case of builds that were changed at random: a third pump, a strainer before one of two,
    a lift pump in the line, stages.
    """
    met = 0
    for seed in range(part, 60, 4):
        build = altered(seed)
        study = make_study(build)
        for solved in study.solved.values():
            if (
                not solved.solution.converged
                or not study.feed_path.pumps
                or any(t.ports["outlet"] for t in study.feed_path.tanks)
            ):
                continue
            assert study.pumps_deliver(solved) == pytest.approx(
                last_pumps(build.circuit, solved.solution), rel=1e-5
            ), (seed, solved.case.key)
            met += 1
    assert met > 15
