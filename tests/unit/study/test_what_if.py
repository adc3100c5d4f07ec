"""The what-if engine: each change against the same circuit with the change written into its
document.
"""

import pytest

from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Element
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import fit
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.hydraulics.network import compile_network
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.hydraulics.solve import solve_network
from tall_heron.core.study.study import make_study
from tall_heron.core.study.what_if import (
    MANY,
    Fitted,
    Lossless,
    Off,
    Stuck,
    Unlimited,
    make_what_if,
)

BITTERN, EGRET = demo_builds()["bittern"], demo_builds()["egret"]


def alike(one: Solution, other: Solution) -> None:
    assert one.converged == other.converged
    largest = max((abs(x.flow) for x in other.links.values()), default=0.0)
    for key, link in other.links.items():
        assert one.links[key].flow == pytest.approx(link.flow, rel=1e-6, abs=1e-7 * largest), key
        assert one.links[key].state == link.state, key
    for node, pressure in other.nodes.items():
        assert (one.nodes[node] is None) == (pressure is None), node
        assert pressure is None or one.nodes[node] == pytest.approx(pressure, rel=1e-6, abs=1.0), (
            node
        )


def with_element(build: Build, element: Element) -> Build:
    elements = [element if e.id == element.id else e for e in build.circuit.elements]
    return build.model_copy(
        update={"circuit": build.circuit.model_copy(update={"elements": elements})}
    )


def of(build: Build, element_id: str) -> Element:
    found = build.circuit.element(element_id)
    assert found is not None
    return found


@pytest.mark.parametrize(
    ("part", "name"),
    [
        ("F2", "reedmace-10g"),
        ("P1", "teasel-620"),
        ("H3", "ptfe-6"),
        ("K1", "rill-6"),
        ("PR", "heronsbill-bypass-6"),
    ],
)
def test_another_part_in_its_place(part: str, name: str) -> None:
    peak = make_study(BITTERN).peak
    changed = fit(BITTERN, part, name)
    engine = make_what_if(BITTERN.circuit)
    engine.at(peak.case.point, peak.case.demand)
    found = engine.changed(Fitted(of(changed, part))).at(peak.case.point, peak.case.demand)
    alike(found, solve_network(compile_network(changed.circuit, peak.case.point, peak.case.demand)))


SADDLE = Build(
    name="saddle",
    brief=BITTERN.brief,
    circuit=LAYOUTS["C10"].build(BITTERN.brief, LAYOUTS["C10"].picks()),
)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("part", "figures"), [("F2", {}), ("P8", {"nozzle_mm": 2.6}), ("S1", {"level_mm": 500.0})]
)
def test_another_part_beside_a_jet_pump(part: str, figures: dict[str, float]) -> None:
    """Jet pumps are settled, and tanks stand as full, in a changed circuit as in one compiled anew."""
    peak = make_study(SADDLE).peak
    old = of(SADDLE, part)
    new = old.model_copy(update={"figures": old.figures.model_copy(update=figures)})
    found = make_what_if(SADDLE.circuit).changed(Fitted(new)).at(peak.case.point, peak.case.demand)
    alike(
        found,
        solve_network(
            compile_network(with_element(SADDLE, new).circuit, peak.case.point, peak.case.demand)
        ),
    )


def test_a_pump_that_stops_and_one_that_is_taken_for_a_check_valve() -> None:
    peak = make_study(BITTERN).peak
    engine = make_what_if(BITTERN.circuit)
    off = peak.case.point.model_copy(update={"off": ["P1"]})
    alike(
        engine.changed(Off("P1")).at(peak.case.point, peak.case.demand),
        solve_network(compile_network(BITTERN.circuit, off, peak.case.demand)),
    )
    pump, check = of(BITTERN, "P1"), of(BITTERN, "K1")
    valve = Element(id="P1", kind="check", ports=pump.ports, figures=check.figures)
    swapped = engine.changed(Fitted(valve)).at(peak.case.point, peak.case.demand)
    alike(
        swapped,
        solve_network(
            compile_network(with_element(BITTERN, valve).circuit, peak.case.point, peak.case.demand)
        ),
    )
    assert swapped.links["P2"].flow > peak.solution.links["P2"].flow


def test_a_valve_that_stays() -> None:
    peak = make_study(EGRET).peak
    selector = EGRET.circuit.of_kind("selector")[0].id
    point = peak.case.point.model_copy(
        update={"position": peak.case.point.position | {selector: "right"}}
    )
    found = (
        make_what_if(EGRET.circuit)
        .changed(Stuck(selector, "right"))
        .at(peak.case.point, peak.case.demand)
    )
    alike(found, solve_network(compile_network(EGRET.circuit, point, peak.case.demand)))


def test_a_part_that_takes_nothing() -> None:
    """The filter without loss: both its ends at one pressure, and the pumps give more, as against
    less pressure they must.
    """
    peak = make_study(BITTERN).peak
    engine = make_what_if(BITTERN.circuit)
    found = engine.changed(Lossless("F2")).at(peak.case.point, peak.case.demand)
    assert found.links["F2"].loss == pytest.approx(
        3e4 * found.links["F2"].flow, rel=1e-3
    )  # next to nothing: 3 Pa at 400 L/h
    assert found.links["P1"].flow > peak.solution.links["P1"].flow
    check = engine.changed(Lossless("K1")).at(
        peak.case.point.model_copy(update={"off": ["P1"]}), peak.case.demand
    )
    assert check.links["K1"].flow == 0.0  # it still lets nothing back


def test_needles_that_are_never_the_limit() -> None:
    """Thrice the burn through injectors made for less: as they are they fall short; without limit
    they give what stands across them.
    """
    peak = make_study(BITTERN).peak
    engine, fuel_demand = make_what_if(BITTERN.circuit), 3 * peak.case.demand
    short, free = (
        engine.at(peak.case.point, fuel_demand),
        engine.changed(Unlimited()).at(peak.case.point, fuel_demand),
    )
    assert free.delivered > short.delivered
    assert engine.unlimited is engine.unlimited


def test_the_nearest_answer_is_the_start_and_few_are_kept() -> None:
    peak = make_study(BITTERN).peak
    engine = make_what_if(BITTERN.circuit)
    burns = [peak.case.demand * (0.5 + i / 20) for i in range(20)]
    for fuel_demand in burns:
        alike(
            engine.at(peak.case.point, fuel_demand),
            solve_network(compile_network(BITTERN.circuit, peak.case.point, fuel_demand)),
        )
    assert len(engine.known["peak"]) <= 8
    near = engine.nearest(peak.case.point, burns[-1])
    assert near is not None
    assert near.links["J1"].flow == pytest.approx(
        engine.at(peak.case.point, burns[-1]).links["J1"].flow
    )
    assert (
        engine.changed(Off("P1")).nearest(peak.case.point, burns[0]) is not None
    )  # that of what it was changed from


def test_many_points_are_those_points() -> None:
    point, demand = make_study(BITTERN).peak.case.point, make_study(BITTERN).peak.case.demand
    points = [
        point.model_copy(update={"manifold_kpa": 2.0 * i, "voltage_v": 12 + i / 60})
        for i in range(MANY + 10)
    ]
    demands: list[float | None] = [demand * (0.2 + i / 100) for i in range(MANY + 10)]
    engine = make_what_if(BITTERN.circuit)
    for together, p, d in zip(engine.many(points, demands), points, demands, strict=True):
        alike(together, engine.at(p, d))
    alike(engine.many(points[:2], demands[:2])[1], engine.at(points[1], demands[1]))
