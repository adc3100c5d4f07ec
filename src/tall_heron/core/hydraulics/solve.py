"""The hydraulic solver for one operating point, in flows and piezometric pressures (global gradient method). It knows no layouts and no fuel names.

Each link is linearised as dQ = r + gu dPu + gv dPv; mass balance at the unknown nodes then gives their pressure steps (elimination.py). One-way links
and regulators are complementarity pairs; `_newton` guesses which half holds (fast, nearly always right), `_interior` follows the smoothed pair down to
nothing where the guess cycles (slow, from Wright, Primal-Dual Interior-Point Methods, 1997), and `_newton` closes the sums. sweep.py is `_newton` for many
points at once.
"""

import math
from collections.abc import Sequence

from tall_heron.core.hydraulics.elimination import Plan
from tall_heron.core.hydraulics.jets import JetPair, nozzle_law, suction_law
from tall_heron.core.hydraulics.laws import (
    FLOW_FLOOR,
    FLOW_LEAST,
    LEAK,
    LOSS,
    PUMP,
    SLOPE_FLOOR,
    TYPICAL_FLOW,
    PumpRise,
    RegulatorLaw,
    Resistance,
    opening_flow,
    resistance,
    rise,
)
from tall_heron.core.hydraulics.network import Link, Network
from tall_heron.core.hydraulics.reading import hang_on_fixed, pressure_scale, read_solution
from tall_heron.core.hydraulics.results import Solution

FAST_STEPS = 24
POLISH_STEPS = 60
INTERIOR_STEPS = 120
GROWTH = 4.0  # times a flow may change in one step: a regulator that opens would throw it further
JET_STEPS = 40
RESIDUAL = 1e-8  # of the largest flow
RUNAWAY = 1e25  # Pa
TIGHTER = 10.0  # how much closer pressures must come, as a part of the largest


def solve_network(net: Network, near: Solution | None = None) -> Solution:
    """Solve a compiled network, from a solution that is `near` where one is known. Not converged: the part and the reason, and no pressures."""
    if near is not None and near.converged:
        for pair in net.jets:
            for link, guess in ((pair.nozzle, pair.motive), (pair.suction, pair.drawn)):
                known = near.links.get(net.links[link].key)
                guess.value = known.flow if known is not None else guess.value
            _make_laws(net, pair)
    solution = _solve_once(net, near)
    for _ in range(JET_STEPS if net.jets else 0):
        if not solution.converged:
            return solution
        found = [(solution.links[net.links[p.nozzle].key].flow, solution.links[net.links[p.suction].key].flow) for p in net.jets]
        settled = [pair.settles(*flows) for pair, flows in zip(net.jets, found, strict=True)]  # each of them steps
        if all(settled):
            return solution
        for pair in net.jets:
            _make_laws(net, pair)
        solution = _solve_once(net, solution)
    return solution


def _make_laws(net: Network, pair: JetPair) -> None:
    net.links[pair.nozzle].law = nozzle_law(pair.part, net.density, pair.motive.value, pair.drawn.value)
    net.links[pair.suction].law = suction_law(pair.part, net.density, pair.motive.value)


def _solve_once(net: Network, near: Solution | None) -> Solution:
    if net.impossible:
        part, reason = net.impossible
        return Solution(False, part=part, reason=reason, density=net.density, viscosity=net.viscosity)
    plan = net.plan
    pressure = [0.0] * net.n + net.fixed
    flow = [min(TYPICAL_FLOW, k.law.most) if k.code == LOSS else TYPICAL_FLOW for k in net.links]
    steps, error, worst = 0, math.inf, 0
    if near is not None and near.converged:
        warm = [(near.nodes.get(x) or 0.0) + h for x, h in zip(net.ids[: net.n], net.heads, strict=False)] + net.fixed
        warm_flow = [
            min(near.links[k.key].flow, getattr(k.law, "most", math.inf)) if k.key in near.links else TYPICAL_FLOW for k in net.links
        ]
        steps, error, worst = _newton(net, plan, warm, warm_flow, FAST_STEPS)
        if error <= 1.0:
            return read_solution(net, warm, warm_flow, steps, error * RESIDUAL)
    steps, error, worst = _newton(net, plan, pressure, flow, FAST_STEPS)
    if error > 1.0:
        best = (error, pressure[:], flow[:], worst)
        for centring in (0.1, 0.3, 0.6):
            pressure = [0.0] * net.n + net.fixed
            flow, shut = _interior(net, plan, pressure, centring)
            afloat = hang_on_fixed(net, shut)
            still = [not (afloat[k.u] and afloat[k.v]) for k in net.links]
            _level_islands(net, pressure, shut, afloat)
            flow = [0.0 if x else q for x, q in zip(still, flow, strict=True)]
            more, error, worst = _newton(net, plan, pressure, flow, POLISH_STEPS, still)
            steps += more
            if error < best[0]:
                best = (error, pressure[:], flow[:], worst)
            if error <= 1.0:
                break
        error, pressure, flow, worst = best
    if not error <= 1.0:
        return Solution(
            False,
            part=net.links[worst].element,
            reason=f"the sums do not close at {net.links[worst].element}: its flow and pressures still disagree after {steps} steps",
            asked=sum(net.commanded.values()),
            iterations=steps,
            residual=error * RESIDUAL,
        )
    return read_solution(net, pressure, flow, steps, error * RESIDUAL)


