"""What is kept of a build in another that differs in little is what would be worked out anew: every
derivation, over edits of every part of a build; and what hangs on no edit costs no solution.
"""

import random
from collections.abc import Callable
from typing import Any

import pytest

from tall_heron.core.design import design
from tall_heron.core.document.build import Accepted, Build
from tall_heron.core.document.own_case import OwnCase
from tall_heron.core.document.sources import guesses_of
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import set_brief, set_clock, set_length
from tall_heron.core.editing.shop import set_face
from tall_heron.core.rules import check_cases, check_route, check_wiring
from tall_heron.core.rules.cases import matrix_of
from tall_heron.core.rules.joints import joints_in
from tall_heron.core.rules.route import laid_of
from tall_heron.core.sizing.auto_size import against
from tall_heron.core.sizing.limits import make_limits
from tall_heron.core.sizing.whole_limit import whole_limit
from tall_heron.core.study.cases.moments import solved_moments
from tall_heron.core.study.cases.pulsation import pulsation, rail_swing
from tall_heron.core.study.cases.supply import balances, battery_alone
from tall_heron.core.study.derived import PARTS, differing
from tall_heron.core.study.failures.failure_walk import walk
from tall_heron.core.study.failures.pump_out import left_without, silent_without
from tall_heron.core.study.sections import sections
from tall_heron.core.study.study import Study

DEMOS = demo_builds(wired=True)


def titled(build: Build, title: str) -> Build:
    elements = [
        e.model_copy(update={"title": title}) if e.kind == "filter" else e
        for e in build.circuit.elements
    ]
    return build.model_copy(
        update={"circuit": build.circuit.model_copy(update={"elements": elements})}
    )


def priced(build: Build, price: float) -> Build:
    elements = [
        e.model_copy(update={"properties": e.properties.model_copy(update={"price": price})})
        if e.kind == "pump"
        else e
        for e in build.circuit.elements
    ]
    return build.model_copy(
        update={"circuit": build.circuit.model_copy(update={"elements": elements})}
    )


def heights_guessed(build: Build, rnd: random.Random) -> Build:
    nodes = [
        n.model_copy(update={"elevation_mm": n.elevation_mm + rnd.choice([-40, 40])})
        if i == 2
        else n
        for i, n in enumerate(build.circuit.nodes)
    ]
    return build.model_copy(update={"circuit": build.circuit.model_copy(update={"nodes": nodes})})


def aged(build: Build) -> Build:
    assert build.wiring is not None
    supply = build.wiring.supply.model_copy(update={"aged": not build.wiring.supply.aged})
    return build.model_copy(update={"wiring": build.wiring.model_copy(update={"supply": supply})})


def bent(build: Build) -> str:
    return next(
        e.id
        for e in build.circuit.of_kind("hose")
        if e.end_a and e.end_b and e.end_a.angle_deg and e.end_b.angle_deg
    )


def hose(build: Build) -> str:
    return next(e.id for e in build.circuit.of_kind("hose") if e.role == "feed" and e.length)


EDITS: dict[str, Callable[[Build, random.Random], Build]] = {
    "a clock": lambda b, r: set_clock(b, bent(b), r.randrange(360)),
    "a title": lambda b, r: titled(b, f"Own filter {r.randrange(9)}"),
    "a price": lambda b, r: priced(b, r.uniform(10, 900)),
    "an own case": lambda b, r: b.model_copy(
        update={"cases": [OwnCase(name="weak battery", voltage_v=r.choice([9.5, 10.5]))]}
    ),
    "a hidden case": lambda b, _: b.model_copy(update={"hidden_cases": ["cruise"]}),
    "an accepted finding": lambda b, _: b.model_copy(
        update={
            "accepted": [
                *b.accepted,
                *(
                    Accepted(rule=f.rule, element_id=f.element_id, reason="known")
                    for f in design(b).findings[:1]
                ),
            ]
        }
    ),
    "a dimension": lambda b, r: b.model_copy(
        update={
            "space": b.space.model_copy(
                update={
                    "dimensions": b.space.dimensions | {"wheelbase": r.choice([2500.0, 2700.0])}
                }
            )
        }
    ),
    "a port": lambda b, r: set_face(
        b, b.circuit.of_kind("filter")[-1].id, "start", r.choice(["port -8", "flare -10"])
    ),
    "a length": lambda b, r: set_length(b, hose(b), r.uniform(600, 4000)),
    "power": lambda b, r: set_brief(
        b, "power_kw", b.brief.power_kw * r.uniform(0.7, 1.3) if b.brief else 0.0
    ),
    "an aged battery": lambda b, _: aged(b),
    "a height": heights_guessed,
}
UNSOLVED = (
    "a clock",
    "a title",
    "a price",
    "an own case",
    "a hidden case",
    "an accepted finding",
    "a dimension",
)


def rounded(x: Any) -> Any:
    """A value with its numbers to five digits: what is solved from another start differs in the
    last.
    """
    if isinstance(x, float):
        return float(f"{x:.5g}")
    if isinstance(x, dict):
        return {k: rounded(v) for k, v in x.items()}
    return [rounded(v) for v in x] if isinstance(x, list | tuple) else x


