"""What is screwed together without a line between: parts that stand and move as one, and where each
lies in it.
"""

import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

from tall_heron.core.base.catalogue import table
from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.kinds import LINES
from tall_heron.core.document.mounts import hung_pumps
from tall_heron.core.document.path import ways
from tall_heron.core.document.tank_inside import LIE_ACROSS
from tall_heron.core.routing.vectors import Vector, add_vectors

DRAWN_WITH = ("injectors",)  # kinds that have no body of their own
USUAL_OUTLET_MM = 20.0
FLANGE_MM, NUT_MM, STEP_MM = (
    90.0,
    48.0,
    10.0,
)  # across a hanger's flange and a bulkhead nut, with a little between; how finely places are tried


@dataclass(frozen=True)
class Body:
    """How large a part is [mm], the room a tool needs round it [mm], and whether hands must reach
    it.
    """

    long: float
    wide: float
    high: float
    tool: float
    reach: bool


@dataclass(frozen=True)
class Assembly:
    """Parts in one piece: `main` names it; the middle of each part `at` and each node `nodes` in
    its own frame [mm, x along its flow], and the ways a line may leave a node `ways_out`, the best
    first. `within`: the lines that lie inside its tank.
    """

    main: Element
    parts: tuple[Element, ...]
    at: dict[str, Vector]
    bodies: dict[str, Body]
    nodes: dict[str, Vector]
    ways_out: dict[str, tuple[Vector, ...]]
    within: frozenset[str]


X, Y, Z = (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)
BACK, RIGHT, DOWN = (-1.0, 0.0, 0.0), (0.0, -1.0, 0.0), (0.0, 0.0, -1.0)
FIRST = (
    "tank",
    "rail",
    "carburettor",
    "selector",
    "pump",
    "jet",
    "regulator",
    "controller",
    "relief",
    "filter",
    "strainer",
)  # what names an assembly, the first there is


def body_of(element: Element) -> Body:
    """A part's body: a tank's own box, a filter's or rail's own length, else as parts of its kind
    and mount usually are.
    """
    rows = [r for r in table("bodies") if r["kind"] == element.kind]
    row = next(
        (r for r in rows if r["mount"] == element.properties.mount),
        next((r for r in rows if not r["mount"]), None),
    )
    long, wide, high, tool, reach = (
        (row[k] for k in ("long_mm", "wide_mm", "high_mm", "tool_mm", "reach"))
        if row
        else (60.0, 40.0, 40.0, 0.0, False)
    )
    p = element.properties
    if element.kind == "tank":
        along, over, up = (
            p.long_mm or long,
            p.wide_mm or wide,
            (p.high_mm or high) + (p.sump_mm or 0.0),
        )
        across = (
            p.inside.turned
            if p.inside is not None and p.inside.turned is not None
            else p.family in LIE_ACROSS
        )
        return Body(*((over, along) if across else (along, over)), up, tool, reach)
    return Body(p.body_mm or p.long_mm or long, p.wide_mm or wide, p.high_mm or high, tool, reach)


def assemblies_of(circuit: Circuit) -> list[Assembly]:
    """Every assembly of a circuit, in document order of their first parts; worked out once for a
    circuit.
    """
    return circuit.memo(_assemblies_of)


def _assemblies_of(circuit: Circuit) -> list[Assembly]:
    inside = _inside_tanks(circuit)
    groups = _groups(circuit, inside)
    out = []
    for parts in groups:
        main = next((e for kind in FIRST for e in parts if e.kind == kind), parts[0])
        within = frozenset(line for line, tank in inside.items() if tank == main.id)
        out.append(
            _in_tank(main, parts, within, circuit)
            if main.kind == "tank"
            else _in_line(main, parts, within)
        )
    return out


def _inside_tanks(circuit: Circuit) -> dict[str, str]:
    """Lines that lie in the fuel of a tank, and which."""
    return {
        e.id: hung.tank.id
        for hung in hung_pumps(circuit)
        if hung.tank is not None
        for e in hung.immersed
    }


def _groups(circuit: Circuit, inside: dict[str, str]) -> list[list[Element]]:
    """Parts joined by a node, or by a line inside a tank; a line ends an assembly. A tank's own
    pumps hang in it. Two tanks are never one piece.
    """
    leader: dict[str, str] = {}

    def top(name: str) -> str:
        while leader.setdefault(name, name) != name:
            name = leader[name]
        return name

    own = [e for e in circuit.elements if e.kind not in LINES and e.kind not in ("vent_valve",)]
    for e in (*own, *(x for x in circuit.elements if x.id in inside)):
        for node in e.ports.values():
            leader[top(f"n {node}")] = top(f"e {e.id}")
    by_mount: dict[str, list[Element]] = {}
    for e in own:
        by_mount.setdefault(top(f"e {e.id}"), []).append(e)
    return list(by_mount.values())


def _free(taken: set[Vector], *wanted: Vector) -> tuple[Vector, ...]:
    return tuple(v for v in wanted if v not in taken) or wanted


