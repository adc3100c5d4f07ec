"""The fields of the brief as a page shows and reads them: text with a unit outside, the document's figure inside."""

from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.constants import CELSIUS
from tall_heron.core.base.units import QUANTITIES, parse, show
from tall_heron.core.document.build import Brief, Build
from tall_heron.web.answers import Refused
from tall_heron.web.show.text import number
from tall_heron.web.show.units import Unit, unit


@dataclass(frozen=True)
class BriefField:
    """One field: its name in the document, label, quantity (`measure` names its choice of unit where that is another), and the document's figure as
    `scale` * SI + `offset`."""

    name: str
    label: str
    quantity: str = ""
    scale: float = 1.0
    offset: float = 0.0
    note: str = ""
    choices: tuple[str, ...] = ()
    optional: bool = False
    measure: str = ""

    @property
    def _unit(self) -> Unit:
        return unit(self.measure or self.quantity)

    @property
    def unit(self) -> str:
        """The unit a bare number takes."""
        return self._unit.word if self.quantity else ""

    @property
    def unit_shown(self) -> str:
        """That unit as it is shown."""
        return self._unit.label if self.quantity else ""

    @property
    def decimals(self) -> int:
        """How many decimals a figure is shown with."""
        return self._unit.decimals if self.quantity else 0


FIELDS: dict[str, BriefField] = {
    f.name: f
    for f in (
        BriefField("title", "What it is", note="in your own words"),
        BriefField("cylinders", "Cylinders", note="a whole number, 1 to 48"),
        BriefField("displacement_l", "Displacement", "volume", 1000),
        BriefField("feeding", "Fed by", choices=("injection", "carburettor")),
        BriefField("power_kw", "Power wanted", "power", 1e-3),
        BriefField("later_power_kw", "Power wanted later", "power", 1e-3, note="empty: none", optional=True),
        BriefField("fuel", "Fuel", note="E0 to E100, methanol, 100LL"),
        BriefField("ethanol_range", "Ethanol range", choices=("as named", "as sold", "flex"), note="E51 to E83 as sold, E0 to E85 flex"),
        BriefField("season", "Season of the fuel", choices=("summer", "spring or autumn", "winter")),
        BriefField("base_kpa", "Base pressure", "pressure", 1e-3, note="over the manifold"),
        BriefField("boost_kpa", "Boost at peak", "pressure", 1e-3, note="gauge, 0 without"),
        BriefField("idle_manifold_kpa", "Manifold at idle", "pressure", 1e-3, note="gauge, below 0"),
        BriefField("use", "Use", choices=("street", "drag", "circuit", "off-road", "flight")),
        BriefField("voltage_v", "Running voltage", "voltage"),
        BriefField("altitude_m", "Altitude", "length", measure="height"),
        BriefField("fuel_temperature_c", "Hottest fuel", "temperature", 1.0, -CELSIUS),
        BriefField(
            "bsfc_petrol_kg_kwh",
            "Consumption on gasoline",
            "specific_consumption",
            3.6e6,
            note=f"empty: {house_figure('bsfc_natural'):.2f}, or {house_figure('bsfc_boosted'):.2f} lb/(hp h) with boost",
            optional=True,
        ),
        BriefField("peak_rpm", "Speed at peak power", "speed", 60.0, note="empty: no look at the air", optional=True),
        BriefField("volumetric_efficiency", "Volumetric efficiency", "fraction", note="filling at peak power"),
        BriefField("lambda_peak", "Lambda at peak power", note=f"empty: {house_figure('lambda_natural'):g}, or {house_figure('lambda_boosted'):g} with boost", optional=True),
        BriefField("dead_time", "Injector dead time", choices=("corrected", "not corrected"), note="for voltage, by the control unit"),
        BriefField("charge_temperature_c", "Charge after the cooler", "temperature", 1.0, -CELSIUS),
        BriefField("margin", "Pump headroom", "fraction", note=f"empty: {house_figure('margin_car'):.0%}, in flight {house_figure('margin_aircraft'):.0%}".replace("%", " %"), optional=True),
    )
}


def field_text(build: Build, field: BriefField) -> str:
    """What the field shows: the text as typed, or the figure in the shown unit."""
    typed = build.typed.get(f"/brief/{field.name}")
    if typed is not None:
        return typed
    value = getattr(build.brief, field.name)
    if value is None:
        return ""
    return f"{in_unit(field, value)} {field.unit_shown}" if field.quantity else str(value)


def in_unit(field: BriefField, value: float) -> str:
    """A figure of the document as a number in the field's unit."""
    return number(show((value - field.offset) / field.scale, field.quantity, field.unit), field.decimals)


def _bound(field: BriefField, value: float) -> str:
    """A limit as a number in the field's unit, to two places where it is small, so that it is never said to allow what it refuses."""
    shown = show((value - field.offset) / field.scale, field.quantity, field.unit)
    return number(shown, 2).rstrip("0").rstrip(".") if 0 < abs(shown) < SMALL else number(shown, field.decimals)


SMALL = 10.0


def read_field(field: BriefField, text: str) -> tuple[Any, str | None]:
    """The document's figure for a text, and the text to keep as typed. Refused with what would be right."""
    text = text.strip()
    if not text:
        if field.optional:
            return None, None
        if field.name == "title":
            return "", None
        raise Refused(field.name, f"{field.label} is empty. {_example(field)}")
    if not field.quantity:
        if field.name == "lambda_peak":
            return text.replace(",", "."), None
        return (int(text), None) if field.name == "cylinders" and text.isdecimal() and len(text) < 4 else (text, None)
    try:
        value = parse(text, field.quantity, field.unit) * field.scale + field.offset
    except ValueError as error:
        raise Refused(field.name, str(error)) from None
    low, high = limits_of(Brief, field.name)
    slack = 1e-9 * max(abs(low), abs(high))
    if not low - slack <= value <= high + slack:
        span = f"{_bound(field, low)} and {_bound(field, high)} {field.unit_shown}"
        raise Refused(field.name, f"{field.label} lies between {span}; “{text}” is outside. {_example(field)}")
    bare = not any(c.isalpha() or c in "%°\"'" for c in text)
    return min(max(value, low), high), f"{text} {field.unit_shown}" if bare else text


def _example(field: BriefField) -> str:
    return f"Write for example {QUANTITIES[field.quantity].example}." if field.quantity else f"Write {field.note}." if field.note else ""


def limits_of(record: type[BaseModel], name: str) -> tuple[float, float]:
    """The least and greatest figure that a field of the document allows."""
    low, high = float("-inf"), float("inf")
    annotation = record.model_fields[name]
    found = list(annotation.metadata)
    for part in getattr(annotation.annotation, "__args__", ()):  # `Annotated[...] | None`
        for inner in getattr(part, "__metadata__", ()):
            found += getattr(inner, "metadata", [inner])
    for constraint in found:
        low = max(low, float(getattr(constraint, "ge", low)))
        high = min(high, float(getattr(constraint, "le", high)))
    return low, high
