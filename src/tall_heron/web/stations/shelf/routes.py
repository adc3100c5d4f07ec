"""The shelf: every part there is to fit, and the builder's own."""

import json
from typing import Any

from flask import Blueprint, Response, abort, g, jsonify, render_template, request

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.build import Build
from tall_heron.core.document.figures import PumpMap
from tall_heron.core.document.kinds import KINDS
from tall_heron.core.editing.fields import with_part
from tall_heron.core.shelf import shelf
from tall_heron.core.shelf.own_part import MOST_TYPED, STEM, OwnPart, read_own_part, stem_of, stored
from tall_heron.core.shelf.pack import PackFaults, compared, pack_csv, pack_json, read_pack, schema
from tall_heron.core.shelf.sheet_text import read_sheet
from tall_heron.core.shelf.shelf import ShelfPart
from tall_heron.store import builds, own_parts
from tall_heron.web import answers
from tall_heron.web.drawing.charts.pump_curve import draw_pump
from tall_heron.web.forms import reading
from tall_heron.web.stations.shelf.own_field import curves_of
from tall_heron.web.stations.shelf.own_form import COMMON, read_own
from tall_heron.web.stations.shelf.own_kinds import KINDS_OF_OWN
from tall_heron.web.stations.shelf.own_more import more_of
from tall_heron.web.stations.shelf.rows import shelf_groups
from tall_heron.web.stations.shelf.suppliers import suppliers_context

pages = Blueprint("shelf", __name__)


@pages.get("/shelf")
def page() -> str:
    """Everything on the shelf by kind, the builder's own first."""
    folded = {k: more_of(kind) for k, kind in KINDS_OF_OWN.items()}
    return render_template(
        "stations/shelf/shelf.html",
        **_context(),
        **suppliers_context(),
        more=folded,
        kinds=KINDS_OF_OWN.values(),
        common=COMMON,
        page="shelf",
    )


def _context() -> dict[str, Any]:
    own = answers.own_shelf()
    typed = {
        name: json.dumps(part.typed, ensure_ascii=False)
        for name, part in _own_parts().items()
        if part.typed
    }
    return {
        "groups": shelf_groups([*own, *shelf.parts().values()]),
        "own": own,
        "words": KINDS,
        "typed": typed,
        "uses": _uses(own),
    }


@pages.post("/shelf/preview")
def preview() -> Response:
    """A pump's table as it would be fitted: how it was read, what is wrong with it, the curve."""
    table = curves_of(answers.body())
    chart = draw_pump(PumpMap(curves=list(table.curves))) if table.curves else None
    return jsonify(
        ok=not table.wrong,
        piece=render_template("stations/shelf/pump_curve.jinja", table=table, chart=chart),
    )


@pages.post("/shelf/sheet")
def sheet() -> Response:
    """A maker's sheet that was pasted, put under the fields of the form; nothing is kept."""
    data = answers.body()
    kind = str(data.get("kind") or "")
    try:
        read = read_sheet(str(data.get("sheet") or ""), kind if kind in KINDS_OF_OWN else "")
    except ValueError as error:
        raise reading.Refused("sheet", str(error)) from None
    return jsonify(kind=read.kind, texts=read.texts, unread=read.unread[:12])


@pages.post("/shelf")
def add() -> Response:
    """Put a part of one's own on the shelf."""
    data = answers.body()
    kind = KINDS_OF_OWN.get(reading.text_of(data, "kind"))
    if kind is None:
        raise reading.Refused("kind", "Choose what it is.")
    known, edits = _own_parts(), str(data.get("edits") or "")
    if edits and edits not in known:
        raise reading.Refused(
            "second",
            "That part is no longer on the shelf: somebody took it off meanwhile. Put this one there anew.",
        )
    typed = {
        k: v
        for k, v in data.items()
        if isinstance(v, str) and k not in ("edits", "second") and len(v) <= MOST_TYPED
    }
    own = read_own(kind, data).model_copy(update={"typed": typed})
    if not data.get("second") and any(
        p.title == own.title for name, p in known.items() if name != edits
    ):
        raise reading.Refused(
            "second",
            f"There is a {own.title} of yours on the shelf already. Call this one otherwise, or put it there as a second one.",
        )
    name = edits or own_parts.add(g.connection, stem_of(own.title), stored(own))
    if edits:
        own_parts.merge(g.connection, [(name, stored(own))])
    return jsonify(
        name=name,
        title=own.title,
        edited=bool(edits),
        piece=render_template("stations/shelf/own_parts.jinja", **_context()),
    )


