"""What was heard of a line: its pieces as they were read, fields of the brief, wishes, questions;
and how each comes to be kept.
"""

from dataclasses import dataclass, field
from typing import Any

from tall_heron.core.base.units import parse
from tall_heron.core.document.wish import Question, Wish
from tall_heron.core.line.tokens import Token
from tall_heron.core.routing.outline import titles

FLYING = tuple(titles(flies=True))  # outlines of aircraft


@dataclass(frozen=True)
class LinePiece:
    """A piece of the line as it was read: its text, where it stands, what it was taken to be, and
    whether it was `read`, kept as the builder's `own` words, or is `asked` about.
    """

    text: str
    start: int
    end: int
    means: str
    state: str


@dataclass
class LineReading:
    """`fields` of the brief in document units with the text they came from in `typed`; `wishes` the
    parts and arrangements that are there or wanted; `questions` about what says nothing certain;
    `pieces` the whole line in its order. `layout` is the one the words ask for, `outline` the
    vehicle they name, `banks` how many banks the engine has, where they say so.
    """

    name: str = ""
    fields: dict[str, Any] = field(default_factory=dict)
    typed: dict[str, str] = field(default_factory=dict)
    pieces: list[LinePiece] = field(default_factory=list)
    wishes: list[Wish] = field(default_factory=list)
    questions: list[Question] = field(default_factory=list)
    layout: str = ""
    outline: str = ""
    rails: str = ""
    banks: int | None = None

    @property
    def says(self) -> bool:
        """Whether it says anything of a fuel system at all."""
        return bool(self.fields or self.wishes or self.layout or self.outline or self.questions)


class Heard:
    """One line in the making: `out` is what it comes to."""

    def __init__(self, text: str) -> None:
        self.out, self.text = LineReading(), text
        self.boosted = False
        self.rotors, self.liters = 0, ""  # how many, and their displacement as it is written
        self.pressures: list[tuple[float, str, list[Token]]] = []
        self.bare: list[list[Token]] = []
        self.counted: list[Token] = []  # a two of nothing that was taken for the cylinders
        self.titled: list[tuple[int, str]] = []

    def _span(self, pieces: list[Token]) -> str:
        return self.text[pieces[0].start : pieces[-1].end]

    def _piece(self, pieces: list[Token], means: str, state: str = "read") -> None:
        self.out.pieces.append(
            LinePiece(self._span(pieces), pieces[0].start, pieces[-1].end, means, state)
        )

    def _keep(
        self, field_name: str, value: Any, pieces: list[Token], means: str, typed: str = ""
    ) -> None:
        """A field of the brief; of two that say it otherwise the first stands, and the other is
        asked about.
        """
        span = self._span(pieces)
        if field_name in self.out.fields and self.out.fields[field_name] != value:
            first = self.out.typed[field_name]
            self._ask(pieces, f"“{first}” says otherwise, and was taken", [typed or span])
            return
        self.out.fields[field_name], self.out.typed[field_name] = value, typed or span
        self._piece(pieces, means)

    def _ask(self, pieces: list[Token], asks: str, guesses: list[str]) -> None:
        self._piece(pieces, asks, "asked")
        self._question(pieces, asks, guesses)

    def _question(self, pieces: list[Token], asks: str, guesses: list[str]) -> None:
        """What is asked about a piece that was read all the same."""
        self.out.questions.append(
            Question(text=self._span(pieces), asks=asks[:300], guesses=[g[:60] for g in guesses])
        )

    def _wish(self, pieces: list[Token], kind: str, means: str, **more: Any) -> None:
        self._piece(pieces, means)
        self.out.wishes.append(Wish(text=self._span(pieces), kind=kind, **more))

    @staticmethod
    def _of(pieces: list[Token], *kinds: str) -> Token | None:
        return next((t for t in pieces if t.kind in kinds), None)

    def _number_of(self, pieces: list[Token]) -> float:
        return float(next(t for t in pieces if t.kind in ("number", "range")).value)

    @staticmethod
    def _count_of(pieces: list[Token]) -> int | None:
        """How many: a number word, or a number before the noun itself or before an x."""
        for i, t in enumerate(pieces):
            after = pieces[i + 1].kind if i + 1 < len(pieces) else ""
            if t.kind == "count" or (
                t.kind == "number"
                and after
                in ("times", "pump", "injector", "rail", "bowl", "tank", "cell", "cylinders", "own")
            ):
                return int(float(t.value)) if 1 <= float(t.value) <= 48 else None
        return None

    def _si(
        self, pieces: list[Token], quantity: str, unit: Token | None, bare: str
    ) -> float | None:
        """The figure in SI; None, and asked about, where it cannot be read."""
        number = next(t for t in pieces if t.kind in ("number", "range"))
        try:
            return parse(
                f"{number.value} {unit.value if unit is not None else bare}", quantity, bare
            )
        except ValueError:
            self._ask(pieces, "that is no figure", [])
            return None

    def _titled_as(self, t: Token) -> None:
        self.titled.append((t.start, t.text))
