"""Losses of fittings by their loss coefficient K."""

import math

STEEL_ROUGHNESS = 4.572e-5  # m, clean commercial steel, 0.00015 ft (crane-tp410)


def fully_turbulent_friction(bore: float) -> float:
    """Crane's fT: friction factor of clean commercial steel in fully turbulent flow, f = 0.25 /
    log10(e/3.7D)^2.

    Args: bore [m]. Returns: Darcy friction factor [-]. Source: crane-tp410.
    Valid: bores of 6 mm to 0.6 m, Crane's table; beyond it the rough-pipe law goes on.

    >>> round(fully_turbulent_friction(0.0525), 4)  # 2 in schedule 40: 0.019 in the table
    0.019
    """
    return 0.25 / math.log10(STEEL_ROUGHNESS / bore / 3.7) ** 2


def crane_coefficient(friction_multiple: float, bore: float) -> float:
    """Loss coefficient K = n fT of a fitting, n from data/parts/fittings_k.csv.

    On small elbows methods differ by half: for -6 Crane gives 0.94, Hooper 1.77, Darby 1.0.
    Args: friction_multiple [-], bore [m]. Returns: K on that bore [-]. Source: crane-tp410.
    Valid: turbulent flow; below Re 4000 real fittings take more.

    >>> round(crane_coefficient(30, 0.0525), 2)
    0.57
    """
    return friction_multiple * fully_turbulent_friction(bore)


def quadratic_coefficient(loss_coefficient: float, bore: float, density: float) -> float:
    """The k in dp = k Q|Q| of a K on a bore, k = K rho / (2 A^2).

    Args: loss_coefficient [-], bore [m], density [kg/m3]. Returns: [Pa s2/m6]. Source: crane-tp410.
    Valid: any; a bore of zero is refused by the document.

    >>> round(quadratic_coefficient(1.0, (4 / math.pi) ** 0.5, 2.0), 9)  # an area of 1 m2
    1.0
    """
    return loss_coefficient * density / (2 * (math.pi * bore**2 / 4) ** 2)


def moved_to_bore(loss_coefficient: float, own_bore: float, bore: float) -> float:
    """The K that acts the same on another bore, K2 = K1 (D2/D1)^4.

    Args: loss_coefficient [-], own_bore [m], bore [m]. Returns: [-]. Source: crane-tp410.
    Valid: any bores above zero; the flow is the same through both.

    >>> moved_to_bore(1.0, 1.0, 2.0)
    16.0
    """
    return loss_coefficient * (bore / own_bore) ** 4


def bend_coefficient(angle: float, radius: float, bore: float, friction_factor: float) -> float:
    """What a smooth bend takes beyond the friction of its own length, K = (0.10 + 2.4 f) s + 6.6 f
    (sqrt s + s) (d/r)^(4 a/pi), s = sin(a/2).

    Args: angle [rad], radius [m] of its centre line, bore [m], friction_factor [-]. Returns: K on
    the bore [-]. Source: rennels-2012.
    Valid: bends of one bore and more; tighter ones are no bends but mitres.

    >>> round(bend_coefficient(math.pi / 2, 0.165, 0.0127, 0.02), 3)
    0.106
    """
    s = math.sin(angle / 2)
    return (0.10 + 2.4 * friction_factor) * s + 6.6 * friction_factor * (math.sqrt(s) + s) * (
        bore / radius
    ) ** (4 * angle / math.pi)
