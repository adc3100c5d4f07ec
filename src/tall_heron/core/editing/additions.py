"""What a builder adds to a circuit: a part in a line, or a branch with all that stands on it:
another tank, a return, a rail beside the rail.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Element, Node
from tall_heron.core.document.figures import Air, Pipe
from tall_heron.core.document.kinds import BURNERS, KINDS, PIPES
from tall_heron.core.document.path import upstream
from tall_heron.core.editing.fields import part_of, shared_out
from tall_heron.core.editing.topology import (
    add_tap,
    fitted,
    free_id,
    free_node,
    insert,
    made_of,
    refused,
    second_pump,
)
from tall_heron.core.shelf import shelf

Added = tuple[Build, str]  # the build, and the tag of what was added


class _Site:
    """Nodes and elements of a build while a branch is set up on them."""

    def __init__(self, build: Build) -> None:
        self.build = build

    def place(self, stem: str, like: str) -> str:
        """A new place as high as another."""
        height = next(n.elevation_mm for n in self.build.circuit.nodes if n.id == like)
        name = free_node(self.build, stem)
        self._with(
            [*self.build.circuit.nodes, Node(id=name, elevation_mm=height)],
            list(self.build.circuit.elements),
        )
        return name

    def fit(
        self, name: str, ports: dict[str, str], role: str, element_id: str = "", **more: Any
    ) -> str:
        """A part of the shelf behind all others, or behind an element; returns its tag."""
        part = shelf.part_named(name)
        tag = free_id(self.build, part.kind)
        new = fitted(self.build, part, tag, ports, role).model_copy(update=more)
        elements = list(self.build.circuit.elements)
        at = next((i + 1 for i, e in enumerate(elements) if e.id == element_id), len(elements))
        self._with(list(self.build.circuit.nodes), [*elements[:at], new, *elements[at:]])
        return tag

    def twin(self, element: Element, ports: dict[str, str]) -> str:
        """A part like another at other places, behind all others; returns its tag."""
        tag = free_id(self.build, element.kind)
        self._with(
            list(self.build.circuit.nodes),
            [*self.build.circuit.elements, element.model_copy(update={"id": tag, "ports": ports})],
        )
        return tag

    def move(self, element_id: str, port: str, node: str) -> None:
        """Lead one end of a part to another place."""
        elements = [
            e.model_copy(update={"ports": e.ports | {port: node}}) if e.id == element_id else e
            for e in self.build.circuit.elements
        ]
        self._with(list(self.build.circuit.nodes), elements)

    def _with(self, nodes: list[Node], elements: list[Element]) -> None:
        self.build = self.build.model_copy(
            update={
                "circuit": self.build.circuit.model_copy(
                    update={"nodes": nodes, "elements": elements}
                )
            }
        )

    def done(self) -> Build:
        """The build, checked and without places that nothing stands on. Raises BuildErrors."""
        return made_of(
            self.build, list(self.build.circuit.nodes), list(self.build.circuit.elements)
        )


def _hose_at(build: Build, element: Element) -> str:
    """The hose of the shelf that goes on from a part: of the family and size of the nearest one
    before it, or the usual one.
    """
    names = (
        f"{e.properties.family}{e.properties.dash}"
        for e in (element, *_before(build, element))
        if e.kind in PIPES
    )
    return next((name for name in names if name in shelf.parts()), "ptfe-8")


def _before(build: Build, element: Element) -> list[Element]:
    """What lies between the tanks and an element, as far as it stands in a line."""
    return upstream(build.circuit, element) if element.ports and element.kind != "tank" else []


def _behind(site: _Site, element: Element, ports: tuple[str, str], name: str, role: str) -> str:
    """A part of three ports put into the line behind an element; returns the place at its side. Of
    its ports two are named that carry the line on.
    """
    port = next((p for p in ("end", "engine", "outlet") if p in element.ports), None)
    if port is None:
        raise refused(f"nothing can branch off behind a {KINDS[element.kind].word}")
    here = element.ports[port]
    into, out = ports
    kind = shelf.part_named(name).kind
    side = next(p for p in KINDS[kind].ports if p not in ports)
    between, beside = site.place("branch", here), site.place("branch", here)
    places = {into: here, out: between, side: beside}
    if element.kind == "tank":  # it keeps its outlet, and what drew from it draws behind the branch
        for e in site.build.circuit.elements:
            if e.id != element.id and here in e.ports.values():
                site.move(e.id, next(p for p, n in e.ports.items() if n == here), between)
    else:
        site.move(element.id, port, between)
        places = {into: between, out: here, side: beside}
    site.fit(name, places, role, element.id)
    return beside


def add_tank(build: Build, element_id: str) -> Added:
    """Another tank whose line joins behind an element: through a selector in flight, through a Y on
    the road.
    """
    element = part_of(build, element_id)
    flies = build.brief is not None and build.brief.use == "flight"
    name, ports = ("selector-8", ("left", "engine")) if flies else ("merge-10", ("a", "end"))
    return _with_tank(build, element, name, ports)


def add_jet(build: Build, element_id: str) -> Added:
    """A jet pump in the line behind an element, which draws along from a tank of its own."""
    return _with_tank(build, part_of(build, element_id), "siphon-3", ("motive", "end"))


def _with_tank(build: Build, element: Element, name: str, ports: tuple[str, str]) -> Added:
    site = _Site(build)
    hose = _hose_at(build, element)
    side = _behind(site, element, ports, name, "suction")
    near = build.circuit.of_kind("tank")
    like = near[0] if near else None
    outlet = site.place("outlet", like.ports["outlet"] if like is not None else side)
    sort = like.shelf if like is not None and like.shelf in shelf.parts() else "tank-70"
    more = (
        {"figures": like.figures, "runs": "another tank"}
        if like is not None
        else {"runs": "another tank"}
    )
    tank = site.fit(str(sort), {"outlet": outlet}, "suction", **more)
    site.fit(hose, {"start": outlet, "end": side}, "suction", runs=f"{tank} to the line")
    return site.done(), tank


def add_return(build: Build, element_id: str) -> Added:
    """A bypass regulator on a tee behind an element, with its hose back to the tank that the
    element draws from.
    """
    element = part_of(build, element_id)
    site = _Site(build)
    tanks = build.circuit.of_kind("tank")
    drawn = {n for e in _before(build, element) for n in e.ports.values()} | set(
        element.ports.values()
    )
    tank = next((t for t in tanks if t.ports["outlet"] in drawn), tanks[0] if tanks else None)
    if tank is None:
        raise refused("there is no tank to return to; add one first")
    hose = _hose_at(build, element)
    side = _behind(site, element, ("start", "end"), "tee-8", element.role)
    after, inlet = site.place("regulated", side), site.place("tank inlet", tank.ports["outlet"])
    low = build.brief is not None and build.brief.carbureted
    regulator = site.fit(
        "grebe-low-bypass" if low else "heronsbill-bypass-9",
        {"start": side, "end": after},
        "return",
    )
    site.fit(hose, {"start": after, "end": inlet}, "return", runs=f"{regulator} to {tank.id}")
    site.fit("tank-inlet-8", {"start": inlet, "end": tank.ports["outlet"]}, "return")
    return site.done(), regulator


def _relief(name: str) -> Callable[[Build, str], Added]:
    """A relief valve from behind an element to the nearest tank: beside the line, never in it."""

    def add(build: Build, element_id: str) -> Added:
        element = part_of(build, element_id)
        tank = next(iter(build.circuit.of_kind("tank")), None)
        behind = (
            element
            if element.kind != "tank"
            else next(
                (
                    e
                    for e in build.circuit.elements
                    if e.ports.get("start") == element.ports["outlet"]
                ),
                element,
            )
        )
        node = next(
            (behind.ports[p] for p in ("end", "engine", "start") if p in behind.ports), None
        )
        if tank is None or node is None or node == tank.ports["outlet"]:
            raise refused(f"there is nothing to relieve behind {element_id}")
        site = _Site(build)
        relief = site.fit(
            name, {"start": node, "end": tank.ports["outlet"]}, "return", runs=f"to {tank.id}"
        )
        return site.done(), relief

    return add


def add_roll_over(build: Build, element_id: str) -> Added:
    """A roll-over valve in the vent of a tank."""
    part, tag = shelf.part_named("vent-rollover-8"), free_id(build, "vent_valve")
    return made_of(
        build,
        list(build.circuit.nodes),
        [*build.circuit.elements, fitted(build, part, tag, {}, "vent")],
    ), tag


def add_vent(build: Build, element_id: str) -> Added:
    """A vent line, on the road with its roll-over valve."""
    new, tag = add_line("vent", "vent", "vent")(build, element_id)
    flies = build.brief is not None and build.brief.use == "flight"
    return (new if flies else add_roll_over(new, element_id)[0]), tag


def add_rail(build: Build, element_id: str) -> Added:
    """A rail, or a carburetor, of its own on a Y behind an element, with the engine's injectors
    shared out over all rails.
    """
    element = part_of(build, element_id)
    burner = next(iter(build.circuit.of_kind(*BURNERS)), None)
    if burner is None:
        raise refused(
            "nothing in this circuit takes fuel yet, so there is nothing to put another of beside it"
        )
    site = _Site(build)
    hose = _hose_at(build, element)
    side = _behind(site, element, ("start", "a"), "split-10", element.role)
    high = site.place("rail in", burner.ports["start"])
    site.fit(hose, {"start": side, "end": high}, element.role, runs="to the rail beside")
    shown = site.twin(burner, {"start": high})
    rail = next(iter(build.circuit.of_kind("rail")), None)
    if burner.kind == "injectors" and rail is not None:
        out = site.place("rail out", high)
        site.move(shown, "start", out)
        shown = site.twin(rail, {"start": high, "end": out})
    new = site.done()
    if new.brief is not None and burner.kind == "injectors":
        new = made_of(
            new,
            list(new.circuit.nodes),
            shared_out(list(new.circuit.elements), new.brief.cylinders),
        )
    return new, shown


def add_pump(build: Build, element_id: str) -> Added:
    """A pump: beside a pump, with check valves and a Y; elsewhere in the line behind, with its
    check valve.
    """
    if part_of(build, element_id).kind == "pump":
        return second_pump(build, element_id)
    with_pump, pump = insert(build, element_id, "marrow-340")
    return insert(with_pump, pump, "rill-8")[0], pump


def add_line(kind: str, role: str, runs: str) -> Callable[[Build, str], Added]:
    """A line that carries no fuel of the circuit: a vent, a reference line, a pot's overflow."""

    def add(build: Build, element_id: str) -> Added:
        element = part_of(build, element_id)
        usual = {
            "overflow": "ptfe-8",
            "vent": "ptfe-6",
            "filler": "rubber-16",
            "drain": "aluminium-6",
        }
        chosen = shelf.part_named(usual.get(kind, "ptfe-4"))
        assert isinstance(chosen.figures, Pipe)
        tag = free_id(build, kind)
        figures = chosen.figures if kind == "overflow" else Air(bore_mm=chosen.figures.bore_mm)
        line = fitted(build, replace(chosen, kind=kind, figures=figures), tag, {}, role)
        bare = (
            {"end_a": None, "end_b": None} if kind == "filler" else {}
        )  # pushed on necks, with clamps
        new = line.model_copy(update={"runs": f"{element.id} {runs}", **bare})
        return made_of(build, list(build.circuit.nodes), [*build.circuit.elements, new]), tag

    return add


