"""The cut-off machine: whatever is thrown in whatever order, a pump runs only for a reason, and
stops when it should; faults are walked, the truth table is complete.
"""

from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

from tall_heron.core.document.wiring import CutOff
from tall_heron.core.electrics.cut_off import (
    START,
    TICK,
    CutOffState,
    Event,
    Inputs,
    faults_of,
    step,
    ticks,
    trace,
    truth_table,
    walk,
)
from tall_heron.core.electrics.cut_off_claims import properties

SOUND = CutOff(breaks="supply")
cut_offs = st.builds(
    CutOff,
    automatic=st.booleans(),
    prime_s=st.sampled_from([0.0, 0.3, 2.0]),
    crank=st.booleans(),
    oil_switch=st.booleans(),
    oil_falls_s=st.sampled_from([0.0, 0.5, 3.0]),
    start_bypass=st.booleans(),
    control_unit=st.booleans(),
    control_unit_s=st.sampled_from([0.0, 0.4, 1.0]),
    inertia=st.booleans(),
    roll_over=st.booleans(),
    breaks=st.sampled_from(["coil", "supply"]),
    kill=st.sampled_from(["none", "battery", "battery and alternator"]),
    level=st.booleans(),
)


class Thrown(RuleBasedStateMachine):
    """Any switch at any tick; what must hold is reckoned beside it from the inputs alone, not from
    the machine's own state.
    """

    @initialize(cut=cut_offs)
    def begin(self, cut: CutOff) -> None:
        self.cut, self.state, self.x = cut, CutOffState(), Inputs()
        self.since_turning, self.since_on, self.ever, self.open = 10**6, 0, False, False
        self.alone = 0

    @rule(
        name=st.sampled_from(
            ["ignition", "cranking", "turning", "oil_lost", "crash", "rolled", "killed", "empty"]
        ),
        on=st.booleans(),
        wait=st.integers(1, 12),
    )
    def throw(self, name: str, on: bool, wait: int) -> None:
        changes: dict[str, Any] = {name: on}
        if name == "turning" and on:
            changes |= {"ignition": True, "cranking": False}
        if name == "ignition" and not on:
            changes |= {"turning": False, "cranking": False}
        self.x = replace(self.x, **changes)
        for _ in range(wait):
            self.tick()

    @rule()
    def put_right(self) -> None:
        self.x = replace(self.x, crash=False, rolled=False, reset=True)
        self.tick()
        self.x = replace(self.x, reset=False)

    def tick(self) -> None:
        x, cut = self.x, self.cut
        if self.open:
            self.open = not (x.reset and not x.crash and not x.rolled)
        else:
            self.open = cut.automatic and (
                (x.crash and cut.inertia) or (x.rolled and cut.roll_over)
            )
        self.since_turning = 0 if x.turning else self.since_turning + 1
        self.since_on = self.since_on + 1 if x.ignition else 0
        self.ever = x.ignition and (self.ever or x.turning)
        self.state = step(cut, self.state, x)

    @invariant()
    def a_latch_holds_until_it_is_reset(self) -> None:
        assert bool(self.state.latched) == self.open
        assert not (self.open and self.state.pumps)

    @invariant()
    def no_pump_runs_without_ignition(self) -> None:
        assert self.x.ignition or not self.state.pumps

    @invariant()
    def no_pump_without_a_reason(self) -> None:
        """Some signal is fitted, the engine stands and has stood for longer than any of them holds,
        nobody cranks, and prime is over: then none runs.
        """
        cut, x = self.cut, self.x
        if not cut.automatic or not (cut.oil_switch or cut.control_unit) or x.cranking or x.turning:
            return
        longest = max(
            cut.oil_falls_s if cut.oil_switch else 0, cut.control_unit_s if cut.control_unit else 0
        )
        if self.since_turning > ticks(longest) + 1 and (
            self.ever or self.since_on > ticks(cut.prime_s) + 1
        ):
            assert not self.state.pumps, self.state.why

    @invariant()
    def killed_is_dead(self) -> None:
        if self.x.killed and (
            self.cut.kill == "battery and alternator"
            or (self.cut.kill == "battery" and not self.x.turning)
        ):
            assert not self.state.pumps

    @invariant()
    def cranking_feeds_without_oil_pressure(self) -> None:
        cut, x = self.cut, self.x
        free = not self.open and not x.killed and not x.empty
        if (
            cut.automatic
            and x.cranking
            and x.ignition
            and free
            and cut.crank
            and (cut.start_bypass or not cut.oil_switch)
        ):
            assert self.state.pumps

    @invariant()
    def a_sound_engine_is_fed(self) -> None:
        x = self.x
        if (
            x.turning
            and x.ignition
            and not (x.oil_lost or x.killed or x.empty or x.cranking)
            and not self.open
        ):
            assert self.state.pumps, self.state.why

    @invariant()
    def a_switch_of_ones_own_is_obeyed(self) -> None:
        if not self.cut.automatic and not self.x.killed:
            assert self.state.pumps == self.x.ignition


TestThrown = Thrown.TestCase
TestThrown.settings = settings(max_examples=25, stateful_step_count=200, deadline=None)


def test_prime_runs_its_time_and_no_longer() -> None:
    runs = [
        round(t, 1)
        for t, _, s in trace(SOUND, [Event(1.0, (("ignition", True),))], 10.0)
        if s.pumps
    ]
    assert (runs[0], runs[-1]) == (1.0, 2.9)


