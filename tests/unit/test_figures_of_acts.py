"""Every figure of what is read, drawn, fitted, edited and mended, as it was when it was last read
over (see test_figures.py). Run `python tests/unit/test_figures_of_acts.py` to write the file anew.
"""

import sys
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

TESTS = Path(__file__).parents[1]
sys.path[:0] = [str(TESTS / "kit"), str(TESTS / "judgement")]

import pytest  # noqa: E402
from figures import Figures, as_read_over, gathered, write_anew  # noqa: E402
from first_lines import LINES  # noqa: E402
from test_judgement import MISTAKES, mistaken  # noqa: E402

from tall_heron.core.base.errors import BuildErrors  # noqa: E402
from tall_heron.core.base.units import QUANTITIES, inches, parse, show  # noqa: E402
from tall_heron.core.document.build import Brief, Build  # noqa: E402
from tall_heron.core.document.properties import Properties  # noqa: E402
from tall_heron.core.document.tank_inside import Baffle, Inside  # noqa: E402
from tall_heron.core.document.wiring import CutOff  # noqa: E402
from tall_heron.core.editing import fields, route, topology, wiring  # noqa: E402
from tall_heron.core.editing.additions import ADDITIONS  # noqa: E402
from tall_heron.core.editing.change_layout import change_layout  # noqa: E402
from tall_heron.core.editing.demo import demo_builds  # noqa: E402
from tall_heron.core.editing.layouts import LAYOUTS, layouts_for  # noqa: E402
from tall_heron.core.editing.measured import with_sender  # noqa: E402
from tall_heron.core.editing.shop import fit_every_adapter, plan_later  # noqa: E402
from tall_heron.core.electrics.budget import alternator_gives, battery_minutes  # noqa: E402
from tall_heron.core.electrics.cut_off import faults_of, truth_table, walk  # noqa: E402
from tall_heron.core.electrics.cut_off_claims import properties  # noqa: E402
from tall_heron.core.electrics.feeds import harness_of  # noqa: E402
from tall_heron.core.electrics.sender import make_sender_sheet  # noqa: E402
from tall_heron.core.fixing.fixes import fix_of, lacking  # noqa: E402
from tall_heron.core.hydraulics.vessel import make_tank  # noqa: E402
from tall_heron.core.line.reading import read_line  # noqa: E402
from tall_heron.core.prove.log_file import read_log  # noqa: E402
from tall_heron.core.prove.log_head import read_head  # noqa: E402
from tall_heron.core.routing.laid import lay_out  # noqa: E402
from tall_heron.core.rules import every_cause  # noqa: E402
from tall_heron.core.rules.finding import AGAINST  # noqa: E402
from tall_heron.core.sheets.cut_plan import plan_cuts, stocks_of  # noqa: E402
from tall_heron.core.sheets.loom import make_loom  # noqa: E402
from tall_heron.core.shelf.curve_file import read_curves  # noqa: E402
from tall_heron.core.shelf.own_part import OwnPart  # noqa: E402
from tall_heron.core.shelf.pack import pack_csv, read_pack  # noqa: E402
from tall_heron.core.shelf.sheet_text import read_sheet  # noqa: E402
from tall_heron.core.shelf.shelf import ends_for, parts  # noqa: E402
from tall_heron.core.shelf.supplier import stand_in  # noqa: E402
from tall_heron.core.sizing.on_hand import answered  # noqa: E402
from tall_heron.core.study.slosh.drive_file import shipped  # noqa: E402
from tall_heron.core.study.slosh.slosh_run import Flows, slosh  # noqa: E402
from tall_heron.core.study.study import make_study  # noqa: E402

