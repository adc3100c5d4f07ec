"""A layout at a glance, as a builder would sketch it: out along the top to the engine, home along
the bottom; hoses are lines.
"""

from dataclasses import dataclass, field

from tall_heron.core.document.circuit import Element
from tall_heron.core.document.kinds import BURNERS, PIPES
from tall_heron.core.document.path import Path, PathBranch, PathColumn, ways
from tall_heron.core.study.study import Study
from tall_heron.web.drawing.circuit.columns import joined, offsets

PITCH, HALF, TOP, LANE, BACK = 56.0, 28.0, 44.0, 104.0, 156.0
BRANCH = 36.0


@dataclass
class Sketch:
    """Symbols as (part, x, y, scale), lines as (points, role), the size, and what it shows in
    words.
    """

    spots: list[tuple[Element, float, float, float]] = field(default_factory=list)
    lines: list[tuple[str, str]] = field(default_factory=list)
    width: float = 0.0
    height: float = BACK + 30
    words: str = ""

    def line(self, role: str, *points: tuple[float, float]) -> None:
        """A line through points."""
        self.lines.append((" ".join(f"{x:.1f},{y:.1f}" for x, y in points), role))


def draw_sketch(study: Study) -> Sketch:
    """The sketch of a study's circuit."""
    path, out = study.path, Sketch()
    ahead = [c for c in path.columns[: path.turn] if c.elements[0].kind not in PIPES]
    home = [e for c in path.columns[path.turn :] for e in c.elements[:1] if e.kind not in PIPES]
    where: dict[str, tuple[float, float]] = {}
    for i, column in enumerate(ahead):
        _column(out, column, 30 + i * PITCH, where)
        if i:
            role = "suction" if _index(path, column) < path.suction else "feed"
            x = 30 + (i - 1) * PITCH
            for x0, y0, x1, y1 in joined(
                len(ahead[i - 1].elements),
                len(column.elements),
                x,
                x + PITCH,
                x + HALF,
                TOP,
                BRANCH,
            ):
                out.line(role, (x0, y0), (x1, y1))
    # A line ends where its hose does: the place behind a hose is the place behind the part before
    # it.
    for column in path.columns[: path.turn]:
        for e in column.elements:
            for start, end in ways(e):
                if e.kind in PIPES and start in where:
                    where.setdefault(end, where[start])
    end_x = 30 + (len(ahead) - 1) * PITCH
    _taps(out, study, where)
    widest = end_x + HALF
    for branch in path.branches:
        widest = max(widest, _branch(out, branch, where))
    if len(path.columns) > path.turn:
        right = max(end_x + HALF + 22, widest + 8)  # clear of what hangs there
        out.line(
            "return", (end_x + 20, TOP), (right, TOP), (right, BACK), (30, BACK), (30, TOP + 14)
        )
        _on_the_way_home(out, home, end_x)
        widest = max(widest, right)
    out.width = widest + 16
    names = ", ".join(e.id for e, *_ in out.spots)
    out.words = f"Out to the engine and home: {names}"
    return out


def _index(path: Path, column: PathColumn) -> int:
    return path.columns.index(column)


def _column(
    out: Sketch, column: PathColumn, x: float, where: dict[str, tuple[float, float]]
) -> None:
    many = len(column.elements) > 1
    for e, dy in zip(column.elements, offsets(len(column.elements), BRANCH), strict=True):
        out.spots.append((e, x, TOP + dy, 0.8 if many else 1.0))
        for _, end in ways(e):
            where[end] = (x + HALF, TOP + (dy if e.kind not in ("split", "merge") else 0))
    for e, dy in zip(column.elements, offsets(len(column.elements), BRANCH), strict=True):
        if e.kind == "tank":
            where[e.ports["outlet"]] = (x + HALF, TOP + dy)


def _taps(out: Sketch, study: Study, where: dict[str, tuple[float, float]]) -> None:
    for e in study.build.circuit.of_kind(*BURNERS):
        if e.ports["start"] in where:
            x, y = where[e.ports["start"]]
            out.line("feed", (x - 8, y), (x, y), (x, y + 14))
            out.spots.append((e, x, y + 26, 0.7))


def _on_the_way_home(out: Sketch, parts: list[Element], right: float) -> None:
    for i, e in enumerate(parts):
        out.spots.append((e, right - i * PITCH, BACK, 0.9))


def _branch(out: Sketch, branch: PathBranch, where: dict[str, tuple[float, float]]) -> float:
    """A line beside the path; returns how far right it reaches."""
    parts = [e for e in branch.elements if e.kind not in PIPES]
    if branch.burns and branch.start in where:
        x, y = where[branch.start]
        ends = [x + HALF + 10 + i * PITCH for i in range(len(parts))]
        out.line("feed", (x, y), (x, LANE), (ends[-1] if ends else x, LANE))
        for e, at in zip(parts, ends, strict=True):
            out.spots.append((e, at, LANE, 0.9))
        if ends:
            for _, node in [w for e in branch.elements for w in ways(e)]:
                where.setdefault(node, (ends[-1] + 24, LANE))
        return (ends[-1] if ends else x) + 44
    if branch.start in where:
        x, y = where[branch.start]
        out.line("return", (x, y), (x, BACK), (30, BACK), (30, TOP + 14))
        _on_the_way_home(out, parts, x - 24)
        return x
    if branch.end in where:
        # What joins the path stands under it, to the left of where it joins.
        x, y = where[branch.end]
        right = max(30.0 + (len(parts) - 1) * PITCH, x - HALF)
        out.line(
            "suction",
            (30.0 if len(parts) < 2 else right - (len(parts) - 1) * PITCH, LANE),
            (right + HALF, LANE),
            (right + HALF, (y + LANE) / 2),
            (x, (y + LANE) / 2),
            (x, y),
        )
        for i, e in enumerate(reversed(parts)):
            out.spots.append((e, right - i * PITCH, LANE, 0.9))
        return right + HALF
    return 0.0
