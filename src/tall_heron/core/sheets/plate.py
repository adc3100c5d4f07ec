"""A removable plate with pump, filters and what else it shall carry: where each lies, its holes,
how far port is from port; as a DXF.
"""

import io
import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

from tall_heron.core.base.catalogue import Row, house_figure, table
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.kinds import LINES
from tall_heron.core.document.path import ways
from tall_heron.core.document.shop import OnPlate, Plate
from tall_heron.core.electrics.feeds import highest_current
from tall_heron.core.routing.assembly import body_of

CARRIED = (
    "pump",
    "filter",
    "strainer",
    "regulator",
    "relief",
    "check",
    "merge",
    "split",
    "damper",
    "sensor",
    "valve",
    "controller",
    "selector",
)
RIGHT = 90.0  # degrees that a side is folded
Point = tuple[float, float]


@dataclass(frozen=True)
class Hole:
    """A hole or slot [mm]: its middle, its diameter, how long it is beyond a round one, which way
    it lies [deg]; the part it holds, or none for the plate's own.
    """

    at: Point
    diameter: float
    slot: float
    turned_deg: float
    part: str = ""


@dataclass(frozen=True)
class Lying:
    """A part on the plate: its corners [mm], its ports by name, its holes."""

    element: Element
    on: OnPlate
    long: float
    wide: float
    corners: tuple[Point, ...]
    ports: dict[str, Point]
    holes: tuple[Hole, ...]
    clamps: int

    @property
    def clamp_dash(self) -> int:
        """The size of its clamps: the body's width in sixteenths of an inch. Source: SAE AS21919;
        from memory.
        """
        return round(self.wide / 25.4 * 16)


@dataclass(frozen=True)
class Span:
    """Two ports that a line or an adapter joins on the plate, and how far they are apart, straight
    [mm].
    """

    line: str
    one: tuple[str, str]
    other: tuple[str, str]
    mm: float


@dataclass(frozen=True)
class PlateBend:
    """A side folded up square [mm]: its inside radius and the least its alloy and gauge bear, how
    far the bend begins from the outer corner, what the bend itself takes of the flat, and how much
    shorter the blank is than both sides together.
    """

    radius: float
    least: float
    setback: float
    allowance: float

    @property
    def deduction(self) -> float:
        """How much shorter the blank is than the outsides of both sides."""
        return 2 * self.setback - self.allowance


def bend_allowance(radius: float, thick: float, degrees: float = RIGHT) -> float:
    """What a bend takes of the flat [mm]. Source: AC 43.13-1B 4-58 and FAA-H-8083-31, (0.01743 R +
    0.0078 T) for each degree; from memory.

    >>> round(bend_allowance(3.2, 1.6), 2)
    6.14
    """
    return (0.01743 * radius + 0.0078 * thick) * degrees


def bend_of(plate: Plate) -> PlateBend:
    """How a plate's sides are folded."""
    row = next(
        r
        for r in table("sheet_bends")
        if r["alloy"] == plate.alloy and plate.thick_mm <= r["to_mm"]
    )
    least = float(row["least_times"]) * plate.thick_mm
    radius = plate.radius_mm if plate.radius_mm is not None else least
    return PlateBend(radius, least, radius + plate.thick_mm, bend_allowance(radius, plate.thick_mm))


@dataclass(frozen=True)
class PlateSheet:
    """A plate ready to be made: parts, all holes, spans from port to port, the blank before it is
    folded [mm], the middles of its bends as pairs of points, how they are bent, and what does not
    fit.
    """

    plate: Plate
    lying: tuple[Lying, ...]
    holes: tuple[Hole, ...]
    spans: tuple[Span, ...]
    outline: tuple[Point, ...]
    folds: tuple[tuple[Point, Point], ...]
    bend: PlateBend
    troubles: tuple[str, ...]
    assumed: bool

    @property
    def blank(self) -> tuple[float, float]:
        """How wide and how high it is cut [mm], before it is folded."""
        xs, ys = zip(*self.outline, strict=True)
        return max(xs) - min(xs), max(ys) - min(ys)


def can_carry(build: Build) -> list[Element]:
    """What may lie on a plate: bodies that screw down, those that hang in a tank apart."""
    return [
        e
        for e in build.circuit.elements
        if e.kind in CARRIED
        and e.properties.mount not in ("in-tank", "in-module", "module", "gascolator")
    ]


