"""A builder at the bench: from a change of the route to a cut on paper, a missing adapter found and
bought, hoses ordered, now and spring compared, a plate and labels printed at full size.
"""

import csv
import io
import re
from typing import Any

import pypdf
import pytest
from openpyxl import load_workbook
from pages import figure
from pages import saved as answered
from playwright.sync_api import BrowserContext, Page, expect

PT_MM = 72 / 25.4


def saved(page: Page) -> Any:
    return answered(page, "/act", "/route", "/hose", "/undo")


def test_the_route_changes_the_cut_until_somebody_measures_and_it_is_printed(page: Page) -> None:
    page.goto("/builds/bittern/hoses?hose=H3")
    expect(page.locator("#hose-card .cut-big")).to_have_text("3,161")
    page.goto("/builds/bittern/route?line=H3")
    box = page.locator('#view-plan .handle[data-at="2"] .grab').bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2 - 24, steps=6)
    with saved(page):
        page.mouse.up()
    page.goto("/builds/bittern/hoses?hose=H3")
    drawn = figure(page.locator("#hose-card .cut-big").text_content())
    assert drawn != 3161
    expect(page.locator("#rolls")).to_contain_text(f"H3 {drawn:,.0f} mm")
    page.locator("#hose-measured").fill("3.4 m")
    with saved(page):
        page.locator("#hose-measured").press("Enter")
    expect(page.locator("#hose-card .cut-big")).to_have_text("3,318")  # 3,400 less 46 and 36
    expect(page.locator("#hose-card")).to_contain_text("Measured; on its drawing it is")
    expect(page.locator("#hose-H3 .cut-mm")).to_have_text("3,318")
    pages = pypdf.PdfReader(io.BytesIO(page.pdf(format="A4", prefer_css_page_size=True))).pages
    text = pages[0].extract_text()
    assert "3,318" in text
    assert "130 5/8 in" in text  # 3,318 / 25.4 = 130.63
    assert "−10 female AN swivel, reusable, 45°" in text
    revision = re.search(r"Bittern, revision (\d+) of 20\d\d-", text)
    assert revision
    assert int(revision[1]) > 1  # as it stands after two changes
    assert f"page 1 of {len(pages)}" in text
    assert "Slide both nuts on" in "".join(p.extract_text() for p in pages)
    page.locator("#made-car").click()
    expect(page.locator("#hose-card")).to_contain_text("12.7 mm longer, cut from the roll")
    expect(page.locator("#rolls")).to_contain_text("H3 3,331 mm")
    expect(page.locator("#made-car")).to_be_focused()


def test_a_missing_adapter_is_found_and_bought(page: Page) -> None:
    """What joins two ends is in stock; the other way is not, which is said and named where it is
    bought; then it is marked as bought, by keyboard.
    """
    page.goto("/builds/bittern/hoses/buy")
    expect(page.locator(".worst-says")).to_contain_text("Everything is in stock")
    before = figure(page.locator("#to-pay").text_content())
    page.get_by_role("link", name="Connections").last.click()
    row = page.locator('tr[data-joint="H3.b"]')
    expect(page.locator("#bench-view")).not_to_contain_text("none in stock")
    with saved(page):
        row.locator("select").select_option(value="step-8-10")
    expect(row).to_contain_text("(as you chose)")
    expect(row).to_contain_text("none in stock, 21 days")
    page.get_by_role("link", name="Parts list", exact=True).click()
    expect(page.locator(".worst-says")).to_contain_text(
        "has no swivel expander, −8 nut to −10 flare for 21 days; H3, RL wait"
    )
    item = page.locator('tr[data-item="step-8-10"]')
    expect(item).to_contain_text("RL")
    assert figure(page.locator("#to-pay").text_content()) < before
    paid = page.locator("#to-pay").text_content()
    total = figure(paid)
    item.locator("input[name=there]").focus()
    page.keyboard.type("1")
    with saved(page):
        page.keyboard.press("Enter")
    expect(page.locator("#to-pay")).not_to_have_text(str(paid))
    assert total - figure(page.locator("#to-pay").text_content()) == pytest.approx(16.64, abs=1.01)
    page.goto("/builds/bittern/hoses/joints")
    assert "Check" not in (page.locator("[data-station='6'] .count").get_attribute("title") or "")
    page.locator("#face-part").fill("RL")
    page.locator("#face-port").fill("start")
    page.locator("#face-face").fill("bead -4")
    with saved(page):
        page.locator("#face-save").click()
    expect(page.locator("#open-joints")).to_have_text("1")
    expect(page.locator(".joints tbody tr").first).to_contain_text("nothing to be had")
    expect(page.locator("[data-station='6'] .count")).to_have_attribute(
        "title", re.compile("2 Checks")
    )  # the joint, and the adapter chosen for it that fits no more
    page.locator("#face-part").fill("RL")
    page.locator("#face-port").fill("start")
    page.locator("#face-face").fill("port -9")
    page.locator("#face-save").click()
    expect(page.locator('[data-wrong="face"]')).to_contain_text("no thread that is known")
    expect(page.locator("#face-face")).to_have_value("port -9")


