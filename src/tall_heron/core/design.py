"""READ FIRST. The whole story: brief -> circuit -> solutions -> findings, limits and sheets."""

from dataclasses import dataclass

from tall_heron.core.document.build import Build
from tall_heron.core.rules import check
from tall_heron.core.rules.finding import Finding
from tall_heron.core.rules.rule import Rule
from tall_heron.core.sheets.cut_list import Cut, make_cut_rows
from tall_heron.core.sizing.limits import Limit, make_limits
from tall_heron.core.study.study import Study, make_study


@dataclass(slots=True)
class Design:
    """A build with everything that follows from it."""

    study: Study
    findings: list[Finding]
    passed: list[Rule]
    limits: list[Limit]
    cuts: list[Cut]


def design(build: Build) -> Design:
    """What a build with a brief comes to. Raises ValueError for a build without one."""
    study = make_study(build)
    cuts = make_cut_rows(build.circuit)
    findings, passed = check(study)
    return Design(study, findings, passed, make_limits(study), cuts)
