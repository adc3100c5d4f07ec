"""Tables as text: what parts the columns, a header with its unit, a number with a decimal comma or
point.
"""

import re

_HEADER = re.compile(r"^(?P<words>[^(\[]*?)\s*[(\[](?P<unit>[^)\]]+)[)\]]\s*$")


def separator(head: str) -> str:
    """What parts the columns of a table, by its line of headers."""
    return next((mark for mark in (";", "\t") if mark in head), ",")


def words_and_unit(head: str) -> tuple[str, str]:
    """A header's words and its unit: in brackets, or its last word.

    >>> words_and_unit("flow (L/h)"), words_and_unit("ax g")
    (('flow', 'L/h'), ('ax', 'g'))
    """
    match = _HEADER.match(head)
    return (
        (match["words"], match["unit"].strip())
        if match
        else (head.rpartition(" ")[0] or head, head.rpartition(" ")[2])
    )


def plain_number(text: str) -> float | None:
    """A number with a decimal comma or point; None where the text is none.

    >>> plain_number("-0,35"), plain_number("1.5e2"), plain_number("1,000.5"), plain_number("")
    (-0.35, 150.0, None, None)
    """
    try:
        return float(text.strip().strip('"').replace(",", ".").replace("−", "-"))
    except ValueError:
        return None
