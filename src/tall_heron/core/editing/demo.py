"""The demo builds: data/demo/demo.json through their layouts, led as data/demo/demo_routes.json says."""

from typing import Any

from tall_heron.core.base.catalogue import document
from tall_heron.core.document.build import Brief, Build
from tall_heron.core.document.shop import Shop
from tall_heron.core.document.sources import with_source
from tall_heron.core.document.space import Space
from tall_heron.core.document.tank_inside import Inside
from tall_heron.core.editing.fields import set_end
from tall_heron.core.editing.inside import with_inside, with_level_gauge
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.editing.route import add_bulkhead, take_drawn
from tall_heron.core.editing.topology import insert
from tall_heron.core.editing.wiring import wire_by_rule


def demo_builds(wired: bool = False) -> dict[str, Build]:
    """Every demo build by its name in lower case; those that ship with wires `wired` by rule where
    asked.
    """
    out = {}
    for row in document("demo")["builds"]:
        layout, brief = LAYOUTS[row["layout"]], Brief.model_validate(row["brief"])
        circuit = layout.build(brief, layout.picks(**row["picks"]))
        for tank, inside in row.get("inside", {}).items():
            circuit = with_inside(circuit, tank, Inside.model_validate(inside))
        for tank in row.get("level_gauges", ()):
            circuit = with_level_gauge(circuit, tank, True)
        build = Build(
            name=row["name"],
            brief=brief,
            circuit=with_source(circuit, "typed"),
            typed=row["typed"],
            shop=Shop(faces=row.get("faces", {})),
        )
        routed = document("demo_routes").get(row["name"].lower())
        build = _routed(build, routed) if routed else build
        out[row["name"].lower()] = wire_by_rule(build) if wired and row.get("wired") else build
    return out


def _routed(build: Build, row: dict[str, Any]) -> Build:
    """A build led through its vehicle: lines put between parts, places, routes, and what crosses
    panels; lengths and heights as drawn.
    """
    for behind, name, new, runs in row.get("lines", ()):
        build, tag = insert(build, behind, name)
        assert tag == new, f"{tag} is not {new}"
        elements = [
            e.model_copy(update={"runs": runs}) if e.id == new else e
            for e in build.circuit.elements
        ]
        build = build.model_copy(
            update={"circuit": build.circuit.model_copy(update={"elements": elements})}
        )
    for line, side, angle in row.get("ends", ()):
        build = set_end(build, line, side, angle)
    build = take_drawn(build.model_copy(update={"space": Space.model_validate(row["space"])}))
    for line, panel in row.get("bulkheads", ()):
        build = add_bulkhead(build, line, panel)[0]
    return build
