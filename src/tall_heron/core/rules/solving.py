"""Whether there is an answer at all: every rule that reads pressures is silent where there is none,
so this one speaks first.
"""

from collections.abc import Iterator

from tall_heron.core.rules.finding import Finding, FindingFigure
from tall_heron.core.rules.rule import Rule, always
from tall_heron.core.study.study import Study

ARRIVES = 0.1  # of the demand: with less no engine runs


def does_not_solve(study: Study) -> Iterator[Finding]:
    """A circuit without an answer: something is joined where nothing can come from or go to, or it
    needs what no part gives.
    """
    missed = [s for s in study.solved.values() if not s.solution.converged]
    if missed:
        first = next((s for s in missed if s is study.peak), missed[0])
        others = (
            f" Nor {'does one other case' if len(missed) == 2 else f'do {len(missed) - 1} other cases'}."
            if len(missed) > 1
            else ""
        )
        part, reason = first.solution.part or "", first.solution.reason or "it has no answer"
        why = f"{reason[:1].upper()}{reason[1:]}.{others} Nothing is known of pressures and flows until it does."
        title = f"{first.case.title} does not solve{f', at {part}' if part else ''}"
        do = "Look at how that part is joined, which way it points, and what it has to do."
        yield Finding(
            "Stop",
            part if study.build.circuit.element(part) is not None else "",
            title,
            why,
            do,
            {},
            first.case.key,
        )
        return
    burnt, asked = study.feed_path.burnt(study.peak.solution), study.peak.case.demand
    if study.feed_path.burners and asked > 0 and burnt < ARRIVES * asked:
        figures = {
            "burned": FindingFigure(burnt, "volume_flow"),
            "asked": FindingFigure(asked, "volume_flow"),
        }
        burner = study.feed_path.burners[0].id
        do = "Look at what stands between it and the tank: heights, arrows, valves."
        yield Finding(
            "Stop",
            burner,
            f"{burner} gets {{burned}} of {{asked}} demanded at peak",
            "The engine does not run.",
            do,
            figures,
            "peak",
        )


RULES = (
    Rule(
        "P-22",
        "Every case has an answer, and fuel comes to the engine.",
        "arithmetic",
        does_not_solve,
        always,
    ),
)
