"""Figures of station 4 worked by hand, with the published law or the handbook's row beside each."""

import math

import pytest

from tall_heron.core.document.build import Brief
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.study.cases.moments import solved_moments
from tall_heron.core.study.demand import margin
from tall_heron.core.study.study import make_study

DEMO = demo_builds()
G = 9.80665  # m/s2, standard gravity


@pytest.mark.parametrize(
    ("gravity", "flows", "source"),
    [
        (
            False,
            1.25,
            "14 CFR 23.955(c) before amendment 23-64 of 2017, pump systems: 125 % of take-off flow; from memory",
        ),
        (True, 1.50, "14 CFR 23.955(b), gravity systems: 150 %; from memory"),
    ],
)
def test_flow_asked_of_an_aircraft(gravity: bool, flows: float, source: str) -> None:
    """Historical good practice: experimental home-builts were never bound by part 23."""
    brief = Brief(power_kw=112, fuel="100LL", base_kpa=20, use="flight", cylinders=4)
    assert 1 + margin(brief, gravity)[0] == pytest.approx(flows), source
    assert "before 2017" in margin(brief, gravity)[1]


@pytest.mark.parametrize("key", ["peak", "hot and high", "E1 clogged"])
def test_suction_head_by_hand(key: str) -> None:
    """NPSH (any pumps textbook): air + rho g (surface - inlet) - what strainer and hose take -
    entry and velocity head - vapour pressure; entry 0.5 on the line's bore (Crane TP-410) only
    where no strainer stands before it. Losses are the solved ones of this moment; AP-42 and ISO
    2533 have rows of their own.
    """
    build = DEMO["curlew"]
    x = next(s for s in solved_moments(make_study(build)) if s.moment.case.key == key)
    solution, point = x.solved.solution, x.solved.case.point
    tank, hose, pump = (build.circuit.element(i) for i in ("S1", "H1", "P1"))
    assert tank is not None
    assert hose is not None
    assert pump is not None
    height = {n.id: n.elevation_mm / 1000 for n in build.circuit.nodes}
    surface = height[tank.ports["outlet"]] + tank.figures.level_mm / 1000  # type: ignore[union-attr]
    rho, flow = solution.density, solution.flow("P1")
    taken = sum(x.study.friction(x.solved, name) for name in ("E1", "H1"))
    speed = flow / (math.pi / 4 * (hose.figures.bore_mm / 1000) ** 2)  # type: ignore[union-attr]
    air = 101325 * (1 - 2.25577e-5 * {"hot and high": 1500.0}.get(key, 0.0)) ** 5.25588
    assert point.atmosphere == pytest.approx(air, rel=1e-5)
    hand = (
        air
        + rho * G * (surface - height[pump.ports["start"]])
        - taken
        - rho * speed**2 / 2
        - x.study.vapor_pressure
    )
    assert x.study.inlet_clear(x.solved, pump) == pytest.approx(hand, rel=0.005)


def test_a_higher_place_costs_its_air_and_a_clogged_strainer_three_times_its_loss() -> None:
    found = {s.moment.case.key: s for s in solved_moments(make_study(DEMO["curlew"]))}
    clear = {
        k: found[k].study.clear_of_boiling(found[k].solved)[0]
        for k in ("peak", "hot and high", "E1 clogged")
    }  # type: ignore[index]
    thinner = 101325 * (1 - (1 - 2.25577e-5 * 1500) ** 5.25588)  # ISO 2533
    assert clear["peak"] - clear["hot and high"] == pytest.approx(thinner, rel=0.01)
    once = found["peak"].study.friction(found["peak"].solved, "E1")
    thrice = found["E1 clogged"].study.friction(found["E1 clogged"].solved, "E1")
    peak = found["peak"].solved.solution
    adapter = (
        0.2 * peak.density * (peak.flow("E1") / (math.pi / 4 * 0.01229**2)) ** 2 / 2
    )  # its coupler clogs with nothing
    assert thrice - adapter == pytest.approx(3 * (once - adapter), rel=0.02)
    assert clear["peak"] - clear["E1 clogged"] == pytest.approx(2 * (once - adapter), rel=0.05)
