"""Switched on and off: how long priming takes, whether the rail keeps its pressure, what heat does
to it, and how long another blend takes to arrive.
"""

import math
from dataclasses import dataclass

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.constants import CELSIUS
from tall_heron.core.document.kinds import PIPES
from tall_heron.core.physics.fuel import boils_at
from tall_heron.core.study.failures.failure_walk import failing
from tall_heron.core.study.failures.failures import failures
from tall_heron.core.study.sections import stored_l
from tall_heron.core.study.study import Study

SOAKS = (60.0, 80.0, 100.0)  # degC of fuel in a rail over a hot engine, common practice


@dataclass(frozen=True)
class Prime:
    """From empty lines to a full rail: what they hold from the pumps on [m3], the rail's assumed
    volume with it, what the pumps give into the open end [m3/s] at peak's voltage, and how long
    that takes [s]; None where nothing was solved. `keeps` says what keeps the pressure afterwards,
    empty where nothing does.
    """

    volume: float
    flow: float | None
    seconds: float | None
    keeps: str


def prime(study: Study) -> Prime | None:
    """Priming of an injected build with pumps; None where there is none."""
    columns = study.path.columns
    first = max(
        (i for i, c in enumerate(columns) if any(e.kind == "pump" for e in c.elements)), default=-1
    )
    filled = columns[first + 1 : max(study.path.turn, 1)]
    lines = [e for c in filled for e in c.elements]
    if first < 0 or study.brief.carbureted:
        return None
    rails = len(study.build.circuit.of_kind("rail")) * house_figure("rail_volume_l") / 1000
    volume = sum(stored_l(e) for e in lines) + rails
    last = next((e for e in reversed(lines) if e.kind in PIPES), None)
    flow = None
    if last is not None and study.peak.solution.converged:
        open_end = next(
            (
                f
                for f in reversed(failures(study))
                if f.part == last.id and f.opens and f.circuit is not None
            ),
            None,
        )
        if open_end is not None and (solved := failing(study, open_end)).solution.converged:
            beside = next(c.elements for c in filled if last in c.elements)
            flow = sum(abs(solved.solution.flow(e.id)) for e in beside)
    checks = [e.id for c in columns[first : first + 2] for e in c.elements if e.kind == "check"]
    holds = study.turns_back or any(
        e.kind in ("regulator", "controller") for e in study.build.circuit.elements
    )
    keeps = f"{' and '.join(checks)} and the regulator" if checks and holds else ""
    return Prime(volume, flow, volume / flow if flow else None, keeps)


@dataclass(frozen=True)
class Restart:
    """A hot restart at a temperature [degC] of the fuel in the rail: the pressure at which it boils
    [Pa gauge], whether what the rail keeps holds it, and whether it would at no pressure.
    """

    celsius: float
    boils: float
    holds: bool


def restarts(study: Study) -> list[Restart]:
    """What keeps fuel in the rail from boiling while it stands at its base pressure."""
    air = study.peak.case.point.atmosphere
    out = []
    for celsius in SOAKS:
        gauge = boils_at(study.fuel_demand.fuel, study.brief.season, celsius + CELSIUS) - air
        out.append(Restart(celsius, gauge, study.brief.base > gauge))
    return out


@dataclass(frozen=True)
class Lag:
    """How long fuel takes from a `start` to the injectors at a case [s]: the lines between hold
    `volume` [m3].
    """

    start: str
    moment: str
    volume: float
    seconds: float


def lags(study: Study) -> list[Lag]:
    """From a sensor of ethanol, or from the tank where there is none, at idle and at peak: each
    line's volume over its own flow, the rail's with the demand and what passes it.
    """
    columns = study.path.columns[: max(study.path.turn, 1)]
    at = max(
        (
            i
            for i, c in enumerate(columns)
            if any(e.kind == "sensor" and e.properties.medium == "ethanol" for e in c.elements)
        ),
        default=-1,
    )
    start = columns[at].elements[0].id if at >= 0 else columns[0].elements[0].id if columns else ""
    out = []
    for key in ("idle", "peak"):
        solved = study.solved[key]
        if not solved.solution.converged or solved.case.demand <= 0:
            continue
        seconds = volume = 0.0
        for column in columns[at + 1 :]:
            share = [
                (stored_l(e), abs(solved.solution.flow(e.id)))
                for e in column.elements
                if e.kind in PIPES
            ]
            volume += sum(v for v, _ in share)
            seconds += _through(share)
        rails = [e for c in columns for e in c.elements if e.kind == "rail"]
        past = (
            max((abs(solved.solution.flow(e.id)) for e in rails), default=0.0) or solved.case.demand
        )
        if rails:
            volume += house_figure("rail_volume_l") / 1000
            seconds += house_figure("rail_volume_l") / 1000 / past
        if math.isfinite(seconds):
            out.append(Lag(start, solved.case.title, volume, seconds))
    return out


def _through(share: list[tuple[float, float]]) -> float:
    """How long fuel takes through lines side by side [s]: the slowest that flows."""
    times = [v / q for v, q in share if q > 0]
    return max(times, default=0.0) if times or not share else math.inf


def left_of(old_l: float, old_share: float, new_l: float, new_share: float) -> float:
    """The share of ethanol after filling `new_l` on top of `old_l` [L].

    >>> round(left_of(20, 0.85, 40, 0.10), 3)
    0.35
    """
    return (old_l * old_share + new_l * new_share) / (old_l + new_l)
