"""One figure of a sheet that is typed in, and how it is read with any unit."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from tall_heron.core.base.units import QUANTITIES, money_amount, parse, parse_dash, plain_number
from tall_heron.core.document.faces import read_face
from tall_heron.core.document.figures import Law
from tall_heron.core.shelf.curve_file import CurveTable, read_curves
from tall_heron.web.answers import Refused
from tall_heron.web.show.units import unit

TEXTS = ("title", "medium", "name", "standard", "liner", "braid", "cover", "supplier")  # fields that hold words
FLAG = (("", "not stated"), ("yes", "yes"), ("no", "no"))


@dataclass(frozen=True)
class OwnField:
    """One figure: its name, label and quantity, or choices, or plain text. A bare number takes the reader's unit, or that of the sheet where it is always stated in one."""

    name: str
    label: str
    quantity: str = ""
    on_sheet: tuple[str, str] | None = None
    optional: bool = False
    note: str = ""
    choices: tuple[tuple[str, str], ...] = ()
    long: bool = False
    face: bool = False

    @property
    def unit(self) -> str:
        """The unit a bare number takes."""
        return self.on_sheet[0] if self.on_sheet is not None else unit(self.quantity).word

    @property
    def unit_shown(self) -> str:
        """That unit as it is shown."""
        return "" if not self.quantity else self.on_sheet[1] if self.on_sheet is not None else unit(self.quantity).label


@dataclass(frozen=True)
class OwnKind:
    """A kind of own part: its name in the circuit, what it is called, its fields, and how they make the law and the facts about it."""

    kind: str
    word: str
    fields: tuple[OwnField, ...]
    make: Callable[[dict[str, Any]], tuple[Law, dict[str, Any]]]
    element: str = ""  # the kind of element it serves as, where that is another word


def curves_of(data: dict[str, Any]) -> CurveTable:
    """The pump's table in a form, at the voltage that stands in it."""
    try:
        voltage = parse(str(data.get("at_voltage") or "13.5"), "voltage", "v")
    except ValueError:
        voltage = 13.5
    return read_curves(str(data.get("points") or ""), voltage if 1 <= voltage <= 100 else 13.5)


def read_one(field: OwnField, data: dict[str, Any]) -> Any:
    """One field's value: SI for a quantity, a number, a choice or a text; None where it is optional and empty."""
    text = str(data.get(field.name) or "").strip()
    if field.long:
        return text
    if field.choices:
        if text not in {key for key, _ in field.choices}:
            raise Refused(field.name, f"{field.label}: choose one of {', '.join(w for _, w in field.choices)}.")
        return text
    if not text:
        if field.optional:
            return None
        example = QUANTITIES[field.quantity].example if field.quantity else field.note
        raise Refused(field.name, f"{field.label} is empty. Write for example {example}.")
    if field.name in TEXTS:
        if len(text) > 100:
            raise Refused(field.name, f"{field.label}: at most 100 letters.")
        return text
    try:
        if field.face:
            return read_face(text).text
        if field.name == "dash":
            return parse_dash(text)
        value = parse(text, field.quantity, field.unit) if field.quantity else money_amount(text) if field.name == "price" else plain_number(text)
    except ValueError as error:
        raise Refused(field.name, str(error) if field.quantity or field.face or field.name == "dash" else f"{field.label}: {error}") from None
    if not 0 <= value < 1e9 or (value == 0 and field.quantity in ("volume_flow", "volume", "length", "fineness") and field.name not in ("height", "outlet")):
        raise Refused(field.name, f"{field.label}: “{text}” cannot be; it must be above zero.")
    return value