def _through(name: str) -> Callable[[Build, str], Added]:
    return lambda build, element_id: insert(build, element_id, name)


def _tap(name: str) -> Callable[[Build, str], Added]:
    return lambda build, element_id: add_tap(build, element_id, name)


@dataclass(frozen=True)
class Addition:
    """What can be added: its words in the list, what it does behind an element, and the part of the
    shelf that also goes before one.
    """

    words: str
    add: Callable[[Build, str], Added]
    through: str = ""


def _line_of(words: str, name: str) -> Addition:
    return Addition(words, _through(name), name)


# What a builder adds, the usual first; a swap makes a part another of its kind.
ADDITIONS: dict[str, Addition] = {
    "tank": Addition("tank, with its line", add_tank),
    "pump": Addition("pump, with check valve (beside a pump: with a Y)", add_pump),
    "rail": Addition("rail with injectors, or carburetor, on a Y", add_rail),
    "bulkhead": _line_of("bulkhead", "bulkhead-8"),
    "filter": _line_of("filter", "reedmace-10g"),
    "sensor": _line_of("ethanol sensor", "dragonfly-ethanol-8"),
    "hose": _line_of("hose", "ptfe-8"),
    "line": _line_of("hard line", "aluminium-8"),
    "strainer": _line_of("strainer", "sedge-100"),
    "check": _line_of("check valve", "rill-8"),
    "return": Addition("bypass regulator, with its return", add_return),
    "dead-head": _line_of("dead-head regulator", "heronsbill-deadhead-8"),
    "relief": Addition("relief valve to the tank", _relief("snipe-relief-8")),
    "thermal relief": Addition("thermal relief to the tank", _relief("snipe-thermal-6")),
    "speed": _line_of("pump speed control", "speed-control"),
    "jet": Addition("jet pump, with the tank it draws from", add_jet),
    "plain rail": _line_of("rail in the line", "rail-four-14"),
    "damper": _line_of("damper", "reedbed-damper-8"),
    "valve": _line_of("shut-off", "shutoff-8"),
    "crossover": _line_of("crossover valve", "crossover-6"),
    "hanger": _line_of("pump hanger", "hanger-8"),
    "inlet": _line_of("tank inlet", "tank-inlet-8"),
    "fitting": _line_of("elbow", "elbow-90-8"),
    "orifice": _line_of("orifice", "orifice-1"),
    "gauge": Addition("gauge", _tap("gauge-10bar")),
    "sender": Addition("pressure sensor", _tap("sender-10bar")),
    "auxiliary": Addition("auxiliary fuel tap", _tap("spurge-tap-60")),
    "vent": Addition("vent line", add_vent),
    "roll-over": Addition("roll-over valve of a vent", add_roll_over),
    "overflow": Addition(
        "overflow line of a surge tank", add_line("overflow", "return", "overflow")
    ),
    "reference": Addition(
        "reference line of a regulator", add_line("reference", "reference", "reference")
    ),
    "filler": Addition("filler hose", add_line("filler", "vent", "filler")),
    "drain": Addition("drain line", add_line("drain", "vent", "drain")),
}
FIRST = 7  # of them stand first in the list
