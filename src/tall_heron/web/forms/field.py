"""One field of a form: what it is called, what it takes, between which bounds, and how it is read
and shown. Text with a unit outside, the document's figure inside.
"""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from pydantic import BaseModel

from tall_heron.core.base.number_text import (
    AMPERE_HOURS,
    ANGLE,
    GRAVITIES,
    money_amount,
    plain_number,
)
from tall_heron.core.base.units import QUANTITIES, parse, parse_dash, show
from tall_heron.core.document.faces import read_face
from tall_heron.web.forms.reading import Refused
from tall_heron.web.show.text import number
from tall_heron.web.show.units import Unit, unit

SMALL = 10.0  # figures under it are said to two places where they are a limit
MOST_LETTERS = 100
FLAG = (("", "not stated"), ("yes", "yes"), ("no", "no"))
FLAGS = {"": None, "yes": True, "no": False}
MOST_FIGURES = 4  # of a count
WORDED = {
    "angle": (ANGLE, "12", "°"),
    "gravities": (GRAVITIES, "0.5", "g"),
    "ampere hours": (AMPERE_HOURS, "60", "Ah"),
}  # numbers that bear a word: which, such as, how it is shown


@dataclass(frozen=True)
class OfRecord:
    """Bounds that a field of the document has."""

    record: type[BaseModel]
    name: str


def count(text: str) -> int:
    """A whole number. Raises ValueError.

    >>> count("12")
    12
    """
    if not text.isascii() or not text.isdecimal() or len(text) > MOST_FIGURES:
        raise ValueError("write a whole number, such as 4")
    return int(text)


SORTS: dict[str, Callable[[str], Any]] = {
    "number": plain_number,
    "money": money_amount,
    "count": count,
    "face": lambda text: read_face(text).text,
    "dash": parse_dash,
}


