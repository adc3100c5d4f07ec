"""A part of the builder's own: a maker's sheet typed in, or something on hand with measured or guessed figures."""

import re
from typing import Annotated

from pydantic import Field, TypeAdapter

from tall_heron.core.document.circuit import About, Law, Name, Record
from tall_heron.core.document.kinds import KINDS
from tall_heron.core.shelf.shelf import ShelfPart


class OwnPart(Record):
    """What is stored of an own part; `kind` is that of the element it serves as."""

    title: Annotated[str, Field(min_length=1, max_length=120)]
    kind: Annotated[str, Field(max_length=20)]
    part: Law
    about: About = Field(default_factory=About)


ADAPTER = TypeAdapter(OwnPart)


def stem_of(title: str) -> Name:
    """The start of a name on the shelf, made from a title."""
    return "own-" + (re.sub(r"[^a-z0-9]+", "-", title.lower()).strip("-")[:30] or "part")


def on_shelf(name: str, document: str) -> ShelfPart:
    """A stored part as one of the shelf. Raises pydantic's ValidationError where the document is not sound."""
    own = ADAPTER.validate_json(document)
    assert own.kind in KINDS
    source = {"sheet": "maker's sheet, typed in", "measured": "measured", "guessed": "guessed"}[own.about.provenance]
    return ShelfPart(name, own.title, own.kind, own.part, own.about, source)
