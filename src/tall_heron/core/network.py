"""Circuit and operating point to flat SI lists for the solver: the only place where document units become SI.

Pressures are piezometric in here (p + rho g z), so elevation appears once, at the fixed nodes and at regulators.
"""

import math
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

from tall_heron.core.circuit import KINDS, Check, Circuit, Element, Injectors, Loss, Pipe, PumpMap, Quadratic, Regulator, TankLevel
from tall_heron.core.laws import INFINITE, PumpRise, RegulatorLaw, Resistance, rise
from tall_heron.core.physics.fittings import moved_to_bore, quadratic_coefficient
from tall_heron.core.physics.pump import Curve, make_curve, voltage_shares
from tall_heron.core.point import Point
from tall_heron.core.units import GRAVITY

LPH = 1 / 3.6e6  # m3/s
KPA = 1000.0
LOSS, PUMP, REGULATOR = 0, 1, 2


@dataclass(slots=True)
class Link:
    """One two-port link between node numbers `u` and `v`."""

    element: str
    key: str
    start: str
    end: str
    u: int
    v: int
    code: int
    law: Any  # Resistance, PumpRise or RegulatorLaw, as `code` says: the solver's inner loop branches on the code
    area: float = 0.0


@dataclass(slots=True)
class Network:
    """Unknown nodes 0..n-1, then fixed ones with their pressures; links; the links that are shut; nodes that hang on nothing."""

    n: int
    ids: list[str]
    fixed: list[float]
    elevation_head: list[float]
    fixed_heads: list[float]
    links: list[Link]
    shut: list[tuple[str, str, str, str, str]]
    loose: list[str]
    density: float
    viscosity: float
    commanded: dict[str, float]
    commands: dict[str, Injectors] = field(default_factory=dict)
    greatest: float = 0.0
    impossible: tuple[str, str] | None = None


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


def _pump(part: PumpMap, voltage: float | None) -> PumpRise:
    tables = [tuple(tuple(row) for row in c.rows) for c in part.curves]
    volts = [c.voltage_v for c in part.curves]
    shares, outside = voltage_shares(volts, [t[-1][0] * LPH for t in tables], volts[-1] if voltage is None else voltage, part.kind)
    curves = tuple(_curve(tables[s.curve], 1, part.interpolation) for s in shares)
    currents = tuple(_curve(tables[s.curve], 2, part.interpolation) for s in shares) if all(len(t[0]) == 3 for t in tables) else None
    last = min((c.flow[-1] - s.flow_shift) / s.flow_scale for c, s in zip(curves, shares, strict=True))
    return PumpRise(curves, shares, part.relief_kpa * KPA if part.relief_kpa else INFINITE, last, outside, currents)


