"""Many operating points of one circuit at once: newton.py's steps on numpy arrays of shape (chains,
points).

A point whose kinks cycle here is solved alone by solve.py, so both give the same answer.
"""

from dataclasses import dataclass
from itertools import groupby
from operator import attrgetter
from typing import Any

import numpy as np

from tall_heron.core.document.circuit import Circuit
from tall_heron.core.document.point import Point
from tall_heron.core.hydraulics.laws import (
    FLATTEST,
    FLOW_FLOOR,
    FLOW_LEAST,
    LEAK,
    SLOPE_FLOOR,
    TYPICAL_FLOW,
    ChainLaw,
    PumpRise,
    RegulatorLaw,
)
from tall_heron.core.hydraulics.network import CompiledCircuit, Network, compile_circuit
from tall_heron.core.hydraulics.newton import (
    FAST_STEPS,
    GROWTH,
    MOST_STEPS,
    PRESSURE_FLOOR,
    RESIDUAL,
    ROUNDING,
    SMALL,
    STEP,
    STEP_LEAST,
    TIGHTER,
    NewtonState,
)
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.hydraulics.solve import solve_network
from tall_heron.core.physics.friction import friction_losses

Array = np.ndarray[Any, Any]


@dataclass(slots=True)
class Sweep:
    """One solution a point, and how many of them were solved alone."""

    solutions: list[Solution]
    alone: int

    def solution(self, index: int) -> Solution:
        """The solution of one point."""
        return self.solutions[index]


def sweep(circuit: Circuit, points: list[Point], brief_demands: list[float] | None = None) -> Sweep:
    """Solve a circuit at many points; `brief_demands` [m3/s], one a point, where a point's demand
    is `brief`.
    """
    return solve_many(compile_circuit(circuit), points, brief_demands)


def solve_many(
    compiled: CompiledCircuit, points: list[Point], brief_demands: list[float] | None = None
) -> Sweep:
    """Solve a compiled circuit at many points."""
    nets = [
        compiled.at(p, brief_demands[i] if brief_demands else None) for i, p in enumerate(points)
    ]
    known: dict[int, Solution] = {}
    # One batch for each numbering of nodes.
    for _, group in groupby(
        sorted(range(len(nets)), key=lambda i: _signature(nets[i])),
        key=lambda i: _signature(nets[i]),
    ):
        members = list(group)
        first = nets[members[0]]
        if first.frame.impossible or first.jets:
            continue
        pressure, flow, done = _Batch([nets[i] for i in members]).solve()
        for column, i in enumerate(members):
            if done[column]:
                known[i] = Solution(
                    nets[i],
                    NewtonState(
                        pressure[:, column].tolist(), flow[:, column].tolist(), FAST_STEPS, 1.0
                    ),
                    residual=RESIDUAL,
                )
    return Sweep(
        [known[i] if i in known else solve_network(net) for i, net in enumerate(nets)],
        len(nets) - len(known),
    )


def _signature(net: Network) -> tuple[Any, ...]:
    return id(net.frame), tuple([len(c.frictions) for c in net.chains])


class _PumpRises:
    """laws.rise for one pump at every point: each of its maps with weight, flow scale and flow
    shift by point.
    """

    def __init__(self, laws: list[PumpRise]) -> None:
        self.relief, self.last_flow = (
            np.array([getattr(x, name) for x in laws]) for name in ("relief", "last_flow")
        )
        maps: dict[int, tuple[Any, Array]] = {}
        for column, law in enumerate(laws):
            for share, curve in zip(law.shares, law.curves, strict=True):
                known = maps.get(id(curve))
                if known is None:
                    known = maps[id(curve)] = curve, np.zeros((3, len(laws)))
                    known[1][1] = 1.0
                known[1][:, column] = share.weight, share.flow_scale, share.flow_shift
        self.maps = [
            (np.asarray(c.flow), np.asarray(c.pieces).T, table) for c, table in maps.values()
        ]

    def at(self, q: Array) -> tuple[Array, Array]:
        """Pressure rise and its slope at a flow for each point."""
        total, slope = np.zeros(len(q)), np.zeros(len(q))
        for knots, pieces, (weight, flow_scale, shift) in self.maps:
            flow = q * flow_scale + shift
            i = np.searchsorted(knots, flow, side="right")
            c0, c1, c2, c3 = pieces[:, i]
            t = flow - knots[np.maximum(i - 1, 0)]
            total += weight * (c0 + t * (c1 + t * (c2 + t * c3)))
            slope += weight * flow_scale * (c1 + t * (2 * c2 + t * 3 * c3))
        relieved = self.relief * (1 - FLATTEST * q)
        return np.minimum(total, relieved), np.where(
            total > relieved, -FLATTEST * self.relief, np.minimum(slope, 0.0)
        )