STORED = "figures_of_acts.txt"
LPH = 1 / 3.6e6
PACK = """kind;title;price;ethanol_max_percent;methanol;mount;points;rated_cc_min;flow_lph;drop_kpa;micron;medium;bore_mm;dash
pump;Own 255;120,50;85;no;in-tank;"0@600@12; 255@300@8; 400@0@4";;;;;;;
injector;Own 650;39;100;yes;;;650;;;;;;
filter;Own mesh;20;100;yes;;;;300;4;40;stainless mesh;;-8
pump;Own two points;90;;;external;"0@300; 200@0";;;;;;;
hose;Own hose;9;100;yes;;;;;;;;11.1;-8
"""
SHEETS = (
    "Yard 500 inline fuel pump\nInlet: -10 ORB\nOutlet thread: M18 x 1,5\nFuels: gasoline, E85, but not methanol\n"
    "Weight (kg): 1.2\nMax lift: 12 in\nWorks by: gerotor\nFlow (lph); Pressure (psi); Current (A)\n500; 0; 9\n440; 43; 13",
    "Slate 40 filter\nElement: stainless mesh 40 micron\nFlow: 300 lph at 0.6 psi\nPorts: -8 ORB both\nWorking pressure: 10 bar\nPrice: $49.50",
    "Rush 1000 injector\nStatic flow: 1000 cc/min at 3 bar\nDead time: 0.95 ms at 14 V\nResistance: 12 ohm\nFuels: E85",
)
LOGS = (
    "Time (s),RPM,MAP (kPa),Fuel Pressure (psi),Battery (V),Duty (%)\n"
    + "\n".join(f"{i / 10},{3000 + 30 * i},{95 + i},{58 + i / 9:.2f},{13.8 - i / 99:.2f},{20 + i / 2}" for i in range(40)),
    "Zeit;Drehzahl;MAP [bar];Rail [bar]\n"
    + "\n".join(f"00:00:{i:02d},5;{2500 + 50 * i};{1 + i / 100};{4 + i / 200}".replace(".", ",") for i in range(40)),
)  # fmt: skip
BRIEFS = (
    {"power_kw": 300.0, "base_kpa": 400.0, "boost_kpa": 120.0, "cylinders": 8},
    {"power_kw": 90.0, "base_kpa": 35.0, "feeding": "carburettor", "use": "flight", "fuel": "100LL"},
    {"power_kw": 1300.0, "base_kpa": 420.0, "boost_kpa": 250.0, "fuel": "methanol", "use": "drag"},
    {"power_kw": 150.0, "base_kpa": 300.0, "use": "flight", "fuel": "100LL"},
    {"power_kw": 220.0, "base_kpa": 45.0, "feeding": "carburettor"},
)  # fmt: skip
BOX = {"capacity_l": 40.0, "long_mm": 500.0, "wide_mm": 400.0, "high_mm": 200.0, "outlet_mm": 8.0}
WISHED = (
    "V8 mechanical pump two 340 lph pumps -8 feed -6 return 10 micron filter 60 L tank",
    "flat four gravity carburetor one pump external 95 lph 24 L tank no return",
    "turbo four in-tank pump 1000 cc injectors two rails returnless flex sensor 15 gal cell",
    "V8 dead head, dual quads, 12 gal cell, pump in the tank, -10 suction -8 feed, vent -6",
)
CUT_OFFS: tuple[dict[str, Any], ...] = (
    {},
    {"automatic": False, "kill": "battery"},
    {"oil_switch": True, "roll_over": True, "breaks": "supply", "level": True},
    {"control_unit": False, "oil_switch": True, "crank": False, "kill": "battery and alternator"},
    {"inertia": False, "start_bypass": False, "prime_s": 0.0},
)
INSIDES: dict[str, Any] = {
    "a hump": {"hump_high_mm": 60.0, "hump_wide_mm": 120.0},
    "walls": {
        "baffles": [
            Baffle(way="along", at_mm=200.0, open_mm2=900.0),
            Baffle(at_mm=150.0, open_mm2=600.0, door="forward"),
        ]
    },
    "a side": {"side": [(0, 60), (200, 0), (500, 30), (500, 200), (200, 160), (0, 200)]},
}


def of(build: Build) -> tuple[Any, ...]:
    return build.circuit.elements, build.circuit.nodes, build.brief, build.wiring, build.space


