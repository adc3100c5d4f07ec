"""Changes to what is joined to what: put a part in, take one out and join up, split a hose, set a
second pump beside one. Each is a new document; what was typed and accepted for parts that stay,
stays.
"""

from typing import Any

from pydantic import ValidationError

from tall_heron.core.base.errors import BuildError, BuildErrors
from tall_heron.core.document.build import Build, checked, readable
from tall_heron.core.document.circuit import Circuit, Element, Length, Node
from tall_heron.core.document.figures import Regulator
from tall_heron.core.document.kinds import BURNERS, JOINED, KINDS, LINES
from tall_heron.core.document.space import Place, Route, Space
from tall_heron.core.document.wiring import Wiring
from tall_heron.core.editing.branches import branch_of, idle_y
from tall_heron.core.editing.fields import part_of
from tall_heron.core.shelf import shelf
from tall_heron.core.shelf.shelf import ShelfPart

CHECK = "rill-8"  # the valve that a pump beside another gets
NEW_HOSE_MM = 300.0
KEPT_OUT = ("tank", *BURNERS)


def refused(message: str) -> BuildErrors:
    return BuildErrors([BuildError("/part", message)])


def made_of(build: Build, nodes: list[Node], elements: list[Element]) -> Build:
    """The build with other nodes and elements; nodes that nothing stands on are dropped. Raises
    BuildErrors.
    """
    used = {n for e in elements for n in e.ports.values()}
    try:
        circuit = Circuit(
            template=build.circuit.template,
            nodes=[n for n in nodes if n.id in used],
            elements=elements,
        )
    except ValidationError as error:
        raise BuildErrors([readable(e) for e in error.errors()]) from None
    return in_circuit(build, circuit)


def in_circuit(build: Build, circuit: Circuit) -> Build:
    """The build with another circuit, without what is said of parts that are gone."""
    elements = circuit.elements
    used = {n for e in elements for n in e.ports.values()}
    names = {e.id for e in elements}
    accepted = [a for a in build.accepted if not a.element_id or a.element_id in names]
    wiring = build.wiring.without(names) if build.wiring is not None else None
    space = _still_there(build.space, names | used)
    return build.model_copy(
        update={
            "circuit": circuit,
            "accepted": accepted,
            "space": space,
            "shop": build.shop.without(names),
            "wiring": wiring,
        }
    )


def _still_there(space: Space, names: set[str]) -> Space:
    """The space without what is said of parts that are gone: the next of that name would lie where
    they did.
    """
    if names.issuperset(space.routes) and names.issuperset(space.places):
        return space
    groups = {k: [n for n in v if n in names] for k, v in space.groups.items()}
    return space.model_copy(
        update={
            "routes": {k: v for k, v in space.routes.items() if k in names},
            "places": {k: v for k, v in space.places.items() if k in names},
            "groups": {k: v for k, v in groups.items() if len(v) > 1},
        }
    )


def free_id(build: Build, kind: str) -> str:
    """The next tag of a kind that no part has."""
    tag, taken = KINDS[kind].tag, {e.id for e in build.circuit.elements}
    return next(f"{tag}{i}" for i in range(1, len(taken) + 2) if f"{tag}{i}" not in taken)


def free_node(build: Build, stem: str) -> str:
    taken = {n.id for n in build.circuit.nodes}
    return next(name for i in range(1, len(taken) + 2) if (name := f"{stem} {i}") not in taken)


def fitted(
    build: Build, part: ShelfPart, element_id: str, ports: dict[str, str], role: str
) -> Element:
    more: dict[str, Any] = {}
    law = part.figures
    if part.kind in LINES:
        ends = [shelf.nearest_end(part.properties.family, part.properties.dash, 0.0) for _ in "ab"]
        more = {
            "length": Length(mm=NEW_HOSE_MM, source="assumed"),
            "end_a": ends[0],
            "end_b": ends[1],
        }
    if isinstance(law, Regulator) and build.brief is not None:
        law = law.model_copy(
            update={"set_kpa": part.properties.within_setting(build.brief.base_kpa)}
        )
    return Element(
        id=element_id,
        kind=part.kind,
        title=part.title,
        ports=ports,
        figures=law,
        shelf=part.name,
        properties=part.properties,
        role=role,
        **more,
    )


