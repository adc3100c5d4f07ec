"""Where every part of the strip stands: the path from left to right, what lies beside it in lanes
below, taps on their stubs.
"""

import math
from collections import Counter
from dataclasses import dataclass, field

from tall_heron.core.document.circuit import Element
from tall_heron.core.document.kinds import BURNERS
from tall_heron.core.document.path import Path, PathBranch, ways
from tall_heron.web.drawing.circuit.columns import joined, offsets

FIRST, LAST = 74.0, 866.0  # px, the first and the last column where they fit
LEAST_PITCH = 40.0
FULL_PITCH = 56.0  # px, under which symbols shrink and names take turns
SYMBOL_Y = 56.0
LANE, LANE_GAP = 66.0, 76.0  # px from the path to the first lane, and from lane to lane
BRANCH = 34.0  # px between parts in parallel
ASIDE = 7.0  # px that lines down from parts side by side keep from each other
STUB, HANG, AMONG = (
    27.0,
    21.0,
    13.0,
)  # px from a line up to a gauge, down to injectors, to a gauge between lines side by side
BESIDE = (-12.0, 14.0)  # px from a jet's centre to where its symbol draws
TAPS = ("gauge", "auxiliary", *BURNERS)
TAP_STEP = 46.0  # px between taps that stand side by side on one place


@dataclass(frozen=True)
class StripSpot:
    """A part's place: its centre, how large it is drawn, its column on the path (None beside it),
    whether it is a tap on a stub, whether a tap's name stands to its left, and whether it stands
    there at all.
    """

    element: Element
    x: float
    y: float
    scale: float
    column: int | None
    tap: bool = False
    role: str = "feed"
    left: bool = False
    named: bool = True


@dataclass
class CircuitStrip:
    """All places, the lines between them as (x0, y0, x1, y1, role), the x of each column, and how
    far the lanes reach down.
    """

    pitch: float
    width: float
    xs: list[float]
    spots: list[StripSpot] = field(default_factory=list)
    lines: list[tuple[float, float, float, float, str]] = field(default_factory=list)
    ends: list[tuple[float, float, str]] = field(default_factory=list)
    joints: list[tuple[float, float]] = field(default_factory=list)
    lanes: int = 0

    @property
    def scale(self) -> float:
        """How large symbols are drawn: smaller where columns stand close."""
        return min(1.0, self.pitch / FULL_PITCH)

    @property
    def dense(self) -> bool:
        """Whether columns stand so close that the words of two do not fit side by side."""
        return self.pitch < FULL_PITCH


def role_of(path: Path, index: int) -> str:
    """What the line at a column does."""
    if index < path.suction - 1:
        return "suction"
    return "return" if index >= path.turn else "feed"


def make_strip(path: Path, elements: list[Element], least_width: float) -> CircuitStrip:
    """The strip of a path with everything beside it and the taps among `elements`."""
    columns = path.columns
    count = len(columns)
    hangs = (
        any(e.kind in TAPS and e.ports.get("start") == columns[-1].end for e in elements)
        if columns
        else False
    )
    taps = _room_for_taps(elements)
    outs = [
        {n for e in column.elements for n in (_outs(e) or e.ports.values())} for column in columns
    ]
    room = [
        max((more for (node, _), more in taps.items() if node in nodes), default=0.0)
        for nodes in outs
    ]
    pitch = (
        max(LEAST_PITCH, (LAST - FIRST - sum(room)) / (count - 1 + 0.5 * hangs))
        if count > 1
        else 70.0
    )
    sides = {
        e.id: _side_inlets(e, outs[i - 1] if i else set())
        for i, column in enumerate(columns)
        for e in column.elements
    }
    at_node = {
        node: i
        for i, column in enumerate(columns)
        for e in column.elements
        for node in (*sides[e.id], *_outs(e))
    }
    at_node |= {columns[0].end: 0} if columns else {}
    xs, placed = _columns(path, at_node, pitch, room)
    strip = CircuitStrip(
        pitch,
        max(
            [
                least_width,
                xs[-1] + least_width - LAST + pitch / 2 * hangs,
                *(xr[-1] + (40 if b.burns else 92) for b, _, _, xr in placed),
            ]
        ),
        xs,
    )
    where: dict[str, tuple[float, float, float]] = {}
    for i, (column, x) in enumerate(zip(columns, xs, strict=True)):
        ids = len(column.elements)
        for element, dy in zip(column.elements, offsets(ids, BRANCH), strict=True):
            strip.spots.append(
                StripSpot(
                    element,
                    x,
                    SYMBOL_Y + dy,
                    (0.8 if ids > 1 else 1.0) * strip.scale,
                    i,
                    role=role_of(path, i),
                )
            )
            for node in sides[element.id]:
                where[node] = (
                    x + BESIDE[0] * strip.scale,
                    SYMBOL_Y + dy + BESIDE[1] * strip.scale,
                    dy,
                )
            for node in _outs(element):
                where.setdefault(
                    node,
                    (
                        x + pitch / 2,
                        SYMBOL_Y
                        + (dy if len(_outs(element)) == 1 and element.kind != "merge" else 0),
                        dy,
                    ),
                )
        for element, dy in zip(column.elements, offsets(ids, BRANCH), strict=True):
            if element.kind == "tank":
                where[element.ports["outlet"]] = (x + pitch / 2, SYMBOL_Y + dy, dy)
        if i + 1 < count and (path.gap is None or i + 1 != path.gap):
            between = joined(
                ids,
                len(columns[i + 1].elements),
                x,
                xs[i + 1],
                x + pitch / 2,
                SYMBOL_Y,
                BRANCH,
                strip.scale,
            )
            strip.lines += [(*line, role_of(path, i)) for line in between]
    for branch, lane, start_x, places in placed:
        _lane(strip, branch, lane, start_x, places, where, elements)
    _taps(strip, path, elements, where, taps)
    return strip


