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
    ("", "Wiring"),
    ("", "Prove"),
)
SOLVES_MORE = ("cases", "route")  # what takes many solutions: it is looked at with a whole page, not with each change, and until then nothing is said of it


def stations(findings: list[Finding], more: bool = False) -> list[dict[str, Any]]:
    """The run of stations: number, name, the page's name where it is built, its worst level and how many findings it has; `more` where what takes many solutions was looked at."""
    out = []
    for i, (key, name) in enumerate(STATIONS, start=1):
        here = [f for f in findings if f.station == key] if key else []
        worst = worst_level(f.level for f in here)
        out.append({"number": i, "key": key, "name": name, "worst": worst, "count": len(here), "looked": more or key not in SOLVES_MORE})
    return out


def frame(found: Stored, made: Design, page: str) -> dict[str, Any]:
    """What every page of a build shows. Rules that read the cases are looked at with a whole page, not for the pieces that follow a change."""
    whole = request.accept_mimetypes.best != "application/json" or "rules of cases" in made.study.answers
    return {
        "slug": found.row["slug"],
        "row": found.row,
        "build": found.build,
        "brief": found.build.brief,
        "design": made,
        "study": made.study,
        "stations": stations(made.every_finding if whole else made.findings, whole),
        "page": page,
        "aircraft": made.study.brief.use == "flight",
    }
