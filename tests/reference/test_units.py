"""Every unit that may be typed, against a published value."""

import pytest

from tall_heron.core.base import units
from tall_heron.core.base.units import QUANTITIES, parse, parse_dash

NIST = "NIST SP 811, appendix B"
DEFINED = "by definition (SI brochure; NIST SP 811)"
PUBLISHED: dict[
    str, tuple[float, str]
] = {  # one of the unit in SI: pascal, m3/s, W, m, K, V, m3, kg/(W s), 1/s, kg
    "pascal": (1.0, DEFINED),
    "hectopascal": (1e2, DEFINED),
    "kilopascal": (1e3, DEFINED),
    "megapascal": (1e6, DEFINED),
    "bar": (1e5, DEFINED),
    "psi": (6.894757e3, NIST),
    "rankine": (5 / 9, NIST),
    "inch_of_mercury": (3.386389e3, NIST),
    "atmosphere": (1.01325e5, NIST),
    "liter / hour": (2.7777778e-7, "a litre is 1e-3 m3, an hour 3600 s"),
    "liter / minute": (1.6666667e-5, "a litre is 1e-3 m3"),
    "us_gallon / hour": (3.785412e-3 / 3600, NIST),
    "us_gallon / minute": (6.309020e-5, NIST),
    "imperial_gallon / hour": (4.54609e-3 / 3600, NIST),
    "milliliter / minute": (1.6666667e-8, "a millilitre is 1e-6 m3"),
    "meter ** 3 / second": (1.0, DEFINED),
    "watt": (1.0, DEFINED),
    "kilowatt": (1e3, DEFINED),
    "horsepower": (7.456999e2, NIST),
    "metric_horsepower": (7.354988e2, NIST),
    "millimeter": (1e-3, DEFINED),
    "centimeter": (1e-2, DEFINED),
    "meter": (1.0, DEFINED),
    "micrometer": (1e-6, DEFINED),
    "inch": (2.54e-2, NIST),
    "foot": (3.048e-1, NIST),
    "volt": (1.0, DEFINED),
    "ampere": (1.0, DEFINED),
    "ohm": (1.0, DEFINED),
    "milliohm": (1e-3, DEFINED),
    "kiloohm": (1e3, DEFINED),
    "second": (1.0, DEFINED),
    "millisecond": (1e-3, DEFINED),
    "minute": (60.0, NIST),
    "hour": (3600.0, NIST),
    "day": (86_400.0, NIST),
    "liter": (1e-3, DEFINED),
    "milliliter": (1e-6, DEFINED),
    "us_gallon": (3.785412e-3, NIST),
    "imperial_gallon": (4.54609e-3, NIST),
    "inch ** 3": (1.6387064e-5, "NIST SP 811: 0.0254 m cubed, exact"),
    "pound / horsepower / hour": (1.689659e-7, "NIST SP 811: lb/(hp h)"),
    "kilogram / kilowatt / hour": (1 / 3.6e6, "a kilowatt hour is 3.6 MJ"),
    "gram / kilowatt / hour": (1 / 3.6e9, "a kilowatt hour is 3.6 MJ"),
    "revolution_per_minute": (1 / 60, "a minute is 60 s"),
    "hertz": (1.0, DEFINED),
    "kilogram": (1.0, DEFINED),
    "gram": (1e-3, DEFINED),
    "pound": (4.535924e-1, NIST),
    "%": (1e-2, DEFINED),
}
OFFSET = {
    "degree_celsius": [("0", 273.15), ("100", 373.15)],
    "degree_fahrenheit": [("32", 273.15), ("212", 373.15)],
    "kelvin": [("1", 1.0)],
}
WORDS = [(q.name, word, unit) for q in QUANTITIES.values() for word, unit in q.words.items()]


@pytest.mark.parametrize(("quantity", "word", "unit"), WORDS, ids=[f"{q}-{w}" for q, w, _ in WORDS])
def test_each_word_is_the_published_unit(quantity: str, word: str, unit: str) -> None:
    if unit in OFFSET:
        for text, kelvin in OFFSET[unit]:
            assert parse(f"{text} {word}", quantity, word) == pytest.approx(kelvin, abs=1e-9), (
                "ITS-90 and NIST SP 811"
            )
        return
    value, source = PUBLISHED[unit]
    assert parse(f"2 {word}", quantity, word) == pytest.approx(2 * value, rel=2e-7), source


@pytest.mark.parametrize(
    ("text", "dash"),
    [
        ("1/2 in", "-8"),
        ("3/8 in", "-6"),
        ("5/8 in", "-10"),
        ("12.7 mm", "-8"),
        ("1 in", "-16"),
        ("-8AN", "-8"),
        ("6", "-6"),
    ],
)
def test_a_dash_is_a_sixteenth_of_an_inch_of_tube(text: str, dash: str) -> None:
    """SAE J514: the dash number is the tube's outside diameter in sixteenths of an inch."""
    assert parse_dash(text) == dash


def test_pint_is_asked_once_for_a_unit() -> None:
    """A page shows hundreds of numbers."""
    asked = units._affine.cache_info().misses
    for value in range(50):
        units.show(1000.0 * value, "pressure", "psi")
    assert units._affine.cache_info().misses <= asked + 1
