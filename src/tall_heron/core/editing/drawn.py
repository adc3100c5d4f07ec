"""The circuit as its build is drawn in the vehicle: lengths, clocks, bends, heights and places
follow the drawing; what somebody typed or measured stands.
"""

import math
from typing import Any

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Circuit, Element, Length, Node
from tall_heron.core.document.figures import Pipe
from tall_heron.core.document.record import DRAWN, FOLLOWS, Source
from tall_heron.core.document.sources import clocked
from tall_heron.core.editing.wiring import with_reach
from tall_heron.core.physics.fittings import bend_coefficient
from tall_heron.core.routing.laid import Laid, LaidLine, lay_out
from tall_heron.core.routing.outline import outline_of
from tall_heron.core.routing.vectors import subtract_vectors


def drawn_source(build: Build) -> Source:
    """Where what is drawn comes from: a vehicle of which somebody has typed a dimension or scaled a
    picture, or a stock outline.
    """
    return (
        "route"
        if build.space.dimensions or any(g.scaled for g in build.space.grounds.values())
        else "outline"
    )


def laid_alike(one: Build, other: Build) -> bool:
    """Whether two builds of which one was made from the other are laid out alike for all that is
    known without laying them out: the same parts in the same vehicle.
    """
    if one.brief is None or other.brief is None or one.space is not other.space:
        return False
    a, b = one.circuit, other.circuit
    same = a is b or (
        a.nodes == b.nodes
        and len(a.elements) == len(b.elements)
        and all(x is y for x, y in zip(a.elements, b.elements, strict=True))
    )
    return same and outline_of(one.space, one.brief) == outline_of(other.space, other.brief)


def followed(build: Build, undrawn: bool = False) -> Build:
    """The build with lengths, clocks, bends, heights and places as it is drawn, those apart that
    somebody typed or measured. The guessed length of a line that nobody drew stays as it is,
    unless it is to follow the usual way of such a line: `undrawn`.
    """
    laid = lay_out(build)
    lines = []
    for line in laid.lines.values():
        e = line.element
        if line.inside or line.trouble or e.length is None:
            continue
        changes: dict[str, Any] = {}
        source = drawn_source(build) if line.drawn else "assumed"
        if line.length >= 1 and (
            e.length.source in DRAWN or (e.length.source == "assumed" and (line.drawn or undrawn))
        ):
            changes["length"] = Length(
                mm=round(line.length, 1),
                source=source,
                bends_loss_coefficient=round(bends_loss(line), 4),
            )
        else:
            changes["length"] = e.length.model_copy(
                update={"bends_loss_coefficient": round(bends_loss(line), 4)}
            )
        clock = line.run.clock
        if clocked(e) and clock is not None and (e.clock_deg is None or e.clock_source in FOLLOWS):
            changes |= {"clock_deg": round(math.degrees(clock)) % 360, "clock_source": source}
        lines.append(e.model_copy(update=changes))
    return with_reach(with_elements(build, lines, _nodes(build, laid)), laid)


def _nodes(build: Build, laid: Laid) -> dict[str, Node]:
    """Nodes with their heights over the circuit's datum, how far ahead of the first tank's outlet
    and to the right of the middle they lie, from where they stand.
    """
    tanks = build.circuit.of_kind("tank")
    at = laid.stands.nodes(build.circuit)
    if not tanks or tanks[0].ports["outlet"] not in at:
        return {}
    first = tanks[0].ports["outlet"]
    origin, datum = at[first], next(n.elevation_mm for n in build.circuit.nodes if n.id == first)
    typed_nodes = {n for s in laid.stands.standing.values() if s.typed for n in s.assembly.nodes}
    out, led_there = {}, led_nodes(build, laid)
    up = _tank_shifts(build, laid, {n: datum + subtract_vectors(at[n], origin)[2] for n in at})
    for n in build.circuit.nodes:
        if n.id in up and n.id not in led_there and n.source in FOLLOWS:
            out[n.id] = n.model_copy(
                update={"elevation_mm": round(n.elevation_mm + up[n.id], 1)}
            )  # what hangs in a tank goes with it
        if n.id not in at or n.id not in led_there:
            continue
        far = subtract_vectors(at[n.id], origin)
        source, more = drawn_source(build) if n.id in typed_nodes else "assumed", dict[str, Any]()
        if n.place_source in FOLLOWS:
            more |= {
                "ahead_mm": round(far[0], 1),
                "right_mm": round(0.0 - at[n.id][1], 1),
                "place_source": source,
            }
        if n.source in FOLLOWS:
            more |= {"elevation_mm": round(datum + far[2], 1), "source": source}
        out[n.id] = n.model_copy(update=more)
    return out


def _tank_shifts(build: Build, laid: Laid, now: dict[str, float]) -> dict[str, float]:
    """By how much each tank's outlet rises as it is drawn [mm], for every node in the tank."""
    before = {n.id: n for n in build.circuit.nodes}
    out: dict[str, float] = {}
    for s in laid.stands.standing.values():
        outlet = s.assembly.main.ports.get("outlet")
        if s.assembly.main.kind == "tank" and outlet in now and before[outlet].source in FOLLOWS:
            out |= dict.fromkeys(s.assembly.nodes, now[outlet] - before[outlet].elevation_mm)
    return out


def bends_loss(line: LaidLine) -> float:
    """K of a line's bends beyond friction, on its own bore."""
    if not isinstance(line.element.figures, Pipe):
        return 0.0
    bore = line.element.figures.bore_mm
    return sum(
        bend_coefficient(b.angle, max(b.radius, bore), bore, house_figure("bend_friction_factor"))
        for b in line.run.bends
    )


def led_nodes(build: Build, laid: Laid) -> set[str]:
    """Nodes whose height the drawing knows: what lines are led to, and what stands outside the
    tanks. How things hang in a tank it does not.
    """
    ends = {n for x in laid.lines.values() if not x.inside for n in x.element.ports.values()}
    outside = {
        n
        for s in laid.stands.standing.values()
        if s.assembly.main.kind != "tank"
        for n in s.assembly.nodes
    }
    return ends | outside | {e.ports["outlet"] for e in build.circuit.of_kind("tank")}


def with_elements(build: Build, new: list[Element], nodes: dict[str, Node]) -> Build:
    named = {e.id: e for e in new}
    c = build.circuit
    circuit = Circuit(
        template=c.template,
        nodes=[nodes.get(n.id, n) for n in c.nodes],
        elements=[named.get(e.id, e) for e in c.elements],
    )
    return build.model_copy(update={"circuit": circuit})


def held_to_drawing(build: Build) -> tuple[Build, tuple[str, ...]]:
    """A build from outside with every length that claims to be drawn as long as it is drawn, and
    assumed where nothing is drawn; the tags of those that were other by a millimeter or more.
    """
    laid, lines, other = lay_out(build).lines, list[Element](), list[str]()
    for e in build.circuit.elements:
        if e.length is None or e.length.source not in DRAWN:
            continue
        line, changes = laid.get(e.id), dict[str, Any]()
        if line is None or not line.drawn:
            changes["source"] = "assumed"
        elif not line.trouble and abs(line.length - e.length.mm) >= 1:
            changes["mm"] = round(line.length, 1)
            other.append(e.id)
        lines.append(e.model_copy(update={"length": e.length.model_copy(update=changes)}))
    return with_elements(build, lines, {}), tuple(other)
