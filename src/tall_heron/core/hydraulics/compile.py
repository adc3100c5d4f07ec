"""A circuit's links with their geometry: the only place where document units become SI. An
operating point fills the rest in (network.py).

Pressures are piezometric in here (p + rho g z), so elevation appears once, at the fixed nodes and
at regulators.
"""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import Any, Literal, NamedTuple

from tall_heron.core.base.constants import GRAVITY, KPA, LPH
from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.figures import (
    Check,
    Displacement,
    Injectors,
    Jet,
    Loss,
    Pipe,
    PumpMap,
    Quadratic,
    Regulator,
    TankLevel,
    Tee,
)
from tall_heron.core.document.kinds import FILTERS, JOINED, KINDS
from tall_heron.core.document.point import Point, reference_pressure_kpa
from tall_heron.core.hydraulics.jets import FIRST_DRAWN, FIRST_MOTIVE, nozzle_law, suction_law
from tall_heron.core.hydraulics.laws import (
    INFINITE,
    SLOPE_FLOOR,
    Law,
    PumpRise,
    RegulatorLaw,
    Resistance,
    idle_map,
    one_map,
)
from tall_heron.core.physics.demand import injector_flow
from tall_heron.core.physics.fittings import moved_to_bore, quadratic_coefficient
from tall_heron.core.physics.pump import (
    PumpCurve,
    Share,
    density_times,
    displaced,
    make_curve,
    voltage_shares,
)
from tall_heron.core.physics.wired_pump import wired_map

MANIFOLD = "\0"  # starts the name of an injector's fixed end, which is no node of the circuit
JOINT = "~"  # ends the name of the place within a Y where its legs meet, which no document can name
Follows = Literal["fluid", "pump", "manifold", "command"]


class FluidState(NamedTuple):
    """What a law needs of an operating point: fluid in SI, the point, and the commanded flow of
    each injector element [m3/s].
    """

    density: float
    viscosity: float
    point: Point
    commanded: dict[str, float]


Make = Callable[[FluidState], Law]


@dataclass(slots=True)
class LinkTemplate:
    """One two-port link before the point is known; `make` gives its law at a state, which `follows`
    the fluid and clogging alone (points of one fluid then share it), what drives a pump, the
    manifold, or the commanded flow.
    """

    element: str
    key: str
    start: str
    end: str
    position: tuple[str, ...]
    follows: Follows
    make: Make
    area: float = 0.0
    one_way: bool = False
    regulates: bool = False

    @property
    def turns(self) -> tuple[Any, ...]:
        """All that the topology knows of it."""
        return (
            self.key,
            self.start,
            self.end,
            self.position,
            self.follows,
            self.one_way,
            self.regulates,
        )

    @property
    def into_manifold(self) -> bool:
        """Whether it is a set of injectors, a bowl or a tap: fuel leaves the circuit through it."""
        return self.end.startswith(MANIFOLD)


def pipe_coefficient(element: Element) -> float:
    """K of a hose with its ends, the adapters they need and the bends of its way [-], on the hose's
    bore; 0.0 for what is no hose.
    """
    if not isinstance(element.figures, Pipe):
        return 0.0
    total, bore = element.figures.loss_coefficient, element.figures.bore_mm
    total += element.length.bends_loss_coefficient if element.length is not None else 0.0
    total += sum(
        moved_to_bore(k, own, bore) for losses in element.adapters.values() for k, own in losses
    )
    return total + sum(
        moved_to_bore(e.loss_coefficient, e.throat_bore_mm, bore)
        for e in (element.end_a, element.end_b)
        if e is not None
    )


def _area(bore_mm: float) -> float:
    return math.pi * (bore_mm / 1000) ** 2 / 4


@lru_cache(maxsize=512)
def _curve(rows: tuple[tuple[float, ...], ...], column: int, interpolation: str) -> PumpCurve:
    scale = KPA if column == 1 else 1.0
    return make_curve([r[0] * LPH for r in rows], [r[column] * scale for r in rows], interpolation)


