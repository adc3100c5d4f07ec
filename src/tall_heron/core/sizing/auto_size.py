"""Sizes for a layout: from the shelf, the choice of pumps, filters, hoses, checks, regulator and injectors that meets every requirement at the least cost,
mass or current.

For each pump, options that fail even beside the most generous of all others are left out; what remains is gone through from the cheapest total upwards, so
the first that holds is the best. Pumps that cannot beat it any more are not looked at.
"""

import heapq
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Literal

from tall_heron.core.base.errors import BuildError, BuildErrors
from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Element, Pipe
from tall_heron.core.editing.fields import fit
from tall_heron.core.physics.fuel import Fuel
from tall_heron.core.rules import RULES, check
from tall_heron.core.rules.finding import Figure, Finding
from tall_heron.core.shelf.shelf import ShelfPart, swaps_for
from tall_heron.core.shelf.suits import made_for
from tall_heron.core.shelf.totals import mass_of, price_of
from tall_heron.core.sizing.limits import make_limits
from tall_heron.core.study.study import Study, make_study

By = Literal["cost", "mass", "current"]
SIZED = {
    "P-01",
    "P-02",
    "P-03",
    "P-04",
    "P-06",
    "P-07",
    "P-08",
    "P-09",
    "P-10",
    "P-11",
    "P-15",
    "S-01",
    "S-03",
    "S-06",
    "F-07",
    "H-02",
    "L-10",
}
COUPLED = {"S-03"}  # one part's size against another's: judged for the whole choice only
LOOKS = [r for r in RULES if r.id in SIZED]
LEVELS = ("Stop", "Check")
MOST_LOOKS = 4000
REPORT_EVERY = 20


@dataclass(frozen=True)
class Group:
    """Parts that are sized together, and what may be fitted in their place, the cheapest first, with its weight."""

    ids: tuple[str, ...]
    kind: str
    options: tuple[tuple[float, ShelfPart], ...]


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


def size(build: Build, by: By = "cost", keep: Sequence[str] = (), own: Sequence[ShelfPart] = ()) -> Iterator[Progress | Proposal]:
    """Look for the best sizes; yields progress from time to time and the proposal last. Parts named in `keep` stay. Raises BuildErrors where nothing is to be
    sized."""
    groups = make_groups(build, by, keep, own)
    if not groups:
        raise BuildErrors([BuildError("/part", "there is nothing to size: every part is kept, or the shelf has nothing that fits")])
    search = _Search(build, groups, own)
    pumps = next((i for i, g in enumerate(groups) if g.kind == "pump"), None)
    best: tuple[float, list[int]] | None = None
    starts = range(len(groups[pumps].options)) if pumps is not None else (None,)
    generous = [_generous(g) for g in groups]
    at_best = []
    for p in starts:
        pick = [p if i == pumps and p is not None else k for i, k in enumerate(generous)]
        at_best.append((search.found(pick), p))
        if search.looked % REPORT_EVERY == 0:
            yield Progress(search.looked)
    # What even the most generous choice cannot clear, sizes do not decide: it is borne with, and nothing more.
    aim = min((search.alone(found) for found, _ in at_best), key=lambda f: (sum(x[1] == "Stop" for x in f), len(f)))
    for found, p in at_best:
        floor = sum(g.options[0][0] for i, g in enumerate(groups) if i != pumps)
        if not search.alone(found) <= aim or (
            best is not None and p is not None and pumps is not None and groups[pumps].options[p][0] + floor >= best[0]
        ):
            continue
        allowed: list[list[int]] = []
        for i, group in enumerate(groups):
            if i == pumps and p is not None:
                allowed.append([p])
                continue
            keepable = []
            for k in range(len(group.options)):
                pick = [p if j == pumps and p is not None else k if j == i else g for j, g in enumerate(generous)]
                if search.alone(search.found(pick)) <= aim:
                    keepable.append(k)
                if search.looked % REPORT_EVERY == 0:
                    yield Progress(search.looked)
            allowed.append(keepable or [generous[i]])
        for total, pick in _cheapest_first(groups, allowed):
            if best is not None and total >= best[0]:
                break
            if search.found(pick) <= aim:
                best = (total, pick)
                break
            if search.looked % REPORT_EVERY == 0:
                yield Progress(search.looked)
            if search.looked > MOST_LOOKS:
                break
    chosen = best[1] if best is not None else generous
    yield search.proposal(chosen, aim, complete=best is not None and search.looked <= MOST_LOOKS)


