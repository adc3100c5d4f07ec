"""What single failures leave, against what a builder knows."""

import pytest

from tall_heron.core.document.build import Brief, Build
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import TankLevel
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.joining.losses import plumbed
from tall_heron.core.study.failures.failure_walk import Outcome, outcome, pairs, walk
from tall_heron.core.study.failures.failures import failures
from tall_heron.core.study.study import Study, make_study
from tall_heron.core.study.what_if import make_what_if

DEMO = demo_builds()


def of(name: str, part: str, what: str) -> Outcome:
    return of_build(DEMO[name], part, what)


def of_build(build: Build, part: str, what: str) -> Outcome:
    study = make_study(build)
    return outcome(study, next(f for f in failures(study) if (f.part, f.what) == (part, what)))


@pytest.mark.parametrize("name", DEMO)
def test_every_failure_of_every_demo_build_solves_or_says_why(name: str) -> None:
    for o in walk(make_study(DEMO[name])):
        assert o.trouble or (o.rail is not None and 0 <= o.left <= 1)
        assert o.stops == (o.arrives < 0.1)


def test_a_selector_turned_alone_fills_the_wrong_tank() -> None:
    """Drawn from the right, returned to the left by a lever of its own: 30 L of room at the
    return's flow. One lever for both turns the return too.
    """
    assert of("egret", "V1", "stands at right").fills == ()
    elements = [
        e.model_copy(update={"title": "three-way valve"}) if e.id == "V2" else e
        for e in DEMO["egret"].circuit.elements
    ]
    apart = DEMO["egret"].model_copy(
        update={"circuit": DEMO["egret"].circuit.model_copy(update={"elements": elements})}
    )
    o = of_build(apart, "V1", "stands at right")
    assert [f.tank for f in o.fills] == ["S1"]
    study = make_study(apart)
    back = (
        study.what_if.changed(*o.failure.changes)
        .at(study.peak.case.point, study.peak.case.demand)
        .flow("PR")
    )
    assert o.fills[0].flow == pytest.approx(back, rel=1e-3)
    assert o.fills[0].seconds == pytest.approx(0.030 / back, rel=1e-3)
    assert (o.moves, o.levels) == ((), ("S1", "S2"))  # only the level gauges tell


def test_what_shows_and_what_does_not() -> None:
    dead = of("egret", "P1", "stops")
    assert {m.gauge for m in dead.moves} >= {"T11"}
    assert not dead.silent
    assert of("bittern", "K1", "sticks open").silent
    blocked = of("bittern", "F2", "is blocked")
    assert blocked.stops
    assert not blocked.silent
    acceleration = of("bittern", "PR", "loses its reference hose")
    assert not acceleration.stops
    assert acceleration.starves


def test_two_that_stop_an_aircraft_together() -> None:
    found = {frozenset((a.part, b.part)) for _, (a, b) in pairs(make_study(DEMO["egret"]))}
    assert frozenset(("P1", "P2")) in found
    assert all("F2" not in x for x in found)  # stops it alone


def test_a_return_off_at_the_regulator_loses_what_comes_back_and_nothing_shows_it() -> None:
    o = of("bittern", "H4", "comes off at PR")
    study = make_study(DEMO["bittern"])
    assert o.leaks == pytest.approx(
        study.peak.solution.flow("PR"), rel=0.02
    )  # next to no back-pressure then
    assert o.silent
    assert o.spills
    assert o.left == 1.0


def test_a_feed_off_at_the_rail_runs_out_there_at_what_the_pumps_give_into_the_open() -> None:
    """Against the circuit with a tank in the open drawn by hand at the end of the line, whose exit
    loses one velocity head (Crane TP-410, K = 1; from memory).
    """
    o = of("curlew", "H3", "comes off at RL")
    assert (o.stops, o.failure.lands) == (True, "over the engine")
    build = plumbed(DEMO["curlew"])
    line = build.circuit.element("H3")
    assert line is not None
    kept = ("S1", "E1", "H1", "P1", "K1", "H2", "F2", "H3", "N1")
    jet = line.model_copy(
        update={
            "figures": line.figures.model_copy(
                update={"loss_coefficient": line.figures.loss_coefficient + 1}
            )
        }
    )
    elements = [
        jet if e.id == "H3" else e for e in build.circuit.elements if e.id in kept and e.ports
    ]
    used = {n for e in elements for n in e.ports.values()}
    elements.append(
        Element(
            id="S9",
            kind="tank",
            ports={"outlet": line.ports["end"]},
            figures=TankLevel(level_mm=0.0),
        )
    )
    circuit = build.circuit.model_copy(
        update={"elements": elements, "nodes": [n for n in build.circuit.nodes if n.id in used]}
    )
    alone = make_what_if(circuit).at(make_study(build).peak.case.point, 0.0)
    assert alone.converged
    assert o.leaks == pytest.approx(alone.flow("H3"), rel=1e-6)


