"""Materials: is a part made for this fuel."""

from collections.abc import Iterator

from tall_heron.core.finding import Figure, Finding, Level, Station
from tall_heron.core.study import Study

HOSES = ("hose", "vent")
HOSE_STATION: Station = "hoses"
CIRCUIT_STATION: Station = "circuit"


def not_for_this_fuel(study: Study) -> Iterator[Finding]:
    """A hose, pump, regulator or valve used beyond the ethanol its maker states, or with methanol where it is not made for it."""
    fuel = study.burn.fuel
    percent = fuel.ethanol * 100
    for e in study.build.circuit.elements:
        about = e.about
        if e.kind == "reference" or about.medium == "paper":
            continue
        over = about.ethanol_max_percent is not None and percent > about.ethanol_max_percent
        soaked = fuel.name == "methanol" and about.methanol is False
        if not over and not soaked:
            continue
        hose = e.kind in HOSES
        level: Level = "Stop" if hose else "Check"
        stuff = about.family or "it"
        title = f"{e.id} {e.title} is not for {fuel.name}"
        why = (
            f"The {stuff} swells, softens and sheds in this fuel until it leaks."
            if hose
            else "Seals, brushes and bare metal suffer in more alcohol than the maker allows."
        )
        do = "Fit PTFE hose with PTFE ends." if hose else "Fit a part whose maker allows this fuel."
        figures = {"most": Figure((about.ethanol_max_percent or 0.0) / 100, "fraction")}
        limit = "made for up to {most} ethanol" if over else "not made for methanol"
        rule, station = ("H-01", HOSE_STATION) if hose else ("M-01", CIRCUIT_STATION)
        yield Finding(rule, level, e.id, title, why, do, f"House rule {rule}: {limit}", figures, station=station)


RULES = (not_for_this_fuel,)