def _in_line(main: Element, parts: list[Element], within: frozenset[str]) -> Assembly:
    """Parts one behind another along their flow, parallel ones side by side."""
    nodes: dict[str, Vector] = {}
    at: dict[str, Vector] = {}
    bodies = {e.id: body_of(e) for e in parts if e.kind not in DRAWN_WITH}
    pairs = [(a, b, e) for e in parts for a, b in ways(e)]
    into = {b for _, b, _ in pairs}
    lanes: dict[str, int] = {}
    starts = (
        list(dict.fromkeys(a for a, _, _ in pairs if a not in into))
        or [p for e in parts for p in e.ports.values()][:1]
    )
    for k, start in enumerate(
        starts
    ):  # what comes in side by side stands so: the first to the left
        nodes[start] = (0.0, 90.0 * ((len(starts) - 1) / 2 - k), 0.0)
    for _ in range(len(pairs) + 1):
        for a, b, e in pairs:
            if a in nodes and e.id not in at:
                _lay(e, bodies.get(e.id), a, b, nodes, at, lanes, [x for x in pairs if x[0] == a])
    for e in parts:
        if e.id not in at and e.kind not in DRAWN_WITH:
            node = next(iter(e.ports.values()), "")
            at[e.id] = (
                add_vectors(nodes.setdefault(node, (0.0, 0.0, 0.0)), Z, 45.0)
                if len(e.ports) == 1
                else nodes.setdefault(node, (0.0, 0.0, 0.0))
            )
        for node in e.ports.values():
            nodes.setdefault(node, (0.0, 0.0, 0.0))
    return Assembly(
        main,
        tuple(parts),
        at,
        bodies,
        nodes,
        {n: _outward(n, parts, nodes, at) for n in nodes},
        within,
    )


def _lay(
    e: Element,
    body: Body | None,
    a: str,
    b: str,
    nodes: dict[str, Vector],
    at: dict[str, Vector],
    lanes: dict[str, int],
    beside: list[tuple[str, str, Element]],
) -> None:
    here, long = nodes[a], body.long if body is not None else 0.0
    rivals = list(dict.fromkeys(x[2].id for x in beside if x[2].kind not in ("merge",)))
    shift = 0.0
    if len(rivals) > 1 and e.id in rivals:
        shift = 90.0 * (rivals.index(e.id) - (len(rivals) - 1) / 2)
    joins = [n for a, b in ways(e) if b == ways(e)[0][1] and (n := a) in nodes]
    if len(joins) > 1:  # several ways in: it stands in their middle
        here = (
            max(nodes[n][0] for n in joins),
            sum(nodes[n][1] for n in joins) / len(joins),
            here[2],
        )
    at[e.id] = add_vectors(add_vectors(here, X, long / 2), Y, shift)
    for i, (_, out) in enumerate(ways(e)):
        if len({o for _, o in ways(e)}) > 1 and i:
            nodes.setdefault(out, add_vectors(at[e.id], Y, 45.0))
        else:
            nodes.setdefault(out, add_vectors(at[e.id], X, long / 2))
    if e.kind in ("merge", "junction", "jet"):  # what leads into its other leg begins beside it
        for name, node in e.ports.items():
            if name != "end":
                nodes.setdefault(node, add_vectors(add_vectors(at[e.id], X, -long / 2), Y, 45.0))


def _outward(
    node: str, parts: list[Element], nodes: dict[str, Vector], at: dict[str, Vector]
) -> tuple[Vector, ...]:
    """The ways a line may leave a node of an assembly: away from the part there, where nothing else
    stands; sideways from a branch.
    """
    taken: set[Vector] = set()
    for e in parts:
        for a, b in ways(e):
            taken |= {X} if a == node else {BACK} if b == node else set()
        outs = list(dict.fromkeys(b for _, b in ways(e)))
        if node in outs[1:] or (
            e.kind in ("merge", "junction", "jet")
            and node in e.ports.values()
            and node not in (e.ports.get("end"), ways(e)[0][0])
        ):
            side = Y if nodes[node][1] >= at.get(e.id, (0.0, 0.0, 0.0))[1] else RIGHT
            return _free(taken - {X}, side, X, BACK, Z)
    return (
        _free(taken, X, BACK, Y, RIGHT, Z)
        if BACK not in taken
        else _free(taken, X, Y, RIGHT, Z, BACK)
    )


def outlet_left(a: Assembly) -> Assembly:
    """A tank whose outlet is in its left wall instead of its front wall."""
    box = a.bodies[a.main.id]
    front = [
        n
        for n, ways in a.ways_out.items()
        if ways[0] == X and abs(a.nodes[n][0] - box.long / 2) < 1.0
    ]
    nodes = a.nodes | {n: (0.0, box.wide / 2, a.nodes[n][2]) for n in front}
    at = a.at | {
        e.id: (0.0, box.wide / 2 - 20.0, v[2])
        for e in a.parts
        if e.kind == "strainer" and (v := a.at[e.id])[0] > box.long / 2 - 30
    }
    return replace(
        a, nodes=nodes, at=at, ways_out=a.ways_out | {n: (Y, *a.ways_out[n][1:]) for n in front}
    )


