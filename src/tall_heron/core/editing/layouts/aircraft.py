"""Layouts of light aircraft: each a chain of sections from the wings, the sides or a header to the
engine.
"""

from tall_heron.core.document.build import Brief
from tall_heron.core.document.circuit import Circuit, Stage
from tall_heron.core.editing.layouts.cars import hang_bowl
from tall_heron.core.editing.layouts.picks import Picks
from tall_heron.core.editing.layouts.plan import LayoutPlan
from tall_heron.core.editing.layouts.sections import (
    around,
    feed,
    fine_filter,
    home,
    pump_gauge,
    pumps,
    rails,
)

STANDS_BY = Stage(
    by="switch", at=0.0
)  # an electric boost pump is switched on for take-off and landing
LEFT, RIGHT = "pot", "right tank"


def _wings(plan: LayoutPlan, to: tuple[str, str]) -> None:
    """Two tanks, each with a strainer at its outlet and a line inward."""
    picks = plan.picks
    for i, (outlet, place) in enumerate(zip((LEFT, RIGHT), to, strict=True), start=1):
        plan.tank(
            f"S{i}",
            picks.tank if i == 1 else picks.second_tank,
            outlet,
            picks.tank_height_mm,
            "left tank" if i == 1 else "right tank",
        )
        strained = plan.place(f"strainer {i} out", picks.tank_height_mm)
        plan.through(
            picks.strainer,
            f"E{i}",
            "strainer",
            outlet,
            strained,
            role="suction",
            runs="in the tank",
        )
        plan.place(place, picks.pump_height_mm)
    plan.hose(picks.suction, "H1", "strainer 1 out", to[0], "suction")
    plan.hose(picks.second_inlet, "H15", "strainer 2 out", to[1], "suction")


def _teed(plan: LayoutPlan) -> str:
    """Both tanks into one tee."""
    height = plan.picks.pump_height_mm
    _wings(plan, ("tee left", "tee right"))
    plan.fit(
        plan.picks.junction,
        "Y5",
        "junction",
        {"start": "tee left", "branch": "tee right", "end": plan.place("tanks joined", height)},
        role="suction",
    )
    return "tanks joined"


def _selected(plan: LayoutPlan) -> str:
    """Both tanks to a selector."""
    _wings(plan, ("selector left", "selector right"))
    ports = {
        "left": "selector left",
        "right": "selector right",
        "engine": plan.place("selected", plan.picks.pump_height_mm),
    }
    plan.fit(plan.picks.selector, "V1", "selector", ports, role="suction")
    return "selected"


def _strained(plan: LayoutPlan, start: str) -> str:
    """The gascolator."""
    return plan.through(
        plan.picks.gascolator,
        "F1",
        "strainer",
        start,
        plan.place("pump inlet", plan.picks.pump_height_mm),
        role="suction",
        runs="lowest point",
    )


def gravity(brief: Brief, picks: Picks) -> Circuit:
    """A1: both wing tanks fall through a shut-off and a gascolator to the carburetor."""
    plan = LayoutPlan(brief, picks)
    joined = _teed(plan)
    shut = plan.through(
        picks.shut_off,
        "V3",
        "valve",
        joined,
        plan.place("shut-off out", picks.pump_height_mm),
        role="suction",
    )
    strained = _strained(plan, shut)
    hang_bowl(
        plan, plan.hose(picks.to_bowl, "H7", strained, plan.place("bowl", picks.rail_height_mm))
    )
    around(plan, "bowl", reference=False)
    return plan.circuit("A1")


def boost_and_engine_pump(brief: Brief, picks: Picks) -> Circuit:
    """A2: selector, gascolator, an electric boost pump that a check valve passes by, and a pump on
    the engine in series.
    """
    plan = LayoutPlan(brief, picks)
    inlet = _strained(plan, _selected(plan))
    between = plan.place("boosted", picks.pump_height_mm)
    plan.through(picks.pumps[0], "P1", "pump", inlet, between, stage=STANDS_BY)
    plan.through(picks.check or "rill-6", "K9", "check", inlet, between)
    plan.hose(picks.delivery, "H2", between, plan.place("engine pump in", picks.rail_height_mm))
    plan.through(
        picks.engine_pump,
        "P7",
        "pump",
        "engine pump in",
        plan.place("engine pump out", picks.rail_height_mm),
    )
    hang_bowl(
        plan,
        plan.hose(picks.to_bowl, "H7", "engine pump out", plan.place("bowl", picks.rail_height_mm)),
    )
    around(plan, "bowl", reference=False)
    return plan.circuit("A2")


