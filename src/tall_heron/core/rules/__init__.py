"""The rules: one file a subject, each a tuple of Rule. A rule reads a Study and yields findings; it
never solves.
"""

from dataclasses import replace

from tall_heron.core.rules import (
    arrows,
    cases,
    cut_off,
    electrics,
    engine,
    failures,
    filters,
    guesses,
    headroom,
    hoses,
    injection,
    joints,
    layout,
    materials,
    mounts,
    pressure,
    returns,
    route,
    route_parts,
    solving,
    suction,
    tanks,
)
from tall_heron.core.rules.finding import LEVELS, Finding
from tall_heron.core.rules.rule import Rule
from tall_heron.core.study.derived import derived
from tall_heron.core.study.study import Study

FILES = (
    arrows,
    solving,
    headroom,
    pressure,
    injection,
    suction,
    filters,
    materials,
    hoses,
    joints,
    layout,
    returns,
    failures,
    tanks,
    mounts,
    engine,
    guesses,
)
RULES: tuple[Rule, ...] = tuple(rule for file in FILES for rule in file.RULES)
CASE_RULES: tuple[Rule, ...] = (
    cases.RULES
)  # they solve many moments more: looked at where Cases is looked at
WIRING_RULES: tuple[Rule, ...] = (
    *electrics.RULES,
    *cut_off.RULES,
)  # they solve the cruise and walk faults: looked at where Wiring is, and for the marks
ROUTE_RULES: tuple[Rule, ...] = (
    *route.RULES,
    *route_parts.RULES,
)  # they lay a build out in its vehicle: looked at where Route is, and for the marks


def check(study: Study, rules: tuple[Rule, ...] = RULES) -> tuple[list[Finding], list[Rule]]:
    """Every finding of every rule, or of some, the worst first, and the rules that looked and found
    nothing. Rules with nothing to look at are in neither.
    """
    return _check(study, rules)


@derived()
def check_cases(study: Study) -> tuple[list[Finding], list[Rule]]:
    """The same of the rules that read the cases, worked out once."""
    return _check(study, CASE_RULES)


@derived()
def check_route(study: Study) -> tuple[list[Finding], list[Rule]]:
    """The same of the rules that look at a build laid out in its vehicle, worked out once."""
    return _check(study, ROUTE_RULES)


@derived()
def check_wiring(study: Study) -> tuple[list[Finding], list[Rule]]:
    """The same of the rules that look at how a build is wired, worked out once."""
    return _check(study, WIRING_RULES)


# What only follows from something as bad or worse: where a rule on the right finds, the one on the
# left says nothing new.
FOLLOWS = {
    "P-01": ("P-03", "F-06", "L-06"),
    "S-01": ("L-27",),
    "C-06": ("L-08",),
    "P-06": ("F-06",),
    "P-19": ("F-06",),
    "J-02": ("F-06", "F-05"),
    "F-03": ("F-06",),
    "F-04": ("F-06", "F-05"),
    "L-03": ("F-06",),
    "W-03": ("F-06",),
    "W-01": ("F-06",),
    "C-07": ("L-01", "L-04", "L-10", "F-06"),
    "P-04": ("P-01", "P-02", "P-03", "P-19", "F-06", "L-06", "P-10", "L-29"),
    "P-09": ("P-02", "F-06", "L-29"),
    "P-10": ("P-02", "F-06", "P-19", "L-29", "L-06"),
    "P-02": ("L-29", "F-06"),
    "P-12": ("P-01", "P-02", "P-23"),
    "P-22": ("F-06", "L-06"),
    "W-07": ("W-06",),
    "P-13": ("P-19", "L-06", "F-06"),
    "S-06": ("S-01",),
    "L-05": ("F-06",),
    "L-06": ("F-06",),
    "L-21": ("L-20",),
}


def every_cause(study: Study) -> list[Finding]:
    """All that all rules find, what only follows from something worse with it."""
    return [
        f
        for rules in (RULES, CASE_RULES, ROUTE_RULES, WIRING_RULES)
        for f in _looked(study, rules)[0]
    ]


def every_finding(study: Study) -> list[Finding]:
    """All findings of a study, those of the cases, the route and the wiring with them, station by
    station.
    """
    return [f for look in (check, check_cases, check_route, check_wiring) for f in look(study)[0]]


def route_causes(study: Study) -> list[Finding]:
    """What the rules of the route find, by themselves."""
    return _looked(study, ROUTE_RULES)[0]


def _check(study: Study, rules: tuple[Rule, ...]) -> tuple[list[Finding], list[Rule]]:
    findings, passed = _looked(study, rules)
    every = [
        *findings,
        *(_looked(study, RULES)[0] if rules in (CASE_RULES, ROUTE_RULES, WIRING_RULES) else []),
    ]
    causes = {f.rule: f.level for f in sorted(every, key=_badness, reverse=True)}

    def shown_alone(f: Finding) -> bool:
        return not any(
            cause in causes and _badness(f) >= LEVELS.index(causes[cause])
            for cause in FOLLOWS.get(f.rule, ())
        )

    return sorted([f for f in findings if shown_alone(f)], key=_badness), passed


def _badness(finding: Finding) -> int:
    return LEVELS.index(finding.level)


def _looked(study: Study, rules: tuple[Rule, ...]) -> tuple[list[Finding], list[Rule]]:
    """What some rules find by themselves, looked at once for a study."""
    findings, passed = _look.under(
        study, tuple(r.id for r in rules), lambda: _look.make(study, rules)
    )
    return list(findings), list(passed)


@derived()
def _look(study: Study, rules: tuple[Rule, ...]) -> tuple[list[Finding], list[Rule]]:
    findings, passed = [], []
    accepted = {(a.rule, a.element_id): a.reason for a in study.build.accepted}
    for rule in rules:
        if not rule.applies(study):
            continue
        here = list(rule.look(study))
        source = f"Rule {rule.id}: {rule.source}"
        findings += [
            replace(
                f,
                rule=rule.id,
                source=f.source or source,
                accepted=accepted.get((rule.id, f.element_id), ""),
            )
            for f in here
        ]
        if not here:
            passed.append(rule)
    return findings, passed
