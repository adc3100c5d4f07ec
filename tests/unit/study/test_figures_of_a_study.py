"""Figures that follow from a solved build, each by a second way."""

import pytest

from tall_heron.core.document.build import Brief, Build
from tall_heron.core.document.circuit import Injectors
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.hydraulics.network import compile_network
from tall_heron.core.hydraulics.solve import solve_network
from tall_heron.core.sizing.chooser import choose
from tall_heron.core.study.keep_up import KeepUp
from tall_heron.core.study.pump_out import left_without
from tall_heron.core.study.study import make_study

BITTERN = demo_builds()["bittern"]


def carburetted() -> Build:
    brief = Brief(power_kw=250, base_kpa=42.0, feeding="carburettor")
    return Build(name="x", brief=brief, circuit=LAYOUTS["C5"].build(brief))


def test_pumps_that_keep_up_give_what_they_gave_until_the_burn_asks_more() -> None:
    study = make_study(BITTERN)
    kept, deliver, burn = KeepUp(study), study.pumps_deliver(study.peak), study.peak.case.demand
    for times in (0.5, 1.0, 4.0):
        grown = max(1.0, times * burn / deliver)
        for pump in ("P1", "P2"):
            assert kept.at(times).flow(pump) == pytest.approx(grown * study.peak.solution.flow(pump), rel=1e-6)
        assert kept.at(times).delivered == pytest.approx(times * burn, rel=0.02)  # needles are no limit


def test_pumps_without_a_way_back_that_keep_up_hold_the_bowl_at_twice_the_burn() -> None:
    """Where regulators set what passes, larger pumps of the same pressure feed twice the burn at nearly the pressure of one."""
    study = make_study(carburetted())
    kept, node = KeepUp(study), study.path.rail_node or ""
    once, twice = kept.at(1.0), kept.at(2.0)
    assert sum(twice.flow(p.id) for p in study.path.pumps) == pytest.approx(2 * sum(once.flow(p.id) for p in study.path.pumps), rel=1e-3)
    assert once.pressure(node) > twice.pressure(node) > 0.5 * once.pressure(node)  # type: ignore[operator]


def test_what_is_left_when_a_pump_stops_by_solving_around_it() -> None:
    """At that share of the burn, with needles without limit and the pump off, the rail is not yet 2 % low; at two percent more it is."""
    study = make_study(BITTERN)
    left = left_without(study)
    assert left is not None
    share, pumps = left
    assert set(pumps) == {"P1", "P2"}
    assert 0.3 < share < 1.0
    wide = [e.model_copy(update={"figures": e.figures.model_copy(update={"rated_lph": None})}) if isinstance(e.figures, Injectors) else e for e in BITTERN.circuit.elements]
    circuit = BITTERN.circuit.model_copy(update={"elements": wide})
    point = study.peak.case.point.model_copy(update={"off": ["P1"]})

    def low(times: float) -> float:
        solution = solve_network(compile_network(circuit, point, share * times * study.peak.case.demand))
        return 1 - (solution.nodes[study.path.rail_node or ""] or 0.0) / study.asked(study.peak)

    assert low(0.999) < 0.02 < low(1.02)


def test_the_chooser_compares_what_each_study_holds() -> None:
    choice = choose(BITTERN)
    order = [(c.count("Stop"), c.count("Check"), c.totals.price) for c in choice.candidates]
    assert order == sorted(order)  # Bittern has one rail: nothing is set back for having fewer
    for c in choice.candidates:
        peak = c.study.peak
        rail = min(peak.solution.nodes[e.ports["start"]] or 0.0 for e in c.study.build.circuit.of_kind("injectors"))
        asked = c.study.asked(peak)
        assert c.error_peak == pytest.approx(rail / asked - 1, abs=1e-12)
        assert c.spare == pytest.approx(c.study.capacity(peak) / peak.case.demand - 1)
        assert c.current == pytest.approx(sum(x.current or 0.0 for x in peak.solution.links.values()))
        assert c.totals.parts == len(c.study.build.circuit.elements)
        ends = [peak.solution.nodes[n] for e in c.study.build.circuit.of_kind("rail") for n in e.ports.values()]  # as rule P-07 does
        assert c.differ == pytest.approx(max(ends) - min(ends))  # type: ignore[type-var,operator]
        assert c.present == (c.layout.key == BITTERN.circuit.template and c.rails == "single")
    assert [c.present for c in choice.candidates].count(True) == 1
    assert len(choice.wins) == len(choice.candidates)
