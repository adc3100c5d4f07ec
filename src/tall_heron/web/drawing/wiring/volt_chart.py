"""The walk of a pump's voltage under its schematic: one column a part of the path, the axis torn
where nothing happens between the two sides of the motor.
"""

from dataclasses import dataclass

from tall_heron.core.electrics.volt_walk import VoltStep
from tall_heron.web.drawing.charts.axis import Axis, make_axis

WIDE, HIGH, TOP, BOTTOM = 920.0, 250.0, 34.0, 176.0
FIRST, LAST = 110.0, 850.0
HALF = 0.30  # half width of a step, of its pitch


@dataclass(frozen=True)
class VoltColumn:
    """A part of the path: where its middle stands, its name, and what it takes in words."""

    x: float
    name: str
    drop: str
    motor: bool


@dataclass(frozen=True)
class VoltChart:
    """Everything that is drawn: the walk as points, its columns, where the least voltage that is
    allowed stands, and labels as (x, y, text).
    """

    axis: Axis
    points: str
    columns: tuple[VoltColumn, ...]
    allowed: float
    labels: tuple[tuple[float, float, str], ...]


def draw_volts(steps: list[VoltStep], pump: str, allowed: float) -> VoltChart | None:
    """The chart of a walk; `allowed` is what may be lost on the way to the pump and back [V]."""
    if not steps:
        return None
    least = steps[0].volts - allowed
    axis = make_axis([*(s.volts for s in steps), least], TOP, BOTTOM)
    pitch = (LAST - FIRST) / (len(steps) - 1)
    places, columns, labels = [], [], []
    for n, step in enumerate(steps):
        x = FIRST + n * pitch
        before = step.volts + step.drop
        places += [(x - HALF * pitch, axis.y(before)), (x + HALF * pitch, axis.y(step.volts))]
        motor = step.name == pump
        drop = "" if not n else f"{step.drop:.2f}"
        columns.append(VoltColumn(x, step.name, drop, motor))
        if not n or motor:
            y = axis.y(before)
            labels.append((x + (0.0 if not n else -HALF * pitch), y - 9, f"{before:.2f}"))
    return VoltChart(
        axis,
        " ".join(f"{x:.1f},{y:.1f}" for x, y in places),
        tuple(columns),
        axis.y(least),
        tuple(labels),
    )
