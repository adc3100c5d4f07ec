"""Every figure of builds changed at random, as it was when it was last read over (see
test_figures.py): the demos and the sound builds, each with some fields of its document set to what
stands there in another, or to another number, and with parts put in, doubled, turned or taken out.
Run `python tests/unit/test_figures_changed.py` to write the file anew.
"""

import json
import sys
from collections import defaultdict
from collections.abc import Iterator
from functools import cache
from itertools import islice
from pathlib import Path
from random import Random
from typing import Any

TESTS = Path(__file__).parents[1]
sys.path[:0] = [str(TESTS / "kit"), str(TESTS / "judgement"), str(Path(__file__).parent)]

import pytest  # noqa: E402
from figures import Figures, as_read_over, gathered, write_anew  # noqa: E402
from test_figures import of_cases, of_proofs, of_sheets, of_wires  # noqa: E402
from test_judgement import SOUND, sound  # noqa: E402

from tall_heron.core.base.errors import BuildErrors  # noqa: E402
from tall_heron.core.design import design  # noqa: E402
from tall_heron.core.document.build import Build, validate  # noqa: E402
from tall_heron.core.editing import topology  # noqa: E402
from tall_heron.core.editing.additions import ADDITIONS  # noqa: E402
from tall_heron.core.editing.demo import demo_builds  # noqa: E402
from tall_heron.core.editing.wiring import wire_by_rule  # noqa: E402
from tall_heron.core.fixing.act import Wrong  # noqa: E402
from tall_heron.core.fixing.fixes import CANDIDATES, lacking  # noqa: E402
from tall_heron.core.hydraulics.vessel import make_tank  # noqa: E402
from tall_heron.core.prove.car import drive_text, switchable  # noqa: E402
from tall_heron.core.prove.log_file import read_log  # noqa: E402
from tall_heron.core.prove.log_head import read_head  # noqa: E402
from tall_heron.core.prove.predict import Predictor  # noqa: E402
from tall_heron.core.prove.replay import replay  # noqa: E402
from tall_heron.core.routing.suggest import suggestions  # noqa: E402
from tall_heron.core.rules import every_cause  # noqa: E402
from tall_heron.core.rules.route import laid_of  # noqa: E402
from tall_heron.core.sizing.auto_size import proposed  # noqa: E402
from tall_heron.core.sizing.other_fuels import make_fuel_rows  # noqa: E402
from tall_heron.core.sizing.swaps import first_swaps  # noqa: E402
from tall_heron.core.study.slosh.drive_file import shipped  # noqa: E402
from tall_heron.core.study.slosh.drive_flows import run_flows, run_tanks  # noqa: E402
from tall_heron.core.study.slosh.slosh_run import slosh  # noqa: E402
from tall_heron.core.study.study import Study, make_study  # noqa: E402

STORED = "figures_changed.txt"
BUILDS = 8  # under one title
TITLES = 8
FIELDS = 5  # of a document that are changed
NAMES = {"id", "kind", "law", "name", "ports", "start", "end"}  # what a change of only tears apart
Place = tuple[str | int, ...]


def leaves(data: Any, at: Place = ()) -> Iterator[tuple[Place, Any]]:
    """Every figure, choice and word of a document, with its place."""
    if isinstance(data, dict):
        for key, value in data.items():
            if key not in NAMES:
                yield from leaves(value, (*at, key))
    elif isinstance(data, list):
        for i, value in enumerate(data):
            yield from leaves(value, (*at, i))
    else:
        yield at, data


def key_of(place: Place) -> str:
    return next(str(x) for x in reversed(place) if isinstance(x, str))


def wired(build: Build) -> Build:
    try:
        return build if build.wiring else wire_by_rule(build)
    except BuildErrors:
        return build  # no pump with a motor of its own


@cache
def bases() -> list[Build]:
    return [*demo_builds(wired=True).values(), *(wired(sound(row["name"])) for row in SOUND)]


@cache
def words() -> dict[str, list[Any]]:
    """What stands in each field of some build."""
    known: dict[str, set[str]] = defaultdict(set)
    for build in bases():
        for place, value in leaves(build.model_dump(mode="json")):
            known[key_of(place)].add(json.dumps(value))
    return {key: [json.loads(x) for x in sorted(values)] for key, values in known.items()}


