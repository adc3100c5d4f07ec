"""The dyno card: what rail, pumps and injectors should show over engine speed at full load, and
where to lift.
"""

from dataclasses import dataclass, replace

from tall_heron.core.study.cases.cases import USUAL_RPM, resting_at
from tall_heron.core.study.cases.injector_duty import doses
from tall_heron.core.study.cases.tank_heat import pump_current
from tall_heron.core.study.demand import allowance
from tall_heron.core.study.study import Solved, Study

SHARES = (0.4, 0.5, 0.6, 0.7, 0.8, 0.9, 1.0, 1.1)  # of the speed at peak power


@dataclass(frozen=True)
class Pull:
    """One speed [rpm] of a pull: `fuel_demand` [m3/s], the rail `asked`, as it should `show`, and
    the pressure under which to `lift` [Pa gauge], the duty [-], the limit of that, the pumps'
    current [A], and what turns back [m3/s]. What does not solve shows nothing.
    """

    rpm: float
    fuel_demand: float
    asked: float
    shows: float | None
    lift: float
    duty: float | None
    duty_limit: float | None
    amps: float | None
    returns: float | None

    @property
    def low(self) -> bool:
        """Whether the build itself would be told to lift here."""
        return (
            self.shows is None
            or self.shows < self.lift
            or (
                self.duty is not None
                and self.duty_limit is not None
                and self.duty > self.duty_limit
            )
        )


def dyno_card(study: Study, shares: tuple[float, ...] = SHARES) -> list[Pull]:
    """At some shares of the speed at peak power a pull at full load: the demand goes with speed up to
    peak power and stays beyond; pumps on the engine and stages by speed and duty go along.
    """
    peak, brief = study.peak.case, study.brief
    top = brief.peak_rpm or USUAL_RPM["flight" if brief.use == "flight" else "road"]
    out = []
    for share in shares:
        rpm, fuel_demand = share * top, peak.demand * min(share, 1.0)
        point = peak.point.model_copy(
            update={
                "name": f"pull {rpm:.0f}",
                "engine_rpm": rpm,
                "off": resting_at(
                    study.build.circuit, brief, peak.fuel, fuel_demand, peak.point.manifold_kpa, rpm
                ),
            }
        )
        case = replace(peak, key=point.name, title=point.name, point=point, demand=fuel_demand)
        solved = Solved(case, study.what_if.at(point, fuel_demand))
        asked = study.asked(solved)
        lift = asked * (1 - allowance(brief, "rail_error_stop"))
        if not solved.solution.converged:
            out.append(Pull(rpm, fuel_demand, asked, None, lift, None, None, None, None))
            continue
        open_for = max(
            ((d.duty, d.element.figures.duty_limit) for d in doses(study, solved)),  # type: ignore[union-attr]
            default=(None, None),
        )
        out.append(
            Pull(
                rpm,
                fuel_demand,
                asked,
                study.rail_pressure(solved.solution),
                lift,
                open_for[0],
                open_for[1],
                pump_current(solved) or None,
                study.feed_path.surplus(solved.solution),
            )
        )
    return out
