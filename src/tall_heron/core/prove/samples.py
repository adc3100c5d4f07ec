"""What the model says of each sample of a log: what it needs of them, and the circuit solved on a
grid of demand, manifold and volts, only where samples are.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from tall_heron.core.base.constants import GRAVITY
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import Regulator
from tall_heron.core.physics.slosh import Array
from tall_heron.core.prove.car import (
    PLAY,
    dead_share_at,
    full_flow,
    peak_rpm,
    turning,
    wanted_demand,
)
from tall_heron.core.prove.log_file import Log
from tall_heron.core.prove.predict import Predictor, Setup

CLEAR = 500.0  # Pa by which pumps reach beyond what is held before they count as strong enough
MUCH = 0.6  # of the demand that turns back, from where the pumps' end is far
OUT_OF_REACH = 1e8  # Pa
WIDEST = 25  # samples of a running median
MOST_CORNERS = 900  # places of the grid that are solved; beyond it the grid is coarser
Whole = np.ndarray[Any, Any]  # of whole numbers, or of yes and no


@dataclass
class Moments:
    """What the model needs of each sample."""

    fuel_demand: Array
    manifold: Array
    volts: Array
    ahead: Array
    rpm: Array
    trend: Array
    stage: Array
    asks: Array | None
    opening: Array  # the share of time that injectors take to open [-]
    measured: bool  # whether the demand follows from duty


def moments_of(predictor: Predictor, log: Log) -> Moments:
    study, f = predictor.study, log.figures
    n, brief = len(log.time), predictor.study.brief
    rpm = f.get("rpm", np.full(n, math.nan))
    manifold = _filled(f.get("manifold", np.full(n, brief.boost)), brief.boost)
    volts = _filled(f.get("volts", np.full(n, brief.voltage_v)), brief.voltage_v)
    ahead = np.abs(_filled(f.get("ahead", np.zeros(n)), 0.0)) / GRAVITY
    asks = None
    if "rpm" in f and "manifold" in f:
        asks = wanted_demand(study, rpm, manifold)
    full, duty, opening = full_flow(study), f.get("duty"), np.zeros(n)
    if full > 0:
        opening = dead_share_at(study, np.nan_to_num(rpm), volts)
    if duty is not None and full > 0:
        fuel_demand, measured = np.maximum(_filled(duty, 0.0) - opening, 0.0) * full, True
    elif asks is not None:
        fuel_demand, measured = _filled(asks, 0.0), False
    else:
        fuel_demand, measured = np.full(n, study.peak.case.demand), False
    calm = smooth(fuel_demand, max(int(log.rate * 0.8) | 1, 5))
    stage = _stages(predictor, manifold, rpm, fuel_demand)
    return Moments(
        fuel_demand,
        manifold,
        volts,
        ahead,
        np.nan_to_num(rpm, nan=peak_rpm(study)),
        turning(calm, 2 * PLAY * study.fuel_demand.volume_flow),
        stage,
        asks,
        opening,
        measured,
    )


def _filled(values: Array, usual: float) -> Array:
    """Figures with what is missing taken from the last that was there."""
    good = np.isfinite(values)
    if good.all():
        return values
    if not good.any():
        return np.full(len(values), usual)
    at = np.maximum.accumulate(np.where(good, np.arange(len(values)), -1))
    return np.where(at >= 0, values[np.maximum(at, 0)], values[np.argmax(good)])


def smooth(values: Array, n: int) -> Array:
    """The running median of an odd number of samples."""
    from scipy.ndimage import median_filter  # only who replays a run waits for it

    return (
        np.asarray(median_filter(values, size=min(n | 1, WIDEST), mode="nearest"))
        if n >= 3
        else values
    )


def _stages(predictor: Predictor, manifold: Array, rpm: Array, fuel_demand: Array) -> Array:
    """Which staged pumps run at each sample, as bits in the order of the circuit, with their
    hysteresis.
    """
    study, full = predictor.study, full_flow(predictor.study)
    out = np.zeros(len(fuel_demand), int)
    for bit, e in enumerate(x for x in study.build.circuit.elements if x.stage is not None):
        stage = e.stage
        assert stage is not None
        if stage.by == "switch":
            on = fuel_demand > 0.1 * study.fuel_demand.volume_flow
        else:
            now = {
                "boost": manifold / 1000,
                "speed": np.nan_to_num(rpm),
                "duty": fuel_demand / full if full else np.zeros(len(fuel_demand)),
            }[stage.by]
            off_at = stage.off_at if stage.off_at is not None else stage.at
            state = np.where(now >= stage.at, 1.0, np.where(now < off_at, 0.0, np.nan))
            on = _filled(state, 0.0) > 0.5
        out |= on.astype(int) << bit
    return out


def _staged(predictor: Predictor) -> list[Element]:
    return [e for e in predictor.study.build.circuit.elements if e.stage is not None]


def running(predictor: Predictor, bits: int) -> tuple[str, ...]:
    """The pumps that run with some stages on; none named where all do."""
    staged = _staged(predictor)
    if not staged:
        return ()
    rests = {e.id for i, e in enumerate(staged) if not bits >> i & 1}
    return tuple(e.id for e in predictor.study.build.circuit.of_kind("pump") if e.id not in rests)


@dataclass
class Table:
    """The model on a grid of demand, manifold and volts, solved only where samples are; straight
    between.
    """

    predictor: Predictor
    kelvin: float | None
    fuel: str
    solved: int = 0

    def at(
        self, m: Moments, stop: Callable[[], bool], done: Callable[[float], None]
    ) -> tuple[Array, Array] | None:
        """Rail [Pa gauge] and headroom [-] at each sample; None where it was stopped. Without the
        acceleration: a sound build does not feel it.
        """
        rail, headroom = np.full(len(m.fuel_demand), np.nan), np.full(len(m.fuel_demand), np.nan)
        for bits in np.unique(m.stage).tolist():
            here = np.flatnonzero(m.stage == bits)
            of_stage = self._of_stage(m, here, running(self.predictor, bits), stop, done)
            if of_stage is None:
                return None
            rail[here], headroom[here] = of_stage
        return rail, headroom

    def _of_stage(
        self,
        m: Moments,
        here: Whole,
        alone: tuple[str, ...],
        stop: Callable[[], bool],
        done: Callable[[float], None],
    ) -> tuple[Array, Array] | None:
        most = max(self.predictor.study.fuel_demand.volume_flow, 1e-9)
        fuel_demand, manifold, volts = (
            np.clip(m.fuel_demand[here], 0, 3 * most),
            np.clip(m.manifold[here], -101e3, 1e6),
            np.clip(m.volts[here], 0.5, 1000),
        )
        air = self.predictor.study.peak.case.point.atmosphere
        finest = (most / 36, 12e3, 0.35 * max(self.predictor.study.brief.voltage_v / 13.5, 0.3))
        for times in (1.0, 1.5, 2.2, 3.3, 5.0, 8.0, 14.0, 30.0):
            steps = [s * times for s in finest]
            place = [fuel_demand / steps[0], (manifold + air) / steps[1], volts / steps[2]]
            low = [np.floor(x).astype(np.int64) for x in place]
            key = (low[0] << 40) | (low[1] << 20) | low[2]
            cells, back = np.unique(key, return_inverse=True)
            corners = np.unique(
                np.concatenate(
                    [
                        cells + (a << 40) + (b << 20) + c
                        for a in (0, 1)
                        for b in (0, 1)
                        for c in (0, 1)
                    ]
                )
            )
            if len(corners) <= MOST_CORNERS:
                break
        table = np.full((len(corners), 3), np.nan)
        for i, k in enumerate(corners.tolist()):
            if i % 25 == 0:
                if stop():
                    return None
                done(i / len(corners))
            table[i] = self._solve(
                (k >> 40) * steps[0],
                (k >> 20 & 0xFFFFF) * steps[1] - air,
                (k & 0xFFFFF) * steps[2],
                alone,
            )
        self.solved += len(corners)
        required, open_end, headroom = np.zeros(len(here)), np.zeros(len(here)), np.zeros(len(here))
        w = [x - y for x, y in zip(place, low, strict=True)]
        for a in (0, 1):
            for b in (0, 1):
                for c in (0, 1):
                    at = np.searchsorted(corners, cells + (a << 40) + (b << 20) + c)[back]
                    weight = (
                        (w[0] if a else 1 - w[0])
                        * (w[1] if b else 1 - w[1])
                        * (w[2] if c else 1 - w[2])
                    )
                    required += weight * table[at, 0]
                    open_end += weight * table[at, 1]
                    headroom += weight * table[at, 2]
        surplus = np.divide(
            headroom, fuel_demand, out=np.full(len(here), np.nan), where=fuel_demand > 0.02 * most
        )
        # A regulator holds the rail, or the pumps are at their end: each is smooth, and what the
        # rail shows is the lower of them.
        return np.minimum(required + self._felt(manifold), open_end), surplus

    def _felt(self, manifold: Array) -> Array:
        """What the regulators feel of the manifold [Pa]: between places of the grid the rail over
        it is nearly straight, the rail itself is not.
        """
        felt = {
            e.figures.reference
            for e in self.predictor.study.build.circuit.elements
            if isinstance(e.figures, Regulator) and e.kind != "relief"
        }
        return (
            manifold
            if "manifold" in felt
            else np.maximum(manifold, 0.0)
            if "hat" in felt
            else np.zeros_like(manifold)
        )

    def _solve(
        self, fuel_demand: float, manifold: float, volts: float, alone: tuple[str, ...]
    ) -> tuple[float, float, float]:
        """At a place of the grid what the regulators hold the rail at, over what they feel [Pa],
        what the pumps reach with the way back shut [Pa gauge], and what turns back [m3/s]. Where
        the pumps are at their end the first is what would be held at a burn that they feed; where
        they have much to spare the second is out of reach and not solved.
        """
        study = self.predictor.study
        setup = Setup(
            "rail",
            alone=alone,
            manifold=max(manifold, -101e3),
            fuel_demand=fuel_demand,
            volts=max(volts, 0.5),
            at_pump=False,
            kelvin=self.kelvin,
            fuel=self.fuel,
        )
        felt = float(self._felt(np.array([setup.manifold]))[0])
        rail, surplus = self._pressures_at(setup)
        if math.isnan(rail):
            return math.nan, math.nan, math.nan
        if not study.tells_surplus:
            reach, _ = self._pressures_at(replace(setup, closed=True))
            return (
                (rail - felt if reach > rail + CLEAR else self._less(setup, rail) - felt),
                reach,
                math.nan,
            )
        reach = (
            OUT_OF_REACH
            if surplus > MUCH * max(fuel_demand, 1e-9)
            else self._pressures_at(replace(setup, closed=True))[0]
        )
        return (
            (rail if surplus > 0 else self._less(setup, rail)) - felt,
            reach if not math.isnan(reach) else OUT_OF_REACH,
            surplus,
        )

    def _pressures_at(self, setup: Setup) -> tuple[float, float]:
        solution = self.predictor.solution(setup)
        rail = self.predictor.study.rail_pressure(solution) if solution.converged else None
        return (
            (math.nan, math.nan)
            if rail is None
            else (rail, self.predictor.study.feed_path.surplus(solution))
        )

    def _less(self, setup: Setup, rail: float) -> float:
        """What is held at a demand that the pumps feed [Pa]; the rail as it is where they feed none."""
        for times in (0.7, 0.45, 0.25, 0.1):
            less = replace(setup, fuel_demand=setup.fuel_demand * times)
            required, surplus = self._pressures_at(less)
            if surplus > 0 or (
                not self.predictor.study.tells_surplus
                and self._pressures_at(replace(less, closed=True))[0] > required + CLEAR
            ):
                return required
        return rail