def _outs(element: Element) -> list[str]:
    return [end for _, end in ways(element)]


def _side_inlets(element: Element, before: set[str]) -> list[str]:
    """Where a jet takes in what it draws along, and a Y or a tee what the parts in the column
    `before` do not give it: beside the way through it.
    """
    if element.kind == "jet":
        return [element.ports["suction"]]
    if element.kind in ("merge", "junction"):
        return [a for a, _ in ways(element) if a not in before]
    return []


def _side(element: Element) -> int:
    return 1 if element.kind in BURNERS else -1


def _room_for_taps(elements: list[Element]) -> dict[tuple[str, int], float]:
    """What taps side by side need beyond the first [px], by their place and the side they stand on."""
    count = Counter((e.ports["start"], _side(e)) for e in elements if e.kind in TAPS)
    return {at: TAP_STEP * (n - 1) for at, n in count.items()}


Placed = tuple[PathBranch, int, float | None, list[float]]


def _columns(
    path: Path, at_node: dict[str, int], pitch: float, room: list[float]
) -> tuple[list[float], list[Placed]]:
    """The x of each column, wider apart where a line beside the path needs it, and each such line's
    lane, start and places.
    """
    gaps = [pitch + more for more in room[:-1]]
    spans = []
    # What leaves furthest along takes the highest lane, so that no line down crosses another's
    # parts.
    for branch in sorted(path.branches, key=lambda b: -at_node.get(b.start, -1)):
        start, end = at_node.get(branch.start), at_node.get(branch.end)
        end = end if end is not None and end > (start if start is not None else -1) + 1 else None
        if start is not None and end is not None:
            missing = len(branch.elements) - (end - start - 1)
            if missing > 0:
                gaps[end - 1] += missing * pitch
        spans.append((branch, start, end))
    xs = [FIRST]
    for gap in gaps:
        xs.append(xs[-1] + gap)
    taken: list[list[tuple[float, float]]] = []
    placed: list[Placed] = []
    for branch, start, end in spans:
        size = len(branch.elements)
        if start is not None:
            begin = xs[start]
            places = [begin + pitch * (i + 1) for i in range(size)]
        elif end is not None:
            places = [xs[end] - pitch * (size - i) for i in range(size)]
            begin = places[0] - pitch
        else:
            begin, places = FIRST - pitch, [FIRST + pitch * i for i in range(size)]
        if places[0] < FIRST:
            places = [x + FIRST - places[0] for x in places]
        span = (
            min(begin, places[0]) + 1,
            places[-1] + pitch * (1 if branch.burns or end is not None else 1.6),
        )
        lane = next(
            (i for i, row in enumerate(taken) if all(b <= span[0] or a >= span[1] for a, b in row)),
            len(taken),
        )
        if lane == len(taken):
            taken.append([])
        taken[lane].append(span)
        if start is not None:  # its line down crosses the lanes above
            for above in taken[:lane]:
                above.append((begin + pitch / 2 - 5, begin + pitch / 2 + 5))
        placed.append((branch, lane, begin if start is not None else None, places))
    return xs, placed


