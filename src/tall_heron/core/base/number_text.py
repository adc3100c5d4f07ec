"""A number as it is typed: a decimal comma or point, thousands, a fraction, any minus; an amount of
money. What a unit behind it means is said in `units`.
"""

import math
import re

LONGEST = 60  # letters of a number with its unit


_NUMBER = re.compile(
    r"""\s*(?P<sign>[-+−]?)\s*
    (?:(?P<whole>\d+)[ \-](?P<num1>\d+)/(?P<den1>\d+) | (?P<num>\d+)/(?P<den>\d+) | (?P<dec>\d*[.,]?\d+(?:[eE][-+]?\d{1,3})?|\d+[.,]) )
    \s*(?P<unit>.*?)\s*$""",
    re.VERBOSE,
)


THOUSANDS = re.compile(r"^\s*[-+−]?\d{1,3}(,\d{3})+(?![\d,])(\.\d+)?")


def read_number(text: str) -> tuple[float, str]:
    """The number and what follows it. ValueError says what would be right."""
    if len(text) > LONGEST:  # before any pattern sees it
        raise ValueError("that is longer than a number with a unit can be")
    if THOUSANDS.match(text):
        head = THOUSANDS.match(text)
        assert head
        group = head.group(0)
        if group.count(",") == 1 and "." not in group:
            raise ValueError(
                f"does {group.strip()} mean {group.strip().replace(',', '')} or {group.strip().replace(',', '.')}? Write it without the comma"
            )
        text = group.replace(",", "") + text[len(group) :]
    match = _NUMBER.match(text)
    if not match:
        raise ValueError("that is not a number with a unit")
    g = match.groupdict()
    if g["whole"] or g["num"]:
        num, den = (g["num1"], g["den1"]) if g["whole"] else (g["num"], g["den"])
        if int(den) == 0:
            raise ValueError("a fraction cannot be over zero")
        value = float(g["whole"] or 0) + int(num) / int(den)
    else:
        value = float(g["dec"].replace(",", "."))
    if g["sign"] in ("-", "−"):
        value = -value
    if not math.isfinite(value):
        raise ValueError("that number is too large")
    return value, g["unit"]


ANGLE, GRAVITIES, AMPERE_HOURS = (
    ("°", "deg", "degree", "degrees"),
    ("g",),
    ("ah",),
)  # words that may stand behind a number of no quantity


CURRENCY_SIGNS = "$€£¥"


def plain_number(text: str, like: str = "1.5", words: tuple[str, ...] = ()) -> float:
    """A number without a unit, as it is typed anywhere: a decimal comma or point, any minus, a
    fraction; one of some `words` may stand behind it. Raises ValueError with what would be right,
    also where a comma may part thousands.

    >>> plain_number("−45 deg", words=ANGLE), plain_number("1,5"), plain_number("3/4")
    (-45.0, 1.5, 0.75)
    """
    if len(text) > LONGEST:
        raise ValueError(f"that is longer than a number can be. Write for example {like}.")
    try:
        value, word = read_number(" ".join(text.split()))
    except ValueError as error:
        raise ValueError(
            f"{error}. Write for example {like}.".replace("a number with a unit", "a number")
        ) from None
    if word and word.lower() not in words:
        raise ValueError(f"“{word}” does not belong here. Write for example {like}.")
    return value


def money_amount(text: str, like: str = "1.85") -> float:
    """An amount of money: a number with or without the sign or the three letters of a currency
    before it or behind it, or a liter's. Raises ValueError.

    >>> money_amount("$ 12.50"), money_amount("1,85 EUR"), money_amount("2 $/L")
    (12.5, 1.85, 2.0)
    """
    bare = re.sub(r"(?i)/ ?l(?:iter)?$", "", text.strip()[: LONGEST + 1]).strip(
        f"{CURRENCY_SIGNS} "
    )
    return plain_number(re.sub(r"^[A-Za-z]{3} ?(?=\d)|(?<=\d) ?[A-Za-z]{3}$", "", bare), like)
