"""What the Circuit page and its printed sheet show."""

from dataclasses import dataclass, replace
from typing import Any

from tall_heron.core.design import Design, design_of
from tall_heron.core.document.acceleration import ahead_of
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.kinds import BURNERS
from tall_heron.core.document.path import main_path
from tall_heron.core.editing.additions import ADDITIONS, FIRST
from tall_heron.core.editing.fields import fit
from tall_heron.core.fixing.fixes import fix_of, key_of
from tall_heron.core.rules.finding import AGAINST, Finding
from tall_heron.core.shelf.shelf import ShelfPart, swaps_for
from tall_heron.core.sizing.limits import ladder_known
from tall_heron.core.sizing.swaps import Swap, first_swaps, make_swaps
from tall_heron.core.study.cases.injector_duty import doses
from tall_heron.core.study.cases.moments import solved_moments
from tall_heron.core.study.cases.noise import mountings
from tall_heron.core.study.cases.worst_cylinder import worst_cylinder
from tall_heron.core.study.derived import derived
from tall_heron.core.study.explain import why_part
from tall_heron.core.study.failures.failure_walk import seen_failing
from tall_heron.core.study.failures.failures import FAILS
from tall_heron.core.study.study import Solved, Study
from tall_heron.core.study.throat import narrowest
from tall_heron.web.answers import Stored, own_shelf
from tall_heron.web.drawing.charts.ladder import draw_ladder
from tall_heron.web.drawing.circuit.circuit import draw_circuit
from tall_heron.web.forms.brief import FIELDS, field_text
from tall_heron.web.frame import frame
from tall_heron.web.show.figures import compared, head_figures


def the_case(made: Design, key: str) -> Solved:
    """The case of a key; peak where there is none of that name."""
    return made.study.solved.get(key, made.study.peak)


def at_moment(made: Design, key: str) -> Design:
    """The design as a moment or a failure of station 4 sees it, where the key is of one that is no
    case of the brief: its study holds that solved.
    """
    if not key or key in made.study.solved:
        return made
    if key.startswith(FAILS):
        study = seen_failing(made.study, key)
    else:
        study = next(
            (x.study for x in solved_moments(made.study, hidden=True) if x.moment.case.key == key),
            None,
        )
    return made if study is None else Design(study, made.findings, made.passed, made.cuts)


def the_part(made: Design, wanted: str) -> Element | None:
    """The part asked for; otherwise the one that the worst finding of the circuit names, the one
    that runs out first, or the first of all.
    """
    circuit = made.study.build.circuit
    if (element := circuit.element(wanted)) is not None:
        return element
    named = [f.element_id for f in made.findings if f.station == "circuit"]
    for name in (*named, *(made.whole.parts if made.whole else ())):
        element = circuit.element(name)
        if element is not None:
            return element
    return circuit.elements[0] if circuit.elements else None


@dataclass(frozen=True)
class Try:
    """A swap on trial: the part of the shelf, and what the build would come to with it. Nothing of
    it is stored.
    """

    name: str
    title: str
    made: Design
    solved: Solved


def part_to_try(element: Element | None, name: str, own: list[ShelfPart]) -> ShelfPart | None:
    """The part of the shelf to try in an element's place; None where none is asked for, it does not
    go there, or it is the part that is fitted.
    """
    if element is None or name == element.shelf:
        return None
    return next((p for p in swaps_for(element, own) if p.name == name), None)


def the_try(made: Design, element: Element | None, name: str, case: str) -> Try | None:
    """The swap to try, or None where none is asked for or it is the part that is fitted."""
    own = own_shelf() if name else []
    part = part_to_try(element, name, own)
    if element is None or part is None:
        return None
    build = fit(made.study.build, element.id, name, own)
    fitted = build.circuit.element(element.id) or element
    tried = design_of(made.study.fitted(build, [fitted]))
    return Try(name, part.title, tried, the_case(tried, case))


