"""Station 1, Brief: what the engine is and what is asked of it."""

from flask import Blueprint, Response, render_template, request

from tall_heron.core.build import Build
from tall_heron.core.design import design
from tall_heron.core.edit import set_brief, set_price
from tall_heron.core.other_fuels import make_fuel_rows
from tall_heron.web import answers
from tall_heron.web import pages as page_pieces
from tall_heron.web.brief_fields import FIELDS, field_text, read_field

pages = Blueprint("brief", __name__)


@pages.get("/builds/<slug>/brief")
def page(slug: str) -> str | Response:
    """The brief of a build; its pieces, the table of other fuels among them, where JSON is asked for."""
    found = answers.stored(slug)
    if request.accept_mimetypes.best == "application/json":
        return page_pieces.answer(found, {"page": "brief", "fuels": True})
    return render_template("brief.html", **page_pieces.brief_context(found, design(found.build)))


@pages.post("/builds/<slug>/brief")
def change(slug: str) -> Response:
    """Set one field of the brief."""
    data = answers.body()
    field = FIELDS.get(answers.text_of(data, "field"))
    if field is None:
        raise answers.Refused("field", "There is no such field in a brief.")
    value, typed = read_field(field, answers.text_of(data, "text"))

    def make(build: Build) -> tuple[Build, str]:
        before = field_text(build, field) or "as usual"
        new = set_brief(build, field.name, value, typed)
        return new, f"{field.label}: {before} to {field_text(new, field) or 'as usual'}"

    return page_pieces.answer(answers.act(slug, data, make, field.name), data)


@pages.post("/builds/<slug>/price")
def price(slug: str) -> Response:
    """Set what a litre of a fuel costs; empty forgets it."""
    data = answers.body()
    fuel, text = (
        answers.text_of(data, "fuel"),
        answers.text_of(data, "text").strip().removeprefix("$").removesuffix("$/L").removesuffix("$").strip(),
    )
    if fuel not in {r.fuel for r in make_fuel_rows(answers.stored(slug).build)}:
        raise answers.Refused("price", "There is no such fuel here.")
    try:
        value = float(text.replace(",", ".")) if text else None
    except ValueError:
        raise answers.Refused("price", "Write what a litre costs, such as 1.85.") from None

    def make(build: Build) -> tuple[Build, str]:
        return set_price(build, fuel, value), f"{fuel} costs {'nothing known' if value is None else f'{value:g} $/L'}"

    return page_pieces.answer(answers.act(slug, data, make, "price"), data)
