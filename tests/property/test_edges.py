"""Units and documents go round without loss."""

import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.base.units import QUANTITIES, parse, parse_dash, show
from tall_heron.core.document.build import dump, load
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import fit, set_brief, set_length
from tall_heron.core.shelf.shelf import swaps_for

EVERY_UNIT = [(q.name, word) for q in QUANTITIES.values() for word in q.words]


@given(st.sampled_from(EVERY_UNIT), st.floats(0.01, 1e5))
def test_a_value_typed_in_any_unit_comes_back(unit: tuple[str, str], value: float) -> None:
    quantity, word = unit
    text = f"{value:.9g} {word}"
    assert show(parse(text, quantity, word), quantity, word) == pytest.approx(
        float(f"{value:.9g}"), rel=1e-6, abs=1e-9
    )


@given(st.text(max_size=80))
@settings(max_examples=400)
def test_any_text_is_read_or_refused_in_words(text: str) -> None:
    for quantity in QUANTITIES:
        value, message = 0.0, "read"
        try:
            value = parse(text, quantity, next(iter(QUANTITIES[quantity].words)))
        except ValueError as error:
            message = str(error)
        assert message
        assert abs(value) < 1e300


@pytest.mark.parametrize(
    ("text", "quantity", "shown", "expected", "source"),
    [
        ("58 psi", "pressure", "psi", 399895.9, "lbf/in2 by definition"),
        ("4 bar", "pressure", "psi", 400000, "definition"),
        ("1,5 bar", "pressure", "psi", 150000, "decimal comma"),
        ("255 lph", "volume_flow", "l/h", 255 / 3.6e6, "definition"),
        ("67 gph", "volume_flow", "l/h", 67 * 3.785411784e-3 / 3600, "US gallon of 231 in3"),
        ("620 hp", "power", "hp", 462333.9, "550 ft lbf/s"),
        ("3/8 in", "length", "mm", 0.009525, "definition"),
        ("1 1/4 in", "length", "mm", 0.03175, "definition"),
        ("100 F", "temperature", "c", 310.928, "definition"),
        ("20 C", "temperature", "c", 293.15, "definition"),
        ("0.62 lb/hp/h", "specific_consumption", "lb/hp/h", 0.62 * 0.60828 / 3.6e6, "exact"),
        ("20 %", "fraction", "%", 0.2, "definition"),
        ("20", "fraction", "%", 0.2, "a bare number takes the shown unit"),
    ],
)
def test_units_as_typed(text: str, quantity: str, shown: str, expected: float, source: str) -> None:
    assert parse(text, quantity, shown) == pytest.approx(expected, rel=1e-5), source


@pytest.mark.parametrize(
    ("text", "quantity", "says"),
    [
        ("1,500 psi", "pressure", "1500 or 1.500"),
        ("20 gal", "volume", "US or imperial"),
        ("9**9**9 psi", "pressure", "not a unit"),
        ("58 L/h", "pressure", "unit of volume flow"),
        ("fast", "power", "not a number"),
        ("1/0 in", "length", "over zero"),
        ("-500 C", "temperature", "absolute zero"),
        ("1e999 hp", "power", "too large"),
    ],
)
def test_what_cannot_be_read_says_what_would_be_right(text: str, quantity: str, says: str) -> None:
    with pytest.raises(ValueError, match=says.replace("(", r"\(")):
        parse(text, quantity, next(iter(QUANTITIES[quantity].words)))


def test_dash_sizes() -> None:
    assert [parse_dash(x) for x in ("-8", "8", "-8AN", "1/2 in", "3/8 in")] == [
        "-8",
        "-8",
        "-8",
        "-8",
        "-6",
    ]
    with pytest.raises(ValueError, match="not a usual size"):
        parse_dash("-7")


@given(
    st.floats(1, 5000),
    st.floats(50, 2000),
    st.sampled_from(["E0", "E85", "methanol", "100LL", "E12.5"]),
    st.floats(1, 20000),
)
@settings(max_examples=12)
def test_documents_go_round_and_edits_leave_the_old_one_alone(
    power: float, base: float, fuel: str, mm: float
) -> None:
    build = demo_builds()["bittern"]
    before = dump(build)
    edited = set_brief(
        set_brief(set_brief(build, "power_kw", power), "base_kpa", base), "fuel", fuel
    )
    edited = set_length(edited, "H3", mm)
    assert dump(build) == before
    assert load(dump(edited)) == edited
    assert json.loads(dump(edited))["brief"]["fuel"] == edited.brief.fuel  # type: ignore[union-attr]


def test_every_swap_of_every_part_makes_a_sound_document() -> None:
    build = demo_builds()["bittern"]
    tried = 0
    for element in build.circuit.elements:
        for part in swaps_for(element):
            fitted = fit(build, element.id, part.name)
            assert load(dump(fitted)).circuit.element(element.id).shelf == part.name  # type: ignore[union-attr]
            tried += 1
    assert tried > 60
    with pytest.raises(BuildErrors, match="cannot take the place"):
        fit(build, "F2", "marrow-340")
