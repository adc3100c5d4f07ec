"""Both demand schools over engine speed, as two lines on one scale."""

from dataclasses import dataclass

from tall_heron.core.base.units import show
from tall_heron.core.study.demand import FuelDemand
from tall_heron.web.show.text import number
from tall_heron.web.show.units import unit

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 320.0, 190.0, 44.0, 8.0, 12.0, 158.0


STEPS = (0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10000)


@dataclass(frozen=True)
class Chart:
    """Two lines, ticks of both axes as (place, text), and the peak's x."""

    width: float
    height: float
    left: float
    bottom: float
    by_power: str
    by_air: str
    across: tuple[tuple[float, str], ...]
    up: tuple[tuple[float, str], ...]
    peak_x: float


def draw_schools(fuel_demand: FuelDemand) -> Chart | None:
    """The chart of a demand, or None where no speed is given."""
    rows = fuel_demand.schools.rows
    if not rows:
        return None
    first, last = rows[0][0], rows[-1][0]
    most = max(max(a, b) for _, a, b in rows) * 1.05

    def x(rpm: float) -> float:
        return LEFT + (rpm - first) / (last - first) * (WIDTH - LEFT - RIGHT)

    def y(mass: float) -> float:
        return BOTTOM - mass / most * (BOTTOM - TOP)

    lines = [" ".join(f"{x(row[0]):.1f},{y(row[i]):.1f}" for row in rows) for i in (1, 2)]
    across = tuple((x(rows[i][0]), number(rows[i][0])) for i in (0, 3, 7))
    word = unit("volume_flow").word
    top = show(most / fuel_demand.density, "volume_flow", word)
    step = next((s for s in STEPS if top / s <= 5), STEPS[-1])
    up = tuple(
        (y(most * i * step / top), number(i * step, 0 if step >= 1 else 1))
        for i in range(int(top / step) + 1)
    )
    return Chart(WIDTH, HEIGHT, LEFT, BOTTOM, lines[0], lines[1], across, up, x(rows[7][0]))
