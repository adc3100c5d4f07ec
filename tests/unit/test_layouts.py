"""Layouts laid, changed and chosen: what fits is carried over, what is dropped is said, the recommended one has the least against it."""

import pytest

from tall_heron.core.build import Build
from tall_heron.core.chooser import choose, rails_of, warms
from tall_heron.core.demo import demo_builds
from tall_heron.core.edit import fit, set_brief, set_length
from tall_heron.core.errors import BuildErrors
from tall_heron.core.layouts import LAYOUTS, layouts_for
from tall_heron.core.relayout import relay
from tall_heron.core.sheets.totals import make_totals
from tall_heron.core.study import make_study

EVERY = [(x.key, r) for x in LAYOUTS.values() for r in x.rails]


@pytest.mark.parametrize(("key", "rails"), EVERY)
def test_every_layout_is_read_back_as_it_was_laid(key: str, rails: str) -> None:
    layout = LAYOUTS[key]
    brief = demo_builds()["dunlin" if layout.feeding == "carburettor" else "bittern"].brief
    assert brief is not None
    build = Build(name=key, brief=brief, circuit=layout.build(brief, layout.picks(rails=rails)))
    assert (build.circuit.template, rails_of(build)) == (key, rails)
    study = make_study(build)
    assert all(s.solution.converged for s in study.solved.values())
    assert [b.burns for b in study.path.branches] == ([True] if rails == "dead-end" else [False] if key == "C4" else [])
    if brief.feeding == "injection":
        assert sum(e.part.count for e in build.circuit.of_kind("injectors")) == 6  # type: ignore[union-attr]


def test_a_change_of_layout_keeps_what_fits_and_comes_back_whole() -> None:
    build = set_length(fit(demo_builds()["bittern"], "F2", "reedmace-10g"), "H3", 4100.0)
    there = relay(build, "C1", "parallel")
    assert there.dropped == ()
    assert {x.split()[0] for x in there.added} == {"Y2", "H7", "H8", "RL2", "J2", "H9", "H10", "Y3"}
    kept = there.build.circuit.element("H3")
    assert (kept.length.mm, there.build.circuit.element("F2").shelf) == (4100.0, "reedmace-10g")  # type: ignore[union-attr]
    assert [e.part.count for e in there.build.circuit.of_kind("injectors")] == [3, 3]  # type: ignore[union-attr]
    back = relay(there.build, "C1")
    assert {x.split()[0] for x in back.dropped} == {"Y2", "H7", "H8", "RL2", "J2", "H9", "H10", "Y3"}
    assert back.build == build


def test_from_injection_to_a_carburettor_only_tank_and_lines_are_kept() -> None:
    build = set_brief(set_brief(demo_builds()["bittern"], "feeding", "carburettor"), "base_kpa", 45.0)
    there = relay(build, "C6").build.circuit
    assert there.element("P1").shelf == "coot-380"  # type: ignore[union-attr]
    assert (there.element("S1").title, there.element("H3").about.dash) == ("surge pot, 3 L, baffled", "-10")  # type: ignore[union-attr]
    assert [x.key for x, _ in layouts_for(build.brief)] == ["C5", "C6"]  # type: ignore[arg-type]
    with pytest.raises(BuildErrors, match="no layout C9"):
        relay(build, "C9")


@pytest.mark.parametrize("name", ["bittern", "curlew", "dunlin"])
def test_the_recommended_one_has_the_least_against_it_and_costs_the_least(name: str) -> None:
    choice = choose(demo_builds()[name])
    keys = [(c.count("Stop"), c.count("Check"), c.totals.price) for c in choice.candidates]
    assert keys == sorted(keys)
    assert sum(c.present for c in choice.candidates) == 1
    assert len(choice.candidates) == len(layouts_for(demo_builds()[name].brief))  # type: ignore[arg-type]
    assert choice.reasons
    assert all(w.text for w in choice.wins)


def test_a_tank_warms_by_what_comes_back() -> None:
    """Curlew idling: pumps' watts x 3,600 s x share returned / (20 L x density x heat capacity), by hand from the solution."""
    study = make_study(demo_builds()["curlew"])
    idle = study.solved["idle"]
    watts = idle.solution.links["P1"].current * 13.3  # type: ignore[operator]
    share = 1 - idle.case.demand / idle.solution.links["P1"].flow
    mass = 0.020 * study.burn.density
    ethanol = 0.85 * 794 / (0.85 * 794 + 0.15 * 745)
    assert warms(study) == pytest.approx(watts * share * 3600 / (mass * (ethanol * 2360 + (1 - ethanol) * 2200)), rel=1e-6)


def test_totals_count_each_injector_and_price_hose_by_the_metre() -> None:
    """Curlew's feed: 1.65 m of -8 PTFE at 32.90 a metre, a 45 degree end 20.80 and a 90 degree end 23.40 (data files, by hand)."""
    circuit = demo_builds()["curlew"].circuit
    alone = circuit.model_copy(update={"elements": [e for e in circuit.elements if e.id in ("H3", "J1")]})
    assert make_totals(alone).price == pytest.approx(1.65 * 32.90 + 20.80 + 23.40 + 4 * 124)
    assert make_totals(alone).length == pytest.approx(1.65)
