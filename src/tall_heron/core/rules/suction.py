"""Suction: how far the pump's inlet stays above boiling."""

from collections.abc import Iterator

from tall_heron.core.catalogue import house_figure
from tall_heron.core.finding import Figure, Finding, Level
from tall_heron.core.path import upstream
from tall_heron.core.physics.fuel import CELSIUS
from tall_heron.core.study import Study


def suction_vapour(study: Study) -> Iterator[Finding]:
    """The inlet of a pump must stay clear of boiling: 20 kPa for a Check, the pump's own need or 5 kPa for a Stop."""
    met = [(*found, s) for s in study.solved.values() if s.solution.converged and (found := study.clear_of_boiling(s))]
    if not met:
        return
    clear, pump_id, solved = min(met, key=lambda x: x[0])
    pump = study.build.circuit.element(pump_id)
    assert pump is not None
    check, own = house_figure("suction_check"), pump.about.suction_need_kpa
    stop = own * 1000 if own is not None else house_figure("suction_stop")
    if clear >= check:
        return
    level: Level = "Stop" if clear < stop else "Check"
    losses = {e.id: solved.solution.links[e.id].loss or 0.0 for e in upstream(study.build.circuit, pump) if e.id in solved.solution.links}
    most = max(losses, key=lambda x: losses[x], default=pump_id)
    figures = {
        "clear": Figure(clear, "pressure_difference"),
        "check": Figure(check, "pressure_difference"),
        "stop": Figure(stop, "pressure_difference"),
        "vapour": Figure(study.vapour_pressure, "pressure_absolute"),
        "takes": Figure(losses.get(most, 0.0), "pressure_difference"),
        "temperature": Figure(study.brief.fuel_temperature_c + CELSIUS, "temperature"),
    }
    title = f"{pump_id} inlet is only {{clear}} clear of boiling"
    if clear < 0:
        title = f"{pump_id} inlet boils: {{clear}} past the vapour pressure"
    why = (
        f"{study.burn.fuel.name} of the {study.brief.season} class boils at {{vapour}} absolute at {{temperature}}. "
        + (f"On the suction side {most} takes the most, {{takes}}. " if most != pump_id else "")
        + "Vapour starves the pump, and a dry pump dies."
    )
    do = "Keep the fuel cooler, put the pump lower or in the tank, fit a shorter or larger suction hose and a coarser strainer."
    source = "House rule S-01, Check under {check}, Stop under {stop}; vapour pressure by EPA AP-42 7.1 with the class limit of the season"
    yield Finding("S-01", level, pump_id, title, why, do, source, figures, solved.case.key)


RULES = (suction_vapour,)
