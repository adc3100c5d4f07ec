"""A proposal: never worse than what is fitted, dearer only for what it clears, and what is to stay
stays.
"""

import random

import pytest

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.build import Build
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import fit, set_brief
from tall_heron.core.shelf.shelf import swaps_for
from tall_heron.core.shelf.totals import make_totals
from tall_heron.core.sizing.auto_size import Proposal, against, proposed
from tall_heron.core.sizing.needs import in_cases
from tall_heron.core.study.cases.tank_heat import pump_current
from tall_heron.core.study.study import make_study

DEMO = demo_builds()
BITTERN = DEMO["bittern"]
SIZED = ("pump", "filter", "strainer", "injectors", "carburettor", "regulator", "hose", "line")


def spoiled(name: str, seed: int) -> Build:
    """A demo build with three of its parts swapped at random, whatever comes of it."""
    chance, build = random.Random(f"{name} {seed}"), DEMO[name]
    for element in chance.sample(
        [e for e in build.circuit.elements if e.kind in SIZED and e.ports], 3
    ):
        others = [
            p for p in swaps_for(element) if p.name != element.shelf and p.kind == element.kind
        ]
        if others:
            build = fit(build, element.id, chance.choice(sorted(others, key=lambda p: p.name)).name)
    return build


def told(found: Proposal, build: Build) -> tuple[list[str], list[str]]:
    """Levels of what stands against a build before and after."""
    return [f.level for f in against(make_study(build))], [f.level for f in found.findings]


@pytest.mark.parametrize(
    "seed", [pytest.param(s, marks=[] if s < 2 else [pytest.mark.sweep]) for s in range(8)]
)
@pytest.mark.parametrize("name", DEMO)
def test_a_proposal_adds_no_stop_or_check_and_what_is_dearer_clears_something(
    name: str, seed: int
) -> None:
    build = spoiled(name, seed) if seed else DEMO[name]
    found = proposed(build)
    was, now = told(found, build)
    assert now.count("Stop") <= was.count("Stop")
    assert (now.count("Stop"), now.count("Check")) <= (was.count("Stop"), was.count("Check"))
    dearer = make_totals(found.build.circuit).price > make_totals(build.circuit).price + 0.01
    assert not dearer or found.clears(make_study(build))
    assert all(row.decided for row in found.rows)
    again = proposed(found.build)
    assert make_totals(again.build.circuit).price <= make_totals(
        found.build.circuit
    ).price + 0.01 or again.clears(found.study)


def test_sizes_come_back_from_any_start() -> None:
    """Sixty parts thrown about, the same engine: what nobody chose is sized as it was."""
    start = proposed(BITTERN, fresh=True)
    for seed in range(1, 4):
        other = proposed(spoiled("bittern", seed), fresh=True)
        assert other.study.brief == start.study.brief
        assert {e.id: e.shelf for e in other.build.circuit.of_kind("pump", "injectors")} == {
            e.id: e.shelf for e in start.build.circuit.of_kind("pump", "injectors")
        }


def test_what_is_kept_stays_and_other_aims_are_met() -> None:
    light = proposed(BITTERN, "mass", ["P1", "P2", "H3"])
    assert light.build.circuit.element("H3") == BITTERN.circuit.element("H3")
    assert light.build.circuit.element("P1") == BITTERN.circuit.element("P1")
    assert (
        make_totals(light.build.circuit).mass
        <= make_totals(proposed(BITTERN, "cost", ["P1", "P2", "H3"]).build.circuit).mass
    )
    curlew = DEMO["curlew"]
    thrifty, cheap = (
        pump_current(make_study(proposed(curlew, aim).build, ("peak",)).peak)
        for aim in ("current", "cost")
    )
    assert thrifty <= cheap
    with pytest.raises(BuildErrors, match="nothing to size"):
        proposed(BITTERN, "cost", [e.id for e in BITTERN.circuit.elements])


def test_a_hose_whose_family_does_not_bear_the_fuel_is_given_one_that_does() -> None:
    assert ("H-01", "H1") in {(f.rule, f.element_id) for f in against(make_study(BITTERN))}
    found = proposed(BITTERN)
    new = found.build.circuit.element("H1")
    assert new is not None
    assert (new.kind, new.properties.immersion) == (
        "hose",
        True,
    )  # it lies in the fuel with the pumps
    assert (new.properties.ethanol_max_percent or 0) >= 70
    left = {f.rule for f in found.findings}
    assert not left & {"H-01", "H-09", "M-04", "P-01", "S-03", "P-09"}
    assert {"H-01", "H-09", "M-04"} <= {f.rule for f in found.clears(make_study(BITTERN))}


def test_a_size_that_does_at_peak_alone_is_mended_for_the_cases_that_are_not_hidden() -> None:
    """A filter that is clean takes little; half clogged it starves a pump with little to spare.
    With that case hidden the small pump will do.
    """
    build = set_brief(DEMO["curlew"], "power_kw", 355.0)
    clogs = ["F2 clogged", "E1 clogged", "launch", "corner", "hot and high"]
    every, some = (
        proposed(build, fresh=True),
        proposed(build.model_copy(update={"hidden_cases": clogs}), fresh=True),
    )
    assert make_totals(some.build.circuit).price <= make_totals(every.build.circuit).price
    assert not [f for f in in_cases(make_study(every.build)) if f.rule == "C-01"]
