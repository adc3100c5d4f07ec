"""Station 6, Hoses: the cut sheet to scale, and all else that bench and buying need."""

from collections.abc import Callable
from typing import Any

from flask import Blueprint, Response, abort, request

from tall_heron.core.base.csv_text import csv_text
from tall_heron.core.base.units import parse_dash
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import End
from tall_heron.core.document.sources import clocked
from tall_heron.core.editing import fields as edit
from tall_heron.core.sheets.cut_sheet import HoseJob
from tall_heron.core.sheets.order_form import RULES, alike, order_csv
from tall_heron.core.sheets.plate import make_plate, plate_dxf
from tall_heron.core.sheets.workbook import BUY_HEAD, buy_rows, to_workbook
from tall_heron.core.shelf.shelf import own_end
from tall_heron.web import answers
from tall_heron.web.forms import reading
from tall_heron.web.forms.field import Field
from tall_heron.web.page_answer import answer, page_answer
from tall_heron.web.show.text import ROLES
from tall_heron.web.show.units import unit
from tall_heron.web.stations.hoses.acts import make as make_act
from tall_heron.web.stations.hoses.context import CONTEXTS
from tall_heron.web.stations.hoses.hose_sheets import HoseSheets, sheets_of

pages = Blueprint("hoses", __name__)
OFF_MM = 0.5  # that typed legs and take-up may differ by


@pages.get("/builds/<slug>/hoses")
def page(slug: str) -> str | Response:
    """The hoses of a build with one chosen; its pieces where JSON is asked for."""
    return page_answer(
        answers.stored(slug),
        "stations/hoses/hoses.html",
        {"page": "hoses", "hose": request.args.get("hose", "")},
    )


@pages.post("/builds/<slug>/hose")
def change(slug: str) -> Response:
    """Set a hose's length, its size, its clock, or an end: one of the shelf, or the builder's own."""
    data = answers.body()
    hose, field, text = (reading.text_of(data, x) for x in ("hose", "field", "text"))
    if field == "length":
        mm = LENGTH.read(text)

        def make(build: Build) -> tuple[Build, str]:
            typed = (
                text.strip()
                if any(c.isalpha() or c in "\"'" for c in text)
                else f"{text.strip()} {unit('length').label}"
            )
            return edit.set_length(build, hose, mm, typed), f"{hose}: {typed} face to face"
    elif field == "size":
        try:
            dash = parse_dash(text)
        except ValueError as error:
            raise reading.Refused("size", str(error)) from None

        def make(build: Build) -> tuple[Build, str]:
            element = build.circuit.element(hose)
            family = element.properties.family if element else ""
            return edit.fit(build, hose, family + dash), f"{hose}: {dash}"
    elif field == "clock":
        degrees = None if text.strip().lower() in ("", "not known") else CLOCKING.read(text)

        def make(build: Build) -> tuple[Build, str]:
            return edit.set_clock(
                build, hose, degrees
            ), f"{hose}: clock {'not known' if degrees is None else f'{degrees:g}°'}"
    elif field in ("own_a", "own_b"):
        own = _own_end(data)

        def make(build: Build) -> tuple[Build, str]:
            return (
                edit.set_own_end(build, hose, field[-1], own),
                f"{hose}: end {field[-1].upper()} my own, {own.angle_deg:g}°, cut-off allowance {own.take_up_mm:g} mm",
            )
    elif field in ("end_a", "end_b") and text.isdecimal() and len(text) <= 3:

        def make(build: Build) -> tuple[Build, str]:
            side = field[-1]
            return edit.set_end(
                build, hose, side, float(text)
            ), f"{hose}: end {side.upper()} {'straight' if text == '0' else text + '°'}"
    else:
        raise reading.Refused(
            field or "field",
            "A hose has a length, a size, a clocking angle and two ends, straight or at an angle the shelf has.",
        )
    return answer(answers.act(slug, data, make, field), data)


LENGTH = Field("length", "Length", "length", 1000.0)
CLOCKING = Field("clock", "Clocking angle", sort="angle")
OWN_ANGLE = Field("own-angle", "Angle", sort="angle", bounds=(0.0, 180.0))
OWN_TAKE, OWN_BORE = (
    Field(f"own-{x}", label, "length", 1000.0, bounds=b)
    for x, label, b in (("take", "Cut-off allowance", (0.0, 500.0)), ("bore", "Bore", (0.5, 100.0)))
)
OWN_LEGS = {
    x: Field(f"own-{x}", label, "length", 1000.0, optional=True)
    for x, label in (("leg_a", "Leg A"), ("leg_b", "Leg B"), ("inserted", "Hose goes in"))
}


def _own_end(data: dict[str, Any]) -> End:
    """The end that the form for one's own describes. Refused at the first field that is not right."""
    angle, take, bore = (
        f.read(reading.text_of(data, f.name.removeprefix("own-")))
        for f in (OWN_ANGLE, OWN_TAKE, OWN_BORE)
    )
    legs = {
        name: mm
        for name, f in OWN_LEGS.items()
        if (mm := f.read(str(data.get(name) or ""))) is not None
    }
    if 0 < len(legs) < len(("leg_a", "leg_b", "inserted")):
        raise reading.Refused(
            "own-leg_a", "Give both legs and how far the hose goes in, or leave all three empty."
        )
    if legs and abs(legs["leg_a"] + legs["leg_b"] - legs["inserted"] - take) > OFF_MM:
        right = legs["leg_a"] + legs["leg_b"] - legs["inserted"]
        raise reading.Refused(
            "own-take",
            f"Legs less the hose in it make {right:g} mm; write that, or look at the legs again.",
        )
    return own_end(angle, take, bore).model_copy(
        update={f"{k}_mm": v for k, v in legs.items()}
        | ({"take_up_mm": legs["leg_a"] + legs["leg_b"] - legs["inserted"]} if legs else {})
    )


