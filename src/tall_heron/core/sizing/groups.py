"""What is sized together, what the shelf has for it, and which of that is usual: the trade's table
for lines, the first that does for parts.
"""

import math
from collections.abc import Iterator, Sequence
from dataclasses import replace

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.base.constants import KPA, LPH
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import Displacement, Injectors, PumpMap, Quadratic, Regulator
from tall_heron.core.document.kinds import BURNERS, FILTERS
from tall_heron.core.document.mounts import hung_pumps
from tall_heron.core.document.path import downstream, upstream
from tall_heron.core.editing.connectors import SIZES
from tall_heron.core.editing.fields import in_place
from tall_heron.core.hydraulics.compile import injectors_full_flow
from tall_heron.core.shelf.shelf import ShelfPart, swaps_for
from tall_heron.core.shelf.suits import runs_on
from tall_heron.core.sizing.lines import SizedLine, line_options, lines_of
from tall_heron.core.sizing.on_hand import LOW_CLASS_KPA, dashes_wanted, part_on_hand
from tall_heron.core.sizing.options import (
    NOISES,
    Option,
    SizingGroup,
    flow_at,
    loss_at,
    parts_for,
    undominated,
)
from tall_heron.core.study.cases.cases import fuels_met
from tall_heron.core.study.cases.injector_duty import dead_share
from tall_heron.core.study.delivery import pump_doubt, turns_back
from tall_heron.core.study.demand import allowance, margin
from tall_heron.core.study.lift import lifts, lost
from tall_heron.core.study.study import Study

LINE_LOSSES, BOWL_BEARS = (
    0.06,
    0.04,
)  # of the pressure asked, what lines and filter usually take between pump and rail, and what a bowl may lack: only where to start
LIFTS_AGAINST = 15.0  # kPa, what a lift pump works against
DUTY_SHARE = 0.98  # of the duty limit, which stands for the rail's sag: only where to start
CLEAN_SHARE = 0.7  # of its allowance, what a filter is chosen to take
SLOPE_SHARE = 0.6  # of what is a Check, what a regulator's slope is chosen to take
MOSTLY = 0.5  # alcohol in a fuel, from which a carburetor is one for alcohol
BACK_SHARE = 0.85  # of what may stand behind a regulator, what a return is chosen to take by itself
JET_SHARE = 0.8  # of what may stand behind a regulator, what a jet is chosen to ask for at idle
SOCK_TAKES = 2.0  # kPa, what a clean strainer is chosen to take


def make_groups(
    study: Study, keep: Sequence[str] = (), own: Sequence[ShelfPart] = ()
) -> list[SizingGroup]:
    """What is to be sized of a solved build, those that decide most first; what is kept is left
    out.
    """
    return [_as_fitted(study, g) for g in _Groups(study, keep, own).every_group() if g.options]


def _as_fitted(study: Study, group: SizingGroup) -> SizingGroup:
    """A group with the one size that the builder has or asks for, where he has or asks for one."""
    first = group.options[0].elements[group.ids[0]]
    dash = dashes_wanted(study.build.wishes).get(group.kind)
    if (
        dash is not None
        and (at := next((i for i, o in enumerate(group.options) if o.name == dash), None))
        is not None
    ):
        return replace(group, usual=at, least=at, most=at, by="on hand")
    part = part_on_hand(study.build, first) if group.kind in ("pump", "injectors") else None
    if part is None:
        return group
    elements = {
        i: in_place(e, part, study.brief.base_kpa)
        for i in group.ids
        if (e := study.build.circuit.element(i)) is not None
    }
    return replace(
        group, options=(Option(part.name, part.title, 1.0, elements, 0.0),), usual=0, by="on hand"
    )


def pump_groups(study: Study, own: Sequence[ShelfPart] = ()) -> list[SizingGroup]:
    """The groups of pumps alone."""
    return list(_Groups(study, (), own).pumps())


