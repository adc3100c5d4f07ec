"""Changes to how a build is laid out in its vehicle. Lengths, clocks, bends, heights and places of
the circuit follow the drawing; what somebody typed or measured stands.
"""

from collections.abc import Iterable, Mapping
from typing import Any

from pydantic import ValidationError

from tall_heron.core.base.errors import wrong
from tall_heron.core.document.build import Build, checked
from tall_heron.core.document.circuit import Length
from tall_heron.core.document.space import Guard, Panel, Place, Route, Space, Zone
from tall_heron.core.editing.drawn import drawn_source, followed, led_nodes, with_elements
from tall_heron.core.editing.topology import insert, split
from tall_heron.core.routing.clearance import crossings
from tall_heron.core.routing.laid import Laid, LaidLine, by_rule, lay_out
from tall_heron.core.routing.outline import limits_of
from tall_heron.core.routing.suggest import suggestions
from tall_heron.core.routing.vectors import Vector, add_vectors, cross, size, subtract_vectors, unit
from tall_heron.core.routing.way import eased

PAIR_GAP = 25.0  # mm clear between lines that run side by side
BULKHEAD_HALF = 25.0


def _spaced(build: Build, **changes: Any) -> Build:
    """The build with some of its space changed. Raises BuildErrors."""
    space = checked(Space, build.space.model_dump() | changes)
    return build.model_copy(update={"space": space})


def _with_route(build: Build, line: str, route: Route | None) -> Build:
    return with_routes(build, {line: route})


def with_routes(build: Build, routes: Mapping[str, Route | None]) -> Build:
    """The build with some lines drawn as said, or no longer drawn where that is None. Lengths do
    not follow yet. Raises BuildErrors.
    """
    rest = {k: v.model_dump() for k, v in build.space.routes.items() if k not in routes}
    return _spaced(
        build, routes=rest | {k: v.model_dump() for k, v in routes.items() if v is not None}
    )


def laid_line(build: Build, line: str, laid: Laid | None = None) -> LaidLine:
    """A line as it lies. Raises BuildErrors for one that is not there, or lies in a tank."""
    match = (laid or lay_out(build)).lines.get(line)
    if match is None or match.inside:
        raise wrong(
            "line",
            f"{line} is no line that is routed through the vehicle"
            if match is None
            else f"{line} lies in {match.inside} and is not routed through the vehicle",
        )
    return match


def _route(build: Build, line: str) -> tuple[Route, LaidLine]:
    """A line's own route, or the usual one made its own."""
    match = laid_line(build, line)
    typed_route = build.space.routes.get(line)
    return typed_route or Route(corners=list(match.run.corners)), match


def _rebuilt(model: Route, **changes: Any) -> Route:
    return checked(Route, model.model_dump() | changes)


def draw_line(
    build: Build, line: str, corners: Iterable[Vector], radius: float | None = None
) -> Build:
    """Lead a line round corners [mm], with bends of a radius [mm] where one is said. Raises
    BuildErrors.
    """
    typed_route = build.space.routes.get(line)
    route = (
        typed_route
        if typed_route is not None and build.circuit.element(line) is not None
        else _route(build, line)[0]
    )
    places = [[round(x, 1) for x in c] for c in corners]
    drawn = _with_route(
        build,
        line,
        _rebuilt(
            route, corners=places, radius_mm=radius if radius is not None else route.radius_mm
        ),
    )
    for name, other in build.space.routes.items():  # what runs beside it goes along
        if other.beside == line and name != line and places:
            drawn = run_beside(drawn, name, line)
    return followed(drawn)


def lead_all(build: Build, most: int) -> tuple[Build, int, int]:
    """Draw each line that nobody has drawn along the first way that is suggested for it, so many at
    most; how many were, and how many there were.
    """
    laid = lay_out(build)
    undrawn = [x.element.id for x in laid.lines.values() if not x.drawn and not x.inside]
    led_there = 0
    for line in undrawn[:most]:
        ways = suggestions(laid, laid.lines[line])
        if ways:
            build = _with_route(build, line, Route(corners=[list(c) for c in ways[0].corners]))
            led_there += 1
    return followed(build), led_there, len(undrawn)


def set_radius(build: Build, line: str, mm: float | None) -> Build:
    """Bend a line by a radius [mm], or as usual. Raises BuildErrors."""
    route, _ = _route(build, line)
    return followed(_with_route(build, line, _rebuilt(route, radius_mm=mm)))


