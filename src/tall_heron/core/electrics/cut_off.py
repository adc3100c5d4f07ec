"""What lets pumps run and what stops them, as a state machine: inputs in, one of six states and a
reason out.

Time is counted in whole ticks, so that the page's twin (static/cut-off.js) says the same.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from itertools import product
from typing import Literal

from tall_heron.core.base.lru_cache import LruCache
from tall_heron.core.document.wiring import CutOff

TICK = 0.1  # s
Mode = Literal["off", "prime", "crank", "run", "stopped", "latched"]
Fault = Literal[
    "",
    "relay welded",
    "relay dead",
    "coil wire off",
    "87a used",
    "ignition stuck on",
    "oil switch stuck",
    "control unit stuck",
    "inertia switch stuck",
    "roll-over switch stuck",
]
NEVER = 10**6  # ticks


@dataclass(frozen=True)
class Inputs:
    """What is so at a moment: ignition on, starter cranking, engine turning by itself, oil pressure
    lost though it turns, a crash felt, rolled over, the kill switch pulled, the tank's level switch
    empty, the override held, the latch reset by hand.
    """

    ignition: bool = False
    cranking: bool = False
    turning: bool = False
    oil_lost: bool = False
    crash: bool = False
    rolled: bool = False
    killed: bool = False
    empty: bool = False
    override: bool = False
    reset: bool = False


@dataclass(frozen=True)
class CutOffState:
    """Where the machine is: its mode, whether the pumps have current, why, ticks since the ignition
    came on and since the engine last turned, whether it has turned since then, and what has
    latched.
    """

    mode: Mode = "off"
    pumps: bool = False
    why: str = "ignition off"
    on: int = 0
    still: int = NEVER
    turned: bool = False
    latched: str = ""


def ticks(seconds: float) -> int:
    """A time in ticks, nearest."""
    return int(seconds / TICK + 0.5)


def settled(cut: CutOff) -> int:
    """How many ticks after the last switch nothing changes any more: every time that is set has run
    out by then.
    """
    return ticks(max(cut.prime_s, cut.oil_falls_s, cut.control_unit_s)) + 2


def step(cut: CutOff, s: CutOffState, x: Inputs, fault: Fault = "") -> CutOffState:
    """One tick later. With `automatic` off, the ignition stands for the pump's own switch and
    nothing else is looked at.
    """
    ignition = x.ignition or fault == "ignition stuck on"
    on = s.on + 1 if ignition else 0
    still = 0 if x.turning else min(s.still + 1, NEVER)
    turned = ignition and (s.turned or x.turning)
    latched = _latched(cut, s, x, fault)
    base = replace(s, on=on, still=still, turned=turned, latched=latched)
    mode, coil, why = _wanted(cut, base, x, ignition, fault)
    dead = x.killed and (
        cut.kill == "battery and alternator" or (cut.kill == "battery" and not x.turning)
    )
    cut_supply = bool(latched) and cut.breaks == "supply"
    closed = coil
    if fault in ("relay dead", "coil wire off"):
        closed, why = False, f"{fault}: nothing closes the relay" if coil else why
    elif fault == "relay welded":
        closed, why = True, why if coil else "the relay is welded: its contact stays closed"
    elif fault == "87a used":
        closed, why = (
            not coil,
            "the pump hangs at 87a, which is live at rest"
            if not coil
            else "87a is open while the coil is fed",
        )
    if closed and dead:
        closed, why = False, "the kill switch has taken all current away"
    elif closed and cut_supply:
        closed, why = False, f"{latched}: the supply is broken until it is reset by hand"
    return replace(base, mode=mode, pumps=closed, why=why)


def _latched(cut: CutOff, s: CutOffState, x: Inputs, fault: Fault) -> str:
    if s.latched:
        return "" if x.reset and not x.crash and not x.rolled else s.latched
    if not cut.automatic:
        return ""
    if x.crash and cut.inertia and fault != "inertia switch stuck":
        return "inertia switch"
    return (
        "roll-over switch"
        if x.rolled and cut.roll_over and fault != "roll-over switch stuck"
        else ""
    )


def _wanted(
    cut: CutOff, s: CutOffState, x: Inputs, ignition: bool, fault: Fault
) -> tuple[Mode, bool, str]:
    """The mode, whether the relay's coil is fed, and why."""
    if not cut.automatic:
        return (
            ("run", True, "its own switch is on; nothing automatic stops it")
            if ignition
            else ("off", False, "its own switch is off")
        )
    if s.latched:
        return "latched", False, f"{s.latched} has opened, until it is reset by hand"
    if x.killed and cut.kill != "none" and not (cut.kill == "battery" and x.turning):
        return "stopped", False, "the kill switch is pulled"
    if not ignition:
        return "off", False, "ignition off"
    if x.override:
        return "run", True, "override held: it says so in the record"
    if x.empty and cut.level:
        return "stopped", False, "the level switch says empty"
    if x.cranking and cut.crank and (cut.start_bypass or not cut.oil_switch):
        return "crank", True, "the starter turns"
    signals = []
    if cut.oil_switch:
        oil = (s.still <= ticks(cut.oil_falls_s) and not x.oil_lost) or fault == "oil switch stuck"
        signals.append(("oil pressure", oil))
    if cut.control_unit:
        says = (
            s.still <= ticks(cut.control_unit_s)
            or fault == "control unit stuck"
            or (x.cranking and s.turned)
        )
        signals.append(("the control unit", says))
    if signals and all(on for _, on in signals) and (s.turned or fault):
        return (
            "run",
            True,
            " and ".join(name for name, _ in signals)
            + (" say so" if len(signals) > 1 else " says so"),
        )
    if not signals:
        return "run", True, "the ignition is on, and nothing else is asked"
    if not s.turned and s.on <= ticks(cut.prime_s):
        return "prime", True, f"prime, {cut.prime_s:g} s from the ignition"
    lacks = ", ".join(name for name, on in signals if not on) or "an engine that has turned"
    return "stopped", False, f"no {lacks}".replace("no the ", "not the ")


