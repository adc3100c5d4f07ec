"""Job order, labels, plate, fits and tanks, each against figures worked by hand."""

import csv
import io
import math
from dataclasses import replace
from itertools import pairwise

import pytest

from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.build import Build
from tall_heron.core.editing import shop as edit
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import set_length
from tall_heron.core.editing.inside import with_level_gauge
from tall_heron.core.joining.joints import joints_of
from tall_heron.core.routing.laid import lay_out
from tall_heron.core.sheets.buy_list import make_buy_list
from tall_heron.core.sheets.cut_sheet import make_cut_sheet
from tall_heron.core.sheets.fits import make_injector_sheets, make_rail_sheets
from tall_heron.core.sheets.job_order import Step, in_order, make_job_order
from tall_heron.core.sheets.labels import make_labels
from tall_heron.core.sheets.order_form import (
    alike,
    highest_met,
    make_orders,
    order_csv,
    proof_pressure,
)
from tall_heron.core.sheets.plate import make_plate, plate_dxf, usual_plate
from tall_heron.core.sheets.tank_sheet import TankSheet, make_tank_sheets
from tall_heron.core.study.study import make_study

DEMO = demo_builds()


def steps(build: Build) -> list[Step]:
    laid = lay_out(build)
    rows = make_cut_sheet(build, laid)
    return make_job_order(build, laid, rows, make_buy_list(build, laid, rows))


def test_where_a_hose_is_made_follows_from_what_is_known_until_somebody_says() -> None:
    build = DEMO["bittern"]
    assert {r.made_at for r in make_cut_sheet(build)} == {"bench"}
    guessed = build.circuit.element("H3")
    assert guessed is not None
    assert guessed.length is not None
    assumed = guessed.model_copy(
        update={"length": guessed.length.model_copy(update={"source": "assumed"})}
    )
    elements = [assumed if e.id == "H3" else e for e in build.circuit.elements]
    build = build.model_copy(
        update={"circuit": build.circuit.model_copy(update={"elements": elements})}
    )
    row = next(r for r in make_cut_sheet(build) if r.element.id == "H3")
    assert row.cut.cut_mm is not None
    assert (row.made_at, row.leave_mm) == (
        "car",
        pytest.approx(0.1 * row.cut.cut_mm),
    )  # a tenth while it is a guess: common practice
    assert row.piece_mm == pytest.approx(1.1 * row.cut.cut_mm)
    said = next(
        r for r in make_cut_sheet(edit.set_made(build, "H3", "bench")) if r.element.id == "H3"
    )
    assert (said.made_at, said.chosen, said.leave_mm) == ("bench", True, 0)
    short = set_length(DEMO["bittern"], "H4", 300.0)
    assert next(r for r in make_cut_sheet(short) if r.element.id == "H4").made_at == "car"


def test_those_of_the_car_are_cut_last_from_their_roll() -> None:
    build = edit.set_made(DEMO["bittern"], "H3", "car")
    bulk = next(b for b in make_buy_list(build, lay_out(build)).bulk if b.name == "ptfe-10")
    assert [p[0] for x in bulk.plan.lengths for p in x.pieces] == ["H2", "H3"]


def test_every_family_has_its_own_steps() -> None:
    """Braided PTFE: nuts first, nothing cut back; braided rubber: nut, oil; push-on: no clamp, no
    knife; clamps only over a bead; tube: sleeve and nut before a flare of 37 degrees.
    """
    said = {
        r.style: " ".join(f"{a} {b}" for a, b in r.steps)
        for name in ("bittern", "egret", "dunlin")
        for r in make_cut_sheet(DEMO[name])
    }
    assert said["olive"].index("Nuts first") < said["olive"].index("Cut ")
    assert "cut nothing back" in said["olive"]
    assert "oil" in said["screwed"].lower()
    assert said["screwed"].index("Nut ") < said["screwed"].index("Nipple ")
    assert "No clamp" in said["push-on"]
    assert "knife" in said["push-on"]
    assert said["flared"].index("Nut and sleeve") < said["flared"].index("Flare ")
    assert "37°" in said["flared"]
    build = DEMO["dunlin"]
    bare = [
        e.model_copy(update={"end_a": None, "end_b": None}) if e.id == "H1" else e
        for e in build.circuit.elements
    ]
    clamped = make_cut_sheet(
        build.model_copy(update={"circuit": build.circuit.model_copy(update={"elements": bare})})
    )[0]
    assert clamped.style == "clamped"
    assert any("bead" in what for _, what in clamped.steps)


