"""Now and in spring: what a compromise costs that is bought twice."""

from dataclasses import dataclass

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.build import Build
from tall_heron.core.editing.fields import fit
from tall_heron.core.routing.laid import lay_out
from tall_heron.core.sheets.buy_list import BuyList, Item, make_buy_list


@dataclass(frozen=True)
class Stages:
    """What is paid `now`, what more in `spring`, and what all would cost `once`, fitted in spring's
    form from the start; `thrown` is what is bought now and no longer needed then,
    `added` what is bought then. `wrong` names planned swaps that do not fit any more.
    """

    now: float
    spring: float
    once: float
    thrown: tuple[tuple[str, float, float | None], ...]
    added: tuple[tuple[str, float, float | None], ...]
    later: BuyList | None
    wrong: tuple[str, ...] = ()

    @property
    def twice(self) -> float:
        """What doing it twice costs."""
        return self.now + self.spring - self.once


def later_build(build: Build) -> tuple[Build, tuple[str, ...]]:
    """The build as it is planned for spring, and planned swaps that do not fit."""
    wrong = []
    for part, name in build.shop.later.items():
        try:
            build = fit(build, part, name)
        except BuildErrors:
            wrong.append(part)
    return build, tuple(wrong)


def compare_stages(build: Build, now: BuyList) -> Stages:
    """Compare buying what is drawn now and the rest in spring with buying it all at once."""
    if not build.shop.later:
        return Stages(now.price, 0.0, now.price, (), (), None)
    then, wrong = later_build(build)
    later = make_buy_list(then, lay_out(then))
    had, need = {i.key: i for i in now.items}, {i.key: i for i in later.items}
    added = [x for i in later.items if (x := _more(i, had.get(i.key))) is not None]
    thrown = [
        x for i in now.items if i.group != "spares" and (x := _more(i, need.get(i.key))) is not None
    ]
    spring = sum(price or 0.0 for _, _, price in added)
    return Stages(now.price, spring, later.price, tuple(thrown), tuple(added), later, wrong)


def _more(item: Item, other: Item | None) -> tuple[str, float, float | None] | None:
    """How much more of an item one list has than the other: its title, the quantity, the price of
    that.
    """
    more = item.quantity - (other.quantity if other is not None else 0.0)
    if more <= 1e-9:
        return None
    return item.title, more, None if item.price is None else item.price * more / item.quantity
