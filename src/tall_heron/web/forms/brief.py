"""The fields of the brief."""

from dataclasses import replace
from typing import Any

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.constants import CELSIUS
from tall_heron.core.document.build import Brief, Build
from tall_heron.web.forms.field import Field, OfRecord


def _alike(*values: str) -> tuple[tuple[str, str], ...]:
    """Choices that are called what they are."""
    return tuple((x, x) for x in values)


FIELDS: dict[str, Field] = {
    f.name: f
    for f in (
        Field("title", "What it is", note="in your own words"),
        Field("cylinders", "Cylinders", note="a whole number, 1 to 48", sort="count"),
        Field("displacement_l", "Displacement", "volume", 1000),
        Field("feeding", "Fed by", choices=_alike("injection", "carburettor")),
        Field("power_kw", "Power wanted", "power", 1e-3),
        Field(
            "later_power_kw", "Power wanted later", "power", 1e-3, note="empty: none", optional=True
        ),
        Field("fuel", "Fuel", note="E0 to E100, methanol, 100LL"),
        Field(
            "ethanol_range",
            "Ethanol range",
            choices=_alike("as named", "as sold", "flex"),
            note="E51 to E83 as sold, E0 to E85 flex",
        ),
        Field(
            "season", "Season of the fuel", choices=_alike("summer", "spring or autumn", "winter")
        ),
        Field("base_kpa", "Base pressure", "pressure", 1e-3, note="over the manifold"),
        Field("boost_kpa", "Boost at peak", "pressure", 1e-3, note="gauge, 0 without"),
        Field("idle_manifold_kpa", "Manifold at idle", "pressure", 1e-3, note="gauge, below 0"),
        Field("use", "Use", choices=_alike("street", "drag", "circuit", "off-road", "flight")),
        Field("voltage_v", "Running voltage", "voltage"),
        Field("altitude_m", "Altitude", "length", measure="height"),
        Field("fuel_temperature_c", "Hottest fuel", "temperature", 1.0, -CELSIUS),
        Field(
            "bsfc_petrol_kg_kwh",
            "Consumption on gasoline or avgas",
            "specific_consumption",
            3.6e6,
            note=f"empty: {house_figure('bsfc_natural'):.2f}, or {house_figure('bsfc_boosted'):.2f} lb/(hp h) with boost",
            optional=True,
        ),
        Field(
            "peak_rpm",
            "Speed at peak power",
            "speed",
            60.0,
            note="empty: no look at the air",
            optional=True,
        ),
        Field(
            "volumetric_efficiency",
            "Volumetric efficiency",
            "fraction",
            note="filling at peak power",
        ),
        Field(
            "lambda_peak",
            "Lambda at peak power",
            sort="number",
            note=f"empty: {house_figure('lambda_natural'):g}, or {house_figure('lambda_boosted'):g} with boost",
            optional=True,
        ),
        Field(
            "dead_time",
            "Injector dead time",
            choices=_alike("corrected", "not corrected"),
            note="for voltage, by the control unit",
        ),
        Field("charge_temperature_c", "Charge after the cooler", "temperature", 1.0, -CELSIUS),
        Field(
            "margin",
            "Pump headroom",
            "fraction",
            note=f"empty: {house_figure('margin_car'):.0%}, in flight {house_figure('margin_aircraft'):.0%}".replace(
                "%", " %"
            ),
            optional=True,
        ),
    )
}
FIELDS = {
    name: replace(f, bounds=OfRecord(Brief, name)) if f.quantity or f.sort != "text" else f
    for name, f in FIELDS.items()
}

GROUPS: dict[str, tuple[str, ...]] = {  # as a builder asks
    "Engine": ("title", "cylinders", "displacement_l", "feeding", "use"),
    "Power": ("power_kw", "later_power_kw", "peak_rpm", "margin"),
    "Fuel": ("fuel", "ethanol_range", "season", "fuel_temperature_c"),
    "Pressure and air": ("base_kpa", "boost_kpa", "idle_manifold_kpa", "altitude_m"),
    "Electrics": ("voltage_v", "dead_time"),
    "Consumption": (
        "bsfc_petrol_kg_kwh",
        "lambda_peak",
        "volumetric_efficiency",
        "charge_temperature_c",
    ),
}


def field_text(build: Build, field: Field) -> str:
    """What the field shows: the text as typed, or the figure in the shown unit."""
    typed = build.typed.get(f"/brief/{field.name}")
    if typed is not None:
        return typed
    value = getattr(build.brief, field.name)
    if value is None:
        return ""
    return f"{field.in_unit(value)} {field.unit_shown}" if field.quantity else str(value)


def read_field(field: Field, text: str) -> tuple[Any, str | None]:
    """The document's figure for a text, and the text to keep as typed. Refused with what would be
    right.
    """
    text = text.strip()
    if field.name == "title":
        return text, None
    value = field.read(text)
    if not field.quantity or value is None:
        return value, None
    bare = not any(c.isalpha() or c in "%°\"'" for c in text)
    return value, f"{text} {field.unit_shown}" if bare else text
