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
from tall_heron.core.document.circuit import Stage
from tall_heron.core.document.faces import face
from tall_heron.core.document.figures import Tee
from tall_heron.core.document.point import reference_pressure_kpa
from tall_heron.core.document.space import Zone
from tall_heron.core.document.wiring import CutOff
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import set_stage
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.editing.route import add_guard, remove_guard
from tall_heron.core.editing.topology import split, take_out
from tall_heron.core.editing.wiring import set_branch, wire_by_rule
from tall_heron.core.electrics.cut_off import CutOffState, Inputs, step
from tall_heron.core.electrics.feeds import drop_allowed, make_harness
from tall_heron.core.hydraulics.network import compile_network
from tall_heron.core.hydraulics.solve import solve_network
from tall_heron.core.hydraulics.vessel import _sump, make_tank
from tall_heron.core.joining.chains import _there, join
from tall_heron.core.joining.joints import joints_of
from tall_heron.core.joining.losses import narrowed
from tall_heron.core.physics.fuel import boils_at, fuel_named, season_reid_vapor
from tall_heron.core.physics.pump import make_curve
from tall_heron.core.physics.wired_pump import wired_map
from tall_heron.core.prove.predict import Predictor, Setup
from tall_heron.core.prove.rank import Sample, judge
from tall_heron.core.routing.laid import lay_out
from tall_heron.core.routing.limits import near_zone
from tall_heron.core.routing.vectors import add_vectors, subtract_vectors
from tall_heron.core.rules.electrics import fuse_large
from tall_heron.core.rules.pressure import rail_off
from tall_heron.core.sheets.buy_list import make_buy_list
from tall_heron.core.sheets.cut_plan import Stock, plan_cuts
from tall_heron.core.shelf.shelf import parts
from tall_heron.core.sizing.groups import make_groups
from tall_heron.core.study.cases.moments import solved_moments
from tall_heron.core.study.cases.requirements import _headroom
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


def test_a_pump_on_a_shared_relay_loses_no_more_than_is_allowed_all_the_way() -> None:
    """What its own wires and the one it shares take together, at every length they may have: 3 %
    of the system's volts, ABYC E-11 and common practice.
    """
    build = shared(DEMO["bittern"])
    for meters in (0.6, 1.1, 1.6, 2.4, 3.1, 3.9, 4.6, 5.2, 6.1, 7.4):
        data = build.model_dump(mode="json", exclude_none=True)
        for branch in data["wiring"]["branches"].values():
            branch["feed"] = {"length_mm": 1000 * meters}
            branch["earth"] = {"length_mm": 500 * meters}
        for relay in data["wiring"]["relays"]:
            relay["supply"] = {"length_mm": 2000.0}
        wired = validate(data)
        assert wired.wiring is not None
        harness = make_harness(wired.circuit, wired.wiring, 14.0, 550.0)
        contact = next(c for c in harness.relays.values() if len(c.pumps) == 2)
        for name in contact.pumps:
            feed = harness.feeds[name]
            lost = feed.out.drop + feed.back.drop + contact.supply.drop
            assert lost <= drop_allowed(14.0)


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


def test_both_legs_of_a_twin_feed_are_filled_before_the_rails_stand() -> None:
    """What a leg holds by its bore and length, once for each leg."""
    laid = LAYOUTS["C1"]
    twin = Build(name="made", brief=ROAD, circuit=laid.build(ROAD, laid.picks(rails="parallel")))
    legs = [e for e in twin.circuit.elements if e.id in ("H7", "H8")]
    held = [math.pi / 4 * (e.figures.bore_mm / 1e3) ** 2 * e.length.mm / 1e3 for e in legs]
    data = twin.model_dump(mode="json", exclude_none=True)
    for e in data["circuit"]["elements"]:
        if e["id"] in ("H7", "H8"):
            e["length"]["mm"] *= 2
    one, other = prime(make_study(twin)), prime(make_study(validate(data)))
    assert one is not None
    assert other is not None
    assert other.volume - one.volume == pytest.approx(sum(held))
    assert len(held) == 2


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


def test_a_stage_by_boost_comes_in_at_its_share_of_the_air() -> None:
    """Air goes with absolute pressure, so fuel does: (101.3 + 55) over (101.3 + full boost)."""
    study = make_study(set_stage(DEMO["bittern"], "P2", Stage(by="boost", at=55)))
    met = {x.moment.case.key: x.solved.case for x in solved_moments(study)}
    peak, boost = study.cases["peak"], study.brief.boost_kpa
    share = (met["P2 before"].demand + met["P2 after"].demand) / 2 / peak.demand
    assert share == pytest.approx((101.325 + 55) / (101.325 + boost), rel=5e-3)


