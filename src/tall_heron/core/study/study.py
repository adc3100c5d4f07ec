"""A build solved at each of its cases: what the rules read."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.roots import last_below_near
from tall_heron.core.document.build import Brief, Build
from tall_heron.core.document.circuit import Circuit, Element, Injectors, Regulator
from tall_heron.core.document.path import Path, main_path, ways
from tall_heron.core.hydraulics.compile import commanded_flow
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.physics.fuel import Fuel, season_reid_vapour, true_vapour_pressure
from tall_heron.core.physics.suction import suction_margin
from tall_heron.core.study.cases import Case, make_cases
from tall_heron.core.study.demand import Burn, allowance, asked_rail_pressure, burn
from tall_heron.core.study.what_if import Fitted, WhatIf, make_what_if

AVIATION_SLOPE, MOTOR_SLOPE = 2.0, 3.0  # distillation slopes (epa-ap42-7.1)


@dataclass(slots=True)
class Solved:
    """One case and its solution."""

    case: Case
    solution: Solution


@dataclass(slots=True)
class Study:
    """A build, what its engine burns, the way of its fuel, and its cases solved."""

    build: Build
    brief: Brief
    burn: Burn
    path: Path
    cases: dict[str, Case]
    solved: dict[str, Solved]
    what_if: WhatIf
    capacities: dict[str, float] = field(default_factory=dict)

    @property
    def peak(self) -> Solved:
        """The case at full power."""
        return self.solved["peak"]

    def pumps_deliver(self, solved: Solved) -> float:
        """What the first pumps on the path deliver together [m3/s]; without a pump, what runs from the tank."""
        if not self.path.pumps:  # gravity: what leaves the tank
            first = self.path.columns[1].elements if len(self.path.columns) > 1 else ()
            return sum(x.flow for x in solved.solution.links.values() if x.element in {e.id for e in first})
        return sum(solved.solution.flow(e.id) for e in self.path.pumps)

    def rails_differ(self, solved: Solved) -> float:
        """The largest difference of pressure between the ends of all rails at a case [Pa]; 0 where there is no rail or no answer."""
        ends = [p for e in self.build.circuit.of_kind("rail") for n in e.ports.values() if (p := solved.solution.nodes.get(n)) is not None]
        return max(ends) - min(ends) if ends else 0.0

    def wanted(self, solved: Solved, part: Injectors) -> float:
        """What a set of injectors, a bowl or a tap is asked for at a case [m3/s]."""
        return commanded_flow(part, solved.case.demand, self.what_if.compiled.geometry.injectors)

    def fitted(self, build: Build, new: Sequence[Element], only: tuple[str, ...] = ()) -> "Study":
        """The study of a build that differs in some elements alone, at all its cases or at some: numberings, way and cases are this one's."""
        elements = {e.id: e for e in new}
        same = all((old := self.build.circuit.element(e.id)) is not None and old.kind == e.kind for e in new)
        path = self.path.with_elements(elements) if same else main_path(build.circuit)
        what_if = self.what_if.changed(*(Fitted(e) for e in new))
        keys = only or tuple(self.cases)
        solved = {key: Solved(self.cases[key], what_if.at(self.cases[key].point, self.cases[key].demand)) for key in keys}
        return Study(build, self.brief, self.burn, path, self.cases, solved, what_if)

    def height(self, node: str) -> float:
        """Elevation of a node [m]."""
        return self.what_if.compiled.geometry.elevation.get(node, 0.0)

    @property
    def turns_back(self) -> bool:
        """Whether a bypass regulator sends home what the engine leaves; otherwise the pumps give just what is burnt."""
        return any(isinstance(e.figures, Regulator) and e.figures.holds == "inlet" for e in self.build.circuit.of_kind("regulator"))

    def capacity(self, solved: Solved) -> float:
        """What the pumps can give at a case while pressure holds [m3/s]: what they give where the surplus turns back; otherwise, and before a float
        that takes what it wants, the largest burn at which the pressure is not yet low by what the house marks as a Check."""
        if self.path.pumps and self.turns_back and not self.brief.carburetted:
            return self.pumps_deliver(solved) - tapped(self.build.circuit, solved.solution)
        known = self.capacities.get(solved.case.key)
        if known is None:
            known = self.capacities[solved.case.key] = self._largest_burn(solved)
        return known

    def _largest_burn(self, solved: Solved) -> float:
        # Needles are no limit of what feeds them.
        return self.feeds(solved, self.what_if.unlimited, 12 * self.burn.volume_flow, 1e-4)

    def feeds(self, solved: Solved, what_if: WhatIf, most: float, close: float) -> float:
        """The largest burn [m3/s], up to `most` and to a share `close` of it, that a circuit feeds at a case while the rail is not yet low by what the
        house marks as a Check; 0.0 where it feeds none."""
        least, node = (1 - allowance(self.brief, "rail_error_check")) * self.asked(solved), self.path.rail_node or ""

        def lacks(demand: float) -> float:
            """What the rail lacks [Pa]."""
            solution = what_if.at(solved.case.point, demand)
            return least - (solution.pressure(node) or 0.0) if solution.converged else math.inf

        return min(last_below_near(lacks, solved.case.demand, 1e-9, most, close), most)

    def spare(self, solved: Solved) -> float | None:
        """What the pumps can give over the burn, less one [-]; None where nothing is burnt or no pump is there."""
        if solved.case.demand <= 0 or self.pumps_deliver(solved) <= 0:
            return None
        return self.capacity(solved) / solved.case.demand - 1

    def asked(self, solved: Solved) -> float:
        """The rail pressure asked for at a case [Pa gauge]; where no regulator feels the manifold, vacuum asks for no less."""
        manifold = solved.case.point.manifold_kpa
        holds = [e.figures for e in self.build.circuit.elements if isinstance(e.figures, Regulator)]
        felt = any(r.reference == "manifold" for r in holds) or not holds
        return asked_rail_pressure(self.brief, manifold if felt else max(manifold, 0.0))

    def rail_error(self, solved: Solved) -> tuple[float, float] | None:
        """Rail pressure less asked, and asked [Pa]; None where the rail's pressure is undefined."""
        node = self.path.rail_node
        rail = solved.solution.nodes.get(node) if node else None
        if rail is None:
            return None
        asked = self.asked(solved)
        return rail - asked, asked

    @property
    def vapour_pressure(self) -> float:
        """Vapour pressure of the season's fuel at the fuel's temperature [Pa absolute]."""
        return self.boils_at(self.burn.fuel)

    def boils_at(self, fuel: Fuel) -> float:
        """Vapour pressure of a fuel of the season at the brief's temperature [Pa absolute]."""
        slope = AVIATION_SLOPE if fuel.name == "100LL" else MOTOR_SLOPE
        return true_vapour_pressure(season_reid_vapour(fuel, self.brief.season), self.brief.fuel_temperature, slope)

    def clear_of_boiling(self, solved: Solved) -> tuple[float, str] | None:
        """The least margin above boiling at any running pump's inlet [Pa], and that pump; None where no pump has an inlet pressure."""
        atmosphere = solved.case.point.atmosphere
        found = []
        for pump in self.build.circuit.of_kind("pump"):
            inlet = solved.solution.nodes.get(ways(pump)[0][0])
            if inlet is not None and pump.id not in solved.case.point.off:
                found.append((suction_margin(inlet, atmosphere, self.boils_at(solved.case.fuel)), pump.id))
        return min(found) if found else None

    def tightest_suction(self) -> tuple[float, str, Solved] | None:
        """The least margin above boiling over all cases [Pa], its pump and the case; None where no pump has an inlet pressure."""
        met = [(*found, s) for s in self.solved.values() if s.solution.converged and (found := self.clear_of_boiling(s))]
        return min(met, key=lambda x: x[0], default=None)


