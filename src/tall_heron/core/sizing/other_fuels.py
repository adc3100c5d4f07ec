"""What the same parts would make on every fuel of the shelf, what the engine would burn, and what
an hour of it would cost.
"""

from dataclasses import dataclass, replace

from tall_heron.core.base.constants import LPH
from tall_heron.core.document.build import Build
from tall_heron.core.document.own_fuel import OWN
from tall_heron.core.shelf.suits import made_for
from tall_heron.core.sizing.whole_limit import LadderRow, whole_limit
from tall_heron.core.study.study import Study, make_study
from tall_heron.core.study.what_if import WhatIf

FUELS = ("E0", "E10", "E30", "E50", "E70", "E85", "E100", "methanol", "100LL")


@dataclass(frozen=True)
class OnFuel:
    """One fuel: its `fuel_demand` at the power wanted [m3/s], the whole circuit's ceiling (None
    where the circuit does not solve), whether every part is made for it, and the cost of an hour at
    full power where its price is known.
    """

    fuel: str
    fuel_demand: float
    first: LadderRow | None
    unsuited: tuple[str, ...]
    price_per_litre: float | None
    cost_per_hour: float | None


def fuel_names(build: Build) -> list[str]:
    """The fuels that are set side by side, the build's own among them, as a brief names them."""
    assert build.brief is not None
    more = {build.brief.fuel} | ({OWN} if build.brief.own_fuel is not None else set())
    names = list(FUELS) + [n for n in more if n not in FUELS and n == OWN]
    return (
        sorted([*names, build.brief.fuel], key=_order) if build.brief.fuel not in names else names
    )


def make_fuel_rows(build: Build, what_if: WhatIf | None = None) -> list[OnFuel]:
    """A row for each fuel, by the engine of the build's circuit where there is one already."""
    assert build.brief is not None
    rows = []
    for name in fuel_names(build):
        there = build.model_copy(update={"brief": build.brief.model_copy(update={"fuel": name})})
        study = make_study(there, ("peak", "low voltage", "idle"), what_if=what_if)
        rows.append(
            OnFuel(
                study.fuel_demand.fuel.name,
                study.fuel_demand.volume_flow,
                whole_limit(study),
                _unsuited(study),
                None,
                None,
            )
        )
    return priced(rows, build)


def priced(rows: list[OnFuel], build: Build) -> list[OnFuel]:
    """The rows at the prices of a build that differs in those alone."""
    prices = [(row, build.prices.get(row.fuel)) for row in rows]
    return [
        replace(
            r, price_per_litre=p, cost_per_hour=p * r.fuel_demand / LPH if p is not None else None
        )
        for r, p in prices
    ]


def _order(name: str) -> tuple[bool, float]:
    return not name.startswith("E"), float(name[1:]) if name.startswith("E") else 0.0


def _unsuited(study: Study) -> tuple[str, ...]:
    fuel = study.fuel_demand.fuel
    return tuple(
        e.id
        for e in study.build.circuit.elements
        if e.kind != "reference" and not made_for(e.properties, fuel)
    )
