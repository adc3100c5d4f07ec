"""What a soft mounting leaves of a vibration, and levels of noise by several ways."""

import math
from collections.abc import Iterable


def transmissibility(ratio: float, damping: float) -> float:
    """How much of a vibration a mass on a spring and a damper lets through to what it stands on,
    sqrt((1 + (2 z r)^2)/((1 - r^2)^2 + (2 z r)^2)).

    Args: ratio [-] of the frequency to the mounting's own, damping [-] of the critical.
    Returns: [-]. Source: den-hartog-1956. Valid: a stiff base, one direction, small movements.

    >>> round(transmissibility(3.0, 0.0), 4)
    0.125
    """
    lost = 2 * damping * ratio
    return math.sqrt((1 + lost**2) / ((1 - ratio**2) ** 2 + lost**2))


def natural_frequency(sag: float, gravity: float = 9.80665) -> float:
    """At what frequency a mass rings on what it sags by, sqrt(g/d)/2 pi.

    Args: sag [m] under its weight, gravity [m/s2]. Returns: [Hz]. Source: den-hartog-1956.
    Valid: rubber up to a few millimeters, which is a little stiffer moving than at rest.

    >>> round(natural_frequency(0.001), 1)
    15.8
    """
    return math.sqrt(gravity / sag) / (2 * math.pi)


def together(levels: Iterable[float]) -> float:
    """The level of several noises at once, 10 lg sum 10^(L/10).

    Args: levels [dB]. Returns: [dB]. Source: sum-of-levels. Valid: noises that have nothing to do
    with each other.

    >>> round(together([60.0, 60.0]), 2)
    63.01
    """
    return 10 * math.log10(sum(10 ** (level / 10) for level in levels))
