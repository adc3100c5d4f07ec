"""A line cut into its pieces: numbers, dash sizes, units, words. Nothing is left out: what has no
meaning here is a word of the builder's own.
"""

import re
from collections.abc import Iterator
from dataclasses import dataclass

from tall_heron.core.line.vocabulary import look_up

UNITS = frozenset(
    (
        "power",
        "wheel power",
        "pressure",
        "volume",
        "flow",
        "dose",
        "voltage",
        "temperature",
        "length",
        "speed",
        "octane",
        "cylinders",
        "fineness",
        "barrels",
    )
)
DASHES = (3, 4, 6, 8, 10, 12, 16, 20)
VALVES = ("20", "24", "32")  # with a v on them: valves, or volts
_WORD = re.compile(r"[^\W\d_]+(?:['’][^\W\d_]+)*(?:/[^\W\d_]+)*\d?|°[CcFf]")
_NUMBER = re.compile(
    r"(?:\d{1,2}(?: \d{3})+|\d{1,3}(?:,\d{3})+)(?![\d,])(?:\.\d+)?|\d+[.,]\d+|\d+|[.,]\d+"
)
_RANGE = re.compile(r"(\d{2,4})\s*(?:[-–]|to\s)\s*(\d{2,4})(?=\s*[a-zA-Z])")
_DASH = re.compile(
    r"[-−–](\d{1,2})(?:\s?(?:an|jic))?(?![\d.,]*\d|\w)|(\d{1,2})\s?an\b|an[- ]?(\d{1,2})\b",
    re.IGNORECASE,
)
_SHAPE = re.compile(r"([vilhwu])[- ]?(\d{1,2})(?![\d.]*\d|\w)", re.IGNORECASE)
_BLEND = re.compile(r"e[- ]?(\d{1,3})(?!\w)", re.IGNORECASE)
_CODE = re.compile(
    r"(?=\w*\d)(?=\w*[^\W\d])\w+"
)  # letters and digits in one: a word of the builder's own
_MARKS = {"+": "plus", "@": "at", "&": "filler"}


@dataclass(frozen=True)
class Token:
    """A piece of a line: its kind, its text and where it stands in the line, the value it stands
    for and that in words.
    """

    kind: str
    text: str
    start: int
    end: int
    value: str = ""
    means: str = ""


def tokens(text: str) -> list[Token]:
    """The pieces of a line, in their order."""
    out: list[Token] = []
    at = 0
    while at < len(text):
        if text[at].isspace():
            at += 1
            continue
        next_tokens = list(_next(text, at, out))
        out += next_tokens
        at = next_tokens[-1].end
    return out


def _next(text: str, at: int, before: list[Token]) -> Iterator[Token]:
    fresh = at == 0 or not (text[at - 1].isalnum() or text[at - 1] in ".'")
    if fresh and (hit := _DASH.match(text, at)) and int(hit[1] or hit[2] or hit[3]) in DASHES:
        yield Token("dash", hit[0], at, hit.end(), hit[1] or hit[2] or hit[3])
        return
    if fresh and (hit := _RANGE.match(text, at)) and int(hit[1]) < int(hit[2]):
        yield Token("range", hit[0], at, hit.end(), hit[2])
        return
    after_number = bool(before) and before[-1].kind == "number"
    if (
        fresh
        and (hit := _SHAPE.match(text, at))
        and 2 <= int(hit[2]) <= 16
        and not (after_number and " " in hit[0])
    ):
        yield Token("shape", hit[0], at, hit.end(), hit[2], hit[1].lower())
        return
    if fresh and (hit := _BLEND.match(text, at)):
        known = int(hit[1]) <= 100
        yield Token(
            "fuel" if known else "unknown", hit[0], at, hit.end(), f"E{int(hit[1])}", "fuel"
        )
        return
    if (
        fresh
        and (named := look_up(_words(text, at)[0][:1]))
        and named[0].kind == "fuel"
        and text[at].isdigit()
    ):
        end = _words(text, at)[1][0]
        yield Token("fuel", text[at:end], at, end, named[0].value, named[0].means)
        return
    if hit := _NUMBER.match(text, at):
        before_kind = next((t.kind for t in reversed(before) if t.kind != "filler"), "")
        alone = (
            re.compile(r"\d+").match(text, at)
            if " " in hit[0] and before_kind in ("banks", "radial", "boosted")
            else None
        )
        yield from _number(text, at, alone or hit)
        return
    if (hit := _CODE.match(text, at)) and look_up([hit[0]]) is None:
        yield Token("own", hit[0], at, hit.end())
        return
    words, ends = _words(text, at)
    if words and words[0] in ("x", "X") and after_number:
        yield Token("times", words[0], at, ends[0])
        return
    if words:
        meant = look_up(words)
        if meant is not None:
            entry, many = meant
            yield Token(
                entry.kind, text[at : ends[many - 1]], at, ends[many - 1], entry.value, entry.means
            )
        else:
            whole = _hyphened(text, at, ends[0])
            yield Token("own", text[at:whole], at, whole)
        return
    if (
        text[at] == "-" and at and text[at - 1].isalpha() and text[at + 1 : at + 2].isdigit()
    ):  # as in flat-4
        yield Token("filler", "-", at, at + 1)
        return
    kind = _MARKS.get(text[at], "comma" if text[at] in ",;:|()[]!?.\"'/-–—=*" else "own")
    yield Token(kind, text[at], at, at + 1)


