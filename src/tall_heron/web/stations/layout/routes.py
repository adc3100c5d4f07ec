"""Station 2, Layout: every layout that suits the brief, as it would be laid out for this engine,
side by side; one is chosen.
"""

import json
from collections.abc import Iterator

from flask import Blueprint, Response, render_template, request, stream_with_context

from tall_heron.core.document.build import Build
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.sizing.chooser import layout_name
from tall_heron.web import answers
from tall_heron.web.forms import reading
from tall_heron.web.page_answer import answer
from tall_heron.web.stations.layout.context import (
    choices_context,
    layout_context,
    makes,
    one,
    row_context,
)

pages = Blueprint("layout", __name__)


@pages.get("/builds/<slug>/layout")
def page(slug: str) -> str | Response:
    """The chooser; its pieces where JSON is asked for."""
    found = answers.stored(slug)
    if request.accept_mimetypes.best == "application/json":
        return answer(found, {"page": "layout"})
    return render_template(
        "stations/layout/layout.html", **layout_context(found, answers.designed(found))
    )


@pages.post("/builds/<slug>/layout/sized")
def sized(slug: str) -> Response:
    """Make each layout in turn, a line of JSON with its row for each; the last holds the table with
    what is recommended.
    """
    answers.body()
    found = answers.stored(slug)

    def lines() -> Iterator[str]:
        of = choices_context(found)["rows"]
        for n, c in enumerate(makes(found), start=1):
            row = render_template(
                "stations/layout/row.jinja", slug=slug, best=None, wins=None, **row_context(c)
            )
            yield json.dumps(
                {"sized": n, "of": len(of), "id": f"choice-{c.layout.key}-{c.rails}", "row": row}
            ) + chr(10)
        yield json.dumps(
            {"piece": render_template("stations/layout/choices.jinja", **choices_context(found))}
        ) + chr(10)

    return Response(stream_with_context(lines()), mimetype="application/x-ndjson")


@pages.post("/builds/<slug>/layout")
def change(slug: str) -> Response:
    """Lay a build out another way, as the chooser shows it; asked back first where that gives up
    what the builder chose or measured, until it is `sure`.
    """
    data = answers.body()
    key, rails = reading.text_of(data, "layout"), reading.text_of(data, "rails")
    layout = LAYOUTS.get(key)
    asked = next((r for r in layout.rails if r == rails), None) if layout is not None else None
    if layout is None or asked is None:
        raise reading.Refused("layout", "There is no such layout here. Choose one from the list.")

    def make(build: Build) -> tuple[Build, str]:
        found = one(answers.stored(slug), key, asked)
        if found is None:
            raise reading.Refused(
                "layout", "That layout does not suit this engine. Choose one from the list."
            )
        if found.given_up and data.get("sure") is not True:
            raise reading.Refused(
                "sure",
                f"This gives up {', '.join(found.given_up)}, which you chose or measured. Press again to lay it out all the same.",
            )
        gone = (
            f"; without {', '.join(x.split()[0] for x in found.changed.dropped)}"
            if found.changed.dropped
            else ""
        )
        return (
            found.changed.build,
            f"Layout: {layout_name(layout, asked)[:1].lower()}{layout_name(layout, asked)[1:]}{gone}",
        )

    return answer(answers.act(slug, data, make, "layout"), data | {"page": "layout"})
