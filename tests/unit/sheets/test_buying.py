"""What is bought: counted by hand from the circuit, priced as it is sold, compared with spring, and
read back from the files.
"""

import io
from collections import Counter

import pytest

from tall_heron.core.base.catalogue import by_name, table
from tall_heron.core.base.errors import BuildErrors
from tall_heron.core.document.build import Build, dump, load
from tall_heron.core.editing import shop as edit
from tall_heron.core.editing.demo import demo_builds
from tall_heron.core.editing.fields import fit
from tall_heron.core.editing.measured import with_element
from tall_heron.core.joining.joints import joints_of
from tall_heron.core.routing.laid import lay_out
from tall_heron.core.sheets.buy_list import BuyList, Item, make_buy_list
from tall_heron.core.sheets.cut_plan import Stock, plan_cuts
from tall_heron.core.sheets.cut_sheet import make_cut_sheet
from tall_heron.core.sheets.job_order import make_job_order
from tall_heron.core.sheets.stages import compare_stages
from tall_heron.core.sheets.workbook import BUY_HEAD, buy_rows, to_workbook
from tall_heron.core.shelf.shelf import parts
from tall_heron.core.shelf.supplier import stand_in
from tall_heron.core.shelf.totals import price_of

DEMO = demo_builds()


def bought(build: Build) -> BuyList:
    return make_buy_list(build, lay_out(build))


def item(build: Build, key: str) -> Item:
    return next(i for i in bought(build).items if i.key == key)


@pytest.mark.parametrize("name", ["bittern", "egret", "dunlin", "stonechat"])
def test_parts_ends_and_hose_are_those_of_the_circuit(name: str) -> None:
    """Counted anew: every part by its price, every end, hose as the plan buys it and never less
    than is cut.
    """
    build = DEMO[name]
    whole = bought(build)
    rows = make_cut_sheet(build, lay_out(build))
    priced = [e for e in build.circuit.elements if e.length is None]
    assert sum(i.price or 0.0 for i in whole.items if i.group == "parts") == pytest.approx(
        sum(price_of(e) or 0.0 for e in priced)
    )
    ends = Counter(
        end.shelf
        for r in rows
        for end in (r.element.end_a, r.element.end_b)
        if end is not None and r.style != "clamped"
    )
    assert {i.key: i.quantity for i in whole.items if i.group == "ends"} == dict(ends)
    for b in whole.bulk:
        cut = sum(r.piece_mm or 0.0 for r in b.pieces)
        assert b.plan.bought >= cut - 1e-6
        assert sum(x.bought - x.left for x in b.plan.lengths) >= cut - 1e-6
        assert next(i.price for i in whole.items if i.key == f"bulk {b.name}") == pytest.approx(
            b.plan.price
        )
    assert sum(i.price or 0.0 for i in whole.items) == pytest.approx(whole.price)


def test_hose_by_the_foot_is_the_whole_feet_over_what_is_cut() -> None:
    """Bittern's -10 PTFE by hand: 3,160.9 and 704.8 mm with 3 mm between are 3,868.7 mm: 13 ft at
    40.90 a metre.
    """
    build = edit.with_shop(DEMO["bittern"], stock="by the foot")
    mine = item(build, "bulk ptfe-10")
    assert mine.quantity == pytest.approx(13 * 304.8)
    assert mine.price == pytest.approx(13 * 0.3048 * 40.90)
    car = item(edit.set_made(edit.set_made(build, "H2", "car"), "H3", "car"), "bulk ptfe-10")
    assert car.quantity == pytest.approx(13 * 304.8)  # 25.4 mm more still lie within the 13th foot
    dear = item(edit.set_item_price(build, "bulk ptfe-10", 50.0), "bulk ptfe-10")
    assert dear.price == pytest.approx(13 * 0.3048 * 50.0)
    mine_already = edit.set_offcuts(build, "ptfe-10", [3900.0])
    assert all(i.key != "bulk ptfe-10" for i in bought(mine_already).items)


