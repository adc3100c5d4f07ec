"""How near a line comes to a zone, and where it goes through a panel."""

from bisect import bisect_right
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from tall_heron.core.document.space import Panel, Zone
from tall_heron.core.routing.vectors import Vector

Points = NDArray[np.float64]
STEP = 20.0  # mm between looks along a line; between the best of them it is looked at closer
CLOSER = 3  # closer looks, each ten times as close


@dataclass(frozen=True)
class Polyline:
    """A line cut into short straights: its points [mm], and how far along it each lies [mm]."""

    points: Points
    along: Points
    memory: dict[str, tuple[Points, Points]] = field(default_factory=dict, compare=False)

    def at(self, along: float) -> Vector:
        """The place so far along it [mm]."""
        places, far = self.listed
        i = min(max(bisect_right(far, along), 1), len(far) - 1)
        (a, b), step = (places[i - 1], places[i]), far[i] - far[i - 1]
        t = min(max((along - far[i - 1]) / step, 0.0), 1.0) if step > 0 else 0.0
        return a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1]), a[2] + t * (b[2] - a[2])

    @cached_property
    def listed(self) -> tuple[list[Vector], list[float]]:
        """Its points and how far along it each lies [mm], as plain numbers."""
        return [vector(p) for p in self.points], [float(s) for s in self.along]

    @cached_property
    def box(self) -> tuple[Vector, Vector]:
        """Its lowest and highest corner [mm]."""
        return vector(self.points.min(axis=0)), vector(self.points.max(axis=0))

    def looked_at(self) -> tuple[Points, Points]:
        """Places along it no further apart than a step, all its own points among them, and how far
        along each lies.
        """
        if "looked" not in self.memory:
            total = float(self.along[-1])
            s = np.union1d(self.along, np.linspace(0.0, total, max(int(total / STEP) + 2, 2)))
            self.memory["looked"] = (
                np.stack([np.interp(s, self.along, self.points[:, i]) for i in range(3)], axis=1),
                s,
            )
        return self.memory["looked"]


def vector(row: Points) -> Vector:
    """One place of an array."""
    return float(row[0]), float(row[1]), float(row[2])


def polyline(points: list[Vector]) -> Polyline:
    """A line through some places."""
    p = np.array(points, dtype=float)
    return Polyline(
        p, np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(p, axis=0), axis=1))])
    )


def distance(zone: Zone, points: Points) -> Points:
    """How far places lie from a zone's surface [mm]; below 0, how deep within it (box and cylinder:
    to the nearest side; prism likewise).
    """
    if zone.shape == "cylinder":
        a, b = np.array(zone.low), np.array(zone.high)
        axis = b - a
        long = float(np.linalg.norm(axis))
        along = (points - a) @ axis / long
        round_it = np.linalg.norm(points - a - along[:, None] * axis / long, axis=1) - (
            zone.radius_mm or 0.0
        )
        beyond = np.abs(along - long / 2) - long / 2
        return np.asarray(
            np.hypot(np.maximum(round_it, 0.0), np.maximum(beyond, 0.0))
            + np.minimum(np.maximum(round_it, beyond), 0.0)
        )
    if zone.shape == "prism":
        return _prism(zone, points)
    middle, half = (np.array(zone.low) + zone.high) / 2, (np.array(zone.high) - zone.low) / 2
    out = np.abs(points - middle) - half
    return np.asarray(
        np.linalg.norm(np.maximum(out, 0.0), axis=1) + np.minimum(out.max(axis=1), 0.0)
    )


