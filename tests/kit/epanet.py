"""The same circuit in EPANET, through wntr, on an exactly similar network: EPANET's flow tolerances
are absolute (1e-4 cfs is 10 L/h), so bores, lengths, roughness and viscosity are ten times ours and
flows a hundred times; velocities, Reynolds numbers and heads stay as they are.

Pump = HEAD curve, bypass regulator = PSV, dead-head regulator = PRV, check valve = CV pipe, filter
= GPV, injectors = a pipe with a minor loss to a
reservoir at manifold pressure. EPANET's g is 32.2 ft/s2 and its reference viscosity 1.1e-5 ft2/s
(EPANET 2.2 source, types.h).
"""

import contextlib
import math
import tempfile
import warnings
from pathlib import Path
from typing import Any

import numpy as np
import wntr
from scipy.interpolate import PchipInterpolator

from tall_heron.core.document.build import Build
from tall_heron.core.document.kinds import KINDS
from tall_heron.core.document.point import Point

LPH = 1 / 3.6e6
G_EPANET = 32.2 * 0.3048
G = 9.80665
REFERENCE_VISCOSITY = 1.1e-5 * 0.3048**2
LENGTH, FLOW = 10.0, 100.0
SHORT = 1e-6  # m, of a pipe that stands for a pure K
CURVE_POINTS = 200
FILTER_POINTS = 600
K_ROUNDED = (
    8 / (32.2 * math.pi**2) / 0.02517
)  # EPANET's source rounds 8/(g pi^2) to 0.02517 in minor losses


