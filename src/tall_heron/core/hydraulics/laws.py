"""The laws of links in SI, and their values with slopes: what network.py makes and the solvers
read.

Parts in a row between junctions act as one link, a chain: their losses add at one flow. `ChainLaw`
is what the solvers step on; a Resistance or a PumpRise
alone is a chain of one.
"""

import math
from bisect import bisect_right
from dataclasses import dataclass
from typing import NamedTuple

from tall_heron.core.physics.friction import friction_loss
from tall_heron.core.physics.pump import PumpCurve, Share, make_curve

INFINITE = math.inf
FLOW_FLOOR = (
    1e-10  # m3/s, keeps the slope of Q|Q| above zero at standstill; the loss itself stays exact
)
SLOPE_FLOOR = 30.0  # Pa s/m3, the least slope of a link: 0.003 Pa at 400 L/h
FLOW_LEAST = 1e-10  # m3/s (0.0004 L/h), below which nothing counts as flow
LEAK = 1e-22  # m3/(s Pa) through a shut link: 1e-16 m3/s at 1 MPa, reported as zero
TYPICAL_FLOW = 5e-5  # m3/s, 180 L/h: where every link starts
FLATTEST = (
    1e-5 / TYPICAL_FLOW
)  # s/m3: the share of its pressure by which a relief closes as more flow passes on, 1e-5 at 180 L/h; without it pumps side by side that stand at
# their reliefs would share their flow in any way, and a flat map would let it run away


@dataclass(slots=True)
class Resistance:
    """h(Q) = linear Q + square Q|Q| + friction(Q) + cracking; `one_way` forbids Q < 0; `most`
    forbids Q beyond it.

    Friction is `friction_scale` f Q|Q| with Re = `reynolds_per_flow` |Q|.
    """

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
    """rise(Q) = sum of weight * curve(flow_scale Q + flow_shift), capped at `relief`; never
    backward. With `given` it gives that flow [m3/s] against any pressure. Its currents go
    `with_density`, 1 in the fluid of its sheet.
    """

    curves: tuple[PumpCurve, ...]
    shares: list[Share]
    relief: float
    last_flow: float
    outside: bool
    currents: tuple[PumpCurve, ...] | None = None
    given: float | None = None
    with_density: float = 1.0
    stalled: bool = False  # its wire leaves it no voltage to turn at
    wire: tuple[float, float, float, float] | None = (
        None  # source [V], resistance [ohm], lowest and highest voltage of its maps [V]
    )
    shut_off: float = 0.0  # Pa, the rise at no flow
    maps: tuple[
        tuple[
            float, float, float, tuple[float, ...], tuple[tuple[float, float, float, float], ...]
        ],
        ...,
    ] = ()

    def __post_init__(self) -> None:
        """Shares beside their curves, as plain numbers: this is what Newton's steps read."""
        rows = zip(self.shares, self.curves, strict=True)
        self.maps = tuple((s.weight, s.flow_scale, s.flow_shift, c.flow, c.pieces) for s, c in rows)
        self.shut_off = rise(self, 0.0)[0]


@dataclass(slots=True)
class RegulatorLaw:
    """Holds `side` (0 inlet, 1 outlet) at `target` [Pa, piezometric] plus slope Q; wide open it is
    wide_open Q^2.
    """

    side: int
    target: float
    slope: float
    wide_open: float

    @property
    def hold(self) -> float:
        """The slope that the solvers hold with [Pa s/m3], never quite zero."""
        return max(self.slope, SLOPE_FLOOR)


Law = Resistance | PumpRise | RegulatorLaw


def one_map(flows: list[float], rises: list[float]) -> PumpRise:
    """A pump of one map: rises [Pa] over flows [m3/s]."""
    return PumpRise(
        (make_curve(flows, rises),),
        [Share(weight=1.0, flow_scale=1.0, flow_shift=0.0, curve=0)],
        INFINITE,
        flows[-1],
        False,
    )


def idle_map() -> PumpRise:
    """A pump that turns too slowly to give anything."""
    return one_map([0.0, 1e-9], [1.0, 0.0])


class Friction(NamedTuple):
    """One bore's friction in a chain, `scale` f Q|Q| with Re = `reynolds_per_flow` |Q|."""

    scale: float
    reynolds_per_flow: float
    relative_roughness: float


