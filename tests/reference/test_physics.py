"""Physics against published values and reference libraries. Each row names its source; `by hand` is
a calculation written out in the handbook.
"""

import math

import fluids
import pytest
from CoolProp.CoolProp import PropsSI
from fluids.fittings import entrance_sharp
from fluids.jet_pump import liquid_jet_pump
from scipy.interpolate import PchipInterpolator

from tall_heron.core.base.catalogue import by_name
from tall_heron.core.base.constants import CELSIUS, PSI
from tall_heron.core.document.build import Brief
from tall_heron.core.document.own_fuel import OwnFuel
from tall_heron.core.physics import fittings, friction, suction
from tall_heron.core.physics.demand import LB_PER_HP_H, brake_specific_demand, injector_flow
from tall_heron.core.physics.fittings import quadratic_coefficient
from tall_heron.core.physics.fuel import blend, boils_at, fuel_named, true_vapor_pressure
from tall_heron.core.physics.jet import jet_rise, motive_loss
from tall_heron.core.physics.pump import displaced, make_curve, voltage_shares
from tall_heron.core.study.demand import fuel_demand, required_flow

RHO, NU = 740.0, 0.6e-6
LPH = 1 / 3.6e6
HP = 745.69987158227


@pytest.mark.parametrize(
    ("got", "expected", "relative", "source"),
    [
        (
            friction.reynolds(20 * LPH / (math.pi * 0.0079**2 / 4), 0.0079, RHO, NU * RHO),
            1492.3,
            1e-4,
            "by hand",
        ),
        (
            friction.friction_drop(20 * LPH, 0.0079, 4.5, 0.0, RHO, NU * RHO),
            116.11,
            1e-4,
            "by hand, Hagen-Poiseuille",
        ),
        (200 * LPH / (math.pi * 0.0087**2 / 4), 0.93454, 1e-5, "by hand"),
        (friction.reynolds(0.93454, 0.0087, RHO, NU * RHO), 13551, 1e-4, "by hand"),
        (friction.colebrook(13551, 0.0), 0.028534, 1e-4, "by hand, smooth Colebrook"),
        (friction.colebrook(13551, 0.0) / 0.0087 * RHO * 0.93454**2 / 2, 1059.9, 1e-4, "by hand"),
        (injector_flow(550, 300, RHO, 380, RHO), 619.0, 1e-4, "by hand"),
        (injector_flow(550, 300, RHO, 240, RHO), 491.9, 1e-4, "by hand"),
        (brake_specific_demand(450 * HP, 0.50 * LB_PER_HP_H) * 3600, 102.06, 1e-4, "by hand"),
        (LB_PER_HP_H * 3.6e6, 0.60828, 1e-5, "exact: lb and hp by definition"),
        (1.9 / 95 * 3600, 72.0, 1e-9, "by hand"),
        (
            true_vapor_pressure(10 * PSI, (60 + 459.67) / 1.8) / PSI,
            5.2,
            0.01,
            "EPA AP-42 table 7.1-2, RVP 10 at 60 F",
        ),
        (
            true_vapor_pressure(10 * PSI, (80 + 459.67) / 1.8) / PSI,
            7.4,
            0.02,
            "EPA AP-42 table 7.1-2, RVP 10 at 80 F, rounded",
        ),
        (suction.standard_atmosphere(0), 101325, 1e-9, "ISA"),
        (suction.standard_atmosphere(1500), 84556, 1e-4, "ISO 2533 table, 1500 m"),
        (suction.standard_atmosphere(5000), 54020, 1e-4, "ISO 2533 table, 5000 m"),
    ],
)
def test_published_values(got: float, expected: float, relative: float, source: str) -> None:
    assert got == pytest.approx(expected, rel=relative), source


@pytest.mark.parametrize(
    ("rvp_psi", "altitude", "left_kpa"), [(9, 0, 31), (9, 1500, 14), (9, 2440, 5)]
)
def test_suction_margins_of_the_handbook(rvp_psi: float, altitude: float, left_kpa: float) -> None:
    vapor = true_vapor_pressure(rvp_psi * PSI, 40 + CELSIUS)
    assert (suction.standard_atmosphere(altitude) - vapor) / 1000 == pytest.approx(
        left_kpa, abs=1.0
    ), "handbook table, 40 degC"


