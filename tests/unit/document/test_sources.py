"""What is typed is no guess, and what a layout made is one."""

import pytest

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.sources import guesses_of
from tall_heron.core.editing.change_layout import change_layout
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import own_ends, set_clock, set_end, set_length, set_own_end
from tall_heron.core.editing.topology import insert, set_height, set_level
from tall_heron.core.sheets.cut_list import make_cut_rows
from tall_heron.core.shelf.shelf import own_end
from tall_heron.core.sizing.first_build import first_brief, first_build

BITTERN = demo_builds()["bittern"]


def test_a_first_build_is_all_guessed_until_it_is_typed() -> None:
    build = first_build("Godwit", first_brief({"cylinders": 8, "power_kw": 335.0}), {}).sized
    before = guesses_of(build.circuit)
    assert len(before.lengths) == sum(e.length is not None for e in build.circuit.elements)
    assert before.heights == tuple(n.id for n in build.circuit.nodes)
    assert before.levels == ("S1",)
    assert (
        before.of_results
        == f"{len(before.lengths)} lengths, {len(before.heights)} heights and 1 level"
    )
    hose = before.lengths[0]
    after = guesses_of(
        set_level(set_height(set_length(build, hose, 700), "S1", "outlet", 120), "S1", 90).circuit
    )
    assert (
        set(before.lengths) - set(after.lengths),
        set(before.heights) - set(after.heights),
        after.levels,
    ) == ({hose}, {"pot"}, ())


def test_a_measured_build_guesses_only_what_is_new() -> None:
    assert guesses_of(BITTERN.circuit).of_results == ""
    new, _ = insert(BITTERN, "H3", "ptfe-8")
    assert guesses_of(new.circuit).of_results == "1 length and 1 height"
    other = change_layout(BITTERN, "C7").build
    carried = {e.id for e in BITTERN.circuit.elements} & {
        e.id for e in other.circuit.elements if e.length is not None
    }
    guessed = set(guesses_of(other.circuit).lengths)
    assert guessed
    assert "H3" in carried - guessed


def test_a_clock_is_typed_and_a_straight_end_has_none() -> None:
    turned = set_clock(BITTERN, "H3", 360.0)
    assert turned.circuit.element("H3").clock_deg == 0.0  # type: ignore[union-attr]
    assert set_clock(BITTERN, "H3", None).circuit.element("H3").clock_deg is None  # type: ignore[union-attr]
    assert set_end(BITTERN, "H3", "b", 0).circuit.element("H3").clock_deg is None  # type: ignore[union-attr]
    straight = next(
        e.id for e in BITTERN.circuit.elements if e.end_a is not None and e.end_a.angle_deg == 0
    )
    for name, degrees, words in (
        (straight, 90.0, "no two bent ends"),
        ("H3", 361.0, "between 0° and 360°"),
        ("H3", -1.0, "between 0° and 360°"),
    ):
        with pytest.raises(BuildErrors, match=words):
            set_clock(BITTERN, name, degrees)


def test_an_end_of_ones_own_is_cut_to_and_offered_again() -> None:
    """Face to face less 41 mm of the builder's own end and what the shelf's takes up at B."""
    h3 = BITTERN.circuit.element("H3")
    assert h3 is not None
    new = set_own_end(BITTERN, "H3", "a", own_end(120.0, 41.0, 9.5))
    cut = next(r for r in make_cut_rows(new.circuit) if r.element.id == "H3")
    assert cut.cut_mm == h3.length.mm - 41.0 - h3.end_b.take_up_mm  # type: ignore[union-attr]
    end = cut.element.end_a
    assert end is not None
    assert (end.family, end.dash, end.shelf, end.provenance) == (
        h3.properties.family,
        h3.properties.dash,
        None,
        "measured",
    )
    alike = next(
        e
        for e in new.circuit.elements
        if e.id != "H3"
        and (e.properties.family, e.properties.dash) == (h3.properties.family, h3.properties.dash)
        and e.end_a
    )
    assert own_ends(new, alike) == [end]
