"""How long tanks last and how warm they get, by hand and against an integration step by step."""

import pytest

from tall_heron.core.document.build import Brief, Build
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.physics.heat import tank_rise
from tall_heron.core.study.cases.reserves import lasts, tilted_tanks, warms
from tall_heron.core.study.study import Study, make_study

DEMO = demo_builds()
LPH = 1 / 3.6e6


def with_pot() -> Study:
    brief = DEMO["bittern"].brief
    assert brief is not None
    layout = LAYOUTS["C7"]
    return make_study(
        Build(name="pot", brief=brief, circuit=layout.build(brief, layout.picks(tank="pot-5")))
    )


@pytest.mark.parametrize(
    ("power", "loss", "fall", "hours"),
    [
        (240, 8, 0.0, 1.0),
        (240, 0, 0.0, 1.0),
        (240, 8, 4e-3, 1.0),
        (240, 0, 4e-3, 1.0),
        (90, 20, 1e-3, 3.0),
    ],
)
def test_the_closed_form_is_the_balance_integrated(
    power: float, loss: float, fall: float, hours: float
) -> None:
    """m c dtheta/dt = P - UA theta, in 100,000 midpoint steps."""
    mass, heat, steps = 30 * 0.745, 2200.0, 100_000
    step, theta = hours * 3600 / steps, 0.0
    for i in range(steps):
        m = mass - fall * (i + 0.5) * step
        half = theta + (power - loss * theta) / (m * heat) * step / 2
        theta += (power - loss * half) / (m * heat) * step
    assert tank_rise(power, loss, mass, heat, fall, hours * 3600) == pytest.approx(theta, rel=1e-5)


def test_worked_figures_of_the_design_notes() -> None:
    """240 W into 30 L of 745 kg/m3 and 2.2 kJ/(kg K): 17.6 K in an hour without loss; with 8 W/K
    13.3 K, towards 30 K with 6,146 s.
    """
    mass = 30 * 0.745
    assert tank_rise(240, 0, mass, 2200, 0, 3600) == pytest.approx(17.6, abs=0.05)
    assert tank_rise(240, 8, mass, 2200, 0, 3600) == pytest.approx(13.3, abs=0.05)
    assert tank_rise(240, 8, mass, 2200, 0, 1e9) == pytest.approx(30.0)
    assert mass * 2200 / 8 == pytest.approx(6146, abs=1)
    with pytest.raises(ValueError, match="empty"):
        tank_rise(240, 8, mass, 2200, 0.01, 3600)


def test_a_pot_lasts_as_long_as_it_holds_what_leaves_it() -> None:
    """5.5 L at 288 L/h: 68.75 s where the return comes back to it; at 407 L/h pumped and returned
    elsewhere 48.65 s.
    """
    assert pytest.approx(68.75) == 5.5e-3 / (288 * LPH)
    assert pytest.approx(48.65, abs=0.01) == 5.5e-3 / (407 * LPH)
    study = with_pot()
    pot = next(x for x in lasts(study) if x.tank == "S1" and x.moment == "Peak")
    burnt = study.feed_path.burnt(study.peak.solution)
    assert pot.flow == pytest.approx(burnt, rel=0.02)  # its regulator returns to it
    assert pot.seconds == pytest.approx(pot.liters / 1000 / pot.flow)
    assert pot.why == "once P9 stops"
    main = next(x for x in lasts(study) if x.tank == "S2" and x.moment == "Peak")
    assert main.flow == pytest.approx(burnt, rel=1e-6)  # the rest comes back by the overflow


def test_a_header_that_nothing_falls_to_lasts_what_it_holds() -> None:
    """A header of 6 L, of which 0.1 lie under its outlet, gives its rest to the engine alone; half an
    hour at cruise (14 CFR 91.151, from memory) wants half of what an hour burns.
    """
    brief = Brief(power_kw=180 * 0.7457, fuel="100LL", base_kpa=300, use="flight")
    study = make_study(Build(name="x", brief=brief, circuit=LAYOUTS["A5"].build(brief)))
    rows = {(x.tank, x.moment): x for x in lasts(study) if x.why == "once no tank falls to it"}
    header = next(t for t, m in rows if m == "Peak")
    peak, cruise = rows[header, "Peak"], rows[header, "Cruise"]
    burnt = study.feed_path.burnt(study.peak.solution)
    assert peak.seconds == pytest.approx(peak.liters / 1000 / burnt)
    assert peak.reserve is None
    assert cruise.reserve == pytest.approx(0.5 * cruise.flow * 3.6e6)
    assert 300 < peak.seconds < cruise.seconds < 900
    twins = make_study(Build(name="x", brief=brief, circuit=LAYOUTS["A4"].build(brief)))
    both = [x.flow for x in lasts(twins) if x.moment == "Peak" and x.why != "from full"]
    assert both == [pytest.approx(burnt / 2, rel=0.01)] * 2


def test_a_selector_draws_from_one_tank_at_a_time() -> None:
    found = {(x.tank, x.moment) for x in lasts(make_study(DEMO["egret"]))}
    assert found == {
        ("S1", "Peak"),
        ("S2", "Peak, right tank"),
        ("S1", "Cruise"),
        ("S2", "Cruise, right tank"),
    }


def test_an_outlet_at_the_end_that_fuel_leaves_strands_most() -> None:
    for x in (y for y in tilted_tanks(make_study(DEMO["stonechat"])) if "corner" not in y.moment):
        first, last = ("rear", "front") if x.moment == "Launch" else ("front", "rear")
        assert x.liters[first] <= x.liters["middle"] <= x.liters[last] <= x.holds
        assert x.level > 0
    placed = {x.moment: x.liters["where it is"] for x in tilted_tanks(make_study(DEMO["bittern"]))}
    assert (
        placed["Launch"] > 3 * placed["Braking"]
    )  # its outlet is in front: fuel that runs back stands beyond it


def test_heat_over_a_run_is_what_the_pumps_draw_and_the_tank_keeps() -> None:
    study = make_study(DEMO["stonechat"])
    idle = next(w for w in warms(study) if w.moment == "Hot idle")
    assert all(
        a is not None and b is not None and a < b
        for a, b in zip(idle.rises, idle.rises[1:], strict=False)
    )
    density = study.solved["idle"].solution.density
    still = tank_rise(
        idle.power, 8, idle.liters / 1000 * density, study.fuel_demand.fuel.heat_capacity, 0, 3600
    )
    assert idle.rises[-1] == pytest.approx(still, rel=0.1)
    assert idle.rises[-1] > still  # less is left to warm
    assert [w.rises[-1] for w in warms(make_study(DEMO["bittern"])) if w.moment == "Cruise"] == [
        None
    ]


def test_a_selector_that_is_forgotten_runs_its_tank_dry_at_the_cruise_burn() -> None:
    """Egret by hand: at cruise the engine burns 0.65 of its peak, all of it from the tank that the
    lever is on, whose return goes back to it; 57 L less what its outlet does not reach.
    """
    study = make_study(DEMO["egret"])
    rows = {x.tank: x for x in lasts(study) if x.why == "from full, the selector left on it"}
    assert set(rows) == {"S1", "S2"}
    assert rows["S2"].moment == "Cruise, right tank"
    for x in rows.values():
        assert x.flow == pytest.approx(0.65 * study.fuel_demand.volume_flow, rel=0.01)
        assert x.seconds == pytest.approx(x.liters / 1000 / x.flow)
