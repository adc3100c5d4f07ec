"""What the engine burns."""

import math

from tall_heron.core.base.constants import HORSEPOWER, HOUR, POUND

GAS_CONSTANT_AIR = 287.05  # J/(kg K)
LB_PER_HP_H = POUND / HORSEPOWER / HOUR  # kg/(W s): 1 lb/(hp h)


def scaled_consumption(
    gasoline_consumption: float, gasoline_ratio: float, fuel_ratio: float
) -> float:
    """Brake-specific consumption on another fuel at equal lambda and efficiency, bsfc = bsfc_petrol
    AFR_petrol / AFR_fuel.

    Args: gasoline_consumption [kg/(W s)], gasoline_ratio [-], fuel_ratio [-]. Returns: [kg/(W s)].
    Source: handbook-physics.
    Valid: any ratios above zero; equal efficiency is an assumption, and alcohols burn a little
    better than it says.

    >>> round(scaled_consumption(0.5, 14.7, 9.0), 3)
    0.817
    """
    return gasoline_consumption * gasoline_ratio / fuel_ratio


def brake_specific_demand(power: float, consumption: float) -> float:
    """Mass flow of fuel, m = P bsfc.

    Args: power [W], consumption [kg/(W s)]. Returns: [kg/s]. Source: handbook-physics.
    Valid: any power and consumption; a brake efficiency outside 0.20 to 0.40 is a finding of the
    rules.

    >>> round(brake_specific_demand(450 * 745.69987, 0.50 * LB_PER_HP_H) * 3600, 2)
    102.06
    """
    return power * consumption


def air_flow_demand(
    displacement: float,
    speed: float,
    volumetric_efficiency: float,
    manifold: float,
    charge_temperature: float,
    lambda_: float,
    fuel_ratio: float,
) -> float:
    """Mass flow of fuel of a four-stroke by the air it takes in, m = VE Vd n/2 p/(R T) / (lambda
    AFR).

    Args: displacement [m3], speed [1/s], volumetric_efficiency [-], manifold [Pa] absolute,
    charge_temperature [K], lambda_ [-], fuel_ratio [-].
    Returns: [kg/s]. Raises: ValueError for a temperature of zero or below. Source:
    handbook-physics.
    Valid: four-strokes; ideal gas, within 0.1 % of air to 3 bar; a two-stroke takes twice as much.

    >>> round(air_flow_demand(0.002, 100, 1.0, 101325, 288.15, 1.0, 14.7) * 3600, 2)  # 2 L at 6000 rpm in standard air
    30.0
    """
    if charge_temperature <= 0:
        raise ValueError(
            f"charge_temperature: must be above absolute zero, not {charge_temperature} K"
        )
    air = (
        volumetric_efficiency
        * displacement
        * speed
        / 2
        * manifold
        / (GAS_CONSTANT_AIR * charge_temperature)
    )
    return air / (lambda_ * fuel_ratio)


def injector_flow(
    rated_flow: float,
    rated_difference: float,
    rated_density: float,
    difference: float,
    density: float,
) -> float:
    """Flow of an open injector, q = q_rated sqrt(dp/dp_rated) sqrt(rho_rated/rho).

    Args: rated_flow [m3/s], rated_difference [Pa], rated_density [kg/m3], difference [Pa], density
    [kg/m3]. Returns: [m3/s]. Source: bernoulli.
    Valid: liquid fuel, wide-open injectors; a difference below zero gives no flow.

    >>> round(injector_flow(550, 300, 740, 380, 740), 1), round(injector_flow(550, 300, 740, 240, 740), 1)
    (619.0, 491.9)
    """
    return (
        rated_flow
        * math.sqrt(max(difference, 0.0) / rated_difference)
        * math.sqrt(rated_density / density)
    )