def _lane(
    strip: CircuitStrip,
    branch: PathBranch,
    lane: int,
    start_x: float | None,
    places: list[float],
    where: dict[str, tuple[float, float, float]],
    elements: list[Element],
) -> None:
    y = SYMBOL_Y + LANE + lane * LANE_GAP
    strip.lanes = max(strip.lanes, lane + 1)
    far = 16 * strip.scale
    role = (
        "feed"
        if branch.burns
        else branch.elements[0].role
        if branch.elements[0].role != "feed"
        else "feed"
    )
    role = (
        "return" if any(e.role == "return" for e in branch.elements) and not branch.burns else role
    )
    if start_x is not None and branch.start in where:
        x, from_y, dy = where[branch.start]
        x += math.copysign(ASIDE, dy) if dy and from_y < y else 0.0
        strip.joints.append((x, from_y))
        strip.lines += [
            (x, from_y, x, y, role),
            (min(x, places[0] - far - 4), y, max(x, places[0] - far - 4), y, role),
        ]
    for i, (element, x) in enumerate(zip(branch.elements, places, strict=True)):
        strip.spots.append(StripSpot(element, x, y, 0.8 * strip.scale, None, role=role))
        if element.kind == "tank":
            where.setdefault(element.ports["outlet"], (x + strip.pitch / 2, y, 1.0))
        for node in _outs(element):
            where.setdefault(node, (x + strip.pitch / 2, y, 1.0))
        if i + 1 < len(places):
            strip.lines.append((x + far, y, places[i + 1] - far, y, role))
    last = places[-1]
    met = where.get(branch.end)
    if met is not None and abs(met[1] - y) > 1 and met[0] >= last:
        strip.lines += [(last + far, y, met[0], y, role), (met[0], y, met[0], met[1], role)]
        if not any(
            branch.end
            in (spot.element.ports.get(p) for p in ("suction", "a", "b", "start", "branch"))
            and spot.element.kind in ("jet", "merge", "junction")
            for spot in strip.spots
        ):
            strip.joints.append(met[:2])
    elif not branch.burns:
        strip.lines.append((last + far, y, last + 24, y, role))
        strip.ends.append((last + 28, y + 5, f"to {_joined_to(elements, branch)}"))


def _joined_to(elements: list[Element], branch: PathBranch) -> str:
    """What a line beside the path leads to: the tank it ends in, or the part whose inlet it joins."""
    tank = next(
        (e.id for e in elements if e.kind == "tank" and e.ports["outlet"] == branch.end), None
    )
    own = {e.id for e in branch.elements}
    return tank or next(
        (e.id for e in elements if e.id not in own and any(a == branch.end for a, _ in ways(e))),
        "tank",
    )


def _taps(
    strip: CircuitStrip,
    path: Path,
    elements: list[Element],
    where: dict[str, tuple[float, float, float]],
    taps: dict[tuple[str, int], float],
) -> None:
    """Gauges stand on their line, injectors and bowls hang from it; beside a regulator, or where a
    line leaves, they and their names keep left.
    """
    used: dict[tuple[str, int], int] = {}
    leaving = {b.start for b in path.branches}
    drawn = list(strip.spots)
    for element in elements:
        node = element.ports.get("start", "")
        if element.kind not in TAPS or node not in where:
            continue
        x, y, dy = where[node]
        among = (
            bool(dy) and element.kind == "gauge"
        )  # between lines side by side: no room for a name, its card has it
        side = _side(element) if not among else 1 if dy > 0 else -1
        nth = used.get((node, side), 0)
        used[node, side] = nth + 1
        left = (side > 0 and node in leaving) or any(
            s.element.kind == "regulator"
            and s.column is not None
            and 0 < s.x - x < strip.pitch / 2 + taps[node, _side(element)] + 1
            for s in drawn
        )
        x += nth * TAP_STEP - (12 if side > 0 and node in leaving else 0)
        before = next((s for s in drawn if node in _outs(s.element)), None)
        if before is not None:
            strip.lines.append((before.x + 20 * before.scale, y, x, y, before.role))
        height = AMONG if among else HANG if side > 0 else STUB
        strip.lines.append((x, y, x, y + side * (height - 9), "feed"))
        strip.spots.append(
            StripSpot(
                element,
                x,
                y + side * height,
                0.4 if among else 0.6,
                before.column if before else None,
                tap=True,
                left=left,
                named=not among,
            )
        )