def insert(build: Build, element_id: str, name: str, before: bool = False) -> tuple[Build, str]:
    """Put a part of the shelf into the line behind an element (or before it); returns the build and
    the new part's tag. Raises BuildErrors.
    """
    element, part = part_of(build, element_id), shelf.parts().get(name)
    if part is None or set(KINDS[part.kind].ports) != {"start", "end"}:
        raise refused(f"“{name}” is not a part that goes into a line")
    ports = list(KINDS[element.kind].ports)
    port = next(
        (
            p
            for p in (
                ("start", "a", "left", "motive")
                if before
                else ("end", "engine", "outlet", "branch")
            )
            if p in ports
        ),
        None,
    )
    if port is None:
        raise refused(
            f"nothing can go into a line {'before' if before else 'behind'} a {KINDS[element.kind].word}"
        )
    here = element.ports[port]
    between = free_node(build, "joint")
    height = next(n.elevation_mm for n in build.circuit.nodes if n.id == here)
    new_id = free_id(build, part.kind)
    into, out = (here, between) if before else (between, here)
    if element.kind == "tank":
        # A tank keeps its outlet; what hung on it hangs behind the new part.
        feeding = [
            e for e in build.circuit.elements if e.id != element_id and here == e.ports.get("start")
        ]
        moved = {
            e.id: e.model_copy(update={"ports": e.ports | {"start": between}}) for e in feeding
        }
        into, out = here, between
    else:
        moved = {element_id: element.model_copy(update={"ports": element.ports | {port: between}})}
    new = fitted(build, part, new_id, {"start": into, "end": out}, element.role)
    elements: list[Element] = []
    for e in build.circuit.elements:
        if e.id == element_id and before:
            elements.append(new)
        elements.append(moved.get(e.id, e))
        if e.id == element_id and not before:
            elements.append(new)
    return made_of(
        build, [*build.circuit.nodes, Node(id=between, elevation_mm=height)], elements
    ), new_id


def add_tap(build: Build, element_id: str, name: str) -> tuple[Build, str]:
    """Put a gauge, a sensor or an auxiliary tap on the end of an element; returns the build and its
    tag. Raises BuildErrors.
    """
    element, part = part_of(build, element_id), shelf.parts().get(name)
    node = next(
        (element.ports[p] for p in ("end", "outlet", "engine", "start") if p in element.ports), None
    )
    if part is None or part.kind not in ("gauge", "auxiliary") or node is None:
        raise refused(f"“{name}” cannot be tapped in at {element_id}")
    new_id = free_id(build, part.kind)
    new = fitted(build, part, new_id, {"start": node}, element.role)
    return made_of(build, list(build.circuit.nodes), [*build.circuit.elements, new]), new_id


def take_out(build: Build, element_id: str) -> Build:
    """Take one part out and join what it parted. Raises BuildErrors for what cannot be joined up."""
    element = part_of(build, element_id)
    rest = [e for e in build.circuit.elements if e.id != element_id]
    if len(element.ports) < 2 and element.kind not in KEPT_OUT:
        return made_of(build, list(build.circuit.nodes), rest)
    if element.kind in KEPT_OUT:
        raise refused(
            f"a {KINDS[element.kind].word} cannot be taken out of its circuit; choose another layout"
        )
    if set(element.ports) != {"start", "end"}:
        raise refused(
            f"a {KINDS[element.kind].word} joins more than two lines; take out what it joins first"
        )
    keep, gone = element.ports["start"], element.ports["end"]
    outlets = {e.ports["outlet"] for e in build.circuit.of_kind("tank")}
    if gone in outlets:
        keep, gone = gone, keep
    if gone in outlets:
        raise refused(f"without {element_id} two tanks would be one; join them with a line")
    joined = [
        e.model_copy(update={"ports": {p: keep if n == gone else n for p, n in e.ports.items()}})
        for e in rest
    ]
    short = next((e.id for e in joined if len(set(e.ports.values())) < len(e.ports)), None)
    if short is not None:
        raise refused(
            f"without {element_id} both sides of {short} would be one; take {short} out first"
        )
    return made_of(build, list(build.circuit.nodes), joined)


def take_out_whole(build: Build, element_id: str) -> Build:
    """Take a part out as a builder does: with a pump beside others goes what stands for it alone,
    and a Y with an idle leg can go. Raises BuildErrors.
    """
    element = part_of(build, element_id)
    branch = (
        branch_of(build.circuit, element)
        if element.kind == "pump"
        else idle_y(build.circuit, element)
        if element.kind in JOINED
        else None
    )
    if branch is None:
        return take_out(build, element_id)
    left = [e for e in build.circuit.elements if e.id not in branch.parts]
    return made_of(
        build,
        list(build.circuit.nodes),
        [
            e.model_copy(
                update={
                    "ports": {
                        p: branch.stays if n == branch.gone else n for p, n in e.ports.items()
                    }
                }
            )
            for e in left
        ],
    )


