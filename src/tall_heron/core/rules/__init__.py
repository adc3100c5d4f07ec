"""The rules: one file a subject, each a tuple of Rule. A rule reads a Study and yields findings; it never solves."""

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
    spare,
    suction,
    tanks,
)
from tall_heron.core.rules.finding import AGAINST, LEVELS, Finding
from tall_heron.core.rules.rule import Rule
from tall_heron.core.study.study import Study

FILES = (arrows, solving, spare, pressure, injection, suction, filters, materials, hoses, joints, layout, returns, failures, tanks, mounts, engine, guesses)
RULES: tuple[Rule, ...] = tuple(rule for file in FILES for rule in file.RULES)
CASE_RULES: tuple[Rule, ...] = cases.RULES  # they solve many moments more: looked at where Cases is looked at
WIRING_RULES: tuple[Rule, ...] = (*electrics.RULES, *cut_off.RULES)  # they solve the cruise and walk faults: looked at where Wiring is, and with whole pages
ROUTE_RULES: tuple[Rule, ...] = (*route.RULES, *route_parts.RULES)  # they lay a build out in its vehicle: looked at where Route is, and with whole pages


def check(study: Study, rules: tuple[Rule, ...] = RULES) -> tuple[list[Finding], list[Rule]]:
    """Every finding of every rule, or of some, the worst first, and the rules that looked and found nothing. Rules with nothing to look at are in neither."""
    return _check(study, rules)


def check_cases(study: Study) -> tuple[list[Finding], list[Rule]]:
    """The same of the rules that read the cases, worked out once."""
    return study.answered("rules of cases", lambda s: _check(s, CASE_RULES))


def check_route(study: Study) -> tuple[list[Finding], list[Rule]]:
    """The same of the rules that look at a build laid out in its vehicle, worked out once."""
    return study.answered("rules of route", lambda s: _check(s, ROUTE_RULES))


def check_wiring(study: Study) -> tuple[list[Finding], list[Rule]]:
    """The same of the rules that look at how a build is wired, worked out once."""
    return study.answered("rules of wiring", lambda s: _check(s, WIRING_RULES))


# What only follows from something worse: where a rule on the right finds, the one on the left says nothing new.
FOLLOWS = {
    "P-04": ("P-01", "P-02", "P-03", "P-19", "F-06", "L-06", "P-10", "L-29"),
    "P-09": ("P-02", "F-06", "L-29"),
    "P-10": ("P-02", "F-06", "P-19", "L-29"),
    "P-02": ("L-29", "F-06"),
    "P-12": ("P-01", "P-02"),
    "P-22": ("F-06",),
    "W-07": ("W-06",),
    "P-13": ("P-19", "L-06"),
    "S-06": ("S-01",),
    "L-05": ("F-06",),
    "L-06": ("F-06",),
    "L-21": ("L-20",),
}


def _check(study: Study, rules: tuple[Rule, ...]) -> tuple[list[Finding], list[Rule]]:
    found, passed = [], []
    accepted = {(a.rule, a.element_id): a.reason for a in study.build.accepted}
    for rule in rules:
        if not rule.applies(study):
            continue
        here = list(rule.look(study))
        source = f"House rule {rule.id}: {rule.source}"
        found += [replace(f, rule=rule.id, source=f.source or source, accepted=accepted.get((rule.id, f.element_id), "")) for f in here]
        if not here:
            passed.append(rule)
    rules_found = {f.rule for f in found if f.level in AGAINST}
    found = [f for f in found if not rules_found & set(FOLLOWS.get(f.rule, ()))]
    return sorted(found, key=lambda f: LEVELS.index(f.level)), passed
