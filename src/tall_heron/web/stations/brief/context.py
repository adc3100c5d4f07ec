"""What the Brief page shows."""

from typing import Any

from tall_heron.core.design import Design
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.sizing.auto_size import reasons
from tall_heron.core.study.demand import alcohol_over_petrol
from tall_heron.core.study.injector_duty import doses
from tall_heron.web.answers import Stored, on_fuels
from tall_heron.web.drawing.charts.schools import draw_schools
from tall_heron.web.drawing.circuit.circuit import draw_circuit
from tall_heron.web.frame import frame
from tall_heron.web.show.fields import FIELDS, field_text
from tall_heron.web.show.figures import head_figures
from tall_heron.web.stations.circuit.context import told

FIRST_SIZES = "Sized to the brief"  # the act by which a new build gets its sizes


def brief_context(found: Stored, made: Design, fuels: bool = False) -> dict[str, Any]:
    """Everything the Brief page shows; the table of other `fuels` only where it stands open, since it solves the build once for each."""
    solved = made.study.peak
    return frame(found, made, "brief") | {
        "solved": solved,
        "figures": head_figures(made.study, solved, made.findings),
        "d": draw_circuit(made.study, solved, made.findings, ""),
        "findings": told(made, None),
        "fuels": on_fuels(found) if fuels else [],
        "chart": draw_schools(made.study.burn),
        "doses": doses(made.study, solved),
        "trade": alcohol_over_petrol(made.study.brief),
        "fields": list(FIELDS.values()),
        "field_text": field_text,
        "layout": LAYOUTS.get(made.study.build.circuit.template or ""),
        "chosen": made.study.answered("reasons", reasons) if found.row["act"] == FIRST_SIZES else None,
    }