def hangs_on(build: Build) -> list[Element]:
    """What a plate carries unless somebody says otherwise: electric pumps that are screwed down,
    filters, the strainer that feeds such a pump by one line, and the selectors between two of them.
    """
    parts = can_carry(build)
    pumps = [e for e in parts if e.kind == "pump" and highest_current(e) is not None]
    feeding = {e.ports["start"] for e in pumps}
    before = feeding | {
        e.ports["start"]
        for e in build.circuit.elements
        if e.kind in LINES and e.ports.get("end") in feeding
    }

    def hangs(e: Element) -> bool:
        if e.kind == "strainer":
            return bool(before & {b for _, b in ways(e)})
        return e in pumps or e.kind == "filter" or (e.kind == "selector" and len(pumps) > 1)

    return [e for e in parts if hangs(e)]


def usual_plate(build: Build) -> Plate | None:
    """A plate for what hangs on one, side by side in the order of the document, as large as it
    takes. None where neither pump nor filter does.
    """
    gap, edge = house_figure("plate_gap_mm"), house_figure("plate_edge_mm")
    carried = hangs_on(build)
    if not any(e.kind in ("pump", "filter") for e in carried):
        return None
    x, parts, high = edge + gap, list[OnPlate](), 0.0
    for e in carried:
        body, mounting = body_of(e), mounting_of(e, body_of(e).long)
        parts.append(
            OnPlate(part=e.id, x_mm=round(x + body.wide / 2, 1), y_mm=0.0, turned_deg=90.0)
        )
        x += body.wide + max(
            gap,
            body.tool / 2,
            mounting["beside_mm"] + 2 * mounting["screw_mm"] if mounting is not None else 0.0,
        )  # beside its screws' heads
        high = max(high, body.long)
    tall = high + 2 * (edge + gap)
    return Plate(
        wide_mm=math.ceil(x - gap + edge + gap),
        high_mm=math.ceil(tall),
        parts=[p.model_copy(update={"y_mm": round(tall / 2, 1)}) for p in parts],
    )


def make_plate(build: Build) -> PlateSheet | None:
    """The plate of a build: as somebody laid it out, else the usual one; None where nothing could
    lie on it.
    """
    plate = build.shop.plate or usual_plate(build)
    if plate is None:
        return None
    named = {e.id: e for e in can_carry(build)}
    lying = tuple(_lie(named[p.part], p) for p in plate.parts if p.part in named)
    own = tuple(
        Hole((x, y), plate.screw_mm, plate.slot_mm, 0.0)
        for x in (plate.inset_mm, plate.wide_mm - plate.inset_mm)
        for y in (plate.inset_mm, plate.high_mm - plate.inset_mm)
    )
    bend = bend_of(plate)
    outline, folds = _flat(plate, bend)
    holes = (*own, *(h for x in lying for h in x.holes))
    return PlateSheet(
        plate,
        lying,
        holes,
        tuple(_spans(build, lying)),
        outline,
        folds,
        bend,
        tuple(_troubles(plate, bend, lying, holes)),
        build.shop.plate is None,
    )


def clamped_bodies(build: Build) -> list[Lying]:
    """What is held by clamps round its body, on the plate or beside it."""
    placed = {p.part: p for p in build.shop.plate.parts} if build.shop.plate is not None else {}
    return [
        _lie(e, placed.get(e.id, OnPlate(part=e.id, x_mm=0.0, y_mm=0.0))) for e in hangs_on(build)
    ]


def _turned(p: Point, deg: float, by: Point) -> Point:
    a = math.radians(deg)
    return by[0] + p[0] * math.cos(a) - p[1] * math.sin(a), by[1] + p[0] * math.sin(a) + p[
        1
    ] * math.cos(a)


def _lie(e: Element, on: OnPlate) -> Lying:
    body = body_of(e) if on.across_mm is None else replace(body_of(e), wide=on.across_mm)
    half, side, at = body.long / 2, body.wide / 2, (on.x_mm, on.y_mm)
    corners = tuple(
        _turned(p, on.turned_deg, at)
        for p in ((-half, -side), (half, -side), (half, side), (-half, side))
    )
    into = [port for port, node in e.ports.items() if node in {a for a, _ in ways(e)}]
    places = {}
    for group, x in ((into, -half), ([p for p in e.ports if p not in into], half)):
        for i, port in enumerate(group):
            places[port] = _turned((x, (i - (len(group) - 1) / 2) * side), on.turned_deg, at)
    row = mounting_of(e, body.long)
    holes = []
    if row is not None:
        for along in (-0.5, 0.5) if row["rows"] == 2 else (0.0,):
            for across in (-1, 1):
                p = (along * row["apart_share"] * body.long, across * (side + row["beside_mm"]))
                holes.append(
                    Hole(
                        _turned(p, on.turned_deg, at),
                        row["screw_mm"],
                        row["slot_mm"],
                        on.turned_deg,
                        e.id,
                    )
                )
    return Lying(
        e,
        on,
        body.long,
        body.wide,
        corners,
        places,
        tuple(holes),
        int(row["clamps"]) if row is not None else 0,
    )


