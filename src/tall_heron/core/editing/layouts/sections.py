"""The sections that layouts are made of, each from one place to the next."""

from tall_heron.core.editing.layouts.picks import Picks
from tall_heron.core.editing.layouts.plan import LayoutPlan

GAUGED = (("rail", "at the rail"), ("bowl", "at the carburetor"), ("filter", "at the filter"))
RAILS = ((3, "rail-three-14"), (4, "rail-four-14"), (99, "rail-six-14"))  # cylinders at most, rail


def suction(plan: LayoutPlan, strainer_runs: str = "at the tank") -> str:
    """Tank, strainer and suction hose, up to the inlet of a pump outside."""
    picks = plan.picks
    outlet = plan.tank()
    strained = plan.place("strainer out", picks.tank_height_mm)
    plan.through(
        picks.strainer, "E1", "strainer", outlet, strained, role="suction", runs=strainer_runs
    )
    return plan.hose(
        picks.suction, "H1", strained, plan.place("pump inlet", picks.pump_height_mm), "suction"
    )


def drawn(plan: LayoutPlan) -> str:
    """From the tank through the pumps: those made for it hang in the tank on a hanger, their
    strainers at their inlets; others stand outside, behind a suction hose.
    """
    picks = plan.picks
    if not plan.hang(*picks.pumps):
        return pumps(plan, suction(plan), picks.pump_height_mm)
    if "suction" in picks.model_fields_set:  # a hose in the tank, from the pickup to the pumps
        return hanger(plan, pumps(plan, suction(plan, "in the tank"), picks.tank_height_mm), "N11")
    inlet = plan.place("pump inlet", picks.tank_height_mm)
    plan.through(
        sock(picks, len(picks.pumps)),
        "E1",
        "strainer",
        plan.tank(),
        inlet,
        role="suction",
        runs="in the tank",
    )
    return hanger(plan, pumps(plan, inlet, picks.tank_height_mm), "N11", len(picks.pumps))


def sock(picks: Picks, count: int) -> str:
    """What strains the fuel of so many pumps in a tank: a sock on each, or the strainer that
    somebody picked.
    """
    return (
        picks.strainer
        if "strainer" in picks.model_fields_set
        else picks.sock + ("" if count == 1 else f"-{count}")
    )


def hanger(plan: LayoutPlan, start: str, element_id: str, count: int = 1) -> str:
    """What so many pumps hang from: the way out through the tank's top."""
    picked = plan.picks.hanger + (
        "" if count == 1 or "hanger" in plan.picks.model_fields_set else f"-{count}"
    )
    return plan.through(
        picked,
        element_id,
        "fitting",
        start,
        plan.place(f"{element_id} out", plan.heights[start]),
        runs="tank top",
    )


def pumps(plan: LayoutPlan, inlet: str, height: float) -> str:
    """One to three pumps side by side at a height [mm], each with its check valve where one is
    picked, up to where they are one line.
    """
    picks = plan.picks
    count = len(picks.pumps)
    for i, pump in enumerate(picks.pumps, start=1):
        end = plan.place("merge out" if count == 1 else f"merge {'abc'[i - 1]}", height)
        if picks.check is None:
            plan.through(pump, f"P{i}", "pump", inlet, end)
        else:
            plan.through(pump, f"P{i}", "pump", inlet, plan.place(f"P{i} out", height))
            plan.through(picks.check, f"K{i}", "check", f"P{i} out", end)
            if plan.brief.use == "flight" and count > 1:
                pump_gauge(plan, i)
    out = plan.place("merge out", height)
    if count == 2:
        plan.fit(picks.merge, "Y1", "merge", {"a": "merge a", "b": "merge b", "end": out})
    if count == 3:
        plan.place("merge d", height)
        plan.fit(picks.merge, "Y1", "merge", {"a": "merge a", "b": "merge b", "end": "merge d"})
        plan.fit(picks.merge, "Y4", "merge", {"a": "merge d", "b": "merge c", "end": out})
    return out


def pump_gauge(plan: LayoutPlan, i: int, at: str = "") -> None:
    """A sensor between a pump and its check valve, or at another place: in flight a dead one of two
    must be seen.
    """
    plan.fit("sender-10bar", f"T{10 + i}", "gauge", {"start": at or f"P{i} out"}, runs=f"pump {i}")


def lift(plan: LayoutPlan) -> None:
    """The tank behind a pot: strainer, lift pump, line to the pot, and the overflow back."""
    picks = plan.picks
    plan.tank("S2", picks.lift_tank, "tank outlet", -1.0, "main tank")
    hung, count = plan.hang(picks.lift_pump), picks.lift_pumps
    strainer = (
        sock(picks, count)
        if hung and "lift_strainer" not in picks.model_fields_set
        else picks.lift_strainer
    )
    plan.through(
        strainer,
        "E2",
        "strainer",
        "tank outlet",
        plan.place("lift in", -1.0),
        role="suction",
        runs="in the tank" if hung else "at the tank",
    )
    for i in range(count):
        tag, nth = (9, "") if i == 0 else (9 + 10 * i, f" {i + 1}")
        if hung:
            plan.through(
                picks.lift_pump, f"P{tag}", "pump", "lift in", plan.place(f"lift out{nth}", -1.0)
            )
            plan.hose(
                picks.lift_feed, f"H{tag + 4}", hanger(plan, f"lift out{nth}", f"N{tag + 3}"), "pot"
            )
        else:
            plan.hose(
                picks.lift_suction,
                f"H{tag + 3}",
                "lift in",
                plan.place(f"lift pump in{nth}", -20.0),
                "suction",
            )
            plan.through(
                picks.lift_pump,
                f"P{tag}",
                "pump",
                f"lift pump in{nth}",
                plan.place(f"lift out{nth}", -20.0),
            )
            plan.hose(picks.lift_feed, f"H{tag + 4}", f"lift out{nth}", "pot")
    plan.overflow(picks.overflow, "H14")


