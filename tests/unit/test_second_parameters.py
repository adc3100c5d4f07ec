"""Which of two figures counts: thresholds, fallbacks and twins that a formula's own check passes
by. Each is worked by hand or from a published source.
"""

import itertools
import math
from dataclasses import replace
from itertools import pairwise

import pytest
from circuits import injectors, pump, tank
from circuits import made as circuit_of

from tall_heron.core.base.constants import PSI
from tall_heron.core.document.acceleration import STRAIGHT, ahead_of
from tall_heron.core.document.build import Brief, Build, validate
from tall_heron.core.document.faces import face
from tall_heron.core.document.figures import Tee
from tall_heron.core.document.kinds import PIPES
from tall_heron.core.document.point import reference_pressure_kpa
from tall_heron.core.document.space import Zone
from tall_heron.core.document.wiring import CutOff
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.editing.route import add_guard, remove_guard
from tall_heron.core.editing.topology import split, take_out
from tall_heron.core.editing.wiring import set_branch, wire_by_rule
from tall_heron.core.electrics.cut_off import CutOffState, Inputs, step
from tall_heron.core.electrics.feeds import make_harness
from tall_heron.core.hydraulics.network import compile_network
from tall_heron.core.hydraulics.solve import solve_network
from tall_heron.core.hydraulics.vessel import make_tank
from tall_heron.core.joining.chains import _there, join
from tall_heron.core.physics.fuel import boils_at, fuel_named, season_reid_vapor
from tall_heron.core.physics.pump import make_curve
from tall_heron.core.physics.wired_pump import wired_map
from tall_heron.core.prove.predict import Predictor, Setup
from tall_heron.core.prove.rank import Sample, judge
from tall_heron.core.routing.laid import lay_out
from tall_heron.core.routing.limits import near_zone
from tall_heron.core.routing.vectors import add_vectors, subtract_vectors
from tall_heron.core.sheets.buy_list import make_buy_list
from tall_heron.core.shelf.shelf import parts
from tall_heron.core.study.cases.tank_heat import pump_power
from tall_heron.core.study.failures.failure_walk import walk
from tall_heron.core.study.failures.key_off import prime
from tall_heron.core.study.study import make_study

DEMO = demo_builds()
ROAD = Brief(power_kw=300, base_kpa=400, boost_kpa=100, fuel="E10", cylinders=6)
AIR = Brief(
    power_kw=112, fuel="100LL", base_kpa=20, use="flight", feeding="carburettor", cylinders=4
)


def test_a_pound_over_the_class_is_sold_in_summer_alone() -> None:
    """40 CFR 1090.215, from memory: E9 to E10 may stand 1 psi over the class in summer."""
    e0, e10 = fuel_named("E0"), fuel_named("E10")
    over = {s: season_reid_vapor(e10, s) - season_reid_vapor(e0, s) for s in SEASONS}
    assert over["summer"] == pytest.approx(PSI, rel=0.1)
    assert over["spring or autumn"] == over["winter"] == 0.0


SEASONS = ("summer", "spring or autumn", "winter")


def ap42(reid_psi: float, rankine: float, slope: float) -> float:
    """True vapor pressure [psi] of a gasoline: EPA AP-42, 7.1, figure 7.1-14b, written out here."""
    root, log = math.sqrt(slope), math.log10(reid_psi)
    return math.exp(
        (0.7553 - 413.0 / rankine) * root * log
        - (1.854 - 1042 / rankine) * root
        + (2416 / rankine - 2.013) * log
        - 8742 / rankine
        + 15.64
    )


@pytest.mark.parametrize(("fuel", "slope"), [("100LL", 2.0), ("E0", 3.0)])
def test_aviation_gasoline_boils_by_its_own_slope(fuel: str, slope: float) -> None:
    """AP-42 gives 2 for aviation gasoline, 3 for motor gasoline."""
    made = fuel_named(fuel)
    reid = season_reid_vapor(made, "summer") / PSI
    for celsius in (10.0, 45.0):
        here = boils_at(made, "summer", celsius + 273.15) / PSI
        assert here == pytest.approx(ap42(reid, (celsius + 273.15) * 1.8, slope), rel=2e-3)


