"""Which unit each quantity is shown in, and a bare number takes: the reader's choice, kept in a
cookie.
"""

from dataclasses import dataclass, replace

from flask import (
    Blueprint,
    g,
    has_request_context,
    make_response,
    redirect,
    render_template,
    request,
)
from werkzeug.wrappers import Response

from tall_heron.web.door import inside

pages = Blueprint("units", __name__)
COOKIE = "units"
YEAR = 31_536_000


@dataclass(frozen=True)
class Unit:
    """A unit as it is typed, as it is shown, and with how many decimals."""

    word: str
    label: str
    decimals: int


# Quantities that share a choice follow the first; the first unit of each is the one of the trade's
# mix.
CHOICES: dict[str, tuple[Unit, ...]] = {
    "pressure": (Unit("psi", "psi", 1), Unit("bar", "bar", 2), Unit("kpa", "kPa", 0)),
    "volume_flow": (Unit("l/h", "L/h", 0), Unit("gph", "US gal/h", 1), Unit("l/min", "L/min", 2)),
    "power": (Unit("hp", "hp", 0), Unit("kw", "kW", 0), Unit("ps", "PS", 0)),
    "length": (Unit("mm", "mm", 0), Unit("in", "in", 2)),
    "temperature": (Unit("c", "°C", 0), Unit("f", "°F", 0)),
    "volume": (Unit("l", "L", 1), Unit("ci", "cu in", 0)),
    "tank_volume": (Unit("l", "L", 1), Unit("usgal", "US gal", 1)),
    "mass": (Unit("kg", "kg", 2), Unit("lb", "lb", 2)),
    "specific_consumption": (Unit("lb/hp/h", "lb/(hp·h)", 2), Unit("g/kwh", "g/kWh", 0)),
}
FOLLOWS = {
    "pressure_difference": "pressure",
    "pressure_absolute": "pressure",
    "temperature_difference": "temperature",
}
FIXED = {
    "fineness": Unit("um", "µm", 0),
    "voltage": Unit("v", "V", 1),
    "current": Unit("a", "A", 1),
    "resistance": Unit("ohm", "Ω", 0),
    "duration": Unit("min", "min", 0),
    "speed": Unit("rpm", "rpm", 0),
    "fraction": Unit("%", "%", 0),
}
LONG = {"mm": Unit("m", "m", 1), "in": Unit("ft", "ft", 1)}  # a run of hose, a height above the sea
SYSTEMS: dict[str, tuple[str, dict[str, str]]] = {
    "mixed": ("The trade's mix: psi, L/h, hp, mm, °C", {}),
    "us": (
        "US: psi, US gal/h, hp, inches, °F",
        {
            "volume_flow": "gph",
            "length": "in",
            "temperature": "f",
            "volume": "ci",
            "tank_volume": "usgal",
            "mass": "lb",
        },
    ),
    "metric": (
        "Metric: bar, L/h, kW, mm, °C",
        {"pressure": "bar", "power": "kw", "specific_consumption": "g/kwh"},
    ),
}
TITLES = {
    "pressure": "Pressure",
    "volume_flow": "Flow",
    "power": "Power",
    "length": "Length",
    "temperature": "Temperature",
    "volume": "Displacement",
    "tank_volume": "Fuel in tanks",
    "mass": "Mass",
    "specific_consumption": "Consumption",
}


def unit(quantity: str) -> Unit:
    """The unit a quantity is shown in, for the reader of this request; `run` is a long length,
    `height` one above the sea.
    """
    if quantity in FIXED:
        return FIXED[quantity]
    if quantity in ("run", "height"):
        return replace(LONG[unit("length").word], decimals=1 if quantity == "run" else 0)
    return _chosen()[FOLLOWS.get(quantity, quantity)]


def _chosen() -> dict[str, Unit]:
    if not has_request_context():
        return {quantity: units[0] for quantity, units in CHOICES.items()}
    if "units" not in g:
        g.units = read_choice(request.cookies.get(COOKIE, ""))
    found: dict[str, Unit] = g.units
    return found


def read_choice(text: str) -> dict[str, Unit]:
    """The units that a cookie's `pressure=bar&power=kw` asks for; what it does not say, or says
    wrongly, is as in the trade's mix.
    """
    wanted = dict(part.split("=", 1) for part in text.split("&") if "=" in part)
    return {
        quantity: next((u for u in units if u.word == wanted.get(quantity)), units[0])
        for quantity, units in CHOICES.items()
    }


@pages.get("/units")
def page() -> str:
    """Choose the units."""
    return render_template(
        "show/units.html",
        systems=SYSTEMS,
        choices=CHOICES,
        titles=TITLES,
        now=_chosen(),
        page="units",
    )


@pages.post("/units")
def choose() -> Response:
    """Keep the choice: a whole system, or each quantity by itself."""
    system = request.form.get("system", "")
    if system in SYSTEMS:
        words = SYSTEMS[system][1]
    else:
        words = {
            q: w
            for q in CHOICES
            if any(u.word == (w := request.form.get(q, "")) for u in CHOICES[q])
        }
    back = request.form.get("back", "")
    answer = make_response(redirect(inside(back), 303))
    answer.set_cookie(
        COOKIE, "&".join(f"{q}={w}" for q, w in words.items()), max_age=YEAR, samesite="Lax"
    )
    return answer
