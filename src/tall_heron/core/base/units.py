"""Text with a unit to SI and back, used only at the edges.

A thin grammar reads the number and looks the unit word up; pint converts. pint never parses what
was typed: it reads `100 F` as farad
and `1,5 bar` as 15.
"""

import math
import re
from dataclasses import dataclass
from fractions import Fraction
from functools import cache
from typing import Any

from tall_heron.core.base.constants import INCH_MM
from tall_heron.core.base.number_text import LONGEST, THOUSANDS, read_number

# Our own small registry: loads in milliseconds and holds only what the trade types.
_DEFINITIONS = """
meter = [length] = m
kilogram = [mass] = kg
second = [time] = s
kelvin = [temperature]; offset: 0 = K
ampere = [current] = A
radian = []
gram = 0.001 kilogram
minute = 60 * second
hour = 3600 * second
day = 86400 * second
millimeter = 0.001 * meter
centimeter = 0.01 * meter
micrometer = 1e-6 * meter
inch = 0.0254 * meter
foot = 0.3048 * meter
liter = 0.001 * meter ** 3
milliliter = 1e-6 * meter ** 3
us_gallon = 231 * inch ** 3
imperial_gallon = 4.54609e-3 * meter ** 3
pound = 0.45359237 * kilogram
newton = kilogram * meter / second ** 2
pound_force = 4.4482216152605 * newton
pascal = newton / meter ** 2
hectopascal = 100 * pascal
kilopascal = 1000 * pascal
megapascal = 1e6 * pascal
bar = 1e5 * pascal
psi = pound_force / inch ** 2
inch_of_mercury = 3386.389 * pascal
atmosphere = 101325 * pascal
watt = newton * meter / second
kilowatt = 1000 * watt
horsepower = 745.69987158227 * watt
metric_horsepower = 735.49875 * watt
volt = watt / ampere
ohm = volt / ampere
milliohm = 0.001 * ohm
millisecond = 0.001 * second
kiloohm = 1000 * ohm
hertz = 1 / second
revolution_per_minute = 1 / minute
millipascal_second = 0.001 * pascal * second
rankine = 5 / 9 * kelvin
degree_celsius = kelvin; offset: 273.15
degree_fahrenheit = 5 / 9 * kelvin; offset: 459.67 * 5 / 9
"""


@cache
def _registry() -> Any:
    import pint  # loaded on first use, so that `solve` on plain files starts quickly

    return pint.UnitRegistry(
        _DEFINITIONS.strip().splitlines(), cache_folder=None, autoconvert_offset_to_baseunit=True
    )


@dataclass(frozen=True)
class Quantity:
    """A kind of figure: its SI unit for pint, the words it may be typed in, and words that need a
    question back.
    """

    name: str
    si: str
    words: dict[str, str]
    ambiguous: dict[str, str]
    example: str


def _words(table: str) -> dict[str, str]:
    """`unit: word word; unit: word` to a dict of word -> unit."""
    out = {}
    for part in table.split(";"):
        unit, _, words = part.partition(":")
        for word in words.split():
            out[word] = unit.strip()
    return out


