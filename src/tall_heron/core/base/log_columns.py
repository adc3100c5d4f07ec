"""Headers of a logger's file: what a column holds, by log_columns.csv, and its unit. One reader for
runs replayed on Prove and for drives that move the fuel.
"""

import csv
import re
from functools import lru_cache

from tall_heron.core.base.catalogue import Row, by_name, table
from tall_heron.core.base.constants import GRAVITY
from tall_heron.core.base.table_text import LONGEST_HEAD, plain_number, words_and_unit
from tall_heron.core.base.units import QUANTITIES, parse

ABSOLUTE, GAUGE = "absolute", "gauge"
ACCELERATION = {"g": GRAVITY, "m/s2": 1.0, "m/s²": 1.0, "m/s^2": 1.0, "ft/s2": 0.3048}
SHORT = {
    "psia": ("psi", ABSOLUTE),
    "psig": ("psi", GAUGE),
    "bara": ("bar", ABSOLUTE),
    "barg": ("bar", GAUGE),
    "kpaa": ("kpa", ABSOLUTE),
    "kpag": ("kpa", GAUGE),
    "inhg": ("inhg", ""),
}


def cells_of(line: str, mark: str) -> list[str]:
    """A line's cells; none where it cannot be taken apart."""
    try:
        return [
            c.strip().strip('"')
            for c in next(csv.reader([line.rstrip("\r\n")], delimiter=mark), [])
        ]
    except csv.Error:
        return []


def columns_of(reader: str) -> list[Row]:
    """What a `reader` ("log", "drive") reads: rows of log_columns.csv."""
    return [row for row in table("log_columns") if reader in str(row["read_by"]).split()]


@lru_cache(maxsize=4096)
def known_column(header: str, reader: str) -> str:
    """What a header names of what a `reader` ("log", "drive") reads; empty for a number, and for
    what no row knows.
    """
    if not header.strip() or plain_number(header) is not None:
        return ""
    return next(
        (
            str(row["name"])
            for row in columns_of(reader)
            for words in spellings(header)
            if re.match(str(row["pattern"]), words)
        ),
        "",
    )


def spellings(header: str) -> tuple[str, str]:
    """A header's words, and with what may be its unit: in `Batt V` and `Pump A` the unit is half
    the name.
    """
    header = header[:LONGEST_HEAD]
    return words_of(header)[0], re.sub(r"[\s()\[\]]+", " ", header).strip().lower()


def words_of(header: str) -> tuple[str, str]:
    """A header's words in small letters and its unit: only what stands in brackets, or a last word
    that is a unit.
    """
    header = header[:LONGEST_HEAD]
    words, unit = words_and_unit(header)
    if "(" not in header and "[" not in header:
        low = unit.lower()
        known = (
            low in SHORT or low in ACCELERATION or any(low in q.words for q in QUANTITIES.values())
        )
        if not known or words == header:
            words, unit = header, ""
    return re.sub(r"\s+", " ", words).strip().lower(), unit.strip()


def scale_of(key: str, unit: str) -> tuple[float, float] | None:
    """What a figure in a unit is times in SI, and what comes on top; None where it is no unit of
    what the column holds.
    """
    quantity = str(by_name("log_columns")[key]["quantity"])
    unit = unit.lower().replace(" ", "")
    if quantity == "acceleration":
        return (ACCELERATION[unit], 0.0) if unit in ACCELERATION else None
    if key == "time" and unit == "ms":
        return 1e-3, 0.0
    if key == "rpm" and unit in ("1/min", "min-1", "u/min"):
        unit = "rpm"
    if unit not in QUANTITIES[quantity].words:
        return None
    if quantity == "speed":
        return (
            (1.0, 0.0) if unit in ("rpm", "r/min") else (60.0, 0.0)
        )  # kept in rpm, as a point has it
    try:
        zero, one = parse(f"0 {unit}", quantity, unit), parse(f"1 {unit}", quantity, unit)
    except ValueError:
        return None
    return one - zero, zero