def tops_of(
    main: Element, parts: Iterable[Element], box: Body, ahead: float
) -> dict[str, tuple[float, float]]:
    """Where what stands on a tank's top does, in its own frame [mm]: the hanger over the pickup,
    inlets toward the front, each clear of the edges and of the others' flanges and nuts; the
    sender's flange keeps the middle of the rear half.
    """
    wanted: list[tuple[str, float, float, float]] = []
    for e in parts:
        if e.properties.mount in ("hanger", "inlet"):
            hung = e.properties.mount == "hanger"
            x = min(ahead, box.long / 2 - 60) if hung else box.long / 2 - 70.0
            wanted.append(
                (
                    e.id,
                    x,
                    (len(wanted) - 0.5) * min(90.0, box.wide / 4),
                    FLANGE_MM if hung else NUT_MM,
                )
            )
    return spread_out(box, wanted, [])


def spread_out(
    box: Body,
    wanted: Sequence[tuple[str, float, float, float]],
    taken: Sequence[tuple[float, float, float]],
) -> dict[str, tuple[float, float]]:
    """Places on a tank's top, each as near as may be to where it is wanted: (name, x, y, how wide
    it is) [mm], with its whole width on the surface and clear of the others; where none is it
    stays.
    """
    out: dict[str, tuple[float, float]] = {}
    placed = list(taken)
    for name, x, y, wide in wanted:
        place = min(
            _places(box, wide, placed, x, y),
            key=lambda p: (p[0] - x) ** 2 + (p[1] - y) ** 2,
            default=(x, y),
        )
        out[name] = place
        placed.append((*place, wide))
    return out


def _places(
    box: Body, wide: float, placed: Sequence[tuple[float, float, float]], x: float, y: float
) -> Iterator[tuple[float, float]]:
    far, aside = box.long / 2 - wide / 2, box.wide / 2 - wide / 2
    grid = [
        (i * STEP_MM, k * STEP_MM)
        for i in range(-int(max(far, 0) // STEP_MM), int(max(far, 0) // STEP_MM) + 1)
        for k in range(-int(max(aside, 0) // STEP_MM), int(max(aside, 0) // STEP_MM) + 1)
    ]
    for p in [(x, y), *grid]:
        if (
            abs(p[0]) <= far
            and abs(p[1]) <= aside
            and all(math.dist(p, h[:2]) >= (wide + h[2]) / 2 for h in placed)
        ):
            yield p
            if p == (x, y):
                return


def _in_tank(
    main: Element, parts: list[Element], within: frozenset[str], circuit: Circuit
) -> Assembly:
    """A tank with what is in and on it: an outlet in its front wall at its height, hangers, inlets
    and what follows them on its top.
    """
    box = body_of(main)
    bodies = {e.id: body_of(e) for e in parts if e.kind not in DRAWN_WITH}
    low = min(main.properties.outlet_mm or USUAL_OUTLET_MM, box.high)
    inner = next(
        (hung for hung in hung_pumps(circuit) if hung.tank is not None and hung.tank.id == main.id),
        None,
    )
    inside = main.properties.inside
    ahead = (
        inside.pickup_ahead_mm - box.long / 2
        if inside is not None and inside.pickup_ahead_mm is not None
        else 0.0
    )
    right = (
        inside.pickup_right_mm - box.wide / 2
        if inside is not None and inside.pickup_right_mm is not None
        else 0.0
    )
    pickup = (
        max(-box.long / 2, min(box.long / 2, ahead)),
        max(-box.wide / 2, min(box.wide / 2, -right)),
        low,
    )
    at: dict[str, Vector] = {main.id: (0.0, 0.0, box.high / 2)}
    nodes: dict[str, Vector] = {}
    out: dict[str, tuple[Vector, ...]] = {}
    tops = tops_of(main, parts, box, pickup[0])
    across = box.wide > box.long
    wall = ((0.0, -box.wide / 2, low), RIGHT) if across else ((box.long / 2, 0.0, low), X)
    for e in parts:
        if e.id in tops:
            top = (*tops[e.id], box.high)
            at[e.id] = add_vectors(top, Z, bodies[e.id].high / 2)
            for node in (ways(e)[0][1] if e.properties.mount == "hanger" else ways(e)[0][0],):
                nodes[node], out[node] = add_vectors(top, Z, bodies[e.id].high), (Z, X, BACK)
    hung = inner is not None
    for e in parts:
        if e is main:
            nodes.setdefault(e.ports["outlet"], pickup if hung else wall[0])
            out.setdefault(e.ports["outlet"], (wall[1], Z))
            continue
        spot = (
            add_vectors(pickup, BACK, 15.0 * len(nodes))
            if hung
            else add_vectors(wall[0], wall[1], -20.0)
        )
        at.setdefault(e.id, add_vectors(spot, Z, 30.0) if hung else spot)
        for node in e.ports.values():
            if node not in nodes:
                nodes[node], out[node] = (
                    (add_vectors(pickup, BACK, 15.0 * len(nodes)), (Z, X))
                    if hung
                    else (wall[0], (wall[1], Z))
                )
    return Assembly(main, tuple(parts), at, bodies, nodes, out, within)
