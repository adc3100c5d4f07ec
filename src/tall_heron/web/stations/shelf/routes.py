"""The shelf: every part there is to fit, and the builder's own."""

from typing import Any

from flask import Blueprint, Response, g, jsonify, render_template

from tall_heron.core.document.circuit import PumpMap
from tall_heron.core.document.kinds import KINDS
from tall_heron.core.shelf import shelf
from tall_heron.core.shelf.own_part import ADAPTER, stem_of
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
    name = own_parts.add(g.connection, stem_of(own.title), ADAPTER.dump_json(own, exclude_none=True).decode())
    return jsonify(name=name, title=own.title, piece=render_template("stations/shelf/own_parts.jinja", **_context()))


@pages.post("/shelf/off")
def take_off() -> Response:
    """Take a part of one's own off the shelf; builds that hold it keep it."""
    name = answers.text_of(answers.body(), "name")
    if not own_parts.take_off(g.connection, name):
        raise answers.Refused("name", "There is no such part of your own on the shelf.")
    return jsonify(name=name, piece=render_template("stations/shelf/own_parts.jinja", **_context()))
