"""First lines become builds that a builder would sign: nothing stops them, sizes are the trade's,
and the same line gives the same build whatever else the machine does.
"""

import multiprocessing
import random
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache

import pytest
from first_lines import LINES, ODD

from tall_heron.core.base.constants import LPH
from tall_heron.core.begin.started import start
from tall_heron.core.design import design
from tall_heron.core.document.build import Build, dump
from tall_heron.core.joining.joints import joints_of
from tall_heron.core.routing.laid import lay_out
from tall_heron.core.shelf.shelf import parts

DASHES = ("-4", "-6", "-8", "-10", "-12", "-16")
# Line size by the fuel demand through it, gal/h at most: common practice (shared figures of the
# trade, from memory).
TABLE = ((79.3, "-6"), (126.8, "-8"), (198.1, "-10"), (290.6, "-12"), (1e9, "-16"))
GALLON_L = 3.785411784


@cache
def started(line: str) -> Build:
    """The build of a line."""
    return start(line).sized


def sizes(build: Build, role: str) -> set[int]:
    """Which of DASHES the lines of a role have, the legs between rails apart."""
    between = {
        n for e in build.circuit.of_kind("split", "junction", "rail") for n in e.ports.values()
    }
    lines = [
        e
        for e in build.circuit.of_kind("hose", "line")
        if e.role == role and not set(e.ports.values()) <= between
    ]
    return {
        DASHES.index(e.properties.dash)
        for e in lines
        if not e.runs.startswith(("to bank", "bank", "from bank", "rail to rail"))
    }


# What is left against some, each for a reason that a builder would give: two pumps at full speed
# through half an hour of hot idle, no injector that large, car fuel at height in an
# aircraft, a boost pump that alone gives nine tenths, and lines of the builder's own that are too
# small.
LEFT = {"C-09", "P-06", "C-02", "L-08", "P-21"}
OFTEN = set(LINES[::10] + ODD[::10])


@pytest.mark.parametrize(
    "line", [pytest.param(x, marks=[] if x in OFTEN else [pytest.mark.sweep]) for x in LINES + ODD]
)
def test_a_line_becomes_a_whole_build_against_which_nothing_stands(line: str) -> None:
    """Laid out, sized, drawn, wired: no Stop at any station, and no Check but those that are the
    builder's to answer.
    """
    found = design(started(line))
    against = [
        (f.rule, f.title)
        for f in found.every_finding
        if f.level == "Stop" or (f.level == "Check" and f.rule not in LEFT)
    ]
    assert against == []
    if not {f.rule for f in found.every_finding if f.level == "Check"}:
        assert [(x.parts, x.title) for x in found.limits if x.verdict == "short"] == []
    build = found.study.build
    lines = [x for x in lay_out(build).lines.values() if not x.inside]
    assert sum(x.drawn for x in lines) >= 0.6 * len(lines)
    pumps = [e for e in build.circuit.of_kind("pump") if e.figures.law == "pump"]
    assert (build.wiring is not None) == bool(pumps)
    assert all(
        e.length.source in ("outline", "assumed")
        for e in build.circuit.elements
        if e.length is not None
    )


@pytest.mark.parametrize(
    "line", [pytest.param(x, marks=[] if x in OFTEN else [pytest.mark.sweep]) for x in LINES]
)
def test_its_sizes_are_the_trades(line: str) -> None:
    build = started(line)
    assert build.brief is not None
    found = design(build)
    study, flies = found.study, build.brief.use == "flight"
    fuel_demand = max(s.case.demand for s in study.solved.values() if s.case.kind == "peak") / LPH
    usual = DASHES.index(next(dash for most, dash in TABLE if fuel_demand / GALLON_L <= most))
    feed, back = sizes(build, "feed"), sizes(build, "return")
    if study.feed_path.pumps:
        assert all(abs(x - usual) <= 1 for x in feed), (feed, usual)
        assert not back or max(back) <= max(feed) + 1
    headroom = study.headroom(study.peak)
    assert headroom is not None
    assert headroom >= 0.2 - 1e-9
    if study.tells_surplus and not flies and study.feed_path.pumps:
        smaller = smaller_pump(build, fuel_demand)
        assert headroom <= 1.2 or not smaller, smaller


def smaller_pump(build: Build, fuel_demand: float) -> list[str]:
    """Pumps of the shelf that could stand where the build's do, are rated for its pressure, give
    half as much again as is burnt there and less than those that stand there.
    """
    brief, pump = build.brief, build.circuit.of_kind("pump")[0]
    assert brief is not None
    target = brief.base_kpa + max(brief.boost_kpa, 0.0)
    out = []
    for p in parts().values():
        if (
            p.kind != "pump"
            or p.figures.law != "pump"
            or p.properties.mount != pump.properties.mount
        ):
            continue
        if (
            (p.properties.rated_kpa or 0) < 1.1 * target
            or (p.properties.ethanol_max_percent or 0) < 15
            or (brief.carbureted and (p.properties.rated_kpa or 0) > 200)
        ):
            continue
        rows = [r for r in p.figures.curves[-1].rows if r[1] >= 1.1 * target]
        gives = max((r[0] for r in rows), default=0.0)
        if (
            1.5 * fuel_demand <= gives
            and p.name != pump.shelf
            and (p.properties.price or 1e9) < (pump.properties.price or 0)
            and gives < pump.figures.curves[-1].rows[-1][0] / 2
        ):  # type: ignore[union-attr]
            out.append(p.name)
    return out


def busy() -> None:
    """Something else that the machine has to do."""
    while True:
        sum(i * i for i in range(100_000))


@contextmanager
def beside(count: int) -> Iterator[None]:
    """So many busy processes beside this one."""
    others = [
        multiprocessing.get_context("spawn").Process(target=busy, daemon=True) for _ in range(count)
    ]
    for p in others:
        p.start()
    try:
        yield
    finally:
        for p in others:
            p.kill()


@contextmanager
def shuffled(seed: int) -> Iterator[None]:
    """The shelf with its rows in another order."""
    shelf = parts()
    rows = list(shelf.items())
    other = rows[:]
    random.Random(seed).shuffle(other)
    shelf.clear()
    shelf.update(other)
    try:
        yield
    finally:
        shelf.clear()
        shelf.update(rows)


FEW = LINES[::27]


@pytest.mark.parametrize(
    "lines", [pytest.param(FEW, id="five"), pytest.param(LINES, id="all", marks=pytest.mark.sweep)]
)
def test_the_same_line_gives_the_same_document_on_a_busy_machine_and_off_a_shuffled_shelf(
    lines: tuple[str, ...],
) -> None:
    quiet = {line: dump(started(line)) for line in lines}
    with beside(3):
        assert {line: dump(started.__wrapped__(line)) for line in lines} == quiet
    for seed in (1, 2):
        with shuffled(seed):
            assert {line: dump(started.__wrapped__(line)) for line in lines} == quiet


def test_a_plain_v8_needs_next_to_no_adapters() -> None:
    """Of its parts one in eight at most is joined through one: the regulator on its rail, and the
    hose that feels the manifold.
    """
    build = started("V8 450 hp, 58 psi")
    through = [j for j in joints_of(build).joints if j.how.state == "adapter"]
    assert len(through) <= len(build.circuit.elements) / 8
    assert {j.other.element for j in through} == {"PR", "manifold"}
    assert all(j.how.state in ("direct", "adapter") for j in joints_of(build).joints)