def test_hoses_are_ordered_and_the_list_is_downloaded(page: Page) -> None:
    page.goto("/builds/bittern/hoses/order")
    page.get_by_role("link", name="Overall").click()
    with page.expect_download() as got:
        page.locator("#order-csv").click()
    rows = list(csv.DictReader(io.StringIO(got.value.path().read_text(encoding="utf-8"))))
    assert [r["label"].split()[0] for r in rows] == ["H1", "H2", "H3", "H4", "H5", "H6"]
    for row in rows:
        expect(page.locator(f".order:has-text('{row['label']}')").first).to_contain_text(
            f"{float(row['length_mm']):,.1f} mm ± "
        )
    text = "".join(
        p.extract_text() for p in pypdf.PdfReader(io.BytesIO(page.pdf(format="Letter"))).pages
    )
    assert "end B points up at 0, to the right at 90" in " ".join(text.split())
    assert all(r["label"] in text for r in rows)
    page.goto("/builds/bittern/hoses/buy")
    with page.expect_download() as sheet:
        page.locator("#buy-xlsx").click()
    cells = [
        list(r)
        for r in load_workbook(io.BytesIO(sheet.value.path().read_bytes()))["buy"].iter_rows(
            values_only=True
        )
    ]
    shown = page.locator("tfoot b").first.text_content()
    assert cells[-1][6] == pytest.approx(figure(shown), abs=0.3)


def test_now_and_spring_are_compared(page: Page) -> None:
    page.goto("/builds/bittern/wiring")
    with saved(page):
        page.locator("#unwire").click()  # a larger pump would take thicker wire with it
    page.goto("/builds/bittern/hoses/buy")
    page.locator("#later-part").select_option("P1")
    options = page.locator("#later-name option")
    assert {o.get_attribute("data-part") for o in options.all()} == {"P1"}
    page.locator("#later-name").select_option("marrow-450")
    with saved(page):
        page.locator("#later-save").click()
    expect(page.locator("#twice-below")).to_have_text("$\u00a0168")  # one pump thrown away
    page.locator("#later-part").select_option("P2")
    page.locator("#later-name").select_option("marrow-450")
    with saved(page):
        page.locator("#later-save").click()
    expect(page.locator("#twice")).to_have_text("$\u00a0336")
    expect(page.locator(".stages")).to_contain_text("Marrow 340, in-tank turbine ($\u00a0336.00)")
    page.locator("#currency").select_option("GBP")
    page.locator("#rate").fill("0.5")
    with saved(page):
        page.locator("#rate").press("Enter")
    expect(page.locator("#twice")).to_have_text("£\u00a0168")
    page.locator("#not-later-1").focus()
    with saved(page):
        page.keyboard.press("Enter")
    expect(page.locator("#twice")).to_have_text("£\u00a084")


def strokes(page: pypdf.PageObject) -> list[tuple[float, float, float, float]]:
    """Every path that is painted on paper, as the box of its points [mm]: left, bottom, wide, high."""
    out: list[tuple[float, float, float, float]] = []
    path: list[tuple[float, float]] = []

    def visit(operator: bytes, operands: Any, cm: list[float], tm: list[float]) -> None:
        if operator == b"re":
            x, y, w, h = (float(v) for v in operands)
            path.extend([(x, y), (x + w, y + h), (x + w, y), (x, y + h)])
        elif operator in (b"m", b"l"):
            path.append((float(operands[0]), float(operands[1])))
        elif operator == b"c":
            path.append((float(operands[4]), float(operands[5])))
        elif operator in (b"S", b"s", b"B", b"f", b"f*", b"b"):
            at = [
                ((a * cm[0] + b * cm[2] + cm[4]) / PT_MM, (a * cm[1] + b * cm[3] + cm[5]) / PT_MM)
                for a, b in path
            ]
            if at:
                xs, ys = [p[0] for p in at], [p[1] for p in at]
                out.append((min(xs), min(ys), max(xs) - min(xs), max(ys) - min(ys)))
            path.clear()
        elif operator in (b"n", b"W"):
            path.clear()

    page.extract_text(visitor_operand_before=visit)
    return out


