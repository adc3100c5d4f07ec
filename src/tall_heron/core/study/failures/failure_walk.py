"""What each single failure leaves: power, fuel that goes where it should not, and whether anything
fitted would show it.
"""

import math
from dataclasses import dataclass, replace
from itertools import combinations
from typing import Literal

from tall_heron.core.base.constants import GRAVITY, LPH
from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.figures import TankLevel
from tall_heron.core.document.kinds import BURNERS
from tall_heron.core.document.point import Point
from tall_heron.core.document.tank_shape import FILLED
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.study.cases.tank_heat import pump_current
from tall_heron.core.study.derived import derived
from tall_heron.core.study.failures.failures import OPEN, Failure, failures, fed_tanks
from tall_heron.core.study.failures.pump_out import CLOSE, unmoved
from tall_heron.core.study.study import Solved, Study
from tall_heron.core.study.what_if import Fitted, Off, WhatIf

STOPS, LOSES = (
    0.1,
    0.999,
)  # of the demand that still arrives: with less no engine runs; of the power: with more nothing is lost
HALF = 0.5  # how full a tank is taken to be
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
    "hose": "eyes and nose: look along it before each start; a level gauge shows a large leak",
    "line": "eyes and nose: look along it before each start; a level gauge shows a large leak",
    "tank": "a level gauge with a lamp at its reserve",
    "": "a voltmeter, or the charge lamp",
}
FILLS = 0.1  # of the demand: a tank that gains no more than that over what it gained before is not filled by the failure
LEVEL_SEEN = 0.4  # of the demand: by how much a tank must gain or lose faster for its gauge to tell within a quarter of an hour or so, common practice
AMMETER_READS = 1.0  # A, what one sees on a panel meter, common practice
LITTLE = 1.0 * LPH  # m3/s: what moves a tank's level less is not told


@dataclass(frozen=True)
class GaugeMove:
    """What a gauge or sensor shows before and after [Pa gauge]; None where its pressure is
    undefined then.
    """

    gauge: str
    before: float | None
    after: float | None


@dataclass(frozen=True)
class Fills:
    """A tank that is filled by more than is drawn from it: by how much [m3/s], and how long from
    half full until it runs over [s], None where its size is not known.
    """

    tank: str
    flow: float
    seconds: float | None


@dataclass(frozen=True)
class OutOfReach:
    """Fuel that no longer reaches the engine: of a tank that is half full, how much [m3], and how
    long it would have lasted at peak [s]; None where its size is not known.
    """

    tank: str
    volume: float | None
    seconds: float | None


Ends = Literal["", "starves", "dry", "pot", "no head"]


@dataclass(frozen=True)
class GivesFor:
    """How long something goes on giving [s] and what ends it: its pump or rail `starves`, its fuel
    is gone (`dry`), a `pot` is empty, or the air over it has lost the head on a header, which
    then holds out for `header` [s] where nothing else fills it.
    """

    seconds: float | None = None
    ends: Ends = ""
    header: float | None = None


@dataclass(frozen=True)
class Outcome:
    """What a failure comes to at peak: the share of the demand that still `arrives` [-], the share
    of the power that is `left` with the rail no lower than a Check [-], the rail's pressure [Pa
    gauge], the gauges that move, the tanks whose level gauges do, lamps and meters of the wiring
    that show it, tanks that fill, fuel out of reach, and what runs out into the open [m3/s].
    `after` [s] is when it tells, where it takes time, and `ends` what ends it then; `header` [s] is
    what a header behind it still holds. `trouble` says why it does not solve.
    """

    failure: Failure
    arrives: float
    left: float
    rail: float | None
    moves: tuple[GaugeMove, ...] = ()
    levels: tuple[str, ...] = ()
    lamps: tuple[str, ...] = ()
    fills: tuple[Fills, ...] = ()
    cut_off: tuple[OutOfReach, ...] = ()
    leaks: float = 0.0
    after: float | None = None
    ends: Ends = ""
    header: float | None = None
    trouble: str = ""

    @property
    def stops(self) -> bool:
        """Whether the engine stops: next to nothing arrives."""
        return self.arrives < STOPS

    @property
    def starves(self) -> bool:
        """Whether the engine runs on, but not with all its power: the rail is low, and it leans out
        if nothing holds it back.
        """
        return not self.stops and self.left < LOSES

    @property
    def spills(self) -> bool:
        """Whether fuel goes where it should not: into the open, or into a tank until it runs over."""
        return bool(self.fills) or self.leaks > LITTLE

    @property
    def silent(self) -> bool:
        """Whether no gauge or sensor that is fitted would show it, the engine running on."""
        return not self.moves and not self.levels and not self.lamps and not self.stops


