"""Layout: vents, checks, reliefs, tanks, shut-offs."""

from collections.abc import Iterator

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.airspace import airspaces
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.path import reach, upstream, ways
from tall_heron.core.rules.finding import Finding, FindingFigure, Level
from tall_heron.core.rules.rule import Rule, bypasses, drives, elements, flies, has
from tall_heron.core.rules.words import MOST_NAMED, does, named
from tall_heron.core.study.lift import lifts, lost, overflow_pressure
from tall_heron.core.study.sections import sections
from tall_heron.core.study.study import Study

EVEN = 1e-6  # within which what is lifted and what is lost are one flow
HISTORICAL = "14 CFR part 23 as it stood before 2017, from memory; historical good practice that never bound experimental home-builts"


def no_vent(study: Study) -> Iterator[Finding]:
    """A tank must breathe, each of its own airspace."""
    tanks, vents = airspaces(study.build.circuit.elements), elements(study, "vent")
    if len(vents) < len(tanks):
        lacking = [t.id for t in tanks[len(vents) :]]
        why = "The pump draws the tank empty of air until it starves or the tank folds; hot fuel swells it."
        title = (
            f"{does(lacking, 'has', 'have')} no vent"
            if not vents
            else f"{len(tanks)} airspaces and {len(vents)} vent{'' if len(vents) == 1 else 's'}: {does(lacking, 'lacks', 'lack')} one"
        )
        yield Finding(
            "Stop",
            lacking[0],
            title,
            why,
            "Run a vent from the top of each tank to a safe place outside.",
        )


def no_roll_over_valve(study: Study) -> Iterator[Finding]:
    """A car on its roof pours fuel through an open vent."""
    if elements(study, "vent") and not elements(study, "vent_valve"):
        why = "Upside down the vent pours fuel over whatever is hot."
        yield Finding(
            "Stop",
            elements(study, "vent")[0].id,
            "The vent has no roll-over valve",
            why,
            "Fit a roll-over valve at the tank.",
        )


def parallel_pumps_without_checks(study: Study) -> Iterator[Finding]:
    """A pump that stands lets its neighbor's flow back through it; one in a row with it has no way
    back.
    """
    pumps = study.feed_path.pumps
    before = (
        {p.id: {e.id for e in upstream(study.build.circuit, p)} for p in pumps}
        if len(pumps) > 1
        else {}
    )
    for pump in pumps if before else ():
        beside = [
            p
            for p in pumps
            if p is not pump and p.id not in before[pump.id] and pump.id not in before[p.id]
        ]
        if beside and not _checked(study, pump):
            why = "When it stops, what the other pump gives runs back through it to the tank; the rail falls with one pump still running."
            yield Finding(
                "Check",
                pump.id,
                f"{pump.id} has no check valve of its own",
                why,
                "Fit a check valve after each pump. Do not trust the one inside.",
            )


def _checked(study: Study, pump: Element) -> bool:
    """Whether a check valve stands behind a pump before its line meets another."""
    circuit, here = study.build.circuit, ways(pump)[0][1]
    for _ in circuit.elements:
        after = [e for e in circuit.elements if any(a == here for a, _ in ways(e))]
        if any(e.kind == "check" for e in after):
            return True
        met = [e for e in circuit.elements if any(b == here for _, b in ways(e))]
        if len(after) != 1 or len(met) != 1 or len(ways(after[0])) != 1:
            return False
        here = ways(after[0])[0][1]
    return False


def return_to_another_tank(study: Study) -> Iterator[Finding]:
    """Fuel that goes back elsewhere fills one tank and empties the other."""
    for regulator in bypasses(study):
        back = {
            e.id
            for e in elements(study, "tank")
            if e.ports["outlet"] in _ends(study, ways(regulator)[0][1])
        }
        feeding = {
            e.id
            for pump in elements(study, "pump")
            for e in elements(study, "tank")
            if e.ports["outlet"] in _starts(study, pump.id)
        }
        if back and feeding and not back & feeding:
            why = "The tank in use runs dry while the other overflows through its vent."
            yield Finding(
                "Check",
                regulator.id,
                f"{regulator.id} returns to {', '.join(sorted(back))}, the pumps draw from {', '.join(sorted(feeding))}",
                why,
                "Return to the tank in use.",
            )


def _ends(study: Study, node: str) -> set[str]:
    return {n for e in reach(study.build.circuit, node) for _, n in ways(e)} | {node}


def _starts(study: Study, pump: str) -> set[str]:
    element = study.build.circuit.element(pump)
    assert element is not None
    return {n for e in upstream(study.build.circuit, element) for n, _ in ways(e)} | {
        ways(element)[0][0]
    }


