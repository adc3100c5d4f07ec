"""Newton's steps on the chains of a network at one operating point, in flows and piezometric
pressures (global gradient method).

Each chain is linearised as dQ = r + gu dPu + gv dPv; mass balance at the junctions then gives their
pressure steps (elimination.py). One-way chains and
regulators are complementarity pairs, and each step guesses which half holds: fast, and nearly
always right. sweep.py is the same for many points at once.
"""

import math
from dataclasses import dataclass
from functools import partial

from tall_heron.core.base.roots import bracketed_root
from tall_heron.core.hydraulics.laws import (
    FLOW_FLOOR,
    FLOW_LEAST,
    LEAK,
    TYPICAL_FLOW,
    ChainLaw,
    RegulatorLaw,
    chain_loss,
    opening_flow,
    starting_flow,
)
from tall_heron.core.hydraulics.network import Network

FAST_STEPS = 24
MOST_STEPS = 60  # where only small flows still move
GROWTH = 4.0  # times a flow may change in one step: a regulator that opens would throw it further
RESIDUAL = 1e-8  # of the largest flow
TIGHTER = 10.0  # how much closer pressures must come, as a part of the largest
STEP = 1e-7  # of its own flow: how far the next step may still move a chain's flow
STEP_LEAST = 1e-8  # of the largest flow, for flows below SMALL
SMALL = 1 / 3.6e6  # m3/s, 1 L/h: flows above it are known to a share of themselves
ROUNDING = 5e-16  # of the largest pressure: what arithmetic leaves in a difference of two
PRESSURE_FLOOR = 1.0  # Pa
RUNAWAY = 1e25  # Pa
DOUBLINGS = 60  # while a bracket of a flow or of a junction's pressure is looked for
CLOSE = 1e-13  # of a flow or a pressure, to which its bracket is closed
LEAST_SHARE = 1 / 4096  # of a step, no shorter where the last one led away

Row = tuple[float, float, float]  # r [m3/s], gu, gv [m3/(s Pa)]


@dataclass(slots=True)
class NewtonState:
    """Where the solver stands: `pressure` of the junctions [Pa, piezometric], `flow` of the chains
    [m3/s], the steps taken, the error in units of what is accepted, and the chain that is furthest
    off.
    """

    pressure: list[float]
    flow: list[float]
    steps: int = 0
    error: float = math.inf
    worst: int = 0

    @property
    def converged(self) -> bool:
        """Whether the answer stands: in balance, and made of numbers. A comparison with what is no
        number is never true, so the error alone does not tell.
        """
        return self.error <= 1.0 and math.isfinite(sum(self.flow) + sum(self.pressure))


def first_state(net: Network) -> NewtonState:
    """Where a network without a near solution starts."""
    flow = [starting_flow(c) for c in net.chains] + [TYPICAL_FLOW] * len(net.regulators)
    return NewtonState([0.0] * net.frame.unknown + net.fixed, flow)


def pressure_scale(net: Network, pressure: list[float]) -> float:
    """The largest pressure [Pa]; a node between shut parts may stand anywhere, so no more than the
    pumps could give on top of the fixed pressures.
    """
    return max(min(max(map(abs, pressure), default=0.0), net.greatest), PRESSURE_FLOOR)


