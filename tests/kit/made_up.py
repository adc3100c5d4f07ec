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
        rows = [
            [free * (1 + 0.1 * k) * i / points, top * (1 + 0.2 * k) * (1 - (i / points) ** steep)]
            for i in range(points + 1)
        ]
        curves.append({"voltage_v": volts, "rows": rows})
    part: dict[str, Any] = {
        "law": "pump",
        "kind": rnd.choice(["turbine", "roller", "gerotor"]),
        "curves": curves,
    }
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
    part: dict[str, Any] = {
        "law": "injectors",
        "count": rnd.choice([4, 6, 8]),
        "commanded_at_kpa": _logarithmic(rnd, 30, 500),
    }
    if rnd.random() < 0.5:
        part |= {
            "rated_lph": _logarithmic(rnd, 5, 90),
            "mode": rnd.choice(["pulse", "compensated"]),
        }
    return {"id": name, "kind": "injectors", "ports": {"start": a}, "figures": part}


def tank(rnd: Random, name: str, node: str) -> dict[str, Any]:
    return {
        "id": name,
        "kind": "tank",
        "ports": {"outlet": node},
        "figures": {"law": "tank", "level_mm": rnd.choice([0, 120, 400])},
    }


def knee(rnd: Random, name: str, a: str, b: str) -> dict[str, Any]:
    """A pump whose map turns sharply, as an in-tank module's: a relief, or a straight map with a
    knee.
    """
    top, free = _logarithmic(rnd, 200, 900), _logarithmic(rnd, 60, 500)
    at = rnd.uniform(0.3, 0.9)
    rows = [[0, top], [at * free, top * rnd.uniform(0.9, 0.995)], [free, 0]]
    part = {
        "law": "pump",
        "kind": "turbine",
        "interpolation": rnd.choice(["linear", "pchip"]),
        "curves": [{"voltage_v": 13.5, "rows": rows}],
    }
    if rnd.random() < 0.5:
        part["relief_kpa"] = top * rnd.uniform(0.4, 0.95)
    return {"id": name, "kind": "pump", "ports": {"start": a, "end": b}, "figures": part}


def fitting(rnd: Random, name: str, a: str, b: str) -> dict[str, Any]:
    """A fitting, perhaps without any loss; a filter whose loss is a K."""
    kind = rnd.choice(["fitting", "fitting", "filter", "valve"])
    part = {
        "law": "loss",
        "bore_mm": rnd.uniform(3, 16),
        "loss_coefficient": rnd.choice([0, 0, rnd.uniform(0.2, 12)]),
    }
    return {"id": name, "kind": kind, "ports": {"start": a, "end": b}, "figures": part}


def odd(rnd: Random) -> dict[str, Any]:
    """A build file of what few lay out: pumps with knees in nested Ys, each branch unlike the
    others, K = 0, clogged filters, a regulator right behind a pump, a jet pump in the
    return or beside it.
    """
    parts: list[dict[str, Any]] = []
    count = [0]

    def node() -> str:
        count[0] += 1
        return f"n{count[0] - 1}"

    def name(tag: str) -> str:
        return f"{tag}{len(parts)}"

    def way(a: str, b: str) -> None:
        """Some parts in a row."""
        here = a
        for _ in range(rnd.choice([0, 0, 1, 2])):
            there = node()
            parts.append(
                rnd.choice([hose, fitting, fitting, strainer])(rnd, name("A"), here, there)
            )
            here = there
        parts.append(rnd.choice([hose, fitting])(rnd, name("A"), here, b))

    def pumped(a: str, b: str, deep: int) -> None:
        """From a to b by one pump, two in a row, or two such side by side through a Y."""
        pick = rnd.random()
        if deep and pick < 0.5:
            left, right = node(), node()
            pumped(a, left, deep - 1)
            pumped(a, right, deep - 1)
            part = {
                "law": "loss",
                "bore_mm": rnd.uniform(6, 16),
                "loss_coefficient": rnd.choice([0, 0.9]),
            }
            parts.append(
                {
                    "id": name("Y"),
                    "kind": "merge",
                    "ports": {"a": left, "b": right, "end": b},
                    "figures": part,
                }
            )
            return
        start = node()
        way(a, start)
        made = node()
        parts.append(rnd.choice([pump, knee, knee])(rnd, name("P"), start, made))
        if pick > 0.85:
            again = node()
            parts.append(pump(rnd, name("P"), made, again))
            made = again
        if rnd.random() < 0.7:
            checked = node()
            parts.append(check(rnd, name("K"), made, checked))
            made = checked
        way(made, b)

    sump, made = node(), node()
    parts.append(tank(rnd, "S1", sump))
    pumped(sump, made, rnd.choice([0, 1, 2]))
    rail = made
    if rnd.random() < 0.7:
        rail = node()
        way(made, rail)
    parts.append(injectors(rnd, "J1", rail))
    back = node()
    parts.append(regulator(rnd, "PR", rail if rnd.random() < 0.7 else made, back, "inlet"))
    if rnd.random() < 0.6:
        far, drawn, out = node(), node(), node()
        throat = rnd.uniform(4, 14)
        figures = {"law": "jet", "nozzle_mm": throat * rnd.uniform(0.25, 0.6), "throat_mm": throat}
        parts.append(
            {
                "id": "P99",
                "kind": "jet",
                "ports": {"motive": back, "suction": drawn, "end": out},
                "figures": figures,
            }
        )
        parts += [tank(rnd, "S2", far), hose(rnd, "A98", far, drawn), hose(rnd, "A99", out, sump)]
    else:
        way(back, sump)
    point: dict[str, Any] = {
        "fuel": rnd.choice(["E0", "E85"]),
        "demand_lph": rnd.choice([0, _logarithmic(rnd, 1, 300)]),
        "voltage_v": 13.5,
    }
    if rnd.random() < 0.5:
        point["clogging"] = {
            p["id"]: rnd.choice([1.0, 5.0, 50.0]) for p in parts if p["kind"] == "filter"
        }
    off = [p["id"] for p in parts if p["kind"] == "pump" and rnd.random() < 0.1]
    point |= {"off": off} if off else {}
    rnd.shuffle(parts)
    nodes = [
        {"id": f"n{i}", "elevation_mm": rnd.choice([0, 0, rnd.uniform(-300, 600)])}
        for i in range(count[0])
    ]
    return {"name": "odd", "circuit": {"nodes": nodes, "elements": parts}, "points": [point]}


def plain(rnd: Random, name: str, a: str, b: str) -> dict[str, Any]:
    pick = rnd.random()
    if pick < 0.55:
        return hose(rnd, name, a, b)
    if pick < 0.8:
        return strainer(rnd, name, a, b)
    part = {"law": "loss", "bore_mm": rnd.uniform(3, 16), "loss_coefficient": rnd.uniform(0.2, 12)}
    return {"id": name, "kind": "fitting", "ports": {"start": a, "end": b}, "figures": part}


def circuit(rnd: Random) -> dict[str, Any]:
    """One build file: a backbone from tank to rail with a return, then loops, second tanks, opposed
    checks and closed valves over it.
    """
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
        parts.append(
            {"id": "V1", "kind": "valve", "ports": {"start": a, "end": b}, "figures": part}
        )
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
