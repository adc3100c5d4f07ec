"""Tanks: how long they last, what moves fuel between them, what drains them; and what all pumps ask
of the alternator.
"""

from collections.abc import Iterator

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.airspace import airspaces
from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.figures import TankLevel
from tall_heron.core.document.mounts import hung_pumps
from tall_heron.core.document.path import reach, ways
from tall_heron.core.document.tank_shape import FILLED, depth_mm, out_of_reach_l
from tall_heron.core.routing.outline import leans_along
from tall_heron.core.rules.finding import Finding, FindingFigure, Level
from tall_heron.core.rules.rule import Rule, drives, elements, flies, has, solves, solves_with
from tall_heron.core.rules.words import does, named
from tall_heron.core.study.cases.moments import look, moments
from tall_heron.core.study.cases.tank_heat import pump_current
from tall_heron.core.study.study import Solved, Study

QUARTER = 0.25  # of a tank, as low as one drives it
HISTORICAL = "14 CFR part 23 as it stood before 2017, from memory; historical good practice that never bound experimental home-builts"


def out_of_reach(study: Study) -> Iterator[Finding]:
    """Fuel under the outlet is carried and never burned."""
    most = house_figure("tank_out_of_reach")
    for tank in elements(study, "tank"):
        left, holds = out_of_reach_l(tank.properties), tank.properties.capacity_l
        if left is not None and holds and left > most * holds:
            figures = {
                "left": FindingFigure(left / 1000, "volume"),
                "share": FindingFigure(left / holds, "fraction"),
                "most": FindingFigure(most, "fraction"),
            }
            why = "More than {most} of what it holds stays under its outlet even when it stands level."
            yield Finding(
                "Check",
                tank.id,
                f"{{left}} of {tank.id}, {{share}}, lie under its outlet",
                why,
                "Lower the outlet or pickup, or add a sump.",
                figures,
            )


def level_over_its_top(study: Study) -> Iterator[Finding]:
    """A level no tank can have."""
    for tank in elements(study, "tank"):
        deep, part = depth_mm(tank.properties), tank.figures
        if (
            deep is not None
            and isinstance(part, TankLevel)
            and not part.floats
            and part.level_mm + (tank.properties.outlet_mm or 0.0) > deep
        ):
            figures = {
                "level": FindingFigure(part.level_mm / 1000, "length"),
                "deep": FindingFigure(deep / 1000, "length"),
            }
            why = "There is no fuel over the top, so every pressure on the suction side reads too well."
            yield Finding(
                "Check",
                tank.id,
                f"The level of {tank.id} is typed as {{level}} over its outlet; it is {{deep}} deep",
                why,
                "Type the level it has when it is a quarter full.",
                figures,
            )


def _corners(study: Study) -> bool:
    return (
        drives(study)
        and bool(study.feed_path.pumps)
        and not leans_along(study.build.space, study.brief)
    )


def nothing_holds_fuel(study: Study) -> Iterator[Finding]:
    """In a bend, a launch or a jump fuel runs from the outlet."""
    pots = {t.ports["outlet"] for t in elements(study, "tank") if t.properties.family in FILLED}
    for pump in study.feed_path.pumps:
        tank = _tank_before(study, ways(pump)[0][0])
        if tank is None or tank.ports["outlet"] in pots:
            continue
        facts = tank.properties
        known = facts.capacity_l is not None and (
            facts.baffles is not None or facts.foam is not None or facts.long_mm is not None
        )
        if known and not (facts.foam or facts.baffles or facts.sump_l or facts.pot_l):
            why = "The pump draws air for a moment, and the rail falls just when power is needed."
            do = "Choose a tank with baffles, foam, a sump or a surge tank inside, or put a surge tank between."
            yield Finding(
                "Check",
                tank.id,
                f"Nothing keeps fuel at the outlet of {tank.id} in a bend",
                why,
                do,
            )
            return


def too_few_openings(study: Study) -> Iterator[Finding]:
    """Each line needs its way in or out."""
    circuit = study.build.circuit
    hanging = {e.id for h in hung_pumps(circuit) if h.within for e in (h.pump, *h.lines)}
    breathes = {t.id for t in airspaces(circuit.elements)}
    for tank in elements(study, "tank"):
        has_so_many = tank.properties.openings
        if has_so_many is None:
            continue
        outlet = tank.ports["outlet"]
        lines = [
            e.id
            for e in circuit.elements
            if outlet in e.ports.values()
            and e.kind != "tank"
            and not _inside(circuit, e, outlet, hanging)
        ]
        air = int(tank.id in breathes and not tank.properties.vented)
        if len(lines) + air > has_so_many:
            title = f"{does([tank.id], 'has', 'have')} {has_so_many} opening{'' if has_so_many == 1 else 's'}; {named(lines)}{' and a vent' if air else ''} ask {len(lines) + air}"
            why = "A tank that held fuel is never drilled, cut or welded unless a professional certified it free of gas; a new one is cheaper."
            yield Finding(
                "Check",
                tank.id,
                title,
                why,
                "Join lines before the tank, or choose a tank with more openings.",
            )


