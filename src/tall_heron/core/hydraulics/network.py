"""Circuit and operating point to flat SI lists for the solver; a circuit is compiled once and filled for many points."""

from dataclasses import dataclass, field
from typing import Any

from tall_heron.core.base.units import GRAVITY, LPH
from tall_heron.core.document.circuit import Circuit, Jet
from tall_heron.core.document.point import Point
from tall_heron.core.hydraulics.compile import KPA, MANIFOLD, Moment, Piece, Plumbing, compile_circuit, felt_kpa
from tall_heron.core.hydraulics.elimination import Plan
from tall_heron.core.hydraulics.jets import JetPair
from tall_heron.core.hydraulics.laws import PUMP, rise
from tall_heron.core.hydraulics.topology import Frame, Shut, make_frame


@dataclass(slots=True)
class Link:
    """One two-port link between node numbers `u` and `v`; `law` is a Resistance, PumpRise or RegulatorLaw, as `code` says: the solver's inner loop
    branches on the code."""

    element: str
    key: str
    start: str
    end: str
    u: int
    v: int
    code: int
    law: Any
    area: float = 0.0


@dataclass(slots=True)
class Network:
    """Unknown nodes 0..n-1 of `ids`, then fixed ones at the pressures `fixed` [Pa, piezometric]; `heads` is rho g z of each [Pa]."""

    n: int
    ids: list[str]
    fixed: list[float]
    heads: list[float]
    links: list[Link]
    shut: list[Shut]
    loose: list[str]
    plan: Plan
    density: float
    viscosity: float
    commanded: dict[str, float]
    greatest: float
    impossible: tuple[str, str] | None
    jets: list[JetPair] = field(default_factory=list)


@dataclass(slots=True)
class System:
    """A circuit ready for many points; `frames` keeps one numbering for each state of valves, pumps and injectors, `shared` the links that
    points of one state and one fluid have in common."""

    plumbing: Plumbing
    frames: dict[Any, Frame] = field(default_factory=dict)
    shared: dict[Any, list[Link | None]] = field(default_factory=dict)

    def at(self, point: Point, brief_demand: float | None = None) -> Network:
        """The network at a point; `brief_demand` [m3/s] stands in where the point's demand is `brief`."""
        plumbing = self.plumbing
        density, viscosity = point.fluid()
        commanded: dict[str, float] = {}
        asked = point.demand_lph
        total = (brief_demand or 0.0) if asked == "brief" else 0.0 if isinstance(asked, dict) else asked * LPH
        for name, part in plumbing.injectors.items():
            if part.own_lph is not None and name in point.off:
                commanded[name] = 0.0
            elif part.own_lph is None and isinstance(asked, dict):
                commanded[name] = asked.get(name, 0.0) * LPH
            else:
                commanded[name] = plumbing.commanded(part, total)
        off, drawing = frozenset(point.off), frozenset(name for name, want in commanded.items() if want > 0)
        state = (off, tuple(point.position.items()), drawing)
        frame = self.frames.get(state)
        if frame is None:
            frame = self.frames[state] = make_frame(plumbing, point.position, off, drawing)
        head, elevation = density * GRAVITY, plumbing.elevation
        fixed = []
        for name in frame.fixed:
            if name.startswith(MANIFOLD):
                into = plumbing.injectors[name.removeprefix(MANIFOLD)].into
                fixed.append(felt_kpa(into, point.manifold_kpa) * KPA + head * elevation[frame.injector_node[name]])
            else:
                tank = frame.tank_at[name]
                fixed.append(head * (point.level_mm.get(tank, plumbing.tanks[tank][1]) / 1000 + elevation[name]))
        moment = Moment(density, viscosity, point, commanded)
        fluid = (state, density, viscosity, tuple(point.clogging.items()))
        shared = self.shared.get(fluid)
        if shared is None:
            self.shared[fluid] = shared = [_link(*x, moment) if x[0].steady else None for x in frame.pieces]
        links = [_link(*x, moment) if link is None else link for x, link in zip(frame.pieces, shared, strict=True)]
        return Network(
            n=frame.n,
            ids=frame.ids,
            fixed=fixed,
            heads=[head * elevation.get(x, 0.0) for x in frame.ids],
            links=links,
            shut=frame.shut,
            loose=frame.loose,
            plan=frame.plan,
            density=density,
            viscosity=viscosity,
            commanded=commanded,
            greatest=max(map(abs, fixed), default=0.0) + sum(rise(k.law, 0.0)[0] for k in links if k.code == PUMP),
            impossible=frame.impossible,
            jets=self._jets(links),
        )

    def _jets(self, links: list[Link]) -> list[JetPair]:
        """The jet pumps whose both links are live."""
        at = {k.key: i for i, k in enumerate(links)}
        parts = [(e.id, e.part) for e in self.plumbing.circuit.elements if isinstance(e.part, Jet)]
        return [JetPair(at[f"{i}.motive"], at[f"{i}.suction"], part) for i, part in parts if f"{i}.motive" in at and f"{i}.suction" in at]


def _link(piece: Piece, u: int, v: int, moment: Moment) -> Link:
    return Link(piece.element, piece.key, piece.start, piece.end, u, v, piece.code, piece.make(moment), piece.area)


def make_system(circuit: Circuit) -> System:
    """The system of a circuit."""
    return System(compile_circuit(circuit))


def compile_network(circuit: Circuit, point: Point, brief_demand: float | None = None) -> Network:
    """The network of a circuit at one point."""
    return make_system(circuit).at(point, brief_demand)
