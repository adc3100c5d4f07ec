"""A build solved at each of its cases: what the rules read."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import Any, TypeVar

from tall_heron.core.base.constants import GRAVITY
from tall_heron.core.base.roots import expanding_root
from tall_heron.core.document.build import Brief, Build
from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.figures import Injectors, Regulator
from tall_heron.core.document.path import Path, main_path
from tall_heron.core.electrics.feeds import harness_of
from tall_heron.core.hydraulics.compile import commanded_flow
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.joining.losses import plumbed
from tall_heron.core.physics.fuel import Fuel, boils_at
from tall_heron.core.physics.suction import suction_margin
from tall_heron.core.study.cases.cases import Case, make_cases
from tall_heron.core.study.delivery import FeedPath, fed_by
from tall_heron.core.study.demand import FuelDemand, allowance, asked_rail_pressure, fuel_demand
from tall_heron.core.study.derived import Key, derived
from tall_heron.core.study.inlet import inlet_of
from tall_heron.core.study.what_if import Fitted, WhatIf, make_what_if

Value = TypeVar("Value")
ETHANOL_SENSOR = "ethanol sensor"  # a family of the shelf


@dataclass(slots=True)
class Solved:
    """One case and its solution."""

    case: Case
    solution: Solution


@dataclass(slots=True)
class Study:
    """A build, what its engine burns, the way of its fuel, and its cases solved; `answers` keeps
    what was derived from it; `near` is the ceiling of a circuit like this one, from where its own
    is looked for.
    """

    build: Build
    brief: Brief
    fuel_demand: FuelDemand
    path: Path
    cases: dict[str, Case]
    solved: dict[str, Solved]
    what_if: WhatIf
    answers: dict[Key, Any] = field(default_factory=dict)
    near: float | None = None

    @property
    def peak(self) -> Solved:
        """The case at full power."""
        return self.solved["peak"]

    @property
    def feed_path(self) -> FeedPath:
        """What feeds the burners."""
        return fed_by(self.build.circuit)

    def pumps_deliver(self, solved: Solved) -> float:
        """What the pumps that feed the burners deliver together [m3/s]; what runs from tanks
        without a pump counts with it.
        """
        return self.feed_path.delivered(solved.solution)

    def rails_differ(self, solved: Solved) -> float:
        """The largest difference of pressure between the ends of all rails at a case [Pa]; 0 where
        there is no rail or no answer.
        """
        ends = [
            p
            for e in self.build.circuit.of_kind("rail")
            for n in e.ports.values()
            if (p := solved.solution.nodes.get(n)) is not None
        ]
        return max(ends) - min(ends) if ends else 0.0

    def highest_met(self, element: Element) -> float | None:
        """The highest pressure that a part meets at its ends in any case [Pa gauge]; None where
        there is no answer.
        """
        return max(
            (
                p
                for s in self.solved.values()
                for n in element.ports.values()
                if (p := s.solution.nodes.get(n)) is not None
            ),
            default=None,
        )

    def wanted(self, solved: Solved, part: Injectors) -> float:
        """What a set of injectors, a bowl or a tap is asked for at a case [m3/s]."""
        return commanded_flow(part, solved.case.demand, self.what_if.compiled.geometry.injectors)

    def fitted(self, build: Build, new: Sequence[Element], only: tuple[str, ...] = ()) -> "Study":
        """The study of a build that differs in some elements alone, at all its cases or at some:
        numberings, way and cases are this one's. Other ends need other adapters.
        """
        build, given = plumbed(build), {e.id for e in new}
        new = [
            e
            for e in build.circuit.elements
            if e.id in given
            or (old := self.build.circuit.element(e.id)) is None
            or old.adapters != e.adapters
        ]
        elements = {e.id: e for e in new}
        same = all(
            (old := self.build.circuit.element(e.id)) is not None and old.kind == e.kind
            for e in new
        )
        path = self.path.with_elements(elements) if same else main_path(build.circuit)
        what_if = self.what_if.changed(*(Fitted(e) for e in new))
        keys = only or tuple(self.cases)
        solved = {
            key: Solved(self.cases[key], what_if.at(self.cases[key].point, self.cases[key].demand))
            for key in keys
        }
        return Study(build, self.brief, self.fuel_demand, path, self.cases, solved, what_if)

    def height(self, node: str) -> float:
        """Elevation of a node [m]."""
        return self.what_if.compiled.geometry.elevation.get(node, 0.0)

    def friction(self, solved: Solved, key: str) -> float:
        """What a part takes at a case [Pa], the height between its ends apart; 0.0 where its
        pressures are not known.
        """
        link = solved.solution.link(key)
        if link is None or link.loss is None or not link.end:
            return 0.0
        return link.loss - solved.solution.density * GRAVITY * (
            self.height_at(solved, link.end) - self.height_at(solved, link.start)
        )

    @property
    def turns_back(self) -> bool:
        """Whether a bypass regulator sends home what the engine leaves; otherwise the pumps give
        just what is burnt.
        """
        return any(e.kind == "regulator" for e in self.feed_path.turned_back)

    @property
    def tells_surplus(self) -> bool:
        """Whether what the pumps have as headroom is read from what turns back; otherwise the circuit
        is solved for the largest demand it feeds.
        """
        return bool(self.feed_path.pumps) and self.turns_back and not self.brief.carbureted

    def capacity(self, solved: Solved) -> float:
        """What the pumps can give the burners at a case while pressure holds [m3/s]: what is burnt
        and what turns back; where nothing does, and before a float that takes what it wants, the
        largest demand at which the pressure is not yet low by what the house marks as a Check.
        """
        if self.tells_surplus:
            return self.feed_path.burnt(solved.solution) + self.feed_path.surplus(solved.solution)
        return _largest.under(self, (solved.case.key,), lambda: self._largest_demand(solved))

    def _largest_demand(self, solved: Solved) -> float:
        # Needles are no limit of what feeds them.
        return self.feeds(solved, self.what_if.unlimited, 12 * self.fuel_demand.volume_flow, 1e-4)

    def feeds(self, solved: Solved, what_if: WhatIf, most: float, close: float) -> float:
        """The largest demand [m3/s], up to `most` and to a share `close` of it, that a circuit
        feeds at a case while the rail is not yet low by what the house marks as a Check; 0.0 where
        it feeds none.
        """
        least = (1 - allowance(self.brief, "rail_error_check")) * self.asked(solved)

        def lacks(demand: float) -> float:
            """What the rail lacks [Pa]."""
            solution = what_if.at(solved.case.point, demand)
            return least - (self.rail_pressure(solution) or 0.0) if solution.converged else math.inf

        return min(expanding_root(lacks, solved.case.demand, 1e-9, most, close), most)

    def headroom(self, solved: Solved) -> float | None:
        """What the pumps can give over the demand, less one [-]; None where nothing is burnt or no
        pump is there.
        """
        if solved.case.demand <= 0 or self.pumps_deliver(solved) <= 0:
            return None
        return self.capacity(solved) / solved.case.demand - 1

    def asked(self, solved: Solved) -> float:
        """The rail pressure required for at a case [Pa gauge]; where no regulator feels the manifold,
        vacuum asks for no less.
        """
        manifold = solved.case.point.manifold_kpa
        holds = [e.figures for e in self.build.circuit.elements if isinstance(e.figures, Regulator)]
        felt = any(r.reference == "manifold" for r in holds) or not holds
        return asked_rail_pressure(self.brief, manifold if felt else max(manifold, 0.0))

    def rail_pressure(self, solution: Solution) -> float | None:
        """The lowest pressure at any burner [Pa gauge]; None where none is defined."""
        return min(
            (
                p
                for e in self.feed_path.burners
                if (p := solution.pressure(e.ports["start"])) is not None
            ),
            default=None,
        )

    def rail_error(self, solved: Solved) -> tuple[float, float] | None:
        """Rail pressure less asked, and asked [Pa]; None where the rail's pressure is undefined."""
        rail = self.rail_pressure(solved.solution)
        if rail is None:
            return None
        asked = self.asked(solved)
        return rail - asked, asked

    @property
    def vapor_pressure(self) -> float:
        """Vapor pressure of the season's fuel at the fuel's temperature [Pa absolute]."""
        return self.boils_at(self.fuel_demand.fuel)

    def height_at(self, solved: Solved, node: str) -> float:
        """Elevation of a node as a case feels it [m]: leaning or speeding up, another than its own."""
        return solved.solution.net.geometry.elevation.get(node, 0.0)

    def boils_at(self, fuel: Fuel) -> float:
        """Vapor pressure of a fuel of the season at the brief's temperature [Pa absolute]."""
        return boils_at(fuel, self.brief.season, self.brief.fuel_temperature)

    def boiling_law(self, fuel: Fuel) -> str:
        """Where the vapor pressure of a fuel comes from, in words."""
        if fuel.antoine is not None:
            return "vapor pressure by Antoine's law of the neat alcohol"
        if fuel.name == "100LL":
            return "vapor pressure by EPA AP-42 7.1 with the limit of ASTM D910, the same all year"
        law = f"vapor pressure by EPA AP-42 7.1 with the class limit of the season ({self.brief.season})"
        return law + (
            "; made for gasoline without alcohol, a stand-in here"
            if fuel.ethanol > 0 or fuel.methanol
            else ""
        )

    def inlet_clear(self, solved: Solved, pump: Element) -> float | None:
        """How far a pump's inlet stays above boiling at a case [Pa]; None where it is off or its
        inlet has no pressure.
        """
        inlet = (
            inlet_of(solved.solution.net.geometry.circuit, pump.id).pressure(solved.solution)
            if solved.solution.converged
            else None
        )
        if inlet is None or pump.id in solved.case.point.off:
            return None
        return suction_margin(inlet, solved.case.point.atmosphere, self.boils_at(solved.case.fuel))

    def clear_of_boiling(self, solved: Solved) -> tuple[float, str] | None:
        """The least margin above boiling at any running pump's inlet [Pa], and that pump; None
        where no pump has an inlet pressure.
        """
        pumps = self.build.circuit.of_kind("pump")
        return min(
            ((clear, p.id) for p in pumps if (clear := self.inlet_clear(solved, p)) is not None),
            default=None,
        )

    def tightest_suction(self) -> tuple[float, str, Solved] | None:
        """The least margin above boiling over all cases [Pa], its pump and the case; None where no
        pump has an inlet pressure.
        """
        met = [
            (*margin_pa, s)
            for s in self.solved.values()
            if s.solution.converged and (margin_pa := self.clear_of_boiling(s))
        ]
        return min(met, key=lambda x: x[0], default=None)