def tried(*acts: tuple[Any, ...]) -> list[Any]:
    """What each act, a function and what it is given, comes to, or what is said against it."""
    out = []
    for act, *given in acts:
        try:
            made = act(*given)
        except (BuildErrors, ValueError) as error:
            out.append(str(error))
            continue
        build = made[0] if isinstance(made, tuple) else getattr(made, "build", made)
        out.append(of(build) if isinstance(build, Build) else made)
    return out


def readings() -> Iterator[Any]:
    yield [read_line(x) for x in LINES]
    yield read_pack(PACK), [read_sheet(x) for x in SHEETS]
    yield read_curves("flow lph,psi,A\n500,0,9\n440,43,13\n200,90,17\n", 13.5)
    yield [read_log(x, read_head(x), 101_325.0) for x in LOGS]
    for name, quantity in QUANTITIES.items():
        for i, word in enumerate(quantity.words):
            value = parse(f"{i + 1.5} {word}", name, word)
            yield value, show(value, name, word)
    yield [inches(x) for x in (3.2, 19.05, 254.0, 644.5, 1333.0)]


def wishes() -> Iterator[Any]:
    """What is said to each wish by a build of each layout."""
    read = [read_line(x) for x in (*LINES, *WISHED)]
    for fields_ in BRIEFS:
        brief = Brief(**fields_)  # type: ignore[arg-type]
        for layout in {x.key: x for x, _ in layouts_for(brief)}.values():
            build = Build(name="x", brief=brief, circuit=layout.build(brief))
            yield [answered(r.wishes, build) for r in read if r.wishes]


def shelf() -> Iterator[Any]:
    every = sorted(parts().values(), key=lambda p: p.name)
    yield every
    own = {
        f"own-{p.name}": OwnPart(
            title=p.title, kind=p.kind, figures=p.figures, properties=p.properties
        )
        for p in every[::9]
    }
    yield read_pack(pack_csv(own))
    yield [ends_for(p.properties.family, p.properties.dash) for p in every if p.kind == "hose"]
    yield [stand_in(p.name, group) for p in every[::5] for group in ("hoses", "parts")]
    for family in ("ptfe", "rubber", "aluminium"):
        pieces = [(f"H{i}", 340.0 + 410 * i) for i in range(1, 7)]
        yield plan_cuts(pieces, stocks_of(family, 21.0, "both", [900.0]))


def layouts() -> Iterator[Any]:
    for fields_ in BRIEFS:
        brief = Brief(**fields_)  # type: ignore[arg-type]
        for layout, rails in layouts_for(brief):
            circuit = layout.build(brief, layout.picks(rails=rails, **layout.more(brief)))
            yield circuit.elements, circuit.nodes
    for name, build in demo_builds().items():
        assert build.brief is not None
        keys = [k for k in LAYOUTS if name != "bittern" or k.startswith("C")]
        yield tried(*((change_layout, build, k) for k in keys))


def edits() -> Iterator[Any]:
    for name in ("bittern", "egret", "stonechat", "plover"):
        b = demo_builds(wired=True)[name]
        ids = [e.id for e in b.circuit.elements]
        hoses = [e.id for e in b.circuit.of_kind("hose")]
        for part in ids:
            yield tried(
                (topology.take_out, b, part),
                (topology.split, b, part),
                (topology.second_pump, b, part),
                (topology.turn_round, b, part),
                (topology.set_level, b, part, 55.0),
                (fields.set_capacity, b, part, 33.0),
            )
        for addition in ADDITIONS.values():
            yield tried(*((addition.add, b, part) for part in ids[:12:2]))
        for line in hoses[:4]:
            yield tried(
                (route.suggest_clamps, b, line),
                (route.measured, b, line, 777.0),
                (fields.set_clock, b, line, 123.0),
                (route.turn_end, b, line, "start", 30.0),
                (route.run_beside, b, line, hoses[-1]),
                (route.set_radius, b, line, 140.0),
            )
        yield tried(
            (route.take_drawn, b),
            (route.lead_all, b, 3),
            (fit_every_adapter, b),
            (wiring.wire_by_rule, b),
            (fields.set_brief, b, "power_kw", 380.0),
            (fields.set_brief, b, "fuel", "E85"),
            (fields.set_brief, b, "cylinders", 8),
            (plan_later, b, ids[0], "cell-60"),
        )


