"""Circuits for the reference tests, written out as files would be; regulators without slope and
checks without cracking, which EPANET lacks.
"""

from typing import Any

PUMP_ROWS = [[0, 900], [110, 760], [200, 590], [262, 430], [318, 260], [360, 120], [392, 0]]
LOW_ROWS = [[0, 610], [80, 520], [150, 400], [205, 270], [250, 140], [285, 0]]


def hose(
    name: str,
    a: str,
    b: str,
    bore: float,
    mm: float,
    k: float = 0.8,
    rough: float = 1.5,
    **more: Any,
) -> dict[str, Any]:
    part = {"law": "pipe", "bore_mm": bore, "roughness_um": rough, "loss_coefficient": k}
    return {
        "id": name,
        "kind": "hose",
        "ports": {"start": a, "end": b},
        "figures": part,
        "length": {"mm": mm},
        **more,
    }


def pump(name: str, a: str, b: str, rows: list[list[float]] = PUMP_ROWS) -> dict[str, Any]:
    part = {
        "law": "pump",
        "curves": [
            {"voltage_v": 13.5, "rows": rows},
            {"voltage_v": 14.5, "rows": [[q * 1.05, p * 1.1] for q, p in rows]},
        ],
    }
    if rows is PUMP_ROWS:
        part["curves"].insert(0, {"voltage_v": 10.5, "rows": LOW_ROWS})
    return {"id": name, "kind": "pump", "ports": {"start": a, "end": b}, "figures": part}


def check(name: str, a: str, b: str, bore: float = 8.6) -> dict[str, Any]:
    return {
        "id": name,
        "kind": "check",
        "ports": {"start": a, "end": b},
        "figures": {"law": "check", "bore_mm": bore, "loss_coefficient": 4.5},
    }


def strainer(name: str, a: str, b: str, at_400: float, kind: str = "filter") -> dict[str, Any]:
    part = {"law": "quadratic", "a_kpa_per_lph": at_400 / 800, "b_kpa_per_lph2": at_400 / 320000}
    return {"id": name, "kind": kind, "ports": {"start": a, "end": b}, "figures": part}


def regulator(
    name: str,
    a: str,
    b: str,
    bore: float = 7.0,
    set_kpa: float = 400,
    holds: str = "inlet",
    reference: str = "manifold",
) -> dict[str, Any]:
    part = {
        "law": "regulator",
        "holds": holds,
        "set_kpa": set_kpa,
        "wide_open_bore_mm": bore,
        "wide_open_loss_coefficient": 2.4,
        "reference": reference,
    }
    return {"id": name, "kind": "regulator", "ports": {"start": a, "end": b}, "figures": part}


def injectors(name: str, a: str, at: float = 400) -> dict[str, Any]:
    return {
        "id": name,
        "kind": "injectors",
        "ports": {"start": a},
        "figures": {"law": "injectors", "count": 6, "commanded_at_kpa": at},
    }


def tank(name: str, node: str, level: float = 200) -> dict[str, Any]:
    return {
        "id": name,
        "kind": "tank",
        "ports": {"outlet": node},
        "figures": {"law": "tank", "level_mm": level},
    }


def made(
    elements: list[dict[str, Any]], heights: dict[str, float], point: dict[str, Any]
) -> dict[str, Any]:
    """A build file with every node its elements name."""
    names = sorted({n for e in elements for n in e["ports"].values()})
    nodes = [{"id": n, "elevation_mm": heights.get(n, 0)} for n in names]
    usual = {"density_kg_m3": 745, "viscosity_mpa_s": 0.5, "voltage_v": 13.5}
    return {
        "name": "reference",
        "circuit": {"nodes": nodes, "elements": elements},
        "points": [usual | point],
    }