def tapped(circuit: Circuit, solution: Solution) -> float:
    """What auxiliary taps take [m3/s], beside the engine's burn."""
    return sum(solution.flow(e.id) for e in circuit.of_kind("auxiliary"))


def suction_need(pump: Element) -> float:
    """How far above boiling a pump's inlet must stay [Pa]: its own figure, or the house's."""
    own = pump.properties.suction_need_kpa
    return own * 1000 if own is not None else house_figure("suction_stop")


def make_study(build: Build, only: tuple[str, ...] = (), like: "Study | None" = None, what_if: WhatIf | None = None) -> Study:
    """Solve a build at its cases, or at some of them, from the solutions of a study that is `like` it; with the engine of its circuit where there is one already.
    Raises ValueError for a build without a brief."""
    if build.brief is None:
        raise ValueError("the build has no brief, so nothing says what the engine asks for")
    what = burn(build.brief)
    if what_if is None:
        what_if = make_what_if(build.circuit)
        for near in like.solved.values() if like is not None else ():
            if near.solution.converged:
                what_if.known[near.case.point.name] = [(near.case.demand, near.solution)]
    cases = {case.key: case for case in make_cases(build.brief, what, build.circuit)}
    solved = {key: Solved(case, what_if.at(case.point, case.demand)) for key, case in cases.items() if not only or key in only}
    return Study(build, build.brief, what, main_path(build.circuit), cases, solved, what_if)