def trapped_liquid(study: Study) -> Iterator[Finding]:
    """Fuel shut in warms and bursts what holds it."""
    for s in sections(study):
        if not s.trapped:
            continue
        figures = {
            "low": FindingFigure(s.rise[0], "pressure_difference"),
            "high": FindingFigure(s.rise[1], "pressure_difference"),
            "holds": FindingFigure(s.volume, "volume"),
        }
        why = f"{named(s.parts[:MOST_NAMED])} {'hold' if len(s.parts) > 1 else 'holds'} {{holds}} then, which rises by {{low}} to {{high}} for each kelvin it warms."
        when = f"when {s.shut} is shut" if s.shut else "when the engine stops"
        level: Level = "Check" if s.shut else "Stop"
        do = "Give the section a relief: a bypass, a small orifice back to the tank, or a relief valve."
        yield Finding(
            level,
            s.between[0] if s.between else s.parts[0],
            f"Fuel is trapped between {named(s.between)} {when}",
            why,
            do,
            figures,
        )


def no_regulator(study: Study) -> Iterator[Finding]:
    """Nothing holds the rail."""
    if not elements(study, "regulator", "controller"):
        why = "Rail pressure is whatever the pump makes against the closed line."
        yield Finding(
            "Stop",
            elements(study, "injectors")[0].id,
            "No regulator holds the rail",
            why,
            "Fit a bypass regulator after the rail, or a pump made for speed control.",
        )


def reference_line_missing(study: Study) -> Iterator[Finding]:
    """A port that is joined to nothing feels the air."""
    for e in elements(study, "regulator"):
        if getattr(e.figures, "reference", "atmosphere") != "atmosphere" and not elements(
            study, "reference"
        ):
            why = "Without the line the regulator feels the air, and injector pressure falls as boost rises."
            yield Finding(
                "Check",
                e.id,
                f"{e.id} follows the manifold, and no reference line is on the sheet",
                why,
                "Add the line from the plenum to the regulator to the cut list.",
            )


def no_shut_off_in_flight(study: Study) -> Iterator[Finding]:
    """The pilot must be able to stop the fuel."""
    if not elements(study, "valve", "selector"):
        why = "An engine fire is fed until the tank is empty."
        yield Finding(
            "Stop",
            elements(study, "tank")[0].id,
            "No shut-off valve",
            why,
            "Fit a shut-off within reach of the pilot, on the tank's side of the firewall.",
        )


def lift_too_small(study: Study) -> Iterator[Finding]:
    """A surge tank that loses more than all that lift into it bring runs dry."""
    headroom, solved = house_figure("lift_margin"), study.peak
    for lift in lifts(study):
        brings, loses = lift.lifted(solved), lost(study, lift, solved)
        if brings < (1 + headroom) * loses:
            figures = {
                "lifts": FindingFigure(brings, "volume_flow"),
                "loses": FindingFigure(loses, "volume_flow"),
                "spare": FindingFigure(headroom, "fraction"),
            }
            title = f"{does([p.id for p in lift.pumps], 'lifts', 'lift')} {{lifts}} into {lift.pot.id}, which loses {{loses}} at peak"
            level: Level = "Stop" if brings < (1 - EVEN) * loses else "Check"
            why = "Less than {spare} headroom, and the surge tank empties on a long pull; the main pumps then draw air."
            yield Finding(
                level,
                lift.pumps[0].id,
                title,
                why,
                "Fit a larger lift pump or a second one, or bring the return back to the surge tank.",
                figures,
                "peak",
            )


def overflow_too_small(study: Study) -> Iterator[Finding]:
    """What the lift pumps give and the engine leaves must find its way out."""
    most, solved = house_figure("overflow_pressure"), study.solved["idle"]
    for lift in lifts(study):
        lines = elements(study, "overflow")
        if not solved.solution.converged:
            continue
        if not lines:
            why = "What is lifted beyond the demand pressurizes the surge tank until it leaks or bursts."
            yield Finding(
                "Stop",
                lift.pot.id,
                f"{lift.pot.id} has no overflow",
                why,
                "Run an overflow from its top back to the tank.",
            )
            continue
        surplus = max(lift.lifted(solved) - solved.case.demand, 0.0)
        takes = overflow_pressure(solved, lines[0], surplus)
        if takes > most:
            figures = {
                "takes": FindingFigure(takes, "pressure_difference"),
                "flow": FindingFigure(surplus, "volume_flow"),
                "limit": FindingFigure(most, "pressure_difference"),
            }
            title = f"{lines[0].id} takes {{takes}} of the {{flow}} that {lift.pot.id} must shed"
            why = "More than {limit} stands in a surge tank that is made for none."
            yield Finding(
                "Check",
                lines[0].id,
                title,
                why,
                "Fit a larger or shorter overflow, or a smaller lift pump.",
                figures,
                "idle",
                station="hoses",
            )