def test_beyond_its_table_a_flat_end_falls_by_a_tenth_of_its_last_piece() -> None:
    """10, 2, 1.9 over 0, 1, 2: the end slope of Fritsch and Carlson's formula, (3 x -0.1 + 8) / 2,
    has the wrong sign and is taken as 0; a tenth of the last piece's -0.1 stands for it.
    """
    curve = make_curve([0.0, 1.0, 2.0], [10.0, 2.0, 1.9])
    assert curve.at(2.5)[0] == pytest.approx(1.9 - 0.5 * 0.01)


def test_every_tee_turns_at_three_times_its_run() -> None:
    """Crane TP-410, A-29: standard tees, 20 f_T through the run and 60 f_T through the branch."""
    tees = [p.figures for p in parts().values() if isinstance(p.figures, Tee)]
    assert tees
    for tee in tees:
        assert tee.branch_loss_coefficient == pytest.approx(3 * tee.run_loss_coefficient)


def test_a_bowl_and_a_hat_feel_boost_and_no_vacuum() -> None:
    for reference in ("hat", "bowl"):
        assert reference_pressure_kpa(reference, 80.0) == 80.0
        assert reference_pressure_kpa(reference, -60.0) == 0.0
    assert reference_pressure_kpa("manifold", -60.0) == -60.0


def test_what_returns_runs_back() -> None:
    """The middle of a return that is cut in two lies behind the regulator, not before it."""
    build = DEMO["bittern"]
    line = next(e for e in build.circuit.elements if e.role == "return" and e.kind == "hose")
    halves, _ = split(build, line.id)
    bare = halves.circuit.model_copy(
        update={"nodes": [n.model_copy(update={"ahead_mm": None}) for n in halves.circuit.nodes]}
    )
    ahead, first = ahead_of(bare, False), bare.element(line.id)
    assert first is not None
    assert first.length is not None
    gone = ahead[first.ports["end"]] - ahead[first.ports["start"]]
    assert gone == pytest.approx(-STRAIGHT * first.length.mm / 1000)


def test_a_latch_is_not_reset_while_the_car_lies_on_its_roof() -> None:
    cut = CutOff(inertia=True, roll_over=True, breaks="supply")
    on = Inputs(ignition=True, turning=True)
    state = step(cut, CutOffState(), on)
    for _ in range(20):
        state = step(cut, state, Inputs(ignition=True, turning=True, rolled=True))
    assert state.latched
    state = step(cut, state, Inputs(ignition=True, turning=True, rolled=True, reset=True))
    assert state.latched, "it still lies there"
    state = step(cut, state, Inputs(ignition=True, turning=True, reset=True))
    assert not state.latched


def shared(build: Build) -> Build:
    """A build whose pumps hang on one relay."""
    wired = wire_by_rule(build)
    assert wired.wiring is not None
    first = wired.wiring.branches["P1"].relay
    return set_branch(wired, "P2", relay=first)


def test_the_wire_to_a_shared_relay_and_its_fuse_are_for_all_its_pumps() -> None:
    """Two pumps draw what two draw: the fuse at least 1.25 times that (common practice)."""
    build = shared(DEMO["bittern"])
    assert build.wiring is not None
    harness = make_harness(build.circuit, build.wiring, 14.0, 550.0)
    contact = next(c for c in harness.relays.values() if len(c.pumps) == 2)
    together = sum(harness.feeds[p].highest for p in contact.pumps)
    assert contact.fuse is not None
    assert contact.fuse >= 1.25 * together
    assert contact.ampere == pytest.approx(together)


def test_what_pumps_draw_is_at_the_volts_that_reach_them() -> None:
    solved = make_study(DEMO["bittern"]).solved["low voltage"]
    by_hand = sum(
        link.current * solved.solution.voltage(link.element)
        for link in solved.solution.links.values()
        if link.current
    )
    assert pump_power(solved) == pytest.approx(by_hand)
    amps = sum(x.current or 0.0 for x in solved.solution.links.values())
    assert by_hand < 12.5 * amps, "not at the 13.5 V of a sheet"


