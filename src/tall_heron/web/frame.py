"""What every page of a build shows: the run of stations, the build, its design."""

from typing import Any

from flask import request

from tall_heron.core.design import Design
from tall_heron.core.rules.finding import Finding, worst_level
from tall_heron.web.answers import Stored

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
SOLVES_MORE = ("cases", "route", "wiring", "prove")  # what takes many solutions: it is looked at with a whole page, not with each change, and until then nothing is said of it


def stations(findings: list[Finding], looked: tuple[str, ...] = ()) -> list[dict[str, Any]]:
    """The run of stations: number, name, the page's name where it is built, its worst level and how many findings it has; of those that take more only where they were `looked` at."""
    out = []
    for i, (key, name) in enumerate(STATIONS, start=1):
        here = [f for f in findings if f.station == key] if key else []
        worst = worst_level(f.level for f in here)
        out.append({"number": i, "key": key, "name": name, "worst": worst, "count": len(here), "looked": key in looked or key not in SOLVES_MORE})
    return out


def frame(found: Stored, made: Design, page: str) -> dict[str, Any]:
    """What every page of a build shows. Rules that read the cases are looked at with a whole page, not for the pieces that follow a change."""
    whole = request.accept_mimetypes.best != "application/json"
    looked = tuple(key for key in SOLVES_MORE if key != "prove" and (whole or f"rules of {key}" in made.study.answers))
    more = {"cases": lambda: made.of_cases[0], "route": lambda: made.of_route[0], "wiring": lambda: made.of_wiring[0]}
    findings = [*made.findings, *(f for key in looked for f in more[key]())]
    return {
        "slug": found.row["slug"],
        "row": found.row,
        "build": found.build,
        "brief": found.build.brief,
        "design": made,
        "study": made.study,
        "stations": stations(findings, looked),
        "page": page,
        "here": request.path if request.method == "GET" else f"/builds/{found.row['slug']}/{page}",
        "aircraft": made.study.brief.use == "flight",
    }
