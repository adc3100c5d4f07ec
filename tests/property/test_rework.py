"""Random changes to circuits: none crashes, each result solves or says what stands in the way, and
undo gives back what was, byte for byte.
"""

import hashlib
from pathlib import Path
from random import Random

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.design import design
from tall_heron.core.document.build import Brief, Build, dump, load
from tall_heron.core.editing import topology as rework
from tall_heron.core.editing.additions import ADDITIONS
from tall_heron.core.editing.change_layout import change_layout
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import fit, set_length
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.shelf.shelf import swaps_for
from tall_heron.core.study.study import make_study
from tall_heron.store import builds, db
from tall_heron.web.drawing.circuit.circuit import draw_circuit
from tall_heron.web.drawing.circuit.sketch import draw_sketch

FLIGHT = {
    "power_kw": 112,
    "fuel": "100LL",
    "use": "flight",
    "voltage_v": 14,
    "peak_rpm": 2700,
    "cylinders": 4,
}


def starts() -> list[Build]:
    out = list(demo_builds().values())
    for key in ("C3", "C7", "C10", "A2", "A3", "A4"):
        layout = LAYOUTS[key]
        brief = demo_builds()["bittern"].brief
        if layout.craft == "air":
            fed = (
                {"base_kpa": 300}
                if layout.feeding == "injection"
                else {"base_kpa": 20, "feeding": "carburettor"}
            )
            brief = Brief.model_validate(FLIGHT | fed)
        assert brief is not None
        out.append(Build(name=key, brief=brief, circuit=layout.build(brief)))
    return out


STARTS = starts()


def added(rnd: Random, build: Build, element_id: str) -> Build:
    """One random addition behind a part, or before it."""
    addition = rnd.choice([*ADDITIONS.values()])
    if addition.through and rnd.random() < 0.4:
        return rework.insert(build, element_id, addition.through, True)[0]
    return addition.add(build, element_id)[0]


def changed(rnd: Random, build: Build) -> Build:
    """One random change; the same build where it is refused in words."""
    element = rnd.choice(build.circuit.elements)
    port = rnd.choice([*element.ports] or ["none"])
    acts = {
        "insert": lambda: added(rnd, build, element.id),
        "out": lambda: rework.take_out(build, element.id),
        "split": lambda: rework.split(build, element.id)[0],
        "second": lambda: rework.second_pump(build, element.id)[0],
        "tap": lambda: rework.add_tap(
            build, element.id, rnd.choice(["gauge-10bar", "spurge-tap-60"])
        )[0],
        "turn": lambda: rework.turn_round(build, element.id),
        "height": lambda: rework.set_height(build, element.id, port, rnd.uniform(-500, 1500)),
        "level": lambda: rework.set_level(build, element.id, rnd.uniform(0, 400)),
        "rejoin": lambda: rework.rejoin(
            build, element.id, port, rnd.choice(build.circuit.nodes).id
        ),
        "length": lambda: set_length(build, element.id, rnd.uniform(50, 6000)),
        "swap": lambda: (
            fit(build, element.id, rnd.choice(swaps_for(element)).name)
            if swaps_for(element)
            else build
        ),
        "layout": lambda: change_layout(build, build.circuit.template or "C1").build,
    }
    act = rnd.choices([*acts], weights=[5, 4, 3, 2, 2, 1, 3, 1, 2, 2, 3, 0.2])[0]
    try:
        return acts[act]()
    except BuildErrors as refused:
        if not all(e.message for e in refused.errors):
            pytest.fail(f"{act} is refused without a word")
        return build


@settings(max_examples=100)
@given(seed=st.integers(0, 10**9))
def test_thirty_random_changes_solve_or_explain(seed: int) -> None:
    rnd = Random(seed)
    build = rnd.choice(STARTS)
    begun = build
    before = dump(begun)
    for _ in range(30):
        build = changed(rnd, build)
    assert dump(begun) == before, "a change touched the old document"
    assert load(dump(build)) == build
    study = make_study(build, ("peak",))
    peak = study.peak.solution
    assert peak.converged or (peak.part and peak.reason), peak


@settings(max_examples=25)
@given(seed=st.integers(0, 10**9))
def test_whatever_comes_of_it_is_judged_and_drawn(seed: int) -> None:
    rnd = Random(seed)
    build = rnd.choice(STARTS)
    for _ in range(30):
        build = changed(rnd, build)
    made = design(build)
    for solved in made.study.solved.values():
        drawing = draw_circuit(made.study, solved, made.findings, "P1")
        assert len({s.element.id for s in drawing.symbols}) == len(drawing.symbols)
    draw_sketch(made.study)


@pytest.mark.parametrize("seed", range(4))
def test_undo_gives_back_every_document(tmp_path: Path, seed: int) -> None:
    rnd = Random(seed)
    build = rnd.choice(STARTS)
    with db.opened(tmp_path / "undo.sqlite") as connection:
        slug = builds.create(connection, build.name, dump(build), "Begun")
        hashes = [hashlib.sha256(dump(build).encode()).hexdigest()]
        while len(hashes) < 20:
            new = changed(rnd, build)
            row = builds.find(connection, slug)
            assert row is not None
            builds.save(connection, row["id"], row["head"], "Changed", dump(new))
            build = new
            hashes.append(hashlib.sha256(dump(build).encode()).hexdigest())
        for expected in reversed(hashes[:-1]):
            row = builds.find(connection, slug)
            assert row is not None
            builds.undo(connection, row["id"], row["head"])
            found = builds.find(connection, slug)
            assert found is not None
            assert (
                hashlib.sha256(found["document"].encode()).hexdigest()
                == expected
                == found["sha256"]
            )
            assert dump(load(found["document"])) == found["document"]
