"""Layouts of cars, trucks and buggies: each a chain of sections."""

from tall_heron.core.document.build import Brief
from tall_heron.core.document.circuit import Circuit, Element, Node, Stage
from tall_heron.core.document.figures import Injectors, Regulator
from tall_heron.core.editing.layouts.picks import Picks
from tall_heron.core.editing.layouts.plan import LayoutPlan
from tall_heron.core.editing.layouts.sections import (
    around,
    drawn,
    feed,
    fine_filter,
    home,
    lift,
    rails,
    suction,
)
from tall_heron.core.shelf import shelf


def return_rail(brief: Brief, picks: Picks) -> Circuit:
    """C1: pumps, filter, feed, rails, bypass regulator after them, return to the tank."""
    plan = LayoutPlan(brief, picks)
    rail_in = feed(plan, fine_filter(plan, drawn(plan)), "rail in")
    last = rails(plan, rail_in)
    home(plan, plan.regulator(last, plan.place("regulator out", picks.rail_height_mm)))
    around(plan, last, reference=True)
    return plan.circuit("C1")


def regulator_ahead(brief: Brief, picks: Picks) -> Circuit:
    """C4: the bypass regulator turns the surplus back before the rails, which end dead."""
    plan = LayoutPlan(brief, picks)
    ahead = feed(plan, fine_filter(plan, drawn(plan)), "regulator in")
    plan.hose(
        picks.cross.model_copy(update={"runs": "regulator to rail"}),
        "H11",
        ahead,
        plan.place("rail in", picks.rail_height_mm),
    )
    rails(plan, "rail in")
    home(plan, plan.regulator(ahead, plan.place("regulator out", picks.rail_height_mm)))
    around(plan, ahead, reference=True)
    return plan.circuit("C4")


def short_return(brief: Brief, picks: Picks) -> Circuit:
    """C2: filter and regulator at the tank, one line forward, rails that end dead. The regulator
    does not feel the manifold.
    """
    plan = LayoutPlan(brief, picks)
    out = drawn(plan)
    plan.hose(picks.delivery, "H2", out, plan.place("filter in"))
    plan.through(picks.filter, "F2", "filter", "filter in", plan.place("regulator in"))
    rails(plan, feed(plan, "regulator in", "rail in"))
    plan.regulator("regulator in", plan.place("regulator out"), reference="atmosphere")
    plan.through(picks.tank_inlet, "N1", "fitting", "regulator out", "pot", role="return")
    around(plan, "rail in", reference=False)
    return plan.circuit("C2")


def speed_controlled(brief: Brief, picks: Picks) -> Circuit:
    """C3: no return; the pump turns as fast as the pressure at its sensor asks, and a damper takes
    the pulses.
    """
    plan = LayoutPlan(
        brief, picks if picks.damper else picks.model_copy(update={"damper": "reedbed-damper-10"})
    )
    chosen = shelf.part_named(picks.controller)
    assert isinstance(chosen.figures, Regulator)
    part = chosen.figures.model_copy(
        update={
            "set_kpa": brief.base_kpa,
            "reference": "manifold" if brief.boosted else "atmosphere",
        }
    )
    ahead = feed(plan, fine_filter(plan, drawn(plan)), "sensor in")
    rails(
        plan,
        plan.through(
            chosen.name,
            "PC1",
            "controller",
            ahead,
            plan.place("rail in", picks.rail_height_mm),
            figures=part,
        ),
    )
    plan.through(
        "snipe-relief-8",
        "PR9",
        "relief",
        "rail in",
        plan.place("relief out", picks.rail_height_mm),
        role="return",
    )
    plan.hose(
        picks.back.model_copy(update={"dash": "-4", "runs": "relief valve to tank"}),
        "H18",
        "relief out",
        "pot",
        "return",
    )
    around(plan, "rail in", reference=False)
    return plan.circuit("C3")


def surge_pot(brief: Brief, picks: Picks) -> Circuit:
    """C7: a lift pump keeps a pot full, the main pumps stand in it, the return comes back to it,
    the surplus overflows to the tank.
    """
    plan = LayoutPlan(brief, picks)
    rail_in = feed(plan, fine_filter(plan, drawn(plan)), "rail in")
    last = rails(plan, rail_in)
    home(plan, plan.regulator(last, plan.place("regulator out", picks.rail_height_mm)))
    lift(plan)
    around(plan, last, reference=True)
    return plan.circuit("C7")


def staged(brief: Brief, picks: Picks) -> Circuit:
    """C8: one pump always on, the others from a boost on."""
    circuit = return_rail(brief, picks)
    at = Stage(by="boost", at=picks.stage_boost_kpa)
    staged_ids = [f"P{i}" for i in range(2, len(picks.pumps) + 1)]
    elements = [
        e.model_copy(update={"stage": at}) if e.id in staged_ids else e for e in circuit.elements
    ]
    return Circuit(template="C8", nodes=circuit.nodes, elements=elements)


def engine_driven(brief: Brief, picks: Picks) -> Circuit:
    """C9: a pump on the engine draws from a pot that an electric one fills; what the engine leaves
    at speed comes back to the pot.
    """
    plan = LayoutPlan(brief, picks)
    plan.through(
        picks.engine_pump,
        "P1",
        "pump",
        suction(plan, "in the pot"),
        plan.place("merge out", picks.pump_height_mm),
    )
    rail_in = feed(plan, fine_filter(plan, "merge out"), "rail in")
    last = rails(plan, rail_in)
    home(plan, plan.regulator(last, plan.place("regulator out", picks.rail_height_mm)))
    lift(plan)
    around(plan, last, reference=True)
    return plan.circuit("C9")


