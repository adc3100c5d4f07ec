"""Nodes in order and links between their numbers, for one state of valves, pumps and injectors; and what stands in the way of fuel."""

from dataclasses import dataclass

from tall_heron.core.hydraulics.compile import MANIFOLD, Piece, Plumbing
from tall_heron.core.hydraulics.elimination import Plan, make_plan
from tall_heron.core.hydraulics.laws import LOSS, REGULATOR

Shut = tuple[str, str, str, str, str]  # element, key, start, end, state


@dataclass(slots=True)
class Frame:
    """`n` unknown nodes first in `ids`, then the `fixed` ones; `pieces` with the numbers of their ends; links that are `shut`; nodes that hang on nothing."""

    n: int
    ids: list[str]
    fixed: list[str]
    pieces: list[tuple[Piece, int, int]]
    shut: list[Shut]
    loose: list[str]
    tank_at: dict[str, str]
    injector_node: dict[str, str]
    plan: Plan
    impossible: tuple[str, str] | None


def make_frame(plumbing: Plumbing, position: dict[str, str], off: frozenset[str], drawing: frozenset[str]) -> Frame:
    """The frame with valves in `position`, parts that are `off`, and the injectors that are `drawing`."""
    live: list[Piece] = []
    shut: list[Shut] = []
    for piece in plumbing.pieces:
        name = piece.element
        if piece.end.startswith(MANIFOLD):
            if name in drawing:
                live.append(piece)
            else:
                shut.append((name, piece.key, piece.start, "", "shut"))
        elif name in off:
            shut.append((name, piece.key, piece.start, piece.end, "off"))
        elif (position.get(name) or plumbing.default_position[name]) not in piece.position:
            shut.append((name, piece.key, piece.start, piece.end, "shut"))
        else:
            live.append(piece)
    tank_at = {node: name for name, (node, _) in plumbing.tanks.items()}
    manifolds = {piece.end: piece.start for piece in live if piece.end.startswith(MANIFOLD)}
    fixed = [*tank_at, *manifolds]
    reached = _spread(_both_ways(live), fixed)
    free = [x for x in plumbing.elevation if x in reached and x not in tank_at]
    ids = free + fixed
    number = {name: i for i, name in enumerate(ids)}
    pieces = [(p, number[p.start], number[p.end]) for p in live if p.start in reached]
    impossible = _blocked(live, shut, list(tank_at), {node: end[len(MANIFOLD) :] for end, node in manifolds.items()})
    shut += [(p.element, p.key, p.start, p.end, "no supply") for p in live if p.start not in reached]
    return Frame(
        n=len(free),
        ids=ids,
        fixed=fixed,
        pieces=pieces,
        shut=shut,
        loose=[x for x in plumbing.elevation if x not in reached],
        tank_at=tank_at,
        injector_node=manifolds,
        plan=make_plan(len(free), tuple((u, v) for _, u, v in pieces)),
        impossible=impossible,
    )


def _both_ways(pieces: list[Piece]) -> dict[str, list[str]]:
    near: dict[str, list[str]] = {}
    for piece in pieces:
        near.setdefault(piece.start, []).append(piece.end)
        near.setdefault(piece.end, []).append(piece.start)
    return near


def _blocked(live: list[Piece], shut: list[Shut], tanks: list[str], wanted: dict[str, str]) -> tuple[str, str] | None:
    """The part that cuts the injectors `wanted` (node -> id) off from every tank, and why; None where all can be fed."""
    forward: dict[str, list[str]] = {}
    walls: list[tuple[str, str, str, str]] = []
    for piece in live:
        if piece.end.startswith(MANIFOLD):
            continue
        walls.append((piece.element, piece.start, piece.end, ""))
        forward.setdefault(piece.start, []).append(piece.end)
        if piece.code == LOSS and not piece.one_way:
            forward.setdefault(piece.end, []).append(piece.start)
    fed = _spread(forward, tanks)
    starved = [node for node in wanted if node not in fed]
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
        if start not in fed and end not in fed:
            beyond.setdefault(start, []).append(end)
            beyond.setdefault(end, []).append(start)
    near = _spread(beyond, [starved[0]])
    across = [(e, state) for e, start, end, state in walls if (start in fed and end in near) or (end in fed and start in near)]
    # What is off or shut first, then what was fitted the wrong way round, then a loose end; a regulator only turns its back where nothing else is wrong.
    turned = {p.element for p in live if p.code != REGULATOR}
    for element, state in sorted(across, key=lambda x: ("off", "shut", "").index(x[1])):
        if state or element in turned:
            why = {"off": "it is off", "shut": "it is shut"}.get(state, "it points the wrong way, so nothing can flow toward the injectors")
            return element, f"no fuel can reach {injectors} past {element}: {why}"
    for node in sorted(near):
        if len(touching.get(node, ())) == 1 and node not in wanted:
            element = touching[node][0]
            return element, f"no fuel can reach {injectors}: {element} ends at {node}, and nothing is joined to it there"
    if across:
        return across[0][0], f"no fuel can reach {injectors} past {across[0][0]}: it only lets fuel the other way"
    return injectors, f"{injectors} is joined to no tank: draw the line that feeds it"


def _spread(edges: dict[str, list[str]], start: list[str]) -> set[str]:
    seen, queue = set(start), list(start)
    while queue:
        for other in edges.get(queue.pop(), ()):
            if other not in seen:
                seen.add(other)
                queue.append(other)
    return seen
