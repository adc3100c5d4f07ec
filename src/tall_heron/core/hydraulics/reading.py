"""Solved flows and pressures as a Solution: shut links at exactly zero, undefined pressures at None, states in the trade's words."""

from tall_heron.core.hydraulics.compile import MANIFOLD
from tall_heron.core.hydraulics.laws import FLOW_LEAST, LEAK, LOSS, PUMP
from tall_heron.core.hydraulics.network import Link, Network
from tall_heron.core.hydraulics.results import LinkResult, Solution
from tall_heron.core.physics.friction import LAMINAR_END, TURBULENT_START

PRESSURE_FLOOR = 1.0  # Pa
STILL = 1e-9  # of the largest flow


def read_solution(net: Network, pressure: list[float], flow: list[float], iterations: int, residual: float) -> Solution:
    """The Solution of converged flows [m3/s] and piezometric pressures [Pa]."""
    largest = max(max(map(abs, flow), default=0.0), FLOW_LEAST)
    scale = pressure_scale(net, pressure)
    # A link beyond its kink holds its ends apart: it carries a leak that is a device of the method, reported as zero.
    parted = [_can_shut(k) and q < max(STILL * largest, 2 * LEAK * scale) for k, q in zip(net.links, flow, strict=True)]
    still = largest <= FLOW_LEAST
    defined = hang_on_fixed(net, parted)
    nodes: dict[str, float | None] = dict.fromkeys(net.loose)
    for i, name in enumerate(net.ids):
        if not name.startswith(MANIFOLD):
            nodes[name] = pressure[i] - net.heads[i] if defined[i] else None
    links: dict[str, LinkResult] = {}
    delivered = 0.0
    for k, q, apart in zip(net.links, flow, parted, strict=True):
        if apart or still:
            q = 0.0
        loss = None
        if k.end.startswith(MANIFOLD):
            delivered += q
            if defined[k.u]:
                loss = pressure[k.u] - pressure[k.v]
        elif (a := nodes[k.start]) is not None and (b := nodes[k.end]) is not None:
            loss = a - b
        result = LinkResult(k.element, k.key, k.start, "" if k.end.startswith(MANIFOLD) else k.end, q, loss, "")
        if k.area:
            result.velocity = q / k.area
        _describe(net, k, q, apart, pressure, result)
        links[k.key] = result
    for element, key, start, end, state in net.shut:
        a, b = nodes.get(start), nodes.get(end)
        links[key] = LinkResult(element, key, start, end, 0.0, a - b if a is not None and b is not None else None, state)
    return Solution(
        True, nodes, links, sum(net.commanded.values()), delivered, net.density, net.viscosity, iterations=iterations, residual=residual
    )


def pressure_scale(net: Network, pressure: list[float]) -> float:
    """The largest pressure [Pa]; a node between shut parts may stand anywhere, so no more than the pumps could give on top of the fixed pressures."""
    return max(min(max(map(abs, pressure), default=0.0), net.greatest), PRESSURE_FLOOR)


def _can_shut(link: Link) -> bool:
    return link.code != LOSS or link.law.one_way


def hang_on_fixed(net: Network, parted: list[bool]) -> list[bool]:
    """Which nodes hang on a fixed pressure through links that are not parted; the others have no defined pressure."""
    near: list[list[int]] = [[] for _ in net.ids]
    for k, apart in zip(net.links, parted, strict=True):
        if not apart:
            near[k.u].append(k.v)
            near[k.v].append(k.u)
    seen = [False] * net.n + [True] * (len(net.ids) - net.n)
    queue = list(range(net.n, len(net.ids)))
    while queue:
        for other in near[queue.pop()]:
            if not seen[other]:
                seen[other] = True
                queue.append(other)
    return seen


def _describe(net: Network, k: Link, q: float, apart: bool, pressure: list[float], result: LinkResult) -> None:
    """State, Reynolds number and current of one link."""
    if k.code == PUMP:
        from_table = k.law
        if apart:
            result.state = "at shut-off"
        elif q > from_table.last_flow * (1 + 1e-9):
            result.state = "beyond its table"
        elif result.loss is not None and -result.loss >= from_table.relief * (1 - 1e-6):
            result.state = "relief open"
        else:
            result.state = "running, beyond its voltages" if from_table.outside else "running"
        if from_table.currents is not None:
            # Current stands in the curves' order; between voltages it is weighted like the rise, outside it keeps the nearest map's.
            weights = [s.weight for s in from_table.shares]
            total = sum(weights)
            result.current = sum(
                w / total * c.at(q * s.flow_scale + s.flow_shift)[0]
                for w, s, c in zip(weights, from_table.shares, from_table.currents, strict=True)
            )
    elif k.code == LOSS:
        law = k.law
        if law.friction_scale:
            re = abs(q) * law.reynolds_per_flow
            result.reynolds = re
            result.transition = LAMINAR_END < re < TURBULENT_START
            result.state = "still" if re < 1e-3 else "laminar" if re <= LAMINAR_END else "transition" if result.transition else "turbulent"
        elif k.end.startswith(MANIFOLD):
            want = net.commanded[k.element]
            result.state = "shut" if apart else "short of command" if q < want * (1 - 1e-6) else "on command"
        else:
            result.state = "shut" if apart else "open" if law.one_way else "flowing"
    else:
        law = k.law
        if apart:
            result.state = "shut"
        else:
            held = pressure[k.u] - law.target if law.side == 0 else law.target - pressure[k.v]
            held -= max(law.slope, 0.0) * q
            size = max(abs(pressure[k.u]), abs(pressure[k.v]), 1.0)
            result.state = "wide open" if held > 1e-6 * size else "holding"
