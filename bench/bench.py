"""Speed as ratios in one run; absolute times are printed and never asserted. Inputs vary from run to run, so nothing is answered from a cache."""

import contextlib
import gc
import json
import os
import re
import statistics
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable
from pathlib import Path
from random import Random
from typing import Any

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT / "tests/kit"))

import epanet  # noqa: E402  the tests' own reference
from running import start  # noqa: E402

from tall_heron.core.design import design  # noqa: E402
from tall_heron.core.document.build import Brief, Build, dump, load, validate  # noqa: E402
from tall_heron.core.editing.demo import demo_builds  # noqa: E402
from tall_heron.core.editing.fields import fit  # noqa: E402
from tall_heron.core.editing.layouts import LAYOUTS  # noqa: E402
from tall_heron.core.editing.topology import insert, split  # noqa: E402
from tall_heron.core.hydraulics.network import compile_circuit, compile_network  # noqa: E402
from tall_heron.core.hydraulics.solve import solve_network  # noqa: E402
from tall_heron.core.hydraulics.sweep import sweep  # noqa: E402
from tall_heron.core.shelf.shelf import swaps_for  # noqa: E402
from tall_heron.core.sizing.auto_size import proposed  # noqa: E402
from tall_heron.core.sizing.chooser import choose  # noqa: E402
from tall_heron.core.sizing.limits import make_limits  # noqa: E402
from tall_heron.core.study.cases import make_cases  # noqa: E402
from tall_heron.core.study.demand import burn  # noqa: E402
from tall_heron.core.study.study import make_study  # noqa: E402

POINTS, RUNS = 200, 40


def as_epanet_can(build: Build) -> dict[str, Any]:
    """A build's document without regulator slope and check cracking, which EPANET lacks."""
    data = build.model_dump(mode="json", exclude_none=True)
    for element in data["circuit"]["elements"]:
        element["figures"] |= {"check": {"cracking_kpa": 0.0}, "regulator": {"slope_kpa_per_lph": 0.0}}.get(element["figures"]["law"], {})
    return data


