"""Part ceilings: the largest power each part alone allows, the other parts as they are with their own limits waived (docs/model.md, Limits).

Only the commanded flow is scaled; boost, voltage and parts stay. While the pumps keep up, a part on the way to the rail carries the pumps' whole flow, at any
power; beyond that, with the pumps' limit waived, it carries its share of what the engine burns.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from tall_heron.core.base.arithmetic import Why, figure
from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.constants import GRAVITY, HORSEPOWER, LPH
from tall_heron.core.base.roots import last_below_near
from tall_heron.core.document.circuit import Element, Injectors
from tall_heron.core.document.kinds import BURNERS, PIPES
from tall_heron.core.hydraulics.compile import injectors_full_flow
from tall_heron.core.hydraulics.laws import ChainLaw, Resistance, chain_loss, make_chain
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.study.demand import allowance, margin
from tall_heron.core.study.keep_up import KeepUp
from tall_heron.core.study.study import Study, suction_need, tapped

LEAST, MOST = 1e-6, 10.0  # times the power asked: beyond it a part counts as without limit
CLOSE, PUMPS_CLOSE = 1e-6, 4e-4  # of the power, to which ceilings are found, and the pumps', which cost a solution a step
Verdict = Literal["enough", "toss-up", "short"]


@dataclass(frozen=True)
class Limit:
    """One part's ceiling [W], and the band [W] its figures' tolerance leaves; None is no limit up to ten times the power asked, 0.0 is no power at all. `kind` is
    pumps, gravity, suction, far rail, injectors or needles, or the kind of an element that takes pressure."""

    parts: tuple[str, ...]
    kind: str
    title: str
    ceiling: float | None
    band: tuple[float | None, float | None]
    verdict: Verdict
    why: Why


Measure = Callable[[float], float]  # times the power asked -> share of what is allowed; 1 is the limit


def find_ceiling(measure: Measure, allowed: float, guess: float = 1.0) -> float | None:
    """The largest multiple of the power asked at which a rising measure stays within what is allowed; None beyond MOST, 0.0 where it never does."""
    found = last_below_near(lambda times: measure(times) - allowed, guess, LEAST, MOST, CLOSE)
    return None if math.isinf(found) else found


def make_limits(study: Study, only: str | None = None) -> list[Limit]:
    """The ladder of a study, the lowest ceiling first, or just the row of one part; empty where the peak does not solve or nothing is burnt."""
    peak = study.peak
    if not peak.solution.converged or peak.case.demand <= 0 or study.pumps_deliver(peak) <= 0:
        return []
    kind = next((e.kind for e in study.build.circuit.elements if e.id == only), "")
    gravity = not study.path.pumps
    laws, keep_up = _laws(study), KeepUp(study)
    flows = _flows(study, keep_up)
    rows = [] if only and kind != "pump" else [_gravity(study) if gravity else _pumps(study)]
    more = (
        *_suction(study, laws, flows, only),
        *_losses(study, laws, flows, only),
        *_far_rails(study, laws, flows, only),
        *_injectors(study),
    )
    rows += [x for x in more if only is None or only in x.parts]
    return sorted(rows, key=lambda x: (x.ceiling is None, x.ceiling or 0.0))


def _limit(study: Study, parts: tuple[str, ...], kind: str, title: str, measure: Measure, tolerance: float, steps: list[str], source: str) -> Limit:
    asked = study.brief.power
    at_one = find_ceiling(measure, 1.0)
    near = at_one or 1.0  # losses go as the square of flow, near enough for a guess
    found = [find_ceiling(measure, 1 - tolerance, near * (1 - tolerance / 2)), at_one, find_ceiling(measure, 1 + tolerance, near * (1 + tolerance / 2))]
    low, ceiling, high = (None if x is None else x * asked for x in found)
    verdict: Verdict = "enough" if low is None or low >= asked else "short" if high is not None and high < asked else "toss-up"
    if ceiling == 0.0:
        return Limit(parts, kind, title, 0.0, (low, high), "short", Why((*steps, "holds at no power"), source))
    end = "no limit up to ten times the power asked" if ceiling is None else f"holds up to {_power(ceiling)}"
    band = f"figures good to ±{100 * tolerance:g} %: " + ("no limit either way" if low is None else f"{_power(low)} to {_band(high)}")
    return Limit(parts, kind, title, ceiling, (low, high), verdict, Why((*steps, end, band), source))


def _band(power: float | None) -> str:
    return "no limit" if power is None else _power(power)


def _power(power: float) -> str:
    return f"{figure(power / HORSEPOWER)} hp = {figure(power / 1000)} kW"


def _pumps(study: Study) -> Limit:
    """Pumps deliver the burn and the margin at peak, and the burn at low voltage."""
    ids = tuple(e.id for e in study.path.pumps)
    wanted = margin(study.brief)[0]
    tolerance = _tolerance(study.path.pumps[0], "pump_tolerance")
    if not study.turns_back or study.brief.carburetted:
        return _pumps_alone(study, ids, wanted, tolerance)

    def over(case_key: str, spare: float) -> Measure:
        case, unlimited = study.cases[case_key], study.what_if.unlimited
        known: dict[float, float] = {}

        def measure(times: float) -> float:
            if times not in known:
                solution = unlimited.at(case.point, case.demand * times)
                deliver = sum(solution.flow(i) for i in ids) - tapped(study.build.circuit, solution)
                known[times] = case.demand * times * (1 + spare) / deliver if deliver > 0 else 1e9
            return known[times]

        return measure

    peak, low = over("peak", wanted), over("low voltage", 0.0)
    at_peak, at_low = (last_below_near(lambda t, m=m: m(t) - 1, 1 / m(1.0), LEAST, MOST, PUMPS_CLOSE) for m in (peak, low))  # type: ignore[misc]
    binding, name = (peak, "peak") if at_peak <= at_low else (low, "low voltage")
    times = min(at_peak, at_low, MOST)
    if times <= 0:
        steps = [f"at {name} the pumps cannot reach the rail pressure asked, at any power"]
        return _limit(study, ids, "pumps", "pumps", lambda t: 1e9, tolerance, steps, "Pump maps.")
    case = study.cases[name]
    deliver = case.demand * times * (1 + (wanted if name == "peak" else 0.0)) / binding(times)
    need = f"× {1 + wanted:g} for the margin" if name == "peak" else "and no margin"
    steps = [f"at {name}: pumps give {figure(deliver / LPH)} L/h; asked is the burn {need}"]
    # Near the ceiling pump flow hardly moves, so the measure is all but proportional to power.
    return _limit(study, ids, "pumps", "pumps", lambda t: t / times, tolerance, steps, "Pump maps; margin of the brief.")


def _pumps_alone(study: Study, ids: tuple[str, ...], wanted: float, tolerance: float) -> Limit:
    """Pumps that nothing turns back: the largest burn they feed with the margin at peak, and without at low voltage."""
    found = []
    for key, spare in (("peak", wanted), ("low voltage", 0.0)):
        solved = study.solved.get(key)
        if solved is not None:
            found.append((study.capacity(solved) / (1 + spare) / solved.case.demand, key, study.capacity(solved), spare))
    times, key, capacity, spare = min(found)
    need = f"÷ {1 + spare:g} for the margin" if spare else "and no margin"
    steps = [f"at {key}: pumps can feed {figure(capacity / LPH)} L/h before the pressure is off, {need}"]
    measure: Measure = (lambda t: t / times) if times > 0 else (lambda t: 1e9)
    return _limit(study, ids, "pumps", "pumps", measure, tolerance, steps, "Pump maps; margin of the brief.")


def _gravity(study: Study) -> Limit:
    """Fuel that falls: the largest burn it feeds with the margin that gravity asks for."""
    spare = margin(study.brief, gravity=True)[0]
    capacity = study.capacity(study.peak)
    times = capacity / (1 + spare) / study.peak.case.demand
    steps = [f"falls {figure(capacity / LPH)} L/h before the bowl lacks pressure, ÷ {1 + spare:g} for the margin"]
    measure: Measure = (lambda t: t / times) if times > 0 else (lambda t: 1e9)
    parts = tuple(e.id for c in study.path.columns[1 : study.path.turn] for e in c.elements)
    return _limit(
        study,
        parts,
        "gravity",
        "gravity feed",
        measure,
        house_figure("hose_loss_tolerance"),
        steps,
        "Height of the tank's outlet with the level of the case; margin of the brief.",
    )


def _tolerance(element: Element, usual: str) -> float:
    """A part's own tolerance, or the usual one of its kind."""
    own = element.properties.flow_tolerance
    return own if own is not None else house_figure(usual)


