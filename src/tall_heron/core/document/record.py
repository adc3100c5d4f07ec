"""What every record of the document is made of."""

from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator


class Record(BaseModel):
    """A part of the document: unknown fields, infinities and NaN are refused."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    @field_validator("name", "title", "by", mode="before", check_fields=False)
    @classmethod
    def _one_line(cls, value: Any) -> Any:
        return one_line(value) if isinstance(value, str) else value


def one_line(text: str) -> str:
    """A name on one line, for a line break opens a section in some formats and a record in others;
    what cannot be seen is a space.

    >>> one_line("Sand\\npiper\\u2028 II")
    'Sand piper  II'
    """
    return (
        text if text.isprintable() else "".join(c if c.isprintable() else " " for c in text).strip()
    )


Name = Annotated[str, Field(min_length=1, max_length=40, pattern=r"^[A-Za-z0-9][A-Za-z0-9 _\-]*$")]
SMALLEST = 1e-9  # of what is above zero: less has no square that can be divided by


def above_zero(most: float) -> Any:
    """Bounds of a figure that is above zero, and of no more than `most`."""
    return Field(ge=SMALLEST, le=most)


Positive = Annotated[float, above_zero(1e9)]
NotNegative = Annotated[float, Field(ge=0, le=1e9)]
Finite = Annotated[float, Field(ge=-1e9, le=1e9)]
Bore = Annotated[float, Field(ge=0.1, le=1000, description="mm")]
# Where a figure comes from, the weakest last: `route` is a drawing in a vehicle that was measured,
# `outline` one in a stock outline.
Source = Literal["measured", "typed", "route", "outline", "assumed"]
DRAWN = ("route", "outline")  # sources of what was drawn
FOLLOWS = ("assumed", *DRAWN)  # sources that give way to the drawing: nobody has said these figures
GUESSES = ("outline", "assumed")  # sources that nobody has looked at the vehicle for
