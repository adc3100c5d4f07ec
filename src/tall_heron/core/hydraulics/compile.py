"""A circuit's links with their geometry: the only place where document units become SI. An operating point fills the rest in (network.py).

Pressures are piezometric in here (p + rho g z), so elevation appears once, at the fixed nodes and at regulators.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from tall_heron.core.base.units import GRAVITY, LPH
from tall_heron.core.document.circuit import (
    Check,
    Circuit,
    Displacement,
    Element,
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
from tall_heron.core.document.kinds import KINDS
from tall_heron.core.document.point import Point
from tall_heron.core.hydraulics.jets import JetPair, nozzle_law, suction_law
from tall_heron.core.hydraulics.laws import INFINITE, LOSS, PUMP, REGULATOR, PumpRise, RegulatorLaw, Resistance
from tall_heron.core.physics.demand import injector_flow
from tall_heron.core.physics.fittings import moved_to_bore, quadratic_coefficient
from tall_heron.core.physics.pump import Curve, Share, make_curve, voltage_shares

KPA = 1000.0
MANIFOLD = "\0"  # starts the name of an injector's fixed end, which is no node of the circuit


def _pipe_coefficient(element: Element, part: Pipe) -> float:
    """K of a hose with its ends, on the hose's bore."""
    total = part.loss_coefficient
    for end in (element.end_a, element.end_b):
        if end is not None:
            total += moved_to_bore(end.loss_coefficient, end.throat_bore_mm, part.bore_mm)
    return total


def _area(bore_mm: float) -> float:
    return math.pi * (bore_mm / 1000) ** 2 / 4


@lru_cache(maxsize=512)
def _curve(rows: tuple[tuple[float, ...], ...], column: int, interpolation: str) -> Curve:
    scale = KPA if column == 1 else 1.0
    return make_curve([r[0] * LPH for r in rows], [r[column] * scale for r in rows], interpolation)


@dataclass(slots=True, frozen=True)
class Moment:
    """What a law needs of an operating point: fluid in SI, the point, and the commanded flow of each injector element [m3/s]."""

    density: float
    viscosity: float
    point: Point
    commanded: dict[str, float]


Make = Callable[[Moment], Any]


@dataclass(slots=True)
class Piece:
    """One two-port link before the point is known; `make` gives its law at a moment."""

    element: str
    key: str
    start: str
    end: str
    position: tuple[str, ...]
    code: int
    area: float
    make: Make
    one_way: bool = False
    steady: bool = False  # its law hangs on the fluid and on clogging only, so points of one fluid share it


@dataclass(slots=True)
class Plumbing:
    """A circuit compiled once; points fill in the laws."""

    circuit: Circuit
    pieces: list[Piece]
    tanks: dict[str, tuple[str, float]]
    elevation: dict[str, float]
    injectors: dict[str, Injectors]
    default_position: dict[str, str]

    def commanded(self, part: Injectors, burn: float) -> float:
        """What a set of injectors, a bowl or a tap is asked for [m3/s] of a burn [m3/s]: its share by count, or a tap's own flow beside it."""
        if part.own_lph is not None:
            return part.own_lph * LPH
        return burn * part.count / sum(p.count for p in self.injectors.values() if p.own_lph is None)


def _make_pipe(element: Element, part: Pipe) -> Make:
    assert element.length is not None
    bore, area = part.bore_mm / 1000, _area(part.bore_mm)
    k = quadratic_coefficient(_pipe_coefficient(element, part), bore, 1.0)
    scale = part.friction_factor_times * element.length.mm / part.bore_mm / (2 * area**2)
    per, rough = bore / area, part.roughness_um / 1000 / part.bore_mm
    return lambda m: Resistance(0.0, k * m.density, scale * m.density, per * m.density / m.viscosity, rough)


def _make_quadratic(name: str, part: Quadratic) -> Make:
    a, b, fluid = part.a_kpa_per_lph * KPA / LPH, part.b_kpa_per_lph2 * KPA / LPH**2, part.measured_with

    def make(m: Moment) -> Resistance:
        times = m.point.clogging.get(name, 1.0)
        if fluid is None:
            return Resistance(a * times, b * times)
        return Resistance(a * times * m.viscosity * 1000 / fluid.viscosity_mpa_s, b * times * m.density / fluid.density_kg_m3)

    return make


def _make_loss(part: Loss | Check) -> Make:
    k = quadratic_coefficient(part.loss_coefficient, part.bore_mm / 1000, 1.0)
    if isinstance(part, Check):
        cracking = part.cracking_kpa * KPA
        return lambda m: Resistance(0.0, k * m.density, cracking=cracking, one_way=True)
    return lambda m: Resistance(0.0, k * m.density)


def _make_tee(part: Tee, corner: bool) -> Make:
    loss = part.branch_loss_coefficient if corner else part.run_loss_coefficient
    k = quadratic_coefficient(loss, part.bore_mm / 1000, 1.0)
    return lambda m: Resistance(0.0, k * m.density)


def _make_jet(part: Jet, nozzle: bool) -> Make:
    start = JetPair(0, 0, part)
    if nozzle:
        return lambda m: nozzle_law(part, m.density, start.motive.value, start.drawn.value)
    return lambda m: suction_law(part, m.density, start.motive.value)


