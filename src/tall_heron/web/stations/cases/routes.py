"""Station 4, Cases: every moment against every requirement, and what each failure leaves."""

from typing import Any

from flask import Blueprint, Response, jsonify, render_template, request

from tall_heron.core.base.constants import CELSIUS
from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.base.units import ANGLE, GRAVITIES
from tall_heron.core.document.build import Build
from tall_heron.core.document.own_case import OwnCase
from tall_heron.core.editing.own_cases import add_case, hide_case, remove_case
from tall_heron.web import answers
from tall_heron.web.show.fields import limits_of
from tall_heron.web.show.text import number
from tall_heron.web.show.units import unit
from tall_heron.web.stations.cases.context import cases_context
from tall_heron.web.stations.cases.curves import curves_context
from tall_heron.web.stations.cases.failures import failures_context, listed
from tall_heron.web.stations.cases.heat import heat_context

pages = Blueprint("cases", __name__)


@pages.get("/builds/<slug>/cases")
def page(slug: str) -> str:
    """The cases of a build, with a swap tried in all of them where one is asked for."""
    found = answers.stored(slug)
    part, wanted = request.args.get("part", ""), request.args.get("try", "")
    return render_template("stations/cases/cases.html", listed=listed, own_fields=OWN_FIELDS, **cases_context(found, answers.designed(found), part, wanted))


@pages.get("/builds/<slug>/cases/failures")
def failures_page(slug: str) -> str:
    """Every single failure, one of them drawn."""
    found = answers.stored(slug)
    return render_template("stations/cases/failures.html", listed=listed, **failures_context(found, answers.designed(found), request.args.get("f", "")))


@pages.get("/builds/<slug>/cases/heat")
def heat_page(slug: str) -> str:
    """Suction, heat over a run, reserves, key off and on, what is shut in."""
    found = answers.stored(slug)
    return render_template("stations/cases/heat.html", **heat_context(found, answers.designed(found), request.args.get("pick", "")[:40]))


@pages.get("/builds/<slug>/cases/curves")
def curves_page(slug: str) -> str:
    """Pump chart, sweeps over power, pulses, the card for the dyno."""
    found = answers.stored(slug)
    return render_template("stations/cases/curves.html", **curves_context(found, answers.designed(found)))


@pages.post("/builds/<slug>/cases")
def change(slug: str) -> Response:
    """Add a case of one's own, take one away, hide one of those there are or show it again."""
    data = answers.body()
    act = answers.text_of(data, "act")
    if act == "add":
        fields = _read(data)

        def make(build: Build) -> tuple[Build, str]:
            try:
                return add_case(build, fields), f"Case added: {fields['name']}"
            except BuildErrors as errors:
                first = errors.errors[0]
                raise answers.Refused(first.field.strip("/").partition("/")[0] or "name", answers.sentence(first.message)) from None
    elif act in ("remove", "hide", "show"):
        key = answers.text_of(data, "key")[:80]

        def make(build: Build) -> tuple[Build, str]:
            if act == "remove":
                return remove_case(build, key), f"Case taken away: {key}"
            return hide_case(build, key, act == "hide"), f"Case {'hidden' if act == 'hide' else 'shown again'}: {key}"
    else:
        raise answers.Refused("act", "A case is added, taken away, hidden or shown again.")
    stored = answers.act(slug, data, make, "name" if act == "add" else "key")
    return jsonify(head=stored.row["head"])


# The form for a case of one's own: name, label, quantity, what stands under it.
OWN_FIELDS = (
    ("name", "What it is called", "", "such as Towing uphill"),
    ("power", "Demand, of that at peak", "fraction", "empty: 100 %"),
    ("fuel", "Fuel", "", "empty: the brief's"),
    ("temperature", "Fuel in the tank", "temperature", "empty: the brief's"),
    ("altitude", "Altitude", "height", "empty: the brief's"),
    ("manifold", "Manifold", "pressure", "gauge; empty: as at peak"),
    ("voltage", "At the pumps", "voltage", "empty: as at peak"),
    ("off", "Stopped or shut", "", "such as P2 K2"),
    ("clogging", "Clogged", "", "such as F2 3: three times its clean pressure drop"),
    ("ahead", "Speeds up by, g", "", "below 0: brakes"),
    ("left", "Turns left by, g", "", "below 0: right"),
    ("pitch", "Nose up, degrees", "", "below 0: down"),
    ("bank", "Right side down, degrees", "", "below 0: left"),
)


def _read(data: dict[str, Any]) -> dict[str, Any]:
    """The document's fields of a case that is typed. Refused at the first that is not right."""
    text = {name: str(data.get(name) or "").strip() for name, *_ in OWN_FIELDS}
    if not 1 <= len(text["name"]) <= 40:
        raise answers.Refused("name", "Give the case a name of 1 to 40 letters.")
    out: dict[str, Any] = {"name": text["name"]}
    for name, field, quantity, scale, offset in (
        ("power", "power_share", "fraction", 1.0, 0.0),
        ("temperature", "fuel_temperature_c", "temperature", 1.0, -CELSIUS),
        ("altitude", "altitude_m", "length", 1.0, 0.0),
        ("manifold", "manifold_kpa", "pressure", 1e-3, 0.0),
        ("voltage", "voltage_v", "voltage", 1.0, 0.0),
    ):
        if text[name]:
            out[field] = _within(name, field, _quantity(name, text[name], quantity) * scale + offset)
    for name, field in (("ahead", "ahead_g"), ("left", "left_g"), ("pitch", "pitch_deg"), ("bank", "bank_deg")):
        if text[name]:
            out[field] = _within(name, field, answers.plain(name, text[name], "1.5", GRAVITIES if field.endswith("_g") else ANGLE))
    if text["fuel"]:
        out["fuel"] = text["fuel"]
    if text["off"]:
        out["off"] = text["off"].replace(",", " ").split()
    if text["clogging"]:
        words = text["clogging"].replace("×", " ").replace(",", " ").split()
        if len(words) % 2:
            raise answers.Refused("clogging", "Write the filter and how many times its clean pressure drop, such as F2 3.")
        out["clogging"] = {a: answers.plain("clogging", b, "3") for a, b in zip(words[::2], words[1::2], strict=True)}
        if any(not 1 <= x <= MOST_TIMES for x in out["clogging"].values()):
            raise answers.Refused("clogging", f"A filter drops 1 to {MOST_TIMES} times its clean pressure drop.")
    return out


MOST_TIMES = 1000
SHOWN = {"power_share": (100, "%"), "fuel_temperature_c": (1, "°C"), "altitude_m": (1, "m"), "manifold_kpa": (1, "kPa"), "voltage_v": (1, "V"), "pitch_deg": (1, "°"), "bank_deg": (1, "°")}


def _within(name: str, field: str, value: float) -> float:
    low, high = limits_of(OwnCase, field)
    if not low <= value <= high:
        times, word = SHOWN.get(field, (1, "g"))
        raise answers.Refused(name, f"It lies between {number(low * times)} and {number(high * times)} {word}.")
    return value


def _quantity(name: str, text: str, quantity: str) -> float:
    return answers.parse_quantity(name, text, quantity, unit("height" if name == "altitude" else quantity).word)
