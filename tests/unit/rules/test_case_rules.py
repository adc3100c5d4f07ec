"""Every rule that reads the cases fires on a fault and is silent on a sound build."""

from collections.abc import Callable
from dataclasses import replace

import pytest

from tall_heron.core.design import design
from tall_heron.core.document.build import Brief, Build
from tall_heron.core.document.figures import Displacement
from tall_heron.core.document.own_case import OwnCase
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.inside import with_level_gauge
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.editing.layouts.picks import HosePick
from tall_heron.core.rules import CASE_RULES, cases, check_cases
from tall_heron.core.rules.finding import Finding
from tall_heron.core.study.failures.failure_walk import LITTLE, walk
from tall_heron.core.study.study import make_study

DEMO = demo_builds()
CAR = Brief(
    power_kw=300,
    base_kpa=400,
    boost_kpa=100,
    fuel="E10",
    cylinders=6,
    displacement_l=3.0,
    fuel_temperature_c=25,
    use="street",
)
AIR = Brief(
    power_kw=110, fuel="100LL", base_kpa=300, use="flight", cylinders=4, fuel_temperature_c=20
)


def made(layout: str = "C1", brief: Brief = CAR, **picks: object) -> Build:
    laid = LAYOUTS[layout]
    return Build(name="made", brief=brief, circuit=laid.build(brief, laid.picks(**picks)))


def warm(**changes: object) -> Brief:
    return Brief.model_validate(CAR.model_dump() | changes)


def with_case(**fields: object) -> Build:
    return made().model_copy(update={"cases": [OwnCase.model_validate({"name": "own"} | fields)]})


def gauged(build: Build) -> Build:
    circuit = build.circuit
    for t in circuit.of_kind("tank"):
        circuit = with_level_gauge(circuit, t.id, True)
    return build.model_copy(update={"circuit": circuit})


def selectors_apart() -> Build:
    """Feed and return turned by two levers."""
    build = DEMO["egret"]
    elements = [
        e.model_copy(update={"title": "three-way valve"}) if e.id == "V2" else e
        for e in build.circuit.elements
    ]
    return build.model_copy(
        update={"circuit": build.circuit.model_copy(update={"elements": elements})}
    )


def damped() -> Build:
    return made("C3", pumps=("teasel-620",))


def tight(layout: str) -> Build:
    """The same with pumps on the engine that hardly slip."""
    build = made(layout, brief=warm(power_kw=700))
    elements = [
        e.model_copy(update={"figures": e.figures.model_copy(update={"rated_rpm": 100.0})})
        if isinstance(e.figures, Displacement)
        else e
        for e in build.circuit.elements
    ]
    return build.model_copy(
        update={"circuit": build.circuit.model_copy(update={"elements": elements})}
    )


FAULTS: list[tuple[str, Callable[[], Build], str, Callable[[], Build]]] = [
    ("C-01", lambda: made(brief=warm(fuel_temperature_c=45), strainer="sedge-40"), "Check", made),
    (
        "C-02",
        lambda: made(brief=warm(fuel_temperature_c=42)),
        "Check",
        lambda: made(brief=warm(fuel_temperature_c=10)),
    ),
    ("C-03", lambda: DEMO["plover"], "Check", made),
    (
        "C-04",
        lambda: made("C8", brief=warm(power_kw=470, boost_kpa=150), stage_boost_kpa=145),
        "Stop",
        lambda: made("C8", brief=warm(power_kw=470, boost_kpa=150), stage_boost_kpa=20),
    ),
    (
        "C-11",
        lambda: made(back=HosePick(dash="-4", mm=6000, ends=(90, 90), clock_deg=0)),
        "Note",
        made,
    ),
    ("C-12", lambda: made("C9", brief=warm(power_kw=700)), "Note", lambda: tight("C9")),
    ("C-05", lambda: with_case(clogging={"F2": 30}), "Check", lambda: with_case(power_share=0.5)),
    ("C-06", made, "Note", lambda: gauged(DEMO["egret"])),
    ("C-07", selectors_apart, "Check", lambda: DEMO["egret"]),
    (
        "C-08",
        lambda: made("C7", tank="pot-2", brief=warm(power_kw=900, fuel="E85")),
        "Check",
        lambda: made("C7", tank="pot-5", brief=warm(power_kw=200)),
    ),
    ("C-09", lambda: DEMO["curlew"], "Check", lambda: made(brief=warm(fuel_temperature_c=10))),
    ("C-10", made, "Note", damped),
]


