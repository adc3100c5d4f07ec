"""The views to scale on paper: the largest usual scale at which one fits the sheet."""

from dataclasses import dataclass

from tall_heron.core.base.constants import INCH_MM
from tall_heron.core.design import Design
from tall_heron.core.rules.route import laid_of
from tall_heron.web.drawing.route.scene import Scene, draw_views

PAPERS = {"A4": (297.0, 210.0), "Letter": (279.4, 215.9), "A3": (420.0, 297.0)}  # mm, lying
EDGE, HEAD = 12.0, 34.0  # mm of margin, and of what stands over a view
SCALES = (1, 2, 2.5, 5, 7.5, 10, 12.5, 15, 20, 25, 30, 40, 50, 60, 75, 100)
PX_MM = 96 / INCH_MM  # CSS pixels a millimeter of paper


@dataclass(frozen=True)
class PaperSheet:
    """A view on paper: its scene, one to how much, and its size on paper [mm]."""

    scene: Scene
    times: float
    wide: float
    high: float
    bar_mm: float  # what the scale bar stands for, and its length on paper
    bar: float


def paper_sheets(made: Design, size: str) -> list[PaperSheet]:
    """Side, plan and rear, each at the largest usual scale that fits the paper."""
    laid, findings = laid_of(made.study), made.of_route[0]
    wide, high = PAPERS[size][0] - 2 * EDGE, PAPERS[size][1] - 2 * EDGE - HEAD
    out = []
    for name in ("side", "plan", "rear"):
        usual = draw_views(laid, (name,), findings, "", "")[0]
        mm_wide, mm_high = usual.width / usual.view.scale, usual.height / usual.view.scale
        times = next((s for s in SCALES if mm_wide / s <= wide and mm_high / s <= high), SCALES[-1])
        scene = draw_views(laid, (name,), findings, "", "", PX_MM / times / usual.view.scale)[0]
        bar = 1000.0 if times >= 15 else 500.0
        out.append(
            PaperSheet(scene, times, scene.width / PX_MM, scene.height / PX_MM, bar, bar / times)
        )
    return out
