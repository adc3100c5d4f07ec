"""Each element's own law, written again from docs/model.md and apart from the solver, to hold
against a solution.

Friction is SciPy's and the textbook's, pump tables are SciPy's PCHIP, so an error in the core
cannot hide in its own twin here.
"""

import math

import numpy as np
from scipy.interpolate import PchipInterpolator

from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import Injectors
from tall_heron.core.document.path import upstream
from tall_heron.core.document.point import Point
from tall_heron.core.hydraulics.network import compile_network
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.hydraulics.solve import solve_network

LPH = 1 / 3.6e6
G = 9.80665


def friction_factor(re: float, rough: float) -> float:
    """Hagen-Poiseuille to 2000, Swamee-Jain from 4000, smoothstep between (docs/model.md)."""

    def turbulent(r: float) -> float:
        return 0.25 / math.log10(rough / 3.7 + 5.74 / r**0.9) ** 2

    if re <= 2000:
        return 64 / re
    if re >= 4000:
        return turbulent(re)
    s = (re - 2000) / 2000
    s = s * s * (3 - 2 * s)
    return (1 - s) * 64 / 2000 + s * turbulent(4000.0)


def pump_rise(part, voltage: float, flow: float, rho: float) -> float:
    """Rise of a pump on one of its own maps [Pa]; a turbine gives one head whatever it lifts
    (affinity laws), so its rise goes with density.
    """
    rows = np.array(next(c for c in part.curves if c.voltage_v == voltage).rows)
    q = flow / LPH
    if part.interpolation == "linear":
        value = float(np.interp(q, rows[:, 0], rows[:, 1]))
    else:
        value = float(PchipInterpolator(rows[:, 0], rows[:, 1])(q))
    if part.kind == "turbine" and part.measured_with is not None:
        head = value * 1000 / (9.80665 * part.measured_with.density_kg_m3)
        value = 9.80665 * rho * head / 1000
    return min(value, (part.relief_kpa or math.inf) * (1 - 1e-5 * q / 180)) * 1000


def static_at_inlet(circuit, solution, pump) -> float | None:
    """Static pressure where fuel enters a pump [Pa gauge]: Bernoulli from the node's total, less
    the entry of a line that starts at a tank (K 0.5, Crane TP-410 A-29).
    """
    here = pump.ports["end" if pump.reversed else "start"]
    total = solution.pressure(here)
    if total is None:
        return None
    tanks = {e.ports["outlet"] for e in circuit.elements if e.kind == "tank"}
    entry = speed = 0.0
    for e in upstream(circuit, pump):
        if e.figures.law == "pipe":
            start, end = ("end", "start") if e.reversed else ("start", "end")
            v = solution.flow(e.id) / (math.pi * (e.figures.bore_mm / 1000) ** 2 / 4)
            entry = max(
                entry, 0.5 * solution.density * v**2 / 2 if e.ports[start] in tanks else 0.0
            )
            speed = max(speed, solution.density * v**2 / 2 if e.ports[end] == here else 0.0)
    return total - entry - speed


