"""What the pieces of a line make together: a figure with its unit, a pump with its number and flow,
a pressure with what it is the pressure of.

Each kind of piece has a letter, so that a line is a short text of letters, and a rule is said in
them. The first rule that fits a place is taken, the longest first (a
parsing expression grammar, by pyparsing).
"""

import threading
from collections.abc import Sequence
from functools import cache

import pyparsing as pp

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
ONE_AT_A_TIME = (
    threading.Lock()
)  # a grammar of pyparsing learns of its actions while it parses, and several threads ask
AFTER_A_NUMBER = "PWpvfdetlsoyxurjmV"


def _one(letters: str) -> pp.ParserElement:
    return pp.Char(letters)


def _not(letters: str) -> pp.ParserElement:
    return ~pp.Char(letters)


@cache
def grammar() -> pp.ParserElement:
    """The rules, each under its name."""
    z = pp.ZeroOrMore(_one("z"))
    num, count = _one("NR"), _one("C") | (_one("N") + _one("x"))
    own = _one(OWN)[0, 2]
    few = (
        (count | (_one("N") + pp.FollowedBy(z + own + pp.Opt(_one("EIH")) + _one("urjT"))))
        + z
        + own
    )  # 2 pumps
    when, place = _one("nL"), _one("EI")
    power = pp.Opt(when + z) + num + _one("PW") + pp.Opt(z + _one("ac")) + pp.Opt(z + when)
    later = (_one("L") + z + num + _not(AFTER_A_NUMBER)) | (num + z + when)
    speed = (pp.Opt(_one("@") + z) + num + _one("s")) | (_one("@") + z + num + _not(AFTER_A_NUMBER))
    pressure = num + _one("p")
    label = _one("BX")
    total = (
        num
        + pp.Opt(_one("p"))
        + z
        + pp.Opt(label + z)
        + _one("+")
        + z
        + num
        + pp.Opt(_one("p"))
        + pp.Opt(z + label)
    )
    pair = pressure + z + label + z + pp.Opt(_one(",")) + pressure + z + label
    after = pressure + z + label + _not("NR")
    ahead = label + z + num + (_one("p") | _not(AFTER_A_NUMBER))
    tank = (
        (num + _one("v") + z + pp.Opt(_one("H")) + _one("T"))
        | (pp.Opt(few + z) + pp.Opt(_one("H")) + _one("T") + z + num + _one("v"))
        | (_one("H") + _one("T"))
    )
    keep_word = pp.Opt(_one("H"))
    flow = num + _one("f")
    pumps = (
        pp.Opt(count + z) + pp.Opt(place) + keep_word + flow + pp.Opt(z + place) + z + _one("u")
    ) | (pp.Opt(few + z) + pp.Opt(place) + keep_word + _one("u") + z + flow)
    plain_pumps = pp.Opt(few + z) + pp.Opt(place) + keep_word + _one("u") + pp.Opt(z + place)
    some = pp.Opt(count + z) + pp.Opt(place) + flow + pp.Opt(z + place)
    dose = num + _one("vd")
    injectors = (
        (pp.Opt(count + z) + keep_word + dose + z + _one("j"))
        | (pp.Opt(few + z) + keep_word + _one("j") + z + dose)
        | (num + _one("d"))
        | (pp.Opt(few + z) + keep_word + _one("j"))
    )
    role = _one("1234")
    lines = (
        (_one("D") + z + pp.Opt(_one("h")) + z + role + pp.Opt(z + role) + pp.Opt(_one("h")))
        | (role + pp.Opt(_one("h")) + z + _one("D"))
        | (_one("D") + z + pp.Opt(_one("h")))
    )
    cylinders = (
        _one("S")
        | (
            _one("k")
            + z
            + (_one("C") | (_one("N") + _not(AFTER_A_NUMBER.replace("y", ""))))
            + pp.Opt(_one("y"))
        )
        | (_one("NC") + _one("y"))
    )
    turbo_four = _one("q") + _one("N") + _not(AFTER_A_NUMBER)
    barrels = _one("NC") + z + pp.Opt(_one(",")) + _one("V") + pp.Opt(z + _one("b"))
    rules = {
        "total": total,
        "pair": pair,
        "labelled": after | ahead,
        "power": power,
        "later": later,
        "speed": speed,
        "pressure": pressure,
        "pumps": pumps | plain_pumps | some,
        "injectors": injectors,
        "tank": tank,
        "volume": num + _one("v"),
        "quantity": num + _one("etl"),
        "octane": (num + _one("o")) | (_one("o") + num),
        "lines": lines,
        "rails": few + z + _one("r"),
        "bowls": pp.Opt(_one("C") + z + own) + _one("b"),
        "tanks": few + z + _one("T"),
        "fineness": num + _one("m") + pp.Opt(z + _one("F")),
        "cylinders": cylinders,
        "turbo and cylinders": turbo_four,
        "barrels": (few + z + barrels) | barrels,
        "year": num + pp.FollowedBy(_one("A")),
        "count": _one("C"),
        "number": num,
    }
    every = sorted({*LETTERS.values(), OTHER, OWN})
    begin = {name: _begins(expression)[0] for name, expression in rules.items()}
    alike: dict[tuple[str, ...], str] = {}  # letters by the rules that can begin with them
    for letter in every:
        names = tuple(name for name in rules if letter in begin[name])
        alike[names] = alike.get(names, "") + letter
    named = {
        name: pp.Located(pp.Group(expression)).add_parse_action(_named(name))
        for name, expression in rules.items()
    }
    word = pp.Located(pp.Group(_one("".join(every)))).add_parse_action(_named("word"))
    places = [
        pp.FollowedBy(_one(letters)) + pp.MatchFirst([*(named[name] for name in names), word])
        for names, letters in alike.items()
    ]
    return pp.ZeroOrMore(pp.MatchFirst(places)).leave_whitespace()


def _begins(expression: pp.ParserElement) -> tuple[set[str], bool]:
    """The letters that a rule can begin with, and whether it can be of none: of thirty rules only
    those are tried that may fit.
    """
    if isinstance(expression, pp.Char):
        return set(expression.init_chars), False
    if isinstance(expression, pp.NotAny | pp.FollowedBy):
        return set(), True
    if isinstance(expression, pp.And):
        letters: set[str] = set()
        for part in expression.exprs:
            own, empty = _begins(part)
            letters |= own
            if not empty:
                return letters, False
        return letters, True
    if isinstance(expression, pp.MatchFirst):
        ways = [_begins(part) for part in expression.exprs]
        return set().union(*(own for own, _ in ways)), any(empty for _, empty in ways)
    if isinstance(expression, pp.Opt | pp.ZeroOrMore):
        assert expression.expr is not None
        return _begins(expression.expr)[0], True
    raise TypeError(f"{expression} is no part of this grammar")


def _named(name: str) -> "pp.ParseAction":
    def pieces_of(text: str, at: int, match: pp.ParseResults) -> list[tuple[str, int, int]]:
        return [(name, match[0], match[-1])]

    return pieces_of


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
    with ONE_AT_A_TIME:
        match = grammar().parse_string(letters, parse_all=True)
    return [(name, list(pieces[start:end])) for name, start, end in match]
