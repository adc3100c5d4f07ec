"""The stand-in suppliers: who has what, how much of it, and how long it takes. Made up, like everything else on the shelf."""

from dataclasses import dataclass
from functools import cache

from tall_heron.core.base.catalogue import by_name, table

USUAL_STOCK = 24
OWN = ("own-", "own ")  # how the keys of the builder's own parts begin


@dataclass(frozen=True)
class Quote:
    """What a supplier says of an item: how many he has and in how many days they are there; None where nobody has asked, and without a name where nobody has said whom to ask."""

    supplier: str
    stock: int | None
    days: int | None


ASK = Quote("", None, None)


@cache
def quote(item: str, group: str) -> Quote:
    """What the made-up supplier of a group says of an item of the shelf; of a part of the builder's own none says anything."""
    if item.startswith(OWN):
        return ASK
    row = next((r for r in table("suppliers") if group in str(r["groups"]).split()), table("suppliers")[0])
    special = by_name("stock", "item").get(item)
    if special is not None:
        return Quote(str(row["supplier"]), int(special["stock"]), int(special["days"]))
    return Quote(str(row["supplier"]), USUAL_STOCK, int(row["days"]))
