"""Reads a line of arithmetic as a person would, and reckons it again: the numbers and operators
count, words and units do not.
"""

import itertools
import math
import re

TOKEN = re.compile(
    r"(?P<number>\d[\d,]*(?:\.\d+)?(?:×10(?P<power>[⁻⁰¹²³⁴⁵⁶⁷⁸⁹]+))?)|(?P<operator>[×÷+−√²()])|(?P<word>[^\s\d×÷+−√²()][^\s]*)|(?P<space>\s+)"
)
OPERATORS = {"×": "*", "÷": "/", "−": "-", "√": "math.sqrt", "²": "**2"}
SUPERSCRIPT = str.maketrans("⁻⁰¹²³⁴⁵⁶⁷⁸⁹", "-0123456789")


def value_of(text: str) -> float | None:
    """What one side of an equation comes to; None where it is not all numbers."""
    out = []
    for match in TOKEN.finditer(text):
        if match["number"]:
            mantissa = match["number"].split("×10")[0].replace(",", "")
            out.append(
                mantissa + (f"e{match['power'].translate(SUPERSCRIPT)}" if match["power"] else "")
            )
        elif match["operator"]:
            out.append(OPERATORS.get(match["operator"], match["operator"]))
        elif match["word"]:
            out.append(")" * max(match["word"].count(")") - match["word"].count("("), 0))
    try:
        return float(
            eval(" ".join(out), {"math": math})
        )  # numbers and operators of our own tests alone
    except (SyntaxError, TypeError, ZeroDivisionError, ValueError, NameError):
        return None


def equalities(step: str) -> list[tuple[float, float, str]]:
    """Neighbouring sides of a step that are both numbers, with the text."""
    sides = [value_of(side.split(", ")[0]) for side in step.split(" = ")]
    return [(a, b, step) for a, b in itertools.pairwise(sides) if a is not None and b is not None]


def blur(step: str) -> float:
    """How much the figures of a sum, shown to three places, leave open of what it comes to; 0.0 for
    no sum.
    """
    worst = 0.0
    for side in step.split(" = "):
        terms = [value_of(x) for x in re.split(r" [+−] ", side.split(", ")[0])]
        total = value_of(side.split(", ")[0])
        if len(terms) > 1 and total and all(x is not None for x in terms):
            worst = max(worst, 0.0051 * sum(abs(x) for x in terms if x is not None) / abs(total))
    return worst