def law_errors(build: Build, point: Point, solution: Solution) -> dict[str, float]:
    """How far each link is from its law [Pa]; links whose law cannot be said (undefined pressure,
    beyond a table) are left out.
    """
    rho, mu = point.fluid()
    z = {n.id: n.elevation_mm / 1000 for n in build.circuit.nodes}
    errors: dict[str, float] = {}
    for link in solution.links.values():
        element = build.circuit.element(link.element)
        assert element is not None
        part, q = element.figures, link.flow
        a = solution.nodes.get(link.start)
        if link.state in ("off", "shut") and part.law not in ("check", "regulator"):
            errors[link.key] = 0.0 if q == 0 else math.inf
            continue
        if a is None:
            continue
        if part.law == "injectors":
            dp = a - point.manifold_kpa * 1000
            commanded = solution_command(point, build, element.id)
            c = commanded / math.sqrt(part.commanded_at_kpa * 1000)
            if part.rated_lph is not None:
                full = (
                    part.count
                    * part.rated_lph
                    * LPH
                    * math.sqrt(part.rated_density_kg_m3 / rho / (part.rated_kpa * 1000))
                )
                c = full if part.mode == "compensated" else min(c, full)
            at_limit = part.mode == "compensated" and q >= commanded * (1 - 1e-9)
            if q == 0:
                errors[link.key] = max(dp, 0.0)
            elif at_limit:
                errors[link.key] = max((q / c) ** 2 - dp, 0.0)
            else:
                errors[link.key] = abs(dp - (q / c) ** 2)
            continue
        b = solution.nodes.get(link.end)
        if b is None:
            continue
        dp = a + rho * G * z[link.start] - b - rho * G * z[link.end]
        if part.law == "pipe":
            bore, area = part.bore_mm / 1000, math.pi * (part.bore_mm / 1000) ** 2 / 4
            v = q / area
            k = part.loss_coefficient + (
                element.length.bends_loss_coefficient if element.length else 0.0
            )
            for end in (element.end_a, element.end_b):
                if end:
                    k += end.loss_coefficient * (part.bore_mm / end.throat_bore_mm) ** 4
            want = k * rho * v * abs(v) / 2
            if v:
                f = friction_factor(
                    rho * abs(v) * bore / mu, part.roughness_um / 1000 / part.bore_mm
                )
                want += (
                    part.friction_factor_times
                    * f
                    * element.length.mm
                    / part.bore_mm
                    * rho
                    * v
                    * abs(v)
                    / 2
                )
            errors[link.key] = abs(dp - want)
        elif part.law == "quadratic":
            times = point.clogging.get(element.id, 1.0)
            scale = (1.0, 1.0)
            if part.measured_with:
                scale = (
                    mu * 1000 / part.measured_with.viscosity_mpa_s,
                    rho / part.measured_with.density_kg_m3,
                )
            x = q / LPH
            errors[link.key] = abs(
                dp
                - 1000
                * times
                * (part.a_kpa_per_lph * x * scale[0] + part.b_kpa_per_lph2 * x * abs(x) * scale[1])
            )
        elif part.law == "tee":
            k = (
                part.branch_loss_coefficient
                if link.key.endswith(".branch")
                else part.run_loss_coefficient
            )
            errors[link.key] = abs(
                dp - k * rho * q * abs(q) / (2 * (math.pi * (part.bore_mm / 1000) ** 2 / 4) ** 2)
            )
        elif part.law == "jet":
            errors |= jet_errors(solution, element, rho, z)
        elif part.law in ("loss", "check"):
            area = math.pi * (part.bore_mm / 1000) ** 2 / 4
            # A Y's K is on the bore where both legs' flow is one.
            whole = (
                sum(x.flow for x in solution.links.values() if x.element == element.id)
                if element.kind in ("merge", "split")
                else q
            )
            times = point.clogging.get(element.id, 1.0)
            want = times * part.loss_coefficient * rho * whole * abs(whole) / (2 * area**2)
            if not part.loss_coefficient and part.law == "loss":
                want += (
                    times * 30.0 * q
                )  # docs/model.md: a K of 0 takes 30 Pa s/m3, that flows side by side be determined
            if part.law == "loss":
                errors[link.key] = abs(dp - want)
            elif q == 0:
                errors[link.key] = max(dp - part.cracking_kpa * 1000, 0.0)
            else:
                errors[link.key] = abs(dp - want - part.cracking_kpa * 1000) if q > 0 else math.inf
        elif part.law == "pump":
            voltage = point.voltage_at(element.id) or part.curves[-1].voltage_v
            if link.state == "beyond its table" or voltage not in [
                c.voltage_v for c in part.curves
            ]:
                continue
            top = pump_rise(part, voltage, max(q, 0.0), rho)
            if q == 0:
                errors[link.key] = max(dp + top, 0.0)
            elif link.state == "relief open":
                errors[link.key] = abs(-dp - top)
            else:
                errors[link.key] = abs(dp + top) if q > 0 else math.inf
        elif part.law == "regulator":
            area = math.pi * (part.wide_open_bore_mm / 1000) ** 2 / 4
            wide = dp - part.wide_open_loss_coefficient * rho * q * abs(q) / (2 * area**2)
            target = part.set_kpa * 1000 + (
                point.manifold_kpa * 1000 if part.reference == "manifold" else 0.0
            )
            slope = part.slope_kpa_per_lph * 1000 / LPH * q
            held = a - target - slope if part.holds == "inlet" else target - slope - b
            least = min(held, wide)
            errors[link.key] = abs(least) if q > 0 else max(least, 0.0) if q == 0 else math.inf
    return errors


