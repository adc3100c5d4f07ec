"""What the engine burns: both schools, the larger used, measured data before either."""

import math

import pytest
from CoolProp.CoolProp import PropsSI
from pydantic import ValidationError

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.build import Brief
from tall_heron.core.document.own_fuel import OwnFuel
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import set_brief, set_own_fuel, set_price
from tall_heron.core.physics.demand import GAS_CONSTANT_AIR, air_flow_demand
from tall_heron.core.physics.fuel import true_vapor_pressure
from tall_heron.core.sizing.other_fuels import make_fuel_rows
from tall_heron.core.study.cases.injector_duty import doses
from tall_heron.core.study.cases.worst_cylinder import worst_cylinder
from tall_heron.core.study.demand import alcohol_over_gasoline, fuel_demand, margin
from tall_heron.core.study.study import make_study

HP = 745.69987158227
BASE = {
    "cylinders": 6,
    "displacement_l": 4.2,
    "power_kw": 620 * HP / 1000,
    "fuel": "E0",
    "base_kpa": 400,
    "boost_kpa": 151.7,
    "fuel_temperature_c": 15,
}


def brief(**changes: object) -> Brief:
    return Brief.model_validate(BASE | changes)


def test_air_density_against_coolprop() -> None:
    """The ideal gas of the air-flow school within 0.1 % of CoolProp's air at boost and charge
    temperature.
    """
    assert pytest.approx(PropsSI("D", "T", 323.15, "P", 253e3, "Air"), rel=1e-3) == 253e3 / (
        GAS_CONSTANT_AIR * 323.15
    )


def test_by_power_by_hand() -> None:
    """620 hp at 0.62 lb/(hp h) is 384.4 lb/h = 174.4 kg/h; at 745 kg/m3 that is 234.0 L/h (hand
    calculation).
    """
    found = fuel_demand(brief())
    assert found.mass_flow * 3600 == pytest.approx(620 * 0.62 * 0.45359237, rel=1e-9)
    assert found.volume_flow * 3.6e6 == pytest.approx(234.0, abs=0.1)
    assert "Give the speed" in found.schools.gap


def test_by_air_by_hand() -> None:
    """0.95 x 4.2 L x 6500/2 per min at 253.0 kPa and 323.15 K is 0.5895 kg/s of air; at lambda 0.82
    and 14.7 that is 176.1 kg/h of petrol.
    """
    found = fuel_demand(brief(peak_rpm=6500))
    air = 0.95 * 0.0042 * 6500 / 60 / 2 * (101325 + 151700) / (287.05 * 323.15)
    assert air == pytest.approx(0.5895, rel=1e-3)
    assert found.schools.by_air == pytest.approx(air / (0.82 * 14.7), rel=1e-6)
    assert found.schools.by_air * 3600 == pytest.approx(176.1, rel=1e-3)  # type: ignore[operator]


def test_the_larger_is_used_and_measured_data_before_either() -> None:
    slow, fast = fuel_demand(brief(peak_rpm=5000)), fuel_demand(brief(peak_rpm=7500))
    assert (slow.schools.used, fast.schools.used) == ("power", "air")
    assert fast.mass_flow == fast.schools.by_air
    assert fast.mass_flow > slow.mass_flow == slow.schools.by_power
    measured = fuel_demand(brief(peak_rpm=7500, bsfc_petrol_kg_kwh=0.30))
    assert measured.schools.used == "measured"
    assert measured.mass_flow * 3600 == pytest.approx(0.30 * 620 * HP / 1000)
    assert [row[0] for row in fast.schools.rows] == pytest.approx(
        [7500 * i / 10 for i in range(3, 12)]
    )


def test_the_margin_is_the_trade_of_the_use() -> None:
    assert [margin(brief(use=u))[0] for u in ("street", "flight")] == [0.20, 0.25]
    assert margin(brief(margin=0.4)) == (0.4, "typed in the brief")


def test_the_trades_thirty_percent_is_set_beside_the_figure() -> None:
    """Handbook: E85 is 41 % over E0 and 36 % over E10 by heat; by stoichiometry, used here, 42 and
    37 %.
    """
    assert "E85 is 37 % over E10 and 42 % over E0" in alcohol_over_gasoline(brief(fuel="E85"))
    assert alcohol_over_gasoline(brief(fuel="E10")) == ""