def _inside(circuit: Circuit, element: Element, outlet: str, hanging: set[str]) -> bool:
    """Whether what stands at a tank's outlet hangs on a pump inside it, and so needs no opening but
    the hanger's own.
    """
    if element.id in hanging:
        return True
    return element.kind == "strainer" and any(
        e.id in hanging
        for e in circuit.elements
        if outlet not in e.ports.values() and set(element.ports.values()) & set(e.ports.values())
    )


def fuel_does_not_last(study: Study) -> Iterator[Finding]:
    """A surge tank is no tank."""
    alone = [t for t in elements(study, "tank") if t.properties.family in FILLED]
    if alone and len(alone) == len(elements(study, "tank")):
        title = f"{does([t.id for t in alone], 'is a surge tank', 'are pots')}, and nothing fills {'it' if len(alone) == 1 else 'them'}"
        yield Finding(
            "Check",
            alone[0].id,
            title,
            "A surge tank holds what a corner takes; behind it stands a tank.",
            "Choose a tank, or add the lift pump and the tank behind the surge tank.",
        )
        return
    sizes = [
        (
            t.id,
            t.properties.capacity_l
            and t.properties.capacity_l - (out_of_reach_l(t.properties) or 0.0),
        )
        for t in elements(study, "tank")
    ]
    known = [x for _, x in sizes if x is not None]
    if len(known) < len(sizes) or not known or study.fuel_demand.volume_flow <= 0:
        return
    seconds, least = sum(known) / 1000 / study.fuel_demand.volume_flow, house_figure("fuel_lasts_s")
    if seconds < least:
        names = [name for name, _ in sizes]
        title = f"{does(names, 'holds', 'hold')} {{holds}}: {seconds:.0f} s at full power"
        why = "That is what a surge tank gives, the fuel under its outlet apart; something must fill it, and nothing on this drawing does."
        yield Finding(
            "Check",
            names[0],
            title,
            why,
            "Choose a tank, or add the lift pump and the tank behind the surge tank.",
            {"holds": FindingFigure(sum(known) / 1000, "volume")},
        )


def _tank_before(study: Study, node: str) -> Element | None:
    outlets = {t.ports["outlet"]: t for t in elements(study, "tank")}
    nodes = [
        node,
        *(n for e in reach(study.build.circuit, node, backward=True) for n in e.ports.values()),
    ]
    return next((outlets[n] for n in nodes if n in outlets), None)


def half_left_behind(study: Study) -> Iterator[Finding]:
    """A jet pump must move what the engine takes of its half, or that half is left behind."""
    for jet in elements(study, "jet"):
        far = _tank_before(study, jet.ports["suction"])
        sizes = {t.id: t.properties.capacity_l for t in elements(study, "tank")}
        total = sum(x for x in sizes.values() if x is not None)
        if far is None or not sizes.get(far.id) or not total:
            continue
        share = (sizes[far.id] or 0.0) / total
        looked = [
            *study.solved.values(),
            *(look(study, m).solved for m in moments(study) if m.case.key == "cruise"),
        ]
        moved = [
            (s.solution.flow(f"{jet.id}.suction") - share * s.case.demand, s)
            for s in looked
            if _lasts(study, s, total * (1 - share))
        ]
        if not moved:
            continue
        lacks, solved = min(moved, key=lambda x: x[0])
        if lacks < 0:
            needs = share * solved.case.demand
            moves = max(needs + lacks, 0.0)
            figures = {
                "moves": FindingFigure(moves, "volume_flow"),
                "needs": FindingFigure(needs, "volume_flow"),
            }
            level: Level = "Stop" if moves < 0.5 * needs else "Check"
            title = f"{jet.id} moves {{moves}} out of {far.id} at {solved.case.title.lower()}; that half gives {{needs}} of the demand"
            why = f"{far.id} falls behind, and what is left in it does not reach the engine when the other half is empty."
            do = "Fit a larger jet or nozzle, give it more return flow, or raise less height with it."
            yield Finding(level, jet.id, title, why, do, figures, solved.case.key)


def _lasts(study: Study, solved: Solved, near_l: float) -> bool:
    """Whether a case lasts as long as a quarter of the half that the engine is fed from: no street
    car holds full power until that is empty, and no battery lasts a tankful.
    """
    if not solved.solution.converged or solved.case.kind == "low voltage":
        return False
    full = solved.case.demand > 0.5 * study.peak.case.demand and study.brief.use != "circuit"
    return not full or QUARTER * near_l / 1000 / solved.case.demand < house_figure("full_power_s")