@pytest.mark.parametrize("paper", ["A4", "Letter"])
def test_plate_tube_and_labels_are_printed_at_full_size(page: Page, paper: str) -> None:
    """By the coordinates of the PDF itself, within 0.2 mm: the plate of a filter, the tube of
    Egret's shortest line, the check bars, and every label on its place of the sheet.
    """
    page.goto(f"/builds/bittern/hoses/plate?paper={paper}")
    page.locator("#plate-wide").fill("200 mm")
    page.locator("#plate-high").fill("140 mm")
    with saved(page):
        page.locator("#plate-save").click()
    expect(page.locator(".worst-says")).to_contain_text("over the edge")
    for name, value in (("x", "100 mm"), ("y", "70 mm"), ("turned", "0")):
        page.locator(f"#plate-F2-{name}").fill(value)
    with saved(page):
        page.keyboard.press("Enter")
    expect(page.locator(".worst-says")).to_contain_text("1 part on a plate of 200 mm by 140 mm")
    expect(page.locator("#bench-view")).to_contain_text("at full size")
    drawn = [
        b
        for p in pypdf.PdfReader(io.BytesIO(page.pdf(prefer_css_page_size=True))).pages
        for b in strokes(p)
    ]
    assert any(abs(w - 200) < 0.2 and abs(h - 140) < 0.2 for _, _, w, h in drawn)
    assert any(abs(w - 50) < 0.2 and h < 6 for _, _, w, h in drawn)
    holes = {
        (round(b[0], 2), round(b[1], 2))
        for b in drawn
        if abs(b[2] - 14) < 0.2 and abs(b[3] - 6) < 0.2
    }  # slots of 6 mm, 8 beyond round
    assert len(holes) == 4
    assert max(b[0] for b in holes) - min(b[0] for b in holes) == pytest.approx(200 - 30, abs=0.2)

    page.goto(f"/builds/egret/hoses/bends?paper={paper}")
    long = page.locator("[data-full]").evaluate_all("all => all.map((r) => Number(r.dataset.full))")
    assert len(long) == 1
    drawn = [
        b
        for p in pypdf.PdfReader(io.BytesIO(page.pdf(prefer_css_page_size=True))).pages
        for b in strokes(p)
    ]
    assert any(abs(w - long[0]) < 0.2 and abs(h - 12.7) < 0.2 for _, _, w, h in drawn)

    page.goto(f"/builds/bittern/hoses/labels?paper={paper}")
    reader = pypdf.PdfReader(io.BytesIO(page.pdf(prefer_css_page_size=True)))
    wide, high = {"A4": (210, 297), "Letter": (215.9, 279.4)}[paper]
    box = reader.pages[0].mediabox
    assert (float(box.width) / PT_MM, float(box.height) / PT_MM) == (
        pytest.approx(wide, abs=0.5),
        pytest.approx(high, abs=0.5),
    )
    assert len(reader.pages) == 1
    across, down = wide / 3, high / (8 if paper == "A4" else 7)
    filled = {
        (round(x / across), round((high - y - h) / down))
        for x, y, w, h in strokes(reader.pages[0])
        if abs(w - across) < 3.5 and abs(h - down) < 3.5
    }
    assert len(filled) >= 10
    assert {c for c, _ in filled} == {0, 1, 2}
    text = reader.pages[0].extract_text()
    assert text.count("FUEL FEED") == 4
    assert text.count("BREATHER") == 2


