"""Parts that pass fuel one way only: which way do they stand."""

from collections.abc import Iterator

from tall_heron.core.document.circuit import Element
from tall_heron.core.document.kinds import FILTERS
from tall_heron.core.document.path import reach, ways
from tall_heron.core.rules.finding import Finding
from tall_heron.core.rules.rule import Rule, elements, has
from tall_heron.core.study.delivery import turns_back
from tall_heron.core.study.study import Study


def filter_backwards(study: Study) -> Iterator[Finding]:
    """The arrow on the body says which way; where the fuel runs is solved, where it does not what
    is drawn must do.
    """
    for e in elements(study, *FILTERS):
        flow = study.peak.solution.flow(e.id) if study.peak.solution.converged else 0.0
        if flow < 0 or (flow == 0 and e.reversed):
            why = "The element is made to be loaded from outside; backwards it collapses or lets go what it holds."
            do = "Fit a new element the right way round: turned round, this one would wash what it has caught downstream."
            yield Finding("Stop", e.id, f"{e.id} is fitted against its arrow", why, do)


ARROWED = {
    "check": (
        "It holds back what it is meant to let through: nothing comes that way, and whatever pumps stand behind it work against a shut line.",
        "away from the tank",
    ),
    "pump": (
        "It would draw from the engine and push at the tank; nothing reaches the engine.",
        "away from the tank",
    ),
    "regulator": (
        "Fuel comes to its outlet: it holds nothing, and rail pressure settles wherever pump and return leave it.",
        "from what it holds to the tank, or to the bowl",
    ),
    "controller": ("Fuel comes to its outlet: it holds nothing.", "to the rail"),
}


def backwards(study: Study) -> Iterator[Finding]:
    """Fuel comes from tanks. A part that no tank leads to, while one leads to where it points,
    stands the wrong way round.
    """
    for e in elements(study, *ARROWED):
        if points_against(study, e):
            why, way = ARROWED[e.kind]
            yield Finding(
                "Stop",
                e.id,
                f"{e.id} points against the fuel",
                why,
                f"Turn it round: its arrow points {way}.",
            )


def points_against(study: Study, e: Element) -> bool:
    """Whether a part stands the wrong way round. What turns back is led to a tank by nature: it
    stands so where its own outlet is fed and its inlet is not.
    """
    tanks = {t.ports["outlet"] for t in elements(study, "tank")}
    start, end = ways(e)[0]
    if turns_back(e):
        return not _pumped(study, start, e.id) and _pumped(study, end, e.id)
    return not _led_to(study, start, e.id, tanks) and _led_to(study, end, e.id, tanks)


def _pumped(study: Study, node: str, but: str) -> bool:
    """Whether a pump leads to a place along the way of the parts, one part left out."""
    return any(e.kind == "pump" for e in reach(study.build.circuit, node, backward=True, but=but))


def _led_to(study: Study, node: str, but: str, tanks: set[str]) -> bool:
    """Whether fuel from a tank gets to a place along the way of the parts, one part left out."""
    met = reach(study.build.circuit, node, backward=True, but=but)
    return node in tanks or any(a in tanks for e in met for a, _ in ways(e))


RULES = (
    Rule(
        "F-05",
        "Filters are fitted along their arrow.",
        "maker's mark",
        filter_backwards,
        has(*FILTERS),
    ),
    Rule(
        "F-06",
        "Check valves, pumps and regulators point the way the fuel runs.",
        "maker's mark",
        backwards,
        has(*ARROWED),
    ),
)
