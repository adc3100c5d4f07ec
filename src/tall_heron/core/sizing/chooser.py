"""Every layout that suits a brief, built with what is at hand or with parts sized for it, solved, and set side by side; one recommended, with what decided it."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.build import Build
from tall_heron.core.editing.change_layout import ChangedLayout, change_layout
from tall_heron.core.editing.fields import fit
from tall_heron.core.editing.layouts import Layout, layouts_for
from tall_heron.core.editing.layouts.picks import Rails
from tall_heron.core.rules import check
from tall_heron.core.rules.finding import AGAINST, Figure, Finding
from tall_heron.core.shelf.shelf import ShelfPart
from tall_heron.core.shelf.totals import Totals, make_totals
from tall_heron.core.sizing.auto_size import proposed
from tall_heron.core.sizing.limits import Limit, whole_limit
from tall_heron.core.sizing.needs import in_cases
from tall_heron.core.study.pump_out import left_without
from tall_heron.core.study.study import Solved, Study, make_study
from tall_heron.core.study.tank_heat import TankHeat, pump_current, tank_heat


@dataclass(frozen=True)
class Candidate:
    """One layout as it would be: what `changed` for it, its study and findings, whether it is the one fitted now, and the parts `sized` for it by tag, None where it was
    judged with those at hand. What is compared is read from the study when it is first asked for."""

    layout: Layout
    rails: Rails
    changed: ChangedLayout
    study: Study
    findings: tuple[Finding, ...]
    present: bool
    sized: dict[str, str] | None = None

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


Sizes = Mapping[tuple[str, Rails], dict[str, str]]  # a layout's key and rails: the parts sized for it, by tag


def wanted(build: Build) -> list[tuple[Layout, Rails]]:
    """The layouts to compare: every one that suits with the rails as they are arranged now, or as many of them, and the present one with every arrangement, itself first."""
    assert build.brief is not None
    present, now = build.circuit.template, rails_of(build)
    suit = [(x, r) for x, r in layouts_for(build.brief) if x.key == present or r == _like(now, x)]
    return sorted(suit, key=lambda x: ((x[0].key, x[1]) != (present, now), not x[0].sensible(build.brief)))  # type: ignore[arg-type]


def sizes_for(build: Build, layout: Layout, rails: Rails, own: Sequence[ShelfPart] = ()) -> dict[str, str]:
    """The parts of the shelf that suit a layout, by tag, those that are there already left out."""
    laid = _laid(build, layout, rails)[0].build
    try:
        found = proposed(laid, own=own)
    except BuildErrors:
        return {}
    before = {e.id: e.shelf for e in laid.circuit.elements}
    return {e.id: e.shelf for e in found.build.circuit.elements if e.shelf and e.shelf != before[e.id]}


def choose(build: Build, sizes: Sizes | None = None, own: Sequence[ShelfPart] = ()) -> Choice:
    """The choice for a build with a brief, each layout with the parts `sizes` has for it, those before any that are not sized yet: the fewest Stops, then Checks, loud pumps on
    the street as one, then the least price. What has fewer rails than the engine now comes last, and after it what one would not think of unasked."""
    brief = build.brief
    assert brief is not None
    now = rails_of(build)
    made = [_candidate(build, layout, rails, (sizes or {}).get((layout.key, rails)), own) for layout, rails in wanted(build)]

    def order(c: Candidate) -> tuple[bool, bool, bool, int, int, float]:
        strange, fewer = not (c.present or c.layout.sensible(brief)), c.rails == "single" and now != "single"
        return strange, fewer, bool(sizes) and c.sized is None, c.count("Stop"), c.count("Check") + (brief.use == "street" and c.noise == "loud"), c.totals.price

    ranked = sorted(made, key=order)
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


def _laid(build: Build, layout: Layout, rails: Rails) -> tuple[ChangedLayout, bool]:
    """The build in a layout, and whether it stands so now."""
    present = build.circuit.template == layout.key and rails_of(build) == rails
    return (ChangedLayout(build, (), ()) if present else change_layout(build, layout.key, rails)), present


def fitted_with(build: Build, parts: Mapping[str, str], own: Sequence[ShelfPart] = ()) -> Build:
    """A build with parts of the shelf fitted, by tag; Ys and inlets as they are named. Raises BuildErrors."""
    for element_id, name in parts.items():
        build = fit(build, element_id, name, own)
    return build


def _candidate(build: Build, layout: Layout, rails: Rails, sizes: dict[str, str] | None, own: Sequence[ShelfPart]) -> Candidate:
    changed, present = _laid(build, layout, rails)
    if sizes:
        changed = replace(changed, build=fitted_with(changed.build, sizes, own))
    study = make_study(changed.build)
    found = [f for f in check(study)[0] if f.station != "brief"]
    found += in_cases(study) if sizes is not None else []  # one that is not sized yet is not judged in every case either
    return Candidate(layout, rails, changed, study, tuple(found), present, sizes)


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
    if first.study.brief.use == "street" and first.noise not in ("", "loud") and any(c.noise == "loud" for c in others):
        out.append(Reason("Its pumps are not loud; some of the others are.", {}))
    if alike:
        saved = min(c.totals.price for c in alike) - first.totals.price
        if saved >= 1:
            words = f"It costs {{saved}} less than the next that is as sound, with {first.totals.joints} joints."
            out.append(Reason(words, {"saved": Figure(saved, "money")}))
    if len(first.study.build.circuit.of_kind("rail")) > 1:
        allowed = house_figure("rail_difference_share") * first.study.brief.base
        figures = {"differ": Figure(first.differ, "pressure_difference"), "allowed": Figure(allowed, "pressure_difference")}
        out.append(Reason("Its rails differ by {differ}; {allowed} is allowed.", figures))
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
