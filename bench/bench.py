"""Speed as ratios in one run; absolute times are printed and never asserted. Inputs vary from run
to run, so nothing is answered from a cache.
"""

import contextlib
import ctypes
import gc
import json
import os
import re
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.parse
import urllib.request
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from random import Random
from typing import Any

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests/kit"))

import epanet  # noqa: E402  the tests' own reference
import numpy as np  # noqa: E402
from first_lines import LINES  # noqa: E402
from running import start, stop  # noqa: E402

from tall_heron.core.design import design  # noqa: E402
from tall_heron.core.document.build import Brief, Build, dump, load, validate  # noqa: E402
from tall_heron.core.document.tank_inside import Baffle, Inside  # noqa: E402
from tall_heron.core.editing.demo import demo_builds  # noqa: E402
from tall_heron.core.editing.fields import fit  # noqa: E402
from tall_heron.core.editing.layouts import LAYOUTS  # noqa: E402
from tall_heron.core.editing.topology import insert, split  # noqa: E402
from tall_heron.core.editing.wiring import set_branch  # noqa: E402
from tall_heron.core.hydraulics.network import compile_circuit, compile_network  # noqa: E402
from tall_heron.core.hydraulics.solve import solve_network  # noqa: E402
from tall_heron.core.hydraulics.sweep import solve_many, sweep  # noqa: E402
from tall_heron.core.hydraulics.vessel import make_tank  # noqa: E402
from tall_heron.core.line.reading import read_line  # noqa: E402
from tall_heron.core.prove.car import drive_text  # noqa: E402
from tall_heron.core.prove.faults import Fault  # noqa: E402
from tall_heron.core.routing.laid import lay_out  # noqa: E402
from tall_heron.core.routing.suggest import suggestions  # noqa: E402
from tall_heron.core.shelf.shelf import swaps_for  # noqa: E402
from tall_heron.core.sizing.auto_size import Proposal  # noqa: E402
from tall_heron.core.sizing.chooser import candidates, wanted  # noqa: E402
from tall_heron.core.sizing.first_build import first_brief, first_build  # noqa: E402
from tall_heron.core.sizing.limits import make_limits  # noqa: E402
from tall_heron.core.sizing.pump_count import size_any  # noqa: E402
from tall_heron.core.study.cases.cases import make_cases  # noqa: E402
from tall_heron.core.study.cases.requirements import make_matrix  # noqa: E402
from tall_heron.core.study.demand import fuel_demand  # noqa: E402
from tall_heron.core.study.failures.failure_walk import walk  # noqa: E402
from tall_heron.core.study.slosh.drive_file import shipped  # noqa: E402
from tall_heron.core.study.slosh.drive_flows import run_flows, run_tanks  # noqa: E402
from tall_heron.core.study.slosh.slosh_run import FILLS, slosh  # noqa: E402
from tall_heron.core.study.study import make_study  # noqa: E402
from tall_heron.store import builds, db  # noqa: E402
from tall_heron.web.drawing.route.scene import draw_views  # noqa: E402

POINTS, RUNS = 200, 40


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


def timed(action: Callable[[], Any]) -> float:
    begin = time.perf_counter()
    action()
    return (time.perf_counter() - begin) * 1000