def commanded_flow(part: Injectors, fuel_demand: float, injectors: dict[str, Injectors]) -> float:
    """What a set of injectors, a bowl or a tap is asked for [m3/s] of a demand [m3/s]: its share by
    count, or a tap's own flow beside it.
    """
    if part.own_lph is not None:
        return part.own_lph * LPH
    return fuel_demand * part.count / sum(p.count for p in injectors.values() if p.own_lph is None)


def injectors_full_flow(part: Injectors, difference: float, density: float) -> float:
    """What all injectors of an element give fully open [m3/s] at a difference [Pa]; without limit
    where no rated flow is given.
    """
    if part.rated_lph is None:
        return INFINITE
    return part.count * injector_flow(
        part.rated_lph * LPH, part.rated_kpa * KPA, part.rated_density_kg_m3, difference, density
    )


def _make_pipe(element: Element, part: Pipe) -> Make:
    assert element.length is not None
    bore, area = part.bore_mm / 1000, _area(part.bore_mm)
    k = quadratic_coefficient(pipe_coefficient(element), bore, 1.0)
    scale = part.friction_factor_times * element.length.mm / part.bore_mm / (2 * area**2)
    per, rough = bore / area, part.roughness_um / 1000 / part.bore_mm
    return lambda s: Resistance(
        0.0, k * s.density, scale * s.density, per * s.density / s.viscosity, rough
    )


def _make_quadratic(name: str, part: Quadratic) -> Make:
    a, b, fluid = (
        part.a_kpa_per_lph * KPA / LPH,
        part.b_kpa_per_lph2 * KPA / LPH**2,
        part.measured_with,
    )

    def make(s: FluidState) -> Resistance:
        times = s.point.clogging.get(name, 1.0)
        if fluid is None:
            return Resistance(a * times, b * times)
        return Resistance(
            a * times * s.viscosity * 1000 / fluid.viscosity_mpa_s,
            b * times * s.density / fluid.density_kg_m3,
        )

    return make


def _make_loss(loss_coefficient: float, bore_mm: float) -> Make:
    k = quadratic_coefficient(loss_coefficient, bore_mm / 1000, 1.0)
    least = (
        0.0 if k else SLOPE_FLOOR
    )  # two ways side by side that take nothing would share their flow in any way
    return lambda s: Resistance(least, k * s.density)


def _with_adapters(element: Element, ports: tuple[str, ...], make: Make) -> Make:
    """What a link takes with the adapters at its ports; a hose has them in its K already."""
    if isinstance(element.figures, Pipe) or not any(p in element.adapters for p in ports):
        return make
    k = sum(
        quadratic_coefficient(own, bore / 1000, 1.0)
        for p in ports
        for own, bore in element.adapters.get(p, ())
    )

    def joined(s: FluidState) -> Law:
        law = make(s)
        return (
            replace(law, square=law.square + k * s.density) if isinstance(law, Resistance) else law
        )

    return joined


def _clogs(name: str, make: Make) -> Make:
    def clogged(s: FluidState) -> Law:
        law, times = make(s), s.point.clogging.get(name, 1.0)
        assert isinstance(law, Resistance)
        return law if times == 1.0 else Resistance(law.linear * times, law.square * times)

    return clogged


def _make_check(part: Check) -> Make:
    k, cracking = (
        quadratic_coefficient(part.loss_coefficient, part.bore_mm / 1000, 1.0),
        part.cracking_kpa * KPA,
    )
    return lambda s: Resistance(0.0, k * s.density, cracking=cracking, one_way=True)


def _make_jet(part: Jet, nozzle: bool) -> Make:
    if nozzle:
        return lambda s: nozzle_law(part, s.density, FIRST_MOTIVE, FIRST_DRAWN)
    return lambda s: suction_law(part, s.density, FIRST_MOTIVE)


