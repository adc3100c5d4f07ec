"""A pump whose speed is controlled makes only what is asked at the sensor: what the solver leaves
to the controller there, the pump does not make.
"""

from dataclasses import replace

from tall_heron.core.document.circuit import Circuit
from tall_heron.core.document.path import reach
from tall_heron.core.hydraulics.results import Solution


def turned_down(circuit: Circuit, solution: Solution) -> Solution:
    """The solution with controlled pumps at their lower speed: everything from the pumps to the
    controller at so much less pressure, the pumps' current in proportion to the pressure they make
    (a stand-in: a sheet has no map for each speed).
    """
    controllers = circuit.of_kind("controller")
    if not controllers or not solution.converged:
        return solution
    nodes, links = dict(solution.nodes), dict(solution.links)
    for c in controllers:
        own = links.get(c.id)
        if own is None or own.loss is None or own.loss <= 0:
            continue
        before = reach(circuit, c.ports["start"], backward=True)
        pumps = [e for e in before if e.kind == "pump" and e.id in links]
        suction = {
            e.id for p in pumps for e in (p, *reach(circuit, p.ports["start"], backward=True))
        }
        between = (
            {c.ports["start"]}
            | {n for e in before if e.id not in suction for n in e.ports.values()}
            | {p.ports["end"] for p in pumps}
        )
        for node in between:
            if (pressure := nodes.get(node)) is not None:
                nodes[node] = pressure - own.loss
        for pump in pumps:
            full = links[pump.id]
            if full.loss is None or full.loss >= 0:
                continue
            share = max(0.0, 1 + own.loss / full.loss)
            current = full.current * share if full.current is not None else None
            links[pump.id] = replace(
                full, loss=full.loss + own.loss, current=current, state="running, turned down"
            )
        links[c.id] = replace(own, loss=0.0)
    return solution.with_readings(nodes, links)
