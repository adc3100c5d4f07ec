"""What the same parts would make on every fuel of the shelf, what the engine would burn, and what an hour of it would cost."""

from dataclasses import dataclass

from tall_heron.core.base.constants import LPH
from tall_heron.core.document.build import OWN, Build
from tall_heron.core.shelf.suits import made_for
from tall_heron.core.sizing.limits import Limit, make_limits
from tall_heron.core.study.study import Study, make_study

FUELS = ("E0", "E10", "E30", "E50", "E70", "E85", "E100", "methanol", "100LL")


@dataclass(frozen=True)
class OnFuel:
    """One fuel: its `burn` at the power asked [m3/s], the first limit of the parts (None where the circuit does not solve), whether every part is made
    for it, and the cost of an hour at full power where its price is known."""

    fuel: str
    burn: float
    first: Limit | None
    unsuited: tuple[str, ...]
    price_per_litre: float | None
    cost_per_hour: float | None


def make_fuel_rows(build: Build) -> list[OnFuel]:
    """A row for each fuel, the build's own among them."""
    assert build.brief is not None
    more = {build.brief.fuel} | ({OWN} if build.brief.own_fuel is not None else set())
    names = list(FUELS) + [n for n in more if n not in FUELS and n == OWN]
    names = sorted([*names, build.brief.fuel], key=_order) if build.brief.fuel not in names else names
    rows = []
    for name in names:
        study = make_study(build.model_copy(update={"brief": build.brief.model_copy(update={"fuel": name})}), ("peak",))
        limits = make_limits(study)
        price = build.prices.get(study.burn.fuel.name)
        litres = study.burn.volume_flow / LPH
        cost = price * litres if price is not None else None
        name = study.burn.fuel.name
        rows.append(OnFuel(name, study.burn.volume_flow, limits[0] if limits else None, _unsuited(study), price, cost))
    return rows


def _order(name: str) -> tuple[bool, float]:
    return not name.startswith("E"), float(name[1:]) if name.startswith("E") else 0.0


def _unsuited(study: Study) -> tuple[str, ...]:
    fuel = study.burn.fuel
    return tuple(e.id for e in study.build.circuit.elements if e.kind != "reference" and not made_for(e.properties, fuel))
