"""Sizes for a layout: from the shelf, the choice of pumps, filters, hoses, checks, regulator and injectors that meets every requirement at the least cost,
mass or current.

For each pump, options that fail even beside the most generous of all others are left out; what remains is gone through from the cheapest total upwards, so
the first that holds is the best. Pumps that cannot beat it any more are not looked at. What is best then is looked at in every case that the builder has not hidden, each of which is
solved; where it fails one that the most generous choice bears, the part that mends most for its price is made larger, in turn.
"""

import heapq
from collections.abc import Callable, Generator, Iterator, Sequence
from dataclasses import dataclass, replace

from tall_heron.core.base.errors import BuildError, BuildErrors
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Element
from tall_heron.core.editing.connectors import followed, matched
from tall_heron.core.editing.fields import fit
from tall_heron.core.rules import RULES, check
from tall_heron.core.rules.finding import AGAINST, Figure, Finding
from tall_heron.core.shelf.shelf import ShelfPart
from tall_heron.core.sizing.ceiling import CLOSE
from tall_heron.core.sizing.groups import By, Group, make_groups, most_generous
from tall_heron.core.sizing.in_cases import case_key, in_cases, missed_by
from tall_heron.core.sizing.limits import whole_limit
from tall_heron.core.study.study import Study, make_study

SIZED = {
    "P-01",
    "P-02",
    "P-03",
    "P-04",
    "P-05",
    "P-06",
    "P-07",
    "P-08",
    "P-09",
    "P-10",
    "P-11",
    "P-15",
    "P-19",
    "S-01",
    "S-03",
    "S-06",
    "F-07",
    "H-02",
    "L-08",
    "L-10",
    "L-17",
}
COUPLED = {"S-03"}  # one part's size against another's: judged for the whole choice only
LEAST_MEND = 0.02  # of what is lacking: a larger part that mends less mends nothing
MOST_MENDS = 6  # parts that are made larger in turn for the cases' sake
LOOKS = [r for r in RULES if r.id in SIZED]
MOST_LOOKS = 4000
Late = Callable[[], bool]  # whether a search should stop, with the best it has found: the clock is the caller's


def never() -> bool:
    """A search that may take its time."""
    return False


REPORT_EVERY = 20


@dataclass(frozen=True)
class Sized:
    """One group's choice: the part it has now, the part proposed, and what decided it: the next smaller one, and what would be
    found against it."""

    ids: tuple[str, ...]
    now: str
    part: ShelfPart
    decided: str
    refused: Finding | None

    @property
    def changes(self) -> bool:
        """Whether it is another part than the one fitted."""
        return self.now != self.part.title


@dataclass(frozen=True)
class Proposal:
    """The whole choice with the build it makes, what is still found against it, how many choices were looked at, and whether all of the search was done."""

    rows: tuple[Sized, ...]
    build: Build
    findings: tuple[Finding, ...]
    looked: int
    complete: bool


@dataclass
class Progress:
    """How many choices have been looked at."""

    looked: int


def size(build: Build, by: By = "cost", keep: Sequence[str] = (), own: Sequence[ShelfPart] = (), late: Late = never) -> Iterator[Progress | Proposal]:
    """Look for the best sizes; yields progress from time to time and the proposal last: the best found before it is `late`, `complete` where nothing was left to look
    at. Parts named in `keep` stay. Raises BuildErrors where nothing is to be sized."""
    study = make_study(build)
    groups = make_groups(study, by, keep, own)
    if not groups:
        raise BuildErrors([BuildError("/part", "there is nothing to size: every part is kept, or the shelf has nothing that fits")])
    yield from _Search(study, groups, own, late).run()


def proposed(build: Build, by: By = "cost", keep: Sequence[str] = (), own: Sequence[ShelfPart] = (), late: Late = never) -> Proposal:
    """The proposal itself. Raises BuildErrors."""
    return next(x for x in size(build, by, keep, own, late) if isinstance(x, Proposal))


def reasons(study: Study) -> Proposal:
    """The sizes as they stand, and what stands against the next smaller of each part; parts the shelf does not have are left out. Raises BuildErrors where none is on it."""
    fitted = {e.id: e.shelf for e in study.build.circuit.elements}
    groups = [g for g in make_groups(study, "cost", (), ()) if fitted[g.ids[0]] in {part.name for _, part in g.options}]
    if not groups:
        raise BuildErrors([BuildError("/part", "no part of it is on the shelf")])
    search = _Search(study, groups, (), never)
    pick = search.present()
    assert pick is not None  # groups without what is fitted were left out
    search.borne = search.cases_of(pick)
    return search.proposal(pick, search.found(pick), complete=True)