def bittern(rnd: Random) -> Build:
    """Bittern at a varied peak, without regulator slope and check cracking, which EPANET lacks; its brief's demand written out."""
    build = demo_builds()["bittern"]
    assert build.brief is not None
    brief = build.brief.model_copy(update={"power_kw": build.brief.power_kw * rnd.uniform(0.8, 1.1)})
    case = make_cases(brief, burn(brief))[0]
    data = as_epanet_can(build)
    point = case.point.model_dump(mode="json", exclude_none=True)
    data["points"] = [point | {"demand_lph": case.demand * 3.6e6, "manifold_kpa": brief.boost_kpa * rnd.uniform(0.9, 1.1)}]
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
        whole.append(timed(lambda t=text: [solve_network(compile_network(b.circuit, b.points[0])) for b in [load(t)]]))  # type: ignore[misc]
        filled.append(timed(lambda s=system, p=point: solve_network(s.at(p))))  # type: ignore[misc]
        net = compile_circuit(build.circuit).at(point)
        alone.append(timed(lambda n=net: solve_network(n)))  # type: ignore[misc]
    one = statistics.median(reference)
    print(f"EPANET through wntr, one point of Bittern   {one:8.2f} ms (median of {RUNS})")
    for name, times in (("JSON in to solution", whole), ("another point of a compiled circuit", filled), ("solve alone", alone)):
        print(f"  {name:<40}  {statistics.median(times):8.3f} ms   {one / statistics.median(times):7.0f} times faster")
    build = bittern(rnd)
    batches = []
    for _ in range(7):
        points = [
            build.points[0].model_copy(
                update={"demand_lph": rnd.uniform(50, 330), "voltage_v": rnd.uniform(12, 13.5), "manifold_kpa": rnd.uniform(-50, 150)}
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
    whole_design = statistics.median([timed(lambda: design(demo_builds()["bittern"])) for _ in range(20)])
    print(f"whole design of Bittern, three cases        {whole_design:8.2f} ms")
    for name, build in demo_builds().items():
        study = make_study(build)
        ladder = statistics.median([timed(lambda s=study: make_limits(s)) for _ in range(20)])  # type: ignore[misc]
        hose = next(e for e in build.circuit.elements if e.kind in ("hose", "line") and e.role == "feed")
        other = swaps_for(hose)[0].name
        trial = statistics.median([timed(lambda b=build, h=hose.id, o=other: design(fit(b, h, o))) for _ in range(20)])  # type: ignore[misc]
        print(f"ladder of {name:<12}{ladder:8.2f} ms; a swap tried, findings and ladder with it {trial:8.2f} ms")


def twin(rnd: Random) -> Build:
    """A seaplane of more than fifty elements: the layout with a header and a pump for each wing, on two engines' worth of rails, lines split and filters
    doubled, without regulator slope, check cracking and relief, which EPANET lacks."""
    layout = LAYOUTS["A3"]
    brief = Brief(power_kw=rnd.uniform(200, 260), fuel="100LL", base_kpa=300, use="flight", voltage_v=14, peak_rpm=2700, cylinders=6)
    build = Build(name="twin", brief=brief, circuit=layout.build(brief, layout.picks(rails="single", pumps=("sallow-255", "sallow-255"))))
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
    case = make_cases(brief, burn(brief))[0]
    point = case.point.model_dump(mode="json", exclude_none=True)
    data["points"] = [point | {"demand_lph": case.demand * 3.6e6, "voltage_v": 13.5}]
    return validate(data)


def aircraft() -> None:
    """The 50-element aircraft circuit against EPANET, through wntr and in EPANET's own library alone; and a sweep of it."""
    rnd = Random(2)
    through, library, ours, batches = [], [], [], []
    for _ in range(10):
        build = twin(rnd)
        point, system = build.points[0], compile_circuit(build.circuit)
        through.append(timed(lambda b=build, p=point: epanet.run(b, p)))  # type: ignore[misc]
        library.append(in_process(build))
        ours.append(timed(lambda s=system, p=point: solve_network(s.at(p))))  # type: ignore[misc]
        points = [point.model_copy(update={"demand_lph": rnd.uniform(10, 90), "manifold_kpa": rnd.uniform(-50, 0)}) for _ in range(POINTS)]
        batches.append(timed(lambda c=build.circuit, p=points: sweep(c, p)))  # type: ignore[misc]
    median = {k: statistics.median(v) for k, v in (("wntr", through), ("library", library), ("ours", ours), ("batch", batches))}
    print(f"aircraft of {len(build.circuit.elements)} elements: EPANET through wntr {median['wntr']:8.2f} ms a point")
    print(
        f"  EPANET's library alone, file opened           {median['library']:8.3f} ms   {median['library'] / median['ours']:7.2f} of our time"
    )
    print(
        f"  another point of the compiled circuit         {median['ours']:8.3f} ms   {median['wntr'] / median['ours']:7.0f} times faster than wntr"
    )
    print(
        f"  {POINTS} points in one batch                      {median['batch']:8.2f} ms   {POINTS * median['ours'] / median['batch']:7.0f} times faster than {POINTS} of ours singly,"
        f" {POINTS * median['wntr'] / median['batch']:7.0f} times than wntr"
    )


def in_process(build: Build) -> float:
    """What EPANET's own library takes to solve a network that it has opened [ms]."""
    import wntr.epanet.toolkit as toolkit
    from wntr.network.io import write_inpfile

    net, _ = epanet.build_network(build, build.points[0])
    with tempfile.TemporaryDirectory() as folder, contextlib.chdir(folder):  # EPANET leaves files of its own where it runs
        file = str(Path(folder) / "a.inp")
        write_inpfile(net, file, units="LPS")
        library = toolkit.ENepanet()
        library.ENopen(file, file + ".rpt", file + ".bin")
        library.ENopenH()
        library.ENinitH(0)
        begin = time.perf_counter()
        library.ENrunH()
        taken = (time.perf_counter() - begin) * 1000
        library.ENcloseH()
        library.ENclose()
    return taken


def sizing() -> None:
    """Auto-size and the chooser on the demo builds."""
    for name, build in demo_builds().items():
        looked = proposed(build).looked
        sized = statistics.median([timed(lambda b=build: proposed(b)) for _ in range(3)])  # type: ignore[misc]
        chosen = statistics.median([timed(lambda b=build: choose(b)) for _ in range(3)])  # type: ignore[misc]
        print(
            f"{name:<12}sized in {sized:6.0f} ms ({looked} choices); {len(choose(build).candidates)} layouts side by side in {chosen:6.0f} ms"
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


def server() -> None:
    with tempfile.TemporaryDirectory() as folder:
        begin = time.perf_counter()
        process, app = start(Path(folder))
        with urllib.request.urlopen(app.address) as answer:
            assert answer.status == 200
        print(f"process start to first 200 answer           {(time.perf_counter() - begin) * 1000:8.0f} ms")
        opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor())
        with opener.open(app.address + "builds/bittern/circuit") as answer:
            page = answer.read().decode()
        token, head = re.search(r'name="csrf" content="([^"]+)"', page), re.search(r'data-head="(\d+)"', page)
        assert token
        assert head
        at, times = int(head.group(1)), []
        for i in range(60):
            body = {"field": "power_kw", "text": f"{600 + i} hp", "head": at, "page": "circuit", "part": "F2", "case": "peak"}
            headers = {"Content-Type": "application/json", "X-CSRFToken": token.group(1), "Accept": "application/json"}
            request = urllib.request.Request(app.address + "builds/bittern/brief", json.dumps(body).encode(), headers)
            begin = time.perf_counter()
            with opener.open(request) as answer:
                at = json.loads(answer.read())["head"]
            times.append((time.perf_counter() - begin) * 1000)
            if i == 9:
                print(f"resident after ten edits, all processes     {resident_mb(process.pid):8.0f} MB")
        print(f"an edit, request to answer                  {statistics.median(times):8.1f} ms (median of 60, slowest {max(times):.0f})")
        process.terminate()
        process.wait()
        assert process.stdout
        process.stdout.close()


if __name__ == "__main__":
    pace = timed(lambda: sum(range(5_000_000)))
    print(f"{os.cpu_count()} cores, Python {sys.version.split()[0]}, five million additions in {pace:.0f} ms")
    solver()
    aircraft()
    sizing()
    server()
