"""Every layout that suits a brief, built with what is at hand, solved, and set side by side; one recommended, with what decided it."""

from dataclasses import dataclass
from functools import cached_property

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.document.build import Build
from tall_heron.core.editing.change_layout import ChangedLayout, change_layout
from tall_heron.core.editing.layouts import Layout, layouts_for
from tall_heron.core.editing.layouts.picks import Rails
from tall_heron.core.rules import check
from tall_heron.core.rules.finding import AGAINST, Figure, Finding
from tall_heron.core.shelf.totals import Totals, make_totals
from tall_heron.core.sizing.limits import Limit, whole_limit
from tall_heron.core.study.pump_out import left_without
from tall_heron.core.study.study import Solved, Study, make_study
from tall_heron.core.study.tank_heat import TankHeat, pump_current, tank_heat


@dataclass(frozen=True)
class Candidate:
    """One layout as it would be: what `changed` for it, its study and findings, and whether it is the one fitted now. What is compared is read from the study when it is
    first asked for."""

    layout: Layout
    rails: Rails
    changed: ChangedLayout
    study: Study
    findings: tuple[Finding, ...]
    present: bool

    @cached_property
    def error_peak(self) -> float | None:
        """Rail pressure off what is asked at peak [-]."""
        return _error(self.study, self.study.peak)

    @cached_property
    def error_idle(self) -> float | None:
        """Rail pressure off what is asked at idle [-]."""
        return _error(self.study, self.study.solved["idle"])

    @cached_property
    def differ(self) -> float:
        """The largest difference between rails at peak [Pa]."""
        return self.study.rails_differ(self.study.peak)

    @cached_property
    def spare(self) -> float | None:
        """What the pumps have to spare at peak [-]."""
        return self.study.spare(self.study.peak) if self.study.peak.solution.converged else None

    @cached_property
    def first(self) -> Limit | None:
        """The whole circuit's ceiling, and what ends it."""
        return whole_limit(self.study)

    @cached_property
    def suction(self) -> float | None:
        """The least margin above boiling [Pa]."""
        tightest = self.study.tightest_suction()
        return tightest[0] if tightest else None

    @cached_property
    def current(self) -> float:
        """What the pumps draw at peak [A]."""
        return pump_current(self.study.peak)

    @cached_property
    def heat(self) -> TankHeat:
        """What an hour of hot idle puts into the tank."""
        return tank_heat(self.study)

    @cached_property
    def left(self) -> tuple[float, tuple[str, ...]] | None:
        """The share of the power left when one pump stops [-], and the pumps that leave no more."""
        return left_without(self.study)

    @cached_property
    def noise(self) -> str:
        """The word of the loudest pump."""
        return _noise(self.study.build)

    @cached_property
    def totals(self) -> Totals:
        """Price, mass, parts and joints."""
        return make_totals(self.study.build.circuit)

    @property
    def name(self) -> str:
        """What it is called."""
        words = {"single": "", "series": ", rails in series", "parallel": ", rails in parallel", "dead-end": ", second rail at a dead end"}
        return self.layout.title + words[self.rails]

    def count(self, level: str) -> int:
        """How many findings it has at a level."""
        return sum(f.level == level for f in self.findings)


@dataclass(frozen=True)
class Reason:
    """Why one is recommended, or when another would be; `{name}` stands for a figure."""

    text: str
    figures: dict[str, Figure]


@dataclass(frozen=True)
class Choice:
    """Candidates, the recommended one first, what decided, and for each when it would be the better one."""

    candidates: tuple[Candidate, ...]
    reasons: tuple[Reason, ...]
    wins: tuple[Reason, ...]


