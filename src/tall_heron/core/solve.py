"""The hydraulic solver for one operating point: global gradient method in flows and piezometric pressures.

Each link is linearised as Q = c + gu Pu + gv Pv; mass balance at the unknown nodes then gives their pressures (elimination.py). Kinks (check valves, pumps
at shut-off, a limited injector) are steep branches; a regulator takes the smaller of its two laws, 0 <= Q perpendicular to -min(A, B) >= 0. It knows no layouts
and no fuel names. sweep.py is the same method for many points at once.
"""

import math

from tall_heron.core.elimination import make_plan
from tall_heron.core.network import LOSS, PUMP, Network, PumpRise, Resistance
from tall_heron.core.physics.friction import LAMINAR_END, TURBULENT_START, swamee_jain
from tall_heron.core.reading import FLOW_LEAST, read_solution
from tall_heron.core.solution import Solution

ITERATIONS = 120
FULL_STEPS = 12
FLOW_FLOOR = 2e-9  # m3/s, smooths Q|Q| at standstill
STEEP = 1e19  # Pa s/m3 beyond a kink: 1e-13 m3/s at 1 MPa
SLOPE_FLOOR = 300.0  # Pa s/m3, a regulator's least slope: 0.03 Pa at 400 L/h
PRESSURE_FLOOR = 1.0  # Pa
RESIDUAL = 2e-8
TYPICAL_FLOW = 5e-5  # m3/s, 180 L/h: where every link starts
_LN10 = math.log(10)


def resistance(law: Resistance, q: float) -> tuple[float, float]:
    """Loss and its slope at a flow, kinks apart: h(Q) [Pa] without the cracking pressure, dh/dQ [Pa s/m3]."""
    size = math.sqrt(q * q + FLOW_FLOOR * FLOW_FLOOR)
    h = q * (law.linear + law.square * size)
    slope = law.linear + law.square * (size + q * q / size)
    if law.friction_scale:
        scale, per = law.friction_scale, law.reynolds_per_flow
        magnitude = q if q >= 0 else -q
        re = per * magnitude
        if re <= LAMINAR_END:
            lam = scale * 64 / per
            h += lam * q
            slope += lam
        elif re >= TURBULENT_START:
            arg = law.relative_roughness / 3.7 + 5.74 / re**0.9
            x = math.log10(arg)
            f = 0.25 / (x * x)
            # Re df/dRe, from f = 0.25 / x^2
            bend = 0.5 / (x * x * x) * (0.9 * 5.74 / re**0.9) / (arg * _LN10)
            h += scale * f * q * magnitude
            slope += scale * magnitude * (2 * f + bend)
        else:
            s = (re - LAMINAR_END) / (TURBULENT_START - LAMINAR_END)
            rise = swamee_jain(TURBULENT_START, law.relative_roughness) - 64 / LAMINAR_END
            f = 64 / LAMINAR_END + s * s * (3 - 2 * s) * rise
            bend = re * 6 * s * (1 - s) * rise / (TURBULENT_START - LAMINAR_END)
            h += scale * f * q * magnitude
            slope += scale * magnitude * (2 * f + bend)
    return h, slope


def rise(law: PumpRise, q: float) -> tuple[float, float]:
    """Pressure rise [Pa] and its slope [Pa s/m3] at a flow of zero or more."""
    total = slope = 0.0
    for share, curve in zip(law.shares, law.curves, strict=True):
        value, d = curve.at(q * share.flow_scale + share.flow_shift)
        total += share.weight * value
        slope += share.weight * share.flow_scale * d
    if total > law.relief:
        return law.relief, 0.0
    return total, slope


def solve_network(net: Network) -> Solution:
    """Solve a compiled network. Not converged: the part and the reason, and no pressures."""
    if net.impossible:
        part, reason = net.impossible
        return Solution(False, part=part, reason=reason, density=net.density, viscosity=net.viscosity)
    n, links = net.n, net.links
    pressure = [0.0] * n + net.fixed
    flow, iterations, residual, worst = _iterate(net, pressure)
    asked = sum(net.commanded.values())
    if residual > 1.0:
        return Solution(
            False,
            part=links[worst].element if links else None,
            reason=f"the sums do not close at {links[worst].element}: its flow and pressures still disagree after {iterations} steps",
            asked=asked,
            iterations=iterations,
            residual=residual * RESIDUAL,
        )
    return read_solution(net, pressure, flow, iterations, residual * RESIDUAL)


