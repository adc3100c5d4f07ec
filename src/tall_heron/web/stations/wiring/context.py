"""What the pages of station 7 show."""

from collections.abc import Callable
from typing import Any

from flask import request

from tall_heron.core.base.catalogue import by_name, house_figure
from tall_heron.core.design import Design
from tall_heron.core.editing.wiring import electric_pumps
from tall_heron.core.electrics import cut_off, cut_off_claims
from tall_heron.core.electrics.budget import surge, usable_ah
from tall_heron.core.electrics.feeds import drop_allowed
from tall_heron.core.electrics.harness import Feed, Harness, Wire
from tall_heron.core.electrics.sender import SenderSheet, best_pull_up, make_sender_sheet
from tall_heron.core.electrics.volt_walk import volt_walk
from tall_heron.core.electrics.wire import area_mm2, sizes
from tall_heron.core.sheets.loom import make_loom
from tall_heron.core.study.cases.speed_loop import BAND, STEP_S, Loop, speed_loop
from tall_heron.core.study.cases.supply import balances, battery_alone
from tall_heron.core.study.what_if import current_of
from tall_heron.web.answers import Stored
from tall_heron.web.drawing.charts.curve import CurveChart, CurveLine, Dot, make_curve_chart
from tall_heron.web.drawing.wiring.schematic import WIDE, draw_schematic
from tall_heron.web.drawing.wiring.volt_chart import HIGH as VOLT_HIGH
from tall_heron.web.drawing.wiring.volt_chart import WIDE as VOLT_WIDE
from tall_heron.web.drawing.wiring.volt_chart import draw_volts
from tall_heron.web.frame import frame
from tall_heron.web.show.figures import head_figures
from tall_heron.web.show.text import in_unit, number, shown, unit_of

VIEWS = {
    "circuit": "Circuit",
    "cut-off": "Cut-off",
    "supply": "Alternator, battery",
    "sender": "Level sender",
    "speed": "Speed control",
    "loom": "Loom sheet",
}
EVERY, FROM_S = 10, 0.5  # steps of the loop between points of its chart; when it has found its feet
SWITCHES = (
    ("ignition", "Ignition", True),
    ("cranking", "Starter", True),
    ("turning", "Engine turns", True),
    ("oil_lost", "Oil pressure lost", False),
    ("crash", "Crash", False),
    ("rolled", "Rolled over", False),
    ("killed", "Kill switch", False),
    ("empty", "Tank empty", False),
    ("override", "Override", False),
)


class Said:
    """Figures of the schematic in the reader's units, at the peak."""

    def __init__(self, made: Design, harness: Harness) -> None:
        self.solution, self.volts = made.study.peak.solution, harness.volts

    def wire(self, wire: Wire) -> str:
        """Number and size."""
        return f"{wire.number} {wire.size}"

    def long(self, wire: Wire) -> str:
        """Length, and the builder's color."""
        return (
            f"{shown(wire.long_mm / 1000, 'run', 2)}{', ' + wire.color[:10] if wire.color else ''}"
        )

    def pump(self, pump: str) -> str:
        """Volts and amperes."""
        volts, ampere = self.solution.voltage(pump), current_of(self.solution, pump)
        return f"{volts:.2f} V, {ampere:.1f} A" if volts is not None and ampere else "stands"

    def fuse(self, ampere: float | None) -> str:
        """Its rating."""
        return f"{ampere:g} A" if ampere is not None else "none fits"

    def source(self) -> str:
        """The system's voltage."""
        return f"{self.volts:g} V"


def _page(found: Stored, made: Design, view: str) -> dict[str, Any]:
    out = frame(found, made, "wiring")
    here = out["here"] if view == "circuit" or request.method == "GET" else f"{out['here']}/{view}"
    harness = made.study.what_if.harness
    pumps = electric_pumps(made.study.build)
    return out | {
        "here": here,
        "view": view,
        "views": VIEWS,
        "harness": harness,
        "wiring": found.build.wiring,
        "electric": pumps,
        "assumed_loss": house_figure("voltage_wiring_loss"),
        "fuse_near": house_figure("fuse_near_mm"),
    }


