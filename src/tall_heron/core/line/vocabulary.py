"""Words of a builder's line: what each means, in whatever way it is written, one slip in a word
forgiven. All of them stand in data/words/line_words.csv.
"""

import difflib
from dataclasses import dataclass
from functools import cache

from tall_heron.core.base.catalogue import table

FORGIVEN_FROM = 5  # letters: a shorter word with a slip is another word


@dataclass(frozen=True)
class Entry:
    """What a word or phrase means: its kind, the value it stands for, and that in words; whether it
    was `slipped` into.
    """

    kind: str
    value: str
    means: str
    slipped: bool = False


@cache
def vocabulary() -> dict[tuple[str, ...], Entry]:
    """Every phrase, as its words, and what it means; of two that are alike the first."""
    out: dict[tuple[str, ...], Entry] = {}
    for row in table("line_words"):
        value = row["value"]
        entry = Entry(
            row["kind"],
            "" if value is None else f"{value:g}" if isinstance(value, float) else str(value),
            row["means"] or "",
        )
        for phrase in str(row["word"]).split("|"):
            out.setdefault(tuple(phrase.split()), entry)
    return out


@cache
def _long_words() -> list[str]:
    return sorted(
        {word for phrase in vocabulary() for word in phrase if len(word) >= FORGIVEN_FROM}
    )


@cache
def spelled(word: str) -> str:
    """A word as the vocabulary has it, where it differs by one letter too many, too few, other, or
    out of place; else as it is.

    >>> spelled("supercharhed"), spelled("turob"), spelled("kestrel")
    ('supercharged', 'turbo', 'kestrel')
    """
    if len(word) < FORGIVEN_FROM:
        return word
    near = difflib.get_close_matches(word, _long_words(), n=1, cutoff=1 - 1 / len(word) - 1e-9)
    return near[0] if near else word


@cache
def _longest_phrase() -> int:
    """How many words the longest phrase has."""
    return max(map(len, vocabulary()))


def look_up(words: list[str], kinds: frozenset[str] | None = None) -> tuple[Entry, int] | None:
    """What the longest phrase that some words begin with means, and of how many words it is; only
    of some kinds where they are given.
    """
    known = vocabulary()
    for many in range(min(_longest_phrase(), len(words)), 0, -1):
        lowered = tuple(w.lower() for w in words[:many])
        for phrase in (lowered, tuple(spelled(w) for w in lowered)):
            entry = known.get(phrase)
            if entry is not None and (kinds is None or entry.kind in kinds):
                return (
                    entry
                    if phrase == lowered
                    else Entry(entry.kind, entry.value, entry.means, slipped=True)
                ), many
    return None
