"""A run beside its model: the grid against the circuit solved sample by sample, gaps, marks, and
what a run cannot tell; the stand-ins against the maps they are made from.
"""

import math

import numpy as np
import pytest
from kept import kept_log

from tall_heron.core.base.catalogue import text
from tall_heron.core.document.figures import PumpMap
from tall_heron.core.document.own_fuel import OwnFuel
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.prove.car import drive_text, switchable
from tall_heron.core.prove.entry import Match, Pours
from tall_heron.core.prove.faults import Fault, return_line
from tall_heron.core.prove.log_file import Log, read_log
from tall_heron.core.prove.log_head import read_head
from tall_heron.core.prove.predict import SOUND, Predictor, Setup
from tall_heron.core.prove.proofs import proofs
from tall_heron.core.prove.replay import replay
from tall_heron.core.prove.rig import read_rig, rig_rows, rig_text
from tall_heron.core.prove.samples import Table, moments_of, running
from tall_heron.core.prove.state import folded
from tall_heron.core.prove.state import tested as every_test
from tall_heron.core.study.study import Study, make_study


def test_the_demos_run_is_what_its_car_would_log() -> None:
    """It is a file, so that the demo is laid at once; driven again (with seed 7) it is the same."""
    kept = text("egret_ground_run.csv").splitlines()[1:]
    driven = drive_text(demo_builds(wired=True)["egret"], SOUND, 7).splitlines()
    assert len(kept) == len(driven)
    assert kept[0] == driven[0]
    for old, new in zip(kept[1:], driven[1:], strict=True):
        assert [float(x or 0) for x in old.split(",")] == pytest.approx(
            [float(x or 0) for x in new.split(",")], rel=1e-3, abs=0.011
        )


def log_of(study: Study, text: str) -> Log:
    log = read_log(text, read_head(text), study.peak.case.point.atmosphere)
    assert log is not None
    return log


@pytest.mark.parametrize(
    ("slug", "wired", "volts"),
    [
        ("bittern", True, 0.0),
        ("bittern", False, -3.0),
        ("dunlin", False, 0.0),
        ("curlew", False, -2.0),
    ],
)
def test_the_grid_says_what_the_circuit_does(slug: str, wired: bool, volts: float) -> None:
    """Where pumps are strong, at their end, and before a carburettor whose regulator feels boost
    alone: each of a hundred samples within 0.3 kPa, and at the pumps' end within 1.5.
    """
    study = make_study(demo_builds(wired=wired)[slug])
    predictor = Predictor(study)
    m = moments_of(predictor, log_of(study, drive_text(study.build, SOUND, 3)))
    m.volts = m.volts + volts
    found = Table(predictor, None, "").at(m, lambda: False, lambda _: None)
    assert found is not None
    off, ended = [], 0
    for i in np.random.default_rng(0).choice(len(m.fuel_demand), 100, replace=False).tolist():
        setup = Setup(
            "rail",
            alone=running(predictor, int(m.stage[i])),
            manifold=float(m.manifold[i]),
            fuel_demand=float(m.fuel_demand[i]),
            volts=float(m.volts[i]),
            at_pump=False,
        )
        exact = predictor.predict(setup)
        assert exact is not None
        off.append(abs(float(found[0][i]) - exact))
        ended += exact - float(m.manifold[i]) < 0.98 * study.brief.base and study.turns_back
    assert np.percentile(off, 90) < 300
    assert max(off) < 1500
    assert ended > 0 if slug == "bittern" and volts < -2 else True


def test_a_gap_breaks_and_bad_samples_move_nothing() -> None:
    study = make_study(demo_builds()["bittern"])
    lines = drive_text(study.build, Fault("reference", "PR", 0.5), 5).split("\r\n")
    gap = [lines[0], *lines[1:150], *lines[200:]]
    spoilt = [
        ",".join([*c[:3], "9999" if i % 37 == 5 else c[3], *c[4:]])
        if len(c := line.split(",")) > 4 and i
        else line
        for i, line in enumerate(gap)
    ]
    made = replay(Predictor(study), log_of(study, "\n".join(x for x in spoilt if x)))
    assert made is not None
    assert len(made.log.breaks) == 1
    at = made.log.breaks[0]
    assert made.log.time[at] - made.log.time[at - 1] > 5
    assert not any(
        m.start < made.log.time[at - 1] and m.end > made.log.time[at] for m in made.marks
    )
    assert made.verdict is not None
    assert made.verdict.named[0].fault.kind == "reference"
    assert made.verdict.named[0].fault.strength == pytest.approx(0.5, abs=0.04)
    assert any("as where the reference of PR is off or leaks" in m.why for m in made.marks)


def test_what_was_not_logged_is_said_to_be_unknown() -> None:
    study = make_study(demo_builds()["bittern"])
    rows = [line.split(",") for line in drive_text(study.build, SOUND, 6).split("\r\n") if line]
    text = "\n".join(",".join([r[0], r[1], r[3]]) for r in rows)  # time, speed and rail alone
    made = replay(Predictor(study), log_of(study, text))
    assert made is not None
    for part in (
        "the manifold's pressure was not logged",
        "voltage was not logged",
        "duty was not logged",
        "current was not logged",
        "acceleration was not logged",
    ):
        assert any(part in b for b in made.blind)
    slow = [rows[0], *(r for r in rows[1:] if float(r[1]) < 3000)]
    less = replay(Predictor(study), log_of(study, "\n".join(",".join(r) for r in slow)))
    assert less is not None
    assert any("nothing above 3,0" in b or "nothing above 2,9" in b for b in less.blind)
    assert less.band is None  # ten rows a second are too slow for that
    stopped = replay(Predictor(study), log_of(study, text), stop=lambda: True)
    assert stopped is None


