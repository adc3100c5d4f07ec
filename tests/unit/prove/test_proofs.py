"""Tests of a build: worked numbers of the handbook, what is said against EPANET, verdicts, entries
that cannot be changed, upkeep, the rig.
"""

import dataclasses
import json
import math
import re
import subprocess
import sys
from pathlib import Path
from typing import Any

import pytest
from epanet import run as epanet
from kept import kept_log

from tall_heron.core.base.constants import CELSIUS, LPH, PSI
from tall_heron.core.document.figures import Injectors, PumpMap, Regulator
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.line.reading import read_line
from tall_heron.core.prove.amount import read_caught
from tall_heron.core.prove.entry import (
    BrokenLog,
    Correction,
    Note,
    Reading,
    Upkeep,
    check_chain,
    entry_hash,
    entry_text,
    read_entry,
    record_file,
)
from tall_heron.core.prove.faults import Fault
from tall_heron.core.prove.predict import SOUND, Predictor, Setup
from tall_heron.core.prove.proof import Proof
from tall_heron.core.prove.proof_limits import boiling
from tall_heron.core.prove.proof_limits import test_pressure as pressure_of_leak_test
from tall_heron.core.prove.proofs import over_rating, proofs, usual
from tall_heron.core.prove.rig import WrongRig, measured_map, read_rig, rig_rows, rig_text
from tall_heron.core.prove.state import (
    DOUBTFUL,
    OFF,
    WITHIN,
    folded,
    instrument_doubt,
    judged,
    model_doubt,
)
from tall_heron.core.prove.state import tested as every_test
from tall_heron.core.prove.upkeep import due
from tall_heron.core.sizing.first_build import first_brief, first_build
from tall_heron.core.study.cases.worst_cylinder import worst_cylinder
from tall_heron.core.study.study import make_study

ROOT = Path(__file__).parents[3]


@pytest.fixture(scope="module")
def predictor() -> Predictor:
    return Predictor(make_study(demo_builds()["bittern"]))


def proof(predictor: Predictor, key: str) -> Proof:
    return next(p for p in proofs(predictor) if p.key == key)


def test_worked_by_hand() -> None:
    """Check values, common practice: 2 US gal in 72 s are 100 US gal/h, 378.5 L/h; 1.09 kg in 60 s
    at 0.742 kg/L are 88.1 L/h. A US gallon is 231 cubic inches (NIST SP 811).
    """
    for text in (
        "2 US gal in 72 s",
        "2 gal in 72 s",
        "2 usgal in 1.2 min",
        "2 US gallons in 72 seconds",
    ):
        assert read_caught(text, 742, "l/h").flow / LPH == pytest.approx(378.54, abs=0.01)
    caught = read_caught("1.09 kg in 60 s", 742, "l/h")
    assert caught.flow / LPH == pytest.approx(88.1, abs=0.05)
    assert caught.steps == ("1.090 kg ÷ 0.7420 kg/L ÷ 60.0 s × 3,600 = 88.14 L/h",)
    assert (
        read_caught("5 L in 3 min 2 s", 742, "l/h").flow
        == read_caught("5 L in 3:02", 742, "l/h").flow
        == pytest.approx(5e-3 / 182)
    )
    for typed, flow in (("2,260 L/h", 2260), ("2,260", 2260), ("2,26", 2.26)):
        assert read_caught(typed, 742, "l/h", near=2281 * LPH).flow == pytest.approx(flow * LPH)
    assert read_caught("2,260 L/h", 742, "l/h", near=2.3 * LPH).flow == pytest.approx(2.26 * LPH)
    assert read_caught("88", 742, "l/h").flow == read_caught("88 L/h", 742, "gph").flow
    wrongs = (
        ("2 in 60 s", "liters, gallons or kilograms"),
        ("2 quarts in 3 s", "not a unit known"),
        ("2 L in 0 s", "the time it took"),
        ("-1 kg in 3 s", "above zero"),
    )
    for wrong, says in (*wrongs, ("some", "not a number")):
        with pytest.raises(ValueError, match=says):
            read_caught(wrong, 742, "l/h")


