"""What the Layout page shows."""

from typing import Any

from tall_heron.core.design import Design
from tall_heron.core.sizing.chooser import choose
from tall_heron.core.sizing.why_layout import why_layout
from tall_heron.web.answers import Stored
from tall_heron.web.drawing.circuit.sketch import draw_sketch
from tall_heron.web.frame import frame
from tall_heron.web.stations.circuit.context import told


def layout_context(found: Stored, made: Design) -> dict[str, Any]:
    """Everything the Layout page shows."""
    choice = choose(found.build)
    rows = [(c, draw_sketch(c.study), w, why_layout(c)) for c, w in zip(choice.candidates, choice.wins, strict=True)]
    return frame(found, made, "layout") | {"choice": choice, "rows": rows, "findings": told(made, None)}
