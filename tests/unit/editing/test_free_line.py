"""One line of a builder into fields of the brief; figures by definition of their units."""

from typing import Any

import pytest

from tall_heron.core.editing.free_line import read_line


@pytest.mark.parametrize(
    ("text", "fields", "unread"),
    [
        (
            "turbo six 4.2 L, 620 hp, E70, 58 psi + 22",
            {"cylinders": 6, "displacement_l": 4.2, "power_kw": 462.33, "fuel": "E70", "base_kpa": 399.9, "boost_kpa": 151.7},
            [],
        ),
        (
            "Curlew: 2.0 L turbo four, 410 hp, E85, 4 bar + 1.5 bar",
            {"cylinders": 4, "displacement_l": 2.0, "power_kw": 305.74, "base_kpa": 400, "boost_kpa": 150},
            [],
        ),
        (
            "V8 351 ci petrol 470 hp 7 psi street",
            {"cylinders": 8, "displacement_l": 5.752, "fuel": "E10", "base_kpa": 48.26, "use": "street"},
            [],
        ),
        (
            "flat four 150 hp avgas, 43.5 psi, 14 V, aircraft",
            {"cylinders": 4, "fuel": "100LL", "base_kpa": 299.9, "voltage_v": 14.0, "use": "flight"},
            [],
        ),
        ("300 kW, 45 C, 1500 m", {"power_kw": 300, "fuel_temperature_c": 45, "altitude_m": 1500}, []),
        ("6 cylinders, 3 bar, 80 kPa", {"cylinders": 6, "base_kpa": 300, "boost_kpa": 80}, []),
        ("old 2-door coupe, carb, V8 5.8 L", {"feeding": "carburettor", "title": "old 2-door coupe carb V8 5.8 L"}, []),
        ("twin turbo v8 5 L on E85, 4 bar + 1.6", {"title": "twin turbo v8 5 L", "boost_kpa": 160}, []),
        ("500 hp of purple E200 12q", {"power_kw": 372.85, "title": "of purple"}, ["E200", "12q"]),
        ("Sandpiper", {}, []),
        ("", {}, []),
    ],
)
def test_lines(text: str, fields: dict[str, Any], unread: list[str]) -> None:
    read = read_line(text)
    for name, value in fields.items():
        assert read.fields[name] == (pytest.approx(value, rel=1e-3) if isinstance(value, int | float) else value), name
    assert read.unread == unread
    assert set(read.typed) == set(read.fields) - {"title"}


def test_boost_without_a_figure_is_asked_for() -> None:
    assert ("turbo", "boosted: say by how much, as in 58 psi + 22") in read_line("turbo six 500 hp").said


def test_a_comma_that_may_be_two_things_is_left_unread() -> None:
    assert read_line("drag V8, 1,900 hp").unread == ["1,900 hp"]