def findings_told(made: Design, trial: Try | None) -> list[tuple[Finding, str]]:
    """The findings, each `stays`, `clears` or `comes` with a swap that is being tried."""
    return sided(made.findings, trial.made.findings if trial is not None else None)


def sided(now: list[Finding], then: list[Finding] | None) -> list[tuple[Finding, str]]:
    """Findings, each `stays`, `clears` or `comes` where others would be found, if any."""
    if then is None:
        return [(f, "stays") for f in now]

    def key(f: Finding) -> tuple[str, str, str, str]:
        return f.rule, f.level, f.element_id, f.case

    after, before = {key(f) for f in then}, {key(f) for f in now}
    rows = [(f, "stays" if key(f) in after else "clears") for f in now]
    return [(f, "comes") for f in then if key(f) not in before] + rows


def _walks(study: Study) -> list[tuple[str, str]]:
    """Every way the pressure walk may take, from a tank to injectors or a bowl: (key, words); empty
    where there is only one.
    """
    circuit = study.build.circuit
    pairs = [(t.id, b.id) for t in circuit.of_kind("tank") for b in circuit.of_kind(*BURNERS)]
    return [(f"{t}.{b}", f"{t} to {b}") for t, b in pairs] if len(pairs) > 1 else []


def _along(study: Study, walk: str) -> Study:
    """The study with the walk from one tank to one end, where that is asked for."""
    start, _, end = walk.partition(".")
    elements = {e.id: e for e in study.build.circuit.elements}
    if (
        start not in elements
        or end not in elements
        or elements[start].kind != "tank"
        or elements[end].kind not in BURNERS
    ):
        return study
    return replace(study, path=main_path(study.build.circuit, start, end))


def circuit_context(
    found: Stored,
    made: Design,
    part: str,
    case: str,
    wanted: str = "",
    walk: str = "",
    whole: bool = False,
) -> dict[str, Any]:
    """Everything the Circuit page shows; `wanted` names a swap to try on the chosen part, `walk`
    the tank and the end that the walk leads between. The table of swaps and the ladder solve the
    build many times: a page asks for them once it stands; one sent `whole` has those that are known.
    """
    plain, made = made, at_moment(made, case)
    solved = the_case(made, case)
    element = the_part(made, part)
    chosen = element.id if element else ""
    trial = the_try(made, element, wanted, case)
    now, now_solved = (trial.made, trial.solved) if trial else (made, solved)
    shown = now.study.build.circuit.element(chosen)
    figures = head_figures(now.study, now_solved, now.findings)
    return (
        frame(found, made, "circuit")
        | {
            "element": shown,
            "now": now,
            "now_solved": now_solved,
            "figures": compared(figures, head_figures(made.study, solved, made.findings)),
            "d": draw_circuit(
                _along(made.study, walk),
                solved,
                now.findings,
                chosen,
                trial.solved if trial else None,
            ),
            "findings": findings_told(made, trial),
            "why": why_part(now.study, now_solved, shown) if shown else None,
            "throat": narrowest(now.study),
            "dose": next((x for x in doses(now.study, now_solved) if x.element.id == chosen), None),
            "leanest": worst_cylinder(now.study)
            if shown is not None and shown.kind in ("injectors", "rail")
            else None,
            "link": now_solved.solution.link(chosen) if shown else None,
            "swaps": None,
            "swapped": shown,
            "own_limits": [],
            **(
                swaps_context(made, chosen, case, wanted)
                if whole and swaps_known(made, solved.case.key, chosen)
                else {}
            ),
            **(
                ladder_context(plain, chosen, case, wanted)
                if whole and ladder_known((trial.made if trial else plain).study)
                else {}
            ),
        }
        | {
            "solved": solved,  # as the failure or moment has it, whatever the ladder was made of
            "trial": trial,
            "additions": list(ADDITIONS.items()),
            "usual": FIRST,
            "heights": {n.id: n.elevation_mm / 1000 for n in made.study.build.circuit.nodes},
            "places": {n.id: n for n in made.study.build.circuit.nodes},
            "reckoned": ahead_of(made.study.build.circuit, made.study.brief.use == "flight"),
            "walks": _walks(made.study),
            "walk": walk,
            "mountings": mountings(made.study.build.circuit, element) if element else [],
            "fields": [
                FIELDS[x] for x in ("power_kw", "fuel", "base_kpa", "boost_kpa", "voltage_v")
            ],
            "field_text": field_text,
        }
    )


