"""Show me why: each line of arithmetic, reckoned again from the numbers it shows, comes to what it
says, and that is what the solution has.
"""

import math
from itertools import chain

import pytest
from reckon import blur, equalities, value_of

from tall_heron.core.base.arithmetic import Why
from tall_heron.core.design import Design, design
from tall_heron.core.document.build import Brief, Build
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.editing.topology import set_height
from tall_heron.core.study.cases.injector_duty import doses
from tall_heron.core.study.cases.tank_heat import tank_heat
from tall_heron.core.study.cases.worst_cylinder import worst_cylinder
from tall_heron.core.study.explain import why_deliver, why_headroom, why_part, why_rail, why_suction
from tall_heron.core.study.lift import overflow_pressure
from tall_heron.core.study.study import make_study

# What may stand between two sides of one line: Pa and kPa, kPa and psi, kW and hp, kg and lb, a
# share and percent, L/h over mm2 and m/s, kg/h over turns and mg.
FACTORS = [1.0, 1000.0, 6.894757, 0.7456999, 0.45359237, 0.01, 3.6, 6e-5, 60.0]
ROUNDED = 0.015  # three figures shown, of several factors
CIRCUIT_ROWS = [*demo_builds(), "C7", "C9", "C10", "A2", "A4"]


def made(name: str) -> Design:
    if name not in LAYOUTS:
        return design(demo_builds()[name])
    layout = LAYOUTS[name]
    air = {"use": "flight", "fuel": "100LL"} if layout.craft == "air" else {"boost_kpa": 80.0}
    brief = Brief.model_validate(
        {
            "power_kw": 220,
            "base_kpa": 300.0,
            "feeding": layout.feeding,
            "peak_rpm": 6000,
            "dead_time": "not corrected",
        }
        | air
    )
    return design(Build(name=name, brief=brief, circuit=layout.build(brief)))


def whys(d: Design) -> list[Why]:
    s = d.study
    out = [
        why_part(s, solved, e)
        for solved in s.solved.values()
        for e in s.build.circuit.elements
        if e.ports
    ]
    out += [
        w(s, solved)
        for w in (why_rail, why_deliver, why_headroom, why_suction)
        for solved in s.solved.values()
    ]
    out += [
        s.fuel_demand.why,
        tank_heat(s).why,
        *(x.why for solved in s.solved.values() for x in doses(s, solved)),
        *(x.why for x in d.limits),
    ]
    worst = worst_cylinder(s)
    return out + ([worst.why] if worst else [])


@pytest.mark.parametrize("name", CIRCUIT_ROWS)
def test_every_line_comes_to_what_it_says(name: str) -> None:
    checked = 0
    for a, b, step in chain.from_iterable(
        equalities(step) for why in whys(made(name)) for step in why.steps if "to open" not in step
    ):
        if max(abs(a), abs(b)) < 1e-9:
            continue
        ratios = [abs(a / b), abs(b / a)] if a and b else [0.0]
        close = (0.05 if step.endswith("%") else ROUNDED) + blur(
            step
        )  # shares are shown to two figures: up to half of the second one
        assert any(math.isclose(r, f, rel_tol=close) for r in ratios for f in FACTORS), step
        assert a * b > 0 or min(abs(a), abs(b)) < 0.05, step
        checked += 1
    assert checked > 40


def test_a_hose_that_climbs_or_runs_backward_ends_at_what_it_takes() -> None:
    """2 m up costs rho g z on top of friction, in either sense of the hose; a rise of a few
    millimetres is no line of its own.
    """
    build = demo_builds()["bittern"]
    for turned in (False, True):
        for rise in (2000.0, -2000.0, 0.05):
            tall = set_height(set_height(build, "H3", "start", 0.0), "H3", "end", rise)
            hose = tall.circuit.element("H3")
            assert hose is not None
            elements = [
                e.model_copy(update={"reversed": turned}) if e.id == "H3" else e
                for e in tall.circuit.elements
            ]
            study = make_study(
                tall.model_copy(
                    update={"circuit": tall.circuit.model_copy(update={"elements": elements})}
                )
            )
            link = study.peak.solution.links["H3"]
            steps = why_part(
                study, study.peak, next(e for e in study.build.circuit.elements if e.id == "H3")
            ).steps
            lifted = [s for s in steps if "with the height" in s]
            assert bool(lifted) == (abs(rise) > 1)
            said = value_of(
                (lifted[-1] if lifted else steps[-1]).rpartition(" kPa =")[0].rpartition("= ")[2]
            )
            assert said == pytest.approx((link.loss or 0.0) / 1000, rel=6e-3, abs=2e-3), steps


@pytest.mark.parametrize("name", CIRCUIT_ROWS)
def test_the_arithmetic_ends_at_what_was_solved(name: str) -> None:
    """The last kPa of a hose's, filter's or fitting's lines is its loss in the solution; a pump's
    flow and current are its own.
    """
    d = made(name)
    s, checked = d.study, 0
    for solved in s.solved.values():
        for e in s.build.circuit.elements:
            link = solved.solution.links.get(e.id)
            if (
                link is None
                or link.loss is None
                or not link.flow
                or e.figures.law not in ("pipe", "quadratic", "loss", "pump")
            ):
                continue
            steps = why_part(s, solved, e).steps
            said = [
                v
                for step in steps
                for side in step.split(" = ")
                if side.split(", ")[0].endswith("kPa")
                and (v := value_of(side.split("against ")[-1].split(", ")[0])) is not None
            ]
            assert said, steps
            assert abs(said[-1]) == pytest.approx(abs(link.loss) / 1000, rel=6e-3, abs=6e-4), steps
            if link.current is not None:
                assert any(
                    step.startswith("draws")
                    and value_of(step.split(" A ×")[0].removeprefix("draws"))
                    == pytest.approx(link.current, rel=6e-3)
                    for step in steps
                )
            checked += 1
    assert checked > 10


@pytest.mark.parametrize("name", ["C7", "bittern", "plover"])
def test_no_part_of_a_solved_circuit_says_that_it_does_not_solve(name: str) -> None:
    s = made(name).study
    for e in s.build.circuit.elements:
        assert "does not solve" not in " ".join(why_part(s, s.peak, e).steps), e.id


def test_an_overflow_shows_what_the_lift_pump_gives_beyond_the_demand_at_idle() -> None:
    s = made("C7").study
    overflow = s.build.circuit.of_kind("overflow")[0]
    idle = s.solved["idle"]
    shed = (idle.solution.flow("P9") - idle.case.demand) * 3.6e6
    steps = why_part(s, s.peak, overflow).steps
    assert value_of(steps[0].split(" = ")[1].split(" to shed")[0]) == pytest.approx(shed, rel=6e-3)
    assert value_of(steps[1].split(" = ")[2]) == pytest.approx(
        overflow_pressure(idle, overflow, shed / 3.6e6) / 1000, rel=6e-3
    )