@pytest.mark.parametrize("name", list(DEMO))
def test_the_work_never_comes_before_what_it_follows(name: str) -> None:
    """Joints before clamps, tank before its parts are fixed, mock-up before all."""
    order = [s.key for s in steps(DEMO[name])]
    assert order[0] == "mock"
    assert order[-1] == "leak"
    for first, then in (
        ("mock", "see"),
        ("tank", "fix"),
        ("fix", "joints"),
        ("joints", "clips"),
        ("panels", "hard"),
        ("hard", "joints"),
        ("bench", "joints"),
        ("measure", "bench"),
    ):
        if first in order and then in order:
            assert order.index(first) < order.index(then)
    with pytest.raises(ValueError, match="cycle"):
        in_order({"a": ["b"], "b": ["a"]})


def test_a_step_says_what_it_waits_for_until_it_is_there() -> None:
    build = edit.choose_adapters(DEMO["bittern"], "H3.b", ["step-8-10"])
    fix = next(s for s in steps(build) if s.key == "fix")
    assert "step-8-10" in {i.key for i in fix.waits}
    assert fix.days == 21
    after = next(s for s in steps(edit.set_have(build, "step-8-10", 1)) if s.key == "fix")
    assert "step-8-10" not in {i.key for i in after.waits}
    assert after.days < 21


def test_labels_tell_fuel_from_air() -> None:
    labels = make_labels(make_cut_sheet(DEMO["bittern"]))
    assert len(labels) == 2 * 6
    assert {(x.tag, x.breather) for x in labels} == {
        ("H1", False),
        ("H2", False),
        ("H3", False),
        ("H4", False),
        ("H5", True),
        ("H6", True),
    }
    assert {x.word for x in labels if x.tag == "H5"} == {"BREATHER"}


def test_a_plate_by_hand_and_as_a_dxf() -> None:
    """A pump of 200 by 70 mm in the middle of 300 by 200 mm, lying along: clamps at a quarter of
    its length on either side, 8 mm beside it; the DXF read back has every hole where it is.
    """
    from ezdxf.filemanagement import read

    build = DEMO["curlew"]
    usual = usual_plate(build)
    assert usual is not None
    plate = usual.model_copy(update={"wide_mm": 300.0, "high_mm": 200.0, "parts": []})
    build = edit.move_on_plate(build, plate, "P1", 150.0, 100.0, 0.0)
    sheet = make_plate(build)
    assert sheet is not None
    assert not sheet.assumed
    mine = {(round(h.at[0], 3), round(h.at[1], 3)) for h in sheet.holes if h.part == "P1"}
    assert mine == {(100, 57), (200, 57), (100, 143), (200, 143)}
    assert sheet.troubles == ()
    assert sheet.lying[0].ports == {"start": (50.0, 100.0), "end": (250.0, 100.0)}
    drawing = read(io.StringIO(plate_dxf(sheet, "x")))
    slots = [
        e for e in drawing.modelspace() if e.dxftype() == "LWPOLYLINE" and e.dxf.layer == "HOLES"
    ]
    assert len(slots) == len(sheet.holes) == 4 + 4
    for slot, hole in zip(slots, sheet.holes, strict=True):
        points = [(p[0], p[1]) for p in slot.get_points()]
        middle = (sum(p[0] for p in points) / 4, sum(p[1] for p in points) / 4)
        assert middle == pytest.approx(hole.at)
        sides = sorted(math.dist(a, b) for a, b in pairwise([*points, points[0]]))
        assert sides == pytest.approx(sorted([hole.slot, hole.slot, hole.diameter, hole.diameter]))
    colors = {x.dxf.name: x.color for x in drawing.layers}
    assert [colors[x] for x in ("CUT", "FOLD", "HOLES", "PARTS")] == [7, 1, 5, 8]  # ezdxf: ACI
    cut = next(e for e in drawing.modelspace() if e.dxf.layer == "CUT")
    assert {(round(p[0]), round(p[1])) for p in cut.get_points()} == {
        (0, 0),
        (300, 0),
        (300, 200),
        (0, 200),
    }