def pumps_ranked(
    study: Study, element: Element, own: Sequence[ShelfPart] = ()
) -> dict[str, tuple[bool, bool]]:
    """Of every pump of the shelf whose mount and pressure class suit a pump's place: whether it
    falls short of what is asked there, and whether it gives far too much, by its own map.
    """
    groups = _Groups(study, (), own)
    for pumps, kind, needed, kpa in groups.places():
        if any(p.id == element.id for p in pumps):
            gives = groups.gives(pumps, kind, kpa, needed)
            most = (1 + house_figure("spare_plenty")) * needed / (1 + margin(study.brief)[0])
            return {o.name: (not does, alone * o.size > most) for o, does, alone in gives}
    return {}


class _Groups:
    def __init__(self, study: Study, keep: Sequence[str], own: Sequence[ShelfPart]) -> None:
        self.study, self.circuit, self.brief, self.keep, self.own = (
            study,
            study.build.circuit,
            study.brief,
            set(keep),
            own,
        )
        self.fuels = fuels_met(study.brief)
        self.loaded = [s for s in study.solved.values() if s.case.kind != "idle"]
        self.hungriest = max(
            (s for s in self.loaded if s.case.kind == "peak"), key=lambda s: s.case.demand
        )
        self.fuel_demand = self.hungriest.case.demand / LPH
        self.target = max(study.asked(s) for s in self.loaded) / KPA
        self.lifts = lifts(study)
        self.idle_flow = 0.0  # L/h, what the usual pumps give at idle
        self.peak_flow = self.fuel_demand  # L/h, what passes the feed at peak: all that they give where it turns back behind the rail

    def every_group(self) -> Iterator[SizingGroup]:
        """Every group."""
        yield from self.pumps()
        yield from self._burners()
        yield from self._regulators()
        yield from self._lines()
        yield from self._filters()
        yield from self._jets()

    def _free(self, elements: Sequence[Element]) -> list[Element]:
        """Those that are not kept, of one part: what is unlike is sized by itself."""
        return [e for e in elements if e.id not in self.keep]

    def _options(
        self, elements: list[Element], parts: Sequence[ShelfPart], size: str
    ) -> list[Option]:
        def key(part: ShelfPart) -> float:
            figures = part.figures
            return float(getattr(figures, size, None) or 0.0)

        return parts_for(elements, parts, self.fuels, self.brief.base_kpa, key)

    # -- pumps

    def pumps(self) -> Iterator[SizingGroup]:
        """Pumps that feed the engine, that help them, and that lift."""
        for place in self.places():
            yield self._pump(*place)

    def places(self) -> Iterator[tuple[list[Element], str, float, float]]:
        """Pumps that are of one part, what they are, what they must give together [L/h], or in
        flight each, and against what [kPa].
        """
        lifting = {p.id for x in self.lifts for p in x.pumps}
        main = [p for p in self.study.feed_path.pumps if p.id not in lifting]
        helping = [
            p
            for p in self.circuit.of_kind("pump")
            if p.id not in lifting and p not in self.study.feed_path.pumps
        ]
        needed = (1 + margin(self.brief)[0]) * self.fuel_demand
        against = self.target * (1 - BOWL_BEARS if self.brief.carbureted else 1 + LINE_LOSSES)
        for pumps, kind in ((main, "pump"), (helping, "boost pump")):
            for law in (PumpMap, Displacement):
                if alike := self._free([p for p in pumps if isinstance(p.figures, law)]):
                    yield alike, kind, needed, against
        for x in self.lifts:
            loses = (
                lost(self.study, x, self.study.peak) / LPH
                if self.study.peak.solution.converged
                else 0.0
            )
            if alike := self._free(x.pumps):
                yield (
                    alike,
                    "lift pump",
                    (1 + house_figure("lift_margin")) * max(loses, self.fuel_demand),
                    LIFTS_AGAINST,
                )

    def gives(
        self, pumps: list[Element], kind: str, kpa: float, needed: float
    ) -> list[tuple[Option, bool, int]]:
        """Every pump of the shelf that suits a place, whether it gives what is asked there, at low
        voltage too, and how many count together.
        """
        first, strong = pumps[0], self.hungriest
        weak = next(
            (
                s
                for s in self.loaded
                if s.case.kind == "low voltage" and s.case.fuel == strong.case.fuel
            ),
            strong,
        )
        suited = [p for p in swaps_for(first, self.own) if self._suits(p, first, kind, kpa)]
        options = parts_for(
            pumps,
            suited,
            self.fuels,
            self.brief.base_kpa,
            lambda p: flow_at(in_place(first, p, None), strong, kpa),
        )
        alone = 1 if self.brief.use == "flight" and kind == "pump" else len(pumps)

        def does(o: Option) -> bool:
            bare = needed / (1 + margin(self.brief)[0]) if kind != "lift pump" else needed
            doubt = pump_doubt([o.elements[first.id]])
            return alone * o.size >= needed and alone * flow_at(
                o.elements[first.id], weak, kpa
            ) >= bare * (1 + doubt)

        return [(o, does(o), alone) for o in options if o.size > 0]

    def _pump(self, pumps: list[Element], kind: str, needed: float, kpa: float) -> SizingGroup:
        first, strong = pumps[0], self.hungriest
        given = self.gives(pumps, kind, kpa, needed)
        does, alone = {o.name: d for o, d, _ in given}, given[0][2] if given else 1
        options = undominated(
            [o for o, _, _ in given],
            lambda o: (
                o.size,
                flow_at(o.elements[first.id], strong, 1.3 * kpa),
                *_manners(o.elements[first.id]),
            ),
        )
        options.sort(key=lambda o: (o.size, o.price, o.name))
        plenty = (1 + house_figure("spare_plenty")) * max(
            needed / (1 + margin(self.brief)[0]), options[0].size * alone if options else 0.0
        )
        enough = [i for i, o in enumerate(options) if does[o.name]]
        usual = min(
            (i for i in enough if alone * options[i].size <= plenty),
            key=lambda i: options[i].price,
            default=next(iter(enough), None),
        )
        if kind == "pump" and options:
            idle = self.study.solved["idle"]
            chosen = options[-1 if usual is None else usual]
            turns = self.study.turns_back and any(
                e.kind == "regulator" and any(r.id == e.id for r in downstream(self.circuit, first))
                for e in self.study.feed_path.turned_back
            )
            self.peak_flow = max(self.peak_flow, alone * chosen.size if turns else self.fuel_demand)
            self.idle_flow += sum(
                flow_at(chosen.elements[p.id], idle, max(self.study.asked(idle) / KPA, 1.0))
                for p in pumps
            )
        by = "the cheapest that meets the target without far too much, at low voltage too"
        return SizingGroup(
            tuple(p.id for p in pumps),
            kind,
            tuple(options),
            len(options) - 1 if usual is None else usual,
            by,
            does=usual is not None,
        )

    def _suits(self, part: ShelfPart, first: Element, kind: str, kpa: float) -> bool:
        """A pump of the same mount and pressure class: none for 4 psi on a 60 psi rail, and none
        for injection before a bowl.
        """
        about = part.properties
        if isinstance(part.figures, Displacement):
            most = part.figures.efficiency[-1][0]
            return most > kpa and (most < LOW_CLASS_KPA) == self.brief.carbureted
        if about.mount != first.properties.mount or not runs_on(part.figures, self.brief.voltage_v):
            return False
        if kind == "lift pump":
            return True
        if about.rated_kpa is not None and (
            about.rated_kpa < 0.95 * self.target
            or (self.brief.carbureted and about.rated_kpa > LOW_CLASS_KPA)
        ):
            return False
        if (
            kind == "boost pump"
            and self.brief.carbureted
            and about.rated_kpa is not None
            and about.rated_kpa > (1 + allowance(self.brief, "rail_over_check")) * self.target
        ):
            return False  # in a row with the other it would force the needle
        onward = downstream(self.circuit, first)
        if any(e.kind == "controller" for e in onward):
            return about.speed_control is True
        return (
            not self.brief.carbureted
            or any(turns_back(e) for e in onward)
            or about.dead_heads is True
        )

    # -- what doses, holds, strains, moves

    def _burners(self) -> Iterator[SizingGroup]:
        burners = self._free(self.circuit.of_kind(*BURNERS))
        if not burners:
            return
        first, density = burners[0], self.hungriest.solution.density
        sort = (
            "flight"
            if self.brief.use == "flight"
            else "alcohol"
            if max(f.ethanol + f.methanol for f in self.fuels) > MOSTLY
            else ""
        )

        def suits(p: ShelfPart) -> bool:
            return (
                isinstance(p.figures, Injectors)
                and p.figures.own_lph is None
                and (p.kind != "carburettor" or p.properties.family in (sort or "road", ""))
            )

        parts = [p for p in swaps_for(first, self.own) if suits(p)]
        if first.kind == "carburettor" and sort:
            parts = [p for p in parts if p.properties.family == sort or p in self.own]
        options = self._options(burners, parts, "rated_lph")
        needles = first.kind == "carburettor"
        if needles:  # several needles side by side
            options.sort(key=lambda o: (_all_needles(o.elements[first.id]), o.price, o.name))
        across = self.brief.base_kpa * KPA * (0.9 if needles else 1.0)

        def does(o: Option) -> bool:
            for s in (s for s in self.loaded if s.case.kind == "peak"):
                for e in burners:
                    part, now = o.elements[e.id].figures, e.figures
                    assert isinstance(part, Injectors)
                    assert isinstance(now, Injectors)
                    duty = self.study.wanted(s, now) / injectors_full_flow(
                        part, across, density
                    ) + dead_share(self.study, s, o.elements[e.id])
                    if duty > DUTY_SHARE * part.duty_limit:
                        return False
            return True

        usual = next((i for i, o in enumerate(options) if does(o)), len(options) - 1)
        by = (
            "the first whose needles keep up at full power"
            if needles
            else "the first open no more than its duty limit at full power"
        )
        yield SizingGroup(tuple(e.id for e in burners), first.kind, tuple(options), usual, by)

    def _regulators(self) -> Iterator[SizingGroup]:
        for holds in ("inlet", "outlet"):
            alike = self._free(
                [
                    e
                    for e in self.circuit.of_kind("regulator")
                    if isinstance(e.figures, Regulator) and e.figures.holds == holds
                ]
            )
            if alike:
                yield self._regulator(alike, holds == "inlet")

    def _regulator(self, alike: list[Element], back: bool) -> SizingGroup:
        first = alike[0]
        base, boosted = self.brief.base_kpa, self.brief.boosted
        asked = getattr(first.figures, "reference", "atmosphere") != "atmosphere"

        def suits(p: ShelfPart) -> bool:
            low, high = p.properties.set_min_kpa, p.properties.set_max_kpa
            within = (low is None or low - 0.5 <= base) and (high is None or base <= high + 0.5)
            return within and (
                not (boosted and asked)
                or getattr(p.figures, "reference", "atmosphere") != "atmosphere"
            )

        options = self._options(
            alike, [p for p in swaps_for(first, self.own) if suits(p)], "wide_open_bore_mm"
        )
        options = undominated(
            options,
            lambda o: (o.size, -o.elements[first.id].figures.slope_kpa_per_lph),  # type: ignore[union-attr]
        )
        room = (
            SLOPE_SHARE
            * allowance(self.brief, "rail_over_check" if back else "rail_error_check")
            * base
        )
        flow = self._turned_back() / len(alike) if back else self.fuel_demand

        def does(o: Option) -> bool:
            return float(o.elements[first.id].figures.slope_kpa_per_lph) * flow <= room  # type: ignore[union-attr]

        usual = next((i for i, o in enumerate(options) if does(o)), len(options) - 1)
        return SizingGroup(
            tuple(e.id for e in alike),
            "regulator",
            tuple(options),
            usual,
            "the first that holds what the pumps give at idle"
            if back
            else "the first that holds at full flow",
        )

    def _turned_back(self) -> float:
        """What the usual pumps give at idle, where nearly all of it goes home [L/h]; until a pump
        is chosen half as much again as the demand.
        """
        return self.idle_flow or 1.5 * self.fuel_demand

    def _filters(self) -> Iterator[SizingGroup]:
        done: set[str] = set()
        for e in self._free(self.circuit.of_kind(*FILTERS)):
            if e.id in done or not isinstance(e.figures, Quadratic) or e.properties.micron is None:
                continue
            alike = [
                x
                for x in self._free(self.circuit.of_kind(e.kind))
                if x.shelf == e.shelf and self._stands_like(x, e)
            ]
            done |= {x.id for x in alike}
            yield self._filter(alike)

    def _stands_like(self, a: Element, b: Element) -> bool:
        return {p.id for p in upstream(self.circuit, a) if p.kind == "pump"} == {
            p.id for p in upstream(self.circuit, b) if p.kind == "pump"
        } and a.role == b.role

    def _filter(self, alike: list[Element]) -> SizingGroup:
        first = alike[0]
        own, flow = first.properties.micron or 1.0, self._through(first)
        fine = first.kind == "filter"
        pumps = sum(
            first.id in {e.id for e in upstream(self.circuit, p)}
            for p in self.circuit.of_kind("pump")
        )
        hung = first.properties.mount == "in-tank"

        def suits(p: ShelfPart) -> bool:
            micron = p.properties.micron
            if (
                p.kind != first.kind
                or p.properties.mount != first.properties.mount
                or micron is None
                or not isinstance(p.figures, Quadratic)
            ):
                return False
            if (
                p.properties.working_kpa is not None
                and p.properties.working_kpa < 1.5 * self.target
            ):
                return False
            if hung and not p.properties.family.endswith(f" {min(max(pumps, 1), 3)}"):
                return False
            return 0.6 * own <= micron <= own if fine else 0.85 * own <= micron <= max(own, 100)

        def takes(o: Option, at: float) -> float:
            part = o.elements[first.id].figures
            assert isinstance(part, Quadratic)
            return part.a_kpa_per_lph * at + part.b_kpa_per_lph2 * at**2

        options = parts_for(
            alike,
            [p for p in swaps_for(first, self.own) if suits(p)],
            self.fuels,
            self.brief.base_kpa,
            lambda p: -_takes(p, 300.0),
        )
        options = undominated(
            options,
            lambda o: (o.size, -float((o.elements[first.id].properties.dash or "-0").lstrip("-"))),
        )
        options.sort(key=lambda o: (o.size, o.price, o.name))
        allowed = (
            CLEAN_SHARE * allowance(self.brief, "filter_allowance") / KPA if fine else SOCK_TAKES
        )
        usual = next(
            (i for i, o in enumerate(options) if takes(o, flow) <= allowed), len(options) - 1
        )
        return SizingGroup(
            tuple(e.id for e in alike),
            first.kind,
            tuple(options),
            usual,
            "the first with a small pressure drop when clean",
        )

    def _through(self, filter_: Element) -> float:
        """What passes a filter at most [L/h]: all that pumps give where it stands before what turns
        fuel back, or else the demand.
        """
        onward = {e.id for e in downstream(self.circuit, filter_)}
        whole = self.study.turns_back and any(
            e.id in onward for e in self.study.feed_path.turned_back
        )
        return max(self.idle_flow, self.fuel_demand) if whole else 1.2 * self.fuel_demand

    def _jets(self) -> Iterator[SizingGroup]:
        jets = self._free(self.circuit.of_kind("jet"))
        if jets:
            options = self._options(jets, swaps_for(jets[0], self.own), "nozzle_mm")
            speed = math.sqrt(
                2
                * JET_SHARE
                * house_figure("return_back_pressure")
                / self.hungriest.solution.density
            )
            wide = 1000 * math.sqrt(4 / math.pi * self._turned_back() * LPH / speed)  # mm
            usual = next((i for i, o in enumerate(options) if o.size >= wide), len(options) - 1)
            yield SizingGroup(
                tuple(e.id for e in jets),
                "jet",
                tuple(options),
                usual,
                "the narrowest nozzle that the return at idle does not stand behind too high",
            )

    # -- lines

    def _lines(self) -> Iterator[SizingGroup]:
        immersed = {e.id for hung in hung_pumps(self.circuit) for e in hung.immersed}
        for line in lines_of(self.study, self.fuel_demand):
            elements = self._free(line.elements)
            if elements:
                yield self._line(line, elements, immersed)

    def _line(self, line: SizedLine, elements: list[Element], immersed: set[str]) -> SizingGroup:

        options = line_options(elements, self.fuels, immersed, self.own)
        dashes = [o.name for o in options]

        def at(i: int) -> int:
            wanted = SIZES[min(max(i, 0), len(SIZES) - 1)]
            return dashes.index(wanted) if wanted in dashes else len(dashes) - 1

        ids = tuple(e.id for e in elements)
        usual, least, most = at(line.usual), at(line.least), at(line.most)
        wide = next(
            (i for i, o in enumerate(options) if i >= usual and self._bears(line.kind, o, ids)),
            most,
        )
        by = (
            line.by
            if wide == usual
            else f"{options[usual].title} is usual, {line.by}, and drops too much"
        )
        return SizingGroup(ids, line.kind, tuple(options), min(wide, most), by, least, most)

    def _bears(self, kind: str, option: Option, ids: tuple[str, ...]) -> bool:
        """Whether a line in a size takes no more by itself than its rule allows, at the flow that
        is known before anything is solved.
        """
        solved = self.study.solved["idle"] if kind == "return" else self.hungriest
        lines = [option.elements[i] for i in ids if option.elements[i].ports]
        if (
            kind == "return"
            and self.study.feed_path.turned_back
            and not self.circuit.of_kind("jet")
        ):
            every = sum(loss_at(e, solved, self.idle_flow) for e in lines) / max(
                len(self.study.feed_path.turned_back), 1
            )
            return (
                every <= BACK_SHARE * house_figure("return_back_pressure")
                or len(self.circuit.of_kind("tank")) > 1
            )
        if kind in ("feed", "legs") and not self.brief.carbureted and self.study.feed_path.pumps:
            lph = self.peak_flow * (0.5 if kind == "legs" else 1.0)
            return (
                max(loss_at(e, solved, lph) for e in lines)
                <= allowance(self.brief, "feed_loss_share") * self.brief.base_kpa * KPA
            )
        return True


def _manners(pump: Element) -> tuple[float, ...]:
    """Rating, need of suction, current and noise: the more the better."""
    about, part = pump.properties, pump.figures
    noise = -float(NOISES.index(about.noise)) if about.noise in NOISES else 0.0
    amperes = (
        max((row[2] for row in part.curves[-1].rows if len(row) > 2), default=0.0)
        if isinstance(part, PumpMap)
        else 0.0
    )
    return about.rated_kpa or 0.0, -(about.suction_need_kpa or 0.0), -amperes, noise


def _all_needles(element: Element) -> float:
    part = element.figures
    return (part.rated_lph or 0.0) * part.count if isinstance(part, Injectors) else 0.0


def _takes(part: ShelfPart, lph: float) -> float:
    figures = part.figures
    return (
        figures.a_kpa_per_lph * lph + figures.b_kpa_per_lph2 * lph**2
        if isinstance(figures, Quadratic)
        else math.inf
    )