def test_winter_petrol_boils_at_40_degrees_and_2440_m() -> None:
    """RVP 13 boils (handbook): no margin is left at 2440 m."""
    assert true_vapor_pressure(13 * PSI, 40 + CELSIUS) > suction.standard_atmosphere(2440)


@pytest.mark.parametrize("re", [4000, 13551, 1e5, 1e7])
@pytest.mark.parametrize("rough", [0.0, 1e-4, 1e-2])
def test_friction_against_fluids(re: float, rough: float) -> None:
    """`fluids`: Colebrook exactly, and Swamee-Jain as its authors give it; Swamee-Jain lies within
    3 % of Colebrook over its range.
    """
    exact = fluids.friction_factor(Re=re, eD=rough, Method="Colebrook")
    assert friction.colebrook(re, rough) == pytest.approx(exact, rel=1e-6)
    assert friction.swamee_jain(re, rough) == pytest.approx(
        fluids.friction.Swamee_Jain_1976(re, rough), rel=2e-3
    )
    assert friction.darcy_friction(re, rough) == pytest.approx(exact, rel=0.035)


@pytest.mark.parametrize("bore", [0.0063, 0.0103, 0.0222])
def test_crane_coefficients_against_fluids(bore: float) -> None:
    """Crane TP-410 elbow: `fluids` computes fT from Crane's own fit of its table (2013 edition), 2
    % from the rough-pipe law.
    """
    rows = by_name("fittings_k")
    n = rows["elbow-90-threaded"]["friction_multiple"]
    assert fittings.crane_coefficient(n, bore) == pytest.approx(
        n * fluids.fittings.ft_Crane(bore), rel=0.06
    )
    assert rows["entry-sharp"]["loss_coefficient"] == pytest.approx(entrance_sharp(method="Crane"))


@pytest.mark.parametrize("bore", [0.0063, 0.0222, 0.1])
def test_fully_turbulent_friction_is_that_of_a_rough_pipe(bore: float) -> None:
    """`fluids`: Colebrook at a Reynolds number beyond which only roughness counts."""
    rough = fluids.friction_factor(Re=1e12, eD=4.572e-5 / bore, Method="Colebrook")
    assert fittings.fully_turbulent_friction(bore) == pytest.approx(rough, rel=1e-3)


def test_a_minus_6_elbow_is_near_crane() -> None:
    """Handbook: Crane gives 0.94 for a 90 degree threaded elbow of -6 (7.95 mm)."""
    assert fittings.crane_coefficient(30, 0.00795) == pytest.approx(0.94, rel=0.03)


@pytest.mark.parametrize(("name", "fluid"), [("E100", "Ethanol"), ("methanol", "Methanol")])
def test_alcohols_against_coolprop(name: str, fluid: str) -> None:
    fuel = fuel_named(name)
    for celsius in (15, 40):
        kelvin = celsius + CELSIUS
        assert fuel.density(kelvin) == pytest.approx(
            PropsSI("D", "T", kelvin, "P", 101325, fluid), rel=0.005
        )
    for celsius in (20, 40):
        kelvin = celsius + CELSIUS
        assert fuel.viscosity(kelvin) == pytest.approx(
            PropsSI("V", "T", kelvin, "P", 101325, fluid), rel=0.01
        )
    assert fuel.reid_vapor == pytest.approx(
        PropsSI("P", "T", 37.8 + CELSIUS, "Q", 0, fluid), rel=0.02
    )


