"""Figures that follow from a solved build, each by a second way."""

import pytest

from tall_heron.core.base.arithmetic import format_number
from tall_heron.core.document.build import Brief, Build
from tall_heron.core.document.figures import Injectors
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.hydraulics.network import compile_network
from tall_heron.core.hydraulics.solve import solve_network
from tall_heron.core.sizing.chooser import choose
from tall_heron.core.study.cases.tank_heat import tank_heat
from tall_heron.core.study.failures.pump_out import left_without
from tall_heron.core.study.study import make_study

BITTERN = demo_builds()["bittern"]


def carbureted() -> Build:
    brief = Brief(power_kw=250, base_kpa=42.0, feeding="carburettor")
    return Build(name="x", brief=brief, circuit=LAYOUTS["C5"].build(brief))


def test_what_is_left_when_a_pump_stops_by_solving_around_it() -> None:
    """At that share of the burn, with needles without limit and the pump off, the rail is not yet 2
    % low; at two percent more it is.
    """
    study = make_study(BITTERN)
    left = left_without(study)
    assert left is not None
    share, pumps = left
    assert set(pumps) == {"P1", "P2"}
    assert 0.3 < share < 1.0
    wide = [
        e.model_copy(update={"figures": e.figures.model_copy(update={"rated_lph": None})})
        if isinstance(e.figures, Injectors)
        else e
        for e in BITTERN.circuit.elements
    ]
    circuit = BITTERN.circuit.model_copy(update={"elements": wide})
    point = study.peak.case.point.model_copy(update={"off": ["P1"]})

    def low(times: float) -> float:
        solution = solve_network(
            compile_network(circuit, point, share * times * study.peak.case.demand)
        )
        return 1 - (solution.nodes[study.path.rail_node or ""] or 0.0) / study.asked(study.peak)

    assert low(0.999) < 0.02 < low(1.02)


def test_the_chooser_compares_what_each_study_holds() -> None:
    choice = choose(BITTERN)
    for c in choice.candidates:
        peak = c.study.peak
        rail = min(
            peak.solution.nodes[e.ports["start"]] or 0.0
            for e in c.study.build.circuit.of_kind("injectors")
        )
        asked = c.study.asked(peak)
        assert c.error_peak == pytest.approx(rail / asked - 1, abs=1e-12)
        assert c.headroom == pytest.approx(c.study.capacity(peak) / peak.case.demand - 1)
        assert c.current == pytest.approx(
            sum(x.current or 0.0 for x in peak.solution.links.values())
        )
        assert c.totals.parts == len(c.study.build.circuit.elements)
        ends = [
            peak.solution.nodes[n]
            for e in c.study.build.circuit.of_kind("rail")
            for n in e.ports.values()
        ]  # as rule P-07 does
        assert c.differ == pytest.approx(max(ends) - min(ends))  # type: ignore[type-var,operator]
        assert c.present == (c.layout.key == BITTERN.circuit.template and c.rails == "single")
    assert [c.present for c in choice.candidates].count(True) == 1
    assert len(choice.wins) == len(choice.candidates)


def test_the_arithmetic_of_a_tanks_heat_shows_its_kilograms() -> None:
    heat = tank_heat(make_study(demo_builds()["bittern"]))
    assert f"({format_number(heat.liters * heat.density / 1000)} kg × " in heat.why.steps[0]
    assert (
        f"{format_number(heat.burnt * 3.6e6)} L/h × {format_number(heat.density / 1000)} kg/L"
        in heat.why.steps[1]
    )
