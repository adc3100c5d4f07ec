"""What the Brief page shows."""

from functools import lru_cache
from typing import Any

from flask import g

from tall_heron.core.design import Design
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.line.heard import LinePiece
from tall_heron.core.line.reading import read_line
from tall_heron.core.shelf.own_part import OwnPart, stored
from tall_heron.core.sizing.auto_size import reasons
from tall_heron.core.study.cases.injector_duty import doses
from tall_heron.core.study.demand import alcohol_over_gasoline, required_flow
from tall_heron.store import own_parts
from tall_heron.web.answers import Stored, on_fuels
from tall_heron.web.drawing.charts.schools import draw_schools
from tall_heron.web.drawing.circuit.circuit import draw_circuit
from tall_heron.web.forms.brief import FIELDS, GROUPS, field_text
from tall_heron.web.frame import frame
from tall_heron.web.show.figures import head_figures
from tall_heron.web.stations.circuit.context import findings_told

FIRST_SIZES = "Sized to the brief"  # the act by which a new build gets its sizes


def keep_on_shelf(parts: dict[str, OwnPart]) -> None:
    """Parts that a builder has, put on his shelf for the next build, those apart that stand there
    already.
    """
    known = {row["name"] for row in own_parts.every(g.connection)}
    own_parts.merge(
        g.connection, [(name, stored(part)) for name, part in parts.items() if name not in known]
    )


@lru_cache(maxsize=64)
def said_pieces(line: str) -> tuple[tuple[str, LinePiece | None], ...]:
    """The line a build was started from, whole: each stretch of it, and the piece it was read as,
    where it was.
    """
    out, at = list[tuple[str, LinePiece | None]](), 0
    for piece in read_line(line).pieces if line else ():
        if piece.start < at:
            continue
        out += [(line[at : piece.start], None), (piece.text, piece)]
        at = piece.end
    return tuple(x for x in (*out, (line[at:], None)) if x[0])


def brief_context(found: Stored, made: Design, fuels: bool = False) -> dict[str, Any]:
    """Everything the Brief page shows; the table of other `fuels` only where it stands open, since
    it solves the build once for each.
    """
    solved = made.study.peak
    return frame(found, made, "brief") | {
        "solved": solved,
        "figures": head_figures(made.study, solved, made.findings),
        "d": draw_circuit(made.study, solved, made.findings, ""),
        "findings": findings_told(made, None),
        "fuels": on_fuels(found) if fuels else [],
        "chart": draw_schools(made.study.fuel_demand),
        "required": required_flow(
            made.study.brief, made.study.fuel_demand, not made.study.feed_path.pumps
        ),
        "doses": doses(made.study, solved),
        "trade": alcohol_over_gasoline(made.study.brief),
        "groups": {title: [FIELDS[n] for n in names] for title, names in GROUPS.items()},
        "field_text": field_text,
        "layout": LAYOUTS.get(made.study.build.circuit.template or ""),
        "pieces": said_pieces(found.build.line),
        "wishes": found.build.wishes,
        "questions": found.build.questions,
        "chosen": reasons(made.study) if found.row["fresh"] else None,
    }
