"""Ys and tank inlets are bought in the size of the hose they join: which hose each follows, and the part of that size."""

from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.kinds import JOINED, PIPES
from tall_heron.core.shelf import shelf

# Parts of one sort by their size, the smallest first.
INLETS = ("tank-inlet-6", "pot-inlet-8", "tank-inlet-10", "tank-inlet-12", "tank-inlet-16")
SORTS = {"merge": ("merge-8", "merge-10", "merge-12", "merge-16"), "split": ("split-8", "split-10", "split-12", "split-16"), "fitting": INLETS}


def followed(circuit: Circuit) -> dict[str, str]:
    """The hose that each Y and each tank inlet of the shelf's own sizes follows: at the port of a Y where all flow is one, or
    else at one of its legs; before an inlet."""
    out: dict[str, str] = {}
    for e in circuit.elements:
        if e.shelf not in SORTS.get(e.kind, ()):
            continue
        port = e.ports[JOINED.get(e.kind, "end" if e.reversed else "start")]
        near = [x for x in circuit.of_kind(*PIPES) if set(x.ports.values()) & set(e.ports.values())]
        hose = next((x for x in near if port in x.ports.values()), near[0] if near else None)
        if hose is not None:
            out[e.id] = hose.id
    return out


def matched(connector: Element, hose: Element) -> Element:
    """A connector in the size of its hose, or the next that is made; itself where the hose has no size."""
    sort = SORTS.get(connector.kind, ())
    try:
        wanted = int(hose.properties.dash.lstrip("-"))
    except ValueError:
        return connector
    name = next((x for x in sort if int(x.rpartition("-")[2]) >= wanted), sort[-1])
    if name == connector.shelf:
        return connector
    part = shelf.part_named(name)
    return connector.model_copy(update={"figures": part.figures, "shelf": name, "title": part.title, "properties": part.properties})