def test_a_joint_at_80_psi_is_tested_at_120(predictor: Predictor) -> None:
    """1.5 times working pressure (handbook 5); a weaker part lowers it, but never under what it
    works at.
    """
    study = predictor.study
    assert max(study.asked(s) for s in study.solved.values()) == pytest.approx(80 * PSI)
    assert pressure_of_leak_test(study)[0] == pytest.approx(120 * PSI)
    weak = [
        e.model_copy(update={"properties": e.properties.model_copy(update={"working_kpa": 600.0})})
        if e.id == "F2"
        else e
        for e in study.build.circuit.elements
    ]
    build = study.build.model_copy(
        update={"circuit": study.build.circuit.model_copy(update={"elements": weak})}
    )
    assert pressure_of_leak_test(make_study(build)) == (600e3, "2 % of it; F2 is made for no more")


def test_what_is_caught_is_what_epanet_says(predictor: Predictor) -> None:
    """The way back shut, the injectors as a valve: at the flow that is said EPANET's rail stands at
    the pressure it is caught at (EPANET 2.2 through wntr, whose check valves crack at nothing).
    """
    build = predictor.study.build
    free = [
        e.model_copy(update={"figures": e.figures.model_copy(update={"cracking_kpa": 0.0})})
        if e.kind == "check"
        else e
        for e in build.circuit.elements
    ]
    predictor = Predictor(
        make_study(
            build.model_copy(
                update={"circuit": build.circuit.model_copy(update={"elements": free})}
            )
        )
    )
    for alone, kpa in ((("P1", "P2"), 400.0), (("P1",), 500.0), (("P2",), 250.0)):
        setup = Setup("caught", alone=alone, against=kpa * 1000, volts=13.5, kelvin=20 + CELSIUS)
        predicted = predictor.predict(setup)
        assert predicted is not None
        elements = []
        for e in predictor.study.build.circuit.elements:
            part = e.figures
            if isinstance(part, Regulator):
                part = part.model_copy(update={"set_kpa": 19_000.0, "slope_kpa_per_lph": 0.0})
            if isinstance(part, Injectors):
                part = part.model_copy(update={"rated_lph": None})
            elements.append(e.model_copy(update={"figures": part}))
        circuit = predictor.study.build.circuit.model_copy(update={"elements": elements})
        point = predictor.point(setup)
        injectors = next(e.figures for e in elements if isinstance(e.figures, Injectors))
        commanded = (
            predicted / LPH * math.sqrt(injectors.commanded_at_kpa / (kpa - point.manifold_kpa))
        )
        pressures, flows = epanet(
            predictor.study.build.model_copy(update={"circuit": circuit}),
            point.model_copy(update={"demand_lph": commanded}),
        )
        node = next(e.ports["start"] for e in elements if e.kind == "injectors")
        assert pressures[node] == pytest.approx(kpa * 1000, rel=2e-3), (alone, kpa)
        assert flows["J1"] == pytest.approx(predicted, rel=2e-3)


def test_every_demo_build_has_tests_that_its_circuit_asks_for() -> None:
    for slug, build in demo_builds(wired=True).items():
        b = Predictor(make_study(build))
        made = proofs(b)
        assert [p.number for p in made] == list(range(1, len(made) + 1))
        assert len({p.key for p in made}) == len(made)
        for p in made:
            if p.setup is not None:
                predicted = b.predict(p.setup)
                assert predicted is not None, (slug, p.key)
                assert math.isfinite(predicted), (slug, p.key)
                assert 0 <= model_doubt(b, p.setup) < max(abs(predicted), 3e3), (slug, p.key)
            assert p.setup is not None or p.limit is not None or p.name in ("noise", "soak"), (
                slug,
                p.key,
            )
        pumps = {e.id for e in b.study.feed_path.pumps if isinstance(e.figures, PumpMap)}
        assert {p.part for p in made if p.name == "flow"} == pumps
        assert any(p.name == "gravity" for p in made) == (not build.circuit.of_kind("pump"))


def test_no_set_up_presses_a_part_beyond_its_rating() -> None:
    """A float needle holds 9 psi, common practice: 7 psi and 7.25 of a hand pump on a blow-through
    regulator's hat would flood the engine.
    """
    line = read_line("blown V8 7.0 L carburetor 650 hp, 7 psi + 8")
    blown = first_build(
        "blown", first_brief(line.fields, line.layout), {}, line.layout, line.banks
    ).sized
    for build in (blown, *demo_builds(wired=True).values()):
        b = Predictor(make_study(build))
        for p in proofs(b):
            assert p.setup is None or over_rating(b, p.setup) is None, (build.name, p.key)
    b = Predictor(make_study(blown))
    leak = next(p for p in proofs(b) if p.name == "leak")
    assert leak.x == pytest.approx(
        max(9 * PSI, max(b.study.asked(s) for s in b.study.solved.values())), rel=2e-3
    )
    follow = next((p for p in proofs(b) if p.name == "follow"), None)
    assert follow is None or (follow.setup is not None and follow.setup.manifold < 50e3)
    hard = Setup("rail", manifold=50e3, volts=13.0)
    over = over_rating(b, hard)
    assert over is not None
    assert over.part == "C1"
    assert over.stands > over.most == 62e3


