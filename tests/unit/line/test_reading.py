"""One line of a builder into fields of the brief, wishes and questions; figures by definition of
their units.
"""

from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest
from first_lines import LINES
from hypothesis import given
from hypothesis import strategies as st

from tall_heron.core.begin.started import start
from tall_heron.core.document.build import dump, load
from tall_heron.core.line.grammar import grammar
from tall_heron.core.line.reading import read_line
from tall_heron.core.line.vocabulary import spelled, vocabulary

HP, PSI = 0.74569987, 6.894757


@pytest.mark.parametrize(
    ("text", "fields", "asked"),
    [
        (
            "turbo six 4.2 L, 620 hp, E70, 58 psi + 22",
            {
                "cylinders": 6,
                "displacement_l": 4.2,
                "power_kw": 620 * HP,
                "fuel": "E70",
                "base_kpa": 58 * PSI,
                "boost_kpa": 22 * PSI,
            },
            [],
        ),
        (
            "Curlew: 2.0 L turbo four, 410 hp, E85, 4 bar + 1.5 bar",
            {"cylinders": 4, "displacement_l": 2.0, "base_kpa": 400, "boost_kpa": 150},
            [],
        ),
        (
            "V8 351 ci gasoline 470 hp 7 psi street",
            {
                "cylinders": 8,
                "displacement_l": 5.752,
                "fuel": "E10",
                "base_kpa": 7 * PSI,
                "use": "street",
            },
            [],
        ),
        (
            "flat four 150 hp avgas, 43.5 psi, 14 V, aircraft",
            {
                "cylinders": 4,
                "fuel": "100LL",
                "base_kpa": 43.5 * PSI,
                "voltage_v": 14.0,
                "use": "flight",
            },
            [],
        ),
        (
            "300 kW, 45 C, 1500 m",
            {"power_kw": 300, "fuel_temperature_c": 45, "altitude_m": 1500},
            [],
        ),
        ("6 cylinders, 3 bar, 80 kPa", {"cylinders": 6, "base_kpa": 300, "boost_kpa": 80}, []),
        (
            "old 2-door coupe, carb, V8 5.8 L",
            {"feeding": "carburettor", "title": "old 2-door coupe carb V8 5.8 L"},
            [],
        ),
        (
            "twin turbo v8 5 L on E85, 4 bar + 1.6",
            {"title": "twin turbo v8 5 L", "boost_kpa": 160},
            [],
        ),
        ("500 hp of purple E200 12q", {"power_kw": 500 * HP, "title": "purple"}, ["E200", "12q"]),
        ("drag V8, 1,900 hp", {"power_kw": 1900 * HP}, []),
        ("1 100 hp V8", {"power_kw": 1100 * HP}, []),
        ("flat 4 150 hp", {"power_kw": 150 * HP, "cylinders": 4}, []),
        ("8,000 ft 150 hp", {"altitude_m": 2438.4, "power_kw": 150 * HP}, []),
        ("carb V8 350 hp 3 lb", {"base_kpa": 3 * PSI, "feeding": "carburettor"}, []),
        ("carb to EFI, 400 hp", {"feeding": "injection"}, []),
        ("two wing tanks 180 hp flat four", {"use": "flight", "cylinders": 4}, []),
        ("450 hp now, 700 later", {"power_kw": 450 * HP, "later_power_kw": 700 * HP}, []),
        ("V8 500 PS @7200rpm", {"power_kw": 500 * 0.73549875, "peak_rpm": 7200}, []),
        ("500-550 hp", {"power_kw": 550 * HP}, []),
        ("turbo, boost 22 psi, base 43.5 psi", {"base_kpa": 43.5 * PSI, "boost_kpa": 22 * PSI}, []),
        ("43.5 psi base 22 psi boost", {"base_kpa": 43.5 * PSI, "boost_kpa": 22 * PSI}, []),
        ("58 psi boost 22", {"base_kpa": 58 * PSI, "boost_kpa": 22 * PSI}, []),
        ("turbo four 12 psi", {"boost_kpa": 12 * PSI}, []),
        ("V8 302 300 hp", {"displacement_l": 4.949, "power_kw": 300 * HP}, []),
        ("V8 5,7 L 300 hp", {"displacement_l": 5.7}, []),
        ("flat four 94 60 hp", {"displacement_l": 1.54, "power_kw": 60 * HP}, []),
        ("two carburetors V8 240 hp", {"feeding": "carburettor", "cylinders": 8}, []),
        ("three pumps, two rails, 600 hp", {"power_kw": 600 * HP}, []),
        ("V-twin 100 hp", {"cylinders": 2}, []),
        (
            "turob four supercharhed metanol 300 horsepowr 8 psi boost",
            {"cylinders": 4, "fuel": "methanol", "power_kw": 300 * HP},
            [],
        ),
        (
            "blow-through carburetor V8 6 psi + 8",
            {"feeding": "carburettor", "boost_kpa": 8 * PSI},
            [],
        ),
        ("98 RON, 300 hp", {"power_kw": 300 * HP}, ["98 RON"]),
        ("diesel 300 hp", {"power_kw": 300 * HP}, ["diesel"]),
        ("450 hp V8 500 hp", {"power_kw": 450 * HP}, ["500 hp"]),
        ("450 hp four cylinder V8", {"cylinders": 4}, ["V8"]),
        ("V8 350 carburetor", {"cylinders": 8}, ["350"]),
        ("20 psi 43 psi turbo", {"base_kpa": 43 * PSI, "boost_kpa": 20 * PSI}, ["20 psi"]),
        ("turbo six 500 hp", {"cylinders": 6}, ["boosted"]),
        (
            "1932 roadster V8 400 hp",
            {"cylinders": 8, "power_kw": 400 * HP, "title": "1932 roadster V8"},
            [],
        ),
        ("67 fastback 302 400 hp", {"displacement_l": 4.949, "title": "67 fastback 302 ci"}, []),
        ("V8, two two-barrel carbs, 140 hp", {"cylinders": 8, "feeding": "carburettor"}, []),
        ("turbo rotary 1.3 L, 450 hp, 58 psi + 16", {"cylinders": 4, "displacement_l": 2.6}, []),
        ("twin engine boat V8 500 hp", {"cylinders": 8}, ["twin engine"]),
        ("twin V8 500 hp", {"cylinders": 8}, []),
        ("four V6 300 hp", {"cylinders": 4}, ["V6"]),
        ("water methanol injection V8 700 hp", {"cylinders": 8}, ["water methanol injection"]),
        ("two stroke twin 0.8 L 160 hp", {"cylinders": 2}, ["two stroke"]),
        ("kerosene V8 300 hp", {"cylinders": 8}, ["kerosene"]),
        ("turboprop 500 hp", {"power_kw": 500 * HP}, ["turboprop"]),
        ("three rotor 2.0 L 300 hp", {"cylinders": 6, "displacement_l": 4.0}, []),
        ("dual quad V8, 500 hp", {"cylinders": 8, "feeding": "carburettor"}, []),
        ("four barrel carb V8 400 hp", {"cylinders": 8, "feeding": "carburettor"}, []),
        ("1900 drag V8", {"cylinders": 8}, ["1900"]),
        ("V8 58 psi 450 hp 58 psi", {"base_kpa": 58 * PSI, "cylinders": 8}, []),
        ("three small tanks and a V8 400 hp", {"cylinders": 8}, []),
        ("Sandpiper", {}, []),
        ("", {}, []),
    ],
)
def test_lines(text: str, fields: dict[str, Any], asked: list[str]) -> None:
    read = read_line(text)
    for name, value in fields.items():
        assert read.fields[name] == (
            pytest.approx(value, rel=1e-3) if isinstance(value, int | float) else value
        ), name
    assert [q.text for q in read.questions] == asked
    assert bool(read.fields) == bool(fields)
    assert {k for k in read.typed if k != "title"} >= {k for k in fields if k != "title"}


