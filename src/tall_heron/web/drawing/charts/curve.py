"""A chart that the page's script draws, with zoom and read-out, and the table behind it."""

import json
import math
from collections.abc import Sequence
from dataclasses import dataclass

from tall_heron.web.show.text import number

MOST_ROWS = 24


@dataclass(frozen=True)
class CurveLine:
    """A line of a chart: what it is, its figures, None or NaN where it ends, and how it is drawn:
    ink, amber, rust, own, or thin.
    """

    label: str
    values: Sequence[float | None]
    style: str = "ink"
    dashed: bool = False


@dataclass(frozen=True)
class Dot:
    """A named place on a chart."""

    x: float
    y: float
    label: str
    style: str = "ink"


@dataclass(frozen=True)
class CurveChart:
    """A chart: its name, what it reads along and up with their units, its data as JSON for the
    script, and its table as heads and rows of text.
    """

    name: str
    title: str
    data: str
    heads: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    dots: tuple[Dot, ...]


def make_curve_chart(
    name: str,
    title: str,
    along: str,
    up: str,
    x: Sequence[float],
    lines: Sequence[CurveLine],
    dots: Sequence[Dot] = (),
    decimals: int = 1,
    of_dots: str = "at a case",
) -> CurveChart:
    """The chart of some lines over one axis; `of_dots` is what its dots are called where they are
    read out.
    """

    def plain(value: float | None) -> float | None:
        return None if value is None or not math.isfinite(value) else round(float(value), 4)

    data = {
        "along": along,
        "up": up,
        "x": [plain(v) for v in x],
        "lines": [
            {
                "label": line.label,
                "style": line.style,
                "dashed": line.dashed,
                "values": [plain(v) for v in line.values],
            }
            for line in lines
        ],
        "dots": [
            {"x": plain(d.x), "y": plain(d.y), "label": d.label, "style": d.style} for d in dots
        ],
        "of_dots": of_dots,
    }
    step = max(1, math.ceil(len(x) / MOST_ROWS))
    rows = tuple(
        (
            number(float(x[i]), decimals),
            *(
                number(float(v), decimals) if (v := plain(line.values[i])) is not None else "—"
                for line in lines
            ),
        )
        for i in range(0, len(x), step)
    )
    return CurveChart(
        name,
        title,
        json.dumps(data).replace("<", "\\u003c"),
        (along, *(line.label for line in lines)),
        rows,
        tuple(dots),
    )
