"""What every page of a build shows: the run of stations, the build, its design."""

from typing import Any

from flask import request

from tall_heron.core.design import Design
from tall_heron.core.rules.finding import Finding, worst_level
from tall_heron.web.answers import Stored
from tall_heron.web.show.findings import counts
from tall_heron.web.station import run_of_stations


def not_done(made: Design) -> frozenset[str]:
    """Stations at which nobody has done anything yet, or not all, so that nothing found there is no
    pass.
    """
    return frozenset(s.key for s in run_of_stations() if s.undone(made))


def slow_stations() -> tuple[str, ...]:
    """Those that take many solutions: looked at with a whole page, not with each change, and until
    then nothing is said of them.
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
            }
        )
    return out


def frame(found: Stored, made: Design, page: str) -> dict[str, Any]:
    """What every page of a build shows. Rules that read the cases are looked at with a whole page,
    not for the pieces that follow a change.
    """
    whole = request.accept_mimetypes.best != "application/json"
    looks = {s.key: s.look for s in run_of_stations() if s.look is not None}
    looked = {
        key: look.found_in(made)
        for key, look in looks.items()
        if whole or look.is_known(made.study)
    }
    findings = [*made.findings, *(f for more in looked.values() for f in more)]
    return {
        "slug": found.row["slug"],
        "row": found.row,
        "build": found.build,
        "brief": found.build.brief,
        "design": made,
        "study": made.study,
        "stations": stations(findings, tuple(looked), not_done(made)),
        "page": page,
        "here": request.path if request.method == "GET" else f"/builds/{found.row['slug']}/{page}",
        "aircraft": made.study.brief.use == "flight",
    }
