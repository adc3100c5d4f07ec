"""The rules: one file a subject, each a tuple of functions. A rule reads a Study and yields findings; it never solves."""

from tall_heron.core.finding import LEVELS, Finding
from tall_heron.core.rules import filters, materials, pressure, suction
from tall_heron.core.study import Study

RULES = pressure.RULES + suction.RULES + filters.RULES + materials.RULES


def check(study: Study) -> list[Finding]:
    """Every finding of every rule, the worst first."""
    found = [finding for rule in RULES for finding in rule(study)]
    return sorted(found, key=lambda f: LEVELS.index(f.level))
