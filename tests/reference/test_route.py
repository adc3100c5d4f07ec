"""Lines in space against figures worked by hand (design notes of Route, plain vector algebra) and
against rotation algebra written independently here, with matrices and a finely cut curve.
"""

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from tall_heron.core.routing.run import STRAIGHT, HoseRun, Port, RunEnd, bend_table, bent_tube
from tall_heron.core.routing.vectors import (
    Vector,
    add_vectors,
    angle_between,
    parallel_transport,
    scaled,
    subtract_vectors,
    unit,
)

RIGHT = math.pi / 2


def end(seat: Vector, away: Vector, toward: Vector, degrees: float = 90.0) -> RunEnd:
    """The ends of the worked figures: legs of 25 and 40 mm, 12 mm inserted."""
    return RunEnd(Port(seat, away), math.radians(degrees), 25.0, 40.0, 12.0, toward)


X, Y, Z = (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)
A = end((0.0, 0.0, 0.0), Z, X)
WORKED = {
    "W1": (HoseRun(A, end((1000.0, -25.0, 25.0), Y, scaled(X, -1)), (), 150.0), 920.0, 944.0, 90.0),
    "W2": (
        HoseRun(A, end((760.0, 640.0, 0.0), Z, scaled(Y, -1)), ((760.0, 0.0, 25.0),), 150.0),
        1255.62,
        1279.62,
        0.0,
    ),
    "W3": (
        HoseRun(
            A, end((825.0, 0.0, 700.0), scaled(X, -1), scaled(Z, -1)), ((800.0, 0.0, 25.0),), 150.0
        ),
        1330.62,
        1354.62,
        0.0,
    ),
}


@pytest.mark.parametrize("name", WORKED)
def test_worked_lines(name: str) -> None:
    run, center, cut, clock = WORKED[name]
    assert run.center_line == pytest.approx(center, abs=0.005)
    assert run.cut == pytest.approx(cut, abs=0.005)
    assert run.clock is not None
    assert math.degrees(run.clock) % 360 == pytest.approx(clock, abs=1e-6)
    assert all(b.fits for b in run.bends)
    assert run.kinks == pytest.approx((0.0, 0.0), abs=1e-9)


def test_a_straight_end_has_no_clock_and_reaches_straight_out() -> None:
    run = HoseRun(
        end((0.0, 0.0, 0.0), X, Z, 0.0), end((500.0, 0.0, 0.0), scaled(X, -1), Z, 0.0), (), 100.0
    )
    assert run.clock is None
    assert run.center_line == pytest.approx(500 - 2 * 65)


COORDINATE = st.floats(-900, 900)
PLACE = st.tuples(COORDINATE, COORDINATE, COORDINATE)
DEGREES = st.sampled_from([30.0, 45.0, 60.0, 90.0, 120.0, 150.0])


def direction(v: Vector) -> Vector:
    assume(math.dist(v, (0, 0, 0)) > 50)
    return unit(v)


@st.composite
def runs(draw: st.DrawFn) -> HoseRun:
    """Two bent ends anywhere, pointing anywhere, with up to three corners between them."""
    ends = []
    for shift in (0.0, 2500.0):
        seat = draw(PLACE)
        away, roll = direction(draw(PLACE)), direction(draw(PLACE))
        assume(abs(np.dot(away, roll)) < 0.97)
        legs = draw(st.tuples(st.floats(5, 60), st.floats(5, 60), st.floats(0, 30)))
        ends.append(
            RunEnd(
                Port(add_vectors(seat, (shift, 0.0, 0.0)), away),
                math.radians(draw(DEGREES)),
                *legs,
                roll,
            )
        )
    corners = tuple(
        add_vectors(draw(PLACE), (625.0 * (i + 1), 0.0, 0.0))
        for i in range(draw(st.integers(0, 3)))
    )
    run = HoseRun(ends[0], ends[1], corners, draw(st.floats(40, 200)))
    legs = run.legs
    assume(min(legs) > 60)
    way = run.directions
    assume(all(np.dot(a, b) > -0.98 for a, b in pairwise(way)))
    for e, first in (
        (run.one, way[0]),
        (run.other, scaled(way[-1], -1)),
    ):  # the side of an end must lie across the hose
        assume(np.linalg.norm(np.cross(subtract_vectors(e.port.seat, e.socket), first)) > 2.0)
    return run


def matrix(axis: np.ndarray, angle: float) -> np.ndarray:
    """The rotation about an axis, by the exponential of its cross-product matrix."""
    k = np.array([[0, -axis[2], axis[1]], [axis[2], 0, -axis[0]], [-axis[1], axis[0], 0]])
    return np.eye(3) + math.sin(angle) * k + (1 - math.cos(angle)) * (k @ k)


