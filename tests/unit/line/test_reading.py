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


@pytest.mark.parametrize(
    ("text", "fields"),
    [
        ("drag V8, 1,900 hp", {"power_kw": 1416.8}),
        ("1 100 hp V8", {"power_kw": 820.27}),
        ("flat 4 150 hp", {"power_kw": 111.86, "cylinders": 4}),
        ("8,000 ft 150 hp", {"altitude_m": 2438.4, "power_kw": 111.86}),
        ("4.2 L, 620 hp", {"displacement_l": 4.2, "power_kw": 462.33}),
        ("carb V8 350 hp 3 lb", {"base_kpa": 20.684, "feeding": "carburettor"}),
        ("90 hp 4 pounds", {"base_kpa": 27.579, "feeding": "carburettor"}),
        ("carb to EFI, 400 hp", {"feeding": "injection"}),
        ("two wing tanks 180 hp flat four", {"use": "flight", "cylinders": 4}),
    ],
)
def test_figures_as_people_write_them(text: str, fields: dict[str, Any]) -> None:
    read = read_line(text)
    assert read.unread == []
    for name, value in fields.items():
        assert read.fields[name] == (pytest.approx(value, rel=1e-4) if isinstance(value, float) else value), name


@pytest.mark.parametrize(
    ("text", "name"),
    [
        ("Redshank, turbo six 4.2 L, 620 hp", "Redshank"),
        ("old barge, 300 hp", "old barge"),
        ("turbo six, 620 hp", ""),
        ("saddle tank, 300 hp", ""),
        ("58 psi, 620 hp", ""),
        ("Tern, none", ""),
    ],
)
def test_a_name_before_a_comma(text: str, name: str) -> None:
    assert read_line(text).name == name


def test_power_at_the_wheels_is_asked_about() -> None:
    """750 hp less 15 % of crank power: 750 / 0.85 = 882 hp."""
    assert "882 hp at the crank" in read_line("750 whp E85").unread[0]
    assert "power_kw" not in read_line("750 whp E85").fields


@pytest.mark.parametrize(
    ("text", "banks", "layout"),
    [
        ("V8 450 hp", 2, ""),
        ("boxer six 350 hp", 2, ""),
        ("straight six 300 hp", 1, ""),
        ("inline-6 300 hp", 1, ""),
        ("six 300 hp", None, ""),
        ("saddle tank 300 hp", None, "C10"),
        ("surge pot V6", 2, "C7"),
    ],
)
def test_banks_and_layouts_are_read(text: str, banks: int | None, layout: str) -> None:
    read = read_line(text)
    assert (read.banks, read.layout) == (banks, layout)
