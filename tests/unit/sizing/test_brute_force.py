"""The search against every choice there is, on shelves cut down so far that all of them can be
looked at.
"""

import itertools
import random
from dataclasses import replace

import pytest

from tall_heron.core.document.build import Brief, Build
from tall_heron.core.editing.layouts import LAYOUTS
from tall_heron.core.joining.joints import joints_of
from tall_heron.core.shelf.totals import make_totals
from tall_heron.core.sizing import auto_size
from tall_heron.core.sizing.auto_size import Proposal, against
from tall_heron.core.sizing.groups import make_groups
from tall_heron.core.sizing.options import SizingGroup
from tall_heron.core.study.study import Study, make_study

FREE, EACH = 4, 3  # groups left to choose, and options of each
SHORT, LONG = 1, 100  # briefs


def brief(chance: random.Random) -> tuple[str, Brief]:
    """A road engine and a layout for it."""
    layout = chance.choice(("C1", "C1", "C3", "C4", "C11", "C5", "C6"))
    bowl = LAYOUTS[layout].feeding == "carburettor"
    fuel = chance.choice(("E10", "E10", "E85", "E0"))
    boost = 0.0 if bowl else chance.choice((0.0, 70.0, 140.0))
    hp = chance.choice((120, 200, 300, 450, 600) if bowl else (120, 200, 300, 450, 600, 800, 1000))
    base = chance.choice((30.0, 45.0)) if bowl else chance.choice((300.0, 400.0))
    return layout, Brief(
        power_kw=hp * 0.7457,
        base_kpa=base,
        boost_kpa=boost,
        fuel=fuel,
        cylinders=chance.choice((4, 6, 8)),
        feeding=LAYOUTS[layout].feeding,
    )


def cut_down(groups: list[SizingGroup], chance: random.Random) -> list[SizingGroup]:
    """A few groups with a few options, the usual among them; all others have the usual alone."""
    free = set(chance.sample(range(len(groups)), min(FREE, len(groups))))
    out = []
    for n, g in enumerate(groups):
        within = [i for i in range(g.least, g.top + 1) if i != g.usual]
        kept = (
            sorted({g.usual, *chance.sample(within, min(EACH - 1, len(within)))})
            if n in free
            else [g.usual]
        )
        out.append(
            replace(
                g,
                options=tuple(g.options[i] for i in kept),
                usual=kept.index(g.usual),
                least=0,
                most=len(kept) - 1,
            )
        )
    return out


def price(build: Build) -> float:
    """What the parts cost with the adapters between them [$]."""
    return make_totals(build.circuit).price + sum(
        p.price for j in joints_of(build).joints for p in j.pieces
    )


def told(study: Study) -> tuple[int, int]:
    """Stops and Checks, by the rules that every page shows."""
    levels = [f.level for f in against(study)]
    return levels.count("Stop"), levels.count("Check")


def compared(seed: int) -> tuple[tuple[int, int], float, tuple[int, int], float]:
    """What stands against the proposal and what it costs, and the same of the best choice there is."""
    chance = random.Random(seed)
    key, asked = brief(chance)
    build = Build(name="x", brief=asked, circuit=LAYOUTS[key].build(asked))
    groups = cut_down(make_groups(make_study(build)), chance)
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(auto_size, "make_groups", lambda *_: groups)
        found = next(x for x in auto_size.size(build, fresh=True) if isinstance(x, Proposal))
        search = auto_size._Search(make_study(build), groups, "cost")
    best = None
    feed, suction = search.feed, search.suction
    for pick in itertools.product(*(range(len(g.options)) for g in groups)):
        if (
            feed is not None
            and suction is not None
            and groups[suction].options[pick[suction]].size < groups[feed].options[pick[feed]].size
        ):
            continue
        made = search.build_of(pick)
        here = (*told(make_study(made)), price(made))
        best = here if best is None else min(best, here)
    assert best is not None
    return told(found.study), price(found.build), best[:2], best[2]


@pytest.mark.parametrize(
    ("count", "may_miss"),
    [
        pytest.param(SHORT, 0, id="one"),
        pytest.param(LONG, 5, id="a hundred", marks=pytest.mark.sweep),
    ],
)
def test_no_choice_is_sounder_and_hardly_one_cheaper(count: int, may_miss: int) -> None:
    dearer = []
    for seed in range(count):
        (stops, checks), spent, (least_stops, least_checks), least = compared(seed)
        assert stops <= least_stops, seed
        if checks > least_checks or spent > 1.05 * least:
            dearer.append(
                (seed, (stops, checks, round(spent)), (least_stops, least_checks, round(least)))
            )
    assert len(dearer) <= may_miss, dearer
