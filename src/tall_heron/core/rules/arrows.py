"""Parts that pass fuel one way only: which way do they stand."""

from collections.abc import Iterator

from tall_heron.core.document.kinds import FILTERS
from tall_heron.core.document.path import reach, ways
from tall_heron.core.rules.finding import Finding
from tall_heron.core.rules.rule import Rule, elements, has
from tall_heron.core.study.study import Study


def filter_backwards(study: Study) -> Iterator[Finding]:
    """The arrow on the body says which way; where the fuel runs is solved, where it does not what is drawn must do."""
    for e in elements(study, *FILTERS):
        flow = study.peak.solution.flow(e.id) if study.peak.solution.converged else 0.0
        if flow < 0 or (flow == 0 and e.reversed):
            why = "The element is made to be loaded from outside; backwards it collapses or lets go what it holds."
            do = "Fit a new element the right way round: turned round, this one would wash what it has caught into what follows."
            yield Finding("Stop", e.id, f"{e.id} is fitted against its arrow", why, do)


def check_backwards(study: Study) -> Iterator[Finding]:
    """Fuel comes from tanks. A check valve that no tank leads to, while one leads to where it points, stands the wrong way round."""
    tanks = {t.ports["outlet"] for t in elements(study, "tank")}
    for e in elements(study, "check"):
        start, end = ways(e)[0]
        if not _led_to(study, start, e.id, tanks) and _led_to(study, end, e.id, tanks):
            why = "It holds back what it is meant to let through: nothing comes that way, and whatever pumps stand behind it work against a shut line."
            yield Finding("Stop", e.id, f"{e.id} points against the fuel", why, "Turn it round: its arrow points away from the tank.")


def _led_to(study: Study, node: str, but: str, tanks: set[str]) -> bool:
    """Whether fuel from a tank gets to a place along the way of the parts, one part left out."""
    met = reach(study.build.circuit, node, backward=True, but=but)
    return node in tanks or any(a in tanks for e in met for a, _ in ways(e))


RULES = (
    Rule("F-05", "Filters are fitted along their arrow.", "maker's mark", filter_backwards, has(*FILTERS)),
    Rule("F-06", "Check valves point away from the tank.", "maker's mark", check_backwards, has("check")),
)