def proposed(build: Build, by: By = "cost", keep: Sequence[str] = (), own: Sequence[ShelfPart] = ()) -> Proposal:
    """The proposal itself. Raises BuildErrors."""
    return next(x for x in size(build, by, keep, own) if isinstance(x, Proposal))


def make_groups(build: Build, by: By, keep: Sequence[str], own: Sequence[ShelfPart]) -> list[Group]:
    """What is to be sized: parts side by side together, each with what suits its place and the fuel."""
    study = make_study(build, ("peak",))
    fuel = study.burn.fuel
    out: list[Group] = []
    done: set[str] = set(keep)
    lines = [c.elements for c in study.path.columns] + [(e,) for b in study.path.branches for e in b.elements]
    for elements in lines:
        for group in _alike(elements):
            ids = tuple(e.id for e in group)
            if any(i in done for i in ids) or group[0].kind not in KINDS_SIZED:
                continue
            done |= set(ids)
            out += _group(group, build, by, fuel, own)
    burners = [e for e in build.circuit.of_kind("injectors") if e.id not in done]
    if burners:
        out += _group(burners, build, by, fuel, own)
    return out


KINDS_SIZED = ("pump", "filter", "strainer", "check", "hose", "line", "regulator")


def _alike(elements: Sequence[Element]) -> list[list[Element]]:
    """Elements of one column, those with the same part together."""
    found: dict[str | None, list[Element]] = {}
    for e in elements:
        found.setdefault(e.shelf, []).append(e)
    return list(found.values())


def _group(elements: list[Element], build: Build, by: By, fuel: Fuel, own: Sequence[ShelfPart]) -> list[Group]:
    first = elements[0]
    options = []
    for part in swaps_for(first, own):
        if not made_for(part.properties, fuel) or not _same_use(part, first, fuel):
            continue
        changed = fit(build, first.id, part.name, own).circuit.element(first.id)
        assert changed is not None
        price, mass = price_of(changed), mass_of(changed)
        if price is None or (by == "mass" and mass is None):
            continue
        weight = mass if by == "mass" else price
        if by == "current" and first.kind == "pump":
            weight = 1000 * (part.figures.curves[-1].rows[-1][2] if len(part.figures.curves[-1].rows[-1]) > 2 else 99.0) + price  # type: ignore[union-attr]
        options.append(((weight or 0.0) * len(elements), part))
    options.sort(key=lambda x: (x[0], x[1].name))
    return [Group(tuple(e.id for e in elements), first.kind, tuple(options))] if options else []


def _same_use(part: ShelfPart, element: Element, fuel: Fuel) -> bool:
    """As fine a filter, a pump of the same mount, a line of the same family where that bears the fuel: sizing changes how large a part is, not what it is."""
    if element.kind in ("hose", "line"):
        own, other = element.properties, part.properties
        return other.family == own.family or (not made_for(own, fuel) and part.kind == element.kind and other.immersion == own.immersion)
    if element.kind == "pump":
        return part.properties.mount == element.properties.mount
    if element.kind in ("filter", "strainer"):
        if (
            part.kind != element.kind
            or part.properties.mount != element.properties.mount
            or part.properties.micron is None
            or element.properties.micron is None
        ):
            return False
        return (
            part.properties.micron <= element.properties.micron
            if element.kind == "filter"
            else element.properties.micron * 0.7 <= part.properties.micron <= 150
        )
    return True


