"""What the rules of wiring ask again and again of a study."""

from tall_heron.core.electrics.harness import Harness
from tall_heron.core.rules.finding import Finding, FindingFigure, Level
from tall_heron.core.study.study import Study


def first_pump(study: Study) -> str:
    """The pump at which what concerns all of them is told."""
    return next(iter(harness_in(study).feeds))


def harness_in(study: Study) -> Harness:
    """The wires of a build that has some."""
    assert study.what_if.harness is not None
    return study.what_if.harness


def wire_finding(
    level: Level,
    part: str,
    title: str,
    why: str,
    do: str,
    figures: dict[str, FindingFigure] | None = None,
    case: str = "",
) -> Finding:
    """A finding of station 7."""
    return Finding(level, part, title, why, do, figures or {}, case, station="wiring")