def test_pumps_must_stop_within_what_the_cut_off_takes() -> None:
    """Bittern's control unit lets go after 1.0 s (its wiring); a second more is allowed for ears."""
    build = demo_builds(wired=True)["bittern"]
    assert build.wiring is not None
    limit = proof(Predictor(make_study(build)), "stop").limit
    assert limit is not None
    assert limit.most == pytest.approx(build.wiring.cut_off.control_unit_s + 1.0)
    assert not [
        p
        for p in proofs(Predictor(make_study(demo_builds(wired=True)["egret"])))
        if p.name == "stop"
    ]  # in flight nothing stops them by itself


def test_what_wires_lose_by_hand() -> None:
    """Ohm's law over the wires of Bittern at peak: earth R I of its own pump, relay R I of all
    behind it.
    """
    study = make_study(demo_builds(wired=True)["bittern"])
    harness, rows = study.what_if.harness, {p.key: p for p in proofs(Predictor(study))}
    assert harness is not None
    amps = {p: study.peak.solution.links[p].current or 0.0 for p in ("P1", "P2")}
    assert rows["earth P1"].predicted == pytest.approx(harness.feeds["P1"].back.ohm * amps["P1"])
    contact = harness.relays[harness.feeds["P1"].branch.relay]
    assert rows["relay P1"].predicted == pytest.approx(
        contact.shared * sum(amps[p] for p in contact.pumps)
    )


def test_aircraft_flow_is_held_to_125_or_150_per_cent() -> None:
    """14 CFR 23.955 before 2017, from memory: 125 % by each pump, 150 % by gravity, of the take-off
    burn.
    """
    for slug, key, times in (("egret", "flow P1", 1.25), ("plover", "gravity", 1.5)):
        b = Predictor(make_study(demo_builds()[slug]))
        limit = proof(b, key).limit
        assert limit is not None
        assert limit.least == pytest.approx(times * b.study.fuel_demand.volume_flow)


def test_verdicts_by_model_and_instrument(predictor: Predictor) -> None:
    p = proof(predictor, "flow P1")
    conditions = usual(predictor.study, p)
    predicted = predictor.predict(p.at(conditions).setup)  # type: ignore[arg-type]
    assert predicted is not None
    band, doubt = model_doubt(predictor, p.at(conditions).setup), 0.01 * predicted  # type: ignore[arg-type]
    for value, verdict in (
        (predicted, WITHIN),
        (predicted - 0.9 * band, WITHIN),
        (predicted - band - 0.5 * doubt, DOUBTFUL),
        (predicted - band - 1.5 * doubt, OFF),
        (predicted + band + 1.5 * doubt, OFF),
    ):
        assert (
            judged(
                predictor, p, Reading(proof=p.key, value=value, conditions=conditions, doubt=doubt)
            ).verdict
            == verdict
        )
    low = {**conditions, "volts": conditions["volts"] - 2}
    assert (
        judged(
            predictor, p, Reading(proof=p.key, value=predicted, conditions=low, doubt=doubt)
        ).verdict
        == OFF
    )  # at another voltage it should give less
    leak = proof(predictor, "leak")
    most = leak.limit.most  # type: ignore[union-attr]
    assert most is not None
    for value, verdict in ((0.0, WITHIN), (1.01 * most, DOUBTFUL), (2 * most, OFF)):
        assert (
            judged(predictor, leak, Reading(proof="leak", value=value, doubt=0.1 * most)).verdict
            == verdict
        )
    soak = proof(predictor, "soak")
    hot = boiling(predictor.study, 80 + CELSIUS)
    assert hot > 0
    assert (
        judged(
            predictor,
            soak,
            Reading(proof="soak", value=hot + 1e4, conditions={"celsius": 80 + CELSIUS}),
        ).verdict
        == WITHIN
    )
    assert (
        judged(
            predictor,
            soak,
            Reading(proof="soak", value=hot - 1e4, conditions={"celsius": 80 + CELSIUS}),
        ).verdict
        == OFF
    )
    # Fuel shut into the rail rises with heat until the regulator lets it on: more than a tenth over
    # base says that it does not.
    assert (
        judged(
            predictor,
            soak,
            Reading(
                proof="soak",
                value=1.3 * predictor.study.brief.base,
                conditions={"celsius": 80 + CELSIUS},
            ),
        ).verdict
        == OFF
    )