def compile_network(circuit: Circuit, point: Point, brief_demand: float | None = None) -> Network:
    """The network of a circuit at a point; `brief_demand` [m3/s] stands in where the point's demand is `brief`."""
    density, viscosity = point.fluid()
    head = density * GRAVITY / 1000  # Pa per mm
    node_head = {node.id: head * node.elevation_mm for node in circuit.nodes}
    raw: list[tuple[str, str, str, str, int, Resistance | PumpRise | RegulatorLaw, float]] = []
    shut: list[tuple[str, str, str, str, str]] = []
    fixed: dict[str, float] = {}
    off = set(point.off)
    injectors = [e for e in circuit.elements if isinstance(e.part, Injectors)]
    commanded: dict[str, float] = {}
    commands: dict[str, Injectors] = {}
    for element in injectors:
        if isinstance(point.demand_lph, dict):
            commanded[element.id] = point.demand_lph.get(element.id, 0.0) * LPH
        else:
            total = (brief_demand or 0.0) if point.demand_lph == "brief" else point.demand_lph * LPH
            commanded[element.id] = total / len(injectors)

    for element in circuit.elements:
        part, ports, name = element.part, element.ports, element.id
        if isinstance(part, TankLevel):
            level = point.level_mm.get(name, part.level_mm)
            fixed[ports["outlet"]] = head * level + node_head[ports["outlet"]]
            continue
        if isinstance(part, Injectors):
            start, want = ports["start"], commanded[name]
            commands[name] = part
            if want <= 0:
                shut.append((name, name, start, "", "shut"))
                continue
            full = INFINITE
            if part.rated_lph is not None:
                ratio = part.rated_density_kg_m3 / density
                full = part.count * part.rated_lph * LPH * math.sqrt(ratio / (part.rated_kpa * KPA))
            if part.mode == "compensated":
                law = Resistance(square=1 / full**2, one_way=True, most=want)
            else:
                law = Resistance(square=1 / min(want / math.sqrt(part.commanded_at_kpa * KPA), full) ** 2, one_way=True)
            manifold = f"\0{name}"
            fixed[manifold] = point.manifold_kpa * KPA + node_head[start]
            raw.append((name, name, start, manifold, LOSS, law, 0.0))
            continue
        kind = KINDS[element.kind]
        position = point.position.get(name) or next(iter(kind.links), "")
        open_links = kind.links.get(position, ())
        every = {pair for links in kind.links.values() for pair in links}
        for a, b in sorted(every):
            start, end = ports[a], ports[b]
            if element.reversed:
                start, end = end, start
            key = name if len(every) == 1 else f"{name}.{a if sum(x[0] == a for x in every) == 1 else b}"
            if (a, b) not in open_links:
                shut.append((name, key, start, end, "shut"))
            elif isinstance(part, PumpMap):
                if name in off:
                    shut.append((name, key, start, end, "off"))
                else:
                    raw.append((name, key, start, end, PUMP, _pump(part, point.voltage_at(name)), 0.0))
            elif name in off:
                shut.append((name, key, start, end, "off"))
            elif isinstance(part, Regulator):
                side = 0 if part.holds == "inlet" else 1
                target = (
                    part.set_kpa * KPA + (point.manifold_kpa * KPA if part.reference == "manifold" else 0.0) + node_head[(start, end)[side]]
                )
                wide = quadratic_coefficient(part.wide_open_loss_coefficient, part.wide_open_bore_mm / 1000, density)
                law_r = RegulatorLaw(side, target, part.slope_kpa_per_lph * KPA / LPH, wide)
                raw.append((name, key, start, end, REGULATOR, law_r, _area(part.wide_open_bore_mm)))
            elif isinstance(part, Pipe):
                assert element.length is not None
                bore, area = part.bore_mm / 1000, _area(part.bore_mm)
                k = quadratic_coefficient(_pipe_coefficient(element, part), bore, density)
                scale = part.friction_factor_times * element.length.mm / part.bore_mm * density / (2 * area**2)
                reynolds = bore * density / (area * viscosity)
                law = Resistance(0.0, k, scale, reynolds, part.roughness_um / 1000 / part.bore_mm)
                raw.append((name, key, start, end, LOSS, law, area))
            elif isinstance(part, Quadratic):
                times = point.clogging.get(name, 1.0)
                mu, rho = 1.0, 1.0
                if part.measured_with is not None:
                    mu = viscosity * 1000 / part.measured_with.viscosity_mpa_s
                    rho = density / part.measured_with.density_kg_m3
                a_si, b_si = part.a_kpa_per_lph * KPA / LPH * mu * times, part.b_kpa_per_lph2 * KPA / LPH**2 * rho * times
                raw.append((name, key, start, end, LOSS, Resistance(a_si, b_si), 0.0))
            elif isinstance(part, Loss | Check):
                k = quadratic_coefficient(part.loss_coefficient, part.bore_mm / 1000, density)
                law = Resistance(0.0, k)
                if isinstance(part, Check):
                    law.cracking, law.one_way = part.cracking_kpa * KPA, True
                raw.append((name, key, start, end, LOSS, law, _area(part.bore_mm)))
    return _number(circuit, raw, shut, fixed, node_head, Network(0, [], [], [], [], [], shut, [], density, viscosity, commanded, commands))