def solver() -> None:
    gc.collect()
    gc.freeze()  # the reference library's objects are not ours to collect
    epanet.CURVE_POINTS, epanet.FILTER_POINTS = 40, 40
    rnd = Random(1)
    reference, whole, alone, filled = [], [], [], []
    for _ in range(RUNS):
        build = bittern(rnd)
        text, point = dump(build), build.points[0]
        system = compile_circuit(build.circuit)
        reference.append(timed(lambda b=build, p=point: epanet.run(b, p)))  # type: ignore[misc]
        whole.append(
            timed(
                lambda t=text: [  # type: ignore[misc]
                    solve_network(compile_network(b.circuit, b.points[0])) for b in [load(t)]
                ]
            )
        )
        filled.append(timed(lambda s=system, p=point: solve_network(s.at(p))))  # type: ignore[misc]
        net = compile_circuit(build.circuit).at(point)
        alone.append(timed(lambda n=net: solve_network(n)))  # type: ignore[misc]
    one = statistics.median(reference)
    print(f"EPANET through wntr, one point of Bittern   {one:8.2f} ms (median of {RUNS})")
    for name, times in (
        ("JSON in to solution", whole),
        ("another point of a compiled circuit", filled),
        ("solve alone", alone),
    ):
        print(
            f"  {name:<40}  {statistics.median(times):8.3f} ms   {one / statistics.median(times):7.0f} times faster"
        )
    build = bittern(rnd)
    batches = []
    for _ in range(7):
        points = [
            build.points[0].model_copy(
                update={
                    "demand_lph": rnd.uniform(50, 330),
                    "voltage_v": rnd.uniform(12, 13.5),
                    "manifold_kpa": rnd.uniform(-50, 150),
                }
            )
            for _ in range(POINTS)
        ]
        batches.append(timed(lambda p=points: sweep(build.circuit, p)))  # type: ignore[misc]
        solved_alone = sweep(build.circuit, points).alone
    batch = statistics.median(batches)
    print(
        f"{POINTS} points of Bittern in one batch            {batch:8.2f} ms   {POINTS * one / batch:7.0f} times faster than {POINTS} such runs"
    )
    print(f"  of which solved singly                      {solved_alone}")
    whole_design = statistics.median(
        [timed(lambda: design(demo_builds()["bittern"])) for _ in range(20)]
    )
    print(f"whole design of Bittern, three cases        {whole_design:8.2f} ms")
    for name, build in demo_builds().items():
        study = make_study(build)
        ladder = statistics.median(
            [timed(lambda s=study: make_limits(replace(s, answers={}))) for _ in range(20)]  # type: ignore[misc]
        )
        hose = next(
            e for e in build.circuit.elements if e.kind in ("hose", "line") and e.role == "feed"
        )
        other = swaps_for(hose)[0].name
        trial = statistics.median(
            [timed(lambda b=build, h=hose.id, o=other: design(fit(b, h, o))) for _ in range(20)]  # type: ignore[misc]
        )
        print(
            f"ladder of {name:<12}{ladder:8.2f} ms; a swap tried, findings with it {trial:8.2f} ms"
        )


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


def aircraft() -> None:
    """The 50-element aircraft circuit against EPANET through wntr, and a sweep of it."""
    rnd = Random(2)
    through, ours, batches = [], [], []
    for _ in range(10):
        build = twin(rnd)
        point, system = build.points[0], compile_circuit(build.circuit)
        through.append(timed(lambda b=build, p=point: epanet.run(b, p)))  # type: ignore[misc]
        ours.append(timed(lambda s=system, p=point: solve_network(s.at(p))))  # type: ignore[misc]
        points = [
            point.model_copy(
                update={"demand_lph": rnd.uniform(10, 90), "manifold_kpa": rnd.uniform(-50, 0)}
            )
            for _ in range(POINTS)
        ]
        batches.append(timed(lambda c=build.circuit, p=points: sweep(c, p)))  # type: ignore[misc]
    median = {
        k: statistics.median(v) for k, v in (("wntr", through), ("ours", ours), ("batch", batches))
    }
    print(
        f"aircraft of {len(build.circuit.elements)} elements: EPANET through wntr {median['wntr']:8.2f} ms a point"
    )
    print(
        f"  another point of the compiled circuit         {median['ours']:8.3f} ms   {median['wntr'] / median['ours']:7.0f} times faster than wntr"
    )
    print(
        f"  {POINTS} points in one batch                      {median['batch']:8.2f} ms   {POINTS * median['ours'] / median['batch']:7.0f} times faster than {POINTS} of ours singly,"
        f" {POINTS * median['wntr'] / median['batch']:7.0f} times than wntr"
    )


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


def against_the_library() -> None:
    """A point and 200 points beside EPANET's library."""
    rnd = Random(5)
    beside("20 elements", bittern(rnd), 1.5, 1.0, rnd)
    beside("54 elements", twin(rnd), 1.2, 0.5, rnd)


