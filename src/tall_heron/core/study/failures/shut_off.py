"""The most that any place before the burners can see: every pump against a shut line, one on top of
the other where they stand in a row.
"""

from tall_heron.core.base.graphs import join, reached
from tall_heron.core.document.figures import Regulator
from tall_heron.core.document.path import ways
from tall_heron.core.hydraulics.laws import PumpRise
from tall_heron.core.study.study import Study


def shut_off_pressures(study: Study) -> dict[str, float]:
    """Pressure of places behind pumps [Pa gauge] when nothing gets away: a return pinched, a
    regulator stuck. Pumps stand at their relief or at the end of their map, at the voltage of the
    peak; what hangs on a tank without a pump is left out. Check valves are taken as open, which can
    only tell too much.
    """
    circuit, solution = study.build.circuit, study.peak.solution
    tanks = {t.ports["outlet"] for t in circuit.of_kind("tank")}
    tops = {
        k.element: min(k.law.shut_off, k.law.relief)
        for k in solution.net.links
        if isinstance(k.law, PumpRise)
    }
    near: dict[str, list[str]] = {}
    for e in circuit.elements:
        if e.kind not in ("pump", "jet") and not isinstance(e.figures, Regulator):
            for a, b in ways(e):
                join(near, a, b)
    pumps = [(tops[e.id], *ways(e)[0]) for e in circuit.of_kind("pump") if e.id in tops]
    behind = {end: reached(near, [end], tanks) for _, _, end in pumps}
    most: dict[str, float] = {}
    for _ in pumps:  # as many rounds as pumps can stand in a row
        for top, start, end in pumps:
            under = (
                most.get(start, 0.0) if start not in behind[end] else 0.0
            )  # one that a line leads around stands on nothing
            for node in behind[end]:
                if node not in tanks:
                    most[node] = max(most.get(node, 0.0), under + top)
    return most
