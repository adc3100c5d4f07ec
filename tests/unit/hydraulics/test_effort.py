"""How much the solver works, counted, not timed: a change that only leads it astray shows here,
since its answers stay right while its ways fail one after another.
"""

from collections.abc import Callable
from random import Random
from typing import Any

import pytest
from made_up import circuit, odd

from tall_heron.core.document.build import validate
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.hydraulics.interior import interior
from tall_heron.core.hydraulics.network import compile_circuit
from tall_heron.core.hydraulics.newton import first_state, newton
from tall_heron.core.hydraulics.solve import POLISH_STEPS
from tall_heron.core.hydraulics.sweep import solve_many
from tall_heron.core.sizing.auto_size import proposed
from tall_heron.core.sizing.limits import make_limits
from tall_heron.core.study.study import make_study
from tall_heron.core.study.what_if import WhatIf

# Of each demo: Newton's steps from its usual start at all cases together, solves of its ladder, and
# choices looked at for its sizes.
DEMOS = {
    "bittern": (21, 274, 10),
    "curlew": (22, 251, 8),
    "dunlin": (12, 236, 9),
    "egret": (33, 391, 9),
    "plover": (19, 345, 15),
    "stonechat": (26, 195, 6),
}
MADE_UP: list[tuple[Callable[[Random], dict[str, Any]], int, int, int, int, int]] = [
    (circuit, 113, 911, 103, 160, 18),
    (odd, 49, 338, 45, 49, 3),
]
SEEDS = range(90_000, 90_120)


@pytest.mark.parametrize("name", DEMOS)
def test_a_demo_takes_no_more_steps_and_solves(name: str, monkeypatch: pytest.MonkeyPatch) -> None:
    steps, solves, looks = DEMOS[name]
    study = make_study(demo_builds()[name])
    compiled, taken = study.what_if.compiled, {True: 0, False: 0}
    for solved in study.solved.values():
        for chained in taken:
            net = compiled.at(solved.case.point, solved.case.demand, chained=chained)
            state = newton(net, first_state(net))
            assert state.converged
            taken[chained] += state.steps
    assert taken[True] <= steps
    assert taken[False] <= steps
    peak = study.peak.case
    points = [
        peak.point.model_copy(
            update={
                "voltage_v": (peak.point.voltage_v or 14) - 0.01 * i,
                "manifold_kpa": peak.point.manifold_kpa - 5 + 0.25 * i,
            }
        )
        for i in range(40)
    ]
    assert (
        solve_many(compiled, points, [peak.demand * (0.3 + 0.02 * i) for i in range(40)]).alone == 0
    )
    calls, at = [], WhatIf.at
    monkeypatch.setattr(WhatIf, "at", lambda *a, **k: (calls.append(1), at(*a, **k))[1])
    make_limits(study)
    assert len(calls) <= solves
    assert proposed(demo_builds()[name]).looked <= looks


@pytest.mark.parametrize(
    ("make", "settle", "steps", "inward", "polish", "alone"), MADE_UP, ids=["usual", "odd"]
)
def test_made_up_circuits_settle_as_often_and_as_soon(
    make: Callable[[Random], dict[str, Any]],
    settle: int,
    steps: int,
    inward: int,
    polish: int,
    alone: int,
) -> None:
    """By Newton's steps alone, along the interior path with a polish, and in a batch."""
    found = {"newton": [], "interior": [], "alone": 0}  # type: ignore[var-annotated]
    for seed in SEEDS:
        compiled = compile_circuit((build := validate(make(Random(seed)))).circuit)
        point = build.points[0]
        net = compiled.at(point)
        if net.frame.impossible or not net.frame.ends or net.jets:
            continue
        state = newton(net, first_state(net))
        found["newton"] += [state.steps] if state.converged else []
        single = compiled.at(point, chained=False)
        polished = newton(single, interior(single, 0.3)[0], POLISH_STEPS)
        found["interior"] += [polished.steps] if polished.converged else []
        found["alone"] += solve_many(compiled, [point] * 3).alone
    assert len(found["newton"]) >= settle
    assert sum(found["newton"]) <= steps
    assert len(found["interior"]) >= inward
    assert sum(found["interior"]) <= polish
    assert found["alone"] <= alone
