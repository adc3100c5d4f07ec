"""The leanest cylinder in one signed figure: pressure sag, difference between rail ends, voltage,
and spread of the injectors, at fixed pulse width.
"""

import math
from dataclasses import dataclass

from tall_heron.core.base.arithmetic import Why, format_number
from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.figures import Injectors
from tall_heron.core.hydraulics.compile import injectors_full_flow
from tall_heron.core.study.cases.injector_duty import dead_time
from tall_heron.core.study.demand import peak_lambda
from tall_heron.core.study.study import Solved, Study


@dataclass(frozen=True)
class WorstCylinder:
    """`lambda_worst` [-] against `lambda_asked` [-]; `leaner` is the signed change [-], above zero
    lean; the case it happens at.
    """

    case: str
    lambda_asked: float
    lambda_worst: float
    leaner: float
    why: Why


def worst_cylinder(study: Study) -> WorstCylinder | None:
    """The worst of peak and low voltage; None where the rail's pressure is not known or nothing
    reaches the injectors.
    """
    if study.brief.carbureted:
        return None  # a bowl's level, not its pressure, meters the fuel
    asked = peak_lambda(study.brief)
    spread, measured = injector_spread(study)
    base = study.brief.base
    rows = []
    for key in ("peak", "low voltage"):
        solved = study.solved.get(key)
        if solved is None or not solved.solution.converged:
            continue
        manifold = solved.case.point.manifold
        ends = {n for e in study.build.circuit.of_kind("rail") for n in e.ports.values()}
        ends |= {e.ports["start"] for e in study.build.circuit.of_kind("injectors")}
        across = [p - manifold for n in ends if (p := solved.solution.nodes.get(n)) is not None]
        rail = study.rail_pressure(solved.solution)
        if not across or rail is None or min(across) <= 0:
            continue
        at_injectors, least = rail - manifold, min(across)
        sag, difference = math.sqrt(base / at_injectors), math.sqrt(at_injectors / least)
        opening, opening_step = _dead_time(study, solved)
        leaner = sag * difference * opening / (1 - spread) - 1
        by = "injector spread as measured" if measured else "injector spread"
        steps = (
            f"sag: √({format_number(base / 1000)} ÷ {format_number(at_injectors / 1000)} kPa across) = {format_number(sag, 4)}",
            f"rail ends: √({format_number(at_injectors / 1000)} ÷ {format_number(least / 1000)}) = {format_number(difference, 4)}; {by}: 1 ÷ (1 − {spread:g}) = {format_number(1 / (1 - spread), 4)}",
            opening_step,
            f"λ = {format_number(asked)} × {format_number(sag, 4)} × {format_number(difference, 4)} × {format_number(opening, 4)}"
            f" × {format_number(1 / (1 - spread), 4)} = {format_number(asked * (1 + leaner))} at {key}",
        )
        source = "Flow goes as the root of the pressure across; spread: common practice. Dead time by voltage: the injector's sheet (invented)."
        rows.append(WorstCylinder(key, asked, asked * (1 + leaner), leaner, Why(steps, source)))
    return max(rows, key=lambda w: w.leaner, default=None)


def injector_spread(study: Study) -> tuple[float, bool]:
    """How much the injector that gives least gives under their mean [-], and whether somebody has
    measured it; else the house's figure.
    """
    rows = [
        e.properties
        for e in study.build.circuit.of_kind("injectors")
        if e.properties.flow_tolerance is not None and e.properties.provenance == "measured"
    ]
    return (
        (max(p.flow_tolerance or 0.0 for p in rows), True)
        if rows
        else (house_figure("injector_tolerance"), False)
    )


def _dead_time(study: Study, solved: Solved) -> tuple[float, str]:
    """How much leaner the injectors' later opening at a case's voltage makes it [-], where the
    control unit does not correct for it; and the arithmetic.
    """
    element = next(iter(study.build.circuit.of_kind("injectors")), None)
    if study.brief.dead_time == "corrected":
        return 1.0, "dead time: corrected for voltage by the control unit"
    if element is None or dead_time(element, 12.0) is None:
        return 1.0, "dead time: not on the injector's sheet"
    if study.brief.peak_rpm is None or not isinstance(element.figures, Injectors):
        return 1.0, "dead time: give the speed at peak power to see it"

    # The voltage at the injectors is the running voltage, less what the pumps' case lacks of its
    # own.
    lost = (study.peak.case.point.voltage_at("") or 0.0) - (solved.case.point.voltage_at("") or 0.0)
    running, here = study.brief.voltage_v, study.brief.voltage_v - lost
    full = injectors_full_flow(element.figures, study.brief.base, solved.solution.density)
    flowing = study.wanted(solved, element.figures) / full * 120_000 / study.brief.peak_rpm
    shift = 1000 * ((dead_time(element, here) or 0.0) - (dead_time(element, running) or 0.0))
    if flowing <= shift:
        return (
            10.0,
            f"dead time: {format_number(shift)} ms later at {here:g} V than the {format_number(flowing)} ms it flows",
        )
    step = f"dead time: {format_number(flowing)} ms of flow ÷ ({format_number(flowing)} − {format_number(shift)} ms later at {here:g} V) = {format_number(flowing / (flowing - shift), 4)}"
    return flowing / (flowing - shift), step