def test_a_plate_says_what_does_not_fit() -> None:
    build = DEMO["curlew"]
    usual = usual_plate(build)
    assert usual is not None
    assert make_plate(build).troubles == ()  # type: ignore[union-attr]
    over = make_plate(edit.move_on_plate(build, usual, "P1", 20.0, 100.0, 0.0))
    assert over is not None
    assert any("over the edge" in t for t in over.troubles)
    both = edit.move_on_plate(
        edit.move_on_plate(build, usual, "P1", 130.0, 120.0, 0.0), usual, "F2", 130.0, 120.0, 0.0
    )
    assert any("lie on one another" in t or "hole" in t for t in make_plate(both).troubles)  # type: ignore[union-attr]
    turned = make_plate(
        edit.move_on_plate(build, usual, "P1", usual.parts[0].x_mm, usual.parts[0].y_mm, 45.0)
    )
    assert turned is not None
    apart = next(x for x in turned.lying if x.element.id == "P1")
    assert math.dist(apart.ports["start"], apart.ports["end"]) == pytest.approx(200)
    folded = edit.fold_plate(build, usual, "bottom", 25.0)
    sheet = make_plate(folded)
    assert sheet is not None
    # 2.5 mm of 5052-H32 bends on 1.5 x 2.5 = 3.75 mm; AC 43.13-1B: (0.01743 x 3.75 + 0.0078 x 2.5)
    # x 90 = 7.638 mm; set back 3.75 + 2.5 = 6.25 mm (from memory)
    assert min(p[1] for p in sheet.outline) == pytest.approx(-(25 - (2 * 6.25 - 7.638)), abs=0.001)
    assert sheet.folds == (
        (
            (0, pytest.approx(6.25 - 7.638 / 2, abs=0.001)),
            (usual.wide_mm, pytest.approx(6.25 - 7.638 / 2, abs=0.001)),
        ),
    )
    assert sheet.troubles == ()
    low = make_plate(edit.fold_plate(build, usual, "left", 9.0))
    tight = make_plate(
        edit.fold_plate(
            build, usual.model_copy(update={"alloy": "2024-T3", "radius_mm": 3.0}), "left", 40.0
        )
    )
    near = make_plate(
        edit.fold_plate(
            build, usual.model_copy(update={"inset_mm": 10.0, "thick_mm": 3.0}), "left", 40.0
        )
    )
    for side, y in (("bottom", 12.0), ("top", usual.high_mm - 12.0)):  # by the edge that is bent
        moved = edit.move_on_plate(build, usual, "P1", 130.0, y, 0.0)
        there = make_plate(edit.fold_plate(moved, moved.shop.plate, side, 25.0))  # type: ignore[arg-type]
        assert there is not None
        assert [f"P1 lies in the bend on the {side}" in t for t in there.troubles].count(True) == 1
    said = [x.troubles[0] for x in (low, tight, near) if x is not None]
    assert [
        next((w for w in ("too low", "cracks", "too near the bend") if w in t), t) for t in said
    ] == ["too low", "cracks", "too near the bend"]
    both = make_plate(
        edit.fold_plate(
            folded, usual.model_copy(update={"folds": folded.shop.plate.folds}), "left", 25.0
        )
    )  # type: ignore[union-attr]
    assert both is not None
    assert (6.25, 6.25) in [
        (pytest.approx(x, abs=1e-6), pytest.approx(y, abs=1e-6)) for x, y in both.outline
    ]  # the corner between two folds is cut out to where they begin
    # what is bent up on the top or on the right is what is bent on the other side, mirrored
    for side, other, at in (("bottom", "top", 1), ("left", "right", 0)):
        one, two = (make_plate(edit.fold_plate(build, usual, x, 25.0)) for x in (side, other))
        assert one is not None
        assert two is not None
        whole = (usual.wide_mm, usual.high_mm)[at]

        def mirrored(p: tuple[float, float], at: int = at, whole: float = whole) -> list[float]:
            return [round(whole - x if i == at else x, 6) for i, x in enumerate(p)]

        assert sorted(map(mirrored, one.outline)) == sorted(
            [round(x, 6) for x in p] for p in two.outline
        )
        assert sorted(mirrored(p) for fold in one.folds for p in fold) == sorted(
            [round(x, 6) for x in p] for fold in two.folds for p in fold
        )
    wide = make_plate(edit.move_on_plate(build, usual, "P1", None, None, None, across=44.5))
    assert wide is not None
    assert {x.clamp_dash for x in wide.lying if x.element.id == "P1"} == {
        28
    }  # SAE AS21919: 44.5 mm are 28 sixteenths of an inch; from memory
    assert make_plate(edit.set_plate(folded, None)).assumed  # type: ignore[union-attr]
    with pytest.raises(BuildErrors):
        edit.move_on_plate(build, usual, "P1", -5.0, 100.0, 0.0)
    assert make_plate(DEMO["plover"]) is None


