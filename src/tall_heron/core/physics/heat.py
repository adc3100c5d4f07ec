"""How warm fuel in a tank gets while heat comes in and the level falls."""

import math

STILL = 1e-9  # kg/s: less is no falling level


def tank_rise(
    power: float, loss: float, mass: float, heat_capacity: float, mass_flow: float, seconds: float
) -> float:
    """Rise of the fuel over the air and its own start, theta = (P/UA) (1 - (1 - m' t/m)^(UA/(m'
    c))): the balance m c dtheta/dt = P - U A theta with a mass that falls by m' t; what leaves
    takes its own warmth along. Without a fall (P/UA) (1 - exp(-UA t/(m c))), without loss P t/(m c)
    or P/(m' c) ln(m/(m - m' t)).

    Args: power [W], loss U A [W/K], mass at the start [kg], heat_capacity [J/(kg K)], mass_flow
    [kg/s] that leaves for good, seconds [s]. Returns: [K].
    Raises: ValueError where the tank is empty by then. Source: energy-balance.
    Valid: fuel mixed throughout, air as warm as the fuel at the start, no heat from engine or
    exhaust.

    >>> round(tank_rise(240, 0, 22.35, 2200, 0, 3600), 1), round(tank_rise(240, 8, 22.35, 2200, 0, 3600), 1)
    (17.6, 13.3)
    """
    left = 1 - mass_flow * seconds / mass
    if left <= 0:
        raise ValueError(
            f"the tank is empty after {mass / mass_flow:.0f} s; seconds {seconds:g} is beyond that"
        )
    if mass_flow < STILL:
        return (
            power * seconds / (mass * heat_capacity)
            if loss == 0
            else power / loss * -math.expm1(-loss * seconds / (mass * heat_capacity))
        )
    if loss == 0:
        return power / (mass_flow * heat_capacity) * -math.log(left)
    return power / loss * -math.expm1(loss / (mass_flow * heat_capacity) * math.log(left))