def beside(name: str, build: Build, bar: float, many_bar: float, rnd: Random) -> None:
    """One circuit, ours and EPANET's in turn."""
    reference, compiled, point = InProcess(build), compile_circuit(build.circuit), build.points[0]
    changed = [
        point.model_copy(
            update={"demand_lph": rnd.uniform(20, 90), "manifold_kpa": rnd.uniform(-50, 100)}
        )
        for _ in range(POINTS)
    ]
    moved = [p.model_copy(update={"voltage_v": rnd.uniform(12, 13.5)}) for p in changed]
    for p in changed[:30]:
        solve_network(compiled.at(p))  # a shape that is asked for often is written out
    gc.collect()
    gc.freeze()  # the reference library's objects are not ours to collect
    rows: dict[str, list[float]] = {
        k: [] for k in ("cold", "point", "read", "warm", "many", "voltages")
    }
    for p in changed[30:90]:
        rows["cold"].append(timed(reference.cold))
        rows["point"].append(timed(lambda p=p: solve_network(compiled.at(p))))  # type: ignore[misc]
        rows["read"].append(timed(lambda p=p: solve_network(compiled.at(p)).links))  # type: ignore[misc]
    for _ in range(9):
        rows["warm"].append(timed(lambda: reference.warm_runs(POINTS)))
        rows["many"].append(timed(lambda: solve_many(compiled, changed)))
        rows["voltages"].append(timed(lambda: solve_many(compiled, moved)))
    m = {k: statistics.median(v) for k, v in rows.items()}
    cold, warm = m["cold"], m["warm"]
    print(
        f"{name}: EPANET's library cold {1000 * cold:.0f} us; a point of ours {1000 * m['point']:.0f} us, {m['point'] / cold:.2f} of it (bar {bar});"
    )
    print(
        f"  with every pressure, flow, state and current read {1000 * m['read']:.0f} us, {m['read'] / cold:.2f}"
    )
    print(
        f"  {POINTS} warm runs {warm:.1f} ms; {POINTS} points in a batch {m['many']:.1f} ms, {m['many'] / warm:.2f} of it (bar {many_bar});"
    )
    print(f"  each of them at a voltage of its own {m['voltages'] / warm:.2f}")


def cpu(action: Callable[[], Any], times: int = 3) -> float:
    """The least CPU an action takes of some tries [s]: what else the machine does adds to it and
    never takes from it.
    """
    taken = []
    for _ in range(times):
        began = time.process_time()
        action()
        taken.append(time.process_time() - began)
    return min(taken)


def told(name: str, seconds: float, bar: float) -> None:
    """A time against its bar."""
    print(f"{name:<44}{seconds:6.2f} s of CPU, bar {bar:g} s{'' if seconds <= bar else '   OVER'}")


def first_of(line: str) -> Build:
    """The build that a line becomes."""
    read = read_line(line)
    return first_build(
        "x", first_brief(read.fields, read.layout), {}, read.layout, read.banks
    ).sized


def sizing() -> None:
    """First builds, the chooser and the Size page, in CPU, by the demo builds and the eighty lines."""
    for line in LINES[:3]:
        first_of(line)
    first = {line: cpu(lambda line=line: first_of(line), 2) for line in LINES}  # type: ignore[misc]
    worst = max(first, key=lambda x: first[x])
    told("first build, half of eighty lines", statistics.median(first.values()), 0.3)
    told(f"first build, the slowest: {worst[:18]}", first[worst], 1.0)
    for name, build in demo_builds().items():
        told(
            f"{name}: chooser, {len(wanted(build))} layouts",
            cpu(lambda b=build: list(candidates(b))),  # type: ignore[misc]
            1.5,
        )
    for name, build in demo_builds().items():
        told(
            f"{name}: sizes proposed, with their reasons",
            cpu(lambda b=build: next(x for x in size_any(b) if isinstance(x, Proposal)).rows),  # type: ignore[misc]
            1.0,
        )


def resident_mb(pid: int) -> float:
    """Resident memory of a process and its children [MB]."""
    total = 0.0
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            status = (folder / "status").read_text()
        except OSError:
            continue
        parent = re.search(r"PPid:\s+(\d+)", status)
        size = re.search(r"VmRSS:\s+(\d+)", status)
        if size and (int(folder.name) == pid or (parent and int(parent.group(1)) == pid)):
            total += int(size.group(1)) / 1024
    return total