@pytest.mark.parametrize(
    ("gap", "spacer", "word"),
    [(34.0, 0.0, "fit"), (34.4, 0.0, "fit"), (48.0, 14.0, "14.0 mm"), (30.0, -4.0, "4.0 mm")],
)
def test_injectors_by_hand(gap: float, spacer: float, word: str) -> None:
    """Bodies of 34 mm between seats: gap less body."""
    sheet = make_injector_sheets(edit.with_shop(DEMO["bittern"], injectors={"gap_mm": gap}))[0]
    assert sheet.spacer_mm == pytest.approx(spacer)
    assert word in sheet.says
    assert bool(sheet.wrong) == (gap not in (34.0, 34.4))


def test_a_rail_by_hand() -> None:
    """A -8 port (3/4-16, 19.05 mm) in 32 mm: 6.5 mm beside it; 14.3 mm of thread and three pitches
    of 25.4/16 mm are 19.1 mm deep.
    """
    sheet = make_rail_sheets(
        edit.with_shop(DEMO["bittern"], rail={"across_mm": 32, "deep_mm": 25, "port": "port -8"})
    )[0]
    assert sheet.wall_mm == pytest.approx((32 - 19.05) / 2)
    assert sheet.deep_mm == pytest.approx(14.3 + 3 * 25.4 / 16, abs=0.01)
    assert sheet.drill_mm == 17.5
    assert sheet.wrong == ()
    thin = make_rail_sheets(
        edit.with_shop(DEMO["bittern"], rail={"across_mm": 24, "port": "port -8"})
    )[0]
    assert thin.wall_mm == pytest.approx(2.475)
    assert thin.wrong
    assert make_rail_sheets(DEMO["bittern"])[0].port.text == "port -8"


def tank(build: Build, n: int = 0) -> TankSheet:
    return make_tank_sheets(build, lay_out(build), joints_of(build))[n]


def test_a_tank_by_hand() -> None:
    """Bittern: 212 mm deep, 8 mm under a pump of 128 mm with its strainer: the hanger is 76 mm; the
    sender 200. 14 CFR 23.969 (from memory): 2 % of a tank for expansion, here 2 % of its 212 mm.
    Its holes: 57 mm for the hanger, 19.4 mm for 3/4-16; the roll-over line stands 60 mm from its
    rear.
    """
    sheet = tank(DEMO["bittern"])
    assert sheet.depth_mm == 212
    assert [round(c.mm or 0) for c in sheet.cuts] == [76, 76, 200, 4]
    assert sheet.cuts[-1].mm == pytest.approx(0.02 * 212)
    assert [(o.sort, o.hole_mm) for o in sheet.openings] == [
        ("hanger", 57.0),
        ("return", 19.45),
        ("vent", 19.45),
    ]
    assert sheet.openings[2].place == pytest.approx((60, 50))
    assert any("drain" in t for t in sheet.troubles)
    lower = tank(edit.with_shop(DEMO["bittern"], tank_gap_mm={"S1": 20}))
    assert [round(c.mm or 0) for c in lower.cuts] == [64, 64, 200, 4]
    level = tank(
        DEMO["bittern"].model_copy(
            update={"circuit": with_level_gauge(DEMO["bittern"].circuit, "S1", True)}
        )
    )
    assert [o.sort for o in level.openings] == ["hanger", "return", "vent", "sender"]


