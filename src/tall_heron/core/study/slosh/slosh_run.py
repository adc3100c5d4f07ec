"""A run with accelerations, step by step: where the fuel of a tank stands, whether its outlet is
covered, and how a pot behind it fares.

At each step fuel is taken to have come to rest under what an accelerometer reads; it passes between
compartments by the law of orifices. Many fills are run at once, which also says how
low the tank may be run. The step is the sums' own: how often the logger wrote does not matter.
"""

from dataclasses import dataclass

import numpy as np

from tall_heron.core.base.constants import GRAVITY
from tall_heron.core.base.wanted import still_wanted
from tall_heron.core.hydraulics.vessel import Tank, VesselOpening
from tall_heron.core.physics.slosh import Array, slopes

STEP = 0.1  # s
DISCHARGE = 0.6  # of a sharp-edged opening, common practice
FULLEST = 0.97  # of what a tank holds: it is never filled to the brim
FILLS = tuple(
    round(0.05 + 0.06 * i, 2) for i in range(16)
)  # shares of a tank from which the run is looked at besides the one asked for
MOST_WORK = 12_000  # steps times openings and one: a run is followed no further than that, twenty minutes of it in a tank without walls
AIR = 1e-6  # m3: less air than this in all is none
GULP = 0.05  # s of air at a pump's inlet before it tells at the rail


@dataclass(frozen=True)
class Flows:
    """What a tank gives at full power while its outlet is covered [m3/s]: `drawn` from it, `back`
    to it, and how both change with the `fuel_demand` that is not asked for (`turns_back`: what is
    not burnt comes back; otherwise it is not drawn). A `pot` [m3] that is filled from it gives
    `pot_drawn` and gets `pot_back`; None where there is none.
    """

    drawn: float
    back: float
    fuel_demand: float
    turns_back: bool
    pot: float | None = None
    pot_drawn: float = 0.0
    pot_back: float = 0.0

    def at(self, load: float) -> tuple[float, float, float, float]:
        """Drawn from and back to the tank, drawn from and back to the pot, at a share of the demand."""
        less = (1 - load) * self.fuel_demand
        if self.pot is None:
            return (
                (self.drawn, self.back + less, 0.0, 0.0)
                if self.turns_back
                else (max(self.drawn - less, 0.0), self.back, 0.0, 0.0)
            )
        if not self.turns_back:
            return self.drawn, self.back, max(self.pot_drawn - less, 0.0), self.pot_back
        to_pot = self.pot_back > self.back
        return (
            self.drawn,
            self.back + (0.0 if to_pot else less),
            self.pot_drawn,
            self.pot_back + (less if to_pot else 0.0),
        )


@dataclass(frozen=True)
class Slosh:
    """A run of a tank from one fill: at `times` [s] the slopes forward and to the right, the height
    of each compartment's surface at x = y = 0 [m] and its volume [m3], whether the outlet is
    `covered`, what is in the `pot` [m3], and whether the engine's pump gets fuel (`fed`). `lost`
    [s] is when air first reaches that pump, None where it never does; `missing` [m3] is how
    large a pot would have carried it through. `fills` are shares of the tank with the seconds of
    air of each; `burnt` [m3] is what the engine had.
    """

    times: Array
    slopes: Array
    heights: Array
    volumes: Array
    covered: Array
    pot: Array | None
    delivered: Array
    burnt: float
    lost: float | None
    missing: float
    fills: tuple[tuple[float, float, float], ...]

    @property
    def air(self) -> float:
        """How long the outlet is dry [s]."""
        return float((self.covered < 0.5).sum()) * STEP

    @property
    def seconds(self) -> float:
        """How much of the run was followed [s]."""
        return float(self.times[-1])

    @property
    def starved(self) -> float:
        """How long the engine's pump gets air [s]."""
        return float((self.delivered < 0.5).sum()) * STEP


