"""Points of a line measured with a tape, as text from a spreadsheet or a logger: three figures a
line, in any unit, under a row of names or without one.
"""

import re

from tall_heron.core.base.units import parse
from tall_heron.core.routing.vectors import Vector

MOST_LINES = 200
NAMES = {
    "x": 0,
    "ahead": 0,
    "station": 0,
    "fs": 0,
    "sta": 0,
    "y": 1,
    "left": 1,
    "bl": 1,
    "butt line": 1,
    "z": 2,
    "up": 2,
    "wl": 2,
    "waterline": 2,
    "height": 2,
}


LONGEST_ROW = 200  # letters


def read_points(text: str, unit: str) -> list[Vector]:
    """The points [mm] of pasted text; a bare number takes `unit`. Columns are parted by a tab, a semicolon, or a comma; with semicolons or tabs a comma may be a decimal comma. A first row may name
    the columns and their unit, `z (in); x; y`. Raises ValueError that names the line that cannot be read.

    >>> read_points("x (in), y (in), z (in)\\n10, 0, 1\\n20, 0, 2", "mm")
    [(254.0, 0.0, 25.4), (508.0, 0.0, 50.8)]
    """
    rows = [line for line in text.replace("\r", "\n").split("\n") if line.strip()]
    if not rows:
        raise ValueError("paste a line for each point: ahead, left and up")
    if len(rows) > MOST_LINES:
        raise ValueError(
            f"{len(rows)} lines are more than a line has corners; {MOST_LINES} at most"
        )
    order, units = [0, 1, 2], [unit] * 3
    for number, row in enumerate(rows, 1):
        if len(row) > LONGEST_ROW:  # before any pattern sees it
            raise ValueError(
                f"line {number}, “{row[:40].strip()}”, is longer than three figures are"
            )
    head = _cells(rows[0])
    if not any(c.isdigit() for c in head[0]) or re.match(r"[a-zA-Z]", head[0]):
        order, units = _head(head, unit)
        rows = rows[1:]
    out = []
    for number, row in enumerate(rows, 1):
        cells = [c for c in _cells(row) if c]
        if len(cells) != 3:
            raise ValueError(
                f"line {number}, “{row[:40].strip()}”, has {len(cells)} figures; three are asked: ahead, left and up"
            )
        try:
            point = [0.0, 0.0, 0.0]
            for k, cell in enumerate(cells):
                point[order[k]] = round(parse(cell.replace("−", "-"), "length", units[k]) * 1000, 3)
        except ValueError as error:
            raise ValueError(f"line {number}, “{row[:40].strip()}”: {error}") from None
        out.append((point[0], point[1], point[2]))
    if not out:
        raise ValueError("there is a row of names and no point under it")
    return out


def _cells(row: str) -> list[str]:
    mark = next((m for m in ("\t", ";") if m in row), ",")
    return [c.strip().strip('"').replace(",", "." if mark != "," else ",") for c in row.split(mark)]


def _head(cells: list[str], unit: str) -> tuple[list[int], list[str]]:
    order, units = [], []
    for cell in [c for c in cells if c]:
        title_match = re.match(
            r"([a-z ]+?)\s*(?:[(\[]\s*(mm|cm|m|in|inch|ft)\s*[)\]])?$", cell.lower().strip()
        )
        name = title_match[1].strip() if title_match else ""
        if name not in NAMES:
            raise ValueError(
                f"the column “{cell[:30]}” is not known; name them x, y, z or ahead, left, up or station, bl, wl"
            )
        order.append(NAMES[name])
        units.append(
            {"inch": "in"}.get(title_match[2], title_match[2])
            if title_match and title_match[2]
            else unit
        )
    if sorted(order) != [0, 1, 2]:
        raise ValueError("the first row must name each of x, y and z once")
    return order, units