class Browser:
    """What a page does: its cookie, its token, the revision it shows, of a variant of a build: one
    that is signed does not change.
    """

    def __init__(self, address: str, slug: str) -> None:
        self.address, self.marks = address, ""
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor())
        self.token = re.findall(
            r'name="csrf" content="([^"]+)"', self.get(f"builds/{slug}/circuit")
        )[0]
        form = urllib.parse.urlencode(
            {"csrf_token": self.token, "name": f"{slug} to change"}
        ).encode()
        with self.opener.open(f"{address}builds/{slug}/variant", form) as answer:
            self.slug = answer.geturl().split("/builds/")[1].split("/")[0]
        page = self.get(f"builds/{self.slug}/circuit")
        self.head = int(re.findall(r'data-head="(\d+)"', page)[0])
        self.part = re.findall(r'data-part="([^"]*)"', page)[0]

    def get(self, path: str, **headers: str) -> str:
        with self.opener.open(
            urllib.request.Request(self.address + path, headers=headers)
        ) as answer:
            return str(answer.read().decode())

    def post(self, route: str, body: dict[str, Any]) -> dict[str, Any]:
        headers = {
            "Content-Type": "application/json",
            "X-CSRFToken": self.token,
            "Accept": "application/json",
        }
        request = urllib.request.Request(
            f"{self.address}builds/{self.slug}/{route}",
            json.dumps({"head": self.head} | body).encode(),
            headers,
        )
        with self.opener.open(request) as answer:
            got: dict[str, Any] = json.loads(answer.read())
        return got

    def edit(self, power: str) -> dict[str, Any]:
        got = self.post(
            "brief",
            {
                "field": "power_kw",
                "text": power,
                "page": "circuit",
                "part": self.part,
                "case": "peak",
            },
        )
        self.head = got["head"]
        return got


def server() -> None:
    with tempfile.TemporaryDirectory() as folder:
        begin = time.perf_counter()
        process, app = start(Path(folder))
        try:
            with urllib.request.urlopen(app.address) as answer:
                assert answer.status == 200
            print(
                f"process start to first 200 answer           {(time.perf_counter() - begin) * 1000:8.0f} ms (bar 1500)"
            )
            for name, build in demo_builds().items():
                assert build.brief is not None
                browser, edits, swaps = Browser(app.address, name), [], []
                for i in range(30):
                    edits.append(
                        timed(
                            lambda i=i, b=browser, hp=build.brief.power_kw / 0.7457: b.edit(  # type: ignore[misc]
                                f"{hp * (1 + i / 500):.1f} hp"
                            )
                        )
                    )
                    swaps.append(
                        timed(
                            lambda b=browser: b.get(  # type: ignore[misc]
                                f"builds/{b.slug}/swaps?part={b.part}&case=peak",
                                Accept="application/json",
                            )
                        )
                    )
                print(
                    f"an edit of {name:<12} {statistics.median(edits):6.1f} ms (bar 25), its swaps {statistics.median(swaps):6.1f} ms after it (bar 40)"
                )
            print(
                f"resident after 180 edits, all processes     {resident_mb(process.pid):8.0f} MB (bar 120)"
            )
            routes(app.address)
            desk(app.address)
            keypress(app.address)
        finally:
            stop(process)


def routes(address: str) -> None:
    """A point that is dragged: laid out, checked, solved and drawn again by the server; ways
    suggested; a picture of sixty lines.
    """
    rnd = Random(7)
    for name, line in (("bittern", "H3"), ("egret", "H6")):
        build = demo_builds()[name]
        browser, corners = (
            Browser(address, name),
            [list(c) for c in lay_out(build).lines[line].run.corners],
        )

        def drag(
            browser: Browser = browser, corners: list[list[float]] = corners, line: str = line
        ) -> None:
            k = rnd.randrange(len(corners))
            moved = [
                [v + rnd.uniform(-40, 40) for v in c] if i == k else c
                for i, c in enumerate(corners)
            ]
            browser.post(
                "route/try",
                {"act": "corners", "line": line, "corners": moved, "view": "both", "zoom": "1"},
            )

        whole = timed(lambda b=browser: b.get(f"builds/{b.slug}/route"))  # type: ignore[misc]
        drags = [timed(drag) for _ in range(60)]
        edits = statistics.median(
            [timed(lambda i=i, b=browser: b.edit(f"{300 + i} hp")) for i in range(15)]  # type: ignore[misc]
        )
        took_, of_edit = statistics.median(drags), statistics.median(drags) / edits
        print(
            f"a dragged point of {name:<9} {took_:6.1f} ms (bar 60; slowest {max(drags):.0f}), {of_edit:.1f} of an edit of the brief; its page {whole:.0f} ms"
        )
        laid = lay_out(build)
        took = {
            x.element.id: timed(lambda x=x, laid=laid: suggestions(laid, x))  # type: ignore[misc]
            for x in laid.lines.values()
            if not x.inside
        }
        worst = max(took, key=lambda n: took[n])
        print(
            f"ways suggested for {name:<9} {statistics.median(took.values()):6.0f} ms, the longest {worst} {took[worst]:.0f} ms (bar 1000)"
        )
    many = demo_builds()["bittern"]
    hose = many.circuit.element("H5")
    assert hose is not None
    copies = [hose.model_copy(update={"id": f"H{i}"}) for i in range(100, 156)]
    many = many.model_copy(
        update={
            "circuit": many.circuit.model_copy(
                update={"elements": [*many.circuit.elements, *copies]}
            )
        }
    )
    laid = lay_out(many)
    assert len(laid.lines) > 60
    pictures = [timed(lambda: draw_views(laid, ("side", "plan"), [], "H3", "")) for _ in range(9)]
    print(
        f"a picture of {len(laid.lines)} lines, two views       {statistics.median(pictures):6.1f} ms (bar 50)"
    )


