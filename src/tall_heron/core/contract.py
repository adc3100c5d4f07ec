"""The `solve` contract: a solution as plain data with its units in the names (docs/solve.md)."""

from typing import Any

from tall_heron.core.base.constants import LPH
from tall_heron.core.base.errors import BuildError, BuildErrors
from tall_heron.core.document.build import Build
from tall_heron.core.document.point import Point
from tall_heron.core.hydraulics.results import LinkResult, Solution
from tall_heron.core.joining.losses import plumbed
from tall_heron.core.study.demand import fuel_demand
from tall_heron.core.study.study import make_study
from tall_heron.core.study.what_if import make_what_if

FORMAT = "tall-heron-solution/1"


def solve_build(build: Build) -> list[tuple[Point, Solution]]:
    """Each point of a build with its solution: the file's own points, or else the cases of its
    brief, as the pages show them. Raises BuildErrors where there is no point.
    """
    if not build.points and build.brief is None:
        raise BuildErrors(
            [
                BuildError(
                    "/points", "give at least one operating point, or a brief to make them from"
                )
            ]
        )
    if not build.points:
        return [
            (solved.case.point, solved.solution) for solved in make_study(build).solved.values()
        ]
    full = fuel_demand(build.brief).volume_flow if build.brief is not None else None
    what_if = make_what_if(plumbed(build).circuit)
    return [(point, what_if.at(point, full)) for point in build.points]


def solution_data(name: str, solution: Solution) -> dict[str, Any]:
    """One solved point: kPa gauge, L/h, m/s, kg/m3, mPa s, A; numbers unrounded."""
    return {
        "name": name,
        "converged": solution.converged,
        "part": solution.part,
        "reason": solution.reason or None,
        "asked_lph": solution.asked / LPH,
        "delivered_lph": solution.delivered / LPH,
        "density_kg_m3": solution.density,
        "viscosity_mpa_s": solution.viscosity * 1000,
        "nodes": {
            node: None if p is None else p / 1000 for node, p in sorted(solution.nodes.items())
        },
        "links": {key: _link(link) for key, link in sorted(solution.links.items())},
    }


def _link(link: LinkResult) -> dict[str, Any]:
    return {
        "element": link.element,
        "start": link.start,
        "end": link.end or None,
        "flow_lph": link.flow / LPH,
        "loss_kpa": None if link.loss is None else link.loss / 1000,
        "state": link.state,
        "velocity_m_s": link.velocity,
        "reynolds": link.reynolds,
        "transition": link.transition,
        "current_a": link.current,
    }
