"""Pressure waves in lines: how fast they run, and at which frequencies a row of lines and volumes
rings.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from tall_heron.core.base.roots import bracketed_root

SCAN = 0.5  # Hz: two modes nearer to each other than that are found as one or none


@dataclass(frozen=True)
class WaveLine:
    """A line without loss: its length [m], area [m2] and the speed of waves in it [m/s]."""

    length: float
    area: float
    speed: float


@dataclass(frozen=True)
class Volume:
    """Something that takes in `compliance` [m3/Pa]: a rail, a filter's body, a damper."""

    compliance: float


def wave_speed(sound: float, stiffness: float) -> float:
    """The speed of waves in a line whose wall gives way, a = c sqrt(K_eff/K): K_eff/K is how much
    stiffer the fuel is together with its wall than alone.

    Args: sound [m/s] in the fuel, stiffness [-] of fuel in its line over fuel alone, 0 to 1.
    Returns: [m/s]. Source: korteweg-1878. Valid: thin walls, long waves.

    >>> round(wave_speed(1200.0, 0.25))
    600
    """
    return sound * math.sqrt(stiffness)


def compliance(volume: float, density: float, speed: float) -> float:
    """What a volume of fuel takes in, V/(rho a^2).

    Args: volume [m3], density [kg/m3], speed [m/s]. Returns: [m3/Pa]. Source: korteweg-1878. Valid:
    a volume that is short against the waves.

    >>> compliance(1e-4, 750.0, 1200.0) < 1e-13
    True
    """
    return volume / (density * speed**2)


def modes(
    row: Sequence[WaveLine | Volume], density: float, most: float, open_end: bool = False
) -> list[float]:
    """The frequencies at which a row rings whose first end is closed, and whose last end is closed
    or, if `open_end`, at constant pressure. Along a line of admittance Y = A/(rho a) pressure and
    flow turn into each other by the angle 2 pi f L/a; a compliance adds 2 pi f C p to the flow; the
    row rings where the flow (or the pressure) at its end is none.

    Args: row [-] of lines and volumes, density [kg/m3], most [Hz], open_end [-]. Returns: [Hz],
    rising. Source: organ-pipe. Valid: no losses; lines in one row, no branches.

    >>> [round(f) for f in modes([WaveLine(2.0, 1e-4, 1000.0)], 750.0, 600.0)]
    [250, 500]
    >>> [round(f) for f in modes([WaveLine(2.0, 1e-4, 1000.0)], 750.0, 700.0, open_end=True)]
    [125, 375, 625]
    """

    def end(frequency: float) -> float:
        p, u, omega = 1.0, 0.0, 2 * math.pi * frequency
        for part in row:
            if isinstance(part, Volume):
                u += omega * part.compliance * p
                continue
            admittance, angle = part.area / (density * part.speed), omega * part.length / part.speed
            p, u = (
                p * math.cos(angle) - u / admittance * math.sin(angle),
                u * math.cos(angle) + p * admittance * math.sin(angle),
            )
        return p if open_end else u

    out, low, before = [], SCAN, end(SCAN)
    while low < most:
        high = low + SCAN
        after = end(high)
        if before == 0.0 or before * after < 0:
            sign = -1.0 if before > 0 else 1.0
            out.append(bracketed_root(lambda f, s=sign: s * end(f), low, high) if before else low)  # type: ignore[misc]
        low, before = high, after
    return out
