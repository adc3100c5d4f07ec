"""What a builder adds is there, joined, and works as its words say; on demo builds and on builds
started from a line.
"""

import pytest

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.design import design
from tall_heron.core.document.build import Build
from tall_heron.core.editing.additions import ADDITIONS, FIRST
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.study.study import make_study

DEMO = demo_builds()


def added(build: Build, key: str, at: str) -> tuple[Build, str]:
    return ADDITIONS[key].add(build, at)


def flow(build: Build, key: str) -> float:
    link = make_study(build).peak.solution.links[key]
    return link.flow


@pytest.mark.parametrize("key", ADDITIONS)
@pytest.mark.parametrize(
    ("name", "at"), [("bittern", "H2"), ("egret", "F2"), ("dunlin", "H2"), ("plover", "S1")]
)
def test_whatever_is_added_has_its_kind_and_the_circuit_solves_or_says_why(
    key: str, name: str, at: str
) -> None:
    build = DEMO[name]
    try:
        new, tag = added(build, key, at)
    except BuildErrors as refused:
        pytest.fail(f"{key} behind {at} of {name}: {refused}")
    assert new.circuit.element(tag) is not None
    assert {e.id for e in build.circuit.elements} < {e.id for e in new.circuit.elements}
    peak = design(new).study.peak.solution
    assert peak.converged or (peak.part and peak.reason)


def test_the_usual_stand_first() -> None:
    assert [*ADDITIONS][:FIRST] == ["tank", "pump", "rail", "bulkhead", "filter", "sensor", "hose"]


def test_another_tank_feeds_beside_the_first() -> None:
    """Two like tanks at one height share what is drawn at a Y, the more to where the strainer is
    not; a selector in flight takes from the first until it is turned.
    """
    new, tank = added(DEMO["dunlin"], "tank", "E1")
    merge, links = new.circuit.of_kind("merge")[0].id, make_study(new).peak.solution.links
    assert links[f"{merge}.a"].flow + links[f"{merge}.b"].flow == pytest.approx(links["P1"].flow)
    assert links[f"{merge}.b"].flow > 0.2 * links["P1"].flow
    assert new.circuit.element(tank).properties == DEMO["dunlin"].circuit.element("S1").properties  # type: ignore[union-attr]
    flown, _ = added(DEMO["plover"], "tank", "S1")
    assert flown.circuit.of_kind("selector")


def test_a_return_carries_back_what_the_engine_leaves() -> None:
    """A system without return, and a regulator with its return behind its filter: what the pumps
    give over the burn turns back there.
    """
    layout = LAYOUTS["C3"]
    brief = DEMO["bittern"].brief
    assert brief is not None
    build = Build(name="without", brief=brief, circuit=layout.build(brief, layout.picks()))
    assert not build.circuit.of_kind("regulator")
    new, regulator = added(build, "return", "F2")
    assert flow(new, regulator) > 0


def test_a_rail_beside_shares_out_the_injectors() -> None:
    new, rail = added(DEMO["bittern"], "rail", "H3")
    counts = sorted(e.figures.count for e in new.circuit.of_kind("injectors"))  # type: ignore[union-attr]
    assert counts == [3, 3]
    assert new.circuit.element(rail).kind == "rail"  # type: ignore[union-attr]
    study = make_study(new)
    both = [study.peak.solution.links[e.id].flow for e in new.circuit.of_kind("injectors")]
    assert both[0] == pytest.approx(both[1], rel=1e-3)
    error = study.rail_error(study.peak)
    assert error is not None
    across = (
        1 + error[0] / study.brief.base
    )  # pulsed injectors give by the root of what stands across them
    assert sum(both) == pytest.approx(study.peak.case.demand * across**0.5, rel=1e-3)


def test_a_pump_beside_a_pump_has_check_and_y_and_elsewhere_its_check() -> None:
    beside, _ = added(DEMO["dunlin"], "pump", "P1")
    assert len(beside.circuit.of_kind("merge")) == 1 + len(DEMO["dunlin"].circuit.of_kind("merge"))
    behind, tag = added(DEMO["bittern"], "pump", "H2")
    pump = behind.circuit.element(tag)
    assert [
        e.kind for e in behind.circuit.elements if e.ports.get("start") == pump.ports["end"]
    ] == ["check"]  # type: ignore[union-attr]