def desk(address: str) -> None:
    """The whole list to buy after an act on it, with every joint found anew and every roll cut
    anew; and each page of the bench after a change of the build.
    """
    for name in ("bittern", "egret"):
        browser = Browser(address, name)

        def buy(i: int, browser: Browser = browser) -> None:
            browser.head = browser.post(
                "hoses/act",
                {
                    "act": "have",
                    "key": "clip-10",
                    "title": "clip",
                    "unit": "piece",
                    "there": str(i + 1),
                    "page": "hoses",
                    "view": "buy",
                },
            )["head"]

        acts = [timed(lambda i=i: buy(i)) for i in range(15)]  # type: ignore[misc]
        edits = statistics.median(
            [timed(lambda i=i, b=browser: b.edit(f"{310 + i} hp")) for i in range(15)]  # type: ignore[misc]
        )
        pages: dict[str, float] = {}
        for view in (
            "cut",
            "joints",
            "order",
            "bends",
            "buy",
            "job",
            "labels",
            "plate",
            "fits",
            "tank",
        ):
            browser.edit(f"{330 + len(pages)} hp")
            pages[view] = timed(
                lambda b=browser, v=view: b.get(  # type: ignore[misc]
                    f"builds/{b.slug}/hoses{'' if v == 'cut' else '/' + v}"
                )
            )
        worst = max(pages, key=lambda v: pages[v])
        print(
            f"an act on the buy list of {name:<9} {statistics.median(acts):6.1f} ms, {statistics.median(acts) / edits:.1f} of an edit; slowest page {worst} {pages[worst]:.0f} ms"
        )


def keypress(address: str) -> None:
    """From Enter in a field of the Circuit page to the frame in which the drawing is new, in
    Chromium.
    """
    from playwright.sync_api import sync_playwright

    with sync_playwright() as playwright:
        chromium = playwright.chromium.launch(
            executable_path=shutil.which("chromium"),
            args=["--no-sandbox", "--disable-gpu", "--disable-background-networking"],
        )
        page = chromium.new_page(viewport={"width": 1280, "height": 800})
        page.goto(address + "builds/bittern/circuit")
        page.evaluate(
            """() => { window.took = []; let pressed = 0;
            document.addEventListener("keydown", (e) => { if (e.key === "Enter") pressed = performance.now(); }, true);
            new MutationObserver(() => { if (pressed) { const since = pressed; pressed = 0; requestAnimationFrame(() => setTimeout(() => window.took.push(performance.now() - since))); } })
              .observe(document.getElementById("drawing"), { childList: true, subtree: true }); }"""
        )
        page.wait_for_load_state("networkidle")
        for i in range(30):
            page.locator("#power_kw").fill(f"{600 + 3 * i} hp")
            page.locator("#power_kw").press("Enter")
            page.wait_for_timeout(400)  # an edit that has not come by then is left out
        took = page.evaluate("window.took")
        chromium.close()
    said = (
        f"{statistics.median(took):8.1f} ms (bar 110; slowest {max(took):.0f}, {len(took)} of 30)"
        if took
        else "nothing was redrawn"
    )
    print(f"Enter to redrawn SVG in the browser         {said}")