def test_a_suction_line_off_lets_air_in_and_a_dry_tank_stops_what_draws_from_it() -> None:
    off = of("bittern", "H1", "comes off at P1")
    assert off.failure.air == ("P1", "P2")
    assert off.stops
    assert off.leaks > 0  # the tank stands above
    dry = of("egret", "S1", "runs dry")
    assert dry.stops
    assert not of("plover", "S1", "runs dry").stops  # the other wing still gives


def test_a_blocked_vent_starves_when_the_air_has_thinned_out_by_the_margin() -> None:
    """p V = const over the air in a half-full tank, followed here in steps of a tenth of a second."""
    study = make_study(DEMO["bittern"])
    clear = study.clear_of_boiling(study.peak)
    assert clear is not None
    air, volume, seconds = study.peak.case.point.atmosphere, 0.035, 0.0
    flow = study.feed_path.burnt(study.peak.solution)
    while air > study.peak.case.point.atmosphere - clear[0]:
        air -= air / volume * flow * 0.1
        volume += flow * 0.1
        seconds += 0.1
    assert of("bittern", "S1", "cannot breathe: its vent is blocked").after == pytest.approx(
        seconds, rel=0.01
    )


@pytest.mark.parametrize(("layout", "header_minutes"), [("A4", 6.0 / 23.8 * 60), ("A5", None)])
def test_over_a_header_that_breathes_a_wing_feeds_until_its_air_has_lost_the_head(
    layout: str, header_minutes: float | None
) -> None:
    """By hand: 30 L of air over 30 L of fuel, which runs down as long as the air's loss (p V = const)
    is less than the height between both levels; A4's header has no other wing to fill it.
    """
    build, study = in_the_air(layout)
    head = 900 + 60 + 120  # the wing's outlet, its level over it, the header's outlet below
    flow = study.peak.solution.flow("H1")
    lost = head / 1000 * study.fuel_demand.density * 9.80665
    gone = 0.030 * lost / (study.peak.case.point.atmosphere - lost)
    o = of_build(build, "S1", "cannot breathe: its vent is blocked")
    assert (o.ends, o.after) == ("no head", pytest.approx(gone / flow, rel=1e-3))
    minutes = o.header / 60 if o.header is not None else None
    assert minutes == (header_minutes and pytest.approx(header_minutes, rel=0.01))


def test_a_tank_that_cannot_breathe_gives_no_longer_than_its_fuel_lasts() -> None:
    build, study = in_the_air("A2")
    o = of_build(build, "S1", "cannot breathe: its vent is blocked")
    assert o.ends == "dry"
    assert o.after == pytest.approx(0.030 / study.feed_path.burnt(study.peak.solution), rel=1e-3)


def in_the_air(layout: str) -> tuple[Build, Study]:
    bowl = layout == "A2"
    brief = Brief(
        power_kw=112, fuel="100LL", base_kpa=20 if bowl else 300, use="flight",
        feeding="carburettor" if bowl else "injection", cylinders=4, fuel_temperature_c=20,
    )  # fmt: skip
    of = LAYOUTS[layout]
    build = Build(name="x", brief=brief, circuit=of.build(brief, of.picks()))
    return build, make_study(build)


def test_without_charge_the_pumps_run_at_the_low_voltage_of_the_brief() -> None:
    o = of("bittern", "", "the alternator stops charging")
    study = make_study(DEMO["bittern"])
    assert o.rail == pytest.approx(
        study.rail_pressure(study.solved["low voltage"].solution), rel=1e-6
    )
