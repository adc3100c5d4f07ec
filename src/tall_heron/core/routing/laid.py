"""READ FIRST of routing: a build laid out in its vehicle. Outline and places give ports, ports and
corners give lines; nothing here is solved or judged.
"""

import math
from dataclasses import dataclass
from functools import cache, cached_property

from tall_heron.core.base.catalogue import by_name, house_figure, table
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Element, End
from tall_heron.core.document.kinds import LINES
from tall_heron.core.document.space import Route
from tall_heron.core.routing.assembly import assemblies_of
from tall_heron.core.routing.clearance import Polyline, polyline
from tall_heron.core.routing.outline import Outline, outline_of
from tall_heron.core.routing.placing import Ends, Stands, facing, joints_between, stand
from tall_heron.core.routing.run import STRAIGHT, HoseRun, Port, RunEnd
from tall_heron.core.routing.vectors import (
    Vector,
    across,
    add_vectors,
    size,
    subtract_vectors,
    turned,
    unit,
)
from tall_heron.core.routing.way import best_turned

ROUND = 1.1  # of a hose's least bend, where nobody says a radius
USUAL_RADIUS = 60.0  # mm, of a line that says no least bend
LEAST_LEG = 5.0
VENT_RISE = 90.0  # mm that a vent goes up from its tank, where nobody has drawn it


@dataclass(frozen=True)
class LaidLine:
    """A line in space: its `run`, whether somebody `drew` it, its clamps along it [mm] and whether
    somebody `clamped` it, and the same line cut short for looking at. `inside` is the tank that it
    lies in; such a line is not led through the vehicle. `trouble` says why a line is drawn straight
    instead.
    """

    element: Element
    run: HoseRun
    route: Route
    drawn: bool
    clamps: tuple[float, ...]
    clamped: bool
    path: Polyline
    inside: str = ""
    trouble: str = ""

    @cached_property
    def length(self) -> float:
        """From seat to seat along it [mm]: its centre line and the legs of its ends."""
        return self.run.center_line + sum(e.leg_a + e.leg_b for e in (self.run.one, self.run.other))

    @property
    def counted(self) -> float:
        """Its one length from seat to seat, whatever it comes from [mm]."""
        return self.element.length.mm if self.element.length is not None else self.length

    @property
    def radius(self) -> float:
        """Of its bends [mm]."""
        return self.run.radius

    @cached_property
    def outside(self) -> float:
        """Half its outer width [mm]."""
        return outside_of(self.element) / 2

    @property
    def protected(self) -> tuple[tuple[float, float, str], ...]:
        """What protects it: from, to [mm along it], and how."""
        return tuple((g.from_mm, g.to_mm, g.kind) for g in self.route.guards)


@dataclass(frozen=True)
class Laid:
    """A build in its vehicle: outline, where assemblies stand, and every line that has two ends
    somewhere, in document order; `without` are lines that nothing says the ends of.
    """

    outline: Outline
    stands: Stands
    lines: dict[str, LaidLine]
    without: tuple[str, ...]


def outside_of(element: Element) -> float:
    """A hose's or line's outer width [mm], that of the shelf's row of its family and size; one and
    a half bores where it has none.
    """
    known = _outsides().get((element.properties.family, element.properties.dash))
    return known if known is not None else 1.5 * float(getattr(element.figures, "bore_mm", 8.0))


@cache
def _outsides() -> dict[tuple[str, str], float]:
    return {
        (str(r["family"]), str(r["dash"])): float(r["outside_mm"]) for r in table("hose_families")
    }


def least_radius(element: Element) -> float:
    """What a hose or line may be bent to at least [mm]; the usual where its sheet does not say."""
    return element.properties.bend_radius_mm or USUAL_RADIUS


def legs_of(end: End | None) -> tuple[float, float, float]:
    """Of an end, from seat to corner, from corner to socket, and how far the hose goes into it
    [mm]. What it takes up is its legs less the hose in it; the legs share as common ends do (25 to
    40).
    """
    if end is None:
        return 0.0, 0.0, 0.0
    if end.leg_a_mm is not None and end.leg_b_mm is not None and end.inserted_mm is not None:
        return end.leg_a_mm, end.leg_b_mm, end.inserted_mm
    inserted = house_figure("end_inserted_mm")
    both = end.take_up_mm + inserted
    return both * 25 / 65, both * 40 / 65, inserted


