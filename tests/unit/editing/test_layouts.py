"""Layouts laid, changed and chosen: what fits is carried over, what is dropped is said, the
recommended one has the least against it.
"""

import math
from dataclasses import replace
from itertools import islice

import pytest

from tall_heron.core.base.arithmetic import format_number
from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.build import Brief, Build, dump, load
from tall_heron.core.document.path import ways
from tall_heron.core.editing.change_layout import change_layout
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import fit, set_brief, set_length
from tall_heron.core.editing.layouts import LAYOUTS, layouts_for
from tall_heron.core.editing.layouts.layout import Layout
from tall_heron.core.editing.topology import add_tap
from tall_heron.core.hydraulics.solve import solve_network
from tall_heron.core.physics.jet import jet_rise, motive_loss
from tall_heron.core.shelf.totals import make_totals
from tall_heron.core.sizing.chooser import candidates, choose, rails_of
from tall_heron.core.sizing.why_layout import why_layout
from tall_heron.core.study.cases.tank_heat import TankHeat, tank_heat
from tall_heron.core.study.demand import allowance
from tall_heron.core.study.explain import why_part
from tall_heron.core.study.failures.pump_out import left_without
from tall_heron.core.study.study import make_study

EVERY = [(x.key, r) for x in LAYOUTS.values() for r in x.rails]


AIRCRAFT = {
    "power_kw": 112,
    "fuel": "100LL",
    "use": "flight",
    "voltage_v": 14,
    "peak_rpm": 2700,
    "cylinders": 4,
}


def brief_for(layout: Layout) -> Brief:
    """An engine of a layout's kind."""
    if layout.craft == "air":
        fed = (
            {"base_kpa": 300}
            if layout.feeding == "injection"
            else {"base_kpa": 3.5 if layout.key == "A1" else 20, "feeding": "carburettor"}
        )
        return Brief.model_validate(AIRCRAFT | fed)
    brief = demo_builds()["dunlin" if layout.feeding == "carburettor" else "bittern"].brief
    assert brief is not None
    return brief


def laid(key: str, **picks: object) -> Build:
    layout = LAYOUTS[key]
    return Build(
        name=key,
        brief=brief_for(layout),
        circuit=layout.build(brief_for(layout), layout.picks(**picks)),
    )


# What the handbook asks of each layout: parts that must be there, and the order of some along the
# way.
HOLDS = {
    "C2": {"regulator": 1},
    "C3": {"controller": 1, "damper": 1, "regulator": 0},
    "C7": {"tank": 2, "pump": 3, "overflow": 1},
    "C9": {"tank": 2, "overflow": 1},
    "C10": {"jet": 1, "tank": 2},
    "C12": {"valve": 1},
    "A1": {"pump": 0, "tank": 2, "valve": 1},
    "A2": {"selector": 1, "pump": 2, "check": 1},
    "A3": {"selector": 2, "pump": 2, "check": 2},
    "A4": {"tank": 4, "crossover": 1, "selector": 0, "regulator": 2, "check": 2},
    "A5": {"tank": 3},
    "A6": {"junction": 1, "tee": 1, "valve": 1},
    "A7": {"junction": 1, "pump": 1},
    "A8": {"selector": 2, "pump": 2, "check": 2, "regulator": 1},
}


@pytest.mark.parametrize(("key", "rails"), EVERY)
def test_every_layout_is_laid_solved_and_read_back(key: str, rails: str) -> None:
    build = laid(key, rails=rails)
    assert (build.circuit.template, rails_of(build)) == (key, rails)
    assert load(dump(build)) == build
    study = make_study(build)
    assert all(s.solution.converged for s in study.solved.values())
    for kind, count in HOLDS.get(key, {}).items():
        assert len(build.circuit.of_kind(kind)) == count, kind
    if build.brief.feeding == "injection":  # type: ignore[union-attr]
        assert (
            sum(e.figures.count for e in build.circuit.of_kind("injectors"))
            == build.brief.cylinders
        )  # type: ignore[union-attr]
    shown = {e.id for c in study.path.columns for e in c.elements} | {
        e.id for b in study.path.branches for e in b.elements
    }
    assert shown >= {e.id for e in build.circuit.elements if ways(e)}
    for e in build.circuit.elements:
        if e.ports:
            assert why_part(study, study.peak, e).steps


def test_staged_pumps_rest_until_there_is_boost() -> None:
    study = make_study(laid("C8"))
    idle, peak = study.solved["idle"].solution.links, study.peak.solution.links
    assert (idle["P1"].state, idle["P2"].state, peak["P2"].state) == ("running", "off", "running")
    assert idle["P2"].flow == 0 < idle["P1"].flow


