"""Materials: is a part made for this fuel."""

from collections.abc import Iterator

from tall_heron.core.finding import Figure, Finding, Level
from tall_heron.core.study import Study

HOSES = ("hose", "vent")


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
        station = "hoses" if hose else "circuit"
        yield Finding(
            "H-01" if hose else "M-01",
            level,
            e.id,
            title,
            why,
            do,
            f"House rule {'H-01' if hose else 'M-01'}: {limit}",
            figures,
            "",
            station,
        )


RULES = (not_for_this_fuel,)