def boosted_injection(brief: Brief, picks: Picks) -> Circuit:
    """A8: selector, gascolator, an electric boost pump and then a pump on the engine in series,
    each with a check valve past it, and a regulator whose return goes through the
    selector to the tank in use.
    """
    plan = LayoutPlan(brief, picks)
    inlet, low, high = _strained(plan, _selected(plan)), picks.pump_height_mm, picks.rail_height_mm
    between = plan.place("boosted", low)
    plan.through(picks.pumps[0], "P1", "pump", inlet, between, stage=STANDS_BY)
    plan.through(picks.check or "rill-6", "K9", "check", inlet, between)
    started = plan.hose(picks.delivery, "H2", between, plan.place("engine pump in", high))
    pump_out = plan.through(
        picks.engine_pump, "P7", "pump", started, plan.place("engine pump out", high)
    )
    plan.through(picks.check or "rill-6", "K8", "check", started, pump_out)
    pump_gauge(plan, 1, between)
    plan.through(picks.filter, "F2", "filter", pump_out, plan.place("filter out", high))
    last = rails(plan, feed(plan, "filter out", "rail in"))
    _home_by_selector(plan, plan.regulator(last, plan.place("regulator out", high)))
    around(plan, last, reference=brief.boosted)
    return plan.circuit("A8")


def _home_by_selector(plan: LayoutPlan, start: str) -> None:
    """Back through the other half of a duplex selector to the tank in use."""
    picks = plan.picks
    plan.hose(picks.back, "H4", start, plan.place("return in", picks.pump_height_mm), "return")
    for place in ("return left", "return right"):
        plan.place(place, picks.pump_height_mm)
    ports = {"left": "return left", "right": "return right", "engine": "return in"}
    plan.fit(picks.selector, "V2", "selector", ports, role="return", reversed=True)
    plan.hose(
        picks.second_back.model_copy(update={"runs": "selector to left tank"}),
        "H16",
        "return left",
        LEFT,
        "return",
    )
    plan.hose(picks.second_back, "H17", "return right", RIGHT, "return")


def injected_duplex(brief: Brief, picks: Picks) -> Circuit:
    """A3: two pumps side by side, a regulator after the rail, and a duplex selector that returns to
    the tank in use.
    """
    plan = LayoutPlan(brief, picks)
    inlet = _strained(plan, _selected(plan))
    last = rails(
        plan, feed(plan, fine_filter(plan, pumps(plan, inlet, picks.pump_height_mm)), "rail in")
    )
    _home_by_selector(plan, plan.regulator(last, plan.place("regulator out", picks.rail_height_mm)))
    around(plan, last, reference=brief.boosted)
    return plan.circuit("A3")


def header_each(brief: Brief, picks: Picks) -> Circuit:
    """A4: under each wing tank a header with a pump and its own regulator in it; both through check
    valves to one tee. No selector.
    """
    plan = LayoutPlan(brief, picks)
    _wings(plan, ("header left", "header right"))
    height = picks.pump_height_mm
    for i, header in enumerate(("header left", "header right"), start=1):
        plan.tank(
            f"S{i + 2}",
            picks.header,
            header,
            height,
            "left header" if i == 1 else "right header",
            floats=True,
        )
        plan.through(
            picks.strainer,
            f"E{i + 2}",
            "strainer",
            header,
            plan.place(f"strainer {i + 2} out", height),
            role="suction",
            runs="in the header",
        )
        pump_out = plan.through(
            picks.pumps[0],
            f"P{i}",
            "pump",
            f"strainer {i + 2} out",
            plan.place(f"P{i} out", height),
        )
        pump_gauge(plan, i)
        plan.regulator(
            pump_out, plan.place(f"regulator {i} out", height), f"PR{i}", picks.regulator
        )
        plan.through(
            picks.tank_inlet, f"N{i + 3}", "fitting", f"regulator {i} out", header, role="return"
        )
        checked = plan.through(
            picks.check or "rill-6", f"K{i}", "check", pump_out, plan.place(f"K{i} out", height)
        )
        plan.through(
            picks.hanger,
            f"N{i + 10}",
            "fitting",
            checked,
            plan.place(f"merge {'ab'[i - 1]}", height),
            runs="header top",
        )
    plan.through(picks.crossover, "V4", "crossover", "header left", "header right", role="suction")
    plan.fit(
        picks.merge,
        "Y1",
        "merge",
        {"a": "merge a", "b": "merge b", "end": plan.place("merge out", height)},
    )
    shut = plan.through(
        picks.shut_off, "V3", "valve", "merge out", plan.place("shut-off out", height)
    )
    plan.through(
        "snipe-thermal-6", "PR9", "relief", "shut-off out", "header left", role="return"
    )  # for what warms between the valve and the injectors
    rails(plan, feed(plan, fine_filter(plan, shut), "rail in"))
    around(plan, "rail in", reference=False)
    return plan.circuit("A4")


