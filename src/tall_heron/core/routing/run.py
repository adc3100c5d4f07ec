"""A line from one port to another: its ends, its corners with true arcs, what is cut for it, how
its bent ends stand to each other, and how a hard one is bent.
"""

import math
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

from tall_heron.core.routing.vectors import (
    Vector,
    across,
    add_vectors,
    angle_between,
    cross,
    dot,
    parallel_transport,
    scaled,
    size,
    subtract_vectors,
    turned,
    unit,
)

MOST_TURN = 3.1  # rad: a line that turns by more runs back on itself
STRAIGHT = 1e-6  # rad: less is no bend, and no end that is bent


@dataclass(frozen=True)
class Port:
    """The centre of a seat [mm] and the direction away from its part (unit)."""

    seat: Vector
    away: Vector


@dataclass(frozen=True)
class RunEnd:
    """An end on a port: bent by `angle` [rad], from its seat to its corner `leg_a` and from there
    to its socket `leg_b` [mm], the hose `inserted` so far into it [mm], turned toward `roll`,
    of which the part across the port's direction counts.
    """

    port: Port
    angle: float
    leg_a: float
    leg_b: float
    inserted: float
    roll: Vector = (0.0, 0.0, 1.0)

    @cached_property
    def leaves(self) -> Vector:
        """The direction in which the hose leaves it: cos(angle) d + sin(angle) u. Raises ValueError
        for a bent end that is turned along its own port.
        """
        d = self.port.away
        return (
            d
            if self.angle < STRAIGHT
            else add_vectors(
                scaled(d, math.cos(self.angle)), unit(across(self.roll, d)), math.sin(self.angle)
            )
        )

    @cached_property
    def socket(self) -> Vector:
        """Where the hose begins [mm]: P + a d + b t."""
        return add_vectors(
            add_vectors(self.port.seat, self.port.away, self.leg_a), self.leaves, self.leg_b
        )

    @property
    def bent(self) -> bool:
        """Whether it has a side, so that a clock means something."""
        return self.angle > STRAIGHT


@dataclass(frozen=True)
class Bend:
    """A corner: its place, the angle it turns by [rad], the radius it is drawn with, and where its
    arc begins and ends along the centre line [mm]. `fits` says that both its legs hold it and its
    neighbors.
    """

    at: Vector
    angle: float
    radius: float
    start: float
    end: float
    fits: bool


