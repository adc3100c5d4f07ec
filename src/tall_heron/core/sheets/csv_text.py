"""Rows as CSV (RFC 4180)."""

import csv
import io
from collections.abc import Iterable
from typing import Any


def csv_text(head: Iterable[Any], rows: Iterable[Iterable[Any]]) -> str:
    """A head and its rows."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(head)
    writer.writerows(rows)
    return out.getvalue()


def plain(text: str) -> str:
    """A text that no spreadsheet takes for a formula."""
    return "'" + text if text[:1] in ("=", "+", "-", "@", "\t", "\r") else text
