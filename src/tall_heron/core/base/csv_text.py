"""Rows as CSV (RFC 4180), the one way for all that are given out."""

import csv
import io
from collections.abc import Iterable
from typing import Any

FORMULAS = ("=", "+", "-", "@", "\t", "\r", "'")  # what a spreadsheet may take for one; CWE-1236


def csv_text(head: Iterable[Any], rows: Iterable[Iterable[Any]]) -> str:
    """A head and its rows, every text in them guarded."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow([guarded(x) for x in head])
    writer.writerows([guarded(x) for x in row] for row in rows)
    return out.getvalue()


def guarded(value: Any) -> Any:
    """A value that no spreadsheet takes for a formula: a text that might be one begins with an
    apostrophe, a number stays, also one that stands as text.

    >>> [guarded(x) for x in ("=1+1", "-8", "-8 JIC", "'tis", "H3", -3.5)]
    ["'=1+1", '-8', "'-8 JIC", "''tis", 'H3', -3.5]
    """
    if not isinstance(value, str) or not value.startswith(FORMULAS) or is_number(value):
        return value
    return f"'{value}"


def is_number(text: str) -> bool:
    """Whether a text is a number and nothing else."""
    try:
        float(text)
    except ValueError:
        return False
    return True
