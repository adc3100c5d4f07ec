"""The way of the fuel through a circuit: the line of parts from tank to injectors and back,
parallel parts in one column.
"""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cache

from tall_heron.core.base.graphs import reached, shortest
from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.kinds import BURNERS, KINDS


@dataclass(frozen=True)
class PathColumn:
    """Parts that stand side by side; the one on the path itself leads from node `start` to node
    `end`. A tank at the path's start has no `start`.
    """

    elements: tuple[Element, ...]
    start: str
    end: str


@dataclass(frozen=True)
class PathBranch:
    """Parts in a line beside the path, in flow order, from node `start` to node `end`, the tank at
    its start among them; `burns` says whether it leads to injectors or a bowl.
    """

    elements: tuple[Element, ...]
    start: str
    end: str
    burns: bool


@dataclass(frozen=True)
class Path:
    """Columns in flow order, how many of them come before and with the pumps (`suction`), the node
    of the first injectors or bowl, whether a gap was bridged, how many columns come before and with
    the last injectors or bowl (`turn`), and what lies beside the path.
    """

    columns: tuple[PathColumn, ...]
    suction: int
    rail_node: str | None
    gap: int | None = None
    turn: int = 0
    branches: tuple[PathBranch, ...] = ()

    def with_elements(self, new: Mapping[str, Element]) -> "Path":
        """The same way with other elements of the same kind in their places."""
        columns = tuple(
            replace(c, elements=tuple(new.get(e.id, e) for e in c.elements)) for c in self.columns
        )
        branches = tuple(
            replace(b, elements=tuple(new.get(e.id, e) for e in b.elements)) for b in self.branches
        )
        return replace(self, columns=columns, branches=branches)


def ways(element: Element) -> list[tuple[str, str]]:
    """The pairs of nodes an element leads between, in its direction."""
    out = [(element.ports[a], element.ports[b]) for a, b in _pairs(element.kind)]
    return [(b, a) for a, b in out] if element.reversed else out


@cache
def _pairs(kind: str) -> tuple[tuple[str, str], ...]:
    """The pairs of ports a kind leads between."""
    return tuple(sorted({pair for links in KINDS[kind].links.values() for pair in links}))


Edges = dict[str, list[tuple[str, Element]]]


def _edges(circuit: Circuit, backward: bool = False) -> Edges:
    return circuit.memo(_make_edges, backward)


def _make_edges(circuit: Circuit, backward: bool) -> Edges:
    out: Edges = {}
    for element in circuit.elements:
        for a, b in ways(element):
            start, end = (b, a) if backward else (a, b)
            out.setdefault(start, []).append((end, element))
    return out


def _neighbors(circuit: Circuit, backward: bool) -> dict[str, list[str]]:
    return circuit.memo(_make_neighbors, backward)


def _make_neighbors(circuit: Circuit, backward: bool) -> dict[str, list[str]]:
    return {node: [there for there, _ in rows] for node, rows in _edges(circuit, backward).items()}


def reach(circuit: Circuit, start: str, backward: bool = False, but: str = "") -> list[Element]:
    """Every element met from a node on along (or against) the direction of the parts, nearest
    first, but one that is left out; the way ends at tanks.
    """
    known = circuit.memo(_reached)
    key = start, backward, but
    if key not in known:
        known[key] = _reach(circuit, start, backward, but)
    return list(known[key])


def _reached(_: Circuit) -> dict[tuple[str, bool, str], list[Element]]:
    """What has been reached so far: filled as it is asked."""
    return {}


def _reach(circuit: Circuit, start: str, backward: bool, but: str) -> list[Element]:
    edges = _edges(circuit, backward)
    near: Mapping[str, list[str]] = _neighbors(circuit, backward)
    if but:
        edges = {node: [row for row in rows if row[1].id != but] for node, rows in edges.items()}
        near = {node: [there for there, _ in rows] for node, rows in edges.items()}
    tanks = {e.ports["outlet"] for e in circuit.of_kind("tank")}
    met: dict[str, Element] = {}
    for here, far in reached(near, [start], tanks).items():
        if far == 0 or here not in tanks:
            for _, element in edges.get(here, ()):
                met.setdefault(element.id, element)
    return list(met.values())


def upstream(circuit: Circuit, element: Element) -> list[Element]:
    """What lies between the tanks and an element: nothing before one that draws from a tank's
    outlet, for what fills the tank is beyond it.
    """
    start = ways(element)[0][0] if ways(element) else element.ports["start"]
    return (
        []
        if any(t.ports["outlet"] == start for t in circuit.of_kind("tank"))
        else reach(circuit, start, backward=True)
    )


def downstream(circuit: Circuit, element: Element) -> list[Element]:
    """What lies between an element and the tanks or injectors it feeds."""
    return reach(circuit, ways(element)[0][1])