def header_runs_low(study: Study) -> Iterator[Finding]:
    """A header is filled by height alone; when its line takes more than the height gives, it
    empties.
    """
    for tank in elements(study, "tank"):
        if not getattr(tank.figures, "floats", False):
            continue
        met = [
            (p, s)
            for s in study.solved.values()
            if (p := s.solution.nodes.get(tank.ports["outlet"])) is not None
        ]
        low, solved = min(met, key=lambda x: x[0], default=(0.0, study.peak))
        if low < 0:
            figures = {"low": FindingFigure(-low, "pressure_difference")}
            title = f"{tank.id} empties at {solved.case.title.lower()}: its fill line lacks {{low}}"
            why = "It is open to the air: what its line does not bring is taken from what it holds, and then the pump draws air."
            yield Finding(
                "Stop",
                tank.id,
                title,
                why,
                "Widen or shorten the fill line, raise the tank, or fit a lift pump.",
                figures,
                solved.case.key,
            )


def no_gascolator(study: Study) -> Iterator[Finding]:
    """Water stands at the lowest point, and someone must be able to drain it before a flight."""
    drained = elements(study, "drain") or any(t.properties.drained for t in elements(study, "tank"))
    if not drained and not any(
        e.properties.mount == "gascolator" for e in elements(study, "strainer", "filter")
    ):
        why = "Water that settles in the lowest place reaches the engine in a climb."
        do = "Fit a gascolator with a drain at the lowest point, ahead of the pumps, and drain it before each flight."
        yield Finding("Check", elements(study, "tank")[0].id, "No gascolator with a drain", why, do)


def too_much_current(study: Study) -> Iterator[Finding]:
    """An alternator has more to feed than pumps."""
    usual, most = house_figure("alternator_for_pumps"), house_figure("alternator_usual")
    met = [(pump_current(s), s) for s in study.solved.values() if s.solution.converged]
    amps, solved = max(met, key=lambda x: x[0], default=(0.0, study.peak))
    if amps > usual:
        level: Level = (
            "Check" if amps > most and study.brief.use != "drag" else "Note"
        )  # a car on a strip is charged between its runs
        pumps = [
            p.id
            for p in elements(study, "pump")
            if (solved.solution.links.get(p.id) or None) is not None
            and solved.solution.links[p.id].current
        ]
        title = f"{does(pumps, 'draws', 'draw')} {amps:.0f} A at {solved.case.title.lower()}"
        why = f"A usual alternator gives {most:g} A, half of them at idle, and has more to feed than pumps; without it the voltage falls and the pumps with it."
        yield Finding(
            level,
            pumps[0],
            title,
            why,
            f"Say on Wiring what the alternator gives; stage {named(pumps)}, or fit pumps that draw less.",
            {},
            solved.case.key,
        )


RULES = (
    Rule(
        "L-20",
        f"No more than {100 * house_figure('tank_out_of_reach'):g} % of a tank lies under its outlet.",
        "house figure",
        out_of_reach,
        has("tank"),
    ),
    Rule(
        "L-21", "The level of a tank lies within it.", "arithmetic", level_over_its_top, has("tank")
    ),
    Rule(
        "L-22",
        "Something keeps fuel at the outlet of a tank that pumps draw from.",
        "common practice",
        nothing_holds_fuel,
        _corners,
    ),
    Rule(
        "L-23",
        "A tank has an opening for each line.",
        "arithmetic",
        too_few_openings,
        lambda s: any(t.properties.openings is not None for t in elements(s, "tank")),
    ),
    Rule(
        "L-16",
        f"All tanks together last {house_figure('fuel_lasts_s'):g} s at full power.",
        "house figure",
        fuel_does_not_last,
        has("tank"),
    ),
    Rule(
        "L-17",
        "A jet pump moves what its half of the tank gives.",
        "balance of both halves",
        half_left_behind,
        solves_with("jet"),
    ),
    Rule(
        "L-19",
        "A header stays full.",
        "height against the loss of its fill line",
        header_runs_low,
        lambda s: (
            solves(s) and any(getattr(t.figures, "floats", False) for t in elements(s, "tank"))
        ),
    ),
    Rule(
        "L-18",
        "An aircraft has a gascolator with a drain.",
        HISTORICAL + ", 23.971, 23.997",
        no_gascolator,
        lambda s: flies(s) and bool(elements(s, "tank")),
    ),
    Rule(
        "E-04",
        f"Pumps draw no more than {house_figure('alternator_usual'):g} A together where the alternator's output is not given.",
        "a usual 70 A alternator, common practice",
        too_much_current,
        lambda s: (
            solves(s)
            and bool(elements(s, "pump"))
            and (s.build.wiring is None or s.build.wiring.alternator_said is None)
        ),
    ),
)
