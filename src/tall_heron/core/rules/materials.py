"""Materials: is a part made for this fuel."""

from collections.abc import Iterator

from tall_heron.core.document.circuit import Element
from tall_heron.core.document.kinds import PIPES
from tall_heron.core.physics.fuel import Fuel
from tall_heron.core.rules.finding import Finding, FindingFigure, Level
from tall_heron.core.rules.rule import Rule, has
from tall_heron.core.shelf.own_part import STEM
from tall_heron.core.shelf.suits import made_for, spoken_of
from tall_heron.core.study.cases.cases import fuels_met
from tall_heron.core.study.study import Study

HOSES = (*PIPES, "vent", "filler", "drain", "overflow")
DRY = (
    "tank",
    "reference",
    "vent_valve",
)  # whose silence is none: a tank's own metal or foam has rules of its own


def _limit(study: Study, e: Element) -> str | None:
    """What a part is made for, where this fuel is more than that."""
    if _bad_fuel(study, e) is None:
        return None
    if study.fuel_demand.fuel.methanol:
        return (
            "Its maker makes no statement on methanol."
            if e.properties.methanol is None
            else "It is not made for methanol."
        )
    about = e.properties
    return (
        "Its maker states that it is not for this fuel."
        if about.avgas is False or about.gasoline is False
        else "It is made for {most} ethanol at most."
    )


def _bad_fuel(study: Study, e: Element) -> Fuel | None:
    """The fuel that a part is not made for, of those that the engine meets."""
    return next((f for f in fuels_met(study.brief) if not made_for(e.properties, f)), None)


def _named(study: Study, e: Element) -> str:
    fuel = _bad_fuel(study, e)
    return fuel.name if fuel is not None else ""


def _most(e: Element) -> dict[str, FindingFigure]:
    return {"most": FindingFigure((e.properties.ethanol_max_percent or 0.0) / 100, "fraction")}


def hose_not_for_this_fuel(study: Study) -> Iterator[Finding]:
    """A hose used beyond what its maker states."""
    for e in study.build.circuit.of_kind(*HOSES):
        limit = _limit(study, e)
        if limit:
            title = f"{e.id} {e.title} is not for {_named(study, e)}"
            suffers = (
                "Bare metal corrodes" if e.kind == "line" else "The hose swells, softens and sheds"
            )
            why = f"{limit} {suffers} until it leaks."
            level: Level = (
                "Check"
                if study.fuel_demand.fuel.methanol and e.properties.methanol is None
                else "Stop"
            )
            yield Finding(
                level, e.id, title, why, "Fit PTFE hose with PTFE ends.", _most(e), station="hoses"
            )


def part_not_for_this_fuel(study: Study) -> Iterator[Finding]:
    """A pump, regulator, valve or filter used beyond what its maker states."""
    for e in study.build.circuit.elements:
        limit = _limit(study, e)
        if (
            limit
            and e.kind not in HOSES
            and e.kind != "reference"
            and e.properties.medium != "paper"
        ):
            title = f"{e.id} {e.title} is not for {_named(study, e)}"
            why = f"{limit} Seals, brushes and bare metal suffer."
            yield Finding(
                "Check", e.id, title, why, "Fit a part whose maker allows this fuel.", _most(e)
            )


def nobody_says(study: Study) -> Iterator[Finding]:
    """A part of the builder's own of which nobody has said whether it is made for the fuel: silence
    is no maker's word.
    """
    fuels = sorted(fuels_met(study.brief), key=lambda f: (f.methanol, f.ethanol), reverse=True)
    for e in study.build.circuit.elements:
        if (
            not (e.shelf or "").startswith(STEM)
            or e.properties.provenance == "guessed"
            or e.kind in DRY
        ):
            continue
        fuel = next((f for f in fuels if not spoken_of(e.properties, f)), None)
        if fuel is not None and made_for(e.properties, fuel):
            yield Finding(
                "Check",
                e.id,
                f"It is not stated whether {e.id} {e.title} is made for {fuel.name}",
                "Its seals, its hose or its motor may swell or corrode, and a part without a statement is not approved.",
                "Look it up on the maker's sheet and enter it with the part on the shelf.",
                station="hoses" if e.kind in HOSES else "circuit",
            )


def liner_not_conductive(study: Study) -> Iterator[Finding]:
    """Fuel that runs through a liner that leads no charge away makes sparks through its wall."""
    for e in study.build.circuit.of_kind(*HOSES):
        if e.properties.conductive is False:
            title = f"{e.id} has a liner that does not conduct"
            why = (
                "Flowing fuel charges it until a spark burns a hole through the wall to the braid."
            )
            yield Finding(
                "Stop",
                e.id,
                title,
                why,
                "Fit hose with a conductive liner (100R14 type B).",
                {},
                station="hoses",
            )


RULES = (
    Rule(
        "H-01",
        "Hoses are made for this fuel.",
        "maker's statement",
        hose_not_for_this_fuel,
        has(*HOSES),
    ),
    Rule(
        "M-01",
        "Pumps, regulators, valves and filters are made for this fuel.",
        "maker's statement",
        part_not_for_this_fuel,
    ),
    Rule(
        "M-06",
        "Every part of your own states whether it is made for this fuel.",
        "common practice",
        nobody_says,
    ),
    Rule(
        "M-05",
        "No PTFE liner holds a static charge.",
        "SAE 100R14 type B, from memory",
        liner_not_conductive,
        has(*HOSES),
    ),
)