def _newton(
    net: Network, plan: Plan, pressure: list[float], flow: list[float], most_steps: int, still: Sequence[bool] = ()
) -> tuple[int, float, int]:
    """Newton steps in place until the largest error is under 1 (in units of RESIDUAL). Returns steps, error, worst link.

    Links marked `still` lie on islands between shut parts: nothing flows there, and only what keeps them shut is looked at."""
    n, links = net.n, net.links
    count = len(links)
    total = len(net.ids)
    error, worst = math.inf, 0
    rs, gus, gvs = [0.0] * count, [0.0] * count, [0.0] * count
    for step in range(1, most_steps + 1):
        gap = spill = 0.0
        for i in range(count):
            k = links[i]
            q = flow[i]
            dp = pressure[k.u] - pressure[k.v]
            code = k.code
            if still and still[i]:
                off = _still_miss(k, dp, pressure)
                if off > gap:
                    gap, worst = off, i
                continue
            if code == LOSS:
                law = k.law
                if law.one_way and q <= 0:
                    miss = dp - law.cracking
                    if miss <= 0:
                        spill = max(spill, LEAK * miss - q)
                        rs[i], gus[i], gvs[i] = LEAK * miss - q, LEAK, -LEAK
                        continue
                    q = flow[i] = opening_flow(law, miss)
                if q >= law.most:
                    h, _ = resistance(law, law.most)
                    miss = dp - h - law.cracking
                    if miss >= 0:
                        spill = max(spill, q - law.most - LEAK * miss)
                        rs[i], gus[i], gvs[i] = law.most - q + LEAK * miss, LEAK, -LEAK
                        continue
                    q = flow[i] = law.most * (1 - 1e-9)
                h, slope = resistance(law, q)
                miss = dp - h - law.cracking
                gu = 1 / slope
                gv = -gu
            elif code == PUMP:
                law = k.law
                if law.given is not None:
                    rs[i], gus[i], gvs[i] = law.given - q, LEAK, -LEAK
                    spill = max(spill, abs(law.given - q))
                    continue
                if q <= 0:
                    top, slope = rise(law, 0.0)
                    miss = dp + top
                    if miss <= 0:
                        spill = max(spill, LEAK * miss - q)
                        rs[i], gus[i], gvs[i] = LEAK * miss - q, LEAK, -LEAK
                        continue
                    q = flow[i] = min(TYPICAL_FLOW, law.last_flow / 2)
                top, slope = rise(law, q)
                miss = dp + top
                gu = 1 / max(-slope, 1e-3 * abs(top) / TYPICAL_FLOW, 1e5)
                gv = -gu
            else:
                law = k.law
                hold = max(law.slope, SLOPE_FLOOR)
                beyond = pressure[k.u] - law.target if law.side == 0 else law.target - pressure[k.v]
                if q <= 0:
                    least = min(beyond, dp)
                    if least <= 0:
                        spill = max(spill, LEAK * least - q)
                        rs[i] = LEAK * least - q
                        if beyond <= dp:
                            gus[i], gvs[i] = (LEAK, 0.0) if law.side == 0 else (0.0, -LEAK)
                        else:
                            gus[i], gvs[i] = LEAK, -LEAK
                        continue
                    q = flow[i] = min(TYPICAL_FLOW, math.sqrt(dp / law.wide_open))
                held, wide = beyond - hold * q, dp - law.wide_open * q * q
                if held <= wide:
                    miss = held
                    gu, gv = (1 / hold, 0.0) if law.side == 0 else (0.0, -1 / hold)
                else:
                    miss = wide
                    gu = 0.5 / (law.wide_open * max(q, FLOW_FLOOR))
                    gv = -gu
            rs[i], gus[i], gvs[i] = miss * (gu if gu else -gv), gu, gv
            off = miss if miss >= 0 else -miss
            if off > gap:
                gap, worst = off, i
        sums = _sums(links, flow, total)
        scale = pressure_scale(net, pressure)
        largest = max(max(map(abs, flow), default=0.0), FLOW_LEAST)
        error = max(TIGHTER * gap / scale, max(map(abs, sums[:n]), default=0.0) / largest, spill / largest) / RESIDUAL
        if error <= 1.0:
            return step, error, worst
        change = _solve(plan, links, n, total, sums, rs, gus, gvs)
        if not max(map(abs, change)) < RUNAWAY:
            return step, math.inf, worst
        for i in range(count):
            k, q = links[i], flow[i]
            d = rs[i] + gus[i] * change[k.u] + gvs[i] * change[k.v]
            most = GROWTH * max(abs(q), TYPICAL_FLOW)
            flow[i] = q + (most if d > most else -most if d < -most else d)
        for i in range(n):
            pressure[i] += change[i]
    return most_steps, error, worst