def found(findings: Any) -> list[Any]:
    return [
        (
            f.level,
            f.rule,
            f.element_id,
            f.case,
            f.title,
            f.why,
            rounded({k: v.value for k, v in f.figures.items()}),
        )
        for f in findings
    ]


# Every derivation, as something that can be set beside another.
DERIVATIONS: dict[str, Callable[[Study], Any]] = {
    "ladder": lambda s: [
        (x.parts, x.kind, x.title, rounded(x.ceiling), rounded(x.costs), x.verdict)
        for x in make_limits(s)
    ],
    "whole": lambda s: rounded(x.ceiling) if (x := whole_limit(s)) is not None else None,
    "left": lambda s: rounded(left_without(s)),
    "silent": silent_without,
    "pulsation": lambda s: (
        rounded([(b.mode, b.hertz, b.rpm) for b in x.bands])
        if (x := pulsation(s)) is not None
        else None
    ),
    "rail swing": lambda s: rounded(x.as_is) if (x := rail_swing(s)) is not None else None,
    "sections": lambda s: [x.parts for x in sections(s)],
    "failures": lambda s: [(o.failure.part, o.failure.what, o.stops) for o in walk(s)],
    "moments": lambda s: [
        (
            x.moment.case.key,
            x.moment.case.title,
            rounded(dict(list(x.solved.solution.nodes.items())[:4])),
        )
        for x in solved_moments(s)
    ],
    "matrix": lambda s: [(r.moment.case.key, len(r.cells)) for r in matrix_of(s).rows],
    "balances": lambda s: rounded(
        [(b.name, b.case, b.pumps, b.loads, b.gives) for b in balances(s)]
    ),
    "battery": lambda s: rounded(x.minutes) if (x := battery_alone(s)) is not None else None,
    "joints": lambda s: [(j.key, [p.name for p in j.pieces]) for j in joints_in(s).joints],
    "laid": lambda s: {
        k: (rounded(line.run.points), line.trouble) for k, line in laid_of(s).lines.items()
    },
    "rules of cases": lambda s: found(check_cases(s)[0]),
    "rules of route": lambda s: found(check_route(s)[0]),
    "rules of wiring": lambda s: found(check_wiring(s)[0]),
    "against": lambda s: found(against(s)),
}


def every(study: Study) -> dict[str, Any]:
    return {name: of(study) for name, of in DERIVATIONS.items()}


@pytest.mark.parametrize(
    "name",
    [
        "bittern",
        *(pytest.param(n, marks=pytest.mark.sweep) for n in ("curlew", "stonechat", "egret")),
    ],
)
@pytest.mark.parametrize("edit", EDITS)
def test_what_is_kept_is_what_would_be_made(edit: str, name: str) -> None:
    rnd, build = random.Random(edit), DEMOS[name]
    before = design(build)
    every(before.study)
    try:
        changed = EDITS[edit](build, rnd)
    except StopIteration:
        pytest.skip("it has no such line")
    kept, fresh = design(changed, like=before), design(changed)
    assert every(kept.study) == every(fresh.study)
    assert found(kept.findings) == found(fresh.findings)
    assert differing(build, changed)


@pytest.mark.parametrize("edit", UNSOLVED)
def test_what_hangs_on_no_pressure_costs_no_solution(edit: str) -> None:
    before = design(DEMOS["bittern"])
    after = design(EDITS[edit](DEMOS["bittern"], random.Random(edit)), like=before)
    assert after.study.solved is before.study.solved
    assert after.study.what_if is before.study.what_if


def test_every_part_of_a_build_is_told_apart() -> None:
    """An edit of each part differs in that part, and the parts together are the whole of a build:
    whatever differs at all differs in one.
    """
    told = set()
    for edit, make in EDITS.items():
        differ = differing(DEMOS["bittern"], make(DEMOS["bittern"], random.Random(edit)))
        assert differ, edit
        told |= differ
    assert {
        "brief",
        "hydraulics",
        "titles",
        "clocks",
        "prices",
        "wiring",
        "cases",
        "accepted",
        "space",
        "shop",
    } <= told | {"texts"}
    assert not differing(DEMOS["bittern"], DEMOS["bittern"].model_copy())
    assert told <= PARTS


def test_what_a_circuit_keeps_goes_with_its_places_as_well() -> None:
    """Heights that nobody has measured are guessed in a copy whose places say so, though its parts
    are the very same.
    """
    circuit = DEMOS["bittern"].circuit
    assert not guesses_of(circuit).heights
    unknown = circuit.model_copy(
        update={"nodes": [n.model_copy(update={"source": "assumed"}) for n in circuit.nodes]}
    )
    assert len(guesses_of(unknown).heights) > 5
    assert not guesses_of(circuit).heights


def test_no_field_of_a_build_is_in_no_part() -> None:
    """A field that is new belongs to a part, or nothing that reads it is made anew: put it into
    `differing` and here.
    """
    of_parts = {
        "brief",
        "circuit",
        "wiring",
        "cases",
        "hidden_cases",
        "accepted",
        "space",
        "shop",
        "prices",
        "name",
        "points",
        "typed",
        "line",
        "wishes",
        "questions",
        "assumed",
    }
    assert set(Build.model_fields) - {"format"} == of_parts
