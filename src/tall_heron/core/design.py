"""READ FIRST. The whole story: brief -> circuit -> solutions -> findings, limits and sheets."""

from dataclasses import dataclass, replace

from tall_heron.core.document.build import Build
from tall_heron.core.document.path import main_path
from tall_heron.core.joining.losses import plumbed
from tall_heron.core.rules import check, check_cases, check_route, check_wiring
from tall_heron.core.rules.finding import LEVELS, Finding
from tall_heron.core.rules.rule import Rule
from tall_heron.core.sheets.cut_list import HoseCut, make_cut_rows
from tall_heron.core.sizing.limits import make_limits
from tall_heron.core.sizing.whole_limit import LadderRow, whole_limit
from tall_heron.core.study.derived import SOLVED_BY, differing, surviving
from tall_heron.core.study.study import Study, make_study, met_brief


@dataclass(slots=True)
class Design:
    """A build with everything that follows from it."""

    study: Study
    findings: list[Finding]
    passed: list[Rule]
    cuts: list[HoseCut]

    @property
    def whole(self) -> LadderRow | None:
        """The whole circuit's ceiling; None where the peak does not solve."""
        return whole_limit(self.study)

    @property
    def of_cases(self) -> tuple[list[Finding], list[Rule]]:
        """What the rules that read the cases find, and those of them that found nothing; looked at
        when it is first asked for.
        """
        return check_cases(self.study)

    @property
    def of_route(self) -> tuple[list[Finding], list[Rule]]:
        """What the rules that look at the build in its vehicle find, and those of them that found
        nothing; looked at when it is first asked for.
        """
        return check_route(self.study)

    @property
    def of_wiring(self) -> tuple[list[Finding], list[Rule]]:
        """What the rules that look at the wiring find, and those of them that found nothing; looked
        at when it is first asked for.
        """
        return check_wiring(self.study)

    @property
    def every_finding(self) -> list[Finding]:
        """All findings, those of the cases and the route with them."""
        return sorted(
            [*self.findings, *self.of_cases[0], *self.of_route[0], *self.of_wiring[0]],
            key=lambda f: LEVELS.index(f.level),
        )

    @property
    def limits(self) -> list[LadderRow]:
        """The ladder, made when it is first asked for: it solves the circuit anew for each of its
        parts.
        """
        return make_limits(self.study)


def design(build: Build, like: Design | None = None) -> Design:
    """What a build with a brief comes to, from the solutions of a design that is `like` it; one
    that differs in nothing that solves it is not solved again, and what was derived lives on
    where it reads nothing that differs. Raises ValueError for a build without a brief.
    """
    build = plumbed(build)
    if like is None:
        return design_of(make_study(build))
    differ = differing(like.study.build, build)
    if differ & SOLVED_BY:
        return design_of(make_study(build, like=like.study))
    assert build.brief is not None
    study = replace(
        like.study,
        build=build,
        brief=met_brief(build.brief, build.circuit),
        path=main_path(build.circuit),
        answers=surviving(like.study.answers, differ),
    )
    return design_of(study)


def design_of(study: Study) -> Design:
    """What a solved build comes to."""
    return Design(study, *check(study), make_cut_rows(study.build.circuit))