def _iterate(net: Network, pressure: list[float]) -> tuple[list[float], int, float, int]:
    """Newton steps until the largest error is under 1 (in units of RESIDUAL); pressures are left in place. Returns flows, steps, error, worst link."""
    n, links = net.n, net.links
    count = len(links)
    plan = make_plan(n, tuple((k.u, k.v) for k in links))
    flow = [min(TYPICAL_FLOW, k.law.most) if k.code == LOSS else TYPICAL_FLOW for k in links]
    beyond = [False] * count
    kept = flow
    worst, error = 0, math.inf
    steps = 0
    for steps in range(1, ITERATIONS + 1):
        a = [0.0] * plan.slots
        b = [0.0] * (n + 1)
        cs, gus, gvs = [], [], []
        gap, worst_now = 0.0, 0
        for i in range(count):
            k = links[i]
            q, u, v = flow[i], k.u, k.v
            pu, pv = pressure[u], pressure[v]
            law = k.law
            gv = 0.0
            if k.code == LOSS:
                if law.one_way and q < 0:
                    h, slope, now = law.cracking + STEEP * q, STEEP, True
                elif q > law.most:
                    h, slope = resistance(law, law.most)
                    h, slope, now = h + STEEP * (q - law.most), STEEP, True
                else:
                    h, slope = resistance(law, q)
                    h += law.cracking
                    now = False
                miss = pu - pv - h
                gu = 1 / slope
                gv = -gu
            elif k.code == PUMP:
                if q < 0:
                    top, _ = rise(law, 0.0)
                    h, slope, now = -top + STEEP * q, STEEP, True
                else:
                    top, slope = rise(law, q)
                    h, slope, now = -top, max(-slope, 1e-3 * top / TYPICAL_FLOW), False
                miss = pu - pv - h
                gu = 1 / slope
                gv = -gu
            else:
                r = law
                hold = r.slope if r.slope > SLOPE_FLOOR else SLOPE_FLOOR
                beyond_set = pu - r.target if r.side == 0 else r.target - pv
                if q < 0:
                    wide_h, wide_slope, hold_h, hold_slope, now = STEEP * q, STEEP, STEEP * q, STEEP, True
                else:
                    size = math.sqrt(q * q + FLOW_FLOOR * FLOW_FLOOR)
                    wide_h, wide_slope = r.wide_open * q * size, r.wide_open * (size + q * q / size)
                    # A dead-head outlet falls with flow (droop), a bypass inlet rises: both are pressure beyond the setting minus slope Q.
                    hold_h, hold_slope, now = hold * q, hold, False
                held, wide = beyond_set - hold_h, pu - pv - wide_h
                if held <= wide:
                    miss, gain = held, 1 / hold_slope
                    gu, gv = (gain, 0.0) if r.side == 0 else (0.0, -gain)
                else:
                    miss, gu = wide, 1 / wide_slope
                    gv = -gu
            beyond[i] = now
            off = miss if miss >= 0 else -miss
            if off > gap:
                gap, worst_now = off, i
            c = q + miss * (gu if gu else -gv) - gu * pu - gv * pv
            cs.append(c)
            gus.append(gu)
            gvs.append(gv)
            uu, uv, vu, vv = plan.where[i]
            a[uu] += gu
            a[uv] += gv
            a[vu] -= gu
            a[vv] -= gv
            if u < n:
                b[u] -= c if v < n else c + gv * pv
            if v < n:
                b[v] += c if u < n else c + gu * pu
        scale = max(max(map(abs, pressure), default=0.0), PRESSURE_FLOOR)
        largest = max(max(map(abs, flow), default=0.0), FLOW_LEAST)
        if steps > 1:
            error = max(gap / scale, _imbalance(net, flow) / largest) / RESIDUAL
            worst = worst_now
            if error <= 1.0:
                break
        for pivot, node, rows in plan.steps:
            top = a[pivot]
            right = b[node]
            for row_slot, row, updates in rows:
                factor = a[row_slot] / top
                for target, source in updates:
                    a[target] -= factor * a[source]
                b[row] -= factor * right
        new = pressure[:]
        for pivot, node, rest in plan.back:
            total = b[node]
            for source, column in rest:
                total -= a[source] * new[column]
            new[node] = total / a[pivot]
        step = 1.0 if steps <= FULL_STEPS else (1.0 if steps % 5 == 0 else 0.5)
        kept = flow
        flow = []
        for i in range(count):
            k = links[i]
            q = cs[i] + gus[i] * new[k.u] + gvs[i] * new[k.v]
            if step != 1.0:
                q = kept[i] + step * (q - kept[i])
            if beyond[i] and q > 0 and k.code == LOSS and not (q > k.law.most):
                q = _restart(k.law, q, steps)
            flow.append(q)
        if step != 1.0:
            new = [p + step * (w - p) for p, w in zip(pressure, new, strict=True)]
        pressure[:] = new
    return flow, steps, error, worst


def _restart(law: Resistance, q: float, steps: int) -> float:
    """A one-way link that just opened starts again from a working flow: from near zero Newton would overshoot by orders of magnitude."""
    if not law.one_way:
        return q
    return max(q, min(TYPICAL_FLOW / steps, law.most))


def _imbalance(net: Network, flow: list[float]) -> float:
    sums = [0.0] * len(net.ids)
    for link, q in zip(net.links, flow, strict=True):
        sums[link.u] -= q
        sums[link.v] += q
    return max(map(abs, sums[: net.n]), default=0.0)