def mounting_of(e: Element, long_mm: float) -> Row | None:
    """How a part of such a length is screwed down."""
    return next(
        (
            r
            for r in table("mountings")
            if r["kind"] == e.kind and (r["from_mm"] or 0.0) <= long_mm < (r["to_mm"] or math.inf)
        ),
        None,
    )


def _spans(build: Build, lying: tuple[Lying, ...]) -> list[Span]:
    """Ports on the plate that one line joins, or that stand on one place of the circuit."""
    at: dict[str, list[tuple[Lying, str]]] = {}
    for x in lying:
        for port, node in x.element.ports.items():
            at.setdefault(node, []).append((x, port))
    out = []
    for e in build.circuit.elements:
        ends = [e.ports.get(p, "") for p in ("start", "end")] if e.kind in LINES and e.ports else []
        for a in at.get(ends[0], ()) if ends else ():
            out += [_span(e.id, a, b) for b in at.get(ends[1], ())]
    for pair in at.values():
        out += [_span("", a, b) for i, a in enumerate(pair) for b in pair[i + 1 :]]
    return out


def _span(line: str, a: tuple[Lying, str], b: tuple[Lying, str]) -> Span:
    return Span(
        line,
        (a[0].element.id, a[1]),
        (b[0].element.id, b[1]),
        math.dist(a[0].ports[a[1]], b[0].ports[b[1]]),
    )


def _flat(
    plate: Plate, bend: PlateBend
) -> tuple[tuple[Point, ...], tuple[tuple[Point, Point], ...]]:
    """The blank before it is folded, and the middles of its bends. Sides are measured over the
    outside, so each is shorter by the deduction; where two folded sides meet, the corner is cut out
    to where the bends begin.
    """
    by = {f.side: f.mm - bend.deduction for f in plate.folds}
    w, h = plate.wide_mm, plate.high_mm
    left, right, top, bottom = (by.get(s, 0.0) for s in ("left", "right", "top", "bottom"))
    x0, x1, y0, y1 = (bend.setback if s in by else 0.0 for s in ("left", "right", "bottom", "top"))
    x1, y1 = w - x1, h - y1
    points = [
        (x0, -bottom),
        (x1, -bottom),
        (x1, y0),
        (w + right, y0),
        (w + right, y1),
        (x1, y1),
        (x1, h + top),
        (x0, h + top),
        (x0, y1),
        (-left, y1),
        (-left, y0),
        (x0, y0),
    ]
    outline = [p for i, p in enumerate(points) if p != points[i - 1]]
    at = bend.setback - bend.allowance / 2
    lines = {
        "left": ((at, y0), (at, y1)),
        "right": ((w - at, y0), (w - at, y1)),
        "top": ((x0, h - at), (x1, h - at)),
        "bottom": ((x0, at), (x1, at)),
    }
    return tuple(outline), tuple(lines[s] for s in by)


def _folded_badly(
    plate: Plate, bend: PlateBend, lying: tuple[Lying, ...], holes: tuple[Hole, ...]
) -> Iterator[str]:
    """What cracks, what the brake cannot hold, what lies in a bend or too near one."""
    if not plate.folds:
        return
    if bend.radius < bend.least - 1e-9:
        yield f"{plate.alloy} of {plate.thick_mm:g} mm cracks on a radius of {bend.radius:g} mm; {bend.least:.1f} mm is the least"
    high = house_figure("plate_flange_times") * plate.thick_mm + bend.radius
    clear = bend.setback + house_figure("plate_hole_to_bend_times") * plate.thick_mm
    for fold in plate.folds:
        if fold.mm < high:
            yield f"{fold.side} folded up by {fold.mm:g} mm is too low to be held; {math.ceil(high)} mm is the least"
        flat = {
            "left": lambda p: p[0],
            "right": lambda p: plate.wide_mm - p[0],
            "bottom": lambda p: p[1],
            "top": lambda p: plate.high_mm - p[1],
        }[fold.side]
        for x in lying:
            if min(flat(c) for c in x.corners) < bend.setback:
                yield f"{x.element.id} lies in the bend on the {fold.side}, which begins {bend.setback:.0f} mm from the corner"
        for h in holes:
            if flat(h.at) - h.diameter / 2 < clear:
                yield f"a hole of {h.part or 'the plate'} is too near the bend on the {fold.side}; its edge keeps {clear:.0f} mm from the corner"


