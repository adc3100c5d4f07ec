"""A pump whose speed is controlled, followed through steps of demand: a stand-in controller, the
motor's lag, pulsed current through its wires, and what the feed gives way.
"""

from dataclasses import dataclass

import numpy as np

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.physics.waves import compliance
from tall_heron.core.study.cases.curves import laws_of, one_pump
from tall_heron.core.study.cases.pulsation import (
    feed_lines,
    feed_volumes,
    sound,
    stiffnesses,
    wave_feed,
)
from tall_heron.core.study.study import Study

BAND = 0.02  # of the set pressure
STEP_S, LONG_S, UP_S, DOWN_S = 0.001, 6.0, 1.0, 3.5
DIODE_V, SWITCH_V = 0.5, 0.1  # what the free-wheeling diode and the switch take, assumed
LEAST_DUTY = 0.15
GRID_V, GRID_P = 24, 60


@dataclass(frozen=True)
class Controller:
    """The stand-in controller: gains on the error as a share of the set pressure [-, 1/s], how
    often it looks [s], the motor's lag [s].
    """

    gain: float = 1.5
    integral: float = 12.0
    every: float = 0.005
    lag: float = 0.06


@dataclass(frozen=True)
class Loop:
    """What came of it: time [s], rail pressure and demand [Pa, m3/s], duty [-] and the pump's
    volts; the set pressure, the largest over- and undershoot [-], how long it was out of its band
    [s], the mean loss in wires and switch at full demand [W], and whether it holds the pressure at
    the end.
    """

    time: np.ndarray
    pressure: np.ndarray
    demand: np.ndarray
    duty: np.ndarray
    volts: np.ndarray
    set_to: float
    over: float
    under: float
    out_s: float
    lost_w: float
    holds: bool


def feed_compliance(study: Study) -> float:
    """How much more the feed holds for each pascal [m3/Pa], with hoses as soft as the house takes
    them.
    """
    density, feed = study.fuel_demand.density, wave_feed(study)
    total = sum(feed_volumes(study, feed, feed.has_damper).values()) + sum(
        compliance(x.length * x.area, density, x.speed)
        for x in feed_lines(study, feed, stiffnesses()[0])
    )
    return total or compliance(house_figure("rail_volume_l") / 1000, density, sound(study))


def speed_loop(
    study: Study, controller: Controller | None = None, low: float = 0.15
) -> Loop | None:
    """Demand from a share `low` of the peak's to all of it and back. None for a build without a
    speed control, or whose peak does not solve.
    """
    c, solved = controller or Controller(), study.peak
    if (
        not study.build.circuit.of_kind("controller")
        or not solved.solution.converged
        or not study.feed_path.pumps
    ):
        return None
    set_to, source = study.asked(solved), solved.case.point.voltage_at("") or 12.0
    harness = study.what_if.harness
    pumps = [p.id for p in study.feed_path.pumps if p.id in solved.solution.links]
    ohm = (
        sum(harness.feeds[p].own + harness.shared(p) for p in pumps if p in harness.feeds)
        / max(len(pumps), 1)
        if harness is not None
        else 0.0
    )
    volts = np.linspace(source * LEAST_DUTY / 2, source, GRID_V)
    rises = np.linspace(0.0, 2.5 * set_to, GRID_P)
    table = np.array([_flows(study, float(v), rises) for v in volts])
    burnt, full = solved.case.demand, max(study.feed_path.burnt(solved.solution), 1e-9)
    top = max((-(solved.solution.links[p].loss or 0.0) for p in pumps), default=set_to)
    rail = study.rail_pressure(solved.solution) or set_to
    k = (
        max(top - rail, 0.0) / full**2
    )  # what lies between pump and rail goes as the square of the flow
    stored, current = (
        feed_compliance(study),
        max((solved.solution.links[p].current or 0.0 for p in pumps), default=0.0),
    )

    n = int(LONG_S / STEP_S)
    time = np.arange(n) * STEP_S
    demand = np.where((time >= UP_S) & (time < DOWN_S), burnt, low * burnt)
    pressure, duty, motor = (np.zeros(n) for _ in range(3))
    p, u, v, total = set_to, 0.5, 0.5 * source, 0.5
    for i in range(n):
        if i % max(int(c.every / STEP_S), 1) == 0:
            error = 1 - p / set_to
            total = min(max(total + c.integral * error * c.every, LEAST_DUTY), 1.0)
            u = min(max(total + c.gain * error, LEAST_DUTY), 1.0)
        drawn = current * min(v / source, 1.0)
        v += (
            STEP_S
            / c.lag
            * (max(u * (source - SWITCH_V - ohm * drawn) - (1 - u) * DIODE_V, 0.0) - v)
        )
        row = _between(volts, table, v)
        q0 = float(np.interp(p + k * demand[i] ** 2, rises, row))
        q1 = float(np.interp(p + k * demand[i] ** 2 + 1000.0, rises, row))
        slope = max((q0 - q1) / 1000.0, 0.0)
        p = max(p + STEP_S * (q0 - demand[i]) / (stored + STEP_S * slope), 0.0)
        pressure[i], duty[i], motor[i] = p, u, v
    settled = time > UP_S - 0.05
    off = pressure[settled] / set_to - 1
    lost = float(
        duty[int((DOWN_S - 0.1) / STEP_S)] * (ohm * current**2 + SWITCH_V * current) * len(pumps)
    )
    before_end = (time > DOWN_S - 0.3) & (time < DOWN_S)
    holds = bool(np.abs(pressure[before_end] / set_to - 1).max() < BAND)
    return Loop(
        time,
        pressure,
        demand,
        duty,
        motor,
        set_to,
        float(max(off.max(), 0.0)),
        float(max(-off.min(), 0.0)),
        float((np.abs(off) > BAND).sum() * STEP_S),
        lost,
        holds,
    )


def _flows(study: Study, volts: float, rises: np.ndarray) -> np.ndarray:
    case = study.peak.case
    net = study.what_if.compiled.at(case.point.model_copy(update={"voltage_v": volts}), case.demand)
    return sum((one_pump(law, rises) for law in laws_of(study, net)), np.zeros_like(rises))


def _between(volts: np.ndarray, table: np.ndarray, v: float) -> np.ndarray:
    i = int(np.clip(np.searchsorted(volts, v) - 1, 0, len(volts) - 2))
    w = min(max((v - volts[i]) / (volts[i + 1] - volts[i]), 0.0), 1.0)
    return (1 - w) * table[i] + w * table[i + 1]