def split(build: Build, element_id: str) -> tuple[Build, str]:
    """Cut a hose or hard line in two halves with a joint between; returns the build and the new
    half's tag. Raises BuildErrors.
    """
    element = part_of(build, element_id)
    if element.length is None or set(element.ports) != {"start", "end"}:
        raise refused(f"{element_id} is no hose or line that can be split")
    half = Length(mm=max(1.0, element.length.mm / 2), source="assumed")
    straight = (
        shelf.nearest_end(element.properties.family, element.properties.dash, 0.0) or element.end_b
    )
    between, new_id = free_node(build, "joint"), free_id(build, element.kind)
    heights = {n.id: n.elevation_mm for n in build.circuit.nodes}
    middle = (heights[element.ports["start"]] + heights[element.ports["end"]]) / 2
    first = element.model_copy(
        update={
            "ports": element.ports | {"end": between},
            "length": half,
            "end_b": straight,
            "clock_deg": None,
        }
    )
    second = element.model_copy(
        update={
            "id": new_id,
            "ports": element.ports | {"start": between},
            "length": half,
            "end_a": straight,
            "clock_deg": None,
        }
    )
    elements = [
        x for e in build.circuit.elements for x in ((first, second) if e.id == element_id else (e,))
    ]
    changed = made_of(
        build, [*build.circuit.nodes, Node(id=between, elevation_mm=middle)], elements
    )
    route = build.space.routes.get(element_id)
    if (
        route is not None and route.corners
    ):  # each half keeps its corners, and the joint stands at the one between
        k = len(route.corners) // 2
        halves = {
            element_id: Route(corners=route.corners[:k], radius_mm=route.radius_mm),
            new_id: Route(corners=route.corners[k + 1 :], radius_mm=route.radius_mm),
        }
        space = changed.space.model_copy(
            update={
                "routes": changed.space.routes | halves,
                "places": changed.space.places | {between: Place(at=route.corners[k])},
            }
        )
        changed = changed.model_copy(update={"space": space})
    return changed, new_id


def second_pump(build: Build, element_id: str) -> tuple[Build, str]:
    """A pump like this one beside it, each with its check valve, and a Y that makes them one line;
    returns the build and its tag. Raises BuildErrors.
    """
    pump = part_of(build, element_id)
    if pump.kind != "pump":
        raise refused(f"{element_id} is no pump")
    nodes, elements = list(build.circuit.nodes), list(build.circuit.elements)
    heights = {n.id: n.elevation_mm for n in nodes}

    def place(stem: str, like: str) -> str:
        name = next(
            x for i in range(1, len(nodes) + 2) if (x := f"{stem} {i}") not in {n.id for n in nodes}
        )
        nodes.append(Node(id=name, elevation_mm=heights[like]))
        heights[name] = heights[like]
        return name

    def free(kind: str) -> str:
        return free_id(
            build.model_copy(
                update={"circuit": build.circuit.model_copy(update={"elements": elements})}
            ),
            kind,
        )

    out = pump.ports["end"]
    check = next((e for e in elements if e.kind == "check" and e.ports["start"] == out), None)
    if check is None:
        changed = place("pump out", out)
        part = shelf.part_named(CHECK)
        elements[elements.index(pump)] = pump.model_copy(
            update={"ports": pump.ports | {"end": changed}}
        )
        check = fitted(build, part, free("check"), {"start": changed, "end": out}, pump.role)
        elements.append(check)
    after = check.ports["end"]
    a, b, changed = (
        place("merge", after),
        place("merge", after),
        place("pump out", pump.ports["end"]),
    )
    elements[elements.index(check)] = check.model_copy(update={"ports": check.ports | {"end": a}})
    new_id = free("pump")
    elements.append(
        pump.model_copy(
            update={"id": new_id, "ports": {"start": pump.ports["start"], "end": changed}}
        )
    )
    elements.append(
        check.model_copy(update={"id": free("check"), "ports": {"start": changed, "end": b}})
    )
    elements.append(
        fitted(
            build,
            shelf.part_named("merge-10"),
            free("merge"),
            {"a": a, "b": b, "end": after},
            "feed",
        )
    )
    return made_of(build, nodes, elements).model_copy(
        update={"wiring": _wired_alike(build.wiring, element_id, new_id)}
    ), new_id


def _wired_alike(wiring: Wiring | None, pump: str, new: str) -> Wiring | None:
    """The wiring with a new pump on a branch like another's, its relay one of its own; in an
    aircraft on the other bus.
    """
    if wiring is None or pump not in wiring.branches:
        return wiring
    like = wiring.branches[pump]
    relay = wiring.free_relay if like.relay else ""
    branch = like.model_copy(
        update={
            "relay": relay,
            "bus": like.bus if like.relay else {"1": "2", "2": "1"}[like.bus],
            "ground": "",
        }
    )
    old = wiring.relay(like.relay)
    relays = [
        *wiring.relays,
        *([old.model_copy(update={"name": relay})] if old is not None else []),
    ]
    together = max(wiring.together, 2 * (len(wiring.branches) + 1))
    return wiring.model_copy(
        update={
            "branches": {**wiring.branches, new: branch},
            "relays": relays,
            "together": together,
        }
    )