def mended() -> Iterator[Any]:
    for row in MISTAKES[5::9]:
        study = make_study(mistaken(row))
        for finding in [f for f in every_cause(study) if f.level in AGAINST][:2]:
            fix = fix_of(study, finding)
            yield (
                (fix.words, fix.figures, fix.left, of(fix.build))
                if fix
                else lacking(study, finding)
            )


def tanks() -> Iterator[Any]:
    run = shipped("lap")
    for inside in INSIDES.values():
        tank = make_tank(Properties(**BOX, inside=Inside(**inside)))
        assert tank is not None
        pots = (None, 1.5e-3)
        for pot in pots:
            flows = Flows(150 * LPH, 40 * LPH, 90 * LPH, True, pot, 120 * LPH, 10 * LPH)
            yield slosh(tank, flows, run.times[:600], run.readings[:600], run.loads[:600], 0.3)
        yield tank.vessel.full


def wires() -> Iterator[Any]:
    for name in ("bittern", "egret", "stonechat"):
        b = demo_builds(wired=True)[name]
        assert b.wiring is not None
        for change in (
            {},
            {"sizes": "AWG", "together": 8},
            {"ambient_c": 85.0, "insulation_c": 150.0},
        ):
            w = b.wiring.model_copy(update=change)
            harness = harness_of(b.model_copy(update={"wiring": w}))
            assert harness is not None
            yield harness, make_loom(harness), alternator_gives(w, True), alternator_gives(w, False)
            yield [battery_minutes(w, amperes, 11.0) for amperes in (6.0, 14.0, 31.0)]
        for pump in ("osier-350", "osier-700", "osier-1100"):
            harness = harness_of(wiring.wire_by_rule(fields.fit(b, "P1", pump)))
            assert harness is not None
            yield harness, make_loom(harness)
        yield with_sender(b, 241.234, 33.456).wiring
        for change in CUT_OFFS:
            cut = CutOff(**change)
            harness = harness_of(
                b.model_copy(update={"wiring": b.wiring.model_copy(update={"cut_off": cut})})
            )
            assert harness is not None
            yield make_loom(harness), truth_table(cut), properties(cut)
            yield [walk(cut, fault) for fault in faults_of(cut)]
        for empty, full in ((240.0, 33.0), (0.0, 90.0), (10.0, 180.0)):
            sender = b.wiring.sender.model_copy(update={"empty_ohm": empty, "full_ohm": full})
            yield make_sender_sheet(sender)


def ways() -> Iterator[Any]:
    for outline in ("coupe", "buggy", "high wing", "motorcycle", "rear"):
        b = route.set_outline(demo_builds()["bittern"], outline)
        yield lay_out(b).lines


ROOMS: dict[str, Callable[[], Iterator[Any]]] = {
    "readings": readings,
    "wishes": wishes,
    "shelf": shelf,
    "layouts": layouts,
    "edits": edits,
    "mended": mended,
    "tanks": tanks,
    "wires": wires,
    "ways": ways,
}


def made(room: str) -> Iterator[tuple[str, Figures]]:
    yield room, gathered(list(ROOMS[room]()), room)


@pytest.mark.figures
@pytest.mark.parametrize(
    "room",
    [pytest.param(r, marks=[pytest.mark.sweep] if r == "mended" else []) for r in ROOMS],
)
def test_no_figure_of_an_act_moves_unread(room: str) -> None:
    as_read_over(STORED, made(room))


if __name__ == "__main__":
    write_anew(STORED, (x for room in ROOMS for x in made(room)))
