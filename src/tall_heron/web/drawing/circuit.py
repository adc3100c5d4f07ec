"""The strip of symbols and the pressure walk under it, on the same x: one column a part, in flow order."""

from dataclasses import dataclass, field
from itertools import pairwise

from tall_heron.core.circuit import Element
from tall_heron.core.engine import asked_rail_pressure
from tall_heron.core.finding import Finding, worst_level
from tall_heron.core.path import Column, ways
from tall_heron.core.study import Solved, Study
from tall_heron.core.units import show
from tall_heron.web.drawing.axis import Axis, make_axis
from tall_heron.web.drawing.labels import Label, Placer
from tall_heron.web.drawing.strip import Strip, make_strip
from tall_heron.web.present import MINUS, ROLES, UNITS, bare, number, shown

WIDTH, HEIGHT = 900, 380
TOP, BOTTOM = 112.0, 318.0
LANE_ROOM = 56.0  # px that a lane beside the path adds
SIDE, HOSE_SIDE = 0.20, 0.45  # half width of a part's step, of its pitch
WORDS = {
    "pump": "pump",
    "check": "check",
    "merge": "merge",
    "split": "split",
    "rail": "rail",
    "regulator": "regulator",
    "valve": "shut-off",
}
PLURAL = {"pump": "pumps", "check": "checks", "filter": "filters"}


@dataclass(frozen=True)
class Symbol:
    """One part's symbol: where, how large, what it is called, and whether it is chosen."""

    element: Element
    x: float
    y: float
    scale: float
    label: str
    chosen: bool
    letter: str
    beside: bool = False
    tap: bool = False
    note: str = ""
    left: bool = False


@dataclass(frozen=True)
class Mark:
    """A finding's mark at a part."""

    level: str
    x: float
    y: float


@dataclass(frozen=True)
class Take:
    """The figure and the word under a column."""

    x: float
    value: str
    word: str
    chosen: bool
    bad: bool
    changed: bool = False


@dataclass
class Drawing:
    """Everything the template draws."""

    width: float
    height: float
    columns: list[tuple[float, str, bool]] = field(default_factory=list)
    symbols: list[Symbol] = field(default_factory=list)
    lines: list[tuple[float, float, float, float, str]] = field(default_factory=list)
    ends: list[tuple[float, float, str]] = field(default_factory=list)
    top: float = TOP
    bottom: float = BOTTOM
    side_walks: list[str] = field(default_factory=list)
    axis: Axis | None = None
    ticks: list[tuple[float, str]] = field(default_factory=list)
    profile: str = ""
    tried: str = ""
    points: list[tuple[float, float, float]] = field(default_factory=list)
    areas: list[tuple[str, int, bool]] = field(default_factory=list)
    low_area: str = ""
    labels: list[Label] = field(default_factory=list)
    takes: list[Take] = field(default_factory=list)
    asked: tuple[float, float, float] | None = None
    boiling: tuple[float, float, float] | None = None
    arrow: tuple[float, float, float] | None = None
    marks: list[Mark] = field(default_factory=list)
    pitch: float = 0.0
    unit: str = "psi"
    description: str = ""
    trouble: str = ""
    chosen_x: float | None = None


def draw_circuit(study: Study, solved: Solved, findings: list[Finding], chosen: str, tried: Solved | None = None) -> Drawing:
    """The drawing of a study at one case with one part chosen, and the walk of a swap being tried over it."""
    strip = make_strip(study.path, study.build.circuit.elements, WIDTH)
    xs, down = strip.xs, LANE_ROOM * strip.lanes
    out = Drawing(
        width=strip.width, height=HEIGHT + down, pitch=strip.pitch, unit=UNITS["pressure"][1], top=TOP + down, bottom=BOTTOM + down
    )
    _strip(out, strip, study, solved, findings, chosen)
    if not solved.solution.converged:
        out.trouble = f"No pressures: {solved.solution.reason}."
        _takes(out, study, solved, chosen, xs, findings)
        return out
    other = tried if tried is not None and tried.solution.converged else None
    _walk(out, strip, study, solved, chosen, other)
    _takes(out, study, solved, chosen, xs, findings, other)
    return out


def worst(findings: list[Finding], ids: list[str]) -> str:
    """The worst level among the findings on some parts, or an empty text."""
    return worst_level(f.level for f in findings if f.part in ids)


