"""The hydraulic network as an EPANET input file (EPANET 2.2 text format), so that others can solve
it and look at it.

EPANET's tolerances are absolute, made for towns: lengths, bores and roughness are written ten times
ours and flows come out a hundred times ours; velocities,
Reynolds numbers and heads stay as they are. What EPANET has no element for is written as its
equivalent at this operating point, and said in the title.
"""

import math

from tall_heron.core.base.constants import GRAVITY
from tall_heron.core.document.circuit import Circuit, Element
from tall_heron.core.document.figures import (
    Check,
    Injectors,
    Jet,
    Law,
    Loss,
    Pipe,
    Regulator,
    TankLevel,
    Tee,
)
from tall_heron.core.document.point import Point, reference_pressure_kpa
from tall_heron.core.hydraulics.compile import JOINT, pipe_coefficient
from tall_heron.core.hydraulics.jets import nozzle_law, suction_law
from tall_heron.core.hydraulics.laws import PumpRise, Resistance, loss, rise
from tall_heron.core.hydraulics.network import Link, compile_network
from tall_heron.core.hydraulics.results import Solution

LENGTH, FLOW = 10.0, 100.0
G_EPANET = 32.2 * 0.3048  # m/s2, as EPANET's source has it
VISCOSITY = 1.1e-5 * 0.3048**2  # m2/s, EPANET's reference
K_ROUNDED = 8 / (32.2 * math.pi**2) / 0.02517  # EPANET's source rounds 8/(g pi^2) in minor losses
SHORT = 1e-6  # m, of a pipe that stands for a K
POINTS = 60
MOST_LPH = 1500.0


def make_inp(demand: float, solution: Solution, title: str) -> str:
    """The input file of a circuit at the point that it is solved at, wires and adapters and all.
    Raises ValueError where it is not: without flows there is no equivalent to write.
    """
    if not solution.converged:
        raise ValueError(f"the circuit does not solve: {solution.part}: {solution.reason}")
    circuit, point = solution.net.geometry.circuit, solution.net.state.point
    net = compile_network(circuit, point, demand)
    rho, mu = net.state.density, net.state.viscosity
    to_head = 1 / (rho * G_EPANET)
    scale_z = GRAVITY / G_EPANET
    name = {n.id: f"n{i}" for i, n in enumerate(circuit.nodes)}
    out = _Sections(rho, to_head)
    tanks = {
        e.ports["outlet"]: e
        for e in circuit.of_kind("tank")
        if not getattr(e.figures, "floats", False)
    }
    live = {n for k in net.links for n in (k.start, k.end)}
    for node in circuit.nodes:
        z = node.elevation_mm / 1000 * scale_z
        if node.id in tanks:
            part = tanks[node.id].figures
            assert isinstance(part, TankLevel)
            level = point.level_mm.get(tanks[node.id].id, part.level_mm) / 1000 * scale_z
            out.add(
                "RESERVOIRS",
                name[node.id],
                z + level + part.gauge_kpa * 1000 * to_head,
                note=node.id,
            )
        elif node.id in live:
            out.add("JUNCTIONS", name[node.id], z, 0, note=node.id)
    for i, (joint, port) in enumerate(net.geometry.joints.items()):
        if joint in live:
            name[joint] = f"j{i}"
            out.add(
                "JUNCTIONS",
                name[joint],
                net.geometry.elevation[port] * scale_z,
                0,
                note=f"within {joint.removesuffix(JOINT)}",
            )
    elements = {e.id: e for e in circuit.elements}
    for link in net.links:
        element = elements[link.element]
        key = link.key.replace(".", "_").replace(" ", "_")
        start = name[link.start]
        if isinstance(element.figures, Injectors):
            _burner(
                out,
                element,
                element.figures,
                link,
                point,
                key,
                start,
                solution,
                circuit,
                to_head,
                scale_z,
            )
        else:
            _through(out, element, link, key, start, name[link.end], point, solution)
    comments = "".join(f"; {line}" + chr(10) for line in out.comments)
    if title.lstrip().startswith(("[", ";")):  # a section, or a remark
        title = f"Build {title}"
    head = f"[TITLE]\n{title}\nFuel circuit; bores and lengths 10 times, flows 100 times the true ones\n{comments}"
    options = [
        ("UNITS", "LPS"),
        ("HEADLOSS", "D-W"),
        ("VISCOSITY", f"{mu / rho * LENGTH / VISCOSITY:.9g}"),
        ("SPECIFIC GRAVITY", "1.0"),
        ("TRIALS", "500"),
        ("ACCURACY", "1e-8"),
        ("UNBALANCED", "STOP"),
    ]
    body = "\n".join(
        f"[{section}]\n" + "\n".join(rows) for section, rows in out.rows.items() if rows
    )
    settings = "\n".join(f"{key} {value}" for key, value in options)
    return f"{head}\n{body}\n[TIMES]\nDURATION 0\n[OPTIONS]\n{settings}\n[END]\n"


