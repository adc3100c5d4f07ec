"""Drawings of the bench: rolls with their cuts, a plate, a tank from above, a bent line; each to
its own scale, said beside it.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from tall_heron.core.sheets.bend_sheet import BendSheet
from tall_heron.core.sheets.cut_plan import StockLength
from tall_heron.core.sheets.cut_sheet import Bulk

NEAR_DEG = 25.0  # of a clock within which two letters would touch
ROLL_WIDTH, LEAST_TEXT = 820.0, 46.0  # px of the longest length of a sheet; what a tag needs
PAPER_MM = {
    "A4": (277.0, 180.0),
    "Letter": (259.0, 186.0),
}  # what is left of a lying sheet beside its margins and head


@dataclass(frozen=True)
class DrawnPiece:
    """A piece on a roll: its tag, where it begins, its width [px], whether its tag has room, its
    length [mm].
    """

    tag: str
    x: float
    width: float
    named: bool
    mm: float


@dataclass(frozen=True)
class Roll:
    """A length of hose drawn: all its width and what is left [px]."""

    length: StockLength
    width: float
    pieces: tuple[DrawnPiece, ...]


def draw_rolls(bulk: Sequence[Bulk]) -> tuple[float, dict[str, list[Roll]]]:
    """Every length to one scale [px/mm], by the name of its hose."""
    longest = max((x.bought for b in bulk for x in b.plan.lengths), default=1.0)
    scale = ROLL_WIDTH / longest
    out = {}
    for b in bulk:
        out[b.name] = [
            Roll(
                x,
                x.bought * scale,
                tuple(
                    DrawnPiece(
                        tag, a * scale, (z - a) * scale, (z - a) * scale >= LEAST_TEXT, z - a
                    )
                    for tag, a, z in x.pieces
                ),
            )
            for x in b.plan.lengths
        ]
    return scale, out


@dataclass(frozen=True)
class Flat:
    """A drawing in millimeters: the window of its picture, how wide it is on paper or screen, one
    to how much.
    """

    left: float
    top: float
    wide: float
    high: float
    times: float


def window(points: Sequence[tuple[float, float]], edge: float, room: tuple[float, float]) -> Flat:
    """The window round points [mm], and the smallest usual scale at which it fits a sheet; y counts
    upward, the picture's downward.
    """
    xs, ys = [p[0] for p in points], [-p[1] for p in points]
    wide, high = max(xs) - min(xs) + 2 * edge, max(ys) - min(ys) + 2 * edge
    times = next(
        (
            t
            for t in (1.0, 2.0, 2.5, 5.0, 10.0, 20.0)
            if wide / t <= room[0] and high / t <= room[1]
        ),
        50.0,
    )
    return Flat(min(xs) - edge, min(ys) - edge, wide, high, times)


def bent_window(sheet: BendSheet, paper: str) -> Flat | None:
    """A line that lies in one plane, as it lies."""
    return window(sheet.flat, sheet.outside_mm + 6.0, PAPER_MM[paper]) if sheet.flat else None


def clock_letter(clock_deg: float) -> tuple[float, float]:
    """Where the letter of end B stands on a clock face of 30, beside that of end A where they lie
    together.
    """
    if abs(clock_deg % 360 - 180) > 180 - NEAR_DEG:
        return 12.0, -14.0
    a = math.radians(clock_deg)
    return round(23 * math.sin(a), 1), round(-23 * math.cos(a) + 6, 1)
