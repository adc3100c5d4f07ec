"""A circuit at peak whose pumps always keep up and whose injectors are never the limit: what the other parts would meet at another power."""

from dataclasses import dataclass, field, replace
from functools import cached_property

from tall_heron.core.hydraulics.laws import INFINITE, Law, PumpRise
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.study.study import Study, tapped
from tall_heron.core.study.what_if import Unlimited, WhatIf


@dataclass
class KeepUp:
    """Solutions at multiples of the power asked, each solved once: the pumps give what they give at peak while that is enough, and just the burn
    beyond it."""

    study: Study
    known: dict[float, Solution] = field(default_factory=dict)

    @cached_property
    def kept_up(self) -> WhatIf:
        """The circuit with needles that are never the limit, with answers of its own."""
        return self.study.what_if.changed(Unlimited())

    def at(self, times: float) -> Solution:
        """The solution at a multiple of the power asked."""
        if times not in self.known:
            self.known[times] = self._solve(times)
        return self.known[times]

    def _solve(self, times: float) -> Solution:
        case, peak = self.study.peak.case, self.study.peak.solution
        taken = case.demand * times + tapped(self.study.build.circuit, peak)
        grown = max(1.0, taken / self.study.pumps_deliver(self.study.peak))
        laws: dict[str, Law] = {}
        for link in peak.net.links:
            if not isinstance(link.law, PumpRise):
                continue
            if self.study.turns_back:
                laws[link.key] = replace(link.law, given=peak.links[link.key].flow * grown)
            else:
                # Regulators set what passes, so larger pumps of the same pressure do.
                shares = [replace(s, flow_scale=s.flow_scale / (2 * grown)) for s in link.law.shares]
                laws[link.key] = replace(link.law, shares=shares, relief=INFINITE, last_flow=link.law.last_flow * 2 * grown)
        return self.kept_up.at(case.point, case.demand * times, laws)