def test_a_controlled_pump_makes_only_what_is_asked() -> None:
    """The rail stands at what is asked, the pump's rise is the rail and the way to it (by the
    hoses' and parts' own losses), and no pressure is left over.
    """
    build = laid("C3")
    solution = make_study(build).peak.solution
    way = sum(solution.links[x].loss or 0.0 for x in ("K1", "N11", "H2", "F2", "H3", "D1", "PC1"))
    assert solution.links["PC1"].loss == 0
    assert solution.nodes["P1 out"] == pytest.approx(solution.nodes["rail in"] + way)  # type: ignore[operator]
    assert -solution.links["P1"].loss == pytest.approx(
        solution.nodes["P1 out"] - solution.nodes["pump inlet"]
    )  # type: ignore[operator]
    assert solution.nodes["rail in"] == pytest.approx((399.8959 + 151.6847) * 1000, rel=1e-3)


def test_an_engine_driven_pump_follows_the_engine() -> None:
    """5.2 cc x 0.5 x 5600 rpm x 60 = 873.6 L/h swept, times its volumetric efficiency (0.96 to 0.86
    over 0 to 800 kPa in data/parts/engine_pumps.csv).
    """
    study = make_study(laid("C9"))
    gives = study.peak.solution.links["P1"].flow * 3.6e6
    assert 0.86 * 873.6 < gives < 0.96 * 873.6
    idle = study.solved["idle"].solution.links["P1"]
    assert idle.loss is not None
    share = 0.96 + (0.92 - 0.96) * -idle.loss / 400e3  # between its sheet's first two rows
    slips = 5.2 * 3000 * 60 / 1000 * (1 - share)  # at the 3,000 turns of its sheet, and at any
    assert idle.flow * 3.6e6 == pytest.approx(0.15 * 873.6 - slips, rel=0.02)


def test_a_jet_pump_keeps_its_momentum() -> None:
    """Cunningham's balance for b = 0.2066, M = 1 and no loss but the throat's: B = 2b + 2b2/(1-b) -
    4b2(1.2) - 1.1(b/(1-b))2, by hand 0.2412.
    """
    b = (5 / 11) ** 2
    by_hand = 2 * b + 2 * b * b / (1 - b) - 4 * b * b * 1.2 - 1.1 * (b / (1 - b)) ** 2
    assert by_hand == pytest.approx(0.2412, abs=1e-3)
    speed = 1e-4 / (math.pi * 0.005**2 / 4)
    assert jet_rise(1e-4, 1e-4, 0.005, 0.011, 750, 0.1, 0.2) == pytest.approx(
        by_hand * 750 * speed**2 / 2
    )
    # The jet leaves at the pressure of the throat's entry, 1.1 (b/(1-b))2 under the suction port:
    # 1.05 less 0.0746 (fluids.liquid_jet_pump says the same).
    assert motive_loss(1e-4, 1e-4, 0.005, 0.011, 750, 0.05, 0.1) == pytest.approx(
        (1.05 - 1.1 * (b / (1 - b)) ** 2) * 750 * speed**2 / 2
    )
    solution = make_study(laid("C10")).peak.solution
    assert solution.links["P8.suction"].flow > 0.2 * solution.links["P8.motive"].flow > 0


def test_a_change_of_layout_keeps_what_fits_and_comes_back_whole() -> None:
    build = set_length(fit(demo_builds()["bittern"], "F2", "reedmace-10g"), "H3", 4100.0)
    there = change_layout(build, "C1", "parallel")
    assert there.dropped == ()
    assert {x.split()[0] for x in there.added} == {"Y2", "H7", "H8", "RL2", "J2", "H9", "H10", "Y3"}
    kept = there.build.circuit.element("H3")
    assert (kept.length.mm, there.build.circuit.element("F2").shelf) == (4100.0, "reedmace-10g")  # type: ignore[union-attr]
    assert [e.figures.count for e in there.build.circuit.of_kind("injectors")] == [3, 3]  # type: ignore[union-attr]
    back = change_layout(there.build, "C1")
    assert {x.split()[0] for x in back.dropped} == {
        "Y2",
        "H7",
        "H8",
        "RL2",
        "J2",
        "H9",
        "H10",
        "Y3",
    }
    assert back.build == build


def test_from_injection_to_a_carburettor_only_tank_and_lines_are_kept() -> None:
    build = set_brief(
        set_brief(demo_builds()["bittern"], "feeding", "carburettor"), "base_kpa", 45.0
    )
    there = change_layout(build, "C6").build.circuit
    assert there.element("P1").shelf == "coot-380"  # type: ignore[union-attr]
    assert there.element("F2").shelf == "dock-10c"  # type: ignore[union-attr]  # the filter goes with the engine
    assert (there.element("S1").title, there.element("H3").properties.dash) == (
        "steel tank, 70 L, baffled",
        "-10",
    )  # type: ignore[union-attr]
    assert [x.key for x, _ in layouts_for(build.brief)] == ["C5", "C6", "C13"]  # type: ignore[arg-type]
    with pytest.raises(BuildErrors, match="no layout B9"):
        change_layout(build, "B9")


