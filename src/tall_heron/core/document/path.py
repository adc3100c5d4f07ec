"""The way of the fuel through a circuit: the line of parts from tank to injectors and back, parallel parts in one column."""

from collections.abc import Mapping
from dataclasses import dataclass, replace

from tall_heron.core.base.graphs import reached, shortest
from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.kinds import BURNERS, KINDS


@dataclass(frozen=True)
class Column:
    """Parts that stand side by side; the one on the path itself leads from node `start` to node `end`. A tank at the path's start has no `start`."""

    elements: tuple[Element, ...]
    start: str
    end: str


@dataclass(frozen=True)
class Branch:
    """Parts in a line beside the path, in flow order, from node `start` to node `end`, the tank at its start among them; `burns` says whether it leads to
    injectors or a bowl."""

    elements: tuple[Element, ...]
    start: str
    end: str
    burns: bool


@dataclass(frozen=True)
class Path:
    """Columns in flow order, how many of them come before and with the pumps (`suction`), the node of the first injectors or bowl, whether a gap was
    bridged, how many columns come before and with the last injectors or bowl (`turn`), and what lies beside the path."""

    columns: tuple[Column, ...]
    suction: int
    rail_node: str | None
    gap: int | None = None
    turn: int = 0
    branches: tuple[Branch, ...] = ()

    def with_elements(self, new: Mapping[str, Element]) -> "Path":
        """The same way with other elements of the same kind in their places."""
        columns = tuple(replace(c, elements=tuple(new.get(e.id, e) for e in c.elements)) for c in self.columns)
        branches = tuple(replace(b, elements=tuple(new.get(e.id, e) for e in b.elements)) for b in self.branches)
        return replace(self, columns=columns, branches=branches)

    @property
    def pumps(self) -> tuple[Element, ...]:
        """The first pumps on the path, side by side; empty where there is none."""
        return self.columns[self.suction - 1].elements if self.suction else ()

    @property
    def delivery(self) -> tuple[Column, ...]:
        """The columns between the pumps and the last injectors or bowl."""
        return self.columns[self.suction : self.turn]


def ways(element: Element) -> list[tuple[str, str]]:
    """The pairs of nodes an element leads between, in its direction."""
    pairs = {pair for links in KINDS[element.kind].links.values() for pair in links}
    out = [(element.ports[a], element.ports[b]) for a, b in sorted(pairs)]
    return [(b, a) for a, b in out] if element.reversed else out


Edges = dict[str, list[tuple[str, Element]]]


def _edges(circuit: Circuit, backward: bool = False) -> Edges:
    return circuit.kept("backward" if backward else "forward", lambda c: _make_edges(c, backward))


def _make_edges(circuit: Circuit, backward: bool) -> Edges:
    out: Edges = {}
    for element in circuit.elements:
        for a, b in ways(element):
            start, end = (b, a) if backward else (a, b)
            out.setdefault(start, []).append((end, element))
    return out


def _neighbours(circuit: Circuit, backward: bool) -> dict[str, list[str]]:
    make = {node: [there for there, _ in rows] for node, rows in _edges(circuit, backward).items()}
    return circuit.kept("before" if backward else "after", lambda _: make)


def reach(circuit: Circuit, start: str, backward: bool = False) -> list[Element]:
    """Every element met from a node on along (or against) the direction of the parts, nearest first; the way ends at tanks."""
    edges = _edges(circuit, backward)
    tanks = {e.ports["outlet"] for e in circuit.of_kind("tank")}
    met: dict[str, Element] = {}
    for here, far in reached(_neighbours(circuit, backward), [start], tanks).items():
        if far == 0 or here not in tanks:
            for _, element in edges.get(here, ()):
                met.setdefault(element.id, element)
    return list(met.values())


def upstream(circuit: Circuit, element: Element) -> list[Element]:
    """What lies between the tanks and an element."""
    return reach(circuit, ways(element)[0][0] if ways(element) else element.ports["start"], backward=True)


def downstream(circuit: Circuit, element: Element) -> list[Element]:
    """What lies between an element and the tanks or injectors it feeds."""
    return reach(circuit, ways(element)[0][1])


