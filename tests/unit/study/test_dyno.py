"""The dyno card is the circuit solved at each speed."""

import pytest

from tall_heron.core.document.circuit import Stage
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import set_brief, set_stage
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.study.cases.dyno import dyno_card
from tall_heron.core.study.study import make_study

DEMO = demo_builds()


def test_at_the_speed_of_peak_power_it_shows_the_peak() -> None:
    study = make_study(set_brief(DEMO["bittern"], "peak_rpm", 6400.0))
    card = dyno_card(study)
    peak, over = (
        next(p for p in card if p.rpm == pytest.approx(share * 6400.0)) for share in (1.0, 1.1)
    )
    assert peak.shows == pytest.approx(study.rail_pressure(study.peak.solution))
    assert peak.fuel_demand == study.peak.case.demand
    assert peak.lift == pytest.approx(0.95 * peak.asked)
    assert over.fuel_demand == peak.fuel_demand
    assert over.duty is not None
    assert peak.duty is not None
    assert (
        over.duty > peak.duty
    )  # the same fuel in less time between shots, of which opening takes its part


def test_a_stage_by_speed_comes_on_along_the_pull_and_an_engine_pump_follows_it() -> None:
    staged = dyno_card(
        make_study(
            set_stage(
                set_brief(DEMO["bittern"], "peak_rpm", 6000.0), "P2", Stage(by="speed", at=4000)
            )
        )
    )
    amps = [p.amps or 0.0 for p in staged]
    assert amps[1] < 0.75 * amps[-1]
    brief = DEMO["bittern"].brief
    assert brief is not None
    layout = LAYOUTS["C9"]
    build = DEMO["bittern"].model_copy(update={"circuit": layout.build(brief, layout.picks())})
    pulls = dyno_card(make_study(build))
    assert all(p.shows is not None for p in pulls)
    back = [p.returns or 0.0 for p in pulls]
    assert (
        back[-1] > back[-2] > back[1]
    )  # beyond peak power the pump turns on and the burn stays: the return carries it
    study = make_study(build)
    peak = next(p for p in pulls if p.fuel_demand == study.peak.case.demand)
    assert peak.returns == pytest.approx(study.feed_path.surplus(study.peak.solution), rel=1e-6)


def test_a_build_that_falls_short_is_told_where() -> None:
    card = dyno_card(make_study(set_brief(DEMO["bittern"], "power_kw", 900.0)))
    assert [p.low for p in card] == sorted(p.low for p in card)
    assert card[-1].low
    assert not card[0].low
