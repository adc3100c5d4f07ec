"""Injectors, needles and taps: how long they are open, and whether they get what they are sized
for.
"""

from collections.abc import Iterator

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.constants import KPA
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import Injectors
from tall_heron.core.document.kinds import BURNERS
from tall_heron.core.hydraulics.compile import injectors_full_flow
from tall_heron.core.rules.finding import Finding, FindingFigure, Level
from tall_heron.core.rules.rule import Rule, elements, solves, solves_with
from tall_heron.core.study.cases.injector_duty import dead_share
from tall_heron.core.study.demand import allowance
from tall_heron.core.study.study import Solved, Study


def injector_duty(study: Study) -> Iterator[Finding]:
    """Injectors need time to close, on every fuel that the brief asks about."""
    for e in elements(study, *BURNERS):
        part = e.figures
        met = [
            (*open_share, s)
            for s in study.solved.values()
            if s.case.kind == "peak" and (open_share := _duty(study, s, e)) is not None
        ]
        if not isinstance(part, Injectors) or not met:
            continue
        duty, opening, across, solved = max(met, key=lambda x: x[0])
        if duty > part.duty_limit:
            figures = {
                "duty": FindingFigure(duty, "fraction"),
                "limit": FindingFigure(part.duty_limit, "fraction"),
                "across": FindingFigure(across, "pressure"),
                "opening": FindingFigure(opening, "fraction"),
            }
            level: Level = "Stop" if duty > 1 else "Check"
            on = f" on {solved.case.fuel.name}" if solved is not study.peak else ""
            title = f"{e.id} would be open {{duty}} of the time{on}; {{limit}} is the limit"
            why = (
                "With {across} across them the injectors cannot dose what is commanded and close in time."
                + (" {opening} of the time goes into opening them." if opening else "")
            )
            do = "Fit larger injectors or raise the base pressure."
            if e.kind == "carburettor":
                title = f"{e.id} needs its needles {{duty}} open; {{limit}} is the limit"
                why, do = (
                    "With {across} across them the bowl runs low under full load.",
                    "Fit larger needles and seats, or a second bowl.",
                )
            yield Finding(level, e.id, title, why, do, figures, solved.case.key)


def _duty(study: Study, solved: Solved, e: Element) -> tuple[float, float, float] | None:
    """How long injectors or needles are open at a case, how much of that goes into opening [-], and
    what stands across them [Pa].
    """
    part, link = e.figures, solved.solution.links.get(e.id)
    if (
        not isinstance(part, Injectors)
        or part.rated_lph is None
        or link is None
        or not link.loss
        or link.loss <= 0
    ):
        return None
    opening = dead_share(study, solved, e)
    across = (
        max(link.loss, part.commanded_at_kpa * KPA) if e.kind == "injectors" else link.loss
    )  # a rail that sags is a pump's fault, not theirs
    return (
        study.wanted(solved, part) / injectors_full_flow(part, across, solved.solution.density)
        + opening,
        opening,
        across,
    )


def auxiliary_starved(study: Study) -> Iterator[Finding]:
    """A tap meant to fuel what an engine is given beside its demand."""
    solved = study.peak
    for e in elements(study, "auxiliary"):
        part, link = e.figures, solved.solution.links.get(e.id)
        if not isinstance(part, Injectors) or part.own_lph is None:
            continue
        wanted, got = study.wanted(solved, part), link.flow if link is not None else 0.0
        if got < (1 - allowance(study.brief, "rail_error_check")) * wanted:
            figures = {
                "got": FindingFigure(got, "volume_flow"),
                "wanted": FindingFigure(wanted, "volume_flow"),
            }
            why = "It was sized for {wanted}; what it feeds runs lean by the difference, and nothing measures it."
            do = "Size its jet for the pressure that stands there, or move the tap to where the pressure holds."
            yield Finding(
                "Stop", e.id, f"{e.id} gets {{got}} of {{wanted}}", why, do, figures, "peak"
            )


def pulse_too_short(study: Study) -> Iterator[Finding]:
    """Injectors that are far too large open at idle for less than they repeat."""
    least = house_figure("idle_pulse_least_ms") / 1000
    for e in elements(study, "injectors"):
        part = e.figures
        met = []
        for s in study.solved.values():
            rpm, link = s.case.point.engine_rpm, s.solution.links.get(e.id)
            if (
                isinstance(part, Injectors)
                and part.rated_lph is not None
                and s.case.kind == "idle"
                and rpm
                and link is not None
                and link.loss
                and link.loss > 0
            ):
                met.append(
                    (
                        study.wanted(s, part)
                        / injectors_full_flow(part, link.loss, s.solution.density)
                        * 120
                        / rpm,
                        s,
                    )
                )
        pulse, solved = min(met, key=lambda x: x[0], default=(least, study.peak))
        if pulse < least:
            opening = dead_share(study, solved, e) * 120 / (solved.case.point.engine_rpm or 1.0)
            why = (
                f"Under {1000 * least:g} ms no two pulses are alike: it hunts, runs rich and fouls its plugs."
                + (f" They take {1000 * opening:.2f} ms to open at all." if opening else "")
            )
            yield Finding(
                "Check",
                e.id,
                f"{e.id} would be open for only {1000 * pulse:.2f} ms at idle",
                why,
                "Fit smaller injectors.",
                {},
                solved.case.key,
            )


def _injected(study: Study) -> bool:
    return solves(study) and bool(elements(study, *BURNERS))


COMMON = "common practice"
RULES = (
    Rule(
        "P-06",
        "Injectors and needles stay within their duty limit.",
        "85 %, common practice",
        injector_duty,
        _injected,
    ),
    Rule(
        "P-20",
        "Injectors open at idle for as long as they repeat.",
        f"{house_figure('idle_pulse_least_ms'):g} ms, common practice",
        pulse_too_short,
        solves_with("injectors"),
    ),
    Rule(
        "P-16",
        "An auxiliary tap gets what its jet was sized for.",
        COMMON,
        auxiliary_starved,
        solves_with("auxiliary"),
    ),
)
