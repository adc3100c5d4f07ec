"""What each part of the shelf would do in an element's place, solved, best first."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

from tall_heron.core.base.constants import KPA
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import Injectors, PumpMap
from tall_heron.core.document.kinds import LINES
from tall_heron.core.editing.fields import fit
from tall_heron.core.hydraulics.compile import injectors_full_flow, link_templates
from tall_heron.core.hydraulics.laws import Resistance, loss
from tall_heron.core.joining.losses import plumbed
from tall_heron.core.shelf.shelf import ShelfPart, swaps_for
from tall_heron.core.shelf.suits import made_for, runs_on
from tall_heron.core.shelf.totals import mass_of, price_of
from tall_heron.core.sizing.ceiling import LEAST, MOST
from tall_heron.core.sizing.groups import pumps_ranked
from tall_heron.core.sizing.whole_limit import (
    can_be_limited,
    ceiling_of,
    gained,
    what_ends,
    whole_times,
)
from tall_heron.core.study.cases.injector_duty import dead_share
from tall_heron.core.study.study import Solved, Study

LIKE, LIKE_PRESSURE = 1e-3, 10.0  # of the power, and Pa: what differs by less is alike
ENDS = {
    "margin": "pumps",
    "rail": "rail low",
    "duty": "duty",
    "suction": "inlet near boiling",
}  # what ends it, in a word
FIRST_ROWS = 6  # as many as stand beside the part without scrolling
HOPELESS = 0.3  # of the rail pressure missing: such a pump feeds no power at all, and its ceiling is not looked for


@dataclass(frozen=True)
class Swap:
    """A part of the shelf in the place of the one fitted, at one case: what it `takes` [Pa], the
    `headroom` of the pumps [-], the rail's change [Pa], the power the whole circuit feeds with it
    [W] (None: no end, or it does not solve) and `gains` by it [W], what it costs and weighs more,
    whether it suits the fuel, whether it `bears` the pressure that it meets there, and what `ends`
    the power that the circuit feeds with it.
    """

    part: ShelfPart
    takes: float | None
    headroom: float | None
    rail: float | None
    feeds: float | None
    gains: float | None
    costs: float | None
    weighs: float | None
    suits: bool
    fitted: bool
    ends: str = ""
    bears: bool = True


def make_swaps(
    study: Study, case_key: str, element: Element, own: Sequence[ShelfPart] = ()
) -> list[Swap]:
    """Every swap for an element, those made for the fuel and the pressure first, then by what the
    builder gains in the whole circuit: power, then pressure (a regulator: how near the rail comes
    to what is asked; a tap: the flow it is made for; a tank: how near it is in size), price and
    mass. Of pumps those first that are made for the place and give what is asked without far too
    much, the cheapest of them first.
    """
    place = _Place(study, element, own)
    return _solved(place, case_key, place.parts)


def _solved(place: "_Place", case_key: str, parts: Sequence[ShelfPart]) -> list[Swap]:
    """Some parts in an element's place, each solved, in the order of make_swaps."""
    study, element, own = place.study, place.element, place.own
    rows = []
    before, power = study.rail_error(study.solved[case_key]), study.brief.power
    keys = tuple(k for k in study.cases if k in (case_key, "peak", "low voltage"))
    for part in parts:
        build = fit(study.build, element.id, part.name, own)
        new = build.circuit.element(element.id) or element
        tried = study.fitted(build, [new], keys)
        solved = tried.solved[case_key]
        link, after = solved.solution.link(element.id), tried.rail_error(solved)
        hopeless = after is not None and after[0] < -HOPELESS * after[1]
        gains = -whole_times(study) * power if hopeless else gained(study, tried)
        times = 0.0 if hopeless else whole_times(tried)
        rows.append(
            Swap(
                part,
                tried.friction(solved, element.id)
                if link is not None and link.loss is not None
                else None,
                tried.headroom(solved) if solved.solution.converged else None,
                after[0] - before[0] if after and before else None,
                times * power if math.isfinite(times) and tried.peak.solution.converged else None,
                gains if gains is not None and math.isfinite(gains) else None,
                _more(price_of(new), price_of(element)),
                _more(mass_of(new), mass_of(element)),
                place.is_suited(part),
                part.name == element.shelf,
                "" if hopeless else ENDS.get(what_ends(tried), ""),
                place.bears(part),
            )
        )

    def order(swap: Swap) -> tuple[bool, bool, float, float, float, float]:
        pressure = -(swap.takes or 0.0) if element.kind == "pump" else swap.takes or 0.0
        if element.kind == "regulator" and before is not None:
            pressure = abs(before[0] + swap.rail) if swap.rail is not None else 1e12
        if element.kind == "tank":
            pressure = 1e3 * place.off_size(swap.part)
        if isinstance(swap.part.figures, Injectors) and swap.part.figures.own_lph is not None:
            pressure = swap.part.figures.own_lph
        gain = (
            -math.inf
            if swap.gains is None and swap.feeds is not None
            else round((swap.gains or 0.0) / power / LIKE)
        )
        if (first := place.first_pump(swap.part)) is not None:
            return (*first, swap.weighs or 0.0)
        return (
            *place.sort(swap.part),
            -gain,
            round(pressure / LIKE_PRESSURE),
            swap.costs if swap.costs is not None else 1e9,
            swap.weighs or 0.0,
        )

    return sorted(rows, key=order)


