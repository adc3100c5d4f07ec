"""Many operating points of one circuit at once: solve.py's Newton steps on numpy arrays of shape (links, points).

A point whose kinks cycle here is solved alone by solve.py, so both give the same answer.
"""

from dataclasses import dataclass
from itertools import groupby
from operator import attrgetter
from typing import Any

import numpy as np

from tall_heron.core.document.circuit import Circuit
from tall_heron.core.document.point import Point
from tall_heron.core.hydraulics.elimination import Plan
from tall_heron.core.hydraulics.laws import FLOW_FLOOR, FLOW_LEAST, LEAK, LOSS, PUMP, SLOPE_FLOOR, TYPICAL_FLOW, PumpRise
from tall_heron.core.hydraulics.network import Network, make_system
from tall_heron.core.hydraulics.reading import PRESSURE_FLOOR, read_solution
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.hydraulics.solve import FAST_STEPS, GROWTH, RESIDUAL, TIGHTER, solve_network
from tall_heron.core.physics.friction import LAMINAR_END, TURBULENT_START

Array = np.ndarray[Any, np.dtype[np.float64]]
_LN10 = float(np.log(10.0))


@dataclass(slots=True)
class Sweep:
    """Raw results by point: what each network was, its piezometric pressures and link flows, and the points that were solved alone."""

    nets: list[Network]
    pressures: list[Array]
    flows: list[Array]
    alone: dict[int, Solution]

    def solution(self, index: int) -> Solution:
        """The solution of one point."""
        if index in self.alone:
            return self.alone[index]
        return read_solution(self.nets[index], self.pressures[index].tolist(), self.flows[index].tolist(), FAST_STEPS, RESIDUAL)


def sweep(circuit: Circuit, points: list[Point], brief_demands: list[float] | None = None) -> Sweep:
    """Solve a circuit at many points; `brief_demands` [m3/s], one a point, where a point's demand is `brief`."""
    system = make_system(circuit)
    nets = [system.at(p, brief_demands[i] if brief_demands else None) for i, p in enumerate(points)]
    out = Sweep(nets, [np.empty(0)] * len(nets), [np.empty(0)] * len(nets), {})
    # One batch for each numbering of nodes and each choice of pump maps.
    order = sorted(range(len(nets)), key=lambda i: _signature(nets[i]))
    for _, group in groupby(order, key=lambda i: _signature(nets[i])):
        members = list(group)
        if nets[members[0]].impossible or nets[members[0]].jets:
            out.alone |= {i: solve_network(nets[i]) for i in members}
            continue
        pressure, flow, done = _batch([nets[i] for i in members])
        for column, i in enumerate(members):
            if done[column]:
                out.pressures[i], out.flows[i] = pressure[:, column], flow[:, column]
            else:
                out.alone[i] = solve_network(nets[i])
    return out


def _signature(net: Network) -> tuple[Any, ...]:
    maps = tuple(id(c) for k in net.links if k.code == PUMP for c in k.law.curves)
    return id(net.plan), tuple(net.ids[net.n :]), tuple(k.key for k in net.links), maps


@dataclass(slots=True)
class PumpBatch:
    """laws.rise for one pump at every point: the maps are the same in a batch, their shares are each point's own."""

    maps: list[tuple[Array, Array, Array, Array, Array]]  # knots, pieces, then weight, flow scale and flow shift by point
    relief: float
    last_flow: float

    def rise(self, q: Array) -> tuple[Array, Array]:
        """Pressure rise and its slope at a flow for each point."""
        total, slope = np.zeros(len(q)), np.zeros(len(q))
        for knots, pieces, weight, flow_scale, shift in self.maps:
            flow = q * flow_scale + shift
            i = np.searchsorted(knots, flow, side="right")
            c0, c1, c2, c3 = pieces[:, i]
            t = flow - knots[np.maximum(i - 1, 0)]
            total += weight * (c0 + t * (c1 + t * (c2 + t * c3)))
            slope += weight * flow_scale * (c1 + t * (2 * c2 + t * 3 * c3))
        return np.minimum(total, self.relief), np.where(total > self.relief, 0.0, np.minimum(slope, 0.0))


def _pump_batch(laws: list[PumpRise]) -> PumpBatch:
    maps = []
    for j, curve in enumerate(laws[0].curves):
        weight, flow_scale, shift = np.array([(x.shares[j].weight, x.shares[j].flow_scale, x.shares[j].flow_shift) for x in laws]).T
        maps.append((np.asarray(curve.flow), np.asarray(curve.pieces).T, weight, flow_scale, shift))
    return PumpBatch(maps, laws[0].relief, laws[0].last_flow)