@dataclass(frozen=True)
class Field:
    """A field by its `name`. With a `quantity` it takes a figure with any unit, a bare one in the
    reader's (`measure` names its choice where that is another quantity's, `on_sheet` a unit and its
    label where it is always stated in one), and the document's figure is `scale` * SI + `offset`.
    Without, its `sort` says: "text", "number", "count", "money", "angle" [deg], "gravities" [g],
    "ampere hours", "face" of a port, "dash" size, "table" of many lines; with `choices`, pairs of a
    value and its word, one of those; "flag" makes of FLAG what is meant. `bounds` are those of a
    field of the document, or the least and the most;
    An `optional` one may be empty.
    """

    name: str
    label: str
    quantity: str = ""
    scale: float = 1.0
    offset: float = 0.0
    note: str = ""
    choices: tuple[tuple[str, str], ...] = ()
    optional: bool = False
    measure: str = ""
    on_sheet: tuple[str, str] | None = None
    sort: str = "text"
    bounds: "OfRecord | tuple[float, float] | None" = None

    @property
    def _unit(self) -> Unit:
        return unit(self.measure or self.quantity)

    @property
    def unit(self) -> str:
        """The unit a bare number takes."""
        return (
            ""
            if not self.quantity
            else self.on_sheet[0]
            if self.on_sheet is not None
            else self._unit.word
        )

    @property
    def unit_shown(self) -> str:
        """That unit as it is shown."""
        if self.sort in WORDED:
            return WORDED[self.sort][2]
        return (
            ""
            if not self.quantity
            else self.on_sheet[1]
            if self.on_sheet is not None
            else self._unit.label
        )

    @property
    def decimals(self) -> int:
        """How many decimals a figure is shown with."""
        return self._unit.decimals if self.quantity else 0

    @property
    def example(self) -> str:
        """What may be written, as a sentence; empty where nothing need be said."""
        if self.quantity:
            return f"Write for example {QUANTITIES[self.quantity].example}."
        if self.sort in WORDED:
            return f"Write for example {WORDED[self.sort][1]}."
        return f"Write {self.note}." if self.note else ""

    def of(self, data: dict[str, Any]) -> Any:
        """The document's figure for what a request says of it. Refused beside it."""
        return self.read(str(data.get(self.name) or ""))

    def near(self, text: str, expected: float | None) -> float:
        """The figure in SI of a text with a quantity, a comma read so that it comes near to what is
        expected. Refused beside the field.
        """
        try:
            return parse(text, self.quantity, self.unit, expected)
        except ValueError as error:
            raise Refused(self.name, str(error)) from None

    def read(self, text: str) -> Any:
        """The document's figure for a text: a number, a choice or words; None where it is optional
        and empty. Refused beside it with what would be right.
        """
        text = text.strip()
        if self.sort == "table":
            return text
        if self.choices:
            return self._choice(text)
        if not text:
            if self.optional:
                return None
            raise Refused(self.name, f"{self.label} is empty. {self.example}".strip())
        if not self.quantity and self.sort == "text":
            if len(text) > MOST_LETTERS:
                raise Refused(self.name, f"{self.label}: at most {MOST_LETTERS} letters.")
            return text
        try:
            if self.quantity:
                value = parse(text, self.quantity, self.unit) * self.scale + self.offset
            elif self.sort in WORDED:
                words, like, _ = WORDED[self.sort]
                value = plain_number(text, like, words)
            else:
                value = SORTS[self.sort](text)
        except ValueError as error:
            spoken = (
                str(error)
                if self.quantity or self.sort in ("face", "dash")
                else f"{self.label}: {error}"
            )
            raise Refused(self.name, spoken) from None
        return self._within(value, text) if isinstance(value, int | float) else value

    def _choice(self, text: str) -> str | bool | None:
        if text not in {key for key, _ in self.choices}:
            raise Refused(
                self.name,
                f"{self.label}: choose one of {', '.join(word for _, word in self.choices)}.",
            )
        return FLAGS[text] if self.sort == "flag" else text

    def _within(self, value: float, text: str) -> float:
        if self.bounds is None:
            return value
        low, high = self.limits
        slack = 1e-9 * max(abs(low), abs(high))
        if not low - slack <= value <= high + slack:
            span = f"{self._bound(low)} and {self._bound(high)} {self.unit_shown}".rstrip()
            raise Refused(
                self.name,
                f"{self.label} lies between {span}; “{text}” is outside. {self.example}".strip(),
            )
        return min(max(value, low), high)

    @property
    def limits(self) -> tuple[float, float]:
        """The least and the most it takes, as the document has them."""
        if self.bounds is None:
            return float("-inf"), float("inf")
        return (
            limits_of(self.bounds.record, self.bounds.name)
            if isinstance(self.bounds, OfRecord)
            else self.bounds
        )

    def in_unit(self, value: float) -> str:
        """A figure of the document as a number in the field's unit."""
        return number(self._shown(value), self.decimals)

    def _shown(self, value: float) -> float:
        plain = (value - self.offset) / self.scale
        return show(plain, self.quantity, self.unit) if self.quantity else plain

    def _bound(self, value: float) -> str:
        """A limit as a number in the field's unit, to two places where it is small, so that it is
        never said to allow what it refuses.
        """
        shown = self._shown(value)
        return (
            number(shown, 2).rstrip("0").rstrip(".")
            if 0 < abs(shown) < SMALL
            else number(shown, self.decimals)
        )


def limits_of(record: type[BaseModel], name: str) -> tuple[float, float]:
    """The least and greatest figure that a field of the document allows."""
    low, high = float("-inf"), float("inf")
    annotation = record.model_fields[name]
    found = list(annotation.metadata)
    for part in getattr(annotation.annotation, "__args__", ()):  # `Annotated[...] | None`
        for inner in getattr(part, "__metadata__", ()):
            found += getattr(inner, "metadata", [inner])
    for constraint in found:
        low = max(low, float(getattr(constraint, "ge", low)))
        high = min(high, float(getattr(constraint, "le", high)))
    return low, high
