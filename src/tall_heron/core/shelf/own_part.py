"""A part of the builder's own: a maker's sheet typed in, or something on hand with measured or
guessed figures.
"""

import json
import re
from functools import lru_cache
from typing import Annotated

from pydantic import Field, TypeAdapter

from tall_heron.core.document.figures import Law
from tall_heron.core.document.kinds import KINDS
from tall_heron.core.document.properties import Properties
from tall_heron.core.document.record import Name, Record
from tall_heron.core.document.upgrade import upgraded_part
from tall_heron.core.shelf.shelf import ShelfPart

STEM = "own-"  # begins the names of the builder's own parts
MOST_TYPED = 40_000  # letters, a pump's table


class OwnPart(Record):
    """What is stored of an own part; `kind` is that of the element it serves as, `supplier` whom it
    is bought from, in the builder's words, `typed` the texts of the form it was typed in, to open
    it again.
    """

    title: Annotated[str, Field(min_length=1, max_length=120)]
    kind: Annotated[str, Field(max_length=20)]
    figures: Law
    properties: Properties = Field(default_factory=Properties)
    supplier: Annotated[str, Field(max_length=60)] = ""
    typed: Annotated[
        dict[str, Annotated[str, Field(max_length=MOST_TYPED)]], Field(max_length=60)
    ] = Field(default_factory=dict)


ADAPTER = TypeAdapter(OwnPart)


def stem_of(title: str) -> Name:
    """The start of a name on the shelf, made from a title."""
    return STEM + (re.sub(r"[^a-z0-9]+", "-", title.lower()).strip("-")[:30] or "part")


def stored(part: OwnPart) -> str:
    """A part as it is kept."""
    return ADAPTER.dump_json(
        part,
        exclude_none=True,
        exclude={name for name in ("typed", "supplier") if not getattr(part, name)},
    ).decode()


def read_own_part(document: str) -> OwnPart:
    """A part as it was kept, by this edition or an older one. Raises pydantic's ValidationError
    where the document is not sound.
    """
    return ADAPTER.validate_python(upgraded_part(json.loads(document)))


@lru_cache(maxsize=8192)
def bought_from(document: str) -> str:
    """Whom a stored part is bought from, read once; empty where nobody said."""
    return read_own_part(document).supplier


@lru_cache(maxsize=8192)
def on_shelf(name: str, document: str) -> ShelfPart:
    """A stored part as one of the shelf, read once. Raises pydantic's ValidationError where the
    document is not sound.
    """
    own = read_own_part(document)
    assert own.kind in KINDS
    source = {"sheet": "maker's sheet, typed in", "measured": "measured", "guessed": "guessed"}[
        own.properties.provenance
    ]
    return ShelfPart(name, own.title, own.kind, own.figures, own.properties, source)
