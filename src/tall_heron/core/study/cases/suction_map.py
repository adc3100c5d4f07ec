"""How far the pumps' inlets stay clear of boiling over the fuel's temperature and the altitude, at
peak.
"""

from dataclasses import dataclass, replace
from itertools import pairwise

from tall_heron.core.base.constants import CELSIUS
from tall_heron.core.physics.suction import standard_atmosphere
from tall_heron.core.study.study import Solved, Study

TEMPERATURES = (20.0, 30.0, 40.0, 50.0, 60.0, 70.0)  # degC
ALTITUDES = (0.0, 1000.0, 2000.0, 3000.0)  # m


@dataclass(frozen=True)
class SuctionMap:
    """Margins [Pa] by temperature [degC], then by altitude [m]; None where no pump has an inlet
    pressure. `check` and `stop` are the limits [Pa].
    """

    margins: tuple[tuple[float | None, ...], ...]
    check: float
    stop: float


def suction_map(study: Study, check: float, stop: float) -> SuctionMap | None:
    """The map of a build; None where its peak has no pump that draws."""
    if study.clear_of_boiling(study.peak) is None:
        return None
    return SuctionMap(
        tuple(
            tuple(margin_at(study, celsius, meters) for meters in ALTITUDES)
            for celsius in TEMPERATURES
        ),
        check,
        stop,
    )


def margin_at(study: Study, celsius: float, meters: float) -> float | None:
    """The least margin at one temperature and altitude: the peak solved with that fuel and that
    air.
    """
    case = study.peak.case
    own = case.fuel.family == "own"
    kelvin = celsius + CELSIUS
    fluid = (
        {
            "density_kg_m3": case.fuel.density(kelvin),
            "viscosity_mpa_s": case.fuel.viscosity(kelvin) * 1000,
        }
        if own
        else {}
    )
    point = case.point.model_copy(
        update={
            "name": f"{celsius:g} C {meters:g} m",
            "temperature_c": celsius,
            "atmosphere_kpa": standard_atmosphere(meters) / 1000,
        }
        | fluid
    )
    solved = Solved(replace(case, point=point), study.what_if.at(point, case.demand))
    there = replace(
        study,
        brief=study.brief.model_copy(update={"fuel_temperature_c": celsius, "altitude_m": meters}),
        answers={},
    )
    clear = there.clear_of_boiling(solved) if solved.solution.converged else None
    return clear[0] if clear is not None else None


def contour(chart: SuctionMap, level: float) -> list[tuple[float, float]]:
    """Where the margin is a level [Pa]: places as (altitude [m], temperature [degC]), by straight
    lines between the temperatures that were solved; left out where it lies beyond them.
    """
    out = []
    for k, meters in enumerate(ALTITUDES):
        column = [row[k] for row in chart.margins]
        for (low, a), (high, b) in pairwise(zip(TEMPERATURES, column, strict=True)):
            if a is not None and b is not None and a >= level > b:
                out.append((meters, low + (high - low) * (a - level) / (a - b)))
                break
    return out