def test_instruments_by_their_rows(predictor: Predictor) -> None:
    """Design: can 1 %, stopwatch 0.3 s, gauge 1.6 % of full scale (EN 837-1), scale 5 g, multimeter
    0.5 % and a digit.
    """
    flow, base, volts = proof(predictor, "flow P1"), proof(predictor, "base"), Setup("volts")
    can = read_caught("4 L in 60 s", 750, "l/h")
    assert instrument_doubt(predictor, "can", flow, can.flow, can) / can.flow == pytest.approx(
        math.hypot(0.01, 0.3 / 60)
    )
    weighed = read_caught("1 kg in 30 s", 750, "l/h")
    assert instrument_doubt(
        predictor, "scale", flow, weighed.flow, weighed
    ) / weighed.flow == pytest.approx(math.hypot(0.005, 0.01))
    assert instrument_doubt(predictor, "gauge", base, 4e5) == pytest.approx(
        0.016 * 7e5
    )  # 80 psi asked: a gauge to 7 bar
    assert instrument_doubt(
        predictor,
        "multimeter",
        dataclasses.replace(base, row={**base.row, "quantity": "voltage"}),
        13.5,
    ) == pytest.approx(0.0775)
    assert volts.at_pump


def test_a_log_shows_every_change() -> None:
    kept = kept_log(Note(note="one"), Note(note="two"), Note(note="three"))
    check_chain(kept)
    with pytest.raises(BrokenLog, match="entry 2 is not what was kept"):
        read_entry(
            2, kept[1].at, kept[1].text.replace("two", "too"), kept[1].before, kept[1].sha256
        )
    with pytest.raises(BrokenLog, match="entry 2 is missing"):
        check_chain([kept[0], kept[2]])
    # An entry made anew with a hash of its own no longer leads to the next.
    text = entry_text(Note(note="too"))
    forged = read_entry(
        2, kept[1].at, text, kept[0].sha256, entry_hash(kept[0].sha256, 2, kept[1].at, text)
    )
    with pytest.raises(BrokenLog, match="entry 3 does not follow"):
        check_chain([kept[0], forged, kept[2]])


def test_corrections_take_the_place_of_what_they_name(predictor: Predictor) -> None:
    first = Reading(proof="base", value=3.0e5, verdict="off")
    right = Reading(
        proof="base", value=predictor.predict(Setup("rail", reference=False, volts=13.5)) or 0.0
    )
    kept = kept_log(
        first,
        Correction(corrects=1, because="Wrong gauge.", instead=right),
        Note(note="x"),
        Correction(corrects=3, because="not this build"),
    )
    state = folded(kept)
    assert [(k.number, r.value) for k, r in state.readings] == [(2, right.value)]
    assert state.notes == ()
    row = next(t for t in every_test(predictor, proofs(predictor), state) if t.proof.key == "base")
    assert row.verdict == WITHIN
    assert len(row.readings) == 1


def test_the_record_verifies_itself_with_the_lines_that_are_printed(tmp_path: Path) -> None:
    """The twenty lines of docs/prove.md, run as they stand, on a sound record and on one that was
    changed.
    """
    lines = re.search(
        r"```python\n(.*?)```", (ROOT / "docs/prove.md").read_text(encoding="utf-8"), re.DOTALL
    )
    assert lines is not None
    assert len(lines[1].splitlines()) <= 20
    (tmp_path / "verify.py").write_text(lines[1], encoding="utf-8")
    kept = kept_log(Note(note="ünö"), Note(note="two"))
    record = record_file("B", kept, ['{"a": 1}', "{}"])

    def reworded(r: dict[str, Any]) -> None:
        r["entries"][0]["text"] = r["entries"][0]["text"].replace("ünö", "uno")

    def refrozen(r: dict[str, Any]) -> None:
        r["frozen"] = {name: text + " " for name, text in r["frozen"].items()}

    for change, sound in (
        (lambda r: None, True),
        (refrozen, False),
        (reworded, False),
        (lambda r: r["entries"].pop(0), False),
    ):
        copy = json.loads(json.dumps(record))
        change(copy)
        (tmp_path / "record.json").write_text(json.dumps(copy), encoding="utf-8")
        done = subprocess.run(
            [sys.executable, str(tmp_path / "verify.py"), str(tmp_path / "record.json")],
            capture_output=True,
            text=True,
            check=False,
        )
        assert (done.returncode == 0) == sound, done.stdout + done.stderr


