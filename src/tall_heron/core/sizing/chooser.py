"""Every layout that suits a brief, as it would be laid out with parts sized for it, solved, and set
side by side; one recommended, with what decided it.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.tank_work import tank_work
from tall_heron.core.editing.change_layout import ChangedLayout, change_layout
from tall_heron.core.editing.fields import fit
from tall_heron.core.editing.layouts import layouts_for
from tall_heron.core.editing.layouts.layout import POTS, Layout
from tall_heron.core.editing.layouts.picks import Rails
from tall_heron.core.rules.finding import AGAINST, Finding, FindingFigure, worst_level
from tall_heron.core.shelf.shelf import ShelfPart
from tall_heron.core.shelf.totals import Totals, make_totals
from tall_heron.core.sizing.auto_size import Proposal, against, proposed
from tall_heron.core.sizing.pump_count import MOST_PUMPS, reaches, size_any
from tall_heron.core.sizing.whole_limit import LadderRow, whole_limit
from tall_heron.core.study.cases.tank_heat import TankHeat, pump_current, tank_heat
from tall_heron.core.study.failures.pump_out import left_without
from tall_heron.core.study.study import Solved, Study, make_study


@dataclass(frozen=True)
class Candidate:
    """One layout as it would be laid out: what `changed` for it with parts sized for it, its study
    and findings, whether it is the one fitted now, and the parts that the builder chose and
    that would be `given_up`, as tag and title. What is compared is read from the study when it is
    first asked for.
    """

    layout: Layout
    rails: Rails
    changed: ChangedLayout
    study: Study
    findings: tuple[Finding, ...]
    present: bool
    given_up: tuple[str, ...] = ()

    @property
    def key(self) -> tuple[str, Rails]:
        """What it is known by."""
        return self.layout.key, self.rails

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
    def headroom(self) -> float | None:
        """What the pumps have as headroom at peak [-]."""
        return self.study.headroom(self.study.peak) if self.study.peak.solution.converged else None

    @cached_property
    def first(self) -> LadderRow | None:
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
        """Price, mass, parts and connections."""
        return make_totals(self.study.build.circuit)

    @property
    def tank_work(self) -> str:
        """What it asks of the tank."""
        return tank_work(self.study.build.circuit)

    @property
    def name(self) -> str:
        """What it is called."""
        return layout_name(self.layout, self.rails)

    @property
    def worst(self) -> str:
        """The worst level found against it; empty where nothing is."""
        return worst_level(f.level for f in self.findings)

    def count(self, level: str) -> int:
        """How many findings it has at a level."""
        return sum(f.level == level for f in self.findings)

    @property
    def headline(self) -> str:
        """What is found against it, Stops first, in a few words."""
        counts = [(n, level) for level in AGAINST if (n := self.count(level))]
        return (
            ", ".join(f"{n} {level}{'' if n == 1 else 's'}" for n, level in counts)
            or "nothing found against it"
        )


def layout_name(layout: Layout, rails: Rails) -> str:
    """What a layout with an arrangement of rails is called."""
    return (
        layout.title
        + {
            "single": "",
            "series": ", rails in series",
            "parallel": ", rails in parallel",
            "dead-end": ", second rail at a dead end",
        }[rails]
    )


@dataclass(frozen=True)
class Reason:
    """Why one is recommended, or when another would be; `{name}` stands for a figure."""

    text: str
    figures: dict[str, FindingFigure]


@dataclass(frozen=True)
class Choice:
    """Candidates in an order that does not depend on what is found, which of them is recommended,
    what decided, and for each when it would be the better one.
    """

    candidates: tuple[Candidate, ...]
    best: Candidate
    reasons: tuple[Reason, ...]
    wins: tuple[Reason, ...]


def wanted(build: Build) -> list[tuple[Layout, Rails]]:
    """The layouts to compare: every one that suits with the rails as they are arranged now, or as
    many of them, and the present one with every arrangement, itself first.
    """
    assert build.brief is not None
    present, now = build.circuit.template, rails_of(build)
    suit = [(x, r) for x, r in layouts_for(build.brief) if x.key == present or r == _like(now, x)]
    return sorted(
        suit,
        key=lambda x: ((x[0].key, x[1]) != (present, now), not x[0].sensible(build.brief)),  # type: ignore[arg-type]
    )


@dataclass(frozen=True)
class Picked:
    """The parts that the builder chose, and those of them that he would take along: none that is a
    Stop where it is.
    """

    mine: frozenset[str]
    kept_parts: frozenset[str]


def picked(build: Build, own: Sequence[ShelfPart] = ()) -> Picked:
    """What the builder chose: parts of his own, and where the build is other than what would be
    proposed for it.
    """
    names = {p.name for p in own}
    chosen = {e.id for e in build.circuit.elements if e.shelf is None or e.shelf in names}
    try:
        usual = {e.id: e.shelf for e in proposed(build, own=own).build.circuit.elements}
    except BuildErrors:
        usual = {}
    mine = frozenset(
        chosen | {e.id for e in build.circuit.elements if usual.get(e.id, e.shelf) != e.shelf}
    )
    stopped = {f.element_id for f in against(make_study(build)) if f.level == "Stop"}
    return Picked(mine, mine - stopped)


def candidates(build: Build, own: Sequence[ShelfPart] = ()) -> Iterator[Candidate]:
    """Every layout that suits, as it would be laid out, one after the other in the order they are
    shown.
    """
    chosen = picked(build, own)
    for layout, rails in wanted(build):
        yield candidate(build, layout, rails, own, chosen)


def candidate(
    build: Build,
    layout: Layout,
    rails: Rails,
    own: Sequence[ShelfPart] = (),
    chosen: Picked | None = None,
) -> Candidate:
    """A layout as it would be laid out: with what the builder chose, where it does there, and all
    else sized; the present one as it stands.
    """
    chosen = picked(build, own) if chosen is None else chosen
    changed, present = _laid(build, layout, rails)
    given_up: tuple[str, ...] = ()
    if not present:
        before = {e.id: e.shelf for e in build.circuit.elements}
        keep = [
            e.id
            for e in changed.build.circuit.elements
            if e.id in chosen.kept_parts and e.shelf == before.get(e.id)
        ]
        sized = _sized(changed.build, keep, own)
        if keep and _stops(sized):
            free = _sized(changed.build, [], own)
            sized = free if _stops(free) < _stops(sized) else sized
        study = sized.study if sized is not None else make_study(changed.build)
        changed = _between(build, study.build)
        now = {e.id: e.shelf for e in study.build.circuit.elements}
        given_up = tuple(
            f"{e.id} {e.title or e.kind}"
            for e in build.circuit.elements
            if _own_doing(e, chosen.mine) and now.get(e.id, "") != e.shelf
        )
    else:
        study = make_study(build)
    return Candidate(layout, rails, changed, study, against(study), present, given_up)


def _own_doing(element: Element, mine: frozenset[str]) -> bool:
    """Whether a part is the builder's doing: he chose it, or typed or measured its length."""
    return element.id in mine or (element.length is not None and not element.length.guessed)