def wiring_context(found: Stored, made: Design, part: str) -> dict[str, Any]:
    """Everything the page of the circuit shows."""
    study = made.study
    out = _page(found, made, "circuit") | {
        "figures": head_figures(study, study.peak, made.findings),
        "findings": [(f, "stays") for f in made.of_wiring[0]],
        "passed": made.of_wiring[1],
    }
    harness = out["harness"]
    if harness is None or not harness.feeds:
        return out | {"chosen": None, "drawing": None}
    feed: Feed = harness.feeds.get(part) or next(iter(harness.feeds.values()))
    contact = harness.relays.get(feed.branch.relay)
    volts, solution = study.peak.solution.voltage(feed.pump), study.peak.solution
    ampere = current_of(solution, feed.pump)
    cases = [
        (s.case.title, s.solution.voltage(feed.pump), current_of(s.solution, feed.pump))
        for s in study.solved.values()
        if s.solution.converged
    ]
    walk = volt_walk(harness, feed.pump, {p: current_of(solution, p) for p in harness.feeds})
    return out | {
        "chosen": feed,
        "contact": contact,
        "grounding": harness.grounds.get(feed.branch.ground),
        "element": study.build.circuit.element(feed.pump),
        "volts": volts,
        "ampere": ampere,
        "lost": harness.volts - volts if volts is not None and ampere else None,
        "allowed": drop_allowed(harness.volts),
        "shared_ohm": harness.shared(feed.pump),
        "steps": _steps(feed, harness, ampere, volts),
        "cases_volts": cases,
        "trouble": "" if solution.converged else f"{solution.part}: {solution.reason}",
        "sizes": sizes(harness.wiring.sizes)
        + sizes("AWG" if harness.wiring.sizes == "metric" else "metric"),
        "drawing": draw_schematic(harness, Said(made, harness)),
        "wide": WIDE,
        "volt_steps": walk,
        "volt_chart": draw_volts(walk, feed.pump, drop_allowed(harness.volts)),
        "volt_wide": VOLT_WIDE,
        "volt_high": VOLT_HIGH,
    }


def _steps(feed: Feed, harness: Harness, ampere: float, volts: float | None) -> list[str]:
    """The arithmetic of a pump's voltage, with its own figures."""

    def of(wire: Wire) -> str:
        times = 1 + 0.00393 * (wire.celsius - 20)
        return f"{wire.number}: 1.724e-8 Ω m × {times:.3f} × {wire.long_mm / 1000:.2f} m ÷ {area_mm2(wire.size):.3g} mm² = {number(1000 * wire.ohm, 2)} mΩ at {wire.celsius:.0f} °C"

    def shared_by(ohm: float, pumps: tuple[str, ...]) -> list[str]:
        by = f"{number(1000 * ohm, 2)} mΩ of it carry {' and '.join(pumps)} together"
        return [by] if len(pumps) > 1 else []

    steps = [
        of(feed.out),
        of(feed.back),
        f"{feed.branch.crimps} crimps: {number(1000 * feed.contacts, 1)} mΩ",
    ]
    if feed.branch.relay in harness.relays:
        contact = harness.relays[feed.branch.relay]
        steps += [
            of(contact.supply),
            f"contact of {contact.relay.name}: {number(1000 * (contact.shared - contact.supply.ohm), 1)} mΩ",
            *shared_by(contact.shared, contact.pumps),
        ]
    if feed.branch.ground in harness.grounds:
        ground = harness.grounds[feed.branch.ground]
        steps += [of(ground.wire), *shared_by(ground.wire.ohm, ground.pumps)]
    total = feed.own + harness.shared(feed.pump)
    if volts is not None and ampere:
        together = (
            " and what the others take of the shared wire" if harness.beside(feed.pump) else ""
        )
        steps.append(
            f"V = {harness.volts:g} V − {number(1000 * total, 2)} mΩ × {number(ampere, 2)} A{together} = {number(volts, 3)} V, solved together with the fuel"
        )
    steps.append(
        f"fuse: {house_figure('fuse_least'):g} × {number(feed.highest, 2)} A, the most on its sheet up to its relief, and the next there is"
    )
    return steps