@dataclass(frozen=True)
class Flows:
    """What each part carries at a multiple of the power: while the pumps keep up as solved, beyond that just the burn. Parts that carry the pumps' whole
    flow, or one pump's share of it, need no further solving; those where it parts do."""

    study: Study
    keep_up: KeepUp
    plain: frozenset[str]

    def of(self, element_id: str) -> Callable[[float], float]:
        """Flow of a part [m3/s] over multiples of the power asked."""
        if element_id not in self.plain:
            return lambda times: _most_flow(self.keep_up.at(times), element_id)
        peak = self.study.peak
        flow = _most_flow(peak.solution, element_id)
        share, least = flow / self.study.pumps_deliver(peak), flow if self.study.turns_back else 0.0
        beside = tapped(self.study.build.circuit, peak.solution)
        return lambda times: max(least, share * (peak.case.demand * times + beside))


def _most_flow(solution: Solution, element_id: str) -> float:
    return max((abs(solution.flow(x.key)) for x in solution.net.geometry.links_of.get(element_id, ())), default=0.0)


def _flows(study: Study, keep_up: KeepUp) -> Flows:
    columns, whole = study.path.columns, study.pumps_deliver(study.peak)
    plain = {e.id for c in columns[: study.path.suction] for e in c.elements}
    joined = False
    for column in study.path.delivery:
        if len(column.elements) == 1 and abs(_most_flow(study.peak.solution, column.elements[0].id) - whole) < 1e-6 * whole:
            joined = True
            plain.add(column.elements[0].id)
        elif column.elements[0].kind == "merge" or not joined:
            plain |= {e.id for e in column.elements}
    return Flows(study, keep_up, frozenset(plain))