def _sized(build: Build, keep: Sequence[str], own: Sequence[ShelfPart]) -> Proposal | None:
    """A build with all but some parts sized; None where there is nothing to size."""
    try:
        return next(
            x for x in size_any(build, keep=keep, own=own, fresh=True) if isinstance(x, Proposal)
        )
    except BuildErrors:
        return None


def _stops(by_level: Proposal | None) -> int:
    """How many Stops are left of what sizes decide."""
    return sum(x.finding.level == "Stop" for x in by_level.lacks) if by_level is not None else 0


def _between(old: Build, new: Build) -> ChangedLayout:
    """What another circuit drops of a build, and what it adds."""
    before, now = ({e.id for e in b.circuit.elements} for b in (old, new))
    gone = tuple(f"{e.id} {e.title or e.kind}" for e in old.circuit.elements if e.id not in now)
    return ChangedLayout(
        new,
        gone,
        tuple(f"{e.id} {e.title or e.kind}" for e in new.circuit.elements if e.id not in before),
    )


def choose(build: Build, own: Sequence[ShelfPart] = ()) -> Choice:
    """The choice for a build with a brief."""
    return choice_of(list(candidates(build, own)))


def choice_of(compared: Sequence[Candidate]) -> Choice:
    """Which of some candidates is best: the fewest Stops, then Checks, loud pumps on the street as
    one, then the least price. What has fewer rails than the engine now comes last, and after
    it what one would not think of unasked.
    """
    brief = compared[0].study.brief
    now = next((c.rails for c in compared if c.present), "single")

    def order(c: Candidate) -> tuple[bool, bool, int, int, float]:
        strange, fewer = (
            not (c.present or c.layout.sensible(brief)),
            c.rails == "single" and now != "single",
        )
        return (
            strange,
            fewer,
            c.count("Stop"),
            c.count("Check") + (brief.use == "street" and c.noise == "loud"),
            c.totals.price,
        )

    ranked = sorted(compared, key=order)
    return Choice(
        tuple(compared),
        ranked[0],
        tuple(_reasons(ranked)),
        tuple(_wins(ranked[0], c) for c in compared),
    )


