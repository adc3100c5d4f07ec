"""What is left of the power when one pump stops, the others running on."""

from tall_heron.core.document.circuit import Element
from tall_heron.core.shelf import shelf
from tall_heron.core.study.study import Study
from tall_heron.core.study.what_if import Fitted, Off

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
    peak = study.peak
    element = study.build.circuit.element(pump)
    assert element is not None
    stopped = study.what_if.unlimited.changed(Fitted(_as_valves(element)) if element.properties.passes_stopped else Off(pump))
    return study.feeds(peak, stopped, peak.case.demand, CLOSE) / peak.case.demand


def _as_valves(pump: Element) -> Element:
    """A stopped pump as nothing but its valves."""
    return Element(id=pump.id, kind="check", title=pump.title, ports=pump.ports, figures=shelf.part_named(VALVES).figures)