@dataclass(frozen=True)
class HoseRun:
    """A line through `corners` [mm] between two ends, its arcs of one `radius` [mm]."""

    one: RunEnd
    other: RunEnd
    corners: tuple[Vector, ...]
    radius: float

    @cached_property
    def points(self) -> tuple[Vector, ...]:
        """Socket, corners, socket."""
        return self.one.socket, *self.corners, self.other.socket

    @cached_property
    def directions(self) -> list[Vector]:
        """The direction of each leg. Raises ValueError where two points lie on one another."""
        return [unit(subtract_vectors(b, a)) for a, b in pairwise(self.points)]

    @cached_property
    def legs(self) -> list[float]:
        """How long each leg is from point to point [mm]."""
        return [size(subtract_vectors(b, a)) for a, b in pairwise(self.points)]

    @cached_property
    def turns(self) -> list[float]:
        """By how much the line turns at each corner [rad]."""
        return [angle_between(a, b) for a, b in pairwise(self.directions)]

    @cached_property
    def radii(self) -> list[float]:
        """The radius of each corner's arc [mm]: the line's own where it fits, else as much as the
        legs beside it leave, so that what is drawn never runs back on itself.
        """
        turns, legs = self.turns, self.legs
        need = [self.radius * math.tan(min(t, MOST_TURN) / 2) for t in turns]
        fits = self._fits(need, legs)
        # a leg between two corners that do not fit is halved; one that fits leaves the other room
        left = [0.0 if fit else 0.5 for fit in fits]
        out = []
        for i, t in enumerate(turns):
            before = legs[i] * (1 - (left[i - 1] if i else 0.0))
            after = legs[i + 1] * (1 - (left[i + 1] if i + 1 < len(left) else 0.0))
            most = min(before, after) / max(math.tan(min(t, MOST_TURN) / 2), 1e-9)
            out.append(self.radius if fits[i] else min(self.radius, most))
        return out

    @staticmethod
    def _fits(need: list[float], legs: list[float]) -> list[bool]:
        """Whether both legs of each corner hold its arc and its neighbors'."""
        out = []
        for i, n in enumerate(need):
            before = legs[i] - (need[i - 1] if i else 0.0)
            after = legs[i + 1] - (need[i + 1] if i + 1 < len(need) else 0.0)
            out.append(n <= before + 1e-9 and n <= after + 1e-9)
        return out

    @cached_property
    def bends(self) -> list[Bend]:
        """Its corners with their arcs; a corner that turns nothing has none."""
        turns, legs, radii = self.turns, self.legs, self.radii
        fits = self._fits([self.radius * math.tan(min(t, MOST_TURN) / 2) for t in turns], legs)
        taken = [r * math.tan(min(t, MOST_TURN) / 2) for r, t in zip(radii, turns, strict=True)]
        out, along = list[Bend](), 0.0
        for i, (at, turn) in enumerate(zip(self.corners, turns, strict=True)):
            start = along + legs[i] - (taken[i - 1] if i else 0.0) - taken[i]
            along = start + radii[i] * turn
            if turn > STRAIGHT:
                out.append(Bend(at, turn, radii[i], start, along, fits[i]))
        return out

    @cached_property
    def center_line(self) -> float:
        """Its length from socket to socket [mm]: legs, and for each corner R t - 2 R tan(t/2)."""
        return sum(self.legs) + sum(
            r * (t - 2 * math.tan(min(t, MOST_TURN) / 2))
            for r, t in zip(self.radii, self.turns, strict=True)
        )

    @property
    def cut(self) -> float:
        """What is cut [mm]: the centre line and how far the hose goes into each end."""
        return self.center_line + self.one.inserted + self.other.inserted

    @cached_property
    def kinks(self) -> tuple[float, float]:
        """By how much the hose must bend right where it leaves each end [rad]: none where its first
        leg goes on as the end points.
        """
        way = self.directions
        return angle_between(self.one.leaves, way[0]), angle_between(
            self.other.leaves, scaled(way[-1], -1.0)
        )

    @cached_property
    def clock(self) -> float | None:
        """How the bent ends stand to each other [rad, 0 to 2 pi): from the side of the first end,
        carried along the hose without twist, to that of the other, clockwise as seen from beyond
        the other looking back. None where either is straight.
        """
        if not (self.one.bent and self.other.bent):
            return None
        way = self.directions
        side = across(subtract_vectors(self.one.port.seat, self.one.socket), way[0])
        for before, after in pairwise(way):
            side = parallel_transport(side, before, after)
        goal = across(subtract_vectors(self.other.port.seat, self.other.socket), way[-1])
        axis = scaled(way[-1], -1.0)
        return math.atan2(dot(cross(side, goal), axis), dot(side, goal)) % (2 * math.pi)

    def drawn(self, step: float = math.radians(6)) -> list[Vector]:
        """Points along its centre line for a picture [mm], its arcs in steps of an angle [rad]."""
        out, way = [self.points[0]], self.directions
        for at, before, after, radius in zip(self.corners, way, way[1:], self.radii, strict=False):
            turn = angle_between(before, after)
            if turn <= STRAIGHT or turn > MOST_TURN or radius < 0.01:
                out.append(at)
                continue
            axis = unit(cross(before, after))
            start = add_vectors(at, before, -radius * math.tan(turn / 2))
            middle = add_vectors(start, cross(axis, before), radius)
            count = max(math.ceil(turn / step), 1)
            out += [
                add_vectors(middle, turned(subtract_vectors(start, middle), axis, turn * i / count))
                for i in range(count + 1)
            ]
        return [*out, self.points[-1]]


@dataclass(frozen=True)
class TubeBend:
    """A row of a bend table: the straight before it [mm], by how much its plane is turned from that
    of the bend before, clockwise as seen along the tube [rad], its angle [rad] and radius [mm],
    and where it begins from the end of the tube [mm].
    """

    straight: float
    rotation: float
    angle: float
    radius: float
    starts: float


def bend_table(run: HoseRun) -> tuple[list[TubeBend], float]:
    """How a hard line is bent: its bends, and the straight after the last [mm]. Raises ValueError
    where a corner does not fit.
    """
    if not all(b.fits for b in run.bends):
        raise ValueError("a corner does not fit between its neighbors: move it, or bend it tighter")
    out, way, done, plane = list[TubeBend](), run.directions, 0.0, None
    for bend, (before, after) in zip(
        run.bends, [(a, b) for a, b in pairwise(way) if angle_between(a, b) > STRAIGHT], strict=True
    ):
        normal = unit(cross(before, after))
        rotation = (
            0.0
            if plane is None
            else math.atan2(dot(cross(plane, normal), before), dot(plane, normal))
        )
        out.append(TubeBend(bend.start - done, rotation, bend.angle, bend.radius, bend.start))
        done, plane = bend.end, normal
    return out, run.center_line - done


def bent_tube(
    table: list[TubeBend], last: float, start: Vector, way: Vector, normal: Vector
) -> list[Vector]:
    """The corners and the far end of a tube bent by a table [mm], from its start, its first
    direction and the normal of its first bend's plane.
    """
    out, here = list[Vector](), start
    for row in table:
        normal = turned(normal, way, row.rotation)
        tangent = row.radius * math.tan(row.angle / 2)
        corner = add_vectors(here, way, row.straight + tangent)
        way = turned(way, normal, row.angle)
        out.append(corner)
        here = add_vectors(corner, way, tangent)
    return [*out, add_vectors(here, way, last)]