def _columns(rows: list[list[Any]], name: str, width: int) -> Array:
    """One figure of each law, rows by points; a law that all points share fills its row once."""
    table, take = np.empty((len(rows), width)), attrgetter(name)
    for i, laws in enumerate(rows):
        first = laws[0]
        table[i] = take(first) if all([x is first for x in laws]) else list(map(take, laws))  # noqa: C419  a list is quicker
    return table


class _Chains:
    """chain_row for every chain and point."""

    def __init__(self, nets: list[Network]) -> None:
        rows: list[list[ChainLaw]] = [
            list(x) for x in zip(*(net.chains for net in nets), strict=True)
        ]
        size = len(nets)
        self.linear, self.square, self.cracking, self.most = (
            _columns(rows, x, size) for x in ("linear", "square", "cracking", "most")
        )
        self.one_way = np.array([[laws[0].one_way] for laws in rows], bool).reshape(len(rows), 1)
        terms = [(i, j) for i, laws in enumerate(rows) for j in range(len(laws[0].frictions))]
        self.of = np.array([i for i, _ in terms], int)
        self.belongs = (np.arange(len(rows))[:, None] == self.of[None, :]).astype(float)
        own = [[c.frictions[j] for c in rows[i]] for i, j in terms]
        self.scale, self.per, self.rough = (
            _columns(own, x, size) for x in ("scale", "reynolds_per_flow", "relative_roughness")
        )
        self.pumps = [
            (i, _PumpRises([c.pumps[j] for c in rows[i]]))
            for i, laws in enumerate(rows)
            for j in range(len(laws[0].pumps))
        ]
        with np.errstate(divide="ignore"):
            self.opening = np.where(self.square > 0, 1 / np.sqrt(self.square), np.inf)
        self.opens_with = np.minimum(TYPICAL_FLOW, self.most)
        for i, pump in self.pumps:
            self.opens_with[i] = np.minimum(self.opens_with[i], pump.last_flow / 2)
            self.opening[i] = np.inf
        self.floor = np.minimum(
            FLOW_FLOOR,
            1e-4 * np.where(self.square > 0, 1 / np.sqrt(np.maximum(self.square, 1e-300)), np.inf),
        )
        self.at_rest = self.cracking + self.loss(np.zeros_like(self.linear))[0]

    def loss(self, q: Array) -> tuple[Array, Array]:
        """laws.chain_loss."""
        size = np.abs(q)
        h, slope = (
            q * (self.linear + self.square * size),
            self.linear + 2 * self.square * np.maximum(size, self.floor),
        )
        if len(self.of):
            loss, bend = friction_losses(size[self.of], self.scale, self.per, self.rough)
            h += self.belongs @ (loss * np.sign(q[self.of]))
            slope += self.belongs @ bend
        for i, pump in self.pumps:
            top, fall = pump.at(np.maximum(q[i], 0.0))
            h[i] -= top
            slope[i] += np.maximum(np.maximum(-fall, FLATTEST * np.abs(top)), 1e5)
        return h, np.maximum(slope, SLOPE_FLOOR)

    def rows(self, q: Array, dp: Array) -> tuple[Array, Array, Array, Array, Array]:
        """Working flows, whether the laws hold, how far they are off [Pa], r and g."""
        rest = dp - self.at_rest
        back = self.one_way & (q <= 0)
        closed = back & (rest <= 0)
        q = np.where(
            back & ~closed,
            np.minimum(self.opens_with, self.opening * np.sqrt(np.maximum(rest, 0.0))),
            q,
        )
        h, slope = self.loss(np.minimum(q, self.most))
        miss = dp - h - self.cracking
        at_most = (q >= self.most) & ~closed
        limited = at_most & (miss >= 0)
        q = np.where(at_most & ~limited, self.most * (1 - 1e-9), q)
        shut = closed | limited
        g = np.where(shut, LEAK, 1 / slope)
        r = np.where(
            closed, LEAK * rest - q, np.where(limited, self.most - q + LEAK * miss, miss * g)
        )
        return q, ~shut, np.abs(miss), r, g


