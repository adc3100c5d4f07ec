"""Ways for a line round what it must keep away from: the shortest over a grid of places, by
Dijkstra's method (scipy.sparse.csgraph), drawn straight again and bent.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from tall_heron.core.base.wanted import still_wanted
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.space import Zone
from tall_heron.core.routing.clearance import Points, crossings, distance, polyline, vector
from tall_heron.core.routing.laid import VENT_RISE, Laid, LaidLine
from tall_heron.core.routing.limits import keep_out
from tall_heron.core.routing.run import HoseRun
from tall_heron.core.routing.vectors import Vector, add_vectors, size, subtract_vectors
from tall_heron.core.routing.way import eased

MOST_CELLS, FEW_CELLS = 26_000, 8_000  # of the grid that is searched; where many lines are at once
LEAST_CELL = 60.0  # mm
ROOM = 350.0  # mm beyond the ends and the lanes that are looked at
NEAR_COST = 3.0  # times as long, where a line comes nearer than it should
CABIN_COST = 4.0  # times as long, within the cabin, for the way under it; the other way round for that inside
LANE_COST = 0.75
MARGINS = (0.0, 60.0)  # mm more than is asked, for what bends cut off
THROUGH_PANEL = 250.0  # mm that a hole through a panel counts for


@dataclass(frozen=True)
class Suggestion:
    """A way for a line: what it is called, its corners, whether every place of it keeps its
    distance, and what it passes nearer than that.
    """

    name: str
    corners: tuple[Vector, ...]
    run: HoseRun
    passes: tuple[str, ...]


def suggestions(laid: Laid, line: LaidLine) -> list[Suggestion]:
    """One or two ways for a line: under the cabin and inside it where they differ, else the one
    there is. Empty where its ends lie on one another.
    """
    out: list[Suggestion] = []
    cabin = [z for z in laid.outline.zones if z.kind == "cabin"]
    outer, inner = (
        ("along the usual lanes", "straight through")
        if laid.outline.flies
        else ("under and round", "through the cabin")
    )
    for inside in (False, True) if cabin else (False,):
        met = [
            (len(passes), i, run, passes)
            for i, (run, passes) in enumerate(_tries(laid, line, inside))
        ]
        if not met:
            continue
        _, _, best, passes = min(met, key=lambda x: x[:2])
        if not any(_alike(best, s.run) for s in out):
            goes_in = not laid.outline.flies and any(
                bool((distance(z, polyline(best.drawn()).points) < 0).any()) for z in cabin
            )
            name = inner if goes_in or (laid.outline.flies and inside) else outer
            out.append(Suggestion(name, best.corners, best, passes))
    return out if len({s.name for s in out}) == len(out) else out[:1]


def way_round(laid: Laid, line: LaidLine) -> HoseRun | None:
    """The way outside the cabin that passes least too near; None where there is none."""
    met = [
        (len(passes), i, run)
        for i, (run, passes) in enumerate(_tries(laid, line, False, FEW_CELLS))
    ]
    return min(met, key=lambda x: x[:2])[2] if met else None


def _tries(
    laid: Laid, line: LaidLine, inside: bool, cells: int = MOST_CELLS
) -> Iterator[tuple[HoseRun, tuple[str, ...]]]:
    """The way found with what is asked, and what it still passes too near, for bends cut corners;
    then with more room asked, until one keeps clear.
    """
    for margin in MARGINS:
        best = _way(laid, line, inside, margin, cells)
        if best is not None:
            passes = tuple(
                sorted(
                    {
                        z.title or z.name
                        for z in laid.outline.zones
                        if z.kind != "cabin" and _too_near(laid, line.element, best, z)
                    }
                )
            )
            yield best, passes
            if not passes:
                return


def _too_near(laid: Laid, element: Element, run: HoseRun, zone: Zone) -> bool:
    keep = keep_out(element, zone, laid.outline.flies)
    return keep > 0 and bool(
        (distance(zone, polyline(run.drawn()).looked_at()[0]) < keep - 0.5).any()
    )


def _alike(a: HoseRun, b: HoseRun) -> bool:
    one, other = (polyline(r.drawn()) for r in (a, b))
    s = np.linspace(0, 1, 24)
    return (
        max(
            size(subtract_vectors(one.at(t * one.along[-1]), other.at(t * other.along[-1])))
            for t in s
        )
        < 120.0
    )


def _way(laid: Laid, line: LaidLine, inside: bool, margin: float, cells: int) -> HoseRun | None:
    run = line.run
    stub = 0.6 * run.radius + 10.0
    a, b = (
        add_vectors(run.one.socket, run.one.leaves, max(stub, _rise(line))),
        add_vectors(run.other.socket, run.other.leaves, stub),
    )
    lanes = laid.outline.inside if inside and laid.outline.inside else laid.outline.lanes
    ends = np.array([a, b])
    low = np.minimum(ends.min(axis=0), _near_lanes(lanes, ends)[0]) - ROOM
    high = np.maximum(ends.max(axis=0), _near_lanes(lanes, ends)[1]) + ROOM
    low[2] = max(low[2], 40.0)
    high[2] = min(high[2], laid.outline.size[2])
    cell = max(LEAST_CELL, float(np.prod(np.maximum(high - low, 1.0)) / cells) ** (1 / 3))
    shape = np.maximum(((high - low) / cell).astype(int) + 1, 2)
    axes = [low[i] + cell * np.arange(shape[i]) for i in range(3)]
    grid = np.stack(np.meshgrid(*axes, indexing="ij"), axis=-1).reshape(-1, 3)
    weight = _weights(laid, line.element, grid, inside, cell, margin)
    path = _shortest(grid, shape, weight, cell, ends, laid)
    if path is None:
        return None
    return _drawn_straight(laid, line, path, margin)


def _rise(line: LaidLine) -> float:
    """How far a line goes straight out of its first end at least [mm]: a vent rises over its tank
    first.
    """
    return VENT_RISE if line.element.kind == "vent" else 0.0


def _near_lanes(lanes: tuple[tuple[Vector, ...], ...], ends: Points) -> tuple[Points, Points]:
    """The box of the lanes' places between two ends along the vehicle; the ends' own where there is
    none.
    """
    low, high = ends.min(axis=0), ends.max(axis=0)
    on = [
        p
        for lane in lanes
        for p in lane
        if low[0] - 400 <= p[0] <= high[0] + 400 and low[1] - 900 <= p[1] <= high[1] + 900
    ]
    both = np.array([*on, *map(tuple, ends)])
    return both.min(axis=0), both.max(axis=0)


def _weights(
    laid: Laid, element: Element, grid: Points, inside: bool, cell: float, margin: float
) -> Points:
    """What a millimeter costs at each place of the grid; without end within a zone that is no air."""
    from scipy.spatial import cKDTree  # megabytes that only who asks for a way needs

    weight = np.ones(len(grid))
    for zone in laid.outline.zones:
        far = distance(zone, grid)
        if zone.kind == "cabin":
            if laid.outline.flies:
                continue
            weight[far < 0] *= 1.0 if inside else CABIN_COST
            continue
        if zone.kind == "ground":
            weight[far < 0] *= CABIN_COST if inside else 1.0
            continue
        keep = keep_out(element, zone, laid.outline.flies)
        if keep > 0:
            weight[far < keep + cell / 2 + margin] *= NEAR_COST
            weight[far < min(keep, 25.0)] *= 40.0
        elif zone.kind == "crush":
            weight[far < 0] *= NEAR_COST
    for lane in laid.outline.inside if inside and laid.outline.inside else laid.outline.lanes:
        near = cKDTree(polyline(list(lane)).looked_at()[0]).query(grid)[0]
        weight[near < cell] *= 1.0 if inside and laid.outline.flies else LANE_COST
    return weight


def _shortest(
    grid: Points, shape: Points, weight: Points, cell: float, ends: Points, laid: Laid
) -> list[Vector] | None:
    """The cheapest way from one end to the other over neighbors of the grid, corner to corner too."""
    from scipy.sparse import coo_matrix
    from scipy.sparse.csgraph import dijkstra

    index = np.arange(len(grid)).reshape(tuple(int(n) for n in shape))
    rows, columns, costs = [], [], []
    for step in [
        (i, j, k)
        for i in (-1, 0, 1)
        for j in (-1, 0, 1)
        for k in (-1, 0, 1)
        if (i, j, k) > (0, 0, 0)
    ]:
        one = index[
            tuple(slice(max(-d, 0), n - max(d, 0)) for d, n in zip(step, index.shape, strict=True))
        ].ravel()
        other = index[
            tuple(slice(max(d, 0), n - max(-d, 0)) for d, n in zip(step, index.shape, strict=True))
        ].ravel()
        cost = cell * float(np.linalg.norm(step)) * (weight[one] + weight[other]) / 2
        for panel in laid.outline.panels:
            axis, level = panel.axis, panel.low[panel.axis]
            if step[axis]:
                through = (grid[one][:, axis] - level) * (grid[other][:, axis] - level) < 0
                for k in range(3):
                    if k != axis:
                        through &= (grid[one][:, k] > panel.low[k]) & (
                            grid[one][:, k] < panel.high[k]
                        )
                cost = cost + THROUGH_PANEL * through
        rows.append(one)
        columns.append(other)
        costs.append(cost)
    graph = coo_matrix(
        (np.concatenate(costs), (np.concatenate(rows), np.concatenate(columns))),
        shape=(len(grid), len(grid)),
    ).tocsr()
    start, goal = (int(np.linalg.norm(grid - e, axis=1).argmin()) for e in ends)
    if start == goal:
        return [vector(ends[0]), vector(ends[1])]
    still_wanted()
    came = dijkstra(graph, directed=False, indices=start, return_predecessors=True)[1]
    out, here = [], goal
    while here != start:
        if here < 0:
            return None
        out.append(here)
        here = int(came[here])
    return [vector(ends[0]), *(vector(grid[i]) for i in out[:0:-1]), vector(ends[1])]


def _drawn_straight(
    laid: Laid, line: LaidLine, path: list[Vector], margin: float
) -> HoseRun | None:
    """The way with as few corners as keep their distance, eased into bends."""
    zones = [(z, keep_out(line.element, z, laid.outline.flies)) for z in laid.outline.zones]
    guarded = [(z, keep + margin) for z, keep in zones if keep > 0]

    def cost(points: list[Vector]) -> float:
        """How much of it, in mm, is nearer to something than it may be."""
        looked = (
            polyline(points).looked_at()[0]
            if size(subtract_vectors(points[0], points[-1])) > 1
            else np.array(points)
        )
        return sum(
            float((np.maximum(keep + 5.0 - distance(z, looked), 0.0)).sum()) for z, keep in guarded
        )

    def holes(points: list[Vector]) -> int:
        return sum(len(crossings(p, polyline(points))) for p in laid.outline.panels)

    corners_left, i = [path[0]], 0
    while i < len(path) - 1:
        j = len(path) - 1
        while j > i + 1:
            whole = path[i : j + 1]
            if (
                cost([path[i], path[j]]) <= cost(whole) + 1.0
                and holes([path[i], path[j]]) <= holes(whole)
                and _cabin(laid, [path[i], path[j]]) <= _cabin(laid, whole) + 60
            ):
                break
            j -= max((j - i) // 8, 1) if j - i > 9 else 1
        corners_left.append(path[j])
        i = j
    corners = eased(line.run.one, line.run.other, corners_left[1:-1], line.run.radius, _rise(line))
    try:
        run = HoseRun(line.run.one, line.run.other, corners, line.run.radius)
        run.drawn()
    except ValueError:
        return None
    return run


def _cabin(laid: Laid, points: list[Vector]) -> float:
    """How much of a way lies within the cabin [mm]."""
    looked, s = polyline(points).looked_at()
    within = np.zeros(len(looked), dtype=bool)
    for z in laid.outline.zones:
        if z.kind == "cabin":
            within |= distance(z, looked) < 0
    return float((np.diff(s) * within[1:]).sum()) if len(s) > 1 else 0.0