def fine_filter(plan: LayoutPlan, start: str) -> str:
    """The hose to the fine filter, and the filter."""
    plan.hose(plan.picks.delivery, "H2", start, plan.place("filter in"))
    return plan.through(plan.picks.filter, "F2", "filter", "filter in", plan.place("filter out"))


def feed(plan: LayoutPlan, start: str, end: str) -> str:
    """The feed hose, and the damper where one is picked."""
    picks, height = plan.picks, plan.picks.rail_height_mm
    if picks.damper is None:
        return plan.hose(picks.feed, "H3", start, plan.place(end, height))
    plan.hose(picks.feed, "H3", start, plan.place("damper in", height))
    return plan.through(picks.damper, "D1", "damper", "damper in", plan.place(end, height))


def rails(plan: LayoutPlan, start: str) -> str:
    """The rails with their injectors, up to where what is left over goes on."""
    picks, height = plan.picks, plan.picks.rail_height_mm
    count = plan.brief.cylinders
    first = count - count // 2
    each = count if picks.rails == "single" else first
    rail = picks.rail or next(name for most, name in RAILS if each <= most)
    if picks.rails == "single":
        end = plan.through(rail, "RL", "rail", start, plan.place("rail out", height))
        plan.injectors("J1", end, count)
        return end
    if picks.rails == "parallel":
        for name in (
            "split a",
            "split b",
            "rail 1 in",
            "rail 2 in",
            "rail out",
            "rail 2 out",
            "join a",
            "join b",
            "rails out",
        ):
            plan.place(name, height)
        plan.fit(picks.split, "Y2", "split", {"start": start, "a": "split a", "b": "split b"})
        plan.hose(picks.to_rails[0], "H7", "split a", "rail 1 in")
        plan.hose(picks.to_rails[1], "H8", "split b", "rail 2 in")
        plan.through(rail, "RL", "rail", "rail 1 in", "rail out")
        plan.through(rail, "RL2", "rail", "rail 2 in", "rail 2 out")
        plan.injectors("J1", "rail out", first)
        plan.injectors("J2", "rail 2 out", max(count // 2, 1))
        plan.hose(picks.from_rails[0], "H9", "rail out", "join a", "return")
        plan.hose(picks.from_rails[1], "H10", "rail 2 out", "join b", "return")
        plan.fit(
            picks.join,
            "Y3",
            "merge",
            {"a": "join a", "b": "join b", "end": "rails out"},
            role="return",
        )
        return "rails out"
    end = plan.through(rail, "RL", "rail", start, plan.place("rail out", height))
    plan.injectors("J1", end, first)
    plan.hose(picks.cross, "H7", end, plan.place("rail 2 in", height))
    last = plan.through(rail, "RL2", "rail", "rail 2 in", plan.place("rail 2 out", height))
    plan.injectors("J2", last, max(count // 2, 1))
    return end if picks.rails == "dead-end" else last


def home(plan: LayoutPlan, start: str, tank: str = "pot") -> None:
    """Back to the tank from behind the regulator, past the ethanol sensor where one is picked."""
    picks = plan.picks
    if picks.ethanol_sensor is not None:
        height = picks.rail_height_mm
        start = plan.through(
            picks.ethanol_sensor,
            "T2",
            "sensor",
            start,
            plan.place("sensor out", height),
            role="return",
        )
    plan.hose(picks.back, "H4", start, plan.place("tank inlet", plan.heights[tank]), "return")
    plan.through(picks.tank_inlet, "N1", "fitting", "tank inlet", tank, role="return")


def around(plan: LayoutPlan, gauge_at: str, reference: bool) -> None:
    """Gauge, a vent for each airspace with its roll-over valve on the road, and the reference line
    of a regulator that has a port for one.
    """
    picks = plan.picks
    if picks.gauge is not None:
        plan.fit(
            picks.gauge,
            "T1",
            "gauge",
            {"start": gauge_at},
            runs=next((w for x, w in GAUGED if x in gauge_at), "at the regulator"),
        )
    for i, _ in enumerate(plan.airspaces()):
        plan.air(picks.vent, "H5" if i == 0 else f"H{50 + i}", "vent")
        if plan.brief.use != "flight":
            plan.fit(
                "vent-rollover-8", "N2" if i == 0 else f"N{20 + i}", "vent_valve", {}, role="vent"
            )
    if reference:
        plan.air(picks.reference, "H6", "reference")
