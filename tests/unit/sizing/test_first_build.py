"""A new build is what its line asks for: sized, with rails by bank and pumps by need."""

import pytest

from tall_heron.core.begin.started import start
from tall_heron.core.design import design
from tall_heron.core.line.reading import read_line
from tall_heron.core.sizing.auto_size import reasons
from tall_heron.core.sizing.first_build import First, first_brief, first_build
from tall_heron.core.study.demand import margin
from tall_heron.core.study.study import make_study


def started(line: str) -> First:
    read = read_line(line)
    assert read.questions == []
    return first_build("x", first_brief(read.fields, read.layout), {}, read.layout, read.banks)


# line, layout, pumps, rails: what a builder would lay out (common practice); what such builds must
# hold is in test_first_lines.py
LINES = [
    ("carb V8 350 hp 6 psi", "C5", 1, 0),
    ("130 hp four 1.8 L, 3 bar", "C1", 1, 1),
    ("V8 450 hp", "C1", 1, 2),
    ("straight six 330 hp E10 58 psi", "C1", 1, 1),
    ("V8 1,000 hp E85 4 bar + 1.5 bar", "C1", 1, 2),
    ("1,900 hp methanol V8 drag 60 psi + 30", "C1", 3, 2),
    ("surge tank V8 550 hp circuit", "C7", 2, 2),
    ("flat four 150 hp avgas, 43.5 psi, aircraft", "A3", 2, 1),
    ("biplane carb 100 hp 0.5 psi", "A1", 0, 0),
    ("header tanks 200 hp flat six 3 bar aircraft", "A4", 2, 1),
    ("low-wing 160 hp flat four carb 5 psi", "A2", 2, 0),
    ("low-wing 300 hp flat six injected engine-driven pump", "A8", 2, 1),
]


@pytest.mark.parametrize(("line", "layout", "pumps", "rails"), LINES, ids=[x[0] for x in LINES])
def test_a_line_gives_the_circuit_that_it_asks_for(
    line: str, layout: str, pumps: int, rails: int
) -> None:
    first = started(line)
    circuit = first.sized.circuit
    assert (circuit.template, len(circuit.of_kind("pump")), len(circuit.of_kind("rail"))) == (
        layout,
        pumps,
        rails,
    )
    found = design(first.sized)
    assert [f.title for f in found.findings if f.level == "Stop"] == []
    assert {e.length.source for e in circuit.elements if e.length} == {"assumed"}
    headroom = found.study.headroom(found.study.peak) if pumps else None
    if headroom is not None and first.sized.brief is not None and first.sized.brief.use != "flight":
        assert headroom > margin(first.sized.brief)[0] - 1e-9


def test_more_power_takes_more_and_later_power_is_served() -> None:
    small, large = (
        started("130 hp four 1.8 L, 3 bar").sized,
        started("four 1.8 L 350 hp, 3 bar").sized,
    )
    assert small.circuit.element("P1").shelf != large.circuit.element("P1").shelf  # type: ignore[union-attr]
    brief = first_brief(
        {"power_kw": 97.0, "later_power_kw": 261.0, "cylinders": 4, "displacement_l": 1.8}
    )
    later = first_build("x", brief, {}).sized
    assert later.brief == brief
    assert later.circuit.element("P1").shelf == large.circuit.element("P1").shelf  # type: ignore[union-attr]


def test_what_is_laid_first_is_the_usual() -> None:
    first = started("V8 450 hp")
    assert len(first.laid.circuit.of_kind("pump")) == 2
    assert first.laid.circuit.element("P1").shelf == "marrow-340"  # type: ignore[union-attr]
    assert design(first.sized).study.peak.solution.converged


def test_reasons_name_what_the_next_smaller_would_break() -> None:
    rows = {r.ids: r for r in reasons(make_study(started("130 hp four 1.8 L, 3 bar").sized)).rows}
    assert not any(r.changes for r in rows.values())
    refused = rows["J1",].refused
    assert refused is None or refused.rule == "duty"
    assert any(r.refused is not None for r in rows.values())


