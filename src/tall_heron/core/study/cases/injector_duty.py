"""What injectors, or a carburetor's needles, can give at the pressure that really stands across
them, and how much of it is asked.
"""

from dataclasses import dataclass

from tall_heron.core.base.arithmetic import Why, format_number
from tall_heron.core.base.constants import CC_MIN, LPH
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import Injectors
from tall_heron.core.document.kinds import BURNERS
from tall_heron.core.hydraulics.compile import injectors_full_flow
from tall_heron.core.study.study import Solved, Study


def dead_time(element: Element, voltage: float) -> float | None:
    """How long injectors take to open at a voltage [s], straight between the two of their sheet;
    None where it says nothing.
    """
    at_12, at_14 = element.properties.dead_time_12v_ms, element.properties.dead_time_14v_ms
    if at_12 is None or at_14 is None:
        return None
    return max(at_12 + (voltage - 12.0) / 2.0 * (at_14 - at_12), 0.0) / 1000


def dead_share(study: Study, solved: Solved, element: Element) -> float:
    """The share of two turns of the engine that injectors take to open [-], t n/120: time that
    passes no fuel; 0.0 for needles and where sheet or speed are not known.
    Sequential injection, once in two turns; the voltage is the running one, less what the case
    lacks of it.
    """
    rpm = solved.case.point.engine_rpm
    if element.kind != "injectors" or not rpm:
        return 0.0
    lost = (study.peak.case.point.voltage_at("") or 0.0) - (solved.case.point.voltage_at("") or 0.0)
    return (dead_time(element, study.brief.voltage_v - lost) or 0.0) * rpm / 120


@dataclass(frozen=True)
class Dose:
    """One set: `across` [Pa], full flow of each [m3/s], the share of time or stroke it is open or
    opening [-], and the fuel of one shot [kg], where the speed is known.
    """

    element: Element
    across: float
    full_each: float
    duty: float
    shot: float | None
    why: Why


def doses(study: Study, solved: Solved) -> list[Dose]:
    """The dose of each set of injectors or bowl at a case; empty where the circuit does not solve."""
    out = []
    for element in study.build.circuit.of_kind(*BURNERS):
        part, link = element.figures, solved.solution.links.get(element.id)
        if (
            not isinstance(part, Injectors)
            or part.rated_lph is None
            or link is None
            or not link.loss
            or link.loss <= 0
        ):
            continue
        density = solved.solution.density
        full = injectors_full_flow(part, link.loss, density)
        wanted = study.wanted(solved, part)
        rpm = (
            study.brief.peak_rpm
            if element.kind == "injectors" and solved.case.kind != "idle"
            else None
        )
        shot = wanted / part.count * density * 120 / rpm if rpm else None
        rated = part.rated_lph * LPH
        steps = [
            f"each gives {format_number(rated / CC_MIN)} × √({format_number(link.loss / 1000)} ÷ {format_number(part.rated_kpa)} kPa)"
            f" × √({format_number(part.rated_density_kg_m3)} ÷ {format_number(density)})"
            f" = {format_number(full / part.count / CC_MIN)} cc/min fully open",
            f"flowing {format_number(wanted / part.count / CC_MIN)} ÷ {format_number(full / part.count / CC_MIN)} cc/min = {format_number(100 * wanted / full)} % of the time",
        ]
        opening = dead_share(study, solved, element)
        if opening:
            speed = solved.case.point.engine_rpm or 0.0
            steps.append(
                f"opening {format_number(opening * 120_000 / speed)} ms × {format_number(speed, 4)} ÷ 120,000 = {format_number(100 * opening)} % of the time"
            )
        steps.append(f"duty = {format_number(100 * (wanted / full + opening))} %")
        if shot is not None and rpm:
            steps.append(
                f"shot = {format_number(wanted / part.count * density * 3600)} kg/h ÷ ({format_number(rpm, 4)} ÷ 2 per min) = {format_number(shot * 1e6)} mg, one each two turns"
            )
        out.append(
            Dose(
                element,
                link.loss,
                full / part.count,
                wanted / full + opening,
                shot,
                Why(tuple(steps), "Flow goes as the root of pressure and of density."),
            )
        )
    return out