def choose(build: Build) -> Choice:
    """The choice for a build with a brief: every layout with the rails as they are arranged now, or as many of them, and the present one with every
    arrangement. What has fewer rails than the engine now comes last, and after it what one would not think of unasked."""
    brief = build.brief
    assert brief is not None
    present, now = build.circuit.template, rails_of(build)
    wanted = [(x, r) for x, r in layouts_for(brief) if x.key == present or r == _like(now, x)]
    made = [_candidate(build, layout, rails) for layout, rails in wanted]
    ranked = sorted(made, key=lambda c: (not (c.present or c.layout.sensible(brief)), c.rails == "single" and now != "single", c.count("Stop"), c.count("Check"), c.totals.price))
    return Choice(tuple(ranked), tuple(_reasons(ranked)), tuple(_wins(ranked[0], c) for c in ranked))


def _like(now: Rails, layout: Layout) -> Rails:
    """The arrangement of a layout that comes nearest to the present one: two rails stay two where it has any."""
    if now in layout.rails:
        return now
    return next((r for r in layout.rails if r != "single" and now != "single"), layout.rails[0])


def rails_of(build: Build) -> Rails:
    """How the rails of a circuit are arranged, read from what is there."""
    circuit = build.circuit
    if len(circuit.of_kind("rail")) < 2:
        return "single"
    if circuit.of_kind("split"):
        return "parallel"
    between = circuit.of_kind("rail")[0].ports["end"]
    onward = [e for e in circuit.elements if e.ports.get("start") == between and len(e.ports) > 1]
    return "dead-end" if len(onward) > 1 else "series"


def _candidate(build: Build, layout: Layout, rails: Rails) -> Candidate:
    present = build.circuit.template == layout.key and rails_of(build) == rails
    changed = ChangedLayout(build, (), ()) if present else change_layout(build, layout.key, rails)
    study = make_study(changed.build)
    return Candidate(layout, rails, changed, study, tuple(f for f in check(study)[0] if f.station != "brief"), present)


def _error(study: Study, solved: Solved) -> float | None:
    error = study.rail_error(solved) if solved.solution.converged else None
    return error[0] / error[1] if error is not None and error[1] else None


LOUDEST = ("loud", "fair", "quiet")


def _noise(build: Build) -> str:
    """The word of the loudest pump, as far as their sheets say."""
    words = {e.properties.noise for e in build.circuit.of_kind("pump")}
    return next((w for w in LOUDEST if w in words), "")


def _reasons(ranked: list[Candidate]) -> list[Reason]:
    first, others = ranked[0], ranked[1:]
    out = []
    found = {level: [c.count(level) for c in ranked] for level in AGAINST}
    for level in AGAINST:
        if others and found[level][0] < max(found[level]):
            out.append(
                Reason(
                    f"It has {found[level][0]} {level}{'' if found[level][0] == 1 else 's'}; the worst of the others has {max(found[level])}.",
                    {},
                )
            )
    alike = [c for c in others if (c.rails == "single") == (first.rails == "single") and all(c.count(x) == first.count(x) for x in AGAINST)]
    if alike:
        saved = min(c.totals.price for c in alike) - first.totals.price
        if saved >= 1:
            words = f"It costs {{saved}} less than the next that is as sound, with {first.totals.joints} joints."
            out.append(Reason(words, {"saved": Figure(saved, "money")}))
    if len(first.study.build.circuit.of_kind("rail")) > 1:
        allowed = house_figure("rail_difference_share") * first.study.brief.base
        figures = {"differ": Figure(first.differ, "pressure_difference"), "allowed": Figure(allowed, "pressure_difference")}
        out.append(Reason("Its rails differ by {differ}; {allowed} would be one percent of base.", figures))
    return out[:3]


RAILS_WIN = {
    "single": "on an engine with one bank",
    "series": "on an engine with two banks and one way back",
    "parallel": "on two banks that must match",
    "dead-end": "on two banks with little room",
}


def _wins(first: Candidate, other: Candidate) -> Reason:
    """When another would be the better one."""
    new = {x.rule for x in first.findings}
    for level in AGAINST:
        if other.count(level) > first.count(level):
            finding = next((f for f in other.findings if f.level == level and f.rule not in new), None)
            if finding is not None:
                return Reason(f"once {finding.rule} is cleared: {finding.do}", {})
    if other.layout is not first.layout:
        return Reason(other.layout.wins, {})
    return Reason(RAILS_WIN[other.rails], {})
