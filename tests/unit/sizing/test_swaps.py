"""The order of swaps: what suits the fuel first, what is of another sort last, and between them what the part is fitted for."""

import pytest

from tall_heron.core.document.build import Build
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import set_brief
from tall_heron.core.sizing.swaps import Swap, make_swaps
from tall_heron.core.study.study import make_study

ON_ALCOHOL = set_brief(demo_builds()["bittern"], "fuel", "E100")


def rows(build: Build, part: str) -> tuple[list[Swap], float]:
    study = make_study(build)
    element = build.circuit.element(part)
    assert element is not None
    error = study.rail_error(study.peak)
    assert error is not None
    return make_swaps(study, "peak", element), error[0]


@pytest.mark.parametrize("part", ["P1", "F2", "H3", "PR", "J1", "K1"])
@pytest.mark.parametrize("build", [demo_builds()["bittern"], ON_ALCOHOL], ids=["E70", "E100"])
def test_best_first(build: Build, part: str) -> None:
    found, error = rows(build, part)
    element = build.circuit.element(part)
    assert element is not None
    assert len(found) > 2
    assert [s.suits for s in found] == sorted((s.suits for s in found), reverse=True)
    assert [s.part.name for s in found if s.fitted] == [element.shelf]

    def another(s: Swap) -> bool:
        coarser = element.kind == "filter" and (s.part.properties.micron or 0.0) > 1.01 * (element.properties.micron or 1e9)
        return coarser or (element.kind == "filter" and s.part.kind == "strainer")

    for suits in (True, False):
        assert [another(s) for s in found if s.suits == suits] == sorted(another(s) for s in found if s.suits == suits)
        for sort in (True, False):
            here = [s for s in found if s.suits == suits and another(s) == sort]
            if element.kind == "pump":
                values = [-(s.spare if s.spare is not None else -9.0) for s in here]
            elif element.kind == "regulator":
                values = [abs(error + s.rail) for s in here if s.rail is not None]
            elif element.kind == "injectors":
                values = [-(s.feeds or 0.0) for s in here]
            else:
                values = [s.takes for s in here if s.takes is not None]
            assert values == sorted(values)


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