def _laws(study: Study) -> dict[str, ChainLaw]:
    """The compiled law of each resisting part at peak."""
    return {k.element: make_chain([k.law]) for k in study.peak.solution.net.links if isinstance(k.law, Resistance)}


def _loss_at(law: ChainLaw, flow: float) -> float:
    return chain_loss(law, flow)[0] + law.cracking


def _losses(study: Study, laws: dict[str, ChainLaw], flows: Flows, only: str | None) -> list[Limit]:
    """Filters, hoses, checks, merges and rails: each may take so much."""
    base, brief = study.brief.base, study.brief
    small = (allowance(brief, "check_allowance"), "filter_tolerance")
    hose = (allowance(brief, "feed_loss_share") * base, "hose_loss_tolerance")
    allowances = {
        "filter": (allowance(brief, "filter_allowance"), "filter_tolerance"),
        "rail": (house_figure("rail_difference_share") * base, "filter_tolerance"),
        **dict.fromkeys(("check", "merge", "split", "tee", "damper", "sensor", "fitting", "valve"), small),
        **dict.fromkeys(PIPES, hose),
    }
    rows = []
    for column in study.path.delivery:
        ids = tuple(e.id for e in column.elements)
        if any(e.id not in laws for e in column.elements):
            continue
        if not study.path.pumps or column.elements[0].kind not in allowances or (only and only not in ids):
            continue
        element = max(column.elements, key=lambda e: _loss_at(laws[e.id], flows.of(e.id)(1.0)))
        ids = (element.id, *(i for i in ids if i != element.id))
        allowed, tolerance = allowances[element.kind]
        law, flow = laws[element.id], flows.of(element.id)

        def measure(times: float, law: ChainLaw = law, flow: Callable[[float], float] = flow, allowed: float = allowed) -> float:
            return _loss_at(law, flow(times)) / allowed

        steps = [
            f"takes {figure(_loss_at(law, flow(1.0)) / 1000)} kPa of {figure(allowed / 1000)} kPa allowed at {figure(flow(1.0) / LPH)} L/h"
        ]
        rows.append(
            _limit(
                study,
                ids,
                element.kind,
                element.title or element.kind,
                measure,
                _tolerance(element, tolerance),
                steps,
                "Allowance: house rule.",
            )
        )
    return rows