def turn_end(build: Build, line: str, side: str, degrees: float) -> Build:
    """Turn a bent end of a line on its port, clockwise as seen from the part [deg], from where it
    looks at the next corner. Raises BuildErrors.
    """
    route, match = _route(build, line)
    end = match.element.end_a if side == "a" else match.element.end_b
    if side not in ("a", "b") or end is None or end.angle_deg == 0:
        raise wrong(
            f"turned_{side}", f"end {side.upper()} of {line} is straight: any way round is the same"
        )
    return followed(_with_route(build, line, _rebuilt(route, **{f"turned_{side}_deg": degrees})))


def usual_again(build: Build, name: str) -> Build:
    """Forget how a line was drawn, or where a part was put: it is as usual again."""
    return followed(
        _spaced(
            build,
            routes={k: v.model_dump() for k, v in build.space.routes.items() if k != name},
            places={k: v.model_dump() for k, v in build.space.places.items() if k != name},
        )
    )


def move_part(
    build: Build, name: str, at: Vector, yaw: float | None = None, pitch: float | None = None
) -> Build:
    """Put an assembly, a vent's valve or a joint of lines somewhere [mm], turned as said [deg].
    Raises BuildErrors.
    """
    stands = lay_out(build).stands
    name = stands.home.get(name, name)
    if name not in stands.standing and name not in stands.valves and name not in stands.joints:
        raise wrong("part", f"{name} is no part that stands somewhere")
    old = (
        stands.standing[name].place
        if name in stands.standing
        else build.space.places.get(name) or Place(at=at)
    )
    place = checked(
        Place,
        {
            "at": at,
            "yaw_deg": old.yaw_deg if yaw is None else yaw,
            "pitch_deg": old.pitch_deg if pitch is None else pitch,
        },
    )
    return followed(
        _spaced(
            build,
            places={k: v.model_dump() for k, v in build.space.places.items()}
            | {name: place.model_dump()},
        )
    )


def set_outline(build: Build, name: str) -> Build:
    """Choose the vehicle's outline; its own zones, panels and measures are forgotten, for they were
    another's. Raises BuildErrors.
    """
    return followed(_spaced(build, outline=name, dimensions={}, zones=[], panels=[], without=[]))


def set_dimension(build: Build, name: str, mm: float | None) -> Build:
    """Say a main dimension of the vehicle [mm], or forget it. Raises BuildErrors."""
    outline = lay_out(build).outline
    if name not in outline.dimensions:
        raise wrong("dimension", f"this outline has no dimension “{name}”")
    least, most = limits_of(outline.name, name, build.space.dimensions)
    if mm is not None and not least <= mm <= most:
        raise wrong(
            f"dim-{name}",
            f"for this outline it lies between {least:,.0f} mm and {most:,.0f} mm; choose another outline, type what it lies between first, or look at the unit",
        )
    rest = {k: v for k, v in build.space.dimensions.items() if k != name}
    return followed(_spaced(build, dimensions=rest | ({name: mm} if mm is not None else {})))


def set_zone(build: Build, zone: Zone) -> Build:
    """Put a zone, or change one. Raises BuildErrors."""
    others = [z.model_dump() for z in build.space.zones if z.name != zone.name]
    return _spaced(
        build,
        zones=[*others, zone.model_dump()],
        without=[n for n in build.space.without if n != zone.name],
    )


def set_panel(build: Build, panel: Panel) -> Build:
    """Put a panel, or change one. Raises BuildErrors."""
    others = [p.model_dump() for p in build.space.panels if p.name != panel.name]
    return _spaced(
        build,
        panels=[*others, panel.model_dump()],
        without=[n for n in build.space.without if n != panel.name],
    )


def shift(build: Build, name: str, by: Vector) -> Build:
    """Move a zone or a panel [mm]. Raises BuildErrors."""
    outline = lay_out(build).outline
    things: list[Zone | Panel] = [*outline.zones, *outline.panels]
    match = next((x for x in things if x.name == name), None)
    if match is None:
        raise wrong("name", f"there is no zone or panel “{name}”")
    changes: dict[str, Any] = {
        end: tuple(round(v, 1) for v in add_vectors(getattr(match, end), by))
        for end in ("low", "high")
    }
    if isinstance(match, Zone):
        changes["plan"] = [(x + by[0], y + by[1]) for x, y in match.plan]
    if isinstance(match, Zone):
        return set_zone(build, checked(Zone, match.model_dump() | changes))
    return set_panel(build, checked(Panel, match.model_dump() | changes))


def take_off(build: Build, name: str) -> Build:
    """Say that the vehicle has no such zone or panel. Raises BuildErrors."""
    zones, panels = (
        [x.model_dump() for x in xs if x.name != name]
        for xs in (build.space.zones, build.space.panels)
    )
    return _spaced(build, zones=zones, panels=panels, without=sorted({*build.space.without, name}))


