"""What a test says is what its picture shows: the circuit solved anew with just the pumps that are
drawn as running, their volts, and the engine as the words have it.
"""

import re

import pytest
from first_lines import LINES

from tall_heron.core.begin.started import start
from tall_heron.core.document.build import Build
from tall_heron.core.editing.change_layout import change_layout
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.editing.wiring import wire_by_rule
from tall_heron.core.prove.predict import Predictor
from tall_heron.core.prove.proof import Proof
from tall_heron.core.prove.proofs import proofs
from tall_heron.core.study.inlet import inlet_of
from tall_heron.core.study.study import make_study
from tall_heron.core.study.what_if import make_what_if
from tall_heron.web.stations.prove.setup import drawn_setup

STAGED = (
    "V8 5.3 L turbo 1200 hp E85 58 psi + 20 staged pumps",
    "V8 6.2 L turbo 1000 hp E85 4 bar + 1.2 bar, second pump staged",
    "six 3.0 L turbo 900 hp E50 staged pumps 3 bar + 30 psi",
)
OTHERS = (
    "drag V8 8.2 L 2000 hp methanol 60 psi + 38 engine driven pump",
    "low wing, 160 hp, flat four, 5.2 L, carburetor",
    "circuit V8 5.2 L 560 hp E10 4 bar surge tank",
)
BUILDS = {**demo_builds(wired=True), **dict.fromkeys((*STAGED, *OTHERS))}
AS_C8 = " laid out with staged pumps"
C8 = [
    *(f"{name}{AS_C8}" for name in ("bittern", "curlew")),
    *(pytest.param(f"{line}{AS_C8}", marks=pytest.mark.sweep) for line in LINES),
]


def made(name: str) -> Build:
    """A build by its name or line, with staged pumps where the name asks for them and the engine is
    boosted.
    """
    line = name.removesuffix(AS_C8)
    build = BUILDS.get(line) or start(line).sized
    if line == name or build.brief is None or build.circuit.template == "C8":
        return build
    if (
        not LAYOUTS["C8"].sensible(build.brief)
        or build.brief.carbureted
        or build.brief.use == "flight"
    ):
        pytest.skip("it asks for no staged pumps")
    return wire_by_rule(change_layout(build, "C8").build)


def pictured(build: Build, proof: Proof) -> set[str]:
    """The pumps that a picture has running: all but those that its words call off."""
    pump = next((d for d in drawn_setup(build.circuit, proof) if d.kind == "pump"), None)
    off = (
        set(re.findall(r"\S+", pump.note.removesuffix(" off")))
        if pump is not None and pump.note
        else set()
    )
    return {e.id for e in build.circuit.of_kind("pump")} - off


@pytest.mark.parametrize("name", [*BUILDS, *C8])
def test_what_is_said_is_what_the_picture_runs(name: str) -> None:
    build = made(name)
    bench = Predictor(make_study(build))
    study, checked = bench.study, 0
    brief, idle = study.brief, study.cases["idle"]
    pumps = study.build.circuit.of_kind("pump")
    for p in proofs(bench):
        setup = p.setup
        if setup is None or setup.reads in ("caught", "duty"):
            continue
        idles = "idle" in str(p.row["set_up"])
        off = [
            e.id
            for e in pumps
            if e.id not in pictured(build, p) and e.figures.law != "displacement"
        ]
        manifold = (
            idle.point.manifold_kpa
            if idles
            else setup.manifold / 1000
            if p.name == "follow"
            else 0.0
        )
        volts = setup.volts if setup.at_pump else None
        point = study.peak.case.point.model_copy(
            update={
                "name": "as pictured",
                "manifold_kpa": manifold,
                "engine_rpm": idle.point.engine_rpm if idles else 0.0,
                "off": off,
                "temperature_c": 20.0,
                "voltage_v": volts or brief.voltage_v,
            }
        )
        if p.name == "base":
            point = point.model_copy(update={"manifold_kpa": 0.0})
        engine = (
            study.what_if
            if volts is None and study.what_if.harness is not None
            else make_what_if(study.build.circuit)
        )
        found = engine.at(
            point.model_copy(
                update={"off": [*off, *(e.id for e in study.build.circuit.of_kind("auxiliary"))]}
            ),
            idle.demand if idles else 0.0,
        )
        assert found.converged, p.key
        reads = {
            "rail": lambda s=found: study.rail_pressure(s),
            "node": lambda s=found, x=setup: s.pressure(x.place),
            "inlet": lambda s=found, x=setup: inlet_of(study.build.circuit, x.place).pressure(s),
            "drop": lambda s=found, x=setup: s.link(x.place).loss,
            "amps": lambda s=found, x=setup: s.current(x.place),
            "volts": lambda s=found, x=setup: s.voltage(x.place),
        }
        said, now = bench.predict(setup), reads[setup.reads]()
        if p.name == "base" and idles:
            assert said == pytest.approx(now, rel=0.02), (
                p.key
            )  # the reference is off, the engine's vacuum is not
        else:
            assert said == pytest.approx(
                now,
                rel=1e-3,
                abs=20.0 if setup.reads in ("rail", "node", "inlet", "drop") else 1e-3,
            ), p.key
        checked += 1
    assert checked or not pumps


@pytest.mark.parametrize("name", STAGED)
def test_staged_pumps_are_read_alone_and_together(name: str) -> None:
    bench = Predictor(make_study(made(name)))
    pumps = bench.study.build.circuit.of_kind("pump")
    assert any(p.stage for p in pumps)
    said = {p.key: bench.predict(p.setup) for p in proofs(bench) if p.setup is not None}
    for e in pumps:
        assert said[f"amps {e.id}"] > 1
        assert said[f"amps {e.id} all pumps on"] > 1
        assert said[f"volts {e.id} all pumps on"] < said[f"volts {e.id}"]
    filters = [e.id for e in bench.study.build.circuit.of_kind("filter")]
    assert all(f"drop {f} all pumps on" in said for f in filters)
    one, both = said["base"], said["base all pumps on"]
    assert both >= one
