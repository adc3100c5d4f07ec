"""What the whole circuit costs and weighs, and how much there is to join."""

from dataclasses import dataclass

from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.figures import Injectors


@dataclass(frozen=True)
class Totals:
    """Price of all parts whose price is known, `unpriced` how many have none, mass [kg], parts,
    joints, and length of hose and line [m].
    """

    price: float
    unpriced: int
    mass: float
    parts: int
    joints: int
    length: float


def price_of(element: Element) -> float | None:
    """A part with its ends; hose and line by their length."""
    return _sum(element, "price")


def mass_of(element: Element) -> float | None:
    """A part with its ends [kg]; hose and line by their length."""
    return _sum(element, "mass_kg")


def _sum(element: Element, field: str) -> float | None:
    own = getattr(element.properties, field)
    if own is None:
        return None
    times = element.length.mm / 1000 if element.length is not None else 1.0
    if element.kind == "injectors" and isinstance(element.figures, Injectors):
        times = element.figures.count
    return float(
        own * times
        + sum(
            getattr(end, field) or 0.0 for end in (element.end_a, element.end_b) if end is not None
        )
    )


def make_totals(circuit: Circuit) -> Totals:
    """The totals of a circuit, without anything a builder brings along."""
    prices = [price_of(e) for e in circuit.elements]
    lines = [e for e in circuit.elements if e.length is not None]
    joints = sum(len(e.ports) for e in circuit.elements if e.length is None) + 2 * len(lines)
    return Totals(
        sum(p for p in prices if p is not None),
        sum(p is None for p in prices),
        sum(m for e in circuit.elements if (m := mass_of(e)) is not None),
        len(circuit.elements),
        joints,
        sum(e.length.mm for e in lines if e.length is not None) / 1000,
    )