def _batch(nets: list[Network]) -> tuple[Array, Array, Any]:
    """Pressures (nodes, points), flows (links, points) and which points converged."""
    first = nets[0]
    n, plan, links = first.n, first.plan, first.links
    total, count, size = len(first.ids), len(links), len(nets)
    us, vs = np.array([k.u for k in links], int), np.array([k.v for k in links], int)
    codes = np.array([k.code for k in links])
    incidence = np.zeros((total, count))  # what a link's flow adds to each node
    np.add.at(incidence, (us, np.arange(count)), -1.0)
    np.add.at(incidence, (vs, np.arange(count)), 1.0)
    at_loss, pumps = np.flatnonzero(codes == LOSS), np.flatnonzero(codes == PUMP)
    regulators = np.flatnonzero((codes != LOSS) & (codes != PUMP))

    def stack(rows: Any, *names: str) -> list[Array]:
        take = attrgetter(*names)
        table = np.empty((len(names), len(rows), size))
        for row, i in enumerate(rows):
            # Points of one fluid share a link, and then one column serves them all.
            same = all(net.links[i] is links[i] for net in nets)
            table[:, row, :] = np.array([take(net.links[i].law) for net in (nets[:1] if same else nets)], float).T
        return list(table)

    linear, square, scale, per, rough, cracking, most = stack(
        at_loss, "linear", "square", "friction_scale", "reynolds_per_flow", "relative_roughness", "cracking", "most"
    )
    one_way = np.array([[links[i].law.one_way] for i in at_loss], bool).reshape(len(at_loss), 1)
    target, reg_slope, wide_open = stack(regulators, "target", "slope", "wide_open")
    hold = np.maximum(reg_slope, SLOPE_FLOOR)
    inlet = np.array([[links[i].law.side == 0] for i in regulators], bool).reshape(len(regulators), 1)
    greatest = np.array([net.greatest for net in nets])
    pump_batches = []
    for i in map(int, pumps):
        batch = _pump_batch([net.links[i].law for net in nets])
        pump_batches.append((i, batch, batch.rise(np.zeros(size))[0]))

    pressure = np.zeros((total, size))
    pressure[n:] = np.array([net.fixed for net in nets]).T.reshape(total - n, size)
    flow = np.full((count, size), TYPICAL_FLOW)
    flow[at_loss] = np.minimum(TYPICAL_FLOW, most)
    r, gu, gv = np.zeros((count, size)), np.zeros((count, size)), np.zeros((count, size))
    done = np.zeros(size, bool)
    friction = np.flatnonzero(scale.max(axis=1, initial=0.0) > 0) if len(at_loss) else np.empty(0, int)
    f_scale, f_per, f_rough = scale[friction], per[friction], rough[friction] / 3.7
    f_turbulent = 0.25 / np.log10(f_rough + 5.74 / TURBULENT_START**0.9) ** 2 if len(friction) else f_rough
    with np.errstate(all="ignore"):
        opening = np.where(square > 0, 1 / np.sqrt(square), np.inf)
        for _ in range(FAST_STEPS):
            dp = pressure[us] - pressure[vs]
            gap = np.zeros(size)
            spill = np.zeros(size)

            # Resistances.
            q, d = flow[at_loss], dp[at_loss]
            miss0 = d - cracking
            closed = one_way & (q <= 0) & (miss0 <= 0)
            q = np.where(one_way & (q <= 0) & (miss0 > 0), np.minimum(np.minimum(TYPICAL_FLOW, opening * np.sqrt(np.abs(miss0))), most), q)
            capped = np.minimum(q, most)
            magnitude = np.abs(capped)
            floor = np.maximum(magnitude, np.minimum(FLOW_FLOOR, 1e-4 * opening))
            h, slope = capped * (linear + square * magnitude), linear + 2 * square * floor
            if len(friction):
                add_h, add_slope = _friction(capped[friction], f_scale, f_per, f_rough, f_turbulent)
                h[friction] += add_h
                slope[friction] += add_slope
            miss = miss0 - h
            limited = (q >= most) & (miss >= 0) & ~closed
            shut = closed | limited
            g = np.where(shut, LEAK, 1 / slope)
            base = np.where(closed, miss0, miss)
            r[at_loss] = base * g + np.where(closed, -q, np.where(limited, most - q, 0.0))
            gu[at_loss], gv[at_loss] = g, -g
            flow[at_loss] = q
            gap = np.maximum(gap, np.where(shut, 0.0, np.abs(miss)).max(axis=0, initial=0.0))
            spill = np.maximum(spill, np.where(shut, np.abs(r[at_loss]), 0.0).max(axis=0, initial=0.0))

            for i, pump, top0 in pump_batches:
                q, d = flow[i], dp[i]
                closed1 = (q <= 0) & (d + top0 <= 0)
                q = np.where((q <= 0) & ~closed1, min(TYPICAL_FLOW, pump.last_flow / 2), q)
                top, slope1 = pump.rise(np.maximum(q, 0.0))
                g1 = 1 / np.maximum(np.maximum(-slope1, 1e-3 * np.abs(top) / TYPICAL_FLOW), 1e5)
                g1 = np.where(closed1, LEAK, g1)
                miss1 = np.where(closed1, d + top0, d + top)
                r[i] = miss1 * g1 - np.where(closed1, q, 0.0)
                gu[i], gv[i], flow[i] = g1, -g1, q
                gap = np.maximum(gap, np.where(closed1, 0.0, np.abs(miss1)))
                spill = np.maximum(spill, np.where(closed1, np.abs(r[i]), 0.0))

            if len(regulators):
                q, d = flow[regulators], dp[regulators]
                beyond = np.where(inlet, pressure[us[regulators]] - target, target - pressure[vs[regulators]])
                least = np.minimum(beyond, d)
                closed = (q <= 0) & (least <= 0)
                q = np.where((q <= 0) & ~closed, np.minimum(TYPICAL_FLOW, np.sqrt(np.abs(d) / wide_open)), q)
                held, wide = beyond - hold * q, d - wide_open * q * q
                holds = np.where(closed, beyond <= d, held <= wide)
                g_hold, g_wide = np.where(closed, LEAK, 1 / hold), np.where(closed, LEAK, 0.5 / (wide_open * np.maximum(q, FLOW_FLOOR)))
                miss = np.where(closed, least, np.where(holds, held, wide))
                r[regulators] = miss * np.where(holds, g_hold, g_wide) - np.where(closed, q, 0.0)
                gu[regulators] = np.where(holds, np.where(inlet, g_hold, 0.0), g_wide)
                gv[regulators] = -np.where(holds, np.where(inlet, 0.0, g_hold), g_wide)
                flow[regulators] = q
                gap = np.maximum(gap, np.where(closed, 0.0, np.abs(miss)).max(axis=0))
                spill = np.maximum(spill, np.where(closed, np.abs(r[regulators]), 0.0).max(axis=0))

            sums = incidence @ flow
            reach = np.maximum(np.minimum(np.abs(pressure).max(axis=0, initial=0.0), greatest), PRESSURE_FLOOR)
            largest = np.maximum(np.abs(flow).max(axis=0, initial=0.0), FLOW_LEAST)
            out_of_balance = np.abs(sums[:n]).max(axis=0, initial=0.0)
            done = np.maximum(TIGHTER * gap / reach, np.maximum(out_of_balance, spill) / largest) <= RESIDUAL
            if done.all():
                break
            change = _steps(plan, incidence, sums, r, gu, gv)
            keep = ~done
            furthest = GROWTH * np.maximum(np.abs(flow), TYPICAL_FLOW)
            flow += np.where(keep, np.clip(r + gu * change[us] + gv * change[vs], -furthest, furthest), 0.0)
            pressure[:n] += np.where(keep, change[:n], 0.0)
    return pressure, flow, done


