"""What a builder's line says beside the figures of the brief: parts that are there or wanted, and
what could not be understood.
"""

from typing import Annotated, Literal

from pydantic import Field

from tall_heron.core.document.record import Record, above_zero

MOST_BOWLS = 3  # carburetors that are drawn, each with a line of its own
TypedText = Annotated[str, Field(max_length=300)]
WishKind = Literal[
    "pumps",
    "injectors",
    "feed",
    "return",
    "suction",
    "vent",
    "tank",
    "rails",
    "layout",
    "mat",
    "lines",
    "carburetors",
]


class Wish(Record):
    """A part or an arrangement that a builder has or wants, in his own words: how many, its figure
    (a pump's flow [L/h], an injector's [cc/min], a tank's volume [L], a dash size, a layout or an
    arrangement by its name), whether it is there already; and how the build honours it, or why it
    does not.
    """

    text: TypedText
    kind: WishKind
    count: Annotated[int, Field(ge=1, le=48)] | None = None
    figure: Annotated[float, above_zero(100_000)] | None = None
    value: Annotated[str, Field(max_length=40)] = ""
    have: bool = False
    honored: bool = True
    says: TypedText = ""


MOST_QUESTIONS, MOST_WISHES = 40, 60  # of a build


class Question(Record):
    """Words of the line that say nothing certain: what is asked about them, and what they may mean,
    each said as it would be in a line.
    """

    text: TypedText
    asks: TypedText
    guesses: Annotated[list[Annotated[str, Field(max_length=60)]], Field(max_length=6)] = Field(
        default_factory=list
    )


def asked_once(questions: list[Question]) -> list[Question]:
    """Questions, each once, and no more than a build may hold.

    >>> q = [Question(text=str(i % 50), asks="What is it?") for i in range(100)]
    >>> [x.text for x in asked_once(q)] == [str(i) for i in range(MOST_QUESTIONS)]
    True
    """
    different = {(q.text, q.asks, *q.guesses): q for q in questions}
    return list(different.values())[:MOST_QUESTIONS]