def return_system(
    pumps: int = 2,
    suction_mm: float = 450,
    suction_bore: float = 12.7,
    back_bore: float = 10.3,
    seat: float = 7.0,
    **point: Any,
) -> dict[str, Any]:
    """Tank, strainer, pumps with checks, filter, feed, rail, bypass regulator, return."""
    elements = [
        tank("S1", "s"),
        strainer("E1", "s", "e", 1.1, "strainer"),
        hose("H1", "e", "h", suction_bore, suction_mm, rough=10),
        *[
            part
            for i in range(pumps)
            for part in (pump(f"P{i}", "h", f"p{i}"), check(f"K{i}", f"p{i}", "y"))
        ],
        hose("H2", "y", "f", 12.7, 700),
        strainer("F2", "f", "g", 9.5),
        hose("H3", "g", "r", 12.7, 3900, k=2.0),
        {
            "id": "RL",
            "kind": "rail",
            "ports": {"start": "r", "end": "q"},
            "figures": {"law": "loss", "bore_mm": 14, "loss_coefficient": 1.6},
        },
        injectors("J1", "q"),
        regulator("PR", "q", "b", bore=seat),
        hose("H4", "b", "t", back_bore, 4300, k=3.0),
        {
            "id": "N1",
            "kind": "fitting",
            "ports": {"start": "t", "end": "s"},
            "figures": {"law": "loss", "bore_mm": 8.6, "loss_coefficient": 1.5},
        },
    ]
    heights = {"h": -50, "p0": -50, "p1": -50, "y": -50, "r": 350, "q": 350, "b": 350}
    return made(elements, heights, point)


CIRCUITS: dict[str, dict[str, Any]] = {
    "idle": return_system(demand_lph=12, manifold_kpa=-50),
    "peak": return_system(demand_lph=300, manifold_kpa=150),
    "low voltage, regulator shut": return_system(demand_lph=330, manifold_kpa=150, voltage_v=10.5),
    "undersized return, regulator wide open": return_system(
        back_bore=4.8, seat=3.2, demand_lph=12, manifold_kpa=-50
    ),
    "two pumps, one off": return_system(demand_lph=120, manifold_kpa=100, off=["P1"]),
    "long suction": return_system(
        suction_mm=6000, suction_bore=8.7, demand_lph=250, manifold_kpa=100
    ),
}


def _bridge() -> dict[str, Any]:
    elements = [
        tank("S1", "s"),
        pump("P0", "s", "a"),
        hose("H1", "a", "b", 9, 1200),
        hose("H2", "a", "c", 7, 1500),
        hose("H3", "b", "c", 6, 400),
        hose("H4", "b", "d", 6, 1600),
        hose("H5", "c", "d", 9, 900),
        injectors("J1", "d"),
        regulator("PR", "d", "e"),
        hose("H6", "e", "s", 10, 2500),
    ]
    return made(elements, {"d": 300}, {"demand_lph": 150})


def _two_tanks() -> dict[str, Any]:
    elements = [
        tank("S1", "s", 350),
        tank("S2", "w", 150),
        hose("H1", "s", "m", 9, 900),
        hose("H2", "w", "m", 9, 1400),
        pump("P0", "m", "p"),
        check("K0", "p", "y"),
        strainer("F2", "y", "g", 8),
        hose("H3", "g", "r", 10, 2600),
        injectors("J1", "r"),
        regulator("PR", "r", "b"),
        hose("H4", "b", "s", 9, 2500),
    ]
    return made(elements, {"r": 300, "m": -200}, {"demand_lph": 160})


def _shuffled() -> dict[str, Any]:
    """The peak circuit with its ids and its order turned about, and the feed hose drawn from the
    other end.
    """
    built = return_system(demand_lph=280, manifold_kpa=150)
    elements = built["circuit"]["elements"][::-1]
    for i, element in enumerate(elements):
        element["id"] = f"{'zyxwvutsrq'[i % 10]}{i}"
    return built | {"circuit": {"nodes": built["circuit"]["nodes"][::-1], "elements": elements}}


def _reversed_hose() -> dict[str, Any]:
    built = return_system(demand_lph=280, manifold_kpa=150)
    feed = next(e for e in built["circuit"]["elements"] if e["id"] == "H3")
    feed["ports"] = {"start": feed["ports"]["end"], "end": feed["ports"]["start"]}
    return built


ODD = {
    "bridge loop": _bridge(),
    "two tanks": _two_tanks(),
    "ids shuffled": _shuffled(),
    "one hose reversed": _reversed_hose(),
}


