"""Who has what, how much of it, and how long it takes: the builder's own suppliers by the lists
they sent, and stand-ins, made up, for what is made up on the shelf.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import cache, cached_property, lru_cache
from typing import Annotated

from pydantic import Field

from tall_heron.core.base.catalogue import by_name, table
from tall_heron.core.base.number_text import money_amount, plain_number
from tall_heron.core.base.table_text import read_table
from tall_heron.core.document.record import Record

USUAL_STOCK = 24
OWN = ("own-", "own ")  # how the keys of the builder's own parts begin
MOST_ROWS, MOST_LIST, MOST_STOCK, MOST_DAYS = 5000, 500_000, 1_000_000, 730
COLUMNS = {  # of a stock list, as suppliers head them; common practice
    "item": ("item", "part", "part number", "sku", "article", "title", "name", "description"),
    "stock": ("stock", "in stock", "qty", "quantity", "on hand", "available"),
    "days": ("days", "lead time", "lead time (days)", "lead days", "delivery"),
    "price": ("price", "each", "price each", "unit price"),
}


@dataclass(frozen=True)
class Quote:
    """What a supplier says of an item: how many he has and in how many days they are there; None
    where nobody has asked, and without a name where nobody has said whom to ask. `price` is in
    his `currency`, None where he says none; `account` is what the builder is known by there.
    """

    supplier: str
    stock: int | None
    days: int | None
    price: float | None = None
    currency: str = ""
    account: str = ""


ASK = Quote("", None, None)


class Supplier(Record):
    """Whom the builder buys from: in how many days things are usually there, in which currency he
    asks, and what the builder is known by.
    """

    name: Annotated[str, Field(min_length=1, max_length=60)]
    days: Annotated[int, Field(ge=0, le=MOST_DAYS)] | None = None
    currency: Annotated[str, Field(pattern=r"^([A-Z]{3})?$")] = ""
    account: Annotated[str, Field(max_length=80)] = ""


@dataclass(frozen=True)
class Stocked:
    """A line of a stock list: an item by the name or title it has on the shelf, how many there are,
    in how many days, at what price.
    """

    item: str
    stock: int
    days: int | None = None
    price: float | None = None


@dataclass(frozen=True)
class Market:
    """All suppliers there are: the builder's own with their lists, and from whom he buys each own
    part, by its name.
    """

    suppliers: tuple[Supplier, ...] = ()
    lists: Mapping[str, tuple[Stocked, ...]] = field(default_factory=dict)
    buys: Mapping[str, str] = field(default_factory=dict)

    @cached_property
    def _stocked(self) -> dict[str, list[tuple[str, Stocked]]]:
        out: dict[str, list[tuple[str, Stocked]]] = {}
        for supplier, rows in self.lists.items():
            for row in rows:
                out.setdefault(row.item.casefold(), []).append((supplier, row))
        return out

    @cached_property
    def _named(self) -> dict[str, Supplier]:
        return {s.name: s for s in self.suppliers}

    @cached_property
    def key(self) -> str:
        """What it is known by: two that say the same have the same."""
        return repr((self.suppliers, sorted(self.lists.items()), sorted(self.buys.items())))

    def quote(self, item: str, title: str, group: str, part_of: str = "") -> Quote:
        """What is said of an item, found by its name or its title: by the supplier it is bought
        from, by any whose list has it, the soonest, else by the stand-ins. Of a part of the
        builder's own that nobody lists nothing is made up; what is `part_of` another is bought
        where that is.
        """
        usual = self.buys.get(item) or self.buys.get(part_of, "")
        stocked = [x for name in (item, title) for x in self._stocked.get(name.casefold(), ())]
        mine = [x for x in stocked if x[0] == usual] or stocked
        if mine:
            name, row = min(
                mine,
                key=lambda x: (
                    not x[1].stock,
                    self._days(x[0], x[1]) if self._days(x[0], x[1]) is not None else MOST_DAYS,
                ),
            )
            return self._quote(name, row.stock, self._days(name, row), row.price)
        if usual:
            return self._quote(
                usual, None, self._named[usual].days if usual in self._named else None, None
            )
        return stand_in(item, group)

    def _days(self, name: str, row: Stocked) -> int | None:
        return (
            row.days
            if row.days is not None
            else self._named[name].days
            if name in self._named
            else None
        )

    def _quote(self, name: str, stock: int | None, days: int | None, price: float | None) -> Quote:
        of = self._named.get(name)
        return Quote(
            name,
            stock,
            days,
            price,
            of.currency if of is not None else "",
            of.account if of is not None else "",
        )


NOBODY = Market()


@cache
def stand_in(item: str, group: str) -> Quote:
    """What the made-up supplier of a group says of an item of the shelf; of a part of the builder's
    own none says anything.
    """
    if item.startswith(OWN):
        return ASK
    row = next(
        (r for r in table("suppliers") if group in str(r["groups"]).split()), table("suppliers")[0]
    )
    listed = {r.item: r for r in _own_list()}
    special = listed.get(item)
    days = special.days if special is not None and special.days is not None else int(row["days"])
    return Quote(str(row["supplier"]), special.stock if special is not None else USUAL_STOCK, days)


@cache
def _own_list() -> tuple[Stocked, ...]:
    """The stand-ins' own list, through the door that every list comes in by."""
    rows = by_name("stock", "item").values()
    return read_stock(
        "item,stock,days\n" + "\n".join(f"{r['item']},{r['stock']:g},{r['days']:g}" for r in rows)
    )


