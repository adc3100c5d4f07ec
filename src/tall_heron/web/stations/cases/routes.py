"""Station 4, Cases: every moment against every requirement, and what each failure leaves."""

from typing import Any

from flask import Blueprint, Response, jsonify, render_template, request

from tall_heron.core.base.constants import CELSIUS
from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.build import Build
from tall_heron.core.document.own_case import OwnCase
from tall_heron.core.editing.own_cases import add_case, hide_case, remove_case
from tall_heron.web import answers
from tall_heron.web.forms import reading
from tall_heron.web.forms.field import Field, OfRecord
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
    return render_template(
        "stations/cases/cases.html",
        listed=listed,
        own_fields=OWN_FIELDS,
        **cases_context(found, answers.designed(found), part, wanted),
    )


@pages.get("/builds/<slug>/cases/failures")
def failures_page(slug: str) -> str:
    """Every single failure, one of them drawn."""
    found = answers.stored(slug)
    return render_template(
        "stations/cases/failures.html",
        listed=listed,
        **failures_context(found, answers.designed(found), request.args.get("f", "")),
    )


@pages.get("/builds/<slug>/cases/heat")
def heat_page(slug: str) -> str:
    """Suction, heat over a run, reserves, key off and on, what is shut in."""
    found = answers.stored(slug)
    return render_template(
        "stations/cases/heat.html",
        **heat_context(found, answers.designed(found), request.args.get("pick", "")[:40]),
    )


@pages.get("/builds/<slug>/cases/curves")
def curves_page(slug: str) -> str:
    """Pump chart, sweeps over power, pulses, the card for the dyno."""
    found = answers.stored(slug)
    return render_template(
        "stations/cases/curves.html", **curves_context(found, answers.designed(found))
    )


@pages.post("/builds/<slug>/cases")
def change(slug: str) -> Response:
    """Add a case of one's own, take one away, hide one of those there are or show it again."""
    data = answers.body()
    act = reading.text_of(data, "act")
    if act == "add":
        fields = _read(data)

        def make(build: Build) -> tuple[Build, str]:
            try:
                return add_case(build, fields), f"Case added: {fields['name']}"
            except BuildErrors as errors:
                first = errors.errors[0]
                raise reading.Refused(
                    first.field.strip("/").partition("/")[0] or "name",
                    reading.sentence(first.message),
                ) from None
    elif act in ("remove", "hide", "show"):
        key = reading.text_of(data, "key")[:80]

        def make(build: Build) -> tuple[Build, str]:
            if act == "remove":
                return remove_case(build, key), f"Case taken away: {key}"
            return hide_case(
                build, key, act == "hide"
            ), f"Case {'hidden' if act == 'hide' else 'shown again'}: {key}"
    else:
        raise reading.Refused("act", "A case is added, taken away, hidden or shown again.")
    stored = answers.act(slug, data, make, "name" if act == "add" else "key")
    return jsonify(head=stored.row["head"])


MOST_TIMES = 1000


def _of_case(
    name: str,
    label: str,
    of: str,
    quantity: str = "",
    *,
    note: str,
    sort: str = "text",
    scale: float = 1.0,
    offset: float = 0.0,
    measure: str = "",
) -> Field:
    """A field that fills one of a case's, within its bounds."""
    return Field(
        name,
        label,
        quantity,
        scale,
        offset,
        note,
        optional=True,
        measure=measure,
        sort=sort,
        bounds=OfRecord(OwnCase, of),
    )


# The form for a case of one's own, and the fields of the document that its figures fill.
FIGURES = (
    _of_case("power", "Demand, of that at peak", "power_share", "fraction", note="empty: 100 %"),
    _of_case(
        "temperature",
        "Fuel in the tank",
        "fuel_temperature_c",
        "temperature",
        note="empty: the brief's",
        offset=-CELSIUS,
    ),
    _of_case(
        "altitude", "Altitude", "altitude_m", "length", note="empty: the brief's", measure="height"
    ),
    _of_case(
        "manifold",
        "Manifold",
        "manifold_kpa",
        "pressure",
        note="gauge; empty: as at peak",
        scale=1e-3,
    ),
    _of_case("voltage", "At the pumps", "voltage_v", "voltage", note="empty: as at peak"),
    _of_case("ahead", "Speeds up by", "ahead_g", note="below 0: brakes", sort="gravities"),
    _of_case("left", "Turns left by", "left_g", note="below 0: right", sort="gravities"),
    _of_case("pitch", "Nose up", "pitch_deg", note="below 0: down", sort="angle"),
    _of_case("bank", "Right side down", "bank_deg", note="below 0: left", sort="angle"),
)
OWN_FIELDS = (
    Field("name", "What it is called", note="such as Towing uphill"),
    FIGURES[0],
    Field("fuel", "Fuel", note="empty: the brief's", optional=True),
    *FIGURES[1:5],
    Field("off", "Stopped or shut", note="such as P2 K2", optional=True),
    Field(
        "clogging",
        "Clogged",
        note="such as F2 3: three times its clean pressure drop",
        optional=True,
    ),
    *FIGURES[5:],
)
TIMES = Field("clogging", "Clogged", sort="number", note="F2 3", bounds=(1.0, float(MOST_TIMES)))


def _read(data: dict[str, Any]) -> dict[str, Any]:
    """The document's fields of a case that is typed. Refused at the first that is not right."""
    text = {f.name: str(data.get(f.name) or "").strip() for f in OWN_FIELDS}
    if not 1 <= len(text["name"]) <= 40:
        raise reading.Refused("name", "Give the case a name of 1 to 40 letters.")
    out: dict[str, Any] = {"name": text["name"]}
    for field in FIGURES:
        assert isinstance(field.bounds, OfRecord)
        value = field.of(data)
        if value is not None:
            out[field.bounds.name] = value
    if text["fuel"]:
        out["fuel"] = text["fuel"]
    if text["off"]:
        out["off"] = text["off"].replace(",", " ").split()
    if text["clogging"]:
        words = text["clogging"].replace("×", " ").replace(",", " ").split()
        if len(words) % 2:
            raise reading.Refused(
                "clogging",
                "Write the filter and how many times its clean pressure drop, such as F2 3.",
            )
        out["clogging"] = {a: TIMES.read(b) for a, b in zip(words[::2], words[1::2], strict=True)}
    return out
