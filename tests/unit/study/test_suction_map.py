"""The suction map is the peak solved at each temperature and altitude."""

import pytest

from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import set_brief
from tall_heron.core.physics.suction import standard_atmosphere
from tall_heron.core.study.cases.suction_map import (
    ALTITUDES,
    TEMPERATURES,
    contour,
    margin_at,
    suction_map,
)
from tall_heron.core.study.study import make_study

DEMO = demo_builds()


def test_each_cell_is_the_brief_at_that_place() -> None:
    """A second derivation: the brief itself asked for 50 degC at 2,000 m."""
    build = DEMO["stonechat"]
    found = suction_map(make_study(build), 20e3, 5e3)
    assert found is not None
    there = make_study(
        set_brief(set_brief(build, "fuel_temperature_c", 50.0), "altitude_m", 2000.0)
    )
    clear = there.clear_of_boiling(there.peak)
    assert clear is not None
    assert found.margins[TEMPERATURES.index(50.0)][ALTITUDES.index(2000.0)] == pytest.approx(
        clear[0], rel=1e-3
    )


def test_hotter_and_higher_leave_less() -> None:
    found = suction_map(make_study(DEMO["egret"]), 20e3, 5e3)
    assert found is not None
    rows = [[x for x in row if x is not None] for row in found.margins]
    assert all(row == sorted(row, reverse=True) for row in rows)
    assert all(list(column) == sorted(column, reverse=True) for column in zip(*rows, strict=True))
    assert rows[0][0] - rows[0][1] == pytest.approx(
        standard_atmosphere(0.0) - standard_atmosphere(1000.0), rel=1e-3
    )


def test_what_falls_has_no_map() -> None:
    assert suction_map(make_study(DEMO["plover"]), 20e3, 5e3) is None


def test_a_contour_is_where_the_solved_margin_is_its_level() -> None:
    """At each place of it the margin, solved there, is the level within what straight lines between
    10 K miss; it falls with altitude.
    """
    study = make_study(demo_builds()["curlew"])
    found = suction_map(study, 20000.0, 5000.0)
    assert found is not None
    for level in (0.0, 5000.0, 20000.0):
        places = contour(found, level)
        assert len(places) >= 3
        assert [c for _, c in places] == sorted((c for _, c in places), reverse=True)
        for meters, celsius in places:
            assert margin_at(study, celsius, meters) == pytest.approx(level, abs=1200.0)
