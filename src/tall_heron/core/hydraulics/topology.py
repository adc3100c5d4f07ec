"""Nodes in order, links between their numbers and the chains they make, for one state of valves,
pumps and injectors; and what stands in the way of fuel.
"""

from dataclasses import dataclass, field

from tall_heron.core.base.graphs import join, reached
from tall_heron.core.base.lru_cache import LruCache
from tall_heron.core.hydraulics.compile import Geometry, LinkTemplate
from tall_heron.core.hydraulics.elimination import EliminationPlan, make_plan

Shut = tuple[str, str, str, str, str]  # element, key, start, end, state


@dataclass(slots=True, frozen=True)
class LiveLink:
    """A link that can carry fuel: its place in the geometry and the numbers of its ends."""

    place: int
    u: int
    v: int


@dataclass(slots=True, frozen=True)
class Chain:
    """Links in a row, all with one flow from node `u` to node `v`: `members` as (place in the
    frame's links, 1 or -1 for its own sense), and the nodes `within`, one fewer.
    """

    u: int
    v: int
    members: tuple[tuple[int, int], ...]
    within: tuple[int, ...]


@dataclass(slots=True)
class Frame:
    """`n` unknown nodes first in `ids`, then the `fixed` ones; `links`; `chains` over them,
    regulators last from `regulators` on, with the numbers of their ends among `junctions` (nodes
    where chains meet, then the fixed ones) in `ends`; links that are `shut`; nodes that are
    `unconnected`; in `varying` the chains whose law is more than the fluid's, as (chain, its links'
    places, whether it is a pump that makes it so).
    """

    n: int
    ids: list[str]
    fixed: list[str]
    links: list[LiveLink]
    chains: list[Chain]
    regulators: int
    junctions: list[int]
    ends: list[tuple[int, int]]
    shut: list[Shut]
    unconnected: list[str]
    tank_at: dict[str, str]
    injector_node: dict[str, str]
    plan: EliminationPlan
    impossible: tuple[str, str] | None
    varying: list[tuple[int, tuple[int, ...], bool]] = field(default_factory=list)
    chain_of: dict[str, tuple[int, int]] = field(
        default_factory=dict
    )  # links by their key: their chain, and 1 or -1 for their sense in it
    met: dict[str, list[tuple[int, int]]] = field(
        default_factory=dict
    )  # nodes: the chains they lie on, and how many members of each come before them
    junction_at: dict[str, int] = field(
        default_factory=dict
    )  # nodes that are junctions: their place among them
    last: tuple[list[float], list[float]] | None = (
        None  # pressures of junctions and flows of chains, where it was solved last: a start for the next
    )
    anchored: dict[bytes, tuple[bool, ...]] = field(
        default_factory=dict
    )  # which nodes hang on a fixed pressure, by which of the links are parted
    solves: int = (
        0  # how often it was solved: what is solved often is written out (straight_line.py)
    )

    @property
    def unknown(self) -> int:
        """How many junctions have an unknown pressure."""
        return len(self.junctions) - len(self.fixed)


def _met(ids: list[str], chains: list[Chain]) -> dict[str, list[tuple[int, int]]]:
    out: dict[str, list[tuple[int, int]]] = {}
    for i, c in enumerate(chains):
        for n, node in enumerate((c.u, *c.within, c.v)):
            out.setdefault(ids[node], []).append((i, n))
    return out


_frames = LruCache[Frame](256)


def frame_of(
    geometry: Geometry,
    position: dict[str, str],
    off: frozenset[str],
    drawing: frozenset[str],
    chained: bool = True,
) -> Frame:
    """The frame with valves in `position`, parts that are `off`, and the injectors that are
    `drawing`; each link a chain of its own where they are not to be `chained`. Circuits of one
    topology share their frames, and with them what is known of solving them.
    """
    key = geometry.signature, tuple(position.items()), off, drawing, chained
    return _frames.get(key, lambda: make_frame(geometry, position, off, drawing, chained))