def test_a_pressure_said_twice_is_no_boost() -> None:
    assert "boost_kpa" not in read_line("V8 450 hp 58 psi 58 psi 58 psi").fields


def test_three_pumps_are_no_cylinders() -> None:
    assert (
        "cylinders"
        not in read_line("three pumps, two rails, twin carburetors, two strake tanks").fields
    )


@pytest.mark.parametrize(
    ("text", "wishes"),
    [
        ("two 340 lph pumps", [("pumps", 2, 340.0, True)]),
        ("2 x 255 lph", [("pumps", 2, 255.0, True)]),
        ("external pump", [("layout", None, None, False)]),
        ("650 cc injectors", [("injectors", None, 650.0, True)]),
        ("eight 42 lb/hr injectors", [("injectors", 8, 441.0, True)]),
        ("-8 feed -6 return", [("feed", None, 8.0, True), ("return", None, 6.0, True)]),
        ("feed -8, return -6", [("feed", None, 8.0, True), ("return", None, 6.0, True)]),
        ("8AN feed and return", [("feed", None, 8.0, True), ("return", None, 8.0, True)]),
        ("fuel cell 45 L", [("tank", None, 45.0, True)]),
        ("12 gal cell", [("tank", None, 45.42, True)]),
        ("2 wings 60 L each", [("tank", None, 60.0, True)]),
        ("wings 60 L, one header", [("tank", None, 60.0, True), ("layout", None, None, False)]),
        ("80 hp, two wing tanks 40 L", [("tank", None, 40.0, True)]),
        ("two wing tanks, 40 L each", [("tank", None, 40.0, True)]),
        ("two wing tanks, 5.9 L flat four", []),
        ("header tank 5 L", [("layout", None, None, False)]),
        ("with a 2 L surge pot", [("layout", None, None, False)]),
        ("surge tank, 5.0 L V8", [("layout", None, None, False)]),
        ("V8 5.0 L, 60 L", [("tank", None, 60.0, True)]),  # no second displacement
        ("V8, 12 gal", [("tank", None, 45.42, True)]),
        ("two old pumps", [("pumps", 2, None, False)]),
        ("turbo four 340 lph pump", [("pumps", None, 340.0, True)]),
    ],
)
def test_what_is_there_or_wanted(
    text: str, wishes: list[tuple[str, int | None, float | None, bool]]
) -> None:
    found = [(w.kind, w.count, w.figure, w.have) for w in read_line(text).wishes]
    assert found == [
        (k, c, pytest.approx(f, rel=1e-3) if f is not None else None, h) for k, c, f, h in wishes
    ]


