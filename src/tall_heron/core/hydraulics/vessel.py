"""A tank of the document as a vessel that fuel runs about in: its compartments, the openings
between them, and where its outlet draws.
"""

from dataclasses import dataclass

import numpy as np

from tall_heron.core.document.properties import Properties
from tall_heron.core.document.tank_inside import LIE_ACROSS, Baffle, Inside, side_strips
from tall_heron.core.physics.slosh import Prism, Vessel


@dataclass(frozen=True)
class VesselOpening:
    """A way between two compartments at a place [m], open from `low` to `high` over `area` [m2],
    from `one` to `other` and, where `both`, back.
    """

    one: int
    other: int
    x: float
    y: float
    low: float
    high: float
    area: float
    forth: bool = True
    back: bool = True


@dataclass(frozen=True)
class Tank:
    """A vessel with its openings, its outlet as (compartment, x, y, z) [m], its outer measures
    `long`, `wide` and `high` [m], and what of it nobody has said: `assumed`; `placed` where the
    outlet's place along it is said.
    """

    vessel: Vessel
    openings: tuple[VesselOpening, ...]
    outlet: tuple[int, float, float, float]
    long: float
    wide: float
    high: float
    assumed: tuple[str, ...]
    placed: bool

    @property
    def holds(self) -> float:
        """What it holds [m3]."""
        return float(self.vessel.full.sum())

    def out_of_reach(
        self, along: float = 0.0, across: float = 0.0, ahead: float | None = None
    ) -> float:
        """What it still holds when its outlet begins to draw air and the fuel has run all the way
        [m3]: what is under the surface that just meets the outlet, which may be tried `ahead` [m]
        of the rear wall instead of where it is. Doors hold nothing back here, and fuel that is shut
        off is counted.
        """
        _, x, y, z = self.outlet
        height = z - along * (x if ahead is None else ahead) - across * y
        return float(
            self.vessel.tilt(along, across).under(np.full(len(self.vessel.full), height))[0].sum()
        )


def make_tank(p: Properties) -> Tank | None:
    """The vessel of a tank; None where it does not say its sides, its volume or how high its outlet
    stands. An outlet nobody has placed is taken to be in the middle.
    """
    if (
        p.long_mm is None
        or p.wide_mm is None
        or p.high_mm is None
        or p.capacity_l is None
        or p.outlet_mm is None
    ):
        return None
    inside = p.inside or Inside()
    deep = (p.sump_mm or 0.0) / 1000
    turned = p.family in LIE_ACROSS if inside.turned is None else inside.turned
    long, wide, high = (
        (p.wide_mm if turned else p.long_mm) / 1000,
        (p.long_mm if turned else p.wide_mm) / 1000,
        p.high_mm / 1000,
    )
    if inside.side:
        long, high = max(x for x, _ in inside.side) / 1000, max(z for _, z in inside.side) / 1000
    x = min(
        (inside.pickup_ahead_mm if inside.pickup_ahead_mm is not None else 500 * long) / 1000, long
    )
    y = min(
        (inside.pickup_right_mm if inside.pickup_right_mm is not None else 500 * wide) / 1000, wide
    )
    prisms = [
        q for strip in _strips(inside, long, high, deep) for q in _across(strip, inside, wide, deep)
    ]
    walls_x = [w for w in inside.baffles if w.way == "across" and w.at_mm / 1000 < long]
    walls_y = [w for w in inside.baffles if w.way == "along" and w.at_mm / 1000 < wide]
    cells = _cells(
        prisms, [w.at_mm / 1000 for w in walls_x], [w.at_mm / 1000 for w in walls_y], long, wide
    )
    edges_x, edges_y = _edges(walls_x, long), _edges(walls_y, wide)
    here = (_cell_of(edges_x, x), _cell_of(edges_y, y))
    filled = [key for key in cells if cells[key]]
    if here not in filled:
        return None
    box = sum(
        (q.x1 - q.x0) * (q.y1 - q.y0) * (sum(q.top) - sum(q.floor)) / 2
        for key in filled
        for q in cells[key]
    )
    share = min(max((p.capacity_l - (p.sump_l or 0.0)) / 1000 / box, 0.01), 1.0)
    if p.sump_l and deep:
        cells[here].append(_sump(p.sump_l / 1000 / share, deep, x, y, edges_x, edges_y, here))
    names = {key: i for i, key in enumerate(filled)}
    vessel = Vessel([cells[key] for key in filled], share)
    openings = [
        *_openings(walls_x, edges_y, names, cells, 0, deep),
        *_openings(walls_y, edges_x, names, cells, 1, deep),
    ]
    assumed = (
        [] if inside.pickup_ahead_mm is not None else ["its outlet in the middle of its length"]
    )
    assumed += (
        [] if inside.pickup_right_mm is not None else ["its outlet in the middle of its width"]
    )
    assumed += (
        ["no walls, though it says it has baffles"] if p.baffles and not inside.baffles else []
    )
    assumed += (
        ["a box with upright sides"]
        if not inside.side and not p.foam and p.family in ("wing tank", "saddle tank")
        else []
    )
    return Tank(
        vessel,
        tuple(openings),
        (names[here], x, y, p.outlet_mm / 1000),
        long,
        wide,
        high + deep,
        tuple(assumed),
        inside.pickup_ahead_mm is not None,
    )


