"""Sizes proposed for a layout: what is looked at streams as it goes, and the whole proposal is fitted as one act."""

import json
from collections.abc import Iterator
from typing import Any, get_args

from flask import Blueprint, Response, render_template, stream_with_context

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.build import Build
from tall_heron.core.editing.fields import fit
from tall_heron.core.shelf.totals import make_totals
from tall_heron.core.sizing.auto_size import Progress, size
from tall_heron.core.sizing.groups import By, make_groups
from tall_heron.web import answers
from tall_heron.web.frame import frame
from tall_heron.web.stations.answer import answer

pages = Blueprint("size", __name__)
WORDS = {"cost": "least cost", "mass": "least mass", "current": "least current"}


@pages.get("/builds/<slug>/size")
def page(slug: str) -> str:
    """What would be sized, what is to stay, and by what to choose."""
    found = answers.stored(slug)
    made = answers.designed(found)
    groups = make_groups(made.study, "cost", (), answers.own_shelf())
    return render_template("stations/size/size.html", **frame(found, made, "size"), groups=groups, words=WORDS)


@pages.post("/builds/<slug>/size")
def look(slug: str) -> Response:
    """The search, a line of JSON for each report; the last holds the proposal."""
    data, found = answers.body(), answers.stored(slug)
    by, keep = answers.text_of(data, "by"), data.get("keep")
    if by not in get_args(By) or not isinstance(keep, list) or not all(isinstance(k, str) for k in keep):
        raise answers.Refused("by", "Choose by what to size: cost, mass or current.")
    own = answers.own_shelf()

    def lines() -> Iterator[str]:
        try:
            for report in size(found.build, by, keep, own, answers.late_after(answers.SECONDS)):  # type: ignore[arg-type]
                if isinstance(report, Progress):
                    yield json.dumps({"looked": report.looked}) + chr(10)
                    continue
                now, then = make_totals(found.build.circuit), make_totals(report.build.circuit)
                context: dict[str, Any] = {"proposal": report, "now": now, "then": then, "by": WORDS[by]}
                before = {e.id: e.shelf for e in found.build.circuit.elements}
                chosen = {e.id: e.shelf for e in report.build.circuit.elements if e.shelf != before[e.id]}
                yield json.dumps({"piece": render_template("stations/size/proposal.jinja", **context), "chosen": chosen}) + chr(10)
        except BuildErrors as errors:
            yield json.dumps({"message": "; ".join(e.message for e in errors.errors)}) + chr(10)

    return Response(stream_with_context(lines()), mimetype="application/x-ndjson")


@pages.post("/builds/<slug>/size/fit")
def fit_all(slug: str) -> Response:
    """Fit a whole proposal as one act."""
    data = answers.body()
    chosen = data.get("chosen")
    if not isinstance(chosen, dict) or not chosen or not all(isinstance(v, str) for v in chosen.values()):
        raise answers.Refused("chosen", "There is nothing to fit.")
    own = answers.own_shelf()

    def make(build: Build) -> tuple[Build, str]:
        for element_id, name in chosen.items():
            build = fit(build, element_id, name, own)
        return build, f"Sized: {', '.join(chosen)}"

    return answer(answers.act(slug, data, make, "chosen"), {"page": "circuit"})
