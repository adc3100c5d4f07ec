"""A circuit at peak whose pumps always keep up and whose injectors are never the limit: what the other parts would meet at another power."""

from dataclasses import dataclass, field

from tall_heron.core.circuit import Injectors
from tall_heron.core.laws import INFINITE, PUMP, PumpRise
from tall_heron.core.network import System, make_system
from tall_heron.core.physics.pump import Share, make_curve
from tall_heron.core.solution import Solution
from tall_heron.core.solve import solve_network
from tall_heron.core.study import Study

WIDE = 1e6  # L/h: injectors or needles that are never the limit
STEEP = 1e-5  # share of its flow that a pump gives up before its pressure falls


def without_injector_limits(study: Study) -> System:
    """The circuit with injectors and needles that give whatever is commanded."""
    elements = [
        e.model_copy(update={"part": e.part.model_copy(update={"rated_lph": WIDE if e.part.mode == "compensated" else None})})
        if isinstance(e.part, Injectors)
        else e
        for e in study.build.circuit.elements
    ]
    return make_system(study.build.circuit.model_copy(update={"elements": elements}))


@dataclass
class KeepUp:
    """Solutions at multiples of the power asked, each solved once: the pumps give what they give at peak while that is enough, and just the burn
    beyond it."""

    study: Study
    system: System
    known: dict[float, Solution] = field(default_factory=dict)

    def at(self, times: float) -> Solution:
        """The solution at a multiple of the power asked."""
        if times not in self.known:
            self.known[times] = self._solve(times)
        return self.known[times]

    def _solve(self, times: float) -> Solution:
        case, peak = self.study.peak.case, self.study.peak.solution
        net = self.system.at(case.point, case.demand * times)
        present = self.study.pumps_deliver(self.study.peak)
        grown = max(1.0 if self.study.turns_back else 0.0, case.demand * times / present)
        top = 3 * net.greatest
        for link in net.links:
            if link.code == PUMP and link.element in peak.links:
                flow = max(peak.links[link.element].flow * grown, 1e-12)
                curve = make_curve([0.0, flow * (1 - STEEP), flow], [top, 0.99 * top, 0.0], "linear")
                link.law = PumpRise((curve,), [Share(weight=1.0, flow_scale=1.0, flow_shift=0.0, curve=0)], INFINITE, flow, False)
        net.greatest += top * sum(link.code == PUMP for link in net.links)
        return solve_network(net)