def test_volume_of_alcohol_blends_over_petrol() -> None:
    """Handbook: at equal efficiency E85 is +41 % over E0 and +36 % over E10; E74 over E10 is +30 %
    at equal lambda.

    By heat the blends give 41, 36 and 29 %, by stoichiometry 42, 37 and 30 %: demand uses the
    second, the larger (docs/model.md).
    """

    def by_heat(name: str) -> float:
        return 1 / (fuel_named(name).density_15 * fuel_named(name).heating_value)

    def by_air(name: str) -> float:
        return 1 / (fuel_named(name).density_15 * fuel_named(name).stoichiometric_ratio)

    assert by_heat("E85") / by_heat("E0") - 1 == pytest.approx(0.41, abs=0.005)
    assert by_heat("E85") / by_heat("E10") - 1 == pytest.approx(0.36, abs=0.005)
    assert by_air("E74") / by_air("E10") - 1 == pytest.approx(0.30, abs=0.005)
    assert by_air("E85") > by_heat("E85") * by_air("E0") / by_heat("E0")
    assert blend(0.1).stoichiometric_ratio == pytest.approx(14.1, abs=0.05)


def test_pump_maps_follow_scipy() -> None:
    """PCHIP in a few lines against SciPy's PchipInterpolator."""
    flow, rise = [0.0, 90.0, 200.0, 310.0, 392.0], [900.0, 860.0, 590.0, 280.0, 0.0]
    ours, scipys = make_curve(flow, rise), PchipInterpolator(flow, rise)
    for q in range(0, 393, 7):
        assert ours.at(q)[0] == pytest.approx(float(scipys(q)), abs=1e-9)
        assert ours.at(q)[1] == pytest.approx(float(scipys(q, 1)), abs=1e-9)


@pytest.mark.parametrize("ratio", [0.0, 0.4, 1.0, 1.8])
@pytest.mark.parametrize("throat", [0.004, 0.006])
def test_jet_pumps_against_fluids(ratio: float, throat: float) -> None:
    """`fluids.liquid_jet_pump` (after Cunningham and Winoto): pressures of nozzle inlet and
    discharge over the suction port from both flows; its diffuser opens wide, so that its exit
    velocity counts for nothing, its mixing and diffuser losses together are our throat's, and its
    nozzle ends at the throat's entry (not retracted), as ours does.
    """
    rho, nozzle, flow = 740.0, 0.002, 100 / 3.6e6
    kp, ks, km, kd = 0.05, 0.1, 0.12, 0.08
    drawn = max(ratio * flow, 1e-12)
    ref = liquid_jet_pump(
        rhop=rho,
        rhos=rho,
        Kp=kp,
        Ks=ks,
        Km=km,
        Kd=kd,
        d_nozzle=nozzle,
        d_mixing=throat,
        d_diffuser=1.0,
        Qp=flow,
        Qs=drawn,
        P2=2e5,
        nozzle_retracted=False,
    )
    assert jet_rise(flow, drawn, nozzle, throat, rho, ks, km + kd) == pytest.approx(
        ref["P5"] - 2e5, rel=1e-6
    )
    assert motive_loss(flow, drawn, nozzle, throat, rho, kp, ks) == pytest.approx(
        ref["P1"] - 2e5, rel=1e-6
    )


def test_a_jet_without_losses_and_with_equal_streams_dissipates_nothing() -> None:
    """Momentum and energy agree where nothing mixes: with b M/(1 - b) = 1 both streams meet at one
    speed, and what goes in as power comes out as power.
    """
    rho, nozzle, throat, flow = 740.0, 0.002, 0.004, 50 / 3.6e6
    b = (nozzle / throat) ** 2
    drawn = flow * (1 - b) / b
    rise, motive = (
        jet_rise(flow, drawn, nozzle, throat, rho, 0.0, 0.0),
        motive_loss(flow, drawn, nozzle, throat, rho, 0.0, 0.0),
    )
    assert motive * flow == pytest.approx(rise * (flow + drawn), rel=1e-9, abs=1e-9)


MAP_12, MAP_14 = (
    [(0, 800), (200, 400), (400, 0)],
    [(0, 1000), (240, 500), (480, 0)],
)  # L/h and kPa, straight