def sensor_for(circuit: Circuit, part: str) -> str:
    """What would show a failure of a part at the least cost, or of none (an empty name); of a relay
    or a bus what shows a pump that stands. Empty where nothing is known.
    """
    element = circuit.element(part)
    return (
        SENSORS.get(element.kind, "")
        if element is not None
        else SENSORS["pump"]
        if part
        else SENSORS[""]
    )


def walk(study: Study) -> list[Outcome]:
    """Every single failure at peak; empty where the peak itself does not solve."""
    return _walked(study)


@derived("brief", "hydraulics", "wiring", "titles", "space")
def _walked(study: Study) -> list[Outcome]:
    return [outcome(study, f) for f in failures(study)] if study.peak.solution.converged else []


def pairs(study: Study) -> list[tuple[Outcome, tuple[Failure, Failure]]]:
    """Pairs of failures of different parts of which neither stops the engine and both do; lines
    that come off are left out.
    """
    return _pairs(study)


@derived("brief", "hydraulics", "wiring", "titles", "space")
def _pairs(study: Study) -> list[tuple[Outcome, tuple[Failure, Failure]]]:
    harmless = [
        o.failure
        for o in walk(study)
        if not o.stops and o.failure.circuit is None and o.failure.vented
    ]
    out = []
    for one, other in combinations(harmless, 2):
        if one.part != other.part:
            voltage = one.voltage if one.voltage is not None else other.voltage
            both = Failure(
                f"{one.part} {other.part}",
                "",
                (*one.changes, *other.changes),
                None,
                (*one.air, *other.air),
                voltage=voltage,
            )
            if (met := outcome(study, both)).stops:
                out.append((met, (one, other)))
    return out


def point_of(study: Study, failure: Failure) -> Point:
    """The peak's point with what a failure leaves of the voltage."""
    point = study.peak.case.point
    return (
        point
        if failure.voltage is None
        else point.model_copy(update={"name": failure.key[:80], "voltage_v": failure.voltage})
    )


@dataclass(frozen=True)
class Failing:
    """A circuit with one failure, solved: at its `point`, with the `demand` asked of it [m3/s]:
    none where nothing can reach the engine, and `trouble` says why.
    """

    what_if: WhatIf
    point: Point
    demand: float
    solution: Solution
    trouble: str


def failing(study: Study, failure: Failure) -> Failing:
    """Solve a failure at peak; where nothing can reach the engine, solve what is left of the flows
    with the engine stopped.
    """
    point, what_if, demand = point_of(study, failure), failure.on(study), study.peak.case.demand
    after = what_if.at(point, demand)
    if after.converged:
        return Failing(what_if, point, demand, after, "")
    trouble = (
        f"nothing goes on beyond the open end of {failure.part}"
        if failure.circuit is not None
        else f"{after.part}: {after.reason}"
    )
    still = what_if.changed(*(Off(e.id) for e in study.build.circuit.of_kind(*BURNERS)))
    return Failing(still, point, 0.0, still.at(point, 0.0), trouble)


def seen_failing(study: Study, key: str) -> Study | None:
    """The study of a build with one failure solved under its key; None where there is none of that
    name.
    """
    failure = (
        next((f for f in failures(study) if f.key == key), None)
        if study.peak.solution.converged
        else None
    )
    if failure is None:
        return None
    f = failing(study, failure)
    title = f"{failure.part} {failure.what}".strip()
    case = replace(
        study.peak.case,
        key=key,
        title=title[:1].upper() + title[1:],
        point=f.point,
        demand=f.demand,
        margin=None,
    )
    what_if = (
        f.what_if if failure.circuit is None else study.what_if
    )  # an open end is no part of the build that is drawn
    return replace(
        study,
        what_if=what_if,
        cases=study.cases | {key: case},
        solved=study.solved | {key: Solved(case, f.solution)},
        answers={},
    )


