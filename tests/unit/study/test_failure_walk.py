"""What single failures leave, against what a builder knows."""

import pytest

from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.study.failure_walk import Outcome, failures, outcome, pairs, walk
from tall_heron.core.study.study import make_study

DEMO = demo_builds()


def of(name: str, part: str, what: str) -> Outcome:
    study = make_study(DEMO[name])
    return outcome(study, next(f for f in failures(study) if (f.part, f.what) == (part, what)))


@pytest.mark.parametrize("name", DEMO)
def test_every_failure_of_every_demo_build_solves_or_says_why(name: str) -> None:
    for o in walk(make_study(DEMO[name])):
        assert o.trouble or (o.rail is not None and 0 <= o.left <= 1)
        assert o.stops == (o.arrives < 0.1)


def test_a_selector_turned_alone_fills_the_wrong_tank() -> None:
    """Drawn from the right, returned to the left: 30 L of room at the return's flow."""
    o = of("egret", "V1", "stands at right")
    assert [f.tank for f in o.fills] == ["S1"]
    study = make_study(DEMO["egret"])
    back = study.what_if.changed(*o.failure.changes).at(study.peak.case.point, study.peak.case.demand).flow("PR")
    assert o.fills[0].flow == pytest.approx(back, rel=1e-3)
    assert o.fills[0].seconds == pytest.approx(0.030 / back, rel=1e-3)
    assert o.silent


def test_what_shows_and_what_does_not() -> None:
    dead = of("egret", "P1", "stops")
    assert {m.gauge for m in dead.moves} >= {"T11"}
    assert not dead.silent
    assert of("bittern", "K1", "sticks open").silent
    blocked = of("bittern", "F2", "is blocked")
    assert blocked.stops
    assert not blocked.silent
    lean = of("bittern", "PR", "loses its reference hose")
    assert not lean.stops
    assert lean.starves


def test_two_that_stop_an_aircraft_together() -> None:
    found = {frozenset((a.part, b.part)) for _, (a, b) in pairs(make_study(DEMO["egret"]))}
    assert frozenset(("P1", "P2")) in found
    assert all("F2" not in x for x in found)  # stops it alone
