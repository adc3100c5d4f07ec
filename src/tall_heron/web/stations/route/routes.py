"""Station 5, Route: the build in its vehicle."""

from typing import Any

from flask import Blueprint, Response, abort, jsonify, render_template, request

from tall_heron.core.design import design
from tall_heron.core.routing.measure import between, measurable
from tall_heron.core.rules.route import laid_of
from tall_heron.core.sheets.route_files import points_csv, to_dxf, to_svg
from tall_heron.web import answers
from tall_heron.web.drawing.route.scene import draw_views
from tall_heron.web.forms import reading
from tall_heron.web.page_answer import answer, page_answer
from tall_heron.web.show.figures import HeadFigure
from tall_heron.web.show.text import shown
from tall_heron.web.stations.prove.attached import given_back
from tall_heron.web.stations.route.acts import make
from tall_heron.web.stations.route.context import VIEWS, geometry, said_short, zoom_of
from tall_heron.web.stations.route.figures import route_figures
from tall_heron.web.stations.route.paper import PAPERS, paper_sheets
from tall_heron.web.stations.route.pictures import keep_picture, picture_data

pages = Blueprint("route", __name__)


def _asked(name: str) -> str:
    return request.args.get(name, "")[:40]


@pages.get("/builds/<slug>/route")
def page(slug: str) -> str | Response:
    """A build in its vehicle with a line or a part chosen; its pieces where JSON is asked for."""
    return page_answer(
        answers.stored(slug),
        "stations/route/route.html",
        {
            "page": "route",
            **{name: _asked(name) for name in ("line", "part", "view", "zoom", "try")},
        },
    )


@pages.post("/builds/<slug>/route")
def change(slug: str) -> Response:
    """Make one of the page's acts."""
    data = answers.body()
    done = answers.act(slug, data, lambda build: make(build, data), "act")
    return answer(done, data)


@pages.post("/builds/<slug>/route/try")
def try_it(slug: str) -> Response:
    """What an act would make of the drawing, while a hand still drags: lines, figures, findings
    with their marks. Nothing is kept.
    """
    data = answers.body()
    found = answers.stored(slug)
    made = answers.designed(found)
    tried = design(make(found.build, data)[0], made)
    laid = laid_of(tried.study)
    findings, passed = tried.of_route
    view = str(data.get("view") or "both")
    view = view if view in VIEWS else "both"
    zoom = zoom_of(laid, view, str(data.get("zoom")))
    line, part = str(data.get("line") or ""), str(data.get("part") or "")
    scenes = draw_views(
        laid,
        VIEWS[view],
        findings,
        line,
        part,
        zoom,
        said_short(findings),
        named=False,
    )
    figures: list[HeadFigure] = route_figures(tried.study, findings)
    context: dict[str, Any] = {
        "findings": [(f, "stays") for f in findings],
        "passed": passed,
        "numbered": True,
        "figures": figures,
        "slug": slug,
        "trial": None,
    }
    return jsonify(
        lines={s.view.name: {x.element.id: x.d for x in s.lines} for s in scenes},
        marks={s.view.name: render_template("drawing/route/marks.jinja", s=s) for s in scenes},
        figures=render_template("pieces/figures.jinja", **context),
        findings=render_template("pieces/findings.jinja", **context),
        geometry=geometry(laid)["lines"],
        length=laid.lines[line].counted if line in laid.lines else None,
    )


@pages.post("/builds/<slug>/route/picture")
def send_picture(slug: str) -> Response:
    """Keep a picture of the vehicle, to be put under a view next."""
    answers.stored(slug)
    return jsonify(
        sha256=keep_picture(request.get_data(), reading.whole(request.args.get("page")) or 1)
    )


@pages.get("/builds/<slug>/route/picture/<sha256>")
def picture(slug: str, sha256: str) -> Response:
    """A picture that lies under a view of this build."""
    build = answers.stored(slug).build
    found = (
        picture_data(sha256) if sha256 in {g.sha256 for g in build.space.grounds.values()} else None
    )
    if found is None:
        abort(404)
    return given_back(*found, "vehicle")


@pages.get("/builds/<slug>/route/measure")
def measure(slug: str) -> Response:
    """How far two things are from one another."""
    found = answers.stored(slug)
    laid = laid_of(answers.designed(found).study)
    things = measurable(laid)
    a, b = _asked("a"), _asked("b")
    if a not in things or b not in things:
        raise reading.Refused("a", "Choose two things that are in the vehicle.", 404)
    far = between(things[a], things[b])
    parts = ", ".join(
        f"{shown(abs(v) / 1000, 'length')} {word}"
        for v, word in zip(far.by, ("along", "across", "up"), strict=True)
    )
    words = (
        "touch or overlap" if far.clear <= 0 else f"are {shown(far.clear / 1000, 'length')} apart"
    )
    return jsonify(
        says=f"{a} and {b} {words}; middle to middle {shown(far.middles / 1000, 'length')}: {parts}."
    )


@pages.get("/builds/<slug>/route/paper")
def paper(slug: str) -> str:
    """The views to scale on a sheet of paper."""
    found = answers.stored(slug)
    made = answers.designed(found)
    size = _asked("paper") if _asked("paper") in PAPERS else "A4"
    return render_template(
        "stations/route/paper.html",
        slug=slug,
        build=found.build,
        row=found.row,
        page="route-paper",
        papers=PAPERS,
        size=size,
        sheets=paper_sheets(made, size),
        findings=made.of_route[0],
        aircraft=made.study.brief.use == "flight",
    )


@pages.get("/builds/<slug>/route.dxf")
def dxf(slug: str) -> Response:
    """The lines as DXF: millimeters, three dimensions, a layer for each role."""
    found = answers.stored(slug)
    return answers.file(
        to_dxf(laid_of(answers.designed(found).study), found.build.name),
        "image/vnd.dxf",
        f"{found.row['slug']}-route.dxf",
    )


@pages.get("/builds/<slug>/route.svg")
def svg(slug: str) -> Response:
    """A view as SVG, a millimeter for a millimeter."""
    found = answers.stored(slug)
    view = _asked("view") if _asked("view") in ("side", "plan", "rear") else "plan"
    return answers.file(
        to_svg(laid_of(answers.designed(found).study), found.build.name, view),
        "image/svg+xml",
        f"{found.row['slug']}-{view}.svg",
    )


@pages.get("/builds/<slug>/route-points.csv")
def points(slug: str) -> Response:
    """Every line's points as CSV (RFC 4180)."""
    found = answers.stored(slug)
    return answers.file(
        points_csv(laid_of(answers.designed(found).study)),
        "text/csv",
        f"{found.row['slug']}-route-points.csv",
    )
