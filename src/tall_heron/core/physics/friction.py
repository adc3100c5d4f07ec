"""Friction of straight lines (Darcy-Weisbach, Darcy's friction factor)."""

import math
from typing import Any

LAMINAR_END = 2000.0
TURBULENT_START = 4000.0
_LN10 = math.log(10)


def reynolds(velocity: float, bore: float, density: float, viscosity: float) -> float:
    """Reynolds number of pipe flow, Re = rho v D / mu.

    Args: velocity [m/s], bore [m], density [kg/m3], viscosity [Pa s]. Returns: [-]. Source:
    crane-tp410.
    Valid: any.

    >>> round(reynolds(0.93454, 0.0087, 740, 0.6e-6 * 740))
    13551
    """
    return abs(velocity) * bore * density / viscosity


def swamee_jain(reynolds: float, relative_roughness: float) -> float:
    """Friction factor of turbulent flow, f = 0.25 / log10(e/3.7D + 5.74/Re^0.9)^2.

    Args: reynolds [-] above 4000, relative_roughness [-] up to 0.05. Returns: Darcy friction factor
    [-]. Source: swamee-jain-1976, as EPANET 2.2 uses it.
    Valid: Re 4000 to 1e8 and roughness to 0.05 of the bore, within 3 % of Colebrook; friction_loss
    uses it nowhere else.

    >>> round(swamee_jain(1e5, 1e-4), 4)
    0.0185
    """
    return 0.25 / math.log10(relative_roughness / 3.7 + 5.74 / reynolds**0.9) ** 2


def colebrook(reynolds: float, relative_roughness: float) -> float:
    """Friction factor of turbulent flow, 1/sqrt f = -2 log10(e/3.7D + 2.51/(Re sqrt f)), by
    fixed-point steps to 1e-13.

    Args: reynolds [-] above 4000, relative_roughness [-]. Returns: Darcy friction factor [-].
    Source: colebrook-1939.
    Valid: turbulent flow, Re above 4000; nothing checks that.

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


def friction_loss(
    flow: float, scale: float, reynolds_per_flow: float, relative_roughness: float
) -> tuple[float, float]:
    """Friction of a line and its slope, h = s f Q^2: 64/Re to 2000, Swamee-Jain from 4000, a smooth
    step on f between.

    Valid: Re to 1e8 and roughness to 0.05 of the bore, for which Swamee-Jain was fitted. Between Re
    2000 and 4000 the flow is not settled: take the result as +/-30 %; solutions flag it as
    transition.
    Args: flow [m3/s] of zero or more, scale [Pa s2/m6] L/D rho/(2 A^2), reynolds_per_flow [s/m3]
    Re/Q, relative_roughness [-].
    Returns: loss [Pa] and dh/dQ [Pa s/m3]. Source: hagen-poiseuille, swamee-jain-1976.

    >>> area = math.pi * 0.0079**2 / 4
    >>> round(friction_loss(20 / 3.6e6, 4.5 / 0.0079 * 740 / (2 * area**2), 0.0079 / area / 0.6e-6, 0.0)[0], 2)
    116.11
    """
    re = reynolds_per_flow * flow
    if re <= LAMINAR_END:
        slope = scale * 64 / reynolds_per_flow
        return slope * flow, slope
    if re >= TURBULENT_START:
        power = 5.74 / re**0.9
        argument = relative_roughness / 3.7 + power
        x = math.log10(argument)
        f = 0.25 / (x * x)
        bend = 0.45 / (x * x * x) * power / (argument * _LN10)  # Re df/dRe of f = 0.25 / x^2
    else:
        s = (re - LAMINAR_END) / (TURBULENT_START - LAMINAR_END)
        gain = swamee_jain(TURBULENT_START, relative_roughness) - 64 / LAMINAR_END
        f = 64 / LAMINAR_END + s * s * (3 - 2 * s) * gain
        bend = re * 6 * s * (1 - s) * gain / (TURBULENT_START - LAMINAR_END)
    return scale * f * flow * flow, scale * flow * (2 * f + bend)


def friction_losses(
    flow: Any, scale: Any, reynolds_per_flow: Any, relative_roughness: Any
) -> tuple[Any, Any]:
    """friction_loss of whole arrays.

    Args: flow [m3/s] of zero or more, scale [Pa s2/m6], reynolds_per_flow [s/m3],
    relative_roughness [-], numpy arrays of one shape.
    Returns: loss [Pa] and slope [Pa s/m3] of that shape. Source: hagen-poiseuille,
    swamee-jain-1976.
    Valid: as friction_loss.

    >>> import numpy as np
    >>> friction_losses(np.array([1e-6]), np.array([1e12]), np.array([1e8]), np.array([0.0]))[0].round(6)
    array([0.64])
    """
    import numpy as np

    re = reynolds_per_flow * flow
    power = 5.74 / np.maximum(re, TURBULENT_START) ** 0.9
    argument = relative_roughness / 3.7 + power
    x = np.log10(argument)
    f_high = 0.25 / (x * x)
    bend_high = 0.45 / (x * x * x) * power / (argument * _LN10)
    s = np.clip((re - LAMINAR_END) / (TURBULENT_START - LAMINAR_END), 0.0, 1.0)
    gain = (
        0.25 / np.log10(relative_roughness / 3.7 + 5.74 / TURBULENT_START**0.9) ** 2
        - 64 / LAMINAR_END
    )
    f_middle = 64 / LAMINAR_END + s * s * (3 - 2 * s) * gain
    bend_middle = re * 6 * s * (1 - s) * gain / (TURBULENT_START - LAMINAR_END)
    high, low = re >= TURBULENT_START, re <= LAMINAR_END
    f, bend = np.where(high, f_high, f_middle), np.where(high, bend_high, bend_middle)
    laminar = scale * 64 / reynolds_per_flow
    return np.where(low, laminar * flow, scale * f * flow * flow), np.where(
        low, laminar, scale * flow * (2 * f + bend)
    )


def darcy_friction(reynolds: float, relative_roughness: float) -> float:
    """Friction factor over the whole range, that of friction_loss.

    Args: reynolds [-] above 0, relative_roughness [-]. Returns: Darcy friction factor [-]. Source:
    hagen-poiseuille, swamee-jain-1976.
    Valid: as friction_loss; Re of zero has no factor.

    >>> darcy_friction(1000, 0.0)
    0.064
    """
    return friction_loss(reynolds, 1.0, 1.0, relative_roughness)[0] / reynolds**2


def friction_drop(
    flow: float, bore: float, length: float, roughness: float, density: float, viscosity: float
) -> float:
    """Pressure drop of a straight line, dp = f L/D rho v^2/2.

    Args: flow [m3/s], bore [m], length [m], roughness [m], density [kg/m3], viscosity [Pa s].
    Returns: [Pa], with the sign of the flow. Source: crane-tp410.
    Valid: as friction_loss; full bore, settled flow, no entry length.

    >>> round(friction_drop(20 / 3.6e6, 0.0079, 4.5, 0, 740, 0.6e-6 * 740), 2)
    116.11
    """
    if flow == 0:
        return 0.0
    v = flow / (math.pi * bore**2 / 4)
    f = darcy_friction(reynolds(v, bore, density, viscosity), roughness / bore)
    return f * length / bore * density * v * abs(v) / 2
