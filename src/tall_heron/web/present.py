"""Numbers to display text: units, decimals, words. The one place where the wording of figures is decided."""

from datetime import UTC, datetime

from flask import Flask
from markupsafe import Markup, escape

from tall_heron.core.chooser import Reason
from tall_heron.core.finding import Figure, Finding
from tall_heron.core.units import show

# quantity -> (unit as typed, unit as shown, decimals)
UNITS: dict[str, tuple[str, str, int]] = {
    "pressure": ("psi", "psi", 1),
    "pressure_difference": ("psi", "psi", 1),
    "pressure_absolute": ("psi", "psi", 1),
    "volume_flow": ("l/h", "L/h", 0),
    "power": ("hp", "hp", 0),
    "length": ("mm", "mm", 0),
    "fineness": ("um", "µm", 0),
    "temperature": ("c", "°C", 0),
    "voltage": ("v", "V", 1),
    "volume": ("l", "L", 1),
    "specific_consumption": ("lb/hp/h", "lb/(hp·h)", 2),
    "speed": ("rpm", "rpm", 0),
    "fraction": ("%", "%", 0),
}
ROLES = {"feed": "F", "return": "R", "suction": "S", "vent": "V", "reference": "X"}
MINUS = "−"


def number(value: float, decimals: int = 0) -> str:
    """A number with thousands parted and a true minus; a rounded zero has no sign."""
    text = f"{value:,.{decimals}f}"
    if text.startswith("-"):
        text = text[1:] if not any(c in "123456789" for c in text) else MINUS + text[1:]
    return text


def bare(value: float | None, quantity: str, decimals: int | None = None) -> str:
    """A figure in the shown unit, without it; a dash where there is none."""
    if value is None:
        return "—"
    unit, _, usual = UNITS[quantity]
    return number(show(value, quantity, unit), usual if decimals is None else decimals)


def unit_of(quantity: str) -> str:
    """The unit a quantity is shown in."""
    return UNITS[quantity][1]


def plus(value: float, decimals: int = 0) -> str:
    """A change with its sign."""
    text = number(value, decimals)
    return text if text.startswith(MINUS) or not any(c in "123456789" for c in text) else "+" + text


def signed(value: float, quantity: str, decimals: int) -> str:
    """A change of a figure in the shown unit, with its sign."""
    return plus(show(value, quantity, UNITS[quantity][0]), decimals)


def shown(value: float | None, quantity: str, decimals: int | None = None) -> str:
    """A figure with its unit."""
    return f"{bare(value, quantity, decimals)} {unit_of(quantity)}"


def _filled(text: str, figures: dict[str, Figure]) -> Markup:
    """A finding's text with its figures in the shown units. Text and figures are escaped; the figures are marked as such."""
    out = Markup("")
    while "{" in text:
        before, _, rest = text.partition("{")
        name, _, text = rest.partition("}")
        figure = figures[name]
        decimals = 2 if figure.quantity.startswith("pressure") and abs(show(figure.value, figure.quantity, "psi")) < 1 else None
        out += escape(before) + Markup("<b>%s</b>") % shown(abs(figure.value), figure.quantity, decimals)
    return out + escape(text)


def finding_text(finding: Finding, field: str) -> Markup:
    """One text of a finding (`title`, `why`, `do` or `source`)."""
    return _filled(getattr(finding, field), finding.figures)


def reason_text(reason: Reason) -> Markup:
    """Why a layout is recommended, or when another would win."""
    return _filled(reason.text.rstrip("."), reason.figures) if not reason.text[:1].isupper() else _filled(reason.text, reason.figures)


def when(stamp: str) -> str:
    """A moment as a builder says it: today 09:40, 3 Nov."""
    moment = datetime.fromisoformat(stamp)
    now = datetime.now(UTC)
    if moment.date() == now.date():
        return f"today {moment:%H:%M} UTC"
    return f"{moment.day} {moment:%b}" + (f" {moment.year}" if moment.year != now.year else "")


def dash(text: str) -> str:
    """A dash size with a true minus."""
    return text.replace("-", MINUS)


def register(app: Flask) -> None:
    """Make these known to the templates."""
    app.jinja_env.filters.update(bare=bare, shown=shown, signed=signed, plus=plus, number=number, when=when, dash=dash)
    app.jinja_env.globals.update(unit_of=unit_of, finding_text=finding_text, reason_text=reason_text, ROLES=ROLES)
