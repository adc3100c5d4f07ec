"""Where the figures of a circuit come from: what somebody typed or measured, and what a layout
assumed. A result is as good as the weakest of them.
"""

from dataclasses import dataclass
from typing import Any

from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.figures import TankLevel
from tall_heron.core.document.kinds import LINES
from tall_heron.core.document.record import GUESSES, Source


def clocked(element: Element) -> bool:
    """Whether it matters how the two ends of a hose stand to each other: both are bent."""
    return element.kind in LINES and all(
        end is not None and end.angle_deg > 0 for end in (element.end_a, element.end_b)
    )


SOURCE_WORDS = {
    "measured": "measured on the vehicle",
    "typed": "typed",
    "route": "drawn in the measured vehicle",
    "outline": "drawn in a stock outline: measure before cutting",
    "assumed": "the layout's guess: measure before cutting",
}  # where a length comes from, as sheets say it


@dataclass(frozen=True)
class Guesses:
    """What of a circuit nobody has measured: tags of hoses by `lengths` and `clocks`, places by
    `heights`, tanks by `levels`, other parts whose `figures` are guessed.
    """

    lengths: tuple[str, ...]
    heights: tuple[str, ...]
    levels: tuple[str, ...]
    clocks: tuple[str, ...]
    figures: tuple[str, ...]

    @property
    def of_results(self) -> str:
        """What a solution rests on that is guessed, in words; empty where nothing is."""
        counted = (
            (self.lengths, "length", "lengths"),
            (self.heights, "height", "heights"),
            (self.levels, "level", "levels"),
            (self.figures, "part", "parts"),
        )
        parts = [
            f"{len(names)} {one if len(names) == 1 else many}"
            for names, one, many in counted
            if names
        ]
        return f"{', '.join(parts[:-1])} and {parts[-1]}" if len(parts) > 1 else "".join(parts)


def guesses_of(circuit: Circuit) -> Guesses:
    """What of a circuit is guessed."""
    return circuit.memo(_guesses_of)


def _guesses_of(circuit: Circuit) -> Guesses:
    es = circuit.elements
    return Guesses(
        tuple(e.id for e in es if e.length is not None and e.length.guessed),
        tuple(n.id for n in circuit.nodes if n.source == "assumed"),
        tuple(
            e.id
            for e in es
            if isinstance(e.figures, TankLevel)
            and not e.figures.floats
            and e.figures.level_source == "assumed"
        ),
        tuple(
            e.id for e in es if clocked(e) and e.clock_deg is not None and e.clock_source in GUESSES
        ),
        tuple(e.id for e in es if e.properties.provenance == "guessed"),
    )


def with_source(circuit: Circuit, source: Source) -> Circuit:
    """The circuit with all its lengths, clocks, heights and levels from one source."""

    def marked(e: Element) -> Element:
        more: dict[str, Any] = {"clock_source": source} | (
            {"length": e.length.model_copy(update={"source": source, "typed": None})}
            if e.length is not None
            else {}
        )
        if isinstance(e.figures, TankLevel):
            more["figures"] = e.figures.model_copy(update={"level_source": source})
        return e.model_copy(update=more)

    nodes = [n.model_copy(update={"source": source}) for n in circuit.nodes]
    return circuit.model_copy(
        update={"nodes": nodes, "elements": [marked(e) for e in circuit.elements]}
    )