def found(rule: str, build: Build) -> list[Finding]:
    return [f for f in check_cases(make_study(build))[0] if f.rule == rule]


def test_every_rule_is_here() -> None:
    assert [r.id for r in CASE_RULES] == [x[0] for x in FAULTS]


@pytest.mark.parametrize(("rule", "fault", "level", "sound"), FAULTS, ids=[x[0] for x in FAULTS])
def test_a_rule_fires_and_is_silent(
    rule: str, fault: Callable[[], Build], level: str, sound: Callable[[], Build]
) -> None:
    met = found(rule, fault())
    assert met
    assert level in {f.level for f in met}
    assert all(f.station == "cases" and f.title and f.why and f.do and f.source for f in met)
    findings, passed = check_cases(make_study(sound()))
    assert rule not in {f.rule for f in findings}
    assert rule in {r.id for r in passed} or rule in ("C-07", "C-10")


def test_a_silent_failure_of_an_aircraft_is_a_stop_until_its_tanks_have_gauges() -> None:
    bare = DEMO["egret"].model_copy(
        update={
            "circuit": with_level_gauge(
                with_level_gauge(DEMO["egret"].circuit, "S1", None), "S2", None
            )
        }
    )
    assert [f.level for f in found("C-06", bare)] == ["Stop"]
    assert found("C-06", DEMO["egret"]) == []


def test_it_is_a_check_where_no_fuel_is_lost(monkeypatch: pytest.MonkeyPatch) -> None:
    bare = DEMO["egret"].model_copy(
        update={
            "circuit": with_level_gauge(
                with_level_gauge(DEMO["egret"].circuit, "S1", None), "S2", None
            )
        }
    )
    met = [o for o in walk(make_study(bare)) if o.silent]
    for leaks, level in ((0.5 * LITTLE, "Check"), (1.5 * LITTLE, "Stop")):
        monkeypatch.setattr(
            cases, "walk", lambda _, leaks=leaks: [replace(o, leaks=leaks) for o in met]
        )
        assert [f.level for f in cases.silent_failures(make_study(bare))] == [level]


def test_what_is_accepted_or_hidden_is_looked_at_anew() -> None:
    build = DEMO["bittern"]
    one = design(build)
    assert one.of_cases[0]
    hidden = design(
        build.model_copy(
            update={
                "hidden_cases": ["launch", "braking", "corner left", "corner right", "hot and high"]
            }
        ),
        one,
    )
    assert {"C-02", "C-03"} & {f.rule for f in one.of_cases[0]}
    assert not {"C-02", "C-03"} & {f.rule for f in hidden.of_cases[0]}
    mine = design(
        build.model_copy(update={"cases": [OwnCase(name="dirty", clogging={"F2": 1000})]}), one
    )
    assert "C-05" in {f.rule for f in mine.of_cases[0]}


@pytest.mark.parametrize("order", [1, -1])
def test_of_two_cases_the_worse_one_says_it(order: int) -> None:
    dirty = [
        OwnCase.model_validate({"name": name, "clogging": {"F2": times}})
        for name, times in (("dirty", 900), ("filthy", 1000))
    ][::order]
    build = made().model_copy(update={"cases": dirty})
    rail = next(
        f
        for f in check_cases(make_study(build))[0]
        if f.rule == "C-05" and "the rail shows" in f.title
    )
    assert rail.case == "own filthy"
