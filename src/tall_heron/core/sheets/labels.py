"""Labels for both ends of every hose and line, so that fuel and breather are never taken for one
another.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from tall_heron.core.sheets.cut_sheet import HoseJob

SHEETS = {
    "A4": (210.0, 297.0, 3, 8),
    "Letter": (215.9, 279.4, 3, 7),
}  # mm, and how many labels across and down


@dataclass(frozen=True)
class HoseLabel:
    """A label: its tag, what flows, which way, which end it is for and where that goes; whether it
    is a breather's.
    """

    tag: str
    word: str
    end: str
    runs: str
    size: str
    breather: bool


def make_labels(rows: Sequence[HoseJob]) -> list[HoseLabel]:
    """Two labels a line, in document order."""
    out = []
    for row in rows:
        e = row.element
        word = row.label.removeprefix(f"{e.id} ")
        out += [HoseLabel(e.id, word, end, e.runs, e.properties.dash, row.breather) for end in "AB"]
    return out
