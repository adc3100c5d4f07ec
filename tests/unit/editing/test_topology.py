"""Changes of what is joined to what, by hand on Bittern: only what is named changes, and it changes
to what is said.
"""

import pytest

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.build import Brief, Build
from tall_heron.core.document.circuit import Element
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import accept, remove
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.editing.topology import (
    add_tap,
    insert,
    second_pump,
    set_height,
    set_level,
    split,
    take_out,
    take_out_whole,
)
from tall_heron.core.study.study import make_study

BITTERN = demo_builds()["bittern"]
EGRET = demo_builds()["egret"]


def part(build: Build, name: str) -> Element:
    found = build.circuit.element(name)
    assert found is not None
    return found


def others(build: Build, before: Build, *names: str) -> bool:
    """Whether every part but some is as it was."""
    return all(
        build.circuit.element(e.id) == e for e in before.circuit.elements if e.id not in names
    )


def test_a_level_is_that_of_one_tank() -> None:
    new = set_level(EGRET, "S2", 33.0)
    assert part(new, "S2").figures.level_mm == 33.0  # type: ignore[union-attr]
    assert others(new, EGRET, "S2")
    for name, mm in (("P1", 10.0), ("S1", -1.0), ("S1", 200_000.0)):
        with pytest.raises(BuildErrors, match="no such level"):
            set_level(EGRET, name, mm)


def test_a_height_is_that_of_one_place() -> None:
    new = set_height(BITTERN, "P1", "start", -55.0)
    inlet = part(BITTERN, "P1").ports["start"]
    assert {n.id: n.elevation_mm for n in new.circuit.nodes} == {
        n.id: n.elevation_mm for n in BITTERN.circuit.nodes
    } | {inlet: -55.0}
    with pytest.raises(BuildErrors, match="within 100 m"):
        set_height(BITTERN, "P1", "start", 100_001.0)


def test_a_part_stands_behind_or_before_another() -> None:
    h3 = part(BITTERN, "H3")
    behind, name = insert(BITTERN, "H3", "shutoff-8")
    assert (part(behind, name).ports["start"], part(behind, name).ports["end"]) == (
        part(behind, "H3").ports["end"],
        h3.ports["end"],
    )
    assert part(behind, "H3").ports["start"] == h3.ports["start"]
    before, name = insert(BITTERN, "H3", "shutoff-8", True)
    assert (part(before, name).ports["start"], part(before, name).ports["end"]) == (
        h3.ports["start"],
        part(before, "H3").ports["start"],
    )
    order = [e.id for e in before.circuit.elements]
    assert order.index(name) == order.index("H3") - 1
    assert others(before, BITTERN, "H3")


def test_what_hung_on_a_tank_hangs_behind_what_is_put_there() -> None:
    """Suction moves behind the new part; the return still ends in the tank."""
    new, name = insert(BITTERN, "S1", "shutoff-10")
    outlet = part(BITTERN, "S1").ports["outlet"]
    assert part(new, name).ports["start"] == outlet
    assert part(new, "E1").ports["start"] == part(new, name).ports["end"]
    assert part(new, "N1").ports["end"] == outlet
    assert others(new, BITTERN, "E1")


def test_a_hose_is_cut_in_two_halves() -> None:
    h3 = part(BITTERN, "H3")
    new, name = split(BITTERN, "H3")
    first, second = part(new, "H3"), part(new, name)
    assert h3.length is not None
    assert first.length is not None
    assert second.length is not None
    assert first.length.mm == second.length.mm == h3.length.mm / 2
    assert first.ports["end"] == second.ports["start"]
    assert (first.end_a, second.end_b) == (h3.end_a, h3.end_b)
    for joint in (first.end_b, second.end_a):
        assert joint is not None
        assert (joint.angle_deg, joint.family, joint.dash) == (
            0,
            h3.properties.family,
            h3.properties.dash,
        )
    heights = {n.id: n.elevation_mm for n in new.circuit.nodes}
    assert (
        heights[first.ports["end"]] == (heights[h3.ports["start"]] + heights[h3.ports["end"]]) / 2
    )
    with pytest.raises(BuildErrors, match="no hose or line"):
        split(BITTERN, "F2")


