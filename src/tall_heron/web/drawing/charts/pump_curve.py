"""A pump's map as it was fitted: pressure over flow for each voltage, with the points it goes
through.
"""

from dataclasses import dataclass

from tall_heron.core.base.constants import LPH
from tall_heron.core.base.units import show
from tall_heron.core.document.figures import PumpMap
from tall_heron.core.physics.pump import make_curve
from tall_heron.web.show.text import number
from tall_heron.web.show.units import unit

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 420.0, 230.0, 54.0, 16.0, 16.0, 190.0
STEPS = (0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000)


@dataclass(frozen=True)
class PumpCurveDrawing:
    """Curves as (points, label, x, y of the label), marks at the points, ticks of both axes as
    (place, text), and the units.
    """

    width: float
    height: float
    left: float
    bottom: float
    curves: tuple[tuple[str, str, float, float], ...]
    marks: tuple[tuple[float, float], ...]
    across: tuple[tuple[float, str], ...]
    up: tuple[tuple[float, str], ...]
    units: tuple[str, str]


def draw_pump(part: PumpMap) -> PumpCurveDrawing:
    """The chart of a pump."""
    flow_unit, pressure_unit = unit("volume_flow"), unit("pressure")

    def flow(lph: float) -> float:
        return show(lph * LPH, "volume_flow", flow_unit.word)

    def pressure(kpa: float) -> float:
        return show(kpa * 1000, "pressure", pressure_unit.word)

    most_q = max(flow(c.rows[-1][0]) for c in part.curves) * 1.05
    most_p = max(pressure(c.rows[0][1]) for c in part.curves) * 1.08

    def x(q: float) -> float:
        return LEFT + q / most_q * (WIDTH - LEFT - RIGHT)

    def y(p: float) -> float:
        return BOTTOM - p / most_p * (BOTTOM - TOP)

    curves, marks = [], []
    for c in part.curves:
        fitted = make_curve([r[0] for r in c.rows], [r[1] for r in c.rows], part.interpolation)
        first, last = c.rows[0][0], c.rows[-1][0]
        line = [(first + (last - first) * i / 60) for i in range(61)]
        points = [(x(flow(q)), y(pressure(max(fitted.at(q)[0], 0.0)))) for q in line]
        curves.append(
            (
                " ".join(f"{a:.1f},{b:.1f}" for a, b in points),
                f"{c.voltage_v:g} V",
                points[30][0] + 6,
                points[30][1] - 6,
            )
        )
        marks += [(x(flow(r[0])), y(pressure(r[1]))) for r in c.rows]

    def ticks(most: float) -> list[float]:
        step = next((s for s in STEPS if most / s <= 6), STEPS[-1])
        return [i * step for i in range(int(most / step) + 1)]

    return PumpCurveDrawing(
        WIDTH,
        HEIGHT,
        LEFT,
        BOTTOM,
        tuple(curves),
        tuple(marks),
        tuple((x(q), number(q)) for q in ticks(most_q)),
        tuple((y(p), number(p, 0 if p == int(p) else 1)) for p in ticks(most_p)),
        (flow_unit.label, pressure_unit.label),
    )
