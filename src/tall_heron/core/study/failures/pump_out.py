"""What is left of the power when one pump stops, the others running on."""

from tall_heron.core.document.circuit import Element
from tall_heron.core.shelf import shelf
from tall_heron.core.study.derived import derived
from tall_heron.core.study.study import Study
from tall_heron.core.study.what_if import Change, Fitted, Off

ALL_LEFT = 0.999  # of the power: with more nothing is lost
CLOSE = 1e-3  # of the demand fed
READ, READ_LEAST = (
    0.02,
    1000.0,
)  # of a pressure, and Pa: less is not seen on a gauge, common practice
VALVES = "rill-6"  # what a stopped pump that lets fuel through is taken as


def left_without(study: Study) -> tuple[float, tuple[str, ...]] | None:
    """The share of the demand at peak [-], 1 at most, that still reaches the engine with the rail
    not low by more than the house's Check when the pump that matters most stops, and the pumps that
    leave no more than it; None where no pump runs or the peak does not solve. A stopped pump lets
    nothing through, unless its sheet says so (a diaphragm pump's own two valves: common practice);
    a pot or header is taken as still holding fuel.
    """
    return _left_without(study)


@derived("brief", "hydraulics", "wiring")
def _left_without(study: Study) -> tuple[float, tuple[str, ...]] | None:
    peak = study.peak
    running = [e.id for e in study.build.circuit.of_kind("pump") if e.id not in peak.case.point.off]
    if not running or not peak.solution.converged or peak.case.demand <= 0:
        return None
    left = {pump: _share(study, pump) for pump in running}
    worst = min(left.values())
    return worst, tuple(pump for pump, share in left.items() if share <= worst + CLOSE)


def silent_without(study: Study) -> tuple[str, ...]:
    """Pumps that feed the burners of which one may stop at peak without any gauge or sensor in the
    circuit moving by what one reads (READ of what it shows), power being held, nor a lamp or an
    ammeter of the wiring.
    """
    return _silent_without(study)


@derived("brief", "hydraulics", "wiring")
def _silent_without(study: Study) -> tuple[str, ...]:
    peak, circuit = study.peak, study.build.circuit
    running = [
        e
        for e in circuit.of_kind("pump")
        if e.id not in peak.case.point.off and peak.solution.flow(e.id) > 0
    ]
    gauges = [e.ports["start"] for e in circuit.of_kind("gauge", "sensor")]
    out = []
    for pump in running if len(running) > 1 and peak.solution.converged else ():
        after = study.what_if.changed(stopped(pump)).at(peak.case.point, peak.case.demand)
        if _lamp(study, pump.id):
            continue
        if after.converged and all(
            unmoved(peak.solution.nodes.get(n), after.nodes.get(n)) for n in gauges
        ):
            out.append(pump.id)
    return tuple(out)


def _lamp(study: Study, pump: str) -> bool:
    """Whether a lamp or an ammeter of the wiring shows that a pump stands."""
    harness = study.what_if.harness
    if harness is None or pump not in harness.feeds:
        return False
    return harness.feeds[pump].branch.lamp or harness.wiring.supply.ammeter


def unmoved(before: float | None, after: float | None) -> bool:
    """Whether a gauge shows the same to whoever looks at it, two pressures [Pa gauge]; one that
    becomes undefined is seen.
    """
    return (
        before is not None
        and after is not None
        and abs(after - before) <= max(READ * abs(before), READ_LEAST)
    )


def stopped(pump: Element) -> Change:
    """A pump that stands: nothing passes, or what its own valves let through."""
    return Fitted(_as_valves(pump)) if pump.properties.passes_stopped else Off(pump.id)


def _share(study: Study, pump: str) -> float:
    peak = study.peak
    element = study.build.circuit.element(pump)
    assert element is not None
    without = study.what_if.unlimited.changed(stopped(element))
    return study.feeds(peak, without, peak.case.demand, CLOSE) / peak.case.demand


def _as_valves(pump: Element) -> Element:
    """A stopped pump as nothing but its valves."""
    return Element(
        id=pump.id,
        kind="check",
        title=pump.title,
        ports=pump.ports,
        figures=shelf.part_named(VALVES).figures,
    )
