"""The same network solved by every way there is: each link by itself, chains, the shape's own
program, a numpy batch, and Newton driven on to rounding.
"""

from collections.abc import Iterator

from tall_heron.core.document.build import Build
from tall_heron.core.hydraulics import straight_line
from tall_heron.core.hydraulics.network import compile_circuit
from tall_heron.core.hydraulics.newton import (
    FAST_STEPS,
    MOST_STEPS,
    RESIDUAL,
    NewtonState,
    first_state,
    newton,
)
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.hydraulics.solve import solve_network
from tall_heron.core.hydraulics.sweep import solve_many

LITRE_PER_HOUR = 1 / 3.6e6
LEFT = "left to newton.py: the shape's own program does not settle by itself"  # no wrong answer: solve.py goes on; but it should be rare
TOGETHER, OF_EACH = (
    1e-7,
    1e-6,
)  # of the largest flow between the ways; of each flow above 1 L/h against the residual driven to 1e-12


def ways(build: Build) -> Iterator[tuple[str, Solution]]:
    """Each way's solution; only those that settle by themselves."""
    compiled, point = compile_circuit(build.circuit), build.points[0]
    net = compiled.at(point)
    yield "solve", solve_network(net)
    if net.frame.impossible or net.jets or not net.frame.ends:
        return
    for name, chained in (("chains", True), ("single links", False)):
        own = compiled.at(point, chained=chained)
        state = newton(own, first_state(own))
        if state.converged:
            yield name, Solution(own, state)
    shape = tuple(
        (c.one_way, c.most < float("inf"), len(c.frictions), len(c.pumps)) for c in net.chains
    )
    program = straight_line.compiled(
        straight_line.source(net.frame, shape, tuple(r.side for r in net.regulators))
    )
    first = first_state(net)
    try:
        state = NewtonState(
            *program(
                net.chains,
                net.regulators,
                net.greatest,
                first.pressure,
                first.flow,
                FAST_STEPS,
                RESIDUAL,
            )
        )
    except (OverflowError, ZeroDivisionError):
        state = NewtonState([], [])
    if state.converged:
        yield "straight line", Solution(net, state)
    yield "batch", solve_many(compiled, [point, point]).solutions[1]


def driven_on(build: Build, solution: Solution) -> Solution | None:
    """The solution with its residual driven to 1e-12 of the largest, or None where arithmetic does
    not reach that far.
    """
    net = solution.net
    state = newton(
        net,
        NewtonState(list(solution.state.pressure), list(solution.state.flow)),
        MOST_STEPS,
        residual=1e-12,
    )
    return Solution(net, state) if state.converged else None


def disagreements(build: Build) -> tuple[list[str], bool]:
    """What is wrong with a build's solutions, and whether the residual could be driven on."""
    wrong = []
    found = list(ways(build))
    base = found[0][1]
    if not base.converged:
        return [f"{name} solves what solve does not" for name, s in found[1:] if s.converged], False
    names = {name for name, _ in found}
    if "chains" in names and "straight line" not in names:
        wrong.append(LEFT)
    largest = max((abs(x.flow) for x in base.links.values()), default=0.0) or 1.0
    for name, other in found[1:]:
        for key, link in base.links.items():
            off = abs(other.links[key].flow - link.flow) / largest
            if off > TOGETHER:
                wrong.append(f"{key} by {name} is {off:.1e} of the largest flow off")
    closer = driven_on(build, base)
    if closer is not None:
        for key, link in base.links.items():
            flow = closer.links[key].flow
            if abs(flow) > LITRE_PER_HOUR and abs(link.flow - flow) > OF_EACH * abs(flow):
                wrong.append(
                    f"{key} moves by {abs(link.flow / flow - 1):.1e} of itself when driven on"
                )
    return wrong, closer is not None
