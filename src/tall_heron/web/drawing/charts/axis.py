"""The pressure axis of the walk: one scale, torn where nothing happens between the suction side and
the feed.
"""

import math
from dataclasses import dataclass
from itertools import pairwise

from tall_heron.web.show.text import number

STEPS = (0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000)
TEAR = 18.0  # px
TICK_GAP = 25.0  # px, least distance of two ticks


@dataclass(frozen=True)
class AxisBand:
    """A stretch of the axis from pressure `low` at `y_low` up to `high` at `y_high`."""

    low: float
    high: float
    y_low: float
    y_high: float


@dataclass(frozen=True)
class Axis:
    """One or two bands of equal scale, the tear between them, and ticks as (pressure, y)."""

    bands: tuple[AxisBand, ...]
    ticks: tuple[tuple[float, float], ...]
    step: float
    tear_y: float | None
    cut_out: float

    def y(self, pressure: float) -> float:
        """Height of a pressure; inside the tear, its middle."""
        for band in self.bands:
            if band.low - 1e-9 <= pressure <= band.high + 1e-9:
                return band.y_low + (pressure - band.low) * (band.y_high - band.y_low) / (
                    band.high - band.low
                )
        top = self.bands[0]
        if pressure > top.high:
            return top.y_high
        return (
            self.tear_y
            if self.tear_y is not None and pressure > self.bands[-1].high
            else self.bands[-1].y_low
        )

    @property
    def tick_texts(self) -> list[tuple[float, str]]:
        """Each tick's y with its text, as fine as the ticks are apart."""
        decimals = 0 if self.step >= 1 else 1 if self.step >= 0.1 else 2
        return [(y, number(p, decimals)) for p, y in self.ticks]

    @property
    def pixels_per_unit(self) -> float:
        """The scale, the same on both sides of the tear."""
        band = self.bands[0]
        return (band.y_low - band.y_high) / (band.high - band.low)


def make_axis(values: list[float], top: float, bottom: float) -> Axis:
    """An axis that holds every value between two heights, torn across its widest gap where that
    saves most of it.
    """
    ordered = sorted({*values, 0.0})
    gaps = [(b - a, a, b) for a, b in pairwise(ordered)]
    gap, below, above = max(gaps, default=(0.0, 0.0, 0.0))
    low, high = ordered[0], ordered[-1]
    rest = (high - low) - gap
    if gap > 0 and gap > 1.2 * max(rest, 1e-9):
        pad = 0.09 * max(rest, 0.08 * (high - low)) + 0.0024 * (high - low)
        spans = [(above - pad, high + pad), (low - pad, below + pad)]
        room = bottom - top - TEAR
        scale = room / sum(b - a for a, b in spans)
        middle = top + scale * (spans[0][1] - spans[0][0])
        bands: tuple[AxisBand, ...] = (
            AxisBand(*spans[0], middle, top),
            AxisBand(*spans[1], bottom, middle + TEAR),
        )
        tear: float | None = middle + TEAR / 2
    else:
        pad = 0.06 * (high - low) or 1.0
        bands = (AxisBand(low - pad, high + pad, bottom, top),)
        scale = (bottom - top) / (high - low + 2 * pad)
        tear = None
    step = next((s for s in STEPS if s * scale >= TICK_GAP), STEPS[-1])
    ticks = []
    for band in bands:
        first = math.ceil(band.low / step - 1e-9)
        for i in range(first, math.floor(band.high / step + 1e-9) + 1):
            y = band.y_low + (i * step - band.low) * (band.y_high - band.y_low) / (
                band.high - band.low
            )
            if tear is None or abs(y - tear) > TEAR / 2 + 7:
                ticks.append((i * step, y))
    cut_out = bands[0].low - bands[1].high if len(bands) == 2 else 0.0
    return Axis(bands, tuple(ticks), step, tear, cut_out)
