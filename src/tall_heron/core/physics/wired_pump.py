"""A pump on a wire is a smaller pump: what it draws takes voltage from it. Its map at the source's
voltage, with the wire in it.
"""

import itertools
from collections.abc import Callable
from dataclasses import dataclass

from tall_heron.core.physics.pump import PumpCurve, Share, voltage_shares

STEPS = 60
CLOSE = 1e-7  # V
SHRINKS = 0.7  # of the step before: a larger one is left to halving
LEAST = 0.25  # of its lowest map's voltage, under which a motor is taken to stand
BETWEEN = 4  # points of the new map between two of the old


@dataclass(frozen=True)
class WiredMap:
    """Flows [m3/s] with the rise [Pa] and the current [A] there. `stalled` where no voltage is left
    that it could turn at.
    """

    flows: tuple[float, ...]
    rises: tuple[float, ...]
    currents: tuple[float, ...]
    stalled: bool = False


def voltage_on_wire(
    source: float,
    ohm: float,
    current: Callable[[float], float],
    least: float,
    guess: float | None = None,
) -> float | None:
    """The voltage at a load behind a resistance: the root of V + R I(V) - V_source between `least`
    and the source; None where even at `least` it draws too much.

    Args: source [V], ohm [ohm], current [A over V], least [V], guess [V] to begin from. Returns:
    [V]. Source: ohm-1827. Valid: loads that draw little more for a volt more.

    >>> round(voltage_on_wire(13.8, 0.0559, lambda v: 10.7 + (v - 12) * 0.8 / 1.5, 3.0), 3)
    13.167
    """
    if least + ohm * current(least) > source:
        return None
    v, step = guess if guess is not None else source, source
    for _ in range(
        STEPS
    ):  # what a volt more draws takes a small part of a volt: each step is as good as several of halving
        after = source - ohm * current(v)
        if after < least or abs(after - v) > SHRINKS * step:
            break
        v, step = after, abs(after - v)
        if step < CLOSE:
            return v
    low, high = least, source
    while high - low > CLOSE:
        v = (low + high) / 2
        low, high = (low, v) if v + ohm * current(v) > source else (v, high)
    return (low + high) / 2


def _current(shares: list[Share], currents: list[PumpCurve], q: float) -> float:
    total = sum(s.weight for s in shares)
    return sum(
        s.weight / total * currents[s.curve].at(q * s.flow_scale + s.flow_shift)[0] for s in shares
    )


def wired_map(
    volts: list[float],
    rises: list[PumpCurve],
    currents: list[PumpCurve],
    kind: str,
    source: float,
    ohm: float,
    times: float = 1.0,
) -> WiredMap:
    """The map of a pump behind a resistance, at the source's voltage. Each point keeps its share of
    the free flow, as between two maps.

    Args: volts [V] of the maps, rises [Pa], currents [A] over flow [m3/s], kind [turbine, roller,
    gerotor], source [V], ohm [ohm], times [-] of rise and current by the fuel's density.
    Returns: WiredMap. Source: ohm-1827 with affinity-laws beyond the maps' voltages. Valid: as
    voltage_shares; `stalled` where less than a quarter of the lowest voltage is left.

    >>> from tall_heron.core.physics.pump import make_curve
    >>> rise, drawn = make_curve([0.0, 1e-4], [4e5, 0.0]), make_curve([0.0, 1e-4], [10.0, 10.0])
    >>> wired_map([12.0], [rise], [drawn], "turbine", 13.0, 0.1).flows[-1] == 1e-4
    True
    """
    frees = [c.flow[-1] for c in rises]
    knots = sorted({q / f for c, f in zip(rises, frees, strict=True) for q in c.flow})
    fractions = [
        a + (b - a) * i / BETWEEN for a, b in itertools.pairwise(knots) for i in range(BETWEEN)
    ] + [knots[-1]]
    rows: list[tuple[float, float, float]] = []
    v = None

    def at(v: float, fraction: float) -> tuple[list[Share], float]:
        shares, _ = voltage_shares(volts, frees, v, kind)
        free = min((frees[s.curve] - s.flow_shift) / s.flow_scale for s in shares)
        return shares, fraction * free

    def drawn(v: float, fraction: float) -> float:
        shares, q = at(v, fraction)
        return times * _current(shares, currents, q)

    for fraction in fractions:
        v = voltage_on_wire(source, ohm, lambda v, f=fraction: drawn(v, f), LEAST * volts[0], v)  # type: ignore[misc]
        if v is None:
            return WiredMap((), (), (), stalled=True)
        shares, q = at(v, fraction)
        if rows and q <= rows[-1][0]:
            continue
        lift = times * sum(
            s.weight * rises[s.curve].at(q * s.flow_scale + s.flow_shift)[0] for s in shares
        )
        rows.append((q, lift, times * _current(shares, currents, q)))
    return WiredMap(tuple(r[0] for r in rows), tuple(r[1] for r in rows), tuple(r[2] for r in rows))
