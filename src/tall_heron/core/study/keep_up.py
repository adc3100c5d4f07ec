"""A circuit at peak whose pumps always keep up and whose injectors are never the limit: what the other parts would meet at another power."""

from dataclasses import dataclass, field, replace
from functools import cached_property

from tall_heron.core.hydraulics.laws import INFINITE, PUMP
from tall_heron.core.hydraulics.network import System
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.hydraulics.solve import solve_network
from tall_heron.core.study.study import Study, tapped, without_injector_limits


@dataclass
class KeepUp:
    """Solutions at multiples of the power asked, each solved once: the pumps give what they give at peak while that is enough, and just the burn
    beyond it."""

    study: Study
    known: dict[float, Solution] = field(default_factory=dict)

    @cached_property
    def system(self) -> System:
        """The circuit with needles that are never the limit; compiled when it is first asked for."""
        return without_injector_limits(self.study.build.circuit)

    def at(self, times: float) -> Solution:
        """The solution at a multiple of the power asked."""
        if times not in self.known:
            self.known[times] = self._solve(times)
        return self.known[times]

    def _solve(self, times: float) -> Solution:
        case, peak = self.study.peak.case, self.study.peak.solution
        net = self.system.at(case.point, case.demand * times)
        taken = case.demand * times + tapped(self.study.build.circuit, peak)
        grown = max(1.0, taken / self.study.pumps_deliver(self.study.peak))
        for link in net.links:
            if link.code != PUMP or link.element not in peak.links:
                continue
            if self.study.turns_back:
                link.law = replace(link.law, given=peak.links[link.element].flow * grown)
            else:
                # Regulators set what passes, so larger pumps of the same pressure do.
                shares = [replace(s, flow_scale=s.flow_scale / (2 * grown)) for s in link.law.shares]
                link.law = replace(link.law, shares=shares, relief=INFINITE, last_flow=link.law.last_flow * 2 * grown)
        closest = min((t for t, s in self.known.items() if s.converged), key=lambda t: abs(t - times), default=None)
        return solve_network(net, peak if closest is None else self.known[closest])