def _make_displacement(part: Displacement) -> Make:
    def make(s: FluidState) -> PumpRise:
        swept = part.cc_per_turn * 1e-6 * part.ratio * (s.point.engine_rpm or 0.0) / 60
        if swept <= 0:
            return idle_map()
        rated = part.cc_per_turn * 1e-6 * part.rated_rpm / 60 if part.rated_rpm else swept
        rows = displaced(swept, rated, [(kpa * KPA, share) for kpa, share in part.efficiency])
        return one_map([q for q, _ in rows], [rise for _, rise in rows]) if rows else idle_map()

    return make


def _make_pump(name: str, part: PumpMap) -> Make:
    tables = [tuple(tuple(row) for row in c.rows) for c in part.curves]
    volts = [c.voltage_v for c in part.curves]
    rises = [_curve(t, 1, part.interpolation) for t in tables]
    currents = (
        [_curve(t, 2, part.interpolation) for t in tables]
        if all(len(t[0]) == 3 for t in tables)
        else None
    )
    frees = [t[-1][0] * LPH for t in tables]
    relief = part.relief_kpa * KPA if part.relief_kpa else INFINITE
    fluid = part.measured_with.density_kg_m3 if part.measured_with is not None else None
    known: dict[tuple[float | None, float, float], PumpRise] = {}

    def make(s: FluidState) -> PumpRise:
        voltage, times, ohm = (
            s.point.voltage_at(name),
            density_times(part.kind, s.density, fluid),
            s.point.wire_ohm.get(name, 0.0),
        )
        law = known.get((voltage, times, ohm))
        if law is None and ohm and voltage is not None and currents is not None:
            law = known[voltage, times, ohm] = _wired(
                tuple(tables),
                tuple(volts),
                part.kind,
                part.interpolation,
                (voltage, ohm, times, relief),
            )
        if law is None:
            shares, outside = voltage_shares(
                volts, frees, volts[-1] if voltage is None else voltage, part.kind
            )
            shares = [replace(x, weight=x.weight * times) for x in shares]
            curves = tuple(rises[x.curve] for x in shares)
            last = min(
                (c.flow[-1] - x.flow_shift) / x.flow_scale
                for c, x in zip(curves, shares, strict=True)
            )
            law = PumpRise(
                curves,
                shares,
                relief,
                last,
                outside,
                tuple(currents[x.curve] for x in shares) if currents else None,
                with_density=times,
            )
            if len(known) < 64:
                known[voltage, times, ohm] = law
        return law

    return make


@lru_cache(maxsize=512)
def _wired(
    tables: tuple[tuple[tuple[float, ...], ...], ...],
    volts: tuple[float, ...],
    kind: str,
    interpolation: str,
    here: tuple[float, float, float, float],
) -> PumpRise:
    """A pump behind its wire, at the source's voltage [V], with a resistance [ohm], in a fuel so
    many times as dense [-], with its relief [Pa].
    """
    source, ohm, times, relief = here
    rises, currents = ([_curve(t, column, interpolation) for t in tables] for column in (1, 2))
    link_law = wired_map(list(volts), rises, currents, kind, source, ohm, times)
    if link_law.stalled:
        law = idle_map()
        law.stalled = True
        return law
    flows = list(link_law.flows)
    curve, drawn = (
        make_curve(flows, list(link_law.rises), interpolation),
        make_curve(flows, list(link_law.currents), interpolation),
    )
    return PumpRise(
        (curve,),
        [Share(1.0, 1.0, 0.0, 0)],
        relief,
        flows[-1],
        False,
        (drawn,),
        wire=(source, ohm, volts[0], volts[-1]),
    )


