"""What each part of the shelf would do in an element's place, solved, best first."""

from collections.abc import Sequence
from dataclasses import dataclass

from tall_heron.core.document.circuit import Element, Injectors
from tall_heron.core.editing.fields import fit
from tall_heron.core.shelf.shelf import ShelfPart, swaps_for
from tall_heron.core.shelf.suits import made_for
from tall_heron.core.shelf.totals import mass_of, price_of
from tall_heron.core.sizing.limits import make_limits
from tall_heron.core.study.study import Study

HOPELESS = 0.3  # of the rail pressure missing: such a pump feeds no power at all, and its ceiling is not looked for


@dataclass(frozen=True)
class Swap:
    """A part of the shelf in the place of the one fitted, at one case: what it `takes` [Pa], the pump flow to `spare` [-], the rail's change [Pa], the power
    it alone feeds [W] (None: no limit found, or `unlimited`), what it costs and weighs more, and whether it suits the fuel."""

    part: ShelfPart
    takes: float | None
    spare: float | None
    rail: float | None
    feeds: float | None
    unlimited: bool
    costs: float | None
    weighs: float | None
    suits: bool
    fitted: bool


def make_swaps(study: Study, case_key: str, element: Element, own: Sequence[ShelfPart] = ()) -> list[Swap]:
    """Every swap for an element, those made for the fuel first, then by what they are fitted for: pumps by what they leave to spare, regulators by how
    near the rail comes to what is asked, others by the pressure they take."""
    rows = []
    before = study.rail_error(study.solved[case_key])
    for part in swaps_for(element, own):
        build = fit(study.build, element.id, part.name, own)
        new = build.circuit.element(element.id) or element
        tried = study.fitted(build, [new], tuple({case_key, "peak"}))
        solved = tried.solved[case_key]
        link, after = solved.solution.link(element.id), tried.rail_error(solved)
        hopeless = after is not None and after[0] < -HOPELESS * after[1]
        limit = next(iter(make_limits(tried, element.id)), None) if not hopeless else None
        rows.append(
            Swap(
                part,
                link.loss if link else None,
                tried.spare(solved) if solved.solution.converged else None,
                after[0] - before[0] if after and before else None,
                limit.ceiling if limit else 0.0 if hopeless else None,
                limit is not None and limit.ceiling is None,
                _more(price_of(new), price_of(element)),
                _more(mass_of(new), mass_of(element)),
                made_for(part.properties, study.burn.fuel),
                part.name == element.shelf,
            )
        )

    def order(swap: Swap) -> tuple[bool, bool, float]:
        other = swap.part.kind != element.kind and element.kind in ("strainer", "filter")
        if element.kind == "filter":  # a coarser one takes less and lets more through: after those as fine
            other = other or (swap.part.properties.micron or 0.0) > 1.01 * (element.properties.micron or 1e9)
        if element.kind == "pump":
            return not swap.suits, other, -(swap.spare if swap.spare is not None else -9.0)
        if element.kind == "regulator" and before is not None:
            return not swap.suits, other, abs(before[0] + swap.rail) if swap.rail is not None else 1e12
        if isinstance(swap.part.figures, Injectors) and swap.part.figures.own_lph is not None:
            return not swap.suits, other, swap.part.figures.own_lph
        if element.kind in ("injectors", "carburettor"):
            return not swap.suits, other, -(swap.feeds or 0.0)
        return not swap.suits, other, swap.takes if swap.takes is not None else 0.0

    return sorted(rows, key=order)


def _more(new: float | None, old: float | None) -> float | None:
    return new - old if new is not None and old is not None else None