@pytest.mark.parametrize(
    ("kind", "volts", "flow", "kpa"),
    [
        ("turbine", 12, 100, 600),  # on the lower map: 800 - 2 x 100
        ("turbine", 14, 120, 750),  # on the upper: 1000 - 500/240 x 120
        (
            "turbine",
            13,
            110,
            675,
        ),  # between: free flow 440, a quarter of it on both maps is 600 and 750, half each
        (
            "turbine",
            6,
            50,
            150,
        ),  # half speed: Q half, dp a quarter: 100 L/h at 12 V gives 600, a quarter is 150
        ("turbine", 28, 240, 3000),  # twice 14 V: 120 L/h gives 750, four times
        (
            "roller",
            6,
            60,
            280,
        ),  # half of 12 V sweeps half of 400 L/h less and slips as much: 60 L/h stands where 260 did, 800 - 2 x 260
        (
            "gerotor",
            16,
            200,
            726.19,
        ),  # 14 V x 8/7 sweeps 68.57 L/h more: 200 stands where 131.43 did, 1000 - 500/240 x 131.43
    ],
)
def test_pump_maps_between_and_beyond_their_voltages_by_hand(
    kind: str, volts: float, flow: float, kpa: float
) -> None:
    curves = [
        {"voltage_v": v, "rows": [[float(q), float(p)] for q, p in rows]}
        for v, rows in ((12, MAP_12), (14, MAP_14))
    ]
    low, high = ([r[0] for r in rows] for rows in (MAP_12, MAP_14))
    shares, outside = voltage_shares([12.0, 14.0], [low[-1], high[-1]], volts, kind)
    made = [
        make_curve([float(r[0]) for r in c["rows"]], [float(r[1]) for r in c["rows"]], "linear")
        for c in curves
    ]
    rise = sum(s.weight * made[s.curve].at(flow * s.flow_scale + s.flow_shift)[0] for s in shares)
    assert rise == pytest.approx(kpa, rel=1e-4)
    assert outside == (not 12 <= volts <= 14)


def test_a_turbine_beyond_its_voltages_follows_the_affinity_laws() -> None:
    shares, outside = voltage_shares([12.0, 13.5], [395.0, 442.0], 15.0, "turbine")
    assert outside
    assert (shares[0].weight, shares[0].flow_scale) == (
        pytest.approx((15 / 13.5) ** 2),
        pytest.approx(13.5 / 15),
    )


def test_a_loss_by_k_goes_with_density_and_the_area_squared() -> None:
    """Crane TP-410: dp = K rho v2 / 2. K = 1, 10 mm (78.54 mm2), 750 kg/m3, 0.1 L/s: v = 1.273 m/s,
    dp = 608 Pa.
    """
    assert quadratic_coefficient(1.0, 0.010, 750.0) * 1e-4**2 == pytest.approx(607.9, rel=1e-3)


def test_a_flat_end_of_a_map_goes_on_with_a_tenth_of_its_neighbours_slope() -> None:
    """10, 9, 0 at 0, 1, 2: the three-point end is (3 (-1) - (-9)) / 2 = 3, of the wrong sign, so
    PCHIP sets 0; before the table the curve then falls by a tenth of -1.
    """
    curve = make_curve([0.0, 1.0, 2.0], [10.0, 9.0, 0.0])
    assert curve.at(-1.0) == pytest.approx((10.1, -0.1))
    rising = make_curve(
        [0.0, 1.0, 2.0], [0.0, 9.0, 10.0]
    )  # a current may rise: its end stays as the three points say
    assert rising.at(-1.0)[1] == pytest.approx(13.0)


def test_an_aircraft_burns_its_handbook_figure_of_the_fuel_named() -> None:
    """A pilot's handbook: 150 hp at 0.48 lb/hp/h are 72 lb/h, at 6.0 lb/US gal 12.0 gal/h, 15.0 with
    the quarter over it that 14 CFR 23.955 asked for. Common practice; from memory.
    """
    brief = Brief(
        power_kw=150 * HP / 1000, fuel="100LL", use="flight", base_kpa=300, cylinders=4,
        fuel_temperature_c=15, bsfc_petrol_kg_kwh=0.48 * LB_PER_HP_H * 3.6e6,
    )  # fmt: skip
    demand = fuel_demand(brief)
    us_gallons = 3600 / 3.785411784e-3
    assert demand.volume_flow * us_gallons == pytest.approx(12.0, rel=2e-3)
    assert required_flow(brief, demand).flow * us_gallons == pytest.approx(15.0, rel=2e-3)
    assert required_flow(brief, demand, gravity=True).share == 0.5


