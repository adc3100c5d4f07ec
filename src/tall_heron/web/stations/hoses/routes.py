"""Station 6, Hoses: the cut list to scale."""

import csv
import io
import math
from collections.abc import Callable
from typing import Any

from flask import Blueprint, Response, render_template, request

from tall_heron.core.base.units import parse, parse_dash
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import End
from tall_heron.core.document.sources import clocked
from tall_heron.core.editing import fields as edit
from tall_heron.core.sheets.cut_list import Cut, make_cut_rows
from tall_heron.core.shelf.shelf import own_end
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
    return render_template("stations/hoses/hoses.html", **hoses_context(found, answers.designed(found), hose))


@pages.post("/builds/<slug>/hose")
def change(slug: str) -> Response:
    """Set a hose's length, its size, its clock, or an end: one of the shelf, or the builder's own."""
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
    elif field == "clock":
        degrees = None if text.strip().lower() in ("", "not known") else _degrees("clock", text)

        def make(build: Build) -> tuple[Build, str]:
            return edit.set_clock(build, hose, degrees), f"{hose}: clock {'not known' if degrees is None else f'{degrees:g}°'}"
    elif field in ("own_a", "own_b"):
        own = _own_end(data)

        def make(build: Build) -> tuple[Build, str]:
            return edit.set_own_end(build, hose, field[-1], own), f"{hose}: end {field[-1].upper()} my own, {own.angle_deg:g}°, takes up {own.take_up_mm:g} mm"
    elif field in ("end_a", "end_b") and text.isdecimal() and len(text) <= 3:

        def make(build: Build) -> tuple[Build, str]:
            side = field[-1]
            return edit.set_end(build, hose, side, float(text)), f"{hose}: end {side.upper()} {'straight' if text == '0' else text + '°'}"
    else:
        raise answers.Refused(field or "field", "A hose has a length, a size, a clock and two ends, straight or at an angle the shelf has.")
    return answer(answers.act(slug, data, make, field), data)


def _degrees(field: str, text: str) -> float:
    """An angle as it is typed, `135` or `135°`. Refused beside its field."""
    try:
        value = float(text.strip().removesuffix("°").removesuffix("deg").strip().replace(",", "."))
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise answers.Refused(field, "Write an angle in degrees, such as 45 or 135°.")
    return value


def _millimetres(field: str, text: str) -> float:
    try:
        return parse(text, "length", unit("length").word) * 1000
    except ValueError as error:
        raise answers.Refused(field, str(error)) from None


def _own_end(data: dict[str, Any]) -> End:
    """The end that the form for one's own describes. Refused at the first field that is not right."""
    angle = _degrees("own-angle", answers.text_of(data, "angle"))
    take, bore = (_millimetres(f"own-{x}", answers.text_of(data, x)) for x in ("take", "bore"))
    for name, value, most, word in (("angle", angle, 180, "°"), ("take", take, 500, " mm"), ("bore", bore, 100, " mm")):
        if not (0.5 if name == "bore" else 0) <= value <= most:
            raise answers.Refused(f"own-{name}", f"It is at most {most}{word}, and {'0.5 mm or more' if name == 'bore' else 'not below 0'}.")
    return own_end(angle, take, bore)


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
    "clock_deg": lambda c: "any" if not clocked(c.element) else "not known" if c.element.clock_deg is None else c.element.clock_deg,
    "clock_is": lambda c: c.element.clock_source if clocked(c.element) and c.element.clock_deg is not None else "",
}


def _plain(text: str) -> str:
    """A text that no spreadsheet takes for a formula."""
    return "'" + text if text[:1] in ("=", "+", "-", "@") else text
