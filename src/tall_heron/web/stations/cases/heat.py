"""What the page of heat, vapor and reserves shows."""

from collections.abc import Sequence
from typing import Any

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.units import parse
from tall_heron.core.design import Design
from tall_heron.core.routing.limits import MOST_KEPT_MM
from tall_heron.core.rules.route import beside_heat
from tall_heron.core.study.cases.phases import suction_need
from tall_heron.core.study.cases.reserves import Heating, heating, lasts, tilted_tanks
from tall_heron.core.study.cases.suction_map import ALTITUDES, TEMPERATURES, suction_map
from tall_heron.core.study.failures.key_off import lags, left_of, prime, restarts
from tall_heron.core.study.sections import sections
from tall_heron.core.study.study import Study
from tall_heron.web.answers import Stored
from tall_heron.web.drawing.charts.contours import draw_contours
from tall_heron.web.drawing.charts.curve import CurveChart, CurveLine, make_curve_chart
from tall_heron.web.frame import frame
from tall_heron.web.show.text import in_unit, liters, unit_of

MOST_WATTS = 20_000.0
BLENDS = (("E0", 0.0), ("E10", 0.1), ("E85", 0.85))
LEFT = (0.25, 0.5, 0.75)  # of a tank that is filled up


def heat_context(found: Stored, made: Design, pick: str) -> dict[str, Any]:
    """Everything the page shows, with the heat that the engine gives to what passes it as it is
    typed.
    """
    study = made.study
    watts, wrong = _watts(pick)
    runs = heating(study, watts)
    need = max((suction_need(p) for p in study.build.circuit.of_kind("pump")), default=0.0)
    found_map = suction_map(study, need + house_figure("suction_reserve"), need)
    return frame(found, made, "cases") | {
        "view": "heat",
        "lasts": lasts(study),
        "leans": tilted_tanks(study),
        "heats": [(h, _chart(h, i)) for i, h in enumerate(runs)],
        "pick": pick,
        "beside": beside_heat(study),
        "kept": MOST_KEPT_MM / 1000,
        "wrong_pick": wrong,
        "map": found_map,
        "contours": draw_contours(study, found_map) if found_map is not None else None,
        "temperatures": TEMPERATURES,
        "altitudes": ALTITUDES,
        "prime": prime(study),
        "restarts": restarts(study) if not study.brief.carbureted else [],
        "lags": lags(study)
        if study.fuel_demand.fuel.ethanol > 0 or study.brief.ethanol_range
        else [],
        "fillings": _fillings(study),
        "sections": sections(study),
        "soak": house_figure("heat_soak_k"),
    }


def _watts(text: str) -> tuple[float, str]:
    """The heat that is typed [W], and what is wrong with it."""
    if not text.strip():
        return 0.0, ""
    try:
        watts = parse(text, "power", "w")
    except ValueError as error:
        return 0.0, str(error)
    return (
        (watts, "")
        if 0 <= watts <= MOST_WATTS
        else (0.0, "Between 0 and 20 kW; a few hundred watts are usual.")
    )


def _risen(kelvin: Sequence[float | None]) -> list[float | None]:
    """Rises of temperature [K] in the shown unit."""
    return [None if k is None else in_unit(k, "temperature_difference") for k in kelvin]


def _chart(h: Heating, i: int) -> CurveChart:
    lines = [
        CurveLine("as it returns now", _risen(h.returns)),
        CurveLine("short return at the tank", _risen(h.short), "own"),
        CurveLine("speed control", _risen(h.controlled), "amber"),
    ]
    title = f"{h.moment}: how much the tank warms, from {liters(h.liters)}"
    return make_curve_chart(
        f"heat-{i}",
        title,
        "min",
        f"{unit_of('temperature_difference')} over the start",
        [t / 60 for t in h.times],
        lines,
    )


def _fillings(study: Study) -> list[tuple[str, list[tuple[str, float]]]]:
    """Ethanol after filling up on what is left of the brief's fuel."""
    now = study.fuel_demand.fuel.ethanol
    if (
        study.fuel_demand.fuel.methanol
        or study.fuel_demand.fuel.name == "100LL"
        or study.fuel_demand.fuel.family == "own"
    ):
        return []
    return [
        (
            f"{100 * share:.0f} % left",
            [(name, left_of(share, now, 1 - share, new)) for name, new in BLENDS],
        )
        for share in LEFT
    ]