def _strip(out: Drawing, strip: Strip, study: Study, solved: Solved, findings: list[Finding], chosen: str) -> None:
    for column, x in zip(study.path.columns, strip.xs, strict=True):
        ids = [e.id for e in column.elements]
        out.columns.append((x, " ".join(ids), chosen in ids))
        if chosen in ids:
            out.chosen_x = x
        level = worst(findings, ids)
        if level:
            out.marks.append(Mark(level, x + 15, 22))
    for spot in sorted(strip.spots, key=lambda s: (s.x, s.tap, s.y)):
        element, beside = spot.element, spot.column is None or spot.tap
        level = worst(findings, [element.id])
        words = [f"{element.id} {element.title or element.kind}", takes_words(solved, element), level]
        letter = ROLES[spot.role] if element.kind in ("hose", "line") and spot.column is not None else ""
        note = take_text(element.kind, loss_of(solved, element)) if spot.column is None and not spot.tap else ""
        out.symbols.append(
            Symbol(
                element,
                spot.x,
                spot.y,
                spot.scale,
                ", ".join(w for w in words if w),
                element.id == chosen,
                letter,
                beside,
                spot.tap,
                note,
                spot.left,
            )
        )
        if level and beside:
            out.marks.append(Mark(level, spot.x + 13, spot.y - (0 if spot.tap else 14)))
    out.lines, out.ends = strip.lines, strip.ends
    names = ", ".join(name for _, name, _ in out.columns)
    out.description = f"Fuel circuit in flow order: {names}. Below it the gauge pressure at each part, in {out.unit}."


def loss_of(solved: Solved, element: Element) -> float | None:
    """What a part takes [Pa], where it is solved."""
    link = solved.solution.link(element.id)
    return link.loss if link is not None and solved.solution.converged else None


def take_text(kind: str, value: float | None) -> str:
    """The figure under a part: what it takes, or with a plus what it gives."""
    if value is None:
        return "—"
    return bare(value, "pressure") if kind not in ("tank", "pump") else "+" + bare(abs(value), "pressure")


def takes_words(solved: Solved, element: Element) -> str:
    """What a part takes, in words for its label."""
    link = solved.solution.link(element.id)
    if link is None or link.loss is None:
        return ""
    return f"gives {shown(-link.loss, 'pressure')}" if element.kind == "pump" else f"takes {shown(link.loss, 'pressure')}"


def word_for(column: Column) -> str:
    """The short word under a column."""
    element, several = column.elements[0], len(column.elements) > 1
    if several and element.kind in PLURAL:
        return PLURAL[element.kind]
    if element.kind in ("hose", "line") and element.length is not None:
        metres = f"{element.length.mm / 1000:.1f} m"
        return f"{element.about.dash.replace('-', MINUS)} {metres}".strip()
    if element.kind in ("strainer", "filter") and element.about.micron:
        return f"{element.about.micron:g} µm"
    if element.kind == "tank":
        return "pot" if "pot" in element.title else "tank"
    if element.kind == "fitting":
        return "inlet" if "inlet" in element.title else "fitting"
    return WORDS.get(element.kind, element.kind)[:9]


def column_loss(solved: Solved, column: Column) -> float | None:
    """Pressure over a column from its first node to its last [Pa]."""
    nodes = solved.solution.nodes
    if not column.start:
        return nodes.get(column.end)
    a, b = nodes.get(column.start), nodes.get(column.end)
    return a - b if a is not None and b is not None else None


def _takes(
    out: Drawing, study: Study, solved: Solved, chosen: str, xs: list[float], findings: list[Finding], tried: Solved | None = None
) -> None:
    for column, x in zip(study.path.columns, xs, strict=True):
        before = column_loss(solved, column) if solved.solution.converged else None
        loss = column_loss(tried, column) if tried is not None else before
        ids = [e.id for e in column.elements]
        kind = column.elements[0].kind

        figure, was = take_text(kind, loss), take_text(kind, before)
        out.takes.append(Take(x, figure, word_for(column), chosen in ids, worst(findings, ids) == "Stop", figure != was))


Step = tuple[Column, float, float, float, float]  # column, then x and pressure at its two sides


def _steps(out: Drawing, study: Study, solved: Solved, xs: list[float]) -> list[Step]:
    def value(node: str) -> float | None:
        pressure = solved.solution.nodes.get(node)
        return None if pressure is None else show(pressure, "pressure", UNITS["pressure"][0])

    steps = []
    for column, x in zip(study.path.columns, xs, strict=True):
        start, end = value(column.start or column.end), value(column.end)
        if start is not None and end is not None:
            half = out.pitch * (HOSE_SIDE if column.elements[0].kind in ("hose", "line") else SIDE)
            steps.append((column, x - half, start, x + half, end))
    return steps


