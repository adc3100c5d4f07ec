"""What the brief asks of the fuel system: what the engine burns, at which rail pressure, with how much in hand."""

from dataclasses import dataclass

from tall_heron.core.build import Brief
from tall_heron.core.catalogue import by_name, house_figure
from tall_heron.core.physics.demand import LB_PER_HP_H, brake_specific_demand, scaled_consumption
from tall_heron.core.physics.fuel import CELSIUS, Fuel, fuel_named
from tall_heron.core.why import Why, figure

WATT_PER_HP = 745.69987158227
KG_PER_KWH = 1 / 3.6e6


@dataclass(frozen=True)
class Burn:
    """What the engine burns at full power: `mass_flow` [kg/s], `volume_flow` [m3/s] at the fuel's temperature, `consumption` [kg/(W s)]."""

    fuel: Fuel
    mass_flow: float
    volume_flow: float
    consumption: float
    density: float
    why: Why


def burn(brief: Brief) -> Burn:
    """The burn of a brief by brake-specific consumption, scaled from petrol by stoichiometry."""
    fuel, petrol = fuel_named(brief.fuel), fuel_named("E0")
    if brief.bsfc_petrol_kg_kwh is not None:
        on_petrol, source = brief.bsfc_petrol_kg_kwh * KG_PER_KWH, "typed in the brief"
    else:
        name = "bsfc_boosted" if brief.boosted else "bsfc_natural"
        on_petrol, source = house_figure(name) * LB_PER_HP_H, str(by_name("house_figures")[name]["source"])
    consumption = scaled_consumption(on_petrol, petrol.stoichiometric_ratio, fuel.stoichiometric_ratio)
    power = brief.power_kw * 1000
    mass = brake_specific_demand(power, consumption)
    density = fuel.density(brief.fuel_temperature_c + CELSIUS)
    hp, lb = power / WATT_PER_HP, consumption / LB_PER_HP_H
    steps = (
        f"b = {figure(on_petrol / LB_PER_HP_H)} lb/(hp·h) × {petrol.stoichiometric_ratio:g} ÷ {figure(fuel.stoichiometric_ratio, 4)}"
        f" = {figure(lb)} lb/(hp·h) on {fuel.name}",
        f"ṁ = {figure(hp)} hp × {figure(lb)} = {figure(hp * lb)} lb/h = {figure(mass * 3600)} kg/h",
        f"Q = {figure(mass * 3600)} kg/h ÷ {figure(density / 1000)} kg/L at {brief.fuel_temperature_c:g} °C = {figure(mass / density * 3.6e6)} L/h",
    )
    return Burn(fuel, mass, mass / density, consumption, density, Why(steps, f"Brake-specific consumption on petrol: {source}."))


def margin(brief: Brief) -> tuple[float, str]:
    """The spare pump flow the brief asks for over the burn [-], and its source."""
    if brief.margin is not None:
        return brief.margin, "typed in the brief"
    row = by_name("house_figures")["margin_aircraft" if brief.use == "flight" else "margin_car"]
    return float(row["value"]), str(row["source"])


def asked_rail_pressure(brief: Brief, manifold_kpa: float) -> float:
    """The rail pressure asked for [Pa gauge]: base over the manifold, so that the injectors see base."""
    return (brief.base_kpa + manifold_kpa) * 1000
