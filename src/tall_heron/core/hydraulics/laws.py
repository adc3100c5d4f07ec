"""The compiled laws of links in SI, and their values with slopes: what network.py makes and the solvers read."""

import math
from dataclasses import dataclass

from tall_heron.core.physics.friction import LAMINAR_END, TURBULENT_START, swamee_jain
from tall_heron.core.physics.pump import Curve, Share

INFINITE = math.inf
LOSS, PUMP, REGULATOR = 0, 1, 2  # codes of links
FLOW_FLOOR = 1e-10  # m3/s, keeps the slope of Q|Q| above zero at standstill; the loss itself stays exact
SLOPE_FLOOR = 30.0  # Pa s/m3, a regulator's least slope: 0.003 Pa at 400 L/h
FLOW_LEAST = 1e-10  # m3/s (0.0004 L/h), below which nothing counts as flow
LEAK = 1e-22  # m3/(s Pa) through a shut link: 1e-16 m3/s at 1 MPa, reported as zero
TYPICAL_FLOW = 5e-5  # m3/s, 180 L/h: where every link starts
_LN10 = math.log(10)


@dataclass(slots=True)
class Resistance:
    """h(Q) = linear Q + square Q|Q| + friction(Q) + cracking; `one_way` forbids Q < 0; `most` forbids Q beyond it.

    Friction is `friction_scale` f Q|Q| with Re = `reynolds_per_flow` |Q|."""

    linear: float = 0.0
    square: float = 0.0
    friction_scale: float = 0.0
    reynolds_per_flow: float = 0.0
    relative_roughness: float = 0.0
    cracking: float = 0.0
    one_way: bool = False
    most: float = INFINITE


@dataclass(slots=True)
class PumpRise:
    """rise(Q) = sum of weight * curve(flow_scale Q + flow_shift), capped at `relief`; never backward. With `given` it gives that flow [m3/s] against
    any pressure."""

    curves: tuple[Curve, ...]
    shares: list[Share]
    relief: float
    last_flow: float
    outside: bool
    currents: tuple[Curve, ...] | None = None
    given: float | None = None


@dataclass(slots=True)
class RegulatorLaw:
    """Holds `side` (0 inlet, 1 outlet) at `target` [Pa, piezometric] plus slope Q; wide open it is wide_open Q^2."""

    side: int
    target: float
    slope: float
    wide_open: float


def _floor(square: float, magnitude: float) -> float:
    """The flow that keeps the slope of Q|Q| above zero: where the loss is a hundred-millionth of a pascal, and no more than FLOW_FLOOR."""
    return max(magnitude, min(FLOW_FLOOR, 1e-4 / math.sqrt(square))) if square else FLOW_FLOOR


def resistance(law: Resistance, q: float) -> tuple[float, float]:
    """Loss and its slope at a flow, kinks apart: h(Q) [Pa] without the cracking pressure, dh/dQ [Pa s/m3]."""
    magnitude = q if q >= 0 else -q
    h = q * (law.linear + law.square * magnitude)
    slope = law.linear + 2 * law.square * (magnitude if magnitude > FLOW_FLOOR else _floor(law.square, magnitude))
    if law.friction_scale:
        scale, per = law.friction_scale, law.reynolds_per_flow
        re = per * magnitude
        if re <= LAMINAR_END:
            lam = scale * 64 / per
            h += lam * q
            slope += lam
        elif re >= TURBULENT_START:
            power = 5.74 / re**0.9
            arg = law.relative_roughness / 3.7 + power
            x = math.log10(arg)
            f = 0.25 / (x * x)
            # Re df/dRe, from f = 0.25 / x^2
            bend = 0.45 / (x * x * x) * power / (arg * _LN10)
            h += scale * f * q * magnitude
            slope += scale * magnitude * (2 * f + bend)
        else:
            s = (re - LAMINAR_END) / (TURBULENT_START - LAMINAR_END)
            gain = swamee_jain(TURBULENT_START, law.relative_roughness) - 64 / LAMINAR_END
            f = 64 / LAMINAR_END + s * s * (3 - 2 * s) * gain
            bend = re * 6 * s * (1 - s) * gain / (TURBULENT_START - LAMINAR_END)
            h += scale * f * q * magnitude
            slope += scale * magnitude * (2 * f + bend)
    return h, slope


def rise(law: PumpRise, q: float) -> tuple[float, float]:
    """Pressure rise [Pa] and its slope [Pa s/m3], at most zero, at a flow of zero or more."""
    total = slope = 0.0
    for share, curve in zip(law.shares, law.curves, strict=True):
        value, d = curve.at(q * share.flow_scale + share.flow_shift)
        total += share.weight * value
        slope += share.weight * share.flow_scale * d
    if total > law.relief:
        return law.relief, 0.0
    return total, min(slope, 0.0)


def opening_flow(law: Resistance, pressure: float) -> float:
    """A working flow for a one-way link that just opened under `pressure` [Pa]: from near zero Newton would overshoot by orders of magnitude."""
    if law.square > 0:
        return min(TYPICAL_FLOW, math.sqrt(pressure / law.square), law.most)
    return min(TYPICAL_FLOW, law.most)