def _side_steps(out: Drawing, strip: Strip, study: Study, solved: Solved) -> list[list[tuple[float, float]]]:
    """The walk of each line beside the path, as places with pressures."""
    spots = {s.element.id: s for s in strip.spots}
    walks = []
    for branch in study.path.branches:
        walk: list[tuple[float, float]] = []
        for e in branch.elements:
            a, b = (solved.solution.nodes.get(n) for n in (ways(e)[0]))
            if a is not None and b is not None:
                half = out.pitch * (HOSE_SIDE if e.kind in ("hose", "line") else SIDE)
                unit = UNITS["pressure"][0]
                walk += [(spots[e.id].x + side * half, show(p, "pressure", unit)) for side, p in ((-1, a), (1, b))]
        walks.append(walk)
    return walks


def _walk(out: Drawing, strip: Strip, study: Study, solved: Solved, chosen: str, tried: Solved | None) -> None:
    unit, xs = UNITS["pressure"][0], strip.xs
    steps = _steps(out, study, solved, xs)
    others = _steps(out, study, tried, xs) if tried is not None else []
    asked = show(asked_rail_pressure(study.brief, solved.case.point.manifold_kpa), "pressure", unit)
    boiling = show(study.vapour_pressure - solved.case.point.atmosphere_kpa * 1000, "pressure", unit)
    side = _side_steps(out, strip, study, solved)
    values = [p for _, _, a, _, b in steps + others for p in (a, b)] + [asked, boiling] + [p for walk in side for _, p in walk]
    axis = out.axis = make_axis(values, out.top, out.bottom)
    out.side_walks = [" ".join(f"{x:.1f},{axis.y(p):.1f}" for x, p in walk) for walk in side if walk]
    decimals = 0 if axis.step >= 1 else 1
    out.ticks = [(y, number(p, decimals)) for p, y in axis.ticks]
    out.points = [(x, axis.y(p), p) for _, xa, a, xb, b in steps for x, p in ((xa, a), (xb, b))]
    out.profile = " ".join(f"{x:.1f},{y:.1f}" for x, y, _ in out.points)
    out.tried = " ".join(f"{x:.1f},{axis.y(p):.1f}" for _, xa, a, xb, b in others for x, p in ((xa, a), (xb, b)))
    _areas(out, axis, steps, chosen, asked)
    _place_labels(out, study, solved, axis, steps, asked, boiling, xs)


def _areas(out: Drawing, axis: Axis, steps: list[Step], chosen: str, asked: float) -> None:
    floor = axis.bands[0].y_low if axis.tear_y is not None else axis.y(0.0)
    top_of_scale = max(20.0, 20 * (int(asked * 1.25 / 20) + 1))
    for (column, xa, a, xb, b), following in zip(steps, [*steps[1:], None], strict=True):
        ids = [e.id for e in column.elements]
        for x0, p0, x1, p1, own in ((xa, a, xb, b, True), *(((xb, b, following[1], following[2], False),) if following else ())):
            if min(p0, p1) < axis.bands[0].low:
                continue
            shade = min(5, max(0, int(6 * (p0 + p1) / 2 / top_of_scale)))
            corners = ((x0, axis.y(p0)), (x1, axis.y(p1)), (x1, floor), (x0, floor))
            out.areas.append((" ".join(f"{x:.1f},{y:.1f}" for x, y in corners), shade, own and chosen in ids))
    high = [x for x, _, p in out.points if p >= axis.bands[0].low] if axis.tear_y is not None else []
    if high and axis.tear_y is not None:
        y0, y1 = axis.tear_y + 9, axis.y(0.0)
        out.low_area = f"{min(high):.1f},{y0:.1f} {max(high):.1f},{y0:.1f} {max(high):.1f},{y1:.1f} {min(high):.1f},{y1:.1f}"


def _keep_line_clear(placer: Placer, points: list[tuple[float, float]]) -> None:
    """No label on a line: a box for each flat stretch, a stair of boxes for a steep one."""
    for (xa, ya), (xb, yb) in pairwise(points):
        if abs(yb - ya) < 40:
            placer.keep_clear((xa, min(ya, yb) - 2, xb, max(ya, yb) + 2))
        else:
            for k in range(12):
                x, y = xa + (xb - xa) * (k + 0.5) / 12, ya + (yb - ya) * (k + 0.5) / 12
                placer.keep_clear((x - 3, y - abs(yb - ya) / 24 - 1, x + 3, y + abs(yb - ya) / 24 + 1))


