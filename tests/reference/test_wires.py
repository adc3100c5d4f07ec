"""Wires against published tables, and pumps on wires against Ohm's law iterated by hand."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.build import Build
from tall_heron.core.document.wiring import Conductor, Relay, Sender, Wiring, WiringBranch
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.wiring import set_branch, set_ground, set_relay, wire_by_rule
from tall_heron.core.electrics.feeds import drop_allowed, harness_of, highest_current
from tall_heron.core.electrics.sender import best_pull_up, divided, make_sender_sheet
from tall_heron.core.electrics.volt_walk import volt_walk
from tall_heron.core.electrics.wire import (
    area_mm2,
    bundle_share,
    carries,
    next_fuse,
    resistance,
    sizes,
    warm,
)
from tall_heron.core.joining.losses import plumbed
from tall_heron.core.physics.wired_pump import voltage_on_wire
from tall_heron.core.rules.electrics import all_at_once, too_much_lost
from tall_heron.core.study.study import Study, make_study
from tall_heron.core.study.what_if import current_of, make_what_if

DEMO = demo_builds()

AWG = [
    (22, 0.3255),
    (20, 0.5176),
    (18, 0.8231),
    (16, 1.309),
    (14, 2.081),
    (12, 3.309),
    (10, 5.261),
    (8, 8.367),
    (6, 13.30),
    (4, 21.15),
    (2, 33.63),
]


@pytest.mark.parametrize(("number", "mm2"), AWG)
def test_areas_of_american_gauges(number: int, mm2: float) -> None:
    """ASTM B258, table 1, from memory."""
    assert area_mm2(f"AWG {number}") == pytest.approx(mm2, rel=1e-3)


# Ohm per kilometre at 20 degC, IEC 60228 class 1 maximum, from memory: the real one lies a little
# under its maximum.
CLASS_1 = [
    ("1 mm²", 18.1),
    ("1.5 mm²", 12.1),
    ("2.5 mm²", 7.41),
    ("4 mm²", 4.61),
    ("6 mm²", 3.08),
    ("10 mm²", 1.83),
    ("16 mm²", 1.15),
]


@pytest.mark.parametrize(("size", "most"), CLASS_1)
def test_resistance_lies_just_under_the_standards_maximum(size: str, most: float) -> None:
    assert 0.93 * most < resistance(size, 1_000_000, 20) < most


def test_worked_drops_and_temperature() -> None:
    """4 mm2, 5 m out and 5 m back, 15 A at 20 degC: 0.647 V. Copper at 90 degC has 1.275 of that
    (IEC 60028).
    """
    assert 15 * resistance("4 mm²", 10_000, 20) == pytest.approx(0.647, abs=0.0005)
    assert resistance("4 mm²", 1000, 90) / resistance("4 mm²", 1000, 20) == pytest.approx(
        1.275, abs=0.001
    )


@pytest.mark.parametrize(
    ("size", "ohm", "volts", "ampere"),
    [("2.5 mm²", 0.0559, 13.167, 11.32), ("1 mm²", 0.1128, 12.559, 11.00)],
)
def test_a_pump_on_a_wire_by_hand(size: str, ohm: float, volts: float, ampere: float) -> None:
    """13.8 V, 4.5 m out and 1.0 m of earth, 18 mohm of contacts; 10.7 A at 12 V and 11.5 A at 13.5
    V: V = (V0 - R (I0 - s 12)) / (1 + R s), worked on paper.
    """
    r = resistance(size, 5500, 20) + 0.018
    assert r == pytest.approx(ohm, abs=5e-5)
    slope = (11.5 - 10.7) / 1.5
    met = voltage_on_wire(13.8, r, lambda v: 10.7 + slope * (v - 12), 3.0)
    assert met == pytest.approx(volts, abs=0.001)
    assert met == pytest.approx((13.8 - r * (10.7 - 12 * slope)) / (1 + r * slope), abs=1e-6)
    assert 10.7 + slope * (volts - 12) == pytest.approx(ampere, abs=0.01)


# One wire in free air at 30 degC, 70 degC insulation: DIN VDE 0298-4, from memory. In a harness at
# 70 degC, 105 degC insulation: AC 43.13-1B table 11-9, from memory.
FREE = [
    ("0.75 mm²", 15),
    ("1 mm²", 19),
    ("1.5 mm²", 24),
    ("2.5 mm²", 32),
    ("4 mm²", 42),
    ("6 mm²", 54),
    ("10 mm²", 73),
    ("16 mm²", 98),
    ("25 mm²", 129),
    ("35 mm²", 158),
]
HARNESS = [
    ("AWG 22", 3),
    ("AWG 20", 4),
    ("AWG 18", 6),
    ("AWG 16", 7),
    ("AWG 14", 10),
    ("AWG 12", 13),
    ("AWG 10", 17),
    ("AWG 8", 38),
    ("AWG 6", 50),
]


@pytest.mark.parametrize(("size", "ampere"), FREE)
def test_what_a_wire_carries_in_free_air(size: str, ampere: float) -> None:
    assert carries(size, 30, 1, 70) == pytest.approx(ampere)


@pytest.mark.parametrize(("size", "ampere"), HARNESS)
def test_no_wire_in_a_harness_is_said_to_carry_more_than_its_table(
    size: str, ampere: float
) -> None:
    """The table is for bundles of 33, from memory."""
    assert 0.45 * ampere < carries(size, 70, 33, 105) <= 1.01 * ampere


def test_no_thicker_wire_carries_less_whatever_its_system() -> None:
    every = sorted((*sizes("AWG"), *sizes("metric")), key=area_mm2)
    for together in (1, 2, 7, 33):
        most = [carries(size, 50, together, 105) for size in every]
        assert most == sorted(most)
    assert (
        carries("AWG 10", 50, 2, 105) > carries("4 mm²", 50, 2, 105) > carries("AWG 12", 50, 2, 105)
    )


# Factors for 70 degC insulation at other air temperatures, DIN VDE 0298-4 table 17: 0.94 at 35,
# 0.87 at 40, 0.71 at 50, 0.50 at 60 degC; from memory, rounded to two places there.
@pytest.mark.parametrize(("celsius", "factor"), [(35, 0.94), (40, 0.87), (50, 0.71), (60, 0.50)])
def test_warm_air_takes_from_it_as_the_standard_says(celsius: float, factor: float) -> None:
    assert carries("4 mm²", celsius, 1, 70) / carries("4 mm²", 30, 1, 70) == pytest.approx(
        factor, abs=0.006
    )


def test_bundles_heat_and_fuses() -> None:
    """Bundles: DIN VDE 0298-4, from memory. Fuses: ISO 8820-3, from memory."""
    named = {
        1: 1.0,
        2: 0.8,
        3: 0.7,
        4: 0.65,
        5: 0.60,
        6: 0.57,
        7: 0.54,
        9: 0.5,
        12: 0.45,
        16: 0.41,
        20: 0.38,
    }  # DIN VDE 0298-4 table 21, from memory
    assert {n: bundle_share(n) for n in named} == named
    assert [bundle_share(n) for n in (8, 10, 17)] == [0.5, 0.45, 0.38], (
        "between two rows the one of more wires"
    )
    assert bundle_share(33) < 0.31
    assert all(bundle_share(n + 1) <= bundle_share(n) for n in range(1, 60))
    assert carries("4 mm²", 105, 1, 105) == 0.0
    assert warm("4 mm²", carries("4 mm²", 40, 1, 105), 40, 1, 105) == pytest.approx(105)
    assert warm("4 mm²", 0.5 * carries("4 mm²", 40, 1, 105), 40, 1, 105) == pytest.approx(
        40 + 65 / 4
    )
    assert [next_fuse(x) for x in (4.9, 5.1, 13.6, 16.9, 36, 200, 400)] == [
        5,
        7.5,
        15,
        20,
        40,
        200,
        None,
    ]
    assert (drop_allowed(14), drop_allowed(28)) == (0.5, 1.0)


def test_the_divider_by_hand() -> None:
    """240 to 33 ohm with 100 ohm on 5 V: 3.529 V and 1.241 V."""
    assert (divided(240, 100, 5), divided(33, 100, 5)) == (
        pytest.approx(3.529, abs=5e-4),
        pytest.approx(1.241, abs=5e-4),
    )
    sheet = make_sender_sheet(Sender())
    assert (sheet.readings[0].volts, sheet.readings[-1].volts) == (
        pytest.approx(3.529, abs=5e-4),
        pytest.approx(1.241, abs=5e-4),
    )
    assert sheet.reserve.ohm == pytest.approx(240 - 0.15 * 207)
    half = sheet.readings[5]
    there = divided(240 - 207 * (0.5 + half.step), 100, 5)
    assert half.volts - there == pytest.approx(5 / 1024, rel=0.01)  # one count further
    spread = [abs(divided(240, r, 5) - divided(33, r, 5)) for r in (80, best_pull_up(240, 33), 100)]
    assert max(spread) == spread[1]
    assert make_sender_sheet(Sender(empty_ohm=100, full_ohm=100)).troubles
    assert "cut off" in make_sender_sheet(Sender(supply_v=12)).troubles[0]


def by_hand(build: Build, case: str) -> dict[str, tuple[float, float]]:
    """Volts and amperes of each pump by Ohm's law alone: solve the fuel at a guess of each pump's
    voltage, take R I from the source, and again until nothing moves.
    """
    assert build.brief is not None
    harness = harness_of(build)
    assert harness is not None
    bare = make_study(build.model_copy(update={"wiring": None}))
    point, demand = bare.cases[case].point, bare.cases[case].demand
    source = build.brief.voltage_v if case != "low voltage" else house_figure("battery_volts")
    engine, volts = make_what_if(plumbed(build).circuit), dict.fromkeys(harness.feeds, source)
    for _ in range(60):
        solution = engine.at(
            point.model_copy(update={"voltage_v": dict(volts), "name": "by hand"}), demand
        )
        drawn = {p: current_of(solution, p) for p in harness.feeds}
        for p, f in harness.feeds.items():
            contact = harness.relays.get(f.branch.relay)
            together = sum(drawn[q] for q in contact.pumps) if contact is not None else 0.0
            wires = sum(w.ohm for w in (f.out, f.back)) + f.branch.crimps * 0.002 * min(
                1.0, 4 / area_mm2(f.out.size)
            )
            volts[p] = (
                source
                - wires * drawn[p]
                - (
                    contact.supply.ohm
                    + {30: 0.010, 40: 0.0075, 70: 0.0043, 100: 0.001}[contact.rated]
                    if contact is not None
                    else 0.0
                )
                * together
            )
            ground = harness.grounds.get(f.branch.ground)
            if ground is not None:
                volts[p] -= ground.wire.ohm * sum(drawn[q] for q in ground.pumps)
    return {p: (volts[p], drawn[p]) for p in harness.feeds}


def unlike() -> Build:
    """Two pumps of different makes behind one relay on a thin wire, the second much further off."""
    build = wire_by_rule(DEMO["bittern"])
    for pump, far in (("P1", 3000.0), ("P2", 9000.0)):
        build = set_branch(build, pump, relay="R1", feed={"size": "2.5 mm²", "length_mm": far})
    assert build.wiring is not None
    relay = Relay(name="R1", supply=Conductor(size="4 mm²", length_mm=4000))
    return build.model_copy(update={"wiring": build.wiring.model_copy(update={"relays": [relay]})})


def one_ground(build: Build) -> Build:
    """Its pumps on one ground point, at the end of 3 m of 4 mm2."""
    for pump in ("P1", "P2"):
        build = set_branch(build, pump, ground="G1", earth={"size": "2.5 mm²"})
    return set_ground(build, "G1", size="4 mm²", length_mm=3000.0)


def shared_in(name: str) -> Build:
    """Demos wired, and those whose pumps share a relay, a ground, or both."""
    if name == "one ground":
        return one_ground(wire_by_rule(DEMO["bittern"]))
    return {"unlike": unlike, "all shared": lambda: one_ground(unlike())}.get(
        name, lambda: wire_by_rule(DEMO[name])
    )()


def test_two_pumps_on_one_ground_by_hand() -> None:
    """Twins of I amperes on a ground of R ohm lose 2 I R there, each: 3 m of 4 mm2 at 20 degC are
    12.9 mohm, so two of 12 A lose 0.31 V that one alone would lose half of.
    """
    assert 24 * resistance("4 mm²", 3000, 20) == pytest.approx(0.310, abs=0.001)
    by_rule = wire_by_rule(DEMO["bittern"])
    for pump in ("P1", "P2"):
        by_rule = set_branch(by_rule, pump, ground="G1")
    assert not list(too_much_lost(make_study(by_rule)))
    study = make_study(one_ground(wire_by_rule(DEMO["bittern"])))
    harness, solution = study.what_if.harness, study.peak.solution
    assert harness is not None
    drawn = {p: current_of(solution, p) for p in ("P1", "P2")}
    for pump in drawn:
        steps = {s.name: s for s in volt_walk(harness, pump, drawn)}
        lost = harness.grounds["G1"].wire.ohm * sum(drawn.values())
        assert steps["ground G1"].drop == pytest.approx(lost)
        assert steps["ground G1"].volts == pytest.approx(0.0, abs=1e-3)
        assert steps[pump].drop == pytest.approx(solution.voltage(pump), abs=1e-3)
    assert any(f.element_id == "P1" and "one ground" in f.title for f in all_at_once(study))
    assert wire_by_rule(DEMO["bittern"]) == set_branch(
        set_branch(
            one_ground(wire_by_rule(DEMO["bittern"])), "P1", ground="", earth={"size": None}
        ),
        "P2",
        ground="",
        earth={"size": None},
    )


@pytest.mark.parametrize(
    "name", ["bittern", "egret", "stonechat", "unlike", "one ground", "all shared"]
)
@pytest.mark.parametrize("case", ["peak", "idle", "low voltage"])
def test_pumps_and_wires_agree_as_iterated_by_hand(name: str, case: str) -> None:
    build = shared_in(name)
    study = make_study(build)
    solution = study.solved[case].solution
    for pump, (volts, ampere) in by_hand(build, case).items():
        assert solution.voltage(pump) == pytest.approx(volts, abs=2e-4), pump
        assert current_of(solution, pump) == pytest.approx(ampere, abs=2e-3), pump
    assert study.solved[case].case.point.voltage_v == (
        12.0 if case == "low voltage" else build.brief.voltage_v
    )  # type: ignore[union-attr]


def on_wire(meters: float) -> Study:
    return make_study(
        set_branch(
            set_relay(wire_by_rule(DEMO["stonechat"]), "R1", contact_a=30.0),
            "P1",
            feed={"size": "1.5 mm²", "length_mm": 1000 * meters},
            earth={"size": "1.5 mm²"},
            fuse_a=20.0,
        )
    )


@settings(max_examples=12, deadline=None)
@given(st.floats(0.2, 20.0))
def test_a_longer_wire_takes_more_and_by_and_by(meters: float) -> None:
    """Volts and what the pump delivers fall with length, and half as much again for half the step:
    no jump.
    """

    def read(x: float) -> tuple[float, float]:
        study = on_wire(x)
        return study.peak.solution.voltage("P1") or 0.0, study.pumps_deliver(study.peak)

    here, near, far = (read(meters + x) for x in (0.0, 0.1, 0.2))
    for a, b, c in zip(here, near, far, strict=True):
        assert a > b > c
        assert (a - b) == pytest.approx(b - c, rel=0.08)


def test_a_wire_that_cannot_carry_the_pump_says_so() -> None:
    study = on_wire(45.0)
    build = set_branch(
        wire_by_rule(DEMO["stonechat"]),
        "P1",
        feed={"size": "0.75 mm²", "length_mm": 50_000},
        earth={"size": "0.75 mm²", "length_mm": 50_000},
    )
    met = make_study(build).peak.solution
    assert study.peak.solution.converged
    assert not met.converged
    assert met.part == "P1"
    assert "cannot carry what it draws" in met.reason


def test_sizes_and_fuses_by_rule_are_what_they_are_for() -> None:
    """For every demo: the fuse is the next over 1.25 times the most the pump draws, the wire
    carries it, and no thinner wire would do.
    """
    for name in ("bittern", "curlew", "dunlin", "egret", "stonechat"):
        build = wire_by_rule(DEMO[name])
        harness, study = harness_of(build), make_study(build)
        assert harness is not None
        for pump, feed in harness.feeds.items():
            element = build.circuit.element(pump)
            assert element is not None
            highest = highest_current(element)
            assert feed.fuse == next_fuse(1.25 * (highest or 0.0))
            assert feed.out.carries_a >= (feed.fuse or 0.0)
            lost = (build.brief.voltage_v if build.brief else 0.0) - (
                study.peak.solution.voltage(pump) or 0.0
            )
            assert 0 < lost < 0.55


def test_the_most_a_pump_draws_is_read_up_to_its_relief() -> None:
    """A map with its relief between two rows: the current there, straight between them; rows beyond
    the relief do not count.
    """
    element = DEMO["stonechat"].circuit.element("P1")
    assert element is not None
    figures = element.figures.model_copy(
        update={
            "curves": [
                type(element.figures.curves[0])(
                    voltage_v=13.5, rows=[(0, 800, 20.0), (100, 400, 10.0), (200, 100, 6.0)]
                )
            ],
            "relief_kpa": 600.0,
        }
    )  # type: ignore[union-attr]
    assert highest_current(element.model_copy(update={"figures": figures})) == pytest.approx(15.0)
    bare = figures.model_copy(
        update={"curves": [type(figures.curves[0])(voltage_v=13.5, rows=[(0, 800), (200, 100)])]}
    )  # type: ignore[union-attr]
    assert highest_current(element.model_copy(update={"figures": bare})) is None


def test_a_28_volt_system_is_low_at_two_batteries() -> None:
    brief = DEMO["egret"].brief
    assert brief is not None
    study = make_study(
        wire_by_rule(
            DEMO["egret"].model_copy(update={"brief": brief.model_copy(update={"voltage_v": 28.0})})
        )
    )
    assert study.cases["low voltage"].point.voltage_v == 24.0
    assert math.isclose(
        make_study(
            DEMO["egret"].model_copy(update={"brief": brief.model_copy(update={"voltage_v": 28.0})})
        )
        .cases["low voltage"]
        .point.voltage_v,
        23.0,
    )  # type: ignore[arg-type]


def test_a_pump_that_nobody_wired_loses_what_the_house_assumes() -> None:
    build = wire_by_rule(DEMO["bittern"])
    assert build.wiring is not None
    only = build.model_copy(update={"wiring": Wiring(branches={"P1": WiringBranch()})})
    solution = make_study(only).peak.solution
    assert solution.voltage("P2") == pytest.approx(13.5)
    assert 13.0 < (solution.voltage("P1") or 0.0) < 14.0


def test_a_sender_with_an_end_at_nothing_is_not_told_to_short_its_supply() -> None:
    """By hand: 0 to 180 ohm behind 100 at 5 V reads 0 and 5 x 180 / 280 = 3.214 V; most heat is where
    the sender is as large as its pull-up, 5^2 / (4 x 100) = 62.5 mW (maximum power transfer).
    """
    s = Sender(empty_ohm=0, full_ohm=180, pull_up_ohm=100, supply_v=5, range_v=5)
    sheet = make_sender_sheet(s)
    assert best_pull_up(0, 180) == 180
    assert sheet.heat_w == pytest.approx(0.0625)
    assert sheet.readings[-1].volts == pytest.approx(3.2143, abs=1e-4)
    # The straight line through (0 V, 0 %) and (3.214 V, 100 %): 0 % at 0 V, 155.6 % at 5 V.
    assert sheet.line == pytest.approx((0.0, 5 / 3.2143), rel=1e-4)
    # At 40 % full 72 ohm read 2.093 V, which the line takes for 65.1 %.
    assert sheet.line_off == pytest.approx(2.0930 / 3.2143 - 0.4, abs=1e-3)
    falling = make_sender_sheet(s.model_copy(update={"empty_ohm": 240.0, "full_ohm": 33.0}))
    # 240 ohm read 3.529 V, 33 read 1.241: at 0 V the line stands at 3.529 / 2.288 = 154 %.
    assert falling.line[0] == pytest.approx(3.5294 / (3.5294 - 1.2406), rel=1e-3)
    assert falling.heat_w == pytest.approx(0.0625), "100 ohm lie between the ends"
