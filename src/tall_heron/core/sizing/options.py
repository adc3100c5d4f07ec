"""What may stand in one place of a build: options from the shelf, the small ones first, and which
of them never enter.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from tall_heron.core.base.catalogue import table
from tall_heron.core.base.constants import KPA, LPH
from tall_heron.core.document.circuit import Element
from tall_heron.core.editing.fields import in_place
from tall_heron.core.hydraulics.compile import FluidState, link_templates
from tall_heron.core.hydraulics.laws import PumpRise, Resistance, loss, rise
from tall_heron.core.physics.fuel import Fuel
from tall_heron.core.shelf.shelf import ShelfPart
from tall_heron.core.shelf.suits import made_for
from tall_heron.core.shelf.totals import price_of
from tall_heron.core.study.study import Solved

NOISES = ("quiet", "fair", "loud")


@dataclass(frozen=True)
class Option:
    """One choice: its name on the shelf, or the dash of a line, how it is called, what it is sorted
    by, the elements it puts in place, and what they cost [$].
    """

    name: str
    title: str
    size: float
    elements: Mapping[str, Element]
    price: float


@dataclass(frozen=True)
class SizingGroup:
    """Parts that are sized together: their tags, what they are (`feed`, `return`, `pump`, ...),
    options with the small ones first, which of them is usual and by what convention, and the
    largest and smallest that mending and polishing may come to.
    """

    ids: tuple[str, ...]
    kind: str
    options: tuple[Option, ...]
    usual: int
    by: str
    least: int = 0
    most: int = 1000
    does: bool = True  # whether the usual one does what its convention asks

    @property
    def top(self) -> int:
        """The largest that may be chosen."""
        return min(self.most, len(self.options) - 1)


def usual_dash(fuel_demand_lph: float) -> int:
    """Which of SIZES is usual for a line by the demand through it [L/h]. Source: common practice,
    data/hoses/line_sizes.csv.

    >>> from tall_heron.core.editing.connectors import SIZES
    >>> [SIZES[usual_dash(x)] for x in (150, 320, 900, 2500)]
    ['-6', '-8', '-12', '-16']
    """
    return next(
        i for i, row in enumerate(table("line_sizes")) if fuel_demand_lph <= row["burn_to_lph"]
    )


def pump_law(element: Element, solved: Solved) -> PumpRise | None:
    """The law of a pump at a case; None for what is no electric or driven pump."""
    point = solved.case.point
    in_place_of = link_templates(element, dict.fromkeys(element.ports.values(), 0.0))[0].make(
        FluidState(solved.solution.density, solved.solution.viscosity, point, {})
    )
    return in_place_of if isinstance(in_place_of, PumpRise) else None


def flow_at(element: Element, solved: Solved, kpa: float) -> float:
    """What a pump gives against a pressure at a case [L/h]: its own map by itself, 0.0 beyond its
    shut-off or its relief.
    """
    law = pump_law(element, solved)
    if law is None or kpa * KPA >= law.relief or law.shut_off <= kpa * KPA:
        return 0.0
    low, high = 0.0, law.last_flow * 1.2
    for _ in range(24):
        middle = (low + high) / 2
        low, high = (middle, high) if rise(law, middle)[0] > kpa * KPA else (low, middle)
    return low / LPH


def loss_at(element: Element, solved: Solved, lph: float) -> float:
    """What a hose or line takes of a flow [L/h] at a case, level [Pa]."""
    in_place_of = link_templates(element, dict.fromkeys(element.ports.values(), 0.0))[0].make(
        FluidState(solved.solution.density, solved.solution.viscosity, solved.case.point, {})
    )
    return loss(in_place_of, lph * LPH) if isinstance(in_place_of, Resistance) else 0.0


def parts_for(
    elements: Sequence[Element],
    parts: Sequence[ShelfPart],
    fuels: Sequence[Fuel],
    base_kpa: float,
    size: Callable[[ShelfPart], float],
) -> list[Option]:
    """Options of parts in the place of elements that are sized together: those made for every fuel
    and with a price, by size, price and name.
    """
    out = []
    for part in parts:
        if part.properties.price is None or not all(made_for(part.properties, f) for f in fuels):
            continue
        in_place_of = {e.id: in_place(e, part, base_kpa) for e in elements}
        out.append(
            Option(
                part.name,
                part.title,
                size(part),
                in_place_of,
                sum(price_of(e) or 0.0 for e in in_place_of.values()),
            )
        )
    return sorted(out, key=lambda o: (o.size, o.price, o.name))


def undominated(
    options: Sequence[Option], figures: Callable[[Option], tuple[float, ...]]
) -> list[Option]:
    """Options that no other beats: none costs as little or less and is as good or better in every
    figure (the more the better).
    """
    rows = [(o, figures(o)) for o in options]

    def beaten(o: Option, own: tuple[float, ...]) -> bool:
        for other, its in rows:
            if (
                other is o
                or other.price > o.price
                or any(b < a - 1e-12 for a, b in zip(own, its, strict=True))
            ):
                continue
            if other.price < o.price or its != own or other.name < o.name:
                return True
        return False

    return [o for o, own in rows if not beaten(o, own)]