@lru_cache(maxsize=64)
def read_stock(text: str) -> tuple[Stocked, ...]:
    """A stock list as CSV: item and stock, days and price where it has them, by any of the heads of
    COLUMNS, parted by comma, semicolon or tab. Raises ValueError with the line that is wrong.
    """
    if len(text) > MOST_LIST:
        raise ValueError(
            f"A list of {len(text):,} letters is too long; leave out what you never buy, {MOST_LIST:,} at most."
        )
    try:
        table = read_table(text)
    except ValueError as error:
        raise ValueError(f"This is no CSV: {error}.") from None
    heads = [c.lower() for c in table.heads]
    at = {
        name: i
        for name, words in COLUMNS.items()
        for i, c in reversed(list(enumerate(heads)))
        if c in words
    }
    for wanted in ("item", "stock"):
        if wanted not in at:
            raise ValueError(
                f"No column says the {wanted}. Give one of {', '.join(COLUMNS[wanted])} as its head; days and price may follow."
            )
    if len(table.rows) > MOST_ROWS:
        raise ValueError(
            f"{len(table.rows):,} lines are more than the {MOST_ROWS:,} that a list may have."
        )
    return tuple(
        _stocked(i, {name: line[k] if k < len(line) else "" for name, k in at.items()})
        for i, line in table.rows
    )


def _stocked(number: int, cells: dict[str, str]) -> Stocked:
    if not cells["item"].isprintable() or not 1 <= len(cells["item"]) <= 120:
        raise ValueError(f"Line {number}: an item has a name of 1 to 120 letters, on one line.")
    stock = _number(number, "stock", cells["stock"] or "0", MOST_STOCK)
    days = _number(number, "days", cells["days"], MOST_DAYS) if cells.get("days") else None
    price = _number(number, "price", cells["price"], 1e6) if cells.get("price") else None
    return Stocked(cells["item"], int(stock), int(days) if days is not None else None, price)


def _number(line: int, what: str, text: str, most: float) -> float:
    try:
        value = money_amount(text) if what == "price" else plain_number(text)
    except ValueError:
        value = -1.0
    if not 0 <= value <= most:
        raise ValueError(
            f"Line {line}: {what} is a number from 0 to {most:,.0f}, not “{text[:20]}”."
        )
    return value