def build_network(build: Build, point: Point) -> tuple[Any, dict[str, tuple[str, ...]]]:
    """The wntr model and, for each of our links, the names of its links there."""
    rho, mu = point.fluid()
    to_head = 1 / (rho * G_EPANET)
    net = wntr.network.WaterNetworkModel()
    hydraulic = net.options.hydraulic
    with warnings.catch_warnings():
        warnings.filterwarnings(
            "ignore", message="Changing the headloss formula"
        )  # roughness is given in D-W's own terms below
        hydraulic.headloss = "D-W"
    hydraulic.inpfile_units = "LPS"
    hydraulic.viscosity = mu / rho * LENGTH / REFERENCE_VISCOSITY
    hydraulic.accuracy = 1e-8
    hydraulic.trials = 500
    net.options.time.duration = 0
    z = {n.id: n.elevation_mm / 1000 * G / G_EPANET for n in build.circuit.nodes}
    tanks = {
        e.ports["outlet"]: e
        for e in build.circuit.elements
        if e.kind == "tank" and not e.figures.floats
    }
    name = {n.id: f"n{i}" for i, n in enumerate(build.circuit.nodes)}
    for node in build.circuit.nodes:
        if node.id in tanks:
            tank = tanks[node.id]
            level = point.level_mm.get(tank.id, tank.figures.level_mm) / 1000 * G / G_EPANET
            net.add_reservoir(
                name[node.id],
                base_head=z[node.id] + level + tank.figures.gauge_kpa * 1000 * to_head,
            )
        else:
            net.add_junction(name[node.id], base_demand=0.0, elevation=z[node.id])
    count = sum(e.figures.count for e in build.circuit.elements if e.figures.law == "injectors")
    for i, element in enumerate(build.circuit.elements):
        part, key = element.figures, f"e{i}"
        if element.kind == "tank" or part.law in ("air", "tap") or not element.ports:
            continue
        kind = KINDS[element.kind]
        position = point.position.get(element.id) or next(iter(kind.links), "")
        if element.kind in ("valve", "crossover", "selector", "tee", "junction"):
            for a, b in kind.links[position]:
                start, end = (element.ports[x] for x in ((b, a) if element.reversed else (a, b)))
                k = (
                    part.loss_coefficient
                    if part.law == "loss"
                    else part.branch_loss_coefficient
                    if "branch" in (a, b)
                    else part.run_loss_coefficient
                )
                _pipe(
                    net,
                    _leg(key, kind, a, b),
                    name[start],
                    name[end],
                    SHORT,
                    part.bore_mm / 1000,
                    0.0,
                    k,
                )
            continue
        if part.law == "injectors":
            want = (
                point.demand_lph.get(element.id, 0.0)
                if isinstance(point.demand_lph, dict)
                else float(point.demand_lph) * part.count / count
            )
            if want <= 0:
                continue
            start = element.ports["start"]
            if (
                part.mode == "compensated"
            ):  # a float, or a pulse that is lengthened, takes what is commanded: a demand
                net.get_node(name[start]).demand_timeseries_list[0].base_value = want * LPH * FLOW
                continue
            net.add_reservoir(key + "m", base_head=point.manifold_kpa * 1000 * to_head + z[start])
            bore = 0.005
            square = part.commanded_at_kpa * 1000 / (want * LPH) ** 2
            k = square * 2 * (math.pi * bore**2 / 4) ** 2 / rho
            _pipe(net, key, name[start], key + "m", SHORT, bore, 0.0, k)
            continue
        if element.kind in ("merge", "split"):
            # K is on the bore where both flows are one; the legs by themselves take nothing (a
            # hundredth here: EPANET does not balance pipes without resistance).
            port, merges = (
                ("end", element.kind == "merge") if element.kind == "merge" else ("start", False)
            )
            whole, joint = name[element.ports[port]], f"{key}j"
            net.add_junction(joint, base_demand=0.0, elevation=z[element.ports[port]])
            along = merges != element.reversed
            _pipe(
                net,
                f"{key}w",
                *((joint, whole) if along else (whole, joint)),
                SHORT,
                part.bore_mm / 1000,
                0.0,
                part.loss_coefficient,
            )
            for leg in ("a", "b"):
                _pipe(
                    net,
                    f"{key}{leg}",
                    *(
                        (name[element.ports[leg]], joint)
                        if along
                        else (joint, name[element.ports[leg]])
                    ),
                    SHORT,
                    part.bore_mm / 1000,
                    0.0,
                    0.01 * part.loss_coefficient,
                )
            continue
        ends = [name[element.ports["start"]], name[element.ports["end"]]]
        start, end = ends[::-1] if element.reversed else ends
        if part.law == "pipe":
            k = part.loss_coefficient + element.length.bends_loss_coefficient
            for fitted in (element.end_a, element.end_b):
                k += (
                    fitted.loss_coefficient * (part.bore_mm / fitted.throat_bore_mm) ** 4
                    if fitted
                    else 0.0
                )
            _pipe(
                net,
                key,
                start,
                end,
                element.length.mm / 1000,
                part.bore_mm / 1000,
                part.roughness_um / 1e6,
                k,
            )
        elif part.law == "loss":
            _pipe(net, key, start, end, SHORT, part.bore_mm / 1000, 0.0, part.loss_coefficient)
        elif part.law == "check":
            assert part.cracking_kpa == 0
            _pipe(
                net,
                key,
                start,
                end,
                SHORT,
                part.bore_mm / 1000,
                0.0,
                part.loss_coefficient,
                check=True,
            )
        elif part.law == "quadratic":
            q = np.linspace(0, 1500, FILTER_POINTS)
            m, r = 1.0, 1.0
            if part.measured_with:
                m, r = (
                    mu * 1000 / part.measured_with.viscosity_mpa_s,
                    rho / part.measured_with.density_kg_m3,
                )
            dp = (
                (part.a_kpa_per_lph * q * m + part.b_kpa_per_lph2 * q**2 * r)
                * point.clogging.get(element.id, 1.0)
                * 1000
            )
            net.add_curve(
                key + "c",
                "HEADLOSS",
                [(x * LPH * FLOW, y * to_head) for x, y in zip(q, dp, strict=True)],
            )
            net.add_valve(
                key, start, end, diameter=0.05, valve_type="GPV", initial_setting=key + "c"
            )
        elif part.law == "displacement":  # at one speed of the engine it is a pump like another
            swept = part.cc_per_turn * part.ratio * (point.engine_rpm or 0.0) * 60 / 1000
            rated = part.cc_per_turn * part.rated_rpm * 60 / 1000 if part.rated_rpm else swept
            kpa, leaks = (np.array(x) for x in zip(*part.efficiency, strict=True))
            flow = swept - rated * (1 - leaks)
            flow[-1] = min(flow[-1], 0.0)
            ends = np.interp(0.0, flow[::-1], kpa[::-1])  # where nothing comes any more
            keep = flow > 0
            rows = np.column_stack([np.append(flow[keep], 0.0), np.append(kpa[keep], ends)])[::-1]
            q = np.linspace(rows[0, 0], rows[-1, 0], CURVE_POINTS)
            rows = np.column_stack([q, PchipInterpolator(rows[:, 0], rows[:, 1])(q)])
            net.add_curve(
                key + "c", "HEAD", [(x * LPH * FLOW, y * 1000 * to_head) for x, y in rows]
            )
            net.add_pump(key, start, end, "HEAD", key + "c")
        elif part.law == "pump":
            if element.id in point.off:
                continue
            curve = next(
                c
                for c in part.curves
                if c.voltage_v == (point.voltage_at(element.id) or part.curves[-1].voltage_v)
            )
            rows = np.array(curve.rows)
            if part.interpolation == "pchip":
                q = np.linspace(rows[0, 0], rows[-1, 0], CURVE_POINTS)
                rows = np.column_stack([q, PchipInterpolator(rows[:, 0], rows[:, 1])(q)])
            weight = (
                rho / part.measured_with.density_kg_m3
                if part.kind == "turbine" and part.measured_with
                else 1.0
            )  # one head, whatever is lifted
            points = [(x * LPH * FLOW, y * weight * 1000 * to_head) for x, y in rows[:, :2]]
            net.add_curve(key + "c", "HEAD", points)
            net.add_pump(key, start, end, "HEAD", key + "c")
        elif part.law == "regulator":
            assert part.slope_kpa_per_lph == 0
            target = (
                part.set_kpa
                + {
                    "manifold": point.manifold_kpa,
                    "hat": max(point.manifold_kpa, 0.0),
                    "atmosphere": 0.0,
                }[part.reference]
            )
            setting = "PSV" if part.holds == "inlet" else "PRV"
            # EPANET wants a pipe between a valve and a reservoir, and between two valves.
            if end in net.reservoir_name_list:
                net.add_junction(key + "t", base_demand=0.0, elevation=z[element.ports["end"]])
                _pipe(net, key + "p", key + "t", end, SHORT, 0.05, 0.0, 0.0)
                end = key + "t"
            if element.kind == "relief":
                net.add_junction(key + "s", base_demand=0.0, elevation=z[element.ports["start"]])
                _pipe(net, key + "q", start, key + "s", SHORT, 0.05, 0.0, 0.0)
                start = key + "s"
            bore = part.wide_open_bore_mm / 1000 * LENGTH
            net.add_valve(
                key,
                start,
                end,
                bore,
                setting,
                part.wide_open_loss_coefficient * K_ROUNDED,
                target * 1000 * to_head,
            )
    return net, name


