"""The form of a finding."""

from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Literal

Level = Literal["Stop", "Check", "Note"]
Station = Literal["brief", "circuit", "cases", "route", "hoses", "wiring"]
LEVELS: tuple[str, ...] = ("Stop", "Check", "Note")
AGAINST = LEVELS[:2]  # what speaks against a build; a Note does not


def worst_level(levels: Iterable[str]) -> str:
    """The worst of some levels, or an empty text."""
    return min(levels, key=LEVELS.index, default="")


@dataclass(frozen=True)
class FindingFigure:
    """A number of a finding in SI with its `quantity` (a name in units.QUANTITIES), for the page to
    show in the reader's unit.
    """

    value: float
    quantity: str


@dataclass(frozen=True)
class Finding:
    """What a rule saw. Texts may hold `{name}` for the figures. `rule` and `source` are filled in
    from the rule that found it; `accepted` is the builder's written reason, where there is one.
    """

    level: Level
    element_id: str
    title: str
    why: str
    do: str
    figures: dict[str, FindingFigure] = field(default_factory=dict)
    case: str = ""
    station: Station = "circuit"
    rule: str = ""
    source: str = ""
    accepted: str = ""
    spot: tuple[float, float, float] | None = None  # where in the vehicle [mm], of what Route finds