def swaps_context(
    made: Design, part: str, case: str, wanted: str = "", every: bool = False
) -> dict[str, Any]:
    """What the table of swaps shows, of the build or of the one that is tried: its first rows, or
    `every` one.
    """
    solved, element, own = the_case(made, case), the_part(made, part), own_shelf()
    rows, more = swaps_of(made, solved.case.key, element, wanted, every) if element else ([], 0)
    return {
        "swaps": rows,
        "more_swaps": more,
        "swapped": element,
        "trial": part_to_try(element, wanted, own),
        "study": made.study,
        "page": "circuit",
    }


def swaps_of(
    made: Design, case: str, element: Element, wanted: str, every: bool
) -> tuple[list[Swap], int]:
    """The swaps of a part at a case, solved once for a design and the builder's own shelf: the first
    and the one that is `wanted`, or `every` one; and how many are left out.
    """
    study, own = made.study, own_shelf()

    def first(named: str) -> tuple[list[Swap], int]:
        return _first_swaps.under(
            study,
            (element.id, case, named, *own),
            lambda: _first_swaps.make(study, case, element, own, named),
        )

    if every:
        rows = _swaps.under(
            study, (element.id, case, *own), lambda: _swaps.make(study, case, element, own)
        )
        return rows, 0
    rows, more = first("")
    return first(wanted) if wanted and all(s.part.name != wanted for s in rows) else (rows, more)


def swaps_known(made: Design, case: str, part: str) -> bool:
    """Whether the first swaps of a part at a case have been solved."""
    return _first_swaps.known(made.study, part, case, "", *own_shelf())


@derived("brief", "hydraulics", "titles", "prices", "wiring", "shop")
def _swaps(study: Study, case: str, element: Element, own: list[ShelfPart]) -> list[Swap]:
    return make_swaps(study, case, element, own)


@derived("brief", "hydraulics", "titles", "prices", "wiring", "shop")
def _first_swaps(
    study: Study, case: str, element: Element, own: list[ShelfPart], named: str
) -> tuple[list[Swap], int]:
    return first_swaps(study, case, element, own, named)


def ladder_context(made: Design, part: str, case: str, wanted: str = "") -> dict[str, Any]:
    """What the ladder shows, and what it says of the chosen part, with a swap that is tried."""
    element = the_part(made, part)
    trial = the_try(made, element, wanted, case)
    limits, brief = (trial.made if trial else made).limits, made.study.brief
    own = [x for x in limits if element is not None and element.id in x.parts and x.kind != "whole"]
    return {
        "ladder": draw_ladder(limits, brief.power, brief.later_power or None),
        "own_limits": own,
        "solved": the_case(made, case),
    }


def sheet_context(found: Stored, made: Design, case: str) -> dict[str, Any]:
    """Everything the printed sheet shows."""
    solved = the_case(made, case)
    return frame(found, made, "sheet") | {
        "solved": solved,
        "figures": head_figures(made.study, solved, made.findings),
        "d": draw_circuit(made.study, solved, made.findings, ""),
        "fixed": {
            key_of(f): fix
            for f in made.every_finding
            if f.level in AGAINST and (fix := fix_of(made.study, f, own_shelf())) is not None
        },
        "arithmetic": [
            (e, why_part(made.study, solved, e)) for e in found.build.circuit.elements if e.ports
        ],
    }
