"""Tables as text: what parts the columns, a header with its unit, a number with a decimal comma or
point. The one reader under pump curves, drives, rigs, packs and stock lists; a log of a hundred
thousand rows is read by arrays in core/prove/log_file.py.
"""

import csv
import io
from dataclasses import dataclass

MOST_COLUMNS = 200  # more than any logger writes
LONGEST_HEAD = 120  # letters of a header that are read


def separator(head: str) -> str:
    """What parts the columns of a table, by its line of headers."""
    return next((mark for mark in (";", "\t") if mark in head), ",")


@dataclass(frozen=True)
class TextTable:
    """A table taken apart: what parts its columns, its headers with their line, and its rows of
    cells, each with its line as an editor counts them.
    """

    mark: str
    line: int
    heads: tuple[str, ...]
    rows: tuple[tuple[int, tuple[str, ...]], ...]

    def misfit(self, cells: tuple[str, ...]) -> str:
        """What is wrong with the width of a row; empty where it fits under the headers."""
        if len(cells) == len(self.heads):
            return ""
        hint = (
            " (a comma both parts the columns and the decimals: part the columns with semicolons)"
            if self.mark == ","
            else ""
        )
        return f"{len(cells)} cells under {len(self.heads)} headers{hint}"


def read_table(text: str) -> TextTable:
    """Take a table apart: empty lines and those that begin with # are passed over, and so are
    spaces around a cell. Raises ValueError, with the line, for what is no table.

    >>> read_table("# a pump\\nflow (L/h); pressure (bar)\\n\\n255; 3,0").rows
    ((4, ('255', '3,0')),)
    """
    text = text.removeprefix("\ufeff")
    head = next((x for x in text.splitlines() if x.strip() and not x.startswith("#")), "")
    mark = separator(head)
    reader = csv.reader(io.StringIO(text), delimiter=mark, skipinitialspace=True)
    rows = []
    try:
        for cells in reader:
            if any(c.strip() for c in cells) and not cells[0].startswith("#"):
                rows.append((reader.line_num, tuple(c.strip() for c in cells)))
    except csv.Error as error:
        raise ValueError(f"line {reader.line_num} cannot be taken apart: {error}") from None
    line, heads = rows[0] if rows else (1, ())
    if len(heads) > MOST_COLUMNS:
        raise ValueError(f"line {line} has {len(heads)} columns; up to {MOST_COLUMNS} are read")
    return TextTable(mark, line, heads, tuple(rows[1:]))


def words_and_unit(head: str) -> tuple[str, str]:
    """A header's words and its unit: in brackets, or its last word.

    >>> words_and_unit("flow (L/h)"), words_and_unit("ax g")
    (('flow', 'L/h'), ('ax', 'g'))
    """
    head = head[:LONGEST_HEAD].rstrip()
    opens = min((i for i in (head.find("("), head.find("[")) if i >= 0), default=-1)
    unit = head[opens + 1 : -1]
    if opens >= 0 and head[-1] in ")]" and unit and not set(unit) & set(")]"):
        return head[:opens].rstrip(), unit.strip()
    return head.rpartition(" ")[0] or head, head.rpartition(" ")[2]


def plain_number(text: str) -> float | None:
    """A number with a decimal comma or point; None where the text is none.

    >>> plain_number("-0,35"), plain_number("1.5e2"), plain_number("1,000.5"), plain_number("")
    (-0.35, 150.0, None, None)
    """
    try:
        return float(text.strip().strip('"').replace(",", ".").replace("−", "-"))
    except ValueError:
        return None
