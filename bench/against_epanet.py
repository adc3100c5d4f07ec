"""Beside EPANET's own library: a point with every pressure and flow read, and two hundred points."""

import contextlib
import ctypes
import gc
import statistics
import tempfile
from random import Random
from typing import Any

import epanet  # the tests' own reference
from rows import Table, wall

from tall_heron.core.document.build import Brief, Build, validate
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.editing.topology import insert, split
from tall_heron.core.hydraulics.network import compile_circuit
from tall_heron.core.hydraulics.solve import solve_network
from tall_heron.core.hydraulics.sweep import solve_many
from tall_heron.core.study.cases.cases import make_cases
from tall_heron.core.study.demand import fuel_demand

POINTS = 200


def as_epanet_can(build: Build) -> dict[str, Any]:
    """A build's document without regulator slope and check cracking, which EPANET lacks."""
    data = build.model_dump(mode="json", exclude_none=True)
    for element in data["circuit"]["elements"]:
        element["figures"] |= {
            "check": {"cracking_kpa": 0.0},
            "regulator": {"slope_kpa_per_lph": 0.0},
        }.get(element["figures"]["law"], {})
    return data


def bittern(rnd: Random) -> Build:
    """Bittern at a varied peak, without regulator slope and check cracking, which EPANET lacks; its
    brief's demand written out.
    """
    build = demo_builds()["bittern"]
    assert build.brief is not None
    brief = build.brief.model_copy(
        update={"power_kw": build.brief.power_kw * rnd.uniform(0.8, 1.1)}
    )
    case = make_cases(brief, fuel_demand(brief))[0]
    data = as_epanet_can(build)
    point = case.point.model_dump(mode="json", exclude_none=True)
    data["points"] = [
        point
        | {
            "demand_lph": case.demand * 3.6e6,
            "manifold_kpa": brief.boost_kpa * rnd.uniform(0.9, 1.1),
        }
    ]
    return validate(data)


def twin(rnd: Random) -> Build:
    """A seaplane of more than fifty elements: the layout with a header and a pump for each wing, on
    two engines' worth of rails, lines split and filters doubled, without regulator slope, check
    cracking and relief, which EPANET lacks.
    """
    layout = LAYOUTS["A3"]
    brief = Brief(
        power_kw=rnd.uniform(200, 260),
        fuel="100LL",
        base_kpa=300,
        use="flight",
        voltage_v=14,
        peak_rpm=2700,
        cylinders=6,
    )
    build = Build(
        name="twin",
        brief=brief,
        circuit=layout.build(
            brief, layout.picks(rails="single", pumps=("sallow-255", "sallow-255"))
        ),
    )
    for name in ("H1", "H15", "H2", "H3", "H4", "H16", "H17"):
        build, half = split(build, name)
        build, _ = split(build, half)
    for at, part in (
        ("H3", "reedbed-damper-8"),
        ("F2", "reedmace-40s"),
        ("H4", "dragonfly-ethanol-8"),
        ("RL", "elbow-90-8"),
        ("F1", "elbow-90-8"),
    ):
        build, _ = insert(build, at, part)
    while len(build.circuit.elements) < 54:
        build, _ = insert(build, "H3", "elbow-90-8")
    data = as_epanet_can(build)
    case = make_cases(brief, fuel_demand(brief))[0]
    point = case.point.model_dump(mode="json", exclude_none=True)
    data["points"] = [point | {"demand_lph": case.demand * 3.6e6, "voltage_v": 13.5}]
    return validate(data)


class InProcess:
    """EPANET's own library on one network, called without a Python layer between. `cold`: open
    hydraulics, initialise, solve, read every head and flow; `warm`: one demand changed, solve,
    read.
    """

    def __init__(self, build: Build) -> None:
        import wntr.epanet.toolkit as toolkit
        from wntr.network.io import write_inpfile

        net, _ = epanet.build_network(build, build.points[0])
        self.folder = tempfile.TemporaryDirectory()
        with contextlib.chdir(self.folder.name):  # EPANET leaves files of its own where it runs
            write_inpfile(net, "a.inp", units="LPS")
            self.opened = toolkit.ENepanet()
            self.opened.ENopen("a.inp", "a.rpt", "a.bin")
        self.lib, self.project = self.opened.ENlib, self.opened._project
        self.nodes, self.links = self.opened.ENgetcount(0), self.opened.ENgetcount(2)
        self.value, self.time, self.turn = ctypes.c_double(), ctypes.c_long(), 0

    def _read(self) -> None:
        for i in range(1, self.nodes + 1):
            self.lib.EN_getnodevalue(self.project, i, 10, ctypes.byref(self.value))
        for i in range(1, self.links + 1):
            self.lib.EN_getlinkvalue(self.project, i, 8, ctypes.byref(self.value))

    def cold(self) -> None:
        self.lib.EN_openH(self.project)
        self.lib.EN_initH(self.project, 10)
        self.lib.EN_runH(self.project, ctypes.byref(self.time))
        self._read()
        self.lib.EN_closeH(self.project)

    def warm(self) -> None:
        self.turn += 1
        self.lib.EN_setnodevalue(
            self.project, 1, 1, ctypes.c_double(0.1 + 0.001 * (self.turn % 50))
        )
        self.lib.EN_initH(self.project, 0)
        self.lib.EN_runH(self.project, ctypes.byref(self.time))
        self._read()

    def warm_runs(self, number: int) -> None:
        self.lib.EN_openH(self.project)
        self.lib.EN_initH(self.project, 10)
        for _ in range(number):
            self.warm()
        self.lib.EN_closeH(self.project)


def against_the_library(table: Table) -> None:
    """A point and two hundred of them, ours and EPANET's in turn, of 20 and of 54 elements."""
    rnd = Random(5)
    beside(table, "20 elements", bittern(rnd), 1.2, 0.8, rnd)
    beside(table, "54 elements", twin(rnd), 0.8, 0.33, rnd)


def beside(table: Table, name: str, build: Build, bar: float, many_bar: float, rnd: Random) -> None:
    """One circuit, ours and EPANET's in turn."""
    reference, compiled, point = InProcess(build), compile_circuit(build.circuit), build.points[0]
    changed = [
        point.model_copy(
            update={"demand_lph": rnd.uniform(20, 90), "manifold_kpa": rnd.uniform(-50, 100)}
        )
        for _ in range(POINTS)
    ]
    for p in changed[:30]:
        solve_network(compiled.at(p))  # a shape that is asked for often is written out
    gc.collect()
    gc.freeze()  # the reference library's objects are not ours to collect
    times: dict[str, list[float]] = {k: [] for k in ("cold", "read", "warm", "many")}
    for p in changed[30:90]:
        times["cold"].append(wall(reference.cold))
        times["read"].append(wall(lambda p=p: solve_network(compiled.at(p)).links))  # type: ignore[misc]
    for _ in range(9):
        times["warm"].append(wall(lambda: reference.warm_runs(POINTS)))
        times["many"].append(wall(lambda: solve_many(compiled, changed)))
    m = {k: statistics.median(v) for k, v in times.items()}
    table.add(f"a point of {name}, all of it read, over EPANET cold", m["read"] / m["cold"], bar)
    table.add(f"{POINTS} points of {name} over EPANET warm", m["many"] / m["warm"], many_bar)
