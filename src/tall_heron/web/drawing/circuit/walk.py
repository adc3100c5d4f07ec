"""The pressure walk: gauge pressure along the path, on the same x as the parts above it, with
labels that find their own place.
"""

from itertools import pairwise

from tall_heron.core.base.constants import PSI
from tall_heron.core.base.units import show
from tall_heron.core.document.kinds import PIPES
from tall_heron.core.document.path import PathColumn, ways
from tall_heron.core.study.study import Solved, Study
from tall_heron.web.drawing.charts.axis import Axis, make_axis
from tall_heron.web.drawing.circuit.strip import CircuitStrip
from tall_heron.web.drawing.labels import Placer
from tall_heron.web.drawing.picture import Drawing
from tall_heron.web.show.text import MINUS, number, shown
from tall_heron.web.show.units import unit as unit_for

SIDE, HOSE_SIDE = 0.20, 0.45  # half width of a part's step, of its pitch

Step = tuple[PathColumn, float, float, float, float]  # column, then x and pressure at its two sides


def _steps(out: Drawing, study: Study, solved: Solved, xs: list[float]) -> list[Step]:
    def value(node: str) -> float | None:
        pressure = solved.solution.nodes.get(node)
        return None if pressure is None else show(pressure, "pressure", unit_for("pressure").word)

    steps = []
    for column, x in zip(study.path.columns, xs, strict=True):
        start, end = value(column.start or column.end), value(column.end)
        if start is not None and end is not None:
            half = out.pitch * (HOSE_SIDE if column.elements[0].kind in PIPES else SIDE)
            steps.append((column, x - half, start, x + half, end))
    return steps


def _side_steps(
    out: Drawing, strip: CircuitStrip, study: Study, solved: Solved
) -> list[list[tuple[float, float]]]:
    """The walk of each line beside the path, as places with pressures."""
    spots = {s.element.id: s for s in strip.spots}
    walks = []
    for branch in study.path.branches:
        walk: list[tuple[float, float]] = []
        for e in (x for x in branch.elements if ways(x)):
            a, b = (solved.solution.nodes.get(n) for n in (ways(e)[0]))
            if a is not None and b is not None:
                half = out.pitch * (HOSE_SIDE if e.kind in PIPES else SIDE)
                unit = unit_for("pressure").word
                walk += [
                    (spots[e.id].x + side * half, show(p, "pressure", unit))
                    for side, p in ((-1, a), (1, b))
                ]
        walks.append(walk)
    return walks


def draw_walk(
    out: Drawing,
    strip: CircuitStrip,
    study: Study,
    solved: Solved,
    chosen: str,
    tried: Solved | None,
) -> None:
    unit, xs = unit_for("pressure").word, strip.xs
    steps = _steps(out, study, solved, xs)
    others = _steps(out, study, tried, xs) if tried is not None else []
    asked = show(study.asked(solved), "pressure", unit)
    boiling = show(
        study.boils_at(solved.case.fuel) - solved.case.point.atmosphere, "pressure", unit
    )
    side = _side_steps(out, strip, study, solved)
    values = (
        [p for _, _, a, _, b in steps + others for p in (a, b)]
        + [asked, boiling]
        + [p for walk in side for _, p in walk]
    )
    axis = out.axis = make_axis(values, out.top, out.bottom)
    out.side_walks = [
        " ".join(f"{x:.1f},{axis.y(p):.1f}" for x, p in walk) for walk in side if walk
    ]
    out.ticks = axis.tick_texts
    out.points = [(x, axis.y(p), p) for _, xa, a, xb, b in steps for x, p in ((xa, a), (xb, b))]
    out.profile = " ".join(f"{x:.1f},{y:.1f}" for x, y, _ in out.points)
    out.tried = " ".join(
        f"{x:.1f},{axis.y(p):.1f}" for _, xa, a, xb, b in others for x, p in ((xa, a), (xb, b))
    )
    _areas(out, axis, steps, chosen, asked)
    _place_labels(out, study, solved, axis, steps, asked, boiling, xs)


def _areas(out: Drawing, axis: Axis, steps: list[Step], chosen: str, asked: float) -> None:
    floor = axis.bands[0].y_low if axis.tear_y is not None else axis.y(0.0)
    step = show(
        20 * PSI, "pressure", unit_for("pressure").word
    )  # the same depth of blue in any unit
    top_of_scale = step * max(1, int(asked * 1.25 / step) + 1)
    for (column, xa, a, xb, b), following in zip(steps, [*steps[1:], None], strict=True):
        ids = [e.id for e in column.elements]
        for x0, p0, x1, p1, own in (
            (xa, a, xb, b, True),
            *(((xb, b, following[1], following[2], False),) if following else ()),
        ):
            if min(p0, p1) < axis.bands[0].low:
                continue
            shade = min(5, max(0, int(6 * (p0 + p1) / 2 / top_of_scale)))
            corners = ((x0, axis.y(p0)), (x1, axis.y(p1)), (x1, floor), (x0, floor))
            out.areas.append(
                (" ".join(f"{x:.1f},{y:.1f}" for x, y in corners), shade, own and chosen in ids)
            )
    high = (
        [x for x, _, p in out.points if p >= axis.bands[0].low] if axis.tear_y is not None else []
    )
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
                placer.keep_clear(
                    (x - 3, y - abs(yb - ya) / 24 - 1, x + 3, y + abs(yb - ya) / 24 + 1)
                )


