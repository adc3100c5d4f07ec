"""What each part of the shelf would do in an element's place, solved, best first."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from tall_heron.core.base.constants import KPA
from tall_heron.core.document.circuit import Element
from tall_heron.core.document.figures import Injectors
from tall_heron.core.editing.fields import fit
from tall_heron.core.shelf.shelf import ShelfPart, swaps_for
from tall_heron.core.shelf.suits import made_for, runs_on
from tall_heron.core.shelf.totals import mass_of, price_of
from tall_heron.core.sizing.groups import pumps_ranked
from tall_heron.core.sizing.whole_limit import gained, what_ends, whole_times
from tall_heron.core.study.study import Study

LIKE, LIKE_PRESSURE = 1e-3, 10.0  # of the power, and Pa: what differs by less is alike
ENDS = {
    "margin": "pumps",
    "rail": "rail low",
    "duty": "duty",
    "suction": "inlet near boiling",
}  # what ends it, in a word
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
    ranked = pumps_ranked(study, element, own) if element.kind == "pump" else {}
    rows = []
    meets = study.highest_met(element) or 0.0
    before, power = study.rail_error(study.solved[case_key]), study.brief.power
    keys = tuple(k for k in study.cases if k in (case_key, "peak", "low voltage"))
    for part in swaps_for(element, own):
        if part.name != element.shelf and not runs_on(part.figures, study.brief.voltage_v):
            continue  # wound for another system
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
                made_for(part.properties, study.fuel_demand.fuel),
                part.name == element.shelf,
                "" if hopeless else ENDS.get(what_ends(tried), ""),
                part.properties.working_kpa is None or meets <= part.properties.working_kpa * KPA,
            )
        )

    def order(swap: Swap) -> tuple[bool, bool, float, float, float, float]:
        other = swap.part.kind != element.kind and element.kind in ("strainer", "filter")
        if (
            element.kind == "filter"
        ):  # a coarser one takes less and lets more through: after those as fine
            other = other or (swap.part.properties.micron or 0.0) > 1.01 * (
                element.properties.micron or 1e9
            )
        pressure = -(swap.takes or 0.0) if element.kind == "pump" else swap.takes or 0.0
        if element.kind == "regulator" and before is not None:
            pressure = abs(before[0] + swap.rail) if swap.rail is not None else 1e12
        if element.kind == "tank":  # the nearest in size
            pressure = 1e3 * abs(
                (swap.part.properties.capacity_l or 0.0) - (element.properties.capacity_l or 0.0)
            )
        if isinstance(swap.part.figures, Injectors) and swap.part.figures.own_lph is not None:
            pressure = swap.part.figures.own_lph
        gain = (
            -math.inf
            if swap.gains is None and swap.feeds is not None
            else round((swap.gains or 0.0) / power / LIKE)
        )
        if element.kind == "pump":
            short, much = ranked.get(swap.part.name, (True, False))
            other = ranked != {} and swap.part.name not in ranked
            if not short:
                return (
                    not (swap.suits and swap.bears),
                    other,
                    float(much) - 1e6,
                    swap.part.properties.price or 1e9,
                    0.0,
                    swap.weighs or 0.0,
                )
        return (
            not (swap.suits and swap.bears),
            other,
            -gain,
            round(pressure / LIKE_PRESSURE),
            swap.costs if swap.costs is not None else 1e9,
            swap.weighs or 0.0,
        )

    return sorted(rows, key=order)


def _more(new: float | None, old: float | None) -> float | None:
    return new - old if new is not None and old is not None else None