def _troubles(
    plate: Plate, bend: PlateBend, lying: tuple[Lying, ...], holes: tuple[Hole, ...]
) -> list[str]:
    edge, gap = house_figure("plate_edge_mm"), house_figure("plate_gap_mm")
    out = list(_folded_badly(plate, bend, lying, holes))
    for x in lying:
        room = min(min(p[0], plate.wide_mm - p[0], p[1], plate.high_mm - p[1]) for p in x.corners)
        if room < 0:
            out.append(f"{x.element.id} hangs {-room:.0f} mm over the edge")
        elif room < edge:
            out.append(f"{x.element.id} is {room:.0f} mm from the edge; {edge:g} mm is the least")
    for i, a in enumerate(lying):
        for b in lying[i + 1 :]:
            far = _apart(a.corners, b.corners)
            if far < gap:
                out.append(
                    f"{a.element.id} and {b.element.id} {'lie on one another' if far <= 0 else f'are {far:.0f} mm apart; {gap:g} mm is the least'}"
                )
    for h in holes:
        under = [x.element.id for x in lying if x.element.id != h.part and _inside(h.at, x.corners)]
        if under:
            out.append(f"a hole of {h.part or 'the plate'} lies under {under[0]}")
        room = min(h.at[0], plate.wide_mm - h.at[0], h.at[1], plate.high_mm - h.at[1])
        if room < h.diameter:
            out.append(
                f"a hole of {h.part or 'the plate'} is {max(room, 0):.0f} mm from the edge; {h.diameter:g} mm is the least"
            )
    return list(dict.fromkeys(out))


def _apart(a: tuple[Point, ...], b: tuple[Point, ...]) -> float:
    """The largest gap between two turned boxes along a side of either [mm]; below 0 where they
    overlap.
    """
    best = -math.inf
    for box in (a, b):
        for i in range(4):
            p, q = box[i], box[(i + 1) % 4]
            n = ((q[1] - p[1]) / math.dist(p, q), (p[0] - q[0]) / math.dist(p, q))
            one, two = (
                [c[0] * n[0] + c[1] * n[1] for c in a],
                [c[0] * n[0] + c[1] * n[1] for c in b],
            )
            best = max(best, min(one) - max(two), min(two) - max(one))
    return best


def _inside(p: Point, box: tuple[Point, ...]) -> bool:
    sides = [
        (box[(i + 1) % 4][0] - box[i][0]) * (p[1] - box[i][1])
        - (box[(i + 1) % 4][1] - box[i][1]) * (p[0] - box[i][0])
        for i in range(4)
    ]
    return all(s >= 0 for s in sides)


def plate_dxf(sheet: PlateSheet, name: str) -> str:
    """The plate as a DXF in millimeters: outline, folds, holes and slots, and the parts' outlines
    on a layer that is not cut.
    """
    from ezdxf import units  # megabytes that only who asks for a DXF needs
    from ezdxf.filemanagement import new

    drawing = new("R2010", units=units.MM)
    drawing.header["$PROJECTNAME"] = name[:60]
    for layer, color in (("CUT", 7), ("HOLES", 5), ("FOLD", 1), ("PARTS", 8)):
        drawing.layers.add(layer, color=color)
    space = drawing.modelspace()
    space.add_lwpolyline(sheet.outline, close=True, dxfattribs={"layer": "CUT"})
    for a, b in sheet.folds:
        space.add_line(a, b, dxfattribs={"layer": "FOLD"})
    for h in sheet.holes:
        if h.slot <= 0:
            space.add_circle(h.at, h.diameter / 2, dxfattribs={"layer": "HOLES"})
            continue
        r, half = h.diameter / 2, h.slot / 2
        ends = [
            _turned(p, h.turned_deg, h.at) for p in ((-half, -r), (half, -r), (half, r), (-half, r))
        ]
        space.add_lwpolyline(
            [(*p, bulge) for p, bulge in zip(ends, (0, 1, 0, 1), strict=True)],
            format="xyb",
            close=True,
            dxfattribs={"layer": "HOLES"},
        )
    for x in sheet.lying:
        space.add_lwpolyline(x.corners, close=True, dxfattribs={"layer": "PARTS"})
        space.add_text(
            x.element.id, height=8, dxfattribs={"layer": "PARTS", "insert": (x.on.x_mm, x.on.y_mm)}
        )
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue()
