"""Walks over graphs: what can be reached, how far it is, and the shortest line. Edges are lists of
neighbors by node.
"""

from collections import deque
from collections.abc import Callable, Container, Hashable, Iterable, Mapping, Sequence
from typing import TypeVar

Node = TypeVar("Node", bound=Hashable)
Edge = TypeVar("Edge")


def join(edges: dict[Node, list[Node]], a: Node, b: Node) -> None:
    """Add an edge that leads both ways."""
    edges.setdefault(a, []).append(b)
    edges.setdefault(b, []).append(a)


def reached(
    edges: Mapping[Node, Sequence[Node]], starts: Iterable[Node], ends: Container[Node] = ()
) -> dict[Node, int]:
    """Every node that can be reached from `starts`, in the order it is met, with how many edges
    away it is; a walk goes no further than `ends`.

    >>> reached({"a": ["b"], "b": ["c"], "x": ["a"]}, ["a"])
    {'a': 0, 'b': 1, 'c': 2}
    """
    far = dict.fromkeys(starts, 0)
    queue = deque(far)
    while queue:
        here = queue.popleft()
        if here in ends and far[here]:
            continue
        for there in edges.get(here, ()):
            if there not in far:
                far[there] = far[here] + 1
                queue.append(there)
    return far


def cheapest(costs: Sequence[Sequence[float]], start: int, goal: int) -> list[int]:
    """The nodes of the cheapest way from one to another, both left out, where every pair has a cost
    (Dijkstra 1959); for a few dozen nodes.

    >>> cheapest([[0, 9, 1], [9, 0, 2], [1, 2, 0]], 0, 1)
    [2]
    """
    far, came, left = [float("inf")] * len(costs), [start] * len(costs), set(range(len(costs)))
    far[start] = 0.0
    while left:
        here = min(left, key=far.__getitem__)
        left.discard(here)
        if here == goal:
            break
        for there in left:
            if far[here] + costs[here][there] < far[there]:
                far[there], came[there] = far[here] + costs[here][there], here
    out, here = [], came[goal]
    while here != start:
        out.append(here)
        here = came[here]
    return out[::-1]


def shortest(
    edges: Mapping[Node, Sequence[tuple[Node, Edge]]],
    starts: Sequence[Node],
    goal: Callable[[Node], bool],
) -> list[tuple[Edge, Node, Node]]:
    """The edges of a shortest line from `starts` to a node that is a `goal`, as (edge, from, to);
    where no goal is met, the line to the node met last.
    """
    came: dict[Node, tuple[Node, Edge] | None] = dict.fromkeys(starts)
    queue, last = deque(starts), starts[0]
    while queue:
        last = queue.popleft()
        if goal(last) and came[last] is not None:
            break
        for there, edge in edges.get(last, ()):
            if there not in came:
                came[there] = (last, edge)
                queue.append(there)
    line = []
    while (step := came[last]) is not None:
        line.append((step[1], step[0], last))
        last = step[0]
    return line[::-1]