class ChainLaw(NamedTuple):
    """h(Q) = linear Q + square Q|Q| + frictions - rises of the pumps + cracking, all at one flow.
    `one_way` forbids Q < 0; `most` forbids Q beyond it; `given` is the flow where a pump in it
    gives that against any pressure.
    """

    linear: float
    square: float
    frictions: tuple[Friction, ...]
    pumps: tuple[PumpRise, ...]
    cracking: float
    one_way: bool
    most: float
    given: float | None


def make_chain(laws: list[Resistance | PumpRise]) -> ChainLaw:
    """The laws of parts in a row as one."""
    if len(laws) == 1 and isinstance(alone := laws[0], Resistance) and not alone.friction_scale:
        return ChainLaw(
            alone.linear, alone.square, (), (), alone.cracking, alone.one_way, alone.most, None
        )
    linear = square = cracking = 0.0
    most, one_way, given = INFINITE, False, None
    bores: dict[tuple[float, float], float] = {}
    pumps: list[PumpRise] = []
    for law in laws:
        if isinstance(law, PumpRise):
            pumps.append(law)
            one_way = True
            given = law.given if given is None else given
            continue
        linear += law.linear
        square += law.square
        cracking += law.cracking
        one_way = one_way or law.one_way
        most = min(most, law.most)
        if law.friction_scale:
            bore = law.reynolds_per_flow, law.relative_roughness
            bores[bore] = bores.get(bore, 0.0) + law.friction_scale
    frictions = tuple(Friction(scale, *bore) for bore, scale in bores.items())
    return ChainLaw(linear, square, frictions, tuple(pumps), cracking, one_way, most, given)


def slope_floor(square: float) -> float:
    """The flow that keeps the slope of Q|Q| above zero: where the loss is a hundred-millionth of a
    pascal, and no more than FLOW_FLOOR.
    """
    return min(FLOW_FLOOR, 1e-4 / math.sqrt(square)) if square else FLOW_FLOOR


def chain_loss(law: ChainLaw, q: float) -> tuple[float, float]:
    """Loss of a chain less what its pumps make, and the slope of both at a flow, kinks apart: [Pa]
    without the cracking pressure, [Pa s/m3].
    """
    linear, square, frictions, pumps = law[:4]
    magnitude = q if q >= 0 else -q
    h = q * (linear + square * magnitude)
    slope = linear + 2 * square * (
        magnitude if magnitude > FLOW_FLOOR else max(magnitude, slope_floor(square))
    )
    for scale, per, rough in frictions:
        loss, bend = friction_loss(magnitude, scale, per, rough)
        h += loss if q >= 0 else -loss
        slope += bend
    for pump in pumps:
        top, fall = rise(pump, q)
        h -= top
        slope += max(-fall, FLATTEST * abs(top), 1e5)
    return h, max(slope, SLOPE_FLOOR)


def loss(law: Resistance, q: float) -> float:
    """Loss at a flow, kinks apart: h(Q) [Pa] without the cracking pressure."""
    size = q if q >= 0 else -q
    h = q * (law.linear + law.square * size)
    if law.friction_scale:
        per, rough = law.reynolds_per_flow, law.relative_roughness
        rubbed = friction_loss(size, law.friction_scale, per, rough)[0]
        h += rubbed if q >= 0 else -rubbed
    return h


def rise(law: PumpRise, q: float) -> tuple[float, float]:
    """Pressure rise [Pa] and its slope [Pa s/m3], at most zero, at a flow of zero or more."""
    total = slope = 0.0
    for weight, scale, shift, knots, pieces in law.maps:
        flow = q * scale + shift
        i = bisect_right(knots, flow)
        c0, c1, c2, c3 = pieces[i]
        x = flow - knots[i - 1 if i else 0]
        total += weight * (c0 + x * (c1 + x * (c2 + x * c3)))
        slope += weight * scale * (c1 + x * (2 * c2 + x * 3 * c3))
    if total > (relieved := law.relief * (1 - FLATTEST * q)):
        return relieved, -FLATTEST * law.relief
    return total, min(slope, 0.0)


def opening_flow(law: ChainLaw, pressure: float) -> float:
    """A working flow for a one-way chain that just opened under `pressure` [Pa]: from near zero
    Newton would overshoot by orders of magnitude.
    """
    most = min(TYPICAL_FLOW, law.most)
    for pump in law.pumps:
        most = min(most, pump.last_flow / 2)
    return most if law.pumps or not law.square else min(most, math.sqrt(pressure / law.square))


def starting_flow(law: ChainLaw) -> float:
    """Where a chain's flow starts [m3/s]."""
    return min(TYPICAL_FLOW, law.most)