@pages.get("/builds/<slug>/hoses/<view>")
def bench(slug: str, view: str) -> str | Response:
    """Another page of the bench; its pieces where JSON is asked for."""
    if view not in CONTEXTS:
        abort(404)
    return page_answer(
        answers.stored(slug),
        "stations/hoses/bench.html",
        {**{k: v[:20] for k, v in request.args.items()}, "page": "hoses", "view": view},
    )


@pages.post("/builds/<slug>/hoses/act")
def act(slug: str) -> Response:
    """Make one of the acts of the bench."""
    data = answers.body()
    return answer(
        answers.act(
            slug, data, lambda build: make_act(build, data), str(data.get("field") or "act")
        ),
        data,
    )


def _sheets(slug: str) -> tuple[answers.Stored, HoseSheets]:
    found = answers.stored(slug)
    return found, sheets_of(answers.designed(found))


@pages.get("/builds/<slug>/cut-list.csv")
def cut_list(slug: str) -> Response:
    """The cut list as CSV (RFC 4180)."""
    found, hose_sheets = _sheets(slug)
    return answers.file(
        csv_text(COLUMNS, ([of(row) for of in COLUMNS.values()] for row in hose_sheets.rows)),
        "text/csv",
        f"{found.row['slug']}-cut-list.csv",
    )


@pages.get("/builds/<slug>/buy-list.csv")
def buy_list(slug: str) -> Response:
    """The buy list as CSV, prices in the build's currency."""
    found, hose_sheets = _sheets(slug)
    rows = buy_rows(hose_sheets.bought, found.build.shop.money.rate)
    cells = ((*r, found.build.shop.money.currency) for r in rows)
    return answers.file(
        csv_text((*BUY_HEAD, "currency"), cells), "text/csv", f"{found.row['slug']}-buy-list.csv"
    )


@pages.get("/builds/<slug>/buy-list.xlsx")
def workbook(slug: str) -> Response:
    """Buy list and cut list as a spreadsheet."""
    found, hose_sheets = _sheets(slug)
    money = found.build.shop.money
    kind = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
    return answers.file(
        to_workbook(
            found.build.name, hose_sheets.bought, hose_sheets.rows, money.currency, money.rate
        ),
        kind,
        f"{found.row['slug']}-buy-list.xlsx",
    )


@pages.get("/builds/<slug>/hose-order.csv")
def hose_order(slug: str) -> Response:
    """The order for made hoses as CSV."""
    found, hose_sheets = _sheets(slug)
    rule = request.args.get("rule", "")
    said = found.build.shop.order
    head = (
        hose_sheets.study.fuel_demand.fuel.name,
        found.build.name,
        said.number,
        f"revision {found.row['head']} of {found.row['at'][:10]}",
        said.by,
        said.reach,
    )
    return answers.file(
        order_csv(alike(hose_sheets.orders), rule if rule in RULES else RULES[0], head),
        "text/csv",
        f"{found.row['slug']}-hose-order.csv",
    )


@pages.get("/builds/<slug>/plate.dxf")
def plate(slug: str) -> Response:
    """The plate as DXF in millimeters."""
    found = answers.stored(slug)
    sheet = make_plate(found.build)
    if sheet is None:
        abort(404)
    if sheet.troubles:
        abort(
            409,
            f"This plate is not drawn for cutting: {sheet.troubles[0]}. Move the parts on its page until nothing is flagged there.",
        )
    return answers.file(
        plate_dxf(sheet, found.build.name), "image/vnd.dxf", f"{found.row['slug']}-plate.dxf"
    )


def _angle(end: End | None) -> float | str:
    return end.angle_deg if end is not None else ""


# A column of the CSV: its name, and what it holds of a hose at the bench.
COLUMNS: dict[str, Callable[[HoseJob], Any]] = {
    "hose": lambda b: b.element.id,
    "runs": lambda b: b.element.runs,
    "role": lambda b: ROLES[b.element.role],
    "size": lambda b: b.element.properties.dash,
    "hose_title": lambda b: b.element.title,
    "seat_to_seat_mm": lambda b: round(b.cut.face_mm, 1),
    "cut_off_allowance_a_mm": lambda b: b.cut.take_up_mm[0],
    "cut_off_allowance_b_mm": lambda b: b.cut.take_up_mm[1],
    "cut_mm": lambda b: round(b.cut.cut_mm, 1) if b.cut.cut_mm is not None else "",
    "tolerance_mm": lambda b: round(b.tolerance_mm, 1),
    "cut_from_roll_mm": lambda b: round(b.piece_mm, 1) if b.piece_mm is not None else "",
    "made": lambda b: b.made_at,
    "length_is": lambda b: b.element.length.source if b.element.length is not None else "",
    "drawn_mm": lambda b: round(b.drawn_mm, 1) if b.drawn_mm is not None else "",
    "end_a_deg": lambda b: _angle(b.element.end_a),
    "end_b_deg": lambda b: _angle(b.element.end_b),
    "clocking_deg": lambda b: (
        "any"
        if not clocked(b.element)
        else "not known"
        if b.element.clock_deg is None
        else b.element.clock_deg
    ),
    "clocking_is": lambda b: (
        b.element.clock_source if clocked(b.element) and b.element.clock_deg is not None else ""
    ),
    "sleeves": lambda b: "; ".join(
        f"{kind} {start:.0f} to {end:.0f} mm" for kind, start, end in b.guards
    ),
    "label": lambda b: b.label,
    "equal_to": lambda b: b.group,
}
