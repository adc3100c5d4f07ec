"""What pressure stands in the fuel where it enters a pump: the node's, less the entry into the line
at the tank and what has become speed.
"""

from dataclasses import dataclass

from tall_heron.core.base.catalogue import by_name
from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.figures import Pipe
from tall_heron.core.document.path import upstream, ways
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.physics.fittings import quadratic_coefficient


@dataclass(frozen=True)
class Inlet:
    """A pump's inlet: its `node`, links whose flow is drawn into a line out of a tank (`entries`)
    and those that end at the inlet (`speeds`), each with what it takes as a multiple of density and
    flow squared [1/m4].
    """

    node: str
    entries: tuple[tuple[str, float], ...]
    speeds: tuple[tuple[str, float], ...]

    def entry(self, solution: Solution) -> float:
        """What the entry takes [Pa]: of several tanks' lines the one that takes most."""
        return _most(solution, self.entries)

    def speed(self, solution: Solution) -> float:
        """Velocity head at the inlet [Pa]."""
        return _most(solution, self.speeds)

    def pressure(self, solution: Solution) -> float | None:
        """Static pressure at the inlet [Pa gauge]; None where it is undefined."""
        total = solution.pressure(self.node)
        return None if total is None else total - self.entry(solution) - self.speed(solution)


def _most(solution: Solution, terms: tuple[tuple[str, float], ...]) -> float:
    return max(
        (times * solution.density * solution.flow(key) ** 2 for key, times in terms), default=0.0
    )


def inlet_of(circuit: Circuit, pump: str) -> Inlet:
    """The inlet of a pump. Entry by the K of a sharp edge on the bore of a line that starts at a
    tank (a strainer's sheet has its own in it), velocity head in the line that ends at the inlet.
    Raises KeyError where the circuit has no such pump. Source: crane-tp410.
    """
    return circuit.memo(_inlets)[pump]


def _inlets(circuit: Circuit) -> dict[str, Inlet]:
    return {e.id: _inlet(circuit, e) for e in circuit.of_kind("pump")}


def _inlet(circuit: Circuit, pump: Element) -> Inlet:
    here = ways(pump)[0][0]
    tanks = {t.ports["outlet"] for t in circuit.of_kind("tank")}
    before = [e for e in upstream(circuit, pump) if isinstance(e.figures, Pipe)]
    sharp = float(by_name("fittings_k")["entry-sharp"]["loss_coefficient"])
    entries = tuple((e.id, _times(e, sharp)) for e in before if ways(e)[0][0] in tanks)
    return Inlet(
        here, entries, tuple((e.id, _times(e, 1.0)) for e in before if ways(e)[0][1] == here)
    )


def _times(element: Element, loss_coefficient: float) -> float:
    assert isinstance(element.figures, Pipe)
    return quadratic_coefficient(loss_coefficient, element.figures.bore_mm / 1000, 1.0)
