"""What every page of a build shows: the run of stations, the build, its design."""

from typing import Any

from flask import request

from tall_heron.core.design import Design
from tall_heron.core.document.kinds import LINES
from tall_heron.core.document.sources import guesses_of
from tall_heron.core.rules import check_cases, check_route, check_wiring
from tall_heron.core.rules.finding import Finding, worst_level
from tall_heron.web.answers import Stored
from tall_heron.web.show.findings import counts

STATIONS = (
    ("brief", "Brief"),
    ("layout", "Layout"),
    ("circuit", "Circuit"),
    ("cases", "Cases"),
    ("route", "Route"),
    ("hoses", "Hoses"),
    ("wiring", "Wiring"),
    ("prove", "Prove"),
)
LOOKS = {"cases": check_cases, "route": check_route, "wiring": check_wiring}
SOLVES_MORE = ("cases", "route", "wiring", "prove")  # what takes many solutions: it is looked at with a whole page, not with each change, and until then nothing is said of it


def not_done(made: Design) -> frozenset[str]:
    """Stations at which nobody has done anything yet, or not all, so that nothing found there is no pass: nothing is wired, a line is not drawn, or in a stock outline, a length is not
    measured, nothing is proved."""
    build, out = made.study.build, {"prove"}
    if build.wiring is None:
        out.add("wiring")
    lines = [e for e in build.circuit.elements if e.kind in LINES]
    if any(e.id not in build.space.routes or (e.length is not None and e.length.source == "outline") for e in lines):
        out.add("route")
    guessed = guesses_of(build.circuit)
    if guessed.lengths or guessed.clocks:
        out.add("hoses")
    if not made.study.peak.solution.converged:
        out |= {"layout", "circuit", "cases"}
    return frozenset(out)


def stations(findings: list[Finding], looked: tuple[str, ...] = (), undone: frozenset[str] = frozenset()) -> list[dict[str, Any]]:
    """The run of stations: number, name, the page's name where it is built, its worst level, how many findings of it, and whether nothing found is a pass: it was `looked` at, and is not
    `undone`. Of those that take more only where they were looked at."""
    out = []
    for i, (key, name) in enumerate(STATIONS, start=1):
        here = [f for f in findings if f.station == key] if key else []
        worst = worst_level(f.level for f in here)
        seen = (key in looked or key not in SOLVES_MORE) and not (key in undone and worst in ("", "Note"))
        out.append({"number": i, "key": key, "name": name, "worst": worst, "count": sum(f.level == worst for f in here), "says": counts(here), "looked": seen})
    return out


def frame(found: Stored, made: Design, page: str) -> dict[str, Any]:
    """What every page of a build shows. Rules that read the cases are looked at with a whole page, not for the pieces that follow a change."""
    whole = request.accept_mimetypes.best != "application/json"
    looked = tuple(key for key in SOLVES_MORE if key != "prove" and (whole or LOOKS[key].known(made.study)))
    more = {"cases": lambda: made.of_cases[0], "route": lambda: made.of_route[0], "wiring": lambda: made.of_wiring[0]}
    findings = [*made.findings, *(f for key in looked for f in more[key]())]
    return {
        "slug": found.row["slug"],
        "row": found.row,
        "build": found.build,
        "brief": found.build.brief,
        "design": made,
        "study": made.study,
        "stations": stations(findings, looked, not_done(made)),
        "page": page,
        "here": request.path if request.method == "GET" else f"/builds/{found.row['slug']}/{page}",
        "aircraft": made.study.brief.use == "flight",
    }
