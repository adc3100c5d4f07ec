"""Each rule of the wiring fires on its fault and is silent on pumps wired by rule."""

from collections.abc import Callable
from typing import Any

import pytest

from tall_heron.core.document.build import Build
from tall_heron.core.document.circuit import Stage
from tall_heron.core.document.figures import Curve
from tall_heron.core.document.wiring import Wiring
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import set_stage
from tall_heron.core.editing.inside import with_level_gauge
from tall_heron.core.editing.route import set_zone
from tall_heron.core.editing.wiring import set_branch, set_load, set_relay, set_wiring, wire_by_rule
from tall_heron.core.routing.laid import lay_out
from tall_heron.core.rules import WIRING_RULES, check_wiring
from tall_heron.core.rules.finding import Finding
from tall_heron.core.study.study import make_study

DEMO = demo_builds()


def car(**cut: Any) -> Build:
    build = set_wiring(wire_by_rule(DEMO["bittern"]), "supply", alternator_a=120.0)
    return set_wiring(build, "cut_off", **cut) if cut else build


def plane(**cut: Any) -> Build:
    build = wire_by_rule(DEMO["egret"])
    return set_wiring(build, "cut_off", **cut) if cut else build


def branch(**changes: Any) -> Build:
    return set_branch(car(), "P1", **changes)


def relay(**changes: Any) -> Build:
    return set_relay(car(), "R1", **changes)


def one_relay(build: Build, bus: str = "1") -> Build:
    for pump in ("P1", "P2"):
        build = set_branch(build, pump, relay="R1", bus=bus)
    return build


def staged(off: float | None) -> Build:
    return set_stage(car(), "P2", Stage(by="boost", at=50.0, off_at=off))


def gauged(**sender: float) -> Build:
    build = car()
    build = build.model_copy(
        update={
            "circuit": with_level_gauge(build.circuit, build.circuit.of_kind("tank")[0].id, True)
        }
    )
    return set_wiring(build, "sender", **sender)


def without_current() -> Build:
    build = car()
    elements = []
    for e in build.circuit.elements:
        if e.id == "P2":
            figures = e.figures.model_copy(
                update={
                    "curves": [
                        Curve(voltage_v=c.voltage_v, rows=[tuple(r[:2]) for r in c.rows])
                        for c in e.figures.curves
                    ]
                }
            )  # type: ignore[union-attr]
            e = e.model_copy(update={"figures": figures})
        elements.append(e)
    return build.model_copy(
        update={"circuit": build.circuit.model_copy(update={"elements": elements})}
    )


def left_out() -> Build:
    build = car()
    assert build.wiring is not None
    return build.model_copy(
        update={
            "wiring": build.wiring.model_copy(
                update={
                    "branches": {"P1": build.wiring.branches["P1"]},
                    "relays": build.wiring.relays[:1],
                }
            )
        }
    )


def battery_beside_the_tank() -> Build:
    """The battery moved to 100 mm behind the tank's front, in the middle of the car."""
    build = car()
    laid = lay_out(build)
    tank, middle, body, _ = next(b for b in laid.stands.boxes() if b[0].kind == "tank")
    assert tank.id
    zone = next(z for z in laid.outline.zones if z.kind == "battery")
    low = (middle[0] + body.long / 2 + 100, middle[1] - 90, middle[2] - 90)
    return set_zone(
        build,
        zone.model_copy(update={"low": low, "high": (low[0] + 200, low[1] + 180, low[2] + 180)}),
    )