def newton(
    net: Network,
    state: NewtonState,
    most_steps: int = FAST_STEPS,
    stagnant: list[bool] | None = None,
    residual: float = RESIDUAL,
    inverse: bool = False,
) -> NewtonState:
    """Newton steps in place until the laws hold, every junction is in balance, and the next step
    would move no flow. Chains marked `stagnant` lie on islands between shut parts: nothing flows
    there, and only what keeps them shut is looked at. `inverse`: each chain's flow is read from its
    pressure difference at every step, and steps shorten where they no longer come closer; slow, but
    a map with a knee throws it nowhere.
    """
    frame, chains, regulators = net.frame, net.chains, net.regulators
    ends, plan, unknown = frame.ends, frame.plan, frame.unknown
    pressure, flow = state.pressure, state.flow
    first, count, total = len(chains), len(flow), len(pressure)
    rs, gus, gvs = [0.0] * count, [0.0] * count, [0.0] * count
    step, share, last = 0, 1.0, math.inf
    while step < (most_steps if state.error > 1.0 else MOST_STEPS):
        step += 1
        gap = spill = 0.0
        for i in range(count):
            u, v = ends[i]
            pu, pv = pressure[u], pressure[v]
            if stagnant is not None and stagnant[i]:
                off = _stagnant_miss(net, i, pu, pv)
                if off > gap:
                    gap, state.worst = off, i
                continue
            if i < first:
                if inverse:
                    flow[i] = chain_flow(chains[i], flow[i], pu - pv)
                q, off, holding, r, g = chain_row(chains[i], flow[i], pu - pv)
                gu, gv = g, -g
            else:
                q, off, holding, r, gu, gv = regulator_row(regulators[i - first], flow[i], pu, pv)
            flow[i], rs[i], gus[i], gvs[i] = q, r, gu, gv
            if not holding:  # shut, or at its most: what still leaks
                if off > spill:
                    spill = off
            elif off > gap:
                gap, state.worst = off, i
        sums = [0.0] * total
        for (u, v), q in zip(ends, flow, strict=True):
            sums[u] -= q
            sums[v] += q
        scale = pressure_scale(net, pressure)
        largest = max(max(map(abs, flow), default=0.0), FLOW_LEAST)
        state.error = (
            max(
                TIGHTER * gap / scale,
                max(map(abs, sums[:unknown]), default=0.0) / largest,
                spill / largest,
            )
            / residual
        )
        change = plan.steps_of(sums, ends, rs, gus, gvs)
        if not max(map(abs, change)) < RUNAWAY:
            state.error = math.inf
            break
        moves = [
            r + gu * change[u] + gv * change[v]
            for (u, v), r, gu, gv in zip(ends, rs, gus, gvs, strict=True)
        ]
        if stagnant is not None:
            moves = [0.0 if x else d for x, d in zip(stagnant, moves, strict=True)]
        if state.error <= 1.0 and (
            largest <= FLOW_LEAST
            or settled(
                flow,
                moves,
                [max(x) for x in zip(gus, [-g for g in gvs], strict=True)],
                largest,
                scale,
                residual,
            )
        ):
            break
        if inverse:
            share = min(2 * share, 1.0) if state.error < last else max(share / 4, LEAST_SHARE)
            last = state.error
            change = [share * x for x in change]
            moves = [share * x for x in moves]
        for i in range(count):
            q, d = flow[i], moves[i]
            most = GROWTH * max(abs(q), TYPICAL_FLOW)
            flow[i] = q + (most if d > most else -most if d < -most else d)
        for i in range(unknown):
            pressure[i] += change[i]
    else:
        if state.error <= 1.0:
            state.error = 2.0  # small flows still move
    state.steps += step
    return state


def chain_flow(law: ChainLaw, q: float, dp: float) -> float:
    """The flow of a chain at a pressure difference, by brackets; its law rises with flow. `q` is
    where to look first.
    """

    def over(x: float) -> float:
        return chain_loss(law, x)[0] + law.cracking - dp

    if law.given is not None:
        return law.given
    if law.one_way and over(0.0) >= 0:
        return min(q, 0.0)
    sign = 1.0 if law.one_way or over(0.0) < 0 else -1.0
    far = max(abs(q), TYPICAL_FLOW)
    for _ in range(DOUBLINGS):
        if far >= law.most or sign * over(sign * far) > 0:
            break
        far *= 2
    far = min(far, law.most)
    if sign * over(sign * far) <= 0:
        return sign * far
    return sign * bracketed_root(lambda x: sign * over(sign * x), 0.0, far, CLOSE)


def regulator_flow(law: RegulatorLaw, pu: float, pv: float) -> float:
    """The flow of a regulator at its pressures: as it holds, or wide open, whichever is less."""
    dp, beyond = pu - pv, pu - law.target if law.side == 0 else law.target - pv
    if min(beyond, dp) <= 0:
        return 0.0
    return min(beyond / law.hold, math.sqrt(dp / law.wide_open))


