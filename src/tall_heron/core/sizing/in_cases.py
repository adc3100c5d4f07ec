"""What sizes decide in the cases that are not hidden: findings of the rules that read them, and by how much they miss."""

from dataclasses import replace

from tall_heron.core.rules import CASE_RULES
from tall_heron.core.rules.finding import AGAINST, Finding
from tall_heron.core.study.moments import Moment
from tall_heron.core.study.requirements import make_matrix
from tall_heron.core.study.study import Study

IN_CASES = {"C-01", "C-02", "C-03", "C-04", "C-05"}  # what sizes decide in the cases that are not hidden
CASE_LOOKS = [r for r in CASE_RULES if r.id in IN_CASES]
MISSED = 10.0


def _read_by_sizes(moment: Moment) -> bool:
    key = moment.case.key
    return moment.own or bool(moment.lean) or key in ("peak", "hot and high") or key.endswith((" clogged", " before", " after"))


def case_key(f: Finding) -> tuple[str, str]:
    """What a finding is known by, with its level."""
    return f"{f.rule} {f.element_id} {f.case}", f.level


def missed_by(f: Finding) -> float:
    """By what share a figure misses its limit; one that is not known counts as ten times."""
    if "value" not in f.figures or "limit" not in f.figures:
        return MISSED
    value, limit = f.figures["value"].value, f.figures["limit"].value
    return min(abs(value - limit) / max(abs(limit), 1e-9), MISSED) + 1e-6


def in_cases(study: Study) -> list[Finding]:
    """The Stops and Checks of the rules that read the cases and that sizes decide, from the moments that those rules read."""
    study = replace(study, answers={"matrix": make_matrix(study, _read_by_sizes)})
    return [replace(f, rule=rule.id) for rule in CASE_LOOKS if rule.applies(study) for f in rule.look(study) if f.level in AGAINST]