def main_path(circuit: Circuit, start: str | None = None, end: str | None = None) -> Path:
    """The path of a circuit, from any tank to the nearest injectors or bowl, or from one tank to one of them by their ids; empty where there is no tank."""
    tanks = [t for t in circuit.of_kind("tank") if start in (None, t.id)]
    if not tanks:
        return Path((), 0, None)
    wanted = {e.ports["start"] for e in circuit.of_kind(*BURNERS) if end in (None, e.id)}
    outlets = [t.ports["outlet"] for t in tanks]
    forward, back = _edges(circuit), _edges(circuit, backward=True)
    line = shortest(forward, outlets, wanted.__contains__)
    gap = None
    at = line[-1][2] if line else outlets[0]
    rail_node = at if at in wanted else next(iter(sorted(wanted)), None)
    if at not in wanted and rail_node is not None:
        # No way through: what leads up to the break, then what lies between it and the injectors.
        gap = len(line) + 1
        line += [(e, b, a) for e, a, b in reversed(shortest(back, [rail_node], set(outlets).__contains__))]
    if rail_node is not None:
        line += shortest(forward, [rail_node], set(outlets).__contains__)
    first = tanks[outlets.index(line[0][1])] if line and line[0][1] in outlets else tanks[0]
    columns = [Column((first,), "", first.ports["outlet"])]
    shown = {e.id for e, _, _ in line} | {first.id}
    from_tank = reached(_neighbours(circuit, False), outlets)
    to_rail = reached(_neighbours(circuit, True), sorted(wanted))
    met: set[str] = set()
    for element, start, end in line:
        if element.id in met:
            continue  # a circuit may lead back through what led to its engine
        met.add(element.id)
        place = _place(element, from_tank, to_rail)
        beside = [e for e in circuit.elements if e.id not in shown and e.kind == element.kind and _place(e, from_tank, to_rail) == place]
        shown |= {e.id for e in beside}
        met |= {e.id for e in beside}
        columns.append(Column(tuple(sorted((element, *beside), key=lambda e: (len(e.id), e.id))), start, end))
    if len(columns) > 1:
        begun = {start for e in columns[1].elements for start, _ in ways(e)}
        side = [t for t in tanks if t is not first and t.ports["outlet"] in begun]
        columns[0] = Column((first, *side), "", first.ports["outlet"])
    pumps = [i for i, c in enumerate(columns) if c.elements[0].kind == "pump"]
    at_burners = [i for i, c in enumerate(columns) if i and any(end in wanted for e in c.elements for _, end in ways(e))]
    turn = at_burners[-1] + 1 if at_burners else len(columns)
    return Path(tuple(columns), pumps[0] + 1 if pumps else 0, rail_node, gap, turn, _branches(circuit, columns, wanted))


def _branches(circuit: Circuit, columns: list[Column], wanted: set[str]) -> tuple[Branch, ...]:
    """Everything that leads fuel and is not in a column, in lines: first what leaves a place already met, then what joins one."""
    on_path = [e for c in columns for e in c.elements]
    placed = {node for e in on_path for node in e.ports.values()}
    on_path_nodes = frozenset(placed)
    outlets = {t.ports["outlet"]: t for t in circuit.of_kind("tank")}
    shown = {e.id for e in on_path}
    left = [e for e in circuit.elements if e.id not in shown and ways(e)]
    out = []
    for forward in (True, False):
        side, far = (0, 1) if forward else (1, 0)
        while True:
            first = next((e for e in left if any(w[side] in placed for w in ways(e))), None)
            if first is None:
                break
            line: list[Element] = []
            at = next(w for w in ways(first) if w[side] in placed)
            begun, element = at[side], first
            while True:
                line.append(element)
                left.remove(element)
                here, known = at[far], placed.copy()
                placed |= set(element.ports.values())
                following = next((e for e in left if any(w[side] == here for w in ways(e))), None)
                if here in known or following is None:
                    break
                element, at = following, next(w for w in ways(following) if w[side] == here)
            start, end = (begun, here) if forward else (here, begun)
            if not forward and here in outlets and here not in on_path_nodes:
                line.append(outlets.pop(here))
            nodes = {node for e in line for node in e.ports.values()} - {start}
            out.append(Branch(tuple(line if forward else reversed(line)), start, end, bool(nodes & wanted)))
    return tuple(out)


def _place(element: Element, from_tank: dict[str, int], to_rail: dict[str, int]) -> tuple[int | None, int | None]:
    """How far an element's start is from a tank and its end from the rail: parts in parallel share both."""
    start, end = ways(element)[0] if ways(element) else ("", "")
    return from_tank.get(start), to_rail.get(end)
