"""The usual way of a line that nobody has drawn: along the lanes of the vehicle, straight out of
its ends, round corners that hold its bends.
"""

import math
from dataclasses import replace
from functools import lru_cache
from itertools import pairwise

import numpy as np

from tall_heron.core.base.graphs import cheapest
from tall_heron.core.routing.run import HoseRun, RunEnd
from tall_heron.core.routing.vectors import (
    Vector,
    add_vectors,
    angle_between,
    dot,
    size,
    subtract_vectors,
    unit,
)

OFF_LANE = 2.2  # times as long as it is, a way off the lanes counts
DIRECT = 450.0  # mm that may be led straight over
PIECE = 300.0  # mm, between the places at which a lane may be joined
JOIN = 60.0  # mm that joining or leaving one counts for
SAME = 25.0  # mm apart are one place
KINK = 4.0  # deg between an end and a line that may lie straight
STUBS = (
    0.15,
    0.4,
    0.7,
    1.05,
    1.5,
    2.1,
    2.8,
)  # of the radius, how far a line goes straight out of its end
BESIDE = 45.0  # mm between lines that follow one lane
MISSED, OFF = 130.0, 500.0  # mm from a lane's corner that miss it, and what missing one counts for
UNFIT, TURN = 5000.0, 40.0  # mm that a bend without room counts for, and a radian turned


Lanes = tuple[tuple[Vector, ...], ...]


@lru_cache(maxsize=1024)
def usual_way(
    lanes: Lanes, one: RunEnd, other: RunEnd, radius: float, lane: int, rise: float = 0.0
) -> tuple[Vector, ...]:
    """The corners of a line between two ends [mm], `lane` lines further to the left than the first
    that follows its way, going at least `rise` [mm] straight out of its first end; none where it
    can lie straight.
    """
    plain = HoseRun(one, other, (), radius)
    if (
        size(subtract_vectors(other.socket, one.socket)) > 1.0
        and max(plain.kinks) < math.radians(KINK)
        and not rise
    ):
        return ()
    a, b = _out(one, 0.6 * radius + 10.0), _out(other, 0.6 * radius + 10.0)
    return eased(one, other, _middle(lanes, a, b, lane), radius, rise)


def _middle(lanes: Lanes, a: Vector, b: Vector, lane: int) -> list[Vector]:
    """The corners on the lanes between two places, so many lines to the outside."""
    return [
        add_vectors(p, (0.0, BESIDE * lane * (-1 if p[1] < -20 else 1), 0.0))
        for p in along_lanes(lanes, a, b)
    ]


def best_turned(
    lanes: Lanes, one: RunEnd, other: RunEnd, radius: float, lane: int, rise: float = 0.0
) -> tuple[RunEnd, RunEnd, tuple[Vector, ...]]:
    """The ends turned so that the usual way between them is short and fits, first one and then the
    other, and that way.
    """
    wanted = _middle(lanes, one.socket, other.socket, lane)
    corners = usual_way(lanes, one, other, radius, lane, rise)
    best = _worth(one, other, corners, radius, wanted)
    for which in (0, 1):
        start = one, other
        for roll in _rolls(start[which].port.away) if start[which].bent else ():
            a, b = (
                (replace(start[0], roll=roll), start[1])
                if which == 0
                else (start[0], replace(start[1], roll=roll))
            )
            tried = usual_way(lanes, a, b, radius, lane, rise)
            worth = _worth(a, b, tried, radius, wanted)
            if worth < best:
                best, one, other, corners = worth, a, b, tried
    return one, other, corners


def _rolls(away: Vector) -> list[Vector]:
    return [
        v
        for v in (
            (1.0, 0.0, 0.0),
            (-1.0, 0.0, 0.0),
            (0.0, 1.0, 0.0),
            (0.0, -1.0, 0.0),
            (0.0, 0.0, 1.0),
            (0.0, 0.0, -1.0),
        )
        if abs(dot(v, away)) < 0.7
    ]


def _worth(
    one: RunEnd, other: RunEnd, corners: tuple[Vector, ...], radius: float, wanted: list[Vector]
) -> float:
    """How long a way is [mm], and what speaks against it."""
    points = [one.socket, *corners, other.socket]
    if any(size(subtract_vectors(q, p)) < 1.0 for p, q in pairwise(points)):
        return math.inf
    lacks, _, turns = _lacks(points, radius)
    run = HoseRun(one, other, corners, radius)
    low = min(p[2] for p in points)
    missed = sum(
        min((size(subtract_vectors(c, w)) for c in corners), default=math.inf) > MISSED
        for w in wanted
    )
    return (
        OFF * missed
        + sum(run.legs)
        + TURN * sum(turns)
        + UNFIT * (max(lacks) > 0.5)
        + UNFIT * max(0.0, 60.0 - low) / 60.0
        + UNFIT * (max(run.kinks) > math.radians(KINK))
    )


def _out(end: RunEnd, far: float) -> Vector:
    return add_vectors(end.socket, end.leaves, far)