def _leg(key: str, kind: Any, a: str, b: str) -> str:
    """The name of one leg of an element, as our links are named."""
    every = {pair for links in kind.links.values() for pair in links}
    return key if len(every) == 1 else f"{key}.{a if sum(x[0] == a for x in every) == 1 else b}"


def _pipe(
    net: Any,
    key: str,
    start: str,
    end: str,
    length: float,
    bore: float,
    roughness: float,
    k: float,
    check: bool = False,
) -> None:
    net.add_pipe(
        key,
        start,
        end,
        length * LENGTH,
        bore * LENGTH,
        max(roughness * LENGTH, 1e-9),
        k * K_ROUNDED,
        check_valve=check,
    )


def run(build: Build, point: Point) -> tuple[dict[str, float], dict[str, float]]:
    """EPANET's gauge pressures [Pa] by our node and flows [m3/s] by our element (a merge's legs as
    ID.port), its mass balance checked.
    """
    net, name = build_network(build, point)
    rho, _ = point.fluid()
    with (
        tempfile.TemporaryDirectory() as folder,
        contextlib.chdir(folder),
    ):  # EPANET leaves files of its own where it runs
        result = wntr.sim.EpanetSimulator(net).run_sim(file_prefix=str(Path(folder) / "run"))
    head, flow = result.node["head"].iloc[0], result.link["flowrate"].iloc[0]
    z = {n.id: n.elevation_mm / 1000 * G / G_EPANET for n in build.circuit.nodes}
    pressures = {node: (float(head[key]) - z[node]) * rho * G_EPANET for node, key in name.items()}
    flows = {}
    for i, element in enumerate(build.circuit.elements):
        legs = [k for k in flow.index if k.startswith(f"e{i}.")]
        if legs:
            flows |= {f"{element.id}.{k.partition('.')[2]}": float(flow[k]) / FLOW for k in legs}
        elif element.kind in ("merge", "split"):
            flows |= {
                f"{element.id}.{port}": float(flow[f"e{i}{port}"]) / FLOW for port in ("a", "b")
            }
        elif f"e{i}" in flow.index:
            flows[element.id] = float(flow[f"e{i}"]) / FLOW
    sums = dict.fromkeys(net.node_name_list, 0.0)
    for key in net.junction_name_list:
        sums[key] -= net.get_node(key).base_demand
    for key, link in net.links():
        sums[link.start_node_name] -= float(flow[key])
        sums[link.end_node_name] += float(flow[key])
    off = max(abs(sums[n]) for n in net.junction_name_list)
    assert off < 2e-4 * max(abs(float(x)) for x in flow), f"EPANET's own balance is off by {off}"
    return pressures, flows
