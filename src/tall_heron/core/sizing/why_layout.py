"""The arithmetic of the figures that the chooser sets side by side."""

from dataclasses import replace

from tall_heron.core.base.arithmetic import Why, format_number
from tall_heron.core.base.constants import LPH
from tall_heron.core.sizing.chooser import Candidate
from tall_heron.core.study.explain import why_headroom, why_rail, why_suction


def why_layout(candidate: Candidate) -> list[Why]:
    """Each compared figure of a candidate: rail at peak and idle, spare, first limit, suction, a
    stopped pump, current, heat of the tank.
    """
    study = candidate.study
    peak, idle = study.peak, study.solved["idle"]
    rails = [(s.case.title.lower(), why_rail(study, s)) for s in (peak, idle)]
    out = [
        *(replace(why, steps=(f"rail at {name}", *why.steps)) for name, why in rails),
        why_headroom(study, peak),
    ]
    if candidate.first is not None:
        out.append(candidate.first.why)
    if (tightest := study.tightest_suction()) is not None:
        out.append(why_suction(study, tightest[2]))
    if candidate.left is not None:
        share, pumps = candidate.left
        fuel_demand = peak.case.demand / LPH
        out.append(
            Why(
                (
                    f"without {' or '.join(pumps)} {format_number(share * fuel_demand)} L/h of {format_number(fuel_demand)} L/h still reach the engine: {format_number(100 * share)} %",
                ),
                "Solved at peak, the rail not yet low by a Check.",
            )
        )
    amps = {link.element: link.current for link in peak.solution.links.values() if link.current}
    if amps:
        out.append(
            Why(
                (
                    f"{' + '.join(f'{i} {format_number(a)} A' for i, a in amps.items())} = {format_number(candidate.current)} A",
                ),
                "Pump maps at peak.",
            )
        )
    return [*out, candidate.heat.why] if candidate.heat.power else out
