"""What every page of a build shows: the run of stations, the build, its design."""

from typing import Any

from tall_heron.core.design import Design
from tall_heron.core.rules.finding import Finding, worst_level
from tall_heron.web.answers import Stored

STATIONS = (
    ("brief", "Brief"),
    ("layout", "Layout"),
    ("circuit", "Circuit"),
    ("cases", "Cases"),
    ("", "Route"),
    ("hoses", "Hoses"),
    ("", "Wiring"),
    ("", "Prove"),
)
SOLVES_MORE = ("cases",)  # what is looked at only on its own page: elsewhere nothing is said of it


def stations(findings: list[Finding]) -> list[dict[str, Any]]:
    """The run of stations: number, name, the page's name where it is built, its worst level and how many findings it has."""
    out = []
    for i, (key, name) in enumerate(STATIONS, start=1):
        here = [f for f in findings if f.station == key] if key else []
        worst = worst_level(f.level for f in here)
        out.append({"number": i, "key": key, "name": name, "worst": worst, "count": len(here), "looked": key not in SOLVES_MORE})
    return out


def frame(found: Stored, made: Design, page: str) -> dict[str, Any]:
    """What every page of a build shows."""
    return {
        "slug": found.row["slug"],
        "row": found.row,
        "build": found.build,
        "brief": found.build.brief,
        "design": made,
        "study": made.study,
        "stations": stations(made.findings),
        "page": page,
        "aircraft": made.study.brief.use == "flight",
    }
