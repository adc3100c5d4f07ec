"""Where fuel stands in a tank that speeds up, brakes, turns, climbs or leans.

A tank is upright prisms over rectangles of floor. Under a plane each holds the integral of a
piecewise linear height, which is exact: no columns, no sampling.
Axes of a tank: x forward from its rear wall, y to the right from its left wall, z up from its
lowest point [m].
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]
LEAST_RISE = 2e-4  # m: a surface is never taken to be flatter than this from side to side; less would drown in the last digits
MOST_STEPS = 80
CLOSE = 5e-10  # of what a compartment holds, how near a surface holds its fuel


@dataclass(frozen=True)
class Prism:
    """A rectangle of floor from x0 to x1 and y0 to y1 with floor and ceiling straight along x
    between their heights at x0 and x1 [m].
    """

    x0: float
    x1: float
    y0: float
    y1: float
    floor: tuple[float, float]
    top: tuple[float, float]


@dataclass(frozen=True)
class Tilt:
    """A direction of surfaces in a vessel: for each compartment the heights of its planes' corners
    over a surface at height 0 [m], and the weights that make volume [1/(6 a b)] and
    area [1/(2 a b)] of the cubes and squares of what stands above 0; `reach` [m] is how far such a
    surface rises over the vessel.
    """

    corners: Array
    for_volume: Array
    for_area: Array
    reach: float

    def under(self, height: Array) -> tuple[Array, Array]:
        """What each compartment holds under its surface, and the area of that surface over the
        floor.

        Args: height [m] of each surface at x = 0 and y = 0, of shape ... x compartments. Returns:
        [m3] and [m2], of that shape.
        Source: hydrostatics, the double integral of a plane over a rectangle. Valid: any height;
        below the floor nothing, above the ceiling all it holds.

        >>> box = Vessel([[Prism(0, 0.6, 0, 0.4, (0, 0), (0.3, 0.3))]])
        >>> [round(1000 * float(box.tilt(s, 0.0).under(np.array([h]))[0][0]), 1) for h, s in ((0.1, 0.0), (0.0, 0.5))]
        [24.0, 36.0]
        """
        above = np.maximum(height[..., None] + self.corners, 0.0)
        squares = above * above
        return (
            np.vecdot(squares * above, self.for_volume),
            np.vecdot(squares, self.for_area),
        )


class Vessel:
    """Compartments, each of some prisms, of which fuel takes a `share` (the rest is foam and
    rounded corners). Volumes are in m3, heights in m.
    """

    def __init__(self, compartments: list[list[Prism]], share: float = 1.0) -> None:
        self.share, self.compartments = share, compartments
        most = max(len(c) for c in compartments)
        nothing = Prism(0.0, 0.0, 0.0, 0.0, (0.0, 0.0), (0.0, 0.0))
        rows = [[*c, *[nothing] * (most - len(c))] for c in compartments]

        def each(read: Callable[[Prism], float]) -> Array:
            return np.array([[read(p) for p in row] for row in rows], dtype=float)

        self._long, self._wide = each(lambda p: p.x1 - p.x0), each(lambda p: p.y1 - p.y0)
        self._x, self._y = each(lambda p: (p.x0 + p.x1) / 2), each(lambda p: (p.y0 + p.y1) / 2)
        floor, top = each(lambda p: sum(p.floor) / 2), each(lambda p: sum(p.top) / 2)
        rise_floor, rise_top = (
            each(lambda p: p.floor[1] - p.floor[0]),
            each(lambda p: p.top[1] - p.top[0]),
        )
        self._planes = ((floor, rise_floor, 1.0), (top, rise_top, -1.0))
        self.full: Array = share * (self._long * self._wide * (top - floor)).sum(-1)
        floor_area = np.maximum((self._long * self._wide).sum(-1), 1e-12)
        self.middle: tuple[Array, Array] = (
            (self._long * self._wide * self._x).sum(-1) / floor_area,
            (self._long * self._wide * self._y).sum(-1) / floor_area,
        )  # of each compartment's floor [m]: about there a surface turns
        self.low = np.array([min(min(p.floor) for p in c) for c in compartments])
        self.high = np.array([max(max(p.top) for p in c) for c in compartments])

    def tilt(self, along: float, across: float) -> Tilt:
        """Surfaces of one direction; see `tilts`.

        Args: along [-], across [-]: the slopes along x and y. Returns: corners [m] and weights.
        Source: hydrostatics. Valid: any slope; one that is next to none is taken as LEAST_RISE.

        >>> round(Vessel([[Prism(0, 0.6, 0, 0.4, (0, 0), (0.3, 0.3))]]).tilt(0.5, 0.0).reach, 3)
        0.3
        """
        return self.tilts(np.array([along]), np.array([across]))[0]

    def tilts(self, along: Array, across: Array) -> list[Tilt]:
        """Surfaces of many directions. What a prism holds is the integral over its rectangle of
        what the surface stands above its floor, less that above its ceiling; where a plane
        z + a x + b y is above 0, its double integral is [z^3/6 / (a b)] over the corners.

        Args: along [-], across [-]: the slopes along x and y, one of each a direction. Returns:
        corners [m] and weights of each. Source: hydrostatics. Valid: as of `tilt`.

        >>> box = Vessel([[Prism(0, 0.6, 0, 0.4, (0, 0), (0.3, 0.3))]])
        >>> [round(t.reach, 3) for t in box.tilts(np.array([0.5, 0.0]), np.array([0.0, 0.5]))]
        [0.3, 0.2]
        """
        one, other = along[:, None, None], across[:, None, None]
        corners, weights = [], []
        for height, rise, sign in self._planes:
            a = _not_flat(one * self._long - rise)  # rise from end to end, and from side to side
            b = _not_flat(other * self._wide)
            middle = one * self._x + other * self._y - height
            corners += [
                middle + (a + b) / 2,
                middle - (a + b) / 2,
                middle + (a - b) / 2,
                middle - (a - b) / 2,
            ]
            w = sign * self.share * self._long * self._wide / (a * b)
            weights += [w, w, -w, -w]
        flat = (len(along), len(self.compartments), -1)
        corner, weight = (np.stack(x, -1).reshape(flat) for x in (corners, weights))
        reach = np.abs(along) * (self._x + self._long / 2).max() + np.abs(across) * (
            (self._y + self._wide / 2).max()
        )
        return list(map(Tilt, corner, weight / 6, weight / 2, reach.tolist()))

    def surface(self, volume: Array, tilt: Tilt, near: Array | None = None) -> Array:
        """How high each surface stands at x = 0 and y = 0, so that it holds a volume: Newton within
        a bracket that only shrinks.

        Args: volume [m3], of shape ... x compartments, tilt [-] of the surfaces, near [m], a guess.
        Returns: [m]. Source: hydrostatics.
        Valid: volumes from nothing to all it holds, met to CLOSE of that; what is beyond stands at
        the floor or the ceiling.

        >>> box = Vessel([[Prism(0, 0.6, 0, 0.4, (0, 0), (0.3, 0.3))]])
        >>> high = float(box.surface(np.array([0.024]), box.tilt(0.6, 0.0))[0]) + 0.6 * 0.6
        >>> round(1000 * high, 1), round(1000 * (0.6 - high / 0.6), 1)
        (268.3, 152.8)
        """
        room = tilt.reach + 0.01
        low, high = self.low - room, self.high + room
        at = (
            np.minimum(np.maximum(near, low), high)
            if near is not None
            else np.broadcast_to((low + high) / 2, volume.shape)
        )
        close = CLOSE * self.full
        for _ in range(MOST_STEPS):
            liquid, area = tilt.under(at)
            miss = liquid - volume
            off = np.abs(miss) > close
            if not off.any():
                break
            below = miss < 0
            low, high = np.where(below, at, low), np.where(below, high, at)
            step = at - miss / np.maximum(area, 1e-12)
            step = np.where((step > low) & (step < high), step, (low + high) / 2)
            at = np.where(off, step, at)
        return at


def _not_flat(rise: Array) -> Array:
    return np.where(np.abs(rise) < LEAST_RISE, np.copysign(LEAST_RISE, rise), rise)


def slopes(ahead: float, left: float, up: float) -> tuple[float, float]:
    """The slopes of a free surface forward and to the right, under what an accelerometer fixed to
    the vehicle reads (ISO 8855 axes, from memory: ahead, left, up; at rest and level 0, 0
    and 1 g): -ahead/up and left/up. Where nothing presses fuel down, up is taken as at least a
    twentieth of g.

    Args: ahead [g], left [g], up [g]. Returns: [-], [-]. Source: hydrostatics of a liquid in
    uniform acceleration. Valid: fuel at rest in the vehicle.

    >>> [round(s, 3) for s in slopes(-0.6, 0.3, 1.0)]
    [0.6, 0.3]
    """
    down = max(up, LEAST_DOWN)
    return -ahead / down, left / down


LEAST_DOWN = 0.05  # g
