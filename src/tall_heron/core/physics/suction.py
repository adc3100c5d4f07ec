"""Air and suction."""

SEA_LEVEL, LAPSE, POWER = (
    101325.0,
    2.25577e-5,
    5.25588,
)  # Pa, 1/m, - of the standard atmosphere (isa-1976)


def standard_atmosphere(altitude: float) -> float:
    """Pressure of the standard atmosphere, p = 101325 (1 - 2.25577e-5 h)^5.25588.

    Args: altitude [m] up to 11000. Returns: [Pa] absolute. Raises: ValueError above 11000 m.
    Source: isa-1976.
    Valid: -500 to 11000 m; outside it is refused.

    >>> round(standard_atmosphere(1500))
    84556
    """
    if not -500 <= altitude <= 11000:
        raise ValueError(f"altitude: the formula holds from -500 to 11000 m, not at {altitude} m")
    return float(SEA_LEVEL * (1 - LAPSE * altitude) ** POWER)


def altitude_of(pressure: float) -> float:
    """Where the standard atmosphere has a pressure: standard_atmosphere turned round.

    Args: pressure [Pa] absolute. Returns: [m]. Source: isa-1976. Valid: above 0 Pa; beyond what
    standard_atmosphere takes it is extrapolated.

    >>> round(altitude_of(84556))
    1500
    """
    return float((1 - (pressure / SEA_LEVEL) ** (1 / POWER)) / LAPSE)


def suction_margin(inlet_gauge: float, atmosphere: float, vapor_pressure: float) -> float:
    """How far a pump's inlet stays above boiling, margin = p_inlet + p_atm - p_vapour.

    Args: inlet_gauge [Pa], atmosphere [Pa] absolute, vapor_pressure [Pa] absolute. Returns: [Pa]
    difference. Source: handbook-physics.
    Valid: any; it says nothing of how long a pump bears it.

    >>> suction_margin(-2000.0, 101325.0, 60000.0)
    39325.0
    """
    return inlet_gauge + atmosphere - vapor_pressure
