"""Where a pump's wire is taken to run, as long as nobody says: from the battery along the vehicle,
across it, then up or down to the pump; and how near it comes to fuel lines.
"""

from dataclasses import dataclass

import numpy as np

from tall_heron.core.routing.clearance import polyline
from tall_heron.core.routing.laid import Laid
from tall_heron.core.routing.vectors import Vector

AT_PUMP_MM = 400.0  # where it must come to the pump, and so to its hoses


@dataclass(frozen=True)
class NearLine:
    """How near the wire of a pump comes to a line [mm], and where."""

    pump: str
    line: str
    mm: float
    at: Vector


def way_of(laid: Laid, pump: str) -> list[Vector]:
    """Its corners [mm], none where nothing says where battery or pump stand."""
    battery = next((z for z in laid.outline.zones if z.kind == "battery"), None)
    home = laid.stands.home.get(pump)
    standing = laid.stands.standing.get(home) if home is not None else None
    if battery is None or standing is None or pump not in standing.assembly.at:
        return []
    x, y, z = standing.point(standing.assembly.at[pump])
    bx, by, bz = ((a + b) / 2 for a, b in zip(battery.low, battery.high, strict=True))
    return [(bx, by, bz), (x, by, bz), (x, y, bz), (x, y, z)]


def nearest_line(laid: Laid, pump: str) -> NearLine | None:
    """The fuel line that its wire comes nearest to, away from the pump itself; None where there is
    none.
    """
    corners = way_of(laid, pump)
    if not corners:
        return None
    wire = polyline(corners).looked_at()[0]
    wire = wire[np.linalg.norm(wire - wire[-1], axis=1) > AT_PUMP_MM]
    best: NearLine | None = None
    for name, line in laid.lines.items():
        if line.inside or not len(wire):
            continue
        apart = (
            np.linalg.norm(wire[:, None, :] - line.path.looked_at()[0][None, :, :], axis=2)
            - line.outside
        )
        i, _ = np.unravel_index(int(apart.argmin()), apart.shape)
        if best is None or apart.min() < best.mm:
            best = NearLine(
                pump,
                name,
                float(apart.min()),
                (float(wire[i][0]), float(wire[i][1]), float(wire[i][2])),
            )
    return best
