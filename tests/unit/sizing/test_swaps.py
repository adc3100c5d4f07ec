"""The order of swaps: what suits the fuel first, what is of another sort last, and between them
what the part is fitted for.
"""

import pytest

from tall_heron.core.document.build import Build
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import fit, set_brief
from tall_heron.core.sizing.swaps import FIRST_ROWS, Swap, first_swaps, make_swaps
from tall_heron.core.sizing.whole_limit import whole_limit
from tall_heron.core.study.study import make_study

ON_ALCOHOL = set_brief(demo_builds()["bittern"], "fuel", "E100")


def rows(build: Build, part: str) -> tuple[list[Swap], float]:
    study = make_study(build)
    element = build.circuit.element(part)
    assert element is not None
    error = study.rail_error(study.peak)
    assert error is not None
    return make_swaps(study, "peak", element), error[0]


@pytest.mark.parametrize("part", ["F2", "H3", "PR", "J1", "K1"])
@pytest.mark.parametrize("build", [demo_builds()["bittern"], ON_ALCOHOL], ids=["E70", "E100"])
def test_best_first(build: Build, part: str) -> None:
    found, error = rows(build, part)
    element = build.circuit.element(part)
    assert element is not None
    assert len(found) > 2
    stands = [s.suits and s.bears for s in found]
    assert stands == sorted(stands, reverse=True)
    assert [s.part.name for s in found if s.fitted] == [element.shelf]

    def another(s: Swap) -> bool:
        coarser = element.kind == "filter" and (s.part.properties.micron or 0.0) > 1.01 * (
            element.properties.micron or 1e9
        )
        return coarser or (element.kind == "filter" and s.part.kind == "strainer")

    for suits in (True, False):
        assert [another(s) for s in found if (s.suits and s.bears) == suits] == sorted(
            another(s) for s in found if (s.suits and s.bears) == suits
        )
        for sort in (True, False):
            here = [s for s in found if (s.suits and s.bears) == suits and another(s) == sort]
            power = 1e-3 * build.brief.power_kw * 1000  # type: ignore[union-attr]
            gains = [-round((s.gains or 0.0) / power) for s in here]
            assert gains == sorted(gains)
            for like in set(gains):  # among those that gain alike, pressure counts
                alike = [s for s, g in zip(here, gains, strict=True) if g == like]
                if element.kind == "regulator":
                    values = [abs(error + s.rail) for s in alike if s.rail is not None]
                else:
                    values = [s.takes or 0.0 for s in alike]
                assert [round(v / 10) for v in values] == sorted(round(v / 10) for v in values)


@pytest.mark.parametrize(
    ("name", "most_lph"),
    [("bittern", 900.0), ("curlew", 620.0), ("dunlin", 600.0), ("egret", 200.0)],
)
def test_the_first_pump_is_one_for_the_place_that_does_and_not_the_largest(
    name: str, most_lph: float
) -> None:
    """Mounted alike, rated for the rail's pressure and of its class, the burn and the margin of it,
    no more than a builder would fit, and none cheaper of those that do.
    """
    build = demo_builds()[name]
    pump, brief = build.circuit.element("P1"), build.brief
    assert pump is not None
    assert brief is not None
    study = make_study(build)
    found = make_swaps(study, "peak", pump)
    first = found[0]
    target = brief.base_kpa + brief.boost_kpa
    assert first.suits
    assert first.part.properties.mount == pump.properties.mount
    assert (first.part.properties.rated_kpa or 0) >= 0.95 * target
    assert (first.part.properties.rated_kpa or 0) < 200 or not brief.carbureted
    assert first.headroom is not None
    assert first.headroom >= 0.1
    assert first.part.figures.curves[-1].rows[-1][0] <= most_lph  # type: ignore[union-attr]
    others = [s.part for s in found if s.suits and s.part.properties.mount == pump.properties.mount]
    assert first.part.name != max(others, key=lambda p: p.figures.curves[-1].rows[-1][0]).name  # type: ignore[union-attr]


def test_what_is_gained_is_what_the_circuit_then_feeds() -> None:
    """Fitted for good, the first of the table feeds what was said: the circuit solved anew."""
    build = demo_builds()["bittern"]
    found, _ = rows(build, "F2")
    best = next(s for s in found if not s.fitted)
    whole = whole_limit(make_study(fit(build, "F2", best.part.name)))
    before = whole_limit(make_study(build))
    assert whole is not None
    assert before is not None
    assert best.feeds == pytest.approx(whole.ceiling, rel=1e-3)
    assert best.gains == pytest.approx(
        (whole.ceiling or 0.0) - (before.ceiling or 0.0), abs=1e-3 * build.brief.power_kw * 1000
    )  # type: ignore[union-attr]


def test_what_a_swap_costs_and_weighs_more() -> None:
    """Against the prices and masses of the shelf by hand: a filter has no length and no ends."""
    found, _ = rows(demo_builds()["bittern"], "F2")
    now = next(s for s in found if s.fitted).part.properties
    for s in found:
        own = s.part.properties
        if own.price is not None and now.price is not None:
            assert s.costs == pytest.approx(own.price - now.price)
        if own.mass_kg is not None and now.mass_kg is not None:
            assert s.weighs == pytest.approx(own.mass_kg - now.mass_kg)


def test_a_swap_says_what_becomes_of_the_rail() -> None:
    """Each filter fitted by itself and solved anew: the rail's error then, less what it is now."""
    build = demo_builds()["bittern"]
    study = make_study(build)
    now = study.rail_error(study.solved["low voltage"])
    assert now is not None
    part = build.circuit.element("F2")
    assert part is not None
    for swap in make_swaps(study, "low voltage", part):
        after = make_study(fit(build, "F2", swap.part.name)).solved["low voltage"]
        then = study.rail_error(after)
        assert then is not None
        assert swap.rail == pytest.approx(then[0] - now[0], abs=2.0)


def test_what_is_made_for_a_carburetor_does_not_stand_first_at_an_injected_rail() -> None:
    """A filter for 250 kPa in a line at 580: it would take less, and burst."""
    found, _ = rows(demo_builds()["bittern"], "F2")
    weak = [s for s in found if (s.part.properties.working_kpa or 1e9) < 500]
    assert weak
    assert not any(s.bears for s in weak)
    assert found.index(weak[0]) > max(found.index(s) for s in found if s.suits and s.bears)


@pytest.mark.parametrize(
    ("name", "part"),
    [("bittern", "F2"), ("bittern", "P1"), ("bittern", "H3"), ("stonechat", "J1"), ("egret", "RL")],
)
def test_what_stands_on_the_screen_first_is_what_stands_first_of_all(name: str, part: str) -> None:
    """The first rows are solved alone; the best four of the whole table are among them, each with
    the same figures, and what is fitted or named is never left out.
    """
    build = demo_builds()[name]
    study = make_study(build)
    element = build.circuit.element(part)
    assert element is not None
    whole = make_swaps(study, "peak", element)
    last = whole[-1].part.name
    found, more = first_swaps(study, "peak", element, (), last)
    assert more >= 0
    assert len(found) + more == len(whole)
    assert len(found) <= FIRST_ROWS + 2
    shown = {s.part.name: s for s in found}
    assert {element.shelf, last} <= set(shown)
    for swap in whole[:4]:
        here = shown[swap.part.name]
        assert here.takes == pytest.approx(swap.takes, rel=1e-6)
        assert here.gains == pytest.approx(swap.gains, rel=2e-3, abs=50.0)