def _number(text: str, at: int, hit: re.Match[str]) -> Iterator[Token]:
    """A number and the unit after it, or a code that begins with digits."""
    digits, end = hit[0], hit.end()
    grouped = (
        re.sub(r"[ ,](?=\d{3}(?!\d))", "", digits)
        if re.fullmatch(r"\d{1,3}(?:[ ,]\d{3})+(?:\.\d+)?", digits)
        else digits
    )
    rest = (
        end + 1
        if end < len(text) and text[end] == "-" and text[end + 1 : end + 2].isalpha()
        else end
    )
    attached = rest < len(text) and (text[rest].isalpha() or rest > end)
    if text[rest : rest + 1] in ("x", "X", "×") and not text[rest + 1 : rest + 2].isalpha():
        yield Token("number", digits, at, end, grouped)
        yield Token("times", text[rest], rest, rest + 1)
        return
    start = rest if attached else len(text) - len(text[end:].lstrip())
    words, ends = _words(text, start) if start < len(text) else ([], [])
    meant = look_up(words, UNITS) if words else None
    if meant is not None and attached and digits in VALVES and text[rest : ends[0]] == "v":
        meant = None
    if " " in digits and (meant is None or meant[0].kind not in ("power", "wheel power", "length")):
        first = digits.partition(" ")[0]  # two numbers side by side
        yield Token("number", first, at, at + len(first), first)
        return
    if meant is None and attached:
        whole = _hyphened(text, at, ends[0] if ends else end)
        code = re.match(r"\w+", text[at:])
        whole = max(whole, at + code.end()) if code else whole
        one = (len(text[at:whole]) - len(digits) < 2 and rest == end) or re.fullmatch(
            r"\d[\d.,]*e\d+", text[at:whole]
        ) is not None
        yield Token("unknown" if one or digits in VALVES else "own", text[at:whole], at, whole)
        return
    yield Token("number", digits, at, end, grouped.replace(",", "."))
    if meant is not None:
        entry, many = meant
        yield Token(
            entry.kind,
            text[start : ends[many - 1]],
            start,
            ends[many - 1],
            entry.value,
            entry.means,
        )


def _words(text: str, at: int) -> tuple[list[str], list[int]]:
    """The words from a place on, at most five, with hyphens or single spaces between, and where
    each ends.
    """
    words, ends = list[str](), list[int]()
    while len(words) < 5 and (
        hit := _WORD.match(text, at)
        or (re.compile(r"\d+[^\W\d_]+").match(text, at) if not words else None)
    ):
        words.append(hit[0])
        ends.append(hit.end())
        at = hit.end()
        if text[at : at + 1] in ("-", " ") and at + 1 < len(text):
            at += 1
            while text[at : at + 1] == " ":
                at += 1
        else:
            break
    return words, ends


def _hyphened(text: str, start: int, end: int) -> int:
    """Where a word ends that goes on after hyphens or with digits."""
    hit = re.compile(r"(?:[-'’/&]?\w+)*").match(text, end)
    return max(end, hit.end()) if hit else end