def jet_errors(
    solution: Solution, element: Element, rho: float, z: dict[str, float]
) -> dict[str, float]:
    """A jet pump by momentum: the nozzle ends in the throat's entry, whose pressure lies (1 +
    K_s)(bM/(1-b))^2 q under the suction port, q = rho v_n^2/2, b = (nozzle/throat)^2, M =
    drawn/motive; from there to the discharge 2b + 2 b^2 M^2/(1-b) - b^2 (1+M)^2 (1+K_t) of q is
    won.
    """
    motive, drawn = solution.links[f"{element.id}.motive"], solution.links[f"{element.id}.suction"]
    pressures = [solution.nodes.get(n) for n in (motive.start, drawn.start, motive.end)]
    if any(p is None for p in pressures) or motive.flow <= 1e-7:
        return {}
    into, port, out = (
        p + rho * G * z[n]
        for p, n in zip(pressures, (motive.start, drawn.start, motive.end), strict=True)
    )  # type: ignore[operator]
    part = element.figures
    b, m = (part.nozzle_mm / part.throat_mm) ** 2, max(drawn.flow, 0.0) / motive.flow
    q = rho * (motive.flow / (math.pi * (part.nozzle_mm / 1000) ** 2 / 4)) ** 2 / 2
    entry_under_port = (1 + part.suction_loss) * (b * m / (1 - b)) ** 2 * q
    won = (2 * b + 2 * b * b * m * m / (1 - b) - b * b * (1 + m) ** 2 * (1 + part.throat_loss)) * q
    through = (1 + part.nozzle_loss) * q - won
    floor = 0.01 * (1 + part.nozzle_loss) * q  # the nozzle is no pump for its own flow
    errors = {motive.key: abs(into - out - max(through, floor))}
    if drawn.flow > 0:
        errors[drawn.key] = abs(out - port - (won - entry_under_port))
    return errors


def solution_command(point: Point, build: Build, element_id: str) -> float:
    """Commanded flow [m3/s] of one injector element."""
    if isinstance(point.demand_lph, dict):
        return point.demand_lph.get(element_id, 0.0) * LPH
    assert not isinstance(point.demand_lph, str)
    counts = {
        e.id: e.figures.count for e in build.circuit.elements if isinstance(e.figures, Injectors)
    }
    return point.demand_lph * LPH * counts[element_id] / sum(counts.values())


def imbalance(build: Build, solution: Solution) -> float:
    """The largest flow that goes in and does not come out of a node without a tank [m3/s]."""
    fixed = {
        e.ports["outlet"]
        for e in build.circuit.elements
        if e.kind == "tank" and not e.figures.floats
    }
    sums = dict.fromkeys(solution.nodes, 0.0)
    for link in solution.links.values():
        if solution.nodes.get(link.start) is None:
            continue
        sums[link.start] -= link.flow
        if link.end:
            sums[link.end] += link.flow
    return max((abs(v) for k, v in sums.items() if k not in fixed), default=0.0)


HOLDS, BALANCED = 2e-6, 1e-7  # of the largest pressure and flow


def broken(build: Build) -> tuple[list[str], bool]:
    """Which laws a build's first point breaks, in words, and whether it is solved; one that is not
    must name a part and say why.
    """
    point = build.points[0]
    solution = solve_network(compile_network(build.circuit, point))
    if not solution.converged:
        return (
            [] if solution.part and solution.reason else ["fails without a part or a reason"]
        ), False
    greatest = max((abs(p) for p in solution.nodes.values() if p is not None), default=1.0)
    largest = max((abs(x.flow) for x in solution.links.values()), default=0.0)
    out = [
        f"{key} is {off:.3g} Pa off its law"
        for key, off in law_errors(build, point, solution).items()
        if off > HOLDS * max(greatest, 1.0)
    ]
    if imbalance(build, solution) > BALANCED * max(largest, 1e-8):
        out.append("a node is not in balance")
    return out, True
