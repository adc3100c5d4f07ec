"""Upkeep: what falls due on a build, from what it holds and what its log says was done. Days are
counted from 1 January of the year 1.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from tall_heron.core.base.catalogue import Row, table
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Circuit
from tall_heron.core.document.kinds import LINES
from tall_heron.core.prove.state import Folded

MONTH = 30.44  # days
SOON = 30  # days before it is due
LOADED = 2.0  # times what it took clean: a filter is due, common practice
ONCE = ("hot", "prefilter")  # done once and never again
ALCOHOL = 0.15  # ethanol above which a fuel washes tanks clean
MOST_AHEAD = 3650  # days beyond which a trend says nothing


@dataclass(frozen=True)
class Due:
    """One piece of upkeep: its row of upkeep.csv, the parts it is of, the day it was done last and
    the day it is due (None: nobody has begun to count), and how that stands: `late`, `soon`,
    `later` or `not begun`; `why` where it follows from what was measured.
    """

    row: Row
    parts: tuple[str, ...]
    last: int | None
    day: int | None
    stands: str
    why: str = ""

    @property
    def name(self) -> str:
        """Its row's name."""
        return str(self.row["name"])


def due(build: Build, log: Folded, today: int, day_of: Callable[[str], int]) -> list[Due]:
    """All upkeep of a build with a brief, what is due first; `day_of` gives the day of a moment as
    the log has it. What was never done counts from the log's first entry.
    """
    assert build.brief is not None
    flies, fuel = build.brief.use == "flight", build.brief.fuel_of(build.brief.fuel)
    every = [
        *log.readings,
        *log.pours,
        *log.matches,
        *log.runs,
        *log.notes,
        *log.upkeep,
        *log.signatures,
    ]
    begun = min((day_of(k.at) for k, _ in every), default=None)
    done = {u.item: u.day for _, u in sorted(log.upkeep, key=lambda x: x[1].day)}
    trends = filter_trends(log, day_of)
    out = []
    for row in table("upkeep"):
        parts = _parts(build.circuit, fuel.ethanol, str(row["of"]))
        if parts is None or (row["aircraft"] and not flies):
            continue
        name = str(row["name"])
        last = done.get(name)
        if name in ONCE and last is not None:
            continue
        start = last if last is not None else begun
        day = round(start + float(row["months"]) * MONTH) if start is not None else None
        why = ""
        if name == "filter" and trends:
            part, when, words = min(trends, key=lambda x: x[1])
            if day is None or when < day:
                day, why = when, f"{part}: {words}"
        stands = (
            "not begun"
            if day is None
            else "late"
            if day < today
            else "soon"
            if day <= today + SOON
            else "later"
        )
        out.append(Due(row, parts, last, day, stands, why))
    return sorted(out, key=lambda d: (d.day is None, d.day or 0))


def _parts(circuit: Circuit, ethanol: float, of: str) -> tuple[str, ...] | None:
    """The parts that a piece of upkeep is of; None where the build has none."""
    kind, _, family = of.partition(" ")
    if kind == "any":
        return ()
    if kind == "ethanol":
        return (
            tuple(e.id for e in circuit.of_kind("strainer", "filter"))
            if ethanol > ALCOHOL
            else None
        )
    if kind == "hose":
        lines = tuple(
            e.id
            for e in circuit.elements
            if e.kind in LINES and family in f"{e.properties.family} {e.title}".lower()
        )
        return lines or None
    return tuple(e.id for e in circuit.of_kind(kind)) or None


def filter_trends(log: Folded, day_of: Callable[[str], int]) -> list[tuple[str, int, str]]:
    """Filters whose drop over what it should be rises with the days: the filter, the day at which
    it takes twice, and the arithmetic in words. A straight line through what was read, each over
    what was said at its own flow.
    """
    rows: dict[str, list[tuple[int, float]]] = {}
    for k, r in log.readings:
        name, _, part = r.proof.partition(" ")
        if name == "drop" and r.predicted is not None and r.predicted > 0:
            rows.setdefault(part, []).append((day_of(k.at), r.value / r.predicted))
    out = []
    for part, read in rows.items():
        if len({d for d, _ in read}) < 2:
            continue
        days, times = np.array([d for d, _ in read], float), np.array([x for _, x in read])
        slope, at = np.polyfit(days - days[0], times, 1)
        if slope <= 0:
            continue
        ahead = float((LOADED - at) / slope)
        if ahead - (days[-1] - days[0]) < MOST_AHEAD:
            out.append(
                (
                    part,
                    round(float(days[0]) + max(ahead, 0.0)),
                    f"took {times[0]:.2f} times, now {times[-1]:.2f} times its clean pressure drop; twice at this rate",
                )
            )
    return out
