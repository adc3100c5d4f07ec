"""What pumps give the engine, read from solved flows: a cut between tanks and burners, wherever
parts stand and however they are joined.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.graphs import join, reached
from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.figures import Regulator
from tall_heron.core.document.kinds import BURNERS
from tall_heron.core.document.path import ways
from tall_heron.core.hydraulics.results import Solution


@dataclass(frozen=True)
class FeedPath:
    """What feeds the burners: the places that hang together with them (`nodes`) up to pumps, tanks,
    jet pumps and what turns fuel back; the `pumps` that pump into it, or that stand in it between a
    tank and the burners; `turned_back`, the regulators and reliefs through which fuel leaves it;
    `tanks`, those that lead into it without a pump; and the `burners`.
    """

    nodes: frozenset[str]
    pumps: tuple[Element, ...]
    turned_back: tuple[Element, ...]
    tanks: tuple[Element, ...]
    burners: tuple[Element, ...]

    def delivered(self, solution: Solution) -> float:
        """What flows into it [m3/s]."""
        return sum(self.sources(solution).values())

    def sources(self, solution: Solution) -> dict[str, float]:
        """What flows into it [m3/s] by the pump that gives it or the tank it runs from."""
        out: dict[str, float] = {}
        tanks = {t.ports["outlet"]: t.id for t in self.tanks}
        pumps = {p.id for p in self.pumps}
        for link in solution.links.values():
            if (link.start in self.nodes) == (link.end in self.nodes):
                continue
            inward = link.flow if link.end in self.nodes else -link.flow
            source = (
                link.element
                if link.element in pumps
                else tanks.get(link.start) or tanks.get(link.end)
            )
            if source is not None and (inward > 0 or source in pumps):
                out[source] = out.get(source, 0.0) + max(inward, 0.0)
        return out

    def burnt(self, solution: Solution) -> float:
        """What the burners take [m3/s]."""
        return sum(solution.flow(e.id) for e in self.burners)

    def surplus(self, solution: Solution) -> float:
        """What regulators and reliefs turn back and the burners could have [m3/s]."""
        return sum(max(solution.flow(e.id), 0.0) for e in self.turned_back)


def pump_doubt(pumps: Sequence[Element]) -> float:
    """How far what pumps give may be off their sheets, as a share of it [-]: the worst of their
    makers' or measured tolerances, or the usual one.
    """
    usual = house_figure("pump_tolerance")
    return max(
        (
            usual if p.properties.flow_tolerance is None else p.properties.flow_tolerance
            for p in pumps
        ),
        default=usual,
    )


def turns_back(element: Element) -> bool:
    """Whether fuel that passes it is on its way home."""
    return isinstance(element.figures, Regulator) and element.figures.holds == "inlet"


def fed_by(circuit: Circuit) -> FeedPath:
    """What feeds the burners of a circuit."""
    return circuit.memo(_feed_path)


def _feed_path(circuit: Circuit) -> FeedPath:
    burners = circuit.of_kind(*BURNERS)
    tanks = {t.ports["outlet"]: t for t in circuit.of_kind("tank")}
    near: dict[str, list[str]] = {}
    for e in circuit.elements:
        if e.kind not in ("pump", "jet") and not turns_back(e):
            for a, b in ways(e):
                join(near, a, b)
    met = set(reached(near, [e.ports["start"] for e in burners], set(tanks)))
    nodes = frozenset(met - set(tanks))
    every = [(e, *ways(e)[0]) for e in circuit.of_kind("pump")]
    crossing = tuple(e for e, a, b in every if b in nodes and a not in nodes)
    within = tuple(e for e, a, b in every if b in nodes and a in nodes)
    out = tuple(
        e for e in circuit.elements if turns_back(e) and any(a in nodes for a, _ in ways(e))
    )
    return FeedPath(
        nodes,
        crossing or within,
        out,
        tuple(t for n, t in tanks.items() if n in met),
        tuple(burners),
    )