class _Regulators:
    """regulator_row for every regulator and point."""

    def __init__(self, nets: list[Network]) -> None:
        rows: list[list[RegulatorLaw]] = [
            list(x) for x in zip(*(net.regulators for net in nets), strict=True)
        ]
        self.target, self.hold, self.wide_open = (
            _columns(rows, x, len(nets)) for x in ("target", "hold", "wide_open")
        )
        self.inlet = np.array([[laws[0].side == 0] for laws in rows], bool).reshape(len(rows), 1)

    def rows(
        self, q: Array, pu: Array, pv: Array
    ) -> tuple[Array, Array, Array, Array, Array, Array]:
        """Working flows, whether the laws hold, how far they are off [Pa], r, gu and gv."""
        dp, beyond = pu - pv, np.where(self.inlet, pu - self.target, self.target - pv)
        least = np.minimum(beyond, dp)
        closed = (q <= 0) & (least <= 0)
        q = np.where(
            (q <= 0) & ~closed, np.minimum(TYPICAL_FLOW, np.sqrt(np.abs(dp) / self.wide_open)), q
        )
        holding, wide = beyond - self.hold * q, dp - self.wide_open * q * q
        holds = np.where(closed, beyond <= dp, holding <= wide)
        g_hold = np.where(closed, LEAK, 1 / self.hold)
        g_wide = np.where(closed, LEAK, 0.5 / (self.wide_open * np.maximum(q, FLOW_FLOOR)))
        miss = np.where(closed, least, np.where(holds, holding, wide))
        r = miss * np.where(holds, g_hold, g_wide) - np.where(closed, q, 0.0)
        gu = np.where(holds, np.where(self.inlet, g_hold, 0.0), g_wide)
        gv = -np.where(holds, np.where(self.inlet, 0.0, g_hold), g_wide)
        return q, ~closed, np.abs(miss), r, gu, gv


class _Batch:
    """Networks of one frame, solved together."""

    def __init__(self, nets: list[Network]) -> None:
        self.nets, self.frame, self.size = nets, nets[0].frame, len(nets)
        self.chains, self.regulators = _Chains(nets), _Regulators(nets)
        self.first, self.count, self.total = (
            len(nets[0].chains),
            len(self.frame.ends),
            len(self.frame.junctions),
        )
        self.us, self.vs = (np.array([x[side] for x in self.frame.ends], int) for side in (0, 1))
        self.incidence = np.zeros(
            (self.total, self.count)
        )  # what a chain's flow adds to each junction
        np.add.at(self.incidence, (self.us, np.arange(self.count)), -1.0)
        np.add.at(self.incidence, (self.vs, np.arange(self.count)), 1.0)

    def solve(self) -> tuple[Array, Array, Any]:
        """Pressures (junctions, points), flows (chains, points) and which points converged."""
        unknown, first = self.frame.unknown, self.first
        greatest = np.array([net.greatest for net in self.nets])
        pressure = np.zeros((self.total, self.size))
        pressure[unknown:] = np.array([net.fixed for net in self.nets]).T.reshape(
            self.total - unknown, self.size
        )
        flow = np.full((self.count, self.size), TYPICAL_FLOW)
        if (last := self.frame.last) is not None:
            pressure[:unknown], flow[:] = (
                np.array(last[0][:unknown])[:, None],
                np.array(last[1])[:, None],
            )
        flow[:first] = np.minimum(flow[:first], self.chains.most)
        r, gu, gv, off = (np.zeros((self.count, self.size)) for _ in range(4))
        holding = np.zeros((self.count, self.size), bool)
        done = near = np.zeros(self.size, bool)
        us, vs = self.us, self.vs
        with np.errstate(all="ignore"):
            for step in range(MOST_STEPS):
                pu, pv = pressure[us], pressure[vs]
                flow[:first], holding[:first], off[:first], r[:first], gu[:first] = (
                    self.chains.rows(flow[:first], pu[:first] - pv[:first])
                )
                gv[:first] = -gu[:first]
                if self.count > first:
                    rows = self.regulators.rows(flow[first:], pu[first:], pv[first:])
                    (
                        flow[first:],
                        holding[first:],
                        off[first:],
                        r[first:],
                        gu[first:],
                        gv[first:],
                    ) = rows
                sums = self.incidence @ flow
                scale = np.maximum(
                    np.minimum(np.abs(pressure).max(axis=0, initial=0.0), greatest), PRESSURE_FLOOR
                )
                largest = np.maximum(np.abs(flow).max(axis=0, initial=0.0), FLOW_LEAST)
                gap = np.where(holding, off, 0.0).max(axis=0, initial=0.0)
                spill = np.where(holding, 0.0, np.abs(r)).max(axis=0, initial=0.0)
                out_of_balance = np.abs(sums[:unknown]).max(axis=0, initial=0.0)
                near = (
                    np.maximum(TIGHTER * gap / scale, np.maximum(out_of_balance, spill) / largest)
                    <= RESIDUAL
                )
                change = self.frame.plan.steps_of_many(sums + self.incidence @ r, gu, gv)
                moves = r + gu * change[us] + gv * change[vs]
                size, move = np.abs(flow), np.abs(moves)
                still = (move <= np.where(size > SMALL, STEP * size, STEP_LEAST * largest)) | (
                    move <= ROUNDING * scale * np.maximum(gu, -gv)
                )
                done = near & (still.all(axis=0) | (largest <= FLOW_LEAST))
                if done.all() or (step >= FAST_STEPS and not (near & ~done).any()):
                    break
                furthest = GROWTH * np.maximum(size, TYPICAL_FLOW)
                flow += np.where(done, 0.0, np.clip(moves, -furthest, furthest))
                pressure[:unknown] += np.where(done, 0.0, change[:unknown])
        return pressure, flow, done
