"""Made-up circuits for the property tests: from usual layouts to graphs nobody lays out."""

from random import Random
from typing import Any


def _logarithmic(rnd: Random, low: float, high: float) -> float:
    return low * (high / low) ** rnd.random()


def hose(rnd: Random, name: str, a: str, b: str) -> dict[str, Any]:
    return {
        "id": name,
        "kind": "hose",
        "ports": {"start": a, "end": b},
        "figures": {
            "law": "pipe",
            "bore_mm": _logarithmic(rnd, 3, 20),
            "roughness_um": rnd.choice([0, 1.5, 10, 30]),
            "loss_coefficient": rnd.choice([0, 0.8, 3]),
        },
        "length": {"mm": _logarithmic(rnd, 50, 8000)},
        "reversed": rnd.random() < 0.2,
    }


def strainer(rnd: Random, name: str, a: str, b: str, kind: str = "filter") -> dict[str, Any]:
    part: dict[str, Any] = {
        "law": "quadratic",
        "a_kpa_per_lph": _logarithmic(rnd, 1e-4, 3e-2),
        "b_kpa_per_lph2": rnd.choice([0, _logarithmic(rnd, 1e-7, 1e-4)]),
    }
    if rnd.random() < 0.3:
        part["measured_with"] = {"density_kg_m3": 745, "viscosity_mpa_s": 0.5}
    return {"id": name, "kind": kind, "ports": {"start": a, "end": b}, "figures": part}


def pump(rnd: Random, name: str, a: str, b: str) -> dict[str, Any]:
    curves = []
    top, free = _logarithmic(rnd, 40, 1500), _logarithmic(rnd, 60, 900)
    steep = rnd.uniform(0.6, 2.5)
    points = rnd.randint(2, 8)
    for k, volts in enumerate((12.0, 13.5)[: rnd.randint(1, 2)]):
        rows = [[free * (1 + 0.1 * k) * i / points, top * (1 + 0.2 * k) * (1 - (i / points) ** steep)] for i in range(points + 1)]
        curves.append({"voltage_v": volts, "rows": rows})
    part: dict[str, Any] = {"law": "pump", "kind": rnd.choice(["turbine", "roller", "gerotor"]), "curves": curves}
    part["interpolation"] = rnd.choice(["pchip", "linear"])
    if rnd.random() < 0.2:
        part["relief_kpa"] = top * rnd.uniform(0.5, 1.2)
    return {"id": name, "kind": "pump", "ports": {"start": a, "end": b}, "figures": part}


def check(rnd: Random, name: str, a: str, b: str) -> dict[str, Any]:
    return {
        "id": name,
        "kind": "check",
        "ports": {"start": a, "end": b},
        "figures": {
            "law": "check",
            "cracking_kpa": rnd.choice([0, 2, 7]),
            "bore_mm": rnd.uniform(4, 14),
            "loss_coefficient": rnd.uniform(1, 6),
        },
        "reversed": rnd.random() < 0.03,
    }


def regulator(rnd: Random, name: str, a: str, b: str, holds: str) -> dict[str, Any]:
    part = {
        "law": "regulator",
        "holds": holds,
        "set_kpa": _logarithmic(rnd, 20, 600),
        "slope_kpa_per_lph": rnd.choice([0, 0.01, 0.05]),
        "wide_open_bore_mm": rnd.uniform(2, 8),
        "wide_open_loss_coefficient": rnd.uniform(1, 4),
        "reference": rnd.choice(["atmosphere", "manifold"]),
    }
    return {"id": name, "kind": "regulator", "ports": {"start": a, "end": b}, "figures": part}


def injectors(rnd: Random, name: str, a: str) -> dict[str, Any]:
    part: dict[str, Any] = {"law": "injectors", "count": rnd.choice([4, 6, 8]), "commanded_at_kpa": _logarithmic(rnd, 30, 500)}
    if rnd.random() < 0.5:
        part |= {"rated_lph": _logarithmic(rnd, 5, 90), "mode": rnd.choice(["pulse", "compensated"])}
    return {"id": name, "kind": "injectors", "ports": {"start": a}, "figures": part}


def tank(rnd: Random, name: str, node: str) -> dict[str, Any]:
    return {"id": name, "kind": "tank", "ports": {"outlet": node}, "figures": {"law": "tank", "level_mm": rnd.choice([0, 120, 400])}}