def relaxed(net: Network, state: NewtonState, sweeps: int) -> NewtonState:
    """Each junction in turn brought into balance by itself, the others as they are. Laws that rise
    with flow make this come closer from anywhere (nonlinear Gauss-Seidel for M-functions, Rheinboldt
    1970), if slowly; it leaves Newton on the right side of every kink.
    """
    frame, first = net.frame, len(net.chains)
    pressure, flow = state.pressure, state.flow
    at: list[list[int]] = [[] for _ in pressure]
    for i, (u, v) in enumerate(frame.ends):
        at[u].append(i)
        at[v].append(i)
    scale = pressure_scale(net, pressure)

    def through(i: int) -> float:
        pu, pv = (pressure[n] for n in frame.ends[i])
        if i < first:
            return chain_flow(net.chains[i], flow[i], pu - pv)
        return regulator_flow(net.regulators[i - first], pu, pv)

    def leaves(n: int, p: float) -> float:
        """What leaves a junction at a pressure less what comes: it rises with the pressure."""
        pressure[n] = p
        return sum(through(i) * (1 if frame.ends[i][0] == n else -1) for i in at[n])

    def edge(n: int, p: float, way: int) -> float:
        """The first pressure a way from here at which more leaves, or, downward, no more."""
        reach = way * 0.01 * scale
        for _ in range(DOUBLINGS):
            if (leaves(n, p) > 0) == (way > 0):
                break
            p, reach = p + reach, 2 * reach
        return p

    for _ in range(sweeps):
        for n in range(frame.unknown):
            here = pressure[n]
            low, high = edge(n, here, -1), edge(n, here, 1)
            pressure[n] = bracketed_root(partial(leaves, n), low, high, CLOSE)
    for i in range(len(flow)):
        flow[i] = through(i)
    return state


def settled(
    flow: list[float],
    moves: list[float],
    slopes: list[float],
    largest: float,
    scale: float,
    residual: float,
) -> bool:
    """Whether the next step would move no flow by more than its share, or than arithmetic itself
    leaves undetermined; `slopes` say how much flow a pascal moves.
    """
    tighter, rounding = residual / RESIDUAL, ROUNDING * scale
    least, share = STEP_LEAST * largest * tighter, STEP * tighter
    for q, d, g in zip(flow, moves, slopes, strict=True):
        move, size = (d if d >= 0 else -d), (q if q >= 0 else -q)
        if move > (share * size if size > SMALL else least) and move > rounding * g:
            return False
    return True


def chain_row(law: ChainLaw, q: float, dp: float) -> tuple[float, float, bool, float, float]:
    """One chain at a flow and a pressure difference: its working flow, how far it is off [Pa, or
    m3/s where it is shut or at its most], whether its law holds there, then r and g.
    """
    if law.given is not None:
        return q, abs(law.given - q), False, law.given - q, LEAK
    if law.one_way and q <= 0:
        at_rest = dp - law.cracking - (chain_loss(law, 0.0)[0] if law.pumps else 0.0)
        if at_rest <= 0:
            r = LEAK * at_rest - q
            return q, r, False, r, LEAK
        q = opening_flow(law, at_rest)
    if q >= law.most:
        miss = dp - chain_loss(law, law.most)[0] - law.cracking
        if miss >= 0:
            r = law.most - q + LEAK * miss
            return q, -r, False, r, LEAK
        q = law.most * (1 - 1e-9)
    h, slope = chain_loss(law, q)
    miss = dp - h - law.cracking
    return q, abs(miss), True, miss / slope, 1 / slope


def regulator_row(
    law: RegulatorLaw, q: float, pu: float, pv: float
) -> tuple[float, float, bool, float, float, float]:
    """One regulator: as chain_row, with gu and gv apart."""
    dp, hold = pu - pv, law.hold
    beyond = pu - law.target if law.side == 0 else law.target - pv
    if q <= 0:
        least = min(beyond, dp)
        if least <= 0:
            r = LEAK * least - q
            gu, gv = (
                (LEAK, -LEAK) if beyond > dp else (LEAK, 0.0) if law.side == 0 else (0.0, -LEAK)
            )
            return q, r, False, r, gu, gv
        q = min(TYPICAL_FLOW, math.sqrt(dp / law.wide_open))
    holding, wide = beyond - hold * q, dp - law.wide_open * q * q
    if holding <= wide:
        gu, gv = (1 / hold, 0.0) if law.side == 0 else (0.0, -1 / hold)
        return q, abs(holding), True, holding / hold, gu, gv
    g = 0.5 / (law.wide_open * max(q, FLOW_FLOOR))
    return q, abs(wide), True, wide * g, g, -g


def _stagnant_miss(net: Network, i: int, pu: float, pv: float) -> float:
    """How far a chain without flow is from its law [Pa]."""
    if i >= len(net.chains):
        law = net.regulators[i - len(net.chains)]
        return max(min(pu - law.target if law.side == 0 else law.target - pv, pu - pv), 0.0)
    chain = net.chains[i]
    at_rest = pu - pv - chain.cracking - (chain_loss(chain, 0.0)[0] if chain.pumps else 0.0)
    return max(at_rest, 0.0) if chain.one_way else abs(pu - pv)
