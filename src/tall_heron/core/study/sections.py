"""What holds fuel shut in once the engine stands: the sections between parts that close, whether
anything relieves them, and how fast they rise with heat.
"""

import math
from dataclasses import dataclass

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.graphs import join, reached
from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.figures import Pipe
from tall_heron.core.document.kinds import BURNERS, KINDS, PIPES
from tall_heron.core.document.path import ways
from tall_heron.core.study.delivery import turns_back
from tall_heron.core.study.derived import derived
from tall_heron.core.study.study import Study

CLOSES = (
    "check",
    "pump",
    "regulator",
    "relief",
    "auxiliary",
    *BURNERS,
)  # what lets nothing back, or nothing on, when the engine stands
FORTH = ("check", "relief")  # of them, what lets fuel on where it presses
BY_HAND = ("valve", "selector", "crossover")


@dataclass(frozen=True)
class Section:
    """Places that hang together while the engine stands: its `parts`, the lines among them with
    what they hold [m3], the parts that close it (`between`), what relieves it (empty: nothing
    does, and then `rise` is how fast it rises with heat between soft and stiff hoses [Pa/K]), and
    the valve that one shuts by hand for it, if any.
    """

    parts: tuple[str, ...]
    volume: float
    between: tuple[str, ...]
    relieved_by: str
    rise: tuple[float, float]
    shut: str = ""

    @property
    def trapped(self) -> bool:
        """Whether nothing relieves it."""
        return not self.relieved_by


def stored_l(e: Element) -> float:
    """What a line holds [m3]; 0 for anything else."""
    if e.kind not in PIPES or not isinstance(e.figures, Pipe) or e.length is None:
        return 0.0
    return math.pi / 4 * (e.figures.bore_mm / 1000) ** 2 * e.length.mm / 1000


def sections(study: Study) -> list[Section]:
    """The sections of a circuit with lines in them, with every valve as it stands, and those that
    come with each valve shut by hand; none twice.
    """
    return _every(study)


@derived("brief", "hydraulics", "wiring", "titles")
def _every(study: Study) -> list[Section]:
    circuit = study.build.circuit
    out = _sections(circuit, "", study.peak.case.point.position)
    known = {frozenset(s.parts) for s in out}
    for valve in (v for v in circuit.of_kind(*BY_HAND) if not v.properties.relieves):
        for s in _sections(circuit, valve.id, study.peak.case.point.position):
            if s.trapped and frozenset(s.parts) not in known:
                known.add(frozenset(s.parts))
                out.append(s)
    return out


def _open_links(e: Element, position: str | None) -> list[tuple[str, str]]:
    """The pairs of nodes that a part joins where it stands."""
    kind = KINDS[e.kind]
    links = (
        kind.links.get(position or next(iter(kind.links), ""), ())
        if len(kind.links) > 1
        else [pair for pairs in kind.links.values() for pair in pairs]
    )
    return [(e.ports[a], e.ports[b]) for a, b in links]


def _sections(circuit: Circuit, shut: str, position: dict[str, str]) -> list[Section]:
    near: dict[str, list[str]] = {}
    for e in circuit.elements:
        if e.kind not in CLOSES and e.id != shut and e.ports:
            for a, b in _open_links(e, position.get(e.id)):
                join(near, a, b)
    group: dict[str, int] = {}
    for n in circuit.nodes:
        if n.id not in group:
            group.update(dict.fromkeys(reached(near, [n.id]), len(set(group.values()))))
    gives_to: dict[
        int, list[tuple[int, str]]
    ] = {}  # a section, and those that it takes what presses out of, by what
    for e in circuit.elements:
        if e.id == shut or not (e.kind in (*FORTH, "pump") or turns_back(e)):
            continue
        for a, b in ways(e):
            gives_to.setdefault(group[b], []).append((group[a], e.id))
            if (
                e.kind == "pump" and not e.properties.passes_stopped
            ):  # one that stands seeps back, unless its sheet says that it has valves of its own
                gives_to.setdefault(group[a], []).append((group[b], e.id))
    relief = {group[t.ports["outlet"]]: t.id for t in circuit.of_kind("tank")}
    relief |= {
        group[e.ports["start"]]: e.id for e in circuit.of_kind("carburettor")
    }  # a needle is forced off its seat
    todo = list(relief)
    while todo:
        for a_section, name in gives_to.get(todo.pop(), []):
            if a_section not in relief:
                relief[a_section] = name
                todo.append(a_section)
    return [
        s
        for g in sorted(set(group.values()))
        if (
            s := _section(circuit, {n for n, i in group.items() if i == g}, relief.get(g, ""), shut)
        )
        is not None
    ]


def _section(circuit: Circuit, nodes: set[str], relieved_by: str, shut: str) -> Section | None:
    inside = [
        e
        for e in circuit.elements
        if e.ports
        and e.kind not in CLOSES
        and e.id != shut
        and set(e.ports.values()) <= nodes
        and e.kind != "tank"
    ]
    lines = [e for e in inside if stored_l(e)]
    if not lines or any(t.ports["outlet"] in nodes for t in circuit.of_kind("tank")):
        return None
    between = tuple(
        e.id
        for e in circuit.elements
        if set(e.ports.values()) & nodes and (e.kind in CLOSES or e.id == shut)
    )
    volume = sum(map(stored_l, lines))

    def rise(hose: str) -> float:
        """Volumes side by side give way together: V/k adds up."""
        stiff = {"line": house_figure("heat_line_kpa_k"), "hose": house_figure(hose)}
        return 1000 * volume / sum(stored_l(e) / stiff[e.kind] for e in lines)

    return Section(
        tuple(e.id for e in inside),
        volume,
        between,
        relieved_by,
        (rise("heat_hose_low_kpa_k"), rise("heat_hose_high_kpa_k")),
        shut,
    )