def _level_islands(net: Network, pressure: list[float], shut: list[bool], afloat: list[bool]) -> None:
    """One pressure for each island between shut parts, in place: nothing flows on it."""
    near: list[list[int]] = [[] for _ in net.ids]
    for k, x in zip(net.links, shut, strict=True):
        if not x:
            near[k.u].append(k.v)
            near[k.v].append(k.u)
    done = list(afloat)
    for start in range(net.n):
        if done[start]:
            continue
        island, done[start] = [start], True
        for node in island:
            for other in near[node]:
                if not done[other]:
                    done[other] = True
                    island.append(other)
        level = sum(pressure[i] for i in island) / len(island)
        for i in island:
            pressure[i] = level


def _still_miss(link: Link, dp: float, pressure: list[float]) -> float:
    """How far a link without flow is from its law [Pa]."""
    law = link.law
    if link.code == PUMP:
        return max(dp + rise(law, 0.0)[0], 0.0)
    if link.code == LOSS:
        return max(dp - law.cracking, 0.0) if law.one_way else abs(dp)
    return max(min(pressure[link.u] - law.target if law.side == 0 else law.target - pressure[link.v], dp), 0.0)


def _sums(links: Sequence[Link], flow: Sequence[float], total: int) -> list[float]:
    """What flows into each node and does not leave it [m3/s]."""
    sums = [0.0] * total
    for link, q in zip(links, flow, strict=True):
        sums[link.u] -= q
        sums[link.v] += q
    return sums


def _solve(
    plan: Plan,
    links: Sequence[Link],
    n: int,
    total: int,
    sums: Sequence[float],
    rs: Sequence[float],
    gus: Sequence[float],
    gvs: Sequence[float],
) -> list[float]:
    """The pressure steps that bring every unknown node into balance."""
    a = [0.0] * plan.slots
    b = list(sums)
    where = plan.where
    for i, link in enumerate(links):
        gu, gv, r = gus[i], gvs[i], rs[i]
        uu, uv, vu, vv = where[i]
        a[uu] += gu
        a[uv] += gv
        a[vu] -= gu
        a[vv] -= gv
        b[link.u] -= r
        b[link.v] += r
    for pivot, node, rows in plan.steps:
        top = a[pivot] or LEAK
        right = b[node]
        for row_slot, row, updates in rows:
            factor = a[row_slot] / top
            for target, source in updates:
                a[target] -= factor * a[source]
            b[row] -= factor * right
    change = [0.0] * total
    for pivot, node, rest in plan.back:
        value = b[node]
        for source, column in rest:
            value -= a[source] * change[column]
        change[node] = value / (a[pivot] or LEAK)
    return change


