"""An act that may clear a finding: its words are all that is said of it, so that nothing is advised
that cannot be done.
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field

from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Element
from tall_heron.core.rules.finding import Finding, FindingFigure
from tall_heron.core.shelf.shelf import ShelfPart
from tall_heron.core.study.study import Study


@dataclass(frozen=True)
class Act:
    """Something done to a build: its `words` in the imperative, which may hold `{name}` for its
    `figures`, what `make`s it (raises BuildErrors where it cannot be done), and the tags it is
    about.
    """

    words: str
    make: Callable[[Build], Build]
    parts: tuple[str, ...] = ()
    figures: dict[str, FindingFigure] = field(default_factory=dict)


@dataclass(frozen=True)
class Wrong:
    """A finding in its build: what acts are looked for; `own` are the builder's own parts."""

    study: Study
    finding: Finding
    own: Sequence[ShelfPart] = ()

    @property
    def build(self) -> Build:
        """The build it was found in."""
        return self.study.build

    @property
    def part(self) -> str:
        """The tag it names."""
        return self.finding.element_id

    @property
    def element(self) -> Element | None:
        """The part it names, where it names one."""
        return self.build.circuit.element(self.part)


Acts = Iterator[Act]
Candidates = Callable[[Wrong], Acts]
