"""The form of a rule, and what rules ask again and again of a study."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from tall_heron.core.document.circuit import Element
from tall_heron.core.rules.finding import Finding
from tall_heron.core.study.delivery import turns_back
from tall_heron.core.study.study import Study


def always(_: Study) -> bool:
    """Every build is looked at."""
    return True


@dataclass(frozen=True)
class Rule:
    """A rule: its number, what it asks, where that comes from, the look it takes, and the builds it
    has something to say about.
    """

    id: str
    asks: str
    source: str
    look: Callable[[Study], Iterator[Finding]]
    applies: Callable[[Study], bool] = always

    @property
    def says(self) -> str:
        """What the look says of itself: the first paragraph of its docstring, as one line."""
        return " ".join((self.look.__doc__ or "").strip().partition("\n\n")[0].split())


def elements(study: Study, *kinds: str) -> list[Element]:
    """The circuit's elements of some kinds."""
    return study.build.circuit.of_kind(*kinds)


def has(*kinds: str) -> Callable[[Study], bool]:
    """Builds that hold one of some kinds."""
    return lambda study: bool(elements(study, *kinds))


def solves(study: Study) -> bool:
    """Builds whose peak is solved."""
    return study.peak.solution.converged


def solves_with(*kinds: str) -> Callable[[Study], bool]:
    """Builds that are solved and hold one of some kinds."""
    return lambda study: solves(study) and bool(elements(study, *kinds))


def flies(study: Study) -> bool:
    """Aircraft."""
    return study.brief.use == "flight"


def drives(study: Study) -> bool:
    """Anything on wheels."""
    return not flies(study)


def rail_word(study: Study) -> str:
    """What stands under fuel pressure at the engine: a rail, or a carburetor's bowl."""
    return "bowl" if study.brief.carbureted else "rail"


def bypasses(study: Study) -> list[Element]:
    """Regulators that hold their inlet."""
    return [e for e in elements(study, "regulator") if turns_back(e)]


def height(study: Study, node: str) -> float:
    """Elevation of a node [m]."""
    return study.height(node)
