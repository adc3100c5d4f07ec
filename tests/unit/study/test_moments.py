"""Which moments follow from a build, and that each is solved as what it says."""

import pytest

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Stage
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import fit, set_brief, set_stage
from tall_heron.core.editing.own_cases import add_case, hide_case, remove_case
from tall_heron.core.sizing.first_build import first_brief, first_build
from tall_heron.core.study.cases.moments import moments, solved_moments
from tall_heron.core.study.cases.requirements import make_matrix
from tall_heron.core.study.study import make_study

DEMO = demo_builds()


def keys(build: Build) -> set[str]:
    return {m.case.key for m in moments(make_study(build))}


def test_the_cases_follow_from_the_build() -> None:
    bittern, egret = keys(DEMO["bittern"]), keys(DEMO["egret"])
    assert {
        "peak",
        "low voltage",
        "idle",
        "cruise",
        "E1 clogged",
        "F2 clogged",
        "hot and high",
        "reference off",
        "launch",
        "braking",
        "corner left",
        "corner right",
    } == bittern
    assert {"peak right", "climb", "descent", "P1 alone", "P2 alone"} <= egret
    assert not {"launch", "reference off"} & egret
    assert "reference off" not in keys(set_brief(DEMO["bittern"], "boost_kpa", 0.0))
    assert {"P2 before", "P2 after"} <= keys(
        set_stage(DEMO["bittern"], "P2", Stage(by="boost", at=55))
    )
    assert not {"P2 before", "P2 after"} & keys(
        set_stage(DEMO["bittern"], "P2", Stage(by="boost", at=900))
    )
    assert {"launch", "F2 clogged"} <= keys(
        first_build("Knot", first_brief({"power_kw": 300.0}), {}).sized
    )


def test_each_moment_is_what_it_says() -> None:
    found = {x.moment.case.key: x for x in solved_moments(make_study(DEMO["bittern"]))}
    peak = found["peak"]
    clogged = found["F2 clogged"]
    flow = clogged.solved.solution.links["F2"].flow / peak.solved.solution.links["F2"].flow
    drop = clogged.study.friction(clogged.solved, "F2") / peak.study.friction(peak.solved, "F2")
    assert (
        3 * flow**2 < drop < 3 * flow
    )  # a laminar share goes with the flow, a turbulent one with its square
    off = found["reference off"]
    assert off.solved.solution.nodes["regulator out"] is not None
    assert (peak.study.rail_pressure(peak.solved.solution) or 0) - (
        off.study.rail_pressure(off.solved.solution) or 0
    ) == pytest.approx(peak.study.brief.boost, rel=0.03)
    assert found["cruise"].solved.case.demand == pytest.approx(0.25 * peak.solved.case.demand)
    high = found["hot and high"]
    fallen = (peak.solved.case.point.atmosphere_kpa - high.solved.case.point.atmosphere_kpa) * 1000
    clear = [x.study.clear_of_boiling(x.solved) for x in (peak, high)]
    assert clear[0] is not None
    assert clear[1] is not None
    assert clear[0][0] - clear[1][0] == pytest.approx(fallen, rel=0.01)
    for own, driven in ((0.0, 1500.0), (800.0, 1500.0), (2100.0, 2100.0)):
        up = make_study(
            DEMO["bittern"].model_copy(
                update={"brief": DEMO["bittern"].brief.model_copy(update={"altitude_m": own})}
            )
        )
        there = next(x for x in solved_moments(up) if x.moment.case.key == "hot and high")
        assert there.solved.case.point.atmosphere_kpa == pytest.approx(
            101.325 * (1 - 2.25577e-5 * driven) ** 5.25588, rel=1e-3
        )  # ISO 2533, a pass is as high for everybody


def test_before_and_after_a_stage_differ_by_the_pump() -> None:
    found = {
        x.moment.case.key: x
        for x in solved_moments(
            make_study(set_stage(DEMO["bittern"], "P2", Stage(by="boost", at=55)))
        )
    }
    before, after = found["P2 before"], found["P2 after"]
    assert before.solved.solution.links["P2"].state == "off"
    assert after.solved.solution.links["P2"].state == "running"
    assert before.solved.case.point.manifold_kpa == pytest.approx(
        after.solved.case.point.manifold_kpa, rel=3e-3
    )


def test_a_case_of_ones_own_is_solved_hidden_and_taken_away() -> None:
    build = add_case(
        DEMO["bittern"],
        {
            "name": "Towing",
            "power_share": 0.6,
            "fuel": "e10",
            "fuel_temperature_c": 55.0,
            "altitude_m": 1000.0,
            "clogging": {"F2": 2.0},
            "off": ["P2"],
            "ahead_g": 0.3,
        },
    )
    found = {x.moment.case.key: x for x in solved_moments(make_study(build))}
    own = found["own Towing"]
    assert own.moment.own
    assert own.solved.solution.links["P2"].state == "off"
    assert own.solved.case.fuel.name == "E10"
    assert own.study.brief.fuel_temperature_c == 55.0
    again = add_case(build, {"name": "Towing", "power_share": 0.5})
    assert [c.power_share for c in again.cases] == [0.5]
    assert "own Towing" not in {
        x.moment.case.key for x in solved_moments(make_study(hide_case(build, "own Towing", True)))
    }
    assert hide_case(hide_case(build, "peak", True), "peak", False) == build
    assert remove_case(build, "Towing") == DEMO["bittern"]
    for fields, words in (
        ({"name": "x", "off": ["Q9"]}, "no part Q9"),
        ({"name": ""}, "at least 1"),
        ({"name": "x", "fuel": "milk"}, "milk"),
        ({"name": "x", "power_share": 9}, "less than"),
    ):
        with pytest.raises(BuildErrors, match=words):
            add_case(DEMO["bittern"], fields)
    with pytest.raises(BuildErrors, match="no case"):
        remove_case(DEMO["bittern"], "Towing")
    left_over = fit(build, "F2", "reedmace-10g")
    assert all(x.solved.solution.converged for x in solved_moments(make_study(left_over)))


def test_the_matrix_names_what_fails_worst() -> None:
    matrix = make_matrix(make_study(DEMO["bittern"]))
    worst = matrix.worst
    assert worst is not None
    assert (worst[0].moment.case.key, worst[1].key if worst[1] else "") in {
        ("hot and high", "suction"),
        ("reference off", "rail"),
    }
    cells = {
        (r.moment.case.key, c.key): r.cells[c.key] for r in matrix.rows for c in matrix.columns
    }
    clogged, rail = cells["F2 clogged", "drop F2"], cells["reference off", "rail"]
    assert clogged is not None
    assert rail is not None
    assert (clogged.level, rail.level) == ("Check", "Stop")
    assert clogged.left == 0.0
    assert cells["idle", "spare"] is None
    egret = make_matrix(make_study(DEMO["egret"]))
    assert egret.passed == len(egret.rows)
    reached = {r.moment.case.key: r.cells["reach"] for r in egret.rows}
    assert reached["slip left"] is None  # over a moment a baffle holds what the outlet needs
    assert reached["climb"] is not None
