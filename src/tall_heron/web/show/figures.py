"""The five figures at the head of a build's pages, each with its arithmetic."""

from dataclasses import dataclass, replace

from tall_heron.core.base.arithmetic import Why
from tall_heron.core.base.terms import term
from tall_heron.core.document.sources import guesses_of
from tall_heron.core.rules.finding import Finding
from tall_heron.core.study.demand import allowance, margin
from tall_heron.core.study.explain import why_deliver, why_headroom, why_rail, why_suction
from tall_heron.core.study.study import Solved, Study
from tall_heron.web.show.text import bare, unit_of


@dataclass(frozen=True)
class HeadFigure:
    """A large number, its unit, the words under it, whether it is short of what is asked, and why."""

    key: str
    value: str
    unit: str
    words: str
    bad: bool
    why: Why
    guess: str = ""
    changed: bool = False
    term: str = ""


def head_figures(study: Study, solved: Solved, findings: list[Finding]) -> list[HeadFigure]:
    """Rail pressure, burn, pump flow, spare, suction: always five. All but the demand rest on the
    circuit, and are as good as the weakest figure in it.
    """
    guess = guesses_of(study.build.circuit).of_results
    error = study.rail_error(solved) if solved.solution.converged else None
    clear = study.clear_of_boiling(solved) if solved.solution.converged else None
    headroom = study.headroom(solved) if solved.solution.converged else None
    deliver = study.pumps_deliver(solved) if solved.solution.converged else None
    asked = study.asked(solved)
    least = (
        solved.case.margin or 0.0
        if study.feed_path.pumps
        else margin(study.brief, gravity=True)[0]
        if solved.case.kind == "peak"
        else 0.0
    )
    return [
        HeadFigure(
            "rail",
            bare(asked + error[0] if error else None, "pressure"),
            unit_of("pressure"),
            f"{'bowl' if study.brief.carbureted else 'rail'}, {term('target')} {bare(asked, 'pressure')}",
            error is None or abs(error[0]) > allowance(study.brief, "rail_error_check") * error[1],
            why_rail(study, solved),
            guess,
            term="bowl" if study.brief.carbureted else "rail",
        ),
        HeadFigure(
            "burn",
            bare(solved.case.demand, "volume_flow"),
            unit_of("volume_flow"),
            term("demand"),
            False,
            study.fuel_demand.why,
            term="demand",
        ),
        HeadFigure(
            "deliver",
            bare(deliver, "volume_flow"),
            unit_of("volume_flow"),
            term("pump_flow") if study.feed_path.pumps else "falls from the tank",
            not deliver,
            why_deliver(study, solved),
            guess,
            term="pump_flow",
        ),
        HeadFigure(
            "spare",
            bare(headroom, "fraction"),
            "%",
            term("headroom"),
            headroom is None or headroom < least,
            why_headroom(study, solved),
            guess,
            term="headroom",
        ),
        HeadFigure(
            "suction",
            bare(clear[0] if clear else None, "pressure_difference"),
            unit_of("pressure_difference"),
            term("vapor_margin"),
            any(f.rule == "S-01" for f in findings)
            or (clear is None and bool(study.feed_path.pumps)),
            why_suction(study, solved),
            guess,
            term="vapor_margin",
        ),
    ]


def compared(tried: list[HeadFigure], before: list[HeadFigure]) -> list[HeadFigure]:
    """The figures of a tried build, those marked that a try changes."""
    return [replace(t, changed=t.value != b.value) for t, b in zip(tried, before, strict=True)]