def test_a_tank_with_too_few_openings_and_one_that_nobody_knows() -> None:
    wing = tank(DEMO["egret"])
    assert [o.sort for o in wing.openings] == ["outlet", "return", "vent", "sender"]
    assert wing.to_make == 0
    build = DEMO["egret"]
    few = [
        e.model_copy(update={"properties": e.properties.model_copy(update={"openings": 2})})
        if e.id == "S1"
        else e
        for e in build.circuit.elements
    ]
    sheet = tank(
        build.model_copy(update={"circuit": build.circuit.model_copy(update={"elements": few})})
    )
    assert sheet.to_make == 2
    assert any("2 to make" in t for t in sheet.troubles)
    unknown = [
        e.model_copy(
            update={
                "properties": e.properties.model_copy(update={"high_mm": None, "long_mm": None})
            }
        )
        if e.kind == "tank"
        else e
        for e in DEMO["bittern"].circuit.elements
    ]
    nobody = tank(
        DEMO["bittern"].model_copy(
            update={"circuit": DEMO["bittern"].circuit.model_copy(update={"elements": unknown})}
        )
    )
    assert nobody.depth_mm is None
    assert {c.mm for c in nobody.cuts} == {None}


@pytest.mark.parametrize(
    ("apart", "said"), [(5.0, "are 5 mm apart"), (-4.0, "lie on one another"), (30.0, "")]
)
@pytest.mark.parametrize("way", [1, -1])
def test_parts_side_by_side_are_as_far_apart_as_measured(apart: float, said: str, way: int) -> None:
    """Two bodies along one line, either one first: what is said is the gap between their nearest
    sides, 12 mm at least (plate_gap_mm).
    """
    build, usual = DEMO["curlew"], usual_plate(DEMO["curlew"])
    assert usual is not None
    plate = usual.model_copy(update={"wide_mm": 1400.0, "high_mm": 800.0, "parts": []})

    def long(part: str) -> float:
        sheet = make_plate(edit.move_on_plate(build, plate, part, 700.0, 400.0, 0.0))
        assert sheet is not None
        return max(c[0] for c in sheet.lying[0].corners) - min(c[0] for c in sheet.lying[0].corners)

    first = edit.move_on_plate(build, plate, "F2", 700.0, 400.0, 0.0)
    assert first.shop.plate is not None
    both = make_plate(
        edit.move_on_plate(
            first,
            first.shop.plate,
            "P1",
            700.0 + way * ((long("F2") + long("P1")) / 2 + apart),
            400.0,
            0.0,
        )
    )
    assert both is not None
    gaps = [t for t in both.troubles if "apart" in t or "one another" in t]
    assert [said in t for t in gaps] == ([True] if said else [])


def test_an_order_says_what_a_maker_asks_for() -> None:
    """Twice the highest pressure, in full tens of kPa, no less than 100 and no more than twice what
    the hose is made for (common practice); a bend to the right of who looks from B to A points away
    from who looks with A at his left: up x right is away.
    """
    assert [
        proof_pressure(met, works)
        for met, works in ((402.0, 6900.0), (3.0, 6900.0), (900.0, 690.0))
    ] == [810.0, 100.0, 1380.0]
    study = make_study(DEMO["bittern"])
    rows = make_cut_sheet(DEMO["bittern"])
    orders = make_orders(rows, highest_met(study))
    feed, vent = (next(o for o in orders if o.label.startswith(name)) for name in ("H3", "H5"))
    assert feed.test_kpa > 2 * study.brief.base / 1000
    assert vent.test_kpa == 100
    assert next(o for o in orders if o.label.startswith("H6")).test_kpa >= 2 * study.brief.boost_kpa
    assert (feed.standard, feed.cover) == ("SAE 100R14 type B", "none")
    turned = [replace(feed, clock_deg=deg).clock_seen for deg in (0.0, 90.0, 180.0, 270.0)]
    assert [(round(up, 6) + 0.0, aside) for up, aside in turned] == [
        (1.0, 0),
        (0.0, 1),
        (-1.0, 0),
        (0.0, -1),
    ]
    two = alike([vent, replace(vent, label="H9 BREATHER"), feed])
    assert [(o.quantity, o.label) for o in two] == [
        (2, f"{vent.label}, H9 BREATHER"),
        (1, feed.label),
    ]
    guessed = replace(feed, guess="length guessed")
    cells = list(
        csv.DictReader(
            io.StringIO(
                order_csv(
                    [feed, guessed],
                    "overall",
                    ("E70", "Bittern", "17", "revision 3", "me", "door 2"),
                )
            )
        )
    )
    assert [r["to_be_made"] for r in cells] == ["yes", "not before it is measured"]
    assert {
        (r["fuel"], r["build"], r["order"], r["issue"], r["ordered_by"], r["reach"]) for r in cells
    } == {("E70", "Bittern", "17", "revision 3", "me", "door 2")}
    assert all(v.isascii() for v in cells[0].values())