def _number(circuit: Circuit, raw: list, shut: list, fixed: dict[str, float], node_head: dict[str, float], net: Network) -> Network:
    """Number the nodes that hang on a fixed pressure, fixed ones last; leave the loose ones out."""
    neighbours: dict[str, list[str]] = {}
    for _, _, start, end, *_ in raw:
        neighbours.setdefault(start, []).append(end)
        neighbours.setdefault(end, []).append(start)
    reached = set(fixed)
    queue = list(fixed)
    while queue:
        for other in neighbours.get(queue.pop(), ()):
            if other not in reached:
                reached.add(other)
                queue.append(other)
    free = [node.id for node in circuit.nodes if node.id in reached and node.id not in fixed]
    net.n = len(free)
    net.ids = free + list(fixed)
    net.fixed = list(fixed.values())
    net.elevation_head = [node_head.get(x, 0.0) for x in free]
    net.fixed_heads = [node_head.get(x, 0.0) for x in fixed]
    net.loose = [node.id for node in circuit.nodes if node.id not in reached]
    number = {name: i for i, name in enumerate(net.ids)}
    for element, key, start, end, code, law, area in raw:
        if start in reached:
            net.links.append(Link(element, key, start, end, number[start], number[end], code, law, area))
        else:
            net.shut.append((element, key, start, end, "no supply"))
    rises = sum(rise(link.law, 0.0)[0] for link in net.links if link.code == PUMP)
    net.greatest = max(map(abs, net.fixed), default=0.0) + rises
    net.impossible = _blocked(circuit, net, raw, fixed)
    return net


def _blocked(circuit: Circuit, net: Network, raw: list, fixed: dict[str, float]) -> tuple[str, str] | None:
    """The part that cuts injectors off from every tank, and why; None where all can be fed."""
    wanted = {e.ports["start"]: e.id for e in circuit.elements if net.commanded.get(e.id, 0.0) > 0}
    if not wanted:
        return None
    forward: dict[str, list[str]] = {}
    for _, _, start, end, code, law, _ in raw:
        if end.startswith("\0"):
            continue
        forward.setdefault(start, []).append(end)
        if code == LOSS and not law.one_way:
            forward.setdefault(end, []).append(start)
    tanks = [name for name in fixed if not name.startswith("\0")]
    fed = _spread(forward, tanks)
    starved = [node for node in wanted if node not in fed]
    if not starved:
        return None
    injectors = wanted[starved[0]]
    if not tanks:
        return injectors, "there is no tank in the circuit, so nothing can reach the injectors"
    # What lies between: every part that touches both the fed side and the side from which the injectors could be reached.
    backward: dict[str, list[str]] = {}
    walls = [(element, start, end, "") for element, _, start, end, *_ in raw if not end.startswith("\0")]
    walls += [(element, start, end, state) for element, _, start, end, state in net.shut if end]
    for _, start, end, _ in walls:
        backward.setdefault(start, []).append(end)
        backward.setdefault(end, []).append(start)
    near = _spread({k: [x for x in v if x not in fed] for k, v in backward.items()}, [starved[0]])
    for element, start, end, state in walls:
        if (start in fed) != (end in fed) and (start in near or end in near):
            if state == "off":
                why = "it is off"
            elif state:
                why = "it is shut"
            else:
                why = "it points the wrong way, so nothing can flow toward the injectors"
            return element, f"no fuel can reach {injectors} past {element}: {why}"
    return injectors, f"{injectors} is joined to no tank: draw the line that feeds it"


def _spread(edges: dict[str, list[str]], start: list[str]) -> set[str]:
    seen, queue = set(start), list(start)
    while queue:
        for other in edges.get(queue.pop(), ()):
            if other not in seen:
                seen.add(other)
                queue.append(other)
    return seen
