"""Findings as a page shows them: those of one rule and level as one line, at most three open, the
rest folded by station and counted.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field

from tall_heron.core.rules.finding import AGAINST, LEVELS, Finding

OPEN = 3  # stand open; more is not read
TITLES = {
    "brief": "Brief",
    "circuit": "Circuit",
    "cases": "Cases",
    "route": "Route",
    "hoses": "Hoses",
    "wiring": "Wiring",
}


@dataclass
class FindingLine:
    """A line of a list of findings: the first, whether it `stays`, `clears` or `comes`, its number
    in the list, and others of its rule and level.
    """

    finding: Finding
    state: str
    number: int
    alike: list[Finding] = field(default_factory=list)


@dataclass
class FoldedFindings:
    """The lines of a station that do not stand open."""

    title: str
    counts: str
    lines: list[FindingLine]


@dataclass
class Arranged:
    """What stands open and what is folded; `counts` of all, the Stops first."""

    counts: str
    open: list[FindingLine]
    folded: list[FoldedFindings]


def counts(findings: Sequence[Finding]) -> str:
    """How many of each level, the worst first.

    >>> counts([])
    ''
    """
    met = [(n, level) for level in LEVELS if (n := sum(f.level == level for f in findings))]
    return ", ".join(f"{n} {level}{'' if n == 1 else 's'}" for n, level in met)


def arranged(rows: Sequence[tuple[Finding, str]]) -> Arranged:
    """Findings, each with its state, in lines."""
    lines: dict[tuple[str, str, str, str], FindingLine] = {}
    for i, (f, state) in enumerate(rows, start=1):
        key = f.rule, f.level, state, f.accepted
        if key in lines:
            lines[key].alike.append(f)
        else:
            lines[key] = FindingLine(f, state, i)
    every = list(lines.values())
    first = [
        x
        for x in every
        if (x.finding.level in AGAINST and not x.finding.accepted) or x.state != "stays"
    ]
    shown = first[:OPEN] if all(x.state == "stays" for x in every) else first
    left = [x for x in every if not any(x is y for y in shown)]
    folded = []
    for station in dict.fromkeys(x.finding.station for x in left):
        here = [x for x in left if x.finding.station == station]
        folded.append(
            FoldedFindings(
                TITLES.get(station, station),
                counts([f for x in here for f in (x.finding, *x.alike)]),
                here,
            )
        )
    return Arranged(counts([f for f, state in rows if state != "clears"]), shown, folded)
