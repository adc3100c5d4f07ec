"""What the Layout page shows."""

from collections.abc import Iterator
from typing import Any

from tall_heron.core.base.lru_cache import LruCache
from tall_heron.core.design import Design
from tall_heron.core.editing.layouts.picks import Rails
from tall_heron.core.sizing.chooser import (
    Candidate,
    candidate,
    candidates,
    choice_of,
    layout_name,
    wanted,
)
from tall_heron.core.sizing.why_layout import why_layout
from tall_heron.web.answers import Stored, own_shelf
from tall_heron.web.drawing.circuit.sketch import draw_sketch
from tall_heron.web.frame import frame
from tall_heron.web.stations.circuit.context import findings_told

Made = dict[tuple[str, Rails], Candidate]
MADE = LruCache[Made](
    6
)  # the layouts of a document as they would be, by its hash and the builder's own shelf


def made_of(found: Stored) -> Made:
    """The layouts of a build that are made so far, and may be added to."""
    return MADE.get(f"{found.row['sha256']} {hash(repr(own_shelf()))}", dict)


def layout_context(found: Stored, made: Design) -> dict[str, Any]:
    """Everything the Layout page shows, with the layouts that are made already."""
    return (
        frame(found, made, "layout")
        | choices_context(found)
        | {"findings": findings_told(made, None)}
    )


def makes(found: Stored) -> Iterator[Candidate]:
    """Every layout that suits a build, those that are made already too, in the order they are
    shown.
    """
    known, own = made_of(found), own_shelf()
    if len(known) < len(wanted(found.build)):
        for c in candidates(found.build, own):
            known[c.key] = c
            yield c
        return
    yield from (known[layout.key, rails] for layout, rails in wanted(found.build))


def one(found: Stored, key: str, rails: Rails) -> Candidate | None:
    """One layout of a build, as the chooser shows it; None where it does not suit."""
    places = {(layout.key, r): (layout, r) for layout, r in wanted(found.build)}
    place = places.get((key, rails))
    if place is None:
        return None
    known = made_of(found)
    if (key, rails) not in known:
        known[key, rails] = candidate(found.build, *place, own_shelf())
    return known[key, rails]


def row_context(c: Candidate) -> dict[str, Any]:
    """One layout's row."""
    return {"c": c, "sketch": draw_sketch(c.study), "whys": why_layout(c)}


def choices_context(found: Stored) -> dict[str, Any]:
    """The layouts side by side: rows of those that are made, names of those that are to come;
    advice once all are there.
    """
    known, places = made_of(found), wanted(found.build)
    rows = [
        (
            layout,
            rails,
            row_context(known[layout.key, rails]) if (layout.key, rails) in known else None,
        )
        for layout, rails in places
    ]
    whole = (
        choice_of([known[layout.key, rails] for layout, rails in places])
        if len(known) == len(places)
        else None
    )
    return {
        "rows": rows,
        "choice": whole,
        "to_come": len(places) - len(known),
        "layout_name": layout_name,
        "slug": found.row["slug"],
    }
