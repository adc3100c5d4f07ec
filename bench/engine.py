"""What the core takes: cases, failures, first builds, layouts, sizes, ways, laps, logs; and how it
grows.
"""

import statistics
import subprocess
import sys
import tempfile
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
from first_lines import LINES
from rows import Table, cpu, exponent, wall

from tall_heron.core.document.build import Build
from tall_heron.core.document.tank_inside import Baffle, Inside
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.topology import insert
from tall_heron.core.hydraulics.network import compile_circuit
from tall_heron.core.hydraulics.solve import solve_network
from tall_heron.core.hydraulics.vessel import make_tank
from tall_heron.core.line.reading import read_line
from tall_heron.core.prove.car import drive_text
from tall_heron.core.prove.faults import Fault
from tall_heron.core.routing.laid import lay_out
from tall_heron.core.routing.suggest import suggestions
from tall_heron.core.shelf import shelf
from tall_heron.core.sizing.auto_size import Proposal
from tall_heron.core.sizing.chooser import candidates
from tall_heron.core.sizing.first_build import first_brief, first_build
from tall_heron.core.sizing.pump_count import size_any
from tall_heron.core.study.cases.cases import make_cases
from tall_heron.core.study.cases.requirements import make_matrix
from tall_heron.core.study.demand import fuel_demand
from tall_heron.core.study.failures.failure_walk import walk
from tall_heron.core.study.slosh.drive_file import shipped
from tall_heron.core.study.slosh.drive_flows import run_flows, run_tanks
from tall_heron.core.study.slosh.slosh_run import slosh
from tall_heron.core.study.study import make_study


def cases(table: Table) -> None:
    """The matrix of all cases and the walk of single failures, the slowest of the demo builds."""
    matrix, failed = [], []
    for build in demo_builds(wired=True).values():
        study = make_study(build)

        def anew(study: Any = study) -> Any:
            return replace(study, answers={})

        matrix.append(statistics.median(cpu(lambda a=anew: make_matrix(a())) for _ in range(7)))  # type: ignore[misc]
        failed.append(statistics.median(cpu(lambda a=anew: walk(a())) for _ in range(5)))  # type: ignore[misc]
    table.time("matrix of cases, the slowest demo build", [max(matrix)], 120)
    table.time("walk of failures, the slowest demo build", [max(failed)], 500)


def first_of(line: str) -> Build:
    """The build that a line becomes."""
    read = read_line(line)
    return first_build(
        "x", first_brief(read.fields, read.layout), {}, read.layout, read.banks
    ).sized


def sizing(table: Table) -> None:
    """First builds of the eighty lines; the layouts and sizes proposed for the demo builds."""
    for line in LINES[:3]:
        first_of(line)
    first = [min(cpu(lambda x=line: first_of(x)) for _ in range(2)) for line in LINES]  # type: ignore[misc]
    table.time("first build, half of eighty lines", first, 300)
    table.time("first build, the slowest of eighty lines", [max(first)], 1000)
    chosen, sized = [], []
    for build in demo_builds().values():
        chosen.append(min(cpu(lambda b=build: list(candidates(b))) for _ in range(2)))  # type: ignore[misc]
        sized.append(min(cpu(lambda b=build: proposed(b)) for _ in range(2)))  # type: ignore[misc]
    table.time("layouts chosen from, the slowest demo build", [max(chosen)], 1500)
    table.time("sizes proposed, the slowest demo build", [max(sized)], 1000)


def proposed(build: Build) -> Any:
    """The sizes proposed for a build, with their reasons."""
    return next(x for x in size_any(build) if isinstance(x, Proposal)).rows


def larger_shelf(table: Table) -> None:
    """Sizes proposed for Bittern from the shelf as it is, three and ten times as large: the same
    parts again under other names, a little dearer.
    """
    whole = shelf.parts()
    own, taken = dict(whole), list[float]()
    build = demo_builds()["bittern"]
    for times, bar in ((1, 300), (3, 500), (10, 1000)):
        for k in range(1, times):
            for part in own.values():
                price = part.properties.price
                dearer = part.properties.model_copy(
                    update={"price": price * (1 + k / 50) if price is not None else None}
                )
                name = f"{part.name}-{k}"
                whole[name] = replace(part, name=name, properties=dearer)
        taken = [cpu(lambda: proposed(build)) for _ in range(2)]
        table.time(f"sizes proposed for Bittern, shelf x {times}", taken, bar, least=True)
    whole.clear()
    whole.update(own)


