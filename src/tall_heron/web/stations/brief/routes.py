"""Station 1, Brief: what the engine is and what is asked of it."""

from flask import Blueprint, Response, render_template, request
from pydantic import ValidationError

from tall_heron.core.begin.started import answered_question, on_hand, with_parts, without_part
from tall_heron.core.document.build import Build, readable
from tall_heron.core.document.own_fuel import OwnFuel
from tall_heron.core.editing.fields import set_brief, set_own_fuel, set_price
from tall_heron.core.line.reading import LONGEST
from tall_heron.core.sizing.other_fuels import fuel_names
from tall_heron.web import answers
from tall_heron.web.forms import reading
from tall_heron.web.forms.brief import FIELDS, field_text, read_field
from tall_heron.web.forms.field import Field
from tall_heron.web.page_answer import answer
from tall_heron.web.show.text import CURRENCY
from tall_heron.web.stations.brief.context import brief_context, keep_on_shelf
from tall_heron.web.stations.shelf.own_field import read_one

pages = Blueprint("brief", __name__)


@pages.get("/builds/<slug>/brief")
def page(slug: str) -> str | Response:
    """The brief of a build; its pieces, the table of other fuels among them, where JSON is asked
    for.
    """
    found = answers.stored(slug)
    if request.accept_mimetypes.best == "application/json":
        return answer(found, {"page": "brief", "fuels": True})
    return render_template(
        "stations/brief/brief.html",
        own_fuel=OWN_FUEL,
        **brief_context(found, answers.designed(found)),
    )


@pages.post("/builds/<slug>/brief")
def change(slug: str) -> Response:
    """Set one field of the brief."""
    data = answers.body()
    field = FIELDS.get(reading.text_of(data, "field"))
    if field is None:
        raise reading.Refused("field", "There is no such field in a brief.")
    value, typed = read_field(field, reading.text_of(data, "text"))

    def make(build: Build) -> tuple[Build, str]:
        before = field_text(build, field) or "as usual"
        new = set_brief(build, field.name, value, typed)
        return new, f"{field.label}: {before} to {field_text(new, field) or 'as usual'}"

    return answer(answers.act(slug, data, make, field.name), data)


@pages.post("/builds/<slug>/said")
def said(slug: str) -> Response:
    """Answer a question about the line that a build was started from, by one of its guesses, or let
    it be.
    """
    data = answers.body()
    text, guess = reading.text_of(data, "question"), reading.text_of(data, "guess")
    fresh = bool(answers.stored(slug).row["fresh"])

    def make(build: Build) -> tuple[Build, str]:
        return answered_question(
            build, text, guess, fresh
        ), f"{'Answered: ' if fresh else ''}{text[:40]}{f' is {guess}' if guess else ' let be'}"

    return answer(answers.act(slug, data, make, "question", fresh), data)


@pages.post("/builds/<slug>/have")
def have(slug: str) -> Response:
    """Keep parts that the builder has, said as in a line; or forget one of them."""
    data = answers.body()
    text, off = reading.text_of(data, "text").strip()[:LONGEST], data.get("off") is True
    fresh = bool(answers.stored(slug).row["fresh"])

    def make(build: Build) -> tuple[Build, str]:
        if off:
            return without_part(build, text), f"{text[:40]}: no longer kept"
        return with_parts(build, text, fresh), f"{'Answered: ' if fresh else ''}kept: {text[:40]}"

    found = answers.act(slug, data, make, "have", fresh and not off)
    keep_on_shelf(on_hand(found.build))
    return answer(found, data)


OWN_FUEL = (
    Field("name", "What it is called", note="up to 20 letters"),
    Field("density", "Density at 15 °C, kg/L", sort="number", note="such as 0.745"),
    Field("ratio", "Air to fuel, stoichiometric", sort="number", note="kg/kg, such as 14.1"),
    Field("heat", "Heating value, MJ/kg", sort="number", note="such as 42"),
    Field("viscosity_20", "Viscosity at 20 °C, mPa s", sort="number", note="such as 0.55"),
    Field("viscosity_40", "Viscosity at 40 °C, mPa s", sort="number", note="such as 0.43"),
    Field(
        "reid",
        "Reid vapor pressure",
        "pressure",
        on_sheet=("kpa", "kPa"),
        note="absolute, such as 62",
    ),
    Field(
        "boils",
        "Boils like",
        choices=(
            ("", "what it mostly is"),
            ("gasoline", "gasoline"),
            ("avgas", "aviation gasoline"),
            ("ethanol", "ethanol"),
            ("methanol", "methanol"),
        ),
    ),
    Field(
        "vapor_60",
        "Vapor pressure at 60 °C",
        "pressure",
        on_sheet=("kpa", "kPa"),
        note="absolute; empty: by what it boils like",
        optional=True,
    ),
    Field("ethanol", "Ethanol in it", "fraction"),
    Field("methanol", "Methanol in it", choices=(("no", "none"), ("yes", "some"))),
)


@pages.post("/builds/<slug>/own-fuel")
def own_fuel(slug: str) -> Response:
    """Describe a fuel of one's own by its sheet, and run on it."""
    data = answers.body()
    values = {
        f.name: read_one(f, {**data, f.name: data.get(f"fuel_{f.name}")})
        for f in OWN_FUEL
        if f.name != "name"
    }
    try:
        fuel = OwnFuel(
            name=str(data.get("fuel_name") or "").strip(),
            density_kg_m3=values["density"] * 1000,
            stoichiometric_ratio=values["ratio"],
            heating_value_mj_kg=values["heat"],
            viscosity_20_mpa_s=values["viscosity_20"],
            viscosity_40_mpa_s=values["viscosity_40"],
            reid_vapour_kpa=values["reid"] / 1000,
            ethanol_percent=values["ethanol"] * 100,
            methanol=values["methanol"] == "yes",
            boils_like=values["boils"] or None,
            vapour_60_kpa=values["vapor_60"] / 1000 if values["vapor_60"] is not None else None,
        )
    except ValidationError as error:
        first = error.errors()[0]
        field = MADE_FROM.get(str(first["loc"][0]), "name")
        raise reading.Refused(field, reading.sentence(readable(first).message)) from None

    def make(build: Build) -> tuple[Build, str]:
        return set_own_fuel(build, fuel), f"Fuel: {fuel.name}, by its own figures"

    return answer(answers.act(slug, data, make, "name"), data)


MADE_FROM = {
    "density_kg_m3": "density",
    "stoichiometric_ratio": "ratio",
    "heating_value_mj_kg": "heat",
    "viscosity_20_mpa_s": "viscosity_20",
    "viscosity_40_mpa_s": "viscosity_40",
    "reid_vapour_kpa": "reid",
    "vapour_60_kpa": "vapor_60",
    "ethanol_percent": "ethanol",
}


PRICE = Field("text", "Price", sort="money", note="1.85", optional=True)


@pages.post("/builds/<slug>/price")
def price(slug: str) -> Response:
    """Set what a litre of a fuel costs; empty forgets it."""
    data = answers.body()
    fuel, text = reading.text_of(data, "fuel"), reading.text_of(data, "text").strip()
    build = answers.stored(slug).build
    if build.brief is None or fuel not in {
        build.brief.fuel_of(name).name for name in fuel_names(build)
    }:
        raise reading.Refused("fuel", "There is no such fuel here.")
    value = PRICE.read(text)

    def make(build: Build) -> tuple[Build, str]:
        return set_price(
            build, fuel, value
        ), f"{fuel} costs {'nothing known' if value is None else f'{value:g} {CURRENCY}/L'}"

    return answer(answers.act(slug, data, make, "text"), data)
