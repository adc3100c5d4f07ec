"""What is known of a build at a glance, kept by the hash of its document: what the bench shows of
it, and the marks of its stations on every page.
"""

import hashlib
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from sqlite3 import Connection
from typing import Any

from flask import current_app, g
from pydantic import TypeAdapter

import tall_heron.core
from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.base.wanted import NoLongerWanted
from tall_heron.core.design import Design
from tall_heron.core.document.build import Build
from tall_heron.core.document.sources import guesses_of
from tall_heron.core.rules.finding import AGAINST, Finding, worst_level
from tall_heron.store import builds, summaries
from tall_heron.web.answers import Stored, build_of, designed
from tall_heron.web.show.findings import counts
from tall_heron.web.station import run_of_stations


def not_done(made: Design) -> frozenset[str]:
    """Stations at which nobody has done anything yet, or not all, so that nothing found there is no
    pass.
    """
    return frozenset(s.key for s in run_of_stations() if s.undone(made))


def slow_stations() -> tuple[str, ...]:
    """Those that take many solutions: looked at by their own pages and for the marks; until then
    what was before is shown of them.
    """
    return tuple(s.key for s in run_of_stations() if s.slow)


def stations(
    findings: list[Finding], looked: tuple[str, ...] = (), undone: frozenset[str] = frozenset()
) -> list[dict[str, Any]]:
    """The run of stations: number, name, the page's name where it is built, its worst level, how
    many findings of it, and whether nothing found is a pass: it was `looked` at, and is not
    `undone`. Of those that take more only where they were looked at.
    """
    out = []
    for i, station in enumerate(run_of_stations(), start=1):
        key = station.key
        here = [f for f in findings if f.station == key]
        worst = worst_level(f.level for f in here)
        seen = (key in looked or not station.slow) and not (key in undone and worst in ("", "Note"))
        out.append(
            {
                "number": i,
                "key": key,
                "name": station.name,
                "worst": worst,
                "count": sum(f.level == worst for f in here),
                "says": counts(here),
                "looked": seen,
                "old": False,
            }
        )
    return out


@dataclass(frozen=True)
class Summary:
    """A build on the bench: what it is, and what it wants next. `briefed` says whether it can be
    looked at; `wrong` why its document cannot be read.
    """

    name: str
    worst: str = ""
    briefed: bool = False
    wrong: str = ""
    title: str = ""
    parts: int = 0
    power: float = 0.0
    rail: float = 0.0
    carbureted: bool = False
    fuel: str = ""
    guesses: str = ""  # what nobody has measured
    stations: tuple[dict[str, Any], ...] = ()
    next: Finding | None = None
    undone: tuple[str, ...] = ()  # stations at which nobody has done all there is to do
    counts: str = ""
    waits: bool = False  # not worked out yet; never kept


ADAPTER = TypeAdapter(Summary)


@cache
def edition() -> str:
    """What summaries hang on beside their document: the code and the data of the core."""
    files = sorted(
        p
        for p in Path(tall_heron.core.__file__).parent.rglob("*")
        if p.suffix in (".py", ".csv", ".json")
    )
    stamps = [f"{p.name} {p.stat().st_size} {p.stat().st_mtime_ns}" for p in files]
    return hashlib.blake2s("\n".join(stamps).encode(), digest_size=8).hexdigest()


def summary_of(row: Any) -> Summary:
    """The summary of a stored row with its document."""
    try:
        build = build_of(row)
    except builds.Altered as altered:
        return Summary(row["slug"], wrong=str(altered))
    except BuildErrors as errors:
        return Summary(row["slug"], wrong="; ".join(str(e) for e in errors.errors[:3]))
    if build.brief is None:
        return Summary(build.name, parts=len(build.circuit.elements))
    try:
        return _made(build, designed(Stored(row, build)))
    except NoLongerWanted:
        raise
    except Exception as error:  # whatever a document of an older or another hand holds: its own line says so, and no other build suffers
        current_app.logger.exception("%s cannot be worked out", row["slug"])
        return Summary(
            build.name, wrong=f"it cannot be worked out ({type(error).__name__}: {error})"[:200]
        )


def _made(build: Build, made: Design) -> Summary:
    brief, findings = made.study.brief, made.every_finding
    return Summary(
        build.name,
        worst_level(f.level for f in findings),
        True,
        title=brief.title,
        parts=len(build.circuit.elements),
        power=brief.power,
        rail=brief.base + brief.boost,
        carbureted=brief.carbureted,
        fuel=made.study.fuel_demand.fuel.name,
        guesses=guesses_of(build.circuit).of_results,
        stations=tuple(stations(findings, slow_stations(), not_done(made))),
        next=next((f for f in findings if f.level in AGAINST and not f.accepted), None),
        undone=tuple(sorted(not_done(made) - {"prove"})),
        counts=counts(findings),
    )


def known_of(connection: Connection, rows: list[Any]) -> list[Summary]:
    """The summaries of listed rows as far as they are kept; the others wait."""
    known = summaries.find(connection, edition(), [r["sha256"] for r in rows])
    return [
        ADAPTER.validate_json(known[r["sha256"]])
        if r["sha256"] in known
        else Summary(str(r["name"] or r["slug"]), title=str(r["title"] or ""), waits=True)
        for r in rows
    ]


def worked_out(connection: Connection, row: Any) -> Summary:
    """The summary of a stored row with its document, made and kept where it is not yet."""
    known = summaries.find(connection, edition(), [row["sha256"]]).get(row["sha256"])
    if known is not None:
        return ADAPTER.validate_json(known)
    made = summary_of(row)
    g.setdefault("summaries", {})[row["sha256"]] = made
    kept = row["sha256"], made.worst, ADAPTER.dump_json(made).decode()
    if not summaries.put(connection, edition(), [kept]):
        current_app.logger.warning("what is known of %s cannot be kept", row["slug"])
    return made


def marks_of(found: Stored, made: Design, page: str) -> list[dict[str, Any]]:
    """The run of stations as a page shows it. What takes many solutions is read from what is kept
    of the document; where nothing is yet, from the build as it was looked at last, and is `old`
    until the page has asked again. A page looks at its own station itself.
    """
    row, now = found.row, edition()
    summary = g.get("summaries", {}).get(row["sha256"])  # worked out in this request
    if summary is None:
        kept = summaries.find(g.connection, now, [row["sha256"]]).get(row["sha256"])
        summary = ADAPTER.validate_json(kept) if kept is not None else None
    if summary is not None and summary.stations:
        return [dict(s) for s in summary.stations]
    looked = {
        s.key: s.look.found_in(made)
        for s in run_of_stations()
        if s.look is not None and (s.key == page or s.look.is_known(made.study))
    }
    findings = [*made.findings, *(f for more in looked.values() for f in more)]
    rows = stations(findings, tuple(looked), not_done(made))
    before = summaries.newest(g.connection, now, row["id"])
    then = {s["key"]: s for s in ADAPTER.validate_json(before).stations} if before else {}
    return [
        {**then.get(s["key"], s), "old": True}
        if s["key"] in slow_stations() and s["key"] not in looked
        else s
        for s in rows
    ]