def _make_displacement(part: Displacement) -> Make:
    def make(m: Moment) -> PumpRise:
        swept = part.cc_per_turn * 1e-6 * part.ratio * (m.point.engine_rpm or 0.0) / 60
        rows = part.efficiency[::-1]
        if swept <= 0:
            curve, last = make_curve([0.0, 1e-9], [1.0, 0.0]), 1e-9
        else:
            flows, rises = [swept * share for _, share in rows], [kpa * KPA for kpa, _ in rows]
            curve, last = make_curve(flows, rises), flows[-1]
        return PumpRise((curve,), [Share(weight=1.0, flow_scale=1.0, flow_shift=0.0, curve=0)], INFINITE, last, False)

    return make


def _make_pump(name: str, part: PumpMap) -> Make:
    tables = [tuple(tuple(row) for row in c.rows) for c in part.curves]
    volts = [c.voltage_v for c in part.curves]
    rises = [_curve(t, 1, part.interpolation) for t in tables]
    currents = [_curve(t, 2, part.interpolation) for t in tables] if all(len(t[0]) == 3 for t in tables) else None
    frees = [t[-1][0] * LPH for t in tables]
    relief = part.relief_kpa * KPA if part.relief_kpa else INFINITE

    def make(m: Moment) -> PumpRise:
        voltage = m.point.voltage_at(name)
        shares, outside = voltage_shares(volts, frees, volts[-1] if voltage is None else voltage, part.kind)
        curves = tuple(rises[s.curve] for s in shares)
        last = min((c.flow[-1] - s.flow_shift) / s.flow_scale for c, s in zip(curves, shares, strict=True))
        return PumpRise(curves, shares, relief, last, outside, tuple(currents[s.curve] for s in shares) if currents else None)

    return make


def _make_regulator(part: Regulator, elevation_m: float) -> Make:
    side = 0 if part.holds == "inlet" else 1
    wide = quadratic_coefficient(part.wide_open_loss_coefficient, part.wide_open_bore_mm / 1000, 1.0)
    slope, set_to = part.slope_kpa_per_lph * KPA / LPH, part.set_kpa * KPA

    def make(m: Moment) -> RegulatorLaw:
        target = set_to + m.density * GRAVITY * elevation_m + felt_kpa(part.reference, m.point.manifold_kpa) * KPA
        return RegulatorLaw(side, target, slope, wide * m.density)

    return make


def felt_kpa(reference: str, manifold_kpa: float) -> float:
    """What a regulator's port or an injector's tip feels of the manifold [kPa gauge]: all of it, boost alone, or nothing."""
    return {"manifold": manifold_kpa, "hat": max(manifold_kpa, 0.0), "bowl": max(manifold_kpa, 0.0)}.get(reference, 0.0)


def injectors_full_flow(part: Injectors, difference: float, density: float) -> float:
    """What all injectors of an element give fully open [m3/s] at a difference [Pa]; without limit where no rated flow is given."""
    if part.rated_lph is None:
        return INFINITE
    return part.count * injector_flow(part.rated_lph * LPH, part.rated_kpa * KPA, part.rated_density_kg_m3, difference, density)


def _make_injectors(name: str, part: Injectors) -> Make:
    def make(m: Moment) -> Resistance:
        want, full = m.commanded[name], injectors_full_flow(part, 1.0, m.density)  # at 1 Pa: flow goes as the root
        if part.mode == "compensated":
            return Resistance(square=1 / full**2, one_way=True, most=want)
        return Resistance(square=1 / min(want / math.sqrt(part.commanded_at_kpa * KPA), full) ** 2, one_way=True)

    return make


def compile_circuit(circuit: Circuit) -> Plumbing:
    """The circuit's links with their geometry in SI, ready for any operating point."""
    out = Plumbing(circuit, [], {}, {node.id: node.elevation_mm / 1000 for node in circuit.nodes}, {}, {})
    for element in circuit.elements:
        part, ports, name = element.part, element.ports, element.id
        if isinstance(part, TankLevel):
            out.tanks[name] = (ports["outlet"], part.level_mm)
            continue
        if isinstance(part, Injectors):
            out.injectors[name] = part
            out.pieces.append(Piece(name, name, ports["start"], MANIFOLD + name, (), LOSS, 0.0, _make_injectors(name, part)))
            continue
        kind = KINDS[element.kind]
        out.default_position[name] = next(iter(kind.links), "")
        every = sorted({pair for links in kind.links.values() for pair in links})
        for a, b in every:
            start, end = (ports[b], ports[a]) if element.reversed else (ports[a], ports[b])
            code, area = LOSS, 0.0
            if isinstance(part, Tee):
                make, area = _make_tee(part, "branch" in (a, b)), _area(part.bore_mm)
            elif isinstance(part, Jet):
                make, code = _make_jet(part, a == "motive"), LOSS if a == "motive" else PUMP
            elif isinstance(part, Displacement):
                make, code = _make_displacement(part), PUMP
            elif isinstance(part, Pipe):
                make, area = _make_pipe(element, part), _area(part.bore_mm)
            elif isinstance(part, Quadratic):
                make = _make_quadratic(name, part)
            elif isinstance(part, PumpMap):
                make, code = _make_pump(name, part), PUMP
            elif isinstance(part, Regulator):
                held = start if part.holds == "inlet" else end
                make, code, area = _make_regulator(part, out.elevation[held]), REGULATOR, _area(part.wide_open_bore_mm)
            elif isinstance(part, Loss | Check):
                make, area = _make_loss(part), _area(part.bore_mm)
            else:
                continue  # air lines carry no fuel
            key = name if len(every) == 1 else f"{name}.{a if sum(x[0] == a for x in every) == 1 else b}"
            open_in = tuple(position for position, links in kind.links.items() if (a, b) in links)
            out.pieces.append(
                Piece(name, key, start, end, open_in, code, area, make, isinstance(part, Check), code == LOSS and not isinstance(part, Jet))
            )
    return out
