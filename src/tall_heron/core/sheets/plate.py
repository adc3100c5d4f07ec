"""A removable plate with pump, filters and what else it shall carry: where each lies, its holes, how far port is from port; as a DXF."""

import io
import math
from dataclasses import dataclass

from tall_heron.core.base.catalogue import house_figure, table
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.kinds import LINES
from tall_heron.core.document.path import ways
from tall_heron.core.document.shop import OnPlate, Plate
from tall_heron.core.routing.assembly import body_of

CARRIED = ("pump", "filter", "strainer", "regulator", "relief", "check", "merge", "split", "damper", "sensor", "valve", "controller")
Point = tuple[float, float]


@dataclass(frozen=True)
class Hole:
    """A hole or slot [mm]: its middle, its diameter, how long it is beyond a round one, which way it lies [deg]; the part it holds, or none for the plate's own."""

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


@dataclass(frozen=True)
class Span:
    """Two ports that a line or an adapter joins on the plate, and how far they are apart, straight [mm]."""

    line: str
    one: tuple[str, str]
    other: tuple[str, str]
    mm: float


@dataclass(frozen=True)
class PlateSheet:
    """A plate ready to be made: parts, all holes, spans from port to port, its size with folds laid flat [mm], fold lines as pairs of points, and what does not fit."""

    plate: Plate
    lying: tuple[Lying, ...]
    holes: tuple[Hole, ...]
    spans: tuple[Span, ...]
    outline: tuple[Point, ...]
    folds: tuple[tuple[Point, Point], ...]
    troubles: tuple[str, ...]
    assumed: bool


def can_carry(build: Build) -> list[Element]:
    """What may lie on a plate: bodies that screw down, those that hang in a tank apart."""
    return [e for e in build.circuit.elements if e.kind in CARRIED and e.properties.mount not in ("in-tank", "in-module", "module", "gascolator")]


def usual_plate(build: Build) -> Plate | None:
    """A plate for the pumps and filters of a build, side by side in the order of their flow; None where there are none."""
    gap, edge = house_figure("plate_gap_mm"), house_figure("plate_edge_mm")
    carried = [e for e in can_carry(build) if e.kind in ("pump", "filter")]
    if not carried:
        return None
    x, parts, high = edge + gap, list[OnPlate](), 0.0
    for e in carried:
        body = body_of(e)
        parts.append(OnPlate(part=e.id, x_mm=round(x + body.wide / 2, 1), y_mm=0.0, turned_deg=90.0))
        x += body.wide + max(gap, body.tool / 2)
        high = max(high, body.long)
    tall = high + 2 * (edge + gap)
    return Plate(wide_mm=math.ceil(x - gap + edge + gap), high_mm=math.ceil(tall), parts=[p.model_copy(update={"y_mm": round(tall / 2, 1)}) for p in parts])


def make_plate(build: Build) -> PlateSheet | None:
    """The plate of a build: as somebody laid it out, else the usual one; None where nothing could lie on it."""
    plate = build.shop.plate or usual_plate(build)
    if plate is None:
        return None
    named = {e.id: e for e in can_carry(build)}
    lying = tuple(_lie(named[p.part], p) for p in plate.parts if p.part in named)
    own = tuple(Hole((x, y), plate.screw_mm, plate.slot_mm, 0.0) for x in (plate.inset_mm, plate.wide_mm - plate.inset_mm) for y in (plate.inset_mm, plate.high_mm - plate.inset_mm))
    outline, folds = _flat(plate)
    holes = (*own, *(h for x in lying for h in x.holes))
    return PlateSheet(plate, lying, holes, tuple(_spans(build, lying)), outline, folds, tuple(_troubles(plate, lying, holes)), build.shop.plate is None)


def _turned(p: Point, deg: float, by: Point) -> Point:
    a = math.radians(deg)
    return by[0] + p[0] * math.cos(a) - p[1] * math.sin(a), by[1] + p[0] * math.sin(a) + p[1] * math.cos(a)


def _lie(e: Element, on: OnPlate) -> Lying:
    body = body_of(e)
    half, side, at = body.long / 2, body.wide / 2, (on.x_mm, on.y_mm)
    corners = tuple(_turned(p, on.turned_deg, at) for p in ((-half, -side), (half, -side), (half, side), (-half, side)))
    into = [port for port, node in e.ports.items() if node in {a for a, _ in ways(e)}]
    places = {}
    for group, x in ((into, -half), ([p for p in e.ports if p not in into], half)):
        for i, port in enumerate(group):
            places[port] = _turned((x, (i - (len(group) - 1) / 2) * side), on.turned_deg, at)
    row = next((r for r in table("mountings") if r["kind"] == e.kind and (r["from_mm"] or 0.0) <= body.long < (r["to_mm"] or math.inf)), None)
    holes = []
    if row is not None:
        for along in (-0.5, 0.5) if row["rows"] == 2 else (0.0,):
            for across in (-1, 1):
                p = (along * row["apart_share"] * body.long, across * (side + row["beside_mm"]))
                holes.append(Hole(_turned(p, on.turned_deg, at), row["screw_mm"], row["slot_mm"], on.turned_deg, e.id))
    return Lying(e, on, body.long, body.wide, corners, places, tuple(holes))


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
    return Span(line, (a[0].element.id, a[1]), (b[0].element.id, b[1]), math.dist(a[0].ports[a[1]], b[0].ports[b[1]]))