def cases() -> None:
    """The whole matrix and the walk of single failures of each demo build, each beside as many
    single solves of its peak.
    """
    for name, build in demo_builds().items():
        study = make_study(build)

        def anew(study: Any = study) -> Any:
            return replace(study, answers={})

        solve = statistics.median(
            [
                timed(
                    lambda study=study: study.what_if.at(  # type: ignore[misc]
                        study.peak.case.point, study.peak.case.demand
                    )
                )
                for _ in range(30)
            ]
        )
        matrix = statistics.median([timed(lambda: make_matrix(anew())) for _ in range(9)])
        failed = statistics.median([timed(lambda: walk(anew())) for _ in range(5)])
        rows, failures = len(make_matrix(study).rows), len(walk(study))
        print(
            f"{name:<10} {rows} cases {matrix:6.1f} ms (bar 120), {matrix / (rows * solve):4.1f} of as many solves;",
            end=" ",
        )
        print(f"{failures} failures {failed:6.1f} ms (bar 500), {failed / (failures * solve):4.1f}")


def wires() -> None:
    """The whole matrix of each wired demo, solved from nothing, beside the same without wires: with
    a relay for each pump, and with one that all of them share.
    """
    for name, build in demo_builds(wired=True).items():
        if build.wiring is None or build.brief is None:
            continue
        shared = build
        for pump in build.wiring.branches:
            shared = set_branch(shared, pump, relay="R1", bus="1")
        took: dict[str, list[float]] = {"bare": [], "wired": [], "shared": []}
        for i in range(15):
            brief = build.brief.model_copy(
                update={"power_kw": build.brief.power_kw * (1 + i / 400)}
            )
            for key, one in (
                ("bare", build.model_copy(update={"wiring": None})),
                ("wired", build),
                ("shared", shared),
            ):
                took[key].append(
                    timed(
                        lambda one=one, brief=brief: make_matrix(  # type: ignore[misc]
                            make_study(one.model_copy(update={"brief": brief}))
                        )
                    )
                )
        bare, wired, together = (statistics.median(took[k]) for k in ("bare", "wired", "shared"))
        print(
            f"{name:<10} cases with their wires {wired:6.1f} ms, {wired / bare:4.2f} of those without (bar 1.5); pumps behind one relay {together / bare:4.2f}"
        )


REPLAY = """
import sys, time
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.prove.log_file import read_log
from tall_heron.core.prove.log_head import read_head, text_of
from tall_heron.core.prove.predict import Predictor
from tall_heron.core.prove.replay import replay
from tall_heron.core.study.study import make_study
study, data, began = make_study(demo_builds(wired=True)["bittern"]), open(sys.argv[1], "rb").read(), time.perf_counter()
text = text_of(data)
log = read_log(text, read_head(text), 101325.0)
read = time.perf_counter()
made = replay(Predictor(study), log)
end = time.perf_counter()
most = next(int(x.split()[1]) for x in open("/proc/self/status") if x.startswith("VmHWM"))  # of this process alone: what getrusage says counts its parent
print(len(log.time), 1000 * (read - began), 1000 * (end - read), made.solved, most / 1024)
"""