def _railed(between: list[dict[str, Any]], last: str, **point: Any) -> dict[str, Any]:
    """Tank, pump, filter, feed to `r`, what lies between `r` and `last`, regulator at `last`,
    return.
    """
    elements = [
        tank("S1", "s"),
        pump("P0", "s", "p"),
        check("K0", "p", "y"),
        strainer("F2", "y", "g", 9.5),
        hose("H3", "g", "r", 12.7, 3200, k=1.5),
        *between,
        regulator("PR", last, "b"),
        hose("H4", "b", "s", 10.3, 3600, k=2.5),
    ]
    return made(
        elements, {"r": 300, last: 300, "b": 300}, {"demand_lph": 180, "manifold_kpa": 60} | point
    )


def _rail(name: str, a: str, b: str) -> dict[str, Any]:
    return {
        "id": name,
        "kind": "rail",
        "ports": {"start": a, "end": b},
        "figures": {"law": "loss", "bore_mm": 12, "loss_coefficient": 2.0},
    }


def _parallel(left_mm: float, right_mm: float) -> dict[str, Any]:
    """Two rails from one Y to another."""
    between = [
        hose("HL", "r", "l1", 8.7, left_mm),
        _rail("RL1", "l1", "l2"),
        injectors("J1", "l2"),
        hose("HM", "l2", "q", 8.7, left_mm),
        hose("HR", "r", "r1", 8.7, right_mm),
        _rail("RL2", "r1", "r2"),
        injectors("J2", "r2"),
        hose("HN", "r2", "q", 8.7, right_mm),
    ]
    return _railed(between, "q")


def _dead_head() -> dict[str, Any]:
    """A regulator that holds its outlet, and a carburettor's few psi behind it."""
    elements = [
        tank("S1", "s"),
        pump("P0", "s", "p"),
        strainer("F2", "p", "g", 4.0),
        hose("H3", "g", "r", 8.7, 3000),
        regulator("PR", "r", "q", bore=4.0, set_kpa=45, holds="outlet", reference="atmosphere"),
        hose("H4", "q", "c", 7.9, 400),
        injectors("J1", "c", at=40),
    ]
    return made(elements, {"r": 400, "q": 400, "c": 400}, {"demand_lph": 90})


def _lift_and_pot() -> dict[str, Any]:
    """A lift pump fills a pot, which overflows to the tank; the main pump draws from the pot."""
    elements = [
        tank("S1", "s", 300),
        pump("P9", "s", "l", [[0, 70], [60, 62], [140, 44], [210, 20], [250, 0]]),
        hose("H9", "l", "pot", 7.9, 1800),
        tank("S2", "pot", 180),
        pump("P0", "pot", "p"),
        hose("H3", "p", "r", 12.7, 3800, k=2.0),
        injectors("J1", "r"),
        regulator("PR", "r", "b"),
        hose("H4", "b", "pot", 10.3, 3600, k=2.5),
    ]
    return made(
        elements, {"pot": 150, "r": 450, "b": 450}, {"demand_lph": 210, "manifold_kpa": 100}
    )


METHANOL = {
    "fuel": "methanol",
    "temperature_c": 30,
    "voltage_v": 13.5,
    "demand_lph": 340,
    "manifold_kpa": 120,
}
MORE: dict[str, dict[str, Any]] = {
    "rails equal": _parallel(500, 500),
    "rails unequal": _parallel(300, 1600),
    "rails in series": _railed(
        [
            _rail("RL1", "r", "m"),
            injectors("J1", "m"),
            hose("HX", "m", "n", 7.9, 700),
            _rail("RL2", "n", "q"),
            injectors("J2", "q"),
        ],
        "q",
    ),
    "dead-end rail": _railed(
        [
            _rail("RL1", "r", "q"),
            injectors("J1", "q"),
            hose("HX", "q", "n", 6.3, 900),
            _rail("RL2", "n", "z"),
            injectors("J2", "z"),
        ],
        "q",
    ),
    "dead-head regulator": _dead_head(),
    "lift pump and pot": _lift_and_pot(),
    "methanol": return_system(demand_lph=340) | {"points": [METHANOL]},
    "laminar return": return_system(back_bore=15.9, demand_lph=378, manifold_kpa=150),
}