def slosh(
    tank: Tank, flows: Flows, times: Array, readings: Array, loads: Array, fill: float
) -> Slosh:
    """Run a tank along a run, from a fill [share of what it holds] and from FILLS, as far as
    MOST_WORK goes.

    Args: times [s, rising], readings (n x 3: ahead, left, up [g]), loads (n, share of the peak's
    burn).
    """
    steps = max(
        min(round(float(times[-1] - times[0]) / STEP), MOST_WORK // (1 + len(tank.openings))), 1
    )
    at = times[0] + STEP * np.arange(steps + 1)
    read = np.stack([np.interp(at, times, readings[:, i]) for i in range(3)], 1)
    load = np.clip(np.interp(at, times, loads), 0.0, 1.5)
    fills = np.array([min(fill, FULLEST), *FILLS])
    vessel, (room, x, y, z) = tank.vessel, tank.outlet
    volume = _settled(tank, np.outer(fills, vessel.full))
    count = len(vessel.full)
    heights, volumes = np.zeros((steps + 1, count)), np.zeros((steps + 1, count))
    tilts, covered, delivered = np.zeros((steps + 1, 2)), np.zeros(steps + 1), np.zeros(steps + 1)
    pots = np.zeros(steps + 1) if flows.pot is not None else None
    pot = np.full(len(fills), flows.pot or 0.0)
    behind, deepest = (
        np.zeros(len(fills)),
        np.zeros(len(fills)),
    )  # what a pot without end would be short of now, and at its worst
    starved, dry = np.zeros(len(fills)), np.zeros(len(fills))
    burnt, lost, height = 0.0, None, None
    ways = np.array([slopes(*row) for row in read.tolist()])
    turned = -(np.diff(ways, axis=0, prepend=ways[:1]) @ np.array(vessel.middle))
    for i, tilt in enumerate(vessel.tilts(ways[:, 0], ways[:, 1])):
        still_wanted()
        along, across = ways[i].tolist()
        height = vessel.surface(volume, tilt, None if height is None else height + turned[i])
        wet = (height[:, room] + along * x + across * y > z) & (volume[:, room] > AIR)
        drawn, back, pot_drawn, pot_back = flows.at(float(load[i]))
        if flows.pot is None:
            engine = wet
            net = np.where(wet, drawn - back, 0.0) * STEP
            behind = np.where(
                wet,
                np.maximum(behind - REFILL * (flows.fuel_demand) * STEP, 0.0),
                behind + load[i] * flows.fuel_demand * STEP,
            )
        else:
            lifted = np.where(wet, drawn, 0.0)
            engine = (pot > AIR) | (lifted + pot_back >= pot_drawn)
            given = np.where(engine, pot_drawn - pot_back, 0.0)
            wanted = pot + (lifted - given) * STEP
            over = np.maximum(wanted - flows.pot, 0.0)
            pot = np.clip(wanted, 0.0, flows.pot)
            net = (lifted - np.where(engine, back, 0.0)) * STEP - over
            behind = np.maximum(behind + (pot_drawn - pot_back - lifted) * STEP, 0.0)
        deepest = np.maximum(deepest, behind)
        starved, dry = starved + ~engine * STEP, dry + ~wet * STEP
        if engine[0]:
            burnt += load[i] * flows.fuel_demand * STEP if i < steps else 0.0
        elif lost is None and starved[0] > GULP:
            lost = float(at[i] - times[0])
        tilts[i], heights[i], volumes[i] = (along, across), height[0], volume[0]
        covered[i], delivered[i] = wet[0], engine[0]
        if pots is not None:
            pots[i] = pot[0]
        if count > 1:
            _, area = tilt.under(height)
            volume = _exchanged(tank, volume, height, area, along, across, max(read[i][2], 0.05))
        taken = np.minimum(net, volume[:, room])
        volume = volume.copy()
        volume[:, room] = np.minimum(volume[:, room] - taken, vessel.full[room])
    others = tuple(
        (float(f), float(d), float(s))
        for f, d, s in zip(fills[1:], dry[1:], starved[1:], strict=True)
    )
    return Slosh(
        at - times[0],
        tilts,
        heights,
        volumes,
        covered,
        pots,
        delivered,
        burnt,
        lost,
        float(deepest[0]),
        others,
    )


REFILL = 1.0  # of the demand: how fast a pot that is not there would fill again


def _settled(tank: Tank, volume: Array) -> Array:
    """Fuel that has stood long enough to stand at one level in all compartments that it reaches."""
    vessel = tank.vessel
    if len(vessel.full) == 1:
        return volume
    tilt = vessel.tilt(0.0, 0.0)
    total = volume.sum(1)
    low, high = (
        np.full(len(total), float(vessel.low.min()) - 0.01),
        np.full(len(total), float(vessel.high.max()) + 0.01),
    )
    for _ in range(60):
        middle = (low + high) / 2
        liquid = tilt.under(np.repeat(middle[:, None], len(vessel.full), 1))[0].sum(1)
        low, high = np.where(liquid < total, middle, low), np.where(liquid < total, high, middle)
    liquid = tilt.under(np.repeat(high[:, None], len(vessel.full), 1))[0]
    out: Array = liquid * (total / np.maximum(liquid.sum(1), 1e-12))[:, None]
    return out


def _exchanged(
    tank: Tank, volume: Array, height: Array, area: Array, along: float, across: float, up: float
) -> Array:
    """What the openings let through in a step. Between two surfaces d apart with areas A1 and A2 an
    orifice closes d by d sqrt(d)/dt = -Cd a sqrt(2 g)(1/A1 + 1/A2)/2, which is followed to its
    end: however long the step, it never goes beyond level.
    """
    volume = volume.copy()
    for o in tank.openings:
        volume = _through(tank, o, volume, height, area, along * o.x + across * o.y, up)
    return volume


def _through(
    tank: Tank, o: VesselOpening, volume: Array, height: Array, area: Array, rise: float, up: float
) -> Array:
    one, other = height[:, o.one] + rise, height[:, o.other] + rise
    from_one = one > other
    upper, lower = np.maximum(one, other), np.maximum(np.minimum(one, other), o.low)
    head = np.maximum(upper - lower, 0.0)
    wet = np.clip((upper - o.low) / (o.high - o.low), 0.0, 1.0)
    allowed = np.where(from_one, o.forth, o.back)
    least = 1e-5
    inverse = 1 / np.maximum(area[:, o.one], least) + 1 / np.maximum(area[:, o.other], least)
    root = np.sqrt(head)
    left = np.maximum(
        root - DISCHARGE * o.area * wet * np.sqrt(2 * GRAVITY * up) * inverse / 2 * STEP, 0.0
    )
    moved = np.where(allowed, (head - left * left) / inverse, 0.0)
    full = tank.vessel.full
    source, goal = np.where(from_one, o.one, o.other), np.where(from_one, o.other, o.one)
    rows = np.arange(len(volume))
    moved = np.maximum(
        np.minimum(moved, np.minimum(volume[rows, source], full[goal] - volume[rows, goal])), 0.0
    )
    volume[rows, source] -= moved
    volume[rows, goal] += moved
    return volume