@dataclass(frozen=True)
class Event:
    """From a time [s] on, inputs that are other than before."""

    at: float
    changes: tuple[tuple[str, bool], ...]


def trace(
    cut: CutOff, events: Iterable[Event], seconds: float, fault: Fault = ""
) -> Iterator[tuple[float, Inputs, CutOffState]]:
    """Time [s], inputs and state at every tick of a script; `reset` holds for its tick alone."""
    waiting = sorted(events, key=lambda e: e.at)
    inputs, state = Inputs(), CutOffState()
    for tick in range(ticks(seconds) + 1):
        if inputs.reset:
            inputs = replace(inputs, reset=False)
        while waiting and ticks(waiting[0].at) <= tick:
            inputs = replace(inputs, **dict(waiting.pop(0).changes))
        state = step(cut, state, inputs, fault)
        yield tick * TICK, inputs, state


@dataclass(frozen=True)
class TraceRow:
    """A row of the truth table: what is so, whether pumps run once it has been so for a while, and
    why.
    """

    inputs: Inputs
    pumps: bool
    mode: Mode
    why: str


def truth_table(cut: CutOff) -> list[TraceRow]:
    """Every steady state that can be: each input that is fitted, on and off, after the engine has
    turned. No engine turns without ignition, and none turns while it is cranked.
    """
    names = ["ignition", "turning", "cranking"]
    names += ["oil_lost"] if cut.automatic and cut.oil_switch else []
    names += ["crash"] if cut.automatic and cut.inertia else []
    names += ["rolled"] if cut.automatic and cut.roll_over else []
    names += ["killed"] if cut.automatic and cut.kill != "none" else []
    names += ["empty"] if cut.automatic and cut.level else []
    rows = []
    for values in product((False, True), repeat=len(names)):
        x = Inputs(**dict(zip(names, values, strict=True)))
        if (
            (not x.ignition and (x.turning or x.cranking))
            or (x.turning and x.cranking)
            or (x.oil_lost and not x.turning)
        ):
            continue
        state = CutOffState()
        if x.ignition:
            state = step(cut, state, Inputs(ignition=True, turning=True))
        for _ in range(settled(cut)):
            state = step(cut, state, x)
        rows.append(TraceRow(x, state.pumps, state.mode, state.why))
    return rows


START = (
    Event(0.5, (("ignition", True),)),
    Event(4.0, (("cranking", True),)),
    Event(5.0, (("cranking", False), ("turning", True))),
)
STARTED_S = 9.9  # when the engine has turned for a while


@dataclass(frozen=True)
class Walked:
    """One fault, walked: what it is, whether the pumps start and run, whether they stop after the
    engine stalls, after a crash, and with the ignition off, and how long each took [s] (None:
    never).
    """

    fault: Fault
    runs: bool
    stalled_s: float | None
    crash_s: float | None
    off_s: float | None


def faults_of(cut: CutOff) -> list[Fault]:
    """Every single fault of what is fitted; none first."""
    out: list[Fault] = [
        "",
        "relay welded",
        "relay dead",
        "coil wire off",
        "87a used",
        "ignition stuck on",
    ]
    if cut.automatic:
        out += ["oil switch stuck"] if cut.oil_switch else []
        out += ["control unit stuck"] if cut.control_unit else []
        out += ["inertia switch stuck"] if cut.inertia else []
        out += ["roll-over switch stuck"] if cut.roll_over else []
    return out


def walk(cut: CutOff, fault: Fault) -> Walked:
    """One fault through a start, and from there through a stall with the ignition left on, a crash
    in which the engine stops, and a key turned off; worked out once for a cut-off.
    """
    return _walks.get((cut.model_dump_json(), fault), lambda: _walked(cut, fault))


_walks = LruCache[Walked](128)


def _walked(cut: CutOff, fault: Fault) -> Walked:
    started = list(trace(cut, START, STARTED_S, fault))
    _, inputs, state = started[-1]

    def until(**changes: bool) -> float | None:
        x, now, last = replace(inputs, **changes), state, -1
        for tick in range(settled(cut)):
            now = step(cut, now, x, fault)
            last = tick if now.pumps else last
        return None if last == settled(cut) - 1 else round((last + 1) * TICK, 6)

    runs = all(s.pumps for t, _, s in started if t > STARTED_S - 1)
    return Walked(
        fault,
        runs,
        until(turning=False),
        until(turning=False, crash=True),
        until(turning=False, ignition=False),
    )
