"""Arithmetic a person can follow: the formula with the builder's own figures, step by step, and
where it comes from.
"""

from dataclasses import dataclass


@dataclass(frozen=True)
class Why:
    """`steps` in order, each a formula with its figures and result; `source` of the formula and of
    its figures.
    """

    steps: tuple[str, ...]
    source: str


_SUPERSCRIPT = str.maketrans("-0123456789", "⁻⁰¹²³⁴⁵⁶⁷⁸⁹")


def format_number(value: float, digits: int = 3) -> str:
    """A number for a formula line: `digits` significant figures, thousands kept whole, a true minus
    sign.

    >>> format_number(0.028534), format_number(13551.0), format_number(-3.2)
    ('0.0285', '13,551', '−3.20')
    """
    if value == 0:
        return "0"
    size = abs(value)
    if size >= 10 ** (digits - 1):
        text = f"{size:,.0f}"
    elif size < 1e-3:
        power = f"{size:.{digits - 1}e}"
        mantissa, exponent = power.split("e")
        text = f"{mantissa}×10{str(int(exponent)).translate(_SUPERSCRIPT)}"
    else:
        text = f"{size:#.{digits}g}".rstrip(".")
    return "−" + text if value < 0 else text