def make_frame(
    geometry: Geometry,
    position: dict[str, str],
    off: frozenset[str],
    drawing: frozenset[str],
    chained: bool = True,
) -> Frame:
    """frame_of, made anew."""
    live: list[tuple[int, LinkTemplate]] = []
    shut: list[Shut] = []
    for place, link in enumerate(geometry.links):
        name = link.element
        if link.into_manifold:
            if name in drawing:
                live.append((place, link))
            else:
                shut.append((name, link.key, link.start, "", "shut"))
        elif name in off:
            shut.append((name, link.key, link.start, link.end, "off"))
        elif (position.get(name) or geometry.default_position[name]) not in link.position:
            shut.append((name, link.key, link.start, link.end, "shut"))
        else:
            live.append((place, link))
    tank_at = {node: name for name, (node, *_) in geometry.tanks.items()}
    manifolds = {link.end: link.start for _, link in live if link.into_manifold}
    fixed = [*tank_at, *manifolds]
    edges: dict[str, list[str]] = {}
    for _, link in live:
        join(edges, link.start, link.end)
    known = reached(edges, fixed)
    free = [x for x in geometry.elevation if x in known and x not in tank_at]
    ids = free + fixed
    number = {name: i for i, name in enumerate(ids)}
    impossible = _blocked(
        [x for _, x in live],
        shut,
        list(tank_at),
        {node: geometry.links[p].element for p, x in live if (node := x.start) and x.into_manifold},
    )
    links = [
        LiveLink(place, number[x.start], number[x.end]) for place, x in live if x.start in known
    ]
    chains, regulators = _chains(geometry, links, len(free), chained)
    inner = {node for c in chains for node in c.within}
    junctions = [i for i in range(len(ids)) if i not in inner]
    at = {node: i for i, node in enumerate(junctions)}
    ends = [(at[c.u], at[c.v]) for c in chains]
    return Frame(
        n=len(free),
        ids=ids,
        fixed=fixed,
        links=links,
        chains=chains,
        regulators=regulators,
        junctions=junctions,
        ends=ends,
        shut=shut
        + [
            (x.element, x.key, x.start, x.end, "no supply") for _, x in live if x.start not in known
        ],
        unconnected=[x for x in geometry.elevation if x not in known],
        tank_at=tank_at,
        injector_node=manifolds,
        plan=make_plan(len(junctions) - len(fixed), tuple(ends)),
        impossible=impossible,
        met=_met(ids, chains),
        junction_at={ids[node]: i for node, i in at.items()},
        chain_of={
            geometry.links[links[k].place].key: (i, sense)
            for i, c in enumerate(chains)
            for k, sense in c.members
        },
        varying=_varying(geometry, links, chains[:regulators]),
    )


def _varying(
    geometry: Geometry, links: list[LiveLink], chains: list[Chain]
) -> list[tuple[int, tuple[int, ...], bool]]:
    out = []
    for i, chain in enumerate(chains):
        places = tuple([links[k].place for k, _ in chain.members])
        follows = {geometry.links[place].follows for place in places}
        if follows != {"fluid"}:
            out.append((i, places, "command" not in follows))
    return out


def _chains(
    geometry: Geometry, links: list[LiveLink], n: int, chained: bool
) -> tuple[list[Chain], int]:
    """Links as chains, and where the regulators among them begin. A chain ends at junctions, fixed
    nodes, regulators, injectors, jets, and where one-way links stand against each other.
    """
    at: dict[int, list[int]] = {}
    for i, x in enumerate(links):
        for node in (x.u, x.v):
            at.setdefault(node, []).append(i)

    def alone(i: int) -> bool:
        link = geometry.links[links[i].place]
        return link.regulates or link.into_manifold

    def onward(i: int, node: int) -> int | None:
        """The link that carries on beyond a node of link i, or None where the chain ends there."""
        met = at[node]
        if node >= n or len(met) != 2 or met[0] == met[1]:
            return None
        other = met[0] if met[1] == i else met[1]
        return None if alone(other) or other in used else other

    used: set[int] = set()
    out: list[Chain] = []
    jets = any(
        geometry.links[x.place].key.endswith(".suction") for x in links
    )  # a jet's laws hang on flows: each link stays by itself
    for i, x in enumerate(links):
        if i in used or alone(i):
            continue
        used.add(i)
        row, nodes = [(i, 1)], [x.u, x.v]
        way = 1 if geometry.links[x.place].one_way else 0
        for forward in (True, False) if chained and not jets else ():
            while (
                following := onward(
                    row[-1][0] if forward else row[0][0], nodes[-1] if forward else nodes[0]
                )
            ) is not None:
                here, y = nodes[-1] if forward else nodes[0], links[following]
                sense = 1 if (y.u == here) == forward else -1
                if geometry.links[y.place].one_way:
                    if way == -sense:
                        break
                    way = sense
                used.add(following)
                there = y.v if y.u == here else y.u
                if forward:
                    row.append((following, sense))
                    nodes.append(there)
                else:
                    row.insert(0, (following, sense))
                    nodes.insert(0, there)
        if way < 0:
            row, nodes = [(k, -sense) for k, sense in reversed(row)], nodes[::-1]
        out.append(Chain(nodes[0], nodes[-1], tuple(row), tuple(nodes[1:-1])))
    singles = [(i, x) for i, x in enumerate(links) if alone(i)]
    for regulates in (False, True):
        if regulates:
            regulators = len(out)
        out += [
            Chain(x.u, x.v, ((i, 1),), ())
            for i, x in singles
            if geometry.links[x.place].regulates == regulates
        ]
    return out, regulators