def tapped(circuit: Circuit, solution: Solution) -> float:
    """What auxiliary taps take [m3/s], beside the engine's burn."""
    return sum(solution.flow(e.id) for e in circuit.of_kind("auxiliary"))


@derived("brief", "hydraulics", "wiring")
def _largest(study: Study, solved: Solved) -> float:
    return study._largest_demand(solved)


def met_brief(brief: Brief, circuit: Circuit) -> Brief:
    """The brief as its parts take it: whoever fits an ethanol sensor fills up with any blend, so
    the engine is a flex one.
    """
    sensed = any(e.properties.family == ETHANOL_SENSOR for e in circuit.of_kind("sensor"))
    return (
        brief.model_copy(update={"ethanol_range": "flex"})
        if sensed and brief.ethanol_range == "as named" and not brief.carbureted
        else brief
    )


def make_study(
    build: Build,
    only: tuple[str, ...] = (),
    like: "Study | None" = None,
    what_if: WhatIf | None = None,
) -> Study:
    """Solve a build at its cases, or at some of them, from the solutions of a study that is `like`
    it; with the engine of its circuit where there is one already.
    Raises ValueError for a build without a brief.
    """
    if build.brief is None:
        raise ValueError("the build has no brief, so nothing gives the engine's demand")
    build = plumbed(build)
    assert build.brief is not None
    brief = met_brief(build.brief, build.circuit)
    what = fuel_demand(brief)
    if what_if is None:
        what_if = make_what_if(build.circuit, harness_of(build))
        for near in like.solved.values() if like is not None else ():
            if near.solution.converged:
                what_if.known[near.case.point.name] = [(near.case.demand, near.solution)]
    cases = {
        case.key: case for case in make_cases(brief, what, build.circuit, build.wiring is not None)
    }
    solved = {
        key: Solved(case, what_if.at(case.point, case.demand))
        for key, case in cases.items()
        if not only or key in only
    }
    return Study(build, brief, what, main_path(build.circuit), cases, solved, what_if)