def outcome(study: Study, failure: Failure) -> Outcome:
    """What one failure comes to."""
    peak, f = study.peak, failing(study, failure)
    lasts = (
        _until_starved(study, failure.part)
        if not failure.vented
        else _until_pots_are_empty(study, failure)
    )
    after = f.solution
    if not after.converged:
        return Outcome(
            failure,
            0.0,
            0.0,
            None,
            after=lasts.seconds,
            ends=lasts.ends,
            header=lasts.header,
            trouble=f.trouble,
        )
    arrives = study.feed_path.burnt(after) / peak.case.demand
    gauges = [(e.id, e.ports["start"]) for e in study.build.circuit.of_kind("gauge", "sensor")]
    gauge_moves = [GaugeMove(i, peak.solution.nodes.get(n), after.nodes.get(n)) for i, n in gauges]
    moves = tuple(t for t in gauge_moves if not unmoved(t.before, t.after))
    before, then = (
        {t.id: gross(s, t) for t in study.build.circuit.of_kind("tank")}
        for s in (peak.solution, after)
    )
    more = max(FILLS * study.feed_path.burnt(peak.solution), LITTLE)
    fills = tuple(
        Fills(t, q, _over(study, t, q))
        for t, (out, back) in then.items()
        if (q := back - out) > LITTLE and q > before[t][1] - before[t][0] + more
    )
    cut_off = tuple(
        _out_of_reach(study, t)
        for t, (out, _) in before.items()
        if out > LITTLE and then[t][0] < LITTLE and failure.what != "runs dry"
    )
    leaks = sum(
        link.flow if link.end == OPEN else -link.flow
        for link in after.links.values()
        if OPEN in (link.start, link.end)
    )
    left = _left(study, f) if arrives >= STOPS else 0.0
    gauged = [t.id for t in study.build.circuit.of_kind("tank") if t.properties.level_gauge]
    levels = tuple(
        t
        for t in gauged
        if abs((then[t][1] - then[t][0]) - (before[t][1] - before[t][0]))
        > max(LEVEL_SEEN * study.feed_path.burnt(peak.solution), LITTLE)
    )
    return Outcome(
        failure,
        arrives,
        left,
        study.rail_pressure(after),
        moves,
        levels,
        _lamps(study, failure, after),
        fills,
        cut_off,
        max(leaks, 0.0),
        lasts.seconds,
        lasts.ends,
        lasts.header,
        f.trouble,
    )


def _lamps(study: Study, failure: Failure, after: Solution) -> tuple[str, ...]:
    """Lamps of pumps that have lost their current, and meters that read another figure than before."""
    harness = study.what_if.harness
    if harness is None:
        return ()
    stands = {c.element_id for c in failure.changes if isinstance(c, Off)} | {
        c.element.id for c in failure.changes if isinstance(c, Fitted) and c.element.kind != "pump"
    }
    out = [f"lamp of {p}" for p, f in harness.feeds.items() if f.branch.lamp and p in stands]
    if (
        harness.wiring.supply.ammeter
        and abs(pump_current(Solved(study.peak.case, after)) - pump_current(study.peak))
        > AMMETER_READS
    ):
        out.append("ammeter")
    if harness.wiring.supply.voltmeter and failure.voltage is not None:
        out.append("voltmeter")
    return tuple(out)


def _left(study: Study, f: Failing) -> float:
    """The share of the peak's burn that is fed with the rail no lower than a Check."""
    solved = Solved(replace(study.peak.case, point=f.point), study.peak.solution)
    return min(
        study.feeds(solved, f.what_if.unlimited, study.peak.case.demand, CLOSE)
        / study.peak.case.demand,
        1.0,
    )


def _until_starved(study: Study, tank: str) -> GivesFor:
    """How long a tank that nothing gets into gives fuel: as it leaves, the air over it thins out,
    p V = const, until the inlet has lost what it stands clear of boiling, or by gravity what the
    rail has, or over a header that breathes by itself the height between their levels. No longer
    than its fuel lasts; nothing where its size is not known or nothing leaves it.
    """
    peak, element = study.peak, study.build.circuit.element(tank)
    liters = element.properties.capacity_l if element is not None else None
    flow, air = -net_flow(study.build.circuit, tank, peak.solution), peak.case.point.atmosphere
    if element is None or liters is None or flow <= LITTLE:
        return GivesFor()
    header = _header_of(study, element)
    ends: Ends = "no head" if header is not None else "starves"
    if header is not None:
        lost = max(_head_over(study, element, header), 0.0)
    elif (clear := study.clear_of_boiling(peak)) is not None:
        lost = clear[0]
    else:
        lost = study.rail_pressure(peak.solution) or 0.0
    thinned = HALF * liters / 1000 * lost / ((air - lost) * flow) if 0 < lost < air else math.inf
    dry = HALF * liters / 1000 / flow
    return GivesFor(
        min(thinned, dry),
        "dry" if dry < thinned else ends,
        _header_alone(study, element, header) if header is not None else None,
    )


