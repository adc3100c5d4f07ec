"""READ FIRST. The whole story: brief -> circuit -> solutions -> findings, limits and sheets."""

from dataclasses import dataclass, replace

from tall_heron.core.document.build import Build
from tall_heron.core.joining.losses import plumbed
from tall_heron.core.rules import check, check_cases, check_route, check_wiring
from tall_heron.core.rules.finding import LEVELS, Finding
from tall_heron.core.rules.rule import Rule
from tall_heron.core.sheets.cut_list import Cut, make_cut_rows
from tall_heron.core.sizing.limits import Limit, make_limits, whole_limit
from tall_heron.core.study.study import Study, make_study


@dataclass(slots=True)
class Design:
    """A build with everything that follows from it."""

    study: Study
    findings: list[Finding]
    passed: list[Rule]
    cuts: list[Cut]

    @property
    def whole(self) -> Limit | None:
        """The whole circuit's ceiling; None where the peak does not solve."""
        return whole_limit(self.study)

    @property
    def of_cases(self) -> tuple[list[Finding], list[Rule]]:
        """What the rules that read the cases find, and those of them that found nothing; looked at when it is first asked for."""
        return check_cases(self.study)

    @property
    def of_route(self) -> tuple[list[Finding], list[Rule]]:
        """What the rules that look at the build in its vehicle find, and those of them that found nothing; looked at when it is first asked for."""
        return check_route(self.study)

    @property
    def of_wiring(self) -> tuple[list[Finding], list[Rule]]:
        """What the rules that look at the wiring find, and those of them that found nothing; looked at when it is first asked for."""
        return check_wiring(self.study)

    @property
    def every_finding(self) -> list[Finding]:
        """All findings, those of the cases and the route with them."""
        return sorted([*self.findings, *self.of_cases[0], *self.of_route[0], *self.of_wiring[0]], key=lambda f: LEVELS.index(f.level))

    @property
    def limits(self) -> list[Limit]:
        """The ladder, made when it is first asked for: it solves the circuit anew for each of its parts."""
        return make_limits(self.study)


# Answers that read more of a build than its brief and circuit: its own cases, what is hidden or accepted, its space, its shop.
OF_THE_BUILD = ("looked ", "fix of ", "every cause", "moments", "matrix", "rules of cases", "laid", "rules of route", "rules of wiring", "balances", "battery alone", "joints", "desk")


def design(build: Build, like: Design | None = None) -> Design:
    """What a build with a brief comes to, from the solutions of a design that is `like` it; one that differs in no figure of brief, circuit and wiring is not solved again.
    Raises ValueError for a build without a brief."""
    build = plumbed(build)
    if like is not None and _solved_by(like.study.build) == _solved_by(build):
        kept = {name: x for name, x in like.study.answers.items() if not name.startswith(OF_THE_BUILD)}
        study = replace(like.study, build=build, answers=kept)
        return Design(study, *check(study), like.cuts)
    return design_of(make_study(build, like=like.study if like is not None else None))


def _solved_by(build: Build) -> tuple[object, ...]:
    """What a build's solutions hang on: another port needs other adapters."""
    return build.brief, build.circuit, build.wiring, [e.adapters for e in build.circuit.elements]


def design_of(study: Study) -> Design:
    """What a solved build comes to."""
    return Design(study, *check(study), make_cut_rows(study.build.circuit))