def _flat(plate: Plate) -> tuple[tuple[Point, ...], tuple[tuple[Point, Point], ...]]:
    """The blank before it is folded, its corners cut out; and where it is folded."""
    by = {f.side: f.mm for f in plate.folds}
    w, h = plate.wide_mm, plate.high_mm
    left, right, top, bottom = (by.get(s, 0.0) for s in ("left", "right", "top", "bottom"))
    points = [(0, -bottom), (w, -bottom), (w, 0), (w + right, 0), (w + right, h), (w, h), (w, h + top), (0, h + top), (0, h), (-left, h), (-left, 0), (0, 0)]
    outline = [p for i, p in enumerate(points) if p != points[i - 1]]
    lines = {"left": ((0, 0), (0, h)), "right": ((w, 0), (w, h)), "top": ((0, h), (w, h)), "bottom": ((0, 0), (w, 0))}
    return tuple(outline), tuple(lines[s] for s in by)


def _troubles(plate: Plate, lying: tuple[Lying, ...], holes: tuple[Hole, ...]) -> list[str]:
    edge, gap = house_figure("plate_edge_mm"), house_figure("plate_gap_mm")
    out = []
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
                out.append(f"{a.element.id} and {b.element.id} {'lie on one another' if far <= 0 else f'are {far:.0f} mm apart; {gap:g} mm is the least'}")
    for h in holes:
        under = [x.element.id for x in lying if x.element.id != h.part and _inside(h.at, x.corners)]
        if under:
            out.append(f"a hole of {h.part or 'the plate'} lies under {under[0]}")
        room = min(h.at[0], plate.wide_mm - h.at[0], h.at[1], plate.high_mm - h.at[1])
        if room < h.diameter:
            out.append(f"a hole of {h.part or 'the plate'} is {max(room, 0):.0f} mm from the edge; {h.diameter:g} mm is the least")
    return list(dict.fromkeys(out))


def _apart(a: tuple[Point, ...], b: tuple[Point, ...]) -> float:
    """The largest gap between two turned boxes along a side of either [mm]; below 0 where they overlap."""
    best = -math.inf
    for box in (a, b):
        for i in range(4):
            p, q = box[i], box[(i + 1) % 4]
            n = ((q[1] - p[1]) / math.dist(p, q), (p[0] - q[0]) / math.dist(p, q))
            one, two = [c[0] * n[0] + c[1] * n[1] for c in a], [c[0] * n[0] + c[1] * n[1] for c in b]
            best = max(best, min(one) - max(two), min(two) - max(one))
    return best


def _inside(p: Point, box: tuple[Point, ...]) -> bool:
    sides = [(box[(i + 1) % 4][0] - box[i][0]) * (p[1] - box[i][1]) - (box[(i + 1) % 4][1] - box[i][1]) * (p[0] - box[i][0]) for i in range(4)]
    return all(s >= 0 for s in sides)


def plate_dxf(sheet: PlateSheet, name: str) -> str:
    """The plate as a DXF in millimetres: outline, folds, holes and slots, and the parts' outlines on a layer that is not cut."""
    from ezdxf import units  # megabytes that only who asks for a DXF needs
    from ezdxf.filemanagement import new

    drawing = new("R2010", units=units.MM)
    drawing.header["$PROJECTNAME"] = name[:60]
    for layer, colour in (("CUT", 7), ("HOLES", 5), ("FOLD", 1), ("PARTS", 8)):
        drawing.layers.add(layer, color=colour)
    space = drawing.modelspace()
    space.add_lwpolyline(sheet.outline, close=True, dxfattribs={"layer": "CUT"})
    for a, b in sheet.folds:
        space.add_line(a, b, dxfattribs={"layer": "FOLD"})
    for h in sheet.holes:
        if h.slot <= 0:
            space.add_circle(h.at, h.diameter / 2, dxfattribs={"layer": "HOLES"})
            continue
        r, half = h.diameter / 2, h.slot / 2
        ends = [_turned(p, h.turned_deg, h.at) for p in ((-half, -r), (half, -r), (half, r), (-half, r))]
        space.add_lwpolyline([(*p, bulge) for p, bulge in zip(ends, (0, 1, 0, 1), strict=True)], format="xyb", close=True, dxfattribs={"layer": "HOLES"})
    for x in sheet.lying:
        space.add_lwpolyline(x.corners, close=True, dxfattribs={"layer": "PARTS"})
        space.add_text(x.element.id, height=8, dxfattribs={"layer": "PARTS", "insert": (x.on.x_mm, x.on.y_mm)})
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue()