def first_swaps(
    study: Study,
    case_key: str,
    element: Element,
    own: Sequence[ShelfPart] = (),
    named: str = "",
) -> tuple[list[Swap], int]:
    """The swaps that stand on the screen before more is asked for: FIRST_ROWS of those likely to
    stand first by their own figures alone, at the flow there is, with the part that is fitted, the
    builder's `own` and the one `named`; and how many more there are.
    """
    place = _Place(study, element, own)
    if len(place.parts) <= FIRST_ROWS + 1:
        return _solved(place, case_key, place.parts), 0
    likely = sorted(place.parts, key=lambda part: place.likely(part, study.solved[case_key]))
    chosen = likely[:FIRST_ROWS]
    always = {element.shelf, named, *(p.name for p in own)}
    chosen += [p for p in likely[FIRST_ROWS:] if p.name in always]
    return _solved(place, case_key, chosen), len(likely) - len(chosen)


class _Place:
    """An element's place: what the shelf has for it, and what is known of each before it is solved."""

    def __init__(self, study: Study, element: Element, own: Sequence[ShelfPart]) -> None:
        self.study, self.element, self.own = study, element, own
        self.ranked = pumps_ranked(study, element, own) if element.kind == "pump" else {}
        self.meets = study.highest_met(element) or 0.0
        self.parts = [
            part
            for part in swaps_for(element, own)
            if part.name == element.shelf or runs_on(part.figures, study.brief.voltage_v)
        ]  # the others are wound for another system

    def is_suited(self, part: ShelfPart) -> bool:
        return made_for(part.properties, self.study.fuel_demand.fuel)

    def bears(self, part: ShelfPart) -> bool:
        most = part.properties.working_kpa
        return most is None or self.meets <= most * KPA

    def sort(self, part: ShelfPart) -> tuple[bool, bool]:
        """Whether it is not for this fuel and pressure, and whether it is of another sort."""
        kind = self.element.kind
        other = part.kind != kind and kind in ("strainer", "filter")
        if kind == "filter":  # a coarser one takes less and lets more through: after those as fine
            other = other or (part.properties.micron or 0.0) > 1.01 * (
                self.element.properties.micron or 1e9
            )
        if kind == "pump":
            other = self.ranked != {} and part.name not in self.ranked
        return not (self.is_suited(part) and self.bears(part)), other

    def first_pump(self, part: ShelfPart) -> tuple[bool, bool, float, float, float] | None:
        """Where a pump stands that is made for the place and gives what is asked; None for others."""
        short, much = self.ranked.get(part.name, (True, False))
        if self.element.kind != "pump" or short:
            return None
        return *self.sort(part), float(much) - 1e6, part.properties.price or 1e9, 0.0

    def off_size(self, part: ShelfPart) -> float:
        """How far a tank is from the size of the one that is there [L]."""
        return abs(
            (part.properties.capacity_l or 0.0) - (self.element.properties.capacity_l or 0.0)
        )

    def likely(self, part: ShelfPart, solved: Solved) -> tuple[bool, bool, float, float, float]:
        """The order as it can be told without solving: what gives more, or takes less at the flow
        there is, stands first.
        """
        if (first := self.first_pump(part)) is not None:
            return first
        own, price = part.figures, part.properties.price or 1e9
        if self.element.kind == "tank":
            by = self.off_size(part)
        elif isinstance(own, PumpMap):
            by = -part.gives_lph(solved.case.point.manifold_kpa + self.study.brief.base_kpa)
        elif isinstance(own, Injectors):
            by = own.own_lph if own.own_lph is not None else -round(self._doses(part) / LIKE)
        else:
            by = round(self._takes(part, solved) / LIKE_PRESSURE)
        return *self.sort(part), by, price, 0.0

    def _doses(self, part: ShelfPart) -> float:
        """The power that injectors or needles would let the circuit feed, as a multiple of the
        power wanted; no more than all else allows.
        """
        study, own = self.study, part.figures
        assert isinstance(own, Injectors)
        new = self.element.model_copy(update={"figures": own, "properties": part.properties})
        count = getattr(self.element.figures, "count", own.count)
        fitted = own.model_copy(update={"count": count})
        peak = study.peak
        full = injectors_full_flow(fitted, study.brief.base_kpa * KPA, peak.solution.density)
        allowed = max(own.duty_limit - dead_share(study, peak, new), 0.0)
        return min(allowed * full / max(study.wanted(peak, fitted), 1e-12), self._all_else)

    @cached_property
    def _all_else(self) -> float:
        """How much power all else allows, as a multiple of the power wanted."""
        if not can_be_limited(self.study):
            return MOST
        ceiling = ceiling_of(self.study)
        rest = tuple(n for n in ceiling.needs if (n.what, n.parts) != ("duty", (self.element.id,)))
        near = min(max(whole_times(self.study), LEAST), MOST)
        return min(ceiling.of(self.study.what_if.unlimited, near, rest), MOST)

    def _takes(self, part: ShelfPart, solved: Solved) -> float:
        """What a part would take at the flow there is [Pa]; of lines and rails with the adapters
        that their own ports need, of others with those that are there.
        """
        state, name = solved.solution.net.state, self.element.id
        if self.element.kind in (*LINES, "rail"):
            build = plumbed(fit(self.study.build, name, part.name, self.own))
            new = build.circuit.element(name) or self.element
        else:
            new = self.element.model_copy(update={"figures": part.figures})
        total = 0.0
        for link in link_templates(new, self.study.what_if.compiled.geometry.elevation):
            law = link.make(state)
            if isinstance(law, Resistance):
                total += loss(law, abs(solved.solution.flow(link.key))) + law.cracking
        return total


def _more(new: float | None, old: float | None) -> float | None:
    return new - old if new is not None and old is not None else None
