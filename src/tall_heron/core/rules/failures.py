"""What one failed part leaves, and whether anybody would notice."""

from collections.abc import Iterator

from tall_heron.core.rules.finding import Finding, FindingFigure, Level
from tall_heron.core.rules.rule import Rule, elements, flies, solves
from tall_heron.core.rules.words import does, named
from tall_heron.core.study.failures.pump_out import ALL_LEFT, left_without, silent_without
from tall_heron.core.study.study import Study

NONE_LEFT = 0.02  # of the power: with less nothing useful is left


def pump_out_in_flight(study: Study) -> Iterator[Finding]:
    """Whatever number of pumps is drawn: what reaches the engine when one stops is what counts."""
    left = left_without(study)
    if left is None or left[0] > ALL_LEFT:
        return
    share, parts = left
    figures = {"left": FindingFigure(share, "fraction")}
    do = "Fit a second pump in parallel with its own check valve, wiring and switch, or a larger one, so that each alone feeds take-off power."
    if share < NONE_LEFT:
        pumps = len(elements(study, "pump"))
        why = (
            "If it stops, the engine stops."
            if pumps == 1
            else "Every drop goes through it: the other cannot take over. The engine stops with it."
        )
        title = (
            "A single pump feeds the engine of an aircraft"
            if pumps == 1
            else f"Nothing reaches the engine when {named(parts)} stops"
        )
        if len(parts) > 1:
            title = f"Nothing reaches the engine when any one of {named(parts)} stops"
        yield Finding("Stop", parts[0], title, why, do, figures, "peak")
        return
    title = f"When {parts[0]} stops, {{left}} of the power is left"
    why = "Solved with it stopped and the others running on. Historical practice required each pump alone for all of take-off power."
    yield Finding("Check", parts[0], title, why, do, figures, "peak")


def silent_pump_out(study: Study) -> Iterator[Finding]:
    """A spare that is dead is found when it is needed."""
    silent = silent_without(study)
    if silent:
        level: Level = "Check" if flies(study) else "Note"
        title = f"{does(silent, 'could stop', 'could stop one at a time')}, and nothing fitted would show it"
        why = (
            "At full power no gauge or sensor moves by as much as one reads; the next failure stops the engine."
            if flies(study)
            else (
                "At full power no gauge or sensor moves by as much as one reads; the pump left alone then works without a backup."
            )
        )
        do = "Fit a pressure sensor between each pump and its check valve, or a lamp or ammeter in each pump's circuit: the cheapest that shows it."
        yield Finding(level, silent[0], title, why, do, {}, "peak")


def _pumped_in_flight(study: Study) -> bool:
    return flies(study) and solves(study) and bool(study.feed_path.pumps)


RULES = (
    Rule(
        "L-08",
        "An aircraft's engine runs on when any one pump stops.",
        "14 CFR part 23 as it stood before 2017, from memory; historical good practice that never bound experimental home-builts",
        pump_out_in_flight,
        _pumped_in_flight,
    ),
    Rule(
        "L-15",
        "A pump that stops is seen on something.",
        "handbook of findings: silent failures",
        silent_pump_out,
        lambda s: solves(s) and len(elements(s, "pump")) > 1,
    ),
)
