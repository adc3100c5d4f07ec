"""Hoses drawn to one scale: so many pixels a millimeter for every hose on the sheet."""

import math
from dataclasses import dataclass

from tall_heron.core.base.constants import INCH_MM
from tall_heron.core.sheets.cut_list import HoseCut
from tall_heron.web.show.units import unit

WIDTH, LEFT, RIGHT = 440.0, 40.0, 52.0  # px of the drawing; room for bent ends on either side
ROW = 52.0
TICKS = {
    "mm": (100, 200, 250, 500, 1000, 2000, 5000, 10000, 20000, 50000),
    "in": tuple(INCH_MM * x for x in (3, 6, 12, 24, 48, 120, 240, 600, 1200)),
}


@dataclass(frozen=True)
class CutStrip:
    """One hose: its cut length from `x` over `width`, its thickness, its ends' angles, its role."""

    cut: HoseCut
    x: float
    width: float
    y: float
    thick: float
    a_deg: float
    b_deg: float


@dataclass(frozen=True)
class CutDrawing:
    """All hoses at `pixels_per_mm`, and the ruler's ticks as (x, text)."""

    width: float
    height: float
    pixels_per_mm: float
    strips: tuple[CutStrip, ...]
    ticks: tuple[tuple[float, str], ...]


USUAL_SIZE = 6.0  # sixteenths of an inch, of a hose that does not say its own


def draw_cuts(cuts: list[HoseCut]) -> CutDrawing:
    """The strips of a cut list."""
    longest = max((c.cut_mm or 0.0 for c in cuts), default=0.0) or 1000.0
    word = unit("length").word
    step = next((t for t in TICKS[word] if longest / t <= 6), TICKS[word][-1])
    top = math.ceil(longest / step) * step
    scale = (WIDTH - LEFT - RIGHT) / top
    strips = []
    for i, cut in enumerate(cuts):
        e = cut.element
        digits = e.properties.dash.lstrip("-")
        size = float(digits) if digits.isdecimal() and len(digits) < len("999") else USUAL_SIZE
        angles = [end.angle_deg if end else 0.0 for end in (e.end_a, e.end_b)]
        strips.append(
            CutStrip(
                cut, LEFT, (cut.cut_mm or 0.0) * scale, i * ROW + ROW / 2, 6 + 0.8 * size, *angles
            )
        )
    ticks = []
    for i in range(int(top / step + 0.5) + 1):
        at = i * step
        long = step >= (500 if word == "mm" else 300)
        text = (
            f"{at / (1000 if word == 'mm' else 304.8):g} {unit('run').label}"
            if long
            else f"{at / (1 if word == 'mm' else INCH_MM):g} {word}"
        )
        ticks.append((LEFT + at * scale, "0" if i == 0 else text))
    return CutDrawing(WIDTH, ROW * len(cuts), scale, tuple(strips), tuple(ticks))