def _blocked(
    live: list[LinkTemplate], shut: list[Shut], tanks: list[str], wanted: dict[str, str]
) -> tuple[str, str] | None:
    """The part that cuts the injectors `wanted` (node -> id) off from every tank, and why; None
    where all can be fed.
    """
    forward: dict[str, list[str]] = {}
    walls: list[tuple[str, str, str, str]] = []
    for link in live:
        if link.into_manifold:
            continue
        walls.append((link.element, link.start, link.end, ""))
        forward.setdefault(link.start, []).append(link.end)
        if not link.one_way:
            forward.setdefault(link.end, []).append(link.start)
    supplied = reached(forward, tanks)
    starved = [node for node in wanted if node not in supplied]
    if not starved:
        return None
    injectors = wanted[starved[0]]
    if not tanks:
        return injectors, "there is no tank in the circuit, so nothing can reach the injectors"
    walls += [(element, start, end, state) for element, _, start, end, state in shut if end]
    beyond: dict[str, list[str]] = {}
    touching: dict[str, list[str]] = {}
    for element, start, end, _ in walls:
        touching.setdefault(start, []).append(element)
        touching.setdefault(end, []).append(element)
        if start not in supplied and end not in supplied:
            join(beyond, start, end)
    near = reached(beyond, [starved[0]])
    across = [
        (e, state)
        for e, start, end, state in walls
        if (start in supplied and end in near) or (end in supplied and start in near)
    ]
    turned = {x.element for x in live if not x.regulates}
    return (
        _wall(injectors, across, turned)
        or _open_end(injectors, near, touching, wanted)
        or _last_words(injectors, across)
    )


def _wall(
    injectors: str, across: list[tuple[str, str]], turned: set[str]
) -> tuple[str, str] | None:
    # What is off or shut first, then what was fitted the wrong way round; a regulator only turns
    # its back where nothing else is wrong.
    for element, state in sorted(across, key=lambda x: ("off", "shut", "").index(x[1])):
        if state or element in turned:
            why = {"off": "it is off", "shut": "it is shut"}.get(
                state, "it points the wrong way, so nothing can flow toward the injectors"
            )
            return element, f"no fuel can reach {injectors} past {element}: {why}"
    return None


def _open_end(
    injectors: str, near: dict[str, int], touching: dict[str, list[str]], wanted: dict[str, str]
) -> tuple[str, str] | None:
    for node in sorted(near):
        if len(touching.get(node, ())) == 1 and node not in wanted:
            element = touching[node][0]
            return (
                element,
                f"no fuel can reach {injectors}: {element} ends at {node}, and nothing is joined to it there",
            )
    return None


def _last_words(injectors: str, across: list[tuple[str, str]]) -> tuple[str, str]:
    if across:
        return across[0][
            0
        ], f"no fuel can reach {injectors} past {across[0][0]}: it only lets fuel the other way"
    return injectors, f"{injectors} is joined to no tank: draw the line that feeds it"
