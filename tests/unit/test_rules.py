"""Every rule fires on a fault and is silent on a sound build, and knows no id of the demo."""

from collections.abc import Callable

import pytest

from tall_heron.core.build import Brief, Build, validate
from tall_heron.core.demo import demo_builds
from tall_heron.core.design import design
from tall_heron.core.edit import fit, remove, set_brief
from tall_heron.core.finding import Finding
from tall_heron.core.layouts import return_rail
from tall_heron.core.layouts.return_rail import HosePick, Picks

SOUND = Brief(power_kw=300, base_kpa=400, boost_kpa=100, fuel="E10", cylinders=6, fuel_temperature_c=25)


def made(brief: Brief = SOUND, **picks: object) -> Build:
    chosen = Picks.model_validate(picks)
    return Build(name="made", brief=brief, circuit=return_rail.build(brief, chosen))


def asked(**changes: object) -> Brief:
    return Brief.model_validate(SOUND.model_dump() | changes)


def renamed(build: Build) -> Build:
    """The same build with every id and every node named otherwise."""
    data = build.model_dump(mode="json", exclude_none=True)
    elements = data["circuit"]["elements"]
    for i, element in enumerate(elements):
        element["id"] = f"Q{i}"
        element["ports"] = {port: f"node {node[::-1]}".replace("  ", " ").strip() for port, node in element["ports"].items()}
    for node in data["circuit"]["nodes"]:
        node["id"] = f"node {node['id'][::-1]}"
    data["typed"] = {}
    return validate(data)


def small_return() -> Build:
    return made(back=HosePick(dash="-4", mm=4300, ends=(90, 90)), regulator="heronsbill-bypass-6")


# rule, a build that fires it, level, the kind of part it names
FAULTS: list[tuple[str, Callable[[], Build], str, str]] = [
    ("P-01", lambda: made(asked(power_kw=600, fuel="E70"), pumps=("marrow-340", "marrow-340")), "Check", "pump"),
    ("P-01", lambda: made(asked(power_kw=600), pumps=("marrow-340",)), "Stop", "pump"),
    ("P-02", small_return, "Stop", "hose"),
    ("S-01", lambda: made(asked(fuel_temperature_c=45)), "Check", "pump"),
    ("S-01", lambda: made(asked(fuel_temperature_c=45, season="winter")), "Stop", "pump"),
    ("F-01", lambda: made(strainer="reedmace-10g", filter="sedge-100"), "Stop", "strainer"),
    ("F-01", lambda: made(strainer="reedmace-10g"), "Check", "strainer"),
    ("F-01", lambda: remove(made(), "F2"), "Check", "pump"),
    ("M-04", lambda: made(asked(fuel="E70"), filter="reedmace-10p"), "Stop", "filter"),
    ("H-01", lambda: made(asked(fuel="E85"), feed=HosePick(family="rubber", dash="-10", mm=3900)), "Stop", "hose"),
    ("M-01", lambda: made(asked(fuel="E100"), pumps=("marrow-210", "marrow-210")), "Check", "pump"),
]


def find(build: Build, rule: str) -> list[Finding]:
    return [f for f in design(build).findings if f.rule == rule]


@pytest.mark.parametrize(("rule", "fault", "level", "kind"), FAULTS, ids=[f"{f[0]}-{f[2]}-{i}" for i, f in enumerate(FAULTS)])
def test_a_fault_is_found_under_any_names(rule: str, fault: Callable[[], Build], level: str, kind: str) -> None:
    for build in (fault(), renamed(fault())):
        found = [f for f in find(build, rule) if f.level == level]
        assert found, f"{rule} does not fire"
        element = build.circuit.element(found[0].part)
        assert element is not None
        assert element.kind == kind
        for text in (found[0].title, found[0].why, found[0].do, found[0].source):
            text.format(**{name: figure.value for name, figure in found[0].figures.items()})
        assert found[0].do
        assert found[0].source


def test_a_sound_build_has_no_findings() -> None:
    assert [f.title for f in design(made()).findings] == []
    assert [f.title for f in design(renamed(made())).findings] == []


def test_the_demo_has_honest_faults_and_each_can_be_cleared() -> None:
    build = demo_builds()["bittern"]
    assert {(f.rule, f.level) for f in design(build).findings} == {("M-04", "Stop"), ("H-01", "Stop"), ("S-01", "Check")}
    mended = set_brief(fit(fit(build, "F2", "reedmace-10g"), "H1", "ptfe-10"), "fuel_temperature_c", 35.0)
    assert design(mended).findings == []


def test_more_power_finds_the_pumps_short() -> None:
    build = demo_builds()["bittern"]
    assert find(build, "P-01") == []
    levels = {f.case: f.level for f in find(set_brief(build, "power_kw", 522.0), "P-01")}
    assert levels == {"peak": "Check", "low voltage": "Stop"}


def test_a_build_without_pumps_says_why_it_does_not_solve() -> None:
    build = remove(remove(demo_builds()["bittern"], "P1"), "P2")
    made_of = design(build)
    peak = made_of.study.peak.solution
    assert not peak.converged
    assert peak.part in ("K1", "K2")
    assert "nothing is joined" in peak.reason
    assert peak.nodes == {}
    assert [c.elements[0].id for c in made_of.study.path.columns][:3] == ["S1", "E1", "H1"]
    assert made_of.study.path.gap == 3


def test_base_pressure_turns_the_regulator_within_its_reach() -> None:
    build = set_brief(demo_builds()["bittern"], "base_kpa", 300.0)
    assert build.circuit.element("PR").part.set_kpa == 300  # type: ignore[union-attr]
    assert build.circuit.element("J1").part.commanded_at_kpa == 300  # type: ignore[union-attr]
    far = set_brief(build, "base_kpa", 900.0)
    assert far.circuit.element("PR").part.set_kpa == 620  # type: ignore[union-attr]


def test_cut_lengths_and_what_is_too_short() -> None:
    """Face to face less both take-ups: 3,900 - 46 - 36 = 3,818 mm (hand calculation from data/ends.csv)."""
    cuts = {c.element.id: c for c in design(demo_builds()["bittern"]).cuts}
    assert cuts["H3"].cut_mm == 3818
    assert "3,900 mm face to face − 46 mm end A − 36 mm end B = 3,818 mm" in cuts["H3"].why.steps
    short = made(delivery=HosePick(dash="-10", mm=60, ends=(90, 90)))
    cut = next(c for c in design(short).cuts if c.element.id == "H2")
    assert cut.cut_mm is None
    assert "too short" in cut.wrong
