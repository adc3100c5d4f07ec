"""The ladder (docs/model.md, Ladder): the whole circuit's ceiling, and under it, part by part, its
own ceiling and what it costs.

A part's own ceiling is the largest power with that part as it is, all other losses and limits
waived and the pumps as they are; pumps have nothing in their way. It is
shown where the part is what ends it. What a part costs is how much the whole circuit's ceiling
rises when it takes nothing.
"""

from dataclasses import replace

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.circuit import Element
from tall_heron.core.rules.rule import rail_word
from tall_heron.core.rules.words import does, named
from tall_heron.core.sizing.ceiling import (
    CLOSE,
    LEAST,
    MOST,
    make_ceiling_in_cases,
)
from tall_heron.core.sizing.limits_of_parts import (
    TAKES,
    injector_rows,
    loss_row,
    pump_rows,
    rating_rows,
    regulator_rows,
    suction_rows,
)
from tall_heron.core.sizing.whole_limit import (
    LadderRow,
    can_be_limited,
    ceiling_of,
    ladder_row,
    whole_ladder_row,
    wide_open,
)
from tall_heron.core.study.derived import derived
from tall_heron.core.study.study import Study
from tall_heron.core.study.what_if import Lossless

MOST_LOOKED_AT = 30  # parts whose cost is looked for, those that take most


def ladder_known(study: Study) -> bool:
    """Whether the ladder of a study has been made."""
    return make_limits.known(study)


@derived("brief", "hydraulics", "wiring", "titles", "prices", "cases")
def make_limits(study: Study) -> list[LadderRow]:
    """The ladder of a study: the whole circuit, then what has a limit of its own, the lowest first,
    then what only takes pressure, the dearest first, of the MOST_LOOKED_AT that take most; empty
    where the peak does not solve or nothing is burnt.
    """
    if not can_be_limited(study):
        return []
    whole, times, _ = whole_ladder_row(study)
    takers = [e for e in study.build.circuit.elements if e.figures.law in TAKES and e.ports]
    bare = study.what_if.unlimited.changed(*(Lossless(e.id) for e in takers))
    delivery = tuple(n for n in ceiling_of(study).needs if n.what in ("margin", "rail"))
    pumps = ceiling_of(study).of(bare, min(max(times, 0.05), MOST), delivery)
    own = [
        *pump_rows(study, pumps),
        *suction_rows(study),
        *regulator_rows(study),
        *rating_rows(study),
        *injector_rows(study),
    ]
    own.sort(key=lambda x: (x.ceiling is None, x.ceiling or 0.0))
    costs = [
        row
        for e in _looked_at(study, takers)
        if (row := loss_row(study, e, bare, times, pumps, delivery)) is not None
    ]
    costs.sort(key=lambda x: -(x.costs or 0.0))
    return [
        whole,
        *_in_every_case(study, times),
        *_with_twins(own, study),
        *_with_twins(costs, study),
    ]


def _in_every_case(study: Study, whole: float) -> list[LadderRow]:
    """The whole circuit's ceiling in the other cases that are not hidden, where one of them ends it
    sooner.
    """
    ceiling, as_it_is = make_ceiling_in_cases(study), study.what_if.unlimited
    if (
        not ceiling.needs
        or max(ceiling.strains(as_it_is, min(max(whole, LEAST), MOST), ceiling.needs)) <= 0
    ):
        return []  # all of it holds where the whole circuit ends
    times = ceiling.of(as_it_is, min(max(whole, 0.05), MOST))
    if times >= whole * (1 - 2 * CLOSE):
        return []
    need = ceiling.binding(as_it_is, times)
    words = {
        "margin": f"{does(need.parts, 'gives', 'give')} just the demand",
        "rail": f"the {rail_word(study)} is low by what is a Stop there",
        "duty": wide_open(study, need.parts),
        "suction": f"the inlet of {named(need.parts)} boils, or comes nearer to it than the pump bears",
    }[need.what]
    steps = [
        f"at {need.case.case.title[:1].lower()}{need.case.case.title[1:]} {words}{'' if times else ', at any power'}"
    ]
    return [
        ladder_row(
            study,
            need.parts,
            "cases",
            "in every case",
            times,
            house_figure("pump_tolerance"),
            steps,
            "Every case of the circuit as it is that is not hidden, solved.",
        )
    ]


def _looked_at(study: Study, takers: list[Element]) -> list[Element]:
    """The parts that take most by friction at peak, MOST_LOOKED_AT of them: each costs two
    searches.
    """
    return sorted(takers, key=lambda e: abs(study.friction(study.peak, e.id)), reverse=True)[
        :MOST_LOOKED_AT
    ]


def _with_twins(rows: list[LadderRow], study: Study) -> list[LadderRow]:
    """Rows of like parts with like figures as one: what is said holds for each of them."""
    close, out = 2 * CLOSE * study.brief.power, list[LadderRow]()

    def like(a: LadderRow, b: LadderRow) -> bool:
        pairs = ((a.ceiling, b.ceiling), (a.costs, b.costs))
        same = all(
            (x is None) == (y is None) and abs((x or 0.0) - (y or 0.0)) <= close for x, y in pairs
        )
        return (
            same
            and (a.kind, a.title, len(a.parts)) == (b.kind, b.title, 1)
            and a.kind not in ("suction", "rating")
        )

    for row in rows:
        twin = next(
            (i for i, x in enumerate(out) if like(replace(x, parts=x.parts[:1]), row)), None
        )
        if twin is None:
            out.append(row)
        else:
            out[twin] = replace(
                out[twin],
                parts=tuple(sorted((*out[twin].parts, *row.parts), key=lambda x: (len(x), x))),
            )
    return out