def test_air_flow_refuses_a_temperature_below_absolute_zero() -> None:
    with pytest.raises(ValueError, match="absolute zero"):
        air_flow_demand(0.002, 100, 1, 1e5, 0, 1, 14.7)
    assert math.isfinite(air_flow_demand(0.002, 100, 1, 1e5, 300, 1, 14.7))


def test_the_same_parts_on_other_fuels() -> None:
    """Burn at equal power goes as density times stoichiometric ratio; what a litre costs times the
    litres is what an hour costs.
    """
    build = set_price(demo_builds()["bittern"], "E85", 1.5)
    rows = {r.fuel: r for r in make_fuel_rows(build)}
    assert list(rows) == ["E0", "E10", "E30", "E50", "E70", "E85", "E100", "methanol", "100LL"]
    ceilings = [rows[f].first.ceiling for f in ("E0", "E30", "E70", "E85", "methanol")]  # type: ignore[union-attr]
    assert ceilings == sorted(ceilings, reverse=True)
    assert rows["E85"].cost_per_hour == pytest.approx(1.5 * rows["E85"].fuel_demand * 3.6e6)
    assert rows["E70"].cost_per_hour is None
    assert rows["E70"].fuel_demand == fuel_demand(build.brief).volume_flow  # type: ignore[arg-type]
    assert set(rows["E70"].unsuited) == {"H1", "F2"}
    assert rows["E0"].unsuited == ()
    assert "H1" in rows["methanol"].unsuited
    assert "E12" in {r.fuel for r in make_fuel_rows(set_brief(build, "fuel", "E12"))}


def test_a_sagging_rail_leans_the_worst_cylinder() -> None:
    """A 5 % sag of the pressure across leans by 1/sqrt(0.95) - 1 = 2.6 % (handbook); injector
    spread of 3 % adds 1/0.97 - 1 = 3.1 %.
    """
    sound = worst_cylinder(make_study(set_brief(demo_builds()["bittern"], "power_kw", 400.0)))
    assert sound is not None
    assert sound.leaner == pytest.approx(1 / 0.97 - 1, abs=0.002)
    study = make_study(set_brief(demo_builds()["bittern"], "power_kw", 530.0))
    short = worst_cylinder(study)
    assert short is not None
    low = study.solved["low voltage"].solution
    across = low.nodes["rail out"] - study.brief.boost_kpa * 1000  # type: ignore[operator]
    assert short.case == "low voltage"
    assert short.leaner == pytest.approx(
        math.sqrt(study.brief.base_kpa * 1000 / across) / 0.97 - 1, rel=1e-6
    )
    assert short.leaner > sound.leaner + 0.01
    assert 1 / math.sqrt(0.95) - 1 == pytest.approx(0.026, abs=0.0005)


def test_dead_time_leans_where_nobody_corrects_it() -> None:
    """1,500 cc/min injectors (1.32 ms at 12 V, 1.01 ms at 14 V) on Bittern, low voltage 11.5 V at
    the pumps = 12.0 V at the injectors: 0.31 ms late.
    """
    build = demo_builds()["bittern"]
    right = worst_cylinder(make_study(build))
    study = make_study(set_brief(build, "dead_time", "not corrected"))
    wrong = worst_cylinder(study)
    assert right is not None
    assert wrong is not None
    assert wrong.case == "low voltage"
    full = (
        6
        * 1500
        / 60
        * 1e-6
        * math.sqrt(399.8959 / 300)
        * math.sqrt(684 / study.peak.solution.density)
    )
    flows = study.peak.case.demand / full * 120_000 / 5600
    late = 0.31
    low = study.solved["low voltage"].solution.nodes["rail out"] - study.brief.boost_kpa * 1000  # type: ignore[operator]
    sag = math.sqrt(study.brief.base_kpa * 1000 / low)
    assert wrong.leaner == pytest.approx(sag * flows / (flows - late) / 0.97 - 1, rel=1e-3)
    assert wrong.leaner > right.leaner + 0.015


