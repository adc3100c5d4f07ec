"""The ladder against brute force: the whole circuit solved at each ceiling, where the part's requirement holds, and 1 % above, where it does not."""

from collections.abc import Callable

import pytest

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Injectors, Length, PumpMap
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import fit, set_brief
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.editing.topology import add_tap
from tall_heron.core.hydraulics.network import compile_network
from tall_heron.core.hydraulics.results import Solution
from tall_heron.core.hydraulics.solve import solve_network
from tall_heron.core.shelf.totals import mass_of, price_of
from tall_heron.core.sizing.limits import MOST, Limit, find_ceiling, make_limits
from tall_heron.core.study.demand import margin
from tall_heron.core.study.study import Study, make_study
from tall_heron.core.study.throat import narrowest


def laid(name: str, layout: str, **picks: object) -> Build:
    """The brief of a demo build in another layout."""
    brief = demo_builds()[name].brief
    assert brief is not None
    return Build(name=name, brief=brief, circuit=LAYOUTS[layout].build(brief, LAYOUTS[layout].picks(**picks)))


UNEQUAL = [{"dash": "-6", "mm": 300}, {"dash": "-6", "mm": 1600}]
BUILDS = demo_builds() | {
    "dead-end rail": laid("bittern", "C1", rails="dead-end"),
    "unequal rails": laid("bittern", "C1", rails="parallel", to_rails=UNEQUAL),
    "regulator ahead": laid("bittern", "C4"),
    "carburettor bypass": laid("dunlin", "C6"),
    "short return": laid("bittern", "C2"),
    "surge pot": laid("bittern", "C7"),
    "staged": laid("bittern", "C8"),
    "auxiliary tap": add_tap(laid("bittern", "C1"), "RL", "spurge-tap-120")[0],
}
CASES = [(name, limit.parts[0]) for name, build in BUILDS.items() for limit in make_limits(make_study(build))]


def solved_at(study: Study, times: float, case: str = "peak", pump_flow_times: float = 1.0) -> Solution:
    """The circuit at a multiple of the power, injectors never the limit, the pumps' maps stretched."""
    elements = []
    for e in study.build.circuit.elements:
        part = e.figures
        if isinstance(part, Injectors):
            part = part.model_copy(update={"rated_lph": 20 * part.rated_lph if part.mode == "compensated" else None})
        if isinstance(part, PumpMap):
            curves = [
                c.model_copy(update={"rows": [[row[0] * pump_flow_times, row[1] * pump_flow_times] for row in c.rows]}) for c in part.curves
            ]
            part = part.model_copy(update={"curves": curves, "relief_kpa": part.relief_kpa if pump_flow_times == 1.0 else None})
        elements.append(e.model_copy(update={"figures": part}))
    circuit = study.build.circuit.model_copy(update={"elements": elements})
    chosen = study.cases[case]
    return solve_network(compile_network(circuit, chosen.point, chosen.demand * times))


def with_pumps_that_keep_up(study: Study, times: float) -> Solution:
    """Pumps as they are while they keep up; beyond that just large enough."""
    present = study.pumps_deliver(study.peak)
    want = max(present, study.peak.case.demand * times + tapped(study, study.peak.solution))
    low, high = 1.0, 40.0
    for _ in range(60):
        middle = (low + high) / 2
        deliver = sum(solved_at(study, times, "peak", middle).links[p].flow for p in pumps(study))
        low, high = (low, middle) if deliver >= want * (1 - 1e-9) else (middle, high)
    return solved_at(study, times, "peak", high)


def tapped(study: Study, solution: Solution) -> float:
    return sum(solution.links[e.id].flow for e in study.build.circuit.elements if e.kind == "auxiliary")


def pumps(study: Study) -> list[str]:
    return [e.id for e in next(c for c in study.path.columns if c.elements[0].kind == "pump").elements]


