"""A view of the vehicle: which way it is seen, its scale, and where a place lies on the page."""

import math
from dataclasses import dataclass

from tall_heron.core.document.space import VIEW_AXES, Panel, Zone
from tall_heron.core.routing.assembly import Body
from tall_heron.core.routing.outline import Shape
from tall_heron.core.routing.vectors import Vector

Box = tuple[float, float, float, float]


@dataclass(frozen=True)
class View:
    """One view: its name, pixels a millimeter, and the place at its left and its top [mm along its
    own axes].
    """

    name: str
    scale: float
    left: float
    top: float

    def flat(self, v: Vector) -> tuple[float, float]:
        """A place along the view's own axes [mm]."""
        (i, si), (j, sj) = VIEW_AXES[self.name]
        return si * v[i], sj * v[j]

    def at(self, v: Vector) -> tuple[float, float]:
        """A place on the page [px]."""
        u, w = self.flat(v)
        return (u - self.left) * self.scale, (self.top - w) * self.scale

    def path(self, points: list[Vector]) -> str:
        """A line through places as an SVG path."""
        return "M" + " L".join(f"{x:.1f} {y:.1f}" for x, y in (self.at(p) for p in points))

    def box(self, low: Vector, high: Vector) -> Box:
        """The box of two corners on the page, x and y of its top left, its width and height [px]."""
        (x0, y0), (x1, y1) = self.at(low), self.at(high)
        return min(x0, x1), min(y0, y1), abs(x1 - x0), abs(y1 - y0)

    def shape(self, corners: Shape, mirrored: bool = False, closed: bool = True) -> str:
        """A shape of the outline with its corners rounded, as an SVG path; `mirrored` about the
        middle line with itself as one half.
        """
        points = [(u, w, r) for u, w, r in corners]
        if mirrored:
            flip = (
                (lambda p: (p[0], -p[1], p[2]))
                if self.name == "plan"
                else (lambda p: (-p[0], p[1], p[2]))
            )
            points = points + [flip(p) for p in reversed(points)]
        sign = -1.0 if self.name == "rear" else 1.0
        flat = [
            ((sign * u - self.left) * self.scale, (self.top - w) * self.scale, r * self.scale)
            for u, w, r in points
        ]
        return rounded(flat, closed)

    def zone(self, zone: Zone) -> str:
        """A zone's outline in this view as an SVG path."""
        if zone.shape == "prism" and self.name == "plan":
            return (
                "M"
                + " L".join(
                    "{:.1f} {:.1f}".format(*self.at((x, y, zone.low[2]))) for x, y in zone.plan
                )
                + "Z"
            )
        if zone.shape == "prism":
            low = (min(p[0] for p in zone.plan), min(p[1] for p in zone.plan), zone.low[2])
            high = (max(p[0] for p in zone.plan), max(p[1] for p in zone.plan), zone.high[2])
            return self._rect(low, high)
        if zone.shape == "box":
            return self._rect(zone.low, zone.high)
        return self._bar(zone)

    def _rect(self, low: Vector, high: Vector) -> str:
        x, y, w, h = self.box(low, high)
        return f"M{x:.1f} {y:.1f}h{w:.1f}v{h:.1f}h{-w:.1f}Z"

    def _bar(self, zone: Zone) -> str:
        (x0, y0), (x1, y1), r = (
            self.at(zone.low),
            self.at(zone.high),
            (zone.radius_mm or 0.0) * self.scale,
        )
        long = math.hypot(x1 - x0, y1 - y0)
        if long < 0.5:
            return f"M{x0 - r:.1f} {y0:.1f}a{r:.1f} {r:.1f} 0 1 0 {2 * r:.1f} 0a{r:.1f} {r:.1f} 0 1 0 {-2 * r:.1f} 0Z"
        nx, ny = -(y1 - y0) / long * r, (x1 - x0) / long * r
        return f"M{x0 + nx:.1f} {y0 + ny:.1f}L{x1 + nx:.1f} {y1 + ny:.1f}L{x1 - nx:.1f} {y1 - ny:.1f}L{x0 - nx:.1f} {y0 - ny:.1f}Z"

    def panel(self, panel: Panel) -> str:
        """A panel in this view: a line where it is seen edge on, else its outline."""
        x, y, w, h = self.box(panel.low, panel.high)
        return (
            f"M{x:.1f} {y:.1f}L{x + w:.1f} {y + h:.1f}"
            if w < 0.5 or h < 0.5
            else f"M{x:.1f} {y:.1f}h{w:.1f}v{h:.1f}h{-w:.1f}Z"
        )

    def edge_on(self, panel: Panel) -> bool:
        """Whether a panel is seen as a line."""
        return panel.axis in (VIEW_AXES[self.name][0][0], VIEW_AXES[self.name][1][0])

    def body(self, middle: Vector, body: Body, yaw: float) -> Box:
        """The box of a part in this view, turned to the nearest quarter, on the page [px]."""
        quarter = round(yaw / 90) % 2
        long, wide = (body.wide, body.long) if quarter else (body.long, body.wide)
        half = (long / 2, wide / 2, body.high / 2)
        return self.box(
            (middle[0] - half[0], middle[1] - half[1], middle[2] - half[2]),
            (middle[0] + half[0], middle[1] + half[1], middle[2] + half[2]),
        )


def rounded(points: list[tuple[float, float, float]], closed: bool = True) -> str:
    """A line through points whose corners are rounded by a radius each [px], as an SVG path."""
    out: list[str] = []
    n = len(points)
    for i, (x, y, r) in enumerate(points):
        if not closed and i in (0, n - 1):
            out.append(f"{'L' if out else 'M'}{x:.1f} {y:.1f}")
            continue
        (px, py, _), (qx, qy, _) = points[i - 1], points[(i + 1) % n]
        a, b = math.hypot(px - x, py - y), math.hypot(qx - x, qy - y)
        cut = min(r, a / 2, b / 2)
        if a < 1e-6 or b < 1e-6 or cut < 0.05:
            out.append(f"{'L' if out else 'M'}{x:.1f} {y:.1f}")
            continue
        sx, sy = x + (px - x) * cut / a, y + (py - y) * cut / a
        ex, ey = x + (qx - x) * cut / b, y + (qy - y) * cut / b
        out.append(f"{'L' if out else 'M'}{sx:.1f} {sy:.1f}Q{x:.1f} {y:.1f} {ex:.1f} {ey:.1f}")
    return "".join(out) + ("Z" if closed else "")
