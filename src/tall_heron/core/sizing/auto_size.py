"""Sizes for a layout, as a good builder comes to them: the trade's usual sizes first, mended where
a requirement fails, then each part tried one size smaller.

A look asks only what sizes decide, at the moments that count: those of the brief, and whatever
other case turns out to fail. The search is bounded by its own count of looks and by
nothing else, so the same question gets the same answer on a busy machine. What is preferred, in
this order: fewer Stops, fewer Checks, less missed, fewer adapters, fewer
changes of size along a line, then cost, mass or current.
"""

from collections.abc import Callable, Generator, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.errors import BuildError, BuildErrors
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Element
from tall_heron.core.editing.connectors import followed, matched
from tall_heron.core.joining.joints import joints_of
from tall_heron.core.rules import check
from tall_heron.core.rules.finding import AGAINST, Finding
from tall_heron.core.shelf.shelf import ShelfPart
from tall_heron.core.shelf.totals import make_totals
from tall_heron.core.sizing.groups import make_groups
from tall_heron.core.sizing.needs import Lack, in_cases, lacks, of_matrix, worst_of
from tall_heron.core.sizing.options import SizingGroup
from tall_heron.core.study.cases.moments import moments
from tall_heron.core.study.cases.tank_heat import pump_current
from tall_heron.core.study.derived import derived
from tall_heron.core.study.study import Study, make_study

By = Literal["cost", "mass", "current"]
MOST_LOOKS = 600
MOST_STEPS = 40  # of mending
ROUNDS = 3  # of looking at every case and mending for those that fail
MENDS = 0.1  # of what is lacking: a change that mends less, and clears nothing, mends nothing
PRICE_OF_A_STEP = 15.0  # $: what any change counts at least, so that one that costs next to nothing is not taken for nothing
# Steps that are tried to mend, for what one size larger is not all that may.
STEPS = dict.fromkeys(("pump", "boost pump", "lift pump"), (1, 2, 3, -1)) | {
    "jet": (1, -1, -2),
    "regulator": (1, 2, -1),
    "injectors": (1, 2),
    "carburettor": (1, 2),
}
PORTED = ("filter", "strainer", "regulator")  # what one size larger may save an adapter
SHORT = (
    "spare",
    "solve",
    "L-08",
    "L-17",
    "P-10",
)  # what a larger pump mends behind a regulator that turns back
TOO_MUCH = ("back", "H-02", "P-19", "P-04")  # what a smaller one mends


@dataclass(frozen=True)
class Sized:
    """One group's choice: its tags, what it is, the part it has now and the one proposed, what
    decided it, and what would be found against the next smaller one.
    """

    ids: tuple[str, ...]
    kind: str
    now: str
    title: str
    decided: str
    refused: Finding | None

    @property
    def changes(self) -> bool:
        """Whether it is another part than the one fitted."""
        return self.now != self.title


@dataclass(frozen=True)
class Proposal:
    """The whole choice with the build it makes and its study, what sizes decide and it lacks in any
    case, how many choices were looked at, and what tells its rows.
    """

    build: Build
    study: Study
    lacks: tuple[Lack, ...]
    looked: int
    tell: Callable[[], tuple[Sized, ...]]

    @cached_property
    def rows(self) -> tuple[Sized, ...]:
        """Each group's choice with what decided it: asked of the search once, for those who show
        it.
        """
        return self.tell()

    @property
    def findings(self) -> tuple[Finding, ...]:
        """What is still found against it, the Stops first."""
        return against(self.study)

    @property
    def holds(self) -> bool:
        """Whether all that sizes decide holds."""
        return not self.lacks

    def clears(self, before: Study) -> tuple[Finding, ...]:
        """What was found against the build as it was, and is not any more, or is a Check where it
        was a Stop.
        """
        left = {
            (f.rule, f.element_id): f.level
            for f in sorted(self.findings, key=lambda f: f.level == "Stop")
        }
        return tuple(
            f
            for f in against(before)
            if left.get((f.rule, f.element_id), "") not in (f.level, "Stop")
        )


@dataclass
class Progress:
    """How many choices have been looked at."""

    looked: int


Pick = tuple[int, ...]


@dataclass(frozen=True)
class Look:
    """A choice looked at: its study and what it lacks."""

    study: Study
    lacks: tuple[Lack, ...]

    @property
    def rank(self) -> tuple[int, int, float]:
        """Stops, Checks, and how much is missed in all."""
        return rank_of(self.lacks)

    @property
    def missed(self) -> float:
        """How much is missed in all."""
        return sum(x.weight for x in self.lacks)


