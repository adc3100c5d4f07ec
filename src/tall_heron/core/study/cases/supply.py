"""Alternator and battery of a wired build, from its solved cases."""

from dataclasses import dataclass

from tall_heron.core.base.roots import expanding_root
from tall_heron.core.electrics.budget import FLAT_V, FULL_V, alternator_gives, battery_minutes
from tall_heron.core.study.cases.cases import cells_of
from tall_heron.core.study.cases.moments import solved_moments
from tall_heron.core.study.cases.tank_heat import pump_current
from tall_heron.core.study.demand import allowance
from tall_heron.core.study.derived import derived
from tall_heron.core.study.study import Solved, Study

SHOWN = ("idle", "cruise", "peak")
ON_BATTERY = "cruise"  # what must still be fed on a battery alone


@dataclass(frozen=True)
class Balance:
    """At a case: what pumps and other loads take [A], and what the alternator gives hot [A]."""

    name: str
    case: str
    pumps: float
    loads: float
    gives: float

    @property
    def over(self) -> float:
        """What is left, below 0 where the battery gives the rest [A]."""
        return self.gives - self.pumps - self.loads


@dataclass(frozen=True)
class Alone:
    """On the battery alone, at the demand of cruise: what pumps and kept loads take [A], the
    voltage down to which the pumps still hold that demand [V] and whether it is the battery that
    ends first, and how long it lasts [min].
    """

    pumps: float
    loads: float
    end_v: float
    flat: bool
    minutes: float


def electric(study: Study) -> bool:
    """Whether a build is wired and at least one of its pumps draws current."""
    return study.what_if.harness is not None and bool(study.what_if.harness.feeds)


def balances(study: Study) -> list[Balance]:
    """Idle, cruise and peak."""
    return _balances(study)


@derived("brief", "hydraulics", "wiring", "cases", "titles", "space")
def _balances(study: Study) -> list[Balance]:
    harness = study.what_if.harness
    if harness is None or not harness.feeds:
        return []
    loads, out = sum(x.ampere for x in harness.wiring.loads), []
    for x in solved_moments(study, hidden=True):
        if x.moment.case.key in SHOWN and x.solved.solution.converged:
            idle = x.moment.case.kind == "idle"
            out.append(
                Balance(
                    x.moment.case.title,
                    x.moment.case.key,
                    pump_current(x.solved),
                    loads,
                    alternator_gives(harness.wiring, idle),
                )
            )
    return sorted(out, key=lambda b: SHOWN.index(b.case))


def battery_alone(study: Study) -> Alone | None:
    """How long the battery alone carries pumps and kept loads at the demand of cruise; None where it
    is not wired or cruise does not solve.
    """
    return _alone(study)


@derived("brief", "hydraulics", "wiring", "cases", "titles", "space")
def _alone(study: Study) -> Alone | None:
    harness = study.what_if.harness
    x = next(
        (x for x in solved_moments(study, hidden=True) if x.moment.case.key == ON_BATTERY), None
    )
    if harness is None or not harness.feeds or x is None or not x.solved.solution.converged:
        return None
    cells = cells_of(study.brief)
    case, what_if = x.solved.case, x.study.what_if

    def at(volts: float) -> Solved:
        point = case.point.model_copy(update={"voltage_v": volts, "name": "battery alone"})
        return Solved(case, what_if.at(point, case.demand))

    def lacks(volts: float) -> float:
        """What the rail lacks at a voltage [Pa], over what is allowed; the flow cut short counts as
        well.
        """
        solved = at(volts)
        if not solved.solution.converged:
            return 1e6
        rail = x.study.rail_pressure(solved.solution) or 0.0
        return (1 - allowance(study.brief, "rail_error_check")) * x.study.asked(solved) - rail

    top, bottom = FULL_V * cells, FLAT_V * cells
    flat = lacks(bottom) <= 0
    # From full downward: how far the voltage may fall before the rail does.
    end = (
        bottom
        if flat
        else top
        if lacks(top) > 0
        else top
        - expanding_root(
            lambda fall: lacks(top - fall), (top - bottom) / 2, 1e-6, top - bottom, 1e-3
        )
    )
    taken = pump_current(at(max((top + end) / 2, end)))
    return Alone(
        taken,
        sum(y.ampere for y in harness.wiring.loads if y.kept),
        end,
        flat,
        battery_minutes(harness.wiring, taken, end, cells),
    )
