"""What the Hoses page shows."""

from typing import Any

from tall_heron.core.design import Design
from tall_heron.core.document.sources import clocked
from tall_heron.core.editing.fields import own_ends
from tall_heron.core.rules.route import laid_of
from tall_heron.core.sheets.cut_list import make_buy_rows, make_route_rows
from tall_heron.core.shelf.shelf import ends_for
from tall_heron.web.answers import Stored
from tall_heron.web.drawing.hoses.cuts import draw_cuts
from tall_heron.web.frame import frame


def hoses_context(found: Stored, made: Design, hose: str) -> dict[str, Any]:
    """Everything the Hoses page shows."""
    cuts = made.cuts
    chosen = next((c for c in cuts if c.element.id == hose), cuts[0] if cuts else None)
    buy = [*make_buy_rows(cuts), *make_route_rows(laid_of(made.study))]
    return frame(found, made, "hoses") | {
        "cuts": cuts,
        "chosen": chosen,
        "cd": draw_cuts(cuts),
        "buy": buy,
        "angles": [row["angle_deg"] for row in ends_for(chosen.element.properties.family, chosen.element.properties.dash)] if chosen else [],
        "own_ends": own_ends(made.study.build, chosen.element) if chosen else [],
        "clocked": clocked,
        "total": sum(b.price or 0.0 for b in buy),
        "mass": sum(b.mass_kg or 0.0 for b in buy),
        "swaps": None,  # asked for once the page stands
        "swapped": chosen.element if chosen else None,
        "solved": made.study.peak,
    }