class _Sections:
    """The rows of each section of the file."""

    def __init__(self, density: float, to_head: float) -> None:
        self.density, self.to_head = density, to_head
        self.rows: dict[str, list[str]] = {
            s: [] for s in ("JUNCTIONS", "RESERVOIRS", "PIPES", "PUMPS", "VALVES", "CURVES")
        }
        self.comments: list[str] = []

    def add(self, section: str, *cells: str | float, note: str = "") -> None:
        text = " ".join(c if isinstance(c, str) else f"{c:.10g}" for c in cells)
        self.rows[section].append(f"{text} ;{note}" if note else text)

    def pipe(
        self,
        key: str,
        start: str,
        end: str,
        length: float,
        bore: float,
        roughness: float,
        k: float,
        status: str = "OPEN",
    ) -> None:
        self.add(
            "PIPES",
            key,
            start,
            end,
            length * LENGTH,
            bore * 1000 * LENGTH,
            max(roughness * 1000 * LENGTH, 1e-6),
            k * K_ROUNDED,
            status,
        )

    def curve(self, key: str, points: list[tuple[float, float]]) -> None:
        for flow, pressure in points:
            self.add("CURVES", key, flow * 1000 * FLOW, pressure * self.to_head)


def _burner(
    out: _Sections,
    element: Element,
    part: Injectors,
    link: Link,
    point: Point,
    key: str,
    start: str,
    solution: Solution,
    circuit: Circuit,
    to_head: float,
    scale_z: float,
) -> None:
    law = link.law
    assert isinstance(law, Resistance)
    node = element.ports["start"]
    z = next(n.elevation_mm for n in circuit.nodes if n.id == node) / 1000 * scale_z
    out.add(
        "RESERVOIRS",
        f"{key}m",
        reference_pressure_kpa(part.into, point.manifold_kpa) * 1000 * to_head + z,
        note=f"what {element.id} feels",
    )
    square, flow = law.square, solution.links[link.key].flow
    if law.most < math.inf and flow > 0:
        loss = solution.links[link.key].loss or 0.0
        square = loss / flow**2
        out.comments.append(
            f"{element.id} takes what is commanded: written as the K that passes it at this point"
        )
    bore = 0.005
    out.pipe(
        key,
        start,
        f"{key}m",
        SHORT,
        bore,
        0.0,
        square * 2 * (math.pi * bore**2 / 4) ** 2 / out.density,
    )


def _through(
    out: _Sections,
    element: Element,
    link: Link,
    key: str,
    start: str,
    end: str,
    point: Point,
    solution: Solution,
) -> None:
    part, law = element.figures, link.law
    if isinstance(part, Pipe):
        assert element.length is not None
        out.pipe(
            key,
            start,
            end,
            element.length.mm / 1000,
            part.bore_mm / 1000,
            part.roughness_um / 1e6,
            pipe_coefficient(element),
        )
        if part.friction_factor_times != 1:
            out.comments.append(
                f"{element.id}: the friction of its convoluted bore is not in the file"
            )
    elif isinstance(part, Regulator):
        _valve(out, element, part, key, start, end, point, solution)
    elif isinstance(law, PumpRise):
        if isinstance(part, Jet):
            law = suction_law(part, out.density, solution.links[f"{element.id}.motive"].flow)
        _pump(out, law, key, start, end)
    elif isinstance(law, Resistance):
        _resisting(out, part, law, link, (key, start, end), solution)


