"""A route in open formats: DXF through ezdxf, SVG, and CSV of points. Millimetres throughout, in
the vehicle's own frame.
"""

import io

from tall_heron.core.base.csv_text import csv_text
from tall_heron.core.document.kinds import LINES
from tall_heron.core.routing.laid import Laid, LaidLine
from tall_heron.core.routing.vectors import Vector, add_vectors

LAYERS = {
    "feed": ("FEED", 5),
    "return": ("RETURN", 30),
    "suction": ("SUCTION", 4),
    "vent": ("VENT", 3),
    "reference": ("REFERENCE", 8),
}
PARTS, CLAMPS, ZONES = "PARTS", "CLAMPS", "KEEP_OUT"
FINE = 0.01745  # rad, between points of an arc
SIDES = {"side": (0, 2, 1.0), "plan": (0, 1, 1.0), "rear": (1, 2, -1.0)}


def _points(line: LaidLine) -> list[Vector]:
    """A line's points with its arcs cut finely, from seat to seat through the corners of its ends."""
    inner = line.run.drawn(FINE)
    one, other = line.run.one, line.run.other
    return [
        one.port.seat,
        add_vectors(one.port.seat, one.port.away, one.leg_a),
        *inner,
        add_vectors(other.port.seat, other.port.away, other.leg_a),
        other.port.seat,
    ]


def to_dxf(laid: Laid, name: str) -> str:
    """The route as a DXF: each line a 3D polyline on the layer of its role, clamps and parts on
    their own, what lines keep away from as boxes.
    """
    from ezdxf import units  # megabytes that only who asks for a DXF needs
    from ezdxf.filemanagement import new

    drawing = new("R2010", units=units.MM)
    drawing.header["$PROJECTNAME"] = name[:60]
    for layer, color in (*LAYERS.values(), (PARTS, 7), (CLAMPS, 8), (ZONES, 1)):
        drawing.layers.add(layer, color=color)
    space = drawing.modelspace()
    for line in laid.lines.values():
        layer = LAYERS[line.element.role][0]
        space.add_polyline3d(_points(line), dxfattribs={"layer": layer})
        space.add_text(
            line.element.id,
            height=25,
            dxfattribs={"layer": layer, "insert": line.path.at(float(line.path.along[-1]) / 2)},
        )
        for clamp in line.clamps:
            space.add_point(line.path.at(clamp), dxfattribs={"layer": CLAMPS})
    for element, at, body, _ in laid.stands.boxes():
        half = (body.long / 2, body.wide / 2, body.high / 2)
        low, high = (
            tuple(at[i] - half[i] for i in range(3)),
            tuple(at[i] + half[i] for i in range(3)),
        )
        space.add_polyline3d(_loop(low, high), dxfattribs={"layer": PARTS})
        space.add_text(element.id, height=25, dxfattribs={"layer": PARTS, "insert": at})
    for zone in laid.outline.zones:
        space.add_polyline3d(_loop(zone.low, zone.high), dxfattribs={"layer": ZONES})
    out = io.StringIO()
    drawing.write(out)
    return out.getvalue()


def _loop(low: tuple[float, ...], high: tuple[float, ...]) -> list[tuple[float, float, float]]:
    """A box as one line over all its corners."""
    (a, b, c), (x, y, z) = low, high
    return [
        (a, b, c),
        (x, b, c),
        (x, y, c),
        (a, y, c),
        (a, b, c),
        (a, b, z),
        (x, b, z),
        (x, y, z),
        (a, y, z),
        (a, b, z),
    ]


def to_svg(laid: Laid, name: str, view: str) -> str:
    """A view of the lines as SVG whose user units are millimeters of the vehicle, upside up; names
    as titles.
    """
    i, j, sign = SIDES[view]
    lines = {n: [(sign * p[i], -p[j]) for p in _points(x)] for n, x in laid.lines.items()}
    xs = [p[0] for pts in lines.values() for p in pts] or [0.0]
    ys = [p[1] for pts in lines.values() for p in pts] or [0.0]
    left, top, wide, high = (
        min(xs) - 100,
        min(ys) - 100,
        max(xs) - min(xs) + 200,
        max(ys) - min(ys) + 200,
    )
    out = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide:.1f}mm" height="{high:.1f}mm" viewBox="{left:.1f} {top:.1f} {wide:.1f} {high:.1f}">',
        f"<title>{_escaped(name)}, {view}</title>",
    ]
    for n, pts in lines.items():
        e = laid.lines[n].element
        d = "M" + " L".join(f"{x:.2f} {y:.2f}" for x, y in pts)
        out.append(
            f'<path id="{_escaped(n)}" class="{e.role}" d="{d}" fill="none" stroke="#1f3342" stroke-width="{2 * laid.lines[n].outside:.1f}"><title>{_escaped(n)} {_escaped(e.runs)}</title></path>'
        )
    return "\n".join([*out, "</svg>"])


def _escaped(text: str) -> str:
    return (
        text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;").replace('"', "&quot;")
    )


def points_csv(laid: Laid) -> str:
    """Seats, sockets and corners of every line: line, what the point is, x, y, z [mm], the radius
    there [mm] and how far along the line it lies [mm].
    """
    rows: list[list[object]] = []
    for n, x in laid.lines.items():
        if x.element.kind not in LINES:
            continue
        named = [
            ("seat A", x.run.one.port.seat),
            ("socket A", x.run.points[0]),
            *((f"corner {k}", c) for k, c in enumerate(x.run.corners, 1)),
            ("socket B", x.run.points[-1]),
            ("seat B", x.run.other.port.seat),
        ]
        before = None
        for what, p in named:
            leg = (
                ""
                if before is None
                else round(sum((a - b) ** 2 for a, b in zip(p, before, strict=True)) ** 0.5, 1)
            )
            rows.append(
                [
                    n,
                    x.element.role,
                    what,
                    *(round(v, 1) for v in p),
                    round(x.radius, 1) if what.startswith("corner") else "",
                    leg,
                ]
            )
            before = p
    return csv_text(("line", "role", "point", "x_mm", "y_mm", "z_mm", "radius_mm", "leg_mm"), rows)
