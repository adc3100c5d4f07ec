"""The hydraulic solver for one operating point. It knows no layouts and no fuel names.

Newton on chains from a near solution, then from the start; where its guess of the kinks cycles, the
interior path with each link by itself, and Newton to
close the sums. Jet pumps settle by solving again and again.
"""

import math

from tall_heron.core.base.graphs import join, reached
from tall_heron.core.base.wanted import still_wanted
from tall_heron.core.hydraulics.interior import interior
from tall_heron.core.hydraulics.jets import JetPair, nozzle_law, suction_law
from tall_heron.core.hydraulics.laws import Law, PumpRise
from tall_heron.core.hydraulics.network import Network
from tall_heron.core.hydraulics.newton import (
    FAST_STEPS,
    RESIDUAL,
    NewtonState,
    first_state,
    newton,
    relaxed,
)
from tall_heron.core.hydraulics.results import Solution, anchored
from tall_heron.core.hydraulics.straight_line import program_for

INVERSE_STEPS = 60  # steps of flows read from pressures
SWEEPS = (4, 16)  # over all junctions, before Newton is tried again
POLISH_STEPS = 60
JET_STEPS = 40
CENTRINGS = (0.1, 0.3, 0.6)


def solve_network(net: Network, near: Solution | None = None) -> Solution:
    """Solve a compiled network, from a solution that is `near` where one is known. Not converged:
    the part and the reason, and no pressures.
    """
    still_wanted()
    if not net.jets:
        return _solve_once(net, near)
    if near is not None and near.converged:
        for pair in net.jets:
            for key, guess in ((pair.nozzle, pair.motive), (pair.suction, pair.drawn)):
                known = near.links.get(key)
                guess.value = known.flow if known is not None else guess.value
    jets, own = net.jets, dict(net.laws)
    solution = _solve_once(net.again(own | _jet_laws(net, jets)), near)
    for _ in range(JET_STEPS):
        if not solution.converged:
            return solution
        jet_flows = [(solution.links[p.nozzle].flow, solution.links[p.suction].flow) for p in jets]
        settled = [
            pair.settles(*flows) for pair, flows in zip(jets, jet_flows, strict=True)
        ]  # each of them steps
        if all(settled):
            return solution
        solution = _solve_once(net.again(own | _jet_laws(net, jets)), solution)
    return solution


def _jet_laws(net: Network, jets: list[JetPair]) -> dict[str, Law]:
    out: dict[str, Law] = {}
    for pair in jets:
        out[pair.nozzle] = nozzle_law(
            pair.figures, net.state.density, pair.motive.value, pair.drawn.value
        )
        out[pair.suction] = suction_law(pair.figures, net.state.density, pair.motive.value)
    return out


def near_state(net: Network, near: Solution | None) -> NewtonState | None:
    """A solution as a start for a network, which may differ from the one it was found for; without
    one, where the numbering was solved last. None where neither is there.
    """
    frame = net.frame
    known = (
        (near.state.pressure, near.state.flow)
        if near is not None and near.converged and near.net.frame is frame
        else None
    )
    if known is None and (near is None or not near.converged):
        known = frame.last
    if known is not None:
        pressure, flow = known[0][: frame.unknown] + net.fixed, list(known[1])
    elif near is not None and near.converged:
        nodes, links, usual = near.nodes, near.links, first_state(net).flow
        pressure = [
            (nodes.get(net.ids[i]) or 0.0) + net.height(i) for i in frame.junctions[: frame.unknown]
        ] + net.fixed
        flow = []
        for chain, q in zip(frame.chains, usual, strict=True):
            k, sense = chain.members[0]
            met = links.get(net.geometry.links[frame.links[k].place].key)
            flow.append(sense * met.flow if met is not None else q)
    else:
        return None
    for i, law in enumerate(net.chains):
        flow[i] = min(flow[i], law.most)
    return NewtonState(pressure, flow)


