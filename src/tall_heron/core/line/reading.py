"""One free line of a builder, `turbo six 4.2 L, 620 hp, E70, 58 psi + 22`, read into fields of the
brief, parts that are there or wanted, and questions.
"""

import re

from tall_heron.core.document.wish import MOST_WISHES, asked_once
from tall_heron.core.line.figures import Figures
from tall_heron.core.line.grammar import parsed
from tall_heron.core.line.heard import LineReading
from tall_heron.core.line.parts import Parts
from tall_heron.core.line.sayings import Sayings
from tall_heron.core.line.tokens import Token, tokens

LONGEST = 300  # letters of a line
NAMING = 4  # words of a name at most, before a comma


def read_line(text: str) -> LineReading:
    """Read one line. Nothing is dropped: what is not understood is asked about, and words without a
    meaning here are kept as the builder's own.

    >>> r = read_line("Sandpiper: turbo six 4.2 L, 620 hp, E70, 58 psi + 22")
    >>> r.name, r.fields["cylinders"], r.fields["fuel"], round(r.fields["power_kw"]), round(r.fields["base_kpa"]), round(r.fields["boost_kpa"]), r.questions
    ('Sandpiper', 6, 'E70', 462, 400, 152, [])
    """
    return _Reader(text[:LONGEST]).read()


def name_of(text: str) -> tuple[str, int]:
    """A name before a colon, or before a comma where a line starts with words of which none says
    anything of a build; and where what is said begins.
    """
    head, colon, _ = text.partition(":")
    if colon and any(c.isalpha() for c in head):
        return head.strip(), len(head) + 1
    head, comma, rest = text.partition(",")
    words = head.split()
    plain = (
        bool(words)
        and len(words) <= NAMING
        and all(re.fullmatch(r"[^\W\d_][^\W\d_'’-]*", w) for w in words)
    )
    if (
        comma
        and plain
        and any(c.isdigit() for c in rest)
        and all(t.kind in ("own", "filler") for t in tokens(head))
    ):
        return head.strip(), len(head) + 1
    return "", 0


class _Reader(Figures, Parts, Sayings):
    """One line, piece by piece."""

    def read(self) -> LineReading:
        """The whole line."""
        self.out.name, begins = name_of(self.text)
        for name, pieces in parsed([_moved(t, begins) for t in tokens(self.text[begins:])]):
            getattr(self, "_" + name)(pieces)
        self.settle()
        self.out.questions = asked_once(self.out.questions)
        del self.out.wishes[MOST_WISHES:]
        self.out.pieces.sort(key=lambda p: p.start)
        title = " ".join(
            [
                *(w for _, w in sorted(self.titled)),
                self.liters or self.out.typed.get("displacement_l", ""),
            ]
        ).strip()[:120]
        if self.out.says and title:
            self.out.fields["title"] = title
        return self.out


def _moved(t: Token, by: int) -> Token:
    return Token(t.kind, t.text, t.start + by, t.end + by, t.value, t.means)