def _resisting(
    out: _Sections,
    part: Law,
    law: Resistance,
    link: Link,
    at: tuple[str, str, str],
    solution: Solution,
) -> None:
    """A fitting, a valve, a check valve; a filter or the nozzle of a jet pump by its curve."""
    key, start, end = at
    flow = solution.flow(link.key)
    if isinstance(part, Check) and part.cracking_kpa and flow > 0:
        steps = (0.01, 0.25, 0.5, 0.75, 0.9, 0.95, 1.0, 1.05, 1.1, 1.5, 2.0, 4.0)
        out.curve(
            f"c{key}",
            [(0.0, 0.0)] + [(flow * x, loss(law, flow * x) + law.cracking) for x in steps],
        )
        row = next(
            r for s in ("JUNCTIONS", "RESERVOIRS") for r in out.rows[s] if r.split()[0] == start
        )
        out.add("JUNCTIONS", f"{key}s", float(row.split()[1]), 0)
        out.pipe(
            f"{key}p",
            start,
            f"{key}s",
            SHORT,
            part.bore_mm / 1000,
            0.0,
            0.01 * part.loss_coefficient,
            "CV",
        )  # a curve alone would let fuel back
        out.add("VALVES", key, f"{key}s", end, 50.0, "GPV", f"c{key}", 0)
        out.comments.append(
            f"{link.element}: an open check valve with its cracking pressure, as a curve of loss over flow"
        )
    elif isinstance(part, Loss | Tee | Check):
        bore = part.bore_mm / 1000
        k = law.square * 2 * (math.pi * bore**2 / 4) ** 2 / out.density
        if not k and isinstance(part, Loss):
            k = (
                0.01 * part.loss_coefficient
            )  # the leg of a Y: EPANET does not balance pipes without resistance
        out.pipe(key, start, end, SHORT, bore, 0.0, k, "CV" if isinstance(part, Check) else "OPEN")
    else:
        if isinstance(part, Jet):
            drawn = solution.links.get(f"{link.element}.suction")
            law = nozzle_law(part, out.density, flow, drawn.flow if drawn else 0.0)
            out.comments.append(
                f"{link.element}: its nozzle and what it draws are written as they stand at this point"
            )
        out.curve(
            f"c{key}",
            [(q, loss(law, q)) for q in (MOST_LPH / 3.6e6 * i / 400 for i in range(401))],
        )
        out.add("VALVES", key, start, end, 50.0, "GPV", f"c{key}", 0)


def _pump(out: _Sections, law: PumpRise, key: str, start: str, end: str) -> None:
    points = [
        (law.last_flow * i / POINTS, rise(law, law.last_flow * i / POINTS)[0])
        for i in range(POINTS + 1)
    ]
    falling = [points[0]]
    for q, p in points[1:]:
        if p < falling[-1][1]:
            falling.append((q, p))
    out.curve(f"c{key}", falling)
    out.add("PUMPS", key, start, end, "HEAD", f"c{key}")


def _valve(
    out: _Sections,
    element: Element,
    part: Regulator,
    key: str,
    start: str,
    end: str,
    point: Point,
    solution: Solution,
) -> None:
    # EPANET wants pipes between a valve and a reservoir or another valve.
    target = (part.set_kpa + reference_pressure_kpa(part.reference, point.manifold_kpa)) * 1000
    link = solution.links[element.id]
    if part.slope_kpa_per_lph:
        target += (
            (1 if part.holds == "inlet" else -1) * part.slope_kpa_per_lph * 1000 * link.flow * 3.6e6
        )
        out.comments.append(f"{element.id}: set to what its slope makes of it at this point")
    for side, node in (("s", start), ("t", end)):
        row = next(
            r for s in ("JUNCTIONS", "RESERVOIRS") for r in out.rows[s] if r.split()[0] == node
        )
        reservoir = row in out.rows["RESERVOIRS"]
        if reservoir:
            out.add("JUNCTIONS", f"{key}{side}", float(row.split()[1]), 0)
            a, b = (node, f"{key}{side}") if side == "s" else (f"{key}{side}", node)
            out.pipe(f"{key}p{side}", a, b, SHORT, 0.05, 0.0, 0.0)
            start, end = (f"{key}s", end) if side == "s" else (start, f"{key}t")
    bore = part.wide_open_bore_mm * LENGTH
    setting = "PSV" if part.holds == "inlet" else "PRV"
    out.add(
        "VALVES",
        key,
        start,
        end,
        bore,
        setting,
        target * out.to_head,
        part.wide_open_loss_coefficient * K_ROUNDED,
    )
