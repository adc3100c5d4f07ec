"""A plate to scale with its holes dimensioned from two edges: every distance from the lower left
corner once, outside the metal, what is alike sharing one figure. Source: ISO 129-1, running
dimensions from a common origin; from memory.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from tall_heron.core.sheets.plate import PlateSheet
from tall_heron.web.drawing.hoses.bench import PAPER_MM, Flat, window

TEXT, ROW, REACH = 3.7, 4.3, 21.0  # mm on paper: of a figure, from one to the next, all they take
JOG = 6.0  # mm on paper, from the metal to a figure


@dataclass(frozen=True)
class Running:
    """A running dimension: how far from the corner [mm], where its figure stands along that edge
    [mm], where its extension line begins at the hole nearest to the edge [mm].
    """

    at: float
    text: float
    hole: float


@dataclass(frozen=True)
class PlateTop:
    """The drawing's window, and its dimensions along the lower edge and along the left one."""

    flat: Flat
    across: tuple[Running, ...]
    up: tuple[Running, ...]
    lower: float
    left: float

    @property
    def text(self) -> float:
        """How high a figure is, in the drawing's own millimeters."""
        return TEXT * self.flat.times

    @property
    def jog(self) -> float:
        """How far from the metal figures begin [mm of the drawing]."""
        return JOG * self.flat.times


def draw_plate(sheet: PlateSheet, paper: str) -> PlateTop:
    """A plate as large as its paper takes at a usual scale, with the room its figures need."""
    points = [*sheet.outline, *(c for x in sheet.lying for c in x.corners)]
    wide, high = PAPER_MM[paper]
    bare = window(points, 0.0, (wide - REACH - ROW, high - REACH - ROW))
    edge, reach = ROW * bare.times, REACH * bare.times
    flat = Flat(
        bare.left - reach,
        bare.top - edge,
        bare.wide + reach + edge,
        bare.high + edge + reach,
        bare.times,
    )
    gap = ROW * bare.times
    return PlateTop(
        flat,
        running(((h.at[0], h.at[1]) for h in sheet.holes), gap),
        running(((h.at[1], h.at[0]) for h in sheet.holes), gap),
        min(y for _, y in points),
        min(x for x, _ in points),
    )


def running(holes: Iterable[tuple[float, float]], gap: float) -> tuple[Running, ...]:
    """One dimension for each distance of (distance, height over the edge) [mm], in their order,
    their figures at least `gap` apart. What a tenth of a millimeter does not part is one.
    """
    nearest: dict[float, float] = {}
    for at, over in holes:
        key = round(at, 1)
        nearest[key] = min(over, nearest.get(key, over))
    places = sorted(nearest)
    return tuple(
        Running(at, text, nearest[at]) for at, text in zip(places, apart(places, gap), strict=True)
    )


def apart(places: Sequence[float], gap: float) -> list[float]:
    """Places in order moved as little as can be, by the sum of squares, until neighbors are `gap`
    apart: each cluster stands round its own middle (pooling of adjacent violators, Ayer et al.
    1955; from memory).

    >>> apart([0.0, 1.0, 10.0], 3.0)
    [-1.0, 2.0, 10.0]
    """
    pools: list[tuple[float, int]] = []  # sum and number of what stands together
    for n, place in enumerate(places):
        pools.append((place - n * gap, 1))
        while len(pools) > 1 and pools[-2][0] / pools[-2][1] > pools[-1][0] / pools[-1][1]:
            total, count = pools.pop()
            pools[-1] = pools[-1][0] + total, pools[-1][1] + count
    even = [total / count for total, count in pools for _ in range(count)]
    return [at + n * gap for n, at in enumerate(even)]
