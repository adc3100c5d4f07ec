"""Looms of many builds: nothing over its rating, every wire that is drawn is cut and every wire
that is cut is drawn, terminals that take their wire.
"""

import pytest
from first_lines import LINES

from tall_heron.core.base.catalogue import house_figure
from tall_heron.core.begin.started import start
from tall_heron.core.design import design_of
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.wiring import electric_pumps
from tall_heron.core.electrics.control import MAIN, leads, main_fuse, main_rating
from tall_heron.core.electrics.feeds import relay_row, takes_mm2
from tall_heron.core.electrics.wire import area_mm2
from tall_heron.core.sheets.loom import make_loom
from tall_heron.core.study.study import make_study
from tall_heron.web.drawing.wiring.schematic import draw_schematic
from tall_heron.web.stations.wiring.context import Said

BUILDS = {**demo_builds(wired=True), **dict.fromkeys(LINES[1::5])}


@pytest.mark.parametrize("name", BUILDS)
def test_no_part_is_over_its_rating_and_every_wire_drawn_is_cut(name: str) -> None:
    build = BUILDS[name] or start(name).sized
    study = make_study(build)
    harness = study.what_if.harness
    if harness is None:
        assert not electric_pumps(build) or build.wiring is None
        return
    loom = make_loom(harness)
    cut = {c.wire.number for c in loom.cuts}
    assert len(cut) == len(loom.cuts)
    for c in harness.relays.values():
        assert c.rated >= c.ampere
        assert all(
            area_mm2(w.size) <= takes_mm2(c.rated)
            for w in (c.supply, *(harness.feeds[p].out for p in c.pumps))
        )
    for f in harness.feeds.values():
        assert f.fuse is not None
        assert min(f.out.carries_a, f.back.carries_a) >= f.fuse >= f.highest
        element = build.circuit.element(f.pump)
        assert element is not None
        assert ("brushless" in element.title) == (f.driver is not None), (
            "a brushless pump has a controller, no other has"
        )
        if f.driver is not None:
            assert f.driver.rated >= f.highest
            assert area_mm2(f.out.size) <= f.driver.to_mm2
            phases = [c for c in loom.cuts if {c.wire.start, c.wire.end} == {f.driver.name, f.pump}]
            assert len(phases) == 3
            assert all(c.wire.carries_a >= f.fuse for c in phases)
            assert any(
                p.key.startswith("pump controller") and f.pump in p.needed for p in loom.parts
            )
    main = main_rating(harness)
    assert main is None or main >= harness.together
    assert (
        main is not None
        or harness.wiring.cut_off.breaks == "coil"
        or harness.together <= house_figure("inertia_a")
    )
    assert (main_fuse(harness) or 0) >= harness.together
    for lead in leads(harness):
        if lead.wire.number.startswith("B"):
            assert lead.wire.carries_a >= min(lead.wire.ampere, main_fuse(harness) or 0)
    for c in loom.cuts:
        for place, pin, row in (
            (c.wire.start, c.lead.start_pin, c.ends[0]),
            (c.wire.end, c.lead.end_pin, c.ends[1]),
        ):
            assert area_mm2(c.wire.size) <= row["to_mm2"] + 1e-9
            if place in harness.relays and pin in ("30", "87"):
                ends = relay_row(harness.relays[place].rated)["ends"]
                assert row["sort"] == ("lug" if ends == "stud" else ends), "no lug on a blade"
    drawn = {
        x.number for x in draw_schematic(harness, Said(design_of(study), harness)).lines if x.number
    }
    assert drawn == cut
    held = {number for x in loom.connectors for _, numbers in x.pins for number in numbers}
    assert held == cut
    bought = {p.key for p in loom.parts}
    assert {f"relay {c.rated:g}" for c in harness.relays.values()} <= bought
    assert main is None or any(MAIN in p.needed for p in loom.parts)
    for pump, f in harness.feeds.items():  # volts as solved are the wires of the sheet
        solution = study.peak.solution
        ampere, volts = solution.current(pump), solution.voltage(pump)
        if ampere and volts is not None and not harness.beside(pump):
            assert volts == pytest.approx(
                harness.volts - ampere * (f.own + harness.shared(pump)), abs=0.02
            )
