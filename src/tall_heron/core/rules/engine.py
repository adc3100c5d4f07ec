"""The brief itself: does it hold together."""

from collections.abc import Iterator

from tall_heron.core.document.kinds import BURNERS, KINDS
from tall_heron.core.rules.finding import Finding, FindingFigure
from tall_heron.core.rules.rule import Rule, always, elements, has
from tall_heron.core.study.study import Study

LEAST, MOST = 0.20, 0.40  # brake efficiency, handbook-physics
E85_LEAST, E85_MOST = 0.51, 0.83  # ASTM D5798, from memory


def efficiency(study: Study) -> Iterator[Finding]:
    """Power over the heat of the fuel burned."""
    share = study.fuel_demand.brake_efficiency
    if not LEAST <= share <= MOST:
        figures = {
            "share": FindingFigure(share, "fraction"),
            "least": FindingFigure(LEAST, "fraction"),
            "most": FindingFigure(MOST, "fraction"),
        }
        why = "Engines turn {least} to {most} of the fuel's heat into power; a consumption outside that is a slip of the pen or of the unit."
        yield Finding(
            "Check",
            "",
            "The fuel consumption given means an efficiency of {share}",
            why,
            "Look at the consumption again.",
            figures,
            station="brief",
        )


def pump_e85_varies(study: Study) -> Iterator[Finding]:
    """What is sold as E85 is not one fuel."""
    if study.brief.ethanol_range != "as named":
        return
    figures = {
        "least": FindingFigure(E85_LEAST, "fraction"),
        "most": FindingFigure(E85_MOST, "fraction"),
    }
    why = f"From the pump it holds {{least}} to {{most}} ethanol by the season; the class of {study.brief.season} is assumed. Less ethanol needs less fuel but boils sooner."
    yield Finding(
        "Note",
        "",
        f"Pump fuel sold as E85 varies; this build looks at {study.fuel_demand.fuel.name} only",
        why,
        "Set the ethanol range in the brief to look at both ends, or meter the ethanol.",
        figures,
        station="brief",
    )


def fed_otherwise(study: Study) -> Iterator[Finding]:
    """The brief and the circuit speak of different engines."""
    wanted = "carburettor" if study.brief.carbureted else "injectors"
    for e in elements(study, *BURNERS):
        if e.kind != wanted:
            title = f"The brief has {'a carburetor' if study.brief.carbureted else 'injection'}, and the circuit has {e.id}, {KINDS[e.kind].word}"
            why = "Pressures, margins and limits are then those of another engine."
            yield Finding(
                "Stop",
                e.id,
                title,
                why,
                "Choose a layout for the engine of the brief, or set the brief right.",
                {},
            )


RULES = (
    Rule(
        "E-01",
        "The fuel consumption given means a possible efficiency.",
        "20 to 40 %, common practice",
        efficiency,
        always,
    ),
    Rule(
        "E-02",
        "Ethanol fuel from a pump is looked at over its range.",
        "ASTM D5798, from memory",
        pump_e85_varies,
        lambda s: 0.75 <= s.fuel_demand.fuel.ethanol <= 0.9,
    ),
    Rule(
        "E-03",
        "The circuit supports the engine that the brief describes.",
        "arithmetic",
        fed_otherwise,
        has(*BURNERS),
    ),
)