def _prism(zone: Zone, points: Points) -> Points:
    """An upright prism: as a box, with the distance to the plan in place of two sides."""
    ring = np.array(zone.plan)
    nxt = np.roll(ring, -1, axis=0)
    flat = points[:, None, :2]
    edge = nxt - ring
    t = np.clip(
        ((flat - ring) * edge).sum(axis=2) / np.maximum((edge * edge).sum(axis=1), 1e-9), 0.0, 1.0
    )
    near = np.linalg.norm(flat - ring - t[..., None] * edge, axis=2).min(axis=1)
    crosses = (ring[:, 1] > flat[..., 1]) != (nxt[:, 1] > flat[..., 1])
    with np.errstate(divide="ignore", invalid="ignore"):
        x = ring[:, 0] + (flat[..., 1] - ring[:, 1]) / (nxt[:, 1] - ring[:, 1]) * edge[:, 0]
    inside = (crosses & (flat[..., 0] < x)).sum(axis=1) % 2 == 1
    plan = np.where(inside, -near, near)
    high = (
        np.abs(points[:, 2] - (zone.low[2] + zone.high[2]) / 2) - (zone.high[2] - zone.low[2]) / 2
    )
    both = np.stack([plan, high], axis=1)
    return np.asarray(
        np.linalg.norm(np.maximum(both, 0.0), axis=1) + np.minimum(both.max(axis=1), 0.0)
    )


def surely_beyond(zone: Zone, line: Polyline, mm: float) -> bool:
    """Whether a line is further from a zone than that for certain, by the boxes round both."""
    low, high = line.box
    r = (zone.radius_mm or 0.0) if zone.shape == "cylinder" else 0.0
    out = 0.0
    for i in range(3):
        a, b = (
            (zone.low[i], zone.high[i])
            if zone.low[i] <= zone.high[i]
            else (zone.high[i], zone.low[i])
        )
        if zone.shape == "prism" and i < 2:
            a, b = min(p[i] for p in zone.plan), max(p[i] for p in zone.plan)
        gap = max(a - r - high[i], low[i] - b - r, 0.0)
        out += gap * gap
    return out > mm * mm


def nearest(zone: Zone, line: Polyline, beyond: float = np.inf) -> tuple[float, float]:
    """The least distance of a line from a zone [mm] and how far along it that is [mm], to within
    0.1 mm where the zone is convex; where it is surely `beyond` a distance, to within a step.
    """
    points, s = line.looked_at()
    far = distance(zone, points)
    i = int(far.argmin())
    if far[i] - STEP > beyond:
        return float(far[i]), float(s[i])
    best, where = float(far[i]), float(s[i])
    low, high = float(s[max(i - 1, 0)]), float(s[min(i + 1, len(s) - 1)])
    for _ in range(CLOSER):
        between = np.linspace(low, high, 21)
        near = distance(
            zone,
            np.stack([np.interp(between, line.along, line.points[:, k]) for k in range(3)], axis=1),
        )
        j = int(near.argmin())
        if near[j] < best:
            best, where = float(near[j]), float(between[j])
        low, high = float(between[max(j - 1, 0)]), float(between[min(j + 1, 20)])
    return best, where


def stretches(zone: Zone, line: Polyline, within: float) -> list[tuple[float, float]]:
    """The stretches of a line that come within a distance of a zone [mm along it]."""
    points, s = line.looked_at()
    near = distance(zone, points) < within
    out: list[tuple[float, float]] = []
    start = None
    for i, on in enumerate(near):
        if on and start is None:
            start = float(s[i])
        if start is not None and (not on or i == len(s) - 1):
            out.append((start, float(s[i])))
            start = None
    return out


def crossings(panel: Panel, line: Polyline) -> list[tuple[float, Vector]]:
    """Where a line goes through a panel: how far along it [mm], and the place."""
    axis, level = panel.axis, panel.low[panel.axis]
    side = line.points[:, axis] - level
    out = []
    for i in np.nonzero((side[:-1] * side[1:] < 0) | ((side[:-1] == 0) & (side[1:] != 0)))[0]:
        t = side[i] / (side[i] - side[i + 1])
        at = line.points[i] + t * (line.points[i + 1] - line.points[i])
        if all(panel.low[k] <= at[k] <= panel.high[k] for k in range(3) if k != axis):
            out.append(
                (
                    float(line.along[i] + t * (line.along[i + 1] - line.along[i])),
                    (float(at[0]), float(at[1]), float(at[2])),
                )
            )
    return out
