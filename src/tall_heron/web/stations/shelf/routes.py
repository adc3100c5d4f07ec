"""The shelf: every part there is to fit, and the builder's own."""

from typing import Any

from flask import Blueprint, Response, abort, g, jsonify, render_template, request

from tall_heron.core.document.figures import PumpMap
from tall_heron.core.document.kinds import KINDS
from tall_heron.core.shelf import shelf
from tall_heron.core.shelf.own_part import OwnPart, kept, stem_of, stored
from tall_heron.core.shelf.pack import PackFaults, compared, pack_csv, pack_json, read_pack, schema
from tall_heron.store import own_parts
from tall_heron.web import answers
from tall_heron.web.drawing.charts.pump_curve import draw_pump
from tall_heron.web.stations.shelf.own_fields import COMMON, KINDS_OF_OWN, curves_of, read_own
from tall_heron.web.stations.shelf.rows import shelf_groups

pages = Blueprint("shelf", __name__)


@pages.get("/shelf")
def page() -> str:
    """Everything on the shelf by kind, the builder's own first."""
    return render_template("stations/shelf/shelf.html", **_context(), kinds=KINDS_OF_OWN.values(), common=COMMON, page="shelf")


def _context() -> dict[str, Any]:
    own = answers.own_shelf()
    return {"groups": shelf_groups([*own, *shelf.parts().values()]), "own": own, "words": KINDS}


@pages.post("/shelf/preview")
def preview() -> Response:
    """A pump's table as it would be fitted: how it was read, what is wrong with it, the curve."""
    table = curves_of(answers.body())
    chart = draw_pump(PumpMap(curves=list(table.curves))) if table.curves else None
    return jsonify(ok=not table.wrong, piece=render_template("stations/shelf/pump_curve.jinja", table=table, chart=chart))


@pages.post("/shelf")
def add() -> Response:
    """Put a part of one's own on the shelf."""
    data = answers.body()
    kind = KINDS_OF_OWN.get(answers.text_of(data, "kind"))
    if kind is None:
        raise answers.Refused("kind", "Choose what it is.")
    own = read_own(kind, data)
    if not data.get("second") and any(p.title == own.title for p in _own_parts().values()):
        raise answers.Refused("second", f"There is a {own.title} of yours on the shelf already. Call this one otherwise, or put it there as a second one.")
    name = own_parts.add(g.connection, stem_of(own.title), stored(own))
    return jsonify(name=name, title=own.title, piece=render_template("stations/shelf/own_parts.jinja", **_context()))


@pages.get("/shelf/pack.<kind>")
def pack_out(kind: str) -> Response:
    """The parts of one's own as a pack, to hand on."""
    parts = _own_parts()
    if kind == "csv":
        return answers.file(pack_csv(parts), "text/csv", "shelf-pack.csv")
    if kind == "schema.json":
        return jsonify(schema())
    if kind != "json":
        abort(404)
    return answers.file(pack_json(parts), "application/json", "shelf-pack.json")


@pages.post("/shelf/pack")
def pack_in() -> Response:
    """A pack looked at beside the shelf, and taken whole where that is asked for; with faults nothing is taken."""
    try:
        pack = read_pack(request.get_data().decode("utf-8"))
    except UnicodeDecodeError:
        raise answers.Refused("pack", "This is no text in UTF-8.") from None
    except PackFaults as wrong:
        piece = render_template("stations/shelf/pack.jinja", faults=wrong.faults, found=[])
        return jsonify(ok=False, piece=piece, faults=[[f.row, f.column, f.says] for f in wrong.faults])
    if request.args.get("take"):
        own_parts.merge(g.connection, [(name, stored(part)) for name, part in pack.items()])
        piece = render_template("stations/shelf/pack.jinja", faults=[], found=[], taken=len(pack))
        return jsonify(ok=True, taken=len(pack), piece=piece, own=render_template("stations/shelf/own_parts.jinja", **_context()))
    return jsonify(ok=True, piece=render_template("stations/shelf/pack.jinja", faults=[], found=compared(pack, _own_parts())))


def _own_parts() -> dict[str, OwnPart]:
    """The parts of one's own by their names, the oldest first."""
    rows = reversed(own_parts.every(g.connection))
    return {row["name"]: kept(row["document"]) for row in rows}


@pages.post("/shelf/off")
def take_off() -> Response:
    """Take a part of one's own off the shelf; builds that hold it keep it."""
    name = answers.text_of(answers.body(), "name")
    if not own_parts.take_off(g.connection, name):
        raise answers.Refused("name", "There is no such part of your own on the shelf.")
    return jsonify(name=name, piece=render_template("stations/shelf/own_parts.jinja", **_context()))
