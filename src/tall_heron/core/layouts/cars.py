"""Layouts of cars, trucks and buggies: each a chain of sections."""

from tall_heron.core import shelf
from tall_heron.core.build import Brief
from tall_heron.core.circuit import Circuit, Injectors
from tall_heron.core.layouts.picks import Picks
from tall_heron.core.layouts.plan import Plan
from tall_heron.core.layouts.sections import around, feed, fine_filter, home, pumps, rails, suction


def return_rail(brief: Brief, picks: Picks) -> Circuit:
    """C1: pumps, filter, feed, rails, bypass regulator after them, return to the tank."""
    plan = Plan(brief, picks)
    rail_in = feed(plan, fine_filter(plan, pumps(plan, suction(plan))), "rail in")
    last = rails(plan, rail_in)
    home(plan, plan.regulator(last, plan.place("regulator out", picks.rail_height_mm)))
    around(plan, last, reference=True)
    return plan.circuit("C1")


def regulator_ahead(brief: Brief, picks: Picks) -> Circuit:
    """C4: the bypass regulator turns the surplus back before the rails, which end dead."""
    plan = Plan(brief, picks)
    ahead = feed(plan, fine_filter(plan, pumps(plan, suction(plan))), "regulator in")
    plan.hose(picks.cross.model_copy(update={"runs": "regulator to rail"}), "H11", ahead, plan.place("rail in", picks.rail_height_mm))
    rails(plan, "rail in")
    home(plan, plan.regulator(ahead, plan.place("regulator out", picks.rail_height_mm)))
    around(plan, ahead, reference=True)
    return plan.circuit("C4")


def carburettor_dead_head(brief: Brief, picks: Picks) -> Circuit:
    """C5: pump, filter, a regulator that holds its outlet, and the bowl; nothing comes back."""
    plan = Plan(brief, picks)
    held = feed(plan, fine_filter(plan, pumps(plan, suction(plan))), "regulator in")
    low = plan.regulator(held, plan.place("regulator out", picks.rail_height_mm))
    bowl = plan.hose(picks.to_bowl, "H7", low, plan.place("bowl", picks.rail_height_mm))
    _bowl(plan, bowl)
    around(plan, low, reference=brief.boosted)
    return plan.circuit("C5")


def carburettor_bypass(brief: Brief, picks: Picks) -> Circuit:
    """C6: the bowl hangs on the feed, and a bypass regulator after it sends the rest home."""
    plan = Plan(brief, picks)
    bowl = feed(plan, fine_filter(plan, pumps(plan, suction(plan))), "bowl")
    _bowl(plan, bowl)
    home(plan, plan.regulator(bowl, plan.place("regulator out", picks.rail_height_mm)))
    around(plan, bowl, reference=brief.boosted)
    return plan.circuit("C6")


def _bowl(plan: Plan, at: str) -> None:
    chosen = shelf.part_named(plan.picks.carburettor)
    assert isinstance(chosen.part, Injectors)
    plan.fit(chosen.name, "C1", "carburettor", {"start": at}, part=chosen.part.model_copy(update={"commanded_at_kpa": plan.brief.base_kpa}))