def _friction(q: Array, scale: Array, per: Array, rough: Array, turbulent: Array) -> tuple[Array, Array]:
    """Friction loss and slope over the three ranges of laws.resistance."""
    magnitude = np.abs(q)
    re = per * magnitude
    power = 5.74 / np.maximum(re, TURBULENT_START) ** 0.9
    arg = rough + power
    x = np.log10(arg)
    f_high = 0.25 / (x * x)
    bend_high = 0.45 / (x * x * x) * power / (arg * _LN10)
    s = np.clip((re - LAMINAR_END) / (TURBULENT_START - LAMINAR_END), 0.0, 1.0)
    gain = turbulent - 64 / LAMINAR_END
    f_mid = 64 / LAMINAR_END + s * s * (3 - 2 * s) * gain
    bend_mid = re * 6 * s * (1 - s) * gain / (TURBULENT_START - LAMINAR_END)
    high, low = re >= TURBULENT_START, re <= LAMINAR_END
    f, bend = np.where(high, f_high, f_mid), np.where(high, bend_high, bend_mid)
    lam = scale * 64 / per
    return np.where(low, lam * q, scale * f * q * magnitude), np.where(low, lam, scale * magnitude * (2 * f + bend))


def _steps(plan: Plan, incidence: Array, sums: Array, r: Array, gu: Array, gv: Array) -> Array:
    """solve._solve on rows of points."""
    total, size = sums.shape
    a = np.zeros((plan.slots, size))
    for i, (uu, uv, vu, vv) in enumerate(plan.where):
        a[uu] += gu[i]
        a[uv] += gv[i]
        a[vu] -= gu[i]
        a[vv] -= gv[i]
    b = sums + incidence @ r
    for pivot, node, rows in plan.steps:
        top, right = a[pivot], b[node]
        for row_slot, row, updates in rows:
            factor = a[row_slot] / top
            for to, source in updates:
                a[to] -= factor * a[source]
            b[row] -= factor * right
    change = np.zeros((total, size))
    for pivot, node, rest in plan.back:
        value = b[node].copy()
        for source, column in rest:
            value -= a[source] * change[column]
        change[node] = value / a[pivot]
    return change
