"""What every page of a build shows: the run of stations, the build, its design."""

from typing import Any

from flask import request

from tall_heron.core.design import Design
from tall_heron.web.answers import Stored
from tall_heron.web.summary import marks_of


def frame(found: Stored, made: Design, page: str) -> dict[str, Any]:
    """What every page of a build shows."""
    return {
        "slug": found.row["slug"],
        "row": found.row,
        "build": found.build,
        "brief": found.build.brief,
        "design": made,
        "study": made.study,
        "stations": marks_of(found, made, page),
        "page": page,
        "here": request.path if request.method == "GET" else f"/builds/{found.row['slug']}/{page}",
        "aircraft": made.study.brief.use == "flight",
    }
