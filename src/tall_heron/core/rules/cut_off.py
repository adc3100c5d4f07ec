"""What stops the pumps, and what must not. All of it of builds that somebody has wired."""

from collections.abc import Iterator

from tall_heron.core.electrics.cut_off import faults_of, walk
from tall_heron.core.rules.finding import Finding
from tall_heron.core.rules.rule import Rule, drives, flies
from tall_heron.core.rules.wired import first_pump, harness_in, wire_finding
from tall_heron.core.study.cases.supply import electric
from tall_heron.core.study.study import Study


def nothing_stops_it(study: Study) -> Iterator[Finding]:
    """On wheels something must stop the pumps when the engine stops."""
    cut = harness_in(study).wiring.cut_off
    first = first_pump(study)
    if not cut.automatic or not (cut.oil_switch or cut.control_unit):
        yield wire_finding(
            "Stop",
            first,
            "Nothing stops the pumps when the engine stops",
            "After a crash with the ignition on they go on feeding whatever has broken.",
            "Let an oil-pressure switch or the control unit hold the relay.",
        )
    elif not (cut.inertia or cut.roll_over):
        yield wire_finding(
            "Check",
            first,
            "No inertia or roll-over switch stops the pumps",
            "A crash need not stop the engine at once, and a torn line is fed until it does.",
            "Fit an inertia switch; reset is by hand.",
        )


def runs_after_a_crash(study: Study) -> Iterator[Finding]:
    """One fault that leaves a pump running after a crash."""
    cut = harness_in(study).wiring.cut_off
    if not cut.automatic or not (cut.oil_switch or cut.control_unit):
        return
    for fault in faults_of(cut):
        met = walk(cut, fault)
        if met.crash_s is None:
            yield wire_finding(
                "Stop",
                first_pump(study),
                f"With one fault the pumps run on after a crash: {fault or 'none at all'}"
                if fault
                else "The pumps run on after a crash",
                "One part that sticks must not be able to feed a fire.",
                "Let the inertia switch break the supply itself, not only the relay's coil, or fit a second thing that stops them.",
            )
            return


def cannot_start(study: Study) -> Iterator[Finding]:
    """An oil-pressure switch without a bypass for starting."""
    cut = harness_in(study).wiring.cut_off
    if cut.automatic and not walk(cut, "").runs:
        yield wire_finding(
            "Stop",
            first_pump(study),
            "The engine cannot be started as it is wired",
            "Nothing feeds it until it turns, and it does not turn until it is fed.",
            "Bypass the oil-pressure switch while the starter turns.",
        )
    elif cut.automatic and cut.oil_switch and not cut.start_bypass and cut.prime_s <= 0:
        yield wire_finding(
            "Check",
            first_pump(study),
            "No pump runs while the starter turns",
            "There is no oil pressure then, and the oil switch has no bypass.",
            "Bypass it from the starter's terminal.",
        )


def automatic_in_flight(study: Study) -> Iterator[Finding]:
    """Something automatic that could stop an aircraft's pump."""
    if harness_in(study).wiring.cut_off.automatic:
        yield wire_finding(
            "Stop",
            first_pump(study),
            "Something automatic can stop the pumps in flight",
            "An inertia switch that trips in turbulence, or an oil switch that fails, stops the engine. In the air a running pump is the lesser evil.",
            "Give each pump a switch, a fuse and a feed of its own, and nothing else.",
        )


def kill_leaves_it(study: Study) -> Iterator[Finding]:
    """A kill switch that takes only the battery away."""
    if harness_in(study).wiring.cut_off.kill == "battery":
        yield wire_finding(
            "Stop",
            first_pump(study),
            "The kill switch takes the battery away and leaves the alternator",
            "A running alternator goes on feeding ignition and pumps: nothing stops.",
            "Fit a switch with a second pole for the alternator's field or the ignition.",
        )


CP = "common practice"
RULES = (
    Rule(
        "W-06",
        "On wheels, pumps stop with the engine.",
        CP,
        nothing_stops_it,
        lambda s: electric(s) and drives(s),
    ),
    Rule(
        "W-07",
        "No single fault leaves a pump running after a crash.",
        CP,
        runs_after_a_crash,
        lambda s: electric(s) and drives(s),
    ),
    Rule("W-08", "The engine can be started as it is wired.", "arithmetic", cannot_start, electric),
    Rule(
        "W-11",
        "In flight nothing automatic stops a pump.",
        CP,
        automatic_in_flight,
        lambda s: electric(s) and flies(s),
    ),
    Rule("W-12", "The kill switch stops the alternator too.", CP, kill_leaves_it, electric),
)
