"""Curves against the solutions they are made of."""

import numpy as np
import pytest

from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.physics.heat import tank_rise
from tall_heron.core.study.cases.curves import power_sweep, pump_chart
from tall_heron.core.study.cases.reserves import heating
from tall_heron.core.study.study import make_study

DEMO = demo_builds()


@pytest.mark.parametrize("name", DEMO)
def test_every_demo_build_has_its_curves(name: str) -> None:
    study = make_study(DEMO[name])
    chart = pump_chart(study)
    assert (chart is None) == (not study.feed_path.pumps)
    assert power_sweep(study)[0].share == 0.1


@pytest.mark.parametrize("name", ["bittern", "curlew", "dunlin", "stonechat", "egret"])
def test_a_case_stands_on_the_pumps_map_at_its_voltage_and_where_the_circuit_asks(
    name: str,
) -> None:
    study = make_study(DEMO[name])
    chart = pump_chart(study)
    assert chart is not None
    marks = {m.key: m for m in chart.marks}
    peak, weak = marks["peak"], marks["low voltage"]
    assert np.interp(peak.flow, chart.flow, chart.together) == pytest.approx(peak.rise, rel=0.01)
    assert np.interp(weak.flow, chart.flow, chart.low) == pytest.approx(weak.rise, rel=0.01)
    rail, asked = study.rail_pressure(study.peak.solution), study.asked(study.peak)
    assert rail is not None
    assert np.interp(peak.flow, chart.flow, chart.asks) == pytest.approx(
        peak.rise + asked - rail, rel=0.01
    )
    assert (np.diff(chart.together[np.isfinite(chart.together)]) <= 1e-6).all()
    if len(study.feed_path.pumps) > 1:
        assert chart.alone is not None
        half = np.interp(peak.flow / 2, chart.flow, chart.alone)
        assert half == pytest.approx(peak.rise, rel=0.02)  # two alike


def test_over_power_the_rail_holds_until_the_pumps_do_not() -> None:
    study = make_study(DEMO["bittern"])
    rows = {r.share: r for r in power_sweep(study)}
    at = rows[1.0]
    assert at.rail == pytest.approx(study.rail_pressure(study.peak.solution), rel=1e-6)
    assert at.headroom == pytest.approx(study.headroom(study.peak), rel=1e-3)
    rails = [r.rail for r in rows.values()]
    assert all(r is not None for r in rails)
    assert rails == sorted(rails, reverse=True)  # type: ignore[type-var]
    assert rows[0.5].duty < rows[1.0].duty < rows[1.5].duty  # type: ignore[operator]


def test_heat_over_a_run_three_ways() -> None:
    """A short return spares what the engine gives, speed control all that comes back; each point is
    the closed form.
    """
    study = make_study(DEMO["stonechat"])
    plain, warm = (
        next(h for h in heating(study, w) if h.moment == "Hot idle") for w in (0.0, 300.0)
    )
    assert plain.returns == plain.short
    assert warm.short == plain.short
    for a, b, c in zip(warm.returns[1:], warm.short[1:], warm.controlled[1:], strict=True):
        assert a is not None
        assert b is not None
        assert c is not None
        assert a > b > c
    idle = study.solved["idle"].solution
    back = 1 - study.feed_path.burnt(idle) / study.pumps_deliver(study.solved["idle"])
    mass, flow = plain.liters / 1000 * idle.density, study.feed_path.burnt(idle) * idle.density
    assert warm.returns[30] == pytest.approx(
        tank_rise(
            plain.power * back + 300, 8, mass, study.fuel_demand.fuel.heat_capacity, flow, 1800
        )
    )