def rank_of(lacking: Sequence[Lack]) -> tuple[int, int, float]:
    """Stops, Checks, and how much is missed in all."""
    levels = [x.finding.level for x in lacking]
    return (
        levels.count("Stop"),
        levels.count("Check"),
        round(sum(x.weight for x in lacking), 1),
    )  # a hair's breadth decides nothing


def size(
    build: Build,
    by: By = "cost",
    keep: Sequence[str] = (),
    own: Sequence[ShelfPart] = (),
    fresh: bool = False,
) -> Iterator[Progress | Proposal]:
    """Look for the best sizes; yields progress from time to time and the proposal last. Parts named
    in `keep` stay. What is fitted is proposed again where it lacks no more and costs no more,
    unless the build is `fresh` and nobody chose it. Raises BuildErrors where nothing is to be
    sized.
    """
    study = make_study(build)
    groups = make_groups(study, keep, own)
    if not groups:
        raise BuildErrors(
            [
                BuildError(
                    "/part",
                    "there is nothing to size: every part is kept, or the shelf has nothing that fits",
                )
            ]
        )
    yield from _Search(study, groups, by, keep).run(fresh)


def proposed(
    build: Build,
    by: By = "cost",
    keep: Sequence[str] = (),
    own: Sequence[ShelfPart] = (),
    fresh: bool = False,
) -> Proposal:
    """The proposal itself. Raises BuildErrors."""
    return next(x for x in size(build, by, keep, own, fresh) if isinstance(x, Proposal))


@derived()
def reasons(study: Study) -> Proposal:
    """The sizes as they stand, and what stands against the next smaller of each part; parts that
    are not among what the shelf has for their place are left out. Raises BuildErrors
    where none is.
    """
    groups = [g for g in make_groups(study) if _now(study.build, g) is not None]
    if not groups:
        raise BuildErrors([BuildError("/part", "no part of it is on the shelf")])
    search = _Search(study, groups, "cost")
    return search.proposal(search.present())


def _now(build: Build, group: SizingGroup) -> int | None:
    """Which option of a group is fitted; None where none is."""
    fitted = {i: build.circuit.element(i) for i in group.ids}
    return next(
        (
            k
            for k, o in enumerate(group.options)
            if all(e is not None and e.shelf == o.elements[i].shelf for i, e in fitted.items())
        ),
        None,
    )


