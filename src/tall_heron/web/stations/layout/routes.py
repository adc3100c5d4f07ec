"""Station 2, Layout: every layout that suits the brief, solved for this engine with parts sized for it, side by side; one is chosen."""

import json
from collections.abc import Iterator

from flask import Blueprint, Response, render_template, request, stream_with_context

from tall_heron.core.document.build import Build
from tall_heron.core.editing.change_layout import change_layout
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.sizing.chooser import fitted_with, sizes_for, wanted
from tall_heron.web import answers
from tall_heron.web.stations.answer import answer
from tall_heron.web.stations.layout.context import choices_context, layout_context, sizes_of

pages = Blueprint("layout", __name__)
SHARE = 1.5  # s, for one layout: what holds by then is taken, so that none keeps the others waiting


@pages.get("/builds/<slug>/layout")
def page(slug: str) -> str | Response:
    """The chooser; its pieces where JSON is asked for."""
    found = answers.stored(slug)
    if request.accept_mimetypes.best == "application/json":
        return answer(found, {"page": "layout"})
    return render_template("stations/layout/layout.html", **layout_context(found, answers.designed(found)))


@pages.post("/builds/<slug>/layout/sized")
def sized(slug: str) -> Response:
    """Size the parts for each layout in turn, a line of JSON for each report; the last holds the table. It stops at its time, and goes on from there when asked again."""
    answers.body()
    found, own = answers.stored(slug), answers.own_shelf()
    known, late = sizes_of(found), answers.late_after(answers.SECONDS)

    def lines() -> Iterator[str]:
        places = wanted(found.build)
        for layout, rails in places:
            if (layout.key, rails) in known or late():
                continue
            parts = sizes_for(found.build, layout, rails, own, late, answers.late_after(SHARE))
            if parts is not None:
                known[layout.key, rails] = parts
            yield json.dumps({"sized": len(known), "of": len(places)}) + chr(10)
        yield json.dumps({"piece": render_template("stations/layout/choices.jinja", **choices_context(found))}) + chr(10)

    return Response(stream_with_context(lines()), mimetype="application/x-ndjson")


@pages.post("/builds/<slug>/layout")
def change(slug: str) -> Response:
    """Choose a layout and an arrangement of rails, with the parts sized for it where there are some; what fits is carried over."""
    data = answers.body()
    key, rails = answers.text_of(data, "layout"), answers.text_of(data, "rails")
    parts = data.get("parts") or {}
    layout = LAYOUTS.get(key)
    if layout is None or rails not in layout.rails:
        raise answers.Refused("layout", "There is no such layout here. Choose one from the list.")
    if not isinstance(parts, dict) or not all(isinstance(v, str) for v in parts.values()):
        raise answers.Refused("parts", "Parts are named by their tags.")
    own = answers.own_shelf()

    def make(build: Build) -> tuple[Build, str]:
        changed = change_layout(build, key, rails)
        gone = f"; without {', '.join(x.split()[0] for x in changed.dropped)}" if changed.dropped else ""
        rest = "" if rails == "single" else f", rails {rails}"
        return fitted_with(changed.build, parts, own), f"Layout: {layout.title.lower()}{rest}{', sized' if parts else ''}{gone}"

    return answer(answers.act(slug, data, make, "layout"), data | {"page": "layout"})
