"""The jet pump: momentum of a jet shared with what it draws along."""

import math


def jet_rise(
    motive_flow: float,
    suction_flow: float,
    nozzle: float,
    throat: float,
    density: float,
    suction_loss: float,
    throat_loss: float,
) -> float:
    """Pressure from suction to discharge, B rho v^2 / 2 of the jet, with b = (nozzle/throat)^2, M =
    suction/motive flow and B = 2b + 2b^2 M^2/(1 - b) - b^2 (1 + M)^2 (1 + K_throat) - (bM/(1 -
    b))^2 (1 + K_suction): momentum balance over a throat of even bore.

    Args: motive_flow [m3/s], suction_flow [m3/s], nozzle [m], throat [m], density [kg/m3],
    suction_loss [-], throat_loss [-] with the diffuser.
    Returns: [Pa]. Source: cunningham-1957.
    Valid: one liquid, a throat of even bore long enough to mix; no motive flow gives no rise, and
    nothing checks for cavitation.

    >>> round(jet_rise(1e-4, 1e-4, 0.005, 0.011, 750, 0.1, 0.2))
    2347
    """
    if motive_flow <= 0:
        return 0.0
    b, m = (nozzle / throat) ** 2, suction_flow / motive_flow
    speed = motive_flow / (math.pi * nozzle**2 / 4)
    share = (
        2 * b
        + 2 * b * b * m * m / (1 - b)
        - (b * (1 + m)) ** 2 * (1 + throat_loss)
        - (b * m / (1 - b)) ** 2 * (1 + suction_loss)
    )
    return share * density * speed**2 / 2


def motive_loss(
    motive_flow: float,
    suction_flow: float,
    nozzle: float,
    throat: float,
    density: float,
    nozzle_loss: float,
    suction_loss: float,
) -> float:
    """What stands between the nozzle's inlet and the suction port, [(1 + K_nozzle) - (1 +
    K_suction) (bM/(1 - b))^2] rho v^2 / 2: the jet leaves the nozzle at the pressure of the
    throat's entry, which lies under the suction port by what the drawn stream needs to get there.

    Args: motive_flow [m3/s], suction_flow [m3/s], nozzle [m], throat [m], density [kg/m3],
    nozzle_loss [-], suction_loss [-]. Returns: [Pa].
    Source: cunningham-1957.
    Valid: as jet_rise.

    >>> round(motive_loss(1e-4, 0.0, 0.005, 0.011, 750, 0.05, 0.1))
    10213
    """
    speed = motive_flow / (math.pi * nozzle**2 / 4)
    b, m = (nozzle / throat) ** 2, suction_flow / motive_flow if motive_flow > 0 else 0.0
    return (
        ((1 + nozzle_loss) - (1 + suction_loss) * (b * m / (1 - b)) ** 2) * density * speed**2 / 2
    )
