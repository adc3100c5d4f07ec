"""What the brief asks of the fuel system: what the engine burns, at which rail pressure, with how
much in hand.
"""

from dataclasses import dataclass

from tall_heron.core.base.arithmetic import Why, format_number
from tall_heron.core.base.catalogue import by_name, house_figure
from tall_heron.core.base.constants import CELSIUS, HORSEPOWER, LPH
from tall_heron.core.document.build import Brief
from tall_heron.core.physics.demand import (
    LB_PER_HP_H,
    air_flow_demand,
    brake_specific_demand,
    scaled_consumption,
)
from tall_heron.core.physics.fuel import AVGAS, Fuel, fuel_named
from tall_heron.core.physics.suction import standard_atmosphere

KG_PER_KWH = 1 / 3.6e6


@dataclass(frozen=True)
class Schools:
    """Both ways of saying what the engine burns [kg/s]: by its power, and by the air it takes in
    (None without a speed); `rows` over speed as (rpm, by power at even torque, by air); `gap` says
    what lies between them.
    """

    by_power: float
    by_air: float | None
    used: str
    rows: tuple[tuple[float, float, float], ...]
    gap: str


@dataclass(frozen=True)
class FuelDemand:
    """What the engine burns at full power: `mass_flow` [kg/s], `volume_flow` [m3/s] at the fuel's
    temperature, `consumption` [kg/(W s)].
    """

    fuel: Fuel
    mass_flow: float
    volume_flow: float
    consumption: float
    density: float
    schools: Schools
    why: Why

    @property
    def brake_efficiency(self) -> float:
        """Power over the heat of the fuel burned [-]."""
        return 1 / (self.consumption * self.fuel.heating_value)


@dataclass(frozen=True)
class RequiredFlow:
    """What the pumps, or gravity, are to deliver [m3/s]: the demand and a share over it [-]."""

    flow: float
    share: float
    why: Why


def fuel_demand(brief: Brief) -> FuelDemand:
    """The burn of a brief: the larger of both schools, or the consumption that was typed."""
    fuel = brief.fuel_of(brief.fuel)
    # aircraft handbooks give consumption of the fuel named: common practice, 6.0 lb/US gal
    base = fuel if fuel.family == AVGAS else fuel_named("E0")
    measured = brief.bsfc_petrol_kg_kwh is not None
    if brief.bsfc_petrol_kg_kwh is not None:
        on_base, source = brief.bsfc_petrol_kg_kwh * KG_PER_KWH, "typed in the brief"
    else:
        name = "bsfc_boosted" if brief.boosted else "bsfc_natural"
        on_base, source = (
            house_figure(name) * LB_PER_HP_H,
            str(by_name("house_figures")[name]["source"]),
        )
    by_consumption = scaled_consumption(
        on_base, base.stoichiometric_ratio, fuel.stoichiometric_ratio
    )
    power = brief.power
    by_power = brake_specific_demand(power, by_consumption)
    by_air = _by_air(brief, fuel, brief.peak_rpm) if brief.peak_rpm is not None else None
    used = (
        "measured" if measured else "air" if by_air is not None and by_air > by_power else "power"
    )
    mass = by_air if used == "air" and by_air is not None else by_power
    density = fuel.density(brief.fuel_temperature)
    hp, lb = power / HORSEPOWER, by_consumption / LB_PER_HP_H
    scaling = (
        f" × {base.stoichiometric_ratio:g} ÷ {format_number(fuel.stoichiometric_ratio, 4)} = {format_number(lb)} lb/(hp·h)"
        if base is not fuel
        else ""
    )
    steps = [
        f"b = {format_number(on_base / LB_PER_HP_H)} lb/(hp·h){scaling} on {fuel.name}",
        f"ṁ = {format_number(hp)} hp × {format_number(lb)} = {format_number(hp * lb)} lb/h = {format_number(by_power * 3600)} kg/h",
    ]
    if by_air is not None and brief.peak_rpm is not None:
        steps.append(_air_step(brief, fuel, by_air))
    steps.append(
        f"Q = {format_number(mass * 3600)} kg/h ÷ {format_number(density / 1000)} kg/L at {brief.fuel_temperature_c:g} °C = {format_number(mass / density / LPH)} L/h"
    )
    rows = _over_speed(brief, fuel, by_power)
    schools = Schools(by_power, by_air, used, rows, _gap(by_power, by_air, used))
    why = Why(
        tuple(steps),
        f"Brake-specific consumption on {'gasoline' if base is not fuel else fuel.name}: {source}.",
    )
    return FuelDemand(fuel, mass, mass / density, mass / power, density, schools, why)


