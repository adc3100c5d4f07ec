"""Everything of what is fitted that may fail, one thing at a time, as changes of the circuit."""

from collections.abc import Iterator
from dataclasses import dataclass, field

from tall_heron.core.base.graphs import reached
from tall_heron.core.document.circuit import Circuit, Element, Node
from tall_heron.core.document.figures import Check, Loss, Pipe, PumpMap, Regulator, TankLevel
from tall_heron.core.document.kinds import BURNERS, FILTERS, KINDS, PIPES
from tall_heron.core.document.path import ways
from tall_heron.core.document.tank_shape import FILLED
from tall_heron.core.study.cases.cases import low_voltage
from tall_heron.core.study.failures.pump_out import stopped
from tall_heron.core.study.study import Study
from tall_heron.core.study.what_if import (
    Change,
    Fitted,
    Off,
    Stuck,
    WhatIf,
    make_what_if,
    without_reference,
)

OPEN = "open end of a line"  # the place where a line that came off ends
EXIT_K = 1.0  # of an open end, on its bore: the jet keeps its velocity head (Crane TP-410, pipe exit; from memory)


@dataclass(frozen=True)
class Failure:
    """One thing that fails: the part (empty: none of the circuit), what happens to it, and that as
    changes of the circuit, or of another circuit where a line comes off. `air` names the pumps
    that then draw air, `lands` where fuel goes that runs out. `voltage` is what is left at the
    pumps [V], `vented` is False where a tank cannot breathe; `opens` says that a line
    ends open at a part.
    """

    part: str
    what: str
    changes: tuple[Change, ...] = ()
    circuit: Circuit | None = field(default=None, compare=False)
    air: tuple[str, ...] = ()
    lands: str = ""
    voltage: float | None = None
    vented: bool = True
    opens: bool = False

    @property
    def key(self) -> str:
        """Its name among moments."""
        return f"{FAILS}{self.part} {self.what}"

    def on(self, study: Study) -> WhatIf:
        """The circuit as it is then."""
        what_if = (
            study.what_if
            if self.circuit is None
            else make_what_if(self.circuit, study.what_if.harness)
        )
        changes = (*self.changes, *(Off(p) for p in self.air))
        return what_if.changed(*changes) if changes else what_if


FAILS = "fails "  # how the keys of failures begin


def failures(study: Study) -> list[Failure]:
    """Every single failure of what is fitted that the sums can follow, part by part."""
    out = [f for e in study.build.circuit.elements for f in _of(study, e)]
    out += _of_wiring(study)
    left = low_voltage(study.brief, study.what_if.harness is not None)
    if (
        any(isinstance(e.figures, PumpMap) for e in study.build.circuit.elements)
        and (study.peak.case.point.voltage_at("") or 0.0) > left
    ):
        out.append(Failure("", "the alternator stops charging", voltage=left))
    return out


LOST = {
    "relay": ("stays open", "{}, its coil, fuse or wire"),
    "ground": ("works loose", "ground {} or its wire"),
}  # how what pumps share fails, and what of it


def _of_wiring(study: Study) -> Iterator[Failure]:
    """What takes several pumps down at once: a relay or a ground they share, a bus."""
    harness, off = study.what_if.harness, study.peak.case.point.off
    if harness is None:
        return
    for path in harness.shared_paths:
        fails, what = LOST[path.kind]
        if len(running := [p for p in path.pumps if p not in off]) > 1:
            yield Failure(
                path.name,
                fails,
                _stopped(study, running),
                lands=f"{what.format(path.name)}: {' and '.join(running)} stop together",
            )
    buses = {f.branch.bus for f in harness.feeds.values()}
    for bus in sorted(buses) if study.brief.use == "flight" else ():
        if len(
            running := [p for p, f in harness.feeds.items() if f.branch.bus == bus and p not in off]
        ) > (0 if len(buses) > 1 else 1):
            yield Failure(
                f"bus {bus}",
                "fails",
                _stopped(study, running),
                lands=f"{' and '.join(running)} {'stops' if len(running) == 1 else 'stop'}",
            )


def _stopped(study: Study, pumps: list[str]) -> tuple[Change, ...]:
    return tuple(stopped(e) for p in pumps if (e := study.build.circuit.element(p)) is not None)


