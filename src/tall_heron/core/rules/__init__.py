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
    joints,
    layout,
    materials,
    mounts,
    pressure,
    route,
    route_parts,
    spare,
    suction,
    tanks,
)
from tall_heron.core.rules.finding import LEVELS, Finding
from tall_heron.core.rules.rule import Rule
from tall_heron.core.study.study import Study

FILES = (spare, pressure, suction, filters, materials, hoses, joints, layout, arrows, failures, tanks, mounts, engine, guesses)
RULES: tuple[Rule, ...] = tuple(rule for file in FILES for rule in file.RULES)
CASE_RULES: tuple[Rule, ...] = cases.RULES  # they solve many moments more: looked at where Cases is looked at
WIRING_RULES: tuple[Rule, ...] = (*electrics.RULES, *cut_off.RULES)  # they solve the cruise and walk faults: looked at where Wiring is, and with whole pages
ROUTE_RULES: tuple[Rule, ...] = (*route.RULES, *route_parts.RULES)  # they lay a build out in its vehicle: looked at where Route is, and with whole pages


def check(study: Study) -> tuple[list[Finding], list[Rule]]:
    """Every finding of every rule, the worst first, and the rules that looked and found nothing. Rules with nothing to look at are in neither."""
    return _check(study, RULES)


def check_cases(study: Study) -> tuple[list[Finding], list[Rule]]:
    """The same of the rules that read the cases, worked out once."""
    return study.answered("rules of cases", lambda s: _check(s, CASE_RULES))


def check_route(study: Study) -> tuple[list[Finding], list[Rule]]:
    """The same of the rules that look at a build laid out in its vehicle, worked out once."""
    return study.answered("rules of route", lambda s: _check(s, ROUTE_RULES))


def check_wiring(study: Study) -> tuple[list[Finding], list[Rule]]:
    """The same of the rules that look at how a build is wired, worked out once."""
    return study.answered("rules of wiring", lambda s: _check(s, WIRING_RULES))


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
    return sorted(found, key=lambda f: LEVELS.index(f.level)), passed