@pages.post("/shelf/renew")
def renew() -> Response:
    """Bring a part as it is on the shelf now into a build that holds it as it was: one act, which
    can be undone there.
    """
    data = answers.body()
    name, slug = reading.text_of(data, "name"), reading.text_of(data, "slug")
    own = {p.name: p for p in answers.own_shelf()}
    row = builds.head(g.connection, slug)
    if name not in own or row is None:
        raise reading.Refused(
            "name", "There is no such part of your own on the shelf, or no such build."
        )

    answers.act(
        slug,
        {"head": row["head"]},
        lambda build: (_renewed(build, own[name]), f"{own[name].title} as it is on the shelf now"),
        "name",
    )
    return jsonify(name=name, piece=render_template("stations/shelf/own_parts.jinja", **_context()))


def _renewed(build: Build, part: ShelfPart) -> Build:
    """A build with a part as it is on the shelf now, wherever it holds it. Raises BuildErrors."""
    for e in [e for e in build.circuit.elements if e.shelf == part.name]:
        build = with_part(build, e.id, part)
    return build


def _holds(build: Build, part: ShelfPart) -> bool:
    """Whether a build holds a part just as it is on the shelf now."""
    try:
        return _renewed(build, part).circuit == build.circuit
    except BuildErrors:
        return False


def _uses(own: list[ShelfPart]) -> dict[str, list[dict[str, Any]]]:
    """By a part's name the builds that hold it: their address, name, whether each is signed, and
    whether it holds the part as it is on the shelf now.
    """
    parts: dict[str, list[dict[str, Any]]] = {p.name: [] for p in own}
    now = {p.name: p for p in own}
    for row in builds.holding(g.connection, STEM) if own else ():
        try:
            build = answers.build_of(row)
        except (BuildErrors, builds.Altered):
            continue
        for name in dict.fromkeys(e.shelf for e in build.circuit.elements if e.shelf in parts):
            parts[name].append(
                {
                    "slug": row["slug"],
                    "name": row["name"],
                    "signed": bool(row["signed"]),
                    "same": _holds(build, now[name]),
                }
            )
    return parts


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
    """A pack looked at beside the shelf, and taken whole where that is asked for; with faults
    nothing is taken.
    """
    try:
        pack = read_pack(request.get_data().decode("utf-8"))
    except UnicodeDecodeError:
        raise reading.Refused("pack", "This is no text in UTF-8.") from None
    except PackFaults as wrong:
        piece = render_template("stations/shelf/pack.jinja", faults=wrong.faults, found=[])
        return jsonify(
            ok=False, piece=piece, faults=[[f.row, f.column, f.says] for f in wrong.faults]
        )
    if request.args.get("take"):
        own_parts.merge(g.connection, [(name, stored(part)) for name, part in pack.items()])
        piece = render_template("stations/shelf/pack.jinja", faults=[], found=[], taken=len(pack))
        return jsonify(
            ok=True,
            taken=len(pack),
            piece=piece,
            own=render_template("stations/shelf/own_parts.jinja", **_context()),
        )
    return jsonify(
        ok=True,
        piece=render_template(
            "stations/shelf/pack.jinja", faults=[], found=compared(pack, _own_parts())
        ),
    )


def _own_parts() -> dict[str, OwnPart]:
    """The parts of one's own by their names, the oldest first."""
    rows = reversed(own_parts.every(g.connection))
    return {row["name"]: read_own_part(row["document"]) for row in rows}


@pages.post("/shelf/off")
def take_off() -> Response:
    """Take a part of one's own off the shelf; builds that hold it keep it."""
    name = reading.text_of(answers.body(), "name")
    if not own_parts.take_off(g.connection, name):
        raise reading.Refused("name", "There is no such part of your own on the shelf.")
    return jsonify(name=name, piece=render_template("stations/shelf/own_parts.jinja", **_context()))