def test_a_tank_template_is_refused_mended_and_printed_at_full_size(page: Page) -> None:
    """A pickup that is too deep for its tank is refused and not printed; mended, the hanger's hole
    of 57 mm stands on the sheets as wide as it is drilled, beside a square of 50 mm.
    """
    page.goto("/")
    page.get_by_label("New build").fill("Ruff: V8 5.7 L, 450 hp, 58 psi")
    page.get_by_role("button", name="Start").click()
    expect(page.locator("h1")).to_have_text("Ruff")
    page.goto("/builds/ruff/hoses/tank")
    page.locator("#gap-S1").fill("400 mm")
    with saved(page):
        page.locator("#gap-S1").press("Enter")
    page.locator("#gap-S1").fill("150 mm")
    with saved(page):
        page.locator("#gap-S1").press("Enter")
    expect(page.locator(".worst-says")).to_contain_text("Not to be drilled, and not printed")
    expect(page.locator(".tank-tile")).to_have_count(0)
    page.locator("#gap-S1").fill("")
    with saved(page):
        page.locator("#gap-S1").press("Enter")
    expect(page.locator(".worst-says")).to_have_count(0)
    sheets = page.locator(".tank-tile").count()
    pages = pypdf.PdfReader(io.BytesIO(page.pdf(format="A4", prefer_css_page_size=True))).pages
    drawn = [b for p in pages for b in strokes(p)]
    assert any(abs(w - 57) < 0.2 and abs(h - 57) < 0.2 for _, _, w, h in drawn)
    assert sum(abs(w - 49.8) < 0.2 and abs(h - 9.8) < 0.2 for _, _, w, h in drawn) == sheets
    assert "sheet 1 of" in " ".join(p.extract_text() for p in pages)


def test_the_plate_is_laid_out_by_keyboard_and_a_gap_is_reckoned(page: Page) -> None:
    page.goto("/builds/curlew/hoses/plate")
    expect(page.locator(".worst-says")).to_contain_text("laid out automatically")
    x = page.locator("#plate-F2-x")
    before = figure(x.input_value())
    x.focus()
    with saved(page):
        page.keyboard.press("Shift+ArrowUp")
    expect(page.locator("#plate-F2-x")).to_have_value(f"{before + 50:.1f}")
    expect(page.locator(".worst-says")).not_to_contain_text("automatically")
    expect(page.locator("#plate-F2-x")).to_be_focused()
    x.fill("0")
    with saved(page):
        page.keyboard.press("Enter")
    expect(page.locator(".worst-says")).to_contain_text("F2")
    with saved(page):
        page.locator("#off-F2").click()
    expect(page.locator("#on-F2")).to_be_visible()
    page.goto("/builds/bittern/hoses/fits")
    page.locator("#inj-gap_mm").fill("1.89 in")
    with saved(page):
        page.locator("#inj-gap_mm").press("Enter")
    expect(page.locator(".fit").first).to_contain_text("Each needs a spacer of 14.0 mm")
    page.locator("#inj-gap_mm").fill("a lot")
    page.locator("#injectors-save").click()
    expect(page.locator('.fit [data-wrong="gap_mm"]')).not_to_be_empty()
    expect(page.locator("#inj-gap_mm")).to_have_value("a lot")


def test_whoever_looks_is_told_and_what_is_typed_meanwhile_is_merged(
    page: Page, context: BrowserContext
) -> None:
    """Two people at the tape: what one measures is on the other's page without a press; who is
    typing keeps what he types, and both lengths stand.
    """
    page.goto("/builds/bittern/hoses?hose=H3")
    other = context.new_page()
    other.goto("/builds/bittern/hoses?hose=H3")
    page.evaluate("window.kept = 'kept'")
    other.goto("/builds/bittern/hoses?hose=H4")
    length = other.locator("#hose-measured")
    length.fill("1234 mm")
    length.press("Enter")
    expect(other.locator("#undo")).to_contain_text("H4")
    expect(page.locator("#changed-elsewhere")).to_contain_text("Changed elsewhere just now")
    expect(page.locator("#cuts")).to_contain_text("1,156")
    assert page.evaluate("window.kept") == "kept"
    mine = page.locator("#hose-measured")
    mine.press_sequentially("1")
    mine.fill("2345 mm")
    length.fill("1300 mm")
    length.press("Enter")
    expect(page.locator("#changed-elsewhere")).to_contain_text("Show it")
    expect(mine).to_have_value("2345 mm")
    mine.press("Enter")
    expect(page.locator("#undo")).to_contain_text("H3")
    expect(page.locator("#cuts")).to_contain_text("1,222")
    lengths = {
        e["id"]: e["length"]["mm"]
        for e in page.request.get("/builds/bittern/build.json").json()["circuit"]["elements"]
        if e["id"] in ("H3", "H4")
    }
    assert lengths == {"H3": pytest.approx(2345), "H4": pytest.approx(1300)}
    other.close()
