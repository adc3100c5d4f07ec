"""Station 6, Hoses: the cut list to scale."""

import csv
import io
from collections.abc import Callable
from typing import Any

from flask import Blueprint, Response, render_template, request

from tall_heron.core.base.units import parse, parse_dash
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import End
from tall_heron.core.editing import fields as edit
from tall_heron.core.sheets.cut_list import Cut, make_cut_rows
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
    rows.writerow(COLUMNS)
    rows.writerows([of(cut) for of in COLUMNS.values()] for cut in make_cut_rows(found.build.circuit))
    name = f"attachment; filename={found.row['slug']}-cut-list.csv"
    return Response(out.getvalue(), mimetype="text/csv", headers={"Content-Disposition": name})


def _angle(end: End | None) -> float | str:
    return end.angle_deg if end is not None else ""


# A column of the CSV: its name, and what it holds of a cut.
COLUMNS: dict[str, Callable[[Cut], Any]] = {
    "hose": lambda c: c.element.id,
    "runs": lambda c: _plain(c.element.runs),
    "role": lambda c: ROLES[c.element.role],
    "size": lambda c: c.element.properties.dash,
    "hose_title": lambda c: c.element.title,
    "face_mm": lambda c: round(c.face_mm, 1),
    "take_up_a_mm": lambda c: c.take_up_mm[0],
    "take_up_b_mm": lambda c: c.take_up_mm[1],
    "cut_mm": lambda c: round(c.cut_mm, 1) if c.cut_mm is not None else "",
    "length_is": lambda c: c.element.length.source if c.element.length is not None else "",
    "end_a_deg": lambda c: _angle(c.element.end_a),
    "end_b_deg": lambda c: _angle(c.element.end_b),
    "clock_deg": lambda c: c.element.clock_deg if c.element.clock_deg is not None else "any",
}


def _plain(text: str) -> str:
    """A text that no spreadsheet takes for a formula."""
    return "'" + text if text[:1] in ("=", "+", "-", "@") else text