def plain(rnd: Random, name: str, a: str, b: str) -> dict[str, Any]:
    pick = rnd.random()
    if pick < 0.55:
        return hose(rnd, name, a, b)
    if pick < 0.8:
        return strainer(rnd, name, a, b)
    part = {"law": "loss", "bore_mm": rnd.uniform(3, 16), "loss_coefficient": rnd.uniform(0.2, 12)}
    return {"id": name, "kind": "fitting", "ports": {"start": a, "end": b}, "figures": part}


def circuit(rnd: Random) -> dict[str, Any]:
    """One build file: a backbone from tank to rail with a return, then loops, second tanks, opposed checks and closed valves over it."""
    parts: list[dict[str, Any]] = []
    names: list[str] = []

    def node() -> str:
        names.append(f"n{len(names)}")
        return names[-1]

    here = node()
    parts.append(tank(rnd, "S1", here))
    sump = here
    for i in range(rnd.randint(0, 3)):
        there = node()
        parts.append(plain(rnd, f"A{i}", here, there))
        here = there
    delivery = node()
    pumps = rnd.choice([0, 1, 1, 2, 2, 3])
    for i in range(pumps):
        if rnd.random() < 0.6:
            middle = node()
            parts += [pump(rnd, f"P{i}", here, middle), check(rnd, f"K{i}", middle, delivery)]
        else:
            parts.append(pump(rnd, f"P{i}", here, delivery))
    if not pumps:
        parts.append(plain(rnd, "A9", here, delivery))
    here = delivery
    for i in range(rnd.randint(1, 5)):
        there = node()
        parts.append(plain(rnd, f"B{i}", here, there))
        here = there
    ends = rnd.choice(["return", "return", "dead-head", "none"])
    if ends == "dead-head":
        there = node()
        parts.append(regulator(rnd, "PR", here, there, "outlet"))
        here = there
    parts.append(injectors(rnd, "J1", here))
    if ends == "return":
        back = node()
        parts.append(regulator(rnd, "PR", here, back, "inlet"))
        for i in range(rnd.randint(1, 3)):
            there = sump if i == 2 else node()
            parts.append(plain(rnd, f"R{i}", back, there))
            back = there
        if back != sump:
            parts.append(hose(rnd, "R9", back, sump))
    for i in range(rnd.choice([0, 0, 0, 1, 2])):
        a, b = rnd.sample(names, 2)
        parts.append(plain(rnd, f"X{i}", a, b))
    if rnd.random() < 0.15:
        there = node()
        parts += [tank(rnd, "S2", there), hose(rnd, "X8", there, rnd.choice(names[:-1]))]
    if rnd.random() < 0.15:
        a, b = rnd.sample(names, 2)
        part = {"law": "loss", "bore_mm": 8, "loss_coefficient": 1}
        parts.append({"id": "V1", "kind": "valve", "ports": {"start": a, "end": b}, "figures": part})
    if rnd.random() < 0.1:
        there = node()
        parts += [hose(rnd, "X7", rnd.choice(names[:-1]), there), injectors(rnd, "J2", there)]
    point: dict[str, Any] = {
        "fuel": rnd.choice(["E0", "E10", "E70", "E85", "methanol", "100LL"]),
        "temperature_c": rnd.uniform(-20, 60),
        "manifold_kpa": rnd.choice([0, 0, 150, -60]),
        "demand_lph": rnd.choice([0, _logarithmic(rnd, 1, 600)]),
        "voltage_v": rnd.choice([12.0, 13.5, 9.0, 13.0]),
    }
    off = [p["id"] for p in parts if p["kind"] == "pump" and rnd.random() < 0.12]
    if off:
        point["off"] = off
    if any(p["id"] == "V1" for p in parts):
        point["position"] = {"V1": rnd.choice(["open", "shut"])}
    if rnd.random() < 0.3:
        point["clogging"] = {p["id"]: 4.0 for p in parts if p["kind"] == "filter"}
    rnd.shuffle(parts)
    nodes = [{"id": n, "elevation_mm": rnd.choice([0, 0, rnd.uniform(-600, 900)])} for n in names]
    return {"name": "made up", "circuit": {"nodes": nodes, "elements": parts}, "points": [point]}