def set_clamps(build: Build, line: str, at: list[float] | None) -> Build:
    """Clamp a line at places along it [mm], or by rule. Raises BuildErrors."""
    route, match = _route(build, line)
    total = float(match.path.along[-1])
    if at is not None and any(not 0 <= x <= total for x in at):
        raise wrong(
            "clamps",
            f"{line} is {total:,.0f} mm long from socket to socket; a clamp lies within that",
        )
    return _with_route(
        build,
        line,
        _rebuilt(route, clamps=sorted(round(x, 1) for x in at) if at is not None else None),
    )


def suggest_clamps(build: Build, line: str) -> Build:
    """Clamp a line evenly, no further apart than its supports may stand. Raises BuildErrors."""
    route, match = _route(build, line)
    return _with_route(build, line, _rebuilt(route, clamps=list(by_rule(match.element, match.run))))


def add_guard(build: Build, line: str, kind: str, start: float, end: float) -> Build:
    """Protect a stretch of a line [mm along it]. Raises BuildErrors."""
    route, match = _route(build, line)
    total = float(match.path.along[-1])
    guard = checked(Guard, {"kind": kind, "from_mm": max(start, 0.0), "to_mm": min(end, total)})
    return _with_route(
        build,
        line,
        _rebuilt(route, guards=[*(g.model_dump() for g in route.guards), guard.model_dump()]),
    )


def remove_guard(build: Build, line: str, index: int) -> Build:
    """Take a guard off a line. Raises BuildErrors."""
    route, _ = _route(build, line)
    if not 0 <= index < len(route.guards):
        raise wrong("at", f"{line} has no such guard")
    return _with_route(
        build,
        line,
        _rebuilt(route, guards=[g.model_dump() for i, g in enumerate(route.guards) if i != index]),
    )


def set_grommet(build: Build, line: str, panel: str, on: bool) -> Build:
    """Lead a line through a panel in a grommet, or no longer. Raises BuildErrors."""
    route, _ = _route(build, line)
    if panel not in {p.name for p in lay_out(build).outline.panels}:
        raise wrong("panel", f"there is no panel “{panel}”")
    return _with_route(
        build,
        line,
        _rebuilt(
            route, grommets=[*(g for g in route.grommets if g != panel), *([panel] if on else [])]
        ),
    )


def run_beside(build: Build, line: str, partner: str) -> Build:
    """Lead a line beside another all the way that they share. Raises BuildErrors."""
    laid = lay_out(build)
    own, other = laid_line(build, line, laid), laid_line(build, partner, laid)
    if line == partner or not other.run.corners:
        raise wrong(
            "beside",
            f"{partner} has no corners to run beside"
            if line != partner
            else "a line does not run beside itself",
        )
    places = list(other.run.corners)
    if size(subtract_vectors(own.run.one.socket, places[0])) > size(
        subtract_vectors(own.run.one.socket, places[-1])
    ):
        places.reverse()
    apart = own.outside + other.outside + PAIR_GAP
    ways = [other.run.one.socket, *other.run.corners, other.run.other.socket]
    whole = subtract_vectors(ways[-1], ways[0])
    side = cross(whole, (0.0, 0.0, 1.0))
    side = unit(side) if size(side) > 1.0 else (0.0, 1.0, 0.0)
    sign = 1.0 if (places[0][1] >= 0) == (side[1] >= 0) else -1.0  # to the outside of the vehicle
    beside = [add_vectors(p, side, sign * apart) for p in places]
    corners = eased(own.run.one, own.run.other, beside, own.run.radius)
    route, _ = _route(build, line)
    return followed(
        _with_route(
            build, line, _rebuilt(route, corners=[list(c) for c in corners], beside=partner)
        )
    )


