"""Parts that are bought in the size of the line they stand in: which hose each follows, and the
part of that size.
"""

from functools import cache

from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.kinds import JOINED, PIPES
from tall_heron.core.document.mounts import HANGER, hung_pumps
from tall_heron.core.document.path import ways
from tall_heron.core.shelf import shelf
from tall_heron.core.shelf.shelf import ShelfPart

SIZES = (
    "-6",
    "-8",
    "-10",
    "-12",
    "-16",
)  # of lines that carry fuel to an engine, the narrow ones first
FOLLOW = (
    "merge",
    "split",
    "fitting",
    "rail",
    "check",
    "valve",
    "selector",
    "crossover",
    "tee",
    "junction",
    "damper",
    "sensor",
)  # kinds of which some follow
BEFORE_WHAT = (
    "rail",
    "split",
)  # what is as wide as the line that comes to it; all others as the line that goes on


def family_of(element: Element) -> str:
    """The sort that a part of the shelf is one size of; empty for one that follows nothing."""
    known = shelf.parts().get(element.shelf or "")
    return known.properties.family if known is not None and element.kind in FOLLOW else ""


@cache
def sizes_of(kind: str, family: str, drop_tube: bool | None = None) -> tuple[ShelfPart, ...]:
    """The parts of one sort, the narrow ones first, of each size the one that costs least."""
    options = [
        p
        for p in shelf.parts().values()
        if p.kind == kind
        and p.properties.family == family
        and p.properties.dash
        and drop_tube in (None, bool(p.properties.drop_tube))
    ]
    best: dict[int, ShelfPart] = {}
    for part in sorted(options, key=lambda p: (p.properties.price or 0.0, p.name)):
        best.setdefault(dash_number(part.properties.dash), part)
    return tuple(best[size] for size in sorted(best))


def dash_number(dash: str) -> int:
    """The number of a dash size, 0 where it has none."""
    digits = dash.lstrip("-")
    return int(digits) if digits.isdigit() else 0


def followed(circuit: Circuit) -> dict[str, tuple[str, int]]:
    """The hose that each part follows, and how many sizes under it: the nearest line on its own
    side, a leg of a Y one size under its trunk, a Y whose trunk meets no line one over
    its legs. A reused part and one of the builder's own follow nothing.
    """
    return circuit.memo(_followed)


def _followed(circuit: Circuit) -> dict[str, tuple[str, int]]:
    out: dict[str, tuple[str, int]] = {}
    at: dict[str, list[Element]] = {}
    for e in circuit.elements:
        for node in e.ports.values():
            at.setdefault(node, []).append(e)
    for e in circuit.elements:
        if not family_of(e):
            continue
        first = e.kind in BEFORE_WHAT
        walked = _walk(e, at, back=first) or _walk(e, at, back=not first)
        if walked is not None:
            out[e.id] = walked
    return out


def _walk(element: Element, at: dict[str, list[Element]], back: bool) -> tuple[str, int] | None:
    """The first line from an element on, along its flow or against it, past parts that are no line;
    None where there is none before a tank or a pump.
    """
    met, todo = {element.id}, [(node, _under(element, node)) for node in _ends(element, back)]
    while todo:
        node, under = todo.pop(0)
        for e in at.get(node, ()):
            if e.kind in PIPES:
                return e.id, under
        for e in at.get(node, ()):
            if (
                e.id not in met
                and e.kind
                not in ("tank", "pump", "injectors", "carburettor", "regulator", "relief", "gauge")
                and e.ports
            ):
                met.add(e.id)
                step = int(e.kind in JOINED and node != e.ports[JOINED[e.kind]])
                todo += [
                    (there, under + step + _under(e, there))
                    for there in _ends(e, back)
                    if there != node
                ]
    return None


def _under(element: Element, node: str) -> int:
    """How many sizes a part is under a line that is found beyond a port of its own: a Y is one over
    what comes to its legs.
    """
    return -int(element.kind in JOINED and node != element.ports[JOINED[element.kind]])


def _ends(element: Element, back: bool) -> list[str]:
    """Where an element leads to, or comes from; the port of a Y where its flow is one before its
    legs.
    """
    pairs = ways(element)
    nodes = list(dict.fromkeys(a if back else b for a, b in pairs))
    if element.kind in JOINED:
        whole = element.ports[JOINED[element.kind]]
        nodes.sort(key=lambda n: n != whole)
    return nodes


def matched(circuit: Circuit, connector: Element, hose: Element, under: int = 0) -> Element:
    """A part in the size of its line, or `under` it by so many sizes, or the next that is made; a
    hanger for as many pumps as hang from it. Itself where the line has no size.
    """
    family = family_of(connector)
    if connector.properties.mount == HANGER:
        family = f"hanger {min(max(sum(h.hanger is not None and h.hanger.id == connector.id for h in hung_pumps(circuit)), 1), 3)}"
    parts = sizes_of(connector.kind, family, bool(connector.properties.drop_tube))
    if not parts or hose.properties.dash not in SIZES:
        return connector
    wanted = dash_number(
        SIZES[min(max(SIZES.index(hose.properties.dash) - under, 0), len(SIZES) - 1)]
    )
    part = next((p for p in parts if dash_number(p.properties.dash) >= wanted), parts[-1])
    return connector if part.name == connector.shelf else as_part(connector, part)


def as_part(element: Element, part: ShelfPart) -> Element:
    """An element with another part of the shelf in its place, its figures copied."""
    return element.model_copy(
        update={
            "figures": part.figures,
            "shelf": part.name,
            "title": part.title,
            "properties": part.properties,
        }
    )