def _cut(found: Stored, made: Design) -> dict[str, Any]:
    wiring = found.build.wiring
    if wiring is None:
        return {}
    cut = wiring.cut_off
    fitted = {
        "oil_lost": cut.oil_switch,
        "crash": cut.inertia,
        "rolled": cut.roll_over,
        "killed": cut.kill != "none",
        "empty": cut.level,
        "override": True,
    }
    return {
        "cut": cut,
        "cut_json": cut.model_dump(),
        "switches": [
            (key, name)
            for key, name, always in SWITCHES
            if always or (cut.automatic and fitted.get(key))
        ],
        "walked": [cut_off.walk(cut, f) for f in cut_off.faults_of(cut)],
        "table": cut_off.truth_table(cut),
        "held": cut_off_claims.properties(cut),
    }


def _supply(found: Stored, made: Design) -> dict[str, Any]:
    harness = made.study.what_if.harness
    if harness is None or found.build.wiring is None:
        return {}
    return {
        "balances": balances(made.study),
        "alone": battery_alone(made.study),
        "usable": usable_ah(found.build.wiring),
        "surges": [(f.pump, f.highest, surge(f.highest)) for f in harness.feeds.values()],
        "shares": {x: house_figure(f"{x}_alternator_share") for x in ("hot", "idle")},
    }


def _sender(found: Stored, made: Design) -> dict[str, Any]:
    if found.build.wiring is None:
        return {}
    sheet = make_sender_sheet(found.build.wiring.sender)
    s = found.build.wiring.sender
    return {
        "sheet": sheet,
        "sender": s,
        "best": best_pull_up(s.empty_ohm, s.full_ohm),
        "chart": _sender_chart(sheet),
    }


def _sender_chart(sheet: SenderSheet) -> CurveChart:
    level, mark = [100 * r.level for r in sheet.readings], sheet.reserve
    lines = [CurveLine("reads", [r.volts for r in sheet.readings])]
    return make_curve_chart(
        "sender",
        "What the input reads",
        "level, %",
        "V",
        level,
        lines,
        [Dot(100 * mark.level, mark.volts, "reserve", "amber")],
        3,
        "reserve mark",
    )


def _speed(found: Stored, made: Design) -> dict[str, Any]:
    loop = speed_loop(made.study)
    return {"loop": loop, "charts": _loop_charts(loop) if loop is not None else []}


def _loop_charts(loop: Loop) -> list[CurveChart]:
    """The rail with its band, and the demand, over time."""
    shown = slice(int(FROM_S / STEP_S), None, EVERY)
    time = [float(t) for t in loop.time[shown]]
    pressure = [in_unit(float(p), "pressure") for p in loop.pressure[shown]]
    edges = [
        CurveLine(name, [in_unit(loop.set_to * times, "pressure")] * len(time), "thin", dashed=True)
        for name, times in (("band from", 1 - BAND), ("to", 1 + BAND))
    ]
    demand = [in_unit(float(q), "volume_flow") for q in loop.demand[shown]]
    return [
        make_curve_chart(
            "loop",
            "Rail pressure through steps of demand",
            "s",
            unit_of("pressure"),
            time,
            [CurveLine("rail", pressure), *edges],
        ),
        make_curve_chart(
            "demand",
            "Fuel demand",
            "s",
            unit_of("volume_flow"),
            time,
            [CurveLine("fuel demand", demand, "amber")],
        ),
    ]


def _loom(found: Stored, made: Design) -> dict[str, Any]:
    harness = made.study.what_if.harness
    return {
        "loom": make_loom(harness) if harness is not None else None,
        "terminals": by_name("terminals"),
    }


CONTEXTS: dict[str, Callable[[Stored, Design], dict[str, Any]]] = {
    "cut-off": _cut,
    "supply": _supply,
    "sender": _sender,
    "speed": _speed,
    "loom": _loom,
}


def view_context(found: Stored, made: Design, view: str) -> dict[str, Any]:
    """Everything one of the other pages shows."""
    return _page(found, made, view) | CONTEXTS[view](found, made)
