"""The only reader of files in core: data/*/* to plain records, read once.

The folders of data are subjects, for people; code names a file alone, so no two may share a name.
"""

import csv
import json
from functools import cache
from pathlib import Path
from typing import Any

_DATA = Path(__file__).parent / "data"
_FILES = {path.name: path for path in _DATA.rglob("*.*")}

Row = dict[str, Any]


def _value(text: str) -> Any:
    if text in ("yes", "no"):
        return text == "yes"
    try:
        return float(text)
    except ValueError:
        return text or None


@cache
def table(name: str) -> tuple[Row, ...]:
    """The rows of data/*/<name>.csv; numbers as float, yes and no as bool, an empty cell as None. A
    dash size keeps its text.
    """
    with _FILES[f"{name}.csv"].open(encoding="utf-8", newline="") as file:
        return tuple(
            {k: v if k == "dash" else _value(v) for k, v in row.items()}
            for row in csv.DictReader(file)
        )


@cache
def by_name(name: str, key: str = "name") -> dict[str, Row]:
    """The rows of a table by their name."""
    return {str(row[key]): row for row in table(name)}


@cache
def document(name: str) -> Row:
    """data/*/<name>.json as it stands."""
    return dict(json.loads(_FILES[f"{name}.json"].read_text(encoding="utf-8")))


@cache
def text(name: str) -> str:
    """data/*/<name> as it stands."""
    return _FILES[name].read_text(encoding="utf-8")


def pumps() -> dict[str, Row]:
    """The shelf's pumps by name, with their maps."""
    return {p["name"]: p for p in document("pumps")["pumps"]}


def house_figure(name: str) -> float:
    """A figure of the trade or of the house, in the unit that data/house_figures.csv gives."""
    return float(by_name("house_figures")[name]["value"])
