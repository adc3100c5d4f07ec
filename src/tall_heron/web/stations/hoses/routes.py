"""Station 6, Hoses: the cut list to scale."""

import csv
import io

from flask import Blueprint, Response, render_template, request

from tall_heron.core.base.units import parse, parse_dash
from tall_heron.core.document.build import Build
from tall_heron.core.editing import fields as edit
from tall_heron.core.sheets.cut_list import make_cut_rows
from tall_heron.web import answers
from tall_heron.web.show.text import ROLES
from tall_heron.web.show.units import unit
from tall_heron.web.stations.answer import answer
from tall_heron.web.stations.hoses.context import hoses_context

pages = Blueprint("hoses", __name__)


@pages.get("/builds/<slug>/hoses")
def page(slug: str) -> str | Response:
    """The hoses of a build with one chosen; its pieces where JSON is asked for."""
    found = answers.stored(slug)
    hose = request.args.get("hose", "")
    if request.accept_mimetypes.best == "application/json":
        return answer(found, {"page": "hoses", "hose": hose, "have": answers.marks()})
    return render_template("stations/hoses/hoses.html", **hoses_context(found, answers.designed(found), hose, with_swaps=True))


@pages.post("/builds/<slug>/hose")
def change(slug: str) -> Response:
    """Set a hose's length, its size or the angle of an end."""
    data = answers.body()
    hose, field, text = (answers.text_of(data, x) for x in ("hose", "field", "text"))
    if field == "length":
        try:
            mm = parse(text, "length", unit("length").word) * 1000
        except ValueError as error:
            raise answers.Refused("length", str(error)) from None

        def make(build: Build) -> tuple[Build, str]:
            typed = text.strip() if any(c.isalpha() or c in "\"'" for c in text) else f"{text.strip()} {unit('length').label}"
            return edit.set_length(build, hose, mm, typed), f"{hose}: {typed} face to face"
    elif field == "size":
        try:
            dash = parse_dash(text)
        except ValueError as error:
            raise answers.Refused("size", str(error)) from None

        def make(build: Build) -> tuple[Build, str]:
            element = build.circuit.element(hose)
            family = element.properties.family if element else ""
            return edit.fit(build, hose, family + dash), f"{hose}: {dash}"
    elif field in ("end_a", "end_b") and text.isdecimal() and len(text) <= 3:

        def make(build: Build) -> tuple[Build, str]:
            side = field[-1]
            return edit.set_end(build, hose, side, float(text)), f"{hose}: end {side.upper()} {'straight' if text == '0' else text + '°'}"
    else:
        raise answers.Refused(field, "A hose has a length, a size and two ends, straight or at an angle the shelf has.")
    return answer(answers.act(slug, data, make, field), data)


@pages.get("/builds/<slug>/cut-list.csv")
def cut_list(slug: str) -> Response:
    """The cut list as CSV (RFC 4180)."""
    found = answers.stored(slug)
    out = io.StringIO()
    rows = csv.writer(out)
    rows.writerow(
        [
            "hose",
            "runs",
            "role",
            "size",
            "hose_title",
            "face_mm",
            "take_up_a_mm",
            "take_up_b_mm",
            "cut_mm",
            "end_a_deg",
            "end_b_deg",
            "clock_deg",
        ]
    )
    for cut in make_cut_rows(found.build.circuit):
        e = cut.element
        ends = [end.angle_deg if end else "" for end in (e.end_a, e.end_b)]
        cut_mm = round(cut.cut_mm, 1) if cut.cut_mm is not None else ""
        clock = e.clock_deg if e.clock_deg is not None else "any"
        rows.writerow(
            [e.id, _plain(e.runs), ROLES[e.role], e.properties.dash, e.title, round(cut.face_mm, 1), *cut.take_up_mm, cut_mm, *ends, clock]
        )
    name = f"attachment; filename={found.row['slug']}-cut-list.csv"
    return Response(out.getvalue(), mimetype="text/csv", headers={"Content-Disposition": name})


def _plain(text: str) -> str:
    """A text that no spreadsheet takes for a formula."""
    return "'" + text if text[:1] in ("=", "+", "-", "@") else text
