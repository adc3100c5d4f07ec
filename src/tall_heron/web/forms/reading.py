"""What every reader of a request needs: a refusal beside its field, a text, a number of an address."""

from typing import Any

LONGEST = 16  # figures of a whole number


class Refused(Exception):
    """A change that was not made: the field, and what would be right."""

    def __init__(
        self, field: str, message: str, status: int = 422, head: int | None = None
    ) -> None:
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


def whole(text: str | None) -> int:
    """A whole number of an address or a form, 0 where there is none or one that nothing is numbered
    with.
    """
    return int(text) if text and text.isascii() and text.isdecimal() and len(text) < LONGEST else 0
