"""What the pieces of a line make together: a figure with its unit, a pump with its number and flow,
a pressure with what it is the pressure of.

Each kind of piece has a letter, so that a line is a short text of letters, and a rule is a pattern
of letters. The first rule that fits a place is taken, and what a part of a rule has taken it keeps
(a parsing expression grammar: possessive quantifiers and atomic groups of `re`), so that a line
takes as long as it has pieces.
"""

import re
from collections.abc import Sequence
from functools import cache

from tall_heron.core.line.tokens import Token

LETTERS = {
    "number": "N",
    "range": "R",
    "times": "x",
    "plus": "+",
    "at": "@",
    "comma": ",",
    "filler": "z",
    "dash": "D",
    "shape": "S",
    "v twin": "S",
    "banks": "k",
    "radial": "k",
    "count": "C",
    "cylinders": "y",
    "power": "P",
    "wheel power": "W",
    "at wheels": "a",
    "at crank": "c",
    "now": "n",
    "later": "L",
    "pressure": "p",
    "base": "B",
    "boost": "X",
    "volume": "v",
    "flow": "f",
    "dose": "d",
    "voltage": "e",
    "temperature": "t",
    "length": "l",
    "speed": "s",
    "octane": "o",
    "pump": "u",
    "rail": "r",
    "bowl": "b",
    "injector": "j",
    "tank": "T",
    "cell": "T",
    "hose": "h",
    "filter": "F",
    "regulator": "g",
    "feed": "1",
    "back": "2",
    "suction": "3",
    "vent": "4",
    "external": "E",
    "in tank": "I",
    "hp less": "H",
    "boosted": "q",
    "fineness": "m",
    "craft": "A",
    "barrels": "V",
}
OTHER = "."  # what says something by itself
OWN = "w"  # a word of the builder's own between a number and several of something: two strake tanks
COUNTED = ("pump", "rail", "bowl", "injector", "tank", "cell")
AFTER_A_NUMBER = "PWpvfdetlsoyxurjmV"


Z = "z*+"  # words that say nothing, between pieces


def _maybe(rule: str) -> str:
    return f"(?:{rule})?+"


def _either(*rules: str) -> str:
    return f"(?>{'|'.join(rules)})"


def _not(letters: str) -> str:
    return f"(?![{letters}])"


@cache
def grammar() -> re.Pattern[str]:
    """The rules, each a group under its name."""
    num, count, own = "[NR]", _either("C", "Nx"), f"{OWN}{{0,2}}+"
    several = f"N(?={Z}{own}[EIH]?+[urjT])"  # 2 pumps
    few = _either(count, several) + Z + own
    when, place, label, keep_word = "[nL]", "[EI]", "[BX]", "H?+"
    bare = num + _not(AFTER_A_NUMBER)
    pressure, flow = f"{num}p", f"{num}f"
    some, at_place, placed = _maybe(few + Z), f"{place}?+", _maybe(Z + place)
    counted, labelled = _maybe(count + Z), _maybe(Z + label)
    a_tank, role, hose = "H?+T", "[1234]", "h?+"
    dose, barrels = f"{num}[vd]", f"[NC]{Z},?+V{_maybe(f'{Z}b')}"
    rules = {
        "total": f"{num}p?+{Z}{_maybe(label + Z)}[+]{Z}{num}p?+{labelled}",
        "pair": f"{pressure}{Z}{label}{Z},?+{pressure}{Z}{label}",
        "labelled": _either(
            f"{pressure}{Z}{label}{_not('NR')}",
            f"{label}{Z}{num}{_either('p', _not(AFTER_A_NUMBER))}",
        ),
        "power": f"{_maybe(when + Z)}{num}[PW]{_maybe(f'{Z}[ac]')}{_maybe(Z + when)}",
        "later": _either(f"L{Z}{bare}", f"{num}{Z}{when}"),
        "speed": _either(f"{_maybe(f'@{Z}')}{num}s", f"@{Z}{bare}"),
        "pressure": pressure,
        "pumps": _either(
            f"{counted}{at_place}{keep_word}{flow}{placed}{Z}u",
            f"{some}{at_place}{keep_word}u{Z}{flow}",
            f"{some}{at_place}{keep_word}u{placed}",
            f"{counted}{at_place}{flow}{placed}",
        ),
        "injectors": _either(
            f"{counted}{keep_word}{dose}{Z}j",
            f"{some}{keep_word}j{Z}{dose}",
            f"{num}d",
            f"{some}{keep_word}j",
        ),
        "tank": _either(f"{num}v{Z}{a_tank}", f"{some}{a_tank}{Z}{num}v", "HT"),
        "volume": f"{num}v",
        "quantity": f"{num}[etl]",
        "octane": _either(f"{num}o", f"o{num}"),
        "lines": _either(
            f"D{Z}{hose}{Z}{role}{_maybe(Z + role)}{hose}", f"{role}{hose}{Z}D", f"D{Z}{hose}"
        ),
        "rails": f"{few}{Z}r",
        "bowls": f"{_maybe(f'C{Z}{own}')}b",
        "tanks": f"{few}{Z}T",
        "fineness": f"{num}m{_maybe(f'{Z}F')}",
        "cylinders": _either(
            "S",
            f"k{Z}{_either('C', 'N' + _not(AFTER_A_NUMBER.replace('y', '')))}y?+",
            "[NC]y",
        ),
        "turbo_and_cylinders": f"qN{_not(AFTER_A_NUMBER)}",
        "barrels": _either(f"{few}{Z}{barrels}", barrels),
        "year": f"{num}(?=A)",
        "count": "C",
        "number": num,
        "word": ".",
    }
    return re.compile("|".join(f"(?P<{name}>{rule})" for name, rule in rules.items()))


def _between(rest: Sequence[Token]) -> bool:
    """Whether a piece is a word of the builder's own that stands before several of something."""
    after = next((t for t in rest if t.kind != "own"), None)
    return (
        rest[0].kind == "own"
        and after is not None
        and after.kind in COUNTED
        and after.text.lower().endswith("s")
    )


def parsed(pieces: Sequence[Token]) -> list[tuple[str, list[Token]]]:
    """The pieces of a line, each with those it belongs to, under the name of the rule that says so."""
    letters = "".join(
        LETTERS.get(t.kind, OWN if _between(pieces[i:]) else OTHER) for i, t in enumerate(pieces)
    )
    return [
        (match.lastgroup or "word", list(pieces[match.start() : match.end()]))
        for match in grammar().finditer(letters)
    ]