def peak_lambda(brief: Brief) -> float:
    """The mixture at full power [-]: as typed, or the house's figure with or without boost."""
    if brief.lambda_peak is not None:
        return brief.lambda_peak
    return house_figure("lambda_boosted" if brief.boosted else "lambda_natural")


def _manifold(brief: Brief) -> float:
    return standard_atmosphere(brief.altitude_m) + brief.boost


def _by_air(brief: Brief, fuel: Fuel, rpm: float) -> float:
    charge = brief.charge_temperature_c + CELSIUS
    volume = brief.displacement_l / 1000
    return air_flow_demand(
        volume,
        rpm / 60,
        brief.volumetric_efficiency,
        _manifold(brief),
        charge,
        peak_lambda(brief),
        fuel.stoichiometric_ratio,
    )


def _air_step(brief: Brief, fuel: Fuel, by_air: float) -> str:
    return (
        f"by air: {brief.volumetric_efficiency:g} × {format_number(brief.displacement_l)} L × {format_number(brief.peak_rpm or 0.0, 4)} ÷ 2 per min × "
        f"{format_number(_manifold(brief) / 1000)} kPa ÷ (287 × {format_number(brief.charge_temperature_c + CELSIUS)} K) ÷ ({format_number(peak_lambda(brief))} × "
        f"{format_number(fuel.stoichiometric_ratio, 4)}) = {format_number(by_air * 3600)} kg/h"
    )


def _over_speed(
    brief: Brief, fuel: Fuel, by_power: float
) -> tuple[tuple[float, float, float], ...]:
    if brief.peak_rpm is None:
        return ()
    speeds = [brief.peak_rpm * i / 10 for i in range(3, 12)]
    return tuple(
        (rpm, by_power * min(rpm / brief.peak_rpm, 1.0), _by_air(brief, fuel, rpm))
        for rpm in speeds
    )


def _gap(by_power: float, by_air: float | None, used: str) -> str:
    if by_air is None:
        return "Give the speed at peak power to see what the air says."
    share = by_air / by_power - 1
    more = "more" if share > 0 else "less"
    why = (
        "the engine breathes better, runs richer or boosts more than this power needs, or the consumption is too hopeful"
        if share > 0
        else "the power wanted needs more air than this: more boost, speed or volumetric efficiency, or the consumption is on the safe side"
    )
    taken = {
        "measured": "The consumption typed is used.",
        "air": "The larger, by air, is used.",
        "power": "The larger, by power, is used.",
    }[used]
    return f"By air {abs(share) * 100:.0f} % {more} than by power: {why}. {taken}"


def alcohol_over_gasoline(brief: Brief) -> str:
    """The trade's thirty percent beside the computed figure, both bases named; empty for petrol."""
    fuel = brief.fuel_of(brief.fuel)
    if fuel.ethanol <= 0.5:
        return ""

    def over(name: str) -> float:
        base = fuel_named(name)
        return 100 * (
            base.density_15
            * base.stoichiometric_ratio
            / (fuel.density_15 * fuel.stoichiometric_ratio)
            - 1
        )

    return f"The trade adds 30 % for alcohol, naming no fuel. At equal lambda {fuel.name} is {over('E10'):.0f} % over E10 and {over('E0'):.0f} % over E0 by volume."


def margin(brief: Brief, gravity: bool = False) -> tuple[float, str]:
    """The headroom the brief asks for over the demand [-], and its source; an aircraft fed by
    gravity needs more than one with pumps.
    """
    if brief.margin is not None:
        return brief.margin, "typed in the brief"
    name = (
        ("margin_gravity" if gravity else "margin_aircraft")
        if brief.use == "flight"
        else "margin_car"
    )
    row = by_name("house_figures")[name]
    return float(row["value"]), str(row["source"])


def required_flow(brief: Brief, demand: FuelDemand, gravity: bool = False) -> RequiredFlow:
    """The flow wanted at full power, headroom over the demand included."""
    share, source = margin(brief, gravity)
    flow = demand.volume_flow * (1 + share)
    step = f"{format_number(demand.volume_flow / LPH)} L/h × (1 + {share:g}) = {format_number(flow / LPH)} L/h"
    return RequiredFlow(flow, share, Why((step,), f"Headroom: {source}."))


def allowance(brief: Brief, name: str) -> float:
    """A house figure, as it stands for the way the engine is fed: a carburetor's few psi bear
    other shares than injection.
    """
    low = f"{name}_carburettor"
    return house_figure(low if brief.carbureted and low in by_name("house_figures") else name)


def asked_rail_pressure(brief: Brief, manifold_kpa: float) -> float:
    """The rail pressure required for [Pa gauge]: base over the manifold, so that the injectors see
    base; over the boost alone at a carburetor's bowl.
    """
    return (brief.base_kpa + (max(manifold_kpa, 0.0) if brief.carbureted else manifold_kpa)) * 1000