def replayed() -> None:
    """An hour at 50 Hz read and replayed, in a process of its own; beside it as many single
    solutions as stand behind it.
    """
    build = demo_builds(wired=True)["bittern"]
    head, *rows = drive_text(build, Fault("clogged", "F2", 6), 3).split("\r\n")
    cells, rng = [r.split(",") for r in rows if r], np.random.default_rng(1)
    with tempfile.TemporaryDirectory() as folder:
        file, lines = Path(folder) / "hour.csv", [head]
        for n in range(180_000):
            row = cells[(n // 5) % len(cells)]
            lines.append(
                ",".join(
                    [
                        f"{n / 50:.2f}",
                        row[1],
                        row[2],
                        f"{float(row[3]) + rng.normal(0, 1):.1f}",
                        *row[4:],
                    ]
                )
            )
        file.write_text("\r\n".join(lines), encoding="utf-8")
        done = subprocess.run(
            [sys.executable, "-c", REPLAY, str(file)], capture_output=True, text=True, check=True
        )
    samples, read, made, solved, memory = (float(x) for x in done.stdout.split())
    study = make_study(build)
    one = statistics.median(
        [
            timed(
                lambda i=i: study.what_if.at(  # type: ignore[misc]
                    study.peak.case.point, study.peak.case.demand * (0.5 + i / 400)
                )
            )
            for i in range(100)
        ]
    )
    print(
        f"{samples:,.0f} samples read {read:.0f} ms, replayed {made:.0f} ms (bar 4000 together), {made / (solved * one):.1f} of {solved:.0f} single solutions; memory {memory:.0f} MB (bar 250)"
    )


def fuel_that_runs_about() -> None:
    """A lap of 120 s in each demo build's first tank, and in one of four compartments, from sixteen
    fills at once; beside as many surfaces found one by one from nothing.
    """
    lap = shipped("lap")
    times = np.linspace(0.0, 120.0, 1201)
    readings = np.stack(
        [np.interp(times % lap.seconds, lap.times, lap.readings[:, i]) for i in range(3)], 1
    )
    walled = Inside(baffles=[Baffle(at_mm=at, open_mm2=900) for at in (180, 360, 540)])
    for name, build in demo_builds().items():
        study = make_study(build)
        tank = run_tanks(study)[0]
        flows = run_flows(study, tank)
        for inside in (
            (tank.properties.inside, walled) if name == "bittern" else (tank.properties.inside,)
        ):
            made = make_tank(tank.properties.model_copy(update={"inside": inside}))
            assert made is not None
            assert flows is not None
            took = min(
                timed(
                    lambda made=made, flows=flows: slosh(  # type: ignore[misc]
                        made, flows, times, readings, np.ones_like(times), 0.5
                    )
                )
                for _ in range(3)
            )
            one = statistics.median(
                [
                    timed(
                        lambda made=made, g=g: made.vessel.surface(  # type: ignore[misc]
                            made.vessel.full * 0.5, made.vessel.tilt(-float(g[0]), float(g[1]))
                        )
                    )
                    for g in readings[:200]
                ]
            )
            share = took / (1201 * (len(FILLS) + 1) * one)
            print(
                f"{name:<10} lap of 120 s, {len(made.vessel.full)} compartments, {len(FILLS) + 1} fills {took:7.0f} ms (bar 1000), {share:5.3f} of as many single surfaces"
            )


def many_builds() -> None:
    """The bench with a thousand builds, and the Circuit page of one of two hundred parts."""
    with tempfile.TemporaryDirectory() as folder:
        database = Path(folder) / "demo.sqlite"
        builds_of = list(demo_builds().values())
        with db.opened(database) as connection:
            for i in range(1000):
                build = builds_of[i % len(builds_of)]
                assert build.brief is not None
                made = build.model_copy(
                    update={
                        "name": f"{build.name} {i}",
                        "brief": build.brief.model_copy(
                            update={"power_kw": build.brief.power_kw * (1 + i / 5000)}
                        ),
                    }
                )
                builds.create(connection, made.name, dump(made), "laid")
            long = builds_of[0]
            while len(long.circuit.elements) < 200:
                long, _ = insert(long, "H3", "elbow-90-8")
            slug = builds.create(connection, "Two hundred", dump(long), "laid")
        process, app = start(Path(folder))

        try:

            def page(path: str) -> None:
                with urllib.request.urlopen(app.address + path) as answer:
                    answer.read()

            first = timed(lambda: page(""))
            again = statistics.median([timed(lambda: page("")) for _ in range(15)])
            print(
                f"bench of 1,001 builds, sixty on a page      {again:8.1f} ms (bar 350), {first:.0f} ms at the first look, which solves those sixty"
            )
            page(f"builds/{slug}/circuit")
            print(
                f"Circuit page of {len(long.circuit.elements)} parts                   {statistics.median([timed(lambda: page(f'builds/{slug}/circuit')) for _ in range(9)]):8.1f} ms (bar 400)"
            )
        finally:
            stop(process)


if __name__ == "__main__":
    pace = timed(lambda: sum(range(5_000_000)))
    print(
        f"{os.cpu_count()} cores, Python {sys.version.split()[0]}, five million additions in {pace:.0f} ms"
    )
    against_the_library()
    solver()
    aircraft()
    sizing()
    cases()
    wires()
    replayed()
    fuel_that_runs_about()
    server()
    many_builds()