def requirement(study: Study, limit: Limit) -> Callable[[float], float]:
    """What the part's requirement uses of what it allows, at a multiple of the power, from whole solutions."""
    element = study.build.circuit.element(limit.parts[0])
    assert element is not None
    limit_by_sag = study.brief.carburetted
    if limit.title == "gravity feed":

        def falls(times: float) -> float:
            solution = solved_at(study, times * (1 + margin(study.brief, gravity=True)[0]))
            error = solution.nodes["bowl"] / (study.brief.base_kpa * 1000) - 1  # type: ignore[operator]
            return -error / house_figure("rail_error_check_carburettor")

        return falls
    if element.kind == "pump":

        def short(times: float) -> float:
            worst = 0.0
            for case, spare in (("peak", margin(study.brief)[0]), ("low voltage", 0.0)):
                if limit_by_sag:
                    solution = solved_at(study, times * (1 + spare), case)
                    error = solution.nodes["bowl"] / (study.brief.base_kpa * 1000) - 1  # type: ignore[operator]
                    worst = max(worst, -error / house_figure("rail_error_check_carburettor"))
                    continue
                solution = solved_at(study, times, case)
                deliver = sum(solution.links[p].flow for p in pumps(study)) - tapped(study, solution)
                worst = max(worst, study.cases[case].demand * times * (1 + spare) / deliver)
            return worst

        return short
    if element.kind in ("injectors", "carburettor"):
        part = element.figures
        assert isinstance(part, Injectors)

        def duty(times: float) -> float:
            at = study.brief.base_kpa / part.rated_kpa * part.rated_density_kg_m3 / study.peak.solution.density
            sets = sum(e.figures.count for e in study.build.circuit.elements if isinstance(e.figures, Injectors) and e.kind != "auxiliary")
            return study.peak.case.demand * part.count / sets * times / (part.count * part.rated_lph / 3.6e6 * at**0.5) / part.duty_limit  # type: ignore[operator]

        return duty
    if limit.title == "suction":
        need = study.build.circuit.element(pumps(study)[0]).properties.suction_need_kpa * 1000  # type: ignore[operator,union-attr]

        def clear(times: float) -> float:
            inlet = with_pumps_that_keep_up(study, times).nodes["pump inlet"]
            assert inlet is not None
            return 1.0 if inlet + study.peak.case.point.atmosphere_kpa * 1000 - study.vapour_pressure >= need else 2.0

        return clear
    base = study.brief.base_kpa * 1000
    low = "_carburettor" if study.brief.carburetted else ""
    small, feed = house_figure("check_allowance" + low), (0.25 if low else 0.05) * base
    allowed = {"filter": house_figure("filter_allowance" + low), "hose": feed, "line": feed, "rail": 0.01 * base}.get(element.kind, small)
    parts = limit.parts if limit.title == "far rail" else limit.parts[:1]
    allowed = 0.01 * base if limit.title == "far rail" else allowed
    heights = {n.id: n.elevation_mm / 1000 for n in study.build.circuit.nodes}

    def takes(times: float) -> float:
        solution = with_pumps_that_keep_up(study, times)
        total = 0.0
        for part in parts:
            link = max((x for x in solution.links.values() if x.element == part), key=lambda x: x.flow)
            assert link.loss is not None
            total += link.loss - solution.density * 9.80665 * (heights[link.end] - heights[link.start])
        return total / allowed

    return takes


@pytest.mark.parametrize(("name", "part"), CASES)
def test_at_the_ceiling_the_requirement_holds_and_above_it_does_not(name: str, part: str) -> None:
    study = make_study(BUILDS[name])
    limit = next(x for x in make_limits(study) if x.parts[0] == part)
    uses = requirement(study, limit)
    asked = study.brief.power_kw * 1000
    if limit.ceiling is None:
        assert uses(MOST) <= 1.0
        return
    if limit.ceiling == 0.0:
        assert uses(1e-3) > 1.0
        return
    assert uses(limit.ceiling / asked) <= 1.0 + 1e-4
    assert uses(limit.ceiling / asked * 1.01) > 1.0