class _Search:
    """Choices of a build, each looked at once."""

    def __init__(
        self, start: Study, groups: list[SizingGroup], by: By, keep: Sequence[str] = ()
    ) -> None:
        self.start, self.build, self.groups, self.by = start, start.build, groups, by
        self.follows = {
            i: after for i, after in followed(self.build.circuit).items() if i not in keep
        }
        self.elements = {e.id: e for e in self.build.circuit.elements}
        self.every = {
            m.case.key: m
            for m in moments(start)
            if m.case.key not in self.build.hidden_cases and not m.changes
        }  # failures are no case that sizes hold
        self.active = [
            m for key, m in self.every.items() if key in start.cases and not m.acceleration
        ]
        self.studies: dict[Pick, Study] = {}
        self.known: dict[Pick, Look] = {}
        self.hopeless: set[tuple[str, str, str]] = set()
        self.whole: dict[Pick, tuple[Lack, ...]] = {}
        self.ordered: dict[Pick, tuple[float, ...]] = {}
        self.looked = 0
        kinds = [g.kind for g in groups]
        self.feed = kinds.index("feed") if "feed" in kinds else None
        self.suction = kinds.index("suction") if "suction" in kinds else None

    # -- choices

    def present(self) -> Pick:
        """What is fitted; the usual for a group of which nothing on the shelf is."""
        return tuple(
            now if (now := _now(self.build, g)) is not None else g.usual for g in self.groups
        )

    def step(self, pick: Pick, i: int, by: int) -> Pick | None:
        """A choice with one group a step larger or smaller, its suction no narrower than its feed;
        None where there is no such step.
        """
        group, at = self.groups[i], pick[i] + by
        if not group.least <= at <= group.top:
            return None
        out = [at if j == i else k for j, k in enumerate(pick)]
        if self.feed is not None and self.suction is not None and i in (self.feed, self.suction):
            wide, narrow = (self.groups[j].options for j in (self.suction, self.feed))
            while wide[out[self.suction]].size < narrow[out[self.feed]].size:
                if i == self.suction or out[self.suction] >= self.groups[self.suction].top:
                    return None
                out[self.suction] += 1
        return tuple(out)

    def chosen(self, pick: Pick) -> dict[str, Element]:
        """The elements of a choice, with what follows its lines in their sizes."""
        chosen = {
            i: e
            for g, k in zip(self.groups, pick, strict=True)
            for i, e in g.options[k].elements.items()
        }
        circuit = self.build.circuit
        sized = {i for g in self.groups for i in g.ids}
        return chosen | {
            i: matched(circuit, self.elements[i], chosen[hose], under)
            for i, (hose, under) in self.follows.items()
            if hose in chosen and i not in sized
        }

    def build_of(self, pick: Pick) -> Build:
        """The build with a choice fitted."""
        chosen = self.chosen(pick)
        circuit = self.build.circuit.model_copy(
            update={"elements": [chosen.get(e.id, e) for e in self.build.circuit.elements]}
        )
        return self.build.model_copy(update={"circuit": circuit})

    def look(self, pick: Pick) -> Look:
        """A choice looked at."""
        if pick not in self.known:
            if pick not in self.studies:
                self.looked += 1
                new = [e for i, e in self.chosen(pick).items() if e != self.elements[i]]
                self.studies[pick] = self.start.fitted(self.build_of(pick), new)
            study = self.studies[pick]
            self.known[pick] = Look(study, tuple(lacks(study, self.active)))
        return self.known[pick]

    def order(self, pick: Pick) -> tuple[float, ...]:
        """What is preferred of choices that lack alike: joints that can be made, adapters, then
        what is asked for.
        """
        if pick not in self.ordered:
            build = self.build_of(pick)
            joints, totals = joints_of(build).joints, make_totals(build.circuit)
            adapters, none = (
                sum(len(j.pieces) for j in joints),
                sum(j.how.state == "none" for j in joints),
            )
            weight = (
                totals.mass
                if self.by == "mass"
                else pump_current(self.look(pick).study.peak)
                if self.by == "current"
                else totals.price
            )
            self.ordered[pick] = none, adapters, round(weight, 3), round(totals.price, 2)
        return self.ordered[pick]

    def poor(self, pick: Pick) -> tuple[tuple[int, int, float], bool]:
        """What a choice lacks, and whether its pumps give far more than is asked."""
        here = self.look(pick)
        return here.rank, self._too_much(here.study)

    def _too_much(self, study: Study) -> bool:
        """Whether pumps give far more than is asked; in an aircraft one of two does, or of one in a
        row with another.
        """
        headroom = (
            study.headroom(study.peak)
            if study.tells_surplus and study.peak.solution.converged
            else None
        )
        pumps = len(study.feed_path.pumps) if study.brief.use == "flight" else 1
        return headroom is not None and (1 + headroom) / pumps > 1 + house_figure("spare_plenty")

    # -- the search

    def run(self, fresh: bool = False) -> Iterator[Progress | Proposal]:
        """Usual sizes, mended for the moments of the brief and polished; then again with every case
        that still fails.
        """
        pick = tuple(g.usual for g in self.groups)
        pick = self.step(pick, self.feed, 0) or pick if self.feed is not None else pick
        for _ in range(ROUNDS):
            pick = yield from self.mended(pick)
            pick = yield from self.polished(pick)
            if not self.widened(pick):
                break
        yield self.proposal(pick if fresh else self.no_worse(pick))

    def mended(self, pick: Pick) -> Generator[Progress, None, Pick]:
        """A choice with the one part changed, in turn, that mends most for its price, while
        anything is lacking.
        """
        for _ in range(MOST_STEPS):
            here = self.look(pick)
            if not here.lacks or self.looked > MOST_LOOKS:
                break
            ways: list[tuple[float, Pick]] = []
            price = make_totals(here.study.build.circuit).price
            asked = {kind for x in here.lacks if x.key not in self.hopeless for kind in x.menders}
            least = {x.key: x.weight for x in here.lacks}
            if here.study.tells_surplus and not any(x.finding.rule in SHORT for x in here.lacks):
                asked -= (
                    {"pump"} if not any(x.finding.rule in TOO_MUCH for x in here.lacks) else set()
                )
            for i, group in enumerate(self.groups):
                if group.kind not in asked:
                    continue
                for by in STEPS.get(group.kind, (1,)):
                    other = self.step(pick, i, by)
                    if other is None:
                        continue
                    there = self.look(other)
                    left = {x.key: x.weight for x in there.lacks}
                    least = {key: min(w, left.get(key, 0.0)) for key, w in least.items()}
                    gain = here.missed - there.missed
                    if (
                        gain > MENDS * here.missed or (gain > 0 and there.rank[:2] < here.rank[:2])
                    ) and there.rank[0] <= here.rank[0]:
                        dearer = max(make_totals(there.study.build.circuit).price - price, 0.0)
                        ways.append((-gain / (dearer + PRICE_OF_A_STEP), other))
                yield Progress(self.looked)
            self.hopeless |= {
                x.key for x in here.lacks if least[x.key] > (1 - MENDS) * x.weight
            }  # what no step mends is not tried again
            if not ways:
                break
            pick = min(ways)[1]
        return pick

    def widened(self, pick: Pick) -> bool:
        """Whether cases that were not looked at fail for a choice: they are looked at from now on."""
        keys = {m.case.key for m in self.active}
        failing = {x.finding.case for x in self.in_all(pick)}
        new = [m for key, m in self.every.items() if key in failing - keys]
        self.active += new
        if new:
            self.known.clear()
            self.whole.clear()
        return bool(new)

    def in_all(self, pick: Pick) -> tuple[Lack, ...]:
        """What a choice lacks over every case."""
        if pick not in self.whole:
            here = self.look(pick)
            self.whole[pick] = (
                tuple(worst_of([*here.lacks, *of_matrix(here.study)]))
                if here.study.peak.solution.converged
                else here.lacks
            )
        return self.whole[pick]

    def polished(self, pick: Pick) -> Generator[Progress, None, Pick]:
        """A choice with each part one size smaller, or larger where that saves an adapter, as long
        as nothing more is lacking.
        """
        order = sorted(
            range(len(self.groups)), key=lambda i: -self.groups[i].options[pick[i]].price
        )
        for _ in range(2):
            before = pick
            for i in order:
                for by in (-1, 1) if self.groups[i].kind in PORTED else (-1,):
                    while (
                        other := self.step(pick, i, by)
                    ) is not None and self.looked <= MOST_LOOKS:
                        if self.order(other) >= self.order(pick) or self.poor(other) > self.poor(
                            pick
                        ):
                            break
                        pick = other
                    yield Progress(self.looked)
            if pick == before:
                break
        return pick

    def no_worse(self, pick: Pick) -> Pick:
        """A choice, or what is fitted where that lacks no more and costs no more, or costs less and
        misses by more what both miss.
        """
        now = self.present()
        if any(_now(self.build, g) is None for g in self.groups):
            return pick
        a, b = rank_of(self.in_all(now)), rank_of(self.in_all(pick))
        if a[:2] == b[:2] and self.order(now)[-1] < self.order(pick)[-1]:
            return now  # dearer, and clears nothing
        return (
            now
            if (a, self.order(now)) <= (b, self.order(pick))
            or (a == b and self.order(now)[2:] <= self.order(pick)[2:])
            else pick
        )

    # -- what is told of it

    def against(self, pick: Pick, than: Pick) -> Finding | None:
        """What a choice lacks that another does not; None where nothing."""
        known = {x.key for x in self.look(than).lacks}
        lacking_now = [x for x in self.look(pick).lacks if x.key not in known]
        return max(lacking_now, key=lambda x: x.weight).finding if lacking_now else None

    def decided(self, pick: Pick, i: int) -> tuple[str, Finding | None]:
        """Why a group came to its size, and what the next smaller would lack."""
        group, at = self.groups[i], pick[i]
        usual = group.options[group.usual]
        if (
            at > group.usual
            and (
                refused := self.against(
                    tuple(group.usual if j == i else k for j, k in enumerate(pick)), pick
                )
            )
            is not None
        ):
            return f"{usual.title} falls short", refused
        smaller = self.step(pick, i, -1)
        refused = self.against(smaller, pick) if smaller is not None else None
        if refused is not None:
            return f"{group.options[at - 1].title} falls short", refused
        return (
            group.by
            if at == group.usual
            else f"meets every target; {usual.title} is usual, {group.by}"
        ), None

    def proposal(self, pick: Pick) -> Proposal:
        """The proposal of a choice."""
        study = self.look(pick).study
        return Proposal(
            study.build, study, self.in_all(pick), self.looked, lambda: tuple(self.explained(pick))
        )

    def explained(self, pick: Pick) -> Iterator[Sized]:
        """Each group of a choice, with what decided it."""
        for i, group in enumerate(self.groups):
            now = self.build.circuit.element(group.ids[0])
            option = group.options[pick[i]]
            yield Sized(
                group.ids,
                group.kind,
                now.title if now is not None else "",
                option.elements[group.ids[0]].title,
                *self.decided(pick, i),
            )


@derived()
def against(study: Study) -> tuple[Finding, ...]:
    """Stops and Checks of a study, those of the cases that sizes decide with them, the Stops first."""
    lacking_now = [
        f for f in check(study)[0] if f.level in AGAINST and f.station != "brief"
    ] + in_cases(study)
    return tuple(sorted(lacking_now, key=lambda f: f.level != "Stop"))
