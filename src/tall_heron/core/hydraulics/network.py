"""A circuit compiled once, and filled for many operating points: numbers for the solvers."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any, NamedTuple

from tall_heron.core.base.constants import GRAVITY, KPA, LPH
from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.point import Point, reference_pressure_kpa
from tall_heron.core.hydraulics.compile import (
    MANIFOLD,
    FluidState,
    Geometry,
    commanded_flow,
    link_templates,
    make_geometry,
)
from tall_heron.core.hydraulics.jets import JetPair
from tall_heron.core.hydraulics.laws import ChainLaw, Law, PumpRise, RegulatorLaw, make_chain
from tall_heron.core.hydraulics.topology import Frame, frame_of

Laws = Mapping[str, Law]  # laws by the key of their link, in place of those the circuit makes
MOST_FLUIDS = 24  # fluids whose chains are kept
REPLACED = 400  # chains with other laws in them that are kept


class Link(NamedTuple):
    """One link of a network with its law at the point; `u` and `v` number its ends in the network's
    `ids`.
    """

    element: str
    key: str
    start: str
    end: str
    u: int
    v: int
    law: Law
    area: float

    @property
    def into_manifold(self) -> bool:
        """Whether fuel leaves the circuit through it."""
        return self.end.startswith(MANIFOLD)


@dataclass(slots=True)
class Network:
    """A frame with the laws of a point: `chains` and `regulators` in the frame's order, and the
    pressures `fixed` [Pa, piezometric]. `greatest` is the most that any pressure could be [Pa].
    """

    compiled: "CompiledCircuit"
    demand: float | None
    frame: Frame
    state: FluidState
    fixed: list[float]
    chains: list[ChainLaw]
    regulators: list[RegulatorLaw]
    greatest: float
    laws: Laws
    steady: list[Law | None]  # of the frame's links those whose law follows the fluid alone
    jets: list[JetPair] = field(default_factory=list)
    _links: list[Link] | None = None

    def again(self, laws: Laws | None = None, chained: bool = True) -> "Network":
        """The same point with other laws, or with each link a chain of its own."""
        return self.compiled.at(
            self.state.point, self.demand, self.laws if laws is None else laws, chained
        )

    @property
    def geometry(self) -> Geometry:
        """The geometry it was filled from."""
        return self.compiled.geometry

    @property
    def given(self) -> bool:
        """Whether a pump gives a flow against any pressure."""
        return bool(self.laws) and any(c.given is not None for c in self.chains)

    @property
    def n(self) -> int:
        """How many nodes have an unknown pressure."""
        return self.frame.n

    @property
    def ids(self) -> list[str]:
        """The nodes: unknown ones first, then the fixed ones."""
        return self.frame.ids

    @property
    def links(self) -> list[Link]:
        """Every link with its law, made when first asked for."""
        if self._links is None:
            templates, laws, state = self.geometry.links, self.laws, self.state
            out = []
            for x, known in zip(self.frame.links, self.steady, strict=True):
                t = templates[x.place]
                law = (laws.get(t.key) if laws else None) or known or t.make(state)
                out.append(Link(t.element, t.key, t.start, t.end, x.u, x.v, law, t.area))
            self._links = out
        return self._links

    def law(self, k: int) -> Law:
        """The law of one link of the frame, without making the others."""
        if self._links is not None:
            return self._links[k].law
        template = self.geometry.links[self.frame.links[k].place]
        return self.laws.get(template.key) or self.steady[k] or template.make(self.state)

    def height(self, node: int) -> float:
        """rho g z of a node [Pa]; none for a manifold."""
        return self.state.density * GRAVITY * self.geometry.elevation.get(self.frame.ids[node], 0.0)


@dataclass(slots=True)
class _Shared:
    """What all points of one fluid and one state of the circuit share: chains whose laws follow the
    fluid alone, and those of the pumps met so far.
    """

    links: list[Law | None]  # laws of links that follow the fluid alone
    steady: list[ChainLaw]
    pumps: dict[tuple[int, ...], ChainLaw] = field(
        default_factory=dict
    )  # by the chain and the identity of its pumps' laws
    replaced: dict[tuple[int, ...], ChainLaw] = field(
        default_factory=dict
    )  # by the chain and the identity of laws put in the place of its own
    owners: list[Laws] = field(default_factory=list)  # those laws, so that an identity stays theirs


@dataclass(slots=True)
class CompiledCircuit:
    """A circuit ready for many points; `frames` keeps one numbering for each state of valves, pumps
    and injectors, `shared` the chains that points of one state and one fluid have in common.
    """

    geometry: Geometry
    frames: dict[Any, Frame] = field(default_factory=dict)
    shared: dict[Any, _Shared] = field(default_factory=dict)

    @property
    def circuit(self) -> Circuit:
        """What it was compiled from."""
        return self.geometry.circuit

    def commanded(self, name: str, fuel_demand: float) -> float:
        """What a set of injectors, a bowl or a tap is asked for [m3/s] of a demand [m3/s]."""
        return commanded_flow(self.geometry.injectors[name], fuel_demand, self.geometry.injectors)

    def with_elements(self, new: Sequence[Element]) -> "CompiledCircuit":
        """The compiled circuit with other elements in the places of those of their names, between
        the same nodes. Numberings are kept where its links turn no other way.
        """
        old, fitted = self.geometry, {e.id: e for e in new}
        circuit = old.circuit.model_copy(
            update={"elements": [fitted.get(e.id, e) for e in old.circuit.elements]}
        )
        geometry = make_geometry(
            circuit, old.links_of | {e.id: link_templates(e, old.elevation) for e in new}
        )
        return CompiledCircuit(geometry, self.frames if geometry.signature == old.signature else {})

    def at(
        self,
        point: Point,
        brief_demand: float | None = None,
        laws: Laws | None = None,
        chained: bool = True,
    ) -> Network:
        """The network at a point; `brief_demand` [m3/s] stands in where the point's demand is
        `brief`; `laws` take the place of those of their links.
        """
        geometry = self.geometry
        density, viscosity = point.fluid()
        commanded = self._commands(point, brief_demand)
        drawing = tuple([name for name, want in commanded.items() if want > 0])
        key = tuple(point.off), tuple(point.position.items()), drawing, chained
        frame = self.frames.get(key)
        if frame is None:
            frame = self.frames[key] = frame_of(
                geometry, point.position, frozenset(point.off), frozenset(drawing), chained
            )
        state = FluidState(density, viscosity, point, commanded)
        fluid = (
            id(frame),
            density,
            viscosity,
            tuple(point.clogging.items()),
        )  # frames are kept, so an id is no other's
        shared = self.shared.get(fluid)
        if shared is None:
            if len(self.shared) > MOST_FLUIDS:
                self.shared.clear()
            shared = self.shared[fluid] = _shared(geometry, frame, state)
        chains, regulators = _fill(geometry, frame, state, shared, laws or {})
        fixed = self._fixed(frame, state)
        greatest = max(map(abs, fixed), default=0.0)
        for i, _, _ in frame.varying:
            for pump in chains[i].pumps:
                greatest += pump.shut_off
        jets = _jets(geometry, frame) if geometry.jets else []
        return Network(
            self,
            brief_demand,
            frame,
            state,
            fixed,
            chains,
            regulators,
            greatest,
            laws or {},
            shared.links,
            jets,
        )

    def _commands(self, point: Point, brief_demand: float | None) -> dict[str, float]:
        asked = point.demand_lph
        total = (
            (brief_demand or 0.0)
            if asked == "brief"
            else 0.0
            if isinstance(asked, dict)
            else asked * LPH
        )
        out: dict[str, float] = {}
        for name, part in self.geometry.injectors.items():
            if part.own_lph is not None and name in point.off:
                out[name] = 0.0
            elif part.own_lph is None and isinstance(asked, dict):
                out[name] = asked.get(name, 0.0) * LPH
            else:
                out[name] = self.commanded(name, total)
        return out

    def _fixed(self, frame: Frame, state: FluidState) -> list[float]:
        head, elevation, point = state.density * GRAVITY, self.geometry.elevation, state.point
        out = []
        for name in frame.fixed:
            tank = frame.tank_at.get(name)
            if tank is None:
                into = self.geometry.injectors[name.removeprefix(MANIFOLD)].into
                out.append(
                    reference_pressure_kpa(into, point.manifold_kpa) * KPA
                    + head * elevation[frame.injector_node[name]]
                )
            else:
                _, level, gas = self.geometry.tanks[tank]
                out.append(
                    head * (point.level_mm.get(tank, level) / 1000 + elevation[name]) + gas * KPA
                )
        return out


def _shared(geometry: Geometry, frame: Frame, state: FluidState) -> _Shared:
    """The laws that follow the fluid alone, of links and of chains; for the other chains an empty
    one keeps the place.
    """
    templates = [geometry.links[x.place] for x in frame.links]
    laws = [t.make(state) if t.follows == "fluid" else None for t in templates]
    varying = {i for i, _, _ in frame.varying}
    chains = []
    for i, chain in enumerate(frame.chains[: frame.regulators]):
        own = [] if i in varying else [laws[k] for k, _ in chain.members]
        chains.append(make_chain(own))  # type: ignore[arg-type]
    return _Shared(laws, chains)


def _fill(
    geometry: Geometry, frame: Frame, state: FluidState, shared: _Shared, laws: Laws
) -> tuple[list[ChainLaw], list[RegulatorLaw]]:
    """The laws of a frame's chains and regulators at a point."""
    links = geometry.links
    chains = list(shared.steady)
    for i, places, by_pump in frame.varying:
        laws_made = [links[place].make(state) for place in places]
        key = (i, *[id(x) for x in laws_made if isinstance(x, PumpRise)]) if by_pump else ()
        known = shared.pumps.get(key) if by_pump else None
        if known is None:
            known = make_chain(laws_made)  # type: ignore[arg-type]
            if by_pump and len(shared.pumps) < MOST_FLUIDS:
                shared.pumps[key] = known
        chains[i] = known
    regulators = [
        links[frame.links[c.members[0][0]].place].make(state)
        for c in frame.chains[frame.regulators :]
    ]
    for i in {frame.chain_of[key][0] for key in laws if key in frame.chain_of}:
        templates = [links[frame.links[k].place] for k, _ in frame.chains[i].members]
        own = [laws.get(x.key) or x.make(state) for x in templates]
        if i >= frame.regulators:
            regulators[i - frame.regulators] = own[0]
            continue
        # Laws of pumps are kept, and so are those in their places: a chain of the same ones is the
        # same.
        key = (
            i,
            *[
                id(x)
                for x, t in zip(own, templates, strict=True)
                if isinstance(x, PumpRise) or t.key in laws
            ],
        )
        known = shared.replaced.get(key)
        if known is None or any(t.follows not in ("fluid", "pump") for t in templates):
            known = make_chain(own)  # type: ignore[arg-type]
            if len(shared.replaced) < REPLACED:
                shared.replaced[key] = known
                shared.owners.append(laws)
        chains[i] = known
    return chains, regulators  # type: ignore[return-value]


def _jets(geometry: Geometry, frame: Frame) -> list[JetPair]:
    """The jet pumps whose both links are live."""
    live = {geometry.links[x.place].key for x in frame.links}
    keys = [(f"{i}.motive", f"{i}.suction", part) for i, part in geometry.jets]
    return [
        JetPair(nozzle, suction, part)
        for nozzle, suction, part in keys
        if nozzle in live and suction in live
    ]


def compile_circuit(circuit: Circuit) -> CompiledCircuit:
    """A circuit, ready for many points."""
    return CompiledCircuit(make_geometry(circuit))


def compile_network(circuit: Circuit, point: Point, brief_demand: float | None = None) -> Network:
    """The network of a circuit at one point."""
    return compile_circuit(circuit).at(point, brief_demand)