def one_header(brief: Brief, picks: Picks) -> Circuit:
    """A5: both wings feed one header in the fuselage; the pumps draw from it, and the return comes
    back to it.
    """
    plan = LayoutPlan(brief, picks)
    _wings(plan, ("header", "header in right"))
    plan.tank("S3", picks.header, "header", picks.pump_height_mm, "header", floats=True)
    plan.through("shutoff-6", "V5", "valve", "header in right", "header", role="suction")
    shut = plan.through(
        picks.shut_off,
        "V3",
        "valve",
        "header",
        plan.place("shut-off out", picks.pump_height_mm),
        role="suction",
    )
    last = rails(
        plan,
        feed(
            plan,
            fine_filter(plan, pumps(plan, _strained(plan, shut), picks.pump_height_mm)),
            "rail in",
        ),
    )
    home(plan, plan.regulator(last, plan.place("regulator out", picks.rail_height_mm)), "header")
    around(plan, last, reference=brief.boosted)
    return plan.circuit("A5")


def pusher(brief: Brief, picks: Picks) -> Circuit:
    """A6: side tanks teed, a shut-off by cable, primary filter, two pumps, and a return to both
    tanks.
    """
    plan = LayoutPlan(brief, picks)
    shut = plan.through(
        picks.shut_off,
        "V3",
        "valve",
        _teed(plan),
        plan.place("shut-off out", picks.pump_height_mm),
        role="suction",
    )
    last = rails(
        plan,
        feed(
            plan,
            fine_filter(plan, pumps(plan, _strained(plan, shut), picks.pump_height_mm)),
            "rail in",
        ),
    )
    out = plan.regulator(last, plan.place("regulator out", picks.rail_height_mm))
    plan.hose(picks.back, "H4", out, plan.place("return in", picks.tank_height_mm), "return")
    for place in ("return left", "return right"):
        plan.place(place, picks.tank_height_mm)
    plan.fit(
        "tee-6",
        "Y6",
        "tee",
        {"start": "return in", "end": "return left", "branch": "return right"},
        role="return",
    )
    plan.hose(
        picks.second_back.model_copy(update={"runs": "tee to left tank"}),
        "H16",
        "return left",
        LEFT,
        "return",
    )
    plan.hose(
        picks.second_back.model_copy(update={"runs": "tee to right tank"}),
        "H17",
        "return right",
        RIGHT,
        "return",
    )
    around(plan, last, reference=brief.boosted)
    return plan.circuit("A6")


def teed_to_pump(brief: Brief, picks: Picks) -> Circuit:
    """A7: wing tanks teed straight to the pump and the carburetor: may be drawn, and is always a
    finding.
    """
    plan = LayoutPlan(brief, picks)
    shut = plan.through(
        picks.shut_off,
        "V3",
        "valve",
        _teed(plan),
        plan.place("shut-off out", picks.pump_height_mm),
        role="suction",
    )
    inlet = _strained(plan, shut)
    plan.through(picks.pumps[0], "P1", "pump", inlet, plan.place("merge out", picks.pump_height_mm))
    regulator_in = feed(plan, "merge out", "regulator in")
    low = plan.regulator(regulator_in, plan.place("regulator out", picks.rail_height_mm))
    hang_bowl(plan, plan.hose(picks.to_bowl, "H7", low, plan.place("bowl", picks.rail_height_mm)))
    around(plan, "bowl", reference=False)
    return plan.circuit("A7")
