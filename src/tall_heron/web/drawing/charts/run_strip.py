"""A run on one time axis: accelerations, whether the outlet is covered, what tank or pot holds, and
the rail under it.
"""

from dataclasses import dataclass

import numpy as np

from tall_heron.core.physics.slosh import Array

LEFT, RIGHT, WIDTH = 64.0, 12.0, 800.0
ROWS = (("accelerations", 84.0), ("outlet", 20.0), ("holds", 64.0), ("rail", 64.0))
GAP, TOP = 20.0, 14.0
MOST_POINTS = 500
STEPS = (1, 2, 5, 10, 15, 30, 60, 120, 300)


@dataclass(frozen=True)
class StripRow:
    """A row: where it lies, its lines as (class, points), its ticks as (y, text), and what it is."""

    title: str
    top: float
    bottom: float
    lines: tuple[tuple[str, str], ...]
    ticks: tuple[tuple[float, str], ...]


@dataclass(frozen=True)
class DriveStrip:
    """Rows over one time axis, and the stretches where the outlet is dry as (x, width)."""

    width: float
    height: float
    left: float
    right: float
    rows: tuple[StripRow, ...]
    dry: tuple[tuple[float, float], ...]
    times: tuple[tuple[float, str], ...]


def draw_strip(
    times: Array,
    accelerations: tuple[Array, Array],
    dry: list[tuple[float, float]],
    holds: tuple[str, Array, float, str],
    rail: tuple[Array | None, Array, float, str],
) -> DriveStrip:
    """The strip of a run. `holds` is its title, the figures in the reader's unit, the most there
    can be and the unit; `rail` the figures, whether the pump is fed, the most and the unit.
    """
    end = float(times[-1]) or 1.0

    def x(t: float) -> float:
        return LEFT + t / end * (WIDTH - LEFT - RIGHT)

    some = np.unique(np.linspace(0, len(times) - 1, MOST_POINTS).round().astype(int))
    rows, y = [], TOP
    for name, high in ROWS:
        top, bottom = y, y + high
        y = bottom + GAP
        lines: list[tuple[str, str]] = []
        ticks: list[tuple[float, str]] = []

        def line(
            values: Array, low: float, most: float, top: float = top, bottom: float = bottom
        ) -> str:
            return " ".join(
                f"{x(float(times[i])):.1f},{bottom - (float(values[i]) - low) / (most - low) * (bottom - top):.1f}"
                for i in some
            )

        if name == "accelerations":
            most = max(1.0, float(np.ceil(max(np.abs(a).max() for a in accelerations) * 2) / 2))
            lines = [
                ("ahead", line(accelerations[0], -most, most)),
                ("left", line(accelerations[1], -most, most)),
            ]
            ticks = [(top, f"{most:g} g"), ((top + bottom) / 2, "0"), (bottom, f"−{most:g} g")]
            title = "ahead —, to the left ┄"
        elif name == "holds":
            title, values, most, unit = holds
            lines = [("holds", line(values, 0.0, most))]
            ticks = [(top, f"{most:.3g} {unit}"), (bottom, "0")]
        elif name == "rail":
            figures, fed, most, unit = rail
            title = "rail at peak" if figures is not None else "rail: the peak does not solve"
            if figures is not None:
                lines = [("rail", line(np.where(fed > 0.5, figures, 0.0), 0.0, most))]
                ticks = [(top, f"{most:.3g} {unit}"), (bottom, "0: air")]
        else:
            title = "outlet dry where filled"
        rows.append(StripRow(title, top, bottom, tuple(lines), tuple(ticks)))
    step = next((s for s in STEPS if end / s <= 12), STEPS[-1])
    marks = tuple((x(t), f"{t} s") for t in range(0, int(end) + 1, step))
    stretches = tuple((x(a), max(x(b) - x(a), 1.0)) for a, b in dry)
    return DriveStrip(WIDTH, y + 8, LEFT, WIDTH - RIGHT, tuple(rows), stretches, marks)