def _of(study: Study, e: Element) -> Iterator[Failure]:
    part = e.figures
    if e.kind == "pump" and e.id not in study.peak.case.point.off:
        electric = isinstance(part, PumpMap)
        yield Failure(
            e.id,
            "stops",
            (stopped(e),),
            lands="it, its relay, fuse, switch or a wire" if electric else "it or its drive",
        )
    elif e.kind == "check" and isinstance(part, Check):
        yield Failure(e.id, "sticks shut", (Off(e.id),))
        yield Failure(e.id, "sticks open", (_plain(e, part.bore_mm, part.loss_coefficient),))
    elif e.kind in FILTERS or e.kind == "jet":
        yield Failure(e.id, "is blocked", (Off(e.id),))
    elif isinstance(part, Regulator) and e.kind in ("regulator", "relief"):
        yield Failure(
            e.id,
            "sticks open",
            (_plain(e, part.wide_open_bore_mm, part.wide_open_loss_coefficient),),
        )
        yield Failure(e.id, "sticks shut", (Off(e.id),))
        if study.brief.boosted and (off := without_reference(e)) is not None:
            yield Failure(e.id, "loses its reference hose", (off,))
    elif e.kind in PIPES:
        yield from _comes_off(study, e)
    elif e.kind == "tank" and e.properties.family not in FILLED:
        yield from _tank(study, e)
    elif e.kind == "selector" and e.reversed and _half(study, e) is not None:
        return  # one lever turns both halves
    elif len(KINDS[e.kind].links) > 1:
        other = _half(study, e) if e.kind == "selector" else None
        now = study.peak.case.point.position.get(e.id, next(iter(KINDS[e.kind].links)))
        for position in KINDS[e.kind].links:
            if position != now:
                yield Failure(
                    e.id,
                    f"stands at {position}",
                    (
                        Stuck(e.id, position),
                        *((Stuck(other.id, position),) if other is not None else ()),
                    ),
                )


def _half(study: Study, selector: Element) -> Element | None:
    """The other half of a duplex selector, one part through which the return goes back to the tank
    in use; None for one by itself.
    """
    both = study.build.circuit.of_kind("selector")
    other = next((e for e in both if e.id != selector.id), None)
    return (
        other
        if len(both) == 2
        and other is not None
        and other.reversed != selector.reversed
        and _stem(other) == _stem(selector)
        else None
    )


def _stem(selector: Element) -> tuple[str, str]:
    """What a valve is, whatever its size: the two halves of one differ where the return is narrower
    than the suction.
    """
    return (selector.shelf or "").rpartition("-")[0], selector.title.partition(",")[0]


def _plain(e: Element, bore_mm: float, loss: float) -> Change:
    """A part as nothing but its bore."""
    return Fitted(
        Element(
            id=e.id,
            kind="fitting",
            title=e.title,
            ports=e.ports,
            figures=Loss(bore_mm=bore_mm, loss_coefficient=max(loss, 1e-3)),
            reversed=e.reversed,
        )
    )


def _comes_off(study: Study, e: Element) -> Iterator[Failure]:
    """A line off at either end, or burst there: what comes to the open end runs out, nothing goes
    on, and pumps that drew through it draw air.
    """
    flow = study.peak.solution.flow(e.id)
    if not study.peak.solution.converged or abs(flow) <= 0:
        return
    (a, b) = ways(e)[0]
    from_node, to_node = (a, b) if flow > 0 else (b, a)
    tanks = {t.ports["outlet"] for t in study.build.circuit.of_kind("tank")}
    air = () if to_node in tanks else _pumps_after(study, to_node)
    bore = getattr(e.figures, "bore_mm", 8.0)
    for at in (from_node, to_node):
        if at == to_node in tanks:
            continue  # off at the tank it still runs into it
        beside = _beside(study.build.circuit, e.id, at)
        circuit = _with_open_ends(study.build.circuit, e, (from_node, to_node), at, bore)
        yield Failure(
            e.id,
            f"comes off at {beside.id}" if beside else "bursts",
            (),
            circuit,
            air,
            _lands(beside, e),
            opens=beside is not None,
        )


def _pumps_after(study: Study, node: str) -> tuple[str, ...]:
    """The pumps that draw through a place: met from it along what flows at peak, without passing
    another pump.
    """
    met, pumps, tanks = _onward(study, node)
    return tuple(sorted({p for n in met if n not in tanks or n == node for p in pumps.get(n, ())}))