@pytest.mark.parametrize(
    "seeds", [(4,), pytest.param((5, 6, 7, 4), marks=pytest.mark.sweep)], ids=["one", "four"]
)
def test_a_cause_is_marked_up_to_a_gap_and_fits_are_told_only_where_they_show(
    seeds: tuple[int, ...],
) -> None:
    """Pumps worn to 0.65 on Bittern show at their end: four runs say so within twice their own
    doubt on the root mean square, and no mark bridges a gap that parts it.
    """
    study = make_study(demo_builds()["bittern"])
    pulls = []
    for seed in seeds:
        lines = [
            x
            for x in drive_text(study.build, Fault("worn", "P1 P2", 0.65), seed).split("\r\n")
            if x
        ]
        made = replay(Predictor(study), log_of(study, "\n".join(lines)))
        assert made is not None
        fit = next(f for f in made.fits if f.words.startswith("flow") and f.name == "P1, P2")
        assert fit.strength == pytest.approx(0.65, abs=0.06)
        pulls.append((fit.strength - 0.65) / fit.sigma)
    assert math.sqrt(sum(p * p for p in pulls) / len(pulls)) < (2.0 if len(pulls) > 1 else 4.0)
    assert all(
        f.strength is None and "hidden while" in f.limit
        for f in made.fits
        if f.words.startswith("loss")
    )
    mark = max(made.marks, key=lambda m: m.end - m.start)
    inside = [i for i, t in enumerate(made.log.time) if mark.start + 0.1 < t < mark.end - 0.1]
    shifted = [lines[0]]
    for i, line in enumerate(lines[1:]):
        cells = line.split(",")
        shifted.append(
            ",".join(
                [
                    f"{float(cells[0]) + (30 if i >= inside[len(inside) // 2] else 0):.3f}",
                    *cells[1:],
                ]
            )
        )
    parted = replay(Predictor(study), log_of(study, "\n".join(shifted)))
    assert parted is not None
    at = parted.log.breaks[0]
    assert not any(
        m.start <= parted.log.time[at - 1] and m.end >= parted.log.time[at] for m in parted.marks
    )


def test_stand_ins_are_made_from_the_maps() -> None:
    """At 13.5 V, a voltage of its sheet, the rig gives the sheet's own rows (Marrow 340, invented),
    weighed by density as a turbine's head is.
    """
    build = demo_builds()["bittern"]
    study = make_study(build)
    part = build.circuit.element("P1")
    assert part is not None
    assert isinstance(part.figures, PumpMap)
    curve = next(c for c in part.figures.curves if c.voltage_v == 13.5)
    times = (
        study.peak.solution.density / part.figures.measured_with.density_kg_m3
        if part.figures.measured_with is not None
        else 1.0
    )
    kpa, flow, amps = (
        [r[1] * times for r in curve.rows],
        [r[0] for r in curve.rows],
        [r[2] * times for r in curve.rows],
    )
    for p in read_rig(rig_text(rig_rows(study, "P1", SOUND, 2))):
        assert p.flow * 3.6e6 == pytest.approx(
            np.interp(-p.pressure / 1000, [-x for x in kpa], flow), rel=0.03
        )
        assert p.amps == pytest.approx(
            np.interp(-p.pressure / 1000, [-x for x in kpa], amps), rel=0.03
        )
    home = return_line(study)
    assert home is not None
    assert home.id == "H4"
    assert {f.kind for f in switchable(study)} >= {"clogged", "worn", "volts", "reference", "bare"}


def test_the_newest_match_and_pours_count() -> None:
    predictor = Predictor(make_study(demo_builds()["bittern"]))
    few, many = (
        [(0.0, 240.0), (0.01, 200.0), (0.02, 150.0)],
        [(i / 100, 240.0 - i) for i in range(6)],
    )
    state = folded(
        kept_log(
            Match(flows=[100, 80]),
            Pours(proof="sender S1", steps=few),
            Match(flows=[100, 99.5]),
            Pours(proof="sender S1", steps=many),
        )
    )
    rows = {t.proof.key: t for t in every_test(predictor, proofs(predictor), state)}
    assert rows["match"].last is not None
    assert rows["match"].last.number == 3
    assert rows["match"].verdict == "within"
    assert rows["sender S1"].last is not None
    assert rows["sender S1"].last.reading.value == 6


def test_a_fuel_of_ones_own_is_solved_at_its_own_temperature() -> None:
    """Twice as dense: a turbine that pumps it gives the same flow against twice the pressure
    (affinity laws).
    """
    build = demo_builds()["bittern"]
    assert build.brief is not None
    own = {
        "name": "mix",
        "stoichiometric_ratio": 14.0,
        "heating_value_mj_kg": 43,
        "viscosity_20_mpa_s": 0.5,
        "viscosity_40_mpa_s": 0.4,
        "reid_vapour_kpa": 50,
    }
    flows = []
    for density in (700.0, 1000.0):
        brief = build.brief.model_copy(
            update={
                "fuel": "own",
                "own_fuel": OwnFuel.model_validate({**own, "density_kg_m3": density}),
            }
        )
        predictor = Predictor(make_study(build.model_copy(update={"brief": brief})))
        at = Setup(
            "caught", alone=("P1",), against=300e3 * density / 700, volts=13.5, kelvin=288.15
        )
        assert predictor.point(at).density_kg_m3 == pytest.approx(density)
        flows.append(predictor.predict(at))
    assert flows[0] == pytest.approx(flows[1], rel=0.02)
