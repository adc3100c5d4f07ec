"""What each single failure of what is fitted leaves: power, fuel that goes where it should not, and whether anything fitted would show it."""

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import combinations

from tall_heron.core.base.constants import LPH
from tall_heron.core.document.circuit import Check, Circuit, Element, Loss, Regulator
from tall_heron.core.document.kinds import FILTERS, KINDS
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.study.pump_out import CLOSE, stopped, unmoved
from tall_heron.core.study.study import Study
from tall_heron.core.study.what_if import Change, Fitted, Off, Stuck, without_reference

STOPS, LOSES = 0.1, 0.999  # of the burn that still arrives: with less no engine runs; of the power: with more nothing is lost
HALF = 0.5  # how full a tank is taken to be when it begins to fill
# What would show a failure at the least cost, by the kind of part: common practice.
SENSORS = {
    "pump": "a pressure sensor between it and its check valve, or a lamp in its circuit",
    "check": "no gauge: stop each pump in turn at service, and see whether the pressure holds",
    "filter": "a pressure gauge before it and one behind it",
    "strainer": "a vacuum gauge at the pump's inlet",
    "selector": "a level gauge for each tank, and a mark on the lever one can feel",
    "valve": "a lamp that is lit when it is not open",
    "crossover": "a level gauge for each tank",
    "regulator": "a pressure gauge at the rail",
    "relief": "a pressure gauge at the rail",
    "jet": "a level gauge for each half of the tank",
}
LITTLE = 1.0 * LPH  # m3/s: what moves a tank's level less is not told


@dataclass(frozen=True)
class Failure:
    """One thing that fails: the part, what happens to it, and that as changes of the circuit."""

    part: str
    what: str
    changes: tuple[Change, ...]


@dataclass(frozen=True)
class Told:
    """What a gauge or sensor shows before and after [Pa gauge]; None where its pressure is undefined then."""

    gauge: str
    before: float | None
    after: float | None


@dataclass(frozen=True)
class Fills:
    """A tank that is filled by more than is drawn from it: by how much [m3/s], and how long from half full until it runs over [s], None where its size is not known."""

    tank: str
    flow: float
    seconds: float | None


@dataclass(frozen=True)
class Outcome:
    """What a failure comes to at peak: the share of the burn that still `arrives` [-], the share of the power that is `left` with the rail no lower than a Check [-], the rail's
    pressure [Pa gauge], the gauges that move, tanks that fill, and tanks that nothing is drawn from any more though something was. `trouble` says why it does not solve."""

    failure: Failure
    arrives: float
    left: float
    rail: float | None
    moves: tuple[Told, ...]
    fills: tuple[Fills, ...]
    cut_off: tuple[str, ...]
    trouble: str = ""

    @property
    def stops(self) -> bool:
        """Whether the engine stops: next to nothing arrives."""
        return self.arrives < STOPS

    @property
    def starves(self) -> bool:
        """Whether the engine runs on, but not with all its power: the rail is low, and it leans out if nothing holds it back."""
        return not self.stops and self.left < LOSES

    @property
    def silent(self) -> bool:
        """Whether no gauge or sensor that is fitted would show it, the engine running on."""
        return not self.moves and not self.stops


def failures(study: Study) -> list[Failure]:
    """Every single failure of what is fitted that the sums can follow, part by part."""
    return [f for e in study.build.circuit.elements if e.ports for f in _of(study, e)]


