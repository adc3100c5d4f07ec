"""The terms of the trade: how a quantity or a sort of part is called everywhere, and one plain
sentence for each.
"""

from dataclasses import dataclass
from functools import cache

from tall_heron.core.base.catalogue import table


@dataclass(frozen=True)
class Term:
    """A term, its sentence, its symbol and SI unit where it is a quantity, and where it comes from."""

    term: str
    sentence: str
    symbol: str
    unit: str
    source: str


@cache
def terms() -> dict[str, Term]:
    """Every term by its key."""
    return {
        str(r["key"]): Term(
            *(str(r[x] or "") for x in ("term", "sentence", "symbol", "unit", "source"))
        )
        for r in table("terms")
    }


def term(key: str) -> str:
    """How a quantity or a sort of part is called. Raises KeyError for a key that is none.

    >>> term("headroom")
    'pump headroom'
    """
    return terms()[key].term