def along_lanes(lanes: Lanes, a: Vector, b: Vector) -> list[Vector]:
    """The corners of lanes that the least costly way from one place to another passes; it may join
    and leave a lane anywhere.
    """
    fine = [_cut(lane) for lane in lanes]
    places = [a, b, *(p for lane in fine for p in lane)]
    xyz = np.array(places)
    cost = OFF_LANE * np.linalg.norm(xyz[:, None] - xyz[None], axis=2) + JOIN
    straight = size(subtract_vectors(b, a))
    cost[0, 1] = cost[1, 0] = straight if straight < DIRECT else OFF_LANE * straight + 2 * JOIN
    at = 2
    for lane in fine:
        for i in range(at, at + len(lane) - 1):
            cost[i, i + 1] = cost[i + 1, i] = size(subtract_vectors(places[i + 1], places[i]))
        at += len(lane)
    out = [places[i] for i in cheapest(cost.tolist(), 0, 1)]
    whole = [a, *out, b]
    return [
        p
        for before, p, after in zip(whole, whole[1:], whole[2:], strict=False)
        if angle_between(subtract_vectors(p, before), subtract_vectors(after, p)) > math.radians(1)
    ]


@lru_cache(maxsize=64)
def _cut(lane: tuple[Vector, ...]) -> tuple[Vector, ...]:
    """A lane with places on its straights."""
    out: list[Vector] = []
    for p, q in pairwise(lane):
        n = max(math.ceil(size(subtract_vectors(q, p)) / PIECE), 1)
        out += [add_vectors(p, subtract_vectors(q, p), k / n) for k in range(n)]
    return (*out, lane[-1])


def eased(
    one: RunEnd, other: RunEnd, middle: list[Vector], radius: float, rise: float = 0.0
) -> tuple[Vector, ...]:
    """Corners that lead straight out of both ends and through some places, as far as bends of a
    radius find room: places too near for them are drawn together, or left out.
    """
    corners_left = [
        c for i, c in enumerate(middle) if not i or size(subtract_vectors(c, middle[i - 1])) > SAME
    ]
    far = [max(0.6 * radius + 10.0, rise), 0.6 * radius + 10.0]
    for _ in range(3 * len(corners_left) + 12):
        corners = [_out(one, far[0]), *corners_left, _out(other, far[1])]
        points = [one.socket, *corners, other.socket]
        if any(size(subtract_vectors(q, p)) < 1.0 for p, q in pairwise(points)):
            if not corners_left:
                break
            corners_left.pop(0 if size(subtract_vectors(corners_left[0], corners[0])) < 1.0 else -1)
            continue
        lacks, need, turns = _lacks(points, radius)
        flat = [i for i in range(1, len(turns) - 1) if turns[i] < math.radians(2)]
        if flat:
            corners_left.pop(flat[0] - 1)
            continue
        worst = max(range(len(lacks)), key=lambda i: lacks[i])
        if lacks[worst] <= 0:
            break
        if worst in (0, len(lacks) - 1) and far[bool(worst)] < 1.6 * radius:
            far[bool(worst)] = max(
                min(need[0 if not worst else -1] + 2.0, 1.6 * radius), 0.0 if worst else rise
            )
            continue
        if not corners_left:
            return _two_stubs(one, other, radius)
        i = worst - 2  # of the two corners at the leg's ends that of `kept`
        if i >= 0 and i + 1 < len(corners_left):
            corners_left[i : i + 2] = [_between(corners_left[i], corners_left[i + 1])]
        else:
            corners_left.pop(0 if worst <= 1 else -1)
    return _rounded(
        [
            c
            for c, t in zip(
                [_out(one, far[0]), *corners_left, _out(other, far[1])],
                _turns(
                    [
                        one.socket,
                        _out(one, far[0]),
                        *corners_left,
                        _out(other, far[1]),
                        other.socket,
                    ]
                ),
                strict=True,
            )
            if t > math.radians(1)
        ]
    )


def _two_stubs(one: RunEnd, other: RunEnd, radius: float) -> tuple[Vector, ...]:
    """The shortest way that goes straight out of both ends and bends where each fits; the nearest
    to fitting where none does.
    """
    best: tuple[float, float, list[Vector]] | None = None
    for a in STUBS:
        for b in STUBS:
            corners = [_out(one, a * radius), _out(other, b * radius)]
            points = [one.socket, *corners, other.socket]
            if any(size(subtract_vectors(q, p)) < 1.0 for p, q in pairwise(points)):
                continue
            lack = max(0.0, *_lacks(points, radius)[0])
            long = sum(size(subtract_vectors(q, p)) for p, q in pairwise(points))
            if best is None or (lack, long) < best[:2]:
                best = lack, long, corners
    return _rounded(best[2]) if best is not None else ()


def _turns(points: list[Vector]) -> list[float]:
    ways = [
        unit(subtract_vectors(q, p)) if size(subtract_vectors(q, p)) > 1e-6 else (1.0, 0.0, 0.0)
        for p, q in pairwise(points)
    ]
    return [angle_between(p, q) for p, q in pairwise(ways)]


def _lacks(points: list[Vector], radius: float) -> tuple[list[float], list[float], list[float]]:
    """By how much each leg is too short for the bends at its ends [mm], what each corner needs of
    it [mm], and by how much it turns [rad].
    """
    turns = _turns(points)
    need = [radius * math.tan(min(t, 3.0) / 2) for t in turns]
    legs = [size(subtract_vectors(q, p)) for p, q in pairwise(points)]
    return (
        [
            (need[i - 1] if i else 0.0) + (need[i] if i < len(need) else 0.0) - leg
            for i, leg in enumerate(legs)
        ],
        need,
        turns,
    )


def _between(a: Vector, b: Vector) -> Vector:
    return (a[0] + b[0]) / 2, (a[1] + b[1]) / 2, (a[2] + b[2]) / 2


def _rounded(corners: list[Vector]) -> tuple[Vector, ...]:
    return tuple((round(c[0], 1), round(c[1], 1), round(c[2], 1)) for c in corners)