def _solve_once(net: Network, near: Solution | None) -> Solution:
    if net.frame.impossible:
        part, reason = net.frame.impossible
        return Solution(net, NewtonState([], []), part, reason)
    if net.state.point.wire_ohm and (part := _stalled(net)):
        ohm, volts = net.state.point.wire_ohm[part], net.state.point.voltage_at(part) or 0.0
        return Solution(
            net,
            NewtonState([], []),
            part,
            f"its wires have {ohm * 1000:.3g} mohm and cannot carry what it draws: of {volts:.3g} V it has nothing left to turn at; make them thicker or shorter",
        )
    start = near_state(net, near)
    state = _newton(net, start) if start is not None else NewtonState([], [])
    if not state.converged:
        state = _newton(net, first_state(net))
    if not state.converged:
        net, state = _step_by_step(net, state)
    if state.converged:
        net.frame.last = state.pressure, state.flow
        return Solution(net, state, residual=state.error * RESIDUAL)
    element = net.geometry.links[
        net.frame.links[net.frame.chains[state.worst].members[0][0]].place
    ].element
    reason = f"the sums do not close at {element}: its flow and pressures still disagree after {state.steps} steps"
    return Solution(net, state, element, reason, state.error * RESIDUAL)


def _stalled(net: Network) -> str:
    """A pump whose wire leaves it nothing to turn at; empty where there is none."""
    for k, live in enumerate(net.frame.links):
        element = net.geometry.links[live.place].element
        if element in net.state.point.wire_ohm:
            law = net.law(k)
            if isinstance(law, PumpRise) and law.stalled:
                return element
    return ""


def _newton(net: Network, state: NewtonState) -> NewtonState:
    """Newton's steps, by the shape's own program where it has one."""
    program = program_for(net)
    if program is None:
        return newton(net, state)
    try:
        return NewtonState(
            *program(
                net.chains,
                net.regulators,
                net.greatest,
                state.pressure,
                state.flow,
                FAST_STEPS,
                RESIDUAL,
            )
        )
    except (OverflowError, ZeroDivisionError):  # it ran away
        return NewtonState([], [])


def _step_by_step(whole: Network, tried: NewtonState) -> tuple[Network, NewtonState]:
    """Each link by itself: Newton alone, then along the interior path; last by flows read from
    pressures, and junction by junction.
    """
    net = whole.again(chained=False)
    best = newton(net, first_state(net))
    steps = tried.steps + best.steps
    for centring in CENTRINGS if not best.converged else ():
        state, shut = interior(net, centring)
        afloat = anchored(net, _by_link(net, shut))
        stagnant = [
            not (afloat[net.frame.chains[i].u] and afloat[net.frame.chains[i].v])
            for i in range(len(shut))
        ]
        _level_islands(net, state.pressure, shut, afloat)
        state.flow = [0.0 if s else q for s, q in zip(stagnant, state.flow, strict=True)]
        newton(net, state, POLISH_STEPS, stagnant)
        steps += state.steps
        if state.error < best.error:
            best = state
        if best.converged:
            break
    if not best.converged:
        other = newton(whole, first_state(whole), INVERSE_STEPS, inverse=True)
        for sweeps in SWEEPS if not other.converged else ():
            start = other if other.flow and other.error < math.inf else first_state(whole)
            other = newton(whole, relaxed(whole, start, sweeps))
            if other.converged:
                break
        if other.converged:
            net, best = whole, other
    best.steps = max(steps, FAST_STEPS)
    return net, best


def _by_link(net: Network, shut: list[bool]) -> list[bool]:
    """What is said of chains of one link, said of links."""
    out = [False] * len(net.frame.links)
    for chain, is_shut in zip(net.frame.chains, shut, strict=True):
        out[chain.members[0][0]] = is_shut
    return out


def _level_islands(
    net: Network, pressure: list[float], shut: list[bool], afloat: list[bool]
) -> None:
    """One pressure for each island between shut parts, in place: nothing flows on it. With each
    link by itself, junctions are nodes.
    """
    near: dict[int, list[int]] = {}
    for (u, v), is_shut in zip(net.frame.ends, shut, strict=True):
        if not is_shut:
            join(near, u, v)
    done = list(afloat)
    for start in range(net.n):
        if done[start]:
            continue
        island = [i for i in reached(near, [start]) if not done[i]]
        level = sum(pressure[i] for i in island) / len(island)
        for i in island:
            done[i] = True
            pressure[i] = level