def teed_tanks(study: Study) -> Iterator[Finding]:
    """One dry tank of a teed pair lets air into the pump."""
    for e in elements(study, "junction"):
        behind = {
            n
            for a, _ in ways(e)
            for x in reach(study.build.circuit, a, backward=True)
            for n, _ in ways(x)
        } | {a for a, _ in ways(e)}
        tanks = [t.id for t in elements(study, "tank") if t.ports["outlet"] in behind]
        feeding = [p.id for p in elements(study, "pump") if e in upstream(study.build.circuit, p)]
        if len(tanks) > 1 and feeding:
            level: Level = "Stop" if flies(study) else "Check"
            title = f"{feeding[0]} draws from {' and '.join(tanks)} at once"
            why = "The one that runs dry first lets air in while the other is still full. Historical part 23 required no pump on two tanks at once, or for means against air."
            yield Finding(
                level,
                e.id,
                title,
                why,
                "Fit a selector, or a header with its own check valve for each tank.",
                source=f"Rule L-12: {HISTORICAL}, 23.951(b)",
            )


def no_damper(study: Study) -> Iterator[Finding]:
    """Nothing takes the pulses."""
    for c in elements(study, "controller"):
        if not elements(study, "damper"):
            why = "Without a return the injectors' pulses run up and down the line and lean the engine at one speed or another."
            yield Finding(
                "Check",
                c.id,
                "No damper in a system without return",
                why,
                "Fit a pulse damper at the rail.",
            )


def pump_not_made_for_it(study: Study) -> Iterator[Finding]:
    """Brushes and bearings that bear no slow running."""
    for c in elements(study, "controller"):
        for pump in [e for e in upstream(study.build.circuit, c) if e.kind == "pump"]:
            if pump.properties.speed_control is not True:
                why = "At low speed it stalls, its brushes burn or its bearings run dry."
                yield Finding(
                    "Check",
                    pump.id,
                    f"{pump.id} is not made for speed control",
                    why,
                    "Fit a pump whose maker allows it, or a return.",
                )


def _lifts(study: Study) -> bool:
    return study.peak.solution.converged and bool(lifts(study))


RULES = (
    Rule("L-01", "Every airspace breathes.", "common practice", no_vent, has("tank")),
    Rule(
        "L-02",
        "A vehicle's vent has a roll-over valve.",
        "common practice",
        no_roll_over_valve,
        lambda s: drives(s) and bool(elements(s, "vent")),
    ),
    Rule(
        "L-03",
        "Each of several pumps has its own check valve.",
        "common practice",
        parallel_pumps_without_checks,
        lambda s: len(elements(s, "pump")) > 1,
    ),
    Rule(
        "L-04",
        "Fuel returns to a tank it is drawn from.",
        "common practice",
        return_to_another_tank,
        lambda s: bool(bypasses(s)) and bool(elements(s, "pump")),
    ),
    Rule(
        "L-05",
        "No section is shut in without a relief.",
        "950 kPa/K in rigid line, 110 to 450 in hose: bulk modulus against wall",
        trapped_liquid,
        lambda s: bool(sections(s)),
    ),
    Rule("L-06", "A regulator holds the rail.", "common practice", no_regulator, has("injectors")),
    Rule(
        "L-07",
        "A regulator that follows the manifold has its line.",
        "common practice",
        reference_line_missing,
        lambda s: s.brief.boosted and bool(elements(s, "regulator")),
    ),
    Rule(
        "L-09",
        "An aircraft's fuel can be shut off.",
        HISTORICAL,
        no_shut_off_in_flight,
        lambda s: flies(s) and bool(elements(s, "tank")),
    ),
    Rule(
        "L-10",
        "A surge tank's lift pumps together give a fifth more than the surge tank loses.",
        "common practice",
        lift_too_small,
        _lifts,
    ),
    Rule(
        "L-11",
        "A surge tank's overflow passes what the lift pumps give.",
        "5 kPa, house figure",
        overflow_too_small,
        _lifts,
    ),
    Rule(
        "L-12",
        "No pump draws from two tanks at once.",
        "common practice; " + HISTORICAL,
        teed_tanks,
        lambda s: len(elements(s, "tank")) > 1,
    ),
    Rule(
        "L-13",
        "A system without return has a damper.",
        "common practice",
        no_damper,
        has("controller"),
    ),
    Rule(
        "L-14",
        "A pump whose speed is controlled is made for it.",
        "maker's statement",
        pump_not_made_for_it,
        has("controller"),
    ),
)
