"""One reader of what is typed: a figure with its unit, a number, an angle, money, a count; refused beside its field with what would be right."""

from collections.abc import Callable
from typing import Any

from tall_heron.core.base.units import ANGLE, money_amount, parse, plain_number
from tall_heron.web.show.units import unit

LONGEST = 16  # figures of a whole number


class Refused(Exception):
    """A change that was not made: the field, and what would be right."""

    def __init__(self, field: str, message: str, status: int = 422, head: int | None = None) -> None:
        super().__init__(message)
        self.field, self.message, self.status, self.head = field, message, status, head


def sentence(words: str) -> str:
    """Words as a sentence: a capital before them, a full stop behind."""
    return f"{words[:1].upper()}{words[1:]}".rstrip(".") + "."


def text_of(data: dict[str, Any], name: str) -> str:
    """A text of the request."""
    value = data.get(name)
    if not isinstance(value, str):
        raise Refused(name, "This field is missing.")
    return value


def parse_quantity(field: str, text: str, quantity: str, plain: str = "", near: float | None = None) -> float:
    """A figure as it is typed, in SI; a bare number is in the unit `plain`, or else in the reader's; `near` is what is expected. Refused beside its field."""
    try:
        return parse(text, quantity, plain or unit(quantity).word, near)
    except ValueError as error:
        raise Refused(field, str(error)) from None


def millimeters(field: str, text: str) -> float:
    """A length as it is typed [mm]. Refused beside its field."""
    return parse_quantity(field, text, "length") * 1000


def degrees(field: str, text: str, most: float, like: str) -> float:
    """An angle as it is typed [deg], 0 for an empty one; `like` is how one may be written. Refused beside its field."""
    value = angle(field, text, like) if text.strip() else 0.0
    if not abs(value) <= most:
        raise Refused(field, f"Write an angle in degrees, such as {like}.")
    return value


def angle(field: str, text: str, like: str) -> float:
    """An angle as it is typed [deg], with or without its word. Refused beside its field."""
    return plain(field, text, like, ANGLE)


def plain(field: str, text: str, like: str, words: tuple[str, ...] = ()) -> float:
    """A number without a unit as it is typed, one of some words behind it. Refused beside its field."""
    return _beside(field, lambda: plain_number(text, like, words))


def money(field: str, text: str, like: str = "1.85") -> float:
    """An amount of money as it is typed. Refused beside its field."""
    return _beside(field, lambda: money_amount(text, like))


def _beside(field: str, read: Callable[[], float]) -> float:
    try:
        return read()
    except ValueError as error:
        raise Refused(field, f"{str(error)[0].upper()}{str(error)[1:]}") from None


def whole(text: str | None) -> int:
    """A whole number of an address or a form, 0 where there is none or one that nothing is numbered with."""
    return int(text) if text and text.isascii() and text.isdecimal() and len(text) < LONGEST else 0