def _place_labels(
    out: Drawing,
    study: Study,
    solved: Solved,
    axis: Axis,
    steps: list[Step],
    asked: float,
    boiling: float,
    xs: list[float],
) -> None:
    placer = Placer((4.0, out.top - 16, out.width - 2, out.bottom + 6))
    for y, text in out.ticks:
        placer.keep_clear((0, y - 12, 8 + 8.5 * len(text), y + 6))
    _keep_line_clear(placer, [(x, y) for x, y, _ in out.points])
    for points in out.side_walks:
        _keep_line_clear(placer, [(float(a), float(b)) for a, b in (p.split(",") for p in points.split())])
    on_way = [s for s in steps if s[2] > axis.bands[0].low and s[4] > axis.bands[0].low] if axis.tear_y is not None else steps
    rail = next((s for s in steps if s[0].end == study.path.rail_node), None)
    pump = next((s for s in steps if s[0].elements[0].kind == "pump"), None)
    if rail is not None:
        end = max(rail[3] + out.pitch, rail[3])
        out.asked = (rail[1] - out.pitch, end, axis.y(asked))
        spots = [(end + 6 + dx, axis.y(asked) + dy, "start") for dx in (0, 20, 40) for dy in (5, 20, -9)]
        placer.place(f"{number(asked, 1)} asked", spots, "asked", 17)
        placer.keep_clear((out.asked[0], axis.y(asked) - 2, end, axis.y(asked) + 2))
    if pump is not None:
        x = pump[3]
        placer.place(number(pump[4], 1), [(x + d, axis.y(pump[4]) - 8 - u, "middle") for u in (0, 8) for d in (8, 16, 0, 26)], "value", 19)
    if rail is not None:
        x = (rail[1] + rail[3]) / 2
        placer.place(
            number(rail[4], 1),
            [(x + d, axis.y(max(rail[2], rail[4])) - 8 - u, "middle") for u in (0, 8, 18) for d in (0, 10, -10, 20)],
            "value",
            19,
        )
    drops = sorted((s for s in on_way if s[0].elements[0].kind not in ("pump", "regulator", "tank")), key=lambda s: s[4] - s[2])
    for rank, s in enumerate(drops[:3]):
        if s[2] - s[4] < 0.05:
            continue
        x, y = s[3] + 4, (axis.y(s[2]) + axis.y(s[4])) / 2
        spots = [(x + d, y + u, "start") for d in (0, 8) for u in (4, -6, -14, 14, 26)]
        placer.place(f"{MINUS}{number(s[2] - s[4], 1)}", spots, "drop" if rank == 0 else "value", 18)
    _suction_labels(out, study, solved, axis, placer, boiling, xs, pump)
    if axis.tear_y is not None:
        spots = [
            (out.width - 6, axis.tear_y + 22, "end"),
            (out.width - 6, axis.tear_y - 14, "end"),
            (xs[len(xs) // 2], axis.tear_y + 22, "middle"),
        ]
        placer.place(f"cut out: {number(axis.cut_out)} {out.unit}", spots, "small", 16)
    out.labels = placer.labels


def _suction_labels(
    out: Drawing,
    study: Study,
    solved: Solved,
    axis: Axis,
    placer: Placer,
    boiling: float,
    xs: list[float],
    pump: Step | None,
) -> None:
    y = axis.y(boiling)
    at = pump[1] if pump is not None else xs[min(3, len(xs) - 1)]
    out.boiling = (44.0, at + 30, y)
    placer.keep_clear((44.0, y - 2, at + 30, y + 2))
    temperature = f"{study.brief.fuel_temperature_c:g} °C"
    text = f"{study.burn.fuel.name} boils below {number(boiling, 1)} {out.unit} at {temperature}"
    spots = [(at + 36, y + dy, "start") for dy in (5, 12, -4, 20)] + [(48, y + 18, "start"), (48, y - 6, "start")]
    placer.place(text, spots, "boiling", 17)
    if pump is not None:
        inlet = axis.y(pump[2])
        x = pump[1] - 2
        if abs(y - inlet) > 8:
            out.arrow = (x, inlet, y)
            placer.keep_clear((x - 4, min(inlet, y), x + 4, max(inlet, y)))
        clear = f"{number(pump[2] - boiling, 1)} {out.unit} clear"
        middle = (inlet + y) / 2
        placer.place(
            clear,
            [(x - 8, middle + d, "end") for d in (6, 12, 0, 18)] + [(x + 10, middle + d, "start") for d in (6, 0, 12, -8)],
            "value",
            17,
        )
