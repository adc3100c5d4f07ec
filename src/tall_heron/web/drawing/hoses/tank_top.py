"""A tank's top to scale, as large as the page: each hole dimensioned from two edges, all figures
outside the metal.
"""

from dataclasses import dataclass

from tall_heron.core.sheets.tank_sheet import TankSheet

WIDE, HIGH = 760.0, 430.0  # px, the most that the metal takes
EDGE, ROW, COLUMN = 28.0, 28.0, 80.0  # px to the first dimension, and from one to the next
LEAST_R = 4.0  # px, of a hole that would be too small to see


@dataclass(frozen=True)
class TopHole:
    """A hole: its number on the sheet, its middle and radius, the y of its dimension from the rear
    edge and the x of that from the left side [px], and both lengths [mm].
    """

    number: int
    x: float
    y: float
    r: float
    below: float
    beside: float
    from_rear: float
    from_left: float


@dataclass(frozen=True)
class TankTop:
    """The drawing: its size, the metal's corner and size [px], and its holes."""

    width: float
    height: float
    left: float
    top: float
    wide: float
    high: float
    holes: tuple[TopHole, ...]


def draw_tank_top(sheet: TankSheet) -> TankTop:
    """The top of a tank seen from above, its front to the right. Dimensions from the rear edge lie
    below the metal, the nearest hole's first; those from the left side lie left of it.
    """
    along, across = (max(x, 1.0) for x in sheet.sides)
    scale = min(WIDE / along, HIGH / across)
    placed = [(n, o) for n, o in enumerate(sheet.openings, start=1) if o.place is not None]
    left, top = EDGE + COLUMN * len(placed) + 10, 14.0
    wide, high = along * scale, across * scale
    by_rear = sorted(placed, key=lambda x: x[1].place or (0.0, 0.0))
    by_left = sorted(placed, key=lambda x: (x[1].place or (0.0, 0.0))[1])
    holes = []
    for n, o in placed:
        assert o.place is not None
        row = [m for m, _ in by_rear].index(n)
        column = [m for m, _ in by_left].index(n)
        holes.append(
            TopHole(
                n,
                left + o.place[0] * scale,
                top + o.place[1] * scale,
                max((o.hole_mm or 12.0) / 2 * scale, LEAST_R),
                top + high + EDGE + ROW * row,
                left - EDGE - COLUMN * column,
                o.place[0],
                o.place[1],
            )
        )
    return TankTop(
        left + wide + 110,
        top + high + EDGE + ROW * len(placed) + 4,
        left,
        top,
        wide,
        high,
        tuple(holes),
    )
