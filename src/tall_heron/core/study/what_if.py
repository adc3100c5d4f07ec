"""What if a part or a moment were different: one compiled circuit, changes to it, and answers from
the nearest solution that is known.

Ladder, swaps, sizing, chooser, other fuels and cases all ask here; nothing else compiles or solves
a build.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field

from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.figures import Injectors, Regulator
from tall_heron.core.document.point import Point
from tall_heron.core.electrics.coupled import settle
from tall_heron.core.electrics.feeds import make_harness
from tall_heron.core.electrics.harness import Harness
from tall_heron.core.hydraulics.laws import Law, Resistance
from tall_heron.core.hydraulics.network import CompiledCircuit, Laws, compile_circuit
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.hydraulics.solve import solve_network
from tall_heron.core.hydraulics.speed_control import turned_down

NEXT_TO_NOTHING = 3e4  # Pa s/m3, what a lossless part takes: 3 Pa at 400 L/h; with nothing at all tanks of unlike height would pour into each other without end
WIDER = 20  # times: needles that are never the limit
MANY = 60  # points from which one numpy batch beats solving one by one
MOST_SOLUTIONS = 8  # solutions remembered of each point


@dataclass(frozen=True)
class Fitted:
    """Another element in the place of the one of its name, between the same nodes."""

    element: Element


@dataclass(frozen=True)
class Off:
    """A part stopped, or shut."""

    element_id: str


@dataclass(frozen=True)
class Stuck:
    """A valve that stays in a position."""

    element_id: str
    position: str


@dataclass(frozen=True)
class Lossless:
    """A part that takes nothing; one that lets fuel one way still does."""

    element_id: str


@dataclass(frozen=True)
class Unlimited:
    """Injectors and needles that give whatever is commanded."""


Change = Fitted | Off | Stuck | Lossless | Unlimited


@dataclass
class WhatIf:
    """A compiled circuit with what is off, stuck or lossless in it, and what it has answered so
    far; where it has no near answer yet, that of the circuit it was changed from serves as a start.
    """

    compiled: CompiledCircuit
    off: tuple[str, ...] = ()
    stuck: tuple[tuple[str, str], ...] = ()
    laws: Laws = field(default_factory=dict)
    parent: "WhatIf | None" = None
    known: dict[str, list[tuple[float, Solution]]] = field(default_factory=dict)
    harness: Harness | None = None
    _unlimited: "WhatIf | None" = None

    @property
    def circuit(self) -> Circuit:
        """The circuit with its changes."""
        return self.compiled.circuit

    @property
    def unlimited(self) -> "WhatIf":
        """With injectors and needles that are never the limit, made once."""
        if self._unlimited is None:
            self._unlimited = self.changed(Unlimited())
        return self._unlimited

    def changed(self, *changes: Change) -> "WhatIf":
        """The same with changes."""
        compiled, off, stuck, laws, harness = (
            self.compiled,
            self.off,
            self.stuck,
            dict(self.laws),
            self.harness,
        )
        if fitted := [change.element for change in changes if isinstance(change, Fitted)]:
            compiled = compiled.with_elements(fitted)
            if harness is not None and any(e.kind == "pump" for e in fitted):
                harness = make_harness(compiled.circuit, harness.wiring, harness.volts, harness.kpa)
        for change in changes:
            if isinstance(change, Off):
                off += (change.element_id,)
            elif isinstance(change, Stuck):
                stuck += ((change.element_id, change.position),)
            elif isinstance(change, Lossless):
                laws |= _without_loss(compiled, change.element_id)
            elif isinstance(change, Unlimited):
                burners = [
                    (e, e.figures)
                    for e in compiled.circuit.elements
                    if isinstance(e.figures, Injectors)
                ]
                compiled = compiled.with_elements(
                    [e.model_copy(update={"figures": widened(part)}) for e, part in burners]
                )
        return WhatIf(compiled, off, stuck, laws, self, harness=harness)

    def with_loss(self, element_id: str) -> "WhatIf":
        """The same with one part that was made lossless taking what it takes again."""
        own = {x.key for x in self.compiled.geometry.links_of.get(element_id, ())}
        return WhatIf(
            self.compiled,
            self.off,
            self.stuck,
            {key: law for key, law in self.laws.items() if key not in own},
            self,
            harness=self.harness,
        )

    def at(self, point: Point, demand: float | None = None, laws: Laws | None = None) -> Solution:
        """The solution at a point and a demand [m3/s], from the nearest that is known; with `laws` in
        place of those of their links.
        """
        moment = self._moment(point)
        every = {**self.laws, **laws} if laws else self.laws
        near = self.nearest(point, demand)

        def solved(there: Point) -> Solution:
            nonlocal near
            near = turned_down(
                self.circuit, solve_network(self.compiled.at(there, demand, every), near)
            )
            return near

        solution = (
            settle(moment, self.harness, solved, current_of)
            if self.harness is not None
            else solved(moment)
        )
        if solution.converged:
            rows = self.known.setdefault(point.name, [])
            if len(rows) >= MOST_SOLUTIONS:
                del rows[1]  # the first stays: what the point was asked as it stands
            rows.append((demand or 0.0, solution))
        return solution

    def many(self, points: Sequence[Point], demands: Sequence[float | None]) -> list[Solution]:
        """Solutions at many points, in one batch where they are many enough."""
        if len(points) < MANY or self.laws or self.harness is not None:
            return [self.at(p, d) for p, d in zip(points, demands, strict=True)]
        from tall_heron.core.hydraulics.sweep import (
            solve_many,
        )  # numpy is loaded only where it pays

        batch = solve_many(
            self.compiled, [self._moment(p) for p in points], [d or 0.0 for d in demands]
        )
        return [turned_down(self.circuit, s) for s in batch.solutions]

    def nearest(self, point: Point, demand: float | None) -> Solution | None:
        """What is known of the point at the demand nearest to one [m3/s], here or where this was
        changed from.
        """
        rows = self.known.get(point.name)
        if rows:
            return min(rows, key=lambda row: abs(row[0] - (demand or 0.0)))[1]
        return self.parent.nearest(point, demand) if self.parent is not None else None

    def _moment(self, point: Point) -> Point:
        if not self.off and not self.stuck:
            return point
        return point.model_copy(
            update={"off": [*point.off, *self.off], "position": point.position | dict(self.stuck)}
        )


def _without_loss(compiled: CompiledCircuit, part: str) -> dict[str, Law]:
    links = [x for x in compiled.geometry.links if x.element == part and x.follows == "fluid"]
    return {x.key: Resistance(NEXT_TO_NOTHING, one_way=x.one_way) for x in links}


def widened(part: Injectors) -> Injectors:
    """Injectors that are never the limit."""
    wide = part.rated_lph * WIDER if part.rated_lph and part.mode == "compensated" else None
    return part.model_copy(update={"rated_lph": wide})


def without_reference(element: Element) -> Fitted | None:
    """A regulator whose reference hose has come off and that feels the air; None for a part that
    follows no manifold.
    """
    part = element.figures
    if not isinstance(part, Regulator) or part.reference not in ("manifold", "hat"):
        return None
    return Fitted(
        element.model_copy(update={"figures": part.model_copy(update={"reference": "atmosphere"})})
    )


def current_of(solution: Solution, pump: str) -> float:
    """What a pump draws in a solution [A]; 0.0 where it stands."""
    return solution.current(pump) or 0.0


def make_what_if(circuit: Circuit, harness: Harness | None = None) -> WhatIf:
    """The engine of a circuit, with its wires where it has any."""
    return WhatIf(compile_circuit(circuit), harness=harness)
