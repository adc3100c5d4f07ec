"""Vectors of three numbers [mm, or without a unit for directions]."""

import math

Vector = tuple[float, float, float]
NOWHERE = 1e-9  # shorter than that, a direction is none


def add_vectors(a: Vector, b: Vector, times: float = 1.0) -> Vector:
    """a + times b."""
    return a[0] + times * b[0], a[1] + times * b[1], a[2] + times * b[2]


def subtract_vectors(a: Vector, b: Vector) -> Vector:
    """a - b."""
    return a[0] - b[0], a[1] - b[1], a[2] - b[2]


def scaled(a: Vector, times: float) -> Vector:
    """times a."""
    return times * a[0], times * a[1], times * a[2]


def dot(a: Vector, b: Vector) -> float:
    """a . b."""
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


def cross(a: Vector, b: Vector) -> Vector:
    """a x b."""
    return a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]


def size(a: Vector) -> float:
    """How long it is."""
    return math.sqrt(dot(a, a))


def unit(a: Vector) -> Vector:
    """Its direction. Raises ValueError for one that is nowhere."""
    long = size(a)
    if long < NOWHERE:
        raise ValueError("two places lie on one another, so there is no direction between them")
    return scaled(a, 1 / long)


def across(a: Vector, direction: Vector) -> Vector:
    """The part of it that lies across a direction."""
    return add_vectors(a, direction, -dot(a, direction))


def angle_between(a: Vector, b: Vector) -> float:
    """The angle between two directions [rad], exact for small ones too."""
    return math.atan2(size(cross(a, b)), dot(a, b))


def turned(a: Vector, axis: Vector, angle: float) -> Vector:
    """It turned about a unit axis by the right-hand rule [rad] (Rodrigues).

    >>> [round(x, 9) for x in turned((1.0, 0.0, 0.0), (0.0, 0.0, 1.0), math.pi / 2)]
    [0.0, 1.0, 0.0]
    """
    c, s = math.cos(angle), math.sin(angle)
    return add_vectors(add_vectors(scaled(a, c), cross(axis, a), s), axis, dot(axis, a) * (1 - c))


def parallel_transport(a: Vector, before: Vector, after: Vector) -> Vector:
    """It taken round a bend from one direction to another without twist: turned by the bend's own
    rotation, and by nothing else.
    """
    axis = cross(before, after)
    return a if size(axis) < NOWHERE else turned(a, unit(axis), angle_between(before, after))