def test_upkeep_falls_due_by_what_the_build_holds_and_the_log_says() -> None:
    build = demo_builds()["bittern"]

    def day(at: str) -> int:
        return 1000 + int(at[8:10])

    state = folded(kept_log(Note(note="begun"), Upkeep(item="ties", day=1300)))
    rows = {d.name: d for d in due(build, state, 1400, day)}
    assert rows["ties"].day == pytest.approx(1300 + 365, abs=1)
    assert rows["ties"].stands == "later"
    assert rows["prefilter"].stands == "late"
    assert "F2" in rows["prefilter"].parts
    assert rows["filter"].stands == "late"
    assert rows["ptfe"].stands == "later"
    assert "drain" not in rows
    assert rows["rubber"].parts == ("H1",)  # the one hose in the tank; all others are PTFE
    assert set(rows["ptfe"].parts) == {
        e.id for e in build.circuit.elements if e.id.startswith("H")
    } - {"H1"}
    assert "prefilter" not in {
        d.name
        for d in due(
            demo_builds()["stonechat"].model_copy(
                update={"brief": demo_builds()["stonechat"].brief.model_copy(update={"fuel": "E5"})}
            ),
            state,
            1400,
            day,
        )
    }  # type: ignore[union-attr]
    # 1.0 times clean on day 1001, 1.2 times on day 1011: twice after 50 days (a straight line).
    trend = folded(
        kept_log(
            Reading(proof="drop F2", value=1e4, predicted=1e4),
            *[Note(note="x")] * 9,
            Reading(proof="drop F2", value=1.2e4, predicted=1e4),
        )
    )
    found = {d.name: d for d in due(build, trend, 1010, day)}["filter"]
    assert found.day == pytest.approx(1051, abs=1)
    assert "1.20 times" in found.why


def test_the_rig_is_read_back_and_its_points_make_the_pump(predictor: Predictor) -> None:
    study = predictor.study
    text = rig_text(rig_rows(study, "P1", SOUND, 5))
    points = read_rig(text)
    assert len(points) == 8
    old, new = study.build.circuit.element("P1"), None
    assert old is not None
    new = measured_map(old, points)
    assert new.properties.provenance == "measured"
    assert isinstance(old.figures, PumpMap)
    assert isinstance(new.figures, PumpMap)
    # What the rig's own fuel and volts give by the sheet: within its noise at every point (affinity
    # of the map at 13.5 V is the circuit's own, read back here from the file).
    worn = read_rig(rig_text(rig_rows(study, "P1", Fault("worn", "P1", 0.8), 5)))
    at = min(points, key=lambda p: abs(p.pressure - study.brief.base - study.brief.boost))
    there = min(worn, key=lambda p: abs(p.pressure - at.pressure))
    assert there.flow / at.flow == pytest.approx(0.8, abs=0.06)
    short = "\n".join(text.splitlines()[:20])
    wrongs = (
        ("", "give a line of headers"),
        ("time (s),pressure (kPa)\n1,2\n2,3\n3,4\n", "no column holds flow"),
        (text.replace(",4", ",x", 1), "is not a number"),
    )
    for wrong, says in (*wrongs, (short, "Fewer than three steps")):
        with pytest.raises(WrongRig, match=says):
            read_rig(wrong)


def test_matched_injectors_feed_the_worst_cylinder(predictor: Predictor) -> None:
    from tall_heron.core.editing.measured import with_spread

    before = worst_cylinder(predictor.study)
    after = worst_cylinder(make_study(with_spread(predictor.study.build, 0.01)))
    assert before is not None
    assert after is not None
    # 3 % by the house against 1 % as measured: the leaner share goes with 1 / (1 - spread).
    assert (1 + before.leaner) / (1 + after.leaner) == pytest.approx(0.99 / 0.97, rel=1e-6)
    assert any("as measured" in s for s in after.why.steps)
