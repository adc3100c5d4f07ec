"""What the Layout page shows."""

from typing import Any

from tall_heron.core.base.kept import Kept
from tall_heron.core.design import Design
from tall_heron.core.sizing.chooser import Choice, choose, wanted
from tall_heron.core.sizing.why_layout import why_layout
from tall_heron.web.answers import Stored, own_shelf
from tall_heron.web.drawing.circuit.sketch import draw_sketch
from tall_heron.web.frame import frame
from tall_heron.web.stations.circuit.context import told

Sizes = dict[tuple[str, str], dict[str, str]]
SIZES = Kept[Sizes](12)  # what was sized for each layout of a document, by its hash: a search that is asked to go on goes on from there


def sizes_of(found: Stored) -> Sizes:
    """What is sized so far for the layouts of a build, and may be added to."""
    return SIZES.get(found.row["sha256"], dict)


def layout_context(found: Stored, made: Design) -> dict[str, Any]:
    """Everything the Layout page shows, with the sizes that are found."""
    return frame(found, made, "layout") | choices_context(found) | {"findings": told(made, None)}


def choices_context(found: Stored) -> dict[str, Any]:
    """The layouts side by side."""
    sizes = sizes_of(found)
    choice: Choice = choose(found.build, sizes, own_shelf()) if sizes else choose(found.build)  # type: ignore[arg-type]
    rows = [(c, draw_sketch(c.study), w, why_layout(c)) for c, w in zip(choice.candidates, choice.wins, strict=True)]
    return {"choice": choice, "rows": rows, "unsized": sum((x.key, r) not in sizes for x, r in wanted(found.build)), "slug": found.row["slug"]}