def main_path(circuit: Circuit, start: str | None = None, end: str | None = None) -> Path:
    """The path of a circuit, from any tank to the nearest injectors or bowl, or from one tank to
    one of them by their ids; empty where there is no tank.
    """
    tanks = [t for t in circuit.of_kind("tank") if start in (None, t.id)]
    if not tanks:
        return Path((), 0, None)
    wanted = {e.ports["start"] for e in circuit.of_kind(*BURNERS) if end in (None, e.id)}
    line, rail_node, gap = _way(circuit, [t.ports["outlet"] for t in tanks], wanted)
    first = next((t for t in tanks if line and t.ports["outlet"] == line[0][1]), tanks[0])
    beside = _columns(circuit, line, first, tanks, wanted)
    columns = [_first_column(first, tanks, beside), *beside]
    pumps = next((i + 1 for i, c in enumerate(columns) if c.elements[0].kind == "pump"), 0)
    at_burners = [
        i
        for i, c in enumerate(columns)
        if i and any(to in wanted for e in c.elements for _, to in ways(e))
    ]
    turn = at_burners[-1] + 1 if at_burners else len(columns)
    return Path(
        tuple(columns),
        pumps,
        rail_node,
        gap,
        turn,
        _Branches(circuit, columns, wanted).all_branches(),
    )


Line = list[tuple[Element, str, str]]


def _way(
    circuit: Circuit, outlets: list[str], wanted: set[str]
) -> tuple[Line, str | None, int | None]:
    """The line of parts from tanks to injectors and back, the node of the injectors, and where a
    gap was bridged.
    """
    forward, back = _edges(circuit), _edges(circuit, backward=True)
    line = shortest(forward, outlets, wanted.__contains__)
    at = line[-1][2] if line else outlets[0]
    rail_node = at if at in wanted else next(iter(sorted(wanted)), None)
    gap = None
    if rail_node is not None and at not in wanted:
        # No way through: what leads up to the break, then what lies between it and the injectors.
        gap = len(line) + 1
        line += [
            (e, b, a)
            for e, a, b in reversed(shortest(back, [rail_node], set(outlets).__contains__))
        ]
    if rail_node is not None:
        line += shortest(forward, [rail_node], set(outlets).__contains__)
    return line, rail_node, gap


def _first_column(first: Element, tanks: list[Element], columns: list[PathColumn]) -> PathColumn:
    """The tank the path begins at, with those that feed the same parts."""
    begun = {start for e in columns[0].elements for start, _ in ways(e)} if columns else set()
    side = [t for t in tanks if t is not first and t.ports["outlet"] in begun]
    return PathColumn((first, *side), "", first.ports["outlet"])


def _columns(
    circuit: Circuit, line: Line, first: Element, tanks: list[Element], wanted: set[str]
) -> list[PathColumn]:
    """The parts of a line, each with those that stand beside it: of its kind, as far from the tanks
    and from the injectors.
    """
    from_tank = reached(_neighbors(circuit, False), [t.ports["outlet"] for t in tanks])
    to_rail = reached(_neighbors(circuit, True), sorted(wanted))

    def place(element: Element) -> tuple[str, int | None, int | None]:
        start, end = ways(element)[0] if ways(element) else ("", "")
        return element.kind, from_tank.get(start), to_rail.get(end)

    shown, met, out = {e.id for e, _, _ in line} | {first.id}, set[str](), []
    for element, start, end in line:
        if element.id in met:
            continue  # a circuit may lead back through what led to its engine
        beside = [e for e in circuit.elements if e.id not in shown and place(e) == place(element)]
        shown |= {e.id for e in beside}
        met |= {element.id, *(e.id for e in beside)}
        out.append(
            PathColumn(
                tuple(sorted((element, *beside), key=lambda e: (len(e.id), e.id))), start, end
            )
        )
    return out


class _Branches:
    """Everything that leads fuel and is not in a column, in lines: first what leaves a place
    already met, then what joins one.
    """

    def __init__(self, circuit: Circuit, columns: list[PathColumn], wanted: set[str]) -> None:
        on_path = [e for c in columns for e in c.elements]
        self.placed = {node for e in on_path for node in e.ports.values()}
        self.on_path, self.wanted = frozenset(self.placed), wanted
        self.outlets = {t.ports["outlet"]: t for t in circuit.of_kind("tank")}
        shown = {e.id for e in on_path}
        self.left = [e for e in circuit.elements if e.id not in shown and ways(e)]

    def all_branches(self) -> tuple[PathBranch, ...]:
        """The branches."""
        out = []
        for forward in (True, False):
            side = 0 if forward else 1
            while (
                first := next(
                    (e for e in self.left if any(w[side] in self.placed for w in ways(e))), None
                )
            ) is not None:
                at = next(w for w in ways(first) if w[side] in self.placed)
                line, here = self._line(first, at, side)
                start, end = (at[side], here) if forward else (here, at[side])
                if not forward and here in self.outlets and here not in self.on_path:
                    line.append(self.outlets.pop(here))
                nodes = {node for e in line for node in e.ports.values()} - {start}
                out.append(
                    PathBranch(
                        tuple(line if forward else reversed(line)),
                        start,
                        end,
                        bool(nodes & self.wanted),
                    )
                )
        return tuple(out)

    def _line(self, element: Element, at: tuple[str, str], side: int) -> tuple[list[Element], str]:
        """The parts in a row from one on, and the node they lead to."""
        line: list[Element] = []
        while True:
            line.append(element)
            self.left.remove(element)
            here = at[1 - side]
            known = here in self.placed
            self.placed |= set(element.ports.values())
            following = next((e for e in self.left if any(w[side] == here for w in ways(e))), None)
            if known or following is None:
                return line, here
            element, at = following, next(w for w in ways(following) if w[side] == here)