def _cheapest_first(groups: list[Group], allowed: list[list[int]]) -> Iterator[tuple[float, list[int]]]:
    """Every choice of allowed options, from the least total upwards."""

    def total(at: tuple[int, ...]) -> float:
        return sum(g.options[a[i]][0] for g, a, i in zip(groups, allowed, at, strict=True))

    start = tuple(0 for _ in groups)
    heap, seen = [(total(start), start)], {start}
    while heap:
        value, at = heapq.heappop(heap)
        yield value, [a[i] for a, i in zip(allowed, at, strict=True)]
        for j in range(len(groups)):
            if at[j] + 1 < len(allowed[j]):
                following = (*at[:j], at[j] + 1, *at[j + 1 :])
                if following not in seen:
                    seen.add(following)
                    heapq.heappush(heap, (total(following), following))


Found = frozenset[tuple[str, str]]  # rules with the levels they were found at
Best = tuple[float, list[int]] | None  # what a choice costs, and the choice


class _Search:
    """Builds with choices fitted, judged by the rules that sizes decide; each choice once."""

    def __init__(self, start: Study, groups: list[Group], own: Sequence[ShelfPart], late: Late) -> None:
        self.start, self.build, self.groups, self.late = start, start.build, groups, late
        self.pumps = next((i for i, g in enumerate(groups) if g.kind == "pump"), None)
        self.generous = [most_generous(g) for g in groups]
        self.known: dict[tuple[int, ...], Found] = {}
        self.borne: Found = frozenset()
        self.elements = {e.id: e for e in self.build.circuit.elements}
        self.in_cases: dict[tuple[int, ...], list[Finding]] = {}
        self.looked = 0
        self.follows = followed(self.build.circuit)
        self.fitted: dict[tuple[str, int], Element] = {}
        for group in groups:
            for k, (_, part) in enumerate(group.options):
                for element_id in group.ids:
                    element = fit(self.build, element_id, part.name, own).circuit.element(element_id)
                    assert element is not None
                    self.fitted[element_id, k] = element
        # Of jets and of pumps that help others none is the most generous: a large jet starves on little return, a large boost pump forces a carburettor's needle.
        for i in [i for i, g in enumerate(groups) if g.kind in ("jet", "pump") and i != self.pumps]:
            self.generous[i] = min(range(len(groups[i].options)), key=lambda k, i=i: self._against(self.found(self._with_pump(self._last_pump, i, k))))  # type: ignore[misc]

    @property
    def _last_pump(self) -> int | None:
        return len(self.groups[self.pumps].options) - 1 if self.pumps is not None else None

    @staticmethod
    def _against(found: Found) -> tuple[int, int]:
        """How much is found against a choice: Stops, then all."""
        return sum(x[1] == "Stop" for x in found), len(found)

    def run(self) -> Iterator[Progress | Proposal]:
        """The search: reports as it goes, and the proposal last."""
        starts = []
        for p in range(len(self.groups[self.pumps].options)) if self.pumps is not None else (None,):
            starts.append((self.found(self._with_pump(p)), p))
            yield from self._report()
        # What even the most generous choice cannot clear, sizes do not decide: it is borne with, and nothing more.
        aim = min((self.alone(found) for found, _ in starts), key=self._against)
        best: Best = None
        for found, p in starts:
            if self.alone(found) <= aim and not self._dearer(p, best) and not (self.over and best is not None):
                allowed = yield from self._allowed(p, aim)
                best = (yield from self._cheapest(allowed, aim, best)) or best
        chosen = best[1] if best is not None else self.generous
        chosen, self.borne = yield from self._mended(chosen, aim)
        yield self.proposal(chosen, aim, complete=best is not None and not self.over)

    def _mended(self, pick: list[int], aim: Found) -> Generator[Progress, None, tuple[list[int], Found]]:
        """A choice made to hold in the cases: while it fails one that the most generous does not, the part whose next size mends most for its price is made larger. Also what is borne with."""
        if self.over or any(level == "Stop" for _, level in aim):  # what fails at peak already is not mended by looking further
            return pick, self.cases_of(pick)
        borne, start = self.cases_of(self._with_pump(self._last_pump)), pick
        for _ in range(MOST_MENDS):
            lacks = self._shortfall(pick, borne)
            if not lacks or self.over:
                break
            ways = []
            for i, group in enumerate(self.groups):
                if pick[i] + 1 < len(group.options):
                    larger = [pick[j] + (j == i) for j in range(len(pick))]
                    price = group.options[pick[i] + 1][0] - group.options[pick[i]][0]
                    if (mends := lacks - self._shortfall(larger, borne)) > LEAST_MEND * lacks:
                        ways.append((max(price, 0.0) / mends, larger))
                    yield from self._report()
            better = next((larger for _, larger in sorted(ways) if self.found(larger) <= aim), None)
            if better is None:
                break
            pick = better
        if mended := pick != start:
            pick = yield from self._trimmed(pick, aim, borne)
        now = self.present()
        if mended and now is not None and self._total(now) < self._total(pick) and self.found(now) <= aim and self._shortfall(now, borne) <= self._shortfall(pick, borne):
            pick = now
        return pick, borne | self.cases_of(pick)

    def _trimmed(self, pick: list[int], aim: Found, borne: Found) -> Generator[Progress, None, list[int]]:
        """A choice with each part made as small again as the others, larger now, let it be."""
        lacks = self._shortfall(pick, borne)
        for i in range(len(self.groups)):
            while pick[i] > 0 and not self.over:
                smaller = [pick[j] - (j == i) for j in range(len(pick))]
                if self._shortfall(smaller, borne) > lacks or not self.found(smaller) <= aim:
                    break
                pick = smaller
            yield from self._report()
        return pick

    def present(self) -> list[int] | None:
        """The choice that is fitted, where the shelf has all of it."""
        fitted = {e.id: e.shelf for e in self.build.circuit.elements}
        at = [next((k for k, (_, part) in enumerate(g.options) if part.name == fitted[g.ids[0]]), None) for g in self.groups]
        return [k for k in at if k is not None] if None not in at else None

    def _total(self, pick: list[int]) -> float:
        return sum(g.options[k][0] for g, k in zip(self.groups, pick, strict=True))

    def cases_of(self, pick: list[int]) -> Found:
        """What the rules of the cases find against a choice: rule, part and case, with the level."""
        return frozenset(case_key(f) for f in self._in_cases(pick))

    def _in_cases(self, pick: list[int]) -> list[Finding]:
        key = tuple(pick)
        if key not in self.in_cases:
            self.looked += 1
            self.in_cases[key] = in_cases(self.study(pick))
        return self.in_cases[key]

    def _shortfall(self, pick: list[int], borne: Found) -> float:
        """How far a choice is from holding in the cases, what is borne with apart: the shares by which figures miss their limits, added up."""
        return sum(missed_by(f) for f in self._in_cases(pick) if case_key(f) not in borne)

    @property
    def over(self) -> bool:
        """Whether it has looked long enough."""
        return self.looked > MOST_LOOKS or self.late()

    def _report(self) -> Iterator[Progress]:
        if self.looked % REPORT_EVERY == 0:
            yield Progress(self.looked)

    def _with_pump(self, p: int | None, at: int | None = None, k: int = 0) -> list[int]:
        """The most generous of everything, with one pump, and one option of a group `at`."""
        return [p if i == self.pumps and p is not None else k if i == at else g for i, g in enumerate(self.generous)]

    def _dearer(self, p: int | None, best: Best) -> bool:
        """Whether a pump with the cheapest of all else is no better than what is found already."""
        if best is None or p is None or self.pumps is None:
            return False
        floor = sum(g.options[0][0] for i, g in enumerate(self.groups) if i != self.pumps)
        return self.groups[self.pumps].options[p][0] + floor >= best[0]

    def _allowed(self, p: int | None, aim: Found) -> Generator[Progress, None, list[list[int]]]:
        """Of each group what holds beside the most generous of all others."""
        out = []
        for i, group in enumerate(self.groups):
            if i == self.pumps and p is not None:
                out.append([p])
                continue
            keepable = []
            for k in range(len(group.options)):
                if self.alone(self.found(self._with_pump(p, i, k))) <= aim:
                    keepable.append(k)
                yield from self._report()
            out.append(keepable or [self.generous[i]])
        return out

    def _cheapest(self, allowed: list[list[int]], aim: Found, best: Best) -> Generator[Progress, None, Best]:
        """The first choice from the cheapest upwards that holds; None where none does, or none is cheaper than the best so far."""
        for total, pick in _cheapest_first(self.groups, allowed):
            if (best is not None and total >= best[0]) or self.over:
                return None
            if self.found(pick) <= aim:
                return total, pick
            yield from self._report()
        return None

    def made(self, pick: list[int]) -> Build:
        """The build with the choices fitted."""
        chosen = self.chosen(pick)
        circuit = self.build.circuit.model_copy(update={"elements": [chosen.get(e.id, e) for e in self.build.circuit.elements]})
        return self.build.model_copy(update={"circuit": circuit})

    def chosen(self, pick: list[int]) -> dict[str, Element]:
        """The elements of a choice, with Ys and inlets in the size of their hoses."""
        chosen = {i: self.fitted[i, k] for group, k in zip(self.groups, pick, strict=True) for i in group.ids}
        return chosen | {i: matched(self.elements[i], chosen[hose]) for i, hose in self.follows.items() if hose in chosen}

    def study(self, pick: list[int]) -> Study:
        """The study of a choice."""
        new = [e for i, e in self.chosen(pick).items() if e != self.elements[i]]
        return self.start.fitted(self.made(pick), new)

    def judged(self, pick: list[int]) -> list[Finding]:
        """What the rules of sizing find against a choice."""
        return judge(self.study(pick))

    def found(self, pick: list[int]) -> Found:
        """The rules that find something against a choice, with their levels."""
        key = tuple(pick)
        if key not in self.known:
            self.looked += 1
            self.known[key] = frozenset((f.rule, f.level) for f in self.judged(pick))
        return self.known[key]

    @staticmethod
    def alone(found: Found) -> Found:
        """Those that judge a part by itself."""
        return frozenset(x for x in found if x[0] not in COUPLED)

    def _against_it(self, pick: list[int], aim: Found, in_every_case: bool) -> Finding | None:
        """What stands against a choice beyond what is borne with; None where nothing does. The cases are solved for the next smaller size alone."""
        if not self.found(pick) <= aim:
            return next(f for f in self.judged(pick) if (f.rule, f.level) not in aim)
        if not in_every_case or self.cases_of(pick) <= self.borne:
            return None
        return next(f for f in self._in_cases(pick) if case_key(f) not in self.borne)

    def proposal(self, pick: list[int], aim: Found, complete: bool) -> Proposal:
        """The proposal of a choice, with what stood against the next smaller of each part."""
        rows = []
        for i, (group, k) in enumerate(zip(self.groups, pick, strict=True)):
            now = self.build.circuit.element(group.ids[0])
            decided, refused = "the least of all that suit", None
            for smaller in range(k - 1, -1, -1):
                other = [smaller if j == i else x for j, x in enumerate(pick)]
                against = self._against_it(other, aim, in_every_case=smaller == k - 1)
                if against is not None:
                    decided, refused = f"{group.options[smaller][1].title} would not do", against
                    break
            rows.append(Sized(group.ids, now.title if now else "", group.options[k][1], decided, refused))
        study = self.study(pick)
        left = judge(study) + in_cases(study)
        known = {(f.rule, f.element_id) for f in left}
        left += [f for f in check(study)[0] if f.level in AGAINST and (f.rule, f.element_id) not in known]
        return Proposal(tuple(rows), study.build, tuple(left), self.looked, complete)


def judge(study: Study) -> list[Finding]:
    """The Stops and Checks of the rules that sizes decide, and the whole circuit's ceiling where it is under the power asked."""
    found = [f for rule in LOOKS if rule.applies(study) for f in _named(rule.id, rule.look(study)) if f.level in AGAINST]
    whole = whole_limit(study) if all(f.level != "Stop" for f in found) else None
    if whole is not None and whole.ceiling is not None and whole.ceiling < study.brief.power * (1 - 2 * CLOSE):
        figures = {"feeds": Figure(whole.ceiling, "power")}
        found.append(Finding("Check", whole.parts[0] if whole.parts else "", "The whole circuit feeds no more than {feeds}", whole.why.steps[0], "", figures, rule="ladder"))
    return found


def _named(rule_id: str, found: Iterator[Finding]) -> Iterator[Finding]:
    for f in found:
        yield replace(f, rule=rule_id)