@given(run=runs())
@settings(max_examples=200, deadline=None)
def test_cut_and_clock_agree_with_matrices_and_a_finely_cut_curve(run: HoseRun) -> None:
    """The socket by a rotation matrix about the port's cross direction; the length by a curve cut
    into thousands of chords; the side carried from chord to chord by reflection in the plane
    half-way between their directions, which is the least rotation that takes one to the other (Wang
    et al., ACM Trans. Graphics 27, 2008).
    """
    for e in (run.one, run.other):
        d, roll = np.array(e.port.away), np.array(e.roll)
        axis = np.cross(d, roll)
        axis /= np.linalg.norm(axis)
        leaves = matrix(axis, e.angle) @ d
        assert np.array(e.port.seat) + e.leg_a * d + e.leg_b * leaves == pytest.approx(
            np.array(e.socket), abs=1e-6
        )
    assume(all(b.fits for b in run.bends))

    def chords_of(degrees: float) -> np.ndarray:
        found = np.diff(np.array(run.drawn(step=math.radians(degrees))), axis=0)
        return found[np.linalg.norm(found, axis=1) > 1e-9]

    length = float(np.linalg.norm(chords_of(0.05), axis=1).sum())
    assert length + run.one.inserted + run.other.inserted == pytest.approx(run.cut, abs=0.01)
    assert run.clock is not None
    ways = [c / np.linalg.norm(c) for c in chords_of(4.0)]
    side = np.array(run.one.port.seat) - np.array(run.one.socket)
    side = side - (side @ ways[0]) * ways[0]
    for t, onward in pairwise(ways):
        middle = (t + onward) / np.linalg.norm(t + onward)
        side = side - 2 * (side @ middle) * middle
    side /= np.linalg.norm(side)
    last = ways[-1]
    goal = np.array(run.other.port.seat) - np.array(run.other.socket)
    goal = goal - (goal @ last) * last
    goal /= np.linalg.norm(goal)
    turned_back = matrix(-last, run.clock) @ side
    assert (
        math.degrees(
            math.atan2(
                float(np.linalg.norm(np.cross(turned_back, goal))), float(turned_back @ goal)
            )
        )
        < 0.01
    )


@given(run=runs())
@settings(max_examples=100, deadline=None)
def test_a_bend_table_bent_again_gives_the_corners(run: HoseRun) -> None:
    assume(run.bends and all(b.fits for b in run.bends))
    table, last = bend_table(run)
    assert sum(r.straight + r.angle * r.radius for r in table) + last == pytest.approx(
        run.center_line, abs=1e-6
    )
    way = run.directions
    first = next(i for i, (a, b) in enumerate(pairwise(way)) if angle_between(a, b) > STRAIGHT)
    normal = np.cross(way[first], way[first + 1])
    again = bent_tube(table, last, run.points[0], way[0], tuple(normal / np.linalg.norm(normal)))
    turned = [
        p
        for p, before, after in zip(run.points[1:], way, way[1:], strict=False)
        if angle_between(before, after) > STRAIGHT
    ]
    assert np.array(again) == pytest.approx(np.array([*turned, run.points[-1]]), abs=0.5)


def test_a_corner_that_does_not_fit_says_so_and_is_not_bent() -> None:
    tight = HoseRun(
        A,
        end((760.0, 640.0, 0.0), Z, scaled(Y, -1)),
        ((60.0, 0.0, 25.0), (60.0, 300.0, 25.0), (760.0, 300.0, 25.0)),
        150.0,
    )
    assert not tight.bends[0].fits
    with pytest.raises(ValueError, match="does not fit"):
        bend_table(tight)


def test_a_corner_that_turns_next_to_nothing_turns_no_side() -> None:
    """Between no turn and one that arithmetic can tell; a direction was asked of nothing there."""
    run = HoseRun(
        end((0.0, 0.0, 0.0), Z, Y, 30.0),
        end((2500.0, 0.0, 0.0), Z, Y, 30.0),
        ((625.0, 0.0, 0.0), (1250.0, 0.0, 0.0), (1875.0, 0.0, 1.2e-7)),
        40.0,
    )
    assert run.clock is not None
    assert parallel_transport(Z, X, (1.0, 0.0, 1e-10)) == Z


def test_what_is_carried_round_a_closed_turn_comes_back_turned_by_the_solid_angle() -> None:
    """x to y to z to x: an eighth of the sphere, so a right angle (Gauss-Bonnet)."""
    side = Z
    for before, after in ((X, Y), (Y, Z), (Z, X)):
        side = parallel_transport(side, before, after)
    assert side == pytest.approx((0.0, -1.0, 0.0), abs=1e-12) or side == pytest.approx(
        (0.0, 1.0, 0.0), abs=1e-12
    )
