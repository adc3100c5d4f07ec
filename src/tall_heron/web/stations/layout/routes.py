"""Station 2, Layout: every layout that suits the brief, solved for this engine, side by side; one is chosen."""

from flask import Blueprint, Response, render_template, request

from tall_heron.core.document.build import Build
from tall_heron.core.editing.change_layout import change_layout
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.web import answers
from tall_heron.web.stations.answer import answer
from tall_heron.web.stations.layout.context import layout_context

pages = Blueprint("layout", __name__)


@pages.get("/builds/<slug>/layout")
def page(slug: str) -> str | Response:
    """The chooser; its pieces where JSON is asked for."""
    found = answers.stored(slug)
    if request.accept_mimetypes.best == "application/json":
        return answer(found, {"page": "layout"})
    return render_template("stations/layout/layout.html", **layout_context(found, answers.designed(found)))


@pages.post("/builds/<slug>/layout")
def change(slug: str) -> Response:
    """Choose a layout and an arrangement of rails; what fits is carried over."""
    data = answers.body()
    key, rails = answers.text_of(data, "layout"), answers.text_of(data, "rails")
    layout = LAYOUTS.get(key)
    if layout is None or rails not in layout.rails:
        raise answers.Refused("layout", "There is no such layout here. Choose one from the list.")

    def make(build: Build) -> tuple[Build, str]:
        changed = change_layout(build, key, rails)
        gone = f"; without {', '.join(x.split()[0] for x in changed.dropped)}" if changed.dropped else ""
        rest = "" if rails == "single" else f", rails {rails}"
        return changed.build, f"Layout: {layout.title.lower()}{rest}{gone}"

    return answer(answers.act(slug, data, make, "layout"), data | {"page": "layout"})