_LENGTH = _words(
    "millimeter: mm; centimeter: cm; meter: m; micrometer: um µm micron; inch: in inch inches \"; foot: ft foot feet '"
)
_PRESSURE = _words(
    "pascal: pa; kilopascal: kpa; megapascal: mpa; bar: bar; psi: psi psig psid; inch_of_mercury: inhg; hectopascal: mbar hpa; atmosphere: atm"
)
QUANTITIES: dict[str, Quantity] = {
    q.name: q
    for q in (
        Quantity(
            "pressure",
            "pascal",
            _PRESSURE,
            {"b": "bar or psi?"},
            "58 psi, 4 bar or 400 kPa",
        ),
        Quantity(
            "volume_flow",
            "meter ** 3 / second",
            _words(
                "liter / hour: l/h lph l/hr; liter / minute: l/min lpm; us_gallon / hour: usgph usgal/h; milliliter / minute: cc/min ml/min;"
                "imperial_gallon / hour: impgph impgal/h; us_gallon / hour: gph; us_gallon / minute: gpm; meter ** 3 / second: m3/s"
            ),
            {
                "gal": "gallons in which time: gph, or gpm?",
                "gal/h": "US or imperial: write usgal/h or impgal/h",
            },
            "255 lph or 67 gph",
        ),
        Quantity(
            "power",
            "watt",
            _words("watt: w; kilowatt: kw; horsepower: hp bhp; metric_horsepower: ps cv"),
            {},
            "620 hp or 460 kW",
        ),
        Quantity("length", "meter", _LENGTH, {}, "450 mm, 3/8 in or 1.2 m"),
        Quantity(
            "temperature",
            "kelvin",
            _words("degree_celsius: c °c degc; degree_fahrenheit: f °f degf; kelvin: k"),
            {},
            "40 C or 100 F",
        ),
        Quantity("voltage", "volt", _words("volt: v volt volts"), {}, "13.5 V"),
        Quantity(
            "volume",
            "meter ** 3",
            _words(
                "liter: l litre liter litres liters; milliliter: ml cc; us_gallon: usgal; imperial_gallon: impgal; inch ** 3: ci cid in3 cuin"
            ),
            {"gal": "gal: US or imperial? Write usgal or impgal"},
            "4.2 L",
        ),
        Quantity(
            "specific_consumption",
            "kilogram / watt / second",
            _words(
                "pound / horsepower / hour: lb/hph lb/hp/h lb/hp-h lb/(hph); kilogram / kilowatt / hour: kg/kwh; gram / kilowatt / hour: g/kwh"
            ),
            {},
            "0.62 lb/hp/h or 380 g/kWh",
        ),
        Quantity("current", "ampere", _words("ampere: a amp amps ampere amperes"), {}, "15 A"),
        Quantity(
            "resistance",
            "ohm",
            _words("ohm: ohm ohms Ω ω; milliohm: mohm mΩ mω; kiloohm: kohm kΩ kω k"),
            {},
            "240 ohm",
        ),
        Quantity(
            "duration",
            "second",
            _words("second: s sec; millisecond: ms; minute: min; hour: h hr; day: d"),
            {},
            "30 min or 2 s",
        ),
        Quantity(
            "speed",
            "hertz",
            _words("revolution_per_minute: rpm r/min; hertz: hz 1/s"),
            {},
            "6200 rpm",
        ),
        Quantity(
            "pressure_difference",
            "pascal",
            _PRESSURE,
            {"b": "bar or psi?"},
            "3 psi, 0.2 bar or 20 kPa",
        ),
        Quantity(
            "pressure_absolute",
            "pascal",
            _PRESSURE,
            {"b": "bar or psi?"},
            "14.7 psi, 1 bar or 101 kPa",
        ),
        Quantity(
            "mass",
            "kilogram",
            _words("kilogram: kg; gram: g; pound: lb lbs"),
            {},
            "2.35 kg or 5.2 lb",
        ),
        Quantity(
            "temperature_difference",
            "kelvin",
            _words("kelvin: c k °c; rankine: f °f"),
            {},
            "10 °C or 18 °F",
        ),
        Quantity("fineness", "meter", _LENGTH, {}, "10 µm"),
        Quantity("fraction", "dimensionless", {"%": "%"}, {}, "20 %"),
    )
}

_FEET_AND = re.compile(
    r"(?P<sign>[-+−]?) ?(?P<feet>\d+) ?(?:ft|foot|feet|') ?(?P<rest>\d[^a-z'\"]*)(?:in|inch|inches|\"|'')?",
    re.IGNORECASE,
)  # of a text whose spaces are single
_DASH = re.compile(r"\s*[-−](\d{1,2})\s*(?:an|jic|dash)?\s*$", re.IGNORECASE)