Piece = tuple[float, float, tuple[float, float], tuple[float, float]]


def _strips(inside: Inside, long: float, high: float, deep: float) -> list[Piece]:
    """The side cut into upright pieces [m], above its sump."""
    if not inside.side:
        return [(0.0, long, (deep, deep), (deep + high, deep + high))]
    return [
        (
            a / 1000,
            b / 1000,
            (deep + f[0] / 1000, deep + f[1] / 1000),
            (deep + t[0] / 1000, deep + t[1] / 1000),
        )
        for a, b, f, t in side_strips(inside.side)
    ]


def _across(piece: Piece, inside: Inside, wide: float, deep: float) -> list[Prism]:
    """A piece over the whole width, its floor raised where there is a hump under it."""
    a, b, floor, top = piece
    if inside.hump_high_mm is None or inside.hump_wide_mm is None:
        return [Prism(a, b, 0.0, wide, floor, top)]
    hump, half = deep + inside.hump_high_mm / 1000, min(inside.hump_wide_mm / 1000, 0.9 * wide) / 2
    raised = (min(max(floor[0], hump), top[0]), min(max(floor[1], hump), top[1]))
    return [
        Prism(a, b, 0.0, wide / 2 - half, floor, top),
        Prism(a, b, wide / 2 - half, wide / 2 + half, raised, top),
        Prism(a, b, wide / 2 + half, wide, floor, top),
    ]


def _edges(walls: list[Baffle], end: float) -> list[float]:
    return [0.0, *sorted(w.at_mm / 1000 for w in walls), end]


def _cell_of(edges: list[float], at: float) -> int:
    return min(sum(e <= at for e in edges[1:-1]), len(edges) - 2)


Cells = dict[tuple[int, int], list[Prism]]


def _cells(
    prisms: list[Prism], walls_x: list[float], walls_y: list[float], long: float, wide: float
) -> Cells:
    """The prisms cut by the walls, by the cell they lie in."""
    edges_x, edges_y = [0.0, *sorted(walls_x), long], [0.0, *sorted(walls_y), wide]
    out: Cells = {(i, j): [] for i in range(len(edges_x) - 1) for j in range(len(edges_y) - 1)}
    for q in prisms:
        for i, j in out:
            x0, x1 = max(q.x0, edges_x[i]), min(q.x1, edges_x[i + 1])
            y0, y1 = max(q.y0, edges_y[j]), min(q.y1, edges_y[j + 1])
            if x1 - x0 > 1e-9 and y1 - y0 > 1e-9:
                out[i, j].append(
                    Prism(
                        x0,
                        x1,
                        y0,
                        y1,
                        (_at(q, q.floor, x0), _at(q, q.floor, x1)),
                        (_at(q, q.top, x0), _at(q, q.top, x1)),
                    )
                )
    return out


def _at(q: Prism, ends: tuple[float, float], x: float) -> float:
    return ends[0] + (ends[1] - ends[0]) * (x - q.x0) / (q.x1 - q.x0)


def _sump(
    volume: float,
    deep: float,
    x: float,
    y: float,
    edges_x: list[float],
    edges_y: list[float],
    here: tuple[int, int],
) -> Prism:
    """A square sump under the outlet, kept within its compartment."""
    half = (volume / deep) ** 0.5 / 2
    x0, x1 = edges_x[here[0]], edges_x[here[0] + 1]
    y0, y1 = edges_y[here[1]], edges_y[here[1] + 1]
    half_x = min(half, (x1 - x0) / 2)
    half_y = min(volume / deep / (4 * half_x), (y1 - y0) / 2)
    x, y = min(max(x, x0 + half_x), x1 - half_x), min(max(y, y0 + half_y), y1 - half_y)
    return Prism(x - half_x, x + half_x, y - half_y, y + half_y, (0.0, 0.0), (deep, deep))


def _openings(
    walls: list[Baffle],
    others: list[float],
    names: dict[tuple[int, int], int],
    cells: Cells,
    axis: int,
    deep: float,
) -> list[VesselOpening]:
    """The openings of walls, shared out along each wall by the widths of the compartments it parts.
    What a wall lets through stands on the floor beside it.
    """
    out = []
    for k, wall in enumerate(sorted(walls, key=lambda w: w.at_mm)):
        at = wall.at_mm / 1000
        for j in range(len(others) - 1):
            one, other = ((k, j), (k + 1, j)) if axis == 0 else ((j, k), (j, k + 1))
            if one not in names or other not in names or wall.open_mm2 == 0:
                continue
            middle = (others[j] + others[j + 1]) / 2
            x, y = (at, middle) if axis == 0 else (middle, at)
            floor = max(
                min(min(q.floor) for q in cells[c] if q.floor[0] > 0 or not deep or q.top[0] > deep)
                for c in (one, other)
            )
            share = (others[j + 1] - others[j]) / (others[-1] - others[0])
            back, forth = wall.door in ("", "back", "left"), wall.door in ("", "forward", "right")
            out.append(
                VesselOpening(
                    names[one],
                    names[other],
                    x,
                    y,
                    floor,
                    floor + wall.open_high_mm / 1000,
                    wall.open_mm2 * 1e-6 * share,
                    forth,
                    back,
                )
            )
    return out