def test_power_at_the_wheels_is_taken_to_the_crank_and_asked_about() -> None:
    """750 hp less 15 % of crank power: 750 / 0.85 = 882 hp; common practice."""
    for text in ("750 whp E85", "750 wheel hp E85", "750 hp at the wheels E85", "750 rwhp"):
        read = read_line(text)
        assert read.fields["power_kw"] == pytest.approx(750 / 0.85 * HP, rel=1e-4), text
        assert read.questions[0].guesses == ["750 hp"]


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


@pytest.mark.parametrize(
    ("text", "banks", "layout", "outline"),
    [
        ("V8 450 hp", 2, "", ""),
        ("boxer six 350 hp", 2, "", ""),
        ("straight six 300 hp", 1, "", ""),
        ("inline-6 300 hp", 1, "", ""),
        ("six 300 hp", None, "", ""),
        ("saddle tank 300 hp", None, "C10", ""),
        ("swirl pot V6 truck", 2, "C7", "pick-up"),
        ("canard 160 hp", None, "", "pusher"),
        ("mid engine four 300 hp", None, "", "mid"),
        ("rear-engined flat six 350 hp", 2, "", "rear"),
        ("motorbike 190 hp", None, "", "motorcycle"),
        ("quad bike 100 hp", None, "", "buggy"),
        ("floatplane 160 hp", None, "", "floatplane"),
        ("low wing 160 hp", None, "A2", "low wing"),
        ("kitplane single seater 100 hp", None, "", ""),
    ],
)
def test_banks_layouts_and_craft_are_read(
    text: str, banks: int | None, layout: str, outline: str
) -> None:
    read = read_line(text)
    assert (read.banks, read.layout, read.outline) == (banks, layout, outline)


def test_every_example_of_the_vocabulary_is_read_and_no_phrase_stands_twice() -> None:
    from tall_heron.core.base.catalogue import table

    for row in table("line_words"):
        if row["example"]:
            read = read_line(f"{row['example']} 300 hp")
            assert read.pieces[0].state != "asked" or row["kind"] in (
                "octane",
                "diesel",
                "hydrogen",
                "other engine",
            ), row["example"]
    phrases = [p for row in table("line_words") for p in str(row["word"]).split("|")]
    assert sorted({p for p in phrases if phrases.count(p) > 1}) == []
    assert len(vocabulary()) == len(phrases)


@given(st.text(max_size=300))
def test_nothing_is_lost_and_nothing_breaks(text: str) -> None:
    """Every letter that is no space lies in a piece, in a name, or is a mark or a filler."""
    read = read_line(text)
    for p in read.pieces:
        assert text[p.start : p.end] == p.text
    assert all(q.text in text or q.text == "boosted" for q in read.questions)


@pytest.mark.parametrize(
    "piece", ["1 ", "-6 ", "1-2 ", "1 cc ", "e999 ", "1x ", "3 six ", "alky ", "2 pumps ", "5 L "]
)
def test_the_same_again_and_again_begins_a_build_that_can_be_opened(piece: str) -> None:
    """A document holds so many questions and wishes and no more; what is asked is asked once."""
    begun = start((piece * 300)[:300].strip())
    for build in (begun.laid, begun.sized):
        if build is not None:
            assert load(dump(build)) == build


def test_one_slip_is_forgiven_and_two_are_not() -> None:
    assert [spelled(w) for w in ("injecton", "carburretor", "mehtanol", "metnaoll")] == [
        "injection",
        "carburetor",
        "methanol",
        "metnaoll",
    ]


def test_several_threads_read_at_once() -> None:
    """A server's threads share one grammar; each in turn a fresh one, as at its start."""
    for _ in range(3):
        grammar.cache_clear()
        with ThreadPoolExecutor(8) as pool:
            assert all(r.fields for r in pool.map(read_line, LINES[:40]))