def _header_of(study: Study, tank: Element) -> Element | None:
    """The tank that another runs down into and that breathes by itself."""
    outlets = fed_tanks(study, tank.ports["outlet"])
    return next(
        (
            t
            for t in study.build.circuit.of_kind("tank")
            if t.ports["outlet"] in outlets
            and isinstance(t.figures, TankLevel)
            and t.figures.floats
        ),
        None,
    )


def _head_over(study: Study, tank: Element, header: Element) -> float:
    """The height of one level over another [Pa]."""
    heights = {n.id: n.elevation_mm for n in study.build.circuit.nodes}
    above, below = (
        heights[t.ports["outlet"]]
        + (t.figures.level_mm if isinstance(t.figures, TankLevel) else 0.0)
        for t in (tank, header)
    )
    return (above - below) / 1000 * study.fuel_demand.density * GRAVITY


def _header_alone(study: Study, tank: Element, header: Element) -> float | None:
    """How long a full header lasts by itself [s]; None where another tank still fills it."""
    others = (t for t in study.build.circuit.of_kind("tank") if t.id not in (tank.id, header.id))
    if any(header.ports["outlet"] in fed_tanks(study, t.ports["outlet"]) for t in others):
        return None
    out = -net_flow(study.build.circuit, tank.id, study.peak.solution)
    liters = header.properties.capacity_l
    return liters / 1000 / out if liters is not None and out > LITTLE else None


def _until_pots_are_empty(study: Study, failure: Failure) -> GivesFor:
    """How long pots last once what fills them stands; nothing where it still runs, or there is none."""
    feeding = {p.id for p in study.feed_path.pumps}
    gone = (
        {c.element_id for c in failure.changes if hasattr(c, "element_id")}
        | {failure.part}
        | set(failure.air)
    )
    fillers = [p.id for p in study.build.circuit.of_kind("pump") if p.id not in feeding]
    pots = [
        t
        for t in study.build.circuit.of_kind("tank")
        if t.properties.family in FILLED and t.properties.capacity_l
    ]
    flow = study.feed_path.burnt(study.peak.solution)
    if not fillers or not set(fillers) <= gone or not pots or flow <= 0:
        return GivesFor()
    return GivesFor(sum((t.properties.capacity_l or 0.0) / 1000 for t in pots) / flow, "pot")


def gross(solution: Solution, tank: Element) -> tuple[float, float]:
    """What leaves a tank and what comes back to it [m3/s]."""
    node = tank.ports["outlet"]
    out = [
        link.flow if link.start == node else -link.flow
        for link in solution.links.values()
        if node in (link.start, link.end)
    ]
    return sum(max(q, 0.0) for q in out), sum(max(-q, 0.0) for q in out)


def net_flow(circuit: Circuit, tank: str, solution: Solution) -> float:
    """What a tank gains [m3/s], below 0 what it gives."""
    element = circuit.element(tank)
    out, back = gross(solution, element) if element is not None else (0.0, 0.0)
    return back - out


def _over(study: Study, tank: str, flow: float) -> float | None:
    element = study.build.circuit.element(tank)
    liters = element.properties.capacity_l if element is not None else None
    return liters / 1000 * (1 - HALF) / flow if liters is not None else None


def _out_of_reach(study: Study, tank: str) -> OutOfReach:
    element = study.build.circuit.element(tank)
    liters = element.properties.capacity_l if element is not None else None
    burnt = study.feed_path.burnt(study.peak.solution)
    return (
        OutOfReach(tank, HALF * liters / 1000, HALF * liters / 1000 / burnt)
        if liters is not None and burnt > 0
        else OutOfReach(tank, None, None)
    )
