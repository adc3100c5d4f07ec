"""How much power the whole circuit carries: the top row of the ladder, and what a row is.
(docs/model.md, Ladder.)
"""

import math
from dataclasses import dataclass
from typing import Literal

from tall_heron.core.base.arithmetic import Why, format_number
from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.constants import HORSEPOWER
from tall_heron.core.rules.rule import rail_word
from tall_heron.core.rules.words import does, named
from tall_heron.core.sizing.ceiling import (
    MOST,
    Ceiling,
    Need,
    headroom_required,
    make_ceiling,
)
from tall_heron.core.study.demand import allowance
from tall_heron.core.study.derived import derived
from tall_heron.core.study.study import Study

Verdict = Literal["enough", "marginal", "short"]


@dataclass(frozen=True)
class LadderRow:
    """One row: its own `ceiling` [W] with the `band` that the tolerance of its figures leaves (None
    is no limit up to ten times the power wanted, 0.0 is no power at all), and what it `costs` the
    whole circuit [W] (None for what takes no pressure). `kind` is whole, cases, pumps, gravity,
    suction, regulator, rating, injectors or needles, or the kind of an element that takes pressure.
    """

    parts: tuple[str, ...]
    kind: str
    title: str
    ceiling: float | None
    band: tuple[float | None, float | None]
    verdict: Verdict
    why: Why
    costs: float | None = None


def whole_limit(study: Study) -> LadderRow | None:
    """The top row alone; None where the peak does not solve or nothing is burnt."""
    return whole_ladder_row(study)[0] if can_be_limited(study) else None


def whole_times(study: Study) -> float:
    """The whole circuit's ceiling as a multiple of the power wanted; infinite where there is none up
    to MOST, 0.0 where it holds at no power or does not solve.
    """
    return whole_ladder_row(study)[1] if can_be_limited(study) else 0.0


def what_ends(study: Study) -> str:
    """Which requirement ends the whole circuit: margin, rail, duty or suction; empty where it does
    not solve.
    """
    return whole_ladder_row(study)[2].what if can_be_limited(study) else ""


def gained(study: Study, other: Study) -> float | None:
    """How much more power the circuit of another study like one's own feeds [W]; None where either
    knows no end.
    """
    a = whole_times(study)
    other.near = min(a, MOST) if other.near is None else other.near
    b = whole_times(other)
    return None if math.isinf(a) or math.isinf(b) else b * other.brief.power - a * study.brief.power


def can_be_limited(study: Study) -> bool:
    """Whether it has a ladder: its peak solves, and something is burnt and delivered."""
    return (
        study.peak.solution.converged
        and study.peak.case.demand > 0
        and study.pumps_deliver(study.peak) > 0
    )


@derived("brief", "hydraulics", "wiring", "titles")
def ceiling_of(study: Study) -> Ceiling:
    """The requirements of a study by which its ceiling is looked for."""
    return make_ceiling(study)


@derived("brief", "hydraulics", "wiring", "titles")
def whole_ladder_row(study: Study) -> tuple[LadderRow, float, Need]:
    """The top row, its ceiling as a multiple of the power wanted, and the requirement that ends it;
    of a study that has a ladder.
    """
    ceiling, as_it_is = ceiling_of(study), study.what_if.unlimited
    near = study.near  # the ceiling of a circuit like this one
    if near is None:
        near = (
            study.capacity(study.peak)
            / study.peak.case.demand
            / (1 + headroom_required(study, "peak"))
            if study.tells_surplus
            else 1.0
        )
    times = ceiling.of(as_it_is, min(max(near, 0.05), MOST))
    need, bears = ceiling.binding(as_it_is, times), 100 * allowance(study.brief, "rail_error_check")
    at = need.case.case.title.lower()
    headroom = headroom_required(study, need.case.case.key)
    gives = does(need.parts, "gives", "give")
    words = {
        "margin": f"at {at} {gives} the demand and {100 * headroom:g} % more, and nothing beyond"
        if headroom
        else f"at {at} {gives} just the demand",
        "rail": f"at {at} the {rail_word(study)} is low by what is a Check, {bears:g} %"
        + (f", with the demand times {1 + headroom:g}" if need.times > 1 else ""),
        "duty": f"{wide_open(study, need.parts)} at peak",
        "suction": f"at {at} the inlet of {named(need.parts)} is no further above boiling than it needs",
    }[need.what]
    if times == 0.0:
        words = {
            "margin": f"at {at} {gives} nothing at the target pressure",
            "rail": f"at {at} the {rail_word(study)} is low by more than a Check, {bears:g} %, at any power",
            "duty": f"{named(need.parts)} cannot dose any power",
            "suction": f"at {at} the inlet of {named(need.parts)} is nearer boiling than it bears, at any power",
        }[need.what]
        others = ceiling.of(as_it_is, 1.0, tuple(n for n in ceiling.needs if n.what != need.what))
        if others:
            words += f"; all else holds up to {power_words(min(others, MOST) * study.brief.power)}"
    tolerance = house_figure(
        {
            "duty": "injector_tolerance",
            "margin": "pump_tolerance",
            "rail": "pump_tolerance",
            "suction": "hose_loss_tolerance",
        }[need.what]
    )
    row = ladder_row(
        study,
        need.parts,
        "whole",
        "whole circuit",
        times,
        tolerance,
        [f"limited where {words}" if times and math.isfinite(times) else words],
        "Every requirement of the brief, solved.",
    )
    return row, times, need


def wide_open(study: Study, parts: tuple[str, ...]) -> str:
    """That what burns can pass no more: injectors are timed, a needle stands open."""
    return (
        does(parts, "has its needle wide open", "have their needles wide open")
        if study.brief.carbureted
        else does(parts, "is at its duty limit", "are at their duty limit")
    )


def ladder_row(
    study: Study,
    parts: tuple[str, ...],
    kind: str,
    title: str,
    times: float,
    tolerance: float,
    steps: list[str],
    source: str,
    costs: float | None = None,
) -> LadderRow:
    """A row whose ceiling is a multiple of the power wanted, and whose band goes with the tolerance
    of its figures.
    """
    asked = study.brief.power
    ceiling = None if math.isinf(times) else times * asked
    band = (
        (None, None) if ceiling is None else (ceiling * (1 - tolerance), ceiling * (1 + tolerance))
    )
    low, high = band
    if ceiling == 0.0:
        end = "holds at no power"
    else:
        end = (
            "no limit up to ten times the power wanted"
            if ceiling is None
            else f"holds up to {power_words(ceiling)}"
        )
    ladder_rows = [*steps, end]
    if ceiling and tolerance and low is not None and high is not None:
        ladder_rows.append(
            f"figures good to ±{100 * tolerance:g} %: {power_words(low)} to {power_words(high)}"
        )
    return LadderRow(
        parts,
        kind,
        title,
        ceiling,
        band,
        verdict_on(band, asked),
        Why(tuple(ladder_rows), source),
        costs,
    )


def verdict_on(band: tuple[float | None, float | None], asked: float) -> Verdict:
    """Whether a ceiling within a band is enough for the power asked [all in W]."""
    low, high = band
    return (
        "enough"
        if low is None or low >= asked
        else "short"
        if high is not None and high < asked
        else "marginal"
    )


def power_words(power: float) -> str:
    """A power [W] in both units."""
    return f"{format_number(power / HORSEPOWER)} hp = {format_number(power / 1000)} kW"
