"""Jet pumps in the network: two links whose laws hang on each other's flows, settled by solving again and again."""

import math
from dataclasses import dataclass

from tall_heron.core.circuit import Jet
from tall_heron.core.laws import INFINITE, PumpRise, Resistance
from tall_heron.core.physics.jet import jet_rise, motive_loss
from tall_heron.core.physics.pump import Share, make_curve

POINTS = 24
LEAST = 1e-8  # m3/s, motive flow below which nothing is drawn along
MOST_RATIO = 20.0


@dataclass(slots=True)
class JetPair:
    """A jet pump's two links in a network, its part, and the flows [m3/s] its laws were last made for."""

    nozzle: int
    suction: int
    part: Jet
    motive: float = 5e-5
    drawn: float = 2.5e-5


def nozzle_law(part: Jet, density: float, motive: float, drawn: float) -> Resistance:
    """What the nozzle takes from its inlet to the discharge, less what the mixing gives back."""
    bore, flow = part.nozzle_mm / 1000, max(motive, LEAST)
    loss = motive_loss(flow, bore, density, part.nozzle_loss)
    back = jet_rise(flow, max(drawn, 0.0), bore, part.throat_mm / 1000, density, part.suction_loss, part.throat_loss)
    return Resistance(0.0, max(loss - back, 0.01 * loss) / flow**2, one_way=True)


def suction_law(part: Jet, density: float, motive: float) -> PumpRise:
    """What the jet gives to what it draws along: a pump's curve at the motive flow there is."""
    if motive <= LEAST:
        return _rise([0.0, 1e-9], [1.0, 0.0])

    def rise(ratio: float) -> float:
        return jet_rise(motive, ratio * motive, part.nozzle_mm / 1000, part.throat_mm / 1000, density, part.suction_loss, part.throat_loss)

    low, high = 0.0, MOST_RATIO
    for _ in range(50):
        middle = (low + high) / 2
        low, high = (middle, high) if rise(middle) > 0 else (low, middle)
    ratios = [high * i / POINTS for i in range(POINTS + 1)]
    values = [rise(r) for r in ratios]
    for i in range(1, len(values)):  # the curve of a pump falls
        values[i] = min(values[i], values[i - 1] - 1e-6 * abs(values[0]) - 1e-6)
    return _rise([r * motive for r in ratios], values)


def _rise(flow: list[float], values: list[float]) -> PumpRise:
    curve = make_curve(flow, values)
    return PumpRise((curve,), [Share(weight=1.0, flow_scale=1.0, flow_shift=0.0, curve=0)], INFINITE, flow[-1], False)


def settled(pair: JetPair, motive: float, drawn: float) -> bool:
    """Whether the flows found are those the laws were made for, to a ten-thousandth; keeps the new ones, half way from the old."""
    done = math.isclose(motive, pair.motive, rel_tol=1e-4, abs_tol=LEAST) and math.isclose(drawn, pair.drawn, rel_tol=1e-4, abs_tol=LEAST)
    pair.motive, pair.drawn = (motive + pair.motive) / 2, (drawn + pair.drawn) / 2
    return done