FAULTS: list[tuple[str, Callable[[], Build], str, Callable[[], Build]]] = [
    ("W-01", lambda: branch(feed={"size": "2.5 mm²", "length_mm": 6000.0}), "Check", car),
    ("W-02", lambda: branch(feed={"size": "1 mm²"}), "Stop", car),
    ("W-02", lambda: relay(supply={"size": "0.75 mm²"}), "Stop", car),
    (
        "W-02",
        lambda: set_wiring(car(), "", ambient_c=104.0),
        "Stop",
        lambda: set_wiring(car(), "", ambient_c=90.0),
    ),
    ("W-03", lambda: branch(fuse_a=10.0), "Stop", lambda: branch(fuse_a=15.0)),
    ("W-04", lambda: branch(fuse_a=30.0), "Check", lambda: branch(fuse_a=20.0)),
    ("W-05", lambda: relay(contact_a=10.0), "Check", car),
    ("W-05", lambda: branch(connector_a=10.0), "Check", lambda: branch(connector_a=20.0)),
    (
        "W-05",
        lambda: set_branch(plane(), "P1", switch_a=6.0),
        "Check",
        lambda: set_branch(plane(), "P1", switch_a=15.0),
    ),
    (
        "W-06",
        lambda: car(control_unit=False),
        "Stop",
        lambda: car(control_unit=False, oil_switch=True),
    ),
    ("W-06", lambda: car(inertia=False), "Check", lambda: car(inertia=False, roll_over=True)),
    ("W-06", lambda: car(automatic=False), "Stop", car),
    ("W-07", lambda: car(breaks="coil"), "Stop", car),
    (
        "W-08",
        lambda: car(oil_switch=True, control_unit=False, start_bypass=False, prime_s=0.0),
        "Check",
        lambda: car(oil_switch=True, control_unit=False, start_bypass=True, prime_s=0.0),
    ),
    ("W-09", lambda: relay(terminal_87a="open"), "Check", car),
    ("W-09", lambda: relay(terminal_87a="used"), "Stop", lambda: relay(terminal_87a="not there")),
    ("W-09", lambda: relay(suppressed=False), "Note", car),
    ("W-10", lambda: one_relay(car()), "Check", car),
    ("W-10", lambda: one_relay(plane()), "Stop", plane),
    ("W-10", lambda: set_branch(plane(), "P2", bus="1"), "Check", plane),
    ("W-11", lambda: plane(automatic=True), "Stop", plane),
    ("W-12", lambda: car(kill="battery"), "Stop", lambda: car(kill="battery and alternator")),
    (
        "W-13",
        lambda: set_wiring(car(), "supply", alternator_a=60.0),
        "Check",
        lambda: set_wiring(car(), "supply", alternator_a=160.0),
    ),
    (
        "W-13",
        lambda: set_wiring(car(), "supply", alternator_a=100.0),
        "Note",
        lambda: set_wiring(car(), "supply", alternator_a=160.0),
    ),
    ("W-14", lambda: set_wiring(plane(), "supply", battery_ah=4.0), "Check", plane),
    ("W-14", lambda: set_load(plane(), "heater", 200.0), "Check", plane),
    ("W-15", left_out, "Check", lambda: DEMO["bittern"].model_copy(update={"wiring": Wiring()})),
    ("W-15", without_current, "Check", car),
    ("W-16", lambda: gauged(empty_ohm=50.0, full_ohm=50.0), "Check", gauged),
    ("W-20", battery_beside_the_tank, "Check", car),
    ("W-19", lambda: branch(relay=""), "Check", car),
    ("W-18", plane, "Note", car),
    ("W-17", lambda: staged(None), "Note", lambda: staged(40.0)),
    ("W-17", lambda: staged(49.0), "Note", lambda: staged(40.0)),
]


def found(build: Build, rule: str) -> list[Finding]:
    return [f for f in check_wiring(make_study(build))[0] if f.rule == rule]


@pytest.mark.parametrize(
    ("rule", "fault", "level", "sound"),
    FAULTS,
    ids=[f"{r}-{i}" for i, (r, *_) in enumerate(FAULTS)],
)
def test_a_rule_fires_and_is_silent(
    rule: str, fault: Callable[[], Build], level: str, sound: Callable[[], Build]
) -> None:
    met = found(fault(), rule)
    assert level in {f.level for f in met}
    for f in met:
        assert f.station == "wiring"
        assert f.why
        assert f.do
        assert f.source
        f.title.format(**dict.fromkeys(f.figures, ""))
    assert not [f for f in found(sound(), rule) if f.level == level]


def test_every_rule_has_a_fault_here() -> None:
    assert {r.id for r in WIRING_RULES} == {rule for rule, *_ in FAULTS}


def test_nothing_is_said_of_a_build_without_wires() -> None:
    assert check_wiring(make_study(DEMO["bittern"])) == ([], [])
