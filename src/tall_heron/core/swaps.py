"""What each part of the shelf would do in an element's place, solved, best first."""

from dataclasses import dataclass

from tall_heron.core.circuit import Element
from tall_heron.core.edit import fit
from tall_heron.core.limits import make_limits
from tall_heron.core.shelf import ShelfPart, swaps_for
from tall_heron.core.study import Study, make_study
from tall_heron.core.suits import made_for


@dataclass(frozen=True)
class Swap:
    """A part of the shelf with what it would take [Pa] and leave to spare [-] at one case, the power it alone would feed [W] (None: no limit found);
    `suits` says whether it is made for the fuel."""

    part: ShelfPart
    takes: float | None
    spare: float | None
    feeds: float | None
    unlimited: bool
    suits: bool
    fitted: bool


def make_swaps(study: Study, case_key: str, element: Element) -> list[Swap]:
    """Every swap for an element, those made for the fuel first, then by the pressure they take (pumps: by what they leave to spare)."""
    rows = []
    for part in swaps_for(element):
        tried = make_study(fit(study.build, element.id, part.name), (case_key, "peak"))
        solved = tried.solved[case_key]
        link = solved.solution.link(element.id)
        suits = made_for(part.about, study.burn.fuel)
        limit = next(iter(make_limits(tried, element.id)), None)
        feeds, unlimited = (limit.ceiling, limit.ceiling is None) if limit else (None, False)
        rows.append(Swap(part, link.loss if link else None, tried.spare(solved), feeds, unlimited, suits, part.name == element.shelf))

    def order(swap: Swap) -> tuple[bool, bool, float]:
        other = swap.part.kind != element.kind and element.kind in ("strainer", "filter")
        if element.kind == "pump":
            return not swap.suits, other, -(swap.spare if swap.spare is not None else -9.0)
        return not swap.suits, other, swap.takes if swap.takes is not None else 0.0

    return sorted(rows, key=order)
