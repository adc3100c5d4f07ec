"""Layout: vents, checks, reliefs, tanks, shut-offs."""

from collections.abc import Iterator

from tall_heron.core.finding import Finding
from tall_heron.core.path import downstream, reach, upstream, ways
from tall_heron.core.rules.rule import Rule, bypasses, drives, elements, flies, has
from tall_heron.core.study import Study

HISTORICAL = "14 CFR part 23 as it stood before 2017, from memory; historical good practice that never bound experimental home-builts"


def no_vent(study: Study) -> Iterator[Finding]:
    """A tank must breathe."""
    if not elements(study, "vent"):
        why = "The pump draws the tank empty of air until it starves or the tank folds; hot fuel swells it."
        yield Finding(
            "Stop",
            elements(study, "tank")[0].id,
            "The tank has no vent",
            why,
            "Run a vent from the top of the tank to a safe place outside.",
        )


def no_roll_over_valve(study: Study) -> Iterator[Finding]:
    """A car on its roof pours fuel through an open vent."""
    if elements(study, "vent") and not elements(study, "vent_valve"):
        why = "Upside down the vent pours fuel over whatever is hot."
        yield Finding("Stop", elements(study, "vent")[0].id, "The vent has no roll-over valve", why, "Fit a roll-over valve at the tank.")


def parallel_pumps_without_checks(study: Study) -> Iterator[Finding]:
    """A pump that stands lets its neighbour's flow back through it."""
    for pump in study.path.pumps if len(study.path.pumps) > 1 else ():
        after = [e for e in study.build.circuit.elements if any(a == ways(pump)[0][1] for a, _ in ways(e))]
        if not any(e.kind == "check" for e in after):
            why = "When it stops, what the other pump gives runs back through it to the tank; the rail falls with one pump still running."
            yield Finding(
                "Check",
                pump.id,
                f"{pump.id} has no check valve of its own",
                why,
                "Fit a check valve after each pump. Do not trust the one inside.",
            )


def return_to_another_tank(study: Study) -> Iterator[Finding]:
    """Fuel that goes back elsewhere fills one tank and empties the other."""
    for regulator in bypasses(study):
        back = {e.id for e in elements(study, "tank") if e.ports["outlet"] in _ends(study, ways(regulator)[0][1])}
        fed = {e.id for pump in elements(study, "pump") for e in elements(study, "tank") if e.ports["outlet"] in _starts(study, pump.id)}
        if back and fed and not back & fed:
            why = "The tank in use runs dry while the other overflows through its vent."
            yield Finding(
                "Check",
                regulator.id,
                f"{regulator.id} returns to {', '.join(sorted(back))}, the pumps draw from {', '.join(sorted(fed))}",
                why,
                "Return to the tank in use.",
            )


def _ends(study: Study, node: str) -> set[str]:
    return {n for e in reach(study.build.circuit, node) for _, n in ways(e)} | {node}


def _starts(study: Study, pump: str) -> set[str]:
    element = study.build.circuit.element(pump)
    assert element is not None
    return {n for e in upstream(study.build.circuit, element) for n, _ in ways(e)} | {ways(element)[0][0]}


def trapped_liquid(study: Study) -> Iterator[Finding]:
    """Fuel shut in warms and bursts what holds it."""
    for check in elements(study, "check"):
        onward = downstream(study.build.circuit, check)
        if not any(e in onward for e in bypasses(study)) and any(e.kind == "regulator" for e in onward):
            why = "With the engine off, fuel between the check valve and the closed regulator rises by about 950 kPa for each degree in hard line, 110 to 450 in hose."
            yield Finding(
                "Stop",
                check.id,
                f"Fuel is trapped after {check.id} when the engine stops",
                why,
                "Give the section a relief: a bypass, a small orifice back to the tank, or a relief valve.",
            )


def no_regulator(study: Study) -> Iterator[Finding]:
    """Nothing holds the rail."""
    if not elements(study, "regulator"):
        why = "The rail stands at whatever the pump makes against the closed line."
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
        if getattr(e.part, "reference", "atmosphere") != "atmosphere" and not elements(study, "reference"):
            why = "Without the line the regulator feels the air, and injector pressure falls as boost rises."
            yield Finding(
                "Check",
                e.id,
                f"{e.id} follows the manifold, and no reference line is on the sheet",
                why,
                "Add the line from the plenum to the regulator to the cut list.",
            )


def single_pump_in_flight(study: Study) -> Iterator[Finding]:
    """One pump is one failure from silence."""
    if len(elements(study, "pump")) == 1:
        why = "If it stops, the engine stops."
        yield Finding(
            "Stop",
            elements(study, "pump")[0].id,
            "A single pump feeds an injected aircraft engine",
            why,
            "Fit a second pump with its own check valve, wiring and switch.",
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


RULES = (
    Rule("L-01", "Every tank breathes.", "common practice", no_vent, has("tank")),
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
        has("check"),
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
        "L-08",
        "An injected aircraft engine has two pumps.",
        HISTORICAL,
        single_pump_in_flight,
        lambda s: flies(s) and bool(elements(s, "pump")) and bool(elements(s, "injectors")),
    ),
    Rule(
        "L-09", "An aircraft's fuel can be shut off.", HISTORICAL, no_shut_off_in_flight, lambda s: flies(s) and bool(elements(s, "tank"))
    ),
)