def test_spares_are_bought_and_not_carried() -> None:
    bought = make_buy_list(DEMO["bittern"], lay_out(DEMO["bittern"]))
    spares = sum(i.mass_kg or 0.0 for i in bought.items if i.group == "spares")
    every = sum(i.mass_kg or 0.0 for i in bought.items)
    assert spares > 0
    assert bought.mass_kg == pytest.approx(every - spares)


def test_of_chains_as_long_and_as_straight_the_wider_is_offered_first() -> None:
    """What narrows costs pressure; those in stock come before all others, whatever their bore."""
    compared = 0
    sizes = ("-4", "-6", "-8", "-10", "-12")
    faces = [face(f"{sort} {size}") for sort in ("flare", "port") for size in sizes]
    for one, other in itertools.product(faces, faces):
        for a, b in pairwise(join(one, other).ways):
            rank = [(len(w), sum(p.angle_deg > 0 for p in w), not _there(w)) for w in (a, b)]
            if rank[0] == rank[1]:
                compared += 1
                assert min(p.bore_mm for p in a) >= min(p.bore_mm for p in b)
    assert compared


def test_a_part_that_ends_in_a_tank_is_taken_out() -> None:
    """What brings the return home ends at the tank, whose outlet stays the place it was; without
    the fitting the line before it ends there.
    """
    build = DEMO["bittern"]
    outlets = {t.id: t.ports["outlet"] for t in build.circuit.of_kind("tank")}
    last = next(
        e
        for e in build.circuit.elements
        if e.ports.get("end") in outlets.values() and set(e.ports) == {"start", "end"}
    )
    before = [e.id for e in build.circuit.elements if e.ports.get("end") == last.ports["start"]]
    after = take_out(build, last.id)
    assert after.circuit.element(last.id) is None
    assert {t.id: t.ports["outlet"] for t in after.circuit.of_kind("tank")} == outlets
    assert before
    for name in before:
        line = after.circuit.element(name)
        assert line is not None
        assert line.ports["end"] in outlets.values()
    assert make_study(after).peak.solution.converged


def test_a_motor_stands_under_a_quarter_of_its_lowest_map() -> None:
    """Of maps at 9 and 13.5 V the lower counts: at 3 V it turns still, at 2.2 V it stands."""
    rises = [make_curve([0.0, 5e-5], [2e5, 0.0]), make_curve([0.0, 1e-4], [4e5, 0.0])]
    drawn = [make_curve([0.0, q], [5.0, 5.0]) for q in (5e-5, 1e-4)]
    for source, stands in ((3.0, False), (2.2, True)):
        wired = wired_map([9.0, 13.5], rises, drawn, "turbine", source, 1e-6)
        assert wired.stalled == stands


def test_a_pump_past_the_end_of_its_table_says_so() -> None:
    """Injectors that take 170 L/h at 400 kPa take 170 sqrt(500 / 400) = 190 L/h at 500: a table
    that ends at 200 holds that, one that ends at 180, 6 % before it, does not.
    """
    for last, state in ((200.0, "running"), (180.0, "beyond its table")):
        rows = [[0.0, 600.0], [last, 500.0]]
        data = circuit_of(
            [tank("T", "a"), pump("P1", "a", "b", rows), injectors("J", "b")],
            {},
            {"demand_lph": 170.0},
        )
        data["circuit"]["elements"][1]["figures"]["curves"] = [{"voltage_v": 13.5, "rows": rows}]
        build = validate(data)
        solution = solve_network(compile_network(build.circuit, build.points[0]))
        assert solution.links["P1"].state == state


def test_a_full_tank_holds_what_it_says_its_sump_with_it() -> None:
    cell = DEMO["bittern"].circuit.of_kind("tank")[0]
    for sump in (None, 3.0):
        p = cell.properties.model_copy(update={"sump_l": sump, "sump_mm": 60.0})
        vessel = make_tank(p)
        assert vessel is not None
        assert vessel.holds * 1000 == pytest.approx(p.capacity_l, rel=1e-6)


