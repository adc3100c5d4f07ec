"""Two small charts of station 7: rail pressure through steps of demand, and what a sender reads over its level."""

from dataclasses import dataclass

from tall_heron.core.electrics.sender import SenderSheet
from tall_heron.core.study.speed_loop import BAND, Loop

LEFT, RIGHT, TOP, BOTTOM = 70.0, 800.0, 30.0, 250.0
EVERY = 10  # samples between points of the curve


@dataclass(frozen=True)
class Curve:
    """A path with its ticks: (place, value in SI or a plain number) along and up, and a band between two heights."""

    path: str
    along: tuple[tuple[float, float], ...]
    up: tuple[tuple[float, float], ...]
    band: tuple[float, float] | None = None
    second: str = ""


def _path(points: list[tuple[float, float]]) -> str:
    return "M" + "L".join(f"{x:.1f} {y:.1f}" for x, y in points)


def draw_loop(loop: Loop) -> Curve:
    """The rail over time with its band; the demand under it as steps."""
    low = min(float(loop.pressure.min()), loop.set_to) * 0.98
    high = max(float(loop.pressure.max()), loop.set_to) * 1.02
    end = float(loop.time[-1])

    def x(t: float) -> float:
        return LEFT + (RIGHT - LEFT) * t / end

    def y(p: float) -> float:
        return BOTTOM - (BOTTOM - TOP) * (p - low) / (high - low)

    points = [(x(float(t)), y(float(p))) for t, p in zip(loop.time[::EVERY], loop.pressure[::EVERY], strict=True)]
    most = float(loop.demand.max()) or 1.0
    steps = [(x(float(t)), BOTTOM + 60 - 40 * float(q) / most) for t, q in zip(loop.time[::EVERY], loop.demand[::EVERY], strict=True)]
    ticks = tuple((y(p), p) for p in (low + (high - low) * k / 4 for k in range(5)))
    return Curve(_path(points), tuple((x(t), float(t)) for t in range(int(end) + 1)), ticks, (y(loop.set_to * (1 + BAND)), y(loop.set_to * (1 - BAND))), _path(steps))


def draw_sender(sheet: SenderSheet, range_v: float) -> Curve:
    """What is read, from empty on the left to full on the right."""

    def x(level: float) -> float:
        return LEFT + (RIGHT - LEFT) * level

    def y(volts: float) -> float:
        return BOTTOM - (BOTTOM - TOP) * min(volts / range_v, 1.05)

    points = [(x(r.level), y(r.volts)) for r in sheet.readings]
    mark = _path([(x(sheet.reserve.level), TOP), (x(sheet.reserve.level), BOTTOM)])
    return Curve(_path(points), tuple((x(k / 4), k / 4) for k in range(5)), tuple((y(range_v * k / 4), range_v * k / 4) for k in range(5)), None, mark)
