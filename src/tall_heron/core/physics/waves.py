"""Pressure waves in lines: how fast they run, and what a network of lines and volumes answers to a
flow that pulses.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

if TYPE_CHECKING:  # numpy is loaded only where it pays
    import numpy as np


@dataclass(frozen=True)
class WaveLine:
    """A line between two places: its length [m], area [m2], the speed of waves in it [m/s], and how
    much of what its wall takes in it does not give back (the loss factor, tan delta) [-].
    """

    start: str
    end: str
    length: float
    area: float
    speed: float
    loss: float = 0.0


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


def impedance(
    lines: Sequence[WaveLine],
    volumes: Mapping[str, float],
    openings: Mapping[str, float | np.ndarray],
    open_ends: Sequence[str],
    drawn_at: Sequence[str],
    hertz: np.ndarray,
    density: float,
    viscosity: float,
) -> np.ndarray:
    """How many pascals the places `drawn_at` move, on average, for a flow that pulses there, in
    equal shares of 1 m3/s in all. A place with nothing more on it is a closed end; one of
    `open_ends` stays at its pressure, as before a large volume; through `openings` runs more as
    pressure rises, dQ/dp, which of a steady flow Q under dp is Q/(2 dp). The characteristic impedance of a
    line is sqrt(Z'/Y') and its propagation sqrt(Z' Y') with Z' = i w rho/A (1 + 2/r sqrt(nu/(i w)))
    and Y' = i w A/(rho a2) (1 - i loss); the network is solved as one of admittances.

    Args: lines [-], volumes [m3/Pa] by their place, openings [m3/(s Pa)] by their place, each one or
    of shape (n,), open_ends [-] and drawn_at [-] places, hertz [Hz] of shape (n,), density [kg/m3],
    viscosity [m2/s].
    Returns: complex [Pa s/m3] of shape (n,). Source: zielke-1968, organ-pipe, bernoulli.
    Valid: waves that are small against the pressure and long against the bore; r sqrt(w/nu) over 10.

    >>> import numpy as np
    >>> quarter = np.arange(100.0, 150.0)
    >>> z = impedance([WaveLine("a", "b", 2.0, 1e-4, 1000.0)], {}, {}, ["a"], ["b"], quarter, 750.0, 5e-7)
    >>> float(quarter[abs(z).argmax()])  # a/4L
    125.0
    """
    import numpy as np

    places = sorted(
        {*volumes, *openings, *drawn_at, *(p for x in lines for p in (x.start, x.end))}
        - set(open_ends)
    )
    at = {place: i for i, place in enumerate(places)}
    omega = 2 * math.pi * hertz
    net = np.zeros((len(hertz), len(places), len(places)), complex)
    for line in lines:
        radius = math.sqrt(line.area / math.pi)
        series = (
            1j * omega * density / line.area * (1 + 2 / radius * np.sqrt(viscosity / (1j * omega)))
        )
        shunt = 1j * omega * line.area / (density * line.speed**2) * (1 - 1j * line.loss)
        angle, admittance = np.sqrt(series * shunt) * line.length, np.sqrt(shunt / series)
        own, other = admittance / np.tanh(angle), -admittance / np.sinh(angle)
        for here, there in ((line.start, line.end), (line.end, line.start)):
            if here in at:
                net[:, at[here], at[here]] += own
                if there in at:
                    net[:, at[here], at[there]] += other
    for place, i in at.items():
        net[:, i, i] += 1j * omega * volumes.get(place, 0.0) + openings.get(place, 0.0)
    flow = np.zeros((len(hertz), len(places), 1), complex)
    ends = [at[p] for p in drawn_at if p in at]
    for i in ends:
        flow[:, i, 0] += 1 / len(drawn_at)
    if not ends:
        return np.zeros(len(hertz), complex)
    return np.asarray(np.linalg.solve(net, flow)[:, ends, 0].mean(axis=1))


def peaks(hertz: np.ndarray, size: np.ndarray) -> list[float]:
    """Where a curve over evenly spaced frequencies is highest, by a parabola through each top.

    Args: hertz [Hz] and size [any] of one shape. Returns: [Hz], rising. Source: parabola.
    Valid: tops further from each other than two steps.

    >>> import numpy as np
    >>> f = np.arange(0.0, 10.0)
    >>> peaks(f, -((f - 4.2) ** 2))
    [4.2]
    """
    tops = [i for i in range(1, len(size) - 1) if size[i - 1] < size[i] >= size[i + 1]]
    out = []
    for i in tops:
        low, here, high = (float(size[j]) for j in (i - 1, i, i + 1))
        shift = (low - high) / (2 * (low - 2 * here + high))
        out.append(round(float(hertz[i]) + shift * float(hertz[i] - hertz[i - 1]), 9))
    return out
