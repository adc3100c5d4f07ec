"""The leanest cylinder in one signed figure: pressure sag, difference between rail ends, and spread of the injectors, at fixed pulse width."""

import math
from dataclasses import dataclass

from tall_heron.core.catalogue import house_figure
from tall_heron.core.engine import peak_lambda
from tall_heron.core.study import Study
from tall_heron.core.why import Why, figure


@dataclass(frozen=True)
class WorstCylinder:
    """`lambda_worst` [-] against `lambda_asked` [-]; `leaner` is the signed change [-], above zero lean; the case it happens at."""

    case: str
    lambda_asked: float
    lambda_worst: float
    leaner: float
    why: Why


def worst_cylinder(study: Study) -> WorstCylinder | None:
    """The worst of peak and low voltage; None where the rail's pressure is not known or nothing reaches the injectors."""
    if study.brief.carburetted:
        return None  # a bowl's level, not its pressure, meters the fuel
    asked = peak_lambda(study.brief)
    spread = house_figure("injector_tolerance")
    base = study.brief.base_kpa * 1000
    found = []
    for key in ("peak", "low voltage"):
        solved = study.solved.get(key)
        if solved is None or not solved.solution.converged:
            continue
        manifold = solved.case.point.manifold_kpa * 1000
        ends = {n for e in study.build.circuit.of_kind("rail") for n in e.ports.values()}
        ends |= {e.ports["start"] for e in study.build.circuit.of_kind("injectors")}
        across = [p - manifold for n in ends if (p := solved.solution.nodes.get(n)) is not None]
        rail = solved.solution.nodes.get(study.path.rail_node or "")
        if not across or rail is None or min(across) <= 0:
            continue
        at_injectors, least = rail - manifold, min(across)
        sag, difference = math.sqrt(base / at_injectors), math.sqrt(at_injectors / least)
        leaner = sag * difference / (1 - spread) - 1
        steps = (
            f"sag: √({figure(base / 1000)} ÷ {figure(at_injectors / 1000)} kPa across) = {figure(sag, 4)}",
            f"rail ends: √({figure(at_injectors / 1000)} ÷ {figure(least / 1000)}) = {figure(difference, 4)}; injector spread: 1 ÷ (1 − {spread:g}) = {figure(1 / (1 - spread), 4)}",
            f"λ = {figure(asked)} × {figure(sag, 4)} × {figure(difference, 4)} × {figure(1 / (1 - spread), 4)} = {figure(asked * (1 + leaner))} at {key}",
        )
        source = "Flow goes as the root of the pressure across; spread: common practice. Dead time and its voltage are not in it: no figures on the shelf."
        found.append(WorstCylinder(key, asked, asked * (1 + leaner), leaner, Why(steps, source)))
    return max(found, key=lambda w: w.leaner, default=None)