@pytest.mark.parametrize(
    ("cut", "stall"),
    [
        (SOUND, 1.0),
        (CutOff(control_unit_s=2.0), 2.0),
        (CutOff(control_unit=False, oil_switch=True), 3.0),
        (CutOff(control_unit=False), None),
    ],
)
def test_after_a_stall_the_pumps_stop_in_the_time_that_is_set(
    cut: CutOff, stall: float | None
) -> None:
    assert walk(cut, "").stalled_s == stall


def test_faults_by_hand() -> None:
    """Relay welded: only a break of the supply itself stops the pumps. Inertia switch stuck: the
    control unit does, a second later. 87a used: they run at rest.
    """
    coil, supply = CutOff(breaks="coil"), SOUND
    assert walk(coil, "relay welded").crash_s is None
    assert walk(supply, "relay welded").crash_s == 0.0
    assert walk(supply, "relay welded").off_s is None
    assert walk(supply, "inertia switch stuck").crash_s == pytest.approx(1.0)
    assert not walk(supply, "coil wire off").runs
    assert walk(supply, "87a used").off_s is None
    assert walk(CutOff(oil_switch=True), "control unit stuck").stalled_s == pytest.approx(
        3.0
    )  # the other of the two stops it
    assert walk(CutOff(automatic=False), "").crash_s is None
    assert walk(supply, "ignition stuck on").off_s == pytest.approx(1.0)
    assert "oil switch stuck" in faults_of(CutOff(oil_switch=True))
    assert faults_of(CutOff(automatic=False))[-1] == "ignition stuck on"


def test_a_battery_kill_switch_leaves_the_alternator() -> None:
    for kill, on in (("battery", True), ("battery and alternator", False)):
        events = [*START, Event(8.0, (("killed", True),))]
        last = list(trace(CutOff(kill=kill), events, 10.0))[-1]  # type: ignore[arg-type]
        assert last[2].pumps is on


def test_the_truth_table_has_every_state_that_can_be() -> None:
    """Ignition, turning, cranking: off; on; on and turning; on and cranking: four. A crash doubles
    them, oil lost adds to the two that turn.
    """
    assert len(truth_table(CutOff(inertia=False))) == 4
    assert len(truth_table(CutOff())) == 8
    assert len(truth_table(CutOff(oil_switch=True))) == 10
    rows = {
        (r.inputs.ignition, r.inputs.turning, r.inputs.cranking): r.pumps
        for r in truth_table(CutOff(inertia=False))
    }
    assert rows == {
        (False, False, False): False,
        (True, False, False): False,
        (True, True, False): True,
        (True, False, True): True,
    }
    assert all(
        r.why
        for r in truth_table(CutOff(oil_switch=True, roll_over=True, level=True, kill="battery"))
    )


def test_an_oil_switch_without_bypass_still_primes_and_then_does_not_crank() -> None:
    cut = CutOff(control_unit=False, oil_switch=True, start_bypass=False, prime_s=1.0)
    cranking = [s.pumps for t, x, s in trace(cut, START, 9.0) if x.cranking]
    assert not any(cranking)
    assert len(cranking) == round(1.0 / TICK)


def test_properties_hold_or_are_shown_in_the_fewest_acts() -> None:
    """By hand: with nothing but the ignition, switching it on leaves the pumps running, one act;
    without inertia switch nothing is claimed of it; a battery kill switch needs an engine that
    turns.
    """
    assert all(h.holds and not h.stopped for h in properties(SOUND))
    bare = {h.says.split()[0]: h for h in properties(CutOff(control_unit=False, inertia=False))}
    assert bare["Prime"].acts == ("ignition on",)
    assert bare["No"].acts == ("ignition on", "turning on", "turning off")
    assert "A" not in bare
    kill = {h.says.split()[1]: h for h in properties(CutOff(kill="battery"))}
    assert not kill["kill"].holds
    assert kill["kill"].acts in (
        ("ignition on", "turning on", "killed on"),
        ("ignition on", "killed on", "turning on"),
    )
    oil = {
        h.says.split()[1]: h
        for h in properties(CutOff(control_unit=False, oil_switch=True, start_bypass=False))
    }
    assert oil["starter"].acts == ("ignition on", "cranking on")
    assert properties(CutOff(automatic=False)) == []


@settings(max_examples=25, deadline=None)
@given(cut_offs)
def test_what_a_counter_example_says_can_be_played(cut: CutOff) -> None:
    """The acts of every counter-example, played on the machine with a pause after each, end with a
    pump in the wrong state.
    """
    for h in properties(cut):
        if h.holds:
            continue
        x, state = Inputs(), CutOffState()
        for act in h.acts:
            name, _, on = act.rpartition(" ")
            changes: dict[str, Any] = {name.replace(" ", "_"): on == "on"}
            if changes.get("turning"):
                changes["cranking"] = False
            if changes.get("cranking"):
                changes["turning"] = False
            if changes.get("ignition") is False:
                changes |= {"turning": False, "cranking": False}
            x = replace(x, **changes)
            x = replace(x, oil_lost=x.oil_lost and x.turning)
            for _ in range(ticks(40.0)):
                state = step(cut, state, x)
        assert state.pumps is not h.says.startswith("The starter")
