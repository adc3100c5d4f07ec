"""What a station declares of itself: its pages, what of them may change, its addresses, keys and
scripts. The run of stations, the application and the help are made from that.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import cache
from importlib import import_module
from pkgutil import iter_modules
from typing import Any

from flask import Blueprint

from tall_heron.core.design import Design
from tall_heron.core.rules.finding import Finding
from tall_heron.core.study.study import Study
from tall_heron.web import stations as package
from tall_heron.web.answers import Stored

Words = Callable[[str], str]  # a text that the page sent with its change, by its name
HEAD, FIGURES, DRAWING, FINDINGS = (
    {x: f"pieces/{x}.jinja"} for x in ("head", "figures", "drawing", "findings")
)


@dataclass(frozen=True)
class Page:
    """One page: what it shows, and the pieces that may change, by the element they fill; those
    `on_demand` only where the page asks for them.
    """

    context: Callable[[Stored, Design, Words], dict[str, Any]]
    pieces: dict[str, str]
    on_demand: frozenset[str] = frozenset()


@dataclass(frozen=True)
class SlowRules:
    """Rules of a station that take many solutions: what they find, and whether a study has looked
    already.
    """

    found_in: Callable[[Design], list[Finding]]
    is_known: Callable[[Study], bool]


def nothing(_: Design) -> bool:
    """A station at which nothing waits to be done."""
    return False


def does_not_solve(made: Design) -> bool:
    """A station of which nothing can be said while the circuit does not solve."""
    return not made.study.peak.solution.converged


@dataclass(frozen=True)
class Station:
    """A folder of pages. With a `name` it stands in the run of stations, at its `place` from 1.
    `undone` says whether nothing found there is no pass yet; `look` what takes many solutions;
    `slow` that nothing is said of it until it is looked at; `room` how many bytes an address takes,
    where that is more than usual; `keys` lines of the help, `scripts` its files in static/.
    """

    key: str
    blueprints: tuple[Blueprint, ...]
    name: str = ""
    place: int = 0
    pages: Mapping[str, Page] = field(default_factory=dict)
    undone: Callable[[Design], bool] = nothing
    look: SlowRules | None = None
    slow: bool = False
    room: Mapping[str, int] = field(default_factory=dict)
    keys: tuple[tuple[str, str], ...] = ()
    scripts: tuple[str, ...] = ()
    after: Callable[[BaseException | None], None] | None = None


@cache
def all_stations() -> tuple[Station, ...]:
    """Every station: those of the run in their order, then those beside it by name. A folder in
    web/stations/ with a module `station` is one.
    """
    folders = [m.name for m in iter_modules(package.__path__) if m.ispkg]
    out = [import_module(f"{package.__name__}.{folder}.station").STATION for folder in folders]
    return tuple(sorted(out, key=lambda s: (not s.name, s.place, s.key)))


def run_of_stations() -> tuple[Station, ...]:
    """Those that stand in the run, in their order."""
    return tuple(s for s in all_stations() if s.name)


@cache
def all_pages() -> dict[str, Page]:
    """Every page by the name that it sends with its changes."""
    return {name: page for s in all_stations() for name, page in s.pages.items()}