def _interior(net: Network, plan: Plan, pressure: list[float], centring: float) -> tuple[list[float], list[bool]]:
    """Follow Q s = mu, mu falling, from a strictly open start; pressures in place. Returns flows near the solution and which links are shut."""
    n, links = net.n, net.links
    count, total = len(links), len(net.ids)
    p0 = max([abs(p) for p in net.fixed] + [_size(k.law) for k in links] + [1e4])
    q0 = TYPICAL_FLOW
    flow = [min(q0, 0.5 * k.law.most) if k.code == LOSS else q0 for k in links]
    one_way = [k.code != LOSS or k.law.one_way for k in links]
    low = [0.1 * p0 if w else 0.0 for w in one_way]
    high = [0.1 * p0 if k.code == LOSS and k.law.most < math.inf else 0.0 for k in links]
    pairs = sum(one_way) + sum(1 for h in high if h)
    mu = 0.1 * p0 * q0
    rs, gus, gvs = [0.0] * count, [0.0] * count, [0.0] * count
    for _ in range(INTERIOR_STEPS):
        for i, k in enumerate(links):
            rs[i], gus[i], gvs[i] = _smoothed(k, flow[i], low[i], high[i], pressure, mu, p0 * math.sqrt(mu / (p0 * q0)) * 0.1)
        sums = _sums(links, flow, total)
        change = _solve(plan, links, n, total, sums, rs, gus, gvs)
        step, moves = 1.0, []
        for i, k in enumerate(links):
            q = flow[i]
            dq = rs[i] + gus[i] * change[k.u] + gvs[i] * change[k.v]
            ds = mu / q - low[i] - low[i] / q * dq if one_way[i] else 0.0
            room = k.law.most - q if high[i] else 0.0
            dt = mu / room - high[i] + high[i] / room * dq if high[i] else 0.0
            moves.append((dq, ds, dt))
            for value, d in ((q if one_way[i] else 0.0, dq), (low[i], ds), (room, -dq), (high[i], dt)):
                if value and d < 0 and -d * step > 0.95 * value:
                    step = 0.95 * value / -d
        for i in range(count):
            dq, ds, dt = moves[i]
            flow[i] += step * dq
            low[i] += step * ds
            high[i] += step * dt
        for i in range(n):
            pressure[i] += step * change[i]
        gap = sum(flow[i] * low[i] for i in range(count) if one_way[i])
        gap += sum((links[i].law.most - flow[i]) * high[i] for i in range(count) if high[i])
        if pairs:
            mu = min(mu, centring * gap / pairs) if step > 0.3 else mu
        if (not pairs or gap / pairs < 1e-13 * p0 * q0) and step > 0.9:
            break
        mu = max(mu, 1e-16 * p0 * q0)
    # A link is shut where its slack outweighs its flow.
    shut = [one_way[i] and flow[i] / q0 < low[i] / p0 for i in range(count)]
    limited = [bool(high[i]) and (links[i].law.most - flow[i]) / q0 < high[i] / p0 for i in range(count)]
    return [0.0 if shut[i] else links[i].law.most if limited[i] else flow[i] for i in range(count)], shut


def _size(law: Resistance | PumpRise | RegulatorLaw) -> float:
    if isinstance(law, PumpRise):
        return rise(law, 0.0)[0]
    return abs(law.target) if isinstance(law, RegulatorLaw) else law.cracking


def _smoothed(link: Link, q: float, low: float, high: float, pressure: list[float], mu: float, blur: float) -> tuple[float, float, float]:
    """r, gu, gv of one link on the smoothed path."""
    dp = pressure[link.u] - pressure[link.v]
    if link.code == LOSS:
        law = link.law
        h, slope = resistance(law, q)
        miss = dp - h - law.cracking
        if law.one_way:
            miss += mu / q
            slope += low / q
        if high:
            room = law.most - q
            miss -= mu / room
            slope += high / room
        return miss / slope, 1 / slope, -1 / slope
    if link.code == PUMP:
        if link.law.given is not None:
            return link.law.given - q, LEAK, -LEAK
        top, slope = rise(link.law, q)
        slope = max(-slope, 1e-3 * abs(top) / TYPICAL_FLOW, 1e5) + low / q
        return (dp + top + mu / q) / slope, 1 / slope, -1 / slope
    law = link.law
    hold = max(law.slope, SLOPE_FLOOR)
    held = (pressure[link.u] - law.target if law.side == 0 else law.target - pressure[link.v]) - hold * q
    wide = dp - law.wide_open * q * q
    half = math.hypot((held - wide) / 2, blur)
    least = (held + wide) / 2 - half
    w = 0.5 - (held - wide) / 4 / half  # d least / d held
    slope = w * hold + (1 - w) * 2 * law.wide_open * q + low / q
    gu, gv = (1.0, w - 1) if law.side == 0 else (1 - w, -1.0)
    return (least + mu / q) / slope, gu / slope, gv / slope
