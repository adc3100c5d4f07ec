"""Curves of a build: its pumps against what the circuit asks of them, and what changes with power."""

from dataclasses import dataclass, replace

import numpy as np

from tall_heron.core.base.constants import GRAVITY
from tall_heron.core.hydraulics.laws import PumpRise, rise
from tall_heron.core.hydraulics.network import Network
from tall_heron.core.physics.slosh import Array
from tall_heron.core.study.cases.injector_duty import doses
from tall_heron.core.study.cases.moments import solved_moments
from tall_heron.core.study.cases.tank_heat import pump_current
from tall_heron.core.study.demand import allowance
from tall_heron.core.study.study import Solved, Study

POINTS = 61
BEYOND = 1.3  # of a map's last flow, how far its curve is followed
SHARES = tuple(round(0.1 + 0.1 * i, 1) for i in range(16))  # of the power wanted


@dataclass(frozen=True)
class PumpMarks:
    """Where a moment stands on the pumps' map: its key and title, what they give together [m3/s],
    by how much they raise it [Pa], and whether the rail is low.
    """

    key: str
    title: str
    flow: float
    rise: float
    low: bool


@dataclass(frozen=True)
class PumpChart:
    """Over `flow` [m3/s] the rise [Pa] of all pumps that feed the engine together at the peak's
    voltage and at the low one, of the first alone, and what the circuit asks to hold the rail; NaN
    where a curve ends. `fuel_demand` [m3/s] at peak.
    """

    flow: Array
    together: Array
    low: Array
    alone: Array | None
    asks: Array
    fuel_demand: float
    marks: tuple[PumpMarks, ...]


def laws_of(study: Study, net: Network) -> list[PumpRise]:
    """The maps of the pumps that run and feed the engine, in a network: at its voltage, speed and
    fuel.
    """
    feeding = {p.id for p in study.feed_path.pumps}
    return [
        link.law for link in net.links if link.element in feeding and isinstance(link.law, PumpRise)
    ]


def one_pump(law: PumpRise, pressures: Array) -> Array:
    """The flow of one pump [m3/s] at some rises [Pa]."""
    if law.given is not None:
        return np.full_like(pressures, law.given)
    flows = np.linspace(0.0, BEYOND * law.last_flow, 4 * POINTS)
    falling = np.minimum.accumulate(np.array([rise(law, float(q))[0] for q in flows]))
    order = np.argsort(pressures)
    out = np.empty_like(pressures)
    out[order] = np.interp(
        pressures[order], falling[::-1], flows[::-1], left=float(flows[-1]), right=0.0
    )
    return out


def _together(laws: list[PumpRise], flow: Array, pressures: Array) -> Array:
    """The rise of pumps side by side over their flow together."""
    total = sum((one_pump(law, pressures) for law in laws), np.zeros_like(pressures))
    out: Array = np.interp(flow, total, pressures, left=float(pressures.max()), right=np.nan)
    return out


def pump_chart(study: Study) -> PumpChart | None:
    """The chart of a build; None where no pump feeds it or its peak does not solve."""
    peak = study.peak
    if (
        not study.feed_path.pumps
        or not peak.solution.converged
        or not (laws := laws_of(study, peak.solution.net))
    ):
        return None
    most = max(rise(law, 0.0)[0] for law in laws)
    pressures = np.linspace(most, 0.0, 4 * POINTS)
    widest = float(sum((one_pump(law, pressures)[-1] for law in laws), 0.0))
    flow = np.linspace(0.0, widest * 1.02, POINTS)
    weak = study.solved["low voltage"]
    low_laws = laws_of(study, weak.solution.net) if weak.solution.converged else laws
    marks = tuple(
        m
        for x in solved_moments(study)
        if x.solved.solution.converged and (m := _mark(x.study, x.solved)) is not None
    )
    first = _together(laws[:1], flow, pressures) if len(laws) > 1 else None
    return PumpChart(
        flow,
        _together(laws, flow, pressures),
        _together(low_laws, flow, pressures),
        first,
        _asks(study, flow),
        peak.case.demand,
        marks,
    )


def _mark(study: Study, solved: Solved) -> PumpMarks | None:
    feeding = {p.id for p in study.feed_path.pumps}
    links = [
        x
        for x in solved.solution.links.values()
        if x.element in feeding and x.flow > 0 and x.loss is not None
    ]
    if not links:
        return None
    error = study.rail_error(solved)
    low = error is not None and error[0] < -allowance(study.brief, "rail_error_check") * error[1]
    return PumpMarks(
        solved.case.key,
        solved.case.title,
        sum(x.flow for x in links),
        max(-(x.loss or 0.0) for x in links),
        low,
    )


def _asks(study: Study, flow: Array) -> Array:
    """What the pumps must raise fuel by to hold the rail at peak: the rail, the height, and what
    the way takes, by the square of the flow from what it takes at peak.
    """
    peak = study.peak
    mark = _mark(study, peak)
    rail, asked = study.rail_pressure(peak.solution), study.asked(peak)
    if mark is None or rail is None:
        return np.full_like(flow, np.nan)
    burner = study.feed_path.burners[0].ports["start"]
    tanks = [t.ports["outlet"] for t in study.build.circuit.of_kind("tank")]
    climbs = (
        peak.solution.density
        * GRAVITY
        * (study.height(burner) - max((study.height(t) for t in tanks), default=0.0))
    )
    takes = max(mark.rise - rail - climbs, 0.0)
    out: Array = asked + climbs + takes * (flow / mark.flow) ** 2
    return out


@dataclass(frozen=True)
class Swept:
    """One share of the power wanted: the demand [m3/s], the rail and what is asked [Pa gauge], what
    pumps have as headroom where it is read from what turns back [-], the longest duty [-] and its
    limit, and the pumps' current [A]; None where it does not solve.
    """

    share: float
    fuel_demand: float
    rail: float | None
    asked: float
    headroom: float | None
    duty: float | None
    duty_limit: float | None
    amps: float | None


def power_sweep(study: Study) -> list[Swept]:
    """Peak with more and less power: boost, voltage and stages stay as at peak, the demand goes with
    power.
    """
    peak, out = study.peak.case, []
    for share in SHARES:
        fuel_demand = share * peak.demand
        case = replace(
            peak,
            key=f"power {share:g}",
            point=peak.point.model_copy(update={"name": f"power {share:g}"}),
            demand=fuel_demand,
        )
        solved = Solved(case, study.what_if.at(case.point, fuel_demand))
        asked = study.asked(solved)
        if not solved.solution.converged or fuel_demand <= 0:
            out.append(Swept(share, fuel_demand, None, asked, None, None, None, None))
            continue
        duty, limit = max(
            ((d.duty, d.element.figures.duty_limit) for d in doses(study, solved)),  # type: ignore[union-attr]
            default=(None, None),
        )
        headroom = study.capacity(solved) / fuel_demand - 1 if study.tells_surplus else None
        out.append(
            Swept(
                share,
                fuel_demand,
                study.rail_pressure(solved.solution),
                asked,
                headroom,
                duty,
                limit,
                pump_current(solved) or None,
            )
        )
    return out