def _make_regulator(part: Regulator, elevation: float) -> Make:
    side = 0 if part.holds == "inlet" else 1
    wide = quadratic_coefficient(
        part.wide_open_loss_coefficient, part.wide_open_bore_mm / 1000, 1.0
    )
    slope, set_to = part.slope_kpa_per_lph * KPA / LPH, part.set_kpa * KPA

    def make(s: FluidState) -> RegulatorLaw:
        felt = reference_pressure_kpa(part.reference, s.point.manifold_kpa)
        return RegulatorLaw(
            side, set_to + s.density * GRAVITY * elevation + felt * KPA, slope, wide * s.density
        )

    return make


def _make_injectors(name: str, part: Injectors) -> Make:
    def make(s: FluidState) -> Resistance:
        want, full = (
            s.commanded[name],
            injectors_full_flow(part, 1.0, s.density),
        )  # at 1 Pa: flow goes as the root
        if part.mode == "compensated":
            return Resistance(square=1 / full**2, one_way=True, most=want)
        return Resistance(
            square=1 / min(want / math.sqrt(part.commanded_at_kpa * KPA), full) ** 2, one_way=True
        )

    return make


@dataclass(slots=True)
class _Link:
    """How one link of an element is made."""

    make: Make
    follows: Follows = "fluid"
    bore_mm: float | None = None
    one_way: bool = False
    regulates: bool = False


def _link(
    element: Element, ports: tuple[str, str], elevation_of: Callable[[bool], float]
) -> _Link | None:
    """One link of an element; `held` gives the elevation [m] of its start or its end. None for what
    carries no fuel.
    """
    part = element.figures
    if isinstance(part, Tee):
        return _Link(
            _make_loss(
                part.branch_loss_coefficient if "branch" in ports else part.run_loss_coefficient,
                part.bore_mm,
            ),
            bore_mm=part.bore_mm,
        )
    if isinstance(part, Jet):
        nozzle = ports[0] == "motive"
        return _Link(_make_jet(part, nozzle), "pump", one_way=True)
    if isinstance(part, Displacement):
        return _Link(_make_displacement(part), "pump", one_way=True)
    if isinstance(part, Pipe):
        return _Link(_make_pipe(element, part), bore_mm=part.bore_mm)
    if isinstance(part, Quadratic):
        return _Link(_make_quadratic(element.id, part))
    if isinstance(part, PumpMap):
        return _Link(_make_pump(element.id, part), "pump", one_way=True)
    if isinstance(part, Regulator):
        return _Link(
            _make_regulator(part, elevation_of(part.holds == "inlet")),
            "manifold",
            part.wide_open_bore_mm,
            one_way=True,
            regulates=True,
        )
    if isinstance(part, Check):
        return _Link(_make_check(part), bore_mm=part.bore_mm, one_way=True)
    if isinstance(part, Loss):
        make = _make_loss(part.loss_coefficient, part.bore_mm)
        return _Link(
            _clogs(element.id, make) if element.kind in FILTERS else make, bore_mm=part.bore_mm
        )
    return None


def _joined(element: Element) -> list[LinkTemplate]:
    """A Y: two legs that take nothing by themselves, and its K where their flows are one."""
    assert isinstance(element.figures, Loss)
    name, whole, joint = element.id, JOINED[element.kind], element.id + JOINT
    area, bare = _area(element.figures.bore_mm), lambda s: Resistance(SLOPE_FLOOR)
    legs = [
        LinkTemplate(
            name,
            f"{name}.{leg}",
            element.ports[leg],
            joint,
            ("",),
            "fluid",
            _with_adapters(element, (leg,), bare),
            area,
        )
        for leg in ("a", "b")
    ]
    one = _with_adapters(
        element, (whole,), _make_loss(element.figures.loss_coefficient, element.figures.bore_mm)
    )
    both = LinkTemplate(name, name, joint, element.ports[whole], ("",), "fluid", one, area)
    out = [*legs, both]
    if (element.kind == "split") != element.reversed:
        for link in out:
            link.start, link.end = link.end, link.start
    return out