def test_headroom_is_held_against_what_the_pumps_may_be_off() -> None:
    data = DEMO["bittern"].model_dump(mode="json", exclude_none=True)
    for e in data["circuit"]["elements"]:
        if e["kind"] == "pump":
            e.setdefault("properties", {})["flow_tolerance"] = 0.4
    for build, limit in ((DEMO["bittern"], None), (validate(data), 0.4)):
        study = make_study(build)
        peak = next(x for x in solved_moments(study) if x.moment.case.key == "peak")
        cell = _headroom(study, peak.solved, peak.moment)
        assert cell is not None
        assert cell.limit == (limit or peak.solved.case.margin)


def test_what_filters_is_sized_no_coarser_than_it_was() -> None:
    """Before a pump 100 um, not the 10 to 40 um of a filter behind it (common practice); behind it
    what keeps the injectors' seats: as fine as was chosen, and no felt that a trip clogs.
    """
    build = DEMO["bittern"]
    groups = make_groups(make_study(build))
    for kind, least, most in (("strainer", 85.0, 100.0), ("filter", 6.0, 10.0)):
        group = next(g for g in groups if g.kind == kind)
        own = build.circuit.element(group.ids[0])
        assert own is not None
        meshes = {o.elements[own.id].properties.micron for o in group.options}
        assert {m for m in meshes if m is not None and not least <= m <= most} == set()
        assert own.properties.micron in meshes


def test_a_piece_as_long_as_a_coil_is_cut_from_it() -> None:
    """Nothing is lost where nothing is cut off."""
    stock = [Stock(3000.0, 20.0), Stock(6000.0, 25.0), Stock(1000.0, 20.0)]
    pieces = [("H1", 6000.0), ("H2", 3000.0), ("H3", 1000.0), ("H4", 3000.0)]
    plan = plan_cuts(pieces, stock, kerf=3.0)
    assert plan.without == ()
    assert plan.price == 25.0 + 20.0 + 25.0, "6 m; 3 m; 3 m and 1 m of another 6 m"


def test_a_regulator_that_feels_no_boost_is_not_told_to_turn_its_screw() -> None:
    """P-05 names the missing reference; at peak P-03 would ask for a screw that mends nothing."""
    data = DEMO["bittern"].model_dump(mode="json", exclude_none=True)
    for e in data["circuit"]["elements"]:
        if e["kind"] == "regulator":
            e["figures"]["reference"] = "atmosphere"
    study = make_study(validate(data))
    assert not [f for f in rail_off(study) if f.case == "peak"]
    assert list(rail_off(make_study(validate(data)))) == [
        f for f in rail_off(study) if f.case == "idle"
    ]


def test_a_fuse_is_too_large_from_the_share_that_is_said() -> None:
    """One and a half times what the pump draws, or what the smallest fuses are: the larger of
    both, not their sum (common practice).
    """
    build = wire_by_rule(DEMO["bittern"])
    assert build.wiring is not None
    drawn = make_harness(build.circuit, build.wiring, 14.0, 550.0).feeds["P1"].highest
    assert 1.5 * drawn > 2.0
    for times, fires in ((0.99, False), (1.01, True)):
        fused = make_study(set_branch(build, "P1", fuse_a=1.5 * drawn * times))
        assert ("P1" in [f.element_id for f in fuse_large(fused)]) == fires


def test_a_sump_is_no_wider_than_the_compartment_it_is_under() -> None:
    """1 L, 50 mm deep, is 200 cm2, a square of 141 mm: between walls 100 mm apart it is as wide as
    they let it, and as long as a square would be.
    """
    sump = _sump(1e-3, 0.05, 0.2, 0.05, [0.0, 0.4], [0.0, 0.1], (0, 0))
    assert (sump.y0, sump.y1) == pytest.approx((0.0, 0.1))
    assert sump.x1 - sump.x0 == pytest.approx(0.1414, rel=1e-3)


def test_the_narrowest_of_several_adapters_is_what_narrows_a_joint() -> None:
    """Two adapters in a row at one joint, of which one has the bore of a size far smaller."""
    joint = next(j for j in joints_of(DEMO["bittern"]).joints if j.pieces)
    piece = joint.pieces[0]
    wide, narrow = replace(piece, bore_mm=14.0), replace(piece, bore_mm=3.0)
    for pieces in ((wide, narrow), (narrow, wide)):
        found = narrowed(replace(joint, pieces=pieces))
        assert found is not None
        assert found[0] == 3.0
    assert narrowed(replace(joint, pieces=(wide, wide))) is None