def turn_round(build: Build, element_id: str) -> Build:
    """Fit a part the other way round. Raises BuildErrors."""
    element = part_of(build, element_id)
    if set(element.ports) != {"start", "end"}:
        raise refused(f"{element_id} has no two ends to turn round")
    turned = element.model_copy(update={"reversed": not element.reversed})
    return made_of(
        build,
        list(build.circuit.nodes),
        [turned if e.id == element_id else e for e in build.circuit.elements],
    )


def selector_for(build: Build, element_id: str) -> Build:
    """A selector in the place of a tee that joins two tanks. Raises BuildErrors."""
    tee = part_of(build, element_id)
    if tee.kind not in ("junction", "merge"):
        raise refused(f"{element_id} joins no two lines")
    one, other = (
        tee.ports[p] for p in (("start", "branch") if tee.kind == "junction" else ("a", "b"))
    )
    part = next(
        p
        for p in shelf.parts().values()
        if p.name == f"selector{tee.properties.dash}" or p.name == "selector-8"
    )
    new_id = free_id(build, "selector")
    new = fitted(
        build, part, new_id, {"left": one, "right": other, "engine": tee.ports["end"]}, tee.role
    )
    return made_of(
        build,
        list(build.circuit.nodes),
        [new if e.id == element_id else e for e in build.circuit.elements],
    )


def set_height(build: Build, element_id: str, port: str, mm: float) -> Build:
    """Set how high one end of a part lies over the datum of the circuit [mm]; what stands on the
    same place moves with it. Raises BuildErrors.
    """
    element = part_of(build, element_id)
    if port not in element.ports:
        raise refused(f"{element_id} has no {port}")
    if not -100_000 <= mm <= 100_000:
        raise refused("a height lies within 100 m")
    nodes = [
        n.model_copy(update={"elevation_mm": mm, "source": "typed"})
        if n.id == element.ports[port]
        else n
        for n in build.circuit.nodes
    ]
    return made_of(build, nodes, list(build.circuit.elements))


PLACES = {
    "ahead": "ahead_mm",
    "right": "right_mm",
}  # where an end lies: ahead of the first tank, to the right of the vehicle's middle


def set_place(build: Build, element_id: str, port: str, way: str, mm: float | None) -> Build:
    """Set how far `ahead` or to the `right` one end of a part lies [mm], None where nobody says;
    what stands on the same place moves with it. Raises BuildErrors.
    """
    element = part_of(build, element_id)
    if port not in element.ports or way not in PLACES:
        raise refused(f"{element_id} has no {port}")
    if mm is not None and not -100_000 <= mm <= 100_000:
        raise refused("a place lies within 100 m")
    placing = {PLACES[way]: mm, "place_source": "typed" if mm is not None else "assumed"}
    nodes = [
        n.model_copy(update=placing) if n.id == element.ports[port] else n
        for n in build.circuit.nodes
    ]
    return made_of(build, nodes, list(build.circuit.elements))


def set_level(build: Build, element_id: str, mm: float) -> Build:
    """Set how high the fuel stands over a tank's outlet [mm]. Raises BuildErrors."""
    element = part_of(build, element_id)
    if element.kind != "tank" or element.figures.floats or not 0 <= mm <= 100_000:  # type: ignore[union-attr]
        raise refused(f"{element_id} has no such level")
    filled = element.model_copy(
        update={
            "figures": element.figures.model_copy(update={"level_mm": mm, "level_source": "typed"})
        }
    )
    return made_of(
        build,
        list(build.circuit.nodes),
        [filled if e.id == element_id else e for e in build.circuit.elements],
    )


def rejoin(build: Build, element_id: str, port: str, node: str) -> Build:
    """Lead one end of a part to another place. Raises BuildErrors where it cannot be."""
    element = part_of(build, element_id)
    if port not in element.ports or element.kind in KEPT_OUT:
        raise refused(f"{element_id} has no end {port} that can be rerouted")
    if node not in {n.id for n in build.circuit.nodes}:
        raise refused(f"there is no place “{node}” in this circuit")
    moved = checked(Element, element.model_dump() | {"ports": element.ports | {port: node}})
    return made_of(
        build,
        list(build.circuit.nodes),
        [moved if e.id == element_id else e for e in build.circuit.elements],
    )