def link_templates(element: Element, elevation: dict[str, float]) -> list[LinkTemplate]:
    """The links of one element; none for a tank, a tap that only reads, and lines of air."""
    ports, name = element.ports, element.id
    if isinstance(element.figures, Injectors):
        make = _make_injectors(name, element.figures)
        return [
            LinkTemplate(
                name, name, ports["start"], MANIFOLD + name, (), "command", make, one_way=True
            )
        ]
    if isinstance(element.figures, TankLevel):
        return []
    if element.kind in JOINED:
        return _joined(element)
    links = KINDS[element.kind].links
    every = sorted({pair for pairs in links.values() for pair in pairs})
    out = []
    for a, b in every:
        start, end = (ports[b], ports[a]) if element.reversed else (ports[a], ports[b])
        link_law = _link(
            element,
            (a, b),
            lambda inlet, s=start, e=end: elevation[s if inlet else e],  # type: ignore[misc]
        )
        if link_law is None:
            continue
        key = (
            name if len(every) == 1 else f"{name}.{a if sum(x[0] == a for x in every) == 1 else b}"
        )
        open_in = tuple(position for position, pairs in links.items() if (a, b) in pairs)
        area = _area(link_law.bore_mm) if link_law.bore_mm is not None else 0.0
        out.append(
            LinkTemplate(
                name,
                key,
                start,
                end,
                open_in,
                link_law.follows,
                _with_adapters(element, (a, b), link_law.make),
                area,
                link_law.one_way,
                link_law.regulates,
            )
        )
    return out


@dataclass(slots=True)
class Geometry:
    """What a circuit's points share: its links by their element, tanks (node, level [mm], gas
    pressure [kPa gauge]), heights [m], injectors, usual positions of valves, jet pumps, and the
    places within Ys where their legs meet, each with the port where their flow is one.
    """

    circuit: Circuit
    links_of: dict[str, list[LinkTemplate]] = field(default_factory=dict)
    links: list[LinkTemplate] = field(default_factory=list)
    tanks: dict[str, tuple[str, float, float]] = field(default_factory=dict)
    elevation: dict[str, float] = field(default_factory=dict)
    injectors: dict[str, Injectors] = field(default_factory=dict)
    default_position: dict[str, str] = field(default_factory=dict)
    joints: dict[str, str] = field(default_factory=dict)
    jets: list[tuple[str, Jet]] = field(default_factory=list)
    _signature: Any = None

    @property
    def signature(self) -> Any:
        """What makes two circuits one topology: links and how they turn, nodes, tanks."""
        if self._signature is None:
            tanks = tuple((name, node) for name, (node, *_) in self.tanks.items())
            self._signature = tuple(x.turns for x in self.links), tuple(self.elevation), tanks
        return self._signature


def make_geometry(
    circuit: Circuit, known: Mapping[str, list[LinkTemplate]] | None = None
) -> Geometry:
    """A circuit's links with their geometry in SI, ready for any operating point; links of elements
    that are `known` already are taken as they are.
    """
    out = Geometry(circuit, elevation={node.id: node.elevation_mm / 1000 for node in circuit.nodes})
    for element in circuit.elements:
        if isinstance(element.figures, TankLevel):
            if element.figures.floats:
                continue
            out.tanks[element.id] = (
                element.ports["outlet"],
                element.figures.level_mm,
                element.figures.gauge_kpa,
            )
        elif isinstance(element.figures, Injectors):
            out.injectors[element.id] = element.figures
        else:
            out.default_position[element.id] = next(iter(KINDS[element.kind].links), "")
        if element.kind in JOINED:
            joint, port = element.id + JOINT, element.ports[JOINED[element.kind]]
            out.joints[joint], out.elevation[joint] = port, out.elevation[port]
        if isinstance(element.figures, Jet):
            out.jets.append((element.id, element.figures))
        links = known.get(element.id) if known is not None else None
        out.links_of[element.id] = links = (
            link_templates(element, out.elevation) if links is None else links
        )
        out.links += links
    return out