def _of(study: Study, e: Element) -> Iterator[Failure]:
    part = e.figures
    if e.kind == "pump" and e.id not in study.peak.case.point.off:
        yield Failure(e.id, "stops", (stopped(e),))
    elif e.kind == "check" and isinstance(part, Check):
        yield Failure(e.id, "sticks shut", (Off(e.id),))
        yield Failure(e.id, "sticks open", (_plain(e, part.bore_mm, part.loss_coefficient),))
    elif e.kind in FILTERS or e.kind == "jet":
        yield Failure(e.id, "is blocked", (Off(e.id),))
    elif isinstance(part, Regulator) and e.kind in ("regulator", "relief"):
        yield Failure(e.id, "sticks open", (_plain(e, part.wide_open_bore_mm, part.wide_open_loss_coefficient),))
        yield Failure(e.id, "sticks shut", (Off(e.id),))
        if study.brief.boosted and (off := without_reference(e)) is not None:
            yield Failure(e.id, "loses its reference hose", (off,))
    elif len(KINDS[e.kind].links) > 1:
        now = study.peak.case.point.position.get(e.id, next(iter(KINDS[e.kind].links)))
        for position in KINDS[e.kind].links:
            if position != now:
                yield Failure(e.id, f"stands at {position}", (Stuck(e.id, position),))


def _plain(e: Element, bore_mm: float, loss: float) -> Change:
    """A part as nothing but its bore."""
    return Fitted(Element(id=e.id, kind="fitting", title=e.title, ports=e.ports, figures=Loss(bore_mm=bore_mm, loss_coefficient=max(loss, 1e-3)), reversed=e.reversed))


def walk(study: Study) -> list[Outcome]:
    """Every single failure at peak; empty where the peak itself does not solve."""
    return study.answered("failures", lambda s: [outcome(s, f) for f in failures(s)] if s.peak.solution.converged else [])


def pairs(study: Study) -> list[tuple[Outcome, tuple[Failure, Failure]]]:
    """Pairs of failures of different parts of which neither stops the engine and both do."""
    return study.answered("pairs of failures", _pairs)


def _pairs(study: Study) -> list[tuple[Outcome, tuple[Failure, Failure]]]:
    harmless = [o.failure for o in walk(study) if not o.stops]
    out = []
    for one, other in combinations(harmless, 2):
        if one.part != other.part:
            both = Failure(f"{one.part} {other.part}", "", (*one.changes, *other.changes))
            if (met := outcome(study, both)).stops:
                out.append((met, (one, other)))
    return out


def outcome(study: Study, failure: Failure) -> Outcome:
    """What one failure comes to."""
    peak = study.peak
    changed = study.what_if.changed(*failure.changes)
    after = changed.at(peak.case.point, peak.case.demand)
    left = min(study.feeds(peak, study.what_if.unlimited.changed(*failure.changes), peak.case.demand, CLOSE) / peak.case.demand, 1.0)
    if not after.converged:
        return Outcome(failure, 0.0, 0.0, None, (), (), (), f"{after.part}: {after.reason}")
    gauges = [(e.id, e.ports["start"]) for e in study.build.circuit.of_kind("gauge", "sensor")]
    told = [Told(i, peak.solution.nodes.get(n), after.nodes.get(n)) for i, n in gauges]
    moves = tuple(t for t in told if not unmoved(t.before, t.after))
    drawn = {t: net_flow(study.build.circuit, t, peak.solution) for t in _tanks(study)}
    then = {t: net_flow(study.build.circuit, t, after) for t in drawn}
    fills = tuple(Fills(t, q, _over(study, t, q)) for t, q in then.items() if q > LITTLE and q > drawn[t] + LITTLE)
    cut_off = tuple(t for t, q in drawn.items() if q < -LITTLE and abs(then[t]) < LITTLE)
    return Outcome(failure, study.fed.burnt(after) / peak.case.demand, left, study.rail_pressure(after), moves, fills, cut_off)


def _tanks(study: Study) -> list[str]:
    return [t.id for t in study.build.circuit.of_kind("tank")]


def net_flow(circuit: Circuit, tank: str, solution: Solution) -> float:
    """What a tank gains [m3/s], below 0 what it gives."""
    element = circuit.element(tank)
    outlet = element.ports["outlet"] if element is not None else ""
    return sum((link.flow if link.end == outlet else 0.0) - (link.flow if link.start == outlet else 0.0) for link in solution.links.values())


def _over(study: Study, tank: str, flow: float) -> float | None:
    element = study.build.circuit.element(tank)
    litres = element.properties.capacity_l if element is not None else None
    return litres / 1000 * (1 - HALF) / flow if litres is not None else None
