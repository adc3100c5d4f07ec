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
    placed = [
        (n, o.place, o.hole_mm)
        for n, o in enumerate(sheet.openings, start=1)
        if o.place is not None
    ]
    left, top = EDGE + COLUMN * len(placed) + 10, 14.0
    wide, high = along * scale, across * scale
    rows = {n: i for i, (n, _, _) in enumerate(sorted(placed, key=lambda h: h[1]))}
    columns = {n: i for i, (n, _, _) in enumerate(sorted(placed, key=lambda h: h[1][1]))}
    holes = [
        TopHole(
            n,
            left + x * scale,
            top + y * scale,
            max((hole_mm or 12.0) / 2 * scale, LEAST_R),
            top + high + EDGE + ROW * rows[n],
            left - EDGE - COLUMN * columns[n],
            x,
            y,
        )
        for n, (x, y), hole_mm in placed
    ]
    return TankTop(
        left + wide + 110,
        top + high + EDGE + ROW * len(placed) + 4,
        left,
        top,
        wide,
        high,
        tuple(holes),
    )