def saddle(brief: Brief, picks: Picks) -> Circuit:
    """C10: the return drives a jet pump that moves fuel from the far half of a saddle tank to the
    half with the pumps.
    """
    plan = LayoutPlan(brief, picks)
    rail_in = feed(plan, fine_filter(plan, drawn(plan)), "rail in")
    last = rails(plan, rail_in)
    out = plan.regulator(last, plan.place("regulator out", picks.rail_height_mm))
    plan.hose(picks.back, "H4", out, plan.place("jet in"), "return")
    plan.tank("S2", "saddle-60", "far half", -1.0, "far half of the tank")
    plan.hose(
        picks.lift_suction.model_copy(update={"runs": "far half to jet pump"}),
        "H12",
        "far half",
        plan.place("jet suction"),
        "suction",
    )
    plan.fit(
        picks.jet,
        "P8",
        "jet",
        {"motive": "jet in", "suction": "jet suction", "end": plan.place("jet out")},
        role="return",
    )
    plan.through(picks.tank_inlet, "N1", "fitting", "jet out", "pot", role="return")
    around(plan, last, reference=True)
    return plan.circuit("C10")


def plate(brief: Brief, picks: Picks) -> Circuit:
    """C11: an external pump between two filters on a plate that comes out, low beside the tank."""
    return return_rail(brief, picks).model_copy(update={"template": "C11"})


def sump(brief: Brief, picks: Picks) -> Circuit:
    """C12: a sump under a new tank; its second outlet is plugged and serves as the drain."""
    circuit = return_rail(brief, picks)
    drain = shelf.part_named("shutoff-6")
    plug = Element(
        id="V9",
        kind="valve",
        title="drain, plugged",
        ports={"start": "pot", "end": "drain"},
        figures=drain.figures,
        shelf=drain.name,
        properties=drain.properties,
    )
    return Circuit(
        template="C12",
        nodes=[*circuit.nodes, Node(id="drain", elevation_mm=-30)],
        elements=[*circuit.elements, plug],
    )


def carburetor_dead_head(brief: Brief, picks: Picks) -> Circuit:
    """C5: pump, filter, a regulator that holds its outlet, and the bowl; nothing comes back."""
    plan = LayoutPlan(brief, picks)
    regulator_in = feed(plan, fine_filter(plan, drawn(plan)), "regulator in")
    low = plan.regulator(regulator_in, plan.place("regulator out", picks.rail_height_mm))
    bowls(plan, low)
    around(plan, low, reference=brief.boosted)
    return plan.circuit("C5")


def carburetor_bypass(brief: Brief, picks: Picks) -> Circuit:
    """C6: the bowl hangs on the feed, and a bypass regulator after it sends the rest home."""
    plan = LayoutPlan(brief, picks)
    place = feed(plan, fine_filter(plan, drawn(plan)), "bowl")
    hang_bowl(plan, place)
    for i in range(2, picks.bowls + 1):  # one after the other, as rails are
        further = plan.place(f"bowl {i}", picks.rail_height_mm)
        place = plan.hose(picks.to_bowls, f"H{5 + i}", place, further)
        hang_bowl(plan, place, i)
    home(plan, plan.regulator(place, plan.place("regulator out", picks.rail_height_mm)))
    around(plan, place, reference=brief.boosted)
    return plan.circuit("C6")


def carburetor_engine_driven(brief: Brief, picks: Picks) -> Circuit:
    """C13: a pump that the camshaft works draws from the tank through a long line, and its own spring
    sets the pressure at the bowl; nothing comes back.
    """
    plan = LayoutPlan(brief, picks)
    plan.through(
        picks.engine_pump,
        "P1",
        "pump",
        suction(plan),
        plan.place("merge out", picks.pump_height_mm),
    )
    filtered = fine_filter(plan, "merge out")
    bowls(plan, filtered)
    around(plan, filtered, reference=False)
    return plan.circuit("C13")


def bowls(plan: LayoutPlan, start: str) -> None:
    """A line to each bowl: one straight, two from a Y, three from two."""
    picks, height = plan.picks, plan.picks.rail_height_mm
    if picks.bowls == 1:
        hang_bowl(plan, plan.hose(picks.to_bowl, "H7", start, plan.place("bowl", height)))
        return
    runs = picks.to_bowl.runs.replace("to bowl", "to Y-block")
    to_split = picks.to_bowl.model_copy(update={"runs": runs})
    here = plan.hose(to_split, "H7", start, plan.place("bowls in", height))
    for i in range(1, picks.bowls):
        one, other = plan.place(f"Y a{i}", height), plan.place(f"Y b{i}", height)
        plan.fit(picks.bowl_split, f"Y{1 + i}", "split", {"start": here, "a": one, "b": other})
        bowl = plan.place("bowl" if i == 1 else f"bowl {i}", height)
        hang_bowl(plan, plan.hose(picks.to_bowls, f"H{7 + i}", one, bowl), i)
        here = other
    last = plan.place(f"bowl {picks.bowls}", height)
    hang_bowl(plan, plan.hose(picks.to_bowls, "H11", here, last), picks.bowls)


def hang_bowl(plan: LayoutPlan, at: str, nth: int = 1) -> None:
    """A carburetor at a place, and what its needles are commanded."""
    chosen = shelf.part_named(plan.picks.carburettor)
    assert isinstance(chosen.figures, Injectors)
    plan.fit(
        chosen.name,
        f"C{nth}",
        "carburettor",
        {"start": at},
        figures=chosen.figures.model_copy(update={"commanded_at_kpa": plan.brief.base_kpa}),
    )