@pytest.mark.parametrize(
    "name", [pytest.param("bittern", marks=pytest.mark.sweep), "curlew", "dunlin"]
)
def test_the_recommended_one_has_the_least_against_it_and_costs_the_least(name: str) -> None:
    choice = choose(demo_builds()[name])
    rails = len(
        demo_builds()[name].circuit.of_kind("rail")
    )  # an engine of two banks keeps two rails wherever it can
    unasked = [
        not c.present
        and (
            (c.layout.key == "C8" and not c.study.brief.boosted)
            or (c.layout.key == "C9" and c.study.brief.power_kw < 597)
        )
        for c in choice.candidates
    ]
    keys = [
        (
            odd,
            len(c.study.build.circuit.of_kind("rail")) < rails,
            c.count("Stop"),
            c.count("Check"),
            c.totals.price,
        )
        for c, odd in zip(choice.candidates, unasked, strict=True)
    ]
    assert {
        c.layout.key for c, (_, fewer, *_) in zip(choice.candidates, keys, strict=True) if fewer
    } <= {
        x.key
        for x, _ in layouts_for(demo_builds()[name].brief)
        if x.rails == ("single",) or x.key == demo_builds()[name].circuit.template  # type: ignore[arg-type]
    }
    assert keys[choice.candidates.index(choice.best)] == min(keys)
    assert [c.present for c in choice.candidates].index(
        True
    ) == 0  # shown first, and the rest in an order that no finding moves
    assert sum(c.present for c in choice.candidates) == 1
    assert {c.layout.key for c in choice.candidates} == {
        x.key for x, _ in layouts_for(demo_builds()[name].brief)
    }  # type: ignore[arg-type]
    assert choice.reasons
    assert all(w.text for w in choice.wins)


def test_each_compared_figure_shows_its_arithmetic() -> None:
    """What a step ends in is what the table shows."""
    for c in islice(candidates(demo_builds()["bittern"]), 3):
        steps = [step for why in why_layout(c) for step in why.steps]
        assert c.left is not None
        assert any(
            s.startswith("without P1 or P2") and s.endswith(f"{format_number(100 * c.left[0])} %")
            for s in steps
        )
        assert any(s.endswith(f"= {format_number(c.current)} A") for s in steps)
        assert any(s.endswith(f"= {format_number(c.heat.rise)} K in 1 h") for s in steps)
        assert any(s.startswith("vapor margin = ") for s in steps)


def test_a_tank_warms_by_what_comes_back() -> None:
    """Curlew idling: pumps' watts x share returned into half of 20 L that loses 8 W/K, an hour
    long, by small steps.
    """
    study = make_study(demo_builds()["curlew"])
    idle = study.solved["idle"]
    watts = idle.solution.links["P1"].current * 13.3  # type: ignore[operator]
    share = 1 - idle.solution.delivered / idle.solution.links["P1"].flow
    mass = 0.010 * study.fuel_demand.density
    ethanol = 0.85 * 794 / (0.85 * 794 + 0.15 * 745)
    kelvin = 0.0
    for _ in range(360_000):
        kelvin += (
            0.01 * (watts * share - 8 * kelvin) / (mass * (ethanol * 2360 + (1 - ethanol) * 2200))
        )
    assert tank_heat(study).rise == pytest.approx(kelvin, rel=1e-4)


def test_a_tank_settles_where_it_loses_what_it_gets() -> None:
    """Worked example of the handbook: 240 W into 30 L (745 kg/m3, 2.2 kJ/(kg K)) with U A 8 W/K
    ends 30 K up, 13.3 K after an hour; without loss 17.6 K.
    """
    heat = TankHeat(240.0, 1.0, 30.0, 745.0, 2200.0, 8.0, 0.0)
    assert heat.rise == pytest.approx(13.3, abs=0.05)
    assert heat.rise_after(1e6) == pytest.approx(30.0)
    assert replace(heat, loss=1e-6).rise == pytest.approx(17.6, abs=0.05)


def test_without_a_return_the_heat_goes_to_the_rail() -> None:
    """By hand: 183 W into 4.8 L/h of 745 kg/m3 and 2.2 kJ/(kg K) is 84 K."""
    heat = TankHeat(183.0, 0.0, 30.0, 745.0, 2200.0, 8.0, 4.8 / 3.6e6)
    assert heat.rise == 0.0
    assert heat.at_rail == pytest.approx(84, abs=0.5)


