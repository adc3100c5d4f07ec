"""What a typed text means in the shown unit, before it is kept."""

from flask import Blueprint, Response, jsonify, request

from tall_heron.core.base.units import QUANTITIES, parse, show
from tall_heron.core.line.reading import LONGEST, read_line
from tall_heron.web.show.text import number

pages = Blueprint("convert", __name__)


@pages.get("/read-line")
def line() -> Response:
    """How one free line is read, before a build is started from it."""
    read = read_line(request.args.get("text", "")[:LONGEST])
    said = [f"{p.text}: {p.means}" for p in read.pieces if p.state != "asked"]
    return jsonify(
        said=", ".join(said), asked=", ".join(q.text for q in read.questions) if read.says else ""
    )


@pages.get("/convert")
def convert() -> Response:
    """The text read as a quantity and shown in a unit; a message where it cannot be read."""
    text, quantity, unit = (request.args.get(x, "") for x in ("text", "quantity", "unit"))
    shown = request.args.get("shown", unit)
    if quantity not in QUANTITIES or unit not in QUANTITIES[quantity].words or not text.strip():
        return jsonify(shown="", message="")
    try:
        value = show(parse(text, quantity, unit), quantity, unit)
    except ValueError as error:
        return jsonify(shown="", message=str(error))
    digits = 0 if abs(value) >= 1000 else 1 if abs(value) >= 10 else 2
    return jsonify(shown=f"{number(value, digits)} {shown[:12]}", message="")