def add_bulkhead(build: Build, line: str, panel: str) -> tuple[Build, str]:
    """Cut a line at a panel and join it there with a bulkhead union; its loss and its joints come
    into the circuit. Returns the build and the union's tag. Raises BuildErrors.
    """
    laid = lay_out(build)
    match = laid_line(build, line, laid)
    sheet = next((p for p in laid.outline.panels if p.name == panel), None)
    met = crossings(sheet, match.path) if sheet is not None else []
    if sheet is None or not met:
        raise wrong("panel", f"{line} does not go through the {panel}")
    if not match.element.ports:
        raise wrong(
            "panel",
            f"{line} carries no fuel of the circuit and passes through in one piece: choose a grommet",
        )
    along, at = met[0]
    axis = sheet.axis
    before = match.path.at(max(along - 5.0, 0.0))
    sign = 1.0 if at[axis] > before[axis] else -1.0
    way: Vector = tuple(sign if i == axis else 0.0 for i in range(3))  # type: ignore[assignment]
    cut, second = split(build, line)
    name = f"bulkhead-{match.element.properties.dash.removeprefix('-')}"
    joined, union = insert(cut, line, name)
    yaw = {0: 0.0 if sign > 0 else 180.0, 1: 90.0 * sign, 2: 0.0}[axis]
    place = Place(
        at=add_vectors(at, way, -BULKHEAD_HALF),
        yaw_deg=yaw,
        pitch_deg=90.0 * sign if axis == 2 else 0.0,
    )
    bends = [(sum(a <= along for a in _corner_along(match)))]
    corners = list(match.run.corners)
    old = build.space.routes.get(line) or Route()
    first = [c for c in corners[: bends[0]] if size(subtract_vectors(c, at)) > match.run.radius / 2]
    last = [c for c in corners[bends[0] :] if size(subtract_vectors(c, at)) > match.run.radius / 2]
    routes = {k: v.model_dump() for k, v in joined.space.routes.items()}
    routes[line] = Route(
        corners=first,
        radius_mm=old.radius_mm,
        guards=[g for g in old.guards if g.to_mm <= along],
        grommets=[g for g in old.grommets if g != panel],
    ).model_dump()
    routes[second] = Route(
        corners=last, radius_mm=old.radius_mm, grommets=[g for g in old.grommets if g != panel]
    ).model_dump()
    places = {k: v.model_dump() for k, v in joined.space.places.items()} | {
        union: place.model_dump()
    }
    spaced = _spaced(joined, routes=routes, places=places)
    for half, middle in ((line, first), (second, last)):  # both halves meet the panel squarely
        run = laid_line(spaced, half).run
        spaced = _with_route(
            spaced,
            half,
            _rebuilt(
                spaced.space.routes[half],
                corners=[list(c) for c in eased(run.one, run.other, middle, run.radius)],
            ),
        )
    return followed(spaced), union


def _corner_along(line: LaidLine) -> list[float]:
    """How far along a line each of its corners lies, measured from point to point [mm]."""
    out, along = [], 0.0
    for leg in line.run.legs[:-1]:
        along += leg
        out.append(along)
    return out


def set_group(build: Build, name: str, lines: list[str]) -> Build:
    """Say that some lines are meant to be equally long; fewer than two end the group. Raises
    BuildErrors.
    """
    for line in lines:
        laid_line(build, line)
    groups = {k: list(v) for k, v in build.space.groups.items() if k != name}
    return _spaced(build, groups=groups | ({name: lines} if len(lines) > 1 else {}))


def measured(build: Build, line: str, mm: float | None, typed: str | None = None) -> Build:
    """Say what a line measures on the vehicle from seat to seat [mm], which stands over the
    drawing; None: the drawing counts again. Raises BuildErrors.
    """
    element = build.circuit.element(line)
    if element is None or element.length is None:
        raise wrong("measured", f"{line} has no length to measure")
    try:
        length = Length(
            mm=element.length.mm if mm is None else mm,
            source=drawn_source(build) if mm is None else "measured",
            typed=typed if mm is not None else None,
            bends_loss_coefficient=element.length.bends_loss_coefficient,
        )
    except ValidationError:
        raise wrong("measured", "a line is between 1 mm and 1,000 m long") from None
    return followed(with_elements(build, [element.model_copy(update={"length": length})], {}))


def take_drawn(build: Build) -> Build:
    """Let every length, clock and height that was typed follow the drawing; what was measured
    stands.
    """
    laid = lay_out(build)
    elements = []
    for x in laid.lines.values():
        e = x.element
        if x.inside or e.length is None:
            continue
        typed = e.length.source == "typed"
        length = (
            e.length.model_copy(update={"source": drawn_source(build), "typed": None})
            if typed
            else e.length
        )
        elements.append(
            e.model_copy(
                update={
                    "length": length,
                    "clock_source": drawn_source(build)
                    if e.clock_source == "typed"
                    else e.clock_source,
                }
            )
        )
    led_there = led_nodes(build, laid)
    drawn = dict.fromkeys(("source", "place_source"), drawn_source(build))
    nodes = {
        n.id: n.model_copy(update={k: v for k, v in drawn.items() if getattr(n, k) == "typed"})
        for n in build.circuit.nodes
        if n.id in led_there
    }
    return followed(with_elements(build, elements, nodes))
