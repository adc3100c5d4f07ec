"""How many pumps: more and fewer are made by hand's own acts, and sizing takes the number that
holds and costs least.
"""

import pytest

from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Stage
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import set_stage
from tall_heron.core.sizing.auto_size import Proposal
from tall_heron.core.sizing.first_build import first_brief, first_build
from tall_heron.core.sizing.pump_count import (
    counts_for,
    feeding_pumps,
    lacks,
    size_any,
    weight,
    with_pumps,
)
from tall_heron.core.study.study import make_study

DEMO = demo_builds()


def powered(build: Build, kw: float) -> Build:
    assert build.brief is not None
    return build.model_copy(update={"brief": build.brief.model_copy(update={"power_kw": kw})})


def sized(build: Build, **more: object) -> Proposal:
    return next(x for x in size_any(build, **more) if isinstance(x, Proposal))  # type: ignore[arg-type]


@pytest.mark.parametrize("name", ["bittern", "curlew", "dunlin", "egret", "stonechat"])
def test_there_and_back_is_the_same_circuit(name: str) -> None:
    build = DEMO[name]
    now = len(feeding_pumps(build.circuit))
    more = with_pumps(build, now + 1)
    assert more is not None
    assert len(more.circuit.of_kind("check")) > len(build.circuit.of_kind("check")) - 1
    study = make_study(more)
    each = [study.peak.solution.links[p].flow for p in feeding_pumps(more.circuit)]
    assert len(each) == now + 1
    assert each == pytest.approx([each[0]] * len(each), rel=0.05)
    back = with_pumps(more, now)
    assert back is not None
    flows = [make_study(b).pumps_deliver(make_study(b).peak) for b in (build, back)]
    assert flows[0] == pytest.approx(flows[1], rel=2e-2)  # a check valve may have come to stay


def test_what_is_no_row_of_pumps_is_left_alone() -> None:
    staged = set_stage(DEMO["bittern"], "P2", Stage(by="boost", at=50))
    for build in (DEMO["plover"], staged):
        assert feeding_pumps(build.circuit) == []
        assert len(counts_for(build)) == 1
        assert with_pumps(build, 2) is None
    assert counts_for(DEMO["bittern"], ["P1"]) == [2]
    assert counts_for(DEMO["egret"]) == [2, 3]


@pytest.mark.parametrize(("kw", "pumps"), [(150.0, 1), (2600.0, 2), (4500.0, 3)])
def test_more_power_takes_more_pumps(kw: float, pumps: int) -> None:
    """The largest in-tank pump of the shelf gives some 1,100 L/h at 3 bar; an engine on E10 burns
    some 0.43 L/h for each kW.
    """
    found = sized(powered(first_build("Knot", first_brief({"power_kw": 400.0}), {}).sized, kw))
    assert len(feeding_pumps(found.build.circuit)) == pumps
    assert lacks(found)[0] == 0


def test_what_is_kept_stays_and_a_number_that_holds_costs_least() -> None:
    build = powered(first_build("Knot", first_brief({"power_kw": 2800.0}), {}).sized, 150.0)
    free, kept = sized(build), sized(build, keep=("K2",))
    assert len(feeding_pumps(free.build.circuit)) == 1
    assert weight(free, "cost") < weight(kept, "cost")
    assert kept.build.circuit.element("K2") == build.circuit.element("K2")
