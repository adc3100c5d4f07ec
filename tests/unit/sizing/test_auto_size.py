"""Sizing by cost, mass and current: meets every requirement that can be met, keeps what is to stay, and no cheaper choice does as well (brute force)."""

import itertools

import pytest

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.design import design
from tall_heron.core.document.build import Build
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import fit
from tall_heron.core.shelf.totals import make_totals
from tall_heron.core.sizing.auto_size import COUPLED, judge, make_groups, proposed
from tall_heron.core.sizing.in_cases import in_cases
from tall_heron.core.study.study import make_study
from tall_heron.core.study.tank_heat import pump_current

BITTERN = demo_builds()["bittern"]
KEEP = ["E1", "K1", "K2", "H1", "H2", "PR"]  # leaves pumps, fine filter, feed, return and injectors


def found(build: Build) -> set[tuple[str, str]]:
    return {(f.rule, f.level) for f in judge(make_study(build))}


def everything(build: Build) -> set[tuple[str, str]]:
    return found(build) | {(f"{f.rule} {f.case}", f.level) for f in in_cases(make_study(build))}


def test_no_cheaper_choice_holds_on_a_reduced_shelf() -> None:
    proposal = proposed(BITTERN, "cost", [*KEEP, "J1"])
    groups = make_groups(make_study(BITTERN), "cost", [*KEEP, "J1"], ())
    assert {g.ids for g in groups} == {("P1", "P2"), ("F2",), ("H3",), ("H4",)}
    aim, whole = {x for x in found(proposal.build) if x[0] not in COUPLED}, everything(proposal.build)
    spent = make_totals(proposal.build.circuit).price
    tried = 0
    for picks in itertools.product(*(g.options for g in groups)):
        build = BITTERN
        for group, (_, part) in zip(groups, picks, strict=True):
            for element_id in group.ids:
                build = fit(build, element_id, part.name)
        if make_totals(build.circuit).price < spent - 1e-6:
            tried += 1
            assert not (found(build) <= aim and everything(build) <= whole), f"{[p.title for _, p in picks]} is cheaper and holds"
    assert tried > 20


@pytest.mark.parametrize("name", demo_builds())
def test_a_proposal_has_nothing_against_it_that_sizes_can_help(name: str) -> None:
    build = demo_builds()[name]
    proposal = proposed(build)
    assert proposal.complete
    before = {(f.rule, level) for f in design(build).every_finding for level in ("Check", f.level)}
    shown = {("L-15", "Check")}  # that one pump alone would do is what larger pumps give: no size mends that nothing shows it
    assert {(f.rule, f.level) for f in proposal.findings} <= found(build) | before | shown
    assert make_totals(proposal.build.circuit).price <= make_totals(build.circuit).price or not everything(proposal.build) >= everything(build)
    for row in proposal.rows:
        assert row.decided
        smaller_refused = row.refused is None or row.refused.rule
        assert smaller_refused


@pytest.mark.sweep
def test_what_is_kept_stays_and_other_aims_are_met() -> None:
    light = proposed(BITTERN, "mass", ["P1", "P2", "H3"])
    assert light.build.circuit.element("H3") == BITTERN.circuit.element("H3")
    assert light.build.circuit.element("P1") == BITTERN.circuit.element("P1")
    assert make_totals(light.build.circuit).mass <= make_totals(proposed(BITTERN, "cost", ["P1", "P2", "H3"]).build.circuit).mass
    curlew = demo_builds()["curlew"]
    thrifty, cheap = (pump_current(make_study(proposed(curlew, aim).build, ("peak",)).peak) for aim in ("current", "cost"))
    assert thrifty < 0.9 * cheap
    with pytest.raises(BuildErrors, match="nothing to size"):
        proposed(BITTERN, "cost", [e.id for e in BITTERN.circuit.elements])


def test_a_hose_whose_family_does_not_bear_the_fuel_is_given_one_that_does() -> None:
    found_now = {(f.rule, f.element_id) for f in design(BITTERN).findings}
    assert ("H-01", "H1") in found_now
    proposal = proposed(BITTERN)
    new = proposal.build.circuit.element("H1")
    assert new is not None
    assert (new.kind, new.properties.immersion) == ("hose", True)  # it lies in the fuel with the pumps
    assert (new.properties.ethanol_max_percent or 0) >= 70
    made = design(proposal.build)
    left = {(f.rule, f.element_id) for f in [*made.findings, *in_cases(made.study)] if f.level != "Note"}
    assert left == {(f.rule, f.element_id) for f in proposal.findings}
    assert {x for x in left if not x[0].startswith("C-")} == {("S-01", "P1"), ("P-01", "P1")}
    assert {("C-02", "P1"), ("C-03", "PR"), ("C-03", "S1")} >= {x for x in left if x[0].startswith("C-")}


def test_a_size_that_holds_at_peak_alone_is_made_larger_for_the_cases_that_are_not_hidden() -> None:
    """Curlew's return holds at idle in -6 and not while it brakes: with that case hidden the smaller one is enough, unhidden it is not."""
    curlew = demo_builds()["curlew"]
    hidden = curlew.model_copy(update={"hidden_cases": ["braking", "launch", "corner", "hot and high", *(f"{x} clogged" for x in ("E1", "F2"))]})
    every, some = (proposed(b) for b in (curlew, hidden))
    assert some.complete
    assert every.complete
    bore = {name: p.build.circuit.element("H4").figures.bore_mm for name, p in (("every", every), ("some", some))}  # type: ignore[union-attr]
    assert bore["every"] > bore["some"]
    assert in_cases(make_study(every.build)) == []
    unhidden = some.build.model_copy(update={"hidden_cases": []})
    assert "C-03" in {f.rule for f in in_cases(make_study(unhidden))}
    assert next(r for r in every.rows if "H4" in r.ids).refused.rule == "C-03"  # type: ignore[union-attr]