def _whole(value: float) -> str:
    """What the tear cuts out."""
    return number(value, min(unit_for("pressure").decimals, 1) if value < 10 else 0)


def _p(value: float) -> str:
    """A pressure that is in the shown unit already."""
    return number(value, unit_for("pressure").decimals)


def _clear_of_lines(out: Drawing, axis: Axis) -> Placer:
    """Where labels may stand: not on the ticks, the walks or the tear."""
    over = 4 if out.dense else 16  # in a dense strip names stand right above
    placer = Placer((4.0, out.top - over, out.width - 2, out.bottom + 6))
    for y, text in out.ticks:
        placer.keep_clear((0, y - 12, 8 + 8.5 * len(text), y + 6))
    _keep_line_clear(placer, [(x, y) for x, y, _ in out.points])
    for points in out.side_walks:
        _keep_line_clear(
            placer, [(float(a), float(b)) for a, b in (p.split(",") for p in points.split())]
        )
    if axis.tear_y is not None:
        placer.keep_clear((0, axis.tear_y - 9, out.width, axis.tear_y + 8))
    return placer


def _asked_label(out: Drawing, placer: Placer, axis: Axis, rail: Step, asked: float) -> None:
    """The pressure asked for, as a line at the rail and a label beside it."""
    end, y = max(rail[3] + out.pitch, rail[3]), axis.y(asked)
    out.asked = (rail[1] - out.pitch, end, y)
    spots = [(end + 6 + dx, y + dy, "start") for dx in (0, 20, 40) for dy in (5, 20, -9)]
    spots += [(out.asked[0] - 6 - dx, y + 5, "end") for dx in (0, 20, 40)]
    placer.place(f"{_p(asked)} target", spots, "asked", 17)
    placer.keep_clear((out.asked[0], y - 2, end, y + 2))


def _drop_labels(placer: Placer, axis: Axis, steps: list[Step]) -> None:
    """What the three parts that take most take."""
    drops = sorted(
        (s for s in steps if s[0].elements[0].kind not in ("pump", "regulator", "tank")),
        key=lambda s: s[4] - s[2],
    )
    for rank, s in enumerate(drops[:3]):
        if s[2] - s[4] < 0.5 * 10 ** -unit_for("pressure").decimals:
            continue
        x, y = s[3] + 4, (axis.y(s[2]) + axis.y(s[4])) / 2
        spots = [(x + d, y + u, "start") for d in (0, 8) for u in (4, -6, -14, 14, 26)]
        placer.place(f"{MINUS}{_p(s[2] - s[4])}", spots, "drop" if rank == 0 else "value", 18)


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
    placer = _clear_of_lines(out, axis)
    on_way = (
        [s for s in steps if s[2] > axis.bands[0].low and s[4] > axis.bands[0].low]
        if axis.tear_y is not None
        else steps
    )
    rail = next((s for s in steps if s[0].end == study.path.rail_node), None)
    pump = next((s for s in steps if s[0].elements[0].kind == "pump"), None)
    if rail is not None:
        _asked_label(out, placer, axis, rail, asked)
    if pump is not None:
        spots = [
            (pump[3] + d, axis.y(pump[4]) - 8 - u, "middle") for u in (0, 8) for d in (8, 16, 0, 26)
        ]
        placer.place(_p(pump[4]), spots, "value", 19)
    if rail is not None:
        x, y = (rail[1] + rail[3]) / 2, axis.y(max(rail[2], rail[4])) - 8
        placer.place(
            _p(rail[4]),
            [(x + d, y - u, "middle") for u in (0, 8, 18) for d in (0, 10, -10, 20)],
            "value",
            19,
        )
    _drop_labels(placer, axis, on_way)
    _suction_labels(out, study, solved, axis, placer, boiling, xs, pump)
    if axis.tear_y is not None:
        spots = [
            (out.width - 6, axis.tear_y + 22, "end"),
            (out.width - 6, axis.tear_y - 14, "end"),
            (xs[len(xs) // 2], axis.tear_y + 22, "middle"),
        ]
        placer.place(
            f"axis broken at  {_whole(axis.cut_out)} {out.unit}",
            spots,
            "small",
            16,
        )
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
    temperature = shown(study.brief.fuel_temperature, "temperature")
    text = f"{solved.case.fuel.name} boils below {_p(boiling)} {out.unit} at {temperature}"
    spots = [(at + 36, y + dy, "start") for dy in (5, 12, -4, 20)] + [
        (48, y + 18, "start"),
        (48, y - 6, "start"),
    ]
    placer.place(text, spots, "boiling", 17)
    if pump is not None:
        inlet = axis.y(pump[2])
        x = pump[1] - 2
        if abs(y - inlet) > 8:
            out.arrow = (x, inlet, y)
            placer.keep_clear((x - 4, min(inlet, y), x + 4, max(inlet, y)))
        clear = f"{_p(pump[2] - boiling)} {out.unit} margin"
        middle = (inlet + y) / 2
        placer.place(
            clear,
            [(x - 8, middle + d, "end") for d in (6, 12, 0, 18)]
            + [(x + 10, middle + d, "start") for d in (6, 0, 12, -8)],
            "value",
            17,
        )
