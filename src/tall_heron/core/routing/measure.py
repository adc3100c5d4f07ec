"""How far any two things in the vehicle are from one another: parts, lines, corners, zones and
panels.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tall_heron.core.document.space import Zone
from tall_heron.core.routing.clearance import distance
from tall_heron.core.routing.laid import Laid

FINE = 9  # places along each side of a box's surface


@dataclass(frozen=True)
class Thing:
    """Something that can be measured from: places on or in it [mm], its middle, and by how much its
    surface stands off those places.
    """

    points: NDArray[np.float64]
    middle: NDArray[np.float64]
    off: float = 0.0
    zone: Zone | None = None


@dataclass(frozen=True)
class Far:
    """Clear between two surfaces [mm], 0 or less where they touch; from middle to middle, and that
    along, across and up.
    """

    clear: float
    middles: float
    by: tuple[float, float, float]


def _box(low: NDArray[np.float64], high: NDArray[np.float64]) -> NDArray[np.float64]:
    steps = [np.linspace(low[i], high[i], FINE) for i in range(3)]
    return np.stack(np.meshgrid(*steps, indexing="ij"), axis=-1).reshape(-1, 3)


def measurable(laid: Laid) -> dict[str, Thing]:
    """Everything that may be measured between, by its name."""
    out: dict[str, Thing] = {}
    for e, at, body, yaw in laid.stands.boxes():
        long, wide = (body.wide, body.long) if round(yaw / 90) % 2 else (body.long, body.wide)
        half = np.array([long, wide, body.high]) / 2
        low, high = np.array(at) - half, np.array(at) + half
        out[e.id] = Thing(
            _box(low, high),
            np.array(at),
            0.0,
            Zone(name="box", kind="obstacle", low=tuple(low), high=tuple(high)),
        )
    for name, line in laid.lines.items():
        points = line.path.looked_at()[0]
        out[name] = Thing(
            points, np.array(line.path.at(float(line.path.along[-1]) / 2)), line.outside
        )
        for k, c in enumerate(line.run.corners, 1):
            out[f"{name} corner {k}"] = Thing(np.array([c]), np.array(c))
    for zone in laid.outline.zones:
        low, high = np.array(zone.low), np.array(zone.high)
        if zone.shape == "cylinder":
            points, off = np.linspace(low, high, 60), zone.radius_mm or 0.0
            out[zone.title or zone.name] = Thing(points, (low + high) / 2, off, zone)
        else:
            out[zone.title or zone.name] = Thing(_box(low, high), (low + high) / 2, 0.0, zone)
    for panel in laid.outline.panels:
        low, high = np.array(panel.low), np.array(panel.high)
        out[panel.title or panel.name] = Thing(
            _box(low, high),
            (low + high) / 2,
            0.0,
            Zone(name="panel", kind="obstacle", low=panel.low, high=panel.high),
        )
    return out


def between(a: Thing, b: Thing) -> Far:
    """How far two things are apart: to the surface of a box or bar exactly from places on the
    other, within a few millimeters between two bodies.
    """
    gap = b.middle - a.middle
    ways = [
        float(distance(zone, other.points).min()) - other.off
        for zone, other in ((a.zone, b), (b.zone, a))
        if zone is not None
    ]
    if not ways:
        ways = [
            float(np.linalg.norm(a.points[:, None] - b.points[None], axis=2).min()) - a.off - b.off
        ]
    return Far(min(ways), float(np.linalg.norm(gap)), (float(gap[0]), float(gap[1]), float(gap[2])))
