"""One figure of a sheet that is typed in, and how it is read with any unit."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from tall_heron.core.base.units import parse
from tall_heron.core.document.figures import Law
from tall_heron.core.shelf.curve_file import CurveTable, read_curves
from tall_heron.web.forms.field import Field
from tall_heron.web.forms.reading import Refused

NEVER_ZERO = ("volume_flow", "volume", "length", "fineness")


@dataclass(frozen=True)
class OwnKind:
    """A kind of own part: its name in the circuit, what it is called, its fields, and how they make
    the law and the facts about it.
    """

    kind: str
    word: str
    fields: tuple[Field, ...]
    make: Callable[[dict[str, Any]], tuple[Law, dict[str, Any]]]
    element: str = ""  # the kind of element it serves as, where that is another word


def curves_of(data: dict[str, Any]) -> CurveTable:
    """The pump's table in a form, at the voltage that stands in it."""
    try:
        voltage = parse(str(data.get("at_voltage") or "13.5"), "voltage", "v")
    except ValueError:
        voltage = 13.5
    return read_curves(str(data.get("points") or ""), voltage if 1 <= voltage <= 100 else 13.5)


def read_one(field: Field, data: dict[str, Any]) -> Any:
    """One field's value: SI for a quantity, a number, a choice or a text; None where it is optional
    and empty. Refused beside it.
    """
    value = field.of(data)
    if (
        isinstance(value, int | float)
        and field.bounds is None
        and field.sort not in ("face", "dash")
        and not 0 <= value < 1e9
    ):
        raise Refused(
            field.name, f"{field.label}: it cannot be below zero, nor a billion and more."
        )
    if value == 0 and field.quantity in NEVER_ZERO and field.name not in ("height", "outlet"):
        raise Refused(
            field.name,
            f"{field.label}: “{str(data.get(field.name)).strip()}” cannot be; it must be above zero.",
        )
    return value