def test_a_line_drawn_from_the_engine_to_the_tank_feeds_alike() -> None:
    laid = LAYOUTS["A1"]
    build = Build(name="made", brief=AIR, circuit=laid.build(AIR, laid.picks()))
    tank = build.circuit.of_kind("tank")[0].ports["outlet"]
    data = build.model_dump(mode="json", exclude_none=True)
    first = next(e for e in data["circuit"]["elements"] if e["ports"].get("start") == tank)
    ends = first["ports"]
    ends["start"], ends["end"] = ends["end"], ends["start"]
    for b in (build, validate(data)):
        study = make_study(b)
        sources = study.feed_path.sources(study.peak.solution)
        assert sum(sources.values()) == pytest.approx(study.fuel_demand.volume_flow, rel=1e-3)


def test_every_line_behind_the_pumps_is_filled_before_the_rail_stands() -> None:
    """Both legs of a twin feed hold fuel: bore and length of each by hand."""
    build = DEMO["bittern"]
    study = make_study(build)
    primed = prime(study)
    assert primed is not None
    columns = study.path.columns[: study.path.turn]
    pumped = max(i for i, c in enumerate(columns) if any(e.kind == "pump" for e in c.elements))
    lines = [e for c in columns[pumped + 1 :] for e in c.elements if e.kind in PIPES and e.length]
    twins = [c for c in columns[pumped + 1 :] if len(c.elements) > 1]
    by_hand = sum(math.pi / 4 * (e.figures.bore_mm / 1000) ** 2 * e.length.mm / 1000 for e in lines)
    assert twins
    assert primed.volume >= by_hand


def test_a_failure_that_stops_the_engine_is_not_silent() -> None:
    """No gauge is needed to see that it stands; what nothing shows while it runs on is silent."""
    outcomes = walk(make_study(DEMO["bittern"]))
    unseen = [replace(o, moves=(), levels=(), lamps=()) for o in outcomes]
    assert {o.stops for o in unseen} == {True, False}
    assert all(o.silent != o.stops for o in unseen)


def test_a_cause_of_one_strength_costs_what_schwarz_says() -> None:
    """Schwarz 1978: k ln n for k parameters; one strength each, and the part it sits in."""
    predictor = Predictor(make_study(DEMO["bittern"]))
    demand = predictor.study.fuel_demand.volume_flow
    points = []
    for share in (0.2, 0.5, 0.8):
        setup = Setup("rail", fuel_demand=share * demand, manifold=0.0, volts=13.5)
        value = predictor.predict(setup)
        assert value is not None
        points.append(Sample(setup, value, 2e3))
    verdict = judge(predictor, points)
    assert verdict.sound
    for r in verdict.ranked:
        assert r.bic - r.chi2 == pytest.approx(math.log(3) + 1.0)


def test_a_sleeve_frees_what_it_covers_and_nothing_beside_it() -> None:
    build = remove_guard(DEMO["bittern"], "H3", 0)
    half = (40.0, 40.0, 40.0)
    clear = 3.0 + 40.0 + lay_out(build).lines["H3"].outside
    beside = add_vectors(lay_out(build).lines["H3"].path.at(1000.0), (0.0, 0.0, clear))
    zone = Zone(
        name="box",
        kind="obstacle",
        low=subtract_vectors(beside, half),
        high=add_vectors(beside, half),
    )
    bare = near_zone(lay_out(build).lines["H3"], zone, False)
    assert bare is not None
    assert bare.short
    for reach, free in ((8.0, False), (600.0, True)):
        sleeved = add_guard(build, "H3", "sleeve", bare.along - reach, bare.along + reach)
        near = near_zone(lay_out(sleeved).lines["H3"], zone, False)
        assert (near is None) == free
        if near is not None:
            assert near.short
            assert abs(near.along - bare.along) >= reach
