"""Station 7, Wiring: what feeds the pumps with current, and what may stop them."""

from flask import Blueprint, Response, abort, request

from tall_heron.core.base.csv_text import csv_text
from tall_heron.core.sheets.loom import make_loom
from tall_heron.web import answers
from tall_heron.web.page_answer import answer, page_answer
from tall_heron.web.stations.wiring.acts import make as make_act
from tall_heron.web.stations.wiring.context import CONTEXTS

pages = Blueprint("wiring", __name__)
HEAD = (
    "wire",
    "from",
    "from_pin",
    "to",
    "to_pin",
    "size",
    "color",
    "cut_mm",
    "end_at_start",
    "strip_at_start_mm",
    "end_at_end",
    "strip_at_end_mm",
    "carries_a",
)


@pages.get("/builds/<slug>/wiring")
def page(slug: str) -> str | Response:
    """The circuit with one pump chosen; its pieces where JSON is asked for."""
    return page_answer(
        answers.stored(slug),
        "stations/wiring/wiring.html",
        {"page": "wiring", "part": request.args.get("pump", "")},
    )


@pages.get("/builds/<slug>/wiring/<view>")
def sheet(slug: str, view: str) -> str | Response:
    """Another page of the station; its pieces where JSON is asked for."""
    if view not in CONTEXTS:
        abort(404)
    return page_answer(
        answers.stored(slug), "stations/wiring/sheet.html", {"page": "wiring", "view": view}
    )


@pages.post("/builds/<slug>/wiring/act")
def act(slug: str) -> Response:
    """Make one of the acts of the station."""
    data = answers.body()
    return answer(answers.act(slug, data, lambda build: make_act(build, data), "act"), data)


@pages.get("/builds/<slug>/loom.csv")
def loom_csv(slug: str) -> Response:
    """Wires to cut as CSV (RFC 4180)."""
    harness = answers.designed(answers.stored(slug)).study.what_if.harness
    if harness is None:
        abort(404)
    cuts = ((c, c.wire) for c in make_loom(harness).cuts)
    rows = []
    for c, w in cuts:
        ends = [x for r in c.ends for x in (r["title"], f"{r['strip_mm']:g}")]
        rows.append(
            [
                w.number,
                w.start,
                c.lead.start_pin,
                w.end,
                c.lead.end_pin,
                w.size,
                c.lead.color,
                f"{c.cut_mm:.0f}",
                *ends,
                f"{w.carries_a:.1f}",
            ]
        )
    return answers.file(csv_text(HEAD, rows), "text/csv", f"{slug}-loom.csv")