def test_totals_count_each_injector_and_price_hose_by_the_metre() -> None:
    """Curlew's feed: 1.65 m of -8 PTFE at 32.90 a metre, a 45 degree end 20.80 and a 90 degree end
    23.40 (data files, by hand).
    """
    circuit = demo_builds()["curlew"].circuit
    alone = circuit.model_copy(
        update={"elements": [e for e in circuit.elements if e.id in ("H3", "J1")]}
    )
    assert make_totals(alone).price == pytest.approx(1.65 * 32.90 + 20.80 + 23.40 + 4 * 124)
    assert make_totals(alone).length == pytest.approx(1.65)


@pytest.mark.parametrize("key", ["C1", "C8", "A3", "A4"])
def test_what_is_left_when_a_pump_stops_is_what_the_rest_can_feed(key: str) -> None:
    """At the share left, the rail holds with the pump off; at a hundredth more it does not (solved
    again, with nothing of the search).
    """
    build = Build(
        name="laid",
        brief=brief_for(LAYOUTS[key]),
        circuit=LAYOUTS[key].build(brief_for(LAYOUTS[key])),
    )
    study = make_study(build)
    found = left_without(study)
    assert found is not None
    share, pumps = found
    assert 0 <= share <= 1
    point = study.peak.case.point.model_copy(update={"off": [*study.peak.case.point.off, pumps[0]]})

    def low_by(times: float) -> float:
        solution = solve_network(
            study.what_if.unlimited.compiled.at(point, study.peak.case.demand * times)
        )
        rail = solution.nodes.get(study.path.rail_node or "") if solution.converged else None
        return 1 - (rail or 0.0) / study.asked(study.peak)

    allowed = allowance(study.brief, "rail_error_check")
    assert share == 0 or low_by(share) <= allowed
    assert share == 1 or low_by(share + 0.01) > allowed


def test_one_pump_alone_leaves_nothing_and_a_diaphragm_lets_the_boost_pump_through() -> None:
    """Dead engine pump in A2: its valves pass fuel and the boost pump feeds the bowl; boost pump
    dead: the check passes it by (common practice).
    """

    def left(key: str, **about: object) -> tuple[float, tuple[str, ...]] | None:
        circuit = laid(key).circuit
        parts = [
            e.model_copy(update={"properties": e.properties.model_copy(update=about)})
            if e.id == "P7"
            else e
            for e in circuit.elements
        ]
        return left_without(
            make_study(
                Build(
                    name=key,
                    brief=brief_for(LAYOUTS[key]),
                    circuit=circuit.model_copy(update={"elements": parts}),
                )
            )
        )

    assert left("C5") == (0.0, ("P1",))
    assert left("A2") == (1.0, ("P1", "P7"))
    assert left("A2", passes_stopped=False) == (0.0, ("P7",))
    assert left("A1") is None


def test_an_auxiliary_tap_draws_by_the_root_of_its_pressure_at_full_power_only_and_is_no_spare_flow() -> (
    None
):
    """Q = 60 L/h x root(across / 300 kPa), the law of a sharp orifice (Crane TP-410, eq. 2-23);
    shut at idle; less of it is left for the engine.
    """
    plain = demo_builds()["bittern"]
    tapped, tap = add_tap(plain, "RL", "spurge-tap-60")
    before, after = make_study(plain), make_study(tapped)
    link = after.peak.solution.links[tap]
    across = after.peak.solution.nodes[link.start] - after.brief.boost_kpa * 1000  # type: ignore[operator]
    assert link.flow * 3.6e6 == pytest.approx(60 * math.sqrt(across / 300e3), rel=1e-6)
    assert (
        tap not in after.solved["idle"].solution.links
        or after.solved["idle"].solution.links[tap].flow == 0.0
    )
    demand = before.peak.case.demand
    assert after.headroom(after.peak) == pytest.approx(
        before.headroom(before.peak) - link.flow / demand, abs=0.02
    )  # type: ignore[operator]
    fed = after.peak.solution.links["J1"].flow
    assert fed == pytest.approx(before.peak.solution.links["J1"].flow, rel=0.01)


@pytest.mark.parametrize(("first", "second"), [("C6", "C5"), ("C5", "C6")])
def test_a_regulator_that_holds_the_other_side_is_not_carried_over(first: str, second: str) -> None:
    """Bypass and dead-head are two valves; what fits both layouts, such as the filter, stays."""
    brief = Brief(power_kw=250, base_kpa=42.0, feeding="carburettor")
    build = Build(name="x", brief=brief, circuit=LAYOUTS[first].build(brief))
    there = change_layout(build, second).build.circuit
    usual = LAYOUTS[second].build(brief)
    for circuit in (there, usual):
        assert circuit.of_kind("regulator")
    held = [(e.figures.holds, e.shelf) for e in there.of_kind("regulator")]  # type: ignore[union-attr]
    assert held == [(e.figures.holds, e.shelf) for e in usual.of_kind("regulator")]  # type: ignore[union-attr]
    assert there.element("F2").shelf == build.circuit.element("F2").shelf  # type: ignore[union-attr]
