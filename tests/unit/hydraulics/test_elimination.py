"""Elimination against numpy's dense solver, on random networks of nodes and links."""

from random import Random

import numpy as np
import pytest

from tall_heron.core.hydraulics.elimination import LEAST, make_plan


def network(rnd: Random) -> tuple[int, int, tuple[tuple[int, int], ...]]:
    """Unknown nodes, all nodes, and links: a chain that holds together, and others at random, two
    of them side by side.
    """
    unknown, fixed = rnd.randrange(1, 12), rnd.randrange(1, 4)
    ends = [(i, i + 1) for i in range(unknown)]
    ends += [
        (a, b)
        for a, b in (
            (rnd.randrange(unknown + fixed), rnd.randrange(unknown + fixed))
            for _ in range(rnd.randrange(8))
        )
        if a != b
    ]
    ends += [ends[0], ends[0][::-1]]
    return unknown, unknown + fixed, tuple(ends)


@pytest.mark.parametrize("seed", range(40))
def test_pressure_steps_are_those_of_a_dense_solver(seed: int) -> None:
    rnd = Random(seed)
    n, total, ends = network(rnd)
    plan = make_plan(n, ends)
    assert len(plan.diagonal) == n
    points = []
    for _ in range(3):
        sums = [rnd.uniform(-1, 1) for _ in range(total)]
        rs, gus, gvs = ([sign * rnd.uniform(0.1, 5) for _ in ends] for sign in (1, 1, -1))
        matrix, right = np.zeros((total, total)), np.array(sums)
        for (u, v), r, gu, gv in zip(ends, rs, gus, gvs, strict=True):
            matrix[u] += gu * np.eye(total)[u] + gv * np.eye(total)[v]
            matrix[v] -= gu * np.eye(total)[u] + gv * np.eye(total)[v]
            right[u] -= r
            right[v] += r
        wanted = np.linalg.solve(matrix[:n, :n], right[:n])
        got = plan.steps_of(sums, ends, rs, gus, gvs)
        assert got[:n] == pytest.approx(wanted, rel=1e-9, abs=1e-12)
        assert got[n:] == [0.0] * (total - n)
        points.append((right, gus, gvs, wanted))
    many = plan.steps_of_many(
        np.array([p[0] for p in points]).T,
        np.array([p[1] for p in points]).T,
        np.array([p[2] for p in points]).T,
    )
    assert pytest.approx(np.array([p[3] for p in points]), rel=1e-9, abs=1e-12) == many[:n].T
    assert not many[n:].any()


def test_a_node_between_shut_links_gets_no_infinite_step() -> None:
    plan = make_plan(1, ((0, 1),))
    assert plan.steps_of([0.0, 0.0], ((0, 1),), [0.0], [0.0], [0.0]) == [0.0, 0.0]
    assert plan.steps_of([1e-22, 0.0], ((0, 1),), [0.0], [0.0], [0.0])[0] == pytest.approx(
        1e-22 / LEAST
    )


def test_little_fill_in_comes_of_a_tree() -> None:
    """A line of nodes needs no slot beyond its own: a diagonal and two for each link, and the bin."""
    ends = tuple((i, i + 1) for i in range(9))
    assert make_plan(9, ends).slots == 9 + 2 * 8 + 1