def ways(table: Table) -> None:
    """Ways suggested for every line of a build."""
    for name in ("bittern", "egret"):
        laid = lay_out(demo_builds()[name])
        lines = [x for x in laid.lines.values() if not x.inside]
        taken = [cpu(lambda: [suggestions(laid, x) for x in lines])]  # noqa: B023
        table.time(f"ways suggested for all {len(lines)} lines of {name.title()}", taken, 1000)


def fuel_that_runs_about(table: Table) -> None:
    """A lap of 120 s in each demo build's first tank, and in one of four compartments, from every
    fill at once: the slowest.
    """
    lap = shipped("lap")
    times = np.linspace(0.0, 120.0, 1201)
    readings = np.stack(
        [np.interp(times % lap.seconds, lap.times, lap.readings[:, i]) for i in range(3)], 1
    )
    walled = Inside(baffles=[Baffle(at_mm=at, open_mm2=900) for at in (180, 360, 540)])
    taken = []
    for name, build in demo_builds().items():
        study = make_study(build)
        tank = run_tanks(study)[0]
        flows = run_flows(study, tank)
        assert flows is not None
        for inside in (tank.properties.inside, *((walled,) if name == "bittern" else ())):
            made = make_tank(tank.properties.model_copy(update={"inside": inside}))
            assert made is not None
            lapped: Callable[[], Any] = lambda m=made, f=flows: slosh(  # type: ignore[misc]  # noqa: E731
                m, f, times, readings, np.ones_like(times), 0.5
            )
            taken.append(min(cpu(lapped) for _ in range(2)))
    table.time("a lap of 120 s from every fill, the slowest tank", [max(taken)], 300)


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


def hour_of_rows(folder: Path, build: Build, number: int) -> Path:
    """A log of so many rows at 50 Hz, of a drive with a filter that clogs."""
    head, *rows = drive_text(build, Fault("clogged", "F2", 6), 3).split("\r\n")
    cells, rng = [r.split(",") for r in rows if r], np.random.default_rng(1)
    file, lines = folder / f"{number}.csv", [head]
    for n in range(number):
        row = cells[(n // 5) % len(cells)]
        noisy = f"{float(row[3]) + rng.normal(0, 1):.1f}"
        lines.append(",".join([f"{n / 50:.2f}", row[1], row[2], noisy, *row[4:]]))
    file.write_text("\r\n".join(lines), encoding="utf-8")
    return file


def replayed(table: Table) -> None:
    """An hour at 50 Hz read and replayed, in a process of its own; and how that grows."""
    build = demo_builds(wired=True)["bittern"]
    sizes, taken = [3_000, 10_000, 30_000, 100_000, 180_000], list[float]()
    memory = 0.0
    with tempfile.TemporaryDirectory() as folder:
        for number in sizes:
            file = hour_of_rows(Path(folder), build, number)
            done = subprocess.run(
                [sys.executable, "-c", REPLAY, str(file)],
                capture_output=True,
                text=True,
                check=True,
            )
            _, read, made, _, memory = (float(x) for x in done.stdout.split())
            taken.append(read + made)
    table.time(f"{sizes[-1]:,} rows of a log read and replayed", taken[-1:], 2500)
    table.add("memory of it", memory, 160, "MB")
    table.add("growth with rows, 3,000 to 180,000", exponent(sizes, taken), 1.2, "")


def growing(table: Table) -> None:
    """One solution with all of it read, of Bittern with 20 to 800 elements."""
    build = demo_builds()["bittern"]
    assert build.brief is not None
    case = make_cases(build.brief, fuel_demand(build.brief))[0]
    sizes, taken = list[int](), list[float]()
    for number in (20, 50, 100, 200, 400, 800):
        while len(build.circuit.elements) < number:
            build, _ = insert(build, "H3", "elbow-90-8")
        compiled = compile_circuit(build.circuit)
        for _ in range(25):
            solve_network(compiled.at(case.point, case.demand))
        once = [
            wall(
                lambda i=i, c=compiled: (
                    solve_network(  # type: ignore[misc]
                        c.at(case.point, case.demand * (1 - i / 200))
                    ).links
                )
            )
            for i in range(15)
        ]
        sizes.append(len(build.circuit.elements))
        taken.append(statistics.median(once))
    table.add(f"growth with elements, {sizes[0]} to {sizes[-1]}", exponent(sizes, taken), 1.2, "")