def test_both_ends_of_the_range_are_looked_at() -> None:
    """At equal lambda E51 needs density x ratio of E85 over its own: the burn falls with less
    ethanol, and petrol of the class boils first.
    """
    study = make_study(
        set_brief(set_brief(demo_builds()["bittern"], "fuel", "E85"), "ethanol_range", "flex")
    )
    assert list(study.solved) == [
        "peak",
        "low voltage",
        "idle",
        "peak E0",
        "low voltage E0",
        "idle E0",
        "peak E10",
        "peak E51",
    ]
    assert study.peak.case.demand / study.solved["peak E0"].case.demand == pytest.approx(
        1.42, abs=0.01
    )
    named = make_study(set_brief(demo_builds()["bittern"], "ethanol_range", "as sold"))
    assert list(named.solved)[3:] == [
        "peak E51",
        "low voltage E51",
        "idle E51",
        "peak E83",
        "low voltage E83",
        "idle E83",
    ]
    gasoline = make_study(
        set_brief(set_brief(demo_builds()["bittern"], "fuel", "E10"), "ethanol_range", "flex")
    )
    assert list(gasoline.solved)[3:] == [
        "peak E0",
        "low voltage E0",
        "idle E0",
        "peak E85",
        "low voltage E85",
        "idle E85",
        "peak E51",
    ]  # whatever is named, both ends come, and what lies between


def test_winters_fuel_is_not_met_on_a_summers_day() -> None:
    """Nobody said how warm the tank gets: it follows the season. What was typed stands."""
    build = demo_builds()["dunlin"]
    assert build.brief is not None
    plain = build.model_copy(
        update={"brief": build.brief.model_copy(update={"fuel_temperature_c": 40.0}), "typed": {}}
    )
    winter = set_brief(plain, "season", "winter")
    assert winter.brief is not None
    assert winter.brief.fuel_temperature_c == 20.0
    assert set_brief(winter, "season", "summer").brief == plain.brief
    typed = set_brief(plain, "fuel_temperature_c", 40.0, "40 C")
    assert set_brief(typed, "season", "winter").brief.fuel_temperature_c == 40.0  # type: ignore[union-attr]


def test_a_fuel_of_ones_own_is_burnt_by_its_own_figures() -> None:
    own = OwnFuel(
        name="R 102",
        density_kg_m3=720,
        stoichiometric_ratio=13.2,
        heating_value_mj_kg=41,
        viscosity_20_mpa_s=0.5,
        viscosity_40_mpa_s=0.4,
        reid_vapour_kpa=48,
    )
    build = set_own_fuel(demo_builds()["bittern"], own)
    study = make_study(build)
    assert study.fuel_demand.fuel.name == "R 102"
    assert study.fuel_demand.mass_flow * 3600 == pytest.approx(
        620 * 0.62 * 0.45359237 * 14.7 / 13.2, rel=1e-6
    )
    assert study.fuel_demand.density == pytest.approx(720 * (1 - 0.001 * 30))
    assert study.peak.solution.density == pytest.approx(study.fuel_demand.density)
    assert study.vapor_pressure == pytest.approx(true_vapor_pressure(48_000, 318.15))
    fuel = study.fuel_demand.fuel
    assert [fuel.viscosity(273.15 + t) for t in (20, 40)] == pytest.approx([0.5e-3, 0.4e-3])
    assert [r.fuel for r in make_fuel_rows(build)][-1] == "R 102"
    with pytest.raises(BuildErrors, match="describe your own fuel first"):
        set_brief(demo_builds()["bittern"], "fuel", "own")
    with pytest.raises(ValidationError, match="thinner warm than cold"):
        OwnFuel.model_validate(own.model_dump() | {"viscosity_40_mpa_s": 0.6})


def test_the_dose_at_the_pressure_that_is_there() -> None:
    """Curlew: 1500 cc/min at 300 kPa on n-heptane of 684; here 303.6 kPa across and the E85 of the
    solution (hand calculation).
    """
    study = make_study(demo_builds()["curlew"])
    dose = doses(study, study.peak)[0]
    rho = study.peak.solution.density
    assert dose.full_each * 6e7 == pytest.approx(
        1500 * math.sqrt(dose.across / 300_000) * math.sqrt(684 / rho), rel=1e-9
    )
    opening = (
        (1.32 - 0.31 * 1.8 / 2) * 7200 / 120_000
    )  # 1.32 ms at 12 V, 1.01 ms at 14 V; 13.8 V here
    assert dose.duty == pytest.approx(study.fuel_demand.volume_flow / 4 / dose.full_each + opening)
    assert dose.shot == pytest.approx(study.fuel_demand.mass_flow / 4 * 120 / 7200)