def test_what_is_taken_out_is_joined_up_and_its_acceptance_goes_with_it() -> None:
    build = accept(
        accept(BITTERN, "M-04", "F2", "raced once a year"), "H-01", "H1", "changed each spring"
    )
    build = accept(build, "E-02", "", "one pump only near here")
    new = take_out(build, "F2")
    assert part(new, "H2").ports["end"] == part(new, "H3").ports["start"]
    assert [(a.rule, a.element_id) for a in new.accepted] == [("H-01", "H1"), ("E-02", "")]
    with pytest.raises(BuildErrors, match="cannot be taken out"):
        take_out(BITTERN, "S1")


def test_a_tap_reads_where_its_part_ends() -> None:
    new, name = add_tap(BITTERN, "P1", "gauge-10bar")
    assert part(new, name).ports["start"] == part(BITTERN, "P1").ports["end"]
    with pytest.raises(BuildErrors, match="cannot be tapped"):
        add_tap(BITTERN, "P1", "marrow-340")


def test_a_second_pump_has_its_check_and_joins_by_a_y() -> None:
    one = Build(name="x", brief=BITTERN.brief, circuit=LAYOUTS["C11"].build(BITTERN.brief))  # type: ignore[arg-type]
    new, name = second_pump(one, "P1")
    twin = part(new, name)
    assert twin.shelf == part(one, "P1").shelf
    assert twin.ports["start"] == part(new, "P1").ports["start"]
    checks = [
        e
        for e in new.circuit.of_kind("check")
        if e.ports["start"] in (twin.ports["end"], part(new, "P1").ports["end"])
    ]
    joined = new.circuit.of_kind("merge")[0]
    assert {c.ports["end"] for c in checks} == {joined.ports["a"], joined.ports["b"]}


def test_a_pump_is_taken_out_with_what_stands_for_it_alone() -> None:
    """Its check valve and Y go, what is left is one line, and the sum of a third pump put in and
    out again is the build as it was.
    """
    one = take_out_whole(BITTERN, "P2")
    assert {e.id for e in BITTERN.circuit.elements} - {e.id for e in one.circuit.elements} == {
        "P2",
        "K2",
        "Y1",
    }
    study = make_study(one)
    assert study.peak.solution.converged
    assert [p.id for p in study.feed_path.pumps] == ["P1"]
    flows = study.peak.solution.links
    assert flows["P1"].flow == pytest.approx(flows["N11"].flow)
    three, new = second_pump(BITTERN, "P2")
    assert take_out_whole(insert(three, new, "sedge-100", True)[0], new).circuit.of_kind(
        "pump", "check", "merge", "strainer"
    ) == BITTERN.circuit.of_kind("pump", "check", "merge", "strainer")
    with pytest.raises(BuildErrors):
        take_out_whole(take_out_whole(one, "P1"), "P1")


def test_the_first_of_two_goes_as_well_as_the_second() -> None:
    study = make_study(take_out_whole(BITTERN, "P1"))
    assert [p.id for p in study.feed_path.pumps] == ["P2"]
    assert study.peak.solution.converged
    assert study.build.circuit.element("E1") is not None  # what leads to both stays for the other


def test_a_y_with_an_idle_leg_can_go() -> None:
    loose = remove(remove(BITTERN, "P2"), "K2")
    left = take_out_whole(loose, "Y1")
    assert left.circuit.element("Y1") is None
    assert make_study(left).peak.solution.converged


def test_a_pump_in_a_row_is_taken_out_alone() -> None:
    layout = LAYOUTS["C7"]
    brief = Brief(power_kw=200, base_kpa=300)
    build = Build(name="x", brief=brief, circuit=layout.build(brief))
    assert len(take_out_whole(build, "P9").circuit.elements) == len(build.circuit.elements) - 1
