"""Sparse elimination order, worked out once per topology and kept as a flat list of operations.

The matrix is column diagonally dominant (every link takes from one node what it gives to the
other), so no pivoting is needed.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

LEAST = 1e-22  # in the place of a pivot of nothing: a node between shut links


@dataclass(slots=True, frozen=True)
class EliminationPlan:
    """`slots` numbers in the flat matrix (the last one is a bin for fixed nodes); `where` gives uu,
    uv, vu, vv for each link; `steps` holds, for each pivot, (pivot slot, pivot node, rows); each
    row is (slot of row-pivot entry, row node, ((target, source), ...)). `back` reads bottom up.
    """

    slots: int
    where: tuple[tuple[int, int, int, int], ...]
    diagonal: tuple[int, ...]
    steps: tuple[tuple[int, int, tuple[tuple[int, int, tuple[tuple[int, int], ...]], ...]], ...]
    back: tuple[tuple[int, int, tuple[tuple[int, int], ...]], ...]

    def steps_of(
        self,
        sums: Sequence[float],
        ends: Sequence[tuple[int, int]],
        rs: Sequence[float],
        gus: Sequence[float],
        gvs: Sequence[float],
    ) -> list[float]:
        """The pressure steps [Pa] that bring every unknown node into balance, for links that each
        answer them with r + gu dPu + gv dPv more flow; `sums` is what flows into each node and does
        not leave it.
        """
        a = [0.0] * self.slots
        b = list(sums)
        for (uu, uv, vu, vv), (u, v), r, gu, gv in zip(self.where, ends, rs, gus, gvs, strict=True):
            a[uu] += gu
            a[uv] += gv
            a[vu] -= gu
            a[vv] -= gv
            b[u] -= r
            b[v] += r
        for pivot, node, rows in self.steps:
            top = a[pivot] or LEAST
            right = b[node]
            for row_slot, row, updates in rows:
                factor = a[row_slot] / top
                for target, source in updates:
                    a[target] -= factor * a[source]
                b[row] -= factor * right
        change = [0.0] * len(sums)
        for pivot, node, rest in self.back:
            value = b[node]
            for source, column in rest:
                value -= a[source] * change[column]
            change[node] = value / (a[pivot] or LEAST)
        return change

    def steps_of_many(self, sums: Any, gus: Any, gvs: Any) -> Any:
        """steps_of on rows of points; `sums` with each link's r taken off already."""
        import numpy as np

        a = np.zeros((self.slots, sums.shape[1]))
        for i, (uu, uv, vu, vv) in enumerate(self.where):
            a[uu] += gus[i]
            a[uv] += gvs[i]
            a[vu] -= gus[i]
            a[vv] -= gvs[i]
        b = sums.copy()
        for pivot, node, rows in self.steps:
            top, right = a[pivot], b[node]
            for row_slot, row, updates in rows:
                factor = a[row_slot] / top
                for to, source in updates:
                    a[to] -= factor * a[source]
                b[row] -= factor * right
        change = np.zeros(sums.shape)
        for pivot, node, rest in self.back:
            value = b[node].copy()
            for source, column in rest:
                value -= a[source] * change[column]
            change[node] = value / a[pivot]
        return change


@lru_cache(maxsize=256)
def make_plan(n: int, ends: tuple[tuple[int, int], ...]) -> EliminationPlan:
    """The plan for n unknown nodes and links between the node numbers `ends` (n and above are
    fixed).
    """
    near: list[set[int]] = [set() for _ in range(n)]
    for u, v in ends:
        if u < n and v < n and u != v:
            near[u].add(v)
            near[v].add(u)
    slot: dict[tuple[int, int], int] = {}

    def at(i: int, j: int) -> int:
        return slot.setdefault((i, j), len(slot))

    diagonal = tuple(at(i, i) for i in range(n))
    pairs = [(u, v) for u, v in ends if u < n and v < n]
    for u, v in pairs:
        at(u, v), at(v, u)
    left = set(range(n))
    work = [set(x) for x in near]
    steps, back = [], []
    while left:
        k = min(left, key=lambda i: (len(work[i]), i))
        left.discard(k)
        others = sorted(work[k])
        for i in others:
            work[i].discard(k)
            work[i] |= {j for j in others if j != i}
        rows = tuple((at(i, k), i, tuple((at(i, j), at(k, j)) for j in others)) for i in others)
        steps.append((diagonal[k], k, rows))
        back.append((diagonal[k], k, tuple((at(k, j), j) for j in others)))
    bin_slot = len(slot)
    where = tuple(
        (
            diagonal[u] if u < n else bin_slot,
            slot[u, v] if u < n and v < n else bin_slot,
            slot[v, u] if u < n and v < n else bin_slot,
            diagonal[v] if v < n else bin_slot,
        )
        for u, v in ends
    )
    return EliminationPlan(bin_slot + 1, where, diagonal, tuple(steps), tuple(reversed(back)))
