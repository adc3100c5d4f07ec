"""Lift pumps and the pots they fill: what lifts into a pot together, what it loses, and what its
overflow takes of the rest.
"""

import math
from dataclasses import dataclass

from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import Pipe
from tall_heron.core.document.kinds import BURNERS
from tall_heron.core.document.path import downstream, ways
from tall_heron.core.hydraulics.compile import pipe_coefficient
from tall_heron.core.physics.friction import darcy_friction
from tall_heron.core.study.study import Solved, Study

ENTRY_AND_EXIT = 1.5  # K of a sharp entry and an exit, Crane TP-410


@dataclass(frozen=True)
class Lift:
    """A pot and the pumps that fill it together."""

    pot: Element
    pumps: tuple[Element, ...]

    def lifted(self, solved: Solved) -> float:
        """What they lift together at a case [m3/s]."""
        return sum(solved.solution.flow(p.id) for p in self.pumps)


def lifts(study: Study) -> list[Lift]:
    """Every pot that pumps fill: their way ends at a tank and does not come to the engine."""
    circuit = study.build.circuit
    pots = {e.ports["outlet"]: e for e in circuit.of_kind("tank")}
    burners = {e.ports["start"] for e in circuit.of_kind(*BURNERS)}
    by_tank: dict[str, list[Element]] = {}
    for pump in circuit.of_kind("pump"):
        ends = [end for e in (pump, *downstream(circuit, pump)) for _, end in ways(e)]
        filled = next((end for end in ends if end in pots), None)
        if filled is not None and not burners.intersection(ends):
            by_tank.setdefault(filled, []).append(pump)
    return [Lift(pots[node], tuple(pumps)) for node, pumps in by_tank.items()]


def lost(study: Study, lift: Lift, solved: Solved) -> float:
    """What a pot loses at a case [m3/s]: what is drawn from it less what comes back to it."""
    links, outlet = solved.solution.links, lift.pot.ports["outlet"]
    fills = {e.id for p in lift.pumps for e in (p, *downstream(study.build.circuit, p))}
    leaves = sum(x.flow for x in links.values() if x.start == outlet and x.element not in fills)
    comes = sum(x.flow for x in links.values() if x.end == outlet and x.element not in fills)
    return leaves - comes


def overflow_pressure(solved: Solved, line: Element, flow: float) -> float:
    """What an overflow line takes of a flow [m3/s] out of its pot and into the tank [Pa]: Darcy,
    its ends, entry and exit.
    """
    part, length = line.figures, line.length
    assert isinstance(part, Pipe)
    assert length is not None
    bore = part.bore_mm / 1000
    speed = flow / (math.pi * bore**2 / 4)
    rho, mu = solved.solution.density, solved.solution.viscosity
    f = (
        darcy_friction(max(rho * speed * bore / mu, 1e-6), part.roughness_um / 1000 / part.bore_mm)
        * part.friction_factor_times
    )
    return (
        (f * length.mm / 1000 / bore + pipe_coefficient(line) + ENTRY_AND_EXIT) * rho * speed**2 / 2
    )
