"""The voltage walk against what is solved with the fuel, and against Ohm's law by hand."""

import pytest

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.build import Build
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.wiring import set_branch, wire_by_rule
from tall_heron.core.electrics.volt_walk import volt_walk
from tall_heron.core.fixing.act import Wrong
from tall_heron.core.fixing.by_wire import by_rule, thicker
from tall_heron.core.rules.finding import Finding
from tall_heron.core.study.study import make_study

WIRED = wire_by_rule(demo_builds()["bittern"])


def behind_one_relay() -> Build:
    assert WIRED.wiring is not None
    return set_branch(WIRED, "P2", relay=WIRED.wiring.branches["P1"].relay)


@pytest.mark.parametrize("build", [WIRED, behind_one_relay()], ids=["apart", "shared"])
def test_the_walk_ends_at_ground_and_leaves_the_pump_what_was_solved(build: Build) -> None:
    study = make_study(build)
    harness, solution = study.what_if.harness, study.peak.solution
    assert harness is not None
    amperes = {p: solution.current(p) or 0.0 for p in harness.feeds}
    for pump, feed in harness.feeds.items():
        steps = volt_walk(harness, pump, amperes)
        assert steps[0].volts == harness.volts
        assert steps[-1].volts == pytest.approx(0.0, abs=1e-9)
        over = next(s for s in steps if s.name == pump)
        assert over.drop == pytest.approx(solution.voltage(pump), abs=2e-3)
        wire = next(s for s in steps if s.name == f"wire {feed.out.number}")
        assert wire.drop == pytest.approx(feed.out.ohm * amperes[pump])
    assert volt_walk(harness, "P1", {"P1": 0.0}) == []


def test_a_pump_that_nobody_wired_loses_what_the_house_assumes_beside_one_that_is() -> None:
    assert WIRED.wiring is not None
    half = WIRED.model_copy(
        update={
            "wiring": WIRED.wiring.model_copy(
                update={"branches": {"P1": WIRED.wiring.branches["P1"]}}
            )
        }
    )
    study = make_study(half)
    assert study.brief.voltage_v - house_figure("voltage_wiring_loss") == pytest.approx(
        study.peak.solution.voltage("P2")
    )
    thin = Finding("Check", "P2", "", "", "", {})
    assert {act.parts for act in thicker(Wrong(study, thin))} == {
        act.parts for act in by_rule(Wrong(study, thin))
    }
