"""A pump beside others, taken out with all that stands for it alone: what leads to it, its check
valve, and the Y it ends in.
"""

from dataclasses import dataclass

from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.kinds import JOINED


@dataclass(frozen=True)
class Joined:
    """Parts to leave out of a circuit, and the place that another is then one with."""

    parts: frozenset[str]
    gone: str
    stays: str


def _at(circuit: Circuit, node: str, but: set[str]) -> tuple[list[Element], list[Element]]:
    """What else is joined at a place: parts that carry flow, and taps that only stand there."""
    here = [e for e in circuit.elements if node in e.ports.values() and e.id not in but]
    return [e for e in here if len(e.ports) > 1 or e.kind == "tank"], [
        e for e in here if len(e.ports) == 1 and e.kind != "tank"
    ]


def _in_a_row(circuit: Circuit, node: str, parts: set[str]) -> tuple[str, list[Element]]:
    """On from a place along parts of two ends that nothing else is joined to, which are added to
    `parts` with their taps; where that ends, and what stands there.
    """
    while True:
        through, taps = _at(circuit, node, parts)
        if (
            len(through) != 1
            or set(through[0].ports) != {"start", "end"}
            or through[0].kind == "pump"
        ):
            return node, through
        parts |= {through[0].id, *(t.id for t in taps)}
        node = next(n for n in through[0].ports.values() if n != node)


def branch_of(circuit: Circuit, pump: Element) -> Joined | None:
    """What goes with a pump that ends in a leg of a Y; None for one that stands alone or in a row."""
    start, end = (
        (pump.ports["end"], pump.ports["start"])
        if pump.reversed
        else (pump.ports["start"], pump.ports["end"])
    )
    parts = {pump.id}
    node, met = _in_a_row(circuit, end, parts)
    y = met[0] if len(met) == 1 and met[0].kind == "merge" else None
    if y is None or node not in (y.ports["a"], y.ports["b"]):
        return None
    parts |= {t.id for t in _at(circuit, node, parts)[1]}
    before = set(parts)
    _, feeding = _in_a_row(circuit, start, before)
    if any(e.kind != "tank" for e in feeding):  # where the stub leaves something that serves others
        parts = before
    other = y.ports["b" if node == y.ports["a"] else "a"]
    return Joined(frozenset(parts | {y.id}), other, y.ports[JOINED["merge"]])


def idle_y(circuit: Circuit, y: Element) -> Joined | None:
    """A Y with nothing on one of its legs: it can go, and its other leg is one with its end."""
    for leg, other in (("a", "b"), ("b", "a")):
        if not _at(circuit, y.ports[leg], {y.id})[0]:
            return Joined(frozenset({y.id}), y.ports[other], y.ports[JOINED[y.kind]])
    return None