def _generous(group: Group) -> int:
    """The option that takes least: the widest hose, filter and check, the largest seat and injectors; of pumps the last."""

    def width(k: int) -> float:
        part = group.options[k][1].figures
        if isinstance(part, Pipe):
            return part.bore_mm
        if group.kind in ("filter", "strainer"):
            return -(part.a_kpa_per_lph * 300 + part.b_kpa_per_lph2 * 300**2)  # type: ignore[union-attr]
        if group.kind == "regulator":
            return part.wide_open_bore_mm - 100 * part.slope_kpa_per_lph  # type: ignore[union-attr]
        if group.kind == "injectors":
            return part.rated_lph or 0.0  # type: ignore[union-attr]
        if group.kind == "check":
            return part.bore_mm  # type: ignore[union-attr]
        return float(k)

    return max(range(len(group.options)), key=width)


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


class _Search:
    """Builds with choices fitted, judged by the rules that sizes decide; each choice once."""

    def __init__(self, build: Build, groups: list[Group], own: Sequence[ShelfPart]) -> None:
        self.build, self.groups = build, groups
        self.known: dict[tuple[int, ...], Found] = {}
        self.start = make_study(build)
        self.elements = {e.id: e for e in build.circuit.elements}
        self.looked = 0
        self.fitted: dict[tuple[str, int], Element] = {}
        for group in groups:
            for k, (_, part) in enumerate(group.options):
                for element_id in group.ids:
                    element = fit(build, element_id, part.name, own).circuit.element(element_id)
                    assert element is not None
                    self.fitted[element_id, k] = element

    def made(self, pick: list[int]) -> Build:
        """The build with the choices fitted."""
        chosen = self.chosen(pick)
        circuit = self.build.circuit.model_copy(update={"elements": [chosen.get(e.id, e) for e in self.build.circuit.elements]})
        return self.build.model_copy(update={"circuit": circuit})

    def chosen(self, pick: list[int]) -> dict[str, Element]:
        """The elements of a choice."""
        return {i: self.fitted[i, k] for group, k in zip(self.groups, pick, strict=True) for i in group.ids}

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

    def proposal(self, pick: list[int], aim: Found, complete: bool) -> Proposal:
        """The proposal of a choice, with what stood against the next smaller of each part."""
        rows = []
        for i, (group, k) in enumerate(zip(self.groups, pick, strict=True)):
            now = self.build.circuit.element(group.ids[0])
            decided, refused = "the least of all that suit", None
            for smaller in range(k - 1, -1, -1):
                other = [smaller if j == i else x for j, x in enumerate(pick)]
                if not self.found(other) <= aim:
                    against = next(f for f in self.judged(other) if (f.rule, f.level) not in aim)
                    decided, refused = f"{group.options[smaller][1].title} would not do", against
                    break
            rows.append(Sized(group.ids, now.title if now else "", group.options[k][1], decided, refused))
        study = self.study(pick)
        left = judge(study)
        known = {(f.rule, f.element_id) for f in left}
        left += [f for f in check(study)[0] if f.level in LEVELS and (f.rule, f.element_id) not in known]
        return Proposal(tuple(rows), study.build, tuple(left), self.looked, complete)


def judge(study: Study) -> list[Finding]:
    """The Stops and Checks of the rules that sizes decide, and every part that the ladder has under the power asked."""
    found = [f for rule in LOOKS if rule.applies(study) for f in _named(rule.id, rule.look(study)) if f.level in LEVELS]
    asked = study.brief.power_kw * 1000
    for limit in make_limits(study) if all(f.level != "Stop" for f in found) else ():
        if limit.ceiling is not None and limit.ceiling < asked and limit.title not in ("pumps", "injectors", "needles"):
            figures = {"feeds": Figure(limit.ceiling, "power")}
            title = f"{' '.join(limit.parts)} alone feed no more than {{feeds}}"
            found.append(Finding("Check", limit.parts[0], title, "", "", figures, rule=f"ladder, {limit.title}"))
    return found


def _named(rule_id: str, found: Iterator[Finding]) -> Iterator[Finding]:
    for f in found:
        yield replace(f, rule=rule_id)