def altered_field(build: Build, rnd: Random) -> Build:
    data = build.model_dump(mode="json")
    place, value = rnd.choice(list(leaves(data)))
    if isinstance(value, int | float) and not isinstance(value, bool) and rnd.random() < 0.6:
        value = type(value)(value * rnd.choice([0.3, 0.7, 1.5, 3.0])) or 1
    else:
        value = rnd.choice(words()[key_of(place)])
    at = data
    for key in place[:-1]:
        at = at[key]
    at[place[-1]] = value
    return validate(data)


def altered_circuit(build: Build, rnd: Random) -> Build:
    part = rnd.choice(build.circuit.elements).id
    act = rnd.choice(
        [
            topology.take_out,
            topology.second_pump,
            topology.turn_round,
            *(x.add for x in ADDITIONS.values()),
        ]
    )
    made: Any = act(build, part)
    return made[0] if isinstance(made, tuple) else made


def changed(seed: int) -> Build:
    """A build with some changes, those left out that its document or an edit refuses."""
    rnd = Random(seed)
    build = rnd.choice(bases())
    for change in [altered_field] * FIELDS + [altered_circuit] * rnd.choice([0, 1, 2]):
        try:
            build = change(build, rnd)
        except (BuildErrors, ValueError):
            continue
    return build


def fixes(study: Study) -> Iterator[Any]:
    """What each way to clear a finding comes to, whether it clears it or not."""
    for finding in every_cause(study):
        wrong = Wrong(study, finding)
        yield finding, lacking(study, finding)
        for candidates in CANDIDATES.get(finding.rule, ()):
            try:
                for act in islice(candidates(wrong), 2):
                    made = act.make(study.build)
                    yield act.words, act.figures, made.circuit.elements, made.wiring, made.space
            except (BuildErrors, ValueError, StopIteration) as error:
                yield str(error)


def looked(study: Study) -> Iterator[Any]:
    made = design(study.build)
    yield made.every_finding, made.limits, made.whole
    if study.build.brief is not None:
        yield [(row.title, row.decided) for row in proposed(study.build, "cost").rows]


def flowing(study: Study) -> Iterator[Any]:
    """What each tank does on the first minute of a lap."""
    run = shipped("lap")
    for tank in run_tanks(study):
        flows, shape = run_flows(study, tank), make_tank(tank.properties)
        yield flows
        if flows is not None and shape is not None:
            yield slosh(shape, flows, run.times[:600], run.readings[:600], run.loads[:600], 0.4)


def replayed(study: Study) -> Iterator[Any]:
    faults = switchable(study)
    if faults:
        fault = faults[len(study.build.circuit.elements) % len(faults)]
        text = drive_text(study.build, fault, 2)
        log = read_log(text, read_head(text), study.peak.case.point.atmosphere)
        yield replay(Predictor(study), log) if log is not None else None


def laid(study: Study) -> Iterator[Any]:
    route = laid_of(study)
    yield route.lines, [suggestions(route, line) for line in list(route.lines.values())[:2]]


def sized(study: Study) -> Iterator[Any]:
    yield make_fuel_rows(study.build)
    for kind in ("pump", "regulator"):
        for element in study.build.circuit.of_kind(kind)[:1]:
            yield first_swaps(study, "peak", element)


ROOMS = {
    "cases": of_cases,
    "flowing": flowing,
    "laid": laid,
    "sized": sized,
    "looked": looked,
    "fixes": fixes,
    "sheets": of_sheets,
    "wires": of_wires,
    "proofs": of_proofs,
    "replayed": replayed,
}
FIRST_ALONE = ("replayed",)  # what takes long is looked at for the first under each title


def made(first: int) -> Iterator[tuple[str, Figures]]:
    studies = [make_study(changed(seed)) for seed in range(first, first + BUILDS)]
    for name, room in ROOMS.items():
        results = []
        for study in studies[:1] if name in FIRST_ALONE else studies:
            try:
                results.append(list(room(study)))
            except (BuildErrors, ValueError) as error:
                results.append([str(error)])
        yield f"from {first}, {name}", gathered(results, name)


@pytest.mark.figures
@pytest.mark.sweep
@pytest.mark.parametrize("first", range(0, TITLES * BUILDS, BUILDS))
def test_no_figure_of_a_changed_build_moves_unread(first: int) -> None:
    as_read_over(STORED, made(first))


if __name__ == "__main__":
    write_anew(STORED, (x for first in range(0, TITLES * BUILDS, BUILDS) for x in made(first)))