def fed_tanks(study: Study, node: str) -> set[str]:
    """The outlets of the tanks that a place feeds at peak without a pump between: headers."""
    met, _, tanks = _onward(study, node)
    return (met & tanks) - {node}


def _onward(study: Study, node: str) -> tuple[set[str], dict[str, list[str]], set[str]]:
    """What is met from a place along what flows at peak, as far as the next pump or tank; the pumps
    at each place; the outlets of the tanks.
    """
    solution, onward, pumps = study.peak.solution, dict[str, list[str]](), dict[str, list[str]]()
    for link in solution.links.values():
        if not link.end or abs(link.flow) <= 0:
            continue
        start, end = (link.start, link.end) if link.flow > 0 else (link.end, link.start)
        element = study.build.circuit.element(link.element)
        if element is not None and element.kind == "pump":
            pumps.setdefault(start, []).append(element.id)
        else:
            onward.setdefault(start, []).append(end)
    tanks = {t.ports["outlet"] for t in study.build.circuit.of_kind("tank")}
    return set(reached(onward, [node], tanks)), pumps, tanks


def _beside(circuit: Circuit, line: str, node: str) -> Element | None:
    """The part that a line ends at."""
    return next((e for e in circuit.elements if e.id != line and node in e.ports.values()), None)


def _lands(beside: Element | None, line: Element) -> str:
    """Where fuel runs out, as far as a circuit without a route tells."""
    kind = beside.kind if beside is not None else ""
    if kind in ("rail", *BURNERS, "damper"):
        return "over the engine"
    if kind in ("tank", "strainer"):
        return "at the tank"
    return f"where {line.id} runs{f': {line.runs}' if line.runs else ''}"


def _with_open_ends(
    circuit: Circuit, line: Element, ends: tuple[str, str], at: str, bore: float
) -> Circuit:
    """The circuit with a line that ends in the open: off at its far end after all of it, off at its
    near end at once. What stood behind it is open too: whatever comes there from elsewhere
    runs out.
    """
    near, far = ends
    node = next(n for n in circuit.nodes if n.id == at)
    ended = Node(
        id=OPEN, elevation_mm=node.elevation_mm, ahead_mm=node.ahead_mm, right_mm=node.right_mm
    )
    air = Element(id=OPEN, kind="tank", ports={"outlet": OPEN}, figures=TankLevel(level_mm=0.0))
    if at == near:
        stub = Element(
            id=line.id,
            kind="fitting",
            title=line.title,
            ports={"start": near, "end": OPEN},
            figures=Loss(bore_mm=bore, loss_coefficient=EXIT_K),
        )
    else:
        ports = {port: OPEN if n == far else n for port, n in line.ports.items()}
        figures = line.figures
        if isinstance(figures, Pipe):
            jet = figures.loss_coefficient + EXIT_K
            figures = figures.model_copy(update={"loss_coefficient": jet})
        stub = line.model_copy(update={"ports": ports, "figures": figures})
    behind = Element(
        id=f"{OPEN} behind",
        kind="check",
        ports={"start": far, "end": OPEN},
        figures=Check(bore_mm=bore, loss_coefficient=EXIT_K),
    )
    elements = [stub if e.id == line.id else e for e in circuit.elements]
    emptied = (
        [] if line.role == "return" else [behind]
    )  # a return comes in over the fuel: common practice
    return circuit.model_copy(
        update={"nodes": [*circuit.nodes, ended], "elements": [*elements, air, *emptied]}
    )


def _tank(study: Study, tank: Element) -> Iterator[Failure]:
    """A tank that is drawn from runs dry, or cannot breathe."""
    node = tank.ports["outlet"]
    leaving = [
        link
        for link in study.peak.solution.links.values()
        if (link.start == node and link.flow > 0) or (link.end == node and link.flow < 0)
    ]
    if not leaving:
        return
    air = _pumps_after(study, node)
    own = {
        e.id for e in study.build.circuit.elements if e.kind == "pump" and node in e.ports.values()
    }
    others = tuple(Off(x) for x in sorted({link.element for link in leaving} - own))
    yield Failure(tank.id, "runs dry", others, None, air)
    if study.build.circuit.of_kind("vent") or tank.properties.vented:
        yield Failure(
            tank.id,
            "cannot breathe: its vent is blocked",
            (*others, *(Off(x) for x in sorted(own))),
            vented=False,
        )