def test_a_seal_for_every_joint_that_has_one_and_spares_by_rule() -> None:
    build = DEMO["bittern"]
    joints = joints_of(build)
    bosses = Counter(
        f.size
        for j in joints.joints
        for f in (j.one.face, *(x for p in j.pieces for x in (p.first, p.second)), j.other.face)
        if f.sort == "boss"
    )
    for size, count in bosses.items():
        mine = item(build, f"oring{size}")
        assert mine.quantity == count + max(-(-count // 4), 1)
    assert item(build, "injector-o-ring").quantity == 6 + 2
    olives = {i.key: i.quantity for i in bought(build).items if i.key.startswith("olive")}
    assert olives == {"olive-10": 1, "olive-8": 1, "olive-4": 1}  # of four, four and two ends
    assert item(build, "sealant").quantity == 1
    metric = edit.set_face(build, "F2", "end", "metric M18x1.5")
    assert item(metric, "washer-m18").quantity == 2
    banjo = edit.choose_adapters(metric, "H3.a", ["banjo-10"])
    assert item(banjo, "washer-m18").quantity == 2 + 1


def test_hose_over_barbs_is_clamped_twice() -> None:
    build = DEMO["dunlin"]
    elements = [
        e.model_copy(update={"end_a": None, "end_b": None}) if e.id in ("H1", "H2") else e
        for e in build.circuit.elements
    ]
    bare = build.model_copy(
        update={"circuit": build.circuit.model_copy(update={"elements": elements})}
    )
    clamps = [i for i in bought(bare).items if i.key.startswith("clamp-")]
    assert sum(i.quantity for i in clamps) == 4 + 1
    assert not any(
        i.key.startswith("rubber-end-8") and "H1" in i.needed for i in bought(bare).items
    )


def test_what_is_there_is_not_paid_again_and_what_is_missing_is_said() -> None:
    assert bought(DEMO["bittern"]).short == ()  # of the ways to join two ends, one that is in stock
    build = edit.choose_adapters(DEMO["bittern"], "H3.b", ["step-8-10"])
    assert [i.key for i in bought(build).short] == ["step-8-10"]
    assert stand_in("step-8-10", "adapters").stock == 0
    whole = bought(build)
    have = edit.set_have(build, "step-8-10", 1)
    assert bought(have).short == ()
    assert bought(have).to_pay == pytest.approx(whole.to_pay - 16.64)
    assert bought(have).price == pytest.approx(whole.price)
    more = edit.set_have(build, "marrow-340", 99)
    assert item(more, "marrow-340").to_buy == 0
    dear = edit.set_item_price(build, "marrow-340", 200)
    assert item(dear, "marrow-340").price == pytest.approx(400)
    assert bought(dear).price == pytest.approx(whole.price + 2 * 32)


def test_spring_by_hand() -> None:
    """Two pumps of 168 now, of 214 in spring: 428 more then, and 336 thrown away; done at once only
    92 more.
    """
    build = edit.plan_later(
        edit.plan_later(DEMO["bittern"], "P1", "marrow-450"), "P2", "marrow-450"
    )
    stages = compare_stages(build, bought(build))
    assert stages.spring == pytest.approx(428)
    assert stages.once == pytest.approx(stages.now + 92)
    assert stages.twice == pytest.approx(336)
    assert [(title, n) for title, n, _ in stages.thrown] == [("Marrow 340, in-tank turbine", 2)]
    assert compare_stages(DEMO["bittern"], bought(DEMO["bittern"])).twice == 0
    hose = edit.plan_later(DEMO["bittern"], "H3", "ptfe-12")
    more = compare_stages(hose, bought(hose))
    assert 0 < more.twice < more.spring
    assert "−12 braided PTFE" in {title for title, _, _ in more.added}
    assert edit.plan_later(build, "P1", "").shop.later == {"P2": "marrow-450"}
    with pytest.raises(BuildErrors, match="cannot take the place"):
        edit.plan_later(build, "P1", "ptfe-10")
    gone = build.model_copy(
        update={"shop": build.shop.model_copy(update={"later": {"P1": "no such part"}})}
    )
    assert compare_stages(gone, bought(gone)).wrong == ("P1",)


def test_a_swap_planned_and_made_are_one() -> None:
    """What spring costs is the list of the build with the swap made."""
    build = edit.plan_later(DEMO["bittern"], "H3", "ptfe-12")
    made = fit(DEMO["bittern"], "H3", "ptfe-12")
    assert compare_stages(build, bought(build)).once == pytest.approx(bought(made).price)


@pytest.mark.parametrize("name", ["bittern", "egret"])
def test_the_spreadsheet_gives_the_totals_of_the_list(name: str) -> None:
    """Opened with openpyxl: rows add up to the total, no cell is a formula, quantities in pieces
    and metres; at a rate of 0.5.
    """
    from openpyxl import load_workbook

    build = DEMO[name]
    whole = bought(build)
    rows = make_cut_sheet(build, lay_out(build))
    book = load_workbook(io.BytesIO(to_workbook("=cmd()|x", whole, rows, "EUR", 0.5)))
    sheet = [list(r) for r in book["buy"].iter_rows(values_only=True)]
    assert sheet[0][0] == "'=cmd()|x: to buy, prices in EUR"
    assert tuple(sheet[1]) == BUY_HEAD
    body, total = sheet[2:-1], sheet[-1]
    assert len(body) == len(whole.items)
    assert sum(r[6] or 0 for r in body) == pytest.approx(total[6], abs=0.01)
    assert total[6] == pytest.approx(whole.price * 0.5, abs=0.01 * len(body))
    assert total[9] == pytest.approx(whole.to_pay * 0.5, abs=0.01 * len(body))
    assert all(cell.data_type != "f" for s in book for r in s.iter_rows() for cell in r)
    cuts = [list(r) for r in book["cut"].iter_rows(values_only=True)][1:]
    assert [(r[0], r[4]) for r in cuts] == [
        (r.element.id, round(r.cut.cut_mm or 0, 1)) for r in rows
    ]
    assert buy_rows(whole, 2.0)[-1][6] == pytest.approx(whole.price * 2, abs=0.01 * len(body))


def test_every_small_part_that_a_rule_names_is_on_the_shelf() -> None:
    assert {str(r["sort"]) for r in table("spares")} <= {
        str(r["sort"]) for r in table("small_parts")
    }
    for r in table("stock"):
        item_name = str(r["item"])
        assert (
            item_name in parts() or item_name in by_name("ends") or item_name in by_name("adapters")
        ), item_name
    sizes = {f"{r['size']:g}" for r in table("threads") if r["sort"] == "port"}
    assert {f"oring{s}" for s in sizes} <= set(by_name("small_parts"))
    metric = {
        f"washer-{str(r['size']).split('x')[0].lower()}"
        for r in table("threads")
        if r["sort"] == "metric"
    }
    assert metric <= set(by_name("small_parts"))


def test_of_a_part_of_ones_own_no_supplier_and_no_days_are_made_up() -> None:
    build = DEMO["curlew"]
    pump = build.circuit.element("P1")
    assert pump is not None
    own = with_element(build, pump.model_copy(update={"shelf": "own-osprey", "title": "Osprey"}))
    item = next(i for i in bought(own).items if i.key == "own-osprey")
    assert (item.quote.supplier, item.quote.days, item.short) == ("", None, False)
    steps = make_job_order(own, lay_out(own), make_cut_sheet(own, lay_out(own)), bought(own))
    waits = [s for s in steps if any(i.key == "own-osprey" for i in s.waits)]
    assert waits
    assert all(s.unknown == 1 for s in waits)
    row = next(r for r in buy_rows(bought(own), 1.0) if r[1] == "own-osprey")
    assert row[11:14] == ["ask", None, None]
    typed = edit.set_supplier(own, "own-osprey", "The yard", 12)
    said = next(i for i in bought(typed).items if i.key == "own-osprey").quote
    assert (said.supplier, said.days, said.stock) == ("The yard", 12, None)
    assert load(dump(typed)) == typed
    assert edit.set_supplier(typed, "own-osprey", "", None) == own


def test_an_off_cut_is_used_once_and_what_nothing_holds_is_said() -> None:
    """Two pieces longer than any coil and one off-cut for either: the other is left out, and no
    clock is blamed; by the foot both are had.
    """
    off_cut, coil = Stock(5500.0, 0.0, offcut=True), Stock(3000.0, 30.0)
    pieces = [("H1", 5000.0), ("H2", 5000.0)]
    plan = plan_cuts(pieces, [off_cut, coil])
    assert plan.without == ("H2",)
    assert [len(x.pieces) for x in plan.lengths] == [1]
    assert plan.stopped == ""
    by_foot = plan_cuts(pieces, [off_cut, Stock(304.8, 3.0, by_foot=True)])
    assert by_foot.without == ()
    assert by_foot.price == 3.0 * 17, "5 m are 17 feet"
    both = plan_cuts([*pieces, ("H3", 2900.0)], [off_cut, Stock(5100.0, 0.0, offcut=True), coil])
    assert both.without == ()
    assert both.price == 30.0