def parse(text: str, quantity: str, shown_unit: str, near: float | None = None) -> float:
    """Read `text` as a `quantity` in SI; a bare number takes `shown_unit` (a word of the quantity,
    such as `psi`). Of `2,260`, which may be thousands or a decimal comma, what lies
    nearer to a value that is expected `near`; without one it is asked about.

    Pressures keep the sense in which they were asked for (gauge or difference). Raises ValueError
    with what would be right.

    >>> round(parse("4 bar", "pressure", "psi"))
    400000
    >>> round(parse("58", "pressure", "psi"))
    399896
    >>> round(parse("3/8 in", "length", "mm"), 9)
    0.009525
    >>> round(parse("100 F", "temperature", "C") - 273.15, 2)
    37.78
    >>> round(parse("1 ft 6 1/2 in", "length", "mm"), 4)
    0.4699
    >>> parse("1,5 bar", "pressure", "psi")
    150000.0
    >>> round(parse("2,260 lph", "volume_flow", "gph", near=2281 / 3.6e6) * 3.6e6)
    2260
    """
    kind = QUANTITIES[quantity]
    if len(text) > LONGEST:  # before any pattern sees it
        raise ValueError(
            f"that is longer than a number with a unit can be. Write for example {kind.example}."
        )
    text = " ".join(text.split())
    if kind.name == "length" and (feet := _FEET_AND.fullmatch(text)):  # 5 ft 3 1/2 in
        whole = float(feet["feet"]) * parse("1 ft", "length", "ft") + parse(
            feet["rest"] + " in", "length", "in"
        )
        return -whole if feet["sign"] in ("-", "−") else whole
    if (
        near is not None
        and near > 0
        and (group := THOUSANDS.match(text))
        and group[0].count(",") == 1
        and "." not in group[0]
    ):
        both = [parse(text.replace(",", mark, 1), quantity, shown_unit) for mark in ("", ".")]
        return min(both, key=lambda x: abs(math.log(x / near)) if x > 0 else math.inf)
    try:
        value, word = read_number(text)
    except ValueError as error:
        raise ValueError(f"{error}. Write for example {kind.example}.") from None
    key = word.lower().replace(" ", "").replace("*", "").replace("·", "") or shown_unit.lower()
    if word and key in kind.ambiguous:
        raise ValueError(f"{kind.ambiguous[key]}")
    unit = kind.words.get(key)
    if unit is None:
        other = next(
            (q.name.replace("_", " ") for q in QUANTITIES.values() if key in q.words), None
        )
        what = (
            f"“{word}” is a unit of {other}, and this is a {quantity.replace('_', ' ')}"
            if other
            else f"“{word}” is not a unit known here"
        )
        raise ValueError(f"{what}. Write for example {kind.example}.")
    if unit == "%":
        return value / 100
    result = float(_registry().Quantity(value, unit).to(kind.si).magnitude)
    if quantity == "temperature" and result < 0:
        raise ValueError("that is below absolute zero")
    return result


def show(value: float, quantity: str, unit_word: str) -> float:
    """The SI `value` of a `quantity` as a number in the unit that `unit_word` names.

    >>> round(show(400000.0, "pressure", "psi"), 2)
    58.02
    """
    unit = QUANTITIES[quantity].words[unit_word.lower()]
    if unit == "%":
        return value * 100
    scale, offset = _affine(quantity, unit)
    return value * scale + offset


def inches(mm: float, part: int = 16) -> str:
    """A length [mm] in inches to the nearest of so many parts of one, as a rule is read.

    >>> inches(644.5), inches(12.7), inches(0.2), inches(1219.2)
    ('25 3/8', '1/2', '0', '48')
    """
    whole, rest = divmod(round(mm / INCH_MM * part), part)
    fraction = str(Fraction(rest, part)) if rest else ""
    return " ".join(x for x in (str(whole) if whole or not rest else "", fraction) if x)


@cache
def _affine(quantity: str, unit: str) -> tuple[float, float]:
    """Every unit here is affine in SI, so pint is asked once per unit and a page of numbers costs
    nothing.
    """
    registry, si = _registry(), QUANTITIES[quantity].si
    at0 = float(registry.Quantity(0.0, si).to(unit).magnitude)
    at1 = float(registry.Quantity(1.0, si).to(unit).magnitude)
    return at1 - at0, at0


def parse_dash(text: str) -> str:
    """A dash size such as `-8` (`8`, `-8AN` and `3/8 in` tube are read too); ValueError if there is
    no such size.

    >>> parse_dash("-8")
    '-8'
    >>> parse_dash("1/2 in")
    '-8'
    """
    match = _DASH.match(text[:LONGEST])
    if match:
        size = int(match.group(1))
    else:
        try:
            value, word = read_number(text[:LONGEST])
            size = round(parse(text, "length", "in") / 0.0254 * 16) if word else round(value)
        except ValueError:
            raise ValueError(
                f"“{text}” is not a dash size. Write for example -8, or 1/2 in for its tube."
            ) from None
    if size not in (3, 4, 6, 8, 10, 12, 16, 20):
        raise ValueError(f"-{size} is not a usual size. Use -4, -6, -8, -10, -12 or -16.")
    return f"-{size}"