@pytest.mark.parametrize(
    ("line", "celsius"),
    [
        ("flat four 180 hp injected avgas aircraft, 17000 ft", 23.0),
        ("V8 450 hp, 5000 ft", 35.0),
        ("V8 450 hp, 5000 ft, 45 C", 45.0),
        ("V8 450 hp", 40.0),
    ],
)
def test_hottest_fuel_that_nobody_said_is_cooler_high_up(line: str, celsius: float) -> None:
    """Half of the standard atmosphere's 6.5 K a kilometer (isa-1976; the half from memory), and
    then nothing boils by a guess.
    """
    first = started(line).sized
    assert first.brief is not None
    assert first.brief.fuel_temperature_c == celsius
    boils = [f for f in design(first).findings if f.rule == "S-01" and f.level in ("Stop", "Check")]
    assert not boils or "45 C" in line


@pytest.mark.parametrize(
    ("line", "cylinders"),
    [
        ("methanol dragster 1200 hp blown", 8),
        ("motorcycle 1000 cc 150 hp", 4),
        ("180 hp aircraft", 4),
        ("dual quads 500 hp", 8),
        ("300 hp", 6),
        ("2.0 L 150 hp", 4),
        ("0.66 L 64 hp", 2),
        ("five cylinder dragster 900 hp", 5),
    ],
)
def test_an_engine_of_which_nobody_says_more_has_the_usual_cylinders(
    line: str, cylinders: int
) -> None:
    """Common practice; and the rails hold as many injectors as there are."""
    build = start(line, lambda name, text: "").laid
    assert build.brief is not None
    assert build.brief.cylinders == cylinders
    named = {"three": 3, "four": 4, "six": 6}
    injectors = build.circuit.of_kind("injectors")
    for rail, set_of in zip(build.circuit.of_kind("rail"), injectors, strict=False):
        assert set_of.figures.count <= named[rail.title.split("-")[0]]  # type: ignore[union-attr]


def test_a_tank_on_hand_keeps_the_gauge_of_the_place_it_takes() -> None:
    """An aircraft's tanks have one each (14 CFR 23.1337, from memory)."""
    build = start("wings 60 L, 150 hp aircraft", lambda name, text: "").laid
    assert [t.properties.level_gauge for t in build.circuit.of_kind("tank")] == [True, True]


@pytest.mark.parametrize(
    ("text", "layout", "bowls"),
    [
        ("hot rod V8 6.5 L 540 hp dual quads", "C5", 2),
        ("six 3.0 L 150 hp triple carburetors", "C5", 3),
        ("flathead V8 3.9 L 140 hp mechanical pump carburetor", "C13", 1),
        ("flathead V8 3.9 L 140 hp carburetor, pump on the engine", "C13", 1),
        ("four 1.6 L 120 hp twin carburetors, mechanical pump", "C13", 2),
    ],
)
def test_each_carburetor_has_a_line_and_a_cam_works_its_pump(
    text: str, layout: str, bowls: int
) -> None:
    """Nothing stands against it; all bowls burn what the engine does, in equal shares; a pump on the
    camshaft sits at the engine, its filter with it, and nothing is wired.
    """
    build = start(text).sized
    assert build.circuit.template == layout
    made = design(build)
    assert [f.title for f in made.every_finding if f.level in ("Stop", "Check")] == []
    drawn = build.circuit.of_kind("carburettor")
    assert len(drawn) == bowls
    flows = [made.study.peak.solution.flow(e.id) for e in drawn]
    assert sum(flows) == pytest.approx(made.study.fuel_demand.volume_flow, rel=0.01)
    assert max(flows) == pytest.approx(min(flows), rel=0.01)
    if layout == "C13":
        assert build.wiring is None or not build.wiring.branches
        long = {e.runs: e.length.mm for e in build.circuit.of_kind("hose") if e.length is not None}
        assert long["tank to engine pump"] > 3 * long["pump to filter"]