def _like(now: Rails, layout: Layout) -> Rails:
    """The arrangement of a layout that comes nearest to the present one: two rails stay two where
    it has any.
    """
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
    if present:
        return ChangedLayout(build, (), ()), True
    changed = change_layout(build, layout.key, rails)
    for count in range(2, MOST_PUMPS + 1) if layout.key in POTS else ():
        if reaches(changed.build, "lift pump"):
            break
        changed = change_layout(build, layout.key, rails, count)
    return changed, False


def fitted_with(build: Build, parts: Mapping[str, str], own: Sequence[ShelfPart] = ()) -> Build:
    """A build with parts of the shelf fitted, by tag; Ys and inlets as they are named. Raises
    BuildErrors.
    """
    for element_id, name in parts.items():
        build = fit(build, element_id, name, own)
    return build


def _error(study: Study, solved: Solved) -> float | None:
    error = study.rail_error(solved) if solved.solution.converged else None
    return error[0] / error[1] if error is not None and error[1] else None


LOUDEST = ("loud", "fair", "quiet")


def _noise(build: Build) -> str:
    """The word of the loudest pump, as far as their sheets say."""
    words = {e.properties.noise for e in build.circuit.of_kind("pump")}
    return next((w for w in LOUDEST if w in words), "")


def _reasons(ranked: list[Candidate]) -> list[Reason]:
    """What decided between the first and the next, in one sentence."""
    first, figures = ranked[0], dict[str, FindingFigure]()
    if len(ranked) == 1:
        return [Reason("No other layout suits this engine.", figures)]
    other = ranked[1]
    brief, now = first.study.brief, {c.rails for c in ranked if c.present}
    loud = brief.use == "street" and other.noise == "loud" != first.noise
    level = next((x for x in AGAINST if first.count(x) < other.count(x)), "")
    if not (other.present or other.layout.sensible(brief)) and first.layout.sensible(brief):
        why = "is chosen only where somebody asks for it"
    elif other.rails == "single" != first.rails and "single" not in now:
        why = "has one rail, and the engine has two"
    elif level:
        why = f"has {_count(other, level)}; this one has {first.count(level) or 'none'}"
    elif loud:
        why = "has loud pumps"
    else:
        why = "is as sound"
    if not level and (more := other.totals.price - first.totals.price) >= 1:
        why += " and costs {more} more"
        figures["more"] = FindingFigure(more, "money")
    return [Reason(f"The next, “{other.name}”, {why}.", figures)]


def _count(c: Candidate, level: str) -> str:
    """How many findings of a level: no Stops, 1 Check."""
    n = c.count(level)
    return f"{n or 'no'} {level}{'' if n == 1 else 's'}"


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
            finding = next(
                (f for f in other.findings if f.level == level and f.rule not in new), None
            )
            if finding is not None:
                return Reason(f"once {finding.rule} is cleared: {finding.do}", {})
    if other.layout is not first.layout:
        return Reason(other.layout.wins, {})
    return Reason(RAILS_WIN[other.rails], {})
