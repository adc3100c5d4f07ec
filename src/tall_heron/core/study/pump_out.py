"""What is left of the power when one pump stops, the others running on."""

from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.shelf import shelf
from tall_heron.core.study.study import Study, without_injector_limits

CLOSE = 1e-3  # of the burn fed
VALVES = "rill-6"  # what a stopped pump that lets fuel through is taken as


def left_without(study: Study) -> tuple[float, tuple[str, ...]] | None:
    """The share of the burn at peak [-], 1 at most, that still reaches the engine with the rail not low by more than the house's Check when the pump that
    matters most stops, and the pumps that leave no more than it; None where no pump runs or the peak does not solve. A stopped pump lets nothing through, unless
    its sheet says so (a diaphragm pump's own two valves: common practice); a pot or header is taken as still holding fuel."""
    peak = study.peak
    running = [e.id for e in study.build.circuit.of_kind("pump") if e.id not in peak.case.point.off]
    if not running or not peak.solution.converged or peak.case.demand <= 0:
        return None
    left = {pump: _share(study, pump) for pump in running}
    worst = min(left.values())
    return worst, tuple(pump for pump, share in left.items() if share <= worst + CLOSE)


def _share(study: Study, pump: str) -> float:
    peak, circuit, point = study.peak, study.build.circuit, study.peak.case.point
    if any(e.id == pump and e.about.passes_stopped for e in circuit.elements):
        circuit = _as_valves(circuit, pump)
    else:
        point = point.model_copy(update={"off": [*point.off, pump]})
    return study.feeds(peak, without_injector_limits(circuit), point, peak.case.demand, CLOSE) / peak.case.demand


def _as_valves(circuit: Circuit, pump: str) -> Circuit:
    """The circuit with a stopped pump as nothing but its valves."""
    valves = shelf.part_named(VALVES).part
    elements = [Element(id=e.id, kind="check", title=e.title, ports=e.ports, part=valves) if e.id == pump else e for e in circuit.elements]
    return circuit.model_copy(update={"elements": elements})