OWN_FUEL = {
    "name": "own", "density_kg_m3": 780, "stoichiometric_ratio": 8, "heating_value_mj_kg": 25,
    "viscosity_20_mpa_s": 0.8, "viscosity_40_mpa_s": 0.6,
}  # fmt: skip
REID = (100 + 459.67) / 1.8


@pytest.mark.parametrize(
    ("liquid", "more"),
    [
        ("Methanol", {"methanol": True}),
        ("Ethanol", {"ethanol_percent": 98}),
        ("Ethanol", {"boils_like": "ethanol"}),
        ("n-Pentane", {"vapour_60_kpa": PropsSI("P", "T", 333.15, "Q", 0, "n-Pentane") / 1000}),
        ("Toluene", {"vapour_60_kpa": PropsSI("P", "T", 333.15, "Q", 0, "Toluene") / 1000}),
    ],
)
@pytest.mark.parametrize("celsius", [20, 30, 50, 70])
def test_a_fuel_of_ones_own_boils_as_it_says(
    liquid: str, more: dict[str, object], celsius: float
) -> None:
    """Neat liquids as the sheet would give them, between and beyond its points, by CoolProp."""
    reid = PropsSI("P", "T", REID, "Q", 0, liquid) / 1000
    fuel = OwnFuel.model_validate(OWN_FUEL | {"reid_vapour_kpa": reid} | more).fuel()
    kelvin = CELSIUS + celsius
    assert boils_at(fuel, "winter", kelvin) == pytest.approx(
        PropsSI("P", "T", kelvin, "Q", 0, liquid), rel=0.03
    )


def test_aviation_gasoline_of_ones_own_boils_by_its_own_slope() -> None:
    """49 kPa Reid: as 100LL of the table does, other than motor gasoline of the same."""
    avgas = OwnFuel.model_validate(OWN_FUEL | {"reid_vapour_kpa": 49, "boils_like": "avgas"}).fuel()
    motor = OwnFuel.model_validate(OWN_FUEL | {"reid_vapour_kpa": 49}).fuel()
    assert boils_at(avgas, "summer", 313.15) == pytest.approx(
        true_vapor_pressure(49e3, 313.15, 2.0)
    )
    assert boils_at(motor, "summer", 313.15) == pytest.approx(true_vapor_pressure(49e3, 313.15))


def test_what_a_gear_pump_slips_goes_with_pressure_and_not_with_speed() -> None:
    """ISO 4391, from memory: volumetric efficiency is delivered over swept. 12.5 cc at 4,000 turns
    sweep 3,000 L/h, 96 % at no pressure, 86 % at 800 kPa: 420 L/h leak there. By hand at 1,000
    turns, 750 L/h swept: 630 and 330 L/h; at 560 turns, 420 swept, nothing passes at 800 kPa; at 30
    turns not even its slip at no pressure is swept.
    """
    sheet = [(0.0, 0.96), (800e3, 0.86), (1600e3, 0.0)]

    def gives(turns: float) -> dict[int, float]:
        swept = 12.5e-6 * turns / 60
        return {round(p): q / LPH for q, p in displaced(swept, 12.5e-6 * 4000 / 60, sheet)}

    assert gives(4000) == pytest.approx({0: 2880.0, 800_000: 2580.0, 1_600_000: 0.0})
    slow = gives(1000)
    assert slow[0] == pytest.approx(630)
    assert slow[800_000] == pytest.approx(330)
    assert max(slow) == round(800e3 + 330 / (330 + 2250) * 800e3)
    assert gives(560) == pytest.approx({0: 300.0, 800_000: 0.0})
    assert gives(30) == {}