def test_the_ladder_is_sorted_and_says_enough_toss_up_or_short() -> None:
    def verdict(build: Build) -> tuple[str, ...]:
        rows = make_limits(make_study(build))
        ceilings = [r.ceiling if r.ceiling is not None else 1e12 for r in rows]
        assert ceilings == sorted(ceilings)
        return rows[0].parts[0], rows[0].verdict

    build = demo_builds()["bittern"]
    assert verdict(build) == ("P1", "enough")
    assert verdict(set_brief(build, "power_kw", 490.0)) == ("P1", "toss-up")
    assert verdict(set_brief(build, "power_kw", 600.0)) == ("P1", "short")
    assert verdict(fit(build, "H3", "ptfe-4"))[0] == "H3"


def test_the_narrowest_throat_is_found_through_every_end() -> None:
    """Bittern: the check valves' 8.6 mm (data/checks.csv); with a -6 feed its ends' 6.4 mm (data/ends.csv)."""
    build = demo_builds()["bittern"]
    first = narrowest(make_study(build))
    assert (first.part, first.where, first.bore) == ("K1", "bore", pytest.approx(0.0086))  # type: ignore[union-attr]
    small = narrowest(make_study(fit(build, "H3", "ptfe-6")))
    assert (small.part, small.where, small.bore) == ("H3", "end A", pytest.approx(0.0064))  # type: ignore[union-attr]


def test_find_ceiling() -> None:
    assert find_ceiling(lambda t: t / 2, 1.0) == pytest.approx(2.0)
    assert find_ceiling(lambda t: t / 100, 1.0) is None
    assert find_ceiling(lambda t: 2 + t, 1.0) == 0.0


def test_pumps_that_cannot_reach_the_rail_pressure_allow_no_power() -> None:
    build = set_brief(fit(fit(demo_builds()["bittern"], "P1", "marrow-210"), "P2", "marrow-210"), "base_kpa", 600.0)
    first = make_limits(make_study(build))[0]
    assert (first.parts, first.ceiling, first.verdict) == (("P1", "P2"), 0.0, "short")


def test_bands_are_the_tolerance_of_the_figures() -> None:
    """By hand: what grows as the flow holds at (1 +/- 5 %) of the pumps' ceiling; a filter of mixed loss at less than that of its 10 %, for loss grows faster than
    flow; verdicts follow the band's ends."""
    build = demo_builds()["bittern"]
    rows = {x.parts[0]: x for x in make_limits(make_study(build))}
    pumps, filter_, needles = rows["P1"], rows["F2"], rows["J1"]
    assert pumps.ceiling is not None
    assert pumps.band == (pytest.approx(0.95 * pumps.ceiling), pytest.approx(1.05 * pumps.ceiling))
    assert needles.ceiling is not None
    assert needles.band == (pytest.approx(0.97 * needles.ceiling), pytest.approx(1.03 * needles.ceiling))
    for row in rows.values():
        low, high = row.band
        asked = build.brief.power_kw * 1000  # type: ignore[union-attr]
        assert row.verdict == ("enough" if low is None or low >= asked else "short" if high is not None and high < asked else "toss-up")
    if filter_.ceiling:
        assert 0.9 * filter_.ceiling < filter_.band[0] < 0.95 * filter_.ceiling + 1  # type: ignore[operator]


def test_a_hose_costs_and_weighs_what_it_is_long_with_both_ends() -> None:
    """By hand: 13 a metre for 2 m, 7 and 9 for the ends; 0.2 kg a metre, 0.05 and 0.06 kg."""
    hose = demo_builds()["bittern"].circuit.element("H3")
    assert hose is not None
    assert hose.end_a is not None
    assert hose.end_b is not None
    made = hose.model_copy(
        update={
            "length": Length(mm=2000),
            "properties": hose.properties.model_copy(update={"price": 13.0, "mass_kg": 0.2}),
            "end_a": hose.end_a.model_copy(update={"price": 7.0, "mass_kg": 0.05}),
            "end_b": hose.end_b.model_copy(update={"price": 9.0, "mass_kg": 0.06}),
        }
    )
    assert (price_of(made), mass_of(made)) == (pytest.approx(2 * 13 + 7 + 9), pytest.approx(0.51))
