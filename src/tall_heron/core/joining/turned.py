"""Which way round adapters stand that are drawn in a circuit: nobody says it, their neighbors do."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cache, cached_property

from tall_heron.core.base.catalogue import table
from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.faces import Face, face, joins

ADAPTER = ("", "adapter")  # mounts of fittings that may stand either way round


@cache
def ports_of_shelf() -> dict[str, dict[str, str]]:
    """The faces of every part of the shelf by its port, by its name."""
    out: dict[str, dict[str, str]] = {}
    for r in table("ports"):
        out.setdefault(str(r["part"]), {})[str(r["port"])] = str(r["face"])
    for r in table("adapters"):
        out[str(r["name"])] = {"start": str(r["face_a"]), "end": str(r["face_b"])}
    return out


def faces_of(e: Element) -> dict[str, str]:
    """The faces of a part by its port: by the shelf's data, else as they were typed with it."""
    return ports_of_shelf().get(e.shelf or "") or e.properties.faces or {}


def is_adapter(e: Element) -> bool:
    """Whether a part is an adapter of the shelf, which may stand either way round."""
    return (
        e.kind == "fitting"
        and e.properties.mount in ADAPTER
        and {"start", "end"} <= set(ports_of_shelf().get(e.shelf or "", ()))
    )


@dataclass(frozen=True)
class _Stands:
    """An adapter in a row, and whether the row runs through it from its end to its start."""

    element: Element
    back: bool

    def faces(self, turned: bool) -> tuple[Face, Face]:
        """What it shows the row's first part and its last, as it is or `turned`."""
        known = ports_of_shelf()[self.element.shelf or ""]
        a, b = face(known["start"]), face(known["end"])
        return (b, a) if turned != self.back else (a, b)

    def node(self, ahead: bool) -> str:
        """The place on its side along the row."""
        return self.element.ports["end" if ahead != self.back else "start"]


@dataclass
class Rows:
    """Adapters that follow one another in a circuit; `beside` gives the faces that meet a part at a
    place, adapters apart.
    """

    circuit: Circuit
    beside: Callable[[Element, str], Iterator[Face]]

    @cached_property
    def at(self) -> dict[str, list[Element]]:
        """What stands at each place, gauges apart."""
        out: dict[str, list[Element]] = {}
        for e in self.circuit.elements:
            for node in e.ports.values() if e.kind != "gauge" else ():
                out.setdefault(node, []).append(e)
        return out

    @cached_property
    def turned(self) -> set[str]:
        """Adapters that stand the other way round: of every row the ways in which most of its
        joints hold, together, since the middle one of three meets adapters alone.
        """
        out, done = set[str](), set[str]()
        for e in self.circuit.elements:
            if is_adapter(e) and e.id not in done:
                row = self._row(e)
                done |= {x.element.id for x in row}
                out |= self._best(row)
        return out

    def _row(self, e: Element) -> list[_Stands]:
        row = [_Stands(e, False)]
        for ahead in (True, False):
            while True:
                here = row[-1] if ahead else row[0]
                node = here.node(ahead)
                met = [x for x in self.at.get(node, ()) if x.id != here.element.id]
                if (
                    len(met) != 1
                    or not is_adapter(met[0])
                    or any(met[0].id == x.element.id for x in row)
                ):
                    break
                new = _Stands(met[0], (met[0].ports["start"] == node) != ahead)
                row = [*row, new] if ahead else [new, *row]
        return row

    def _best(self, row: list[_Stands]) -> set[str]:
        """Which of a row are turned: the best up to each, by whether that one is."""
        best: dict[bool, tuple[int, tuple[str, ...]]] = {}
        for i, here in enumerate(row):
            then: dict[bool, tuple[int, tuple[str, ...]]] = {}
            for turned in (False, True):
                into, out = here.faces(turned)
                if i:
                    n, names = max(
                        (
                            (n + joins(row[i - 1].faces(t)[1], into), names)
                            for t, (n, names) in best.items()
                        ),
                        key=lambda c: c[0],
                    )
                else:
                    n, names = self._holds(into, here, False), ()
                n += self._holds(out, here, True) if here is row[-1] else 0
                then[turned] = n, (*names, here.element.id) if turned else names
            best = then
        return set(max(best.values(), key=lambda c: c[0])[1])

    def _holds(self, own: Face, here: _Stands, ahead: bool) -> int:
        """How many neighbors a face joins at the end of a row; where more than two meet it stands
        on a tee or an opening of its own.
        """
        node = here.node(ahead)
        if len([x for x in self.at.get(node, ()) if x.id != here.element.id]) > 1:
            return int(joins(own, Face("flare", own.size)))
        return sum(joins(own, other) for other in self.beside(here.element, node))
