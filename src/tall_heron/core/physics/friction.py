"""Friction of straight lines (Darcy-Weisbach, Darcy's friction factor)."""

import math

LAMINAR_END = 2000.0
TURBULENT_START = 4000.0


def reynolds(velocity: float, bore: float, density: float, viscosity: float) -> float:
    """Reynolds number of pipe flow, Re = rho v D / mu.

    Args: velocity [m/s], bore [m], density [kg/m3], viscosity [Pa s]. Returns: [-]. Source: crane-tp410.

    >>> round(reynolds(0.93454, 0.0087, 740, 0.6e-6 * 740))
    13551
    """
    return abs(velocity) * bore * density / viscosity


def swamee_jain(reynolds: float, relative_roughness: float) -> float:
    """Friction factor of turbulent flow, f = 0.25 / log10(e/3.7D + 5.74/Re^0.9)^2.

    Args: reynolds [-] above 4000, relative_roughness [-] up to 0.05. Returns: Darcy friction factor [-]. Source: swamee-jain-1976, as EPANET 2.2 uses it.
    """
    return 0.25 / math.log10(relative_roughness / 3.7 + 5.74 / reynolds**0.9) ** 2


def colebrook(reynolds: float, relative_roughness: float) -> float:
    """Friction factor of turbulent flow, 1/sqrt f = -2 log10(e/3.7D + 2.51/(Re sqrt f)), by fixed-point steps to 1e-13.

    Args: reynolds [-] above 4000, relative_roughness [-]. Returns: Darcy friction factor [-]. Source: colebrook-1939.

    >>> round(colebrook(13551, 0.0), 6)
    0.028534
    """
    x = 1 / math.sqrt(swamee_jain(reynolds, relative_roughness))
    for _ in range(60):
        new = -2 * math.log10(relative_roughness / 3.7 + 2.51 * x / reynolds)
        if abs(new - x) < 1e-13:
            break
        x = new
    return 1 / x**2


def darcy_friction(reynolds: float, relative_roughness: float) -> float:
    """Friction factor over the whole range: 64/Re to 2000, Swamee-Jain from 4000, a smooth step on f between.

    Between 2000 and 4000 the flow is not settled: take the result as +/-30 %; solutions flag it as transition.
    Args: reynolds [-] above 0, relative_roughness [-]. Returns: Darcy friction factor [-]. Source: hagen-poiseuille, swamee-jain-1976.
    """
    if reynolds <= LAMINAR_END:
        return 64 / reynolds
    if reynolds >= TURBULENT_START:
        return swamee_jain(reynolds, relative_roughness)
    s = (reynolds - LAMINAR_END) / (TURBULENT_START - LAMINAR_END)
    s = s * s * (3 - 2 * s)
    return (1 - s) * 64 / LAMINAR_END + s * swamee_jain(TURBULENT_START, relative_roughness)


def friction_drop(flow: float, bore: float, length: float, roughness: float, density: float, viscosity: float) -> float:
    """Pressure drop of a straight line, dp = f L/D rho v^2/2.

    Args: flow [m3/s], bore [m], length [m], roughness [m], density [kg/m3], viscosity [Pa s]. Returns: [Pa], with the sign of the flow. Source: crane-tp410.

    >>> round(friction_drop(20 / 3.6e6, 0.0079, 4.5, 0, 740, 0.6e-6 * 740), 2)
    116.11
    """
    if flow == 0:
        return 0.0
    v = flow / (math.pi * bore**2 / 4)
    f = darcy_friction(reynolds(v, bore, density, viscosity), roughness / bore)
    return f * length / bore * density * v * abs(v) / 2
