"""Whom the builder buys from: typed once, fed by the lists they send."""

from typing import Any

from flask import Blueprint, Response, g, jsonify, render_template, request
from pydantic import ValidationError

from tall_heron.core.shelf.supplier import MOST_DAYS, Supplier, read_stock
from tall_heron.store import suppliers
from tall_heron.web import answers
from tall_heron.web.forms import reading

pages = Blueprint("suppliers", __name__)


def suppliers_context() -> dict[str, Any]:
    """Every supplier with how many items his list has, and of which own parts he is said to be the
    one.
    """
    market = answers.market()
    at = {row["name"]: row["at"] for row in suppliers.every(g.connection)}
    return {
        "market": market,
        "listed_at": at,
        "sold": {
            s.name: sum(name == s.name for name in market.buys.values()) for s in market.suppliers
        },
    }


def _piece(**said: Any) -> Response:
    g.pop("market", None)
    return jsonify(
        ok=True,
        piece=render_template("stations/shelf/suppliers.jinja", **suppliers_context()),
        **said,
    )


@pages.post("/shelf/suppliers")
def keep() -> Response:
    """Keep what is known of a supplier."""
    data = answers.body()
    name, days = reading.text_of(data, "name").strip(), str(data.get("days") or "").strip()
    if not name or not name.isprintable():
        raise reading.Refused("name", "Write whom you buy from, on one line.")
    if days and not (days.isascii() and days.isdigit() and int(days) <= MOST_DAYS):
        raise reading.Refused("days", f"Days are a whole number up to {MOST_DAYS}, or nothing.")
    currency = str(data.get("currency") or "").strip().upper()
    try:
        known = Supplier(
            name=name,
            days=int(days) if days else None,
            currency=currency,
            account=str(data.get("account") or "").strip(),
        )
    except ValidationError as error:
        field = str(error.errors()[0]["loc"][0])
        words = {
            "currency": "A currency has three letters, such as USD.",
            "name": "A name has at most 60 letters.",
            "account": "At most 80 letters.",
        }
        raise reading.Refused(field, words.get(field, error.errors()[0]["msg"])) from None
    suppliers.keep(g.connection, name, known.model_dump_json())
    return _piece(name=name)


@pages.post("/shelf/suppliers/list")
def feed() -> Response:
    """Read a supplier's stock list in; with a fault nothing of it is taken."""
    name = request.args.get("name", "")
    try:
        text = request.get_data().decode("utf-8")
        rows = read_stock(text)
    except UnicodeDecodeError:
        raise reading.Refused("list", "This is no text in UTF-8.") from None
    except ValueError as error:
        raise reading.Refused("list", str(error)) from None
    if not suppliers.keep_list(g.connection, name, text):
        raise reading.Refused("list", "There is no such supplier any more.")
    return _piece(taken=len(rows))


@pages.post("/shelf/suppliers/off")
def take_off() -> Response:
    """Forget a supplier and his list; parts keep his name."""
    if not suppliers.take_off(g.connection, reading.text_of(answers.body(), "name")):
        raise reading.Refused("name", "There is no such supplier.")
    return _piece()
