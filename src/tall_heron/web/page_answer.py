"""An answer with the pieces of the page that a change came from; a piece that the page has already
is not sent again.
"""

import hashlib
from typing import Any

from flask import Response, jsonify, render_template, request

from tall_heron.web.answers import Stored, designed, marks
from tall_heron.web.forms.brief import FIELDS, field_text
from tall_heron.web.station import Page, all_pages


def answer(found: Stored, data: dict[str, Any], **more: Any) -> Response:
    """The changed pieces of the page that asked, by the id of the element they fill, with a mark
    for each; the fields' texts; the revision they show; and `more` as it is. What the page says it
    `have`s by its mark is left out.
    """
    page, context = _asked(found, data)
    names = {
        name: template
        for name, template in page.pieces.items()
        if name not in page.on_demand or data.get(name)
    }
    return pieces_answer(
        names,
        context,
        data,
        head=found.row["head"],
        fields={f.name: field_text(found.build, f) for f in FIELDS.values()},
        assumed=found.build.assumed,
        **more,
    )


def page_answer(found: Stored, template: str, asked: dict[str, Any]) -> str | Response:
    """A page whole, from its template; its pieces where JSON is asked for. `asked` is what a change
    made on it would send: its name, its view, what is chosen.
    """
    if request.accept_mimetypes.best == "application/json":
        return answer(found, {**asked, "have": marks()})
    return render_template(template, **_asked(found, asked)[1])


def _asked(found: Stored, data: dict[str, Any]) -> tuple[Page, dict[str, Any]]:
    """The page that is asked for, and what it shows."""
    named = str(data.get("page"))
    pages = all_pages()
    page = pages.get(f"{named} {data.get('view')}", pages.get(named, pages["circuit"]))
    return page, page.context(found, designed(found), lambda name: str(data.get(name) or ""))


def pieces_answer(
    names: dict[str, str], context: dict[str, Any], data: dict[str, Any], **more: Any
) -> Response:
    """Pieces rendered from their templates, those left out that the page has already."""
    have = data.get("have")
    known = have if isinstance(have, dict) else {}
    filled = {name: render_template(template, **context) for name, template in names.items()}
    made = {
        name: hashlib.blake2s(html.encode(), digest_size=6).hexdigest()
        for name, html in filled.items()
    }
    changed = {name: html for name, html in filled.items() if known.get(name) != made[name]}
    return jsonify(pieces=changed, marks=made, **more)


def in_words(words: str, code: int) -> tuple[Response | str, int]:
    """Why there is no answer, as what was asked for: JSON for a script, a page for a reader."""
    if request.accept_mimetypes.best == "application/json":
        return jsonify(field="", message=words), code
    return render_template("pieces/wrong.html", code=code, words=words), code
