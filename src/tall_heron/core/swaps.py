"""What each part of the shelf would do in an element's place, solved, best first."""

from dataclasses import dataclass

from tall_heron.core.circuit import Element
from tall_heron.core.edit import fit
from tall_heron.core.network import make_system
from tall_heron.core.shelf import ShelfPart, swaps_for
from tall_heron.core.solve import solve_network
from tall_heron.core.study import Solved, Study


@dataclass(frozen=True)
class Swap:
    """A part of the shelf with what it would take [Pa] and leave to spare [-] at one case; `suits` says whether it is made for the fuel."""

    part: ShelfPart
    takes: float | None
    spare: float | None
    rail: float | None
    suits: bool
    fitted: bool


def make_swaps(study: Study, case_key: str, element: Element) -> list[Swap]:
    """Every swap for an element, those made for the fuel first, then by the pressure they take (pumps: by what they leave to spare)."""
    case = study.solved[case_key].case
    percent = study.burn.fuel.ethanol * 100
    rows = []
    for part in swaps_for(element):
        tried = fit(study.build, element.id, part.name)
        solution = solve_network(make_system(tried.circuit).at(case.point, case.demand))
        link = solution.link(element.id)
        solved = Solved(case, solution)
        suits = part.about.ethanol_max_percent is None or percent <= part.about.ethanol_max_percent
        rail = solution.nodes.get(study.path.rail_node) if study.path.rail_node else None
        rows.append(Swap(part, link.loss if link else None, study.spare(solved), rail, suits, part.name == element.shelf))

    def order(swap: Swap) -> tuple[bool, bool, float]:
        other = swap.part.kind != element.kind and element.kind in ("strainer", "filter")
        if element.kind == "pump":
            return not swap.suits, other, -(swap.spare if swap.spare is not None else -9.0)
        return not swap.suits, other, swap.takes if swap.takes is not None else 0.0

    return sorted(rows, key=order)