def lay_out(build: Build) -> Laid:
    """Lay a build out. Raises ValueError for one without a brief."""
    if build.brief is None:
        raise ValueError("the build has no brief, so it has no vehicle")
    outline = outline_of(build.space, build.brief)
    stands = stand(build, outline)
    joints_between(build, build.circuit, stands)
    ends = Ends(stands, build.circuit)
    inside = {line: a.main.id for a in assemblies_of(build.circuit) for line in a.within}
    lines: dict[str, LaidLine] = {}
    without = []
    lanes: dict[str, int] = {}
    for e in build.circuit.elements:
        if e.kind not in LINES or e.length is None:
            continue
        a, b = ends.of(e)
        joint = {
            port: stands.joints[e.ports[port]] for port in e.ports if e.ports[port] in stands.joints
        }
        a, b = (
            _at_joint(a, joint.get("start"), b, joint.get("end")),
            _at_joint(b, joint.get("end"), a, joint.get("start")),
        )
        if a is None or b is None:
            without.append(e.id)
            continue
        lane = lanes[e.role] = lanes.get(e.role, 0)
        lines[e.id] = lay_line(
            build,
            outline,
            e,
            a,
            b,
            {"return": 1, "vent": 2, "suction": 0}.get(e.role, 0) + lane,
            inside.get(e.id, ""),
        )
    return Laid(outline, stands, lines, tuple(without))


def _at_joint(
    port: Port | None, here: Vector | None, other: Port | None, there: Vector | None
) -> Port | None:
    """A port, or where lines meet a place that faces the other end."""
    if port is not None or here is None:
        return port
    goal = other.seat if other is not None else there
    return Port(
        here, facing(here, goal if goal is not None else add_vectors(here, (1.0, 0.0, 0.0)))
    )


def _end(port: Port, end: End | None, toward: Vector, turned_deg: float = 0.0) -> RunEnd:
    """An end on its port; a bent one turned toward a place, and on from there clockwise as seen
    from the part [deg].
    """
    a, b, inserted = legs_of(end)
    angle = math.radians(end.angle_deg) if end is not None else 0.0
    roll = across(subtract_vectors(toward, port.seat), port.away)
    if angle > STRAIGHT and size(roll) < 1.0:
        roll = across((0.0, 0.0, 1.0), port.away)
        roll = roll if size(roll) > 0.1 else across((1.0, 0.0, 0.0), port.away)
    roll = unit(roll) if size(roll) > 1e-6 else (0.0, 0.0, 1.0)
    return RunEnd(
        port,
        angle,
        a,
        b,
        inserted,
        turned(roll, port.away, math.radians(turned_deg)) if turned_deg else roll,
    )


def lay_line(
    build: Build, outline: Outline, e: Element, a: Port, b: Port, lane: int, inside: str
) -> LaidLine:
    """One line between its ports: as somebody drew it, or the usual way."""
    typed = build.space.routes.get(e.id)
    route = typed or Route()
    radius = route.radius_mm or ROUND * least_radius(e)
    corners = tuple(route.corners) if typed is not None and typed.corners else ()
    one = _end(a, e.end_a, corners[0] if corners else b.seat, route.turned_a_deg)
    other = _end(b, e.end_b, corners[-1] if corners else a.seat, route.turned_b_deg)
    trouble = ""
    try:
        if inside:
            run = HoseRun(_plain(a), _plain(b), (), radius)
        else:
            if typed is None:
                one, other, corners = best_turned(
                    outline.lanes, one, other, radius, lane, VENT_RISE if e.kind == "vent" else 0.0
                )
            run = HoseRun(one, other, corners, radius)
        path = polyline(run.drawn())
    except ValueError as error:
        trouble = str(error)
        run = HoseRun(
            _plain(a),
            _plain(
                Port(
                    add_vectors(b.seat, (0.0, 0.0, LEAST_LEG))
                    if size(subtract_vectors(a.seat, b.seat)) < 1.0
                    else b.seat,
                    b.away,
                )
            ),
            (),
            radius,
        )
        path = polyline(run.drawn())
    total = float(path.along[-1])
    clamps = (
        tuple(c for c in route.clamps if c <= total)
        if route.clamps is not None
        else by_rule(e, run)
        if not inside
        else ()
    )
    return LaidLine(
        e,
        run,
        route,
        typed is not None and not trouble,
        clamps,
        route.clamps is not None,
        path,
        inside,
        trouble,
    )


def _plain(port: Port) -> RunEnd:
    return RunEnd(port, 0.0, 0.0, 0.0, 0.0)


def spacing(element: Element) -> float:
    """How far apart its supports may stand [mm], by what it is and its size."""
    row = (
        by_name("supports", "dash").get(element.properties.dash)
        or by_name("supports", "dash")["-8"]
    )
    return float(
        row[
            {"aluminium": "aluminium_mm", "steel": "steel_mm"}.get(
                element.properties.family, "hose_mm"
            )
        ]
    )


def by_rule(element: Element, run: HoseRun) -> tuple[float, ...]:
    """Clamps evenly along it [mm], no two and no end further apart than they may be."""
    total, most = run.center_line, spacing(element)
    count = max(math.ceil(total / (0.95 * most)) - 1, 0)
    return tuple(round(total * (i + 1) / (count + 1), 1) for i in range(count))