def _far_rails(study: Study, laws: dict[str, ChainLaw], flows: Flows, only: str | None) -> list[Limit]:
    """A rail that hangs at the end of another: what lies between may take no more than rails may differ."""
    allowed = house_figure("rail_difference_share") * study.brief.base
    rows = []
    for branch in study.path.branches:
        met = [e for e in branch.elements if e.id in laws]
        ids = tuple(e.id for e in met)
        if not branch.burns or not met or (only and only not in ids):
            continue
        through = [(laws[e.id], flows.of(e.id)) for e in met]

        def measure(times: float, through: list[tuple[ChainLaw, Callable[[float], float]]] = through) -> float:
            return sum(_loss_at(law, flow(times)) for law, flow in through) / allowed

        most = max(met, key=lambda e: _loss_at(laws[e.id], flows.of(e.id)(1.0)))
        steps = [f"takes {figure(measure(1.0) * allowed / 1000)} kPa of {figure(allowed / 1000)} kPa that rails may differ by"]
        parts = (most.id, *(i for i in ids if i != most.id))
        rows.append(_limit(study, parts, "far rail", "far rail", measure, house_figure("hose_loss_tolerance"), steps, "House rule P-07."))
    return rows


def _suction(study: Study, laws: dict[str, ChainLaw], flows: Flows, only: str | None) -> list[Limit]:
    """The suction side keeps the pump's inlet at least the pump's need above boiling."""
    if not study.path.pumps:
        return []
    pump = study.path.pumps[0]
    before = [c.elements[0] for c in study.path.columns[1 : study.path.suction - 1] if c.elements[0].id in laws]
    case, density = study.peak.case, study.peak.solution.density
    first = study.path.columns[0]
    tank = study.peak.solution.nodes.get(first.end)
    if not before or tank is None or (only is not None and all(only != e.id for e in before)):
        return []
    need = suction_need(pump)
    drop = density * GRAVITY * (study.height(first.end) - study.height(pump.ports["start"]))
    room = tank + drop + case.point.atmosphere - study.vapour_pressure - need
    met = [(laws[e.id], flows.of(e.id)) for e in before]

    def measure(times: float) -> float:
        losses = sum(_loss_at(law, flow(times)) for law, flow in met)
        return losses / room if room > 0 else 1e9

    most = max(before, key=lambda e: _loss_at(laws[e.id], flows.of(e.id)(1.0)))
    steps = [
        f"takes {figure(measure(1.0) * max(room, 0.0) / 1000)} kPa of {figure(room / 1000)} kPa left above boiling and the pump's need of {figure(need / 1000)} kPa"
    ]
    parts = tuple(e.id for e in before)
    return [
        _limit(
            study,
            (most.id, *(p for p in parts if p != most.id)),
            "suction",
            "suction",
            measure,
            house_figure("hose_loss_tolerance"),
            steps,
            "House rule S-01.",
        )
    ]


def _injectors(study: Study) -> list[Limit]:
    """Injectors stay within their duty limit."""
    rows = []
    peak = study.peak
    for element in study.build.circuit.of_kind(*BURNERS):
        part = element.figures
        if not isinstance(part, Injectors) or part.rated_lph is None:
            continue
        dp = study.brief.base_kpa
        full = injectors_full_flow(part, dp * 1000, peak.solution.density)
        duty = study.wanted(peak, part) / full

        def measure(times: float, duty: float = duty, most: float = part.duty_limit) -> float:
            return duty * times / most

        steps = [f"duty {figure(100 * duty, 2)} % of {100 * part.duty_limit:g} % allowed, at {figure(dp)} kPa across them"]
        title = "needles" if element.kind == "carburettor" else "injectors"
        tolerance = _tolerance(element, "injector_tolerance")
        rows.append(_limit(study, (element.id,), title, title, measure, tolerance, steps, "Duty limit: common practice."))
    return rows
